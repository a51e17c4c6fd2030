# SPDX-License-Identifier: GPL-3.0-or-later
"""Ways of touching off, and their sums. Coordinates are the machine's, mm.

By eye a point stands over the mark itself. An edge is touched by something round, half whose diameter lies between; a
corner plate adds its wall. Z is touched through a paper or a plate, whose thickness comes off. A pair of opposite edges
gives the middle whatever the diameter, and the size of the blank with it.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from gatepost.core.errors import OperatorError
from gatepost.core.job.model import Setup
from gatepost.core.job.zero import Zero
from gatepost.core.working import Named, Working, working
from gatepost.core.zero.trust import SPREAD_LIMIT

Side = Literal["low", "high"]
BACK_OFF = 4.0  # mm from an edge at which a pin stands before it touches
INTO = 6.0  # mm into the wood at most that a pin goes on without touching
BELOW_TOP = 6.0  # mm that a pin reaches down beside an edge


@dataclass(frozen=True)
class EdgeTouch:
    """An edge to be touched. axis: x or y; side: on which side of the edge the pin stands; start, to: machine coordinates
    of the axis; along: of the other axis; z: of the tip; gauge: wall of a corner plate between."""

    axis: Literal["x", "y"]
    side: Side
    start: float
    to: float
    along: float
    z: float
    gauge: float = 0.0


def edge(contact: float, diameter: float, side: Side, wall: float = 0.0) -> Working:
    """An edge's coordinate from a touch: half the diameter, and a plate's wall, towards the edge.

    side: ``low`` when the pin stands on the low-coordinate side of the edge, so that the edge lies above it.
    """
    sign = "+" if side == "low" else "-"
    if wall > 0.0:
        return working(
            f"contact {sign} (diameter / 2 + wall)",
            Named("contact", contact),
            Named("diameter", diameter),
            Named("wall", wall),
        )
    return working(f"contact {sign} diameter / 2", Named("contact", contact), Named("diameter", diameter))


def middle(low: float, high: float) -> Working:
    """The middle between opposite edges from the two contacts: the diameter falls out."""
    return working("(low + high) / 2", Named("low", low), Named("high", high))


def size_between(low: float, high: float, diameter: float) -> Working:
    """The size of the blank from touches of opposite edges from outside."""
    return working("high - low - diameter", Named("high", high), Named("low", low), Named("diameter", diameter))


def z_zero(contact: float, gauge: str, thickness: float) -> Working:
    """Z0 from the coordinate at which a plate or paper was touched: contact less what lies between."""
    name = gauge.replace(" ", "_")
    return working(f"contact - {name}", Named("contact", contact), Named(name, thickness))


def z_by_sensor(zero: float, first: float, now: float) -> Working:
    """Z0 of a later tool from a fixed sensor: the first tool's zero, moved by how much sooner or later it touches there."""
    return working("zero + now - first", Named("zero", zero), Named("now", now), Named("first", first))


def spread(touches: Sequence[float]) -> float:
    """How far repeated touches lie apart, mm."""
    return max(touches) - min(touches) if len(touches) > 1 else 0.0


def agree(touches: Sequence[float]) -> bool:
    """Whether repeated touches lie within the limit."""
    return spread(touches) <= SPREAD_LIMIT


def sides_of(zero: Zero) -> tuple[Side, Side] | None:
    """Of a corner: on which side of its X and Y edges a pin stands; nothing for a middle or a mark."""
    if zero.xy in ("centre", "outline middle", "mark"):
        return None
    return ("high" if zero.xy.endswith("right") else "low", "high" if zero.xy.startswith("back") else "low")


