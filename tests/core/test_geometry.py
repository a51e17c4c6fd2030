# SPDX-License-Identifier: GPL-3.0-or-later
import math

import numpy as np
import pytest
import shapely
from hypothesis import example, given, settings
from hypothesis import strategies as st
from shapely.geometry import MultiPolygon, Point, Polygon, box

import vcut_proof
from gatepost.core.carve.edits import outlines
from gatepost.core.carve.lettering import parts_of
from gatepost.core.geometry import curves, kernels, medial, plain
from gatepost.core.job.carve import Carving, TextLine, VCut
from gatepost.core.job.drawing import DrawnFigures
from gatepost.core.job.operation import Artwork
from tests.conftest import some, tries

SHAPES = {
    "square": box(0, 0, 10, 10),
    "thin slot": box(0, 0, 40, 0.4),
    "ring": Point(0, 0).buffer(10, quad_segs=60).difference(Point(0, 0).buffer(6, quad_segs=60)),
    "star": Polygon([(0, 10), (2, 2), (10, 0), (2, -2), (0, -10), (-2, -2), (-10, 0), (-2, 2)]),
    "el": Polygon([(0, 0), (20, 0), (20, 6), (6, 6), (6, 20), (0, 20)]),
    "two islands": MultiPolygon([box(0, 0, 3, 3), box(5, 0, 9, 2)]),
    "needle": Polygon([(0, 0), (30, 0.6), (0, 1.2)]),
    "touching corners": MultiPolygon([box(0, 0, 4, 4), box(4, 4, 8, 8)]),
    "holes beside": box(0, 0, 20, 10).difference(box(2, 2, 9, 8)).difference(box(9.4, 2, 18, 8)),
}


@pytest.mark.parametrize("name", SHAPES)
def test_every_point_of_the_axis_is_inside_and_its_r_is_its_distance(name):
    area = curves.as_multipolygon(SHAPES[name])
    axis = medial.medial_axis(area, 0.001)
    assert axis.lines
    points = np.vstack(axis.lines)
    exact = medial.outline_distance(area, points[:, 0], points[:, 1])
    assert np.abs(points[:, 2] - exact).max() < 2e-4
    assert shapely.contains_xy(area.buffer(1e-4), points[:, 0], points[:, 1]).all()


@pytest.mark.parametrize("name", SHAPES)
def test_discs_along_the_axis_fill_the_area_and_trails_go_everywhere_once(name):
    area = curves.as_multipolygon(SHAPES[name])
    axis = medial.medial_axis(area, 0.0005)
    runs = medial.trails(axis)
    assert sum(len(r) - 1 for r in runs) == sum(len(line) - 1 for line in axis.lines)
    filled = []
    for run in runs:
        for (x0, y0, r0), (x1, y1, r1) in zip(run, run[1:]):
            n = max(2, int(math.hypot(x1 - x0, y1 - y0) / 0.05))
            filled += [(x0 + (x1 - x0) * t, y0 + (y1 - y0) * t, r0 + (r1 - r0) * t) for t in np.linspace(0, 1, n)]
    discs = shapely.union_all([Point(x, y).buffer(r, quad_segs=12) for x, y, r in filled if r > 1e-6])
    assert area.difference(discs.buffer(0.03)).area < 1e-3 * area.area
    assert discs.difference(area.buffer(0.002)).area < 1e-6


def test_a_square_s_axis_is_its_diagonals():
    axis = medial.medial_axis(MultiPolygon([SHAPES["square"]]), 0.001)
    points = np.vstack(axis.lines)
    assert np.allclose(
        np.minimum(abs(points[:, 0] - points[:, 1]), abs(points[:, 0] + points[:, 1] - 10)), 0, atol=1e-4
    )
    assert points[:, 2].max() == pytest.approx(5.0, abs=1e-4)
    length = sum(np.hypot(*np.diff(line[:, :2], axis=0).T).sum() for line in axis.lines)
    assert length == pytest.approx(2 * math.hypot(10, 10), abs=1e-3)


