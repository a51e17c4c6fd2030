# SPDX-License-Identifier: GPL-3.0-or-later
"""What is promised of a piece is what the plan shows; the diary calls steps as the plan does."""

import pytest

from gatepost.core.job.journal import Journal
from gatepost.core.log.diary import diary
from gatepost.core.plan.promised import promised


def test_a_tick_is_told_as_its_step_is_called_where_that_is_known(quay_plan):
    journal = Journal()
    steps = [(s.name, step) for s in quay_plan.setups for step in s.steps][:12]
    for n, (setup, step) in enumerate(steps):
        journal = journal.add(f"2026-03-02T09:{n:02d}:00", "ticked", setup, step=step.key)
    journal = journal.add("2026-03-02T10:00:00", "ticked", steps[0][0], step="of-another-plan")
    titles = {(setup, step.key): step.title for setup, step in steps}
    *told, last = diary(quay_plan.job, journal, titles=titles)
    assert [x.words for x in told] == [f"Done: {step.title}" for _, step in steps]
    assert last.words == "Done: of another plan."


def test_the_widest_stroke_that_is_promised_is_that_of_carve(quay_plan, lock7_plan):
    for plan in (quay_plan, lock7_plan):
        told = {
            s.name: next((f.value for f in plan.report("carve", s.name).figures if f.label == "Widest stroke"), None)
            for s in plan.setups
        }
        asked = [p for p in promised(plan).points if p.words.startswith("Widest stroke")]
        assert asked and all(p.figure == pytest.approx(told[p.at]) for p in asked)
