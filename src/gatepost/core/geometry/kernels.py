# SPDX-License-Identifier: GPL-3.0-or-later
"""Compiled work on the edges of a medial axis: their points, pruning, joining into runs, thinning out.

The same is written plainly in ``plain``, which these are held against. A *graph* comes as ends (e, 2) of node numbers
and, per edge, points[first[i]:first[i + 1]] with columns x, y, r from its first end to its second.
"""

from __future__ import annotations

import math
from typing import Any

import numba
import numpy as np


@numba.njit(cache=True, nogil=True)
def _distance(site: Any, x: float, y: float) -> float:
    ax, ay = site[0, 0], site[0, 1]
    dx, dy = site[1, 0] - ax, site[1, 1] - ay
    length = dx * dx + dy * dy
    t = 0.0 if length == 0.0 else min(1.0, max(0.0, ((x - ax) * dx + (y - ay) * dy) / length))
    return math.hypot(x - ax - t * dx, y - ay - t * dy)


@numba.njit(cache=True, nogil=True)
def _straight(site: Any, sx: float, sy: float, ex: float, ey: float, out: Any, at: int) -> Any:
    if at >= 0:
        out[at, 0], out[at, 1], out[at, 2] = sx, sy, _distance(site, sx, sy)
        out[at + 1, 0], out[at + 1, 1], out[at + 1, 2] = ex, ey, _distance(site, ex, ey)
    return 2


@numba.njit(cache=True, nogil=True)
def _parabola(focus: Any, site: Any, sx: float, sy: float, ex: float, ey: float, tol: float, out: Any, at: int) -> Any:
    """Chord and straight r both stray by at most L²/(8p) over a piece of length L along the site's line."""
    fx, fy = focus[0, 0], focus[0, 1]
    ax, ay = site[1, 0] - site[0, 0], site[1, 1] - site[0, 1]
    length = math.hypot(ax, ay)
    ax, ay = ax / length, ay / length
    nx, ny = -ay, ax
    p = nx * (fx - site[0, 0]) + ny * (fy - site[0, 1])
    if p < 0.0:
        nx, ny, p = -nx, -ny, -p
    if p < 1e-9:
        return _straight(site, sx, sy, ex, ey, out, at)
    t0, t1 = ax * (sx - fx) + ay * (sy - fy), ax * (ex - fx) + ay * (ey - fy)
    count = max(1, int(math.ceil(abs(t1 - t0) / math.sqrt(8.0 * p * tol))))
    if at >= 0:
        for i in range(count + 1):
            t = t0 + (t1 - t0) * i / count
            r = (t * t + p * p) / (2.0 * p)
            out[at + i, 0] = fx - p * nx + t * ax + r * nx
            out[at + i, 1] = fy - p * ny + t * ay + r * ny
            out[at + i, 2] = r
    return count + 1


@numba.njit(cache=True, nogil=True)
def _between_points(a: Any, b: Any, sx: float, sy: float, ex: float, ey: float, tol: float, out: Any, at: int) -> Any:
    """A straight edge whose r is a square root, split so that a straight r strays by at most tol."""
    ax, ay = a[0, 0], a[0, 1]
    h = 0.5 * math.hypot(b[0, 0] - ax, b[0, 1] - ay)
    mx, my = 0.5 * (ax + b[0, 0]), 0.5 * (ay + b[0, 1])
    length = math.hypot(ex - sx, ey - sy)
    if length == 0.0 or h < 1e-9:
        return _straight(a, sx, sy, ex, ey, out, at)
    wx, wy = (ex - sx) / length, (ey - sy) / length
    s0 = wx * (sx - mx) + wy * (sy - my)
    u0, u1 = math.asinh(s0 / h), math.asinh((s0 + length) / h)
    least = h if u0 * u1 <= 0.0 else h * math.cosh(min(abs(u0), abs(u1)))
    count = max(1, int(math.ceil((u1 - u0) * h / math.sqrt(8.0 * tol * least))))
    if at >= 0:
        for i in range(count + 1):
            s = h * math.sinh(u0 + (u1 - u0) * i / count)
            out[at + i, 0], out[at + i, 1] = sx + (s - s0) * wx, sy + (s - s0) * wy
            out[at + i, 2] = math.hypot(s, h)
    return count + 1


