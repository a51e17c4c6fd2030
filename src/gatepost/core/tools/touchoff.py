# SPDX-License-Identifier: GPL-3.0-or-later
"""Where a tool fitted later can touch off: on wood that is still the setup's original top, in reach, under no hold."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray
from shapely.geometry import Polygon

from gatepost.core.geometry.raster import inside
from gatepost.core.wood.field import HeightField, by_bands


@dataclass(frozen=True)
class TouchSpot:
    """A place to touch off, field's XY. room: distance to the nearest cut, edge or hold, mm."""

    x: float
    y: float
    room: float


def still_top(before: HeightField, now: HeightField, tol: float = 0.005) -> NDArray[np.bool_]:
    """Which cells are still the top they were, (rows, columns) bool."""
    same = by_bands(now, lambda b: np.abs(before.z[b] - now.z[b]) < tol)
    same &= now.wood
    return same


def spots(
    before: HeightField, now: HeightField, covered: list[Polygon], gauge_radius: float = 12.0, count: int = 3
) -> list[TouchSpot]:
    """Best places, most room first, no two within four gauge radii. covered: what stands over the wood, field's XY."""
    whole = still_top(before, now)
    rows, columns = whole.shape
    coarse = max(1, round(2.0 / now.cell))
    free: Any = whole[: rows // coarse * coarse, : columns // coarse * coarse]
    free = free.reshape(rows // coarse, coarse, columns // coarse, coarse).all(axis=(1, 3))
    if free.size == 0:
        return []
    step = now.cell * coarse
    x = now.x0 + 0.5 * (coarse - 1) * now.cell + np.arange(free.shape[1]) * step
    y = now.y0 + 0.5 * (coarse - 1) * now.cell + np.arange(free.shape[0]) * step
    for shape in covered:
        free &= ~inside(shape, float(x[0]), float(y[0]), step, *free.shape)
    import cv2  # only wanted here

    away = cv2.distanceTransform(np.pad(free, 1).view(np.uint8), cv2.DIST_L2, cv2.DIST_MASK_PRECISE)[1:-1, 1:-1]
    room = np.sqrt(np.rint(np.square(away, dtype=np.float64))) * step  # its square is whole: float32 lost the rest
    found: list[TouchSpot] = []
    roomy = np.flatnonzero(room >= gauge_radius)
    for flat in roomy[np.argsort(-room.ravel()[roomy], kind="stable")]:
        if len(found) == count:
            break
        j, i = np.unravel_index(int(flat), room.shape)
        if all(np.hypot(x[i] - s.x, y[j] - s.y) > 4 * gauge_radius for s in found):
            found.append(TouchSpot(float(x[i]), float(y[j]), float(room[j, i])))
    return found


def is_top(before: HeightField, now: HeightField, x: float, y: float, radius: float) -> float:
    """How far below its old height the wood now is under a gauge of a radius at a place, mm (0: still the top)."""
    r = max(1, round(radius / now.cell))
    i, j = round((x - now.x0) / now.cell), round((y - now.y0) / now.cell)
    if not (0 <= i < now.z.shape[1] and 0 <= j < now.z.shape[0]):
        return float("inf")
    window = (slice(max(0, j - r), max(0, j + r + 1)), slice(max(0, i - r), max(0, i + r + 1)))
    drop = before.z[window] - now.z[window]
    return float(np.max(drop)) if now.wood[window].all() else float("inf")
