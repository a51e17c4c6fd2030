# SPDX-License-Identifier: GPL-3.0-or-later
"""Which cells of a grid lie inside an area."""

from __future__ import annotations

import numpy as np
import shapely
from numpy.typing import NDArray


def inside(area: shapely.Geometry, x0: float, y0: float, cell: float, rows: int, columns: int) -> NDArray[np.bool_]:
    """Cells whose middle lies inside a valid area, (rows, columns); middles on the outline may fall either way.

    Cell (j, i) stands at x0 + i·cell, y0 + j·cell. By rows: crossings with the outline, even-odd.
    """
    mask = np.zeros((rows, columns), np.bool_)
    rings = [
        shapely.get_coordinates(ring)
        for polygon in shapely.get_parts(area)
        if polygon.geom_type == "Polygon" and not polygon.is_empty
        for ring in (polygon.exterior, *polygon.interiors)
    ]
    if rings:
        from gatepost.core.geometry import kernels

        edges = np.concatenate([np.hstack([ring[:-1], ring[1:]]) for ring in rings])
        kernels.fill(np.ascontiguousarray(edges), x0, y0, cell, mask)
    return mask
