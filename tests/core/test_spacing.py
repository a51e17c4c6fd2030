# SPDX-License-Identifier: GPL-3.0-or-later
"""Lines of lettering that run into each other, against plain distances of their letters' corners."""

import itertools

import pytest
import shapely
from hypothesis import given
from hypothesis import strategies as st

from gatepost.core.carve import spacing
from gatepost.core.carve.edits import FULL, LEAST, fitting_height, outlines
from gatepost.core.carve.lettering import CutLetter, glyph_cut, layout
from gatepost.core.job.carve import Carving, TextLine

SIGNS = {
    "descenders over ascenders": (("Happy jog", 40.0), ("The bell", 24.0)),
    "capitals alone": (("TOW PATH", 40.0), ("NO CYCLING", 20.0)),
    "three lines": (("gypsy", 30.0), ("ferry quay", 22.0), ("LdbhT", 30.0)),
    "nothing under the tail": (("jog", 40.0), ("I", 10.0)),
}


def letters(lines, leading, face="Serif"):
    """Laid out and flattened, as coarsely as a first look."""
    made = tuple(TextLine(height=tall, **outlines(text, face)) for text, tall in lines)
    placed = layout(Carving(lines=made, x=300.0, y=100.0, leading=leading))
    return tuple(CutLetter(g, glyph_cut(g.path, g.scale, 1.7, 8.0)) for g in placed if g.path)


def plainly(some):
    """The least distance between the letters of one line and those of the next, over every pair."""
    pairs = [
        shapely.distance(a.outline(), b.outline())
        for a, b in itertools.combinations(some, 2)
        if abs(a.placed.line - b.placed.line) == 1
    ]
    return min(pairs)


@pytest.mark.parametrize("sign", SIGNS)
@pytest.mark.parametrize("leading", [0.0, 0.2, 0.6])
@pytest.mark.parametrize("face", ["Serif", "Sans"])
def test_lines_stand_as_far_apart_as_is_wanted_and_no_farther(sign, leading, face):
    some = letters(SIGNS[sign], leading, face)
    lines = spacing.by_line(some)
    met = [n for upper, lower in zip(lines, lines[1:]) if (n := spacing.nearest(upper, lower)) is not None]
    assert bool(met) == (plainly(some) < spacing.NEAR)
    wanted = spacing.leading_wanted(some, leading)
    if not met:
        assert wanted == pytest.approx(leading, abs=0.0101)
        return
    assert min(gap for gap, *_ in met) == pytest.approx(plainly(some), abs=1e-9)
    assert plainly(letters(SIGNS[sign], wanted, face)) >= spacing.CLEAR - 1e-6
    assert plainly(letters(SIGNS[sign], wanted - 0.03, face)) < spacing.CLEAR


@pytest.mark.parametrize(("unit", "step"), [("mm", 0.5), ("inch", 25.4 / 16.0)])
@given(st.floats(1.0, 12.0), st.floats(20.0, 900.0), st.floats(4.0, 200.0))
def test_letters_that_are_fitted_are_as_tall_as_a_rule_reads(unit, step, width, room, wanted):
    height = fitting_height(width, (room, 1000.0), wanted, unit)
    if height > LEAST:
        assert height / step == pytest.approx(round(height / step)) and height <= wanted + 1e-9
        assert height * width <= room
        assert wanted - height < 2.0 * step + 1e-9 or (height + 2.0 * step) * width > FULL * room
