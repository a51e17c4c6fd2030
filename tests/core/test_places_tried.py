# SPDX-License-Identifier: GPL-3.0-or-later
"""Places offered and tried, what stands in the way of a touch, and what a bed keeps."""

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from shapely.geometry import LineString, Point, box

from gatepost.core.findings import Level
from gatepost.core.hold import solids
from gatepost.core.hold.kind import Dragged
from gatepost.core.hold.scars import scarred, scars_of
from gatepost.core.job import commands
from gatepost.core.job.base import changed
from gatepost.core.job.hold import Screw, Strap
from gatepost.core.job.journal import Journal
from gatepost.core.job.machine import BedThings, Machine
from gatepost.core.job.tool_table import shipped_tools
from gatepost.core.motion import Moves
from gatepost.core.plan.export import plan_json
from gatepost.core.plan.holding_ways import suggestion, ways_compared
from gatepost.core.plan.holds import rocked
from gatepost.core.plan.pipeline import plan
from tests.core.catalogue_jobs import JOBS
from tests.core.holds import KINDS, WORK, held, strap


def test_the_bed_keeps_scars_of_what_went_through_and_none_twice():
    tool = next(t for t in shipped_tools() if t.kind == "flat")
    path = np.array([[0, 0, 5.0], [100, 0, -0.3], [200, 0, -0.3], [200, 50, -0.3], [200, 50, 10.0], [300, 50, 10.0]])
    moves = Moves(path, np.array([False, False, False, False, True]), np.full(5, 100.0))
    (scar,) = scars_of(moves, tool, "2026-11-02", "Quay plate, a.nc")
    assert scar.width == tool.diameter and scar.depth == 0.3 and LineString(scar.points).length == pytest.approx(250.0)
    (rough,) = scars_of(moves.moved(0.1234, 0.0056, -0.0049), tool, "", "")  # kept to the hundredth
    assert rough.depth == 0.3 and rough.points == ((0.12, 0.01), (200.12, 0.01), (200.12, 50.01))
    bed = scarred(BedThings(), [scar])
    assert len(bed.scars) == 1 and len(scarred(bed, [scar]).scars) == 1
    assert len(scarred(bed, [changed(scar, points=((0, 90), (80, 90)))]).scars) == 2
    assert scars_of(moves.moved(0, 0, 1.0), tool, "", "") == []
    straight = changed(scar, points=((0, 0), (100, 0)))
    bed = scarred(BedThings(), [straight])
    for other, kept in (
        (straight, 1), (changed(straight, points=((10, 0), (90, 0.4))), 1), (changed(straight, points=((10, 0), (90, 0.6))), 2),
        (changed(straight, depth=0.79), 1), (changed(straight, depth=0.81), 2), (changed(straight, width=7.1), 2),
        (changed(straight, points=((10, 0),)), 1), (changed(straight, points=((10, 4),)), 2),
    ):  # fmt: skip
        assert len(scarred(bed, [other]).scars) == kept, other
    many = scarred(bed, [changed(straight, points=((0, 2.0 * k), (100, 2.0 * k)), width=1.0) for k in range(10, 410)])
    assert len(many.scars) == 400 and many.scars[0] != straight  # the oldest goes


def test_the_rock_test_is_kept_and_bars_until_it_stands_still(quay):
    journal = Journal().add("2026-11-02", "rocked", "front", answer="rocks")
    assert rocked(journal, "front") == "rocks" and rocked(journal, "surface") == ""
    assert any(f.code == "hold.rocks" and f.level is Level.STOP for f in plan(quay, journal, coarse=True).findings)
    journal = journal.add("2026-11-02", "shimmed", "front")
    assert rocked(journal, "front") == ""
    journal = journal.add("2026-11-02", "rocked", "front", answer="still")
    assert not any(f.code == "hold.rocks" for f in plan(quay, journal, coarse=True).findings)


