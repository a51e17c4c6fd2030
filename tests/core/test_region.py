# SPDX-License-Identifier: GPL-3.0-or-later
"""What a round cutter reaches of an area: against discs tried one by one, and by its laws."""

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st
from shapely.geometry import LineString, Point, box

from gatepost.core.geometry.region import centres, left, pieces, reach, swept
from tests.conftest import tries

BOXES = st.lists(st.tuples(*[st.integers(0, 30)] * 2, *[st.integers(2, 25)] * 2), min_size=1, max_size=5)

RADIUS = st.sampled_from([0.5, 1.5, 3.0, 6.35])


def area_of(boxes):
    return shapely.union_all([box(x, y, x + w, y + h) for x, y, w, h in boxes])


@given(BOXES, RADIUS, st.integers(0, 10**6))
@settings(max_examples=tries(60))
def test_a_place_is_reached_where_some_disc_in_the_area_covers_it(boxes, radius, seed):
    area = area_of(boxes)
    taken = reach(area, radius)
    shapely.prepare(area)
    rng = np.random.default_rng(seed)
    for x, y in rng.uniform(0, 55, (30, 2)):
        place = Point(x, y)
        away = (
            np.linspace(0.0, radius, 9)[:, None]
            * np.array([[np.cos(t), np.sin(t)] for t in np.linspace(0, 2 * np.pi, 48)])[:, None]
        )
        middles = shapely.points(np.array([x, y]) + away.reshape(-1, 2))
        fits = shapely.contains(area, middles) & (shapely.distance(area.boundary, middles) >= radius)
        if fits.any():
            assert taken.distance(place) < 2e-3
        elif not shapely.dwithin(taken, place, 0.35 * radius):  # the discs tried stand that far apart
            assert not taken.intersects(place)


@given(BOXES, RADIUS, RADIUS)
@settings(max_examples=tries(60))
def test_its_laws(boxes, radius, other):
    area = area_of(boxes)
    taken, rest = reach(area, radius), left(area, radius)
    assert taken.difference(area.buffer(2e-3)).is_empty  # nothing outside
    assert taken.area + rest.area == pytest.approx(area.area, abs=0.02 * max(area.length, 1.0) * 2e-1)
    again = reach(taken, radius)
    assert again.symmetric_difference(taken).area < 5e-3 * max(taken.length, 1.0)  # once is enough
    small, large = sorted((radius, other))
    assert (
        reach(area, large).difference(reach(area, small).buffer(3e-3)).area < 1e-2
    )  # a smaller one reaches all that a larger does


def test_by_hand():
    """In a square of 20 a cutter of 6 leaves four corners, r²(1 - π/4) each; into a slot of 5 it does not go."""
    square = box(0, 0, 20, 20)
    assert left(square, 3.0).area == pytest.approx(4 * 9 * (1 - np.pi / 4), abs=0.05)
    assert centres(square, 3.0).equals(box(3, 3, 17, 17)) and reach(box(0, 0, 20, 5), 3.0).is_empty
    line = swept(LineString([(0, 0), (10, 0)]), 2.0)
    assert line.area == pytest.approx(40 + np.pi * 4, abs=0.02)
    for radius in (0.2, 3.0, 60.0):
        chord = radius * (1 - np.cos(np.pi / 4 / pieces(radius, 1e-3)))
        assert chord <= 1e-3 or pieces(radius, 1e-3) == 4
