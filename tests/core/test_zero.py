# SPDX-License-Identifier: GPL-3.0-or-later
"""Touching off, finding a zero again, and what fits the travel: sums against a pin moved by hand and worked figures."""

import itertools
import math

import numpy as np
import pytest
import shapely
from hypothesis import given
from hypothesis import strategies as st

from gatepost.core.acts import by_hand
from gatepost.core.errors import OperatorError
from gatepost.core.frames import Point
from gatepost.core.job import commands
from gatepost.core.job.blank import Blank
from gatepost.core.job.journal import Journal
from gatepost.core.job.machine import Machine
from gatepost.core.job.model import Setup
from gatepost.core.job.zero import Zero
from gatepost.core.motion import Moves
from gatepost.core.plan.pipeline import plan
from gatepost.core.units import mm
from gatepost.core.zero import ways
from gatepost.core.zero.adviser import Spot, ZChoice, best, xy_table, z_table
from gatepost.core.zero.datum import datum, machine_zero, middle_of, placed, touch_place, travel_misfits
from gatepost.core.zero.recover import accepted, card, happened, looked, sensed
from gatepost.core.zero.trust import Trust, Where, trust

CORNERS = ("front left", "front right", "back left", "back right")
lengths = st.floats(20, 900)


def setup(**zero):
    return Setup(id="front", x=100.0, y=50.0, zero=Zero(**zero))


@given(
    st.sampled_from([*CORNERS, "centre"]), st.sampled_from(["pin", "corner plate"]), st.floats(1, 12), lengths, lengths
)
def test_a_pin_moved_to_an_edge_meets_it_where_the_sums_say(xy, way, diameter, length, width):
    """The pin's surface, or the plate's outer wall, meets the edge; from there the sum gives the edge back."""
    if way == "corner plate" and xy == "centre":
        return
    place = setup(xy=xy, xy_way=way, gauge_edge=10.0, gauge_thickness=12.0)
    corner, top = (-700.0, -400.0), -60.0
    touches = ways.edge_touches(place, (length, width), corner, top, diameter)
    assert [t.axis for t in touches] == (["x", "x", "y", "y"] if xy == "centre" else ["x", "y"])
    for touch in touches:
        i = "xy".index(touch.axis)
        low, high = corner[i], corner[i] + (length, width)[i]
        edge, way_in = (low, 1.0) if touch.side == "low" else (high, -1.0)
        wall = 10.0 if way == "corner plate" else 0.0
        met = edge - way_in * (diameter / 2 + wall)  # where the pin's middle stands as it touches
        assert (met - touch.start) * way_in == pytest.approx(4.0)
        assert (touch.to - met) * way_in == pytest.approx(6.0)
        other = 1 - i
        assert corner[other] < touch.along < corner[other] + (length, width)[other]
        assert touch.z == (top + 6.0 if wall else top - 6.0)
        assert ways.edge(met, diameter, touch.side, touch.gauge).result == pytest.approx(edge)
        if xy == "centre":
            assert touch.along == pytest.approx(corner[other] + (length, width)[other] / 2)
        else:
            assert touch.side == ("high" if {"x": "right", "y": "back"}[touch.axis] in xy else "low")
            far = min(max(25.0, 0.1 * (length, width)[other]), 0.5 * (length, width)[other])
            near = {0: "back", 1: "right"}[i] in xy
            inset = (corner[other] + (length, width)[other] - touch.along) if near else touch.along - corner[other]
            assert inset == pytest.approx(far)


@given(st.floats(-500, 0), lengths, st.floats(1, 12))
def test_a_middle_is_found_whatever_the_pins_diameter_and_the_size_with_it(low, size, diameter):
    first, second = low - diameter / 2, low + size + diameter / 2
    assert ways.middle(first, second).result == pytest.approx(low + size / 2)
    assert ways.size_between(first, second, diameter).result == pytest.approx(size)


@given(st.floats(-5, 5), st.floats(30, 300), st.floats(30, 900), st.sampled_from(["x", "y"]))
def test_an_edge_that_lies_askew_is_told_by_its_angle_and_what_to_push(degrees, apart, far, axis):
    slope = math.tan(math.radians(degrees))
    first, second = (
        10.0,
        10.0 + apart * slope * (1 if axis == "y" else -1),
    )  # against the clock, Y grows along X; X falls along Y
    told = ways.skew(axis, first, second, apart, far)
    assert told.degrees.result == pytest.approx(degrees, abs=1e-9)
    assert told.push.result == pytest.approx(abs(slope) * far, abs=1e-9)
    if abs(degrees) > 0.01:
        assert (
            told.way
            == {("y", True): "forward", ("y", False): "back", ("x", True): "right", ("x", False): "left"}[
                axis, degrees > 0
            ]
        )
    x, y = ways.turned(3.0, 4.0, degrees)
    assert math.atan2(y, x) - math.atan2(4, 3) == pytest.approx(math.radians(degrees)) and math.hypot(
        x, y
    ) == pytest.approx(5)


