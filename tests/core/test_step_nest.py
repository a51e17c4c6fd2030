# SPDX-License-Identifier: GPL-3.0-or-later
"""Stepped nests: what goes in, against polygons pushed about in each other; outlines and figures that no nest can be made of."""

import json

import pytest
import shapely
from shapely import affinity

import nests
from gatepost import cli
from gatepost.core.errors import OperatorError
from gatepost.core.register.step_nest import sentence_of, stepped
from tests.conftest import some

BOARD = shapely.box(-60, -30, 60, 30)
OVAL = affinity.scale(shapely.Point(0, 0).buffer(1, quad_segs=48), 100, 50)


@pytest.mark.parametrize("seed", some([1, 2, 5, 7], 1))
def test_all_four_ways_of_a_random_plate_go_in_or_not_as_a_trial_shows(seed):
    nests.of_a_nest(seed)


@pytest.mark.parametrize(("area", "flip"), some([(BOARD, "X"), (BOARD, "Y"), (OVAL, "X"), (OVAL, "Y")][::-1], 1))
def test_with_a_key_the_turned_piece_alone_goes_in_and_without_it_others_do_too(area, flip):
    keyed, bare = (stepped(area, flip, 6.0, 6.2, 0.1, key) for key in (True, False))
    assert not keyed.others and keyed.asked.goes_in and "No other way" in sentence_of(keyed)
    assert [w.way for w in bare.others] == [f"turned {'Y' if flip == 'X' else 'X'}", "half-turn"]
    assert "give it a key" in sentence_of(bare)
    for made in (keyed, bare):
        assert 0.19 < min(made.asked.play) <= max(made.asked.play) < 0.3 and 0.0 < made.turning < 0.8
        assert min(made.way("as cut").play) == pytest.approx(12.4, abs=0.02)  # all of the slot, each way: it rattles


def test_the_frame_is_a_slot_away_from_the_piece_all_round_and_no_corner_is_sharper_than_the_cutter():
    made = stepped(BOARD, "X", 6.0, 6.2, 0.1, True)
    slot = made.hole.difference(made.piece)
    ring = shapely.segmentize(made.hole.exterior, 0.5)
    assert {round(shapely.Point(p).distance(made.piece), 2) for p in ring.coords} <= {6.19, 6.2, 6.21}
    reached = slot.buffer(-3.0 + 0.01, quad_segs=64).buffer(3.0, quad_segs=64)
    assert slot.difference(reached.buffer(0.02)).area < 0.05  # a cutter of 6 gets into all of it
    assert made.piece.covers(BOARD.buffer(-0.004))  # the plate itself is whole


def test_the_rim_is_low_where_its_other_side_is_high():
    made = stepped(BOARD, "X", 6.0, 6.2, 0.1)
    tops = []
    for x in range(-55, 56):
        _, low, _, high = shapely.LineString([(x, -60), (x, 60)]).intersection(made.piece).bounds
        tops.append((round(high - 30.0, 1), round(-low - 30.0, 1)))
    plain = [t for a, t, b in zip(tops[:-8], tops[4:-4], tops[8:]) if a == t == b]  # not at a riser
    assert set(plain) == {(0.0, 6.1), (6.1, 0.0)} and len(plain) > 60


@pytest.mark.parametrize(
    ("area", "figures", "words"),
    [
        (shapely.Polygon(), (6.0, 6.2, 0.1), "no closed outline"),
        (shapely.box(0, 0, 24, 18), (6.0, 6.2, 0.1), "too short to touch"),
        (shapely.box(0, 0, 200, 200).difference(shapely.box(20, 20, 200, 200)), (6.0, 6.2, 0.1), "too hollow"),
        (BOARD, (0.0, 6.2, 0.1), "cutter's diameter"),
        (BOARD, (6.0, 3.0, 0.1), "measure it in a test slot"),
        (BOARD, (6.0, 62.0, 0.1), "measure it in a test slot"),
        (BOARD, (6.0, 6.2, 0.0), "clearance"),
        (BOARD, (6.0, 6.2, 1.6), "clearance"),
    ],
)
def test_what_no_nest_can_be_made_of_is_said(area, figures, words):
    with pytest.raises(OperatorError, match=words):
        stepped(area, "X", *figures, key=True)


SVG = '<svg xmlns="http://www.w3.org/2000/svg" width="120mm" height="60mm" viewBox="0 0 120 60"><rect x="0" y="0" width="120" height="60"/></svg>'


@pytest.mark.parametrize(("words", "code"), some([(["--key"], 0), (["--slot", "60"], 2), ([], 1)], 2))
def test_files_of_a_nest_are_written_and_its_proof(tmp_path, capsys, words, code):
    (tmp_path / "plate.svg").write_text(SVG)
    asked = [
        "stepnest",
        str(tmp_path / "plate.svg"),
        "--flip",
        "X",
        "--tool",
        "6",
        "--slot",
        "6.2",
        "--clearance",
        "0.15",
    ]
    assert cli.main([*asked, "--out", str(tmp_path / "nest"), *words]) == code
    said = capsys.readouterr().err
    if code == 2:
        assert "test slot" in said and not (tmp_path / "nest").exists()
        return
    told = json.loads((tmp_path / "nest" / "proof.json").read_text())
    assert told["play_x"] == pytest.approx(0.3, abs=0.02) == told["play_y"] and 0 < told["turning"] < 1
    assert [w["way"] for w in told["ways"]] == ["as cut", "turned X", "turned Y", "half-turn"]
    assert [w["goes_in"] for w in told["ways"]] == ([True, True, False, False] if code == 0 else [True] * 4)
    hole = (tmp_path / "nest" / "hole.svg").read_text()
    assert "data-y-up" in hole and ("turned Y" in said) == (code == 1)
    again = tmp_path / "again"
    assert cli.main(["stepnest", str(tmp_path / "nest" / "piece.svg"), *asked[2:], "--out", str(again)]) in (0, 1)
    size = shapely.box(*stepped(BOARD, "X", 6.0, 6.2, 0.15).piece.bounds)
    x0, y0, x1, y1 = size.bounds
    assert x1 - x0 == pytest.approx(132.1, abs=0.01) and y1 - y0 == pytest.approx(72.1, abs=0.01)
