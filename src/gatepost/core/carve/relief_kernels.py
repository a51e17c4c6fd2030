# SPDX-License-Identifier: GPL-3.0-or-later
"""Compiled: how low a cutter's tip may go over a grid of heights, what it then reaches, and the lines of its tip along rows.

Heights stand at cell middles, float32; what no cutter is kept off is very low (FREE). Cutters are told by drops: how far the cutter's
underside lies over its tip at each cell about it.
"""

from __future__ import annotations

from typing import Any

import numba
import numpy as np

FREE = np.float32(-1e9)


@numba.njit(cache=True, nogil=True, fastmath={"nnan", "ninf", "nsz", "reassoc", "contract"})
def lift_rows(target: Any, drops: Any, reach: Any, rows: Any, out: Any, first: int, last: int) -> None:
    """Lowest heights of a tip over cells of some rows: the grey dilation of the target by the cutter. target: (ny, nx); drops: (k,) of the
    cells at reach (k, 2: rows, columns) about the tip; rows: their numbers; out: (len(rows), nx); first, last: of the rows to do."""
    ny, nx = target.shape
    for r in range(first, last):
        line = out[r]
        for i in range(nx):
            line[i] = FREE
        for k in range(drops.shape[0]):
            j = rows[r] + reach[k, 0]
            if j < 0 or j >= ny:
                continue
            d, n = drops[k], reach[k, 1]
            a, b = max(0, -n), min(nx, nx - n)
            source = target[j]
            for i in range(a, b):
                line[i] = max(line[i], source[i + n] - d)


@numba.njit(cache=True, nogil=True, fastmath={"nnan", "ninf", "nsz", "reassoc", "contract"})
def lower_rows(tips: Any, drops: Any, reach: Any, out: Any, first: int, last: int) -> None:
    """What a cutter leaves that stands at every cell as low as it may: the grey erosion of its tip's heights. As lift_rows, over all rows."""
    ny, nx = tips.shape
    for j in range(first, last):
        line = out[j]
        for i in range(nx):
            line[i] = -FREE
        for k in range(drops.shape[0]):
            p = j + reach[k, 0]
            if p < 0 or p >= ny:
                continue
            d, n = drops[k], reach[k, 1]
            a, b = max(0, -n), min(nx, nx - n)
            source = tips[p]
            for i in range(a, b):
                line[i] = min(line[i], source[i + n] + d)


@numba.njit(cache=True, nogil=True)
def where_from(tips: Any, drops: Any, reach: Any, wanted: Any, needed: Any) -> None:
    """Marks the cells that a tip must stand on to leave what lower_rows says at the wanted cells. wanted, needed: bool (ny, nx)."""
    ny, nx = tips.shape
    for j in range(ny):
        for i in range(nx):
            if not wanted[j, i]:
                continue
            best, bj, bi = -FREE, j, i
            for k in range(drops.shape[0]):
                p, q = j + reach[k, 0], i + reach[k, 1]
                if p < 0 or p >= ny or q < 0 or q >= nx:
                    continue
                h = tips[p, q] + drops[k]
                if h < best:
                    best, bj, bi = h, p, q
            needed[bj, bi] = True


@numba.njit(cache=True, nogil=True)
def tip_line(tips: Any, halves: Any, cell: float, most: float, steep: float, places: Any, heights: Any) -> int:
    """The line of a tip along a stretch of a row: straight between cells, by way of the middle where that is higher by more than most, and where it
    is steep up before and down after. tips: (n,) at the cells, halves: (n - 1,) half way; steep: heights per mm from which no straight line is taken;
    places, heights: (3·n,) to fill, places in cells from the first. Gives how many."""
    n = tips.shape[0]
    places[0], heights[0] = 0.0, tips[0]
    count = 1
    for i in range(n - 1):
        a, h, b = tips[i], halves[i], tips[i + 1]
        if abs(b - a) > 1e-4 or h > max(a, b) + 1e-4:
            if max(abs(b - a), 2.0 * abs(h - a), 2.0 * abs(b - h)) > steep * cell:
                if b > a:
                    places[count], heights[count] = i, b
                else:
                    places[count], heights[count] = i + 1.0, a
                count += 1
            elif h - 0.5 * (a + b) > most:
                places[count], heights[count] = i + 0.5, h
                count += 1
        places[count], heights[count] = i + 1.0, b
        count += 1
    return count


@numba.njit(cache=True, nogil=True)
def thinned(x: Any, z: Any, keep: Any, off: float) -> None:
    """Marks the points to keep of a line whose x never falls, so that no other lies off from it by more in height. x, z: (n,); keep: bool (n,)."""
    n = x.shape[0]
    keep[:] = False
    keep[0] = True
    at = 0
    while at < n - 1:
        if x[at + 1] <= x[at]:  # straight up or down
            at += 1
            keep[at] = True
            continue
        low, high = -np.inf, np.inf
        end = at + 1
        for i in range(at + 1, n):
            if x[i] <= x[i - 1] and i > at + 1:
                break
            run = x[i] - x[at]
            s = (z[i] - z[at]) / run
            if s < low or s > high:
                break
            end = i
            low, high = max(low, (z[i] - off - z[at]) / run), min(high, (z[i] + off - z[at]) / run)
        at = end
        keep[at] = True


def warm() -> None:
    """Compile, or load the compiled kernels."""
    z = np.zeros((3, 4), np.float32)
    drops, reach = np.zeros(1, np.float32), np.zeros((1, 2), np.int64)
    out = np.empty_like(z)
    lift_rows(z, drops, reach, np.arange(3), out, 0, 3)
    lower_rows(z, drops, reach, out, 0, 3)
    where_from(z, drops, reach, np.ones((3, 4), np.bool_), np.zeros((3, 4), np.bool_))
    places, heights = np.empty(12), np.empty(12)
    count = tip_line(z[0], z[0, :3], 0.2, 0.004, 1.0, places, heights)
    thinned(places[:count], heights[:count], np.empty(count, np.bool_), 0.004)
