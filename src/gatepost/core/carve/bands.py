# SPDX-License-Identifier: GPL-3.0-or-later
"""Rows back and forth over many small pieces at once.

Stretches of neighbouring rows that lie beside each other, and beside no third, are a band; a band is gone over from one end to the other,
every other stretch turned, and the nearest band is the next.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np
import shapely
from numpy.typing import NDArray

from gatepost.core.carve.legs import crossed

Array = NDArray[np.float64]
Indices = NDArray[np.int64]
THIN = 1e-6  # mm: a stretch as short as that is none
APART = 1e5  # mm from row to row as they are looked up: more than any stretch is long


def rows_in(polygons: Sequence[Any], within: Any, step: float, short: float, far: float) -> list[list[Array]]:
    """Lines back and forth in each of several pieces, (n, 2) each, along the longer side of the rectangle that it fits.

    within: where the cutter's middle may be, made ready; step: of a row from the next at the most, mm; short: a way between rows that
    needs no asking; far: how long one is at the most, mm.
    """
    if not len(polygons):
        return []
    turns = _turns(np.array(polygons, dtype=object))
    ends, y, row, owner = _stretches(polygons, turns, step)
    if not len(row):
        return [[] for _ in polygons]
    band, place = _bands(ends, row)
    turned = np.stack([ends, np.column_stack([y, y])], axis=2)
    stretches = np.einsum("nki,nji->nkj", turned, turns[owner])
    order = np.lexsort((place, band))
    band, place, owner, row = band[order], place[order], owner[order], row[order]
    lines = stretches[order]
    odd = place % 2 == 1
    lines[odd] = lines[odd, ::-1]
    joined = _joined(lines[:-1, 1], lines[1:, 0], band[1:] == band[:-1], within, short, far)
    first = np.nonzero(np.concatenate([[True], ~joined]))[0]
    parts = np.split(lines, first[1:])
    return _one_after_another(parts, owner[first], row[first], len(polygons), within, short, far)


def _turns(polygons: NDArray[Any]) -> Array:
    """Of each piece the matrix, (n, 2, 2), by which a place times it lies with the piece's longer side along X."""
    out = np.tile(np.eye(2), (len(polygons), 1, 1))
    around, which = shapely.get_coordinates(shapely.oriented_envelope(polygons), return_index=True)
    first = np.nonzero(np.diff(which, prepend=-1))[0]
    whole = np.diff(np.append(first, len(which))) >= 4
    first, which = first[whole], which[first[whole]]
    sides = np.stack([around[first + 1] - around[first], around[first + 2] - around[first + 1]], axis=1)
    long = np.argmax((sides**2).sum(axis=2), axis=1)
    along = sides[np.arange(len(sides)), long]
    c, s = (along / np.maximum(np.hypot(*along.T), 1e-12)[:, None]).T
    out[which] = np.stack([np.stack([c, -s], axis=1), np.stack([s, c], axis=1)], axis=1)
    return out


def _stretches(polygons: Sequence[Any], turns: Array, step: float) -> tuple[Array, Array, Indices, Indices]:
    """Where rows lie inside the pieces, as these are turned: X of the ends, (n, 2), Y, the row of each, counted through with one left out
    between pieces, and its piece; row by row."""
    rings, of = shapely.get_rings(polygons, return_index=True)
    points, ring = shapely.get_coordinates(rings, return_index=True)
    piece = of[ring]
    points = np.einsum("ni,nij->nj", points, turns[piece])
    first = np.nonzero(np.diff(piece, prepend=-1))[0]
    low, high = np.minimum.reduceat(points[:, 1], first), np.maximum.reduceat(points[:, 1], first)
    count = np.maximum(1, np.ceil((high - low) / step)).astype(np.int64)
    apart = np.maximum((high - low) / count, 1e-12)
    before = np.cumsum(count + 1) - (count + 1)
    same = ring[1:] == ring[:-1]
    mine = piece[:-1][same]
    row, ends = crossed(
        points[:-1][same], points[1:][same], (low + 0.5 * apart)[mine], apart[mine], count[mine], before[mine]
    )
    real = ends[:, 1] - ends[:, 0] > THIN
    row, ends = row[real], ends[real]
    owner = np.searchsorted(before, row, side="right") - 1
    return ends, low[owner] + (row - before[owner] + 0.5) * apart[owner], row, owner


