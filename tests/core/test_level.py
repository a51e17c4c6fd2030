# SPDX-License-Identifier: GPL-3.0-or-later
"""Levelling a slab: against an independent optimum, on slabs out of true in every way."""

import contextlib
import json
import math

import numpy as np
import pytest
from hypothesis import example, given, settings
from hypothesis import strategies as st
from scipy.optimize import minimize

from gatepost.cli import main
from gatepost.core.errors import OperatorError
from gatepost.core.surface import level
from gatepost.core.tables import read_heights
from tests.conftest import some, tries


def slab(seed, count=60, under=True):
    """A random slab: warped, twisted, cupped, with a corner missing, on an uneven underside."""
    chance = np.random.default_rng(seed)
    length, width, thick = chance.uniform(200, 1500), chance.uniform(100, 700), chance.uniform(20, 70)

    def face(x, y, base):
        u, v = x / length - 0.5, y / width - 0.5
        warp, twist, cup, slope, other = chance.normal(0, 2.0, 5)
        return base + warp * u * u * 4 + twist * u * v * 4 + cup * v * v * 4 + slope * u + other * v

    def places():
        x, y = chance.uniform(0, length, count), chance.uniform(0, width, count)
        if seed % 2:
            keep = x / length + y / width > 0.4
            x, y = x[keep], y[keep]
        return x, y

    x, y = places()
    top = np.column_stack([x, y, face(x, y, thick) + chance.normal(0, 0.1, len(x))])
    if not under:
        return level.readings(top)
    x, y = places()
    low = face(x, y, 0.0)
    return level.readings(top, np.column_stack([x, y, low - low.min()]))


def between(read, a, b):
    slope = np.array([a, b])
    return (read.top[:, 2] - read.top[:, :2] @ slope).min() - (read.under[:, 2] - read.under[:, :2] @ slope).max()


def optimum(read):
    """The same without linear programming: the gap is concave in the tilt, so a direct search from several starts
    ends at its greatest."""
    size = np.ptp(read.top[:, :2], axis=0).max()
    best = max(
        (
            minimize(lambda t: -between(read, t[0] / size, t[1] / size), start, method="Nelder-Mead",
                     options={"xatol": 1e-7, "fatol": 1e-9, "maxiter": 4000, "initial_simplex": np.array(start) + [[0, 0], [9, 0], [0, 9]]})
            for start in ([0.0, 0.0], [5.0, -5.0], [-6.0, -4.0])
        ),
        key=lambda r: -r.fun,
    )  # fmt: skip
    return -best.fun


@pytest.mark.parametrize("seed", some(range(100), 34))
def test_levelling_equals_an_independent_optimum(seed):
    read = slab(seed, under=seed % 3 > 0)
    found = level.best(read)
    a, b = found.tilt
    vertical = found.thickness * math.sqrt(1 + a * a + b * b)
    assert vertical == pytest.approx(optimum(read), abs=0.01)
    assert vertical == pytest.approx(between(read, a, b), abs=1e-9)
    assert found.thickness >= level.as_it_lies(read).thickness - 1e-9


@pytest.mark.parametrize("seed", range(4))
def test_only_the_readings_that_can_rule_are_passed_on_and_the_answer_is_the_same(seed):
    read = slab(seed, count=3000, under=seed > 1)
    quick, plain = level.best(read), level.best(read, hulls=False)
    assert quick.thickness == pytest.approx(plain.thickness, abs=1e-7)


