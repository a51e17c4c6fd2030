# SPDX-License-Identifier: GPL-3.0-or-later
"""Sanding, movement, resin, weight, times: hand-worked tables, published ones, exact volumes."""

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from gatepost.core.errors import OperatorError
from gatepost.core.finish import hanging, movement, pour, sanding
from gatepost.core.finish.times import edit_time, parse_time, told_time
from gatepost.core.job.finish import GRITS, Tin
from gatepost.core.motion import Moves
from gatepost.core.wood.field import Cutter, cut, rectangle

# -- movement: the book's own table of moisture, per cent, by °F and damp -------------------------------------------------

BOOK = {
    40: {30: 6.3, 50: 9.5, 65: 12.3, 80: 16.5, 95: 24.3},
    70: {30: 6.2, 50: 9.2, 65: 12.0, 80: 16.0, 95: 23.9},
    100: {30: 5.8, 50: 8.7, 65: 11.2, 80: 15.1},
}


@pytest.mark.parametrize("fahrenheit", BOOK)
def test_moisture_is_that_of_the_published_table(fahrenheit):
    for damp, wanted in BOOK[fahrenheit].items():
        assert movement.moisture_at((fahrenheit - 32) / 1.8, damp).result == pytest.approx(wanted, abs=0.06)


@pytest.mark.parametrize(
    ("wood", "width", "dry", "wet", "along", "wanted"),
    [
        ("oak", 200.0, 8.0, 14.0, True, 4.38),
        ("oak", 200.0, 8.0, 14.0, False, 2.16),
        ("beech", 300.0, 7.0, 15.0, True, 10.344),
        ("larch", 150.0, 9.0, 18.0, True, 4.3605),
        ("elm", 250.0, 10.0, 10.0, True, 0.0),
        ("birch plywood", 1000.0, 6.0, 12.0, True, 0.6),
    ],
)
def test_a_board_is_wider_when_wet_by_so_much(wood, width, dry, wet, along, wanted):
    told = movement.wider(width, wood, dry, wet, along)
    assert told.result == pytest.approx(wanted) and told.source and told.evaluate() == told.result


def test_what_the_table_does_not_have_is_refused_in_words():
    with pytest.raises(OperatorError, match="bog wood"):
        movement.wider(100.0, "bog wood", 8.0, 12.0)
    for place in ((61.0, 50.0), (20.0, 99.0)):
        with pytest.raises(OperatorError):
            movement.moisture_at(*place)


# -- sanding --------------------------------------------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("width", "sanded", "half", "wanted"),
    [
        (3.0, 0.1, 30.0, 2.88453),
        (1.0, 0.2, 45.0, 0.6),
        (0.3, 0.5, 30.0, 0.0),
        (2.0, 0.0, 45.0, 2.0),
        (4.0, 0.105, 15.0, 3.94373),
    ],
)
def test_a_stroke_is_thinner_by_twice_what_its_walls_come_in(width, sanded, half, wanted):
    assert sanding.stroke_left(width, sanded, half).result == pytest.approx(wanted, abs=1e-5)
    raised = sanding.stroke_left(width, sanded, half, raised=True)
    assert raised.result == pytest.approx(wanted, abs=1e-5) and "gap" in raised.expression


def test_grits_take_what_the_table_says_by_wood():
    for wood, wanted in (("medium", 0.105), ("soft", 0.1575), ("hard", 0.0735)):
        told = sanding.takes((120, 180), wood)
        assert told.result == pytest.approx(wanted) and told.shop_rule
    assert sanding.takes((), "hard").result == 0.0


@given(
    st.lists(st.sampled_from(GRITS), unique=True, max_size=6),
    st.sampled_from(["soft", "medium", "hard"]),
    st.floats(0.0, 1.0),
)
def test_as_far_as_a_stroke_bears_is_the_most_from_the_fine_end(grits, wood, bears):
    grits = sorted(grits)
    kept = sanding.as_far_as(grits, wood, bears)
    assert tuple(grits[len(grits) - len(kept) :]) == kept
    assert sanding.takes(kept, wood).result <= bears + 1e-9
    if len(kept) < len(grits):
        assert sanding.takes(grits[len(grits) - len(kept) - 1 :], wood).result > bears


@given(
    st.lists(st.floats(0.1, 8.0), min_size=1, max_size=8),
    st.floats(0.0, 0.5),
    st.floats(10.0, 60.0),
    st.floats(0.0, 2.0),
)
def test_the_first_stroke_that_is_told_bears_least_and_bears_it(widths, sanded, half, least):
    told = sanding.strokes([(f"letter {i}", w) for i, w in enumerate(widths)], sanded, half, least)
    assert [s.bears for s in told] == sorted(s.bears for s in told) and told[0].width == min(widths)
    for s in told:
        if s.width >= least:
            assert sanding.stroke_left(s.width, s.bears, half).result == pytest.approx(least, abs=1e-9)


# -- resin: the removal model's own volume against the exact one of known shapes -------------------------------------------


