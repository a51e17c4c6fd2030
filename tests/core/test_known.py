# SPDX-License-Identifier: GPL-3.0-or-later
"""What is known of the wood, and what it changes."""

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from gatepost.core.blank import known, other_unit
from gatepost.core.findings import Level
from gatepost.core.job import commands
from gatepost.core.job.blank import Blank, Coat, Flaw
from gatepost.core.job.model import Job
from gatepost.core.plan.pipeline import plan
from tests.core.told_of import codes


def board(**values):
    return Job(blank=Blank(**{"length": 600, "width": 200, "label_thickness": 30, **values}))


@pytest.mark.parametrize("field", ["metal", "old_paint", "treated"])
def test_old_wood_is_asked_about_and_what_is_found_is_a_stop(field):
    code = field.replace("_", "-")
    assert codes(known.findings(board(), (), 0.0))["blank.old-wood"].level is Level.NOTE
    assert not any(c.startswith(f"blank.{code}") for c in codes(known.findings(board(reclaimed=False), (), 0.0)))
    asked = codes(known.findings(board(reclaimed=True), (), 0.0))[f"blank.{code}-asked"]
    assert asked.level is Level.CARE and len(asked.fixes) == 2
    answered = [commands.run(board(reclaimed=True), x.kind, x.values) for x in asked.fixes]
    levels = [codes(known.findings(job, (), 0.0)) for job in answered]
    assert f"blank.{code}" not in levels[0] and levels[1][f"blank.{code}"].level is Level.STOP


@given(st.floats(100, 1500), st.floats(60, 600), st.floats(-20, 20))
def test_a_lean_is_found_again_from_the_diagonals(length, width, lean):
    corners = np.array([[0, 0], [length, 0], [length + lean, width], [lean, width]])
    diagonals = (math.dist(corners[0], corners[2]), math.dist(corners[1], corners[3]))
    side = math.hypot(lean, width)  # as a tape measures it along the edge
    job = board(length=length, width=side, diagonals=diagonals)
    said = codes(known.findings(job, (), 0.0))
    assert said["blank.square"].working.result == pytest.approx(lean, abs=1e-6)
    assert (said["blank.square"].level is Level.CARE) == (abs(said["blank.square"].working.result) > 1.0)


def test_diagonals_that_no_such_board_has_are_asked_about():
    assert "blank.diagonals" in codes(known.findings(board(diagonals=(660.0, 655.0)), (), 0.0))


@given(st.floats(0, 60), st.floats(20, 40), st.floats(0, 5), st.sampled_from(["front", "back"]))
def test_a_flaw_is_where_it_was_when_the_top_comes_down(depth, top, off, face):
    """By brute force: the flaw is a set of heights; what of it is left in the board is looked at from above and below."""
    flaw = Flaw(x=1, y=1, depth=depth, face=face)
    finished = top - off
    low, high = (top - depth, top) if face == "front" else (0.0, depth)
    low, high = max(low, 0.0), min(high, finished)
    lie = known.lies(flaw, top, finished)
    left = high > low
    if face == "front":
        assert lie.down == pytest.approx(max(0.0, finished - (top - depth)) if depth > off else 0.0)
        assert lie.through == (depth >= top)
    else:
        assert lie.up == pytest.approx(high if left else 0.0)
        assert lie.through == (depth >= finished)


CATALOGUE = {
    "damp": ({"moisture": 16.0}, 0.0, "blank.moisture", Level.CARE),
    "dry": ({"moisture": 9.0}, 0.0, "blank.moisture", Level.OK),
    "coated and used so": ({"coats": (Coat(thickness=0.1), Coat(thickness=0.05))}, 0.0, "blank.coats", Level.NOTE),
    "coated and surfaced": ({"coats": (Coat(),)}, 1.0, "blank.coats-surfaced", Level.CARE),
    "good face down": ({"good_face": "back"}, 0.0, "blank.good-face", Level.CARE),
}