def assert_as_plain(area, tol):
    """The compiled axis and its runs are the plain ones."""
    ends, lines = plain.medial_axis(area, tol)
    axis = medial.medial_axis(area, tol)
    assert np.array_equal(axis.ends, ends) and [len(a) for a in axis.lines] == [len(a) for a in lines]
    assert all(np.allclose(a, b, rtol=0, atol=1e-9) for a, b in zip(axis.lines, lines))
    whole = plain.trails((ends, axis.lines))
    assert [r.tolist() for r in medial.trails(axis)] == [r.tolist() for r in whole]
    thin = [plain.simplified(run, tol) for run in whole]
    assert sum(len(a) != len(b) for a, b in zip(medial.trails(axis, tol), thin)) == 0


@pytest.mark.parametrize("name", SHAPES)
def test_the_compiled_axis_is_the_plain_one(name):
    assert_as_plain(curves.as_multipolygon(SHAPES[name]), 0.001)


@given(st.lists(st.tuples(st.floats(-30, 30), st.floats(-20, 20), st.floats(0.5, 12)), min_size=1, max_size=6))
@settings(max_examples=tries(40))
@example([(0.0, 0.0, 1.0), (0.0, 1.1125369292536007e-308, 1.0)])  # next to nought
@example([(0.0, 0.0, 1.0), (0.0, 0.0, 1.0)])  # several ways are as straight ahead
def test_the_compiled_axis_is_the_plain_one_on_any_outline(discs):
    blobs = [
        Point(x, y).buffer(r, quad_segs=3) if i % 2 else box(x, y, x + r, y + 2) for i, (x, y, r) in enumerate(discs)
    ]
    area = curves.as_multipolygon(shapely.union_all(blobs))
    assert_as_plain(area, 0.002)


coordinate = st.integers(-5000, 5000).map(lambda v: v / 100)


@given(st.lists(st.tuples(coordinate, coordinate), min_size=3, max_size=4, unique=True), st.floats(0.001, 0.5))
def test_flattened_curves_stay_within_their_tolerance(points, tol):
    piece = np.array(points)
    line = np.vstack([piece[:1], curves.flatten_piece(piece, tol)])
    t = np.linspace(0, 1, 400)[:, None]
    u = 1 - t
    if len(piece) == 3:
        true = u * u * piece[0] + 2 * u * t * piece[1] + t * t * piece[2]
    else:
        true = u**3 * piece[0] + 3 * u * u * t * piece[1] + 3 * u * t * t * piece[2] + t**3 * piece[3]
    far = shapely.distance(shapely.linestrings(line), shapely.points(true))
    assert far.max() <= tol * 1.0001 + 1e-9


@given(st.integers(0, 10_000), st.floats(0.01, 0.5))
@settings(max_examples=tries(40))
def test_simplified_runs_pass_within_their_tolerance_of_every_point(seed, tol):
    line = np.cumsum(np.random.default_rng(seed).normal(size=(60, 3)), axis=0)
    keep = np.zeros(len(line), bool)
    kernels.thin_out(line, 0, len(line) - 1, tol, keep)
    kept = line[keep]
    assert np.array_equal(kept, plain.simplified(line, tol))
    assert np.array_equal(kept[[0, -1]], line[[0, -1]])
    a, d = kept[:-1], np.diff(kept, axis=0)
    for p in line:
        t = np.clip(((p - a) * d).sum(1) / np.maximum((d * d).sum(1), 1e-12), 0, 1)
        assert np.linalg.norm(a + t[:, None] * d - p, axis=1).min() <= tol + 1e-9


def test_paths_are_written_and_read_back():
    data = "M0 0L10 0Q15 5 10 10C5 12 2 12 0 10Z"
    contours = curves.parse_path(data)
    assert [len(p) for p in contours[0]] == [2, 3, 4, 2]
    again = curves.parse_path(curves.write_path(contours))
    assert all(np.allclose(a, b) for a, b in zip(contours[0], again[0]))


