# SPDX-License-Identifier: GPL-3.0-or-later
"""Rows over awkward outlines: what is reached, told by brute force and not by polygons."""

import math

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st
from shapely.geometry import Point, Polygon, box

from gatepost.core.surface import rows
from tests.conftest import some, tries

RADIUS, STEP = 25.0, 20.0

EVERYWHERE = (-1e4, -1e4, 1e4, 1e4)


def waney(seed, length=600.0, width=180.0, count=60):
    """A slab with live edges that wander and bark inclusions that bite in."""
    rng = np.random.default_rng(seed)
    x = np.linspace(0, length, count)
    low, high = (np.cumsum(rng.normal(0, 5, count)) for _ in range(2))
    low, high = low - low.mean(), high - high.mean() + width
    return Polygon(np.vstack([np.column_stack([x, low]), np.column_stack([x, high])[::-1]])).buffer(0)


def star(points=7, inner=60.0, outer=200.0):
    turn = np.arange(2 * points) * math.pi / points
    r = np.where(np.arange(2 * points) % 2, inner, outer)
    return Polygon(np.column_stack([r * np.cos(turn), r * np.sin(turn)]))


OUTLINES = {
    "rectangle": box(0, 0, 400, 150),
    "round": Point(100, 100).buffer(130, quad_segs=64),
    "oval": shapely.affinity.scale(Point(0, 0).buffer(1, quad_segs=90), 300, 90),
    "an L": box(0, 0, 400, 90).union(box(0, 0, 70, 300)),
    "a U": box(0, 0, 300, 260).difference(box(70, 60, 230, 300)),
    "a comb": shapely.union_all([box(0, 0, 400, 30), *(box(x, 0, x + 12, 200) for x in range(0, 400, 80))]),
    "a star": star(),
    "a sliver": Polygon([(0, 0), (500, 4), (500, 6), (0, 9)]),
    "a triangle": Polygon([(0, 0), (300, 10), (20, 260)]),
    "smaller than the cutter": box(0, 0, 22, 14),
    "two parts": shapely.union_all([box(0, 0, 120, 80), box(300, 20, 420, 140)]),
    "with a hole": box(0, 0, 360, 240).difference(box(120, 60, 260, 190)),
    "waney": waney(3),
}


def cut(climb=False, limits=EVERYWHERE, sides=None, step=STEP, turn=40.0):
    least = max(RADIUS * (1 - 1 / math.sqrt(2)), RADIUS - math.sqrt(RADIUS**2 - step**2 / 4))
    return rows.RowCut(RADIUS, step, least if sides is None else sides, turn, limits, climb)


def places(area, every):
    x0, y0, x1, y1 = area.bounds
    x, y = np.meshgrid(np.arange(x0, x1 + every, every), np.arange(y0, y1 + every, every))
    spots = np.column_stack([x.ravel(), y.ravel()])
    spots = spots[shapely.intersects_xy(area, spots[:, 0], spots[:, 1])]
    return np.vstack([spots, shapely.get_coordinates(area)])


def nearest(spots, lines):
    """Distance of each place to the nearest of the lines."""
    out = np.full(len(spots), np.inf)
    for line in lines:
        for a, b in zip(line[:-1], line[1:]):
            way = b - a
            t = np.clip(((spots - a) @ way) / max(way @ way, 1e-300), 0, 1)
            out = np.minimum(out, np.linalg.norm(a + t[:, None] * way - spots, axis=1))
    return out


@pytest.mark.parametrize("angle", some([37.0, 0.0, 90.0, -120.0], 2))
@pytest.mark.parametrize("climb", [False, True], ids=["both ways", "climb"])
@pytest.mark.parametrize("name", OUTLINES)
def test_every_place_of_an_awkward_outline_is_reached(name, climb, angle):
    area = OUTLINES[name]
    for laid in (rows.following(area, angle, cut(climb)), rows.plain(area, angle, cut(climb))):
        assert rows.missed(area, laid.lines, RADIUS) == []
        assert nearest(places(area, 3.0), laid.lines).max() <= RADIUS + 1e-6
        assert laid.outside


@pytest.mark.parametrize("name", OUTLINES)
def test_rows_turn_round_off_the_wood(name):
    area = OUTLINES[name]
    laid = rows.following(area, 20.0, cut())
    for line in laid.lines:
        ends = np.vstack([line[:1], line[-1:]])
        assert (shapely.distance(shapely.points(ends), area) >= RADIUS - 1e-6).all()


@pytest.mark.parametrize("name", OUTLINES)
@pytest.mark.parametrize("step", [9.0, 30.0])
def test_rows_are_strung_where_the_next_begins_near_and_lifted_where_it_does_not(name, step):
    laid = rows.following(OUTLINES[name], 0.0, cut(step=step))
    for line in laid.lines:
        for a, b in zip(line[:-1], line[1:]):
            if abs(a[1] - b[1]) > 1e-9:
                assert abs(a[0] - b[0]) <= 2 * RADIUS + 1e-9 and abs(a[1] - b[1]) <= 1.5 * step + 1e-9
    for one, other in zip(laid.lines[:-1], laid.lines[1:]):
        (u, v), (after_u, after_v) = one[-1], other[0]
        assert after_v == v or abs(after_u - u) > 2 * RADIUS or after_v - v > 1.5 * step


@pytest.mark.parametrize("name", OUTLINES)
def test_without_room_to_turn_all_is_reached_still_and_it_is_said(name):
    area = OUTLINES[name]
    x0, y0, x1, y1 = area.bounds
    laid = rows.following(area, 0.0, cut(limits=(x0, y0 - 100, x1, y1 + 100)))
    assert not laid.outside
    assert rows.missed(area, laid.lines, RADIUS) == []
    assert all((line[:, 0] >= x0 - RADIUS).all() and (line[:, 0] <= x1 + RADIUS).all() for line in laid.lines)


