# SPDX-License-Identifier: GPL-3.0-or-later
"""The order of operations by minutes, with changes and touch-offs counted, within what must come first."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cache


@dataclass(frozen=True)
class Task:
    """An operation to order. after: names of those that must come before it."""

    name: str
    setup: int
    tool: int
    minutes: float
    after: tuple[str, ...] = ()


@dataclass(frozen=True)
class Order:
    """Names in order, all minutes, and how many changes of tool that takes."""

    names: tuple[str, ...]
    minutes: float
    changes: int


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


def cost(tasks: Sequence[Task], names: Sequence[str], change_minutes: float) -> Order:
    """Minutes of an order. change_minutes: of one change with its touch-off."""
    known = {t.name: t for t in tasks}
    tools = [(known[n].setup, known[n].tool) for n in names]
    changes = sum(1 for a, b in zip(tools, tools[1:]) if a[1] != b[1])
    return Order(tuple(names), sum(t.minutes for t in tasks) + changes * change_minutes, changes)


def best_order(tasks: Sequence[Task], change_minutes: float) -> Order:
    """The order of least minutes; of equals the first by name of operation. Exact, over subsets done so far."""
    tasks = tuple(tasks)
    index = {t.name: i for i, t in enumerate(tasks)}
    needs = [sum(1 << index[b] for b in t.after if b in index) for t in tasks]
    for i, t in enumerate(tasks):  # a setup is finished before the next begins
        needs[i] |= sum(1 << j for j, u in enumerate(tasks) if u.setup < t.setup)

    @cache
    def rest(done: int, tool: int) -> tuple[float, tuple[str, ...]]:
        if done == (1 << len(tasks)) - 1:
            return 0.0, ()
        options = []
        for i, task in enumerate(tasks):
            if done >> i & 1 or needs[i] & ~done:
                continue
            after, names = rest(done | 1 << i, task.tool)
            change = change_minutes if tool not in (0, task.tool) else 0.0
            options.append((after + change, (task.name, *names)))
        return min(options) if options else (float("inf"), ())

    _, names = rest(0, 0)
    return cost(tasks, names, change_minutes)