def edge_touches(
    setup: Setup, size: tuple[float, float], corner: tuple[float, float], top: float, diameter: float
) -> list[EdgeTouch]:
    """The edges to touch for X0 Y0. size: of the blank; corner: machine coordinates of its front left corner where it is
    meant to lie; top: machine Z of its face with this tool; diameter: of the pin, shank or cutter.

    A corner: its two edges, each a little way in from the corner. The middle: both pairs of opposite edges.
    """
    zero = setup.zero
    wall = zero.gauge_edge if zero.xy_way == "corner plate" else 0.0
    away = diameter / 2.0 + wall
    sides = sides_of(zero)
    out: list[EdgeTouch] = []
    for axis in ("x", "y"):
        i = 0 if axis == "x" else 1
        low, high = corner[i], corner[i] + size[i]
        other = corner[1 - i]
        if sides is None:
            wanted: tuple[Side, ...] = ("low", "high")
            along = other + 0.5 * size[1 - i]
        else:
            wanted = (sides[i],)
            inset = min(max(25.0, 0.1 * size[1 - i]), 0.5 * size[1 - i])
            along = other + inset if sides[1 - i] == "low" else other + size[1 - i] - inset
        for side in wanted:
            at, way = (low, 1.0) if side == "low" else (high, -1.0)
            start, to = at - way * (away + BACK_OFF), at - way * away + way * INTO
            z = top - BELOW_TOP if zero.xy_way != "corner plate" else top + 0.5 * zero.gauge_thickness
            out.append(EdgeTouch(axis, side, start, to, along, z, wall))
    return out


def fits_way(setup: Setup) -> str:
    """Why the chosen way can't find the chosen place, in a sentence; nothing where it can."""
    zero = setup.zero
    if zero.xy_way == "corner plate" and sides_of(zero) is None:
        return "A corner plate finds a corner, and X0 Y0 is not at one."
    if zero.xy in ("mark", "outline middle") and zero.xy_way != "pointer":
        return "Edges give a corner or the middle between them: a mark anywhere else is set by eye with a point."
    return ""


@dataclass(frozen=True)
class Skew:
    """Of an edge touched at two places. degrees: that it lies turned by, positive against the clock; push: how far its
    far end is to be pushed to lie square, mm, and which way."""

    degrees: Working
    push: Working
    way: str


def skew(axis: Literal["x", "y"], first: float, second: float, apart: float, far: float) -> Skew:
    """From two touches of an edge. axis: along which the touches were made; first, second: contacts; apart: between the
    two places, along the edge, the second further along; far: from the first place to the end that is pushed. Raises
    OperatorError where the places are too near.

    An edge along X is touched in Y: a greater second contact is a turn against the clock; along Y it is one with it.
    """
    if apart < 10.0:
        raise OperatorError("Touch the edge at two places at least 10 mm apart: nearer, the angle is only noise.")
    sign = "" if axis == "y" else "-"
    degrees = working(
        f"{sign}atan((second - first) / apart)",
        Named("second", second),
        Named("first", first),
        Named("apart", apart),
        unit="angle",
    )
    push = working(
        "abs(second - first) * far / apart",
        Named("second", second),
        Named("first", first),
        Named("far", far),
        Named("apart", apart),
    )
    ways = {("y", True): "forward", ("y", False): "back", ("x", True): "left", ("x", False): "right"}
    return Skew(degrees, push, ways[(axis, second > first)])


def turned(x: float, y: float, degrees: float) -> tuple[float, float]:
    """A place turned about X0 Y0, positive against the clock."""
    c, s = math.cos(math.radians(degrees)), math.sin(math.radians(degrees))
    return c * x - s * y, s * x + c * y


@dataclass(frozen=True)
class Budget:
    """What X0 Y0 and Z0 may be off by: each share and, as they are independent, the root of the sum of their squares."""

    across: Working
    upright: Working


def budget(zero: Zero, jog: float, blank: float, photo: float) -> Budget:
    """± of a zero. jog: step of the hand wheel; blank: ± of the blank's size, which counts for corners and middles; photo: ±
    of a traced outline.

    Independent errors add as the root of the sum of squares (Guide to the expression of uncertainty in measurement, 5.1.2).
    """
    eye = zero.eye if zero.xy_way == "pointer" else 0.03
    half = 0.5 * blank if zero.xy in ("centre", "outline middle") else 0.0
    across = working(
        "sqrt(jog ** 2 + eye ** 2 + blank ** 2 + photo ** 2)", Named("jog", 0.5 * jog), Named("eye", eye), Named("blank", half),
        Named("photo", photo), assumption="independent errors", source="Guide to the expression of uncertainty in measurement",
    )  # fmt: skip
    plate = {"paper": 0.03, "plate": 0.02, "corner plate": 0.03}[zero.gauge]
    upright = working(
        "sqrt(jog ** 2 + gauge ** 2)", Named("jog", 0.5 * jog), Named("gauge", plate), assumption="independent errors", shop_rule=True,
        source="Guide to the expression of uncertainty in measurement",
    )  # fmt: skip
    return Budget(across, upright)
