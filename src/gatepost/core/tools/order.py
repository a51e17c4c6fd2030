# SPDX-License-Identifier: GPL-3.0-or-later
"""The order of cuts by minutes, with changes, touch-offs and ways across counted, within what must come first."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache

MOST_EXACT = 12  # cuts of a setup up to which every order is weighed against every other
WIDTH = 400  # orders of tools that the quick way keeps at each change
Spot = tuple[float, float]


@dataclass(frozen=True)
class Task:
    """A cut to order. after: names of those that must come before it; begins, ends: where on the bed, mm."""

    name: str
    setup: int
    tool: int
    minutes: float
    after: tuple[str, ...] = ()
    begins: Spot = (0.0, 0.0)
    ends: Spot = (0.0, 0.0)


@dataclass(frozen=True)
class Prices:
    """What lies between cuts. change: minutes of one change with its touch-off; rapid: mm/min across, 0 where ways are not counted."""

    change: float
    rapid: float = 0.0

    def between(self, a: Task, b: Task) -> float:
        """Minutes from the end of one cut to the beginning of the next: a change where the tool is another, else the way across."""
        if a.tool != b.tool:
            return self.change
        return math.dist(a.ends, b.begins) / self.rapid if self.rapid and a.setup == b.setup else 0.0


@dataclass(frozen=True)
class Order:
    """Names in order, all minutes, and how many changes of tool that takes. least: changes that any order takes at least, since each setup has tools of
    its own; sure: whether none is quicker, every one having been weighed."""

    names: tuple[str, ...]
    minutes: float
    changes: int
    least: int = 0
    sure: bool = True


def broken_rule(tasks: Sequence[Task], names: Sequence[str]) -> str:
    """What an order breaks, in words; empty when it keeps everything."""
    if sorted(names) != sorted(t.name for t in tasks):
        return "it does not name every operation once"
    place = {name: i for i, name in enumerate(names)}
    for task in tasks:
        for before in task.after:
            if place[before] > place[task.name]:
                return f"{before} must come before {task.name}"
    setups = [next(t.setup for t in tasks if t.name == n) for n in names]
    return "setups can't be mixed" if setups != sorted(setups) else ""


def cost(tasks: Sequence[Task], names: Sequence[str], prices: Prices, sure: bool = True) -> Order:
    """Minutes of an order."""
    known = {t.name: t for t in tasks}
    row = [known[n] for n in names]
    changes = sum(a.tool != b.tool for a, b in zip(row, row[1:]))
    minutes = sum(t.minutes for t in tasks) + sum(prices.between(a, b) for a, b in zip(row, row[1:]))
    return Order(tuple(names), minutes, changes, least_changes(tasks), sure)


def least_changes(tasks: Sequence[Task]) -> int:
    """Changes that no order avoids: in each setup one fewer than its tools, and one more from setup to setup where both share no tool."""
    each = [{t.tool for t in tasks if t.setup == s} for s in sorted({t.setup for t in tasks})]
    return sum(len(tools) - 1 for tools in each) + sum(not a & b for a, b in zip(each, each[1:]))


def times(tasks: Sequence[Task], names: Sequence[str], prices: Prices) -> dict[str, tuple[float, float]]:
    """When each cut begins and ends, minutes from the start."""
    known = {t.name: t for t in tasks}
    out: dict[str, tuple[float, float]] = {}
    at, last = 0.0, None
    for task in (known[n] for n in names):
        at += prices.between(last, task) if last is not None else 0.0
        out[task.name] = (at, at + task.minutes)
        at, last = at + task.minutes, task
    return out


@dataclass(frozen=True)
class OrderTried:
    """An order with one cut elsewhere. names: of it; broken: the rule that it breaks, else nothing; more: minutes over the order it was tried against; changes: of tool."""

    names: tuple[str, ...]
    broken: str
    more: float
    changes: int

    @property
    def words(self) -> str:
        """What it costs, in a sentence."""
        if self.broken:
            return f"Not there: {self.broken}."
        count = "1 change" if self.changes == 1 else f"{self.changes} changes"
        if abs(self.more) < 0.05:
            return f"As quick, {count}."
        return f"{abs(self.more):.1f} min {'more' if self.more > 0 else 'less'}, {count}."


def dragged(tasks: Sequence[Task], names: Sequence[str], prices: Prices, name: str, to: float) -> OrderTried:
    """What becomes of an order when one cut's middle is brought to a time. to: minutes from the start."""
    at = times(tasks, names, prices)
    others = [n for n in names if n != name]
    place = sum(0.5 * sum(at[n]) < to for n in others)
    return tried(tasks, names, prices, name, place)


