# SPDX-License-Identifier: GPL-3.0-or-later
"""Paths of a cut-out and of a V: how far from the plate, how steep, how fast, how high, against plain geometry."""

import math

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st
from shapely.geometry import Point, Polygon, box

from gatepost.core.carve import paths
from gatepost.core.carve.edits import outlines
from gatepost.core.carve.lettering import glyph_cut
from gatepost.core.job.carve import Plate
from gatepost.core.job.tool_table import shipped_tools
from gatepost.core.wood.field import cut, cutter_of, rectangle
from tests.conftest import tries

TOOLS = {t.number: t for t in shipped_tools()}

MILL, VEE = TOOLS[2], TOOLS[3]
TOP, BOTTOM, TRAVEL, START = 19.0, -0.3, 40.0, (0.0, 0.0, 60.0)

plates = st.builds(
    Plate, x=st.floats(100, 300), y=st.floats(80, 200), width=st.floats(60, 300), height=st.floats(40, 160), corner=st.one_of(st.just(0.0), st.floats(1, 18)),
    tabs=st.integers(0, 6), tab_width=st.floats(4, 12), tab_height=st.floats(2, 6), allowance=st.sampled_from([0.0, 0.3, 1.0]),
    skin=st.sampled_from([0.0, 0.0, 0.4]),
)  # fmt: skip


def rounded(plate, grow=0.0):
    """The plate as it should be: a box shrunk by its corner and grown by it, finely."""
    corner = min(plate.corner, plate.width / 2 - 1e-6, plate.height / 2 - 1e-6)
    half = plate.width / 2 - corner, plate.height / 2 - corner
    core = box(plate.x - half[0], plate.y - half[1], plate.x + half[0], plate.y + half[1])
    return core.buffer(corner + grow, quad_segs=90)


@given(plates, st.one_of(st.just(0.0), st.floats(0.5, 8)))
@settings(max_examples=tries(40))
def test_a_plates_outline_is_within_what_was_asked_of_the_rounded_one(plate, grow):
    made, true = paths.plate_outline(plate, grow, 0.01), rounded(plate, grow)
    assert made.within(true.buffer(0.003)) and true.within(made.buffer(0.0101))
    assert made.exterior.hausdorff_distance(true.exterior) < 0.0105 + 0.001


