# SPDX-License-Identifier: GPL-3.0-or-later
"""A piece fitted to measured marks: against a direct search, and what is said of marks that don't fit."""

import json
import math
import os

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

import mark_sets
from gatepost import cli
from gatepost.core.register.fit import FitVerdict, MeasuredMark, fitted
from gatepost.fitting import read_marks

SEEDS = st.integers(0, 2**32 - 1)
MANY = 1500 if os.environ.get("GATEPOST_SOAK") else 60
SAID = {
    "nothing": FitVerdict.FITS,
    "one mark": FitVerdict.ODD,
    "chamfer": FitVerdict.CHAMFER,
    "scale": FitVerdict.SCALE,
}


def residuals(marks, turned, turn, shift):
    """By hand, mark by mark."""
    c, s = math.cos(math.radians(turn)), math.sin(math.radians(turn))
    for m in marks:
        x, y = m.drawn[0] * (-1 if turned == "Y" else 1), m.drawn[1] * (-1 if turned == "X" else 1)
        yield m.measured[0] - (c * x - s * y + shift[0]), m.measured[1] - (s * x + c * y + shift[1])


@given(SEEDS, st.sampled_from(mark_sets.WRONGS), st.integers(2, 12))
def test_turn_and_shift_are_those_of_a_direct_search(seed, wrong, count):
    rng = np.random.default_rng(seed)
    of = mark_sets.drawn_set(rng, wrong, count)
    fit = fitted(of.marks, of.turned)
    if fit.verdict is FitVerdict.REFUSED:
        return
    used = tuple(m for m in of.marks if m.name != fit.odd)
    turn, shift = mark_sets.searched(used, of.turned)
    lever = max(math.hypot(*m.drawn) for m in used)
    assert abs((fit.turn - turn + 180.0) % 360.0 - 180.0) < 1e-5
    assert math.dist(fit.shift, shift) < 1e-4 + lever * 2e-7
    for told, (x, y) in zip(fit.residuals, residuals(of.marks, of.turned, fit.turn, fit.shift), strict=True):
        assert (told.x, told.y) == pytest.approx((x, y), abs=1e-8)


@pytest.mark.parametrize("wrong", mark_sets.WRONGS)
@pytest.mark.parametrize("count", [2, 3, 4, 5, 12])
def test_what_is_wrong_is_named_and_never_anything_else(wrong, count):
    """Two marks never name one; three only where they can; from four on nearly all that is wrong is told as what it is."""
    rng = np.random.default_rng(count)
    said = []
    for _ in range(MANY):
        of = mark_sets.drawn_set(rng, wrong, count)
        fit = fitted(of.marks, of.turned)
        assert fit.odd in (None, of.odd), (of, fit.sentence)
        said.append(fit.verdict)
        if wrong == "chamfer" and count > 3:
            normals = [r.along for r in fit.residuals if r.along is not None]
            assert np.mean(normals) == pytest.approx(of.amount, abs=0.2 + 0.5 * abs(of.amount))
    if wrong == "nothing":
        assert said.count(FitVerdict.FITS) >= 0.98 * MANY
    elif count == 2:
        assert set(said) <= {FitVerdict.FITS, FitVerdict.UNSURE}
    else:
        assert said.count(SAID[wrong]) >= (0.95 if count > 3 else 0.7) * MANY
        assert count == 3 or FitVerdict.FITS not in said or wrong == "scale"


SQUARE = [("A", 0, 0, None), ("B", 100, 0, None), ("C", 100, 60, None), ("D", 0, 60, None)]


def marks_of(rows, move=(0.0, 0.0), **moved):
    return [
        MeasuredMark(n, (x, y), (x + move[0] + moved.get(n, (0, 0))[0], y + move[1] + moved.get(n, (0, 0))[1]), normal)
        for n, x, y, normal in rows
    ]


