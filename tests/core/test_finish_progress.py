# SPDX-License-Identifier: GPL-3.0-or-later
"""A finish as it goes on: what is next, when it is ready from there, and what minutes the shop's own record makes of it."""

import math
from dataclasses import replace
from datetime import datetime, timedelta

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from gatepost.core.errors import OperatorError
from gatepost.core.finish import scheme
from gatepost.core.finish.own_times import CARVED_HERE, CARVED_SIMULATED, own_times, record_of, taken_by_hands
from gatepost.core.finish.progress import alone, so_far, starts
from gatepost.core.finish.timetable import ShopHours
from gatepost.core.job.finish import Finish, OwnTime, StepDone
from gatepost.core.run.learning import ENOUGH
from tests.core.test_finish_steps import work

MONDAY = datetime(2026, 11, 30, 8, 0)
SCHEMES = [s for s in scheme.WORDS if s]


def recorded(w, many, at=lambda n: MONDAY, minutes=0.0):
    """The first steps done."""
    steps = scheme.finish_steps(w)[:many]
    done = tuple(
        StepDone(step=s.key, at=at(n).isoformat(), work=s.work, planned=s.rule, minutes=minutes)
        for n, s in enumerate(steps)
    )
    return replace(w, finish=w.finish.model_copy(update={"done": done}))


@given(st.sampled_from(SCHEMES), st.integers(0, 40), st.sampled_from([None, 2.0]))
def test_work_that_goes_as_it_was_planned_is_ready_when_it_was_planned(name, many, night):
    w = work(name)
    w = replace(w, finish=w.finish.model_copy(update={"night": night}))
    _, whole, _ = alone(w, MONDAY)
    slots = sorted(whole.slots, key=lambda s: s.step)
    many = min(many, len(slots))
    gone = recorded(w, many, lambda n: slots[n].end)
    assert len(so_far(gone).done) == many and len(so_far(gone).left) == len(slots) - many
    now = slots[many - 1].end if many else MONDAY
    _, left, _ = alone(gone, now)
    assert left.ready == whole.ready
    assert [s.start for s in sorted(left.slots, key=lambda s: s.step)] == [s.start for s in slots[many:]]


@pytest.mark.parametrize("name", SCHEMES)
def test_a_coat_is_not_gone_over_before_it_is_dry_and_is_sanded_when_its_time_is_over(name):
    w = work(name)
    w = replace(
        w,
        finish=w.finish.model_copy(
            update={"tins": tuple(t.model_copy(update={"within": t.recoat + 600.0}) for t in w.finish.tins)}
        ),
    )
    for n, step in enumerate(scheme.finish_steps(w)):
        gone = recorded(w, n + 1)
        soon, late = (starts(gone, ShopHours(), MONDAY + timedelta(days=d)) for d in (0, 90))
        assert soon.dry == MONDAY + timedelta(minutes=step.waits) and late.dry == MONDAY + timedelta(days=90)
        windows = math.isfinite(step.within)
        assert (
            (late.due is not None and late.due < late.dry and late.late >= step.late > 0.0)
            if windows
            else late.due is None
        )


def test_a_step_that_came_in_between_is_to_do_and_so_is_all_after_it():
    w = work("oiled")
    gone = recorded(w, 3)
    assert len(so_far(gone).done) == 3
    hole = gone.finish.done[:1] + gone.finish.done[2:]
    missed = replace(gone, finish=gone.finish.model_copy(update={"done": hole}))
    assert len(so_far(missed).done) == 1 and so_far(missed).next.key == scheme.finish_steps(w)[1].key


@pytest.mark.parametrize("at", ["", "yesterday", "2026-11-30T08:00:00+00:00", "2026-11-30T08:00:00"])
def test_a_record_of_any_time_holds_nothing_back_for_ever(at):
    w = recorded(work("oiled"), 1)
    w = replace(w, finish=w.finish.model_copy(update={"done": (w.finish.done[0].model_copy(update={"at": at}),)}))
    assert alone(w, MONDAY + timedelta(days=30))[1].ready[0] >= MONDAY + timedelta(days=30)


