# SPDX-License-Identifier: GPL-3.0-or-later
"""Arcs fitted to straight pieces: written, read back by both readers and swept; never where a control does not take them."""

import sys
from pathlib import Path

import numpy as np
import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st

from gatepost.core.job.base import changed
from gatepost.core.job.file import load
from gatepost.core.job.journal import Journal
from gatepost.core.job.machine import Dialect
from gatepost.core.motion import Moves
from gatepost.core.plan.pipeline import plan
from gatepost.core.program.arcs import fitted
from gatepost.core.program.plain import read_plainly
from gatepost.core.program.read import read
from gatepost.core.program.write import arc_lines, body_lines
from gatepost.machine.conduct import StepRunner
from gatepost.running import example
from tests.conftest import some, tries

sys.path.insert(0, str(Path(__file__).parents[1] / "benchmarks"))
import shop

HEAD = "G21\nG17\nG90\n"
LEVEL, HELIX = Dialect(arcs="level"), Dialect(arcs="helix")


def text_of(moves, dialect):
    return (
        (HEAD if dialect.units == "mm" else HEAD.replace("G21", "G20"))
        + "\n".join(body_lines(moves, dialect, 3))
        + "\nM30\n"
    )


def way(points):
    points = np.vstack([[*points[0, :2], points[0, 2]], points])
    rapid = np.zeros(len(points) - 1, bool)
    rapid[0] = True
    return Moves(points, rapid, np.where(rapid, 0.0, 1200.0))


def round_points(x, y, r, start, sweep, rise, bow):
    n = max(3, int(np.ceil(abs(sweep) / (2 * np.arccos(1 - min(bow / r, 0.5))))))
    t = start + sweep * np.linspace(0, 1, n + 1)
    return np.column_stack([x + r * np.cos(t), y + r * np.sin(t), -1.0 + rise * np.linspace(0, 1, n + 1)])


def off(a, b):
    """How far the points of one way lie from another, at the most."""
    p, q = np.asarray(a), np.asarray(b)
    u, v = q[:-1], np.diff(q, axis=0)
    square = np.maximum((v**2).sum(axis=1), 1e-18)
    t = np.clip(((p[:, None] - u) * v).sum(axis=2) / square, 0, 1)
    return float(np.sqrt(((p[:, None] - u - t[..., None] * v) ** 2).sum(axis=2)).min(axis=1).max())


@given(
    st.floats(-200, 200), st.floats(-200, 200), st.floats(0.4, 150), st.floats(0, 6.28), st.floats(0.4, 6.28), st.booleans(), st.sampled_from([0.0, 0.0, -3.0, 1.5]),
    st.sampled_from(["mm", "inch"]),
)  # fmt: skip
@settings(max_examples=tries(120), deadline=None)
def test_a_round_is_written_as_arcs_and_read_back_as_it_was(x, y, r, start, sweep, clock, rise, units):
    points = round_points(x, y, r, start, -sweep if clock else sweep, rise, 0.005)
    moves = way(points)
    for dialect in (LEVEL, HELIX):
        dialect = dialect.model_copy(update={"units": units, "decimals": 4})
        text = text_of(moves, dialect)
        arcs = text.count("G2 ") + text.count("G3 ")
        if len(points) > 5 and r * sweep > 1.0 and (rise == 0.0 or dialect.arcs == "helix"):
            assert arcs >= 1 and ("G2 " in text) == clock and ("G3 " in text) == (not clock)
        if rise and dialect.arcs == "level":
            assert arcs == 0
        for back in (read(text), read_plainly(text)):
            assert (
                not [c for c in back.complaints if c.level == "stop"]
                if hasattr(back, "complaints") and back.complaints and hasattr(back.complaints[0], "level")
                else True
            )
            there = back.moves.points[back.moves.points[:, 2] < 50]
            assert off(there[1:], points) < 0.015 and off(points, there) < 0.015
            assert np.abs(there[-1] - points[-1]).max() < 1e-4 * (25.4 if units == "inch" else 1)


