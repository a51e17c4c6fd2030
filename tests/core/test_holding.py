# SPDX-License-Identifier: GPL-3.0-or-later
"""Ways of holding: sums by hand, where each may stand, what is said of bad input, what a plan tells scripts."""

import itertools
import math
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from shapely import affinity
from shapely.geometry import LineString, Point, Polygon, box

from gatepost.core.findings import Level
from gatepost.core.hold import margins as sums
from gatepost.core.hold import reach, solids
from gatepost.core.hold.clearance import gantry_gaps, sections
from gatepost.core.hold.kind import Dragged, HoldingInputs
from gatepost.core.hold.kinds import strap as strap_kind
from gatepost.core.hold.kinds.blocks import MOST_STACKS
from gatepost.core.hold.lying import lying
from gatepost.core.hold.report import report
from gatepost.core.hold.scars import scarred, scars_of
from gatepost.core.job import commands
from gatepost.core.job.base import changed
from gatepost.core.job.hold import EdgeClamp, Glue, Holding, InNest, Screw, Strap, Tape, Wedges
from gatepost.core.job.journal import Journal
from gatepost.core.job.machine import BedThings, Fence, Machine, Nest, Scar
from gatepost.core.job.model import Setup
from gatepost.core.motion import Moves
from gatepost.core.plan.export import plan_json
from gatepost.core.plan.holding_ways import suggestion, ways_compared
from gatepost.core.plan.holds import rocked
from gatepost.core.plan.kinds import SHIPPED
from gatepost.core.plan.pipeline import plan
from gatepost.core.tools.table import shipped_tools
from gatepost.core.working import Named, working
from tests.core.catalogue import JOBS

WORK = box(200, 200, 500, 400)
RULES = Holding()
KINDS = SHIPPED.holds


def strap(name="C1", x=300.0, y=160.0, **values):
    return Strap(name=name, x=x, y=y, **{"heading": 90.0, "nose": 50.0, "tail": 40.0, "packing": 30.0, **values})


def held(*holds, machine=None, **values):
    machine = machine or Machine(slots=(160.0, 440.0))
    setup = Setup(id="front", x=200, y=200, holds=holds)
    return HoldingInputs(
        setup, machine, RULES, WORK, lambda x, y: 30.0 if WORK.contains(Point(x, y)) else math.nan, KINDS, **values
    )


def grip(hold, work, rules, bed):
    return KINDS[hold.kind].grip(hold, work, rules, bed)


def load(push=100.0, pull=0.0, where=(250, 250, 450, 350)):
    return sums.CutLoad("cut-out", working("push", Named("push", push, "force"), unit="force"), 1.3, pull, where)


def test_what_holds_by_hand():
    grips = [
        grip(strap(force=1800.0), WORK, RULES, BedThings()),
        grip(strap("C2", y=440.0, heading=270.0, force=1800.0), WORK, RULES, BedThings()),
    ]
    press = 1800 * 40 / 90
    assert [g.press for g in grips] == [press, press]
    done = sums.enough(load(pull=0.5), grips, 20.0, WORK, RULES, 0.0)
    assert done.slide.result == pytest.approx(0.2 * (2 * press + 20 - 50) / 100)
    assert done.lift.result == pytest.approx((2 * press + 20) / 50)
    # two straps 180 mm apart turn about the middle between them; the farthest cut is a corner of the box
    weight = 0.2 * 20 * (2 * press + 20 - 50) / (2 * press + 20)
    about = sums.spread(WORK)
    turning = (
        2 * 0.2 * press * (2 * press + 20 - 50) / (2 * press + 20) * 90
        + weight * np.hypot(*(about - [350, 300]).T).mean()
    )
    arm = math.hypot(150, 50)
    assert done.turn.result == pytest.approx(turning / (100 * arm), rel=0.01)
    for w in (done.slide, done.turn, done.lift):
        assert w.evaluate() == pytest.approx(w.result) and w.shop_rule
    assert sums.enough(load(), grips, 20.0, WORK, RULES, 0.0).lift is None


