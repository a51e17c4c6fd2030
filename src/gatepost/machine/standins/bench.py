# SPDX-License-Identifier: GPL-3.0-or-later
"""What stands on the simulated bed, and what touches it: sides of the wood, clamps in the way. Plain geometry of its own."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Any

import numpy as np


@dataclass(frozen=True)
class BedThing:
    """An upright prism on the bed. corners: (n, 2); from bottom to top, mm above the spoilboard."""

    name: str
    part: str
    corners: np.ndarray
    bottom: float
    top: float


def standing_of(rows: list[dict[str, Any]]) -> list[BedThing]:
    """Prisms from plain values."""
    return [
        BedThing(str(r["name"]), str(r["part"]), np.asarray(r["outline"], float), float(r["z0"]), float(r["z1"]))
        for r in rows
    ]


def first_touch(corners: np.ndarray, x: float, y: float, way: tuple[float, float], far: float, radius: float) -> float:
    """How far a disc goes along a way before it meets an outline; inf when it doesn't within far. corners: (n, 2), closed
    from the last to the first."""
    best = math.inf
    count = len(corners)
    for i in range(count):
        ax, ay = corners[i]
        bx, by = corners[(i + 1) % count]
        best = min(best, _to_corner(ax - x, ay - y, way, radius), _to_edge(ax - x, ay - y, bx - x, by - y, way, radius))
    return best if best <= far else math.inf


def _to_corner(cx: float, cy: float, way: tuple[float, float], radius: float) -> float:
    along, across = cx * way[0] + cy * way[1], -cx * way[1] + cy * way[0]
    if abs(across) > radius:
        return math.inf
    t = along - math.sqrt(radius * radius - across * across)
    return t if t >= 0.0 else math.inf


def _to_edge(ax: float, ay: float, bx: float, by: float, way: tuple[float, float], radius: float) -> float:
    long = math.hypot(bx - ax, by - ay)
    if long < 1e-12:
        return math.inf
    ux, uy = (bx - ax) / long, (by - ay) / long
    nx, ny = -uy, ux
    off = -(ax * nx + ay * ny)  # of the disc's middle beside the edge
    drift = way[0] * nx + way[1] * ny
    if abs(drift) < 1e-12:
        return math.inf
    t = ((radius if off > 0 else -radius) - off) / drift
    if t < -1e-9:
        return math.inf
    foot = (t * way[0] - ax) * ux + (t * way[1] - ay) * uy
    return max(t, 0.0) if -1e-9 <= foot <= long + 1e-9 else math.inf


def inside(corners: np.ndarray, x: np.ndarray, y: np.ndarray) -> np.ndarray:
    """Whether places lie inside an outline, even-odd."""
    within = np.zeros(len(x), bool)
    for (ax, ay), (bx, by) in zip(corners, np.roll(corners, -1, axis=0)):
        if ay == by:
            continue
        crosses = (ay > y) != (by > y)
        within ^= crosses & (x < ax + (y - ay) * (bx - ax) / (by - ay))
    return within


def away(corners: np.ndarray, x: np.ndarray, y: np.ndarray) -> np.ndarray:
    """Distance of places to an outline, nought inside."""
    least = np.full(len(x), np.inf)
    for (ax, ay), (bx, by) in zip(corners, np.roll(corners, -1, axis=0)):
        dx, dy = bx - ax, by - ay
        square = dx * dx + dy * dy
        t = np.clip(((x - ax) * dx + (y - ay) * dy) / square, 0.0, 1.0) if square > 0 else np.zeros(len(x))
        least = np.minimum(least, np.hypot(x - ax - t * dx, y - ay - t * dy))
    least[inside(corners, x, y)] = 0.0
    return least


Parts = list[tuple[str, float, float, float]]  # name, radius, from, to above the tip


def first_hit(path: np.ndarray, parts: Parts, standing: list[BedThing]) -> tuple[int, str, BedThing] | None:
    """The first place of a path at which a part of the tool touches something: which, what part, what it hits."""
    best: tuple[int, str, BedThing] | None = None
    widest = max(p[1] for p in parts)
    low, high = path.min(axis=0), path.max(axis=0)
    for thing in standing:
        (x0, y0), (x1, y1) = thing.corners.min(axis=0), thing.corners.max(axis=0)
        if low[0] > x1 + widest or high[0] < x0 - widest or low[1] > y1 + widest or high[1] < y0 - widest:
            continue
        near = away(thing.corners, path[:, 0], path[:, 1])
        for name, radius, bottom, top in parts:
            hit = (near < radius) & (path[:, 2] + bottom < thing.top) & (path[:, 2] + top > thing.bottom)
            if hit.any():
                at = int(np.argmax(hit))
                if best is None or at < best[0]:
                    best = (at, name, thing)
    return best
