# SPDX-License-Identifier: GPL-3.0-or-later
import math
from types import SimpleNamespace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from shapely.geometry import box

from gatepost.core.blank.thickness import odd_readings
from gatepost.core.blank.top import extremes, top_of
from gatepost.core.findings import Level
from gatepost.core.job import commands
from gatepost.core.job.blank import Blank, TopHeight, Wood
from gatepost.core.job.surface import Surfacing
from gatepost.core.job.tool_table import shipped_tools
from gatepost.core.plan.pipeline import plan
from gatepost.core.surface import advice, passes
from gatepost.core.tools import forces, touchoff
from gatepost.core.units import mm
from gatepost.core.wood.field import rectangle
from tests.conftest import some

CUTTER = shipped_tools()[0]


def test_overhang_rules_by_hand():
    over = passes.overhang(CUTTER, 20.0, 500.0)
    assert over.corner.result == pytest.approx(25 * (1 - 1 / math.sqrt(2)))
    assert over.scallop.result == pytest.approx(25 - math.sqrt(625 - 100))
    v = 0.08 * CUTTER.rpm * 3 / 60
    assert over.turn.result == pytest.approx(v * v / 1000 + 50)
    assert over.rule == "turning round off the wood" and over.ends == over.turn.result
    tight = passes.overhang(CUTTER, 45.0, 500.0, False)
    assert tight.rule == "scallops between passes" and tight.ends == tight.scallop.result


@given(st.floats(20, 40), st.floats(0, 8), st.floats(0.3, 3), st.floats(0, 1), st.floats(0, 1))
def test_passes_stay_within_the_limit_and_end_light(lowest, spread, limit, cleanup, touch):
    highest = lowest + spread
    d = passes.depths(
        lowest, highest, lowest + touch * spread, Surfacing(limit=limit, last=min(0.4, limit), cleanup=cleanup)
    )
    planes = (highest, *d.heights)
    steps = [a - b for a, b in zip(planes, planes[1:])]
    assert d.heights[-1] == pytest.approx(lowest - cleanup)
    assert all(s <= limit + 1e-9 for s in steps) and all(s >= -1e-9 for s in steps)
    assert steps[-1] <= min(0.4, limit) + 1e-9
    assert len(steps) == round(d.count.result)
    assert d.first_bite.result == pytest.approx(steps[0])
    fewer = (len(steps) - 2) * limit + min(0.4, limit)
    assert len(steps) <= 2 or fewer < highest - lowest + cleanup + 1e-6  # one pass less would be over the limit


def test_flat_enough_is_a_tenth_of_the_thinnest_stroke():
    flat = passes.flatness(0.17, 3.0, 45.0, 0.1)
    assert flat.allowed.result == pytest.approx(0.15) and flat.needed and flat.widening.result == pytest.approx(0.34)
    assert not passes.flatness(0.149, 3.0, 45.0, 0.1).needed


@given(st.floats(-0.01, 0.01), st.floats(-0.01, 0.01), st.floats(20, 40))
def test_a_plane_is_found_again_by_the_top(a, b, c):
    spots = [(10, 10), (590, 20), (300, 190), (30, 180), (420, 60)]
    blank = Blank(length=600, width=200, heights=tuple(TopHeight(x=x, y=y, z=a * x + b * y + c) for x, y in spots))
    top = top_of(blank, 30.0)
    assert top.at(np.array([100.0, 500.0]), np.array([50.0, 100.0])) == pytest.approx(
        [100 * a + 50 * b + c, 500 * a + 100 * b + c], abs=0.3 * 600 * (abs(a) + abs(b)) + 1e-6
    )
    ends = extremes(top, box(0, 0, 600, 200))
    assert (
        ends.highest[2] >= max(h.z for h in blank.heights) - 1e-6
        and ends.lowest[2] <= min(h.z for h in blank.heights) + 1e-6
    )


def test_readings_in_a_line_or_too_few_leave_the_top_level():
    for spots in ([], [(1, 1)], [(0, 0), (10, 10), (20, 20), (30, 30)]):
        blank = Blank(heights=tuple(TopHeight(x=x, y=y, z=30 + x / 10) for x, y in spots))
        assert not top_of(blank, 31.0).measured


def test_odd_readings_are_asked_about_and_an_even_board_has_none():
    assert odd_readings([34.1, 34.1, 34.15, 34.05, 34.1]) == ()
    assert odd_readings([34.1, 34.2, 31.4, 34.15, 34.1, 34.05]) == (2,)
    assert odd_readings([34.1, 20.0, 34.1, 34.1]) == ()  # too few to judge


