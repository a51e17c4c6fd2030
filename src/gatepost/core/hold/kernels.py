# SPDX-License-Identifier: GPL-3.0-or-later
"""Compiled search for a tool's nearest place to an upright prism, over many moves.

Distances across are signed: negative inside an outline, by how far it is to its nearest edge. Inside, the distance to
each edge is convex along a move, so that over any stretch the greatest of it stands at an end: that bounds the depth,
and halving stretches finds it.
"""

from __future__ import annotations

import math
from typing import Any

import numba
import numpy as np

FINE = 1e-6  # mm to which depths inside an outline and gaps on slopes are found
LEVEL = 1e-12  # mm of height under which a move counts as level
TOUCH = 1e-9  # mm: less than this is a touch, not an overlap
STRETCHES = 256


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
def _signed(ring: Any, x: float, y: float) -> float:
    least = math.inf
    for i in range(ring.shape[0] - 1):
        least = min(least, _point_to_segment(x, y, ring[i, 0], ring[i, 1], ring[i + 1, 0], ring[i + 1, 1]))
    away = math.sqrt(least)
    return -away if _inside(ring, x, y) else away


@numba.njit(cache=True, nogil=True)
def _deepest(ring: Any, px: float, py: float, qx: float, qy: float) -> float:
    """No place of a segment lies deeper inside an outline than this."""
    bound = math.inf
    for i in range(ring.shape[0] - 1):
        ax, ay, bx, by = ring[i, 0], ring[i, 1], ring[i + 1, 0], ring[i + 1, 1]
        here = _point_to_segment(px, py, ax, ay, bx, by)
        there = _point_to_segment(qx, qy, ax, ay, bx, by)
        bound = min(bound, max(here, there))
    return math.sqrt(bound)


@numba.njit(cache=True, nogil=True)
def signed_across(ring: Any, px: float, py: float, qx: float, qy: float, best: float, spans: Any, out: Any) -> float:
    """The least signed distance of a segment's places to an outline where it is under ``best``, else ``best``.

    spans: (STRETCHES, 2) to work in; out: (1,) takes the share of the segment at which it lies, where it is inside.
    """
    plain = across(ring, px, py, qx, qy)
    if plain > 0.0 or best <= -math.inf:
        return float(min(best, plain))
    start, end = _signed(ring, px, py), _signed(ring, qx, qy)
    if min(start, end, 0.0) < best:
        best = min(start, end, 0.0)
        out[0] = 0.0 if start <= end else 1.0
    spans[0, 0], spans[0, 1] = 0.0, 1.0
    count = 1
    while count > 0:
        count -= 1
        a, b = spans[count, 0], spans[count, 1]
        ax, ay = px + (qx - px) * a, py + (qy - py) * a
        bx, by = px + (qx - px) * b, py + (qy - py) * b
        if -_deepest(ring, ax, ay, bx, by) >= best - FINE:
            continue
        long = math.hypot(bx - ax, by - ay)  # and no place lies nearer than the ends' distances less the way between
        if 0.5 * (_signed(ring, ax, ay) + _signed(ring, bx, by) - long) >= best - FINE:
            continue
        m = 0.5 * (a + b)
        here = _signed(ring, px + (qx - px) * m, py + (qy - py) * m)
        if here < best:
            best = here
            out[0] = m
        if count + 2 <= STRETCHES:
            spans[count, 0], spans[count, 1] = a, m
            spans[count + 1, 0], spans[count + 1, 1] = m, b
            count += 2
    return best


@numba.njit(cache=True, nogil=True)
def _overlap(z: float, dz: float, low: float, high: float, out: Any) -> bool:
    """Shares of a move, from and to, with heights above low and below high; false when there are none."""
    if low >= high:
        return False
    if abs(dz) < LEVEL:
        out[0], out[1] = 0.0, 1.0
        return bool(low + TOUCH < z < high - TOUCH)
    a, b = (low - z) / dz, (high - z) / dz
    out[0], out[1] = max(0.0, min(a, b)), min(1.0, max(a, b))
    return bool(out[0] < out[1] - LEVEL)


