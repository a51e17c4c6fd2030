# SPDX-License-Identifier: GPL-3.0-or-later
"""How a cutter's middle goes over all of an area: round and round, or back and forth.

Round and round: each ring is the area shrunk by a step from the one before. Whatever lies between two rings is within a step of the
outer one, so a cutter whose radius is a step or more misses nothing. Back and forth: rows a step apart and the area's own edge; a place
between two rows is within half a step of one of them, or of the edge where that comes between.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
import shapely
from numpy.typing import NDArray

from gatepost.core.geometry.region import pieces

Array = NDArray[np.float64]
TOUCH = 1e-3  # mm by which a way between two lines may leave an area


@dataclass(frozen=True)
class Leg:
    """A line that is fed along, (n, 2). closed: whether it is a ring; joined: whether it is fed straight to from the end of the one before."""

    points: Array
    closed: bool
    joined: bool


def from_nearest(ring: Array, here: Array) -> tuple[Array, float]:
    """A closed ring begun at its place that is nearest to another, (n, 2), its first point repeated, and how far that is."""
    from gatepost.core.geometry import kernels

    out = np.empty((len(ring) + 1, 2))
    count, far = kernels.begun_near(ring, float(here[0]), float(here[1]), out)
    return out[:count], far


def allowed(region: Any) -> Any:
    """An area made ready to be asked which straight ways stay inside it."""
    out = region.buffer(TOUCH, quad_segs=2)
    shapely.prepare(out)
    return out


def inside(within: Any, a: Array, b: Array) -> bool:
    """Whether the straight way between two places stays inside an area that was made ready."""
    return bool(shapely.covers(within, shapely.linestrings([a, b])))


def _polygons(shape: Any) -> list[Any]:
    return [p for p in shapely.get_parts(shape) if p.geom_type == "Polygon" and not p.is_empty]


@dataclass
class _Node:
    """A piece of the area, or of what stays of it some steps inside. rings: its outlines, the way they are gone round."""

    rings: list[Array]
    children: list[_Node]


def _tree(polygons: Sequence[Any], step: float, tol: float, outer: bool, inner: bool) -> list[_Node]:
    """Each polygon with what stays of it a step inside, and so on until nothing does. outer, inner: whether the first outline, and those
    further in, are gone round with the clock."""
    level = np.array(polygons, dtype=object)
    roots = _nodes(level, outer)
    nodes, segments = roots, pieces(step, tol)
    while len(level):
        smaller = shapely.simplify(shapely.buffer(level, -step, quad_segs=segments), tol)
        parts, owner = shapely.get_parts(smaller, return_index=True)
        real = (shapely.get_type_id(parts) == 3) & ~shapely.is_empty(parts)
        level, owner = parts[real], owner[real]
        found = _nodes(level, inner)
        for node, i in zip(found, owner.tolist()):
            nodes[i].children.append(node)
        nodes = found
    return roots


def _nodes(polygons: NDArray[Any], clockwise: bool) -> list[_Node]:
    out = [_Node([], []) for _ in polygons]
    if len(polygons):
        lines, owner = shapely.get_rings(shapely.orient_polygons(polygons, exterior_cw=clockwise), return_index=True)
        points, which = shapely.get_coordinates(lines, return_index=True)
        for ring, i in zip(np.split(points, np.nonzero(np.diff(which))[0] + 1), owner.tolist()):
            out[i].rings.append(ring)
    return out


def _from_inside(node: _Node) -> list[_Node]:
    """Innermost first, each after all that lies in it."""
    out: list[_Node] = []
    todo = [node]
    while todo:
        one = todo.pop()
        out.append(one)
        todo += one.children
    return out[::-1]


def _from_outside(node: _Node) -> list[_Node]:
    out: list[_Node] = []
    todo = [node]
    while todo:
        one = todo.pop()
        out.append(one)
        todo += one.children[::-1]
    return out


def rings(
    region: Any, within: Any, step: float, tol: float, here: Array, start: str = "inside", climb: bool = True
) -> list[Leg]:
    """Round and round in each piece of an area, the nearest piece next. within: where the cutter's middle may be, made ready; step:
    from ring to ring, mm; tol: by which rings after the first may lie beside it; here: where the cutter comes from."""
    # from outside, each ring after the first has its wood on the inner side
    roots = _tree(_polygons(region), step, tol, not climb, (not climb) if start == "inside" else climb)
    out: list[Leg] = []
    middles = np.array([n.rings[0][0] for n in roots]).reshape(-1, 2)
    left = np.ones(len(roots), bool)
    while left.any():
        far = np.where(left, ((middles - here) ** 2).sum(axis=1), np.inf)
        which = int(np.argmin(far))
        left[which] = False
        out += _piece(roots[which], within, step + tol, 3.0 * step, here, start)
        here = out[-1].points[-1]
    return out


def _piece(root: _Node, within: Any, step: float, far: float, here: Array, start: str) -> list[Leg]:
    out: list[Leg] = []
    for node in _from_inside(root) if start == "inside" else _from_outside(root):
        todo = node.rings
        while todo:
            begun = [from_nearest(r, here) for r in todo]
            i = min(range(len(begun)), key=lambda n: begun[n][1])
            ring, gap = begun[i]
            todo = todo[:i] + todo[i + 1 :]
            # the shortest way from one ring to the next can't leave what lies between them
            joined = bool(out) and gap <= far and (gap <= step + TOUCH or inside(within, here, ring[0]))
            out.append(Leg(ring, True, joined))
            here = ring[-1]
    return out


def rows(region: Any, within: Any, step: float, here: Array, climb: bool = True) -> list[Leg]:
    """Back and forth along X in each piece of an area, then round its edge. within: where the cutter's middle may be, made ready."""
    out: list[Leg] = []
    for polygon in _polygons(region):
        here = _back_and_forth(within, _scanned(polygon, step), out, here)
        for ring in _nodes(np.array([polygon]), not climb)[0].rings:
            begun, _ = from_nearest(ring, here)
            out.append(Leg(begun, True, bool(out) and inside(within, here, begun[0])))
            here = begun[-1]
    return out


