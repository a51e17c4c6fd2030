# SPDX-License-Identifier: GPL-3.0-or-later

import math

import numpy as np
import pytest
from hypothesis import example, given, settings
from hypothesis import strategies as st

from gatepost.core.motion import Moves
from gatepost.core.wood import kernels, survey_kernels
from gatepost.core.wood.field import BALL, FLAT, OUTSIDE, ROUND, VEE, Cutter, HeightField, cut, rectangle
from gatepost.core.wood.live import LiveWood
from tests.conftest import tries

CUTTERS = [
    Cutter("flat", 6.0),
    Cutter("ball", 8.0),
    Cutter("vee", 12.0, 60.0),
    Cutter("vee", 10.0, 90.0, 1.5),
    Cutter("vee", 3.0, 20.0),
    Cutter("surfacing", 14.0),
    Cutter("bull", 8.0, 0.0, 0.0, 1.5),
    Cutter("tapered_ball", 6.0, 16.0, 0.0, 1.0),
    Cutter("rounded_vee", 12.0, 60.0, 0.0, 0.8),
    Cutter("drill", 6.0, 118.0),
    Cutter("drill", 8.0),
]
SLOPED = ("vee", "tapered_ball", "rounded_vee", "drill")


def slope_of(cutter):
    """mm up per mm out of a cutter's cone; 0 where it has none."""
    return 1 / math.tan(math.radians(cutter.angle / 2)) if cutter.kind in SLOPED and 0 < cutter.angle < 180 else 0.0


def shape_height(cutter, rho):
    """Height of a cutter's surface over its tip at a distance from its axis."""
    radius = cutter.diameter / 2
    inside = rho <= radius
    if cutter.kind == "ball":
        h = radius - np.sqrt(np.maximum(radius**2 - rho**2, 0))
    elif cutter.kind == "vee":
        h = np.maximum(rho - cutter.tip / 2, 0) / math.tan(math.radians(cutter.angle / 2))
    elif cutter.kind == "bull":
        past = np.maximum(rho - (radius - cutter.radius), 0)
        h = cutter.radius - np.sqrt(np.maximum(cutter.radius**2 - past**2, 0))
    elif cutter.kind in ("tapered_ball", "rounded_vee"):
        # a ball of the radius, and the cone that is tangent to it: whichever lies lower where both are, each past its contact
        half = math.radians(cutter.angle / 2)
        touch = cutter.radius * math.cos(half)
        ball = cutter.radius - np.sqrt(np.maximum(cutter.radius**2 - rho**2, 0))
        h = np.where(rho < touch, ball, cutter.radius * (1 - math.sin(half)) + (rho - touch) / math.tan(half))
    elif cutter.kind == "drill" and cutter.angle:
        h = rho / math.tan(math.radians(cutter.angle / 2))
    else:
        h = np.zeros_like(rho)
    return np.where(inside, h, np.inf)


def stamped(field, moves, cutter, step):
    """Dense stamping: the plain reference."""
    z = field.z.astype(np.float64).copy()
    rows, columns = z.shape
    x, y = np.meshgrid(field.x0 + np.arange(columns) * field.cell, field.y0 + np.arange(rows) * field.cell)
    reach = cutter.diameter / 2 / field.cell + 2
    for a, b in zip(moves.points[:-1], moves.points[1:]):
        n = max(2, int(np.linalg.norm(b - a) / step))
        for t in np.linspace(0, 1, n):
            p = a + (b - a) * t
            (i0, i1), (j0, j1) = (
                np.clip(np.rint((p[k] - c) / field.cell + np.array([-1, 1]) * reach).astype(int), 0, None) for k, c in ((0, field.x0), (1, field.y0))
            )  # fmt: skip
            at = np.s_[j0 : j1 + 1, i0 : i1 + 1]
            z[at] = np.minimum(z[at], p[2] + shape_height(cutter, np.hypot(x[at] - p[0], y[at] - p[1])))
    return z


def shoved(field, dx, dy):
    """The same wood a hair's breadth elsewhere."""
    return HeightField(field.z, field.x0 + dx, field.y0 + dy, field.cell)


