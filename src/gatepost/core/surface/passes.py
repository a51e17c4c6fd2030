# SPDX-License-Identifier: GPL-3.0-or-later
"""Surfacing: does it need it, how many passes, how far over the edge, and the moves."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from gatepost.core.job.surface import Surfacing
from gatepost.core.job.tool import Tool
from gatepost.core.motion import Moves, Pen
from gatepost.core.working import Named, Working, working

Array = NDArray[np.float64]


@dataclass(frozen=True)
class Flatness:
    """Is it flat enough for this lettering. error: mm out of true; allowed: working; needed: the answer."""

    error: float
    allowed: Working
    widening: Working
    needed: bool


def flatness(error: float, thinnest_width: float, half_angle: float, share: float) -> Flatness:
    """Judge a height error against the thinnest stroke.

    A height error e changes a stroke's width by 2·e·tan(half angle). error, thinnest_width: mm; half_angle: degrees;
    share: of its width by which a stroke may change.
    """
    allowed = working(
        "share * stroke / (2 * tan(half))", Named("share", share, "number"), Named("stroke", thinnest_width),
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


def depths(lowest: float, highest: float, touched: float, wanted: Surfacing, under: float | None = None) -> Depths:
    """Planes of all passes, as the board lies. Heights above the bed, mm. under: what a target thickness stands on.

    Removal counts from the highest place; the last pass is light, the others equal and within the limit. A wished
    thickness is cut to where it leaves no hollow deeper than sanding takes; else the lowest place rules.
    """
    plane = working("lowest - cleanup", Named("lowest", lowest), Named("cleanup", wanted.cleanup), shop_rule=True)
    if (
        wanted.target_thickness
        and under is not None
        and under + wanted.target_thickness <= min(lowest + wanted.hollow, highest) + 1e-9
    ):
        plane = working("under + target", Named("under", under), Named("target", wanted.target_thickness))
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
    turns_outside: bool = True

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


def overhang(tool: Tool, stepover: float, accel: float, turns_outside: bool = True) -> Overhang:
    """Overhang rules for a cutter. stepover: mm; accel: mm/s²; turns_outside: whether every row has room for its turn.

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
    return Overhang(corner, scallop, turn, turns_outside)


def moves(
    passes: Sequence[tuple[float, Sequence[Array]]], tool: Tool, travel: float, start: tuple[float, float, float]
) -> Moves:
    """All passes, blank XY and heights above the bed. passes: of each, its height and its lines, each led in from outside
    and fed without lifting; every other pass goes back the way the one before came. travel: rapid height."""
    pen = Pen(*start)
    pen.rapid(z=max(start[2], travel))
    for number, (z, lines) in enumerate(passes):
        back = number % 2 == 1 and len(lines) == 1
        for line in lines:
            way = line[::-1] if back else line
            pen.rapid(x=way[0, 0], y=way[0, 1])
            pen.rapid(z=travel)
            pen.feed(tool.plunge, z=z)
            pen.run(np.column_stack([way, np.full(len(way), z)]), tool.feed)
            pen.rapid(z=travel)
    return pen.moves()
