# SPDX-License-Identifier: GPL-3.0-or-later
"""Lessons: where they come back, whose figure is wrong, how they age."""

from __future__ import annotations

import random
from dataclasses import replace
from datetime import date, timedelta

import pytest
from hypothesis import given
from hypothesis import strategies as st

from gatepost.core.errors import OperatorError
from gatepost.core.job.tool_table import shipped_tools
from gatepost.core.log.lesson import (
    AMOUNTS,
    OLD,
    TIED,
    WORDS,
    Declined,
    Doing,
    Lesson,
    against,
    age_words,
    fits,
    is_old,
    recall,
)
from gatepost.core.plan.pipeline import plan as planned
from gatepost.core.plan.recalled import CODE, doings, recalled, recalled_at, with_lessons
from tests.core.catalogue_jobs import JOBS

WOODS = ("elm", "oak", "larch", "ash", "bog oak", "lime")
KINDS = ("vcut", "cutout", "surfacing", "pocket")
HOLDS = ("strap", "tape", "screw")
TODAY = date(2026, 11, 30)


def two_years(seed):
    """A made-up shop's two years: what was done each time, and what was learned on the way."""
    rng = random.Random(seed)
    tools = shipped_tools()[:5]
    day = date(2024, 11, 30)
    done, lessons = [], []
    while day < TODAY:
        day += timedelta(days=rng.randint(1, 4))
        facts = {
            "wood": rng.choice(WOODS), "tool": rng.choice(tools), "kind": rng.choice(KINDS), "holds": tuple(rng.sample(HOLDS, rng.randint(0, 2))),
            "machine": rng.choice(("Router", "Old router")),
        }  # fmt: skip
        done.append(facts)
        if rng.random() < 0.2:
            tied = rng.sample(TIED, rng.randint(1, 3))
            hold = rng.choice(facts["holds"]) if facts["holds"] else ""
            value = {**facts, "tool": facts["tool"].name, "hold": hold}
            ties = {name: value[name] for name in tied if value[name]}
            if ties:
                lessons.append(Lesson(f"what was seen on {day}", made=day.isoformat(), id=len(lessons) + 1, **ties))
    return done, lessons


@pytest.mark.parametrize("seed", range(5))
def test_each_lesson_of_two_years_returns_where_all_that_it_is_tied_to_matches_and_nowhere_else(seed):
    done, lessons = two_years(seed)
    assert len(done) > 200 and len(lessons) > 20
    doing = [Doing("front", f["wood"].upper(), f["tool"], f["kind"], f["holds"], f["machine"]) for f in done]
    back = {(r.lesson.id, id(d)) for r in recall(lessons, doing) for d in r.doings}
    wanted = set()
    for lesson in lessons:
        for facts, d in zip(done, doing):
            same = [
                lesson.wood in ("", facts["wood"]), lesson.tool in ("", facts["tool"].name), lesson.kind in ("", facts["kind"]),
                lesson.machine in ("", facts["machine"]), lesson.hold == "" or lesson.hold in facts["holds"],
            ]  # fmt: skip
            if sum(same) == 5:
                wanted.add((lesson.id, id(d)))
    assert back == wanted
    assert all(
        any(one == i for one, _ in back) for i in [x.id for x in lessons]
    )  # each comes back where it was learned


TOOL = shipped_tools()[0]


@pytest.mark.parametrize(
    ("bad", "good", "planned", "wrong"),
    [
        (2000, 2600, 2000, True), (2000, 2600, 1500, True), (2000, 2600, 2600, False), (2000, 2600, 3000, False), (2000, 2600, 2200, True),
        (2000, 2600, 2400, False), (3000, 2000, 3500, True), (3000, 2000, 1500, False), (2000, None, 2050, True), (2000, None, 2500, False),
        (None, 2600, 2600, False), (None, 2600, 2000, True),
    ],
)  # fmt: skip
def test_a_figure_is_against_a_lesson_on_the_side_on_which_it_went_wrong(bad, good, planned, wrong):
    lesson = Lesson("burns", wood="oak", amount="feed", bad=bad, good=good)
    assert against(lesson, TOOL.model_copy(update={"feed": float(planned)})) is wrong


