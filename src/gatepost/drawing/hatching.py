# SPDX-License-Identifier: GPL-3.0-or-later
"""Slanting lines over an area."""

from __future__ import annotations

import numpy as np
import shapely

from gatepost.drawing.shapes import Shape, line

MOST_LINES = 400


def hatch(outline: shapely.Geometry, every: float, role: str) -> list[Shape]:
    """Lines over an area, so far from each other along X, mm."""
    if outline.is_empty:
        return []
    x0, y0, x1, y1 = outline.bounds
    every = max(every, (x1 - x0 + y1 - y0) / MOST_LINES)
    starts = np.arange(x0 - (y1 - y0), x1, every)
    lines = [[(c, y0), (c + y1 - y0, y1)] for c in starts]
    met = shapely.get_parts(shapely.intersection(shapely.linestrings(lines), outline)) if len(lines) else np.array([])
    return [line(shapely.get_coordinates(m), f"{role}-hatch") for m in met if m.geom_type == "LineString"]