def test_scripts_are_told_of_holds_pieces_and_trust(lock7_plan):
    front = plan_json(lock7_plan, [], suggest=True)["setups"][1]
    hold = front["hold"]
    assert {"ways", "margin", "margins", "clearance", "free_span", "unreached", "suggestions"} == set(hold)
    assert [w["name"] for w in hold["ways"]] == ["C1", "C2", "C3", "C4"]
    assert hold["margin"] == min(min(m["slide"], m["turn"], m["lift"] or 1e9) for m in hold["margins"])
    assert all(g["gap"] >= 3.0 and {"hold", "operation", "gap", "at"} <= set(g) for g in hold["clearance"])
    assert {g["hold"] for g in hold["clearance"]} == {"C1", "C2", "C3", "C4"}
    (best,) = hold["suggestions"]
    assert best["kind"] == "strap" and best["count"] == 4 and best["span"] < hold["free_span"]["length"]
    by_op = {p["operation"] for p in front["pieces"]}
    assert by_op == {"lettering", "cut-out"} and all(p["held_by"] for p in front["pieces"])
    assert set(front["datum"]["trust"]) == {"x", "y", "z"} and front["datum"]["skew"] == 0.0
    assert front["datum"]["trust"]["x"]["trust"] == "lost"


def test_suggested_places_are_clear_and_using_them_leaves_nothing_to_fix(lock7, lock7_plan):
    told = []
    best = suggestion(lock7_plan, "front", "strap", 6, lambda share: told.append(share) or True)
    job = commands.run(lock7, "set holds", {"setup": "front", "holds": best.holds})
    again = plan(job)
    assert not [f for f in again.findings if f.setup == "front" and f.stage == "hold" and f.level is Level.STOP]
    assert again.setup("front").span.length == pytest.approx(best.span)
    assert told == sorted(told) and best.tried > 20
    rows = ways_compared(lock7_plan, "front", 4)
    assert [r.kind for r in rows][:2] == ["as it is", "strap"] and rows[1].minutes > rows[2].minutes


def test_a_blank_that_lies_turned_is_held_where_it_lies_and_cut_as_drawn(quay, quay_plan):
    job = commands.run(quay, "set skew", {"setup": "front", "degrees": 1.2})
    turned = plan(job).setup("front")
    straight = quay_plan.setup("front")
    for a, b in zip(straight.programs, turned.programs):
        assert len(a.moves) == len(b.moves)
        assert np.abs(b.moves.turned(-1.2).points - a.moves.points).max() < 2e-3
        assert np.abs(turned.on_board(b.moves).points - straight.on_board(a.moves).points).max() < 2e-3
    assert np.abs(straight.end.z - turned.end.z).max() < 0.05
    assert turned.placed.to_work.xy(*turned.datum) == pytest.approx((0.0, 0.0))


def test_a_skin_in_place_of_tabs_is_left_and_judged(quay):
    left = plan(commands.run(quay, "set plate", {"skin": 0.4})).setup("front")
    assert not [f for f in plan(commands.run(quay, "set plate", {"skin": 0.4})).findings if f.code.startswith("wood.")]
    floor = left.end.z[left.end.wood].min()
    assert (
        floor == pytest.approx(0.4, abs=1e-3)
        and len([p for p in left.pieces if p.operation == "cut-out" and not p.hangs]) == 1
    )
    thin = plan(commands.run(quay, "set plate", {"skin": 0.15}), coarse=True)
    assert "wood.hangs" in {f.code for f in thin.findings}


def test_a_spindle_that_is_set_by_hand_is_told_where():
    from gatepost.core.run.steps import by_dial

    assert by_dial(Machine(), 18000) == ""
    hz = Machine(spindle="hand", poles=2, slip=2.0)
    assert "306 Hz" in by_dial(hz, 18000)  # 120 · Hz / 2, two per cent lost
    dial = Machine(
        spindle="hand", dial=({"mark": "3", "rpm": 12000}, {"mark": "4", "rpm": 16000}, {"mark": "5", "rpm": 20000})
    )
    assert "dial at 4 and 5" in by_dial(dial, 18000) and "dial at 4." in by_dial(dial, 16000)


