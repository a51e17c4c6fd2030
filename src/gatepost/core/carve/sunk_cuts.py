# SPDX-License-Identifier: GPL-3.0-or-later
"""A sunk floor from what is asked of it to the cuts that make it."""

from __future__ import annotations

from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from typing import Any

import numpy as np
import shapely
from shapely.geometry import MultiPolygon

from gatepost.core.carve.areas import area_of, crossing
from gatepost.core.carve.depth import steepness
from gatepost.core.carve.legs import Leg, allowed, rings, rows
from gatepost.core.carve.sink import FLAT, TIGHT, Milled, Sink, roles
from gatepost.core.carve.slopes import runs
from gatepost.core.carve.sunk_moves import Heights, mill_moves, slope_moves
from gatepost.core.geometry.curves import as_multipolygon
from gatepost.core.geometry.outline import Area
from gatepost.core.geometry.region import centres
from gatepost.core.geometry.straight import nested
from gatepost.core.job.operation import Artwork
from gatepost.core.job.sunk import Ground, Sunk
from gatepost.core.job.tool import Tool
from gatepost.core.motion import Moves
from gatepost.core.profile import profile_of

RING = 0.02  # mm by which rings inside the first may lie beside it
WHOLE = 1e4  # mm: no area is so wide
RIM = "the rim"
PAST = 1.0  # mm past the edge that a ground without a rim is flat to


@dataclass(frozen=True)
class Sinking:
    """What is sunk. figures: how; art: what stays in a ground, or outlines a recess."""

    figures: Sunk
    art: tuple[Artwork, ...]


@dataclass(frozen=True)
class SunkOutline:
    """Its outline in the face. frame: the artwork that a ground lies in, nothing where that is the board; meeting: titles of artwork that is neither
    apart nor one inside the other; inner: of a ground what lies inside its rim."""

    top: MultiPolygon
    frame: str = ""
    meeting: tuple[tuple[str, str], ...] = ()
    inner: Area | None = None


def laid_out(s: Sinking, outline: Area, slope: float, times: float = 1.0) -> SunkOutline:
    """What goes: of a ground all inside its frame but what stays, of a recess what lies inside an odd number of its outlines. outline:
    of the board; slope: how far the edge is sloped, mm."""
    tol = FLAT * times
    areas = [area_of(a, tol) for a in s.art]
    frame = _frame(s.art, areas) if isinstance(s.figures, Ground) else None
    meeting = tuple((_called(s.art[i]), _called(s.art[j])) for i, j in crossing(areas) if frame not in (i, j))
    if not isinstance(s.figures, Ground):
        return SunkOutline(nested(areas), "", meeting)
    around = areas.pop(frame) if frame is not None else outline
    rim = s.figures.rim if s.figures.rim > 0.0 else -(slope + PAST)
    inner = around.buffer(-rim, quad_segs=64)
    stays = nested(areas)
    if not inner.covers(stays):
        meeting += (("what stays", RIM),)
    top = as_multipolygon(inner.difference(stays)) if areas else MultiPolygon()
    return SunkOutline(top, s.art[frame].id if frame is not None else "", meeting, inner)


def _called(art: Artwork) -> str:
    return art.title or art.id


def _frame(art: tuple[Artwork, ...], areas: list[MultiPolygon]) -> int | None:
    """The largest outline in which the middles of all the others lie, whether they reach over it or not; nothing where there is none."""
    closed = [i for i, a in enumerate(art) if a.kind != "lettering" and len(art) > 1]
    filled = {i: shapely.union_all([shapely.Polygon(p.exterior) for p in areas[i].geoms]) for i in closed}
    middles = [shapely.box(*a.bounds).centroid if not a.is_empty else None for a in areas]
    for i in sorted(closed, key=lambda i: -filled[i].area):
        if all(m is None or filled[i].contains(m) for j, m in enumerate(middles) if j != i):
            return i
    return None


def slope_of(figures: Sunk, vee: Tool | None) -> float:
    """How far a V slopes the edge at its depth, mm; 0 for an upright edge."""
    return figures.depth / steepness(vee) if vee is not None else 0.0


def slope_by(figures: Sunk, tools: tuple[Tool, ...]) -> float:
    """As slope_of, of the V among some tools."""
    return slope_of(figures, roles(tools)[1])


@dataclass(frozen=True)
class FlatCut:
    """One tool's moves; across: how far beside its path it is engaged at the most, nothing for a V."""

    tool: Tool
    moves: Moves
    across: float | None


def flat_cuts(made: Sink, figures: Sunk, at: Heights, times: float = 1.0) -> list[FlatCut]:
    """Each tool's moves, in the order in which they cut. A V's are worked out beside those of the end mills."""
    if made.vee is None:
        return _mill_cuts(made, figures, at, times)
    with ThreadPoolExecutor(1) as pool:
        sloped = pool.submit(runs, made, figures.cusp, steepness(made.vee), times)
        out = _mill_cuts(made, figures, at, times)
        lines = sloped.result()
    if lines:
        out.append(FlatCut(made.vee, slope_moves(lines, made.vee, made.depth, at), None))
    return out


def _mill_cuts(made: Sink, figures: Sunk, at: Heights, times: float) -> list[FlatCut]:
    bottom = at.face - made.depth
    out: list[FlatCut] = []
    for milled in made.mills:
        within = allowed(milled.middles)
        legs, last = mill_legs(milled, within, made, figures, at, times)
        if legs or last:
            moves = mill_moves(legs, last, milled.tool, bottom, figures.entry, at, within)
            out.append(FlatCut(milled.tool, moves, milled.tool.diameter))
    return out


def mill_legs(
    milled: Milled, within: Any, made: Sink, figures: Sunk, at: Heights, times: float = 1.0
) -> tuple[list[Leg], list[Leg]]:
    """Lines of an end mill, and those of its last pass along the walls. within: where its middle may be, made ready."""
    tool, step = milled.tool, figures.stepover * 2.0 * profile_of(milled.tool).flat
    here, climb = np.array(at.home(tool)[:2]), figures.cut == "climb"
    region = milled.region
    last: list[Leg] = []
    if figures.allowance > 0.0 and made.vee is None:
        inner = centres(made.floor, tool.diameter / 2.0 - TIGHT + figures.allowance, FLAT * times)
        region = as_multipolygon(region.intersection(inner))
        last = rings(milled.region, within, WHOLE, RING, here, "inside", climb)  # its outlines alone
    if figures.route == "rows":
        return rows(region, within, step, here, climb), last
    return rings(region, within, step - RING * times, RING * times, here, figures.start, climb), last
