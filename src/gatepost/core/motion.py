# SPDX-License-Identifier: GPL-3.0-or-later
"""Moves: straight lines of a tool's tip, as arrays."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]


def read_only(array: NDArray[np.generic]) -> NDArray[np.generic]:
    """The array, no longer writable."""
    array.setflags(write=False)
    return array


def turned_about(points: Array, degrees: float) -> Array:
    """Points of shape (n, 2) or (n, 3), turned about nought in X and Y, positive against the clock."""
    c, s = np.cos(np.radians(degrees)), np.sin(np.radians(degrees))
    out = np.array(points, dtype=np.float64)
    out[:, 0], out[:, 1] = c * points[:, 0] - s * points[:, 1], s * points[:, 0] + c * points[:, 1]
    return out


@dataclass(frozen=True)
class Moves:
    """points: (n + 1, 3) float64, mm, of the tip; rapid: (n,) bool; feed: (n,) mm/min, nought on rapids."""

    points: Array
    rapid: NDArray[np.bool_]
    feed: Array

    def __post_init__(self) -> None:
        for array in (self.points, self.rapid, self.feed):
            read_only(array)

    def __len__(self) -> int:
        return len(self.rapid)

    @property
    def segments(self) -> Array:
        """(n, 6): from x, y, z to x, y, z."""
        return np.hstack([self.points[:-1], self.points[1:]])

    def moved(self, dx: float, dy: float, dz: float) -> Moves:
        """The same moves, shifted."""
        return Moves(self.points + np.array([dx, dy, dz]), self.rapid, self.feed)

    def turned(self, degrees: float) -> Moves:
        """The same moves, turned about X0 Y0 of their frame, positive against the clock."""
        if degrees == 0.0:
            return self
        return Moves(turned_about(self.points, degrees), self.rapid, self.feed)

    def cutting_path(self) -> tuple[float, float, float, float]:
        """How long the way of the feed moves' centre line is, and its middle x, y, z: what tells one way from another wherever each begins and ends."""
        feed = ~self.rapid
        ends = np.asarray(self.points, np.float64)
        each = np.sqrt(((ends[1:] - ends[:-1]) ** 2).sum(axis=1))[feed]
        long = float(each.sum())
        if long <= 0.0:
            return (0.0, 0.0, 0.0, 0.0)
        middle = (0.5 * (ends[1:] + ends[:-1])[feed] * each[:, None]).sum(axis=0) / long
        return (long, float(middle[0]), float(middle[1]), float(middle[2]))

    def fed_metres(self) -> float:
        """How far the tool is fed, m."""
        ways = np.diff(np.asarray(self.points, np.float64), axis=0)
        return float(np.sqrt((ways**2).sum(axis=1))[~self.rapid].sum()) / 1000.0

    def cutting_extents(self) -> tuple[float, float, float, float]:
        """x0, y0, x1, y1 of the feed moves' centre line."""
        feed = ~self.rapid
        if not feed.any():
            return (0.0, 0.0, 0.0, 0.0)
        ends = np.vstack([self.points[:-1][feed], self.points[1:][feed]])
        low, high = ends.min(axis=0), ends.max(axis=0)
        return (float(low[0]), float(low[1]), float(high[0]), float(high[1]))


class Pen:
    """Collects moves one after another."""

    def __init__(self, x: float, y: float, z: float) -> None:
        self._points: list[tuple[float, float, float]] = [(x, y, z)]
        self._rapid: list[bool] = []
        self._feed: list[float] = []

    @property
    def here(self) -> tuple[float, float, float]:
        """The last point."""
        return self._points[-1]

    def rapid(self, x: float | None = None, y: float | None = None, z: float | None = None) -> None:
        """A rapid to a place; what is not named stays."""
        self._to(x, y, z, True, 0.0)

    def feed(self, feed: float, x: float | None = None, y: float | None = None, z: float | None = None) -> None:
        """A feed move to a place; what is not named stays."""
        self._to(x, y, z, False, feed)

    def run(self, points: Array, feed: float) -> None:
        """Feed moves along points of shape (n, 3)."""
        for x, y, z in points.tolist():
            self.feed(feed, x, y, z)

    def _to(self, x: float | None, y: float | None, z: float | None, rapid: bool, feed: float) -> None:
        ox, oy, oz = self._points[-1]
        new = (ox if x is None else x, oy if y is None else y, oz if z is None else z)
        if new != self._points[-1]:
            self._points.append(new)
            self._rapid.append(rapid)
            self._feed.append(feed)

    def moves(self) -> Moves:
        """All so far."""
        return Moves(np.array(self._points), np.array(self._rapid, dtype=bool), np.array(self._feed, dtype=np.float64))


def joined(parts: list[Moves]) -> Moves:
    """Moves one after another; a rapid joins ends that differ."""
    if not parts:
        return Moves(np.zeros((1, 3)), np.zeros(0, bool), np.zeros(0))
    points, rapid, feed = [parts[0].points], [parts[0].rapid], [parts[0].feed]
    for before, after in zip(parts, parts[1:]):
        if np.array_equal(before.points[-1], after.points[0]):
            points.append(after.points[1:])
        else:
            points.append(after.points)
            rapid.append(np.array([True]))
            feed.append(np.array([0.0]))
        rapid.append(after.rapid)
        feed.append(after.feed)
    return Moves(np.vstack(points), np.concatenate(rapid), np.concatenate(feed))