def test_edge_clamps_hold_a_lift_by_friction_alone_and_screws_and_tape_by_themselves():
    clamps = [grip(EdgeClamp(name="E1", x=300, y=200, heading=90, force=1000.0), WORK, RULES, BedThings())] * 2
    assert sums.enough(load(pull=0.5), clamps, 0.0, WORK, RULES, 2000.0).lift.result == pytest.approx(
        2 * 0.2 * 1000 / 50
    )
    screw = grip(Screw(name="S1", x=220, y=220), WORK, RULES, BedThings())
    assert (screw.press, screw.shear, screw.lift) == (0.0, 300.0, 300.0)
    tape = Tape(name="T1", x=350, y=300, heading=90, length=400, width=50, contact=0.8)
    stuck = grip(tape, WORK, RULES, BedThings())
    assert stuck.shear == pytest.approx(0.05 * 0.8 * 50 * 200) and stuck.lift == pytest.approx(0.02 * 0.8 * 50 * 200)
    assert grip(changed(tape, fresh=False), WORK, RULES, BedThings()).shear == 0.0
    nest = Nest(name="N", x=200, y=200, length=300.3, width=200.3, height=10)
    assert grip(InNest(name="N1", x=200, y=200, of="N"), WORK, RULES, BedThings(nests=(nest,))).shear == pytest.approx(
        10 * 200.3 * 2.5
    )


@given(st.lists(st.tuples(st.floats(200, 500), st.sampled_from([200.0, 400.0])), min_size=1, max_size=7, unique=True))
def test_free_spans_share_out_the_whole_edge(places):
    found = sums.spans(WORK, [(str(i), x, y) for i, (x, y) in enumerate(places)])
    assert sum(s.length for s in found) == pytest.approx(1000.0) and found[0].length >= 1000.0 / len(places) - 1e-6
    for s in found:
        assert WORK.exterior.distance(Point(s.middle)) < 1e-6 and s.chord <= s.length + 1e-6


@given(
    st.lists(st.sampled_from([3.0, 6.0, 12.0, 18.0, 30.0]), min_size=1, max_size=4, unique=True),
    st.floats(5, 70),
    st.floats(0, 8),
)
def test_packing_is_the_fewest_blocks_that_reach(blocks, low, more):
    stack = strap_kind.packing_from(tuple(blocks), low, low + more)
    every = [
        c
        for n in range(1, 5)
        for c in __import__("itertools").combinations_with_replacement(blocks, n)
        if low - 1e-6 <= sum(c) <= low + more + 1e-6
    ]
    if not every:
        assert stack is None
        return
    fewest = min(len(c) for c in every)
    assert len(stack) == fewest and sum(stack) == pytest.approx(min(sum(c) for c in every if len(c) == fewest))


def test_a_bolt_s_force_and_its_stud():
    assert strap_kind.bolt_force(strap(torque=4.8, stud=8.0)).result == pytest.approx(4.8 / (0.2 * 0.008))
    assert strap_kind.bolt_force(strap(force=900.0)).result == 900.0
    alu = Machine(bed=BedThings(slot="aluminium"))
    assert [strap_kind.engagement(strap(into=i), alu).result for i in ("slot", "insert")] == [12.0, 16.0]
    with_board = strap_kind.stud_length(strap(), 30.0, Machine()).result
    assert with_board - strap_kind.stud_length(strap(into="insert"), 30.0, Machine()).result == pytest.approx(
        18.0 - 8.0
    )


