# SPDX-License-Identifier: GPL-3.0-or-later
"""Places for clamps and screws: first all clear, then the shortest longest free span, then fewest moved. Exactly so, among
the places that are tried: along the bed's own slots and inserts, every STEP along the edge."""

from __future__ import annotations

import itertools
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry import Point, Polygon

from gatepost.core.errors import Cancelled, OperatorError
from gatepost.core.hold.kind import NONE_TOLD, HoldingInputs
from gatepost.core.hold.margins import edge_place
from gatepost.core.hold.report import judged
from gatepost.core.job.base import changed
from gatepost.core.job.hold import Hold

SAME = 6.0  # mm within which a hold counts as not moved
TOLD_APART = (
    0.001  # mm; places along the edge are whole numbers of these, so that equal spans are equal and not nearly so
)
ROUNDS = 200_000  # of looking for a choice whose holds are in nobody's way
Progress = Callable[[float], bool]


@dataclass(frozen=True)
class Candidate:
    """A hold in a place that is clear. along: of its bearing on the work's edge, mm; kept: whether a hold stands there."""

    hold: Hold
    along: float
    kept: bool
    outline: Polygon


@dataclass(frozen=True)
class Suggestion:
    """Places for holds. span: the longest free stretch that they leave, mm; moved: how many are not where one is now; tried:
    how many places were clear."""

    holds: tuple[Hold, ...]
    span: float
    moved: int
    tried: int


def candidates(
    held: HoldingInputs,
    kind: str,
    clear_of: Sequence[Polygon],
    sound: Sequence[Polygon],
    progress: Progress | None = None,
) -> list[Candidate]:
    """Every place tried for a kind of hold that is clear of all moves and of what is to stay free.

    clear_of: bed areas that nothing may stand in; sound: bed areas that nothing may bear on. Raises Cancelled.
    """
    alone = replace(held, setup=changed(held.setup, holds=()), gaps=())
    now = [h for h in held.setup.holds if h.kind == kind]
    tried = [*now, *held.kinds[kind].tries(alone, now[0] if now else None)]
    out: list[Candidate] = []
    for number, hold in enumerate(tried):
        if progress is not None and not progress(0.8 * number / len(tried)):
            raise Cancelled("The search was called off.")
        one = replace(alone, setup=changed(alone.setup, holds=(hold,)))
        parts = one.solids(hold)
        if any(s.outline.intersects(a) for s in parts for a in clear_of):
            continue
        if any(held.kinds[kind].bearing(hold, held.work).intersects(a) for a in sound) or not judged(one, hold):
            continue
        x, y = held.kinds[kind].touch_point(hold)
        outline = shapely.union_all([s.outline for s in parts])
        out.append(Candidate(hold, edge_place(held.work, x, y), number < len(now), outline))
    return sorted(out, key=lambda c: c.along)  # those that stand there now come first, as they were tried


def places(
    held: HoldingInputs, kind: str, count: int, clear_of: Sequence[Polygon], sound: Sequence[Polygon],
    progress: Progress | None = None,
) -> Suggestion:  # fmt: skip
    """The best places for a number of holds of a kind. Raises OperatorError where there are too few, and Cancelled."""
    if not 2 <= count <= 40:
        raise OperatorError("Places are suggested for two holds at least and forty at most.")
    if kind not in held.kinds or not held.kinds[kind].placed:
        raise OperatorError(NONE_TOLD)
    found = candidates(held, kind, clear_of, sound, progress)
    picked = choose(found, held.work.exterior.length, count, progress)
    if picked is None:
        raise OperatorError(
            f"There are not {count} places clear of everything for that on this bed; {len(found)} were clear one by one. Ask for "
            "fewer, lay the board elsewhere, or hold it another way."
        )
    chosen = [found[i] for i in picked]
    names = _names(held, kind, chosen)
    holds = tuple(changed(c.hold, name=n) for c, n in zip(chosen, names))
    return Suggestion(holds, longest(chosen, held.work.exterior.length), sum(not c.kept for c in chosen), len(found))


def _names(held: HoldingInputs, kind: str, chosen: Sequence[Candidate]) -> list[str]:
    """Names for chosen holds: those that stay keep theirs."""
    taken = {c.hold.name for c in chosen if c.kept} | {h.name for h in held.setup.holds if h.kind != kind}
    fresh = (f"{held.kinds[kind].figures.LETTER}{n}" for n in itertools.count(1))
    return [c.hold.name if c.kept else next(n for n in fresh if n not in taken) for c in chosen]


def longest(chosen: Sequence[Candidate], around: float) -> float:
    """The longest stretch of the edge that chosen holds leave free, mm: a whole number of TOLD_APART."""
    along = np.sort(_steps([c.along for c in chosen]))
    gaps = np.diff(np.concatenate([along, [along[0] + int(_steps([around])[0])]]))
    return int(gaps.max()) * TOLD_APART


def _steps(lengths: Sequence[float]) -> NDArray[np.int64]:
    """Lengths along the edge in whole numbers of TOLD_APART."""
    return np.rint(np.asarray(lengths, np.float64) / TOLD_APART).astype(np.int64)