def rounding(field, points, cutter):
    """How far the quick rows may stray: in place along the bed and in height, mm.

    They count a cell's place from the row's start in float32: each of the four roundings on the way (start, step, sum,
    square) is at most half a unit in the last place of the widest place. A cell whose place is off by so much is somewhere
    on the plain surface about it, at a ball's rim as anywhere; heights are sums of the tip's, the slope's and the ball's.
    """
    wide = max(field.z.shape) * field.cell + cutter.diameter
    last = float(np.finfo(np.float32).eps)
    along = 4 * last * wide
    level = np.hypot(*np.diff(points[:, :2], axis=0).T)
    slopes = np.abs(np.diff(points[:, 2])) / np.maximum(level, 1e-12)
    k = slope_of(cutter)
    steep = float(slopes[slopes < max(20.0, k)].max(initial=0.0))  # steeper ones go the plain way
    return along, 4 * last * (np.abs(points[:, 2]).max() + (steep + k) * wide + cutter.diameter) + 2 * k * along


def at_its_rim(field, points, radius):
    """Cells a cutter's radius from the path or from one of its corners, to the last bits: they may fall either way."""
    rows, columns = field.z.shape
    x, y = np.meshgrid(field.x0 + np.arange(columns) * field.cell, field.y0 + np.arange(rows) * field.cell)
    out = np.zeros(field.z.shape, bool)
    for a, b in zip(points[:-1, :2], points[1:, :2]):
        way = b - a
        t = np.clip(((x - a[0]) * way[0] + (y - a[1]) * way[1]) / max(way @ way, 1e-300), 0.0, 1.0)
        for px, py in ((a[0] + t * way[0], a[1] + t * way[1]), a, b):
            out |= np.abs(np.hypot(x - px, y - py) - radius) < 1e-6
    return out


place = st.tuples(st.floats(-3, 23), st.floats(-3, 17), st.floats(-6, 3))


@pytest.mark.parametrize("cutter", CUTTERS, ids=lambda c: f"{c.kind}-{c.angle:.0f}-{c.tip}")
@given(st.lists(place, min_size=2, max_size=3))
@settings(max_examples=tries(12))
def test_the_sweep_equals_dense_stamping(cutter, places):
    field = HeightField(np.zeros((36, 46), np.float32), -1.0, -1.0, 0.5)
    points = np.array(places)
    moves = Moves(points, np.zeros(len(points) - 1, bool), np.full(len(points) - 1, 100.0))
    step = 0.02
    exact, dense = cut(field, moves, cutter).after.z, stamped(field, moves, cutter, step)
    steep = max(slope_of(cutter), 1.0)
    # the sweep may only be lower: stamps lie along the path; by no more than half a stamp's step allows
    assert (exact <= dense + 1e-4)[~at_its_rim(field, points, cutter.diameter / 2)].all()
    falls = np.abs(np.diff(points[:, 2])) / np.maximum(np.hypot(*np.diff(points[:, :2], axis=0).T), 1e-9)
    slope = min(float(falls.max()), 1e3)
    inner = np.isfinite(dense)
    gap = (dense - exact)[inner]
    assert np.quantile(gap, 0.97) <= step * (steep + 1) + 1e-3
    assert (gap > 1.0 + step * slope * 4 + steep).sum() <= 0.02 * gap.size


@given(st.lists(place, min_size=2, max_size=6), st.integers(0, len(CUTTERS) - 1))
@settings(max_examples=tries(25))
def test_wood_only_ever_goes_and_what_goes_is_told(places, which):
    field = rectangle(20, 15, 0.5, lambda x, y: 0.2 * np.sin(x))
    points = np.array(places)
    moves = Moves(points, np.zeros(len(points) - 1, bool), np.full(len(points) - 1, 100.0))
    done = cut(field, moves, CUTTERS[which], amounts=True)
    drop = field.z - done.after.z
    assert (drop >= 0).all()
    assert done.taken.sum() == pytest.approx(float(drop.sum()) * field.cell**2, rel=1e-3, abs=1e-3)
    again = cut(done.after, moves, CUTTERS[which], amounts=True)
    assert again.taken.sum() < 1e-5  # of heights that the same way gives again, to their last bits


