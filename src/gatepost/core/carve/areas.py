# SPDX-License-Identifier: GPL-3.0-or-later
"""What each piece of artwork covers of its face."""

from __future__ import annotations

from collections.abc import Sequence

import shapely
from shapely.geometry import MultiPolygon

from gatepost.core.carve.lettering import glyph_area, layout
from gatepost.core.carve.shapes import outline
from gatepost.core.errors import OperatorError
from gatepost.core.geometry.curves import as_multipolygon
from gatepost.core.job.carve import Carving, Letters, Rounded
from gatepost.core.job.operation import Artwork


def area_of(art: Artwork, tol: float) -> MultiPolygon:
    """The area of a piece of artwork on its face, mm. tol: how far straight pieces may lie beside its curves. Raises OperatorError for
    a kind that has none."""
    figures = art.figures
    if isinstance(figures, Letters):
        placed = layout(Carving(**dict(figures), x=art.x, y=art.y))
        return as_multipolygon(shapely.union_all([glyph_area(g, tol) for g in placed]))
    if isinstance(figures, Rounded):
        return MultiPolygon([outline(figures, art.x, art.y, tol)])
    raise OperatorError(f"{art.title or art.id} is of a kind without an outline.")


def nested(areas: Sequence[MultiPolygon]) -> MultiPolygon:
    """What is covered an odd number of times: an outline, less what lies in it, and again what lies in that."""
    out: shapely.Geometry = MultiPolygon()
    for area in areas:
        out = out.symmetric_difference(area)
    return as_multipolygon(out)


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
