# SPDX-License-Identifier: GPL-3.0-or-later
"""Versions of a design: what was wrong, what moved, who approved what exactly, how it came out; and approvals and steps in the diary."""

import pytest

from gatepost.core.carve.edits import outlines
from gatepost.core.errors import OperatorError
from gatepost.core.job import commands
from gatepost.core.job.file import Document, from_bytes, to_bytes
from gatepost.core.job.journal import Journal
from gatepost.core.log.diary import diary
from gatepost.core.log.judged import PointJudged, Promised, Result, result_of, result_values
from gatepost.core.plan.changes import changes
from gatepost.core.plan.versions import taken, versions
from tests.core.catalogue_jobs import JOBS


def edit(job, command, /, **values):
    return commands.run(job, command, values)


@pytest.fixture(scope="module")
def chained():
    job = edit(JOBS["plate"](), "approve design", by="A. Rook", at="2026-03-02T09:00:00", words="as drawn")
    job = edit(job, "keep design", title="Bolder", why="strokes broke out at the serifs")
    line = job.artwork[0].figures.lines[0].id
    return edit(job, "set line", line=line, bolder=0.4)


def came_out(design, good=True, kind="shop", at="2026-03-05T10:00:00"):
    return Result("plate", at, kind, points=(PointJudged(Promised("edges", "Edges clean"), good=good),), design=design)


def test_the_chain_says_what_was_wrong_what_moved_and_how_each_came_out(chained):
    now, first = versions(chained, [came_out("Bolder"), came_out("", False), came_out("", True, "simulated")])
    assert (now.title, first.title, first.why) == ("Bolder", "First design", "strokes broke out at the serifs")
    assert now.moved == () and list(first.moved) == changes(taken(chained, first.id), chained) and len(first.moved) == 1
    assert (
        len(now.results) == 1
        and len(first.results) == 2
        and "simulated" in first.results[1]
        and "simulated" not in first.results[0]
    )
    assert first.approved.startswith("A. Rook, 2026-03-02") and first.stands and not now.approved


def test_an_approval_is_of_the_design_as_it_was_and_of_nothing_else(chained):
    job = edit(chained, "approve design", by="A. Rook", at="2026-03-03")
    assert versions(job, ())[0].stands
    line = job.artwork[0].figures.lines[0].id
    for other in (
        edit(job, "set line", line=line, height=31.0),
        edit(job, "set line", line=line, **outlines("QUAY", "Slab")),
        edit(job, "set art", art=job.artwork[0].id, x=job.artwork[0].x + 3.0),
    ):
        assert not versions(other, ())[0].stands
        assert any("changed since" in t for t in versions(other, ())[0].told())
        assert versions(edit(other, "approve design", by="A. Rook"), ())[0].stands
    for same in (
        edit(job, "set job", name="Another"),
        edit(job, "rename design", title="Heavier"),
        edit(job, "set blank", moisture=11.0),
    ):
        assert versions(same, ())[0].stands and versions(same, ())[0].approved
    back = edit(job, "take design", design=job.designs[0].id)  # the other way round each keeps its own
    assert all(v.stands for v in versions(back, ()))
    assert from_bytes(to_bytes(Document(job))).job == job


@pytest.mark.parametrize("values", [{"by": ""}, {"by": "   "}, {"by": "A. Rook", "design": "none"}])
def test_nobody_and_nothing_approve_nothing(chained, values):
    with pytest.raises(OperatorError):
        edit(chained, "approve design", **values)


def test_a_result_keeps_its_design_and_its_picture():
    one = Result("plate", "2026-03-05", "shop", design="Bolder", picture="plate, 2026-03-05")
    again = result_of(result_values(one), job="plate", at="2026-03-05", kind="shop")
    assert again == one
    lines = diary(JOBS["plate"](), Journal(), (), [one])
    assert [x.picture for x in lines] == ["plate, 2026-03-05"]


def test_steps_of_the_finish_and_approvals_stand_in_the_diary(chained):
    job = edit(
        chained, "finish step done", step="sand", at="2026-03-04T10:00:00", work="sand", planned=9.0, minutes=14.0
    )
    told = [x.words for x in diary(job, Journal())]
    assert told == [
        "A. Rook approved the design “First design”: as drawn",
        "Sand: done, 14 min of hands, 9 by shop rules.",
    ]
