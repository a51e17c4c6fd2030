# SPDX-License-Identifier: GPL-3.0-or-later
"""How far a finish has come, what comes next, and when it is ready from there on."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import datetime, timedelta

from gatepost.core.errors import OperatorError
from gatepost.core.finish.hours import parse_hours
from gatepost.core.finish.scheme import FinishStep, FinishWork, finish_steps
from gatepost.core.finish.timetable import FirstStep, ShopHours, Timetable, WorkStep, dry_at, timetable
from gatepost.core.job.finish import StepDone


@dataclass(frozen=True)
class FinishSoFar:
    """done: the first steps, each with its record; left: those that are still to do, in their order."""

    done: tuple[tuple[FinishStep, StepDone], ...]
    left: tuple[FinishStep, ...]

    @property
    def next(self) -> FinishStep | None:
        """What is done now."""
        return self.left[0] if self.left else None


def so_far(w: FinishWork) -> FinishSoFar:
    """How far it has come: up to the first step that was not done. One that was done, and then got one before it that was not, is to do again."""
    known = {d.step: d for d in w.finish.done}
    steps = finish_steps(w)
    n = next((i for i, step in enumerate(steps) if step.key not in known), len(steps))
    return FinishSoFar(tuple((s, known[s.key]) for s in steps[:n]), tuple(steps[n:]))


def first_step(gone: FinishSoFar, hours: ShopHours, now: datetime) -> FirstStep:
    """When the next step may begin, and until when it must have. A record without a time holds nothing back."""
    if not gone.done:
        return FirstStep(now)
    step, record = gone.done[-1]
    try:
        at = datetime.fromisoformat(record.at)
    except ValueError:
        return FirstStep(now)
    at = at.astimezone().replace(tzinfo=None) if at.tzinfo is not None else at
    due = at + timedelta(minutes=step.within) if math.isfinite(step.within) else None
    return FirstStep(max(now, dry_at(hours, at, step.waits, step.by_day)), due, float(math.ceil(step.late)))


def _timed(steps: Sequence[FinishStep]) -> list[WorkStep]:
    """As they are timed, in whole minutes, rounded up. Raises OperatorError where something never dries."""
    stuck = next((s.stuck for s in steps if s.stuck), "")
    if stuck:
        raise OperatorError(stuck)
    return [
        WorkStep(s.brief or s.title, _whole(s.hands), _whole(s.waits), s.within, _whole(s.late), s.kind, s.by_day, " ".join((s.detail, *s.cautions)).strip(), s.off)
        for s in steps
    ]  # fmt: skip


def work_steps(w: FinishWork) -> list[WorkStep]:
    """All that is still to do. Raises OperatorError where something never dries."""
    return _timed(so_far(w).left)


def starts(w: FinishWork, hours: ShopHours, now: datetime) -> FirstStep:
    """When work goes on: on the day that was typed, and when what was coated last has dried."""
    begins = max(datetime.fromisoformat(w.finish.begins), now) if w.finish.begins else now
    first = first_step(so_far(w), hours, begins)
    return replace(first, dry=max(first.dry, begins))


def alone(w: FinishWork, now: datetime) -> tuple[list[WorkStep], Timetable, ShopHours]:
    """When a job is ready with nothing beside it. now: when it begins where no day was typed, or that is past. Raises OperatorError."""
    hours = parse_hours(w.finish.hours)
    steps = work_steps(w)
    return steps, timetable([steps], hours, now, [starts(w, hours, now)]), hours


def _whole(minutes: float) -> float:
    return float(math.ceil(minutes - 1e-9))
