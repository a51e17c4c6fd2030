# SPDX-License-Identifier: GPL-3.0-or-later
"""Shifts by which one outline lies in another.

The places where one polygon lies in another are those that no pair of their edges shuts out (Lozano-Pérez, Spatial planning: a configuration space
approach, 1983), all of them at once.
"""

from __future__ import annotations

from typing import Any

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely import affinity

Array = NDArray[np.float64]
HAIR, GRID = 1e-4, 1e-5  # mm: within which two edges touch, and what shifts are counted in
NEARLY = 1e-7  # radians
SOME = 60  # corners
SLACK = 0.25  # mm past its ends at which an edge is touched
SOON, FAR = 1.5, 1.0  # mm within which two may touch, and that no place of a piece is moved farther


def places(piece: Any, hole: Any) -> Any:
    """Shifts by which a piece lies in a hole: an area in mm, empty where there is none. Its edges are shifts by which the two touch; between such
    lines a shift either lets the piece in or does not."""
    (px0, py0, px1, py1), (hx0, hy0, hx1, hy1) = piece.bounds, hole.bounds
    low, high = np.array([hx0 - px0, hy0 - py0]), np.array([hx1 - px1, hy1 - py1])  # as far as the boxes about them go
    if (low >= high).any():
        return shapely.Polygon()
    box = shapely.box(*low, *high)
    lines = shapely.linestrings(_touching(_ring(piece), _ring(hole), low, high))
    lines = shapely.intersection(lines, box)
    net = shapely.union_all(np.append(lines[shapely.length(lines) > 0.0], box.exterior), grid_size=GRID)
    faces = np.asarray(shapely.get_parts(shapely.polygonize(shapely.get_parts(net))))
    faces = faces[shapely.area(faces) > GRID]
    good = faces[_lets_in(shapely.get_coordinates(shapely.point_on_surface(faces)), piece, hole)]
    return shapely.union_all(good) if len(good) else shapely.Polygon()


def _ring(area: Any) -> Array:
    """An outline's corners, anticlockwise, (n, 2)."""
    return np.asarray(shapely.get_coordinates(shapely.orient_polygons(area, exterior_cw=False).exterior))[:-1]


def _touching(a: Array, b: Array, low: Array, high: Array) -> Array:
    """Lines of shifts, (n, 2, 2), by which a piece touches the inside of its hole: a corner of it an edge of that, or an edge of it a corner that stands
    into the hole, each where the edge lies between those beside the corner. a, b: their corners; low, high: shifts that count."""
    found = []
    for corners, edges, into in ((a, b, 1.0), (b, a, -1.0)):
        heading, ahead = _heading(corners), _heading(edges)
        before = np.roll(heading, 1)
        turn = _wrapped(heading - before) * into
        first = before if into > 0 else heading
        far = _wrapped(ahead[None, :] - first[:, None])
        i, j = np.nonzero((turn > 0.0)[:, None] & (far >= -NEARLY) & (far <= turn[:, None] + NEARLY))
        line = np.stack([edges[j] - corners[i], np.roll(edges, -1, axis=0)[j] - corners[i]], axis=1) * into
        near = ((line.min(axis=1) <= high) & (line.max(axis=1) >= low)).all(axis=1)
        found.append(line[near])
    return np.concatenate(found)


def _heading(corners: Array) -> Array:
    """Where each edge goes from its corner, radians."""
    way = np.roll(corners, -1, axis=0) - corners
    return np.asarray(np.arctan2(way[:, 1], way[:, 0]))


def _wrapped(angle: Array) -> Array:
    return (angle + np.pi) % (2.0 * np.pi) - np.pi


