# SPDX-License-Identifier: GPL-3.0-or-later
"""The true medial axis of flattened outlines, from the Voronoi diagram of their segments.

Terms: a *site* is a segment of the outline or an end of one; an *edge* lies midway between two sites:
straight between two segments or two points, a parabola between a point and a segment. ``r`` is the
distance to the sites, so a V-bit of half angle a standing there goes r/tan a deep.

Pitfalls kept out here: voronoi vertices on outline corners are inside or outside by rounding, so an
edge's middle is tested, never its ends; r along a point-point edge is a square root, so such edges are
split like parabolas; overlapping or doubled segments spoil the diagram, so areas come in united and are
checked once more after snapping.
"""

from __future__ import annotations

import math
from collections import defaultdict
from dataclasses import dataclass

import numpy as np
import pyvoronoi
import shapely
from numpy.typing import NDArray
from shapely.geometry import MultiPolygon, Polygon

from gatepost.core.geometry.curves import as_multipolygon
from gatepost.core.tolerances import GRID

Array = NDArray[np.float64]


@dataclass(frozen=True)
class MedialAxis:
    """A graph. ends: (e, 2) node numbers; lines: one (m, 3) array of x, y, r an edge, from first end to second;
    sites: (e, 2, 2) the two nearest outline points seen from the middle of each edge."""

    ends: NDArray[np.int64]
    lines: tuple[Array, ...]
    sites: Array


@dataclass(frozen=True)
class _Diagram:
    vertices: Array  # (v, 2)
    edges: NDArray[np.int64]  # (e, 4): start, end, cell, twin's cell
    linear: NDArray[np.bool_]
    is_point: NDArray[np.bool_]  # per cell
    site: Array  # (c, 2, 2) segment ends; a point twice


def snapped(area: MultiPolygon, grid: float = GRID) -> MultiPolygon:
    """The area with its corners on a grid, still valid: segments neither cross nor double."""
    return as_multipolygon(shapely.set_precision(area, grid))


def segments_of(area: MultiPolygon) -> Array:
    """Outline segments of an area, shape (n, 2, 2)."""
    runs: list[Array] = []
    for polygon in area.geoms:
        for ring in [polygon.exterior, *polygon.interiors]:
            points = np.asarray(ring.coords)[:, :2]
            runs.append(np.stack([points[:-1], points[1:]], axis=1))
    return np.concatenate(runs) if runs else np.zeros((0, 2, 2))


def construct(segments: Array, grid: float = GRID) -> pyvoronoi.Pyvoronoi:
    """The library's own construction on snapped segments."""
    diagram = pyvoronoi.Pyvoronoi(round(1.0 / grid))
    for a, b in segments.tolist():
        diagram.AddSegment([a, b])
    diagram.Construct()
    return diagram


def _read(segments: Array) -> _Diagram:
    diagram = construct(segments)
    vertices = np.array([(v.X, v.Y) for v in diagram.GetVertices()]).reshape(-1, 2)
    cells = diagram.GetCells()
    is_point = np.array([c.contains_point for c in cells])
    at_end = np.array([c.source_category == 2 for c in cells])
    site = segments[np.array([c.site for c in cells])].copy()
    site[is_point & at_end, 0] = site[is_point & at_end, 1]
    site[is_point & ~at_end, 1] = site[is_point & ~at_end, 0]
    rows = [(e.start, e.end, e.cell, e.twin, e.is_primary, e.is_linear) for e in diagram.GetEdges()]
    table = np.array(rows, dtype=np.int64).reshape(-1, 6)
    keep = (np.arange(len(table)) < table[:, 3]) & (table[:, 4] == 1) & (table[:, 0] >= 0) & (table[:, 1] >= 0)
    chosen = table[keep]
    edges = np.column_stack([chosen[:, 0], chosen[:, 1], chosen[:, 2], table[chosen[:, 3], 2]])
    return _Diagram(vertices, edges, chosen[:, 5] == 1, is_point, site)


