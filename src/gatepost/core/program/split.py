# SPDX-License-Identifier: GPL-3.0-or-later
"""A program shared out among files, where a control takes none so large: each stands alone, and they part where the bit is up."""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Callable, Sequence

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


def shared(
    moves: Moves, write: Callable[[Moves], str], largest: int, plunge: float, on: Callable[[float], None] | None = None
) -> list[str]:
    """The texts of as few files as may be, none over so many bytes. moves: from the top of the travel; write: makes a program of some of them; plunge: mm/min;
    on: is told what share is done.

    Where one way from up to up is larger by itself it is parted in the cut: lifted straight out, and the next one goes straight down into what is cut
    already, as when a run is taken up. Raises OperatorError where even the head alone is larger.
    """
    whole = write(moves)
    if largest <= 0 or len(whole.encode()) <= largest:
        return [whole]
    count = len(moves.rapid)
    each = len(whole.encode()) / count
    out: list[str] = []
    begin = 0
    while begin < count:
        if on is not None:
            on(begin / count)
        end, text = _farthest(
            moves, begin, [e for e in (*places_up(moves), count) if e > begin], write, largest, plunge, each
        )
        if not text:
            end, text = _farthest(moves, begin, range(begin + 1, count + 1), write, largest, plunge, each)
        if not text:
            raise OperatorError(f"A file of {largest / 1000:.0f} kB holds no cut at all: let it be larger.")
        out.append(text)
        begin = end
    return out


def _farthest(
    moves: Moves, begin: int, ends: Sequence[int], write: Callable[[Moves], str], largest: int, plunge: float,
    each: float,
) -> tuple[int, str]:  # fmt: skip
    """The farthest of some places to part at with which it fits, and the text; nothing where none does. A text is about as long as it has moves:
    the places are tried where it should be full, and halved where that was no better. each: bytes of a move, about."""
    low, high, best = 0, len(ends), (begin, "")  # all below low fit, none from high on
    small, large = (
        (float(begin), 0.0),
        (begin + largest / each, float(largest)),
    )  # where a text ends that fits, and one that does not, and their bytes
    halve = False
    while low < high:
        middle = (low + high) // 2
        if not halve:
            (a, p), (b, q) = small, large
            full = a + (b - a) * (largest - p) / (q - p) if q > p else b  # on a straight line through both
            middle = min(max(bisect_right(ends, full) - 1, low), high - 1)
        text = write(_part(moves, begin, ends[middle], plunge))
        size, before = len(text.encode()), high - low
        if size <= largest:
            low, best, small = middle + 1, (ends[middle], text), (float(ends[middle]), float(size))
        else:
            high, large = middle, (float(ends[middle]), float(size))
        halve = not halve and high - low > before // 2
    return best


def _part(moves: Moves, begin: int, end: int, plunge: float) -> Moves:
    """Moves from one place to another, reached from the top of the travel; in the cut straight down at the plunge feed from the travel height."""
    points = moves.points[begin : end + 1].copy()
    rapid, feed = moves.rapid[begin:end].copy(), moves.feed[begin:end].copy()
    if begin == 0:
        return Moves(points, rapid, feed)
    x, y, z = points[0]
    safe = float(moves.points[1:, 2].max())
    to, fast, fed = [(x, y, float(moves.points[0, 2]))], [True], [0.0]
    if not moves.rapid[begin - 1] and safe > z:
        to, fast, fed = [*to, (x, y, safe)], [*fast, False], [*fed, plunge]
    return Moves(np.vstack([np.array(to), points]), np.concatenate([fast, rapid]), np.concatenate([fed, feed]))
