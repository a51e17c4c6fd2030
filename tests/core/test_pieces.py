# SPDX-License-Identifier: GPL-3.0-or-later
"""Pieces that come free, what holds them, and what is told of the cuts."""

import math

import numpy as np
import pytest
from shapely.geometry import box

from gatepost.core.frames import shift
from gatepost.core.motion import Moves
from gatepost.core.wood.field import Cutter, HeightField, cut, pieces, rectangle
from gatepost.core.wood.loose import Cutting, GripArea, hanging, loose, separate, standing, table
from gatepost.core.wood.report import gouges, left_standing, rapid_hits
from gatepost.core.wood.slivers import slivers

CATALOGUE = {
    "whole": (lambda z: z, 1),
    "cut in two": (lambda z: z[:, 20:22].fill(-1), 2),
    "island": (lambda z: (z[5:15, 10].fill(-1), z[5:15, 30].fill(-1), z[5, 10:31].fill(-1), z[14, 10:31].fill(-1)), 2),
    "skin left": (lambda z: z[:, 20:22].fill(0.4), 1),
    "tab": (lambda z: z[:18, 20:22].fill(-1), 1),
    "dust": (lambda z: (z[0:3, 0:3].fill(-1), z[0, 0].fill(5)), 1),
}


@pytest.mark.parametrize("name", CATALOGUE)
def test_separate_pieces_are_found(name):
    change, count = CATALOGUE[name]
    z = np.full((20, 40), 10.0, np.float32)
    change(z)
    found, numbers = pieces(HeightField(z, 0, 0, 2.0), 0.05, 25.0)
    assert len(found) == count
    for number, piece in enumerate(found, start=1):
        j, i = round(piece.y / 2), round(piece.x / 2)
        assert numbers[j, i] == number
        assert piece.area == pytest.approx((numbers == number).sum() * 4)
    wood = HeightField(z, 0, 0, 2.0)
    bears = [GripArea("C1", box(0, 0, 4, 4)), GripArea("C2", box(0, 34, 4, 38))]
    cutting = Cutting("front", "cut-out", 0.0, 0.0, tabs=True)
    said = loose(wood, separate(wood), bears, cutting, shift(0.0, 0.0), 1.5, 0.3)
    assert [f.code for f in said] == ["wood.loose"] * (count - 1)
    told = standing(wood, separate(wood), bears, cutting)
    assert len(told) == count and "C2" in told[0].held_by and all(not t.held_by for t in told[1:])
    assert all(t.area == pytest.approx(p.area) for t, p in zip(told, found))


def board(change, thick=20.0, cell=0.5):
    """A board of 120 × 80 with something cut out of it, on cells of half a millimetre."""
    x, y = np.meshgrid(np.arange(0, 120, cell), np.arange(0, 80, cell))
    z = np.full(x.shape, thick, np.float32)
    change(z, x, y)
    return HeightField(z, 0.0, 0.0, cell)


def ring(z, x, y, low=-0.3, outer=30.0, inner=24.0):
    away = np.hypot(x - 60, y - 40)
    z[(away < outer) & (away > inner)] = low


def nested(z, x, y):
    ring(z, x, y)
    ring(z, x, y, outer=14.0, inner=10.0)


def tabbed(z, x, y, wide=8.0, tall=4.0):
    ring(z, x, y)
    z[(z < 0) & (np.abs(y - 40) < wide / 2)] = tall


def islands(z, x, y):
    z[(y > 10) & (y < 70) & (x > 10) & (x < 110)] = -0.3
    for at in (25, 60, 95):
        z[(np.abs(x - at) < 8) & (np.abs(y - 40) < 15)] = 20.0


TAPE = GripArea("T1", box(0, 0, 120, 80), 0.04)
CLAMP = GripArea("C1", box(0, 0, 9, 9))
LOOSE = {
    # what is cut, what holds it, push and whether it lifts -> codes, areas of the pieces
    "ring": (ring, [CLAMP], 20.0, False, ["wood.loose"], [9600 - np.pi * 900, np.pi * 576]),
    "nested outlines": (nested, [CLAMP], 20.0, False, ["wood.loose"] * 2, [9600 - np.pi * 900, np.pi * (576 - 196), np.pi * 100]),
    "letter islands": (islands, [CLAMP], 20.0, False, ["wood.loose"] * 3, [9600 - 5895, 457, 457, 457]),
    "an island under its own clamp": (ring, [CLAMP, GripArea("C2", box(55, 35, 65, 45))], 20.0, False, [], None),
    "onion skin": (lambda z, x, y: ring(z, x, y, low=0.4), [CLAMP], 20.0, False, [], [9600]),
    "skin too thin": (lambda z, x, y: ring(z, x, y, low=0.15), [CLAMP], 20.0, False, ["wood.hangs"], [9600]),
    "tabs": (tabbed, [CLAMP], 20.0, False, [], [9600 - np.pi * 324 + 2 * 8 * 6]),
    "tabs too thin": (lambda z, x, y: tabbed(z, x, y, 2.0, 1.0), [CLAMP], 20.0, False, ["wood.hangs"], None),
    "small on tape alone": (ring, [TAPE], 5.0, False, ["wood.tape-weak"] , None),
    "large on tape": (lambda z, x, y: z[:, (x[0] > 90) & (x[0] < 96)].fill(0), [TAPE], 20.0, False, None, None),
}  # fmt: skip