@given(plates)
@settings(max_examples=tries(25))
def test_a_cutout_keeps_its_distance_its_slope_its_rates_and_its_tabs(plate):
    moves = paths.cutout_moves(plate, MILL, TOP, BOTTOM, TRAVEL, START)
    points, feeding = moves.points, ~moves.rapid
    a, b = points[:-1], points[1:]
    across = np.hypot(*(b - a)[:, :2].T)
    drop = a[:, 2] - b[:, 2]
    # rapids: up and down in the clear, across above the wood
    for i in np.flatnonzero(moves.rapid):
        assert min(a[i, 2], b[i, 2]) >= TOP + 2.0 - 1e-9 or across[i] < 1e-9
        assert across[i] < 1e-9 or min(a[i, 2], b[i, 2]) >= TOP + 2.0 - 1e-9
    assert points[-1, 2] == TRAVEL and points[1, 2] == START[2]
    # it comes to the plate as high as it left from, and every round goes all the way round
    first = int(np.flatnonzero(moves.rapid & (across > 1e-9))[0])
    assert min(a[first, 2], b[first, 2]) == START[2]
    parted = np.split(np.arange(len(a)), np.flatnonzero(moves.rapid))
    rounds = [
        shapely.LineString([a[k[1], :2], *b[k[1:], :2]]) for k in parted if (feeding[k[1:]] & (across[k[1:]] > 0)).any()
    ]
    length = rounded(plate, MILL.diameter / 2).exterior.length
    assert rounds and all(r.length > length - 0.1 for r in rounds)
    # straight down slowly, everything else at the feed, and no ramp steeper than 8 in 100
    down = feeding & (across < 1e-9) & (drop > 1e-9)
    assert (moves.feed[down] == MILL.plunge).all() and (
        moves.feed[feeding & ~down & (across > 1e-9)] == MILL.feed
    ).all()
    ramps = feeding & (across > 1e-9) & (drop > 1e-9)
    assert (drop[ramps] / across[ramps] <= paths.RAMP_SLOPE + 1e-6).all()
    # the middle of the cutter stays on the line about the plate, out by the allowance until the last turn
    edge = rounded(plate).exterior
    off = shapely.distance(edge, shapely.points(b[feeding & (across > 1e-9)][:, :2]))
    radius = MILL.diameter / 2
    lead = 2 * plate.allowance + 1e-9  # the way in, from outside
    assert (np.abs(off - radius - plate.allowance) < 0.06).any() and off.min() > radius - 0.06
    assert off.max() < radius + max(plate.allowance, lead) + 0.06
    if plate.allowance:
        assert (np.abs(off - radius) < 0.06).any()
    # clockwise from above: with the spindle turning clockwise too, outside the plate, that climbs
    ring = b[feeding & (across > 1e-9)][:, :2] - [plate.x, plate.y]
    turn = np.sum(ring[:-1, 0] * ring[1:, 1] - ring[:-1, 1] * ring[1:, 0])
    assert turn < 0
    # it goes to the bottom and no deeper; over tabs it stays as high as they are, as wide as they and the cutter are
    assert points[:, 2].min() == pytest.approx(BOTTOM)
    spots = paths.tabs(plate, MILL)
    assert len(spots) == plate.tabs
    low = feeding & (np.maximum(a[:, 2], b[:, 2]) < plate.tab_height - 1e-6) & (across > 1e-9)
    if plate.tabs and plate.skin <= 0.0 and plate.tab_height > BOTTOM:
        lines = shapely.linestrings(np.stack([a[low][:, :2], b[low][:, :2]], axis=1))
        for tab in spots:
            kept = (plate.tab_width + MILL.diameter) / 2 - 0.15
            assert shapely.distance(lines, Point(tab.x, tab.y)).min() > kept - 0.15


@given(plates)
@settings(max_examples=tries(30))
def test_tabs_stand_on_the_long_sides_evenly_and_off_the_corners(plate):
    spots = paths.tabs(plate, MILL)
    ring = rounded(plate, MILL.diameter / 2).exterior
    flat = plate.width >= plate.height
    for tab in spots:
        assert ring.distance(Point(tab.x, tab.y)) < 1e-3
        along = (tab.x - plate.x) if flat else (tab.y - plate.y)
        assert abs(along) <= ((plate.width if flat else plate.height) / 2 - plate.corner) * (1 + 1e-9)
    for sign in (-1, 1):
        side = sorted(
            (t.x - plate.x if flat else t.y - plate.y)
            for t in spots
            if ((t.y - plate.y) if flat else (t.x - plate.x)) * sign > 0
        )
        assert sum(side) == pytest.approx(0.0, abs=1e-6)
        if len(side) > 2:
            assert np.diff(side) == pytest.approx(np.diff(side)[0])
    assert [t.along for t in spots] == sorted(t.along for t in spots)


@given(st.floats(1, 60), st.floats(0.3, 20))
def test_passes_are_even_no_deeper_than_the_step_and_the_fewest(depth, step):
    floors = paths.cutout_floors(TOP, TOP - depth, step)
    bites = -np.diff([TOP, *floors])
    assert bites == pytest.approx(bites[0]) and bites.max() <= step + 1e-6
    assert floors[-1] == pytest.approx(TOP - depth)
    assert len(floors) == 1 or depth / (len(floors) - 1) > step * (1 - 1e-6)