@numba.njit(cache=True, nogil=True)
def _apart(ax: float, ay: float, bx: float, by: float, x0: float, y0: float, x1: float, y1: float) -> float:
    """Distance of a segment's box to a box."""
    dx = max(0.0, x0 - max(ax, bx), min(ax, bx) - x1)
    dy = max(0.0, y0 - max(ay, by), min(ay, by) - y1)
    return math.sqrt(dx * dx + dy * dy)


@numba.njit(cache=True, nogil=True)
def _nearer(
    ring: Any, p: Any, q: Any, low: float, high: float, radius: float, gap: float, spans: Any, out: Any, at: Any
) -> bool:
    """Whether any place of a sloped move comes nearer than a gap, both across and in height. out: shares it was sought
    between; at: the share of those where the deepest place inside lies."""
    if not _overlap(p[2], q[2] - p[2], low - gap, high + gap, out):
        return False
    a, b = out[0], out[1]
    ax, ay = p[0] + (q[0] - p[0]) * a, p[1] + (q[1] - p[1]) * a
    bx, by = p[0] + (q[0] - p[0]) * b, p[1] + (q[1] - p[1]) * b
    if gap + radius > 0.0:
        return bool(across(ring, ax, ay, bx, by) < gap + radius)
    return bool(signed_across(ring, ax, ay, bx, by, gap + radius, spans, at) < gap + radius)


@numba.njit(cache=True, nogil=True)
def worst(starts: Any, ends: Any, ring: Any, bottom: float, top: float, parts: Any, limit: float, out: Any) -> bool:
    """The least gap below a limit of any part of a tool to one prism, over all moves; whether there is any.

    The gap at a moment is the greater of the gap across and the gap in height; negative when they would touch.
    starts, ends: float64 (n, 3) of the tip; ring: (m, 2), closed; parts: (s, 3) of radius, bottom and top above the tip.
    out: (6,) gap, move, part, from and to along the move (0 to 1) where it is that near in height, signed distance of
    the middle.
    """
    x0, y0, x1, y1 = math.inf, math.inf, -math.inf, -math.inf
    for i in range(ring.shape[0]):
        x0, x1 = min(x0, ring[i, 0]), max(x1, ring[i, 0])
        y0, y1 = min(y0, ring[i, 1]), max(y1, ring[i, 1])
    widest = 0.0
    for k in range(parts.shape[0]):
        widest = max(widest, parts[k, 0])
    spans, shares, at = np.empty((STRETCHES, 2)), np.empty(2), np.zeros(1)
    found, best = False, limit
    for i in range(starts.shape[0]):
        ax, ay, bx, by = starts[i, 0], starts[i, 1], ends[i, 0], ends[i, 1]
        away = _apart(ax, ay, bx, by, x0, y0, x1, y1)
        if away > 0.0 and away - widest >= best:
            continue
        az, dz = starts[i, 2], ends[i, 2] - starts[i, 2]
        level = abs(dz) < LEVEL
        for k in range(parts.shape[0]):
            radius = parts[k, 0]
            if away > 0.0 and away - radius >= best:
                continue
            low, high = bottom - parts[k, 2], top - parts[k, 1]  # of the tip, between which they overlap in height
            if level:
                tall = max(az - high, low - az)
                if tall >= best:
                    continue
                at[0] = 0.0
                near = signed_across(ring, ax, ay, bx, by, best + radius, spans, at)
                if near - radius >= best:
                    continue
                best, shares[0], shares[1] = max(near - radius, tall), 0.0, 1.0
            else:
                if not _nearer(ring, starts[i], ends[i], low, high, radius, best, spans, shares, at):
                    continue
                least = max(min(0.0, best) - 1.0, -1e6)
                while _nearer(ring, starts[i], ends[i], low, high, radius, least, spans, shares, at):
                    least = 2.0 * least - 1.0
                most = best
                while most - least > FINE:
                    middle = 0.5 * (least + most)
                    if _nearer(ring, starts[i], ends[i], low, high, radius, middle, spans, shares, at):
                        most = middle
                    else:
                        least = middle
                _nearer(ring, starts[i], ends[i], low, high, radius, most, spans, shares, at)
                best = most
            found = True
            a, b = shares[0], shares[1]
            out[0], out[1], out[2], out[3], out[4] = best, i, k, a, b
            out[5] = signed_across(
                ring,
                ax + (bx - ax) * a,
                ay + (by - ay) * a,
                ax + (bx - ax) * b,
                ay + (by - ay) * b,
                math.inf,
                spans,
                at,
            )
            if out[5] < 0.0:  # inside: told where, not between what
                out[3] = out[4] = a + (b - a) * at[0]
    return found