TRUE = {"clean up": {"soft": 1.6, "medium": 1.1, "hard": 0.7}, "sand": {"soft": 1.2, "medium": 1.2, "hard": 1.9}, "brush on": {"soft": 0.8, "medium": 0.8, "hard": 0.8}}  # fmt: skip


@pytest.mark.parametrize("seed", range(6))
def test_a_year_of_hands_drawn_from_known_factors_is_found_again(seed):
    rng = np.random.default_rng(seed)
    records = []
    for _ in range(150):
        wood = str(rng.choice(["soft", "medium", "hard"]))
        done = [StepDone(step="run", at="", work=CARVED_HERE)] + [
            StepDone(step=f"s{n}", at="2026-03-02T09:00:00", work=work_, planned=float(p), minutes=float(p) * by[wood] * math.exp(rng.normal(0, 0.2)))
            for n, ((work_, by), p) in enumerate(zip(TRUE.items(), rng.uniform(3, 60, 3)))
        ]  # fmt: skip
        records.append(record_of(Finish(done=done), wood))
    own = own_times(taken_by_hands(records), "2026-11-30")
    found = 0
    for work_, by in TRUE.items():
        for wood, factor in by.items():
            known = scheme.own_time(own, work_, wood)
            off = abs(math.log(known.factor / factor))
            assert off < math.log(known.spread) <= 2 * 0.2 or work_ == "brush on"
            found += off <= math.log(known.within)
    assert found >= 7  # of nine, each in 95 of 100


def test_hands_are_by_own_record_where_there_is_one_and_rules_are_never_compounded():
    w = work("oiled")
    own = (OwnTime(work="sand", factor=2.0, spread=1.5, count=4), OwnTime(work="sand", wood="hard", factor=9.0, count=4), OwnTime(work="clean up", factor=0.5, count=3))  # fmt: skip
    known = replace(w, finish=w.finish.model_copy(update={"own": own}))
    for plain, step in zip(scheme.finish_steps(w), scheme.finish_steps(known)):
        times = {"sand": 9.0 if w.wood == "hard" else 2.0, "clean up": 0.5}.get(step.work, 1.0)
        assert step.hands == pytest.approx(plain.hands * times) and step.rule == plain.rule == plain.hands
        assert step.off == ((1.0, 1.0) if step.kind == "run" else step.off)
    sand = next(s for s in scheme.finish_steps(known) if s.work == "sand")
    assert sand.off == ((1 / 1.5, 1.5) if w.wood != "hard" else (1.0, 1.0))


def test_too_few_steps_and_what_can_t_be_read_teach_nothing():
    rows = [{"wood": "soft", "steps": [{"work": "sand", "planned": 10, "real": 20}] * (ENOUGH - 1)}]
    assert own_times(taken_by_hands(rows), "2026-11-30") == ()
    bad = [
        {"steps": [{"work": "sand", "planned": None, "real": 3}, {}, {"work": "sand", "planned": "x", "real": 1}]},
        {},
    ]
    assert taken_by_hands(bad) == []
    sanded = [StepDone(step=step, at="", work="sand", planned=5.0, minutes=m) for step, m in (("a", 0.0), ("b", 7.0))]
    for carved, counts in ((CARVED_HERE, 1), (CARVED_SIMULATED, 0), ("", 0)):
        run = StepDone(
            step="run", at="", work=carved, planned=30.0, minutes=40.0
        )  # the machine's own is no work of hands
        assert len(record_of(Finish(done=[run, *sanded]), "soft").get("steps", ())) == counts
    assert record_of(Finish(done=sanded), "soft") == {}
    with pytest.raises((OperatorError, ValueError)):
        OwnTime(work="sand", factor=0.0)