@given(
    st.lists(st.lists(st.tuples(st.floats(0, 100), st.floats(0, 100), st.floats(0.05, 8)), min_size=2, max_size=5), min_size=1, max_size=3),
    st.sampled_from([0.0, 1.0]),
)  # fmt: skip
@settings(max_examples=tries(40))
def test_a_v_is_as_deep_as_its_stroke_is_wide_and_goes_in_at_its_shallow_end(runs, tip):
    tool = VEE.model_copy(update={"tip": tip})
    steep = 1 / math.tan(math.radians(tool.angle / 2))
    moves = paths.v_moves(tuple(np.array(r) for r in runs), tool, TOP, TRAVEL, START)
    deep = {(x, y): -max(r - tip / 2, 0.0) * steep for run in runs for x, y, r in run}
    cut = [run for run in runs if tip == 0 or max(r for _, _, r in run) > tip / 2]
    fed = moves.points[1:][~moves.rapid]
    asked = {(x, y) for run in cut for x, y, _ in run}
    assert len(fed) >= len(cut) and asked <= {tuple(p[:2]) for p in fed}
    more = [
        p for p in fed if tuple(p[:2]) not in asked
    ]  # where the stroke is as wide as a flat tip: it just meets the face
    assert not more or (tip > 0 and np.abs(np.array(more)[:, 2] - TOP).max() < 1e-9)
    for x, y, z in (p for p in fed if tuple(p[:2]) in asked):
        assert any(z - TOP == pytest.approx(d, abs=1e-9) for at, d in deep.items() if at == (x, y)) or len(deep) < sum(
            map(len, runs)
        )
    down = (
        ~moves.rapid
        & (np.hypot(*np.diff(moves.points[:, :2], axis=0).T) < 1e-12)
        & moves.rapid[np.arange(len(moves)) - 1]
    )
    assert (moves.feed[down] == tool.plunge).all()
    assert (moves.points[:-1][down][:, 2] == TOP + 2.0).all()
    assert moves.points[-1, 2] == TRAVEL and (moves.points[1:, 2][moves.rapid] >= TOP + 2.0 - 1e-9).all()
    for run in cut:
        ends = -np.array([run[0][2], run[-1][2]])
        if abs(ends[0] - ends[1]) > 1e-6 and min(-ends) > tip / 2:
            shallow = run[0] if run[0][2] < run[-1][2] else run[-1]
            entered = moves.points[1:][down]
            assert any(np.hypot(e[0] - shallow[0], e[1] - shallow[1]) < 1e-9 for e in entered)


def test_a_path_round_a_plate_begins_in_the_middle_of_its_front():
    plate = Plate(x=100, y=60, width=80, height=40, corner=10, tabs=0, allowance=0.0)
    moves = paths.cutout_moves(plate, MILL, 6.0, 0.0, 20.0, START)
    first = moves.points[1:][~moves.rapid][0]
    assert first == pytest.approx([100.0, 40.0 - 3.0, 6.0])
    inside = Polygon(rounded(plate).exterior)
    assert all(not inside.buffer(2.9).contains(Point(*p[:2])) for p in moves.points[1:][~moves.rapid])


@given(st.sampled_from("ROMW&8"), st.integers(2, 5), st.sampled_from([0.0, 0.3]))
@settings(max_examples=tries(12))
def test_several_shallow_passes_come_to_the_same_groove_and_none_is_deeper_than_its_share(char, passes, tip):
    tool = VEE.model_copy(update={"tip": tip})
    runs = glyph_cut(outlines(char, "Serif")["glyphs"][0].path, 12.0, 1 / math.tan(math.radians(tool.angle / 2))).runs
    one, more = (paths.v_moves(runs, tool, TOP, TRAVEL, START, n) for n in (1, passes))
    wood = rectangle(16.0, 16.0, 0.1, lambda x, y: np.full(x.shape, TOP))
    shift = [a.moved(2.0, 2.0, 0.0) for a in (one, more)]
    once, often = (cut(wood, m, cutter_of(tool)).after.z for m in shift)
    assert np.abs(once - often).max() < 1e-4
    deepest = TOP - one.points[:, 2].min()
    reached = 0.0
    for depth in TOP - more.points[1:, 2][~more.rapid]:
        share = math.ceil(max(depth, 1e-9) / deepest * passes - 1e-6)
        assert share <= reached + 1
        reached = max(reached, float(share))
    assert reached == passes
