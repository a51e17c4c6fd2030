# SPDX-License-Identifier: GPL-3.0-or-later
"""Surfacing a rectangular board as it lies: does it need it, how many passes, how far over the edge, the path."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry import LineString, box

from gatepost.core.job.model import Surfacing, Tool
from gatepost.core.motion import Moves, Pen
from gatepost.core.tolerances import FLATNESS_SHARE
from gatepost.core.working import Named, Working, working

Array = NDArray[np.float64]


@dataclass(frozen=True)
class Flatness:
    """Is it flat enough for this lettering. error: mm out of true; allowed: working; needed: the answer."""

    error: float
    allowed: Working
    widening: Working
    needed: bool


def flatness(error: float, thinnest_width: float, half_angle: float) -> Flatness:
    """Judge a height error against the thinnest stroke.

    A height error e changes a stroke's width by 2·e·tan(half angle). error, thinnest_width: mm; half_angle: degrees.
    """
    allowed = working(
        "share * stroke / (2 * tan(half))", Named("share", FLATNESS_SHARE, "number"), Named("stroke", thinnest_width),
        Named("half", half_angle, "angle"), assumption="a stroke may change by this share of its width", shop_rule=True,
    )  # fmt: skip
    widening = working("2 * error * tan(half)", Named("error", error), Named("half", half_angle, "angle"))
    return Flatness(error, allowed, widening, error > allowed.result)


@dataclass(frozen=True)
class Depths:
    """Passes of a surfacing. plane: finished height above the bed; heights: of each pass; first_bite: its deepest."""

    plane: Working
    removal: Working
    count: Working
    heights: tuple[float, ...]
    first_bite: Working


def depths(lowest: float, highest: float, touched: float, wanted: Surfacing) -> Depths:
    """Planes of all passes, as the board lies. Heights above the bed, mm.

    Removal counts from the highest place; the last pass is light, the others equal and within the limit.
    """
    plane = working("lowest - cleanup", Named("lowest", lowest), Named("cleanup", wanted.cleanup), shop_rule=True)
    removal = working("highest - plane", Named("highest", highest), Named("plane", plane.result))
    last = min(wanted.last, removal.result)
    count = working(
        "1 + ceil((removal - last) / limit)", Named("removal", removal.result), Named("last", last), Named("limit", wanted.limit),
        unit="count",
    )  # fmt: skip
    others = round(count.result) - 1
    each = (removal.result - last) / others if others else 0.0
    heights = tuple(highest - each * (i + 1) for i in range(others)) + (plane.result,)
    first = working(
        "depth + (highest - touched)",
        Named("depth", touched - heights[0]),
        Named("highest", highest),
        Named("touched", touched),
    )
    return Depths(plane, removal, count, heights, first)


@dataclass(frozen=True)
class Overhang:
    """How far the cutter's edge passes the board's edge. ends: at the ends of rows; sides: beside the outer rows."""

    corner: Working
    scallop: Working
    turn: Working
    turns_outside: bool

    @property
    def sides(self) -> float:
        """The greater of corner reach and scallops, mm."""
        return max(self.corner.result, self.scallop.result)

    @property
    def ends(self) -> float:
        """The ruling overhang at the ends of rows, mm."""
        return max(self.sides, self.turn.result) if self.turns_outside else self.sides

    @property
    def rule(self) -> str:
        """Which rule sets the overhang at the ends."""
        if self.turns_outside and self.turn.result >= self.sides:
            return "turning round off the wood"
        return "reaching the corners" if self.corner.result >= self.scallop.result else "scallops between passes"


def overhang(tool: Tool, stepover: float, accel: float, room: float) -> Overhang:
    """Overhang rules for a cutter. stepover: mm; accel: mm/s²; room: how far the cutter's centre may pass the edge, mm.

    Below v = limit·rpm·teeth the cutter rubs; it slows to a turn within v²/(2a), so that plus a radius past the edge
    the turn is off the wood.
    """
    radius = tool.diameter / 2.0
    corner = working("radius * (1 - 1 / sqrt(2))", Named("radius", radius))
    scallop = working("radius - sqrt(radius ** 2 - step ** 2 / 4)", Named("radius", radius), Named("step", stepover))
    turn = working(
        "(rub * rpm * teeth / 60) ** 2 / (2 * accel) + 2 * radius", Named("rub", tool.rub), Named("rpm", tool.rpm, "rpm"),
        Named("teeth", tool.teeth, "count"), Named("accel", accel, "mm/s²"), Named("radius", radius),
        assumption="thinnest chip before the cutter rubs", shop_rule=True,
    )  # fmt: skip
    return Overhang(corner, scallop, turn, turn.result - radius <= room)


def rows(length: float, width: float, radius: float, step: float, ends: float, sides: float) -> Array:
    """Centre line of one pass over a board in its own frame, along X: (n, 2) points back and forth."""
    inset = min(radius - sides, width / 2.0)
    count = max(1, math.ceil((width - 2 * inset) / step - 1e-9) + 1) if width > 2 * inset else 1
    across = np.linspace(inset, width - inset, count)
    reach = ends - radius
    points = []
    for i, y in enumerate(across):
        x0, x1 = (-reach, length + reach) if i % 2 == 0 else (length + reach, -reach)
        points += [(x0, y), (x1, y)]
    return np.array(points)


def path(length: float, width: float, tool: Tool, wanted: Surfacing, over: Overhang) -> Array:
    """Centre line of one pass, either direction, (n, 2), blank frame."""
    radius, step = tool.diameter / 2.0, tool.diameter * wanted.stepover
    if wanted.direction == "along Y":
        return rows(width, length, radius, step, over.ends, over.sides)[:, ::-1]
    return rows(length, width, radius, step, over.ends, over.sides)


@dataclass(frozen=True)
class Missed:
    """A place that the cutter's discs never reach. mm, mm²."""

    x: float
    y: float
    area: float


def missed(length: float, width: float, centre_line: Array, radius: float) -> list[Missed]:
    """Places of a rectangle outside the union of the cutter's discs, largest first; empty proves coverage.

    Discs are drawn as polygons inside the true circle, within a micrometre, so what is proved is true.
    """
    quarter = max(8, math.ceil(math.pi / 4.0 / math.acos(1.0 - 1e-3 / radius)))
    swept = LineString(centre_line).buffer(radius, quad_segs=quarter)
    left = shapely.get_parts(box(0, 0, length, width).difference(swept))
    found: list[Missed] = []
    for part in left:
        if part.area > 1e-3:
            spot = part.representative_point()
            found.append(Missed(float(spot.x), float(spot.y), float(part.area)))
    return sorted(found, key=lambda m: -m.area)


def moves(
    centre_line: Array, heights: tuple[float, ...], tool: Tool, travel: float, start: tuple[float, float, float]
) -> Moves:
    """All passes, blank XY and heights above the bed: led in from outside, feeding between rows. travel: rapid height."""
    pen = Pen(*start)
    pen.rapid(z=max(start[2], travel))
    for number, z in enumerate(heights):
        line = centre_line if number % 2 == 0 else centre_line[::-1]
        pen.rapid(x=line[0, 0], y=line[0, 1])
        pen.rapid(z=travel)
        pen.feed(tool.plunge, z=z)
        pen.run(np.column_stack([line, np.full(len(line), z)]), tool.feed)
        pen.rapid(z=travel)
    return pen.moves()
