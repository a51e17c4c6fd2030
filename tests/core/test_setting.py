# SPDX-License-Identifier: GPL-3.0-or-later
"""How lines are set: on arcs, in columns, spaced by hand and bolder, against plain geometry of their outlines."""

import math

import numpy as np
import pytest
import shapely
from hypothesis import assume, example, given, settings
from hypothesis import strategies as st
from shapely import affinity

from gatepost.core.carve import edits
from gatepost.core.carve.lettering import carets, glyph_area, layout, lettering, thinnest
from gatepost.core.carve.setting import along, block, least_radius, radius_of, rise_of, set_line
from gatepost.core.errors import OperatorError
from gatepost.core.geometry import curves
from gatepost.core.job.carve import Carving, TextLine
from gatepost.core.job.tool import Tool
from tests.conftest import tries

VEE = Tool(number=1, name="V", kind="vee", diameter=32, angle=60, cutting_length=27, shank=8, length=70, rpm=18000, feed=2500, plunge=600, pass_depth=5)  # fmt: skip

TEXTS = ("TEA ROOM", "Lock 7", "I", "Wharf & quay", "A  B")
lines = st.builds(
    lambda text, face, height, tracking, run, turns: TextLine(
        id="a", height=height, tracking=tracking, run=run, **edits.outlines(text, face)
    ).larger(1.0).model_copy(update={"radius": max(height * turns, 1.0)}),
    st.sampled_from(TEXTS), st.sampled_from(("Serif", "Sans", "Slab", "Condensed")), st.floats(8.0, 60.0), st.floats(0.0, 0.5),
    st.sampled_from(("over", "under")), st.floats(1.3, 40.0),
)  # fmt: skip


def own(path):
    """A glyph about its origin, a capital 1 high."""
    return curves.region(curves.parse_path(path), 1e-5)


def areas(line, x=0.0, y=0.0, turn=0.0):
    """Its letters where they stand."""
    return [glyph_area(g, 0.005) for g in layout(Carving(lines=(line,), x=x, y=y, turn=turn))]


@settings(max_examples=tries(20))
@given(lines, st.floats(-180.0, 180.0))
def test_letters_of_an_arc_stand_on_it_by_the_middle_of_their_ink_and_as_far_apart_as_on_a_straight(line, turn):
    assume(line.radius >= least_radius(line))
    placed = areas(line, 300.0, 200.0, turn)
    straight = layout(Carving(lines=(line.model_copy(update={"run": "straight"}),)))
    over, r = line.run == "over", line.radius
    # the block is centred: its lowest foot half of (rise + height) under its middle, the arc's centre a radius from the arc's middle
    rise = rise_of(along(line)[1], r)
    foot = 200.0 - (rise + line.height) / 2.0
    centre = (300.0, foot + rise - r if over else foot + r)
    for area, flat in zip(placed, straight, strict=True):
        left, _, right, _ = glyph_area(flat, 0.005).bounds
        angle = 0.5 * (left + right) / r  # from the middle of the line
        back = affinity.rotate(area, -turn, origin=(300.0, 200.0))  # the lettering as it was before it was turned
        upright = affinity.rotate(back, math.degrees(angle if over else -angle), origin=centre)
        wanted = affinity.translate(
            affinity.scale(own(flat.path), line.height, line.height, origin=(0.0, 0.0)),
            300.0 + flat.x - 0.5 * (left + right), foot + (rise if over else 0.0),
        )  # fmt: skip
        assert shapely.hausdorff_distance(upright, wanted) < 0.02


@given(st.floats(10.0, 2000.0), st.floats(0.001, 0.35))
@example(100.0, 0.36)
def test_an_arc_that_rises_by_so_much_does(length, share):
    r = radius_of(length, share * length)
    assert rise_of(length, r) == pytest.approx(share * length, rel=1e-6)
    # walked along in small steps, the arc is as long, and its middle as high over its ends
    t = np.linspace(-length / 2.0, length / 2.0, 20001) / r
    at = np.column_stack([r * np.sin(t), r * np.cos(t)])
    assert float(np.hypot(*np.diff(at, axis=0).T).sum()) == pytest.approx(length, rel=1e-6)
    assert at[10000, 1] - at[0, 1] == pytest.approx(share * length, rel=1e-6)


@pytest.mark.parametrize("text", TEXTS)
@given(st.floats(-0.2, 1.0), st.lists(st.floats(-0.3, 0.5), max_size=8))
def test_spacing_counts_every_character_and_spaces_too(text, tracking, kerns):
    plain = TextLine(height=20.0, **edits.outlines(text, "Serif"))
    spaced = plain.model_copy(update={"tracking": tracking, "kerns": tuple(kerns)})
    by_hand = [*kerns, *[0.0] * len(text)][: len(text)]
    assert along(spaced)[1] == pytest.approx(20.0 * (plain.width + sum(tracking + k for k in by_hand[:-1])))
    chars = [i for i, c in enumerate(text) if c != " "]
    for i, a, b in zip(chars, along(plain)[0], along(spaced)[0], strict=True):
        assert b - a == pytest.approx(20.0 * sum(tracking + k for k in by_hand[:i]), abs=1e-9)


