# SPDX-License-Identifier: GPL-3.0-or-later
import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from shapely.geometry import Polygon

from gatepost.core.frames import Matrix, Point, bed_to_machine, shift, turn
from gatepost.core.motion import Moves

coordinate = st.floats(-2000, 2000)
lies = (
    ((1, 0, 0, 0), (0, -1, 0, 300), (0, 0, -1, 30)),
    ((-1, 0, 0, 900), (0, 1, 0, 0), (0, 0, -1, 30)),
    ((1, 0, 0, 0), (0, 1, 0, 0), (0, 0, 1, 0)),
)
transforms = st.builds(
    lambda over, degrees, x, y, z: Matrix(over).then(turn(degrees)).then(shift(x, y, z)),
    st.sampled_from(lies), st.floats(-360, 360), coordinate, coordinate, coordinate,
)  # fmt: skip
points = st.builds(Point, coordinate, coordinate, coordinate)


def near(a, b):
    return math.dist((a.x, a.y, a.z), (b.x, b.y, b.z)) < 1e-6


@given(transforms, points)
def test_there_and_back_is_the_same_point(t, p):
    assert near(t.inverse().apply(t.apply(p)), p)


@given(transforms, transforms, points)
def test_one_after_the_other_is_their_product(a, b, p):
    assert near(a.then(b).apply(p), b.apply(a.apply(p)))


@given(transforms, points, points)
def test_distances_stay(t, p, q):
    a, b = t.apply(p), t.apply(q)
    assert math.dist((a.x, a.y, a.z), (b.x, b.y, b.z)) == pytest.approx(
        math.dist((p.x, p.y, p.z), (q.x, q.y, q.z)), abs=1e-6
    )


@given(transforms, points, points)
def test_arrays_moves_and_areas_go_where_points_go(t, p, q):
    ends = np.array([[p.x, p.y, p.z], [q.x, q.y, q.z]])
    there = np.array([[e.x, e.y, e.z] for e in (t.apply(p), t.apply(q))])
    assert np.allclose(t.array(ends), there, atol=1e-9)
    assert np.allclose(t.moves(Moves(ends, np.array([False]), np.array([900.0]))).points, there, atol=1e-9)
    flat = np.array([t.xy(*xy) for xy in [(p.x, p.y), (q.x, q.y), (1.0, 2.0)]])
    corners = np.asarray(t.area(Polygon([(p.x, p.y), (q.x, q.y), (1.0, 2.0)])).exterior.coords)
    assert np.allclose(corners[:3], flat, atol=1e-9)
    assert np.allclose(t.array(np.array([[p.x, p.y]]))[0], flat[0], atol=1e-9)


@given(st.floats(-179, 179), coordinate, coordinate)
def test_a_turn_is_against_the_clock_and_is_told_again(degrees, x, y):
    t = shift(x, y).then(turn(degrees))
    assert t.turn == pytest.approx(degrees, abs=1e-9)
    out = math.degrees(math.atan2(*reversed(turn(degrees).xy(1.0, 0.0))))
    assert out == pytest.approx(degrees, abs=1e-9)


def test_home_is_back_right_at_the_top_and_a_longer_tool_reads_higher():
    short, long = bed_to_machine(1200, 700, 175, 40), bed_to_machine(1200, 700, 175, 52)
    assert short.apply(Point(1200, 700, 135)) == Point(0, 0, 0)
    assert long.apply(Point(0, 0, 0)).z - short.apply(Point(0, 0, 0)).z == 12
