# SPDX-License-Identifier: GPL-3.0-or-later
"""Which place is advised for X0 Y0 and Z0, and what the figures beside say."""

import itertools

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from gatepost.core.job import commands
from gatepost.core.job.journal import Journal
from gatepost.core.job.model import Setup
from gatepost.core.job.zero import Zero
from gatepost.core.plan.pipeline import plan
from gatepost.core.units import mm
from gatepost.core.zero import ways
from gatepost.core.zero.adviser import Spot, ZChoice, best, xy_table, z_table


def spot(name, **values):
    return Spot(name, **{"stays": True, "wood": True, "under": "", "reached": True, "shifts": 0.5, **values})


def test_the_place_with_the_least_against_it_is_advised():
    clear, cut, under = spot("a"), spot("b", stays=False, shifts=0.0), spot("c", under="C1", shifts=0.0)
    off, bare, middle = spot("d", reached=False), spot("e", wood=False), spot("f", shifts=0.25)
    ranked = [middle, clear, cut, under, off, bare]
    for i, first in enumerate(ranked):
        assert best(ranked[i:]) == first
    for mine, other in itertools.permutations(
        ({"under": "C1"}, {"reached": False}, {"wood": False}), 2
    ):  # all weigh alike
        near, far = spot("near", **mine, shifts=0.1), spot("far", **other, shifts=0.2)
        assert best([far, near]) == near
    told, rows = xy_table([clear, cut, under, off, bare])
    assert told.endswith("least against it a")
    assert [r[2] for r in rows[1:]] == ["yes", "yes", "under C1", "out of reach", "no wood"]
    assert [r[1] for r in rows[1:]] == ["yes", "cut away", "yes", "yes", "yes"]


@pytest.mark.parametrize(
    ("angle", "through", "stroke", "better"), [(60.0, False, 0.230940, "top"), (90.0, True, 0.4, "top"), (None, True, 0.0, "bed"), (None, False, 0.0, "top")]
)  # fmt: skip
def test_a_spread_of_thickness_costs_stroke_on_the_bed_and_depth_on_the_top(angle, through, stroke, better):
    z = ZChoice(0.2, angle, through, "top")
    assert z.stroke == pytest.approx(stroke, abs=1e-6) and z.better == better
    _, rows = z_table(z)
    assert rows[1][0] == "● top" and rows[2][0] == "bed"
    assert ("0.2" in rows[1][2]) is through and (rows[2][1] == "as drawn") is (angle is None)
    thin = z_table(ZChoice(0.005, angle, through, "bed"))[1]
    assert thin[1][2] == "as asked" and thin[2][0] == "● bed"


@given(st.floats(-20, 20), st.floats(-20, 20), st.floats(-1200, 0))
def test_what_came_out_too_far_right_is_begun_as_much_further_left(right, back, at):
    zero = Zero(shift_x=right, shift_y=back)
    for axis, by in (("x", right), ("y", back), ("z", 0.0)):
        found = ways.FoundZero(axis, at, 0.0, ways.z_zero(at, "nothing", 0.0))
        assert ways.shifted(found, zero).machine == pytest.approx(at - by)


@given(st.sampled_from(["front left", "front right", "back left", "back right"]), st.floats(2, 20), st.floats(0, 60))
def test_a_block_between_edge_and_pin_is_added_on_the_side_that_the_pin_stands(corner, pin, block):
    """The edge comes out where it is, however thick what stands between."""
    size, at = (300.0, 200.0), (-700.0, -500.0)
    for thick in (0.0, block):
        setup = Setup(id="front", x=0, y=0, zero=Zero(xy=corner, xy_way="pin", pin=pin, block=thick))
        for touch in ways.edge_touches(setup, size, at, -50.0, pin):
            i = 0 if touch.axis == "x" else 1
            true = at[i] + (size[i] if touch.side == "high" else 0.0)
            out = -1.0 if touch.side == "low" else 1.0
            contact = true + out * (pin / 2 + thick)
            assert (touch.start - contact) * out > 0 > (touch.to - contact) * out
            assert ways.edge(contact, pin, touch.side, touch.gauge).result == pytest.approx(true)


def test_tools_are_told_by_length_and_by_touch_and_depths_from_top_and_bed(lock7):
    journal = Journal()
    for tool, machine in ((4, -100.0), (2, -94.5)):
        journal = journal.add("t", "touched", "front", axis="z", machine=machine, tool=tool, spread=0.03)
    setup = plan(lock7, journal)
    report = setup.reports["zero", "front"]
    tables = {title.split(",")[0]: rows for title, rows in report.tables}
    lengths = {t.number: t.length for t in lock7.tools}
    grown = lengths[2] - lengths[4]
    (_, first, second) = next(rows for title, rows in report.tables if title.startswith("Z0 of later tools"))
    assert first[0] == "T4" and second[:3] == ("T2", mm(grown, 2), mm(5.5, 2)) and second[3] == mm(5.5 - grown, 2)
    planned = setup.setup("front")
    rows = {r[0]: r[1:] for r in tables["Depths"][1:]}
    for p in planned.programs:
        low = float(p.moves.points[:, 2].min()) + planned.zero_height
        assert rows[" and ".join(p.operations)] == (mm(float(planned.start.z.max()) - low, 2), mm(low, 2))
    figures = {f.label: f.value for f in report.figures}
    assert figures["Z touched twice, apart by"] == 0.03
    room, left = figures["Room over the plate, tip up"], figures["Travel left under the contact"]
    assert room + left == pytest.approx(lock7.machine.travel_z)


@pytest.mark.parametrize("chosen", ["nothing", "on the board", "for a later tool"])
@pytest.mark.parametrize("z", ["top", "bed"])
def test_z_is_as_sure_as_the_bed_falls_away_from_where_each_tool_touches(quay, z, chosen):
    """From the place that each tool goes down at, to the farthest that it cuts; on the bed with nothing chosen, that is beside the board."""
    free = {"touch_x": None, "touch_y": None} if chosen == "nothing" else {"touch_x": 20.0, "touch_y": 30.0}
    job = commands.run(quay, "set zero", {"setup": "front", "z": z, **free})
    if chosen == "for a later tool":
        job = commands.run(job, "set touch", {"setup": "front", "tool": 2, "x": 5.0, "y": 5.0})
    reckoned = plan(job)
    setup = reckoned.setup("front")
    down = {
        int(t.name.removeprefix("touch-")): t.moves.points[1] for t in setup.touching if t.name.startswith("touch-")
    }
    far = np.zeros(2)
    for p in setup.programs:
        cut = setup.placed.work_to_bed.moves(p.moves).points[1:][~p.moves.rapid]
        far = np.maximum(far, abs(cut - down[p.tool.number])[:, :2].max(axis=0))
    worst = next(f.working for f in reckoned.reports["zero", "front"].figures if f.label == "Z0 at worst")
    told = {v.name: v.value for v in worst.values}
    m = job.machine
    assert (told["bed_along"], told["bed_across"]) == pytest.approx(
        (0.2 * far[0] / m.travel_x, 0.2 * far[1] / m.travel_y)
    )
    off = min(p[0] for p in down.values()) - setup.setup.x
    assert (off == pytest.approx(-40.0)) == (z == "bed" and chosen == "nothing")