@given(st.floats(-0.02, 0.02), st.floats(0.2, 1.0), st.booleans())
def test_of_tilts_that_keep_as_much_the_least_is_taken(slope, bow, across):
    """Tops bowed down in the middle over an underside bowed up: every tilt between two slopes keeps as much, by hand. Along u
    with tops at -1: h + s, and at 1: h - s, undersides 0 there, all of it leaning by ``slope``."""
    h, half = 20.0, 100.0
    along = np.array([-half, half, -half, half])
    other = np.array([0.0, 0.0, 60.0, 60.0])
    tops = h + np.where(along < 0, bow, -bow) + slope * along
    unders = slope * along
    xy = np.column_stack([other, along] if across else [along, other])
    read = level.readings(np.column_stack([xy, tops + 5.0]), np.column_stack([xy, unders + 5.0]))
    found = level.best(read)
    tilt = found.tilt[1] if across else found.tilt[0]
    # level tilts (slope off): min(h + bow + u, h - bow - u) - |u| is greatest, h - bow, for u from -bow to 0; u = half (tilt - slope)
    low, high = slope - bow / half, slope
    least = 0.0 if low <= 0.0 <= high else low if low > 0.0 else high
    assert found.tilt[0 if across else 1] == pytest.approx(0.0, abs=1e-6)
    assert tilt == pytest.approx(least, abs=1e-6)


def test_a_true_board_is_left_as_it_lies():
    x, y = (a.ravel() for a in np.meshgrid(np.linspace(0, 900, 9), np.linspace(0, 300, 5)))
    true = level.readings(np.column_stack([x, y, np.full(45, 34.0)]))
    assert level.best(true) == level.Lying(34.0, (0.0, 0.0), 34.0, 0.0)
    assert level.as_it_lies(true, 0.2).thickness == pytest.approx(33.8)
    wedge = level.readings(np.column_stack([x, y, 30 + x / 100]), np.column_stack([x, y, x / 100]))
    found = level.best(wedge)
    assert found.tilt == pytest.approx((0.01, 0.0), abs=1e-9) and found.thickness == pytest.approx(
        30 / math.hypot(1, 0.01)
    )
    assert level.best(wedge, 0.5).thickness == pytest.approx(30 / math.hypot(1, 0.01) - 1.0)


SUPPORTS = np.array([[0.1, 0.15], [0.9, 0.1], [0.5, 0.9]])


@pytest.mark.parametrize("seed", range(40))
def test_a_board_on_its_shims_lies_as_was_promised_and_nothing_of_it_is_under_the_bed(seed):
    read = slab(seed, under=seed % 3 > 0)
    found = level.best(read)
    low, high = read.top[:, :2].min(axis=0), read.top[:, :2].max(axis=0)
    supports = low + SUPPORTS * (high - low)
    heights = level.shims(read, found.tilt, supports)
    assert heights.min() >= -1e-12
    slope = np.array(found.tilt)
    drop = read.under[:, 2] - read.under[:, :2] @ slope
    lift = heights[0] - (level.under_at(read, supports)[0] - supports[0] @ slope)
    assert (drop + lift >= -1e-9).all()
    a, b, c = level.rest(read, supports, heights)
    assert (read.under[:, 2] + read.under[:, :2] @ [a, b] + c >= -1e-6).all()
    lies = level.on_shims(read, supports, heights)
    assert lies.lying.thickness == pytest.approx(found.thickness, abs=1e-4)


@settings(max_examples=tries(30))
@given(st.integers(0, 10_000), st.sampled_from([[0.5, 1.0, 3.0], [1.0], [0.25, 2.0], [5.0]]), st.integers(3, 4))
def test_rounded_shims_never_promise_more_than_they_give(seed, at_hand, count):
    read = slab(seed, count=40, under=bool(seed % 2))
    low, high = read.top[:, :2].min(axis=0), read.top[:, :2].max(axis=0)
    spots = np.vstack([SUPPORTS, [[0.4, 0.85]]])[:count]
    supports = low + spots * (high - low)
    found = level.best(read)
    done = level.rounded(read, supports, level.shims(read, found.tilt, supports), at_hand)
    assert done.lying.thickness <= found.thickness + 1e-6
    made = set(level.stacks(at_hand, 1e3)) | {0.0}
    assert all(any(abs(h - m) < 1e-6 for m in made) for h in done.heights)
    # it touches in three places at least, and goes into nothing
    a, b, c = level.rest(read, supports, np.array(done.heights))
    touching = np.concatenate([
        supports @ [a, b] + c + level.under_at(read, supports) - done.heights,
        read.under[:, :2] @ [a, b] + c + read.under[:, 2],
    ])  # fmt: skip
    assert touching.min() >= -1e-6 and (touching < 1e-6).sum() >= 3
    assert between(read, -a, -b) / math.sqrt(1 + a * a + b * b) == pytest.approx(done.lying.thickness, abs=1e-9)