@numba.njit(cache=True, nogil=True)
def edge_points(
    vertices: Any, edges: Any, linear: Any, is_point: Any, site: Any, tol: float, first: Any, out: Any, fill: bool
) -> None:
    """Points of every edge. Without fill only first (e + 1,) is set, so that out can be made as long as it says."""
    at = 0
    for row in range(edges.shape[0]):
        first[row] = at
        s, e, ca, cb = edges[row, 0], edges[row, 1], edges[row, 2], edges[row, 3]
        sx, sy, ex, ey = vertices[s, 0], vertices[s, 1], vertices[e, 0], vertices[e, 1]
        a, b = site[ca], site[cb]
        where = at if fill else -1
        if is_point[ca] and is_point[cb]:
            at += _between_points(a, b, sx, sy, ex, ey, tol, out, where)
        elif is_point[ca] and not linear[row]:
            at += _parabola(a, b, sx, sy, ex, ey, tol, out, where)
        elif is_point[cb] and not linear[row]:
            at += _parabola(b, a, sx, sy, ex, ey, tol, out, where)
        else:
            at += _straight(b if is_point[ca] else a, sx, sy, ex, ey, out, where)
    first[edges.shape[0]] = at


@numba.njit(cache=True, nogil=True)
def lengths(points: Any, first: Any, out: Any) -> None:
    """Length of each edge in plan."""
    for i in range(out.shape[0]):
        total = 0.0
        for j in range(first[i], first[i + 1] - 1):
            total += math.hypot(points[j + 1, 0] - points[j, 0], points[j + 1, 1] - points[j, 1])
        out[i] = total


@numba.njit(cache=True, nogil=True)
def _meeting(ends: Any, nodes: int) -> tuple[Any, Any]:
    """Rows of edges that meet at each node: rows[start[n]:start[n + 1]], in the order of the edges."""
    start = np.zeros(nodes + 1, np.int64)
    for row in range(ends.shape[0]):
        start[ends[row, 0] + 1] += 1
        if ends[row, 1] != ends[row, 0]:
            start[ends[row, 1] + 1] += 1
    for n in range(nodes):
        start[n + 1] += start[n]
    fill = start[:-1].copy()
    rows = np.empty(start[nodes], np.int64)
    for row in range(ends.shape[0]):
        s, e = ends[row, 0], ends[row, 1]
        rows[fill[s]] = row
        fill[s] += 1
        if e != s:
            rows[fill[e]] = row
            fill[e] += 1
    return start, rows


@numba.njit(cache=True, nogil=True)
def _in_order(ends: Any, nodes: int) -> Any:
    """Nodes in the order in which the edges name them."""
    seen = np.zeros(nodes, np.bool_)
    order = np.empty(nodes, np.int64)
    count = 0
    for row in range(ends.shape[0]):
        for side in range(2):
            n = ends[row, side]
            if not seen[n]:
                seen[n] = True
                order[count] = n
                count += 1
    return order[:count]


@numba.njit(cache=True, nogil=True)
def prune(ends: Any, nodes: int, points: Any, first: Any, length: Any, tol: float, gone: Any) -> None:
    """Peel leaves: a branch goes while (length + r at its leaf - r at its node) <= tol. gone: bool (e,)."""
    start, rows = _meeting(ends, nodes)
    radius = np.zeros(nodes)
    left = np.zeros(nodes, np.int64)
    for row in range(ends.shape[0] - 1, -1, -1):  # the first edge to name a node has the last word
        radius[ends[row, 1]] = points[first[row + 1] - 1, 2]
        radius[ends[row, 0]] = points[first[row], 2]
    for n in range(nodes):
        left[n] = start[n + 1] - start[n]
    reach = radius.copy()
    stack = np.empty(ends.shape[0] + nodes + 1, np.int64)
    depth = 0
    for n in _in_order(ends, nodes):
        if left[n] == 1:
            stack[depth] = n
            depth += 1
    while depth > 0:
        depth -= 1
        leaf = stack[depth]
        if left[leaf] != 1:
            continue
        row = -1
        for i in range(start[leaf], start[leaf + 1]):
            if not gone[rows[i]]:
                row = rows[i]
        node = ends[row, 1] if ends[row, 0] == leaf else ends[row, 0]
        would = reach[leaf] + length[row]
        if node == leaf or would - radius[node] > tol:
            continue
        gone[row] = True
        left[leaf] -= 1
        left[node] -= 1
        reach[node] = max(reach[node], would)
        if left[node] == 1:
            stack[depth] = node
            depth += 1