BAD = {
    # holds, machine or height of the trouble -> codes that must be told
    "a strap off its slot": ((strap(y=165.0, nose=45.0), strap("C2", y=440.0, heading=270.0)), None, {"hold.no-slot"}),
    "two on each other": ((strap(), strap("C2", x=305.0)), None, {"hold.overlap"}),
    "off the bed": ((strap(x=-90.0), strap("C2", y=440.0, heading=270.0)), None, {"hold.off-bed", "hold.off-work"}),
    "under the blank": ((strap(y=300.0), strap("C2", y=440.0, heading=270.0)), None, {"hold.packing-on-work"}),
    "an insert that is not there": ((strap(into="insert"), strap("C2", y=440.0, heading=270.0)), None, {"hold.no-insert"}),
    "nothing": ((), None, {"hold.too-few"}),
    "one screw": ((Screw(name="S1", x=220, y=220),), None, {"hold.too-few"}),
    "a screw at the very edge": ((Screw(name="S1", x=201, y=220), Screw(name="S2", x=480, y=380)), None, {"hold.screw-edge"}),
    "a screw through the bed": ((Screw(name="S1", x=220, y=220, bite=25), Screw(name="S2", x=480, y=380)), None, {"hold.too-long"}),
    "screws where none may go": ((Screw(name="S1", x=220, y=220), Screw(name="S2", x=480, y=380)), Machine(bed=BedThings(screws=0)), {"hold.no-screws"}),
    "no pilot": ((Screw(name="S1", x=220, y=220, pilot=False), Screw(name="S2", x=480, y=380)), None, {"hold.no-pilot"}),
    "wedges against nothing": ((Wedges(name="W1", x=300, y=200, heading=90), strap("C2", y=440.0, heading=270.0)), None, {"hold.no-stop"}),
    "tape beside the work": ((Tape(name="T1", x=700, y=300, length=100),), None, {"hold.tape-off"}),
    "old tape": ((Glue(name="T1", x=350, y=300, length=250, fresh=False),), None, {"hold.tape-old"}),
    "a nest that is not there": ((InNest(name="N1", x=0, y=0, of="Nest 9"),), None, {"hold.no-nest"}),
    "a nest that is elsewhere": ((InNest(name="N1", x=0, y=0, of="N"),), Machine(bed=BedThings(nests=(Nest(name="N", x=230, y=200, length=310, width=210),))), {"hold.not-in-nest"}),
    "a fence under the work": ((strap(), strap("C2", y=440.0, heading=270.0)), Machine(slots=(160.0, 440.0), bed=BedThings(fences=(Fence(name="F", x=220, y=300),))), {"hold.on-fence"}),
    "a strap that bruises": ((strap(force=9000.0), strap("C2", y=440.0, heading=270.0)), None, {"hold.bruise"}),
    "a stud through its nut": ((strap(stud=12.0), strap("C2", y=440.0, heading=270.0)), None, {"hold.nut-thin"}),
    "a board too thin to squeeze": ((EdgeClamp(name="E1", x=300, y=200, heading=90), EdgeClamp(name="E2", x=300, y=400, heading=270)), "thin", {"hold.bows"}),
    "tape over a hole": ((Tape(name="T1", x=350, y=300, heading=90, length=180),), Machine(bed=BedThings(scars=(Scar(points=((350, 300),), width=40, depth=3),))), {"hold.tape-scarred"}),
    "tape over scars": ((Tape(name="T1", x=350, y=300, heading=90, length=180),), Machine(bed=BedThings(scars=(Scar(points=((350, 150), (350, 450)), width=12, depth=0.3),))), {"hold.tape-scarred"}),
}  # fmt: skip


@pytest.mark.parametrize("name", BAD)
def test_what_is_wrong_with_a_hold_is_a_sentence(name):
    holds, machine, codes = BAD[name]
    here = held(*holds, machine=machine if isinstance(machine, Machine) else None)
    if machine == "thin":
        here = replace(here, thick=4.0)
    told = report(here)
    found = {f.code for f in told.findings}
    assert codes <= found, found
    for finding in told.findings:
        assert finding.message.strip().endswith((".", ". Lift")) and finding.setup == "front"
    sound = report(held(strap(), strap("C2", y=440.0, heading=270.0)))
    assert not (codes & {f.code for f in sound.findings}) and not [f for f in sound.findings if f.level is Level.STOP]


def test_a_nose_that_points_up_is_set_on_blocks_at_hand_and_that_mends_it():
    machine = Machine(slots=(160.0, 440.0), bed=BedThings(blocks=(6.0, 18.0, 12.0)))
    low = strap(packing=12.0)
    told = report(held(low, strap("C2", y=440.0, heading=270.0), machine=machine))
    (up,) = [f for f in told.findings if f.code == "hold.nose-up"]
    assert "⟦18|2⟧ + ⟦12|2⟧" in up.fixes[0].sentence and up.fixes[0].values["packing"] == 30.0
    mended = report(held(changed(low, packing=30.0), strap("C2", y=440.0, heading=270.0), machine=machine))
    assert "hold.nose-up" not in {f.code for f in mended.findings}


