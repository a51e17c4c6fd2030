# SPDX-License-Identifier: GPL-3.0-or-later
from fractions import Fraction

import pytest
from hypothesis import given
from hypothesis import strategies as st

from gatepost.core.units import LengthError, edit_length, mm, parse_exact, parse_length, show_length, spell

AWKWARD = [
    ('3/4"', "mm", Fraction(1905, 100)),
    ('1 3/16"', "mm", Fraction(19, 16) * Fraction(254, 10)),
    ("19.05 mm", "inch", Fraction(1905, 100)),
    ("2' 6\"", "mm", Fraction(762)),
    ("2' 6", "mm", None),
    ("-0,5", "mm", Fraction(-1, 2)),
    ("−.25", "inch", Fraction(-254, 40)),
    ("1m 2cm 3mm", "inch", Fraction(1023)),
    ("7/8", "inch", Fraction(7, 8) * Fraction(254, 10)),
    ("1½ in", "mm", Fraction(381, 10)),
    ("12''", "mm", Fraction(3048, 10)),
    ("", "mm", None),
    ("twelve", "mm", None),
    ("1/0", "mm", None),
    ("3 4", "mm", None),
    ("1\" 2'", "mm", None),
    ("1e5", "mm", None),
    ("5 furlongs", "mm", None),
    ("2000000", "mm", None),
    ("nan", "mm", None),
]


@pytest.mark.parametrize(("text", "unit", "exact"), AWKWARD)
def test_as_people_type_them(text, unit, exact):
    if exact is None:
        with pytest.raises(LengthError) as caught:
            parse_exact(text, unit)
        assert str(caught.value).endswith(".") and len(str(caught.value)) > 15
    else:
        assert parse_exact(text, unit) == exact


@given(st.floats(-5000, 5000), st.sampled_from(["mm", "inch"]))
def test_what_is_shown_to_edit_reads_back_to_the_very_same_number(value, unit):
    assert parse_length(edit_length(value, unit), unit) == value


@given(st.integers(-4000, 4000), st.sampled_from([1, 2, 4, 8, 16, 32, 64]))
def test_fractions_of_an_inch_are_shown_as_such_and_kept(parts, finest):
    value = float(Fraction(parts, finest) * Fraction(254, 10))
    shown = show_length(value, "inch")
    assert parse_length(shown, "inch") == pytest.approx(value, abs=1e-9)
    assert "." not in shown


@given(st.floats(-5000, 5000))
def test_shown_mm_are_right_to_a_hundredth(value):
    assert parse_length(show_length(value, "mm"), "mm") == pytest.approx(value, abs=0.00501)


def test_a_sentence_keeps_its_lengths_whatever_the_unit():
    words = f"cut {mm(19.05)} and {mm(-0.001, 2)} deep"
    assert spell(words, "mm") == "cut 19.1 mm and 0 mm deep"
    assert spell(words, "inch").startswith('cut 3/4" and')