def swept(cutter, points, cell=0.2):
    wood = rectangle(100.0, 60.0, cell, lambda x, y: np.zeros_like(x))
    moves = Moves(np.asarray(points, float), np.zeros(len(points) - 1, bool), np.full(len(points) - 1, 500.0))
    return wood, cut(wood, moves, cutter).after


@pytest.mark.parametrize("angle", [60.0, 90.0])
@pytest.mark.parametrize("deep", [3.0, 6.0])
def test_a_v_groove_holds_what_its_shape_says(angle, deep):
    wide = deep * math.tan(math.radians(angle / 2))
    wood, after = swept(Cutter("vee", 40.0, angle), [(20, 30, -deep), (80, 30, -deep)])
    volume, deepest = pour.grooves(wood, after)
    exact = 60.0 * wide * deep + math.pi * wide * wide * deep / 3.0  # a roof, and half a cone at either end
    assert volume == pytest.approx(exact, rel=0.01) and deepest == pytest.approx(deep, abs=0.2)


def test_a_slot_and_a_ball_s_groove_hold_what_their_shape_says():
    wood, after = swept(Cutter("flat", 8.0), [(20, 30, -4), (80, 30, -4)])
    assert pour.grooves(wood, after)[0] == pytest.approx((60 * 8 + math.pi * 16) * 4, rel=0.01)
    wood, after = swept(Cutter("ball", 10.0), [(20, 30, -5), (80, 30, -5)])
    assert pour.grooves(wood, after)[0] == pytest.approx(60 * math.pi * 25 / 2 + 2 / 3 * math.pi * 125, rel=0.01)
    left = np.zeros(wood.z.shape, bool)
    left[:, : wood.z.shape[1] // 2] = True
    assert pour.grooves(wood, after, left)[0] == pytest.approx(pour.grooves(wood, after)[0] / 2, rel=0.02)


RESIN = Tin(id="r", name="resin", does="resin", base="two-part", ratio=2.0, deepest=10.0, recoat=600.0, hard=4000.0)


@pytest.mark.parametrize(
    ("volume", "deep", "parts", "pours", "minutes"),
    [
        (10_000, 4.0, (7.3333, 3.6667), 1, 4000),
        (60_000, 10.0, (44.0, 22.0), 1, 4000),
        (60_000, 10.01, (44.0, 22.0), 2, 4600),
        (1000, 35.0, (0.73333, 0.36667), 4, 5800),
    ],
)
def test_resin_is_a_tenth_more_mixed_by_its_ratio_in_as_many_pours_as_its_label_asks(
    volume, deep, parts, pours, minutes
):
    told = pour.pour(RESIN, volume, deep)
    assert told.parts == pytest.approx(parts, rel=1e-4) and sum(told.parts) == pytest.approx(volume * 1.1e-3)
    assert (told.pours, told.minutes) == (pours, minutes) and deep / told.pours <= RESIN.deepest + 1e-9


def test_a_label_that_is_not_whole_is_asked_for():
    with pytest.raises(OperatorError, match="ratio"):
        pour.pour(RESIN.model_copy(update={"ratio": 0.0}), 1000.0, 2.0)


# -- weight and hanging ----------------------------------------------------------------------------------------------------


@pytest.mark.parametrize(("size", "density", "kg"), [((900, 300, 30), 560, 4.536), ((100, 100, 10), 720, 0.072)])
def test_a_sign_weighs_its_wood(size, density, kg):
    assert hanging.weighs(math.prod(size), density).result == pytest.approx(kg)


def test_screws_stop_short_of_the_groove_and_slots_leave_room():
    assert hanging.screw_reach(12.0).result == 10.0 and hanging.screw_reach(1.5).result == 0.0
    assert hanging.slot(400.0, 0.00365, 8.0, 16.0, 4.0).result == pytest.approx(4 + 2 * (200 * 0.00365 * 8 + 1))
    assert "stainless" in hanging.stainless("oak") and not hanging.stainless("lime")


# -- times as on a label ---------------------------------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("words", "minutes"),
    [
        ("45", 45),
        ("45 min", 45),
        ("4 h", 240),
        ("1 1/2 h", 90),
        ("1/2 h", 30),
        ("2,5 h", 150),
        ("3 d", 4320),
        ("1 d 4 h", 1680),
        ("1 week", 10080),
        ("2 hours and 30 minutes", 150),
    ],
)
def test_times_are_read_as_people_write_them(words, minutes):
    assert parse_time(words) == minutes


@pytest.mark.parametrize("words", ["", "soon", "4 hx", "1/0 h", "-4 h", "4..5 h", "h", "٣ h"])
def test_what_is_no_time_is_refused(words):
    with pytest.raises(OperatorError):
        parse_time(words)


@given(st.one_of(st.integers(0, 200_000).map(float), st.floats(0.0, 2e5)))
def test_what_is_shown_to_be_edited_is_read_back(minutes):
    assert parse_time(edit_time(minutes)) == pytest.approx(minutes, rel=1e-12, abs=1e-9)
    assert told_time(minutes)