@pytest.mark.parametrize("cutter", CUTTERS, ids=lambda c: f"{c.kind}-{c.angle:.0f}-{c.tip}")
@given(st.lists(place, min_size=2, max_size=8), st.integers(1, 6), st.booleans())
@example([(2.0, 3.0004, -4.0), (18.0, 3.0004, -4.0)], 1, False)  # the rim of a ball 4e-4 from cells
@settings(max_examples=tries(20))
def test_the_quick_sweep_in_bands_equals_the_plain_one(cutter, places, pieces_each, rapid):
    field = HeightField(np.zeros((90, 120), np.float32), -1.0, -1.0, 0.2)
    corners = np.array(places)
    t = np.arange(pieces_each)[:, None] / pieces_each  # each way in collinear pieces, as some programs are written
    points = np.vstack([a + (b - a) * t for a, b in zip(corners, corners[1:])] + [corners[-1:]])
    moves = Moves(points, np.full(len(points) - 1, rapid), np.full(len(points) - 1, 100.0))
    plain = cut(field, moves, cutter, plainly=True, amounts=True)
    quick, both = (cut(field, moves, cutter, threads=n, amounts=True) for n in (1, 2))
    assert np.array_equal(quick.after.z, both.after.z) and np.array_equal(quick.taken, both.taken)
    untold = cut(field, moves, cutter)
    along, up = rounding(field, points, cutter)
    assert np.abs(untold.after.z - quick.after.z).max() <= up
    if rapid:
        assert np.array_equal(untold.deepest, quick.deepest)
    shifts = [(0.0, 0.0), *((sx * along, sy * along) for sx in (-1, 1) for sy in (-1, 1))]
    around = [cut(shoved(field, *by), moves, cutter, plainly=True).after.z for by in shifts]
    assert (quick.after.z <= np.max(around, axis=0) + up).all() and (quick.after.z >= np.min(around, axis=0) - up).all()
    for done in (plain, quick):
        gone = float((field.z - done.after.z).sum()) * field.cell**2
        assert done.taken.sum() == pytest.approx(gone, rel=1e-3, abs=1e-3)


def test_cutters_are_numbered_as_the_kernels_number_them():
    assert (FLAT, BALL, VEE, ROUND) == (kernels.FLAT, kernels.BALL, kernels.VEE, kernels.ROUND)
    assert [c.shape for c in CUTTERS] == [FLAT, BALL, VEE, VEE, VEE, FLAT, ROUND, ROUND, ROUND, VEE, FLAT]


@given(
    st.sampled_from(["flat", "ball", "tapered_ball", "vee", "rounded_vee", "bull", "surfacing", "drill"]),
    st.floats(1, 40), st.floats(8, 150), st.floats(0.05, 8), st.floats(0, 1),
)  # fmt: skip
def test_a_profile_never_falls_never_bends_down_and_is_read_both_ways(kind, diameter, angle, radius, share):
    cutter = Cutter(kind, diameter, angle, 0.3 * diameter * share, radius)
    profile = cutter.profile
    out = np.linspace(0, diameter / 2, 400)
    h = profile.height(out)
    steps = np.diff(h)
    assert h[0] == 0 and (steps >= -1e-9).all() and (np.diff(steps) >= -1e-7).all()
    assert np.isinf(profile.height(np.array([diameter / 2 + 1e-6]))[0])
    for o, z in zip(out[1:], h[1:]):
        if 1e-6 < z < profile.shoulder - 1e-9:
            assert profile.out_at(float(z)) == pytest.approx(o, abs=1e-5)
    assert profile.out_at(profile.shoulder + 5.0) == pytest.approx(diameter / 2)


@pytest.mark.parametrize("cutter", CUTTERS, ids=lambda c: f"{c.kind}-{c.angle:.0f}-{c.tip}")
def test_moves_by_the_thousand_are_swept_as_dense_stamps_by_plan_and_machine(cutter):
    """Both models, which share no code, against the plain shape stamped closely along every move."""
    from gatepost.machine.standins.messages import ground
    from gatepost.machine.standins.motion import stamp

    count = tries(600)  # a thousand and more where it may take its time
    rng = np.random.default_rng(17)
    points = np.array([10.0, 8.0, -1.0]) + np.cumsum(rng.uniform(-1, 1, (count + 1, 3)) * [1.5, 1.5, 0.8], axis=0)
    low, high = np.array([0.0, 0.0, -4.0]), np.array([40.0, 30.0, 2.0])
    points = low + np.abs((points - low + (high - low)) % (2 * (high - low)) - (high - low))  # thrown back at the edges
    moves = Moves(points, np.zeros(count, bool), np.full(count, 100.0))
    field = rectangle(40, 30, 0.4, lambda x, y: 0 * x)
    step = 0.06
    dense, swept = stamped(field, moves, cutter, step), cut(field, moves, cutter).after.z
    told = {
        "kind": cutter.kind,
        "diameter": cutter.diameter,
        "angle": cutter.angle,
        "tip": cutter.tip,
        "radius": cutter.radius,
    }
    path = np.vstack([a + (b - a) * np.linspace(0, 1, 60)[:, None] for a, b in zip(points, points[1:])])
    by_machine = field.z.copy()
    stamp(by_machine, field.x0, field.y0, field.cell, path, *ground(told))
    rim = at_its_rim(field, points, cutter.diameter / 2)
    for name, found in (("plan", swept), ("machine", by_machine)):
        off = np.abs(found - dense)[~rim]
        assert np.quantile(off, 0.99) <= step * (slope_of(cutter) + 1.2), name
        assert np.median(off) < 2e-3, name