def choose(found: Sequence[Candidate], around: float, count: int, progress: Progress | None = None) -> list[int] | None:
    """Which of the candidates to take: numbers into found, or nothing where no such number fits. around: of the edge, mm.

    First the least longest span for which any choice of so many fits, by halving among all spans there can be; then among
    such choices the one with the fewest moved. Ties: places are told apart to TOLD_APART, so spans are equal or they are
    not; of choices alike in both, the one whose first hold comes first along the edge. Choices are chains once round the
    edge; what chains of so many steps can do is known beforehand, so that the search that keeps holds out of each other's
    way seldom turns back.
    """
    if len(found) < count:
        return None
    along, whole = _steps([c.along for c in found]), int(_steps([around])[0])
    clash = clashes(found)
    gaps = np.unique(np.concatenate([(along[None, :] - along[:, None]).ravel() % whole, [whole]]))
    low, high = 0, len(gaps) - 1
    best = _chain(along, clash, whole, count, int(gaps[high]), found, count)
    if best is None:
        return None
    while low < high:
        if progress is not None and not progress(0.8 + 0.15 * (1.0 - (high - low) / len(gaps))):
            raise Cancelled("The search was called off.")
        middle = (low + high) // 2
        picked = _chain(along, clash, whole, count, int(gaps[middle]), found, count)
        if picked is None:
            low = middle + 1
        else:
            best, high = picked, middle
    for moved in range(count + 1):
        picked = _chain(along, clash, whole, count, int(gaps[high]), found, moved)
        if picked is not None:
            return picked
    return best


def clashes(found: Sequence[Candidate]) -> NDArray[np.bool_]:
    """Which candidates stand in each other's place: (n, n)."""
    outlines = [c.outline for c in found]
    out = np.zeros((len(found), len(found)), bool)
    tree = shapely.STRtree(outlines)
    a, b = tree.query(outlines, predicate="intersects")
    shared = shapely.area(shapely.intersection(np.array(outlines)[a], np.array(outlines)[b]))
    out[a, b] = shared > 1.0
    np.fill_diagonal(out, True)
    return out


def _chain(
    along: NDArray[np.int64], clash: NDArray[np.bool_], around: int, count: int, span: int,
    found: Sequence[Candidate], most_moved: int,
) -> list[int] | None:  # fmt: skip
    """A choice of so many with no span longer than one and no more moved than so many; nothing where there is none.

    along, around, span: whole numbers of TOLD_APART.
    """
    n = len(along)
    place = np.concatenate([along, along + around])
    price = np.array([0.0 if c.kept else 1.0 for c in found])
    step = (place[None, :] - place[:, None] <= span) & np.triu(np.ones((2 * n, 2 * n), bool), 1)
    step &= ~np.tile(clash, (2, 2)) | (np.arange(2 * n)[None, :] - np.arange(2 * n)[:, None] == n)
    for first in np.nonzero(along <= along[0] + span)[0]:
        reach = slice(first, first + n + 1)  # from the first place once round to itself
        ways = step[reach, reach]
        ways[0, n] = ways[0, n] and count == 1
        cost = np.full((count + 1, n + 1), np.inf)  # least moved from a place to the end in so many steps
        cost[0, n] = 0.0
        pay = np.concatenate([price[first:], price[: first + 1]])
        for k in range(1, count + 1):
            onward = np.where(ways, cost[k - 1][None, :], np.inf).min(axis=1)
            cost[k] = onward + pay
        if cost[count, 0] > most_moved:
            continue
        picked = _walk(ways, cost, pay, clash, int(first), n, count, most_moved)
        if picked is not None:
            return picked
    return None


def _walk(
    ways: NDArray[np.bool_], cost: NDArray[np.float64], pay: NDArray[np.float64], clash: NDArray[np.bool_], first: int,
    n: int, count: int, most: int,
) -> list[int] | None:  # fmt: skip
    """A chain whose holds are all out of each other's way, the cheapest ways on tried first."""
    path = [0]
    spent = [float(pay[0])]
    todo = [_onward(ways, cost, 0, count - 1, most - pay[0])]
    rounds = 0
    while path:
        rounds += 1
        if rounds > ROUNDS:
            return None
        left = count - len(path)
        if left == 0:
            if ways[path[-1], n]:
                return [(first + p) % n for p in path]
            path.pop(), spent.pop(), todo.pop()
            continue
        if not todo[-1]:
            path.pop(), spent.pop(), todo.pop()
            continue
        to = todo[-1].pop()
        if any(clash[(first + to) % n, (first + p) % n] for p in path):
            continue
        path.append(to)
        spent.append(spent[-1] + float(pay[to]))
        todo.append(_onward(ways, cost, to, left - 1, most - spent[-1]))
    return None


def _onward(ways: NDArray[np.bool_], cost: NDArray[np.float64], at: int, left: int, money: float) -> list[int]:
    """Where to go on to from a place with so many to choose still, the cheapest last; none where it has to close."""
    if left <= 0:
        return []
    to = np.nonzero(ways[at] & (cost[left] <= money + 1e-9))[0]
    to = to[to < ways.shape[0] - 1]
    return [int(i) for i in to[np.lexsort((-to, -cost[left][to]))]]


def free_areas(marks: Sequence[tuple[float, float]], around: float) -> list[Polygon]:
    """Discs on the bed that are to stay free, about marks and touch places."""
    return [Point(x, y).buffer(around) for x, y in marks]
