# SPDX-License-Identifier: GPL-3.0-or-later
"""A flat floor sunk to a depth: what each cutter takes of it, and what stays.

The largest end mill takes the opening of the floor by its disc, each smaller one what of its own opening the larger ones left, and a
V-bit the slope of the edge, the corners and gaps that no end mill gets into. What no cutter takes is told.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry import MultiPolygon

from gatepost.core.carve.depth import bit_radius, steepness
from gatepost.core.geometry.curves import as_multipolygon
from gatepost.core.geometry.region import centres, pieces, swept
from gatepost.core.job.sunk import Sunk
from gatepost.core.job.tool import Tool
from gatepost.core.profile import MILLS, profile_of

Array = NDArray[np.float64]
FLAT = 0.004  # mm by which straight pieces may lie beside a curve of the outline
TIGHT = 0.002  # mm that a slot may be narrower than its cutter: one as wide as the cutter is cut
SWEPT = 0.01  # mm by which straight pieces may lie beside a round of what is taken
SLIVER = 0.02  # mm across: narrower ones come of rounding
SPECK = 0.01  # mm²


@dataclass(frozen=True)
class Milled:
    """What an end mill does. middles: where its middle may go at all; region: where it goes; taken: of the floor, by it and all before it."""

    tool: Tool
    middles: MultiPolygon
    region: MultiPolygon
    taken: MultiPolygon


@dataclass(frozen=True)
class Sink:
    """A floor and its cutters. top: its outline in the face; floor: where it is flat; vee: the V-bit of the edge, nothing where that is
    upright; middles: where the V's middle may be at full depth; rest: of the floor what no end mill takes; reach: how far the V's edge
    lies from its middle in the face, mm; unfit: end mills that fit nowhere."""

    top: MultiPolygon
    floor: MultiPolygon
    depth: float
    mills: tuple[Milled, ...]
    vee: Tool | None
    middles: MultiPolygon
    rest: MultiPolygon
    reach: float
    unfit: tuple[Tool, ...]

    @property
    def unreached(self) -> MultiPolygon:
        """Of the floor what nothing cuts."""
        return self.rest if self.vee is None else MultiPolygon()


def roles(tools: Sequence[Tool]) -> tuple[tuple[Tool, ...], Tool | None, tuple[Tool, ...]]:
    """End mills, the largest first; the V-bit; and what is neither."""
    mills = sorted(
        (t for t in tools if t.kind in MILLS and profile_of(t).flat > 0.0), key=lambda t: (-t.diameter, t.number)
    )
    vee = next((t for t in tools if t.kind == "vee" and 0 < t.angle < 180), None)
    return tuple(mills), vee, tuple(t for t in tools if t not in mills and t is not vee)


def half_width(vee: Tool, depth: float) -> float:
    """How far from a V's middle its edge cuts the face at a depth, mm: tip/2 + depth·tan(half angle)."""
    return vee.tip / 2.0 + depth / steepness(vee)


def fits(vee: Tool, depth: float) -> bool:
    """Whether a V's edge is long and wide enough for a depth."""
    return half_width(vee, depth) <= bit_radius(vee) + 1e-9


def sink(top: MultiPolygon, figures: Sunk, tools: Sequence[Tool], times: float = 1.0) -> Sink:
    """What each cutter takes. times: coarser by as much, for a first look."""
    mills, vee, _ = roles(tools)
    tol = FLAT * times
    if times > 1.0:
        top = as_multipolygon(top.simplify(tol))
    slope = figures.depth / steepness(vee) if vee is not None else 0.0
    floor = as_multipolygon(_inside(top, slope, tol))
    reach = half_width(vee, figures.depth) if vee is not None else 0.0
    middles = MultiPolygon()
    if vee is not None:
        middles = floor if vee.tip == 0.0 else as_multipolygon(_inside(top, reach, tol))
    taken: Any = MultiPolygon()
    done: list[Milled] = []
    unfit: list[Tool] = []
    for tool in mills:
        radius = tool.diameter / 2.0
        where = as_multipolygon(centres(floor, radius - TIGHT * min(times, 4.0), tol))
        if where.is_empty:
            unfit.append(tool)
            continue
        level = profile_of(tool).flat  # a bull leaves its round at the foot of walls
        mine = swept(where, level, SWEPT * times)
        region = where
        if done:
            left = _solid(mine.difference(taken))
            if left.area < SPECK:
                continue
            region = as_multipolygon(where.intersection(left.buffer(level, quad_segs=pieces(level, 0.05))))
        taken = mine if taken.is_empty else taken.union(mine)
        done.append(Milled(tool, where, region, as_multipolygon(taken)))
    rest = as_multipolygon(_solid(floor.difference(taken)))
    return Sink(top, floor, figures.depth, tuple(done), vee, middles, rest, reach, tuple(unfit))


def _inside(area: Any, by: float, tol: float) -> Any:
    return area.buffer(-by, quad_segs=pieces(by, tol)) if by > 1e-9 else area


def _solid(area: Any) -> MultiPolygon:
    """Without what is so thin that it comes of rounding."""
    thick = area.buffer(-SLIVER / 2.0, quad_segs=4).buffer(SLIVER, quad_segs=4)
    return as_multipolygon(shapely.intersection(thick, area))


def cusp_step(vee: Tool, cusp: float) -> float:
    """From line to line of a V's point so that no place of the floor stays higher than a cusp: every place within
    tip/2 + cusp·tan(half angle) of a line, mm."""
    return vee.tip / 2.0 + cusp * math.tan(math.radians(vee.angle / 2.0))


def largest_that_fits(floor: MultiPolygon) -> float:
    """The diameter of the largest disc inside an area, mm; 0 if there is none."""
    widest = [shapely.maximum_inscribed_circle(p, tolerance=0.01).length for p in floor.geoms]
    return 2.0 * max(widest, default=0.0)
