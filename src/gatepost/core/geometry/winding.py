# SPDX-License-Identifier: GPL-3.0-or-later
"""What rings enclose by how often they go round it."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import shapely
from numpy.typing import NDArray

Array = NDArray[np.float64]


def nonzero(rings: Sequence[Array]) -> shapely.Geometry:
    """All that rings, (n, 2) each, go round another number of times to the left than to the right, whether they cross themselves or each other or not."""
    noded = shapely.union_all([shapely.LineString(np.vstack([ring, ring[:1]])) for ring in rings])
    faces = [p for g in shapely.get_parts(shapely.polygonize([noded])) for p in shapely.get_parts(g)]
    faces = [p for p in faces if p.geom_type == "Polygon"]
    if not faces:
        return shapely.MultiPolygon()
    spots = shapely.point_on_surface(np.array(faces))
    x, y = shapely.get_x(spots), shapely.get_y(spots)
    turns = np.zeros(len(faces), np.int64)
    for ring in rings:
        turns += _turns(np.vstack([ring, ring[:1]]), x, y)
    return shapely.union_all(np.array(faces)[turns != 0])


def _turns(ring: Array, x: Array, y: Array) -> NDArray[np.int64]:
    """How often a ring goes round places, to the left counted positive."""
    out = np.zeros(len(x), np.int64)
    (ax, ay), (bx, by) = ring[:-1].T, ring[1:].T
    for i in range(len(x)):
        up = (ay <= y[i]) & (by > y[i])
        down = (ay > y[i]) & (by <= y[i])
        side = (bx - ax) * (y[i] - ay) - (x[i] - ax) * (by - ay)
        out[i] = int((up & (side > 0)).sum()) - int((down & (side < 0)).sum())
    return out
