# SPDX-License-Identifier: GPL-3.0-or-later
"""A photo of a finished piece laid over its plan: rendered photos of a known shift, seen by cameras of their own."""

import cv2
import numpy as np
import pytest
import shapely
from shapely import affinity

from gatepost.core.errors import OperatorError
from gatepost.core.log.over_plan import laid_over
from gatepost.core.units import mm, spell
from tests.core.photos import FINE, Camera, fill

WIDE, TALL = 420.0, 140.0


def letters():
    """Shapes like letters, on a piece."""
    bar = shapely.box(0, 0, 12, 60)
    h = shapely.union_all([bar, affinity.translate(bar, 28), shapely.box(0, 24, 40, 36)])
    o = shapely.Point(22, 30).buffer(28).difference(shapely.Point(22, 30).buffer(16))
    l_ = shapely.union_all([bar, shapely.box(0, 0, 36, 12)])
    v = shapely.Polygon([(0, 60), (12, 60), (22, 16), (32, 60), (44, 60), (28, 0), (16, 0)])
    placed = [("H", h, 40), ("O", o, 110), ("L", l_, 190), ("V", v, 250), ("O again", o, 320)]
    return [(name, affinity.translate(shape, x, 40)) for name, shape, x in placed]


SHAPES = letters()


def photo(camera, shift, turn, seed=1, noise=4.0, light=0.0):
    """A light board with dark letters that lie elsewhere by a shift and a turn about their middle, and its corners, px."""
    rng = np.random.default_rng(seed)
    wide, tall = camera.size

    def seen(coords):
        return camera.see(np.column_stack([np.asarray(coords)[:, :2], np.zeros(len(coords))]))

    corners = seen([(0, 0), (WIDE, 0), (WIDE, TALL), (0, TALL)])
    board, cut = (np.zeros((FINE * tall, FINE * wide), np.uint8) for _ in range(2))
    fill(board, corners)
    about = tuple(np.mean([(s.centroid.x, s.centroid.y) for _, s in SHAPES], axis=0))
    rings = []
    for _, shape in SHAPES:
        there = affinity.translate(affinity.rotate(shape, turn, origin=about), *shift)
        rings += [
            np.round(((seen(r.coords) + 0.5) * FINE - 0.5) * 2**8).astype(np.int32)
            for r in (there.exterior, *there.interiors)
        ]
    cv2.fillPoly(cut, rings, 255, cv2.LINE_8, 8)
    board, cut = (
        cv2.resize(m, (wide, tall), interpolation=cv2.INTER_AREA)[..., None] / np.float32(255) for m in (board, cut)
    )
    image = np.full((tall, wide, 3), (150, 150, 150), np.float32)
    image = image * (1 - board) + np.array((120, 170, 205), np.float32) * board
    image = image * (1 - cut) + np.array((60, 60, 70), np.float32) * cut
    image *= 1.0 + light * np.linspace(-1, 1, wide, dtype=np.float32)[None, :, None]
    image += rng.normal(0, noise, (tall, wide, 1)).astype(np.float32) + rng.normal(0, noise, (tall, 1, 1)).astype(
        np.float32
    )
    return np.clip(image, 0, 255).astype(np.uint8), corners  # fmt: skip


def camera(rng):
    """Somewhere over the piece, not quite level."""
    at = (WIDE / 2 + rng.uniform(-120, 120), TALL / 2 + rng.uniform(-120, 120), rng.uniform(500, 800))
    return Camera(at, (WIDE / 2 + rng.uniform(-20, 20), TALL / 2 + rng.uniform(-20, 20)), rng.uniform(-20, 20), focal=750.0, size=(700, 525))  # fmt: skip


def trial(seed, picking=1.5):
    """What was found less what is so, and its ±."""
    rng = np.random.default_rng(seed)
    shift, turn = rng.uniform(-4, 4, 2), rng.uniform(-1.0, 1.0)
    image, corners = photo(camera(rng), shift, turn, seed, light=rng.uniform(-0.2, 0.2))
    told = laid_over(image, corners + rng.normal(0.0, picking, corners.shape), (WIDE, TALL), SHAPES, picking)
    return np.hypot(told.right - shift[0], told.behind - shift[1]), abs(told.turn - turn), told


def test_a_hundred_photos_of_a_known_shift_are_found_within_their_doubt_in_95_and_it_is_no_more_than_twice_what_they_show():  # fmt: skip
    found = [trial(seed) for seed in range(100)]
    off = np.array([o for o, _, _ in found])
    doubt = np.array([t.doubt for _, _, t in found])
    assert (off <= doubt).sum() >= 95
    assert np.median(doubt) <= 2.0 * np.quantile(off, 0.95)
    turned = np.array([t for _, t, _ in found])
    assert (turned <= np.array([t.turn_doubt for _, _, t in found])).sum() >= 95


def test_a_letter_that_lies_otherwise_than_the_rest_is_told_by_its_name():
    rng = np.random.default_rng(5)
    image, corners = photo(camera(rng), (0.0, 0.0), 0.0)
    moved = [(n, affinity.translate(s, -1.2, 0.0) if n == "V" else s) for n, s in SHAPES]
    told = laid_over(image, corners, (WIDE, TALL), moved)
    each = {f.name: f for f in told.each}
    assert each["V"].right - np.median([f.right for f in told.each if f.name != "V"]) == pytest.approx(1.2, abs=0.25)
    assert max(each, key=lambda n: each[n].off) == "V"


def test_what_lies_as_it_was_meant_to_is_told_so_and_the_outlines_lie_on_the_letters():
    rng = np.random.default_rng(8)
    image, corners = photo(camera(rng), (0.0, 0.0), 0.0)
    told = laid_over(image, corners, (WIDE, TALL), SHAPES)
    assert told.off <= told.doubt and "where it was meant to" in told.told() and told.like > 0.8
    assert 1.5 * 480 / 750 < told.picked < 1.5 * 860 / 750 and spell(mm(told.picked, 2)) in spell(
        told.how()
    )  # px of a camera 500 to 800 mm away
    for ring in told.seen:
        inside = cv2.fillPoly(np.zeros(image.shape[:2], np.uint8), [np.rint(ring).astype(np.int32)], 255) > 0
        assert inside.sum() > 100


@pytest.mark.parametrize("wrong", ["blank face", "another side", "three corners", "nothing carved"])
def test_what_a_photo_can_t_tell_is_a_sentence(wrong):
    rng = np.random.default_rng(9)
    image, corners = photo(camera(rng), (0.0, 0.0), 0.0)
    shapes = SHAPES
    if wrong == "blank face":
        shapes = [(n, affinity.translate(affinity.scale(s, 0.2, 0.2), 0, 40)) for n, s in SHAPES[:1]]
        image[:] = 128
    elif wrong == "another side":
        corners = np.roll(corners, 1, axis=0)
    elif wrong == "three corners":
        corners = corners[:3]
    else:
        shapes = []
    with pytest.raises(OperatorError):
        laid_over(image, corners, (WIDE, TALL), shapes)
