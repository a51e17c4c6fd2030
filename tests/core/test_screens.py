# SPDX-License-Identifier: GPL-3.0-or-later
"""Steps of like kind on one screen, a shop's own list, a program's own text: what is asked before a cut, and no oftener than it must be."""

from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from gatepost.core.errors import OperatorError
from gatepost.core.job import commands
from gatepost.core.job.journal import Journal
from gatepost.core.plan.file_check import file_check
from gatepost.core.plan.pipeline import plan
from gatepost.core.run.protection import protection
from gatepost.core.run.screens import MOST, left, screen_of, screens
from gatepost.core.run.standing import barring
from gatepost.core.run.step import Step, ticked
from gatepost.core.units import spell
from gatepost.desk.pages.machine import WORD_OF, typed_checklist

KINDS = st.sampled_from(["set-A", "set-B", "list-1", "list-2", "isolate-2", "rock", "hold", "shims", "fit-2", "home", "zero", "run-x", "depth-1", "depth-2"])  # fmt: skip
MOVES = {"home": "home", "zero": "zero xy", "run-x": "run", "fit-2": "fit"}


def made(keys):
    return [Step(k, "a" if i < 9 else "b", MOVES.get(k, "tick"), k, "") for i, k in enumerate(keys)]


@given(st.lists(KINDS, max_size=24), st.data())
def test_each_step_is_on_one_screen_and_guards_and_moves_have_their_own(keys, data):
    steps = made(keys)
    seen = screens(steps)
    assert [i for r in seen for i in r] == list(range(len(steps)))
    for r in seen:
        together = steps[r.start : r.stop]
        assert len(together) <= MOST and len({s.setup for s in together}) == 1
        assert len(together) == 1 or not any(s.guard or s.moves for s in together)
        assert all(screen_of(steps, i) == r for i in r)
    done = [data.draw(st.booleans()) for _ in steps]
    for at in range(len(steps)):
        count = left(steps, done, at)
        runs = [i for i in range(at, len(steps)) if steps[i].kind == "run" and not done[i]]
        plain = len({screen_of(steps, i) for i in range(at, runs[0]) if not done[i]}) if runs else 0
        assert count == plain


def test_lock_7_is_asked_on_fewer_screens_than_steps_and_no_guard_shares_one(lock7_plan):
    assert all(len(s.steps) - len(screens(s.steps)) >= 3 for s in lock7_plan.setups)
    for setup in lock7_plan.setups:
        holds = [s for s in setup.steps if s.key.startswith("set-")]
        assert len({screen_of(setup.steps, setup.steps.index(s)) for s in holds}) == 1


def test_a_shop_s_own_list_stands_before_the_first_cut_of_a_setup_in_its_order(quay):
    listed = typed_checklist("Bin emptied?; Shoe level with the tip? = bit; Straps tight? = holds")
    job = commands.run(quay, "set machine", listed)
    setup = plan(job).setups[0]
    keys = [s.key for s in setup.steps]
    at = keys.index("list-1")
    assert keys[at : at + 3] == ["list-1", "list-2", "list-3"] and setup.steps[at + 3].kind == "run"
    assert sum(k.startswith("list-") for k in keys) == 3  # once, not before each program
    assert [s.back for s in setup.steps[at : at + 3]] == ["", "fit", "set"]
    assert len(screen_of(setup.steps, at)) == 3
    assert (
        plan(job).program(setup.programs[0].name).fingerprint == plan(quay).program(setup.programs[0].name).fingerprint
    )
    again = "; ".join(f"{c['words']} = {WORD_OF[c['back']]}" if c["back"] else c["words"] for c in listed["checklist"])
    assert typed_checklist(again) == listed
    for wrong in ("Shoe? = shoe", " = bit"):
        with pytest.raises(OperatorError):
            typed_checklist(wrong)


@pytest.fixture(scope="module")
def listed_setup(quay):
    listed = typed_checklist("Bin emptied?; Shoe level with the tip? = bit")
    return plan(commands.run(quay, "set machine", listed)).setups[0]


@given(data=st.data())
def test_nothing_is_cut_while_a_question_of_the_shop_s_own_list_is_open(data, listed_setup):
    setup = listed_setup
    runs = [s for s in setup.steps if s.kind == "run"]
    open_ones = data.draw(st.sets(st.sampled_from(["list-1", "list-2"])))
    journal = Journal()
    for step in setup.steps:
        if step.kind == "tick" or step.guard:
            journal = ticked(journal, "t", step) if step.key not in open_ones else journal
    asked = barring(journal, setup.steps, runs[0])
    assert (asked.key if asked else None) == min(open_ones, default=None)


# -- a program's own text -----------------------------------------------------------------------------------------------

SPOILT = {
    "G21": ("G20", "units"),
    "G17": ("G18", "G17"),
    "G90": ("G91", "G90"),
    "M3": ("M5", "started the spindle"),
    "T4 M6": ("T2 M6", "asks for T2"),
    "S14000": ("S99000", "99000 rpm"),
}


@pytest.mark.parametrize("was", SPOILT)
def test_what_its_head_says_otherwise_than_planned_is_told(lock7_plan, was):
    setup = lock7_plan.setup("front")
    program = setup.programs[0]
    now, told = SPOILT[was]
    assert not file_check(setup, program, lock7_plan.job.machine).wrong and was in program.text
    spoilt = replace(program, text=program.text.replace(was, now, 1))
    assert any(told in words for words in file_check(setup, spoilt, lock7_plan.job.machine).wrong)


def test_its_first_move_is_told_in_words_from_where_the_tip_stands(lock7_plan):
    setup = lock7_plan.setup("front")
    program = setup.programs[0]
    told = [spell(w) for w in file_check(setup, program, lock7_plan.job.machine).told]
    x, y, z = program.first_move
    assert x < 0 < y and any(f"{-x:.1f} mm to the left and {y:.1f} mm to the back, at Z {z:.1f} mm" in w for w in told)
    comment = replace(program, text="(T9 G20 S1 M5)\n" + program.text)  # what stands in a comment is not asked for
    assert not file_check(setup, comment, lock7_plan.job.machine).wrong


def test_what_is_worn_goes_by_the_wood():
    assert "cancer" in " ".join(protection("oak", "hard", 14_000)) and "glue" in " ".join(
        protection("MDF 18", "medium", 9000)
    )
    assert "react" in " ".join(protection("iroko", "hard", 14_000)) and "react" not in " ".join(
        protection("pine", "soft", 14_000)
    )
