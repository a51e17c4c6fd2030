# SPDX-License-Identifier: GPL-3.0-or-later
import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from gatepost.core.frames import Point, Transform, bed_to_machine

coordinate = st.floats(-2000, 2000)
transforms = st.builds(Transform, coordinate, coordinate, coordinate, st.floats(-360, 360))
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


@given(transforms, points)
def test_arrays_go_where_points_go(t, p):
    one = t.apply(p)
    assert np.allclose(t.apply_array(np.array([[p.x, p.y, p.z]]))[0], [one.x, one.y, one.z], atol=1e-9)


def test_home_is_back_right_at_the_top_and_a_longer_tool_reads_higher():
    short, long = bed_to_machine(1200, 700, 175, 40), bed_to_machine(1200, 700, 175, 52)
    assert short.apply(Point(1200, 700, 135)) == Point(0, 0, 0)
    assert long.apply(Point(0, 0, 0)).z - short.apply(Point(0, 0, 0)).z == 12
