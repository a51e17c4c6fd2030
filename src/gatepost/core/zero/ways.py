# SPDX-License-Identifier: GPL-3.0-or-later
"""Ways of touching off, and their sums. Coordinates are the machine's, mm.

By eye a point stands over the mark itself. An edge is touched by something round, half whose diameter lies between; a
corner plate adds its wall. Z is touched through a paper or a plate, whose thickness comes off. A pair of opposite edges
gives the middle whatever the diameter, and the size of the blank with it.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Literal

from gatepost.core.errors import OperatorError
from gatepost.core.job.blank import Blank
from gatepost.core.job.model import Setup
from gatepost.core.job.zero import Zero
from gatepost.core.tolerances import BED_OFF, BIT_OFF, CONTACT, PAPER_OFF, PLATE_OFF, PUSHED, TIP_OFF, VEE_OFF
from gatepost.core.working import Named, Working, working
from gatepost.core.zero.trust import SPREAD_LIMIT

Side = Literal["low", "high"]
BACK_OFF = 4.0  # mm from an edge at which a pin stands before it touches
INTO = 6.0  # mm into the wood at most that a pin goes on without touching
WHEEL = 0.05  # mm, step of a hand wheel
PENCIL = 0.25  # mm that a mark ruled with a pencil lies beside where it was meant; a shop rule
SQUARED_IN = 0.1  # share of the long side from its ends at which it is touched or looked at
BELOW_TOP = 6.0  # mm that a pin reaches down beside an edge


@dataclass(frozen=True)
class FoundZero:
    """A zero found. machine: its coordinate; spread: of the touches, mm; working: the sum; contacts: as read."""

    axis: str
    machine: float
    spread: float
    working: Working
    contacts: tuple[float, ...] = ()
    size: float | None = None  # of the blank between two edges, mm


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


def shifted(found: FoundZero, zero: Zero) -> FoundZero:
    """A zero with what the last one came out off by taken off: what came out too far right is begun that much further left."""
    by = zero.shift_x if found.axis == "x" else zero.shift_y if found.axis == "y" else 0.0
    if not by:
        return found
    sum_ = working(
        "zero - shift",
        Named("zero", found.machine),
        Named("shift", by),
        assumption="measured on the last one, and taken to come again",
    )
    return replace(found, machine=sum_.result, working=sum_)


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
    wall = zero.gauge_edge if zero.xy_way == "corner plate" else zero.block
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
            inset = inset_of(size[1 - i])
            along = other + inset if sides[1 - i] == "low" else other + size[1 - i] - inset
        for side in wanted:
            at, way = (low, 1.0) if side == "low" else (high, -1.0)
            start, to = at - way * (away + BACK_OFF), at - way * away + way * INTO
            z = top - BELOW_TOP if zero.xy_way != "corner plate" else top + 0.5 * zero.gauge_thickness
            out.append(EdgeTouch(axis, side, start, to, along, z, wall))
    return out


def inset_of(long: float) -> float:
    """How far along from a corner its edge is touched, mm. long: of the edge."""
    return min(max(25.0, 0.1 * long), 0.5 * long)


def along_edge(found: FoundZero, setup: Setup, size: tuple[float, float], degrees: float) -> FoundZero:
    """A corner's zero on one axis, where the board lies turned: its edge was touched a way along from the corner.

    An edge along Y falls back in X by tan(turn) of the way; one along X rises in Y by as much.
    """
    i = 0 if found.axis == "x" else 1
    inset = inset_of(size[1 - i])
    sides = sides_of(setup.zero)
    assert sides is not None
    way = inset if sides[1 - i] == "low" else -inset
    sign = "+" if i == 0 else "-"
    sum_ = working(
        f"edge {sign} way * tan(turn)", Named("edge", found.machine), Named("way", way), Named("turn", degrees, "angle")
    )
    return replace(found, machine=sum_.result, working=sum_)


def square_touches(
    setup: Setup, size: tuple[float, float], corner: tuple[float, float], top: float, diameter: float
) -> list[EdgeTouch]:
    """The two places of the board's longer edge that are touched to lay it square: the front or the left one, or with a zero at the
    back or the right the one over there. As ``edge_touches`` has them."""
    sides = sides_of(setup.zero) or ("low", "low")
    axis: Literal["x", "y"] = "y" if size[0] >= size[1] else "x"
    i = 1 if axis == "y" else 0
    side, long = sides[i], size[1 - i]
    at, way = (corner[i], 1.0) if side == "low" else (corner[i] + size[i], -1.0)
    start, to = at - way * (diameter / 2.0 + BACK_OFF), at - way * diameter / 2.0 + way * INTO
    return [
        EdgeTouch(axis, side, start, to, corner[1 - i] + share * long, top - BELOW_TOP)
        for share in (SQUARED_IN, 1.0 - SQUARED_IN)
    ]


def line_places(blank: Blank) -> list[tuple[float, float]]:
    """The two places of a line ruled along the board, through its middle, at which it is looked at; board as it lies."""
    long = blank.across[0] >= blank.across[1]
    shares = (SQUARED_IN, 1.0 - SQUARED_IN)
    return [blank.part(s, 0.5) if long else blank.part(0.5, s) for s in shares]


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
    """What X0 Y0, Z0, and what is cut may be off by. across, upright: at the zeros themselves; cut, deep: at the cut that is farthest
    from them; each good to so much in 95 of 100, and at worst."""

    across: Bounded
    upright: Bounded
    cut: Bounded
    deep: Bounded


@dataclass(frozen=True)
class Bounded:
    """good: what it keeps within in 95 of 100; worst: all its bounds together."""

    good: Working
    worst: Working


SURE = 1.96  # standard deviations within which 95 of 100 lie
GUIDE = "Guide to the expression of uncertainty in measurement, 4.3.7 and 5.1.2"


def bounded(*bounds: Named, shop_rule: bool = True) -> Bounded:
    """Independent shares, each anywhere within its bound with the same likelihood: its deviation is bound / √3, and deviations add as the
    root of the sum of squares. Good to is never more than at worst."""
    bounds = tuple(b for b in bounds if b.value > 0.0) or bounds[:1]
    sum_ = " + ".join(b.name for b in bounds)
    squares = " + ".join(f"{b.name} ** 2" for b in bounds)
    sure = Named("sure", SURE, "number")
    said = {"assumption": "independent shares, each even within its bound", "source": GUIDE, "shop_rule": shop_rule}
    worst = working(sum_, *bounds, **said)  # type: ignore[arg-type]
    good = working(f"min(sure * sqrt(({squares}) / 3), {sum_})", sure, *bounds, **said)  # type: ignore[arg-type]
    return Bounded(good, worst)


@dataclass(frozen=True)
class Reach:
    """How far what is cut lies from the zeros, along X and Y, mm. flat: whether a cutter's own width counts; travel: of the machine;
    vee: by how much a V's flank may cut deeper than drawn; degrees: by which the board may lie askew; photo: ± of a traced outline; jog: step of the hand wheel; inset: how far
    along from a corner its edges are touched; z: how far it lies from where Z is touched, where that is another place; seat: mm by which the
    work may lie beside where it lay with its other face up, where it is found again by that."""

    x: float
    y: float
    degrees: float
    travel: tuple[float, float]
    flat: bool = True
    photo: float = 0.0
    jog: float = 0.05
    vee: float = 0.0
    inset: float = 0.0
    z: tuple[float, float] | None = None
    seat: float = 0.0


def vee_off(angle: float, depth: float) -> float:
    """By how much a V's flank may cut deeper than drawn, mm: half its angle and its tip are otherwise by as much as bits are. angle: all of
    it, degrees; depth: of its deepest cut.

    At r from its middle it cuts depth - (r - t/2)/tan α; r is depth·tan α at most.
    """
    half = math.radians(angle / 2.0)
    turned = depth * math.radians(0.5 * VEE_OFF) / (math.sin(half) * math.cos(half))
    return turned + 0.5 * TIP_OFF / math.tan(half)


def square_within(zero: Zero) -> float:
    """How far two places of an edge, or of a line as an eye sees it, may differ for a board to count as square, mm."""
    return max(PUSHED, 2.0 * zero.eye) if zero.square == "line" else PUSHED


def askew(setup: Setup, degrees: float, long: float) -> float:
    """Degrees by which a board may lie askew once it was squared as the setup says; as it was laid where it is not. long: its longer side."""
    zero = setup.zero
    apart = (1.0 - 2.0 * SQUARED_IN) * long
    touched = CONTACT + 0.5 * 0.05
    if setup.skew:  # its programs are turned by what was touched
        return min(degrees, math.degrees(math.atan2(2.0 * touched, apart)))
    if zero.square == "edge":
        return min(degrees, math.degrees(math.atan2(square_within(zero) + 2.0 * touched, apart)))
    if zero.square == "line":
        return min(degrees, math.degrees(math.atan2(square_within(zero) + 2.0 * zero.eye, apart)))
    return degrees


def budget(zero: Zero, reach: Reach) -> Budget:
    """What the zeros, and what is cut by them, may be off by.

    Across: half the hand wheel's step; the eye, and the line that a middle or a mark is ruled with, or a contact and the half of what the cutter's diameter may be off by; a traced
    outline. At the farthest cut the board's own angle by how far it is from the zero, and half of the cutter's diameter. Upright: the
    plate or paper, a contact, half a step; at the farthest cut by how much the bed may fall away on the way there.
    """
    jog = Named("jog", 0.5 * reach.jog)
    touch: tuple[Named, ...] = (Named("eye", zero.eye),) if zero.xy_way == "pointer" else (Named("contact", CONTACT),)
    if zero.xy_way == "cutter" and zero.xy not in ("centre", "outline middle"):
        touch += (Named("bit", 0.5 * BIT_OFF),)
    ruled = (
        (Named("line", PENCIL),) if zero.xy_way == "pointer" and zero.xy in ("centre", "outline middle", "mark") else ()
    )
    at = (jog, *touch, *ruled, Named("photo", reach.photo), Named("seat", reach.seat))
    lever = max(reach.x, reach.y, 0.0 if zero.xy_way == "pointer" or sides_of(zero) is None else reach.inset)
    angle = Named("askew", lever * math.tan(math.radians(reach.degrees)))
    wall = Named("wall", 0.5 * BIT_OFF if reach.flat else 0.0)
    gauge = Named("gauge", PAPER_OFF if zero.gauge == "paper" else PLATE_OFF)
    up = (gauge, Named("contact", CONTACT), jog)
    along, across = reach.z or (reach.x, reach.y)
    shares = [far / travel for far, travel in zip((along, across), reach.travel)]
    falls = [
        2.0 * BED_OFF * share / max(1.0, sum(shares)) for share in shares
    ]  # no two places of it differ by more than its corners
    return Budget(
        bounded(*at),
        bounded(*up),
        bounded(*at, angle, wall),
        bounded(*up, Named("bed_along", falls[0]), Named("bed_across", falls[1]), Named("vee", reach.vee)),
    )