SET = {
    "on an arc, turned": ({"run": "over", "radius": 30.0, "tracking": 0.1}, 40.0),
    "hanging, bolder": ({"run": "under", "radius": 40.0, "bolder": 0.3, "tracking": 0.3}, 0.0),
    "in a column, finer": ({"run": "column", "bolder": -0.2}, -90.0),
}


@pytest.mark.parametrize("how", SET)
def test_letters_that_are_set_otherwise_are_cut_as_exactly(how):
    line, turn = SET[how]
    one = TextLine(height=12.0, **line, **outlines("g&", "Serif"))
    proof = vcut_proof.proved(Carving(lines=(one,), turn=turn, x=7.0, y=-3.0), 60.0)
    assert proof.holds and proof.inside > 10_000, proof


def test_a_drawing_that_is_mirrored_turned_and_stretched_is_cut_as_exactly():
    path = "M-6.2 -4L6 -4.1L7.3 0L0.3 5.2L-6 4.4L-3 0ZM-1 -2L-1 2L2 1L2 -2Z"
    figures = DrawnFigures(path=path, wide=13.5, high=9.3, width=20.25, height=9.3)
    art = Artwork(id="a", kind="drawing", figures=figures, turn=33.0, mirror=True, x=5.0)
    proof = vcut_proof.proved(parts_of(art, VCut(), None), 60.0)
    assert proof.holds and proof.inside > 10_000, proof


@pytest.mark.parametrize(("char", "face", "angle"), some(vcut_proof.cases([20, 60, 90, 120], 10, seed=2026), 5))
def test_v_cuts_equal_the_exact_ideal(char, face, angle):
    proof = vcut_proof.prove(char, face, angle)
    assert proof.inside > 200
    assert proof.holds, proof


def angle_about(ring, x, y):
    """How often a ring goes round places, by the angles that its pieces are seen at."""
    closed = np.vstack([ring, ring[:1]])
    seen = np.angle((closed[1:] - [x, y]) @ [1, 1j] / ((closed[:-1] - [x, y]) @ [1, 1j]))
    return round(float(seen.sum()) / (2 * math.pi))


@pytest.mark.parametrize("face", ["Serif", "Sans", "Slab", "Condensed"])
def test_a_letter_is_filled_where_its_outlines_go_round_whether_they_cross_themselves_or_not(face):
    rng = np.random.default_rng(9)
    glyphs = outlines("ABDMVYZ34567890abdegmnpquz&@%{}", face)["glyphs"]
    for glyph in glyphs:
        rings = [curves.flatten(c, 1e-4) for c in curves.parse_path(glyph.path)]
        area = curves.region(curves.parse_path(glyph.path), 1e-4)
        where = np.vstack(rings)
        crossing = where[rng.integers(0, len(where), 30)] + rng.normal(0, 0.03, (30, 2))  # about its corners
        for x, y in crossing:
            if area.boundary.distance(Point(x, y)) > 1e-3:
                turns = sum(angle_about(ring, x, y) for ring in rings)
                assert area.contains(Point(x, y)) == (turns != 0), (glyph.char, x, y)


@given(st.lists(st.tuples(st.floats(-9, 9), st.floats(-9, 9)), min_size=3, max_size=9), st.integers(0, 2**31))
def test_any_outline_that_crosses_itself_is_filled_by_how_often_it_goes_round(corners, seed):
    ring = np.round(np.array(corners), 2)
    pieces = [np.vstack([a, b]) for a, b in zip(ring, np.roll(ring, -1, axis=0))]
    area = curves.region([pieces], 0.01)
    for x, y in np.random.default_rng(seed).uniform(-10, 10, (40, 2)):
        if shapely.LinearRing(ring).distance(Point(x, y)) > 1e-6:
            assert area.contains(Point(x, y)) == (angle_about(ring, x, y) != 0)
