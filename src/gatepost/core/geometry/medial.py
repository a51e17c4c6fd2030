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

from dataclasses import dataclass
from typing import Any

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry import MultiPolygon, Polygon

from gatepost.core.geometry.curves import as_multipolygon
from gatepost.core.tolerances import GRID

Array = NDArray[np.float64]


@dataclass(frozen=True)
class MedialAxis:
    """A graph. ends: (e, 2) node numbers; points: (n, 3) of x, y, r, edge i having points[first[i]:first[i + 1]] from
    its first end to its second; sites: (e, 2, 2) the two nearest outline points seen from the middle of each edge;
    middles: (e, 3); lengths: (e,) mm in plan."""

    ends: NDArray[np.int64]
    points: Array
    first: NDArray[np.int64]
    sites: Array
    middles: Array
    lengths: Array

    @property
    def lines(self) -> list[Array]:
        """The points of each edge."""
        return np.split(self.points, self.first[1:-1]) if len(self.ends) else []


@dataclass(frozen=True)
class Diagram:
    """The Voronoi diagram of segments: primary edges once each, and what their cells stand for."""

    vertices: Array  # (v, 2)
    edges: NDArray[np.int64]  # (e, 4): start, end, cell, twin's cell
    linear: NDArray[np.bool_]
    is_point: NDArray[np.bool_]  # per cell
    site: Array  # (c, 2, 2) segment ends; a point twice


NOUGHT = 1e-12  # mm


def snapped(area: MultiPolygon, grid: float = GRID) -> MultiPolygon:
    """The area with its corners on a grid, still valid: segments neither cross nor double.

    What is next to nought is made nought first: the library can't place numbers under its smallest normal one.
    """
    plain = shapely.transform(area, lambda c: np.where(np.abs(c) < NOUGHT, 0.0, c))
    return as_multipolygon(shapely.set_precision(plain, grid))


def segments_of(area: MultiPolygon) -> Array:
    """Outline segments of an area, shape (n, 2, 2)."""
    runs: list[Array] = []
    for polygon in area.geoms:
        for ring in [polygon.exterior, *polygon.interiors]:
            points = np.asarray(ring.coords)[:, :2]
            runs.append(np.stack([points[:-1], points[1:]], axis=1))
    return np.concatenate(runs) if runs else np.zeros((0, 2, 2))


def construct(segments: Array, grid: float = GRID) -> Any:
    """The library's own construction on snapped segments."""
    import pyvoronoi

    diagram = pyvoronoi.Pyvoronoi(round(1.0 / grid))
    for a, b in segments.tolist():
        diagram.AddSegment([a, b])
    diagram.Construct()
    return diagram


def read_diagram(segments: Array) -> Diagram:
    """Construct and read out."""
    diagram = construct(segments)
    # one object at a time: a list of all of them sets off the collector, which takes longer than the construction
    points = map(diagram.GetVertex, range(diagram.CountVertices()))
    vertices = np.array([(v.X, v.Y) for v in points]).reshape(-1, 2)
    cells = map(diagram.GetCell, range(diagram.CountCells()))
    told = np.array([(c.contains_point, c.source_category == 2, c.site) for c in cells], np.int64).reshape(-1, 3)
    is_point, at_end = told[:, 0] == 1, told[:, 1] == 1
    site = segments[told[:, 2]].copy()
    site[is_point & at_end, 0] = site[is_point & at_end, 1]
    site[is_point & ~at_end, 1] = site[is_point & ~at_end, 0]
    halves = map(diagram.GetEdge, range(0, diagram.CountEdges(), 2))  # an edge's two halves follow each other
    rows = [(e.start, e.end, e.cell, e.twin, e.is_primary, e.is_linear) for e in halves]
    table = np.array(rows, dtype=np.int64).reshape(-1, 6)
    chosen = table[(table[:, 4] == 1) & (table[:, 0] >= 0) & (table[:, 1] >= 0)]
    twins = np.array([diagram.GetEdge(i).cell for i in chosen[:, 3].tolist()], np.int64)
    edges = np.column_stack([chosen[:, 0], chosen[:, 1], chosen[:, 2], twins])
    return Diagram(vertices, edges, chosen[:, 5] == 1, is_point, site)


def nearest_on(segment: Array, x: float, y: float) -> tuple[float, float]:
    """The point of a segment (2, 2) nearest to a place."""
    (ax, ay), (bx, by) = segment
    dx, dy = bx - ax, by - ay
    length = dx * dx + dy * dy
    t = 0.0 if length == 0 else min(1.0, max(0.0, ((x - ax) * dx + (y - ay) * dy) / length))
    return ax + t * dx, ay + t * dy


