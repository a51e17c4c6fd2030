# SPDX-License-Identifier: GPL-3.0-or-later
"""Compiled: the highest of many triangles at each place of a grid."""

from __future__ import annotations

import math
from typing import Any

import numba

NEAR = 1e-9


@numba.njit(cache=True, nogil=True)
def top_of(corners: Any, z: Any) -> None:
    """Raises z (rows, columns) to the highest triangle over the middle of each cell. corners: (n, 3, 3), x and y in cells."""
    rows, columns = z.shape
    for t in range(corners.shape[0]):
        ax, ay, az = corners[t, 0, 0], corners[t, 0, 1], corners[t, 0, 2]
        bx, by, bz = corners[t, 1, 0], corners[t, 1, 1], corners[t, 1, 2]
        cx, cy, cz = corners[t, 2, 0], corners[t, 2, 1], corners[t, 2, 2]
        whole = (bx - ax) * (cy - ay) - (by - ay) * (cx - ax)
        if abs(whole) < NEAR:
            continue
        j0, j1 = max(0, math.floor(min(ay, by, cy) - 0.5)), min(rows - 1, math.ceil(max(ay, by, cy) - 0.5))
        i0, i1 = max(0, math.floor(min(ax, bx, cx) - 0.5)), min(columns - 1, math.ceil(max(ax, bx, cx) - 0.5))
        for j in range(j0, j1 + 1):
            for i in range(i0, i1 + 1):
                x, y = i + 0.5, j + 0.5
                u = ((bx - x) * (cy - y) - (by - y) * (cx - x)) / whole
                v = ((cx - x) * (ay - y) - (cy - y) * (ax - x)) / whole
                w = 1.0 - u - v
                if u >= -NEAR and v >= -NEAR and w >= -NEAR:
                    h = u * az + v * bz + w * cz
                    if h > z[j, i]:
                        z[j, i] = h