def test_the_gantry_is_met_by_what_stands_higher_behind_the_spindle():
    machine = Machine(gantry=60.0, gantry_front=40.0, gantry_back=120.0)
    moves = Moves(np.array([[300, 100, 90.0], [300, 200, 90.0]]), np.array([True]), np.zeros(1))

    def gap(y, top):
        found = gantry_gaps(moves, machine, [solids.Solid("C1", "stud", box(0, y, 10, y + 10), 0.0, top)], 30.0)
        return found[0].gap if found else None

    assert gap(250, 70.0) == -10.0 and gap(250, 50.0) == 10.0
    assert gap(325, 70.0) == pytest.approx(5.0) and gap(100, 70.0) is None and gap(101, 70.0) == pytest.approx(29.0)
    assert gantry_gaps(moves, Machine(), [solids.Solid("C1", "stud", box(0, 250, 10, 260), 0, 200)], 30.0) == []


@given(
    st.lists(st.tuples(st.floats(0, 900), st.floats(40, 120)), min_size=2, max_size=5),
    st.tuples(st.floats(0, 900), st.floats(5, 60), st.floats(10, 110)), st.floats(0, 60), st.floats(0, 80),
)  # fmt: skip
def test_the_beam_s_gap_is_that_of_two_boxes_at_the_nearest_moment(path, thing, front, deep):
    machine = Machine(gantry=70.0, gantry_front=front, gantry_back=front + deep)
    points = np.array([(300.0, y, z) for y, z in path])
    moves = Moves(points, np.arange(len(points) - 1) % 2 == 0, np.full(len(points) - 1, 100.0))
    y0, long, top = thing
    found = gantry_gaps(moves, machine, [solids.Solid("C1", "stud", box(20, y0, 40, y0 + long), 0.0, top)], 1000.0)
    # the beam stands over [y + front, y + front + deep] while the tip is at y, which goes over all of the path
    low, high = points[:, 1].min() + front, points[:, 1].max() + front + deep
    across = max(y0 - high, low - (y0 + long))
    assert found[0].gap == pytest.approx(max(across, 70.0 - top))
    assert (found[0].x, found[0].y, found[0].z) == pytest.approx((30.0, y0 + long / 2, 70.0))
    nearest = np.abs(points[:, 1] + front + deep / 2 - (y0 + long / 2))
    assert min(nearest[found[0].move], nearest[found[0].move + 1]) == pytest.approx(nearest.min())
    assert found[0].rapid == bool(moves.rapid[found[0].move])


def test_what_no_tool_reaches_is_what_straight_sampling_says():
    tool = next(t for t in shipped_tools() if t.kind == "flat")
    parts = sections(tool, Machine())
    standing = [
        solids.Solid("C1", "strap", box(300, 150, 340, 230), 30.0, 42.0),
        solids.Solid("C1", "stud", Point(320, 170).buffer(8), 0, 65),
    ]
    lost = reach.unreached(WORK, [parts], standing, 30.0, 3.0)
    rng = np.random.default_rng(3)
    for x, y in rng.uniform([270, 200], [370, 260], (150, 2)):
        reached = False
        for r in np.linspace(0, tool.diameter / 2 - 1e-3, 5):
            for a in np.linspace(0, 2 * np.pi, 24, endpoint=False):
                at = Point(x + r * np.cos(a), y + r * np.sin(a))
                reached |= all(
                    s.outline.distance(at) >= p.radius + 3.0
                    for s in standing for p in parts
                    if 30.0 + p.bottom < s.top + 3.0 and 30.0 + p.top > s.bottom - 3.0
                )  # fmt: skip
        if lost.exterior.distance(Point(x, y)) > 1.2:
            assert lost.contains(Point(x, y)) != reached
    assert reach.unreached(WORK, [parts], [], 30.0, 3.0).is_empty


