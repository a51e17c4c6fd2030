# SPDX-License-Identifier: GPL-3.0-or-later
"""Floors sunk flat: proved on the moves as they are read back, and the laws that they rest on."""

import math

import numpy as np
import pytest
import shapely
from hypothesis import given
from hypothesis import strategies as st

import carving
import sunk_proof
from gatepost.core.carve.areas import area_of, crossing
from gatepost.core.carve.bands import rows_in
from gatepost.core.carve.edits import outlines
from gatepost.core.carve.legs import allowed, crossings, rings, rows
from gatepost.core.carve.lettering import v_depths
from gatepost.core.carve.shapes import outline
from gatepost.core.carve.sink import half_width, sink
from gatepost.core.carve.slopes import _branches, clipped
from gatepost.core.carve.sunk_cuts import Sinking, flat_cuts, laid_out
from gatepost.core.carve.sunk_moves import Heights
from gatepost.core.geometry import medial
from gatepost.core.geometry.straight import nested
from gatepost.core.job import commands
from gatepost.core.job.carve import Letters, Rounded, TextLine
from gatepost.core.job.drawing import DrawnFigures
from gatepost.core.job.operation import Artwork
from gatepost.core.job.sunk import Ground, Recess, Sunk
from tests.core.catalogue_jobs import JOBS

SEEDS = st.integers(0, 2**31)
SIZE = 30.0


@pytest.mark.parametrize("seed", [*range(9), 200015, 300034, 300001])
def test_a_random_floor_is_flat_its_walls_true_and_nothing_is_cut_outside(seed):
    proof, figures = sunk_proof.trial(seed, tip=True, size=SIZE, cell=0.1)
    assert proof.holds(figures.cusp), proof


@pytest.mark.parametrize("text", ["Rg", "&8"])
def test_raised_letters_keep_their_outline_and_their_ground_is_flat(text):
    letters = Letters(lines=(TextLine(height=14.0, **outlines(text, "Serif")),))
    art = (
        Artwork(id="frame", kind="plate", figures=Rounded(width=50, height=38, form="oval")),
        Artwork(id="text", kind="lettering", figures=letters),
    )
    figures = Ground(depth=1.5, tools=(2, 9), rim=2.0)
    tools = [sunk_proof.mill(2, 3.0), sunk_proof.vee(9, 60.0)]
    laid = laid_out(Sinking(figures, art), shapely.Polygon(), 1.5 * math.tan(math.radians(30)))
    assert laid.frame == "frame" and not laid.meeting
    fine = area_of(art[1], 1e-4)
    assert laid.top.intersection(fine).area < 0.004 * fine.length
    assert laid.top.area == pytest.approx(outline(art[0].figures, 0, 0, 1e-3).buffer(-2.0).area - fine.area, rel=1e-3)
    proof = sunk_proof.prove(laid.top, figures, tools, 0.1)
    assert proof.holds(figures.cusp), proof


@pytest.mark.parametrize(("char", "height", "angle"), [("M", 20.0, 60.0), ("ò", 12.0, 90.0), ("À", 12.0, 90.0)])
def test_nothing_is_cut_into_a_raised_letter_on_the_other_side_of_its_wall(char, height, angle):
    """A middle between some walls of the outline may run on through another that counted for nothing there."""
    assert carving.raised_letter("Condensed", char, height, 1.0, angle) == "true"


@given(SEEDS, st.sampled_from([0.25, 0.4, 0.5]), st.sampled_from(["inside", "outside"]), st.booleans())
def test_rings_miss_nothing_that_the_cutter_reaches_and_no_way_leaves_where_it_may_be(seed, share, start, climb):
    area, radius = sunk_proof.random_area(np.random.default_rng(seed), SIZE), 2.0
    middles = area.buffer(-radius, quad_segs=64)
    within = allowed(middles)
    legs = rings(middles, within, 2 * radius * share - 0.02, 0.02, np.zeros(2), start, climb)
    assert covered(middles, radius, legs, within) < 0.05
    for leg in legs:  # with the wood that stays on the right in climb cutting, where a ring goes round the edge
        assert np.array_equal(leg.points[0], leg.points[-1])


