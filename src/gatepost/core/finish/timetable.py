# SPDX-License-Identifier: GPL-3.0-or-later
"""When everything is ready: steps of several jobs one after another by one pair of hands within the shop's hours, while coats dry by themselves.

Every step begins as early as it may, when the one before it has dried and hands are there; what is tried is the order: all orders where there are few, else the best
that is found by moving one step at a time. Holding a coat back so that its window is not missed is not tried (docs/decisions/0047).
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, field
from datetime import date, datetime, timedelta

from gatepost.core.errors import OperatorError

DAY = 24 * 60
TOO_LATE = "It would be ready later than two years from now. Look at the shop's hours, and at what is to be done."
FEW = 6000  # orders that are all tried
STEPS = 60_000  # that are placed in all while orders are tried, where there are more
MOST_DAYS = 800  # that anything may lie ahead


@dataclass(frozen=True)
class ShopHours:
    """When hands are there. days: of each day of the week from Monday, from and to, minutes from midnight, nothing where it is closed; free: from and to which dates it is closed, both counted."""

    days: tuple[tuple[float, float] | None, ...] = ((480, 1020),) * 5 + (None, None)
    free: tuple[tuple[date, date], ...] = ()

    def of(self, at: datetime) -> tuple[float, float] | None:
        """From and to on a date, minutes from midnight."""
        closed = any(first <= at.date() <= last for first, last in self.free)
        return None if closed else self.days[at.weekday()]


@dataclass(frozen=True)
class WorkStep:
    """A step of a job. hands: minutes that somebody is at it; waits: minutes that it dries after that, before the next may begin; within: minutes after its end by which the next
    must have begun, or nothing; late: minutes more of the next where it had not (it is sanded first); kind: for pictures; by_day: whether it dries only while the shop is open, the nights being too cold for it; detail: how it is done, and what to mind; off: times its hands that it may take instead, less and more."""

    name: str
    hands: float
    waits: float = 0.0
    within: float = math.inf
    late: float = 0.0
    kind: str = "hands"
    by_day: bool = False
    detail: str = ""
    off: tuple[float, float] = (1.0, 1.0)


@dataclass(frozen=True)
class FirstStep:
    """What a job's first step comes after. dry: before which it is not begun; due: by which it must have begun, or nothing; late: minutes more of it where it had not."""

    dry: datetime
    due: datetime | None = None
    late: float = 0.0


@dataclass(frozen=True)
class WorkSlot:
    """When a step is done. job, step: which, from 0; start, end: of the hands; dry: when the next may begin; sanded: minutes more, as the coat before it had waited too long."""

    job: int
    step: int
    start: datetime
    end: datetime
    dry: datetime
    sanded: float = 0.0


@dataclass(frozen=True)
class Timetable:
    """What is done when. slots: in their order; ready: of each job, when its last step has dried; surely: whether all orders were tried."""

    slots: tuple[WorkSlot, ...]
    ready: tuple[datetime, ...]
    surely: bool


@dataclass
class _Shop:
    """The hours as minutes from the midnight before the beginning."""

    hours: ShopHours
    origin: datetime
    spans: list[tuple[float, float]] = field(default_factory=list)
    longest: float = 0.0

    def __post_init__(self) -> None:
        for day in range(MOST_DAYS):
            span = self.hours.of(self.origin + timedelta(days=day))
            if span is not None and span[1] > span[0]:
                self.spans.append((day * DAY + span[0], day * DAY + span[1]))
        self.longest = max((b - a for a, b in self.spans), default=0.0)

    def fits(self, at: float, minutes: float, span: int) -> tuple[float, int]:
        """The earliest time from one on at which somebody is there for so long, and the day's number, from which it is looked for on."""
        for i in range(span, len(self.spans)):
            begins, ends = self.spans[i]
            start = max(at, begins)
            if start + minutes <= ends + 1e-9:
                return start, i
        raise OperatorError(TOO_LATE)

    def dried(self, at: float, minutes: float, by_day: bool) -> float:
        """When something has dried for so long. by_day: only while the shop is open."""
        if not by_day or minutes <= 0.0:
            return at + minutes
        for begins, ends in self.spans:
            here = max(0.0, ends - max(at, begins))
            if here >= minutes:
                return max(at, begins) + minutes
            minutes -= here
        raise OperatorError(TOO_LATE)


BEGUN = ("longest left", "dries longest", "shortest")
FAR = (1, 2, 4, 8)  # places that a step is moved forward by
Jobs = Sequence[Sequence[WorkStep]]
Times = tuple[float, float]  # the last job's ready time, and all of them summed: what is made small


def dry_at(hours: ShopHours, at: datetime, minutes: float, by_day: bool) -> datetime:
    """When what was coated at a time has dried. Raises OperatorError where that lies too far ahead."""
    origin = datetime(at.year, at.month, at.day)
    shop = _Shop(hours, origin)
    return origin + timedelta(minutes=shop.dried((at - origin).total_seconds() / 60.0, minutes, by_day))