@given(st.floats(0, 360), st.floats(-900, 1500), st.floats(-900, 1500), st.floats(4, 60))
def test_a_jaw_meets_the_work_where_the_first_place_of_its_width_touches(heading, x, y, width):
    """Against a jaw pushed on in small steps, from however far away."""
    work = affinity.rotate(box(300, 250, 520, 360), 17.0)
    way = np.array([math.cos(math.radians(heading)), math.sin(math.radians(heading))])
    side = 0.5 * width * np.array([-way[1], way[0]])
    fx, fy = solids.first_contact(work, heading, width, x, y)
    lane = Polygon([np.array([x, y]) + a * 5000.0 * way + b * side for a, b in ((-1, -1), (1, -1), (1, 1), (-1, 1))])
    if not lane.intersects(work):
        assert (fx, fy) == (x, y)
        return
    jaw = LineString([np.array([fx, fy]) - side, np.array([fx, fy]) + side])
    assert jaw.distance(work) < 1e-6
    behind = affinity.translate(jaw, *(-0.5 * way))
    assert not behind.intersects(work) and (np.array([fx - x, fy - y]) @ np.array([-way[1], way[0]])) == pytest.approx(
        0, abs=1e-6
    )
    swept = Polygon([*jaw.coords, *(np.array(c) - 5000.0 * way for c in reversed(jaw.coords))])
    assert swept.intersection(work).area < 1e-3  # nothing of the work lies before it


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


# -- packing at hand, studs, screws, tape over scars, jack bolts ------------------------------------------------------


@given(
    st.lists(st.floats(3, 40).map(lambda v: round(v, 1)), min_size=1, max_size=5, unique=True),
    st.floats(10, 60),
    st.floats(1, 8),
)
def test_stacks_of_blocks_at_hand_are_all_there_are_within_the_slope(blocks, low, more):
    found = strap_kind.stacks(tuple(blocks), low, low + more)
    every = {
        round(sum(c), 6)
        for n in (1, 2, 3)
        for c in itertools.combinations_with_replacement(blocks, n)
        if low - 1e-6 <= sum(c) <= low + more + 1e-6
    }
    assert [round(sum(s), 6) for s in found] == sorted(every)[:MOST_STACKS]
    assert all(set(s) <= set(blocks) for s in found)


@given(st.floats(5, 60), st.floats(4, 16), st.sampled_from(["slot", "insert"]))
def test_the_largest_work_that_a_stud_takes_wants_just_that_stud(work, thick, into):
    one, machine = strap(packing=work, thickness=thick, into=into), Machine()
    stud = strap_kind.stud_length(one, work, machine).result
    assert strap_kind.largest_work(one, stud, machine).result == pytest.approx(work)


def test_the_stud_to_fetch_is_the_shortest_that_is_long_enough():
    for studs, words in (
        ((60.0, 80.0, 100.0), "Stud to fetch, ⟦80|0⟧"),
        ((50.0, 60.0), "No stud at hand is long enough: ⟦60|0⟧"),
        ((), ""),
    ):
        machine = Machine(slots=(160.0, 440.0), bed=BedThings(studs=studs))
        labels = [f.label for f in KINDS["strap"].told(held(strap(), machine=machine), [strap()])]
        assert any(words and label.startswith(words) for label in labels) == bool(words)


def test_a_cranked_strap_is_judged_at_its_nose():
    """It may slope up and press straight down: 10 lower behind over 90 is 6.3° up, and a nose bent by as much lies flat."""
    low = strap(packing=20.0)
    assert strap_kind.nose_angle(low, 30.0).result == pytest.approx(-math.degrees(math.atan(10 / 90)))
    cranked = strap(packing=20.0, crank=math.degrees(math.atan(10 / 90)))
    assert strap_kind.nose_angle(cranked, 30.0).result == pytest.approx(0.0, abs=1e-9)
    for hold, up in ((low, True), (cranked, False)):
        assert ("hold.nose-up" in {f.code for f in KINDS["strap"].checks(held(hold), hold)}) == up


def test_a_jack_bolt_takes_less_of_the_bed_than_packing_and_goes_no_higher_than_it_goes():
    packed, jacked = (
        next(s for s in KINDS["strap"].solids(h, 30.0) if s.part == "packing")
        for h in (strap(), strap(heel="jack bolt"))
    )
    assert jacked.outline.area < 0.2 * packed.outline.area and jacked.top == packed.top
    short = strap(heel="jack bolt", jack=29.9)
    assert "hold.jack-short" in {f.code for f in KINDS["strap"].checks(held(short), short)}


