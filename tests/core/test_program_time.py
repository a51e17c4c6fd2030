# SPDX-License-Identifier: GPL-3.0-or-later
"""How long a program takes, and what its units are believed to be."""

import re

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from gatepost.core.motion import Moves
from gatepost.core.program.read import read
from gatepost.core.program.time import Drive, move_seconds
from gatepost.core.program.units import doubts

# -- time ------------------------------------------------------------------------------------------------------------

DRIVE = Drive((6000.0, 6000.0, 3000.0), (500.0, 500.0, 250.0), 0.02)


def line_moves(points, feed=3000.0):
    points = np.array(points, dtype=float)
    return Moves(points, np.zeros(len(points) - 1, bool), np.full(len(points) - 1, feed))


def test_a_single_move_is_a_trapezoid():
    # 50 mm/s, 500 mm/s²: 0.1 s up over 2.5 mm, 95 mm at speed, 0.1 s down
    assert move_seconds(line_moves([[0, 0, 0], [100, 0, 0]]), DRIVE).sum() == pytest.approx(0.2 + 95 / 50)
    # too short to reach its speed: 2·sqrt(L/a)
    assert move_seconds(line_moves([[0, 0, 0], [2, 0, 0]]), DRIVE).sum() == pytest.approx(2 * np.sqrt(2 / 500))


def test_a_straight_line_in_pieces_takes_no_longer_and_a_turn_back_stops():
    whole = move_seconds(line_moves([[0, 0, 0], [100, 0, 0]]), DRIVE).sum()
    pieces = move_seconds(line_moves([[x, 0, 0] for x in np.linspace(0, 100, 301)]), DRIVE).sum()
    assert pieces == pytest.approx(whole, rel=1e-6)
    back = move_seconds(line_moves([[0, 0, 0], [100, 0, 0], [0, 0, 0]]), DRIVE).sum()
    assert back == pytest.approx(2 * whole)


def test_a_corner_is_taken_at_its_own_speed():
    # right angle: R = d·cos45/(1 - cos45), v² = a·R
    v = np.sqrt(500 * 0.02 * np.sqrt(0.5) / (1 - np.sqrt(0.5)))
    seconds = move_seconds(line_moves([[0, 0, 0], [100, 0, 0], [100, 100, 0]]), DRIVE)
    braked = (50 - v) / 500
    assert seconds[0] == pytest.approx(0.1 + braked + (100 - 2.5 - (2500 - v * v) / 1000) / 50)
    assert seconds[0] == pytest.approx(seconds[1])


@given(st.lists(st.tuples(st.floats(-50, 50), st.floats(-50, 50), st.floats(-5, 5)), min_size=3, max_size=20))
def test_time_is_at_least_the_bare_sum_and_at_most_stopping_at_every_corner(points):
    moves = line_moves(points)
    length = np.linalg.norm(np.diff(moves.points, axis=0), axis=1)
    seconds = move_seconds(moves, DRIVE)
    alone = sum(move_seconds(line_moves(moves.points[i : i + 2]), DRIVE).sum() for i in range(len(moves)))
    assert seconds.sum() >= length.sum() / 50 - 1e-9
    assert seconds.sum() <= alone + 1e-6


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("G90\nG0 X0 Y0\nG1 X200 F1000\n", "neither G20 nor G21"),
        ("G20\nG0 X0 Y0\nG1 X300 F60\n", "are its numbers mm"),
        ("G20\nG0 X0 Y0\nG1 X10 F1500\n", "m/min: are its numbers mm"),
        ("G21\nG0 X0 Y0\nG1 X13 F1000\n", "of a board 356 mm long: are its numbers inches"),
        ("G21\nG0 X0 Y0\nG1 X5000 F1000\n", "is that meant"),
        ("G20\nG0 X0 Y0\nG1 X0.2 F20\n", "are its units right"),
        ("G21\nG0 X0 Y0\nG1 X200 Y100 F1000\n", ""),
        ("G20\nG0 X0 Y0\nG1 X12 Y6 F60\n", ""),
        ("", ""),
        ("G21\nG0 X0 Y0\nG1 X3000 F1000\n", ""),
        ("G21\nG0 X0 Y0\nG1 X3000.01 F1000\n", "is that meant"),
        ("G20\nG0 X0 Y0\nG1 Y119 F60\n", "in inches it cuts 3.0 m across: are its numbers mm"),
        ("G20\nG0 X0 Y0\nG1 X10 F590.5\n", ""),
        ("G20\nG0 X0 Y0\nG1 X10 F590.6\n", "in inches it cuts at 15 m/min"),
        ("G21\nG0 X0 Y0\nG1 X4.5 F100\n", "it cuts only 4.5 mm across of a board 356 mm"),
    ],
)
def test_units_that_look_wrong_are_doubted_and_others_are_not(text, words):
    said = doubts(read(text), (355.6, 177.8))
    assert [w for w in said if words in w] if words else said == []


@pytest.mark.parametrize(
    ("across", "board", "words"),
    [(24.9, None, "are its numbers inches"), (25.0, None, ""), (12.4, (9999.0, 5.0), "are its"), (0.0, None, "")],
)
def test_without_a_board_a_program_smaller_than_an_inch_is_doubted(across, board, words):
    said = doubts(read(f"G21\nG0 X0 Y0\nG1 X{across} F100\n"), board)
    assert bool(said) == bool(words) and all(words in w for w in said)


def test_a_move_s_height_is_the_machine_s_from_g53_until_another_is_told():
    from gatepost.core.program.lines import by_machine

    text = "G53 G0 Z0\nG0 X1 Y2\n(Z5 in words)\nX3 ; Z9\nZ4\nX5\nG53 X0\nG053 G0 Z0 (up)\nG53.1 Z3\n"
    x, y, z = by_machine(text, range(1, 10)).T.tolist()
    assert z == [True, True, True, True, False, False, False, True, False]
    assert x == [False] * 6 + [True] * 3 and not any(y)  # G53 X0 to park: the machine's own


@given(st.lists(st.sampled_from(["G53", "g 0 53", "G(so)5(it)3", "G54", "X53", "Z2", "z-5.3", "Y", "(", ")", ";", " ", "\n", "\r\n", "\r"]), max_size=30))  # fmt: skip
def test_lines_that_may_say_it_are_found_as_by_looking_at_each(words):
    from gatepost.core.program.lines import by_machine

    text = "".join(words)
    rows = text.replace("\r\n", "\n").replace("\r", "\n").split("\n")
    held, told = {}, []
    for row in rows:
        bare = re.sub(r"\([^)]*\)|;.*", "", row).replace(" ", "").upper()
        for axis in "XYZ":
            if re.search(axis + r"[-+.\d]", bare):
                held[axis] = re.search(r"G0*53(?![\d.])", bare) is not None
        told.append([bool(held.get(axis)) and bool(row.strip()) for axis in "XYZ"])
    assert by_machine(text, range(1, len(rows) + 1)).tolist() == told
