# SPDX-License-Identifier: GPL-3.0-or-later
"""Rival designs are kept and taken without losing anything; what changed is told item by item; words are read through until one changes."""

import random

import pytest

from gatepost.core.carve.edits import outlines
from gatepost.core.carve.words import words_hash
from gatepost.core.errors import OperatorError
from gatepost.core.job import commands
from gatepost.core.job.file import Document, from_bytes, to_bytes
from gatepost.core.plan.changes import changes
from gatepost.core.plan.pipeline import plan
from gatepost.core.units import spell
from tests.core.catalogue_carve import BALL, ramp
from tests.core.catalogue_jobs import JOBS, edited


def edit(job, name, **values):
    return commands.run(job, name, values)


def told(old, new):
    return [spell(words, "mm") for words in changes(old, new)]


def carved(job):
    """What is made and how, setup by setup."""
    return job.artwork, [s.operations for s in job.setups]


def test_a_design_that_is_taken_is_what_it_was_and_so_is_the_other_one():
    first = JOBS["plate"]()
    job = edit(first, "keep design", title="Longer")
    assert carved(job) == carved(first) and job.design == "Longer"
    job = edited(
        job,
        ("set line", {"line": "line-1", **outlines("QUAY", "Slab")}),
        ("set plate", {"width": 100.0}),
        BALL,
        ramp(width=8, height=6),
    )
    longer = carved(job)
    back = edit(job, "take design", design="design-1")
    assert (
        carved(back) == carved(first)
        and back.design == "First design"
        and [d.title for d in back.designs] == ["Longer"]
    )
    again = edit(back, "take design", design="design-1")
    assert carved(again) == longer and again == job
    assert plan(back, cell=0.5).report("carve") == plan(
        edit(first, "rename design", title="First design"), cell=0.5
    ).report("carve")


def test_any_number_of_turns_between_designs_loses_nothing():
    random_ = random.Random(5)
    job = JOBS["slab"]()
    made = {"First design": carved(job)}
    for number in range(4):
        job = edit(job, "keep design", title=f"Number {number}")
        job = edit(job, "set carving", margin=9.0 + number)
        made[job.design] = carved(job)
    for _ in range(25):
        job = edit(job, "take design", design=random_.choice(job.designs).id)
        assert carved(job) == made[job.design]
    assert {job.design, *(d.title for d in job.designs)} == set(made)
    assert from_bytes(to_bytes(Document(job)), "a.gatepost").job == job


def test_a_drawing_of_a_design_that_is_not_worked_on_is_kept_with_the_job():
    job = edit(
        JOBS["plate"](),
        "add drawing",
        setup="front",
        path="M0 0L9 0L9 9Z",
        wide=9.0,
        high=9.0,
        source="art-0123456789ab.svg",
    )
    job = edit(job, "keep design", title="Without it")
    art = next(a for a in job.artwork if a.kind == "drawing")
    bare = edit(job, "remove art", art=art.id)
    assert Document(bare, pictures={"art-0123456789ab.svg": b"<svg/>"}).kept() == {"art-0123456789ab.svg": b"<svg/>"}
    assert (
        Document(edit(bare, "remove design", design="design-1"), pictures={"art-0123456789ab.svg": b"<svg/>"}).kept()
        == {}
    )


@pytest.mark.parametrize(
    ("name", "values"),
    [
        ("keep design", {"title": "  "}),
        ("keep design", {"title": "First design"}),
        ("take design", {"design": "design-9"}),
        ("rename design", {"title": ""}),
    ],
)
def test_what_can_not_be_done_with_designs_is_said(name, values):
    with pytest.raises(OperatorError):
        commands.run(JOBS["plate"](), name, values)


CHANGED = {
    "“IT”: moved 3.2 mm right and 1 mm forward; turned 5° to the left.": [
        ("set art", {"art": "lettering", "x": 63.2, "y": 39.0, "turn": 5.0})
    ],
    "“QUAY”: “IT” is now “QUAY”.": [("set line", {"line": "line-1", **outlines("QUAY", "Sans")})],
    "“IT”: “IT” is 17.6 mm high, was 16 mm (+10.0 %).": [("scale lettering", {"factor": 1.1})],
    "“IT”: “IT” strokes bolder by 0 mm → 0.3 mm.": [("set line", {"line": "line-1", "bolder": 0.3})],
    "Plate: 90 × 56 mm, was 96 × 56 mm.": [("set plate", {"width": 90.0})],
    "Cut-out: tabs 4 → 6.": [("set plate", {"tabs": 6})],
    "Lettering: margin to the edge 8 mm → 9 mm.": [("set carving", {"margin": 9.0})],
    "Board: thickness as sold 16 mm → 18 mm.": [("set blank", {"label_thickness": 18.0})],
    "Setup front: its zero.": [("set zero", {"setup": "front", "z": "bed"})],
    "Tool 3: another feed.": [("set tool", {"number": 3, "feed": 1234.0})],
    "Cut-out is gone.": [("remove operation", {"operation": "cut-out"})],
}


@pytest.mark.parametrize("words", CHANGED)
def test_what_changed_is_told_item_by_item(words):
    old = JOBS["plate"]()
    assert told(old, edited(old, *CHANGED[words])) == [words]


def test_what_is_the_same_is_not_told_and_what_is_new_is():
    old = JOBS["plate"]()
    assert told(old, old) == []
    assert told(old, edit(old, "set art", art="lettering", x=60.001)) == []
    new = edit(old, "add recess", setup="front", depth=2.0)
    assert told(old, new) == ["Outline of a recess is new.", "Recess is new."]
    assert told(new, old) == ["Outline of a recess is gone.", "Recess is gone."]


def test_words_stay_read_until_one_of_them_changes():
    job = JOBS["plate"]()

    def figure(j):
        return next(f.value for f in plan(j, cell=0.5).report("carve").figures if f.label == "Words read through")

    assert figure(job) == "not yet"
    read = edit(job, "words read", words=words_hash(job))
    assert figure(read) == "yes"
    assert (
        words_hash(edit(read, "set art", art="lettering", x=50.0)) == read.read
    )  # where it stands is not what it says
    assert figure(edit(read, "set line", line="line-1", **outlines("TI", "Sans"))) == "not yet"
    assert figure(edit(read, "set art", art="lettering", mirror=True)) == "not yet"