@pytest.mark.parametrize("angle", [0.0, 65.0])
def test_climbing_has_the_wood_on_the_right_of_every_row(angle):
    laid = rows.following(OUTLINES["rectangle"], angle, cut(climb=True))
    ways = [rows.turned(line, angle) for line in laid.lines]
    assert all(len(way) == 2 for way in ways)
    across = [way[0, 1] for way in ways]
    assert across == sorted(across)  # what is not cut yet lies at greater v
    for way in ways:
        u, v = way[1] - way[0]
        assert v == pytest.approx(0.0, abs=1e-9)
        right = np.array([v, -u])
        assert right @ np.array([0.0, 1.0]) > 0


@given(st.sampled_from(list(OUTLINES)), st.floats(-180, 180), st.floats(2.5, 48), st.integers(0, 10**6), st.booleans())
@settings(max_examples=tries(40))
def test_later_passes_reach_all_that_still_stands_and_little_else(name, angle, step, seed, climb):
    area = OUTLINES[name]
    rng = np.random.default_rng(seed)
    hills = [
        (rng.uniform(area.bounds[0], area.bounds[2]), rng.uniform(area.bounds[1], area.bounds[3])) for _ in range(3)
    ]

    def high(u, v):
        spots = rows.back(np.column_stack([u.ravel(), v.ravel()]), angle)
        near = np.min([np.hypot(spots[:, 0] - x, spots[:, 1] - y) for x, y in hills], axis=0)
        inside = shapely.dwithin(shapely.points(spots), area, 6.0)
        return ((near < 60.0) & inside).reshape(u.shape)

    u0, v0, u1, v1 = rows.turned_area(area, angle).bounds
    u, v = (np.arange(a, b + 4.0, 4.0) for a, b in ((u0, u1), (v0, v1)))
    still = rows.StillStanding(u, v, high(*np.meshgrid(u, v)))
    laid = rows.following(area, angle, cut(climb, step=step), still)
    spots = places(area, 2.5)
    turned = rows.turned(spots, angle)
    stands = high(turned[:, 0], turned[:, 1])
    assert not stands.any() or nearest(spots[stands], laid.lines).max() <= RADIUS + 1e-6
    if not still.over.any():
        assert laid.lines == ()
    whole = rows.following(area, angle, cut(climb, step=step))
    length = [sum(shapely.LineString(line).length for line in one.lines) for one in (laid, whole)]
    assert length[0] <= length[1] + 400.0


@pytest.mark.parametrize("wide", [0.06, 0.4, 3.0], ids=["0.6 mm²", "4 mm²", "30 mm²"])
def test_a_missed_place_is_named_with_place_and_size(wide):
    """Two passes beside each other that leave a strip between, 10 mm long within the board."""
    area = box(100, 0, 110, 200)
    low, high = 60.0, 60.0 + 2 * RADIUS + wide
    lines = [np.array([[0.0, y], [300.0, y]]) for y in (20.0, low, high, 150.0, 185.0)]
    found = rows.missed(area, lines, RADIUS)
    fine = np.arange(100.005, 110, 0.01)
    y = np.arange(low + RADIUS - 1, high - RADIUS + 1, 0.01)
    counted = (
        sum(float((nearest(np.column_stack([np.full(len(y), x), y]), lines) > RADIUS).sum()) for x in fine[::100])
        * 1e-2
    )
    assert len(found) == 1
    assert found[0].area == pytest.approx(counted, rel=0.15, abs=0.05) and found[0].area == pytest.approx(
        10 * wide, rel=0.02, abs=0.03
    )
    assert found[0].x == pytest.approx(105, abs=5) and low + RADIUS - 0.01 <= found[0].y <= high - RADIUS + 0.01


@pytest.mark.parametrize("seed", [1, 2, 3])
def test_air_is_skipped_where_lifting_is_quicker(seed):
    area = OUTLINES["two parts"].union(waney(seed, 100, 60))
    hop, far = rows.following(area, 0.0, cut(turn=5.0)), rows.plain(area, 0.0, cut(turn=5.0))
    assert len(hop.lines) > len(far.lines) == 1
    feeding = [sum(shapely.LineString(line).length for line in one.lines) for one in (hop, far)]
    assert feeding[0] < feeding[1]


@pytest.mark.parametrize("radius", [3.0, 25.0, 60.0])
def test_what_lies_a_micrometre_inside_a_cutter_s_rim_is_reached_and_what_lies_outside_is_not(radius):
    line = [np.array([[0.0, 0.0], [1.0, 0.0]])]
    inside = Point(1.0, 0.0).buffer(radius - 0.0015, quad_segs=2000)
    assert rows.missed(inside, line, radius) == []
    assert rows.missed(Point(1.0, 0.0).buffer(radius + 0.05, quad_segs=500), line, radius)


@given(st.lists(st.tuples(st.integers(0, 60), st.integers(0, 9)), max_size=8), st.integers(0, 6))
def test_stretches_no_more_than_a_gap_apart_are_one(found, gap):
    stretches = [(float(a), float(a + w)) for a, w in found]
    merged = rows._merged(stretches, float(gap))
    half = np.arange(0, 70, 0.5)
    on = {x for x in half if any(a <= x <= b for a, b in stretches)}
    between = {
        x for x in half if on and any(0 < x - p <= gap - (q - x) for p in on for q in on if p < x < q and q - p <= gap)
    }
    told = {x for x in half if any(a <= x <= b for a, b in merged)}
    assert told == on | between and merged == sorted(merged)
