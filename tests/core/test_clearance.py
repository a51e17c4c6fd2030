# SPDX-License-Identifier: GPL-3.0-or-later
"""Clearance against brute force: places sampled every 0.05 mm along the moves, distances by another library."""

import json
import math

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st
from shapely import affinity
from shapely.geometry import Point, Polygon, box

from gatepost import cli
from gatepost.clearing import known_moves
from gatepost.core.errors import UnusableFile
from gatepost.core.hold.clearance import Section, clearance, passings
from gatepost.core.hold.solids import Solid
from gatepost.core.motion import Moves
from tests.conftest import some, tries

STEP = 0.05
TOOL = {
    "diameter": 6.0,
    "cutting_length": 22.0,
    "shank": 8.0,
    "stickout": 40.0,
    "nut_diameter": 30.0,
    "nut_height": 45.0,
}
PARTS = [Section("cutter", 3.0, 0.0, 22.0), Section("shank", 4.0, 22.0, 40.0), Section("nut", 15.0, 40.0, 85.0)]
ELL = Polygon([(0, 0), (40, 0), (40, 12), (12, 12), (12, 30), (0, 30)])
HOLDS = {
    "bar": box(0, 0, 36, 20),
    "turned bar": affinity.rotate(box(0, 0, 60, 14), 33.0, origin=(0, 0)),
    "ell": ELL,
    "stud": Point(20, 10).buffer(8.0, quad_segs=16),
    "sliver": box(0, 9.9, 40, 10.1),
}
HEIGHTS = {"low": (0.0, 12.0), "strap": (18.0, 30.0), "tall": (-5.0, 52.0)}
PROGRAMS = {
    "grazing in the side": "G21 G90\nG0 Z30\nG0 X-20 Y-3\nG1 Z5 F600\nG1 X60 Y-3\nG0 Z30",
    "a hair off": "G0 Z30\nG0 X-20 Y-3.02\nG1 Z5 F600\nG1 X60\nG0 Z30",
    "rapid over": "G0 Z30\nG0 X-20 Y10\nG0 X60 Y10\nG0 Z12\nG0 X-20\n",
    "rapid too low": "G0 Z11.9\nG0 X-20 Y10\nG0 X60 Y10",
    "plunge in the middle": "G0 Z60\nG0 X20 Y10\nG1 Z2 F200\nG0 Z60",
    "ramp down over": "G0 Z60\nG0 X-30 Y6\nG1 X50 Y14 Z-4 F900\nG0 Z60",
    "ramp up away": "G0 Z60\nG0 X60 Y4\nG1 Z0 F100\nG1 X-30 Y9 Z55 F900",
    "arc round the corner": "G0 Z20\nG0 X-9 Y-9\nG1 Z4 F500\nG2 X49 Y49 I29 J29\nG3 X-9 Y-9 I-29 J-29\nG0 Z20",
    "helix": "G0 Z55\nG0 X42 Y10\nG1 Z50 F500\nG2 X42 Y10 Z20 I-22 J0\nG2 X42 Y10 Z-3 I-22 J0\nG0 Z55",
    "nut's rim passes": "G0 Z60\nG0 X-40 Y34.9\nG1 Z-12 F500\nG1 X80 Y34.9\nG0 Z60",
    "in inches": "G20 G90\nG0 Z1.5\nG0 X-1 Y0.3\nG1 Z0.2 F40\nG1 X2.2 Y0.9\nG0 Z1.5",
    "relative": "G90 G0 Z30\nG0 X-10 Y-10\nG91 G1 Z-26 F400\nG1 X30 Y20\nG1 X20 Y-20\nG90 G0 Z30",
}


def sampled(starts, ends):
    places = []
    for a, b in zip(starts, ends):
        count = max(2, math.ceil(np.linalg.norm(b - a) / STEP) + 1)
        places.append(a + (b - a) * np.linspace(0, 1, count)[:, None])
    return np.vstack(places)


def signed(outline, places):
    points = shapely.points(places[:, :2])
    edge = shapely.distance(outline.exterior, points)
    return np.where(shapely.contains(outline, points), -edge, edge)


