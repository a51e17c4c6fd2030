# SPDX-License-Identifier: GPL-3.0-or-later
"""Baselines to measure against in the same run: each the barest way to touch the same data."""

from __future__ import annotations

import re

import numba
import numpy as np

from gatepost.core.geometry.medial import construct, segments_of, snapped
from gatepost.core.geometry.region import pieces
from gatepost.core.wood.kernels import _row_span


def bare_voronoi(area):
    """The library's own construction on the same snapped segments."""
    return construct(segments_of(snapped(area)))


@numba.njit(cache=True, nogil=True)
def bare_minimum(z, x0, y0, cell, moves, reach):
    """A compiled minimum with a constant over the same row spans and dtype."""
    for i in range(moves.shape[0]):
        ax, ay, bx, by = moves[i, 0], moves[i, 1], moves[i, 3], moves[i, 4]
        low = np.float32(min(moves[i, 2], moves[i, 5]))
        r = reach[i]
        j0 = max(0, int(np.ceil((min(ay, by) - r - y0) / cell)))
        j1 = min(z.shape[0] - 1, int(np.floor((max(ay, by) + r - y0) / cell)))
        for j in range(j0, j1 + 1):
            lo, hi = _row_span(ax, ay, bx, by, r, y0 + j * cell)
            for c in range(
                max(0, int(np.ceil((lo - x0) / cell))), min(z.shape[1] - 1, int(np.floor((hi - x0) / cell))) + 1
            ):
                if low < z[j, c]:
                    z[j, c] = low


WORD = re.compile(r"([A-Z])(-?[0-9.]+)")


def bare_buffers(area, radius, step, tol):
    """The buffers that a path round and round in an area needs: shrunk by the radius, then by a step until nothing stays."""
    out = [area.buffer(-radius, quad_segs=pieces(radius, tol))]
    while not out[-1].is_empty:
        out.append(out[-1].buffer(-step, quad_segs=pieces(step, tol)))
    return out


@numba.njit(cache=True, nogil=True)
def bare_dilation(z, rows, radius, cell):
    """A compiled grey dilation by a ball at some rows: cell by cell, of each the greatest of all under it less how far the ball lies over its tip."""
    n = int(radius / cell)
    out = np.empty((rows.shape[0], z.shape[1]), np.float32)
    for r in range(rows.shape[0]):
        for i in range(z.shape[1]):
            best = np.float32(-1e9)
            for dj in range(max(-n, -rows[r]), min(n, z.shape[0] - 1 - rows[r]) + 1):
                for di in range(max(-n, -i), min(n, z.shape[1] - 1 - i) + 1):
                    d2 = (dj * dj + di * di) * cell * cell
                    if d2 <= radius * radius:
                        best = max(best, z[rows[r] + dj, i + di] - (radius - np.sqrt(radius * radius - d2)))
            out[r, i] = best
    return out


def bare_lines(text):
    """One compiled regular expression a line, no modal state."""
    return [WORD.findall(line) for line in text.splitlines()]


@numba.njit(cache=True, nogil=True)
def bare_seconds(points, wanted):
    """A compiled sum of length over feed."""
    total = 0.0
    for i in range(wanted.shape[0]):
        x, y, z = points[i + 1, 0] - points[i, 0], points[i + 1, 1] - points[i, 1], points[i + 1, 2] - points[i, 2]
        total += np.sqrt(x * x + y * y + z * z) / wanted[i]
    return total


@numba.njit(cache=True, nogil=True)
def spin(times):
    """Reckoning that touches no memory."""
    x = 1.0
    for i in range(times):
        x = x * 0.999999 + 1e-9 * i
    return x