def test_what_goes_right_is_never_against_its_own_lesson():
    for amount in AMOUNTS:
        for bad, good in ((1.0, 2.0), (2.0, 1.0), (100.0, 101.0), (None, 3.0)):
            lesson = Lesson("x", wood="oak", amount=amount, bad=bad, good=good)
            assert not against(lesson, TOOL.model_copy(update={amount: good}))
            if bad is not None:
                assert against(lesson, TOOL.model_copy(update={amount: bad}))


@pytest.mark.parametrize(
    ("values", "said"),
    [
        ({"words": " "}, "wants words"), ({"words": "x" * (WORDS + 1)}, "sentence or two"), ({"wood": ""}, "Tie it to something"), ({"amount": "colour", "good": 1.0}, "no figure"),
        ({"amount": "feed"}, "Type the feed"), ({"amount": "feed", "good": -1.0}, "more than 0"), ({"amount": "feed", "good": float("nan")}, "more than 0"),
        ({"amount": "feed", "good": 2.0, "bad": 2.0}, "the same figure"),
    ],
)  # fmt: skip
def test_what_is_no_lesson_is_refused_with_a_sentence(values, said):
    with pytest.raises(OperatorError, match=said):
        replace(Lesson("slower", wood="oak"), **values).checked()
    assert Lesson("slower", wood="oak").checked()


@given(st.integers(0, 3 * OLD), st.integers(0, 3 * OLD))
def test_a_lesson_ages_from_when_it_was_judged_last(made, judged):
    made_on, judged_on = (TODAY - timedelta(days=d) for d in (made, judged))
    lesson = Lesson("x", wood="oak", made=made_on.isoformat(), judged=judged_on.isoformat())
    assert is_old(lesson, TODAY) == (min(made, judged) > OLD)
    assert ("scrap" in age_words(lesson, TODAY)) == is_old(lesson, TODAY)


def test_how_it_did_is_told_and_what_held_comes_before_what_did_not():
    d = [Doing("front", "oak", TOOL, "vcut")]
    told = [Lesson("a", wood="oak", id=1, failed=2), Lesson("b", wood="oak", id=2, held=3), Lesson("c", wood="oak", id=3), Lesson("d", wood="oak", id=4, ended="2026-01-01")]  # fmt: skip
    assert [r.lesson.id for r in recall(told, d)] == [2, 3, 1]
    assert "held 3 times" in age_words(told[1], TODAY) and "did not hold twice" in age_words(told[0], TODAY)
    against_it = Lesson("e", wood="oak", id=5, amount="feed", bad=TOOL.feed, good=2.0 * TOOL.feed)
    assert recall([*told, against_it], d)[0].lesson.id == 5


def test_in_a_plan_it_comes_back_at_its_page_with_its_figure_offered_and_not_where_it_was_declined():
    plan = planned(JOBS["plate"](), cell=1.0)
    found = doings(plan)
    assert {(d.setup, d.tool.number, d.kind) for d in found} == {
        (s.name, op.tool.number, op.kind) for s in plan.setups for op in s.operations
    }
    one = next(d for d in found if d.kind != "surfacing")
    lesson = Lesson(
        "fuzz across the grain", wood=plan.job.wood.name, tool=one.tool.name, kind=one.kind, amount="feed", bad=one.tool.feed, good=round(1.3 * one.tool.feed), id=7,
    )  # fmt: skip
    (back,) = recalled(plan, [lesson])
    assert all(fits(lesson, d) for d in back.doings) and back.against
    (told,) = recalled_at([back], "tools", one.setup, TODAY)
    assert told.code == CODE and not told.stands and "fuzz across the grain" in told.message
    take, leave = told.fixes
    assert take.kind == "set tool" and take.values == {"number": one.tool.number, "feed": lesson.good}
    assert leave.kind == "window decline_lesson 7"
    assert recalled_at([back], "hold", one.setup, TODAY) == ()
    assert with_lessons(plan.report("tools"), [back], one.setup, TODAY).gate == plan.report("tools").gate
    declined = replace(lesson, declined=(Declined(plan.job.name, "other maker's bit", "t"),))
    elsewhere = replace(lesson, declined=(Declined("another job", "x", "t"),))
    assert recalled(plan, [declined]) == () and len(recalled(plan, [elsewhere])) == 1
