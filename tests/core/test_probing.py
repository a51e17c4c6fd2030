# SPDX-License-Identifier: GPL-3.0-or-later
"""Where a face is probed, and what its touches come to: plain geometry and sums by hand."""

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st
from shapely.geometry import Point, box

from gatepost.core.errors import OperatorError
from gatepost.core.surface import probing
from gatepost.core.surface.probing import ProbeTouch, places, probed
from tests.conftest import tries

EVERYWHERE = box(-1000.0, -1000.0, 3000.0, 3000.0)

OUTLINES = {
    "rectangle": box(100, 40, 500, 190),
    "round": Point(300, 200).buffer(130, quad_segs=64),
    "an L": box(0, 0, 400, 90).union(box(0, 0, 70, 300)),
    "a bulge": box(0, 0, 400, 100).union(box(180, 100, 220, 140)),
}


@given(st.sampled_from(list(OUTLINES)), st.floats(15, 120), st.booleans())
@settings(max_examples=tries(60))
def test_a_grid_lies_on_the_board_as_close_as_asked_and_off_what_stands_there(name, spacing, held):
    area = OUTLINES[name]
    x0, y0, x1, y1 = area.bounds
    clamp = box(x0 - 5, y0 - 5, x0 + 0.3 * (x1 - x0), y0 + 0.3 * (y1 - y0))
    limits = (x0 - 100.0, y0 - 100.0, x0 + 0.9 * (x1 - x0), y1 + 100.0) if held else EVERYWHERE.bounds
    found = places(area, spacing, [clamp] if held else [], box(*limits))
    spots = shapely.points(found.spots)
    assert (shapely.distance(spots, area.exterior) >= probing.RIM - 1e-6).all() and shapely.contains(area, spots).all()
    assert not held or ((shapely.distance(spots, clamp) > 0).all() and found.spots[:, 0].max() <= limits[2])
    rows = np.unique(found.spots[:, 1])
    assert np.diff(rows).max() <= spacing + 1e-6
    for number, y in enumerate(rows):
        xs = found.spots[found.spots[:, 1] == y][:, 0]
        assert (np.diff(xs) > 0).all() or (np.diff(xs) < 0).all()
        if not held:
            assert np.abs(np.diff(xs)).max() <= spacing + 1e-6
            assert (np.diff(xs) > 0).all() == (number % 2 == 0)  # back and forth
            across = shapely.intersection(area.buffer(-probing.RIM), shapely.LineString([(x0, y), (x1, y)])).bounds
            assert (xs.min(), xs.max()) == pytest.approx((across[0], across[2]), abs=0.5)
    if not held:
        inner = area.buffer(-probing.RIM)
        longest = max(
            inner.intersection(shapely.LineString([(x0, y), (x1, y)])).length for y in np.linspace(y0, y1, 400)
        )
        for end, beyond in ((rows[0], -1), (rows[-1], 1)):
            line = lambda y: inner.intersection(shapely.LineString([(x0, y), (x1, y)])).length  # noqa: E731
            assert line(end) >= probing.MOSTLY * longest - 1e-6
            assert line(end + beyond * 0.02 * (y1 - y0)) < probing.MOSTLY * longest + 1e-6
    bed = Point(*found.bed)
    assert bed.distance(area) >= probing.BESIDE / 2.0 and not (held and clamp.contains(bed))
    assert limits[0] <= bed.x <= limits[2] and limits[1] <= bed.y <= limits[3]


def test_the_bed_is_touched_to_the_left_and_else_where_there_is_room():
    area = OUTLINES["rectangle"]
    assert places(area, 50.0, [], EVERYWHERE).bed == (75.0, 115.0)
    assert places(area, 50.0, [box(60, 100, 90, 130)], EVERYWHERE).bed == (525.0, 115.0)
    sides = [box(60, 0, 90, 250), box(510, 0, 540, 250)]
    assert places(area, 50.0, sides, EVERYWHERE).bed == (300.0, 15.0)
    assert places(area, 50.0, [*sides, box(100, 0, 500, 20)], EVERYWHERE).bed == (300.0, 215.0)
    with pytest.raises(OperatorError, match="no place beside"):
        places(area, 50.0, [], box(100.0, 40.0, 500.0, 190.0))


@pytest.mark.parametrize(
    ("area", "spacing", "words"),
    [
        (OUTLINES["rectangle"], 4.9, "nearer than 5 mm"), (OUTLINES["rectangle"], float("nan"), "nearer than 5 mm"),
        (box(0, 0, 900, 5.9), 50.0, "too narrow"), (box(0, 0, 900, 700), 5.0, "over 600"), (box(0, 0, 620, 100), 10.0, "are the most"),
    ],
)  # fmt: skip
def test_a_grid_that_can_not_be_is_a_sentence(area, spacing, words):
    with pytest.raises(OperatorError, match=words):
        places(area, spacing, [], EVERYWHERE)


def test_heights_are_over_the_bed_and_what_did_not_agree_is_left_out():
    touches = [
        ProbeTouch(10.004, 20.006, -80.0, 0.01), ProbeTouch(50.0, 20.0, -79.5, 0.05), ProbeTouch(90.0, 20.0, -80.2, 0.051), ProbeTouch(90.0, 60.0, None),
        ProbeTouch(50.0, 60.0, -113.1, 0.0), ProbeTouch(10.0, 60.0, -80.25, 0.0),
    ]  # fmt: skip
    found = probed(touches, -114.1, 1.5)
    assert found.heights == ((10.0, 20.01, 34.1), (50.0, 20.0, 34.6), (10.0, 60.0, 33.85))
    assert found.skipped == ((90.0, 60.0), (50.0, 60.0)) and found.unsure == ((90.0, 20.0),) and found.spread == 0.05
    assert (
        "3 heights" in found.words() and "no wood at 2 places" in found.words() and "1 did not agree" in found.words()
    )
    with pytest.raises(OperatorError, match="Only 2 places .* 2 had no wood and 2 did"):
        probed([*touches[:1], *touches[2:], ProbeTouch(1.0, 1.0, -80.0, 0.06)], -114.1, 1.5)


def test_minutes_of_a_probing_by_hand():
    spots = np.array([[0.0, 0.0], [300.0, 0.0], [300.0, 400.0]])
    # 700 mm at 3500 a minute; three places, 10 mm down and up at 1500, and two seconds of touching
    assert probing.minutes(spots, 3500.0, 10.0, 2.0) == pytest.approx(0.2 + 3 * (20 / 1500 + 2 / 60))
    assert probing.minutes(spots[:1], 3500.0, 10.0, 2.0) == pytest.approx(20 / 1500 + 2 / 60)