def test_more_supports_or_shims_than_can_be_tried_are_refused_with_a_sentence():
    read = slab(5)
    for supports, at_hand in ((np.zeros((9, 2)), [1.0]), (np.zeros((3, 2)), [0.1 * n for n in range(1, 22)])):
        with pytest.raises(OperatorError, match="at most"):
            level.rounded(read, supports, np.ones(len(supports)), at_hand)


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("", "is empty"),
        ("x,y,z\n", "has no rows"),
        ("x,y,height\n1,2,3\n", "no column z"),
        ("x,y,z\n1,2\n", "line 2: there is no z"),
        ("x,y,z\n1,2,3\n4,5,6,7\n", "line 3: it has 4 values, and there are 3 columns.*decimal sign"),
        ("1;2;3;9\n", "line 1: it has 4 values"),
        ("x,y,z (cm)\n1,2,3\n", "is in cm"),
        ("x,y,z\n1,2,3 furlongs\n", "not a number for z"),
        ("x,y,z\n1,2,abc\n", "not a number for z"),
        ("x,y,z\n1,2,nan\n", "which no board has"),
        ("x,y,z\n1,2,1e99\n", "which no board has"),
        ('x,y,z\n1,2,"3\n', "can't be read|not a number"),
    ],
)
def test_tables_that_can_t_be_used_are_told_with_their_line(text, words):
    with pytest.raises(OperatorError, match=words):
        read_heights(text, "top.csv")


@pytest.mark.parametrize(
    "text",
    [
        "x,y,z (in)\n25.4,50.8,1.1875\n",
        'x in,y in,z\n1,2,1 3/16"\n',
        "X [inch]; Y [inch]; Z mm\n1;2;30,1625\n",
        "x,y,z\n25.4,2 in,30.1625 mm\n",
    ],
)
def test_units_in_heads_and_cells_are_understood(text):
    row = read_heights(text, "top.csv")[0].tolist()
    assert row == pytest.approx([25.4, 50.8, 30.1625])


@pytest.mark.parametrize(
    "text",
    [
        "x,y,z\n1,2,3.5\n-4,5,6\n",
        "1,2,3.5\n-4,5,6\n",
        "x,y,z,\n1,2,3.5,\n-4,5,6,,\n",
        "\ufeffZ (mm); Y mm ;x\n3,5;2;1\n6;5;-4\n",
        "# read on Monday\nname\tx\ty\tz\nA\t1\t2\t3.5 mm\n\nB\t-4\t5\t6\n",
    ],
)
def test_tables_as_people_keep_them_are_read(text):
    assert read_heights(text, "top.csv").tolist() == [[1.0, 2.0, 3.5], [-4.0, 5.0, 6.0]]


@pytest.mark.parametrize(
    ("rows", "words"),
    [
        ([(0, 0, 1), (1, 1, 2)], "at least three"),
        ([(0, 0, 1), (1, 1, 2), (2, 2, 3), (5, 5, 9)], "on one line"),
        ([(0, 0, 1)] * 6, "on one line"),
        ([(0, 0, 1), (1, 0, math.inf), (0, 1, 2)], "not a number"),
    ],
)
def test_readings_that_leave_it_open_are_refused(rows, words):
    with pytest.raises(OperatorError, match=words):
        level.readings(np.array(rows))


