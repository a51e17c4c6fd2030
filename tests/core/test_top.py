# SPDX-License-Identifier: GPL-3.0-or-later
"""The top between its readings, against an independent thin plate; and quick masks against exact ones."""

import numpy as np
import pytest
import shapely
from hypothesis import assume, given, settings
from hypothesis import strategies as st
from scipy.interpolate import RBFInterpolator
from shapely.geometry import MultiPoint, Point, box

from gatepost.core.blank.top import Top
from gatepost.core.geometry.raster import inside
from tests.conftest import tries

readings = st.lists(
    st.tuples(st.integers(0, 900), st.integers(0, 300), st.integers(3000, 3400)),
    min_size=3,
    max_size=24,
    unique_by=lambda r: r[:2],
)


def top_of(rows):
    table = np.array(rows, dtype=float)
    top = Top(table[:, :2], table[:, 2] / 100.0, 30.0)
    assume(top.measured and shapely.area(MultiPoint(table[:, :2]).convex_hull) > 2000)
    return top


@given(readings)
def test_the_plate_is_the_one_that_another_solver_finds(rows):
    top = top_of(rows)
    x, y = np.meshgrid(np.linspace(0, 900, 19), np.linspace(0, 300, 9))
    other = RBFInterpolator(top.places, top.heights, kernel="thin_plate_spline")(
        np.column_stack([x.ravel(), y.ravel()])
    )
    span = np.ptp(top.heights)
    other = np.clip(other, top.heights.min() - 0.25 * span, top.heights.max() + 0.25 * span).reshape(x.shape)
    assert np.allclose(top.at(x, y), other, atol=2e-5)
    assert np.allclose(top.at(top.places[:, 0], top.places[:, 1]), top.heights, atol=2e-6)


@given(readings)
@settings(max_examples=tries(30))
def test_a_fine_grid_is_within_two_thousandths_of_the_plate_itself(rows):
    top = top_of(rows)
    # readings as near as a caliper's width and 4 mm apart in height are no board: what is smooth is asked of boards
    near = shapely.distance(shapely.points(top.places)[:, None], shapely.points(top.places)[None])
    assume(near[near > 0].min() > 60 and shapely.area(MultiPoint(top.places).convex_hull) > 40_000)
    x, y = np.arange(0.25, 912, 0.5), np.arange(0.25, 318, 1.0)
    some = np.random.default_rng(len(rows)).integers(0, [len(x), len(y)], (3000, 2))
    quick = top.over(x, y)[some[:, 1], some[:, 0]]
    exact = top.at(x[some[:, 0]], y[some[:, 1]])
    inner = (exact > top.heights.min() - 0.15 * np.ptp(top.heights)) & (
        exact < top.heights.max() + 0.15 * np.ptp(top.heights)
    )  # where it is held to its limits there is a crease
    assert np.abs(quick - exact)[inner].max(initial=0.0) < 2e-3 * max(1.0, np.ptp(top.heights))


def test_unmeasured_tops_are_level_and_small_grids_exact():
    level = Top(np.zeros((0, 2)), np.zeros(0), 28.5)
    assert (level.over(np.arange(5.0), np.arange(4.0)) == 28.5).all()
    three = Top(np.array([[0.0, 0], [100, 0], [0, 100]]), np.array([1.0, 2.0, 3.0]), 0.0)
    assert three.over(np.array([0.0, 50.0]), np.array([0.0, 50.0])) == pytest.approx(np.array([[1, 1.5], [2, 2.5]]))


tenth = st.integers(-50, 450).map(lambda v: v / 10)
discs = st.lists(st.tuples(tenth, tenth, st.integers(5, 150).map(lambda v: v / 10)), min_size=1, max_size=5)


@given(discs, discs, st.floats(0.3, 1.7))
def test_cells_inside_an_area_are_those_that_an_exact_test_finds(more, less, cell):
    area = shapely.union_all([Point(x, y).buffer(r, quad_segs=5) for x, y, r in more]).difference(
        shapely.union_all([box(x, y, x + r, y + r / 2) for x, y, r in less])
    )
    rows, columns = int(30 / cell), int(40 / cell)
    mask = inside(area, 0.137, -0.251, cell, rows, columns)
    x, y = np.meshgrid(0.137 + np.arange(columns) * cell, -0.251 + np.arange(rows) * cell)
    far = shapely.distance(shapely.boundary(area), shapely.points(x, y)) > 1e-9 if not area.is_empty else True
    assert ((mask == shapely.contains_xy(area, x, y)) | ~np.asarray(far)).all()


@pytest.mark.parametrize(("aside", "known"), [(0.3, False), (0.4, True)])
def test_readings_all_but_in_a_line_leave_the_shape_open(aside, known):
    """By hand: the middle one aside by 0.45 spreads across by 0.367, by 0.6 by 0.490; along by 424.3, of which a thousandth counts."""
    rows = ((0.0, 100.0, 20.0), (300.0, 100.0 + 1.5 * aside, 20.5), (600.0, 100.0, 21.0))
    table = np.array(rows)
    assert Top(table[:, :2], table[:, 2], 20.0).measured is known
