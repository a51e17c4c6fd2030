# SPDX-License-Identifier: GPL-3.0-or-later
"""Zeros on the machine's own engine: random blanks, ways, sides and corners; squareness; power cuts. Ten through the real
process. ``make soak`` goes through ten thousand."""

import json
import random
import sys
from collections import Counter
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from gatepost.core.errors import OperatorError
from gatepost.core.job.model import Setup
from gatepost.core.job.zero import Zero
from gatepost.core.units import parse_length
from gatepost.core.zero import ways
from gatepost.machine import launch
from gatepost.machine.session import Session
from gatepost.machine.touching import found_from, size_off

sys.path.insert(0, str(Path(__file__).parents[2] / "benchmarks"))
import engine


@pytest.mark.parametrize("begin", range(0, 90, 30))
def test_a_touched_zero_is_the_true_one_within_the_machine_s_noise(begin):
    assert max(engine.of_a_zero(seed) for seed in range(begin, begin + 30)) <= 1.0


def test_the_angle_of_an_edge_too():
    assert max(engine.of_a_skew(seed) for seed in range(30)) <= 1.0


def test_after_a_power_cut_the_zero_is_found_again_or_said_to_be_unknown():
    outcomes = Counter(engine.of_a_power_cut(seed) for seed in range(40))
    assert outcomes["found"] > 8 and outcomes["unknown"] > 5


sides = st.sampled_from(["low", "high"])
number = st.floats(-1000, 0)


@given(number, st.floats(0.5, 30), sides, st.floats(0, 20), st.sampled_from(["mm", "inch"]))
def test_an_edge_s_sum_for_every_side_in_both_units(at, diameter, side, wall, unit):
    way = 1.0 if side == "low" else -1.0
    contact = at - way * (diameter / 2 + wall)
    typed = f"{contact:.6f}" if unit == "mm" else f'{contact / 25.4:.7f}"'
    told = ways.edge(parse_length(typed, unit), diameter, side, wall)
    assert told.result == pytest.approx(at, abs=5e-6) and told.evaluate() == told.result


@given(number, st.floats(5, 900), st.floats(0.5, 30))
def test_the_middle_of_opposite_edges_does_not_ask_for_the_diameter(low, size, diameter):
    left, right = low - diameter / 2, low + size + diameter / 2
    assert ways.middle(left, right).result == pytest.approx(low + size / 2)
    assert ways.size_between(left, right, diameter).result == pytest.approx(size)


@given(st.floats(-100, 0), st.floats(0, 40), st.floats(-5, 5))
def test_a_later_tool_by_the_sensor_is_the_first_moved_by_the_difference(zero, sensor, longer):
    first = zero + sensor  # where the first tool touches the sensor, which stands so high over Z0
    assert ways.z_by_sensor(zero, first, first + longer).result == pytest.approx(zero + longer)
    assert ways.z_zero(zero + sensor, "corner plate", sensor).result == pytest.approx(zero)


@given(st.floats(-4, 4), st.floats(20, 900), st.floats(0, 300), st.sampled_from(["x", "y"]))
def test_skew_says_how_far_and_which_way_to_push(angle, apart, far, axis):
    slope = np.tan(np.radians(angle))
    second = apart * slope if axis == "y" else -apart * slope
    told = ways.skew(axis, 0.0, second, apart, far)
    assert told.degrees.result == pytest.approx(angle, abs=1e-9)
    assert told.push.result == pytest.approx(abs(far * slope), abs=1e-9)
    if abs(angle) > 1e-6:
        back = {"forward": -1, "back": 1, "left": -1, "right": 1}[told.way] * told.push.result
        assert back == pytest.approx(-far * slope if axis == "y" else far * slope, abs=1e-9)
    x, y = ways.turned(*ways.turned(3.0, 4.0, angle), -angle)
    assert (x, y) == pytest.approx((3.0, 4.0))


@given(
    st.sampled_from(["front left", "front right", "back left", "back right", "centre"]),
    st.floats(40, 900),
    st.floats(40, 500),
)
def test_edges_are_touched_from_outside_within_the_wood_s_own_length(xy, long, wide):
    setup = Setup(id="front", x=0, y=0, zero=Zero(xy=xy, xy_way="pin"))
    for e in ways.edge_touches(setup, (long, wide), (0.0, 0.0), -50.0, 6.0):
        size, along = (long, wide) if e.axis == "x" else (wide, long)
        assert (e.start < 0 and e.to > e.start) if e.side == "low" else (e.start > size and e.to < e.start)
        assert 0 < e.along < along and e.z < -50.0


def test_what_can_t_be_found_that_way_is_said():
    def why(**values):
        return ways.fits_way(Setup(id="front", x=0, y=0, zero=Zero(**values)))

    assert "corner" in why(xy="centre", xy_way="corner plate") and "point" in why(xy="mark", xy_way="pin")
    assert why(xy="front left", xy_way="pin") == "" == why(xy="centre", xy_way="cutter")
    with pytest.raises(OperatorError):
        ways.skew("x", 0.0, 0.1, 5.0, 100.0)


def test_a_blank_that_is_another_size_is_told_with_how_much():
    low, high = -500.0 - 3, -500.0 + 300.4 + 3
    edges = [
        e
        for e in ways.edge_touches(
            Setup(id="front", x=0, y=0, zero=Zero(xy="centre", xy_way="pin")), (300, 200), (0, 0), -50, 6
        )
        if e.axis == "x"
    ]
    found = [found_from("x", edges, (low, high), 6.0, 0.0)]
    assert "⟦300.4" in size_off(found, 300.0, 200.0, 0.3) and size_off(found, 300.2, 200.0, 0.3) == ""


def test_ten_setups_through_the_real_process(tmp_path):
    for seed in range(10):
        s = engine.a_setup(random.Random(seed))
        cell, (long, wide), (dx, dy) = 2.0, s["size"], s["off"]
        x, y = s["setup"].x + dx, s["setup"].y + dy
        z = np.full((int((wide - 8) / cell) + 1, int((long - 8) / cell) + 1), s["thick"], np.float32)
        folder = tmp_path / str(seed)
        folder.mkdir()
        np.save(folder / "wood.npy", z)
        ring = [[x, y], [x + long, y], [x + long, y + wide], [x, y + wide]]
        (folder / "wood.json").write_text(json.dumps({"x0": x + 4, "y0": y + 4, "cell": cell, "outline": ring}))
        process = launch.spawn(
            launch.command(folder, "127.0.0.1:0", "max", ["touch noise"] if s["noisy"] else []), folder
        )
        session = Session(process.host, process.port)
        try:
            session.home()
            tool = {"number": 1, "kind": "flat", "diameter": s["pin"], "angle": 0.0, "tip": 0.0, "length": s["length"]}
            session.fit(tool)
            if s["setup"].zero.xy_way == "pointer":
                continue
            found = engine.zeroed(session, s)
            allowed = engine.NOISE if s["noisy"] else engine.EXACT
            for f, true in zip(found, engine.truly(s)):
                assert f.machine == pytest.approx(true, abs=allowed), (seed, f)
        finally:
            session.close()
            process.end()
