# SPDX-License-Identifier: GPL-3.0-or-later
"""A lesson of the shop: what it is tied to, where it comes back, how old it is, and whether it held."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, field
from datetime import date

from gatepost.core.errors import OperatorError
from gatepost.core.job.hold import Hold
from gatepost.core.job.tool import Tool
from gatepost.core.units import mm

TIED = ("wood", "tool", "kind", "hold", "machine")  # what a lesson can be tied to
OLD = 730  # days after which a lesson that nobody judged since is told as old; a shop rule
WORDS = 300  # letters of a lesson at the most


@dataclass(frozen=True)
class AmountKind:
    """A figure of a tool that a lesson can be about. name: the tool's own; words: on screen; per: what it is told in."""

    name: str
    words: str
    per: str


AMOUNTS = {
    a.name: a
    for a in (
        AmountKind("feed", "feed", "a minute"), AmountKind("plunge", "feed down", "a minute"), AmountKind("rpm", "spindle speed", "rpm"),
        AmountKind("pass_depth", "depth of a pass", ""),
    )
}  # fmt: skip
BEARS = {"feed": "tools", "plunge": "tools", "rpm": "tools", "pass_depth": "tools"}  # the page that has the figure


@dataclass(frozen=True)
class Declined:
    """That a lesson was not followed in a job, with the reason."""

    job: str
    why: str
    at: str


@dataclass(frozen=True)
class Lesson:
    """stage: the page at which it comes back; wood, tool, kind, hold, machine: what it is tied to, nothing for any; amount: a name of AMOUNTS, or nothing; bad, good: at which it went wrong and
    right, in the tool's own units; made: a date; run: that it comes from, 0 for none; held, failed: how often it was judged so; judged: when last; ended: when it was put away, or nothing."""

    words: str
    stage: str = "tools"
    wood: str = ""
    tool: str = ""
    kind: str = ""
    hold: str = ""
    machine: str = ""
    amount: str = ""
    bad: float | None = None
    good: float | None = None
    made: str = ""
    run: int = 0
    held: int = 0
    failed: int = 0
    judged: str = ""
    declined: tuple[Declined, ...] = ()
    ended: str = ""
    id: int = 0

    def problem(self) -> str:
        """What is wrong with it, in a sentence, or nothing."""
        if not self.words.strip():
            return "A lesson wants words: what to do otherwise."
        if len(self.words) > WORDS:
            return f"A lesson is a sentence or two: {WORDS} letters at the most."
        if not any(getattr(self, name).strip() for name in TIED):
            return "Tie it to something: a wood, a tool, a kind of work, a way of holding or a machine. Else it would come back in every job."
        if self.amount and self.amount not in AMOUNTS:
            return f"“{self.amount}” is no figure that a lesson can be about."
        if self.amount and self.bad is None and self.good is None:
            return f"Type the {AMOUNTS[self.amount].words} at which it went wrong, or the one at which it went right."
        if any(v is not None and not 0.0 < v < 1e6 for v in (self.bad, self.good)):
            return "A figure of a lesson must be more than 0."
        if self.bad is not None and self.bad == self.good:
            return "It can't have gone wrong and right at the same figure."
        return ""

    def checked(self) -> Lesson:
        """Itself. Raises OperatorError."""
        wrong = self.problem()
        if wrong:
            raise OperatorError(wrong)
        return self


@dataclass(frozen=True)
class Doing:
    """One thing that a job does: a cut in a setup."""

    setup: str
    wood: str
    tool: Tool
    kind: str
    holds: tuple[str, ...] = ()
    machine: str = ""


@dataclass(frozen=True)
class Recalled:
    """A lesson that fits what is planned. doings: which of it; against: those whose figure lies on the side on which it went wrong."""

    lesson: Lesson
    doings: tuple[Doing, ...]
    against: tuple[Doing, ...] = field(default=())


def _same(one: str, other: str) -> bool:
    return one.strip().casefold() == other.strip().casefold()


def fits(lesson: Lesson, doing: Doing) -> bool:
    """Whether all that a lesson is tied to is what is done."""
    plain = (("wood", doing.wood), ("tool", doing.tool.name), ("kind", doing.kind), ("machine", doing.machine))
    if any(getattr(lesson, name).strip() and not _same(getattr(lesson, name), value) for name, value in plain):
        return False
    return not lesson.hold.strip() or any(_same(lesson.hold, h) for h in doing.holds)


def against(lesson: Lesson, tool: Tool) -> bool:
    """Whether a tool's figure lies where it went wrong: at it or beyond it, away from where it went right; with both known, nearer to the wrong one by ratio."""
    if not lesson.amount:
        return False
    value = float(getattr(tool, lesson.amount))
    bad, good = lesson.bad, lesson.good
    if bad is None:
        return good is not None and abs(value / good - 1.0) > 0.01
    if good is None:
        return abs(value / bad - 1.0) <= 0.05
    middle = math.sqrt(bad * good)
    return value < middle if bad < good else value > middle


def recall(lessons: Sequence[Lesson], doings: Sequence[Doing]) -> list[Recalled]:
    """Lessons that fit, those against what is planned first, then by how often they held."""
    out = []
    for lesson in lessons:
        mine = tuple(d for d in doings if fits(lesson, d))
        if mine and not lesson.ended:
            out.append(Recalled(lesson, mine, tuple(d for d in mine if against(lesson, d.tool))))
    return sorted(out, key=lambda r: (not r.against, r.lesson.failed - r.lesson.held, r.lesson.id))


def amount_words(lesson: Lesson) -> str:
    """Its figures in words, or nothing."""
    if not lesson.amount:
        return ""
    kind = AMOUNTS[lesson.amount]

    def told(value: float) -> str:
        plain = f"{value:.0f}" if lesson.amount == "rpm" else mm(value)
        return f"{plain} {kind.per}".strip()

    parts = [f"wrong at {told(lesson.bad)}"] if lesson.bad is not None else []
    parts += [f"right at {told(lesson.good)}"] if lesson.good is not None else []
    return f"{kind.words} {', '.join(parts)}"


def age_words(lesson: Lesson, today: date) -> str:
    """How old it is and how it did since: of whom it is to be believed."""
    told = [f"of {lesson.made}"] if lesson.made else []
    if lesson.held or lesson.failed:
        times = f"held {times_words(lesson.held)}" if lesson.held else ""
        not_so = f"did not hold {times_words(lesson.failed)}" if lesson.failed else ""
        told.append(" and ".join(w for w in (times, not_so) if w))
    else:
        told.append("not judged since")
    if is_old(lesson, today):
        told.append("old: try it on scrap before it is believed")
    return ", ".join(told)


def times_words(count: int) -> str:
    """Once, twice, 3 times."""
    return {1: "once", 2: "twice"}.get(count, f"{count} times")


def is_old(lesson: Lesson, today: date) -> bool:
    """Whether nobody has judged it for long."""
    last = max(lesson.made, lesson.judged)[:10]
    try:
        return (today - date.fromisoformat(last)).days > OLD
    except ValueError:
        return False


def held_kinds(holds: Sequence[Hold]) -> tuple[str, ...]:
    """What a setup is held by."""
    return tuple(dict.fromkeys(h.kind for h in holds))