def test_two_threads_give_the_same_wood_to_the_bit(monkeypatch):
    monkeypatch.setattr("gatepost.core.wood.field.SMALL", 0)
    rng = np.random.default_rng(3)
    points = np.column_stack([rng.uniform(0, 60, 600), rng.uniform(0, 40, 600), rng.uniform(-3, 0.5, 600)])
    moves = Moves(points, np.zeros(599, bool), np.full(599, 100.0))
    field = rectangle(60, 40, 0.2, lambda x, y: 0.3 * np.sin(x))
    for cutter in CUTTERS:
        one, two = cut(field, moves, cutter, threads=1), cut(field, moves, cutter, threads=2)
        assert np.array_equal(one.after.z, two.after.z)
        assert np.array_equal(one.taken, two.taken) and np.array_equal(one.deepest, two.deepest)


def test_a_facing_pass_in_short_pieces_is_swept_as_one_and_bends_and_rapids_are_not():
    x = np.arange(0.0, 101.0)
    points = np.column_stack([x, np.full(101, 5.0), np.full(101, -1.0)])
    bent = np.vstack([points, [[100, 6, -1], [100, 7, -1], [100, 3, -1], [100, 3, -1.5]]])
    rapid = np.zeros(104, bool)
    first = np.arange(104)
    moves = Moves(bent, rapid, np.full(104, 100.0))
    assert first[: survey_kernels.straight_runs(moves.segments, rapid, first)].tolist() == [0, 100, 102, 103]
    rapid = np.ones(104, bool)
    assert survey_kernels.straight_runs(moves.segments, rapid, np.arange(104)) == 104


def test_a_level_pass_takes_exactly_its_depth_and_nothing_off_the_wood():
    field = HeightField(np.where(np.arange(40)[None, :] < 30, 0.0, OUTSIDE).repeat(20, 0).astype(np.float32), 0, 0, 1.0)
    moves = Moves(np.array([[0, 10, -2.0], [60, 10, -2.0]]), np.array([False]), np.array([1.0]))
    after = cut(field, moves, Cutter("flat", 8)).after
    assert set(np.unique(after.z[:, :30])) == {0.0, -2.0}
    assert (after.z[:, 30:] == OUTSIDE).all()
    assert (after.z[6:15, :30] == -2.0).all() and (after.z[:6, :30] == 0.0).all()


@given(
    st.lists(place, min_size=8, max_size=14),
    st.lists(st.integers(0, 14), min_size=1, max_size=6),
    st.integers(0, len(CUTTERS) - 1),
)
@settings(max_examples=tries(30))
def test_wood_swept_as_a_program_goes_on_is_the_wood_of_so_many_moves(places, asked, which):
    """In whatever steps it is asked, on and back again: what is shown while it cuts is what the removal model says of the moves that are done."""
    field = rectangle(20, 15, 0.5, lambda x, y: 0.2 * np.sin(x))
    points = np.array(places)
    moves = Moves(points, np.zeros(len(points) - 1, bool), np.full(len(points) - 1, 100.0))
    live = LiveWood(field, moves, CUTTERS[which])
    for done in asked:
        n = min(done, len(moves))
        part = Moves(points[: n + 1], moves.rapid[:n], moves.feed[:n])
        assert np.abs(live.to(done).z - cut(field, part, CUTTERS[which]).after.z).max() < 1e-4
        assert live.done == n
    assert field is live.before and np.array_equal(field.z, rectangle(20, 15, 0.5, lambda x, y: 0.2 * np.sin(x)).z)