@pytest.mark.parametrize(
    ("marks", "verdict", "words"),
    [
        ([], "refused", "Two marks at least"),
        (marks_of(SQUARE[:1]), "refused", "Two marks at least"),
        (marks_of([("A", 0, 0, None), ("B", 0.4, 0, None)]), "refused", "one place"),
        (marks_of([("A", 0, 0, None), ("B", 50, 0.05, None), ("C", 200, 0, None)]), "refused", "on one line"),
        (marks_of(SQUARE, (3.0, -2.0)), "fits", "Turned by 0.000°"),
        (marks_of(SQUARE[:2], (3.0, -2.0)), "fits", "measure a third"),
        (marks_of(SQUARE[:2], B=(0.5, 0.0)), "can't tell", "farther apart"),
        (marks_of(SQUARE, C=(0.8, 0.0)), "odd one out", "C lies ⟦0.8⟧ beside"),
        (marks_of(SQUARE[:3], C=(0.8, 0.0)), "can't tell", "seldom"),  # square to what joins it to B: it may be A as well
        ([MeasuredMark(m.name, m.drawn, (m.measured[0], -m.measured[1])) for m in marks_of(SQUARE)][:3] + [MeasuredMark("E", (20, 35), (20, -35))], "can't tell", "the other face up"),
        (marks_of([("left", -50, 0, 180.0), ("right", 50, 5, 0.0), ("top", 3, 30, 90.0), ("foot", 0, -30, -90.0)], left=(1, 0), right=(-1, 0), top=(0, -1), foot=(0, 1)), "chamfer or pin radius", "⟦1⟧ inside"),
        (marks_of([("left", -50, 0, 180.0), ("foot", 0, -30, -90.0), ("hole", 0, 0, None)]), "fits", "No opposite edges"),
        ([MeasuredMark(m.name, m.drawn, (m.drawn[0] * 1.01, m.drawn[1] * 1.01)) for m in marks_of(SQUARE)], "scale", "1.00 % longer"),
        (marks_of(SQUARE, A=(0.9, 0.3), C=(-2.0, 1.7)), "can't tell", "No single one"),
    ],
)  # fmt: skip
def test_marks_are_judged_in_a_sentence(marks, verdict, words):
    found = fitted(marks)
    assert found.verdict.value == verdict and words in found.sentence, found.sentence


def test_a_piece_that_was_not_turned_as_asked_is_asked_about_and_is_no_chamfer():
    rail = [("left", 40, 35, None), ("right", 860, 35, None), ("foot", 300, 0, -90.0), ("top", 300, 70, 90.0)]
    found = fitted(marks_of(rail, (90.0, 170.0)), "X")
    assert found.verdict is FitVerdict.UNSURE and "the other face up" in found.sentence
    wrong = fitted(marks_of(rail, (90.0, 170.0), left=(9.0, 40.0)), "X")
    assert wrong.verdict is FitVerdict.UNSURE  # edges 70 mm inside are no chamfer


def test_a_normal_turns_with_the_piece():
    """Turned over about X and a quarter of a turn: an outer edge to the left of the drawing lies to the front."""
    marks = [
        MeasuredMark("left", (-50.0, 0.0), (0.0, -49.0), 180.0),
        MeasuredMark("right", (50.0, 0.0), (0.0, 49.0), 0.0),
        MeasuredMark("hole", (0.0, 20.0), (20.0, 0.0)),
    ]
    found = fitted(marks, "X")
    assert found.turn == pytest.approx(90.0) and [r.along for r in found.residuals[:2]] == pytest.approx([-1.0, -1.0])
    assert found.residuals[2].along is None and found.verdict is FitVerdict.CHAMFER


TABLE = "name,drawn_x,drawn_y,measured_x,measured_y,normal\nA,0,0,10,20,\nB,100,0,10,120,0\nA,100,50,-40,120,\n"


@pytest.mark.parametrize(
    ("text", "words", "code"),
    [
        (TABLE, "They fit", 0),
        ("A;0;0;10;20;\nB;100;0;10,0;120;\n;100;50;-40;120;90\n", "They fit", 0),
        (TABLE.replace("-40", "-41"), "A (2) lies", 1),
        (TABLE.replace(",0\nA", ",north\nA"), "no direction", 2),
        (TABLE.replace("100,50", "100"), "", 2),
        ("name,drawn_x\nA,1\n", "no column drawn_y", 2),
        ("A,0,0,10,20,\n", "Two marks at least", 2),
        ("", "is empty", 2),
    ],
)
def test_a_table_of_marks_is_fitted_or_told_what_is_wrong_with_it(tmp_path, capsys, text, words, code):
    path = tmp_path / "marks.csv"
    path.write_text(text)
    assert cli.main(["fit", str(path)]) == code
    assert words in capsys.readouterr().err
    if words in ("They fit", "A (2) lies"):
        assert cli.main(["fit", str(path), "--json"]) == code
        told = json.loads(capsys.readouterr().out)
        assert (
            told["turn"] == pytest.approx(90.0, abs=1.0) and len(told["residuals"]) == 3 and words in told["sentence"]
        )
        assert set(told) == {"turn", "shift", "scale", "residuals", "odd", "verdict", "sentence"}


def test_a_mark_that_is_good_enough_for_less_fits(tmp_path):
    path = tmp_path / "marks.csv"
    path.write_text(TABLE.replace("-40", "-40.6"))
    assert cli.main(["fit", str(path)]) == 1 and cli.main(["fit", str(path), "--good-to", "0.5"]) == 0


def test_marks_of_one_name_are_told_apart_whatever_they_are_called(tmp_path):
    path = tmp_path / "marks.csv"
    path.write_text("A,0,0,10,20,\nA,100,0,10,120,\nA (2),100,50,-40,120,\n,0,50,-40,20,\n")
    names = [m.name for m in read_marks(path)]
    assert names[:2] == ["A", "A (2)"] and len(set(names)) == 4