def test_touches_too_near_each_other_tell_no_angle():
    with pytest.raises(OperatorError, match="10 mm apart"):
        ways.skew("y", 0.0, 0.1, 9.99, 100.0)
    ways.skew("y", 0.0, 0.1, 10.0, 100.0)


def test_worked_sums_of_z():
    assert ways.z_zero(-41.37, "plate", 12.0).result == pytest.approx(-53.37)
    # the first tool touched the sensor at -20 with Z0 at -60; one 7.5 longer touches it 7.5 sooner, and its Z0 lies as much higher
    assert ways.z_by_sensor(-60.0, -20.0, -12.5).result == pytest.approx(-52.5)
    assert ways.spread([1.0, 1.04, 0.99]) == pytest.approx(0.05) and ways.spread([3.0]) == 0.0
    assert ways.agree([0.0, 0.05]) and not ways.agree([0.0, 0.0501])


REACH = ways.Reach(300.0, 80.0, 0.3, (1200.0, 700.0))
BUDGETS = [  # zero, reach: bounds across at the zero, more at the farthest cut, upright at the zero, more at the farthest cut
    ({"xy": "front left"}, REACH, (0.025, 0.2), (300 * math.tan(math.radians(0.3)), 0.025), (0.02, 0.01, 0.025), (0.05, 0.2 * 80 / 700)),
    ({"xy": "front left", "xy_way": "cutter"}, REACH, (0.025, 0.01, 0.025), (1.570811, 0.025), (0.02, 0.01, 0.025), (0.05, 0.2 * 80 / 700)),
    ({"xy": "centre", "xy_way": "pin", "gauge": "paper"}, ways.Reach(0.0, 2400.0, 0.1, (1200.0, 700.0), False, 0.0, 0.1),
     (0.05, 0.01), (4.188794,), (0.03, 0.01, 0.05), (0.2,)),
    ({"xy": "outline middle", "eye": 0.4}, ways.Reach(0.0, 0.0, 0.3, (1200.0, 700.0), False, 1.2, 0.0), (0.4, 0.25, 1.2), (), (0.02, 0.01), ()),
]  # fmt: skip


@pytest.mark.parametrize(("zero", "reach", "at", "more", "up", "falls"), BUDGETS)
def test_bounds_add_at_worst_and_as_even_shares_where_95_of_100_count(zero, reach, at, more, up, falls):
    told = ways.budget(Zero(**zero), reach)
    for bounded, shares in ((told.across, at), (told.cut, at + more), (told.upright, up), (told.deep, up + falls)):
        worst = sum(shares)
        assert bounded.worst.result == pytest.approx(worst, abs=1e-5)
        assert bounded.good.result == pytest.approx(
            min(worst, 1.96 * math.sqrt(sum(b * b for b in shares) / 3)), abs=1e-5
        )


def test_a_board_laid_square_is_as_square_as_its_touches_or_looks_and_a_push_make_it():
    def turned(**more):
        skew = more.pop("skew", 0.0)
        return math.tan(math.radians(ways.askew(setup(**more).model_copy(update={"skew": skew}), 0.3, 500.0))) * 400.0

    assert turned() == pytest.approx(math.tan(math.radians(0.3)) * 400.0)
    assert turned(square="edge") == pytest.approx(0.1 + 2 * 0.035) and turned(square="line", eye=0.25) == pytest.approx(
        0.5 + 0.5
    )
    assert turned(skew=1.2) == pytest.approx(2 * 0.035)
    assert ways.askew(setup(square="line"), 0.01, 500.0) == 0.01  # a fence had it squarer already