def test_push_by_hand():
    mill = shipped_tools()[1]
    from gatepost.core.job.blank import Wood

    push = forces.push(mill, Wood(name="elm", kind="medium"), 6.0, 5.0)
    f = mill.feed / (mill.rpm * 2)
    h = f * 2 / math.pi
    watts = 6 * 5 * mill.feed * (30 + 4 / h) / 60_000
    assert push.result == pytest.approx(watts / (math.pi * 0.006 * mill.rpm / 60))
    assert forces.thickest_chip(mill, 0.1).result == pytest.approx(2 * f * math.sqrt(0.09))


def test_places_to_touch_off_are_old_top_in_the_clear():
    before = rectangle(300, 200, 1.0, lambda x, y: np.full_like(x, 20.0))
    z = before.z.copy()
    z[60:140, 40:260] -= 3
    from gatepost.core.wood.field import HeightField

    now = HeightField(z, before.x0, before.y0, 1.0)
    from shapely.geometry import box

    found = touchoff.spots(before, now, [box(0, 0, 300, 60)])
    assert found
    for spot in found:
        assert touchoff.is_top(before, now, spot.x, spot.y, 10) == 0 and spot.y > 140
        assert spot.room >= 12
    assert touchoff.is_top(before, now, 100, 100, 6) == pytest.approx(3)
    assert touchoff.is_top(before, now, -5, 100, 6) == math.inf


@given(
    st.sampled_from(["soft", "medium", "hard"]), st.floats(500, 8000), st.floats(0.1, 0.9), st.floats(0.1, 3.0),
    st.floats(0.05, 0.95),
)  # fmt: skip
def test_power_is_wood_taken_times_its_resistance_and_the_feed_that_fits_is_found(kind, feed, share, depth, part):
    tool = next(t for t in shipped_tools() if t.kind == "surfacing").model_copy(update={"feed": feed})
    wood, step = Wood(name="x", kind=kind), share * tool.diameter
    asked = forces.power(tool, wood, step, depth).result
    pushed = forces.push(tool, wood, step, depth).result
    rim = math.pi * tool.diameter * tool.rpm / 60_000.0  # m/s
    assert asked == pytest.approx(pushed * rim, rel=1e-7)  # pi is written with nine digits
    slower = forces.feed_within(tool, wood, step, depth, part * asked)
    if slower > 1e-3:
        again = forces.power(tool.model_copy(update={"feed": slower}), wood, step, depth).result
        assert again == pytest.approx(part * asked, rel=1e-3)
    else:  # the edge alone asks for more, however slow
        barely = forces.power(tool.model_copy(update={"feed": 0.01}), wood, step, depth).result
        assert barely >= part * asked * 0.999


def test_a_spindle_that_is_asked_too_much_is_told_with_the_feed_that_it_can_do(lock7):
    weak = commands.run(lock7, "set machine", {"rated_power": 120.0})
    said = next(f for f in plan(weak).findings if f.code == "surface.power")
    assert said.level is Level.CARE and "burn, or stall" in said.message
    for fix in said.fixes:
        mended = next(
            f for f in plan(commands.run(weak, fix.kind, dict(fix.values))).findings if f.code == "surface.power"
        )
        assert mended.level is Level.NOTE


@pytest.mark.parametrize(
    ("typed", "meant"), some([(3394.0, 33.94), (339.4, 33.94), (3.394, 33.94), (1.336, 33.9344), (150.0, None)], 3)
)
def test_a_height_mistyped_is_asked_about_before_anything_is_worked_out_on_it(lock7, memory, typed, meant):
    """As many millimetres high as a point left out makes it: thousands of passes, and minutes, would come of it."""
    from gatepost.core.job import commands
    from gatepost.core.job.fixes import apply
    from gatepost.core.plan.pipeline import plan

    job = commands.run(lock7, "set height", {"height": "height-3", "z": typed})
    found = plan(job, memory=memory)
    (odd,) = [f for f in found.findings if f.code == "surface.height-odd"]
    assert f"{typed:g}" in odd.message.replace("⟦", "").replace("⟧", "").replace(",", "")
    assert [f.kind for f in odd.fixes] == (["set height"] if meant else []) + ["remove height"]
    assert not any(s.programs and s.name == "surface" for s in found.setups)
    if meant:
        assert odd.fixes[0].values["z"] == pytest.approx(meant, abs=1e-3)
    for fix in odd.fixes:
        assert "surface.height-odd" not in {f.code for f in plan(apply(job, fix), memory=memory).findings}


# -- overhang with its doubt, patches, stopping early, turns in wood -----------------------------------------------


