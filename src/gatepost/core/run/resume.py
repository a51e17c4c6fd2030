# SPDX-License-Identifier: GPL-3.0-or-later
"""Where a program is taken up again: at or before the last block carried out, on a straight move, in the cut.

The start of the pass, or a cutter's diameter back along it, whichever is nearer; never inside an arc (several moves of
one line), whose start is taken instead. Lift, across, spindle, down at plunge feed into the cut already made.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from gatepost.core.errors import OperatorError
from gatepost.core.motion import Moves
from gatepost.core.program.lines import filled_lines


@dataclass(frozen=True)
class TakenUp:
    """done: moves carried out whole; move: the one that is taken up again; at: where on it; back: mm gone back along
    the cut; moves: what is left, from the top of the travel."""

    done: int
    move: int
    at: tuple[float, float, float]
    back: float
    moves: Moves


def line_of_block(text: str, block: int) -> int:
    """The line, from 1, of the n-th block: of the n-th line with something on it. 0 for none."""
    if block <= 0:
        return 0
    filled = [number for number, _ in filled_lines(text)]
    return filled[min(block, len(filled)) - 1]


@dataclass(frozen=True)
class Picked:
    """A place on the wood that was pointed at. move: the cut that is taken up; share: how far along it, 0 to 1; words: why it is another place than the one that
    was pointed at, or nothing."""

    move: int
    share: float
    words: str = ""


NEAR = 0.5  # mm by which cuts over the same place may lie apart


def pick(moves: Moves, lines: Sequence[int], last_line: int, back: float, x: float, y: float) -> Picked | None:
    """The cut nearest to a place, of those that were carried out, the last of them where several go over it; nothing where it is taken up
    where the run ended all the same.

    moves, lines, last_line, back: as for take_up; x, y: mm, work. An arc is taken up at its start, a plunge where it begins, and
    nothing is taken up further on than it would be without a place.
    """
    told = np.asarray(lines)
    done = int(np.searchsorted(told, last_line, side="right"))
    cuts = np.nonzero(~moves.rapid[:done])[0]
    if not len(cuts):
        return None
    a, b = moves.points[cuts], moves.points[cuts + 1]
    way = b[:, :2] - a[:, :2]
    long = (way**2).sum(1)
    share = np.where(long > 0.0, ((np.array([x, y]) - a[:, :2]) * way).sum(1) / np.where(long > 0.0, long, 1.0), 0.0)
    share = np.clip(share, 0.0, 1.0)
    off = np.hypot(*(a[:, :2] + share[:, None] * way - (x, y)).T)
    k = int(np.nonzero(off <= off.min() + NEAR)[0][-1])
    move, along = int(cuts[k]), float(share[k])
    words = ""
    pieces = np.nonzero(told == told[move])[0]
    if len(pieces) > 1:
        move, along, words = int(pieces[0]), 0.0, "It lies on an arc, which is taken up at its start."
    elif not long[k]:
        while (
            move > 0 and not moves.rapid[move - 1] and np.allclose(moves.points[move - 1, :2], moves.points[move, :2])
        ):
            move -= 1
        along, words = 0.0, "There the bit goes down: it is taken up where that begins."
    last, at, _ = _start(moves, told, done, back)
    here = moves.points[move] + along * (moves.points[move + 1] - moves.points[move])
    gone = float(np.linalg.norm(here - moves.points[move]))
    furthest = float(np.linalg.norm(np.array(at) - moves.points[last]))
    if move > last or (move == last and gone > furthest):
        return None
    return Picked(move, along, words)


def take_up(
    moves: Moves,
    lines: Sequence[int],
    last_line: int,
    back: float,
    safe: float,
    plunge: float,
    at_place: Picked | None = None,
) -> TakenUp:
    """What is left of a program after a line.

    moves: work coordinates, as read, with the line of each; last_line: the last one carried out by position; back: how
    far to go back along the cut at most, mm; at_place: the place that it is taken up at instead, of those that pick gives; safe: height clear of everything that stands, work; plunge: mm/min.
    Where the last cut was carried out already, its end is gone over once more. Raises OperatorError when it cuts nothing.
    """
    told = np.asarray(lines)
    done = int(np.searchsorted(told, last_line, side="right"))
    if moves.rapid.all():
        raise OperatorError("The program cuts nothing: there is nothing to resume.")
    move, at, gone = _start(moves, told, done, back)
    if at_place is not None:
        way = np.linalg.norm(np.diff(moves.points, axis=0), axis=1)
        first, last = at_place.move, move
        here = moves.points[first] + at_place.share * (moves.points[first + 1] - moves.points[first])
        along = way[first:last][~moves.rapid[first:last]].sum() - float(np.linalg.norm(here - moves.points[first]))
        gone += float(along) + float(np.linalg.norm(np.array(at) - moves.points[last]))
        move, at = first, _point(here)
    points = [(at[0], at[1], float(moves.points[0, 2])), (at[0], at[1], max(safe, at[2])), at]
    rapid, feed = [True, False], [0.0, plunge]
    if points[1] == points[2]:
        points, rapid, feed = points[:2], [True], [0.0]
    left = moves.points[move + 1 :]
    if len(left) and np.allclose(left[0], at, atol=1e-9):
        left, move_from = left[1:], move + 1
    else:
        move_from = move
    whole = Moves(
        np.vstack([np.array(points), left]),
        np.concatenate([np.array(rapid), moves.rapid[move_from:]]),
        np.concatenate([np.array(feed), moves.feed[move_from:]]),
    )
    return TakenUp(done, move, at, gone, whole)


def _start(
    moves: Moves, lines: NDArray[np.int64], done: int, back: float
) -> tuple[int, tuple[float, float, float], float]:
    """The move, the place on it, and how far back that is."""
    last = int(np.nonzero(~moves.rapid)[0][-1])
    if done > last:
        done = last + 1
    elif moves.rapid[done] or done == 0 or moves.rapid[done - 1]:  # between passes: the next one from its start
        first = done + int(np.argmax(~moves.rapid[done:]))
        return first, _point(moves.points[first]), 0.0
    first = done - 1
    while first > 0 and not moves.rapid[first - 1]:
        first -= 1  # the pass begins with its first feed move
    gone, at = 0.0, done - 1
    while at >= first:
        a, b = moves.points[at], moves.points[at + 1]
        length = float(np.linalg.norm(b - a))
        if gone + length > back:
            pieces = np.nonzero(lines == lines[at])[0]
            if len(pieces) > 1:  # a piece of an arc: from where the arc begins
                start = int(pieces[0])
                gone += sum(float(np.linalg.norm(moves.points[i + 1] - moves.points[i])) for i in range(start, at + 1))
                return start, _point(moves.points[start]), gone
            share = (back - gone) / length
            return at, _point(b + (a - b) * share), back
        gone += length
        at -= 1
    return first, _point(moves.points[first]), gone


def _point(p: NDArray[np.float64]) -> tuple[float, float, float]:
    return (float(p[0]), float(p[1]), float(p[2]))