def _lets_in(shifts: Array, piece: Any, hole: Any) -> NDArray[np.bool_]:
    """Of each shift, (n, 2), whether the piece lies in the hole by it: some of its corners are asked first, and of what is left all of it."""
    room, corners = hole.buffer(HAIR), _ring(piece)
    shapely.prepare(room)
    good = np.ones(len(shifts), bool)
    for x, y in corners[:: max(1, len(corners) // SOME)]:
        left = np.nonzero(good)[0]
        good[left] = shapely.contains_xy(room, x + shifts[left, 0], y + shifts[left, 1])
    for n in np.nonzero(good)[0]:
        good[n] = room.covers(affinity.translate(piece, *shifts[n]))
    return good


def seated(piece: Any, hole: Any, middle: tuple[float, float], at: tuple[float, float]) -> Array:
    """Corners of all the small moves by which a piece that lies in its hole stays in it, (n, 3): a turn about a middle, degrees, and a shift, mm. at: a shift
    by which it lies there.

    For small turns every touch is a plane: n · (shift + turn × lever) no more than the gap along n, from places of the hole and from corners of the piece. What
    they all leave is a solid, whose corners are the worst there is: what a place is shifted by grows outwards along every line.
    """
    from scipy.spatial import HalfspaceIntersection, QhullError

    here = affinity.translate(piece, *at)
    about = np.array(middle) + at
    ways, gaps = _touches(here, hole)
    places_at = ways[:, 2:]
    n = ways[:, :2]
    lever = n[:, 1] * (places_at[:, 0] - about[0]) - n[:, 0] * (places_at[:, 1] - about[1])
    scale = float(np.hypot(*(places_at - about).T).max(initial=1.0))
    rows = np.column_stack([n, lever / scale, -gaps])
    limits = [[*sign * np.eye(3)[k], -FAR] for k in range(3) for sign in (1.0, -1.0)]
    halfspaces = np.vstack([rows, limits])
    inner = _inside_of(halfspaces)
    corners = np.zeros((1, 3))
    if inner is not None:
        try:
            corners = np.asarray(HalfspaceIntersection(halfspaces, inner).intersections)
        except QhullError:
            corners = inner[None, :]
    corners = corners[np.isfinite(corners).all(axis=1)]
    turn = corners[:, 2] / scale
    # told as a turn about the middle itself, and the shift after it
    return np.column_stack([np.degrees(turn), corners[:, 0] + at[0], corners[:, 1] + at[1]])


def _touches(piece: Any, hole: Any) -> tuple[Array, Array]:
    """Where a piece may touch its hole soon, (n, 4): which way, and at what place; and how far it is from that, mm: its corners against edges of the hole, and its
    edges against corners that stand into the hole. Corners count where they are the foremost."""
    a, b = _ring(piece), _ring(hole)
    ways, gaps = [], []
    for corners, edges, sign in ((a, b, 1.0), (b, a, -1.0)):
        ahead = np.roll(edges, -1, axis=0) - edges
        long = np.maximum(np.hypot(*ahead.T), 1e-12)
        n = np.column_stack([ahead[:, 1], -ahead[:, 0]]) / long[:, None]  # outwards of what the edges are of
        rel = corners[:, None, :] - edges[None, :, :]
        gap = -sign * np.einsum("ijk,jk->ij", rel, n)
        along = np.einsum("ijk,jk->ij", rel, ahead / long[:, None])
        beside = (along > -SLACK) & (along < long[None, :] + SLACK) & (gap > -HAIR) & (gap < SOON)
        for other in (np.roll(corners, 1, axis=0), np.roll(corners, -1, axis=0)):
            beside &= sign * np.einsum("ik,jk->ij", other - corners, n) < HAIR
        p, e = np.nonzero(beside)
        ways.append(np.column_stack([n[e], corners[p]]))
        gaps.append(np.maximum(gap[p, e], 0.0))
    return np.vstack(ways), np.concatenate(gaps)


def _inside_of(halfspaces: Array) -> Array | None:
    """A place well inside all of some half-spaces; nothing where there is none."""
    from scipy.optimize import linprog

    size = np.linalg.norm(halfspaces[:, :3], axis=1)
    found = linprog(
        [0, 0, 0, -1.0],
        A_ub=np.column_stack([halfspaces[:, :3], size]),
        b_ub=-halfspaces[:, 3],
        bounds=[(None, None)] * 3 + [(0.0, None)],
    )
    best = np.asarray(found.x, np.float64) if found.success else np.zeros(4)
    return best[:3] if best[3] > 1e-9 else None