def timetable(jobs: Jobs, hours: ShopHours, begins: datetime, firsts: Sequence[FirstStep] = ()) -> Timetable:
    """The earliest times of all steps. begins: before which nothing is done; firsts: of each job, what its first step comes after.

    The last job is ready as early as may be, and then all of them together. Raises OperatorError where a step is longer than any day of the shop is.
    """
    origin = datetime(begins.year, begins.month, begins.day)
    shop = _Shop(hours, origin)
    firsts = list(firsts) or [FirstStep(begins)] * len(jobs)
    for steps, first in zip(jobs, firsts):
        more = [
            first.late if first.due is not None else 0.0,
            *(s.late if math.isfinite(s.within) else 0.0 for s in steps),
        ]
        for late, step in zip(more, steps):
            hands = step.hands + late
            if hands > shop.longest + 1e-9:
                raise OperatorError(
                    f"{step.name} takes {hands / 60:.1f} h without a break, and the shop is open for {shop.longest / 60:.1f} h at a stretch. Type longer hours for the day on which it is done."
                )

    def after(at: datetime) -> float:
        return (at - origin).total_seconds() / 60.0

    since = [max(after(f.dry), after(begins)) for f in firsts]
    due = [(after(f.due), f.late) if f.due is not None else (math.inf, 0.0) for f in firsts]
    trial = _Trial(jobs, shop, since, due)
    count = _orders([len(s) for s in jobs])
    if count <= FEW:
        best = trial.every()
        surely = True
    else:
        best = trial.moved()
        surely = False
    return trial.table(best, surely)


def _orders(lengths: Sequence[int]) -> int:
    """In how many orders steps of several jobs can be done, each job's own in theirs."""
    total, out = 0, 1
    for n in lengths:
        total += n
        out *= math.comb(total, n)
    return out


@dataclass
class _Trial:
    """Orders tried. An order names jobs, each as often as it has steps."""

    jobs: Jobs
    shop: _Shop
    since: list[float]
    due: list[tuple[float, float]]

    def placed(self, order: Sequence[int]) -> tuple[Times, list[tuple[int, int, float, float, float, float]]]:
        """All steps as early as may be in an order: what is made small, and of each job, step, start, end, dry and minutes of sanding."""
        at = [0] * len(self.jobs)
        dry, due, late = list(self.since), [d for d, _ in self.due], [more for _, more in self.due]
        free, span = 0.0, 0
        out = []
        for j in order:
            step = self.jobs[j][at[j]]
            ready = max(free, dry[j])
            start, span_ = self.shop.fits(ready, step.hands, span)
            more = 0.0
            if start > due[j] + 1e-9:
                more = late[j]
                start, span_ = self.shop.fits(ready, step.hands + more, span)
            end = start + step.hands + more
            free, span = end, span_
            dry[j] = self.shop.dried(end, step.waits, step.by_day)
            due[j], late[j] = end + step.within, step.late
            out.append((j, at[j], start, end, dry[j], more))
            at[j] += 1
        ends = [d for d, steps in zip(dry, self.jobs) if steps]
        return (max(ends, default=0.0), math.fsum(ends)), out

    def every(self) -> list[int]:
        """The best of all orders."""
        lengths = [len(s) for s in self.jobs]
        best: tuple[Times, list[int]] | None = None
        left = list(lengths)
        order: list[int] = []

        def go() -> None:
            nonlocal best
            if not any(left):
                times = self.placed(order)[0]
                if best is None or times < best[0]:
                    best = (times, list(order))
                return
            for j, n in enumerate(left):
                if n:
                    left[j] -= 1
                    order.append(j)
                    go()
                    order.pop()
                    left[j] += 1

        go()
        assert best is not None
        return best[1]

    def moved(self) -> list[int]:
        """The best of three beginnings, bettered by moving a step before some of other jobs, as long as that helps and there is time."""
        first = [self._begun(by) for by in BEGUN]
        best = min(first, key=lambda order: self.placed(order)[0])
        times = self.placed(best)[0]
        left, i, far = STEPS // max(len(best), 1), 1, 1
        since = 0  # places tried since something helped
        while left > 0 and since <= len(best) * len(FAR):
            i += 1
            if i >= len(best):
                i, far = 1, FAR[(FAR.index(far) + 1) % len(FAR)]
            since += 1
            to = i - far
            if to < 0 or best[i] in best[to:i]:
                continue
            tried = [*best[:to], best[i], *best[to:i], *best[i + 1 :]]
            left -= 1
            found = self.placed(tried)[0]
            if found < times:
                best, times, since = tried, found, 0
        return best

    def _begun(self, by: str) -> list[int]:
        """Whoever's step can begin first goes first; of several, that with the most still to do, or the one that dries the longest."""
        at = [0] * len(self.jobs)
        dry = list(self.since)
        left = [math.fsum(s.hands + s.waits for s in steps) for steps in self.jobs]
        free, span = 0.0, 0
        order: list[int] = []
        for _ in range(sum(len(s) for s in self.jobs)):
            found: tuple[tuple[float, float], int, int] | None = None
            for j, steps in enumerate(self.jobs):
                if at[j] == len(steps):
                    continue
                step = steps[at[j]]
                start, there = self.shop.fits(max(free, dry[j]), step.hands, span)
                rank = {"longest left": -left[j], "dries longest": -step.waits, "shortest": left[j]}[by]
                if found is None or (start, rank) < found[0]:
                    found = (start, rank), j, there
            assert found is not None
            (start, _), j, span = found
            step = self.jobs[j][at[j]]
            free = start + step.hands
            dry[j] = self.shop.dried(free, step.waits, step.by_day)
            left[j] -= step.hands + step.waits
            at[j] += 1
            order.append(j)
        return order

    def table(self, order: Sequence[int], surely: bool) -> Timetable:
        """An order with its times."""
        _, placed = self.placed(order)

        def when(minutes: float) -> datetime:
            return self.shop.origin + timedelta(minutes=minutes)

        slots = tuple(WorkSlot(j, s, when(a), when(b), when(c), more) for j, s, a, b, c, more in placed)
        ready = []
        for j in range(len(self.jobs)):
            ready.append(next((s.dry for s in reversed(slots) if s.job == j), when(self.since[j])))
        return Timetable(slots, tuple(ready), surely)
