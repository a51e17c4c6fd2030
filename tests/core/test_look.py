# SPDX-License-Identifier: GPL-3.0-or-later
"""The sign as it will look, and pictures that are traced."""

import math

import cv2
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from gatepost.artwork import traced
from gatepost.core.errors import OperatorError
from gatepost.core.plan.pipeline import plan
from gatepost.drawing.coats import COLOURS
from gatepost.drawing.look import AWAY, GROUND, LETTERS, RAISED, SignLook, Subject, picture, subject
from tests.core.catalogue_jobs import JOBS
from tests.core.told import CELL


def groove(along="y", deep=4.0):
    """A V groove in the middle of a flat face, 200 by 120 cells of 0.5 mm."""
    y, x = np.mgrid[0:120, 0:200] * 0.5
    across = np.abs((x - 50.0) if along == "y" else (y - 30.0))
    z = (20.0 - np.maximum(deep - across, 0.0)).astype(np.float32)
    return Subject(z, np.where(across < deep, LETTERS, 0).astype(np.uint8), 0.5, "oak")


def mean(image, rows, columns):
    return float(image[rows, columns, :3].mean())


@given(st.floats(0, 360), st.floats(15, 60))
def test_the_flank_that_faces_the_light_is_the_brighter_one(light, high):
    image = picture(groove(), SignLook(light=light, high=high), 200, shadows=False)
    left, right = mean(image, slice(30, 90), slice(94, 98)), mean(image, slice(30, 90), slice(103, 107))
    towards = math.cos(math.radians(light)) * math.cos(math.radians(high))
    if abs(towards) > 0.15:  # the left flank falls to the right, and so faces a light on the right
        assert (left > right) == (towards > 0)


def test_a_low_light_throws_a_shadow_and_only_with_shadows():
    z = np.full((60, 200), 10.0, np.float32)
    z[:, 100:] = 16.0
    step = Subject(z, np.zeros(z.shape, np.uint8), 0.5, "oak")
    low = SignLook(light=0.0, high=20.0)  # from the right, over the step
    lit, dark = (picture(step, low, 200, shadows=s) for s in (False, True))
    beside, far = slice(88, 97), slice(20, 40)
    assert mean(dark, slice(10, 50), beside) < 0.75 * mean(lit, slice(10, 50), beside)
    assert mean(dark, slice(10, 50), far) == pytest.approx(mean(lit, slice(10, 50), far), rel=0.02)


def test_colours_are_where_they_are_wanted_and_nothing_is_drawn_where_nothing_is():
    of = groove()
    of = Subject(of.z, np.where(np.arange(200)[None, :] < 20, AWAY, of.part).astype(np.uint8), of.cell, of.wood)
    bare, red = picture(of, SignLook(), 200), picture(of, SignLook(letters="deep red"), 200)
    assert (bare[:, :17, 3] == 0).all() and (bare[5:-5, 24:-5, 3] == 255).all()
    changed = np.abs(bare[..., :3].astype(int) - red[..., :3]).max(axis=2) > 12
    assert changed[20:100, 96:105].mean() > 0.9 and changed[:, 30:85].mean() < 0.01
    hue = red[60, 99, :3].astype(float) / red[60, 99, :3].max()
    assert hue == pytest.approx(np.array(COLOURS["deep red"]) / max(COLOURS["deep red"]), abs=0.25)


@given(st.floats(5, 65))
def test_leaning_away_it_is_as_tall_as_its_length_and_its_thickness_are_then(tilt):
    of = Subject(np.full((120, 200), 20.0, np.float32), np.zeros((120, 200), np.uint8), 0.5, "oak")
    image = picture(of, SignLook(tilt=tilt), 200)
    t = math.radians(tilt)
    filled = (image[:, 100, 3] > 200).sum()
    assert filled == pytest.approx(120 * math.cos(t) + 40 * math.sin(t), abs=4)


def test_of_a_plan_each_place_is_what_was_made_of_it_and_waste_is_left_out():
    raised, cut = (plan(JOBS[n](), cell=CELL) for n in ("raised", "plate"))
    of = subject(raised, raised.carving)
    assert of.z.shape[1] * of.cell == pytest.approx(96, abs=1) and of.z.shape[0] * of.cell == pytest.approx(56, abs=1)
    top = float(of.z.max())
    assert {int(v) for v in np.unique(of.part)} == {0, GROUND, RAISED, AWAY}
    assert np.median(of.z[of.part == RAISED]) == pytest.approx(top, abs=0.02)
    assert np.median(of.z[of.part == GROUND]) == pytest.approx(top - 2.0, abs=0.02)
    letters = subject(cut, cut.carving)
    assert LETTERS in letters.part and letters.z[letters.part == LETTERS].mean() < top - 0.3


def ring(light=False):
    image = np.full((300, 300), 30 if light else 245, np.uint8)
    ink, bare = (245, 30) if light else (30, 245)
    cv2.circle(image, (150, 150), 90, ink, -1, cv2.LINE_AA)
    cv2.circle(image, (150, 150), 40, bare, -1, cv2.LINE_AA)
    return cv2.imencode(".png", image)[1].tobytes()


@pytest.mark.parametrize("light", [False, True])
def test_a_ring_in_a_picture_comes_out_as_large_and_as_thick_as_it_was_drawn(light):
    found = traced(ring(light), "ring.png", 181.0, 0.5, light)
    scale = 181.0 / 181.0
    assert found.values["wide"] == pytest.approx(181.0) and found.values["high"] == pytest.approx(181.0, abs=1.0)
    assert found.art.area.area == pytest.approx(math.pi * (90.5**2 - 40.0**2) * scale, rel=0.01)
    assert found.art.closed == 2 and found.values["source"].endswith(".png") and "pixel" in found.said[-1]


def test_what_can_not_be_traced_is_told():
    with pytest.raises(OperatorError, match="Move the threshold"):
        traced(ring(), "ring.png", 100.0, 0.02)
    with pytest.raises(OperatorError, match="not a PNG or JPEG"):
        traced(b"nothing", "x.png", 100.0)
    with pytest.raises(OperatorError, match="larger than any board"):
        traced(ring(), "ring.png", 9500.0)


@pytest.mark.parametrize("grain", [0.0, 90.0, 180.0, 30.0])
def test_the_grain_runs_as_the_boards_does(grain):
    """Brightness changes least along it."""
    flat = Subject(np.full((300, 300), 20.0, np.float32), np.zeros((300, 300), np.uint8), 0.4, "oak", grain)
    grey = picture(flat, SignLook(), 300, shadows=False)[..., :3].astype(float).mean(axis=2)[::-1]
    gy, gx = np.gradient(np.asarray(cv2.GaussianBlur(grey, (0, 0), 3.0))[20:-20, 20:-20])
    a = math.radians(grain)
    along, across = (
        np.abs(gx * c + gy * s).mean() for c, s in ((math.cos(a), math.sin(a)), (-math.sin(a), math.cos(a)))
    )
    assert along < 0.6 * across