@pytest.mark.parametrize("name", LOOSE)
def test_nothing_comes_loose_unsaid(name):
    change, bears, push, lifts, codes, areas = LOOSE[name]
    after = board(change)
    cutting = Cutting("front", "cut-out", push, 1.3 * push, lifts, True)
    apart = separate(after)
    said = loose(after, apart, bears, cutting, shift(100.0, 200.0), 1.5, 0.3)
    if codes is not None:
        assert [f.code for f in said] == codes
    pieces_ = standing(after, apart, bears, cutting)
    if areas is not None:
        assert [p.area for p in pieces_] == pytest.approx(areas, rel=0.02)
    for piece in pieces_:
        assert after.at(*piece.at) > 0 and piece.operation == "cut-out"
    for finding in said:
        assert finding.place is not None and 100 <= finding.place.x <= 220 and "cut-out" in finding.message


def test_a_piece_on_tape_is_held_by_its_own_tape_alone():
    def halves(z, x, y):
        z[(x > 78) & (x < 82)] = -0.3

    after = board(halves)
    wide = 78.5 * 80 * 0.04  # N, what the tape under the wider piece bears
    for push, lifts, held in (
        (wide / 2 * 0.98, False, True),
        (wide / 2 * 1.02, False, False),
        (wide / 3 * 1.02, True, False),
    ):
        said = loose(
            after, separate(after), [TAPE], Cutting("front", "cut-out", push, push, lifts), shift(0.0, 0.0), 1.5, 0.3
        )
        about = [f for f in said if f.about.endswith(" 1")]
        assert (not about) == held
        assert len(said) >= 1  # the narrow piece is under fifty square centimetres


def test_a_strip_that_would_be_thrown_is_named_with_place_and_size():
    before = board(lambda z, x, y: None)
    cutting = Cutting("front", "cut-out", 20.0, 26.0)

    def slot(wide):
        def change(z, x, y):
            z[(y > 80 - wide - 6) & (y < 80 - wide)] = -0.3

        return board(change)

    assert slivers(before, slot(12.0), cutting, shift(0.0, 0.0)) == []  # a quarter of 20 is 5
    (thrown,) = slivers(before, slot(3.5), cutting, shift(10.0, 20.0))
    assert (
        thrown.code == "wood.sliver"
        and thrown.place.x == pytest.approx(70, abs=3)
        and thrown.place.y == pytest.approx(98, abs=1.5)
    )
    assert "⟦120" in thrown.message or "⟦119" in thrown.message
    assert slivers(slot(3.5), slot(3.5), cutting, shift(0.0, 0.0)) == []  # it was so before


@pytest.mark.parametrize("seed", [4, 6, 9])
def test_strips_are_the_same_however_many_rows_are_looked_at_at_once(seed, monkeypatch):
    rng = np.random.default_rng(seed)
    cutting = Cutting("front", "cut-out", 20.0, 26.0)
    before = board(lambda z, x, y: None)

    def change(z, x, y):
        for _ in range(9):
            u, v, wide, turn = rng.uniform(0, 150), rng.uniform(0, 90), rng.uniform(2, 9), rng.uniform(0, math.pi)
            z[np.abs((x - u) * math.sin(turn) - (y - v) * math.cos(turn)) < wide] = -0.3

    after = board(change)
    whole = slivers(before, after, cutting, shift(0.0, 0.0))
    assert whole
    for rows in (7, 64):
        monkeypatch.setattr("gatepost.core.wood.field.BAND", rows)
        assert slivers(before, after, cutting, shift(0.0, 0.0)) == whole


def test_more_pieces_than_a_short_number_counts_are_all_found():
    z = np.full((560, 560), -1.0, np.float32)
    z[::2, ::2] = 5.0
    found, numbers = pieces(HeightField(z, 0.5, 0.5, 1.0), 0.0, 0.5)
    assert len(found) == 280 * 280 and numbers.max() == 280 * 280


