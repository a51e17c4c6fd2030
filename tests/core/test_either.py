# SPDX-License-Identifier: GPL-3.0-or-later
"""Either of two faces first: the same wood is cut, wherever the board lies for it, and what can't be swapped says so."""

import numpy as np
import pytest

from gatepost.core.cache import Memory
from gatepost.core.errors import OperatorError
from gatepost.core.job import commands
from gatepost.core.plan.either import either_first, in_words
from gatepost.core.plan.pipeline import plan
from tests.core.catalogue_jobs import JOBS, edited
from tests.core.pinned import holes, over, tablet, turned
from tests.core.told import CELL

MEMORY = Memory()


def both_sides(pins=False):
    return over() if pins else edited(JOBS["taped"](), *turned(), *holes())


def cut_in_the_wood(job):
    """Lowest places of every operation in the blank's own frame; the plan."""
    made = plan(job, memory=MEMORY, cell=CELL)
    out = {}
    for s in made.setups:
        for o in s.operations:
            points = np.asarray(o.moves.points)  # on the board as it lies
            out[o.name] = s.carried.inverse().array(points[points[:, 2] < points[:, 2].min() + 1e-6])[:, :2]
    return out, made


@pytest.mark.parametrize("pins", [False, True])
def test_with_the_other_face_first_the_same_is_cut_in_the_same_wood(pins):
    job = both_sides(pins)
    one, made = cut_in_the_wood(job)
    swapped = commands.run(job, "other face first", {})
    other, made_other = cut_in_the_wood(swapped)
    assert [s.name for s in made.setups][-2:] == ["front", "over"] and [s.name for s in made_other.setups][-2:] == [
        "over",
        "front",
    ]
    for name in ("drilling-marks", "lettering"):
        assert np.abs(one[name].mean(axis=0) - other[name].mean(axis=0)).max() < 0.01
    if pins:
        kept = made_other.setup("front")
        assert kept.setup.comes.kind == "pins" and swapped.setup("over").comes is None and len(kept.pins) == 2
    again = commands.run(swapped, "other face first", {})
    assert [s.id for s in again.setups] == [s.id for s in job.setups]
    if not pins:
        assert again == job


def test_what_is_cut_out_is_cut_out_last_from_the_face_that_is_up_then():
    job = edited(
        both_sides(), ("add art", {"kind": "plate", "id": "tablet", "face": "back", "x": 50.0, "y": 42.0, "width": 80.0, "height": 52.0, "corner": 3.0, "turn": 8.0}),
        ("add operation", {"setup": "over", "kind": "cutout", "id": "cutting", "on": ("tablet",), "tool": 2, "tabs": 4}),
    )  # fmt: skip
    swapped = commands.run(job, "other face first", {})
    assert [o.id for s in swapped.setups for o in s.operations][-1] == "cutting" and swapped.setups[-1].id == "front"
    art = next(a for a in swapped.artwork if a.id == "tablet")
    assert (art.face, art.x, art.y, art.turn) == ("front", 120.0 - 50.0, 42.0, -8.0)
    one, other = cut_in_the_wood(job)[0], cut_in_the_wood(swapped)[0]
    for low, high in (
        (one["cutting"].min(axis=0), other["cutting"].min(axis=0)),
        (one["cutting"].max(axis=0), other["cutting"].max(axis=0)),
    ):
        assert np.abs(low - high).max() < 0.05


def test_both_are_told_with_minutes_hold_and_what_is_said():
    told = either_first(both_sides(), cell=CELL)
    assert [t.face for t in told] == ["front face", "back face"]
    made = plan(both_sides(), memory=MEMORY, cell=CELL)
    seconds = sum(p.seconds for s in made.setups for p in s.programs)
    assert told[0].minutes == pytest.approx(
        seconds / 60.0 + made.job.machine.change_minutes * sum(len(s.changes) for s in made.setups)
    )
    assert told[0].hold == pytest.approx(min(m.least.result for s in made.setups for m in s.margins))
    words = in_words(told)
    assert "The front face first:" in words and "The back face first:" in words


@pytest.mark.parametrize(
    "job, words",
    [
        (lambda: edited(JOBS["taped"](), *tablet(), *holes(y=70.0)), "that face comes first"),
        (lambda: JOBS["taped"](), "opposite faces"),
        (
            lambda: edited(
                both_sides(),
                ("add setup", {"id": "third", "up": "left"}),
                *holes("end", "left", 8.0, 40.0, number=1, setup="third", through=False, deep=4.0),
            ),
            "opposite faces",
        ),
    ],
)
def test_what_can_t_be_the_other_way_round_says_why(job, words):
    with pytest.raises(OperatorError, match=words):
        commands.run(job(), "other face first", {})


def test_marks_that_a_face_is_found_by_stay_its_own_and_nothing_waits_for_what_is_gone():
    job = edited(
        both_sides(pins=True), *holes("last", "front", 60.0, 62.0, number=1, setup="front"), ("set operation", {"operation": "drilling-last", "after": ("drill-pins",)}),
        ("add art", {"kind": "plate", "id": "tablet", "face": "back", "x": 50.0, "y": 42.0, "width": 80.0, "height": 52.0, "corner": 3.0}),
        ("add operation", {"setup": "over", "kind": "cutout", "id": "cutting", "on": ("tablet",), "tool": 2, "tabs": 4, "after": ("drilling-marks",)}),
    )  # fmt: skip
    swapped = commands.run(job, "other face first", {})
    assert (
        all(not o.after for s in swapped.setups for o in s.operations) and swapped.setup("front").comes.kind == "pins"
    )
    found = edited(
        both_sides(),
        ("add mark", {"setup": "over", "x": 20.0, "y": 20.0}),
        ("add mark", {"setup": "over", "x": 90.0, "y": 60.0}),
    )
    swapped = commands.run(found, "other face first", {})
    assert swapped.setup("over").comes.kind == "marks" and swapped.setup("front").comes is None