@pytest.mark.parametrize("clock", [1, -1])
def test_full_circles_and_helices_end_where_they_began_and_tiny_ones_stay_straight(clock):
    circle = round_points(10, 20, 8, 0.3, clock * 2 * np.pi, 0.0, 0.004)
    text = text_of(way(circle), LEVEL)
    assert 1 <= text.count("G3 " if clock > 0 else "G2 ") <= 3
    back = read(text).moves.points
    assert np.abs(back[-1] - circle[-1]).max() < 1e-4
    angle = np.unwrap(np.arctan2(back[2:, 1] - 20, back[2:, 0] - 10))
    assert abs(angle[-1] - angle[0]) > 2 * np.pi * 0.95  # gone all the way round
    helix = np.vstack([round_points(10, 20, 8, 0, clock * 2 * np.pi, -1, 0.004) + [0, 0, -k] for k in range(3)])
    assert np.abs(read(text_of(way(helix), HELIX)).moves.points[-1] - helix[-1]).max() < 1e-4
    tiny = round_points(0, 0, 0.02, 0, clock * 3.0, 0.0, 0.0005)
    assert "G2 " not in text_of(way(tiny), HELIX) and "G3 " not in text_of(way(tiny), HELIX)


@given(st.lists(st.tuples(st.floats(-20, 20), st.floats(-20, 20), st.floats(-3, 0)), min_size=4, max_size=40))
@settings(max_examples=tries(40))
def test_no_way_is_bent_that_is_not_round(points):
    moves = way(np.array(points))
    ends, arcs = fitted(moves, 0.012, True)
    assert ends[-1] == len(moves) and (np.diff(ends) > 0).all()
    text = text_of(moves, HELIX)
    there = read(text).moves.points
    assume(len(there) > 3)
    assert off(there[there[:, 2] < 50][1:], moves.points) < 0.015 and off(moves.points[1:], there) < 0.015
    lines, upto = arc_lines(moves, HELIX, 3)
    assert len(lines) == len(upto) and upto == sorted(upto) and upto[-1] <= len(moves)


def test_a_control_without_arcs_gets_none_and_the_same_lines_as_ever():
    moves = way(round_points(0, 0, 20, 0, 3, 0.0, 0.004))
    plain = text_of(moves, Dialect())
    assert "G2 " not in plain and "G3 " not in plain and "I" not in plain


@pytest.mark.parametrize("name", some(["tea-room-sign", "lock-7-name-board", "bench-rail", "quay-plate"], 1))
@pytest.mark.parametrize("arcs", ["level", "helix"])
def test_programs_with_arcs_sweep_the_same_wood_and_are_shorter(name, arcs):
    job = load(example(f"{name}.gatepost")).job
    machine = changed(job.machine, dialect=changed(job.machine.dialect, arcs=arcs))
    straight, bent = plan(job), plan(changed(job, machine=machine))
    assert {f.code for f in bent.stops} == {f.code for f in straight.stops}
    for a, b in zip(straight.setups, bent.setups):
        assert sum(len(p.text) for p in b.programs) <= sum(len(p.text) for p in a.programs)
        for one, other in zip(a.operations, b.operations):
            z, w = one.after.z, other.after.z
            steep = np.zeros(z.shape, bool)  # within one cell of an upright wall
            for dj in (-1, 0, 1):
                for di in (-1, 0, 1):
                    steep |= np.abs(np.roll(z, (dj, di), (0, 1)) - z) > 0.5
            assert np.abs(z - w)[~steep].max() < 0.01, one.name
        for p, q in zip(a.programs, b.programs):
            assert (
                abs(p.seconds - q.seconds) < 0.02 * p.seconds + 1.0
                and p.operations == q.operations
                and len(q.ends) == len(q.operations)
            )


def test_the_simulated_machine_cuts_by_arcs_what_is_planned():
    job = load(example("quay-plate.gatepost")).job
    job = changed(job, machine=changed(job.machine, dialect=changed(job.machine.dialect, arcs="helix")))
    reckoned = plan(job)
    bench = shop.Bench(reckoned, None)
    runner = StepRunner(bench, reckoned, Journal(), reckoned.laid_first)
    for setup in reckoned.setups:
        for step in setup.steps:
            runner.carry_out(setup, step)
        assert shop.outside(bench.router, setup, setup.operations[-1].after, reckoned)[0] == 0.0
