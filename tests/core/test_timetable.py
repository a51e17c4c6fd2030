# SPDX-License-Identifier: GPL-3.0-or-later
"""When everything is ready: against every order of a plain reckoning on small cases, and the laws of any table."""

import itertools
import math
from datetime import date, datetime, timedelta

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from gatepost.core.errors import OperatorError
from gatepost.core.finish.hours import parse_hours
from gatepost.core.finish.timetable import FEW, FirstStep, ShopHours, WorkStep, timetable
from tests.conftest import tries

MONDAY = datetime(2026, 11, 30)
HOURS = ShopHours(
    ((540.0, 720.0), None, (600.0, 840.0), (480.0, 1020.0), (480.0, 1020.0), None, None), ((date(2026, 12, 9), date(2026, 12, 11)), (date(2026, 12, 24), date(2026, 12, 24)))
)  # fmt: skip

STEPS = st.builds(
    lambda hands, waits, window, late, by_day: WorkStep("step", hands, waits, waits + window if window else math.inf, late if window else 0.0, "hands", by_day),
    st.sampled_from([5.0, 20.0, 45.0, 90.0, 150.0]), st.sampled_from([0.0, 30.0, 200.0, 900.0]), st.sampled_from([0.0, 30.0, 400.0]), st.sampled_from([0.0, 15.0, 30.0]), st.booleans(),
)  # fmt: skip


def open_at(hours, at):
    """Whether somebody is there in the minute that begins then: plainly, by the calendar."""
    span = hours.of(at)
    return span is not None and span[0] <= at.hour * 60 + at.minute < span[1]


def plainly(jobs, order, hours, begins):
    """When each job is ready in one order: minute by minute, each step at the first minute from which it can be done without a break."""
    minute = timedelta(minutes=1)
    dry, due, late, at = [begins] * len(jobs), [None] * len(jobs), [0.0] * len(jobs), [0] * len(jobs)
    free = begins
    for j in order:
        step = jobs[j][at[j]]
        start = max(free, dry[j])
        while True:
            more = late[j] if due[j] is not None and start > due[j] else 0.0
            count = int(step.hands + more)
            if all(open_at(hours, start + k * minute) for k in range(count)):
                break
            start += minute
        free = start + count * minute
        left, now = step.waits, free
        if step.by_day:
            while left > 0:
                left -= 1 if open_at(hours, now) else 0
                now += minute
        else:
            now += timedelta(minutes=step.waits)
        dry[j], at[j], late[j] = now, at[j] + 1, step.late
        due[j] = free + timedelta(minutes=step.within) if math.isfinite(step.within) else None
    return dry


def every_order(lengths):
    return set(itertools.permutations([j for j, n in enumerate(lengths) for _ in range(n)]))


@given(st.lists(st.lists(STEPS, min_size=1, max_size=3), min_size=1, max_size=3), st.integers(0, 1400))
@settings(max_examples=tries(12))
def test_no_order_is_better_than_the_one_that_is_told(jobs, late):
    jobs = jobs[:2] if sum(map(len, jobs)) > 5 else jobs
    begins = MONDAY + timedelta(minutes=late)
    told = timetable(jobs, HOURS, begins)
    assert told.surely
    best = min(
        (max(dry), sum((d - MONDAY).total_seconds() for d in dry))
        for dry in (plainly(jobs, o, HOURS, begins) for o in every_order([len(j) for j in jobs]))
    )
    assert (max(told.ready), sum((d - MONDAY).total_seconds() for d in told.ready)) == best