LEVEL = 1e-9  # two ways whose cosines differ by less are as straight ahead; the first is taken


@numba.njit(cache=True, nogil=True)
def trails(ends: Any, nodes: int, points: Any, first: Any, order: Any, turned: Any, begins: Any) -> int:
    """Every edge once, joined end to end, straight ahead where it can. Gives how many runs.

    order, turned: (e,) filled with edges as they follow and whether each is walked from its second end; begins:
    bool (e,), true where a run begins.
    """
    start, rows = _meeting(ends, nodes)
    used = np.zeros(ends.shape[0], np.bool_)
    named = _in_order(ends, nodes)
    put, runs = 0, 0
    for turn in range(2):  # odd nodes first, then whatever is left
        for origin in named:
            if turn == 0 and (start[origin + 1] - start[origin]) % 2 == 0:
                continue
            while True:
                free = False
                for i in range(start[origin], start[origin + 1]):
                    free = free or not used[rows[i]]
                if not free:
                    break
                node, hx, hy, heading = origin, 0.0, 0.0, False
                begins[put] = True
                runs += 1
                while True:
                    best, best_turn = -1, -2.0
                    for i in range(start[node], start[node + 1]):
                        row = rows[i]
                        if used[row]:
                            continue
                        a, b = first[row], first[row] + 1
                        if ends[row, 0] != node:
                            a, b = first[row + 1] - 1, first[row + 1] - 2
                        wx, wy = points[b, 0] - points[a, 0], points[b, 1] - points[a, 1]
                        far = math.hypot(wx, wy)
                        ahead = 0.0 if not heading or far == 0.0 else (hx * wx + hy * wy) / far
                        if ahead > best_turn + LEVEL:
                            best, best_turn = row, ahead
                    if best < 0:
                        break
                    used[best] = True
                    order[put], turned[put] = best, ends[best, 0] != node
                    a, b = first[best + 1] - 2, first[best + 1] - 1
                    if turned[put]:
                        a, b = first[best] + 1, first[best]
                    put += 1
                    wx, wy = points[b, 0] - points[a, 0], points[b, 1] - points[a, 1]
                    far = math.hypot(wx, wy)
                    if far > 0.0:
                        hx, hy, heading = wx / far, wy / far, True
                    node = ends[best, 1] if ends[best, 0] == node else ends[best, 0]
    return runs


@numba.njit(cache=True, nogil=True)
def laid_out(points: Any, first: Any, order: Any, turned: Any, begins: Any, out: Any, run_first: Any) -> int:
    """Points of runs one after another, joints once. run_first: (runs + 1,). Gives how many points."""
    put, run = 0, 0
    for k in range(order.shape[0]):
        row = order[k]
        a, b = first[row], first[row + 1]
        skip = 0 if begins[k] else 1
        if begins[k]:
            run_first[run] = put
            run += 1
        for i in range(skip, b - a):
            j = b - 1 - i if turned[k] else a + i
            out[put, 0], out[put, 1], out[put, 2] = points[j, 0], points[j, 1], points[j, 2]
            put += 1
    run_first[run] = put
    return put


@numba.njit(cache=True, nogil=True)
def thin_out(points: Any, first: int, last: int, tol: float, keep: Any) -> None:
    """Mark what stays of points first to last, the rest passing within tol in x, y and r together.

    Douglas and Peucker's rule (1973), on an explicit stack.
    """
    stack = np.empty((last - first + 2, 2), np.int64)
    stack[0, 0], stack[0, 1] = first, last
    depth = 1
    keep[first] = keep[last] = True
    while depth > 0:
        depth -= 1
        a, b = stack[depth, 0], stack[depth, 1]
        cx, cy, cr = points[b, 0] - points[a, 0], points[b, 1] - points[a, 1], points[b, 2] - points[a, 2]
        square = cx * cx + cy * cy + cr * cr
        worst, where = tol * tol, -1
        for i in range(a + 1, b):
            px, py, pr = points[i, 0] - points[a, 0], points[i, 1] - points[a, 1], points[i, 2] - points[a, 2]
            t = 0.0
            if square > 0.0:
                t = min(1.0, max(0.0, (px * cx + py * cy + pr * cr) / square))
            ox, oy, oz = px - t * cx, py - t * cy, pr - t * cr
            stray = ox * ox + oy * oy + oz * oz
            if stray > worst:
                worst, where = stray, i
        if where >= 0:
            keep[where] = True
            stack[depth, 0], stack[depth, 1] = a, where
            stack[depth + 1, 0], stack[depth + 1, 1] = where, b
            depth += 2


