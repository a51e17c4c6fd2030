# SPDX-License-Identifier: GPL-3.0-or-later
"""Steps of like kind beside each other, seen on one screen: each with its own answer. Never a guard, and never what moves an axis."""

from __future__ import annotations

from collections.abc import Sequence

from gatepost.core.run.step import Step

ALIKE = {
    "turn": "lay",
    "shims": "lay",
    "hold": "lay",
    "set": "set",
    "list": "list",
    "depth": "depth",
}  # by the first word of a step: those that are answered with hands and eyes, one like the other
MOST = 9  # on one screen: each has a digit


def _alike(one: Step, other: Step) -> bool:
    first, then = (s.key.partition("-")[0] for s in (one, other))
    if one.moves or other.moves or one.guard or other.guard or one.setup != other.setup:
        return False
    return first in ALIKE and ALIKE[first] == ALIKE.get(then)


def screens(steps: Sequence[Step]) -> list[range]:
    """Which steps are seen together, by their places: each in one of them, in order."""
    out: list[range] = []
    for i, step in enumerate(steps):
        if out and len(out[-1]) < MOST and _alike(steps[out[-1].start], step):
            out[-1] = range(out[-1].start, i + 1)
        else:
            out.append(range(i, i + 1))
    return out


def screen_of(steps: Sequence[Step], at: int) -> range:
    """The steps seen with one."""
    return next((r for r in screens(steps) if at in r), range(at, at + 1))


def left(steps: Sequence[Step], done: Sequence[bool], at: int) -> int:
    """How many screens still ask something, from a step on, before the next program runs; 0 where none follows."""
    run = next((i for i in range(at, len(steps)) if steps[i].kind == "run" and not done[i]), None)
    if run is None:
        return 0
    return sum(any(not done[i] for i in r if at <= i < run) for r in screens(steps) if r.stop > at and r.start < run)
