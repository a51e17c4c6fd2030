# SPDX-License-Identifier: GPL-3.0-or-later
"""What each piece of artwork covers of its face."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import shapely
from shapely import affinity
from shapely.geometry import MultiPolygon, Point, Polygon

from gatepost.core.carve.behind import Behind, area_behind
from gatepost.core.carve.lettering import glyph_area, solid
from gatepost.core.carve.shapes import outline
from gatepost.core.carve.target import corners
from gatepost.core.errors import OperatorError
from gatepost.core.geometry.curves import as_multipolygon
from gatepost.core.geometry.outline import Area
from gatepost.core.geometry.region import pieces
from gatepost.core.geometry.straight import as_drawn
from gatepost.core.job.carve import Carving, Letters, Rounded
from gatepost.core.job.drawing import DrawnFigures
from gatepost.core.job.holes import HolesFigures
from gatepost.core.job.operation import Artwork
from gatepost.core.job.relief import HeightsFigures
from gatepost.core.job.rows import places

ROUGH = 0.1  # mm by which an outline may lie beside itself


def area_of(art: Artwork, tol: float) -> MultiPolygon:
    """The area of a piece of artwork on its face, mm. tol: how far straight pieces may lie beside its curves. Raises OperatorError for
    a kind that has none."""
    figures = art.figures
    if isinstance(figures, Letters):
        placed = solid(Carving(**dict(figures), x=art.x, y=art.y))
        flat = as_multipolygon(shapely.union_all([glyph_area(g, tol) for g in placed]))
    elif isinstance(figures, Rounded):
        flat = MultiPolygon([outline(figures, art.x, art.y, tol)])
    elif isinstance(figures, DrawnFigures):
        flat = shapely.transform(drawn_area(figures), lambda p: p + np.array([art.x, art.y]))
    elif isinstance(figures, HeightsFigures):
        return MultiPolygon([Polygon(corners(art, figures))])
    elif isinstance(figures, HolesFigures):
        discs = [
            Point(p).buffer(figures.across / 2.0, quad_segs=pieces(figures.across / 2.0, tol)) for p in places(art)
        ]
        return as_multipolygon(shapely.union_all(discs))
    elif isinstance(figures, Behind):
        return area_behind(art)
    else:
        raise OperatorError(f"{art.title or art.id} is of a kind without an outline.")
    return posed(flat, art)


def about(art: Sequence[Artwork], beside: float) -> Area | None:
    """The rectangle about some artwork, and so far beside it, mm; nothing where there is nothing."""
    whole = shapely.union_all([area_of(a, ROUGH) for a in art])
    return None if whole.is_empty else shapely.box(*whole.bounds).buffer(beside, join_style="mitre")


def posed(area: MultiPolygon, art: Artwork) -> MultiPolygon:
    """What stands about the middle of its artwork, mirrored and turned as that is."""
    if art.mirror:
        area = shapely.transform(area, lambda p: p * [-1.0, 1.0] + [2.0 * art.x, 0.0])
    return affinity.rotate(area, art.turn, origin=(art.x, art.y)) if art.turn else area


def drawn_area(figures: DrawnFigures) -> MultiPolygon:
    """A drawing's areas about their middle, at the size that is wanted."""
    size = np.array([figures.width / figures.wide, figures.height / figures.high])
    return shapely.transform(as_drawn(figures.path), lambda p: p * size)


def crossing(areas: Sequence[MultiPolygon], least: float = 1e-3) -> list[tuple[int, int]]:
    """Pairs that are neither apart nor one inside the other. least: mm² by which they may seem to."""
    filled = [shapely.union_all([shapely.Polygon(p.exterior) for p in a.geoms]) for a in areas]
    out: list[tuple[int, int]] = []
    for i, a in enumerate(filled):
        for j in range(i + 1, len(filled)):
            b = filled[j]
            met = a.intersection(b).area
            if met > least and met < min(a.area, b.area) - least:
                out.append((i, j))
    return out