def _scanned(polygon: Any, step: float) -> list[list[Array]]:
    """Rows of a polygon along X, no farther apart than a step."""
    x0, y0, x1, y1 = polygon.bounds
    count = max(1, int(np.ceil((y1 - y0) / step)))
    apart = (y1 - y0) / count
    found: list[list[Array]] = [[] for _ in range(count)]
    row, ends = crossings(polygon, y0 + 0.5 * apart, apart, count)
    for k, (a, b) in zip(row.tolist(), ends.tolist()):
        if b - a > 1e-6:
            y = y0 + (k + 0.5) * apart
            found[k].append(np.array([[a, y], [b, y]]))
    return found


def crossings(area: Any, first: float, apart: float, count: int) -> tuple[NDArray[np.int64], Array]:
    """Where rows along X lie inside an area: of each stretch its row's number and its ends in X, (n, 2), row by row. first: Y of the first
    row; apart: of one from the next."""
    lines, owner = shapely.get_coordinates(shapely.get_rings(area), return_index=True)
    same = owner[1:] == owner[:-1]
    a, b = lines[:-1][same], lines[1:][same]
    n = len(a)
    return crossed(a, b, np.full(n, first), np.full(n, apart), np.full(n, count), np.zeros(n, np.int64))


def crossed(
    a: Array, b: Array, first: Array, apart: Array, count: NDArray[np.int64], before: NDArray[np.int64]
) -> tuple[NDArray[np.int64], Array]:
    """Where rows along X lie between edges from a to b, (n, 2) each, as ``crossings`` says it. Of each edge: Y of its first row, how far
    apart its rows are, how many they are, and the number of the first."""
    low, high = np.minimum(a[:, 1], b[:, 1]), np.maximum(a[:, 1], b[:, 1])
    begin = np.clip(np.ceil((low - first) / apart), 0, count).astype(np.int64)
    end = np.clip(np.ceil((high - first) / apart), 0, count).astype(
        np.int64
    )  # a row through an upper end belongs to the next edge
    met = end - begin
    edge = np.repeat(np.arange(len(a)), met)
    row = begin[edge] + np.arange(len(edge)) - np.repeat(np.cumsum(met) - met, met)
    t = (first[edge] + row * apart[edge] - a[edge, 1]) / (b[edge, 1] - a[edge, 1])
    x = a[edge, 0] + t * (b[edge, 0] - a[edge, 0])
    row += before[edge]
    order = np.lexsort((x, row))
    return row[order][::2], x[order].reshape(-1, 2)


def _back_and_forth(within: Any, found: list[list[Array]], out: list[Leg], here: Array) -> Array:
    """Rows joined end to end where the way between stays inside; gives where it ends."""
    begun = False
    while any(found):
        k = next(i for i, row in enumerate(found) if row)
        joined = False
        while k < len(found) and found[k]:
            ends = [(float(np.hypot(*(s[end] - here))), n, end) for n, s in enumerate(found[k]) for end in (0, -1)]
            _, n, end = min(ends)
            row = found[k][n][::-1] if end else found[k][n]
            if joined and not inside(within, here, row[0]):
                break
            out.append(Leg(row, False, joined or (begun and inside(within, here, row[0]))))
            del found[k][n]
            here, joined, begun, k = row[-1], True, True, k + 1
    return here
