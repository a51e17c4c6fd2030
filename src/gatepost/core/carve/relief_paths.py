# SPDX-License-Identifier: GPL-3.0-or-later
"""Lines of a tip along rows of a relief, and how they follow one another. Blank XY, heights above the bed, mm."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from gatepost.core.carve.paths import RAMP_SLOPE
from gatepost.core.carve.sunk_moves import ABOVE, CLEAR, Heights
from gatepost.core.carve.target import Grid, Mask, Target
from gatepost.core.job.tool import Tool
from gatepost.core.motion import Moves
from gatepost.core.wood.field import OUTSIDE

Array = NDArray[np.float64]
OFF = 0.004  # mm that a straight piece may cut deeper than the tip may go, and that a point left out may lie off it
UNDER = 0.008  # mm that a straight piece between cells may cut under the arc that a ball's tip goes up or down on
RISE = 3.0  # mm that a tool still goes up along its line; more is flown over


@dataclass(frozen=True, eq=False)
class Stretch:
    """A line along one row. row: its number; points: (n, 3)."""

    row: int
    points: Array


def spans(wanted: Mask, gap: int) -> list[tuple[int, int]]:
    """Runs of what is set, from and to, both set; those that are at most gap apart are one."""
    on = np.flatnonzero(wanted)
    if not len(on):
        return []
    breaks = np.flatnonzero(np.diff(on) > gap + 1)
    return list(zip(on[np.r_[0, breaks + 1]].tolist(), on[np.r_[breaks, len(on) - 1]].tolist()))


def roughly(target: Target, row: int, first: int, tips: Grid, left: float) -> Stretch:
    """A line over cells of a row from the first on, of a tool that leaves some. tips: heights at the cells; left: what it leaves, mm: of that a straight
    piece between cells may take a third, and the points left out may lie off by a quarter."""
    between = np.float32(0.5) * (tips[:-1] + tips[1:])
    return _line(target, row, first, tips, between, left / 3.0 / target.cell, math.inf, left / 4.0)


def closely(target: Target, row: int, first: int, tips: Grid, halves: Grid, radius: float) -> Stretch:
    """A line over cells of a row from the first on, of a ball. tips: heights at the cells, halves: half way between them.

    Over a point of the target the tip goes on an arc of the ball's radius R, which bends by (1 + g²)^1.5 / R where it is as steep as g; a straight
    piece of that slope between two cells lies no more than cell²/8 times that under it."""
    steep = math.sqrt(max((8.0 * UNDER * radius / target.cell**2) ** (2.0 / 3.0) - 1.0, 0.0))
    return _line(target, row, first, tips, halves, steep, OFF, OFF)


def _line(
    target: Target, row: int, first: int, tips: Grid, halves: Grid, steep: float, most: float, off: float
) -> Stretch:
    from gatepost.core.carve import relief_kernels

    n = len(tips)
    places, heights = np.empty(3 * n), np.empty(3 * n)
    count = relief_kernels.tip_line(tips, halves, target.cell, most, steep, places, heights)
    x, z = places[:count] * target.cell, heights[:count]
    keep = np.empty(count, np.bool_)
    relief_kernels.thinned(x, z, keep, off)
    x, z = target.x0 + first * target.cell + x[keep], z[keep]
    return Stretch(row, np.column_stack([x, np.full(len(x), target.y0 + row * target.cell), z]))


class Follow:
    """Collects stretches one after another into moves. floor: heights that the tip never goes under; wood: as it stands before them, on the same
    cells; across: whether rows run along Y, and all places are told so."""

    def __init__(self, tool: Tool, at: Heights, target: Target, floor: Grid, across: bool) -> None:
        self._tool, self._at, self._target, self._floor, self._across = tool, at, target, floor, across
        x, y, z = at.home(tool)
        self._points: list[Array] = [
            self._turned(np.array([[x, y, z]])),
            self._turned(np.array([[x, y, max(at.travel, z)]])),
        ]
        self._rapid = [True]
        self._told = 0
        self._high = True  # at the height of travels

    def go(self, todo: Sequence[Stretch], step: int, wood: Grid, ramp: float | None = None) -> None:
        """All of them, each after one that ends near it on the next row. step: rows from one to the next; ramp: height of the wood from which
        the tool comes down on a slope, nothing where it is fed straight down."""
        rows: dict[int, list[Stretch]] = {}
        for s in todo:
            rows.setdefault(s.row, []).append(s)
        near = 2.0 * step * self._target.cell + self._tool.diameter / 2.0
        while rows:
            one: Stretch | None = min(rows[min(rows)], key=lambda s: _away(s, self._here))
            while one is not None:
                rows[one.row].remove(one)
                if not rows[one.row]:
                    del rows[one.row]
                turned = abs(one.points[-1, 0] - self._here[0]) < abs(one.points[0, 0] - self._here[0])
                self._take(one.points[::-1] if turned else one.points, near, wood, ramp)
                one = _next(rows, one.row, step, self._here, near)

    def moves(self) -> Moves:
        """All so far, and up; as fast as the tool is fed, slower where it goes down steeply."""
        up = np.array([[*self._here[:2], max(self._at.travel, self._here[2])]])
        points = self._turned(np.vstack([*self._points, up]))
        way = np.diff(points, axis=0)
        going = np.any(way != 0.0, axis=1)
        rapid = np.array([*self._rapid, True])[going]
        way = way[going]
        long, down = np.linalg.norm(way, axis=1), np.maximum(-way[:, 2], 1e-12)
        feed = np.where(rapid, 0.0, np.minimum(self._tool.feed, self._tool.plunge * long / down))
        return Moves(np.vstack([points[:1], points[1:][going]]), rapid, feed)

    def fresh(self) -> Moves:
        """Those since it was last asked, in the frame of the rows."""
        points = np.vstack([self._points[0], *self._points[1:]])[self._told :]
        rapid = np.array(self._rapid[self._told :], bool)
        self._told += len(rapid)
        return Moves(points, rapid, np.where(rapid, 0.0, self._tool.feed))

    @property
    def any(self) -> bool:
        """Whether anything is cut."""
        return not all(self._rapid)

    @property
    def _here(self) -> Array:
        return np.asarray(self._points[-1][-1])

    def _turned(self, points: Array) -> Array:
        return points[:, [1, 0, 2]] if self._across else points

    def _take(self, points: Array, near: float, wood: Grid, ramp: float | None) -> None:
        start, here = points[0], self._here
        over = max(self._top(self._floor, here, start), float(start[2]), float(here[2]))
        beside = not self._high and math.hypot(*(start[:2] - here[:2])) <= near
        if beside and over - start[2] <= (RISE if ramp is None else ABOVE):
            self._add(np.array([[*here[:2], over], [*start[:2], over]]), False)
            self._add(points, False)
            return
        clear = max(self._at.travel if self._high else self._at.highest + CLEAR, float(here[2]))
        down = min(max(self._top(wood, start, start), float(start[2])) + ABOVE, clear)
        self._add(np.array([[*here[:2], clear], [*start[:2], clear], [*start[:2], down]]), True)
        self._high = False
        self._add(points if ramp is None else _ramped(points, down), False)

    def _top(self, z: Grid, a: Array, b: Array) -> float:
        """The highest of a grid within the cutter's radius of a straight line, or a little more."""
        t, r = self._target, self._tool.diameter / 2.0
        i0, j0 = (max(0, math.floor((min(a[k], b[k]) - r - (t.x0, t.y0)[k]) / t.cell)) for k in (0, 1))
        i1, j1 = (math.ceil((max(a[k], b[k]) + r - (t.x0, t.y0)[k]) / t.cell) for k in (0, 1))
        part = z[j0 : j1 + 1, i0 : i1 + 1]
        return float(part.max()) if part.size else float(OUTSIDE)

    def _add(self, points: Array, rapid: bool) -> None:
        self._points.append(points)
        self._rapid += [rapid] * len(points)