def test_the_way_down_to_a_touch_is_held_against_what_stands_beside_it(quay):
    job = commands.run(quay, "set zero", {"setup": "front", "z": "top", "touch_x": 30.0, "touch_y": 20.0})
    setup = job.setup("front")
    x = setup.x + 30.0
    tall = {"kind": "edge", "x": x - 14.0, "y": setup.y, "heading": 90.0, "height": 80.0, "width": 10.0}
    told = [
        f
        for f in plan(commands.run(job, "add hold", {"setup": "front", **tall}), coarse=True).findings
        if f.code == "hold.clearance"
    ]
    assert any("touching off" in f.message for f in told)


@pytest.mark.parametrize("name", [n for n, k in KINDS.items() if n != "nest"])
def test_what_is_offered_stands_at_the_work_each_in_a_place_of_its_own(name):
    job = changed(JOBS["strapped"](), setups=tuple(changed(s, holds=()) for s in JOBS["strapped"]().setups))
    for _ in range(4):
        offer = KINDS[name].offers(job, job.setup("front"))[0]
        job = commands.run(job, "add hold", {"setup": "front", "kind": name, **offer.values})
    setup = job.setup("front")
    work = box(setup.x, setup.y, setup.x + job.blank.length, setup.y + job.blank.width)
    assert [h.name for h in setup.holds] == [f"{KINDS[name].figures.LETTER}{n}" for n in (1, 2, 3, 4)]
    touched = [KINDS[name].touch_point(h) for h in setup.holds]
    assert all(work.distance(Point(p)) < 1e-6 for p in touched)
    assert len({(h.x, h.y) for h in setup.holds}) == 4 or name == "strap"
    if name == "screw":  # a corner each, so far in that nothing splits
        assert all(work.exterior.distance(Point(p)) == 15.0 for p in touched)
        assert len({(x > work.centroid.x, y > work.centroid.y) for x, y in touched}) == 4


@given(st.integers(0, 5), st.floats(-1, 1), st.floats(-1, 1), st.booleans())
def test_a_nudge_takes_a_hold_to_the_nearest_insert_that_way(at, dx, dy, strapped):
    inserts = ({"x": 100.0, "y": 200.0, "columns": 3, "rows": 2, "across": 60.0, "up": 45.0},)
    machine = Machine(bed=BedThings.model_validate({"inserts": inserts}))
    spots = solids.insert_places(machine.bed)
    x, y = spots[at]
    one = Strap(name="C1", x=x, y=y, into="insert") if strapped else Screw(name="S1", x=x, y=y, into="insert")
    to = Dragged(x + dx, y + dy, dx, dy, True, machine, lambda *_: (0.0, 0.0))
    there = KINDS[one.kind].dragged(one, to)
    ahead = [q for q in spots if (q[0] - x) * dx + (q[1] - y) * dy > 1e-9]
    assert there in spots and math.dist(there, (x, y)) == min((math.dist(q, (x, y)) for q in ahead), default=0.0)


def test_strips_across_the_work_are_numbered_lie_evenly_and_reach_from_edge_to_edge():
    strips = KINDS["glue"].tries(held(), None)
    assert [s.name for s in strips] == ["G1", "G2", "G3"] and {s.kind for s in strips} == {"glue"}
    assert [(s.x, s.y, s.length) for s in strips] == [
        (240.0, 300.0, 200.0),
        (350.0, 300.0, 200.0),
        (460.0, 300.0, 200.0),
    ]


@pytest.mark.parametrize("into", ["slot", "insert"])
def test_a_strap_that_is_tried_has_its_nose_a_little_on_the_work_from_whichever_side(into):
    grid = ({"x": 130.0, "y": 130.0, "columns": 5, "rows": 4, "across": 110.0, "up": 115.0},)
    machine = Machine(slots=(160.0, 300.0, 440.0), bed=BedThings.model_validate({"inserts": grid}))
    found = KINDS["strap"].tries(held(machine=machine), strap(into=into))
    assert {h.heading for h in found} == {0.0, 90.0, 180.0, 270.0}
    for h in found:
        x, y = KINDS["strap"].touch_point(h)
        assert WORK.contains(Point(x, y)) and WORK.exterior.distance(Point(x, y)) == pytest.approx(7.0), h
        assert not WORK.contains(Point(h.x, h.y)) and 22.0 <= h.nose <= 110.0 and h.packing == 30.0
