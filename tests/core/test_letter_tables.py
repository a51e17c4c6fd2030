# SPDX-License-Identifier: GPL-3.0-or-later
"""Tables of lettering, against plain sums on letters that are known."""

import math

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from gatepost.core.carve.areas import area_of
from gatepost.core.job import commands
from gatepost.core.plan.pipeline import plan
from gatepost.core.units import spell
from tests.conftest import tries
from tests.core.catalogue_jobs import JOBS


def tables(job):
    """By title, cells as they are read, mm left out."""
    told = plan(job, cell=0.5).report("carve").tables
    return {
        title: [[spell(c, "mm").replace(" mm", "").replace("−", "-") for c in row] for row in rows]
        for title, rows in told
    }


@settings(max_examples=tries(4))
@given(st.floats(-12, 12), st.floats(-6, 6), st.floats(-40, 40))
def test_margins_are_what_is_left_on_every_side(dx, dy, turn):
    job = commands.run(JOBS["plate"](), "set art", {"art": "lettering", "x": 60.0 + dx, "y": 40.0 + dy, "turn": turn})
    rows = tables(job)["Margins to the plate's edge"]
    letters = area_of(next(a for a in job.artwork if a.kind == "lettering"), 0.005).bounds
    plate = area_of(next(a for a in job.artwork if a.kind == "plate"), 0.005).bounds
    wanted = [letters[0] - plate[0], plate[2] - letters[2], letters[1] - plate[1], plate[3] - letters[3]]
    assert rows[0] == ["", "left", "right", "front", "back"]
    assert [float(v) for v in rows[1][1:]] == pytest.approx(wanted, abs=0.06)
    # its points run along the middle of strokes, corners included: half the bit reaches that much farther than the letters at most
    assert all(float(a) - float(b) <= 12.5 + 0.06 for a, b in zip(rows[1][1:], rows[2][1:], strict=True))


def test_each_letter_has_its_strokes_and_both_bits_their_depths():
    rows = tables(JOBS["strapped"]())["Letter by letter"]
    assert rows[0] == ["", "widest", "thinnest", "T3 deep", "T4 deep", "left under"]
    by = {r[0].split(",")[0]: [float(v) for v in r[1:]] for r in rows[1:]}
    assert set(by) == {"I", "T"}
    wide = 2 * 1.4628550000000002  # of the I, as it is drawn
    assert by["I"][0] == pytest.approx(wide, abs=0.006)
    assert by["I"][2] == pytest.approx(wide / 2 / math.tan(math.radians(30)), abs=0.006)
    assert by["I"][3] == pytest.approx(wide / 2, abs=0.006)  # of 90° as deep as half its width
    assert by["I"][4] == pytest.approx(16.0 - by["I"][2], abs=0.06)


def test_another_bit_cuts_as_deep_and_as_much_wider_as_its_angle_says():
    told = tables(JOBS["strapped"]())
    each, other = told["Letter by letter"], told["If another V is in the collet"]
    deep = max(float(r[3]) for r in each[1:])
    assert other[1][0] == "T4, 90°" and float(other[1][1]) == pytest.approx(2.0 * deep, abs=0.02)
    assert float(other[1][2]) == pytest.approx(2.0 * deep * math.tan(math.radians(30)), abs=0.02)


@pytest.mark.parametrize(("painted", "easy", "most"), [(True, 2.4, 6.4), (False, 1.2, 3.2)])
def test_letters_are_read_from_a_distance_by_their_height(painted, easy, most):
    job = commands.run(JOBS["strapped"](), "set carving", {"painted": painted})
    figures = {f.label: f.value for f in plan(job, cell=0.5).report("carve").figures}
    assert figures["Reads easily to"] == pytest.approx(easy) and figures["Can be read up to"] == pytest.approx(most)