def tried(tasks: Sequence[Task], names: Sequence[str], prices: Prices, name: str, place: int) -> OrderTried:
    """What becomes of an order when one cut is put in a place of it, from 0."""
    others = [n for n in names if n != name]
    place = min(max(place, 0), len(others))
    new = (*others[:place], name, *others[place:])
    broken = broken_rule(tasks, new)
    now, then = cost(tasks, names, prices), cost(tasks, new, prices)
    return OrderTried(new, broken, then.minutes - now.minutes, then.changes)


def best_order(tasks: Sequence[Task], prices: Prices) -> Order:
    """The order of least minutes; of equals the first by names. Every order is weighed in setups of up to MOST_EXACT cuts; in larger ones the tools'
    order is, WIDTH at a time, and each tool takes the nearest cut that may come next."""
    return _best(tuple(tasks), prices)


Way = tuple[float, tuple[str, ...]]  # minutes between cuts so far, and the names in their order


@lru_cache(maxsize=64)
def _best(tasks: tuple[Task, ...], prices: Prices) -> Order:
    known = {t.name: t for t in tasks}
    ways: dict[str, Way] = {"": (0.0, ())}  # by the cut that was last
    sure = True
    for setup in sorted({t.setup for t in tasks}):
        here = tuple(t for t in tasks if t.setup == setup)
        exact = len(here) <= MOST_EXACT
        sure = sure and exact
        ways = (_weighed if exact else _quickly)(here, known, ways, prices)
    found = [w for w in ways.values() if len(w[1]) == len(tasks)]
    names = min(found, key=lambda w: (round(w[0], 9), w[1]))[1] if found else tuple(t.name for t in tasks)
    return cost(tasks, names, prices, sure)


def _needs(here: Sequence[Task]) -> list[int]:
    """By each cut those of its setup that must be done before, as bits."""
    at = {t.name: i for i, t in enumerate(here)}
    return [sum(1 << at[b] for b in dict.fromkeys(t.after) if b in at) for t in here]


def _weighed(here: Sequence[Task], known: dict[str, Task], before: dict[str, Way], prices: Prices) -> dict[str, Way]:
    """The best way to every cut that can be last, over what is done and what was last (Held and Karp, 1962)."""
    needs = _needs(here)
    layer: dict[tuple[int, str], Way] = {(0, last): way for last, way in before.items()}
    for _ in here:
        further: dict[tuple[int, str], Way] = {}
        for (done, last), (minutes, names) in layer.items():
            for i, task in enumerate(here):
                if done >> i & 1 or needs[i] & ~done:
                    continue
                more = prices.between(known[last], task) if last else 0.0
                way = (minutes + more, (*names, task.name))
                key = (done | 1 << i, task.name)
                if key not in further or _first(way, further[key]):
                    further[key] = way
        layer = further
    return {last: way for (_, last), way in layer.items()}


def _first(a: Way, b: Way) -> bool:
    """Whether one way is quicker than another, or as quick and named first."""
    return a[0] < b[0] - 1e-9 or (a[0] < b[0] + 1e-9 and a[1] < b[1])


def _quickly(here: Sequence[Task], known: dict[str, Task], before: dict[str, Way], prices: Prices) -> dict[str, Way]:
    """Tool after tool, each doing all that may be done with it, the nearest first."""
    needs, tools = _needs(here), sorted({t.tool for t in here})
    whole = (1 << len(here)) - 1
    layer: dict[tuple[int, str], Way] = {(0, last): way for last, way in before.items()}
    ends: dict[str, Way] = {}
    while layer:
        further: dict[tuple[int, str], Way] = {}
        for (done, last), way in layer.items():
            for tool in tools:
                now, at, there = _all_of(here, needs, tool, done, last, way, known, prices)
                if now == done:
                    continue
                if now == whole:
                    if at not in ends or _first(there, ends[at]):
                        ends[at] = there
                elif (now, at) not in further or _first(there, further[now, at]):
                    further[now, at] = there
        layer = dict(sorted(further.items(), key=lambda e: (round(e[1][0], 9), -e[0][0].bit_count(), e[1][1]))[:WIDTH])
    return ends or before


def _all_of(
    here: Sequence[Task], needs: list[int], tool: int, done: int, last: str, way: Way, known: dict[str, Task], prices: Prices
) -> tuple[int, str, Way]:  # fmt: skip
    """All that one tool may do now: what is done then, the last cut, and the way there."""
    minutes, names = way
    while True:
        free = [i for i, t in enumerate(here) if t.tool == tool and not done >> i & 1 and not needs[i] & ~done]
        if not free:
            return done, last, (minutes, names)
        dear = [(prices.between(known[last], here[i]) if last else 0.0, here[i].name, i) for i in free]
        more, last, i = min(dear)
        minutes, names, done = minutes + more, (*names, last), done | 1 << i