def _away(s: Stretch, here: Array) -> float:
    return float(min(abs(s.points[0, 0] - here[0]), abs(s.points[-1, 0] - here[0])))


def _next(rows: dict[int, list[Stretch]], row: int, step: int, end: Array, near: float) -> Stretch | None:
    """The next stretch beside the end of one."""
    beside = (s for other in (row + step, row, row - step) for s in rows.get(other, ()) if _away(s, end) <= near)
    return next(beside, None)


def _ramped(points: Array, begin: float) -> Array:
    """Down along the beginning of a line on a slope, to and fro, and then along it. begin: height that it comes from."""
    deep = begin - float(points[0, 2])
    along = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(points[:, :2], axis=0).T))])
    if deep <= ABOVE or along[-1] < 1.0:
        return points
    out = min(float(along[-1]), deep / RAMP_SLOPE / 2.0)
    n = int(np.searchsorted(along, out, side="right"))
    end = [[np.interp(out, along, points[:, k]) for k in range(3)]]
    there = np.vstack([points[:n], end])
    lap = np.vstack([there, there[-2::-1]])
    laps = max(1, math.ceil(deep / RAMP_SLOPE / (2.0 * out)))
    whole = np.vstack([lap, *([lap[1:]] * (laps - 1))])
    gone = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(whole[:, :2], axis=0).T))])
    z = np.maximum(whole[:, 2], begin - gone * RAMP_SLOPE)
    return np.vstack([np.column_stack([whole[:, :2], z]), points[1:]])