def _bands(ends: Array, row: Indices) -> tuple[Indices, Indices]:
    """The band of each stretch, and its place in it from 0."""
    begin, end = ends[:, 0] + APART * row, ends[:, 1] + APART * row
    after = _beside(begin, end, APART)
    ago = _beside(begin, end, -APART)
    one = (after[:, 1] - after[:, 0] == 1) & (after[:, 0] < len(row))
    to = np.where(one, after[:, 0], 0)
    one &= ago[to, 1] - ago[to, 0] == 1
    band, place = np.arange(len(row)), np.zeros(len(row), np.int64)
    for i in np.nonzero(one)[0].tolist():  # rows come in their order
        band[to[i]], place[to[i]] = band[i], place[i] + 1
    return band, place


def _beside(begin: Array, end: Array, row: float) -> Indices:
    """Of each stretch the numbers, first and past the last, of those of another row that lie beside it."""
    first, past = np.searchsorted(end, begin + row, side="right"), np.searchsorted(begin, end + row, side="left")
    return np.column_stack([first, np.maximum(first, past)])


def _joined(a: Array, b: Array, asked: NDArray[np.bool_], within: Any, short: float, far: float) -> NDArray[np.bool_]:
    """Whether the straight ways between places are fed along, of those asked for."""
    gap = np.hypot(*(b - a).T)
    joins = asked & (gap <= short)
    open_ = asked & ~joins & (gap <= far)
    joins[open_] = shapely.covers(within, shapely.linestrings(np.stack([a[open_], b[open_]], axis=1)))
    return np.asarray(joins)


def _one_after_another(
    parts: list[Array], owner: Indices, row: Indices, count: int, within: Any, short: float, far: float
) -> list[list[Array]]:
    """Each piece's parts, the nearest next, those joined whose way between is fed along."""
    ends = np.array([[p[0, 0], p[-1, 1]] for p in parts])
    told: list[tuple[int, bool]] = []
    for mine in np.split(np.argsort(owner, kind="stable"), np.nonzero(np.diff(np.sort(owner)))[0] + 1):
        told += _nearest_next(mine[np.argsort(row[mine], kind="stable")], ends)
    which = np.array([n for n, _ in told])
    lines = [parts[n][::-1, ::-1] if back else parts[n] for n, back in told]
    last, next_ = np.array([p[-1, 1] for p in lines]), np.array([p[0, 0] for p in lines])
    joins = _joined(last[:-1], next_[1:], owner[which[1:]] == owner[which[:-1]], within, short, far)
    out: list[list[Array]] = [[] for _ in range(count)]
    for n, (line, piece) in enumerate(zip(lines, owner[which].tolist())):
        points = line.reshape(-1, 2)
        if n and joins[n - 1]:
            out[piece][-1] = np.vstack([out[piece][-1], points])
        else:
            out[piece].append(points)
    return out


def _nearest_next(mine: Indices, ends: Array) -> list[tuple[int, bool]]:
    """Parts in an order, each with whether it is gone backwards: the first from its lowest row."""
    if len(mine) == 1:
        return [(int(mine[0]), False)]
    told = [(int(mine[0]), False)]
    here, left = ends[mine[0], 1], mine[1:]
    while len(left):
        far = ((ends[left] - here) ** 2).sum(axis=2)
        n, back = divmod(int(np.argmin(far)), 2)
        told.append((int(left[n]), bool(back)))
        here, left = ends[left[n], 1 - back], np.delete(left, n)
    return told
