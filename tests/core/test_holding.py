# SPDX-License-Identifier: GPL-3.0-or-later
"""Ways of holding: sums by hand, where each may stand, what is said of bad input, what a plan tells scripts."""

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
from gatepost.core.hold.kinds import strap as strap_kind
from gatepost.core.hold.report import report
from gatepost.core.job.base import changed
from gatepost.core.job.hold import EdgeClamp, Glue, InNest, Screw, Tape, Wedges
from gatepost.core.job.machine import BedThings, Fence, Machine, Nest, Scar
from gatepost.core.job.tool_table import shipped_tools
from gatepost.core.motion import Moves
from tests.core.holds import RULES, WORK, grip, held, load, strap


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
