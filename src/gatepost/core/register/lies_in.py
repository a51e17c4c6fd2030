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
