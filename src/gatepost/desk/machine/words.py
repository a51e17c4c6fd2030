# SPDX-License-Identifier: GPL-3.0-or-later
"""What is said at the machine: a caution in short, and a run that ended early."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from gatepost.core.run.screens import left
from gatepost.core.run.step import Step

BUSY = ("busy", "paused", "lifted")  # states in which something goes on
VERBS = {  # what is done, by the kind of a step
    "home": "Home",
    "warm": "Warm up",
    "zero xy": "Set X and Y",
    "zero kept": "Set X and Y",
    "zero found": "Set X and Y",
    "zero known": "Set X and Y",
    "mark": "Read mark",
    "over": "Go and look",
    "ring": "Measured",
    "take": "Take it",
    "zero z": "Touch off",
    "run": "Run",
    "jog": "Jog",
    "again": "Touch again",
    "witness": "Go and look",
    "note": "Go and look",
    "look": "Looked",
    "walk": "Walk it",
    "sensor": "Touch sensor",
    "square": "Touch both",
    "depth": "Measure",
    "rock": "Stands still",
}


def in_short(caution: str) -> str:
    """The sentences of a caution that stay in sight while it cuts; all of it was read before, and W shows it again."""
    told = [s for s in caution.split(". ") if not s.startswith("Pause and stop here")]
    words = ". ".join(told[:2])
    return words if words.endswith(".") or not words else f"{words}."


def until_it_cuts(steps: Sequence[tuple[Any, Step]], done: Sequence[bool], at: int) -> str:
    """How many screens are left from one on until the next program runs; nothing where none follows."""
    count = left([s for _, s in steps], done, at)
    return f" · {count} to go before it cuts" if count else ""


@dataclass(frozen=True)
class EndedRun:
    """A run that ended early. where: it stopped, in words; means: what is cut, and what is known; moves: that were done; program: its name."""

    where: str
    means: str
    moves: int
    program: str
