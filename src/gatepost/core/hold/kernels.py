# SPDX-License-Identifier: GPL-3.0-or-later
"""Compiled search for a tool's nearest place to a prism, over many moves. Written plainly in ``clearance``."""

from __future__ import annotations

import math
from typing import Any

import numba
import numpy as np


@numba.njit(cache=True, nogil=True)
def _inside(ring: Any, x: float, y: float) -> bool:
    within = False
    for i in range(ring.shape[0] - 1):
        ax, ay, bx, by = ring[i, 0], ring[i, 1], ring[i + 1, 0], ring[i + 1, 1]
        if (ay > y) != (by > y) and x < ax + (y - ay) * (bx - ax) / (by - ay):
            within = not within
    return within


@numba.njit(cache=True, nogil=True)
def _point_to_segment(x: float, y: float, ax: float, ay: float, bx: float, by: float) -> float:
    dx, dy = bx - ax, by - ay
    square = dx * dx + dy * dy
    t = 0.0 if square == 0.0 else min(1.0, max(0.0, ((x - ax) * dx + (y - ay) * dy) / square))
    ox, oy = x - ax - t * dx, y - ay - t * dy
    return ox * ox + oy * oy


@numba.njit(cache=True, nogil=True)
def across(ring: Any, px: float, py: float, qx: float, qy: float) -> float:
    """Distance of a segment to a filled outline; nought when they meet. ring: (n, 2), closed."""
    if _inside(ring, px, py):
        return 0.0
    least = math.inf
    for i in range(ring.shape[0] - 1):
        ax, ay, bx, by = ring[i, 0], ring[i, 1], ring[i + 1, 0], ring[i + 1, 1]
        ex, ey, fx, fy = qx - px, qy - py, bx - ax, by - ay
        turn = ex * fy - ey * fx
        if turn != 0.0:
            s = ((ax - px) * fy - (ay - py) * fx) / turn
            t = ((ax - px) * ey - (ay - py) * ex) / turn
            if 0.0 <= s <= 1.0 and 0.0 <= t <= 1.0:
                return 0.0
        least = min(least, _point_to_segment(px, py, ax, ay, bx, by))
        least = min(least, _point_to_segment(qx, qy, ax, ay, bx, by))
        least = min(least, _point_to_segment(ax, ay, px, py, qx, qy))
        least = min(least, _point_to_segment(bx, by, px, py, qx, qy))
    return math.sqrt(least)


@numba.njit(cache=True, nogil=True)
def worst(points: Any, ring: Any, bottom: float, top: float, parts: Any, limit: float, out: Any) -> bool:
    """The least gap below a limit of any part of a tool to one prism, over all moves; whether there is any.

    points: float64 (n + 1, 3) of the tip; ring: (m, 2), closed; parts: (s, 3) of radius, bottom and top above the tip.
    out: (6,) gap, move, part, from and to along the move (0 to 1), distance of the middle.
    """
    x0, y0, x1, y1 = math.inf, math.inf, -math.inf, -math.inf
    for i in range(ring.shape[0]):
        x0, x1 = min(x0, ring[i, 0]), max(x1, ring[i, 0])
        y0, y1 = min(y0, ring[i, 1]), max(y1, ring[i, 1])
    widest = 0.0
    for k in range(parts.shape[0]):
        widest = max(widest, parts[k, 0])
    far = widest + max(limit, 0.0)
    found = False
    below = np.nextafter(limit, -np.inf)
    for i in range(points.shape[0] - 1):
        ax, ay, bx, by = points[i, 0], points[i, 1], points[i + 1, 0], points[i + 1, 1]
        if min(ax, bx) > x1 + far or max(ax, bx) < x0 - far or min(ay, by) > y1 + far or max(ay, by) < y0 - far:
            continue
        az, dz = points[i, 2], points[i + 1, 2] - points[i, 2]
        level = abs(dz) < 1e-12
        for k in range(parts.shape[0]):
            radius, low, high = parts[k, 0], bottom - parts[k, 2] - limit, top - parts[k, 1] + limit
            reach = radius + max(limit, 0.0)
            if (
                min(ax, bx) > x1 + reach or max(ax, bx) < x0 - reach or min(ay, by) > y1 + reach
                or max(ay, by) < y0 - reach
            ):  # fmt: skip
                continue
            t0, t1 = 0.0, 1.0
            if level:
                if not (low < az < high):
                    continue
            else:
                ta, tb = (low - az) / dz, (high - az) / dz
                if max(ta, tb) <= 0.0 or min(ta, tb) >= 1.0:
                    continue
                t0, t1 = min(1.0, max(0.0, min(ta, tb))), min(1.0, max(0.0, max(ta, tb)))
                if t0 > t1:
                    continue
            middle = across(ring, ax + (bx - ax) * t0, ay + (by - ay) * t0, ax + (bx - ax) * t1, ay + (by - ay) * t1)
            wide = middle - radius
            z0, z1 = az + dz * t0, az + dz * t1
            tall = min(
                max(z0 + parts[k, 1] - top, bottom - z0 - parts[k, 2]),
                max(z1 + parts[k, 1] - top, bottom - z1 - parts[k, 2]),
            )
            gap = max(wide, tall)
            if wide < limit:
                gap = min(gap, below)
            if gap < limit and (not found or gap < out[0]):
                found = True
                out[0], out[1], out[2], out[3], out[4], out[5] = gap, i, k, t0, t1, middle
    return found


def warm() -> None:
    """Compile, or load the compiled search."""
    ring = np.array([[0.0, 0.0], [1.0, 0.0], [0.0, 1.0], [0.0, 0.0]])
    worst(np.zeros((2, 3)), ring, 0.0, 1.0, np.array([[1.0, 0.0, 1.0]]), 1.0, np.zeros(6))
