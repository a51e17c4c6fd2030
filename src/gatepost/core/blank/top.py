# SPDX-License-Identifier: GPL-3.0-or-later
"""The top of the board as it lies: heights above the spoilboard between the readings."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass
from functools import cached_property
from typing import Any

import numpy as np
import shapely
import shapely.affinity
from numpy.typing import NDArray

from gatepost.core.geometry.outline import Area
from gatepost.core.job.blank import Blank, TopHeight

Array = NDArray[np.float64]
GRID = 61  # places each way where the highest and the lowest are looked for
MANY = 250  # readings; a plate through more takes longer than it is worth
NODES = 5.0  # mm between the places where the plate itself is taken for a fine grid


@dataclass(frozen=True, eq=False)
class Top:
    """places: (n, 2), heights: (n,), mm; with fewer than three places not in a line the top is level at ``level``."""

    places: Array
    heights: Array
    level: float

    def __reduce__(self) -> tuple[type[Top], tuple[Array, Array, float]]:
        """What was made from the readings is made again elsewhere."""
        return Top, (self.places, self.heights, self.level)

    @cached_property
    def measured(self) -> bool:
        """Whether there are enough readings, not all in a line, to know the shape."""
        if len(self.heights) < 3:
            return False
        spread = np.linalg.svd(self.places - self.places.mean(axis=0), compute_uv=False)
        return bool(spread[-1] > 1e-3 * max(spread[0], 1.0))

    def at(self, x: Array, y: Array) -> Array:
        """Heights at places of any shape: a thin plate through the readings (Duchon, 1977).

        Beyond the readings it is held to a quarter of their range past the highest and the lowest. Of many readings,
        which a plate would take too long for, smooth patches over their triangles (Clough and Tocher, 1965), and past
        the outermost the height of the nearest place between them.
        """
        if not self.measured:
            return np.full(np.shape(x), float(self.heights.mean()) if len(self.heights) else self.level)
        places = np.column_stack([np.ravel(x), np.ravel(y)]).astype(np.float64)
        out = self._patched(places) if len(self.heights) > MANY else self._bent(places)
        low, high = float(self.heights.min()), float(self.heights.max())
        return np.asarray(np.clip(out, low - 0.25 * (high - low), high + 0.25 * (high - low)).reshape(np.shape(x)))

    def _bent(self, places: Array) -> Array:
        middle, size, bends, plane = self._plate
        places = (places - middle) / size
        nodes = (self.places - middle) / size
        out: Array = plane[0] + places @ plane[1:]
        x, y = np.ascontiguousarray(places[:, 0]), np.ascontiguousarray(places[:, 1])
        for (nx, ny), bend in zip(nodes, bends):
            dx, dy = x - nx, y - ny
            out += bend * _bend(dx * dx + dy * dy)
        return out

    def _patched(self, places: Array) -> Array:
        patches, hull = self._patches
        out = np.asarray(patches(places), np.float64).reshape(-1)
        lost = np.isnan(out)
        if lost.any():
            ends = shapely.get_coordinates(shapely.shortest_line(hull, shapely.points(places[lost])))[::2]
            out[lost] = np.asarray(patches(ends)).reshape(-1)
        return out

    @cached_property
    def _plate(self) -> tuple[Array, float, Array, Array]:
        return _plate(self.places, self.heights)

    @cached_property
    def _patches(self) -> Any:
        from scipy.interpolate import CloughTocher2DInterpolator

        hull = shapely.MultiPoint(self.places).convex_hull
        patches = CloughTocher2DInterpolator(self.places, self.heights)
        middle = np.asarray(shapely.get_coordinates(hull.centroid))[0]
        size = float(np.ptp(self.places, axis=0).max())
        shrunk = shapely.affinity.scale(hull, *([1.0 - 1e-7] * 2), origin=tuple(middle)) if size else hull
        return patches, shrunk

    def over(self, x: Array, y: Array) -> Array:
        """Heights over a fine grid of axes x (n,) and y (m,), evenly spaced: (m, n).

        The plate is smooth, so it is taken every few mm and a cubic put through each four: within two thousandths of a
        millimetre of ``at`` (tested), and a hundred times quicker.
        """
        coarse = [np.linspace(a[0], a[-1], max(8, math.ceil((a[-1] - a[0]) / NODES) + 1)) for a in (x, y)]
        if not self.measured or len(coarse[0]) * len(coarse[1]) * 4 > len(x) * len(y):
            return self.at(*np.meshgrid(x, y))
        z = self.at(*np.meshgrid(*coarse))
        along, across = (_weights(c, a) for c, a in zip(coarse, (x, y)))
        low, high = float(z.min()), float(z.max())
        return np.clip(across @ (z @ along.T), low, high)

    def grid(self, box: tuple[float, float, float, float], count: int = 61) -> tuple[Array, Array, Array]:
        """x, y, z over a rectangle x0, y0, x1, y1, each (count, count), edges included."""
        x0, y0, x1, y1 = box
        x, y = np.meshgrid(np.linspace(x0, x1, count), np.linspace(y0, y1, count))
        return x, y, self.at(x, y)


def _bend(square: Array) -> Array:
    """r² log r of a distance squared."""
    return np.asarray(0.5 * square * np.log(np.maximum(square, 1e-300)))


def _plate(places: Array, heights: Array) -> tuple[Array, float, Array, Array]:
    """The thin plate through readings: middle and size that places are scaled by, a bend per reading, and the plane.

    Bends and plane solve [[phi, P], [P', 0]] with P = 1, x, y (Duchon, 1977).
    """
    middle = 0.5 * (places.min(axis=0) + places.max(axis=0))
    size = float(np.ptp(places)) / 2.0  # any size will do: bends and plane are the same whatever the unit
    scaled = (places - middle) / size
    n = len(places)
    square = ((scaled[:, None] - scaled[None]) ** 2).sum(axis=2)
    flat = np.column_stack([np.ones(n), scaled])
    whole = np.block([[_bend(square), flat], [flat.T, np.zeros((3, 3))]])
    solved = np.linalg.solve(whole, np.concatenate([heights, np.zeros(3)]))
    return middle, size, solved[:n], solved[n:]


def _weights(nodes: Array, places: Array) -> Array:
    """What each node's value gives to each place: Lagrange's cubic through the four nodes about it, (places, nodes).

    nodes: evenly spaced, four at least.
    """
    step = nodes[1] - nodes[0]
    first = np.clip(np.floor((places - nodes[0]) / step).astype(int) - 1, 0, len(nodes) - 4)
    t = (places - nodes[first]) / step
    out = np.zeros((len(places), len(nodes)))
    rows = np.arange(len(places))
    for k in range(4):
        others = [m for m in range(4) if m != k]
        out[rows, first + k] = np.prod([(t - m) / (k - m) for m in others], axis=0)
    return out


@dataclass(frozen=True, eq=False)
class Underside:
    """How high the underside stands over the bed where the board lies, 0 or more, mm."""

    raised: Top  # by 1 mm, since a reading stands above nothing

    def over(self, x: Array, y: Array) -> Array:
        """Over the grid of a row of X and a row of Y, blank coordinates: (rows, columns), mm."""
        return np.maximum(self.raised.over(x, y) - 1.0, 0.0)


def underside_of(
    blank: Blank, seat: Callable[[tuple[TopHeight, ...]], tuple[TopHeight, ...]] | None = None
) -> Underside | None:
    """The underside through what was read of it; nothing with fewer than three readings. seat: what shims make of heights."""
    if len(blank.under) < 3:
        return None
    raised = tuple(TopHeight(x=g.x, y=g.y, z=g.z + 1.0) for g in blank.under)
    return Underside(top_of(blank.model_copy(update={"heights": seat(raised) if seat is not None else raised}), 1.0))


def top_of(blank: Blank, level: float) -> Top:
    """The top from the job's heights. level: what to take where nothing was measured, mm."""
    places = np.array([(h.x, h.y) for h in blank.heights], dtype=np.float64).reshape(-1, 2)
    places, first = np.unique(places, axis=0, return_index=True)
    heights = np.array([h.z for h in blank.heights], dtype=np.float64)[first] if len(first) else np.zeros(0)
    return Top(places, heights, level)


@dataclass(frozen=True)
class Extremes:
    """Highest and lowest place: x, y, z each, mm."""

    highest: tuple[float, float, float]
    lowest: tuple[float, float, float]


def extremes(top: Top, area: Area) -> Extremes:
    """Highest and lowest place of an area, over a grid, its corners and the readings in it themselves."""
    x0, y0, x1, y1 = area.bounds
    x, y = np.meshgrid(np.linspace(x0, x1, GRID), np.linspace(y0, y1, GRID))
    corners = shapely.get_coordinates(area)
    xs, ys = (np.concatenate([a.ravel(), c]) for a, c in ((x, corners[:, 0]), (y, corners[:, 1])))
    zs = top.at(xs, ys)
    if top.measured:
        xs, ys, zs = (
            np.concatenate([a, b]) for a, b in zip((xs, ys, zs), (top.places[:, 0], top.places[:, 1], top.heights))
        )
    inside = np.flatnonzero(shapely.dwithin(shapely.points(xs, ys), area, 1e-6))
    high, low = int(inside[np.argmax(zs[inside])]), int(inside[np.argmin(zs[inside])])
    return Extremes(
        (float(xs[high]), float(ys[high]), float(zs[high])), (float(xs[low]), float(ys[low]), float(zs[low]))
    )
