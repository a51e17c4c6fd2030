# SPDX-License-Identifier: GPL-3.0-or-later
"""A program shared out among files, where a control takes none so large: each stands alone, and they part where the bit is up."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from gatepost.core.errors import OperatorError
from gatepost.core.motion import Moves

UP = 1e-6  # mm across


def places_up(moves: Moves) -> list[int]:
    """Behind which moves the bit is out of the wood, between two rapids, and not on its way straight down: where files may part. What stands clear of wood and holds there
    stands clear of them straight above it too. moves: as they are written."""
    going_on = np.hypot(*np.diff(moves.points[:, :2], axis=0).T)[1:] > UP
    here = (
        np.flatnonzero(moves.rapid[:-1] & moves.rapid[1:] & (going_on | (moves.points[2:, 2] > moves.points[1:-1, 2])))
        + 1
    )
    return [int(i) for i in here]


def shared(moves: Moves, write: Callable[[Moves], str], largest: int) -> list[str]:
    """The texts of as few files as may be, none over so many bytes. moves: from the top of the travel; write: makes a program of some of them.

    Raises OperatorError where one way from up to up is larger by itself.
    """
    whole = write(moves)
    if largest <= 0 or len(whole.encode()) <= largest:
        return [whole]
    ends = [*places_up(moves), len(moves.rapid)]
    out: list[str] = []
    begin, top = 0, float(moves.points[0, 2])
    while begin < len(moves.rapid):
        later = [e for e in ends if e > begin]
        low, high, best = 0, len(later), ""
        while low < high:  # as far as it fits
            middle = (low + high) // 2
            text = write(_part(moves, begin, later[middle], top))
            if len(text.encode()) <= largest:
                low, best = middle + 1, text
            else:
                high = middle
        if not best:
            raise OperatorError(
                f"One cut of it is larger than {largest / 1000:.0f} kB by itself and can't be shared out. Let arcs be written, or let the file be larger."
            )
        out.append(best)
        begin = later[low - 1]
    return out


def _part(moves: Moves, begin: int, end: int, top: float) -> Moves:
    """Moves from one place up to another, reached from the top of the travel."""
    points = moves.points[begin : end + 1].copy()
    rapid, feed = moves.rapid[begin:end].copy(), moves.feed[begin:end].copy()
    if begin == 0:
        return Moves(points, rapid, feed)
    first = np.array([[points[0, 0], points[0, 1], top]])
    return Moves(np.vstack([first, points]), np.concatenate([[True], rapid]), np.concatenate([[0.0], feed]))