@given(
    st.lists(st.lists(STEPS, max_size=12), min_size=1, max_size=8),
    st.lists(st.integers(0, 5000), min_size=8, max_size=8),
)
@settings(max_examples=tries(12))
def test_hands_are_there_once_when_the_shop_is_open_and_nothing_is_done_before_it_is_dry(jobs, since):
    free_from = [MONDAY + timedelta(minutes=m) for m in since[: len(jobs)]]
    due = [MONDAY + timedelta(minutes=m) if m % 2 else None for m in since[-len(jobs) :]]
    told = timetable(jobs, HOURS, MONDAY, [FirstStep(at, by, 25.0) for at, by in zip(free_from, due)])
    assert sorted((s.job, s.step) for s in told.slots) == [
        (j, i) for j, steps in enumerate(jobs) for i in range(len(steps))
    ]
    for a, b in itertools.pairwise(told.slots):
        assert b.start >= a.end
    for slot in told.slots:
        step = jobs[slot.job][slot.step]
        assert (slot.end - slot.start).total_seconds() == pytest.approx(60 * (step.hands + slot.sanded))
        span = HOURS.of(slot.start)
        opens, closes = (datetime.combine(slot.start.date(), datetime.min.time()) + timedelta(minutes=m) for m in span)
        assert opens <= slot.start and slot.end <= closes and slot.start >= free_from[slot.job]
        assert slot.dry >= slot.end + timedelta(minutes=step.waits)
        before = next((s for s in told.slots if (s.job, s.step) == (slot.job, slot.step - 1)), None)
        if before is not None:
            missed = slot.start > before.end + timedelta(minutes=min(jobs[slot.job][before.step].within, 1e7))
            assert slot.start >= before.dry and slot.sanded == (jobs[slot.job][before.step].late if missed else 0.0)
        else:
            missed = due[slot.job] is not None and slot.start > due[slot.job]
            assert slot.sanded == (25.0 if missed else 0.0)
    for j, steps in enumerate(jobs):
        assert told.ready[j] == (max(s.dry for s in told.slots if s.job == j) if steps else free_from[j])


def test_many_jobs_are_no_worse_than_one_after_another():
    jobs = [
        [WorkStep(f"{j} {i}", 20.0 + 7 * ((i * j) % 9), 60.0 * ((i + j) % 7)) for i in range(20)] for j in range(20)
    ]
    told = timetable(jobs, ShopHours(), MONDAY)
    behind, last = MONDAY, []
    for job in jobs:
        last.append(timetable([job], ShopHours(), behind).ready[0])
        behind = last[-1]
    assert max(told.ready) < max(last) and not told.surely
    hands = sum(s.hands for job in jobs for s in job)
    days = math.ceil(hands / 540.0)
    assert max(told.ready) >= MONDAY + timedelta(days=days + 2 * (days // 5) - 2)  # no sooner than hands alone


def test_a_step_longer_than_any_day_is_refused_and_one_as_long_is_not():
    assert timetable([[WorkStep("run", 540.0)]], ShopHours(), MONDAY).ready[0] == MONDAY + timedelta(hours=17)
    with pytest.raises(OperatorError, match="without a break"):
        timetable([[WorkStep("run", 541.0)]], ShopHours(), MONDAY)
    with pytest.raises(OperatorError):
        timetable([[WorkStep("cure", 5.0, 3e6), WorkStep("hang", 5.0)]], ShopHours(), MONDAY)
    assert timetable([], ShopHours(), MONDAY).slots == () and FEW > 1
    late = WorkStep("run", 530.0, 0.0, 100.0, 30.0)  # its own sanding is the next one's
    assert timetable([[late]], ShopHours(), MONDAY).slots[0].sanded == 0.0
    with pytest.raises(OperatorError, match="longer hours"):
        timetable([[late, WorkStep("next", 520.0)]], ShopHours(), MONDAY)


@pytest.mark.parametrize(
    ("words", "days"),
    [
        ("Mon-Fri 8:00-17:00", ((480, 1020),) * 5 + (None, None)),
        ("sat 9-12; Mon-Wed 7:30-16", ((450, 960),) * 3 + (None, None, (540, 720), None)),
        ("Fri-Mon 10-11", ((600, 660), None, None, None, (600, 660), (600, 660), (600, 660))),
        ("Sunday 0:00-24:00", (None,) * 6 + ((0, 1440),)),
    ],
)
def test_hours_are_read_as_they_are_typed(words, days):
    assert parse_hours(words).days == days


def test_days_on_which_it_is_closed_are_left_out():
    hours = parse_hours("Mon-Sun 8-17; closed 2026-12-24 - 2027-01-02; closed 2026-12-01")
    closed = [d for d in (MONDAY + timedelta(days=n) for n in range(40)) if hours.of(d) is None]
    assert [d.day for d in closed] == [1, *range(24, 32), 1, 2]


@pytest.mark.parametrize(
    "words",
    [
        "",
        "8-17",
        "Mon 17-8",
        "Mon 8-17; Mon 9-10",
        "Mon-Fry 8-17",
        "Mon 8:75-17",
        "Mon 8-25",
        "always",
        "Mon 8-17; closed",
        "Mon 8-17; closed 2026-02-30",
        "Mon 8-17; closed 2026-12-24 - 2026-12-20",
    ],
)
def test_hours_that_can_t_be_are_refused(words):
    with pytest.raises(OperatorError):
        parse_hours(words)