def _middles(points: Array, first: NDArray[np.int64]) -> Array:
    """The middle of each edge by number of points."""
    count = np.diff(first)
    after = first[:-1] + count // 2
    before = np.where(count % 2 == 1, after, after - 1)
    return np.asarray(0.5 * (points[before] + points[after]))


def _nearest(site: Array, places: Array) -> Array:
    """nearest_on for many: site (n, 2, 2), places (n, 2)."""
    way = site[:, 1] - site[:, 0]
    square = (way * way).sum(axis=1)
    t = np.clip(((places - site[:, 0]) * way).sum(axis=1) / np.where(square > 0, square, 1.0), 0.0, 1.0)
    return np.asarray(site[:, 0] + t[:, None] * way)


def _picked(points: Array, first: NDArray[np.int64], rows: NDArray[np.int64]) -> tuple[Array, NDArray[np.int64]]:
    """Points of some edges only."""
    count = np.diff(first)[rows]
    new = np.concatenate([[0], np.cumsum(count)])
    index = np.repeat(first[rows] - new[:-1], count) + np.arange(new[-1])
    return points[index], new


def medial_axis(
    area: MultiPolygon, tol: float, prune: float | None = None, segments: Array | None = None
) -> MedialAxis:
    """The medial axis inside an area.

    area: valid, mm, already flattened. tol: how far a straight piece may stray from the axis and from r, mm.
    prune: a leaf branch goes while what it would still reach is within this of the outline (default tol).
    segments: of the outline, on the grid, those that count; r is too large then where others are nearer.
    """
    from gatepost.core.geometry import kernels

    if segments is None:
        area = snapped(area)
        segments = segments_of(area)
    if len(segments) < 3:
        none = np.zeros((0, 3))
        return MedialAxis(
            np.zeros((0, 2), np.int64), none, np.zeros(1, np.int64), np.zeros((0, 2, 2)), none, np.zeros(0)
        )
    d = read_diagram(segments)
    first = np.zeros(len(d.edges) + 1, np.int64)
    kernels.edge_points(d.vertices, d.edges, d.linear, d.is_point, d.site, tol, first, np.zeros((0, 3)), False)
    points = np.empty((int(first[-1]), 3))
    kernels.edge_points(d.vertices, d.edges, d.linear, d.is_point, d.site, tol, first, points, True)
    middles = _middles(points, first)
    shapely.prepare(area)
    rows = np.nonzero(shapely.contains_xy(area, middles[:, 0], middles[:, 1]))[0]
    points, first = _picked(points, first, rows)
    ends = np.ascontiguousarray(d.edges[rows, :2])
    lengths = np.empty(len(rows))
    kernels.lengths(points, first, lengths)
    gone = np.zeros(len(rows), np.bool_)
    kernels.prune(ends, len(d.vertices), points, first, lengths, tol if prune is None else prune, gone)
    kept = np.nonzero(~gone)[0]
    points, first = _picked(points, first, kept)
    middles = middles[rows[kept]]
    sites = np.stack([_nearest(d.site[d.edges[rows[kept], 2 + side]], middles[:, :2]) for side in (0, 1)], axis=1)
    return MedialAxis(ends[kept], points, first, sites, middles, lengths[kept])


def trails(axis: MedialAxis, tol: float = 0.0) -> list[Array]:
    """Every edge once, joined end to end into as few runs as a simple walk finds; columns x, y, r.

    Walks start at leaves; a run goes on straight ahead where it can. tol: points may be left out that the rest pass
    within this of, in x, y and r together.
    """
    from gatepost.core.geometry import kernels

    count = len(axis.ends)
    if count == 0:
        return []
    order, turned, begins = np.empty(count, np.int64), np.empty(count, np.bool_), np.zeros(count, np.bool_)
    nodes, ends = np.unique(axis.ends, return_inverse=True)
    ends = ends.reshape(-1, 2)
    runs = kernels.trails(ends, len(nodes), axis.points, axis.first, order, turned, begins)
    points, first = np.empty_like(axis.points), np.empty(runs + 1, np.int64)
    total = kernels.laid_out(axis.points, axis.first, order, turned, begins, points, first)
    if tol <= 0.0:
        return [points[a:b].copy() for a, b in zip(first, first[1:])]
    keep = np.zeros(total, np.bool_)
    for a, b in zip(first, first[1:]):
        kernels.thin_out(points, a, b - 1, tol, keep)
    return [points[a:b][keep[a:b]] for a, b in zip(first, first[1:])]


def outline_distance(area: MultiPolygon | Polygon, x: Array, y: Array) -> Array:
    """Exact distance from places to the outline, mm, shape as x."""
    return np.asarray(shapely.distance(shapely.boundary(area), shapely.points(x, y)))
