# SPDX-License-Identifier: GPL-3.0-or-later
"""Compiled writing of a program's moves: words as they change, a line a move."""

from __future__ import annotations

from typing import Any

import numba
import numpy as np

WORD = 24  # bytes of a word at the most


@numba.njit(cache=True, nogil=True)
def _number(value: int, decimals: int, out: Any, at: int) -> int:
    """A number of units in the last place, without needless noughts; gives where it ends."""
    if value < 0:
        out[at] = 45  # minus
        at += 1
        value = -value
    while decimals > 0 and value % 10 == 0:
        value //= 10
        decimals -= 1
    digits = 1
    rest = value
    while rest >= 10 or digits <= decimals:
        rest //= 10
        digits += 1
    end = at + digits + (1 if decimals > 0 else 0)
    place = end - 1
    for k in range(digits):
        if decimals > 0 and k == decimals:
            out[place] = 46  # the point
            place -= 1
        out[place] = 48 + value % 10
        value //= 10
        place -= 1
    return end


@numba.njit(cache=True, nogil=True)
def body(
    x: Any, y: Any, z: Any, rapid: Any, feed: Any, decimals: int, feed_decimals: int, before: int, numbered: bool, out: Any
) -> int:  # fmt: skip
    """Lines of points in units of the last place, into bytes; gives how many bytes. The first is gone to across, at a rapid. feed: in
    units of its own last place; before: lines that stand above; numbered: whether lines have numbers."""
    at, line, way, fed = 0, before, -1, -1
    for i in range(len(x)):
        new_x, new_y = i == 0 or x[i] != x[i - 1], i == 0 or y[i] != y[i - 1]
        new_z = i == 1 or (i > 1 and z[i] != z[i - 1])
        if not (new_x or new_y or new_z):
            continue
        if numbered:
            out[at] = 78
            at = _number(10 * (line + 1), 0, out, at + 1)
            out[at] = 32
            at += 1
        g = 0 if rapid[i] else 1
        if g != way:
            out[at], out[at + 1], out[at + 2] = 71, 48 + g, 32
            at += 3
            way = g
        for axis in range(3):
            if (new_x, new_y, new_z)[axis]:
                out[at] = 88 + axis
                at = _number((x[i], y[i], z[i])[axis], decimals, out, at + 1)
                out[at] = 32
                at += 1
        if g == 1 and feed[i] != fed:
            fed = feed[i]
            out[at] = 70
            at = _number(fed, feed_decimals, out, at + 1)
            out[at] = 32
            at += 1
        out[at - 1] = 10
        line += 1
    return at


def warm() -> None:
    """Compile, or load the compiled kernels."""
    two = np.zeros(2, np.int64)
    body(two, two, two, np.zeros(2, np.bool_), two, 3, 3, 0, True, np.zeros(400, np.uint8))
