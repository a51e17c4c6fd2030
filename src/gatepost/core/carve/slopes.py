# SPDX-License-Identifier: GPL-3.0-or-later
"""Where a V goes to slope the edge of a sunk floor: along the edge at full depth, up into corners and gaps along their middle, and line
by line over what no end mill took of the floor."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry import MultiPolygon

from gatepost.core.carve.bands import rows_in
from gatepost.core.carve.legs import allowed
from gatepost.core.carve.lettering import depth_tolerance
from gatepost.core.carve.sink import FLAT, Sink, cusp_step
from gatepost.core.geometry import medial
from gatepost.core.geometry.region import pieces
from gatepost.core.tolerances import AXIS_DEPTH

Array = NDArray[np.float64]
TOGETHER = 0.02  # mm within which a branch of the axis begins on a line that is cut anyway
FAN = 0.1  # radians between places of a round that touches a corner
FAR_FROM_IT = 0.1  # mm more than twice the V's half width
SHORT = 0.2  # mm: a way as short as that along a round about a corner leaves it by next to nothing
FAR = 15.0  # mm that a V is fed over the floor rather than lifted


def runs(sink: Sink, cusp: float, steep: float, times: float = 1.0) -> list[Array]:
    """Lines of a V's middle with the half width it cuts there, (n, 3) of x, y, r. steep: 1/tan(half angle)."""
    whole = [_flat(e, sink.reach) for e in _edges(sink)]
    if times > 1.0:  # a first look does without what only fine work shows
        return whole
    whole, left = _spliced(whole, _branches(sink, steep))
    whole, patches = _patched(whole, sink, cusp)
    return [*whole, *left, *patches]


def _flat(line: Array, r: float) -> Array:
    return np.column_stack([line[:, :2], np.full(len(line), r)])


def _edges(sink: Sink) -> list[Array]:
    polygons = shapely.orient_polygons(sink.middles, exterior_cw=False)
    return [np.asarray(r.coords)[:, :2] for p in polygons.geoms for r in (p.exterior, *p.interiors)]


def _branches(sink: Sink, steep: float) -> list[Array]:
    """The middle of what is narrower than the V at full depth, clipped where it is wider."""
    tol = 0.5 * depth_tolerance(steep, AXIS_DEPTH)
    top = medial.snapped(sink.top)
    axis = medial.medial_axis(top, tol, 2.0 * FLAT, _narrow(top, sink))
    trails = medial.trails(axis, 0.5 * tol)
    if not trails:
        return []
    runs = [piece for run in trails for piece in clipped(run, sink.reach)]
    walls = medial.segments_of(top)
    shapely.prepare(top)
    good: list[Array] = []
    for share in (
        0.25,
        0.02,
    ):  # of the V's half width from point to point: finer where something else is nearer somewhere
        runs = [_dense(run, share * sink.reach) for run in runs]
        if not runs:
            break
        points = np.vstack(runs)
        near = _near(walls, points[:, :2])
        inside = shapely.intersects_xy(top, points[:, 0], points[:, 1]) | (near <= FLAT)
        right = inside & (points[:, 2] <= near + FLAT + 2.0 * tol)  # as far from a wall on its other side is no middle
        ends = np.cumsum([len(t) for t in runs])[:-1]
        told = list(zip(runs, np.split(right, ends)))
        good += [run for run, holds in told if holds.all()]
        told = [(run, holds) for run, holds in told if not holds.all()]
        runs = [run for run, _ in told]
        if share < 0.1:
            good += [piece for run, holds in told for piece in _stretches(run, holds)]
    return good


def _dense(run: Array, step: float) -> Array:
    """A run with points no farther apart than a step."""
    count = np.maximum(1, np.ceil(np.hypot(*np.diff(run[:, :2], axis=0).T) / step).astype(int))
    if count.max(initial=1) == 1:
        return run
    at = np.concatenate([[0.0], *(i + np.arange(1, n + 1) / n for i, n in enumerate(count.tolist()))])
    return np.column_stack([np.interp(at, np.arange(len(run)), run[:, k]) for k in range(3)])


