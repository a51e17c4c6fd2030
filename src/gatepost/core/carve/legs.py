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


def rings_from(
    polygons: Sequence[Any], within: Any, starts: Sequence[Array], step: float, tol: float, far: float
) -> list[list[Leg]]:
    """Round and round in each of several pieces from its edge inwards, each from where the cutter is then. far: how long a way is at
    the most that joins two rings, mm."""
    roots = _tree(polygons, step, tol, False, False)
    return [_piece(root, within, step + tol, far, here, "outside") for root, here in zip(roots, starts)]


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
        x0, y0, x1, y1 = polygon.bounds
        count = max(1, int(np.ceil((y1 - y0) / step)))
        ys = y0 + (np.arange(count) + 0.5) * (y1 - y0) / count
        lines = shapely.intersection([shapely.linestrings([[x0 - 1, y], [x1 + 1, y]]) for y in ys], polygon)
        found = [[np.asarray(s.coords)[:, :2] for s in shapely.get_parts(one) if s.length > 1e-6] for one in lines]
        here = _back_and_forth(within, found, out, here)
        for ring in _nodes(np.array([polygon]), not climb)[0].rings:
            begun, _ = from_nearest(ring, here)
            out.append(Leg(begun, True, bool(out) and inside(within, here, begun[0])))
            here = begun[-1]
    return out


def _back_and_forth(within: Any, found: list[list[Array]], out: list[Leg], here: Array) -> Array:
    """Rows joined end to end where the way between stays inside; gives where it ends."""
    begun = False
    while any(found):
        k = next(i for i, row in enumerate(found) if row)
        joined = False
        while k < len(found) and found[k]:
            near = [
                min((float(np.hypot(*(e - here))), n, e is s[-1]) for e in (s[0], s[-1]))
                for n, s in enumerate(found[k])
            ]
            _, n, back = min(near)
            row = found[k][n][::-1] if back else found[k][n]
            if joined and not inside(within, here, row[0]):
                break
            out.append(Leg(row, False, joined or (begun and inside(within, here, row[0]))))
            del found[k][n]
            here, joined, begun, k = row[-1], True, True, k + 1
    return here
