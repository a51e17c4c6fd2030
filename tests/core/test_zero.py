# SPDX-License-Identifier: GPL-3.0-or-later
"""Touching off, finding a zero again, and what fits the travel: sums against a pin moved by hand and worked figures."""

import math

import numpy as np
import pytest
import shapely
from hypothesis import given
from hypothesis import strategies as st

from gatepost.core.errors import OperatorError
from gatepost.core.frames import Point
from gatepost.core.job.blank import Blank
from gatepost.core.job.machine import Machine
from gatepost.core.job.model import Setup
from gatepost.core.job.zero import Zero
from gatepost.core.motion import Moves
from gatepost.core.zero import ways
from gatepost.core.zero.datum import datum, machine_zero, middle_of, placed, touch_place, travel_misfits

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