@pytest.mark.parametrize(
    ("xy", "x", "y"),
    [("front left", 0, 0), ("front right", 200, 0), ("back left", 0, 80), ("back right", 200, 80), ("centre", 100, 40)],
)
def test_a_datum_is_its_corner_and_z_is_touched_there_or_where_it_was_chosen(xy, x, y):
    blank = Blank(length=200, width=80)
    at = datum(Zero(xy=xy), blank)
    assert (at.x, at.y) == (x, y)
    touch = touch_place(Zero(xy=xy), blank)
    assert (touch.x, touch.y) == (x, y)
    chosen = touch_place(Zero(xy=xy, touch_x=11.0, touch_y=12.0), blank)
    assert (chosen.x, chosen.y) == (11.0, 12.0)
    half = touch_place(Zero(xy=xy, touch_x=11.0), blank)
    assert (half.x, half.y) == (x, y)
    bed = placed(setup(xy=xy), blank, 19.0).work_to_bed
    mark = bed.apply(Point(0.0, 0.0, 0.0))
    assert (mark.x, mark.y, mark.z) == (100.0 + x, 50.0 + y, 19.0)
    # home is at the far end of the travel, the nose 175 up: 1200 - 300, 700 - 90; the tip 42 under the nose
    zero = machine_zero(Machine(), 42.0, bed)
    assert (zero.x, zero.y, zero.z) == (100.0 + x - 1200.0, 50.0 + y - 700.0, 19.0 + 42.0 - 175.0)


@given(st.lists(st.tuples(st.floats(0, 300), st.floats(0, 200)), min_size=3, max_size=9, unique=True))
def test_the_middle_of_an_outline_is_that_of_its_area(points):
    around = sorted(points, key=lambda p: math.atan2(p[1] - 100, p[0] - 150))
    shape = shapely.Polygon(around)
    if not shape.is_valid or shape.area < 50.0:
        return
    blank = Blank(length=300, width=200, shape="outline", outline=tuple(around))
    assert middle_of(blank) == pytest.approx((shape.centroid.x, shape.centroid.y), abs=1e-6)


def test_an_outline_that_is_none_has_the_middle_of_its_rectangle():
    for values in (
        {"shape": "round"},
        {"shape": "outline"},
        {"shape": "outline", "outline": ((0, 0), (5, 5), (10, 10))},
    ):
        assert middle_of(Blank(length=300, width=200, **values)) == (150.0, 100.0)


TRAVEL = [  # a place on the bed, and what is said: axis, by, end; 2 mm are kept in reserve at each
    ((1198.0, 698.0, 175.0 - 42.0 - 2.0), []),
    ((2.0, 2.0, 5.0), []),  # the tip 42 under a nose that comes down 130 of 175
    ((1198.004, 300.0, 60.0), []),
    ((1198.2, 300.0, 60.0), [("X", 0.2, "home end")]),
    ((1.996, 300.0, 60.0), []),
    ((-3.0, 300.0, 60.0), [("X", 5.0, "far end")]),
    ((600.0, 701.5, 60.0), [("Y", 3.5, "home end")]),
    ((600.0, -2.0, 60.0), [("Y", 4.0, "far end")]),
    ((600.0, 300.0, 133.0), [("Z", 2.0, "home end")]),  # a Z0 at the last 0.0 mm does not fit
    ((600.0, 300.0, 2.5), [("Z", 2.5, "far end")]),
]


@pytest.mark.parametrize(("place", "said"), TRAVEL)
def test_what_leaves_the_travel_is_told_with_axis_amount_and_end(place, said):
    moves = Moves(np.array([[600.0, 300.0, 60.0], place]), np.zeros(1, bool), np.full(1, 100.0))
    found = travel_misfits(moves, Machine(), 42.0)
    assert [(m.axis, m.end) for m in found] == [(a, e) for a, _, e in said]
    assert [m.by for m in found] == pytest.approx([b for _, b, _ in said])
    assert all(m.working.result == pytest.approx(m.by) for m in found)
    for axis in range(3):  # told in machine coordinates it may go to the end
        told = travel_misfits(moves, Machine(), 42.0, np.arange(3)[None] == axis)
        assert [(m.axis, m.end) for m in told] == [(a, e) for a, _, e in said if a != "XYZ"[axis]]


FRONT = Where("front", False, frozenset({"front"}))


def zeroed(*more):
    """A setup touched off with tool 3, and what happened then."""
    journal = Journal().add("t1", "fitted", "front", tool=3).add("t1", "homed", "front")
    for axis, at in (("x", -400.0), ("y", -300.0), ("z", -50.0)):
        journal = journal.add("t2", "touched", "front", axis=axis, machine=at, tool=3, spread=0.0)
    for kind, data in more:
        journal = journal.add("t3", kind, "front", **data)
    return journal


def axes_of(journal):
    return trust(journal.standing(), FRONT)


CRASHED = (("stalled", {}), ("homed", {}))