def _near(segments: Array, places: Array) -> Array:
    """How far places are from the nearest of some segments."""
    tree = shapely.STRtree(shapely.linestrings(segments))
    at, far = tree.query_nearest(shapely.points(places), return_distance=True, all_matches=False)
    out = np.full(len(places), np.inf)
    out[at[0]] = far
    return out


def _stretches(run: Array, good: NDArray[np.bool_]) -> list[Array]:
    """Parts of a run that hold, of two points at least."""
    if good.all():
        return [run]
    edges = np.nonzero(np.diff(np.concatenate([[False], good, [False]]).astype(np.int8)))[0].reshape(-1, 2)
    return [run[a:b] for a, b in edges if b - a > 1]


def _narrow(top: MultiPolygon, sink: Sink) -> Array:
    """The outline's segments beside which a V at full depth does not fit everywhere: those near a corner at which some V that touches it
    would not stand where it may. Where two walls come too near to each other one of them has such a corner there; and a place that is
    nearer to the outline than the V needs has its nearest places on such walls, else a V touching there would cover it."""
    segments = medial.segments_of(top)
    if sink.middles.is_empty:
        return segments
    touching, corner = _touching(top, sink.reach)
    may = sink.middles.buffer(0.5 * FLAT, quad_segs=2)
    shapely.prepare(may)
    corners = np.unique(corner[~shapely.contains_xy(may, touching[:, 0], touching[:, 1])], axis=0)
    if not len(corners):
        return segments[:0]
    tree = shapely.STRtree(shapely.linestrings(segments))
    near = tree.query(shapely.points(corners), predicate="dwithin", distance=2.0 * sink.reach + FAR_FROM_IT)
    return np.asarray(segments[np.unique(near[1])])


def _touching(top: MultiPolygon, reach: float) -> tuple[Array, Array]:
    """Where a round of a radius stands that touches a corner, square to the edges beside it and in between, and of each the corner."""
    places: list[Array] = []
    corners: list[Array] = []
    for polygon in shapely.orient_polygons(top, exterior_cw=False).geoms:
        for ring in (polygon.exterior, *polygon.interiors):
            points = np.asarray(ring.coords)[:-1, :2]
            way = np.roll(points, -1, axis=0) - points
            heading = np.arctan2(way[:, 1], way[:, 0]) + 0.5 * np.pi  # of the normal to the left, where the floor is
            before = np.roll(heading, 1)
            turn = (heading - before + np.pi) % (2.0 * np.pi) - np.pi
            count = np.maximum(2, np.ceil(np.abs(turn) / FAN).astype(int) + 1)
            which = np.repeat(np.arange(len(points)), count)
            first = np.repeat(np.cumsum(count) - count, count)
            step = (np.arange(len(which)) - first) / (count[which] - 1)
            angle = before[which] + step * turn[which]
            places.append(points[which] + reach * np.column_stack([np.cos(angle), np.sin(angle)]))
            corners.append(points[which])
    return np.vstack(places), np.vstack(corners)


def clipped(run: Array, most: float) -> list[Array]:
    """Stretches of a run of axis (x, y, r) where r is no more than a limit, each cut where it passes that."""
    r = run[:, 2]
    if r.max() <= most:
        return [run]
    under = r <= most
    if not under.any():
        return []
    out: list[Array] = []
    change = np.nonzero(under[1:] != under[:-1])[0]
    cuts = np.concatenate([[-1], change, [len(run) - 1]])
    for a, b in zip(cuts[:-1] + 1, cuts[1:]):
        if not under[a]:
            continue
        piece = run[a : b + 1]
        if a > 0:
            piece = np.vstack([_at(run[a - 1], run[a], most), piece])
        if b < len(run) - 1:
            piece = np.vstack([piece, _at(run[b], run[b + 1], most)])
        if len(piece) > 1:
            out.append(piece)
    return out


def _at(a: Array, b: Array, r: float) -> Array:
    t = (r - a[2]) / (b[2] - a[2])
    return np.asarray((a + t * (b - a))[None])


def _nearest_of(places: Array, asked: Array) -> tuple[Array, NDArray[np.int64]]:
    """How far each of some places is from the nearest of others, and which that is."""
    from scipy.spatial import cKDTree

    far, near = cKDTree(places).query(asked)
    return np.asarray(far), np.asarray(near, np.int64)