def level(places, rapid):
    points = np.array(places, dtype=float)
    return Moves(points, np.full(len(points) - 1, rapid), np.full(len(points) - 1, 0.0 if rapid else 100.0))


def test_a_rapid_through_wood_is_a_stop_with_its_place_and_a_cut_is_not():
    field = rectangle(40, 20, 0.5, lambda x, y: np.full_like(x, 10.0))
    for rapid in (True, False):
        moves = level([[-20, 10, 8.5], [20, 10, 8.5]], rapid)
        said = rapid_hits(moves, cut(field, moves, Cutter("flat", 6)), "front", "lettering")
        assert [(f.code, f.level.value) for f in said] == ([("wood.rapid", "stop")] if rapid else [])
        assert not rapid or "⟦1.5⟧" in said[0].message
    over = level([[-20, 10, 10.0], [60, 10, 10.0]], True)
    assert not rapid_hits(over, cut(field, over, Cutter("flat", 6)), "front", "lettering")


def test_what_is_cut_outside_or_too_deep_is_a_gouge_and_what_is_asked_is_not():
    field = rectangle(40, 20, 0.5, lambda x, y: np.full_like(x, 10.0))
    after = cut(field, level([[10, 10, 7.0], [20, 10, 7.0]], False), Cutter("flat", 6)).after
    asked = box(6, 6, 24, 14)
    assert gouges(field, after, asked, 7.0, "front", "pocket") == []
    (outside,) = gouges(field, after, box(6, 6, 20, 14), 7.0, "front", "pocket")
    (deep,) = gouges(field, after, asked, 8.0, "front", "pocket")
    for finding in (outside, deep):
        assert finding.code == "wood.gouged" and "⟦3⟧" in finding.message


def test_what_a_surfacing_leaves_is_told_with_area_height_and_place():
    field = rectangle(40, 20, 0.5, lambda x, y: np.full_like(x, 10.0))
    after = cut(field, level([[-10, 10, 9.0], [50, 10, 9.0]], False), Cutter("surfacing", 18)).after
    (left,) = left_standing(after, 9.0, "surface", "surface")
    assert left.code == "wood.left" and "⟦1" in left.message and "80.0 mm²" in left.message
    whole = cut(field, level([[-10, 10, 9.0], [50, 10, 9.0]], False), Cutter("surfacing", 24)).after
    assert left_standing(whole, 9.0, "surface", "surface")[0].code == "wood.clean"
    for area, code in (
        (box(0, 0, 40, 0.8), "wood.left"),
        (box(0, 5, 40, 15), "wood.clean"),
    ):  # of an area, what stands in it counts
        (said,) = left_standing(after, 9.0, "front", "carve", area)
        assert (said.code, said.stage) == (code, "carve")


@pytest.mark.parametrize("turned", [0.0, 17.0, 45.0])
def test_what_tabs_bear_is_told_where_they_are_narrowest(turned):
    """Four tabs of 10 × 5 between the round ends of a slot 6 wide: 200 mm², however they lie on the cells. At their foot they are wider."""

    def tabs(z, x, y):
        x, y = x - 60, y - 40
        across, round_ = np.hypot(x, y), np.arctan2(y, x) - np.radians(turned)
        slot = np.abs(across - 30) < 3
        z[slot] = 5.0
        half = 8.0 / 30.0  # half a tab, and the cutter's radius
        for quarter in range(4):
            middle = (quarter + 0.5) * np.pi / 2
            off = np.abs(np.angle(np.exp(1j * (round_ - middle))))
            z[slot & (off < np.pi / 4 - half)] = -0.3
            for end in (-1, 1):
                at = middle + end * (np.pi / 4 - half) + np.radians(turned)
                z[np.hypot(x - 30 * np.cos(at), y - 30 * np.sin(at)) < 3] = -0.3

    after = board(tabs, cell=0.25)
    cutting = Cutting("front", "cut-out", 20.0, 26.0, tabs=True, hung=True)
    (plate,) = hanging(after, separate(after), [CLAMP], cutting, 1.5)
    assert 0.88 * 300 < plate.bears < 1.03 * 300 and plate.wanted == 52.0 and plate.hangs
    (title, rows) = table((*standing(after, separate(after), [CLAMP], cutting), plate))[0]
    assert [r[1] for r in rows] == ["had by", "C1", "tabs or skin"] and "of 52 N" in rows[2][2]
    assert not table(standing(board(lambda *_: None), separate(board(lambda *_: None)), [CLAMP], cutting))