def brute(places, solid, part, away):
    away = away - part.radius
    low, high = places[:, 2] + part.bottom, places[:, 2] + part.top
    tall, wide = (low < solid.top) & (high > solid.bottom), away < 0
    across = float(away[tall].min()) if tall.any() else None
    upright = float((low[wide] - solid.top).min()) if wide.any() else None
    return across, upright


def near(exact, seen):
    """No missed touch, none invented beyond a sample's own step."""
    if seen is None:
        return exact is None or exact > -2 * STEP  # a graze between two samples
    return exact is not None and exact <= seen + 1e-6 and exact >= seen - 2 * STEP


@pytest.mark.parametrize("program", some(PROGRAMS, 5))
def test_every_part_past_every_solid_is_what_sampling_shows(program):
    starts, ends, lines, left_out = known_moves(PROGRAMS[program], program)
    places = sampled(starts, ends)
    assert left_out >= 1 and len(lines) == len(starts)
    for shape, outline in HOLDS.items():
        away = signed(outline, places)
        for height, (bottom, top) in HEIGHTS.items():
            solid = Solid(shape, height, outline, bottom, top)
            for part, told in zip(PARTS, passings(starts, ends, PARTS, [solid]), strict=True):
                across, upright = brute(places, solid, part, away)
                assert near(told.gap_xy, across), (shape, height, part.part, told, across)
                assert near(told.gap_z, upright), (shape, height, part.part, told, upright)
                if told.move is not None:
                    here = sampled(starts[told.move : told.move + 1], ends[told.move : told.move + 1])
                    worse = min(g for g in (told.gap_xy, told.gap_z) if g is not None)
                    mine = brute(here, solid, part, signed(outline, here))
                    assert min((g for g in mine if g is not None), default=0.0) <= worse + 2 * STEP


spot = st.tuples(st.floats(-40, 60), st.floats(-40, 60), st.floats(-5, 60))


@given(st.lists(spot, min_size=2, max_size=5), st.sampled_from(sorted(HOLDS)), st.sampled_from(sorted(HEIGHTS)))
@settings(max_examples=tries(40), deadline=None)
def test_random_slopes_too_and_the_gap_of_a_plan_is_the_lesser_of_giving_way(places, shape, height):
    points = np.array(places)
    bottom, top = HEIGHTS[height]
    solid = Solid(shape, "part", HOLDS[shape], bottom, top)
    tried = sampled(points[:-1], points[1:])
    away = signed(solid.outline, tried)
    for part, told in zip(PARTS, passings(points[:-1], points[1:], PARTS, [solid]), strict=True):
        across, upright = brute(tried, solid, part, away)
        assert near(told.gap_xy, across) and near(told.gap_z, upright)
    least = min(
        float(np.maximum(away - p.radius, np.maximum(tried[:, 2] + p.bottom - top, bottom - tried[:, 2] - p.top)).min())
        for p in PARTS
    )
    moves = Moves(points, np.zeros(len(points) - 1, bool), np.full(len(points) - 1, 100.0))
    found = clearance(moves, PARTS, [solid], 200.0)
    assert near(found[0].gap, least)
    tip = np.array([found[0].x, found[0].y, found[0].z])
    a, b = points[:-1], points[1:]
    long = ((b - a) ** 2).sum(axis=1)
    share = np.clip(((tip - a) * (b - a)).sum(axis=1) / np.where(long > 0, long, 1.0), 0, 1)
    assert np.linalg.norm(a + share[:, None] * (b - a) - tip, axis=1).min() < 1e-5  # it is told where the tip is then


def files(tmp_path, program, holds, tool=TOOL):
    (tmp_path / "p.nc").write_text(program)
    (tmp_path / "holds.json").write_text(json.dumps(holds))
    (tmp_path / "tool.json").write_text(json.dumps(tool))
    return ["clearance", str(tmp_path / "p.nc"), "--holds", str(tmp_path / "holds.json"), "--tool", str(tmp_path / "tool.json")]  # fmt: skip


