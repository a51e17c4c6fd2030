# SPDX-License-Identifier: GPL-3.0-or-later
"""What was cut stays in its board: a changed text is not cut, an old cut is judged under a new one, and another board is said by a person."""

import pytest

from gatepost.core.findings import Level
from gatepost.core.job.journal import Journal
from gatepost.core.plan.oldcuts import cut_where
from gatepost.core.plan.pipeline import plan
from gatepost.core.run.standing import done_all
from gatepost.core.zero.recover import happened
from tests.core.catalogue_jobs import JOBS, edited

CELL = 0.4


def ran(setup, journal=None):
    """All steps of a setup done, its programs run."""
    from gatepost.core.run.step import ticked

    journal = journal or Journal()
    for step in setup.steps:
        if step.kind == "run":
            program = next(p for p in setup.programs if p.name == step.program)
            journal = journal.add(
                "2026-11-02T10:32:00",
                "run started",
                setup.name,
                program=program.name,
                fingerprint=program.fingerprint,
                **cut_where(setup, program),
            )
        journal = ticked(journal, "2026-11-02T10:40:00", step)
    return journal


@pytest.fixture(scope="module")
def cut_once():
    job = JOBS["plate"]()
    return job, ran(plan(job, cell=CELL).setup("front"))


def old(reckoned):
    return [f for f in reckoned.findings if f.code == "carve.old-cut"]


def test_what_was_cut_as_planned_is_no_old_cut(cut_once):
    job, journal = cut_once
    same = plan(job, journal, cell=CELL)
    assert not old(same) and all(done_all(journal, same.setup("front").steps))


def test_a_changed_text_is_not_cut_and_the_old_one_bars_what_would_run_into_it(cut_once):
    job, journal = cut_once
    changed = plan(edited(job, ("scale lettering", {"factor": 0.9})), journal, cell=CELL)
    setup = changed.setup("front")
    done = dict(zip((s.key for s in setup.steps), done_all(journal, setup.steps)))
    (lettering, *_) = setup.programs
    assert not done[f"run-{lettering.name}"]
    (stop,) = old(changed)
    assert stop.level is Level.STOP and "2026-11-02 at 10:32" in stop.message and "lettering" in stop.message
    (mark,) = setup.old_cuts
    x0, y0, x1, y1 = mark.box
    assert x0 < 60 < x1 and y0 < 40 < y1
    assert plan(job, journal, cell=CELL).fingerprint and not old(
        plan(job, journal, cell=CELL)
    )  # undone, it is as it was cut


def test_an_old_cut_that_lies_clear_is_told_and_bars_nothing(cut_once):
    job, _ = cut_once
    setup = plan(job, cell=CELL).setup("front")
    (lettering, *_) = setup.programs
    far = {**cut_where(setup, lettering), "x0": 2.0, "y0": 2.0, "x1": 6.0, "y1": 6.0}
    journal = Journal().add("t", "run started", "front", program="front-1-T3.nc", fingerprint="something else", **far)
    (care,) = old(plan(job, journal, cell=CELL))
    assert care.level is Level.CARE
    for values in ({"face": "back"}, {"spin": "90"}):
        assert not old(
            plan(
                job,
                Journal().add("t", "run started", "front", program="x.nc", fingerprint="y", **{**far, **values}),
                cell=CELL,
            )
        )


def test_on_a_fresh_board_all_is_done_once_more(cut_once):
    job, journal = cut_once
    fresh = happened(journal, "fresh board", "front", 2, "t")
    changed = plan(edited(job, ("scale lettering", {"factor": 0.9})), fresh, cell=CELL)
    assert not old(changed) and not any(done_all(fresh, changed.setup("front").steps))
    again = plan(job, fresh, cell=CELL)
    assert not any(done_all(fresh, again.setup("front").steps)) and again.next.step.key == "isolate-lay"
    assert all(done_all(ran(again.setup("front"), fresh), again.setup("front").steps))