def test_each_overhang_rule_is_told_with_the_outline_s_own_doubt_and_the_ruling_one_marked(lock7_plan):
    figures = [f for f in lock7_plan.reports["surface", ""].figures if "Past the edge" in f.label]
    assert len(figures) == 3 and sum(f.label.startswith("●") for f in figures) == 1
    ruling = next(f for f in figures if f.label.startswith("●"))
    assert ruling.value == max(f.value for f in figures)
    doubt = lock7_plan.job.blank.outline_doubt
    assert all(next(v.value for v in f.working.values if v.name == "outline") == doubt for f in figures)
    radius = lock7_plan.job.tool(1).diameter / 2
    corners = next(f for f in figures if "corners" in f.label)
    assert corners.value == pytest.approx(radius * (1 - 1 / math.sqrt(2)) + doubt)


def test_a_lean_stays_what_it_was_measured_to_be_whatever_is_planned_after(lock7):
    job = commands.run(lock7, "set surfacing", {"step_x": 0.08})
    measured = job.surfacing.patch_stepover
    assert measured == pytest.approx(job.tool(1).diameter * job.surfacing.stepover)
    wider = commands.run(job, "set surfacing", {"stepover": 0.8})

    def told(of):
        tool = of.tool(of.surfacing.tool)
        (said,) = (f for f in advice._ridges(of.surfacing, tool) if f.about == "along X")
        return said

    assert told(wider).working.result == told(job).working.result  # the lean
    assert (
        mm(0.16, 3) in told(wider).message and mm(0.08, 3) in told(job).message
    )  # and the steps that it makes as planned
    again = commands.run(wider, "set surfacing", {"step_x": 0.16})
    assert again.surfacing.patch_stepover == pytest.approx(2.0 * measured)
    assert told(again).working.result == pytest.approx(told(job).working.result)


@pytest.mark.parametrize("stop", [1, 2, 0])
def test_stopped_early_figures_wood_and_minutes_tell_one_story(lock7, stop):
    job = commands.run(lock7, "set surfacing", {"stop_after": stop, "wanted": "yes"})
    whole, told = plan(commands.run(job, "set surfacing", {"stop_after": 0})), plan(job)
    setup, report = told.setup("surface"), told.reports["surface", ""]
    figures = {f.label: f.value for f in report.figures}
    run = stop or len(whole.surfaced.lines)
    wood = setup.operations[-1].after
    assert figures["Finished face above the bed"] == pytest.approx(float(wood.z[wood.wood].max()), abs=0.02)
    assert figures["Comes off the highest place"] == pytest.approx(float(setup.start.z.max() - wood.z.max()), abs=0.05)
    assert report.fact.startswith(f"{run} pass")
    assert figures["Minutes"] * 60 == pytest.approx(sum(o.seconds for o in setup.operations))
    assert len(told.surfaced.way("").passes) == run
    assert told.surfaced.way("").thickness >= whole.surfaced.way("").thickness


def test_turns_are_judged_on_the_wood_that_stands(lock7_plan):
    """Rows that end past the wood turn off it; the same rows drawn in by the cutter's radius end in it."""
    from gatepost.core.plan.surfaces import _turns_in_wood
    from gatepost.core.plan.surfacing_rows import Lines

    wood, radius = (
        SimpleNamespace(outline=box(0, 0, 600, 200), top=SimpleNamespace(at=lambda x, y: np.full(len(x), 20.0))),
        25.0,
    )
    for end, z, turns in ((626.0, 19.0, False), (615.0, 19.0, True), (615.0, 20.5, False)):
        rows_ = tuple(np.array([[600.0 - end, y], [end, y]]) for y in (50.0, 150.0))
        assert _turns_in_wood(wood, Lines(((z, rows_),), True), radius) == turns


def test_other_stepovers_are_told_beside_the_one_that_is_planned(lock7_plan):
    title, rows = lock7_plan.reports["surface", ""].tables[0]
    heads, *told = rows
    planned = next(r for r in told if r[0].startswith("●"))
    minutes = lock7_plan.reports["surface", ""].figures[-1].value
    assert planned[1] == f"{minutes:.0f} min"
    chips = [float(r[3].strip("⟦|3⟧")) for r in told]
    tool = lock7_plan.job.tool(1)
    fed = tool.feed / (tool.rpm * tool.teeth)
    for row, chip in zip(told, chips):
        share = float(row[0].lstrip("● ").split(" %")[0]) / 100
        assert chip == pytest.approx(fed if share >= 0.5 else 2 * fed * math.sqrt(share * (1 - share)), rel=0.02)
