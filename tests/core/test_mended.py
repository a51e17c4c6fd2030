# SPDX-License-Identifier: GPL-3.0-or-later
"""Old lettering mended and cut again, against what the plan cuts and plain geometry."""

import math

import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st

from gatepost.core.cache import Memory
from gatepost.core.carve.areas import area_of
from gatepost.core.errors import OperatorError
from gatepost.core.findings import Level
from gatepost.core.job import commands
from gatepost.core.plan.mended import GLUE, PROUD, ROUND_IT, UNDER_IT, deepest, mending
from gatepost.core.plan.pipeline import plan
from tests.conftest import tries
from tests.core.catalogue_jobs import JOBS, board, edited
from tests.core.told import CELL

MEMORY = Memory()


def there(**values):
    """The plate's letters, there already. values: of how they stand."""
    job = JOBS["taped"]()
    cut = next(o for s in job.setups for o in s.operations if o.kind == "vcut")
    return edited(job, ("set art", {"art": cut.on[0], **values}), ("remove operation", {"operation": cut.id})), cut


def codes(job):
    return {f.code: f for f in plan(job, memory=MEMORY, cell=CELL).report("register").findings}


@settings(max_examples=tries(24))
@given(st.floats(-180.0, 180.0), st.floats(40.0, 80.0), st.floats(30.0, 50.0))
def test_the_recess_leaves_nothing_of_the_strokes_and_is_no_larger_than_it_has_to_be(turn, x, y):
    job, cut = there(turn=turn, x=x, y=y)
    art = next(a for a in job.artwork if a.id == cut.on[0])
    values = mending(job, art).values("front", art.id)
    mended = commands.run(job, "mend lettering", values)
    sunk = area_of(mended.artwork[-1], 0.01)
    strokes = area_of(art, 0.01)
    assert sunk.buffer(0.02).covers(strokes.buffer(ROUND_IT - 0.02))
    smallest = shapely.minimum_rotated_rectangle(strokes.buffer(ROUND_IT)).area
    assert sunk.area <= smallest * 1.25  # round corners cost a little
    boxed = shapely.box(*strokes.buffer(ROUND_IT).bounds).area
    assert smallest <= boxed + 1e-6


def test_the_deepest_groove_is_the_plan_s_and_the_recess_goes_under_it():
    job, cut = there()
    art = next(a for a in job.artwork if a.id == cut.on[0])
    vee = next(t for t in job.tools if t.kind == "vee")
    whole = edited(JOBS["taped"](), ("set operation", {"operation": cut.id, "tool": vee.number}))
    made = plan(whole, memory=MEMORY, cell=0.1)
    face = made.setup("front").start.z.max()
    lowest = min(float(made.setup("front").on_bed(p).points[:, 2].min()) for p in made.setup("front").programs)
    assert deepest(art, vee) == pytest.approx(float(face) - lowest, abs=0.03)
    values = mending(job, art).values("front", art.id)
    mended = commands.run(job, "mend lettering", values)
    assert codes(mended)["register.mended"].working.result == pytest.approx(UNDER_IT, abs=0.02)
    ((_, rows),) = [
        t for t in plan(mended, memory=MEMORY, cell=CELL).report("register").tables if t[0].startswith("Plugs")
    ]
    sizes = [float(v.strip("⟦⟧").split("|")[0]) for v in rows[1][1:4]]
    assert sizes == pytest.approx([values["width"] - 2 * GLUE, values["height"] - 2 * GLUE, values["depth"] + PROUD])


@settings(max_examples=tries(9))
@given(st.floats(0.05, 1.0), st.sampled_from([3, 4]))
def test_cut_again_it_is_deeper_by_so_much_and_wider_by_what_the_bit_is_wider_there(deeper, tool):
    job, cut = there()
    was = next(a for a in job.artwork if a.id == cut.on[0])
    again = commands.run(job, "cut again", {"setup": "front", "art": was.id, "deeper": deeper, "tool": tool})
    now = again.artwork[-1]
    vee = job.tool(tool)
    straight = [
        min(shapely.get_parts(area_of(a, 0.01)), key=lambda p: p.bounds[0]) for a in (was, now)
    ]  # the I of its letters
    radii = [shapely.maximum_inscribed_circle(p).length for p in straight]
    assert (radii[1] - radii[0]) / math.tan(math.radians(vee.angle / 2.0)) == pytest.approx(deeper, abs=0.02)
    wider = 2.0 * deeper * math.tan(math.radians(vee.angle / 2.0))
    f = codes(again)["register.cut-again"]
    assert f.working.result == pytest.approx(deeper) and f.level is Level.NOTE
    told = float(f.message.split("every stroke gets ⟦")[1].split("|")[0])
    assert told == pytest.approx(wider, abs=0.006)
    sides = [p.bounds[2] - p.bounds[0] for p in straight]
    assert sides[1] - sides[0] == pytest.approx(wider, abs=0.02)
    most = deepest(now, vee) - deepest(was, vee)  # where strokes meet there is room for a larger disc
    assert ("up to" in f.message) == (most > deeper + 0.05) and most >= deeper - 0.02


def test_what_is_mended_or_cut_again_wrongly_is_told():
    job, cut = there()
    art = next(a for a in job.artwork if a.id == cut.on[0])
    values = mending(job, art).values("front", art.id)
    for change, code in (
        ({"x": values["x"] + 3.0}, "register.mend-short"),
        ({"depth": values["depth"] - 0.3}, "register.mend-shallow"),
        ({}, "register.mended"),
    ):
        assert code in codes(commands.run(job, "mend lettering", {**values, **change}))
    shallow = codes(commands.run(job, "mend lettering", {**values, "depth": values["depth"] - 0.3}))[
        "register.mend-shallow"
    ]
    assert shallow.fixes[0].values["depth"] == pytest.approx(values["depth"], abs=0.02)
    assert not [c for c in codes(board()) if "mend" in c or "again" in c]


def test_lettering_that_leaves_nothing_in_the_wood_is_not_mended():
    job, cut = there()
    art = next(a for a in job.artwork if a.id == cut.on[0])
    bare = art.figures.lines[0].model_copy(update={"text": " ", "glyphs": ()})
    empty = art.model_copy(update={"figures": art.figures.model_copy(update={"lines": (bare,)})})
    with pytest.raises(OperatorError, match="nothing to mend"):
        mending(job, empty)
    assert deepest(empty, None) == 0.0
