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


def mill_moves(
    legs: Sequence[Leg], last: Sequence[Leg], tool: Tool, bottom: float, entry: str, at: Heights, within: Any
) -> Moves:
    """All lines in each pass, deeper each time. last: gone along once more at the bottom, for a clean wall; within: where the cutter's
    middle may be, made ready."""
    trace = _begun(tool, at)
    above = at.highest
    down = floors(at.highest, bottom, tool.pass_depth)
    for floor in down:
        _pass(trace, legs, tool, floor, above, entry, at, within)
        above = floor
    if last:
        _pass(trace, last, tool, bottom, above, entry, at, within)
    trace.rapid(z=at.travel)
    return trace.moves()


def _begun(tool: Tool, at: Heights) -> Trace:
    home = at.home(tool)
    trace = Trace(*home)
    trace.rapid(z=max(at.travel, home[2]))
    return trace


def _pass(
    trace: Trace, legs: Sequence[Leg], tool: Tool, floor: float, above: float, entry: str, at: Heights, within: Any
) -> None:
    """One pass. above: how high the wood stands there at the most."""
    for leg in legs:
        if leg.joined:
            trace.run(_flat(leg.points, floor), tool.feed)
            continue
        ramp, rest = _entry(leg, tool, floor, above, entry, within)
        hop(trace, ramp[0], at)
        trace.rapid(z=above + (CLEAR if above >= at.highest else ABOVE))
        trace.run(ramp[:1], tool.plunge)
        trace.run(ramp[1:], tool.feed)
        trace.run(rest, tool.feed)


def _flat(points: Array, z: float) -> Array:
    return np.column_stack([points, np.full(len(points), z)])


def hop(trace: Trace, to: Array, at: Heights) -> None:
    """Over to a place: low where all the way lies over what is being sunk, else over everything."""
    here = trace.here
    if abs(here[0] - to[0]) < 1e-9 and abs(here[1] - to[1]) < 1e-9:
        return
    low = here[2] < at.travel and shapely.covers(at.hop, shapely.linestrings([here[:2], to[:2]]))
    trace.rapid(z=at.highest + CLEAR if low else at.travel)
    trace.rapid(x=float(to[0]), y=float(to[1]))


def _entry(leg: Leg, tool: Tool, floor: float, above: float, entry: str, within: Any) -> tuple[Array, Array]:
    """The way down into a line, ending where that begins, and the rest of the line."""
    points = leg.points
    size = np.hypot(*np.diff(points, axis=0).T)
    length = float(size.sum())
    deep = above - floor
    if (entry == "plunge" and tool.centre_cutting) or length < SHORTEST or deep <= 1e-9:
        return _flat(points[:1], floor), _flat(points[1:], floor)
    run = deep / RAMP_SLOPE
    if entry == "helix" and leg.closed:
        turn = _helix(points, tool, floor, above, within)
        if turn is not None:
            return turn, _flat(points, floor)
    lap = points[::-1] if leg.closed else np.vstack([points, points[-2::-1]])
    whole = length * (1.0 if leg.closed else 2.0)
    away = np.vstack([lap, *([lap[1:]] * (max(1, math.ceil(run / whole)) - 1))])
    along = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(away, axis=0).T))])
    n = int(np.searchsorted(along, run))
    far = [[np.interp(run, along, away[:, 0]), np.interp(run, along, away[:, 1])]]
    back = np.vstack([away[:n], far])[::-1]  # down to where the line begins
    z = floor + np.append(along[:n], run)[::-1] * RAMP_SLOPE
    return np.column_stack([back, z]), _flat(points[1:], floor)


def _helix(points: Array, tool: Tool, floor: float, above: float, within: Any) -> Array | None:
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
    whole = shapely.linestrings(np.vstack([out[:, :2], points[:1]]))
    return out if shapely.covers(within, whole) else None


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
            hop(trace, run[0], at)
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
