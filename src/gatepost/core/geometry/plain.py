# SPDX-License-Identifier: GPL-3.0-or-later
"""The medial axis written plainly, edge by edge: the reference that the compiled kernels are held against."""

from __future__ import annotations

import math
from collections import defaultdict

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry import MultiPolygon

from gatepost.core.geometry.medial import Array, Diagram, nearest_on, read_diagram, segments_of, snapped

Graph = tuple[NDArray[np.int64], list[Array]]  # ends of edges, and their points


def _distance(segment: Array, x: float, y: float) -> float:
    px, py = nearest_on(segment, x, y)
    return math.hypot(x - px, y - py)


def _parabola(focus: Array, segment: Array, start: Array, end: Array, tol: float) -> Array:
    """Points of the parabola about a focus and the line of a segment, from start to end; columns x, y, r.

    Chord and straight r both stray by at most L²/(8p) over a piece of length L along the line.
    """
    along = segment[1] - segment[0]
    along = along / math.hypot(*along)
    normal = np.array([-along[1], along[0]])
    p = float(normal @ (focus - segment[0]))
    if p < 0:
        normal, p = -normal, -p
    t0, t1 = float(along @ (start - focus)), float(along @ (end - focus))
    if p < 1e-9:
        return _straight(start, end, segment)
    count = max(1, math.ceil(abs(t1 - t0) / math.sqrt(8.0 * p * tol)))
    t = np.linspace(t0, t1, count + 1)
    r = (t * t + p * p) / (2.0 * p)
    foot = focus - p * normal
    return np.column_stack([foot + t[:, None] * along + r[:, None] * normal, r])


def _between_points(a: Array, start: Array, end: Array, b: Array, tol: float) -> Array:
    """A straight edge between two points, split so that a straight r strays by at most tol."""
    h = 0.5 * math.hypot(*(b - a))
    middle = 0.5 * (a + b)
    span = end - start
    length = math.hypot(*span)
    if length == 0 or h < 1e-9:
        return _straight(start, end, np.array([a, a]))
    way = span / length
    s0 = float(way @ (start - middle))
    u0, u1 = math.asinh(s0 / h), math.asinh((s0 + length) / h)
    least = h if u0 * u1 <= 0 else h * math.cosh(min(abs(u0), abs(u1)))
    count = max(1, math.ceil((u1 - u0) * h / math.sqrt(8.0 * tol * least)))
    s = h * np.sinh(np.linspace(u0, u1, count + 1))
    return np.column_stack([start + (s - s0)[:, None] * way, np.hypot(s, h)])


def _straight(start: Array, end: Array, segment: Array) -> Array:
    return np.array([[*start, _distance(segment, *start)], [*end, _distance(segment, *end)]])


def _line(d: Diagram, row: int, tol: float) -> Array:
    s, e, ca, cb = (int(v) for v in d.edges[row])
    start, end = d.vertices[s], d.vertices[e]
    a, b = d.site[ca], d.site[cb]
    if d.is_point[ca] and d.is_point[cb]:
        return _between_points(a[0], start, end, b[0], tol)
    if d.is_point[ca] and not d.linear[row]:
        return _parabola(a[0], b, start, end, tol)
    if d.is_point[cb] and not d.linear[row]:
        return _parabola(b[0], a, start, end, tol)
    return _straight(start, end, b if d.is_point[ca] else a)


