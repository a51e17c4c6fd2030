# SPDX-License-Identifier: GPL-3.0-or-later
"""A stencil: what is cut right through, and the bridges that hold what lies inside it.

Each island (the inside of an O) keeps two strips of wood, one on either side of its middle, that run on until they meet wood again. Whether what is left
is one piece is then found from the areas themselves, not from how bridges were laid.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np
import shapely
from shapely.geometry import LineString, MultiPolygon, Point, Polygon

from gatepost.core.carve.areas import area_of
from gatepost.core.carve.lettering import glyph_area, solid
from gatepost.core.geometry.curves import as_multipolygon
from gatepost.core.geometry.outline import Area
from gatepost.core.geometry.straight import nested
from gatepost.core.job.carve import Carving, Letters
from gatepost.core.job.operation import Artwork
from gatepost.core.job.sunk import Stencil

FAR = 1e4  # mm: no letter is so large
STEP = 15  # degrees from one way of a bridge to the next, where the shortest is looked for
BETTER = 0.05  # share that another way must be shorter by
JOINED = 1e-4  # mm by which a bridge reaches into what it joins
TOUCHING = 1e-4  # mm
SPECK = 0.05  # mm²: narrower wood comes of rounding


@dataclass(frozen=True)
class Bridge:
    """A strip of wood that is left. area: what it keeps of the letter; heading: degrees from X that it runs at."""

    area: Area
    heading: float


@dataclass(frozen=True)
class Stencilled:
    """Letters to be cut through. whole: without bridges; cut: less them; loose: what would fall out; islands: how many there are."""

    whole: MultiPolygon
    cut: MultiPolygon
    bridges: tuple[Bridge, ...]
    loose: tuple[Polygon, ...]
    islands: int


def stencilled(figures: Stencil, art: Sequence[Artwork], tol: float) -> Stencilled:
    """What is cut of some artwork, with its bridges. tol: mm by which straight pieces may lie beside its curves."""
    whole = nested([area_of(a, tol) for a in art])
    islands = [Polygon(ring) for part in whole.geoms for ring in part.interiors]
    upright = _upright(art, tol)
    made: list[Bridge] = []
    if figures.bridge > 0.0:
        for island in islands:
            made += _bridges(island, whole, figures, upright(island))
    kept = shapely.union_all([b.area for b in made]).buffer(JOINED)
    cut = as_multipolygon(whole.difference(kept)) if made else whole
    return Stencilled(whole, cut, tuple(made), loose_in(cut), len(islands))


def loose_in(cut: MultiPolygon) -> tuple[Polygon, ...]:
    """Wood that nothing joins to the rest once an area is cut through: whatever one of its parts goes all round."""
    if cut.is_empty:
        return ()
    x0, y0, x1, y1 = cut.bounds
    left = shapely.box(x0 - 1.0, y0 - 1.0, x1 + 1.0, y1 + 1.0).difference(cut)
    parts = [p for p in shapely.get_parts(left) if p.area > SPECK]
    rim = max(parts, key=lambda p: Polygon(p.exterior).area)
    return tuple(p for p in parts if p is not rim)


def webs(cut: MultiPolygon) -> tuple[float, Point]:
    """The least wood between two letters, or two parts of one, mm, and where; infinity where there is one part."""
    parts = np.array(shapely.get_parts(cut))
    if len(parts) < 2:
        return math.inf, Point()
    tree = shapely.STRtree(parts)
    best, where = math.inf, Point()
    for part in parts:
        found, away = tree.query_nearest(part, exclusive=True, return_distance=True, all_matches=False)
        if len(found) and away[0] < best:
            best, where = float(away[0]), shapely.shortest_line(part, parts[found[0]]).centroid
    return best, where


def _upright(art: Sequence[Artwork], tol: float) -> Callable[[Polygon], float]:
    """How an island's letter stands: degrees from X of its upright."""
    turned: list[tuple[Area, float]] = []
    for one in art:
        if isinstance(one.figures, Letters):
            laid = Carving(**dict(one.figures), x=one.x, y=one.y, turn=one.turn, mirror=one.mirror)
            for glyph in solid(laid):
                foot, top = glyph.turned(np.array([[glyph.x, glyph.y], [glyph.x, glyph.y + 1.0]]))
                turned.append((glyph_area(glyph, tol), math.degrees(math.atan2(*(top - foot)[::-1]))))
        else:
            turned.append((area_of(one, tol), 90.0 + one.turn))

    def at(island: Polygon) -> float:
        middle = island.representative_point()
        away = shapely.distance([area for area, _ in turned], middle)
        return turned[int(np.argmin(away))][1]

    return at


def _bridges(island: Polygon, whole: MultiPolygon, figures: Stencil, upright: float) -> list[Bridge]:
    if figures.way != "shortest":
        return _strips(island, whole, figures.bridge, upright + (90.0 if figures.way == "across" else 0.0))
    ways = [_strips(island, whole, figures.bridge, upright + turn) for turn in range(0, 180, STEP)]
    best = ways[0]
    for way in ways[1:]:
        if _wood(way) < _wood(best) * (1.0 - BETTER):
            best = way
    return best


def _wood(bridges: Sequence[Bridge]) -> float:
    return float(sum(b.area.area for b in bridges))


def _strips(island: Polygon, whole: MultiPolygon, width: float, heading: float) -> list[Bridge]:
    """What a strip through an island's middle keeps of the area round it, on either side as far as the next wood."""
    middle = island.centroid if island.contains(island.centroid) else island.representative_point()
    along = np.array([math.cos(math.radians(heading)), math.sin(math.radians(heading))]) * FAR
    end = np.array([middle.x, middle.y])
    strip = LineString([end - along, end + along]).buffer(width / 2.0, cap_style="flat")
    parts = shapely.get_parts(strip.intersection(whole))
    return [Bridge(p, heading) for p in parts if p.area > SPECK and p.distance(island) < TOUCHING]