def test_a_witness_mark_that_agrees_brings_trust_back_and_moves_nothing():
    journal = looked(zeroed(*CRASHED), FRONT, (0.3, -0.3), "t4")
    axes = axes_of(journal)
    assert (axes.x.machine, axes.y.machine, axes.z.machine) == (-400.0, -300.0, -50.0)
    assert (
        axes.x.trust is axes.y.trust is Trust.TRUSTED and axes.z.trust is Trust.PROVISIONAL
    )  # a look proves nothing of Z


@pytest.mark.parametrize("off", [(0.31, 0.0), (0.0, -0.31), (2.0, -1.5), (-30.0, 30.0)])
def test_a_miss_at_the_witness_mark_moves_x0_and_y0_by_as_much_and_z_is_no_surer(off):
    axes = axes_of(looked(zeroed(*CRASHED), FRONT, off, "t4"))
    assert (axes.x.machine, axes.y.machine) == pytest.approx((-400.0 + off[0], -300.0 + off[1]))
    assert axes.z.machine == -50.0 and axes.z.trust is Trust.PROVISIONAL and axes.tool == 3


@pytest.mark.parametrize(
    ("more", "off", "words"),
    [
        ((("stalled", {}),), (0.0, 0.0), "X and Y .*home first"),
        ((("bumped", {}), ("homed", {})), (0.0, 0.0), "X and Y .*touch off again"),
        (CRASHED, (30.1, 0.0), "too far for a miss"),
        (CRASHED, (0.0, -30.1), "too far for a miss"),
    ],
)
def test_what_can_not_be_known_from_a_witness_mark_is_refused(more, off, words):
    with pytest.raises(OperatorError, match=words):
        looked(zeroed(*more), FRONT, off, "t4")


def test_a_later_tool_gets_its_zero_from_the_sensor_and_only_where_the_first_one_was_noted():
    with pytest.raises(OperatorError, match="How the first tool stood"):
        sensed(zeroed(("fitted", {"tool": 4.0})), FRONT, 4, (-12.5, -12.5), "t4")
    journal, none = sensed(zeroed(), FRONT, 3, (-20.0, -20.0), "t4")
    assert none is None and axes_of(journal).z.machine == -50.0
    journal = journal.add("t5", "fitted", "front", tool=4)
    assert axes_of(journal).z.trust is Trust.LOST
    journal, z = sensed(journal, FRONT, 4, (-12.5, -12.5), "t6")
    assert z == pytest.approx(-42.5) and axes_of(journal).z.machine == pytest.approx(-42.5)
    assert axes_of(journal).z.trust is Trust.TRUSTED and axes_of(journal).tool == 4
    other = journal.add("t7", "fitted", "front", tool=3)
    assert sensed(other, FRONT, 3, (-20.0, -20.0), "t8")[1] == pytest.approx(-50.0)  # and back again


def test_a_yes_needs_a_reason_and_something_to_say_it_to():
    warm = zeroed(("warmed", {}))
    assert axes_of(warm).z.trust is Trust.PROVISIONAL
    assert axes_of(accepted(warm, FRONT, " looked at it ", "t5")).z.accepted == "looked at it"
    for journal, why, words in (
        (warm, "  ", "Say why"), (zeroed(), "as it is", "nothing to say yes to"), (zeroed(("bumped", {})), "as it is", "lost axis"),
    ):  # fmt: skip
        with pytest.raises(OperatorError, match=words):
            accepted(journal, FRONT, why, "t5")


@pytest.mark.parametrize("kind", [a.kind for a in by_hand()])
def test_what_happened_is_written_once_and_counts_in_every_setup(kind):
    before = zeroed()
    journal = happened(before, kind, "front", 3, "t9")
    (new,) = journal.entries[len(before.entries) :]
    assert new.setup == "front" and new.kind == {"rocks": "rocked"}.get(kind, kind)
    assert new.data == {"fitted": {"tool": 3.0}, "rocks": {"answer": "rocks"}}.get(kind, {})
    rows = card(axes_of(journal)).rows
    assert [r[0] for r in rows] == ["X", "Y", "Z"] and [r[1] for r in rows] == [-400.0, -300.0, -50.0]
    back = Where("back", False, frozenset({"back"}))
    there = before.add("t2", "touched", "back", axis="z", machine=-40.0, spread=0.0)
    told = trust(happened(there, kind, "front", 3, "t9").standing(), back).z.trust
    assert (told is Trust.TRUSTED) is (kind == "bed skimmed")
    with pytest.raises(OperatorError, match="no “flooded”"):
        happened(before, "flooded", "front", 3, "t9")


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