def _middle(line: Array) -> Array:
    if len(line) % 2:
        return np.asarray(line[len(line) // 2])
    return np.asarray(0.5 * (line[len(line) // 2 - 1] + line[len(line) // 2]))


def medial_axis(area: MultiPolygon, tol: float) -> Graph:
    """The medial axis inside an area: node numbers at both ends of each edge, and its points x, y, r."""
    area = snapped(area)
    segments = segments_of(area)
    if len(segments) < 3:
        return np.zeros((0, 2), np.int64), []
    diagram = read_diagram(segments)
    lines = [_line(diagram, row, tol) for row in range(len(diagram.edges))]
    middles = np.array([_middle(line) for line in lines]).reshape(-1, 3)
    shapely.prepare(area)
    inside = np.nonzero(shapely.contains_xy(area, middles[:, 0], middles[:, 1]))[0]
    ends = diagram.edges[inside, :2]
    kept = _pruned(ends, [lines[i] for i in inside], tol)
    return ends[kept], [lines[i] for i in inside[kept]]


def _pruned(ends: NDArray[np.int64], lines: list[Array], tol: float) -> NDArray[np.int64]:
    """Rows kept after peeling leaves: a branch goes while (length + r at its leaf - r at its node) <= tol."""
    at: dict[int, set[int]] = defaultdict(set)
    reach: dict[int, float] = {}
    for row, (s, e) in enumerate(ends.tolist()):
        at[s].add(row)
        at[e].add(row)
        reach.setdefault(s, float(lines[row][0, 2]))
        reach.setdefault(e, float(lines[row][-1, 2]))
    radius = dict(reach)
    lengths = [float(np.hypot(np.diff(x[:, 0]), np.diff(x[:, 1])).sum()) for x in lines]
    gone = np.zeros(len(lines), dtype=bool)
    leaves = [n for n, rows in at.items() if len(rows) == 1]
    while leaves:
        leaf = leaves.pop()
        if len(at[leaf]) != 1:
            continue
        (row,) = at[leaf]
        s, e = (int(v) for v in ends[row])
        node = e if s == leaf else s
        would = reach[leaf] + lengths[row]
        if node == leaf or would - radius[node] > tol:
            continue
        gone[row] = True
        at[leaf].clear()
        at[node].discard(row)
        reach[node] = max(reach[node], would)
        if len(at[node]) == 1:
            leaves.append(node)
    return np.nonzero(~gone)[0]


def trails(graph: Graph) -> list[Array]:
    """Every edge once, joined end to end into as few runs as a simple walk finds; columns x, y, r.

    Walks start at leaves; a run goes on straight ahead where it can. Order is by nearness to the last end.
    """
    at: dict[int, list[int]] = defaultdict(list)
    for row, (s, e) in enumerate(graph[0].tolist()):
        at[s].append(row)
        at[e].append(row)
    used = np.zeros(len(graph[1]), dtype=bool)
    runs: list[Array] = []
    starts = [n for n, rows in at.items() if len(rows) % 2] + list(at)
    for start in starts:
        while any(not used[r] for r in at[start]):
            runs.append(_walk(graph, at, used, start))
    return runs


def _walk(graph: Graph, at: dict[int, list[int]], used: NDArray[np.bool_], start: int) -> Array:
    node = start
    parts: list[Array] = []
    heading: Array | None = None
    while True:
        best, best_line, best_turn = -1, None, -2.0
        for row in at[node]:
            if used[row]:
                continue
            line = graph[1][row] if graph[0][row, 0] == node else graph[1][row][::-1]
            way = line[1, :2] - line[0, :2]
            length = math.hypot(*way)
            turn = 0.0 if heading is None or length == 0 else float(heading @ way) / length
            if turn > best_turn + 1e-9:  # as straight ahead: the first is taken
                best, best_line, best_turn = row, line, turn
        if best_line is None:
            return np.vstack([parts[0][:1], *[p[1:] for p in parts]])
        used[best] = True
        parts.append(best_line)
        last = best_line[-1, :2] - best_line[-2, :2]
        length = math.hypot(*last)
        heading = last / length if length > 0 else heading
        s, e = (int(v) for v in graph[0][best])
        node = e if s == node else s


def simplified(line: Array, tol: float) -> Array:
    """A run of points with those dropped that the rest pass within tol of, in x, y and r together.

    Douglas and Peucker's rule (1973), on an explicit stack; line shape (n, 3).
    """
    keep = np.zeros(len(line), dtype=bool)
    keep[[0, -1]] = True
    stack = [(0, len(line) - 1)]
    while stack:
        first, last = stack.pop()
        if last - first < 2:
            continue
        chord = line[last] - line[first]
        rest = line[first + 1 : last] - line[first]
        length = float(chord @ chord)
        t = np.clip(rest @ chord / length, 0.0, 1.0) if length > 0 else np.zeros(len(rest))
        strays = np.linalg.norm(rest - t[:, None] * chord, axis=1)
        worst = int(np.argmax(strays))
        if strays[worst] > tol:
            middle = first + 1 + worst
            keep[middle] = True
            stack += [(first, middle), (middle, last)]
    return line[keep]