@numba.njit(cache=True, nogil=True)
def fill(edges: Any, x0: float, y0: float, cell: float, mask: Any) -> None:
    """Set the cells inside outlines, even-odd. edges: (n, 4) from x, y to x, y; mask: bool (rows, columns), false."""
    rows, columns = mask.shape
    for k in range(edges.shape[0]):
        ax, ay, bx, by = edges[k, 0], edges[k, 1], edges[k, 2], edges[k, 3]
        if ay == by:
            continue
        low, high = min(ay, by), max(ay, by)
        j0 = max(0, int(math.ceil((low - y0) / cell)))
        j1 = min(rows - 1, int(math.ceil((high - y0) / cell)) - 1)
        for j in range(j0, j1 + 1):
            x = ax + (y0 + j * cell - ay) * (bx - ax) / (by - ay)
            i = int(math.ceil((x - x0) / cell))
            if i < columns:  # everything to the right of a crossing turns over
                mask[j, max(i, 0)] ^= True
    for j in range(rows):
        within = False
        for i in range(columns):
            within ^= mask[j, i]
            mask[j, i] = within


@numba.njit(cache=True, nogil=True)
def begun_near(ring: Any, x: float, y: float, out: Any) -> Any:
    """A closed ring (n, 2) begun at its place nearest to x, y: written to out (n + 1, 2), the first point repeated; gives how many points
    and how far that place is."""
    best, where, at_x, at_y = math.inf, 0, ring[0, 0], ring[0, 1]
    for i in range(len(ring) - 1):
        dx, dy = ring[i + 1, 0] - ring[i, 0], ring[i + 1, 1] - ring[i, 1]
        square = dx * dx + dy * dy
        t = 0.0 if square == 0.0 else min(1.0, max(0.0, ((x - ring[i, 0]) * dx + (y - ring[i, 1]) * dy) / square))
        px, py = ring[i, 0] + t * dx, ring[i, 1] + t * dy
        far = (px - x) ** 2 + (py - y) ** 2
        if far < best:
            best, where, at_x, at_y = far, i, px, py
    out[0, 0], out[0, 1] = at_x, at_y
    count, last = 1, len(ring) - 1
    for k in range(last):
        i = where + 1 + k
        i = i - last if i >= last else i
        if abs(ring[i, 0] - out[count - 1, 0]) > 1e-9 or abs(ring[i, 1] - out[count - 1, 1]) > 1e-9:
            out[count, 0], out[count, 1] = ring[i, 0], ring[i, 1]
            count += 1
    if count > 1 and (abs(at_x - out[count - 1, 0]) > 1e-9 or abs(at_y - out[count - 1, 1]) > 1e-9):
        out[count, 0], out[count, 1] = at_x, at_y
        count += 1
    return count, math.sqrt(best)


def warm() -> None:
    """Compile, or load the compiled kernels."""
    ends, first = np.array([[0, 1]]), np.array([0, 2])
    points, flags = np.array([[0.0, 0.0, 1.0], [1.0, 0.0, 1.0]]), np.zeros(1, np.bool_)
    site = np.array([[[0.0, 0.0], [1.0, 0.0]], [[0.0, 2.0], [1.0, 2.0]]])
    flat = np.array([[0.0, 1.0], [1.0, 1.0]])
    edges = np.array([[0, 1, 0, 1]])
    edge_points(flat, edges, ~flags, np.zeros(2, np.bool_), site, 0.1, first, points, True)
    length = np.zeros(1)
    lengths(points, first, length)
    prune(ends, 2, points, first, length, 0.0, np.zeros(1, np.bool_))
    order, turned, begins = np.zeros(1, np.int64), np.zeros(1, np.bool_), np.zeros(1, np.bool_)
    trails(ends, 2, points, first, order, turned, begins)
    laid_out(points, first, order, turned, begins, np.zeros((2, 3)), np.zeros(2, np.int64))
    thin_out(points, 0, 1, 0.1, np.zeros(2, np.bool_))
    fill(np.zeros((1, 4)), 0.0, 0.0, 1.0, np.zeros((2, 2), np.bool_))
    begun_near(np.zeros((2, 2)), 0.0, 0.0, np.zeros((3, 2)))