@given(st.sampled_from(TEXTS[:2]), st.floats(0.0, 0.6))
def test_a_column_stands_letter_under_letter_on_one_middle(text, tracking):
    line = TextLine(height=30.0, tracking=tracking, run="column", **edits.outlines(text.upper(), "Slab"))
    placed = areas(line, 100.0, 100.0)
    middles = [0.5 * (a.bounds[0] + a.bounds[2]) for a in placed]
    assert np.allclose(middles, 100.0, atol=0.02)
    feet = [g.y for g in layout(Carving(lines=(line,), x=100.0, y=100.0))]
    gaps = -np.diff(feet)
    letters = [i for i, c in enumerate(text) if c != " "]
    spaces = np.array([text[a:b].count(" ") for a, b in zip(letters, letters[1:])])
    assert np.allclose(gaps, 30.0 * (1.25 + tracking) + spaces * 30.0 * (0.75 + tracking))
    assert all(a.bounds[1] > b.bounds[3] for a, b in zip(placed, placed[1:]))
    assert block((line,), 0.6) == (set_line(line).wide, pytest.approx(feet[0] - feet[-1] + 30.0))


@pytest.mark.parametrize("face", ["Sans", "Slab"])
@settings(max_examples=tries(8))
@given(st.floats(-0.4, 1.5))
@example(1e-310)
def test_bolder_strokes_are_so_much_wider_on_each_side(face, by):
    thin = TextLine(height=40.0, **edits.outlines("ILTH", face))
    for flat, bold in zip(areas(thin), areas(thin.model_copy(update={"bolder": by})), strict=True):
        assert shapely.hausdorff_distance(
            flat.buffer(by if abs(by) > 1e-6 else 0.0, join_style="mitre"), bold
        ) < 0.05 + 0.5 * (by < 0)
    line = thin.model_copy(update={"bolder": by})
    was, now = (lettering(Carving(lines=(one,)), VEE).letters for one in (thin, line))
    for a, b in zip(was, now, strict=True):
        assert thinnest(b.cut) - thinnest(a.cut) == pytest.approx(by, abs=0.03)


def test_a_letter_that_finer_strokes_leave_nothing_of_is_left_out():
    line = TextLine(height=20.0, bolder=-15.0, **edits.outlines("IT", "Sans"))
    assert layout(Carving(lines=(line,))) == []


@settings(max_examples=tries(20))
@given(lines, st.floats(0.1, 8.0))
def test_larger_lettering_is_the_same_in_every_part(line, factor):
    line = line.model_copy(update={"bolder": 0.3})
    for a, b in zip(areas(line), areas(line.larger(factor)), strict=True):
        assert shapely.hausdorff_distance(affinity.scale(a, factor, factor, origin=(0, 0)), b) < 0.02 * max(factor, 1.0)


KERNED = {
    "LO -0.05": {0: -0.05}, "OC 0.1, CK -0.2": {1: 0.1, 2: -0.2}, "": {}, "  ": {}, "LO −0,05; CK +.1": {0: -0.05, 2: 0.1},
    "LO 0": {}, "LO 0.1\nOC .2": {0: 0.1, 1: 0.2},
}  # fmt: skip


@pytest.mark.parametrize("words", KERNED)
def test_spacing_by_hand_is_read_as_it_is_typed_and_told_as_it_is_read(words):
    line = TextLine(height=20.0, **edits.outlines("LOCK", "Serif"))
    kerns = edits.kerned(line, words)["kerns"]
    assert {i: k for i, k in enumerate(kerns) if k} == KERNED[words]
    read = line.model_copy(update={"kerns": kerns})
    assert edits.kerned(read, edits.kerned_words(read))["kerns"] == kerns


@pytest.mark.parametrize("words", ["XY 0.1", "LO", "0.1", "LO 0.1 and more", "L O 0.1", "LOC 0.1", "LO0.1"])
def test_what_is_no_spacing_is_said(words):
    with pytest.raises(OperatorError, match="has no|pairs of letters"):
        edits.kerned(TextLine(height=20.0, **edits.outlines("LOCK", "Serif")), words)


def test_an_arc_is_asked_for_no_higher_than_there_is_one():
    line = TextLine(height=20.0, run="over", **edits.outlines("LOCK", "Serif"))
    length = along(line)[1]
    assert edits.rise(line.model_copy(update=edits.risen(line, 0.2 * length))) == pytest.approx(0.2 * length)
    with pytest.raises(OperatorError, match="at most"):
        edits.risen(line, 0.4 * length)


@settings(max_examples=tries(30))
@given(lines, st.sampled_from(("straight", "over", "under", "column")), st.floats(-180.0, 180.0), st.booleans())
def test_a_caret_stands_between_the_letters_wherever_they_stand(line, run, turn, mirror):
    line = line.model_copy(update={"run": run})
    assume(line.radius >= least_radius(line))
    carving = Carving(lines=(line,), x=40.0, y=-7.0, turn=turn, mirror=mirror)
    marks = carets(carving, 0)
    assert len(marks) == len(line.text) + 1
    chars = [i for i, c in enumerate(line.text) if c != " "]
    middles = marks.mean(axis=1)
    for place, glyph in zip(chars, layout(carving), strict=True):
        ink = glyph_area(glyph, 0.05).centroid
        near = sorted(range(len(marks)), key=lambda i: math.dist(middles[i], (ink.x, ink.y)))[:2]
        assert place in near or place + 1 in near  # a letter has its own two carets beside it
    long = np.hypot(*(marks[:, 1] - marks[:, 0]).T)
    assert np.allclose(long, long[0]) and long[0] >= 0.6 * line.height - 1e-6