@numba.njit(cache=True, nogil=True)
def nearer(starts: Any, ends: Any, ring: Any, bottom: float, top: float, parts: Any, limit: float) -> bool:
    """Whether any part of a tool comes nearer to a prism than a limit on any move; as ``worst``, and over at the first."""
    x0, y0, x1, y1 = math.inf, math.inf, -math.inf, -math.inf
    for i in range(ring.shape[0]):
        x0, x1 = min(x0, ring[i, 0]), max(x1, ring[i, 0])
        y0, y1 = min(y0, ring[i, 1]), max(y1, ring[i, 1])
    widest = 0.0
    for k in range(parts.shape[0]):
        widest = max(widest, parts[k, 0])
    spans, shares, at = np.empty((STRETCHES, 2)), np.empty(2), np.zeros(1)
    for i in range(starts.shape[0]):
        ax, ay, bx, by = starts[i, 0], starts[i, 1], ends[i, 0], ends[i, 1]
        away = _apart(ax, ay, bx, by, x0, y0, x1, y1)
        if away > 0.0 and away - widest >= limit:
            continue
        az, bz = starts[i, 2], ends[i, 2]
        for k in range(parts.shape[0]):
            if away > 0.0 and away - parts[k, 0] >= limit:
                continue
            low, high = bottom - parts[k, 2] - limit, top - parts[k, 1] + limit
            if max(az, bz) <= low or min(az, bz) >= high:
                continue
            if _nearer(ring, starts[i], ends[i], low + limit, high - limit, parts[k, 0], limit, spans, shares, at):
                return True
    return False


@numba.njit(cache=True, nogil=True)
def _through_disc(x: float, y: float, dx: float, dy: float, radius: float, out: Any) -> None:
    """Widen out (2,) by the shares of a line x + t·dx, y + t·dy within a radius of nought."""
    a, b, c = dx * dx + dy * dy, x * dx + y * dy, x * x + y * y - radius * radius
    root = b * b - a * c
    if a > 0.0 and root > 0.0:
        root = math.sqrt(root)
        out[0], out[1] = min(out[0], (-b - root) / a), max(out[1], (-b + root) / a)