def _spliced(lines: list[Array], branches: Sequence[Array]) -> tuple[list[Array], list[Array]]:
    """Branches taken out and back from the line that they begin on; those that begin on none, with what begins on them."""
    done = list(lines)
    left = list(branches)
    first = len(done)
    while left and done:
        places = np.vstack([d[:, :2] for d in done])
        owner = np.repeat(np.arange(len(done)), [len(d) for d in done])
        at = np.concatenate([np.arange(len(d)) for d in done])
        ends = np.vstack([[b[0, :2], b[-1, :2]] for b in left])
        far, near = _nearest_of(places, ends)
        detours: dict[int, list[tuple[int, Array]]] = {}
        rest: list[Array] = []
        for i, branch in enumerate(left):
            mine = [(far[2 * i + k], k) for k in (0, 1) if far[2 * i + k] <= TOGETHER]
            if not mine:
                rest.append(branch)
                continue
            k = min(mine)[1]
            which = int(near[2 * i + k])
            detours.setdefault(int(owner[which]), []).append((int(at[which]), branch[::-1] if k else branch))
        if not detours:
            break
        for line, taken in detours.items():
            done[line] = _with(done[line], [(n, np.vstack([way, way[-2::-1]])) for n, way in taken])
        left = rest
    return done[:first], left


def _patched(lines: list[Array], sink: Sink, cusp: float) -> tuple[list[Array], list[Array]]:
    """Rows over what no end mill took, taken out and back from the line that they lie on where the way back stays over the floor; and
    those that lie on none. A place between two rows is within half their distance of one of them, or of the edge, which is cut anyway."""
    if sink.vee is None or sink.rest.is_empty or not lines:
        return lines, []
    reach = cusp_step(sink.vee, cusp)
    region = sink.middles.intersection(sink.rest.buffer(reach, quad_segs=pieces(reach, 0.005)))
    polygons = [p for p in shapely.get_parts(region) if p.geom_type == "Polygon"]
    if not polygons:
        return lines, []
    owner = np.repeat(np.arange(len(lines)), [len(d) for d in lines])
    at = np.concatenate([np.arange(len(d)) for d in lines])
    deep = np.concatenate([d[:, 2] for d in lines]) >= sink.reach - 1e-9
    owner, at, places = owner[deep], at[deep], np.vstack([d[:, :2] for d in lines])[deep]
    within = allowed(sink.middles)
    chains = [chain for chain in rows_in(polygons, within, 2.0 * reach, SHORT, FAR) if chain]
    ends = np.array([[chain[0][0], chain[0][-1]] for chain in chains]).reshape(-1, 2, 2)
    far, near = (v.reshape(-1, 2) for v in _nearest_of(places, ends.reshape(-1, 2)))
    by = np.arange(len(ends)), (far[:, 0] > far[:, 1]).astype(int)  # the end that is nearer to a line
    ways = np.stack([ends, np.repeat(places[near[by]][:, None], 2, axis=1)], axis=2)
    joins = (far[by] <= FAR) & shapely.covers(within, shapely.linestrings(ways)).all(axis=1)
    detours: dict[int, list[tuple[int, Array]]] = {}
    left = [_flat(c, sink.reach) for chain in chains for c in chain[1:]]
    for (first, *_), back, which, joined in zip(chains, by[1], near[by].tolist(), joins.tolist()):
        way = _flat(first[::-1] if back else first, sink.reach)
        if joined:
            detours.setdefault(int(owner[which]), []).append((int(at[which]), way))
        else:
            left.append(way)  # lifted out of, and fed down into
    return [_with(line, detours.get(i, [])) for i, line in enumerate(lines)], left


def _with(line: Array, detours: Sequence[tuple[int, Array]]) -> Array:
    """A line with ways out from places of it, and back to them."""
    out: list[Array] = []
    begun = 0
    for at, way in sorted(detours, key=lambda d: d[0]):
        out += [line[begun : at + 1], way, line[at : at + 1]]
        begun = at + 1
    return np.vstack([*out, line[begun:]])
