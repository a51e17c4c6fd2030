# SPDX-License-Identifier: GPL-3.0-or-later
"""Moves that sink a floor: an end mill's, pass by pass, and a V's along its edge. Blank XY, heights above the bed, mm."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
import shapely
from numpy.typing import NDArray

from gatepost.core.carve.depth import steepness
from gatepost.core.carve.legs import Leg
from gatepost.core.carve.lettering import met
from gatepost.core.carve.paths import RAMP_SLOPE
from gatepost.core.carve.trace import Trace
from gatepost.core.job.tool import Tool
from gatepost.core.motion import Moves

Array = NDArray[np.float64]
CLEAR = 2.0  # mm over the wood that a tool hops inside what is being sunk, and from which it is fed down
ABOVE = 0.5  # mm over wood that an earlier pass left
SHORTEST = 0.5  # mm of a ring that is still ramped along; shorter ones are plunged


@dataclass(frozen=True)
class Heights:
    """face: that depths are told from; highest: of the wood; travel: of rapids over all that stands there; home: where a tool comes from;
    hop: an area over which nothing stands that is higher than the wood."""

    face: float
    highest: float
    travel: float
    home: Callable[[Tool], tuple[float, float, float]]
    hop: Any


def floors(highest: float, bottom: float, step: float) -> list[float]:
    """Heights of passes, equal and no deeper than step each, the last at the bottom."""
    count = max(1, math.ceil((highest - bottom) / step - 1e-9))
    return [highest - (highest - bottom) * (i + 1) / count for i in range(count)]


def mill_moves(legs: Sequence[Leg], last: Sequence[Leg], tool: Tool, bottom: float, entry: str, at: Heights) -> Moves:
    """All lines in each pass, deeper each time. last: gone along once more at the bottom, for a clean wall."""
    trace = _begun(tool, at)
    above = at.highest
    down = floors(at.highest, bottom, tool.pass_depth)
    for floor in down:
        _pass(trace, legs, tool, floor, above, entry, at)
        above = floor
    if last:
        _pass(trace, last, tool, bottom, above, entry, at)
    trace.rapid(z=at.travel)
    return trace.moves()


def _begun(tool: Tool, at: Heights) -> Trace:
    home = at.home(tool)
    trace = Trace(*home)
    trace.rapid(z=max(at.travel, home[2]))
    return trace


def _pass(trace: Trace, legs: Sequence[Leg], tool: Tool, floor: float, above: float, entry: str, at: Heights) -> None:
    """One pass. above: how high the wood stands there at the most."""
    for leg in legs:
        if leg.joined:
            trace.run(_flat(leg.points, floor), tool.feed)
            continue
        ramp, rest = _entry(leg, tool, floor, above, entry)
        _hop(trace, ramp[0], at)
        trace.rapid(z=above + (CLEAR if above >= at.highest else ABOVE))
        trace.run(ramp[:1], tool.plunge)
        trace.run(ramp[1:], tool.feed)
        trace.run(rest, tool.feed)


def _flat(points: Array, z: float) -> Array:
    return np.column_stack([points, np.full(len(points), z)])


def _hop(trace: Trace, to: Array, at: Heights) -> None:
    """Over to a place: low where all the way lies over what is being sunk, else over everything."""
    here = trace.here
    if abs(here[0] - to[0]) < 1e-9 and abs(here[1] - to[1]) < 1e-9:
        return
    low = here[2] < at.travel and shapely.covers(at.hop, shapely.linestrings([here[:2], to[:2]]))
    trace.rapid(z=at.highest + CLEAR if low else at.travel)
    trace.rapid(x=float(to[0]), y=float(to[1]))


def _entry(leg: Leg, tool: Tool, floor: float, above: float, entry: str) -> tuple[Array, Array]:
    """The way down into a line, whose first point is straight below, and the line from where that ends."""
    points = leg.points
    size = np.hypot(*np.diff(points, axis=0).T)
    length = float(size.sum())
    deep = above - floor
    if (entry == "plunge" and tool.centre_cutting) or length < SHORTEST or deep <= 1e-9:
        return _flat(points[:1], floor), _flat(points[1:], floor)
    run = deep / RAMP_SLOPE
    if entry == "helix" and leg.closed:
        turn = _helix(points, tool, floor, above)
        if turn is not None:
            return turn, _flat(points, floor)
    lap = points if leg.closed else np.vstack([points, points[-2::-1]])
    laps = max(1, math.ceil(run / (length * (1.0 if leg.closed else 2.0))))
    way = np.vstack([lap, *([lap[1:]] * (laps - 1))])
    along = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(way, axis=0).T))])
    n = int(np.searchsorted(along, run))
    end = np.array([np.interp(run, along, way[:, 0]), np.interp(run, along, way[:, 1])])
    down = np.column_stack([np.vstack([way[:n], end]), above - np.append(along[:n], run) * RAMP_SLOPE])
    down[-1, 2] = floor
    if not leg.closed:  # back to its beginning, then all along it
        return down, _flat(np.vstack([_back(points, along[-1], laps, run), points]), floor)
    at = run - length * math.floor(run / length)
    own = np.concatenate([[0.0], np.cumsum(size)])
    k = int(np.searchsorted(own, at, side="right"))
    rest = np.vstack([points[k:], points[1:k], end]) if k < len(points) else np.vstack([points[1:], end])
    return down, _flat(rest, floor)


def _back(points: Array, whole: float, laps: int, run: float) -> Array:
    """From where a ramp along an open line ends to the line's beginning."""
    own = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(points, axis=0).T))])
    length = float(own[-1])
    at = run % (2.0 * length)
    at = at if at <= length else 2.0 * length - at
    return points[own < at][::-1]