def test_tape_does_not_stick_where_earlier_cuts_have_scarred_the_bed():
    tape = Tape(name="T1", x=350.0, y=300.0, heading=0.0, length=200.0, width=50.0, contact=0.8)
    scar = Scar(points=((200.0, 300.0), (500.0, 300.0)), width=10.0, depth=0.3, at="2026-01-01", run="1")
    clean, scarred_ = (grip(tape, WORK, RULES, BedThings(scars=scars)).shear for scars in ((), (scar,)))
    assert clean == pytest.approx(RULES.tape * 0.8 * 200 * 50)
    assert scarred_ == pytest.approx(RULES.tape * 0.8 * 200 * 40, rel=1e-3)
    machine = Machine(slots=(160.0, 440.0), bed=BedThings(scars=(scar,)))
    ((title, rows),) = KINDS["tape"].tables(held(tape, machine=machine), [tape])
    assert "skim" in title and rows[1][1:3] == ("100 cm²", "20 %")
    figures = {f.label: f.value for f in KINDS["tape"].told(held(tape, machine=machine, loads=(load(100.0),)), [tape])}
    wanted = RULES.factor * 130.0 / (RULES.tape * 0.8) / 100.0
    assert figures["Tape that the heaviest push asks for"] == pytest.approx(wanted)
    assert figures["Tape under the work, scars left out"] == pytest.approx(80.0, rel=1e-3)


def test_a_screw_s_pilot_and_length_by_hand():
    soft, hard = (
        strap_figures(Screw(name="S1", x=220.0, y=220.0, diameter=4.0, bite=12.0), soft) for soft in (True, False)
    )
    assert soft["Pilot for screws of ⟦4⟧"] == pytest.approx(2.4) and hard["Pilot for screws of ⟦4⟧"] == pytest.approx(
        3.0
    )
    assert soft["Screws, long under the head"] == pytest.approx(42.0)  # 30 of work and 12 of bite
    assert soft["and no longer than"] == pytest.approx(30.0 + Machine().spoilboard - 2.0)


def strap_figures(hold, soft):
    return {f.label.replace("|2", ""): f.value for f in KINDS[hold.kind].told(held(hold, soft=soft), [hold])}


def test_where_z_is_touched_far_from_any_hold_the_board_may_sit_high():
    job = commands.run(JOBS["strapped"](), "set blank", {"length": 600.0})
    for x, y, z in ((10, 10, 0.0), (590, 10, 0.6), (300, 70, 0.3)):
        job = commands.run(job, "add gap", {"x": x, "y": y, "z": z})
    far = commands.run(job, "set zero", {"setup": "front", "touch_x": 560.0, "touch_y": 40.0})
    near = commands.run(job, "set zero", {"setup": "front", "touch_x": 60.0, "touch_y": 40.0})
    assert "hold.free-at-touch" in {f.code for f in plan(far).findings}
    assert "hold.free-at-touch" not in {f.code for f in plan(near).findings}


@given(st.floats(0.0, 1.0), st.floats(0.2, 3.0), st.sampled_from(["front left", "back right"]))
def test_a_piece_in_a_nest_is_off_by_half_the_play_in_the_middle_and_by_all_of_it_in_the_corner(share, play, corner):
    size, at = (100.0, 60.0), (500.0, 300.0)
    x, y = (at[0] - size[0], at[1] - size[1]) if corner == "back right" else at
    nest = Nest(name="N", x=at[0], y=at[1], length=size[0], width=size[1], play=play, corner=corner)
    work = box(x + share * play, y + 0.5 * play, x + share * play + size[0] - play, y + 0.5 * play + size[1] - play)
    lies = lying([InNest(name="N1", x=at[0], y=at[1], heading=0.0, of="N")], BedThings(nests=(nest,)), work)
    assert lies.x == pytest.approx(max(share, 1.0 - share) * play, abs=1e-6) and lies.y == pytest.approx(
        0.5 * play, abs=1e-6
    )
    for i, (low, high) in enumerate(((x, x + size[0]), (y, y + size[1]))):  # and no wall is reached sooner
        bound = (lies.x, lies.y)[i]
        assert work.bounds[i] - bound <= low + 1e-6 or work.bounds[i + 2] + bound >= high - 1e-6