@numba.njit(cache=True, nogil=True)
def within_plan(ring: Any, px: float, py: float, qx: float, qy: float, radius: float, out: Any) -> bool:
    """First and last share of a segment at which a disc on it overlaps an outline; false when it never does."""
    dx, dy = qx - px, qy - py
    if dx * dx + dy * dy < LEVEL:
        out[0], out[1] = 0.0, 1.0
        return bool(_signed(ring, px, py) < radius - TOUCH)
    first, last = math.inf, -math.inf
    for i in range(ring.shape[0] - 1):
        ax, ay, bx, by = ring[i, 0], ring[i, 1], ring[i + 1, 0], ring[i + 1, 1]
        long = math.hypot(bx - ax, by - ay)
        out[0], out[1] = math.inf, -math.inf
        _through_disc(px - ax, py - ay, dx, dy, radius, out)
        _through_disc(px - bx, py - by, dx, dy, radius, out)
        if long > 0.0:  # between the ends: along the edge from nought to its length, beside it by up to the radius
            ux, uy = (bx - ax) / long, (by - ay) / long
            low, high = -math.inf, math.inf
            for axis in range(2):
                vx, vy = (ux, uy) if axis == 0 else (-uy, ux)
                here, way = (px - ax) * vx + (py - ay) * vy, dx * vx + dy * vy
                least, most = (0.0, long) if axis == 0 else (-radius, radius)
                if abs(way) < LEVEL:
                    if not (least < here < most):
                        low, high = 1.0, 0.0
                else:
                    s, t = (least - here) / way, (most - here) / way
                    low, high = max(low, min(s, t)), min(high, max(s, t))
            if low < high:
                out[0], out[1] = min(out[0], low), max(out[1], high)
        a, b = max(0.0, out[0]), min(1.0, out[1])
        if a < b - LEVEL:
            first, last = min(first, a), max(last, b)
    if _inside(ring, px, py):
        first = 0.0
        last = max(last, 0.0)
    if _inside(ring, qx, qy):
        last = 1.0
        first = min(first, 1.0)
    out[0], out[1] = first, last
    return bool(first <= last)


@numba.njit(cache=True, nogil=True)
def passings(starts: Any, ends: Any, ring: Any, z0: float, z1: float, part: Any, out: Any) -> None:
    """Gaps of one part of a tool to one solid over all moves, across and in height, each by itself.

    part: (3,) radius, bottom and top above the tip. out: (4,) the least distance of the axis to the outline less the
    radius over all moments at which they overlap in height, and its move; the least of the part's underside less the
    solid's top over all moments at which they overlap in plan, and its move. inf and -1 where that never happens.
    """
    x0, y0, x1, y1 = math.inf, math.inf, -math.inf, -math.inf
    for i in range(ring.shape[0]):
        x0, x1 = min(x0, ring[i, 0]), max(x1, ring[i, 0])
        y0, y1 = min(y0, ring[i, 1]), max(y1, ring[i, 1])
    radius, low, high = part[0], z0 - part[2], z1 - part[1]
    spans, shares, at = np.empty((STRETCHES, 2)), np.empty(2), np.zeros(1)
    out[0], out[1], out[2], out[3] = math.inf, -1.0, math.inf, -1.0
    for i in range(starts.shape[0]):
        ax, ay, bx, by = starts[i, 0], starts[i, 1], ends[i, 0], ends[i, 1]
        az, bz = starts[i, 2], ends[i, 2]
        away = _apart(ax, ay, bx, by, x0, y0, x1, y1)
        if (away == 0.0 or away - radius < out[0]) and _overlap(az, bz - az, low, high, shares):
            a, b = shares[0], shares[1]
            near = signed_across(
                ring, ax + (bx - ax) * a, ay + (by - ay) * a, ax + (bx - ax) * b, ay + (by - ay) * b, out[0] + radius,
                spans, at,
            )  # fmt: skip
            if near - radius < out[0]:
                out[0], out[1] = near - radius, i
        if away < radius and min(az, bz) + part[1] - z1 < out[2] and within_plan(ring, ax, ay, bx, by, radius, shares):
            share = shares[1] if bz < az else shares[0]
            gap = az + (bz - az) * share + part[1] - z1
            if gap < out[2]:
                out[2], out[3] = gap, i


def warm() -> None:
    """Compile, or load the compiled search."""
    ring = np.array([[0.0, 0.0], [1.0, 0.0], [0.0, 1.0], [0.0, 0.0]])
    starts, ends = np.zeros((1, 3)), np.ones((1, 3))
    worst(starts, ends, ring, 0.0, 1.0, np.array([[1.0, 0.0, 1.0]]), 1.0, np.zeros(6))
    nearer(starts, ends, ring, 0.0, 1.0, np.array([[1.0, 0.0, 1.0]]), 1.0)
    passings(starts, ends, ring, 0.0, 1.0, np.array([1.0, 0.0, 1.0]), np.zeros(4))
