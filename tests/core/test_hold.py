# SPDX-License-Identifier: GPL-3.0-or-later
import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from shapely.geometry import Point, box

from gatepost.core.hold.clearance import Section, clearance, sections
from gatepost.core.hold.kinds.strap import StrapKind, clamp_force, nose_angle, pad, stud_length
from gatepost.core.hold.solids import Solid
from gatepost.core.job.hold import Strap
from gatepost.core.job.machine import Machine
from gatepost.core.job.tool_table import shipped_tools
from gatepost.core.motion import Moves
from tests.conftest import tries

SECTIONS = [Section("cutter", 3.0, 0.0, 20.0), Section("shank", 4.0, 20.0, 40.0), Section("nut", 15.0, 40.0, 80.0)]


def signed(outline, x, y):
    """Distance of a place to an outline, negative inside."""
    edge = outline.exterior.distance(Point(x, y))
    return -edge if outline.contains(Point(x, y)) else edge


def brute(points, parts, solid, step=0.05):
    """Sampled along the path: the least over places and sections of the greater of gap across and gap in height."""
    least = math.inf
    for a, b in zip(points[:-1], points[1:]):
        n = max(2, int(np.linalg.norm(b - a) / step))
        for t in np.linspace(0, 1, n):
            x, y, z = a + (b - a) * t
            across = signed(solid.outline, x, y)
            for part in parts:
                upright = max(z + part.bottom - solid.top, solid.bottom - (z + part.top))
                least = min(least, max(across - part.radius, upright))
    return least


spot = st.tuples(st.floats(-40, 60), st.floats(-40, 60), st.floats(-5, 60))


@given(st.lists(spot, min_size=2, max_size=4), st.sampled_from([0.0, 3.0]))
@settings(max_examples=tries(60))
def test_clearance_misses_no_touch_and_invents_none(places, limit):
    solid = Solid("C1", "strap", box(0, 0, 20, 12), 10.0, 22.0)
    points = np.array(places)
    moves = Moves(points, np.zeros(len(points) - 1, bool), np.full(len(points) - 1, 100.0))
    found = clearance(moves, SECTIONS, [solid], limit)
    sampled = brute(points, SECTIONS, solid, 0.25)
    if sampled < limit - 1e-6:
        assert found, sampled
        assert found[0].gap <= sampled + 1e-6
    if found:
        assert sampled < limit + 0.26  # the samples' own step
    if not found:
        assert sampled >= limit - 1e-6


@given(st.floats(-30, 50), st.floats(-30, 50), st.floats(0, 50))
def test_level_gaps_are_told_exactly(x, y, z):
    solid = Solid("C1", "strap", box(0, 0, 20, 12), 10.0, 22.0)
    points = np.array([[x, y, z], [x + 15, y + 4, z]])
    moves = Moves(points, np.array([True]), np.zeros(1))
    found = clearance(moves, SECTIONS, [solid], 3.0)
    if found:
        line = brute(points, SECTIONS, solid, 0.02)
        assert found[0].gap == pytest.approx(line, abs=0.03) and found[0].rapid


def test_grazing_and_rapids_over_clamps():
    solid = Solid("C1", "strap", box(0, 0, 20, 12), 0.0, 22.0)

    def gap(*places, limit=3.0):
        points = np.array(places, dtype=float)
        found = clearance(
            Moves(points, np.ones(len(points) - 1, bool), np.zeros(len(points) - 1)), SECTIONS, [solid], limit
        )
        return found[0].gap if found else None

    assert gap([-10, -3, 5], [30, -3, 5]) == pytest.approx(0.0, abs=1e-9)
    assert gap([-10, -6.0001, 5], [30, -6.0001, 5]) is None
    assert gap([-10, 6, 22], [30, 6, 22]) == pytest.approx(0.0, abs=1e-9)
    assert gap([-10, 6, 25.001], [30, 6, 25.001]) is None
    assert gap([-10, 6, 21], [30, 6, 21]) < 0
    assert gap([10, 6, 60], [10, 6, 10]) < 0


def test_a_strap_s_sums_by_hand():
    strap = Strap(name="C1", x=0, y=0, heading=90, nose=50, tail=40, packing=36, thickness=12, stud=8, force=1500)
    assert nose_angle(strap, 34).result == pytest.approx(math.degrees(math.atan(2 / 90)))
    assert clamp_force(strap).result == pytest.approx(1500 * 40 / 90)
    # engagement 8 + spoilboard 18 + underside 34 + 2·50/90 + strap 12 + washer 1.6 + nut 6.4 + threads 3
    assert stud_length(strap, 34, Machine()).result == pytest.approx(8 + 18 + 34 + 2 * 50 / 90 + 12 + 1.6 + 6.4 + 3)
    assert StrapKind().touch_point(strap) == pytest.approx((0, 50))
    assert pad(strap).centroid.y == pytest.approx(50)
    parts = {s.part: s for s in StrapKind().solids(strap, 34)}
    assert parts["packing"].top == 36 and parts["strap"].top == 48
    assert parts["stud"].top > parts["strap"].top


def test_a_tool_is_a_stack_without_gaps():
    for tool in shipped_tools():
        stack = sections(tool, Machine())
        assert stack[0].bottom == 0
        assert all(a.top == pytest.approx(b.bottom) for a, b in zip(stack, stack[1:]))
        assert max(s.radius for s in stack if s.part == "cutter") == pytest.approx(tool.diameter / 2)
        (nut,) = [s for s in stack if s.part == "nut"]
        assert (nut.bottom, nut.top, nut.radius) == (tool.length, tool.length + 45.0, 21.0)
        shoe = sections(tool, Machine(shoe=90.0))[-1]  # 10 over the nut's underside, 20 tall
        assert (shoe.part, shoe.bottom, shoe.top, shoe.radius) == ("shoe", tool.length + 10.0, tool.length + 30.0, 45.0)