def test_levelling_from_the_command_line(tmp_path, capsys):
    top, under = tmp_path / "top.csv", tmp_path / "under.csv"
    rows = [(x, y, 40 + x / 50) for x in (-100, 0, 100, 200) for y in (0, 50, 100)]
    top.write_text("x,y,z\n" + "".join(f"{x},{y},{z}\n" for x, y, z in rows))
    under.write_text("x,y,z\n" + "".join(f"{x},{y},{z - 38}\n" for x, y, z in rows))
    supports = ["-100,0", "200,0", "50,100"]
    assert main(["level", str(top), "--under", str(under), "--supports", *supports, "--json"]) == 0
    told = json.loads(capsys.readouterr().out)
    assert set(told) == {"as_lies", "shimmed"} and told["as_lies"]["thickness"] == pytest.approx(38 - 6)
    assert told["shimmed"]["tilt"] == pytest.approx([0.02, 0.0], abs=1e-9)
    assert told["shimmed"]["thickness"] == pytest.approx(38 / math.hypot(1, 0.02))
    assert told["shimmed"]["shims"] == pytest.approx([0.0, 0.0, 0.0], abs=1e-6)  # the underside is a plane already
    assert main(["level", str(top), "--supports", *supports, "--shims-at-hand", "1", "2"]) == 0
    assert "shim\t" in capsys.readouterr().out
    for words in (
        ["--supports", "1;2"],
        ["--shims-at-hand", "1"],
        ["--under", str(tmp_path / "no.csv")],
    ):
        assert main(["level", str(top), *words]) == 2
        said = capsys.readouterr().err
        assert said.strip().endswith(".") and "Traceback" not in said


@given(st.integers(0, 10**6), st.floats(28.0, 31.0), st.floats(0.1, 1.0))
@example(0, 31.0, 1.0)  # a tilt costs thickness: the planes' distance straight up grows with it
@example(
    762258, 29.584327826148957, 0.19613293518900543
)  # the programme's own tilt asks a little more than sanding takes
@example(94334, 30.60920002045841, 0.6710616926866543)  # and tangents come near but slowly
@settings(max_examples=tries(40))
def test_hollows_of_a_wished_thickness_are_the_fewest_there_can_be(seed, wished, most):
    """With the tilt kept, against trying every height at which the sum can turn."""
    rng = np.random.default_rng(seed)
    xy = rng.uniform([0, 0], [600, 200], (12, 2))
    tops = np.column_stack([xy, 30 + rng.normal(0, 0.25, 12)])
    unders = np.column_stack([xy, np.abs(rng.normal(0, 0.25, 12))])
    read = level.readings(tops, unders)

    def hollows(c):
        return np.maximum(c + wished - tops[:, 2], 0), np.maximum(unders[:, 2] - c, 0)

    turns = [*unders[:, 2], *(tops[:, 2] - wished), *(unders[:, 2] - most), *(tops[:, 2] - wished + most)]
    sums = [sum(h.sum() for h in hollows(c)) for c in turns if max(h.max() for h in hollows(c)) <= most + 1e-9]
    if not sums:
        with pytest.raises(OperatorError, match="not in this wood"):
            level.hollowed(read, wished, most, (0.0, 0.0))
        return
    found = level.hollowed(read, wished, most, (0.0, 0.0))
    assert found.sum == pytest.approx(min(sums), abs=1e-6)
    assert max(found.top.max(), found.under.max()) <= most + 1e-7
    free = level.hollowed(read, wished, most)  # with any tilt it is never worse, nor worse than tilts beside its own
    assert free.sum <= found.sum + 1e-6
    assert abs(free.lying.thickness - wished) < 1e-9
    assert max(free.top.max(), free.under.max()) <= most + 1e-7
    for da, db in ((1e-4, 0), (-1e-4, 0), (0, 1e-4), (0, -1e-4)):
        with contextlib.suppress(OperatorError):
            beside = level.hollowed(read, wished, most, (free.lying.tilt[0] + da, free.lying.tilt[1] + db))
            assert free.sum <= beside.sum + 1e-6


def test_a_slab_thinner_than_its_hollows_is_a_sentence():
    corners = [(0.0, 0.0), (600.0, 0.0), (600.0, 200.0), (0.0, 200.0), (300.0, 100.0)]
    tops = np.array([(x, y, 12.0 if i < 4 else 3.0) for i, (x, y) in enumerate(corners)])
    unders = np.array([(x, y, 0.0 if i < 4 else 2.5) for i, (x, y) in enumerate(corners)])
    with pytest.raises(OperatorError, match="not in this wood"):
        level.hollowed(level.readings(tops, unders), 10.0, 0.3)