def _helix(points: Array, tool: Tool, floor: float, above: float) -> Array | None:
    """Down on a round inside a ring; nothing where none fits."""
    inner = shapely.maximum_inscribed_circle(shapely.Polygon(points), tolerance=0.01)
    (x, y), edge = np.asarray(inner.coords)
    radius = min(0.45 * tool.diameter, float(inner.length))
    if radius < 0.1 * tool.diameter or not tool.diameter:
        return None
    turns = (above - floor) / RAMP_SLOPE / (2.0 * math.pi * radius)
    begin = math.atan2(points[0, 1] - y, points[0, 0] - x)
    angle = begin + np.linspace(-2.0 * math.pi * turns, 2.0 * math.pi, max(8, math.ceil(36 * (turns + 1))) + 1)
    z = np.maximum(floor, floor - np.minimum(angle - begin, 0.0) * radius * RAMP_SLOPE)
    out = np.column_stack([x + radius * np.cos(angle), y + radius * np.sin(angle), z])
    ring = shapely.Polygon(points)
    if not ring.buffer(1e-6).covers(shapely.linestrings([out[-1, :2], points[0]])):
        return None
    return out


def slope_moves(runs: Sequence[Array], vee: Tool, depth: float, at: Heights) -> Moves:
    """A V along runs (x, y, r), in passes no deeper than it takes at once."""
    trace = _begun(vee, at)
    steep = steepness(vee)
    above = at.face
    runs = [met(r, vee.tip / 2.0) for r in runs] if vee.tip > 0.0 else runs
    for level in floors(at.face, at.face - depth, vee.pass_depth):
        z = [np.maximum(at.face - np.maximum(r[:, 2] - vee.tip / 2.0, 0.0) * steep, level) for r in runs]
        todo = [np.column_stack([r[:, :2], h]) for r, h in zip(runs, z) if h.min() < above - 1e-9]
        for run in _nearest_next(todo, trace.here[:2]):
            _hop(trace, run[0], at)
            trace.rapid(z=at.highest + CLEAR)
            trace.run(run[:1], vee.plunge)
            trace.run(run[1:], vee.feed)
        above = level
    trace.rapid(z=at.travel)
    return trace.moves()


def _nearest_next(runs: Sequence[Array], here: Array) -> list[Array]:
    """Each run after the one that ends nearest, turned where that is nearer; what begins deep is turned too where its other end is not."""
    if not runs:
        return []
    starts = np.array([r[0, :2] for r in runs])
    ends = np.array([r[-1, :2] for r in runs])
    left = np.ones(len(runs), bool)
    out: list[Array] = []
    for _ in runs:
        a = np.where(left, ((starts - here) ** 2).sum(axis=1), np.inf)
        b = np.where(left, ((ends - here) ** 2).sum(axis=1), np.inf)
        i = int(np.argmin(np.minimum(a, b)))
        run = runs[i][::-1] if b[i] < a[i] else runs[i]
        left[i] = False
        out.append(run)
        here = run[-1, :2]
    return out