BAR = {"name": "C1", "outline": [[0, 0], [36, 0], [36, 20], [0, 20]], "z0": 0, "z1": 12}


@pytest.mark.parametrize(
    ("arc", "cares"), [("G2 I-20", 0), ("G2 X40 Y10 I-20", 0), ("G2 X40.00000000000001 Y10 I-20", 1)]
)
def test_a_full_circle_is_seen_however_it_is_written(arc, cares, tmp_path, capsys):
    """About 20, 10 with a radius of 20: it passes right through the bar, at 8 mm up where the bar stands 12 high."""
    program = f"G21 G90 F600\nG0 Z40\nG0 X40 Y10\nG1 Z8\n{arc}\nG0 Z40\n"
    bar = {**BAR, "outline": [[-2, 8], [2, 8], [2, 12], [-2, 12]]}
    assert cli.main([*files(tmp_path, program, [bar]), "--json"]) == 1
    told = capsys.readouterr()
    (row,) = [r for r in json.loads(told.out) if r["part"] == "cutter"]
    assert (
        row["gap_xy"] == pytest.approx(-5, abs=0.01) and row["line"] == 5
    )  # 2 of the bar, and the cutter's radius of 3
    assert told.err.count("by rounding only") == cares


def test_from_the_command_line_by_hand(tmp_path, capsys):
    program = "G90\nG0 Z30\nG0 X-20 Y-5\nG1 Z5 F600\n\n(along)\nG1 X60\nG0 Z30\nG0 Y10\nG0 Z14\nG0 X-20"
    assert cli.main([*files(tmp_path, program, [BAR]), "--json"]) == 0
    rows = {r["part"]: r for r in json.loads(capsys.readouterr().out)}
    # the cutter passes 5 mm from the side with a radius of 3, in line 7; over the top it is 2 mm up, in line 11
    assert rows["cutter"] == {
        "name": "C1",
        "part": "cutter",
        "gap_xy": pytest.approx(2),
        "gap_z": pytest.approx(2),
        "line": 7,
    }
    assert (
        rows["shank"]["gap_xy"] is None and rows["shank"]["gap_z"] == pytest.approx(24) and rows["shank"]["line"] == 11
    )
    assert rows["nut"]["gap_z"] == pytest.approx(33) and rows["nut"]["line"] == 7  # its rim is over the bar all along
    deep = program.replace("Y-5", "Y8")
    assert cli.main([*files(tmp_path, deep, [BAR]), "--json"]) == 1
    out = capsys.readouterr()
    hit = json.loads(out.out)[0]
    assert hit["gap_xy"] == pytest.approx(-11) and hit["line"] == 7 and "C1 is hit by the cutter in line 7" in out.err


BAD = {
    "holds that are no list": ({"name": "C1"}, TOOL, "list"),
    "an outline of two corners": ([{**BAR, "outline": [[0, 0], [1, 1]]}], TOOL, "outline"),
    "an outline that crosses itself": ([{**BAR, "outline": [[0, 0], [9, 9], [9, 0], [0, 9]]}], TOOL, "crosses itself"),
    "a hold of no height": ([{**BAR, "z1": 0}], TOOL, "no height"),
    "a place beyond all": ([{**BAR, "z1": 1e300}], TOOL, "z1"),
    "a tool without a shank": ([BAR], {k: v for k, v in TOOL.items() if k != "shank"}, "Shank is missing"),
    "a tool of no diameter": ([BAR], {**TOOL, "diameter": 0}, "Diameter must be more than 0"),
}


@pytest.mark.parametrize("what", BAD)
def test_what_can_t_be_used_is_said_in_a_sentence(what, tmp_path, capsys):
    holds, tool, word = BAD[what]
    assert cli.main(files(tmp_path, PROGRAMS["helix"], holds, tool)) == 2
    err = capsys.readouterr().err
    assert word in err and "Traceback" not in err
    assert cli.main(files(tmp_path, "G0 Z5\nG7 X3\n", [BAR])) == 2
    assert "line 2" in capsys.readouterr().err
    with pytest.raises(UnusableFile):
        known_moves("(nothing)\n", "empty.nc")