def nearest_on(segment: Array, x: float, y: float) -> tuple[float, float]:
    """The point of a segment (2, 2) nearest to a place."""
    (ax, ay), (bx, by) = segment
    dx, dy = bx - ax, by - ay
    length = dx * dx + dy * dy
    t = 0.0 if length == 0 else min(1.0, max(0.0, ((x - ax) * dx + (y - ay) * dy) / length))
    return ax + t * dx, ay + t * dy


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


def _line(d: _Diagram, row: int, tol: float) -> Array:
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


def medial_axis(area: MultiPolygon, tol: float, prune: float | None = None) -> MedialAxis:
    """The medial axis inside an area.

    area: valid, mm, already flattened. tol: how far a straight piece may stray from the axis and from r, mm.
    prune: a leaf branch goes while what it would still reach is within this of the outline (default tol).
    """
    area = snapped(area)
    segments = segments_of(area)
    if len(segments) < 3:
        return MedialAxis(np.zeros((0, 2), np.int64), (), np.zeros((0, 2, 2)))
    diagram = _read(segments)
    lines = [_line(diagram, row, tol) for row in range(len(diagram.edges))]
    middles = np.array([_middle(line) for line in lines]).reshape(-1, 3)
    shapely.prepare(area)
    inside = np.nonzero(shapely.contains_xy(area, middles[:, 0], middles[:, 1]))[0]
    ends = diagram.edges[inside, :2]
    kept = _pruned(ends, [lines[i] for i in inside], tol if prune is None else prune)
    chosen = inside[kept]
    sites = np.array(
        [[nearest_on(diagram.site[c], *middles[i, :2]) for c in diagram.edges[i, 2:]] for i in chosen]
    ).reshape(-1, 2, 2)
    return MedialAxis(ends[kept], tuple(lines[i] for i in chosen), sites)


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


def trails(axis: MedialAxis) -> list[Array]:
    """Every edge once, joined end to end into as few runs as a simple walk finds; columns x, y, r.

    Walks start at leaves; a run goes on straight ahead where it can. Order is by nearness to the last end.
    """
    at: dict[int, list[int]] = defaultdict(list)
    for row, (s, e) in enumerate(axis.ends.tolist()):
        at[s].append(row)
        at[e].append(row)
    used = np.zeros(len(axis.lines), dtype=bool)
    runs: list[Array] = []
    starts = [n for n, rows in at.items() if len(rows) % 2] + list(at)
    for start in starts:
        while any(not used[r] for r in at[start]):
            runs.append(_walk(axis, at, used, start))
    return runs


def _walk(axis: MedialAxis, at: dict[int, list[int]], used: NDArray[np.bool_], start: int) -> Array:
    node = start
    parts: list[Array] = []
    heading: Array | None = None
    while True:
        best, best_line, best_turn = -1, None, -2.0
        for row in at[node]:
            if used[row]:
                continue
            line = axis.lines[row] if axis.ends[row, 0] == node else axis.lines[row][::-1]
            way = line[1, :2] - line[0, :2]
            length = math.hypot(*way)
            turn = 0.0 if heading is None or length == 0 else float(heading @ way) / length
            if turn > best_turn:
                best, best_line, best_turn = row, line, turn
        if best_line is None:
            return np.vstack([parts[0][:1], *[p[1:] for p in parts]])
        used[best] = True
        parts.append(best_line)
        last = best_line[-1, :2] - best_line[-2, :2]
        length = math.hypot(*last)
        heading = last / length if length > 0 else heading
        s, e = (int(v) for v in axis.ends[best])
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


def outline_distance(area: MultiPolygon | Polygon, x: Array, y: Array) -> Array:
    """Exact distance from places to the outline, mm, shape as x."""
    return np.asarray(shapely.distance(shapely.boundary(area), shapely.points(x, y)))