@given(SEEDS, st.sampled_from([0.5, 1.0, 1.9]))
def test_rows_and_the_edge_miss_nothing_either(seed, share):
    area, radius = sunk_proof.random_area(np.random.default_rng(seed), SIZE), 2.0
    middles = area.buffer(-radius, quad_segs=64)
    within = allowed(middles)
    assert covered(middles, radius, rows(middles, within, 2 * radius * share / 2, np.zeros(2)), within) < 0.05


def covered(middles, radius, legs, within):
    """Area that a cutter leaves of what it reaches. Every line and every way between two stays where its middle may be."""
    swept = shapely.union_all([shapely.LineString(leg.points).buffer(radius, quad_segs=32) for leg in legs])
    for before, leg in zip([None, *legs], legs):
        assert within.covers(shapely.LineString(leg.points))
        assert before is None or not leg.joined or within.covers(shapely.LineString([before.points[-1], leg.points[0]]))
    reached = middles.buffer(radius, quad_segs=32)
    return reached.buffer(-0.01).difference(swept.buffer(0.005)).area


@given(SEEDS, st.floats(0.05, 2.0))
def test_stretches_of_rows_are_those_of_the_area(seed, apart):
    area = sunk_proof.random_area(np.random.default_rng(seed), SIZE)
    low, high = area.bounds[1], area.bounds[3]
    count = max(1, int((high - low) / apart))
    row, ends = crossings(area, low + 0.37 * apart, apart, count)
    for k in sorted(set(row.tolist()))[:: max(1, count // 7)]:
        y = low + 0.37 * apart + k * apart
        line = shapely.LineString([(area.bounds[0] - 1, y), (area.bounds[2] + 1, y)])
        assert (ends[row == k, 1] - ends[row == k, 0]).sum() == pytest.approx(line.intersection(area).length, abs=1e-6)


@given(SEEDS, st.sampled_from([0.06, 0.2]))
def test_rows_in_a_piece_leave_no_place_farther_than_half_their_distance_but_by_its_edge(seed, step):
    piece = sunk_proof.random_area(np.random.default_rng(seed), 4.0)
    if piece.is_empty:
        return
    (found,) = rows_in([max(piece.geoms, key=lambda p: p.area)], allowed(piece), step, 0.0, 5.0)
    lines = shapely.union_all([shapely.LineString(points) for points in found])
    assert shapely.LineString(found[0]).length and allowed(piece).covers(lines)
    inner = max(piece.geoms, key=lambda p: p.area).buffer(-step / 2)
    assert inner.difference(lines.buffer(step / 2 + 1e-6, quad_segs=32)).area < 1e-4 * max(inner.area, 1e-9) + 1e-9


@given(SEEDS, st.sampled_from([60.0, 90.0]), st.sampled_from([0.8, 2.0, 4.0]))
def test_what_is_narrower_than_the_v_is_found_as_by_the_whole_axis(seed, angle, depth):
    area = sunk_proof.random_area(np.random.default_rng(seed), SIZE)
    vee = sunk_proof.vee(9, angle)
    made = sink(area, Sunk(depth=depth, tools=(9,)), [vee])
    steep = 1 / math.tan(math.radians(angle / 2))
    whole = [
        piece
        for run in medial.trails(medial.medial_axis(made.top, 0.002, 0.008))
        for piece in clipped(run, half_width(vee, depth))
    ]
    if whole:
        found = shapely.union_all(
            [shapely.LineString(b[:, :2]) for b in _branches(made, steep)] or [shapely.Point(1e6, 0)]
        )
        deep = np.vstack(whole)
        deep = deep[
            (deep[:, 2] > 0.05) & (deep[:, 2] < made.reach - 0.02)
        ]  # at the edge itself it may begin sooner or later
        assert shapely.distance(found, shapely.points(deep[:, :2])).max(initial=0.0) < 0.03


@given(st.floats(0.05, 1.0), st.floats(0.2, 4.0), st.floats(0.0, 4.0), st.sampled_from([30.0, 60.0, 90.0]))
def test_a_flat_tip_never_cuts_past_the_outline_between_two_points_of_its_way(tip, a, b, angle):
    """The half width that it cuts, tip/2 + depth·tan, is no more than the half width that there is, all along."""
    vee = sunk_proof.vee(9, angle, tip)
    run = np.array([[0.0, 0.0, a], [10.0, 0.0, b]])
    points = v_depths(run, vee)
    x = np.linspace(0.0, 10.0, 201)
    depth = -np.interp(x, points[:, 0], points[:, 2])
    there = np.interp(x, [0.0, 10.0], [a, b])
    cut = np.where(depth > 1e-12, tip / 2 + depth * math.tan(math.radians(angle / 2)), 0.0)
    assert (cut <= there + 1e-9).all()


@given(st.floats(20, 300), st.floats(20, 300), st.floats(0, 9.9), st.floats(-50, 50))
def test_forms_have_the_size_asked_for_and_the_area_of_their_closed_form(wide, high, corner, x):
    def area(form):
        made = outline(Rounded(width=wide, height=high, corner=corner, form=form), x, 5.0, 0.001)
        assert made.is_valid and made.bounds == pytest.approx(
            (x - wide / 2, 5 - high / 2, x + wide / 2, 5 + high / 2), abs=0.002
        )
        return made.area

    near = {"rel": 1e-3, "abs": 0.05}
    assert area("rounded") == pytest.approx(wide * high - (4 - math.pi) * corner**2, **near)
    assert area("hollow") == pytest.approx(wide * high - math.pi * corner**2, **near)
    assert area("clipped") == pytest.approx(wide * high - 2 * corner**2, **near)
    assert area("oval") == pytest.approx(math.pi * wide * high / 4, **near)
    if corner > 0.1 and corner < wide / 2:  # a segment of a circle over the straight sides
        radius = (wide**2 / 4 + corner**2) / (2 * corner)
        half = math.atan2(wide / 2, radius - corner)
        segment = radius**2 * (half - math.sin(half) * math.cos(half))
        assert area("arched") == pytest.approx(wide * (high - corner) + segment, **near)


def square(x, y, side):
    return Artwork(
        id=f"s{side:g}".replace(".", "-"), kind="plate", x=x, y=y, figures=Rounded(width=side, height=side, corner=0)
    )


def test_what_lies_inside_goes_and_stays_by_turns_and_what_runs_across_is_named():
    a, b, c = (area_of(square(0, 0, s), 0.01) for s in (40, 20, 8))
    assert nested([a, b, c]).area == pytest.approx(1600 - 400 + 64)
    assert crossing([a, b, c]) == []
    across = area_of(square(18, 0, 8), 0.01)
    assert crossing([a, across]) == [(0, 1)]
    laid = laid_out(Sinking(Recess(), (square(0, 0, 40), square(18, 0, 8))), shapely.Polygon(), 0.0)
    assert laid.meeting == (("s40", "s8"),)


def test_a_ground_without_a_frame_lies_in_the_board_and_without_a_rim_goes_past_its_edge():
    board, inner = shapely.box(-50, -30, 50, 30), (square(0, 0, 20),)
    assert laid_out(Sinking(Ground(rim=5), inner), board, 0.0).top.area == pytest.approx(90 * 50 - 400, abs=1)
    past = laid_out(Sinking(Ground(rim=0), inner), board, 2.0).top
    assert past.bounds == pytest.approx((-53, -33, 53, 33), abs=0.01)
    assert laid_out(Sinking(Ground(), ()), board, 0.0).top.is_empty


@given(st.floats(-60, 60), st.floats(4, 90))
def test_what_stays_never_changes_places_with_what_goes_as_it_grows_over_its_frame(x, side):
    """A square whose middle lies in the plate stays, however far it reaches; and it is told where it reaches over the rim."""
    frame, inner = square(0, 0, 100), square(x, 0, side)
    made = laid_out(Sinking(Ground(rim=5), (frame, inner)), shapely.box(-200, -200, 200, 200), 0.0)
    if abs(x) < 49.9 and side < 99.9:
        assert made.frame == "s100" and made.top.intersection(area_of(inner, 0.01)).area < 1e-6
        reaches = max(abs(x) + side / 2, side / 2) > 45.0
        assert (made.meeting == (("what stays", "the rim"),)) is reaches


@pytest.mark.parametrize("entry", ["ramp", "helix", "plunge"])
@pytest.mark.parametrize("lines", ["rings", "rows"])
def test_no_pass_is_deeper_than_the_tool_takes_and_it_goes_down_as_was_chosen(entry, lines):
    figures = Sunk(depth=5.0, tools=(1,), entry=entry, route=lines)
    mill = sunk_proof.mill(1, 6.0, 2.0)
    made = sink(shapely.MultiPolygon([shapely.box(0, 0, 40, 25)]), figures, [mill])
    (cut,) = flat_cuts(made, figures, Heights(0.0, 0.3, 9.0, lambda t: (0.0, 0.0, 40.0), shapely.box(0, 0, 40, 25)))
    points, feeds = cut.moves.points, ~cut.moves.rapid
    levels = sorted({round(z, 6) for z in points[1:][feeds][:, 2] if z < 0.2})
    flat = [z for z in levels if np.isclose(points[1:][feeds][:, 2], z).sum() > 20]
    assert flat == pytest.approx([-5.0, -5.0 + 5.3 / 3, -5.0 + 10.6 / 3], abs=1e-5)
    way, end = np.diff(points, axis=0)[feeds], points[1:][feeds]
    straight = (way[:, 2] < 0) & (np.hypot(way[:, 0], way[:, 1]) < 1e-9)
    down = sorted({round(z, 6) for z in end[straight][:, 2]})
    # straight down only as far as the pass before has cut, and the rest on a slope; or all of it
    assert down == pytest.approx(flat if entry == "plunge" else [*flat[1:], 0.3], abs=1e-5)
    slope = (-way[:, 2] / np.maximum(np.hypot(way[:, 0], way[:, 1]), 1e-12))[~straight]
    assert slope.max() == pytest.approx(0.0 if entry == "plunge" else 0.08, abs=0.002)


def test_lettering_that_stays_in_a_ground_is_typed_sized_and_added_to_as_any_other():
    """And no figure of the one may be taken for one of the other."""
    job = JOBS["raised"]()
    own = set(Letters.model_fields) | set(Rounded.model_fields) | set(DrawnFigures.model_fields)
    assert not own & (set(Ground.model_fields) | set(Recess.model_fields))
    ground = {"operation": "ground"}
    line = job.art("lettering", ("lettering",)).figures.lines[0]
    job = commands.run(job, "set line", {"line": line.id, **outlines("NO", "Sans"), **ground})
    job = commands.run(job, "add line", {"height": 6.0, **outlines("MORE", "Sans"), **ground})
    job = commands.run(job, "scale lettering", {"factor": 0.5, **ground})
    lines = job.art("lettering", ("lettering",)).figures.lines
    assert [(one.text, one.height) for one in lines] == [("NO", line.height / 2), ("MORE", 3.0)]
    assert [o.kind for o in job.setup("front").operations] == ["ground", "cutout"]
    assert (
        commands.run(job, "remove line", {"line": lines[1].id, **ground}).art("lettering", ("lettering",)).figures.lines
        == lines[:1]
    )