@pytest.mark.parametrize("name", CATALOGUE)
def test_what_is_known_is_said(name):
    values, surfaced, code, level = CATALOGUE[name]
    assert codes(known.findings(board(**values), (), surfaced))[code].level is level


def test_an_irreplaceable_piece_asks_for_a_dry_run_and_a_class_sets_how_flat(lock7):
    strict = commands.run(lock7, "set job", {"tolerance": "heirloom", "irreplaceable": True})
    loose = commands.run(lock7, "set job", {"tolerance": "trial"})
    allowed = [plan(job, coarse=True).surfaced.flatness.allowed.result for job in (strict, lock7, loose)]
    assert allowed == pytest.approx([allowed[1] / 2, allowed[1], allowed[1] * 2])
    assert "blank.irreplaceable" in {f.code for f in plan(strict, coarse=True).findings}


def test_letters_and_holds_keep_off_flaws(lock7):
    calm = {f.code for f in plan(lock7, coarse=True).findings}
    assert "carve.flaw" not in calm and "hold.on-flaw" not in calm
    job = commands.run(lock7, "add flaw", {"kind": "bark", "x": 456.0, "y": 190.0, "size": 60.0, "depth": 20.0})
    strap = job.setup("front").holds[0]
    nose = (strap.x - job.setup("front").x, strap.y + strap.nose - job.setup("front").y)
    job = commands.run(job, "add flaw", {"kind": "crack", "x": nose[0], "y": nose[1], "size": 10.0, "depth": 10.0})
    said = codes(plan(job, coarse=True).findings)
    assert said["carve.flaw"].level is Level.CARE and said["hold.on-flaw"].about == strap.name
    shallow = commands.run(lock7, "add flaw", {"kind": "bark", "x": 456.0, "y": 190.0, "size": 60.0, "depth": 0.05})
    assert "carve.flaw" not in {f.code for f in plan(shallow, coarse=True).findings}  # gone with the surfacing


def test_tabs_and_the_plate_s_edge_are_held_against_flaws(lock7):
    from gatepost.core.carve.paths import tabs

    said = codes(plan(lock7, coarse=True).findings)
    assert said["carve.edge-flaw"].level is Level.NOTE and "carve.tab-flaw" not in said  # the crack at its left end
    tab = tabs(lock7.carving.plate, lock7.tool(2))[0]
    job = commands.run(lock7, "add flaw", {"kind": "knot", "x": tab.x, "y": tab.y, "size": 8.0, "depth": 30.0})
    assert codes(plan(job, coarse=True).findings)["carve.tab-flaw"].level is Level.CARE


@given(
    st.floats(5.0, 58.0), st.floats(5.0, 50.0), st.floats(1.0, 3.9), st.lists(st.tuples(st.floats(0, 1), st.floats(0, 1), st.floats(0.3, 3.9)), max_size=4),
)  # fmt: skip
def test_a_board_typed_in_the_other_unit_is_asked_about_and_mended_as_if_it_had_been_typed_right(
    length, width, thick, readings
):
    def typed(times, unit):
        job = commands.run(Job(name="tile"), "set job", {"unit": unit})
        job = commands.run(
            job, "set blank", {"length": length * times, "width": width * times, "label_thickness": thick * times}
        )
        for x, y, t in readings:
            job = commands.run(
                job, "add caliper", {"x": x * length * times, "y": y * width * times, "thickness": t * times}
            )
        return job

    wrong, right = typed(1.0, "mm"), typed(25.4, "mm")
    (asked,) = other_unit.findings(wrong)
    mended = commands.run(wrong, asked.fixes[0].kind, dict(asked.fixes[0].values))
    assert not other_unit.findings(mended) and mended.blank == right.blank
    huge = typed(155.0, "inch")  # millimetres, typed as inches
    large = max(length, width) * 155.0 > 4000.0 and max([thick, *(t for *_, t in readings)]) * 155.0 > 100.0
    assert bool(other_unit.findings(huge)) == large
