# SPDX-License-Identifier: GPL-3.0-or-later
"""Gouged grounds: strokes keep off what stays, go no deeper than asked, and are the same for the same throw."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st

import relief_proof
from gatepost.core.carve.areas import area_of
from gatepost.core.carve.gouging import Gouging, gouge_moves, gouged
from gatepost.core.carve.sunk_cuts import flat_cuts
from gatepost.core.carve.sunk_moves import Heights
from gatepost.core.job.base import changed
from gatepost.core.job.carve import Rounded
from gatepost.core.job.gouge import Gouge
from gatepost.core.job.operation import Artwork
from gatepost.core.profile import CutterProfile
from gatepost.core.wood.field import Cutter, HeightField, cut
from tests.conftest import tries

BOARD = shapely.box(0.0, 0.0, 60.0, 44.0)

FACE, CELL = 20.0, 0.1
STAYS = Artwork(
    id="stays", kind="plate", x=30.0, y=22.0, turn=20.0, figures=Rounded(width=16.0, height=9.0, corner=2.0)
)
MILL, BALL = relief_proof.cutter(2, "flat", 3.0, 3.0), relief_proof.cutter(4, "ball", 4.0, 3.0)


def carved(figures: Gouge) -> tuple[Any, HeightField]:
    """A ground gouged round a plate that stays, and the wood then."""
    made = gouged(Gouging(figures, (STAYS,)), (MILL, BALL), BOARD)
    hop = made.laid.top.convex_hull
    shapely.prepare(hop)
    at = Heights(FACE, FACE, FACE + 8.0, lambda t: (0.0, 0.0, 60.0), hop)
    wood = HeightField(np.full((441, 601), np.float32(FACE)), 0.0, 0.0, CELL)
    if made.sink is not None:
        for c in flat_cuts(made.sink, Gouging(figures, (STAYS,)).ground.figures, at):
            wood = cut(wood, c.moves, Cutter("flat", c.tool.diameter)).after
    floor = FACE - (figures.cleared if made.sink is not None else 0.0)
    moves = gouge_moves(made, BALL, floor, floor, at)
    done = cut(wood, moves, Cutter("ball", BALL.diameter))
    assert done.deepest[moves.rapid].max(initial=0.0) < 1e-3
    return made, done.after


@settings(max_examples=tries(4))
@given(
    cleared=st.sampled_from([0.0, 1.0, 3.0]), scoop=st.floats(0.2, 1.5), clear_of=st.floats(0.0, 2.0), seed=st.integers(0, 9999),
    follows=st.sampled_from(["rows", "round"]), heading=st.floats(-90, 90), varied=st.floats(0, 1),
)  # fmt: skip
def test_strokes_keep_clear_of_what_stays_and_go_no_deeper_than_asked(
    cleared, scoop, clear_of, seed, follows, heading, varied
):
    """Measured on the wood: what a stroke takes below the cleared floor lies so far from what stays and from the rim; nothing is deeper than both."""
    figures = Gouge(cleared=cleared, scoop=scoop, clear_of=clear_of, seed=seed, follows=follows, heading=heading, varied=varied, rim=5.0, apart=3.0, stroke=12.0)  # fmt: skip
    made, wood = carved(figures)
    low = FACE - cleared - scoop
    assert made.strokes and wood.z.min() >= low - 0.005
    top = made.laid.top
    j, i = np.nonzero(wood.z < FACE - cleared - 0.02)
    assert len(j)
    edge = shapely.distance(shapely.points(i * CELL, j * CELL), top.boundary)
    assert shapely.contains_xy(top, i * CELL, j * CELL).all()
    assert edge.min() > clear_of - 0.05
    inside = area_of(STAYS, 0.01)
    jj, ii = np.mgrid[0:441, 0:601]
    kept = shapely.contains_xy(inside.buffer(-0.05), ii * CELL, jj * CELL)
    assert (wood.z[kept] == np.float32(FACE)).all()  # what stays was not touched


@given(st.floats(0.5, 6.0), st.floats(0.01, 10.0))
def test_half_of_a_stroke_is_as_wide_as_the_round_of_its_ball(radius, depth):
    """From the chord of a circle: h = R − √(R² − w²) up to its widest."""
    w = CutterProfile(0.0, radius, math.inf, radius).out_at(depth)
    assert w == radius if depth >= radius else depth == pytest.approx(radius - np.sqrt(radius**2 - w**2), abs=1e-6)


def test_the_same_throw_gives_the_same_strokes_and_another_gives_others_and_none_varies_where_nothing_may():
    """Rows are then as far apart as is asked, and all strokes as deep."""

    def strokes(**values: Any) -> Any:
        return gouged(Gouging(Gouge(rim=5.0, **values), (STAYS,)), (MILL, BALL), BOARD).strokes

    first, again, other = strokes(seed=3), strokes(seed=3), strokes(seed=4)
    assert len(first) == len(again) and all(np.array_equal(a, b) for a, b in zip(first, again))
    assert len(first) != len(other) or not all(np.array_equal(a, b) for a, b in zip(first, other))
    even = strokes(varied=0.0, apart=4.0, scoop=0.7)
    rows = sorted({round(float(s[0, 1]), 6) for s in even})
    assert np.diff(rows) == pytest.approx(4.0)
    assert [float(s[:, 2].min()) for s in even if len(s) > 12] == pytest.approx(
        [-0.7] * sum(len(s) > 12 for s in even), abs=0.011
    )


def test_where_no_end_mill_gets_in_to_clear_nothing_is_gouged():
    """A ball would go down through wood that stands as high as the face."""
    wide = changed(MILL, diameter=70.0)
    made = gouged(Gouging(Gouge(rim=5.0), (STAYS,)), (wide, BALL), BOARD)
    assert made.sink is not None and not made.sink.mills and made.strokes == ()
