# SPDX-License-Identifier: GPL-3.0-or-later
"""The picture of a turn: both lies side by side, the same edge of the wood by the same letter, and what was carved seen through it."""

import numpy as np
import pytest

from gatepost.core.cache import Memory
from gatepost.core.plan.pipeline import plan
from gatepost.drawing.turning import said, turning
from tests.core.catalogue_jobs import JOBS, edited
from tests.core.told import CELL

MEMORY = Memory()
LONG, WIDE, THICK = 120.0, 80.0, 16.0


def turned(up, spin=0):
    made = plan(
        edited(JOBS["strapped"](), ("add setup", {"id": "over", "up": up}), ("set setup", {"setup": "over", "spin": spin})),
        memory=MEMORY, cell=CELL,
    )  # fmt: skip
    return made, turning(made, "over")


def letters(drawing):
    """The letters of each board, with where they stand from its middle: the earlier, the later."""
    boards = [s for s in drawing.shapes if s.role == "wood"]
    out = []
    for board in boards:
        (x0, y0), (x1, y1) = board.points.min(axis=0), board.points.max(axis=0)
        middle = np.array([x0 + x1, y0 + y1]) / 2
        out.append([
            (s.text, *np.sign(s.points[0] - middle).astype(int)) for s in drawing.shapes
            if s.kind == "label" and x0 < s.points[0, 0] < x1
        ])  # fmt: skip
    return out


def told(*corners):
    """By hand: the letters at the front left, front right, back right and back left."""
    return sorted(zip(corners, (-1, 1, 1, -1), (-1, -1, 1, 1)))


@pytest.mark.parametrize(
    ("up", "spin", "corners", "words"),
    [
        ("front", 0, "ABCD", "as it lies"),
        ("front", 90, "DABC", "turned by 90° against the clock"),
        ("front", 180, "CDAB", "turned by half a turn"),
        ("front", 270, "BCDA", "turned by 90° with the clock"),
        ("back", 0, "DCBA", "turned over about X"),
        ("back", 180, "BADC", "turned over about Y"),
        ("back", 90, "ADCB", "turned over, and a quarter round"),
        ("left", 0, "AADD", "stood up, the left end up"),
        ("top", 0, "DCCD", "stood up, the top edge up"),
    ],
)
def test_each_edge_of_the_wood_keeps_its_letter(up, spin, corners, words):
    made, drawing = turned(up, spin)
    before, now = letters(drawing)
    assert sorted(before) == told(*"ABCD") and sorted(now) == told(*corners)
    assert said(made.setup("front"), made.setup("over")) == words and drawing.subtitle.endswith(words)


@pytest.mark.parametrize(("spin", "flip"), [(0, (1, -1)), (180, (-1, 1))])
def test_what_was_carved_is_seen_through_the_wood_where_it_comes_to_lie(spin, flip):
    _, drawing = turned("back", spin)
    one, other = np.array([s.points.min(axis=0) + s.points.max(axis=0) for s in drawing.shapes if s.role == "wood"]) / 2
    front = [s.points - one for s in drawing.shapes if s.role == "art"]
    through = [s.points - other for s in drawing.shapes if s.role == "behind"]
    assert front and len(front) == len(through)
    for a, b in zip(front, through):
        assert a * np.array(flip) == pytest.approx(b, abs=1e-6)
    arc = max((s.points for s in drawing.shapes if s.role == "bears-way"), key=len)
    went = arc[-1] - arc[0]
    assert np.sign(np.round(went, 6)).tolist() == (
        [0, -1] if spin == 0 else [1, 0]
    )  # the back edge comes to the front, the left to the right


def test_a_board_that_stands_tells_which_face_looks_where():
    """Who walks round to the left end of a hanging board, its top up, has its front on the right."""
    _, drawing = turned("left")
    words = [s.text for s in drawing.shapes if s.kind == "text"]
    assert words == [
        "front face up, bottom edge towards you",
        "left end up, bottom edge towards you",
        "front face to the right",
    ]


def test_the_first_setup_is_turned_from_nothing():
    made, _ = turned("back")
    assert turning(made, made.setups[0].name) is None
