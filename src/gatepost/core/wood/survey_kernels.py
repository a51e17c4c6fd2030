# SPDX-License-Identifier: GPL-3.0-or-later
"""Compiled: straight runs of moves that are swept as one, and what is to be known of separate pieces of wood. Neither calls another kernel."""

from __future__ import annotations

import math
from typing import Any

import numba
import numpy as np


@numba.njit(cache=True, nogil=True)
def straight_runs(moves: Any, rapid: Any, first: Any) -> int:
    """Marks where straight runs of feed moves begin: moves that go on in one line at one slope are one move.

    moves: float64 (n, 6); rapid: (n,); first: int64 (n,), filled with the number of each run's first move. Gives how
    many runs. A run ends where its line would be left by a thousandth of a micrometre. Rapids stand alone.
    """
    count = 0
    ux, uy, uz, open_ = 0.0, 0.0, 0.0, False
    sx, sy, sz, far = 0.0, 0.0, 0.0, 0.0
    for i in range(moves.shape[0]):
        bx, by, bz = moves[i, 3], moves[i, 4], moves[i, 5]
        if open_ and not rapid[i]:
            wx, wy, wz = bx - sx, by - sy, bz - sz
            along = wx * ux + wy * uy + wz * uz
            ox, oy, oz = wx - along * ux, wy - along * uy, wz - along * uz
            if along > far and ox * ox + oy * oy + oz * oz < 1e-12:
                far = along
                continue
        first[count] = i
        count += 1
        sx, sy, sz = moves[i, 0], moves[i, 1], moves[i, 2]
        wx, wy, wz = bx - sx, by - sy, bz - sz
        far = math.sqrt(wx * wx + wy * wy + wz * wz)
        open_ = not rapid[i] and far > 1e-9
        if open_:
            ux, uy, uz = wx / far, wy / far, wz / far
    return count


@numba.njit(cache=True, nogil=True)
def survey(labels: Any, z: Any, count: int, boxes: Any, cells: Any, tops: Any, place: Any) -> None:
    """What is to be known of each labelled piece, in one pass.

    labels: int (rows, columns) from 1, 0 none; boxes: int64 (count + 1, 4) first and last row and column; cells: how
    many; tops: highest; place: int64 (count + 1, 3) the length of its longest run along a row, and that run's middle.
    """
    boxes[:, 0], boxes[:, 1], boxes[:, 2], boxes[:, 3] = labels.shape[0], -1, labels.shape[1], -1
    for j in range(labels.shape[0]):
        i = 0
        while i < labels.shape[1]:
            n = labels[j, i]
            begin = i
            while i < labels.shape[1] and labels[j, i] == n:
                if n > 0 and z[j, i] > tops[n]:
                    tops[n] = z[j, i]
                i += 1
            if n == 0:
                continue
            cells[n] += i - begin
            boxes[n, 0], boxes[n, 1] = min(boxes[n, 0], j), max(boxes[n, 1], j)
            boxes[n, 2], boxes[n, 3] = min(boxes[n, 2], begin), max(boxes[n, 3], i - 1)
            if i - begin > place[n, 0]:
                place[n, 0], place[n, 1], place[n, 2] = i - begin, j, (begin + i - 1) // 2


def warm() -> None:
    """Compile, or load the compiled kernels."""
    z, moves = np.zeros((2, 2), np.float32), np.zeros((1, 6))
    straight_runs(moves, np.zeros(1, np.bool_), np.zeros(1, np.int64))
    labels = np.zeros((2, 2), np.int32)
    for kind in (np.int32, np.uint16):
        room = (np.zeros((1, 4), np.int64), np.zeros(1, np.int64), np.zeros(1), np.zeros((1, 3), np.int64))
        survey(labels.astype(kind), z, 0, *room)
