# SPDX-License-Identifier: GPL-3.0-or-later
"""The second face: thickness, parallelism, and the board told in the coordinates in which it lies turned."""

import itertools

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st

from gatepost.core.blank.shape import polygon
from gatepost.core.findings import Level
from gatepost.core.job import commands
from gatepost.core.job.journal import Journal
from gatepost.core.job.turning import there, turned_hold
from gatepost.core.plan.pipeline import plan
from gatepost.core.plan.turned import turned_job
from gatepost.core.surface.level import _between, readings, turned_lying
from tests.conftest import tries


def edit(job, name, /, **values):
    return commands.run(job, name, values)


@pytest.fixture(params=["about X", "about Y"])
def turned(request, lock7):
    return edit(lock7, "set second face", turn=request.param)


def test_both_faces_come_out_level_and_as_thick_as_the_worst_readings_leave(turned):
    whole = plan(turned)
    c, under = turned.surfacing.cleanup, max(g.z for g in turned.blank.under)
    wanted = (whole.extremes.lowest[2] - c) - under - c
    first, back, front = whole.setups
    assert [s.name for s in whole.setups] == ["surface", "back", "front"]
    thick = float(front.start.z[front.start.wood].max())
    assert wanted - 0.25 < thick <= wanted + 1e-6  # towards its edges the underside goes on rising
    assert np.ptp(front.start.z[front.start.wood]) == 0.0
    assert front.zero_height == pytest.approx(thick)
    clean = [f for f in whole.findings if f.code == "wood.clean"]
    assert {f.setup for f in clean} == {"surface", "back"} and all(f.level is Level.OK for f in clean)
    for name, low in (("surface", 33.0), ("back", 32.0)):
        swept = whole.setup(name).end
        assert np.ptp(swept.z[swept.wood]) < 0.006 and swept.z[swept.wood].min() > low


def test_the_turned_board_is_the_mirrored_board_and_lies_on_its_cut_face(turned):
    back = next(s for s in turned.setups if s.name == "back")
    plane = 33.354
    job = turned_job(turned, back, plane, None)
    mirrored = shapely.transform(
        polygon(turned.blank), lambda p: np.array([there(turned.blank, back.turn, *q) for q in p])
    )
    assert polygon(job.blank).symmetric_difference(mirrored).area < 1e-6 * mirrored.area
    assert shapely.LinearRing(job.blank.outline).is_ccw
    for gap, height in zip(turned.blank.under, job.blank.heights):
        assert (height.x, height.y) == pytest.approx(there(turned.blank, back.turn, gap.x, gap.y))
        assert height.z == pytest.approx(plane - gap.z)


@given(st.sampled_from(["about X", "about Y"]), st.floats(0, 900), st.floats(0, 300))
def test_turned_twice_everything_is_where_it_was(lock7, turn, x, y):
    assert there(lock7.blank, turn, *there(lock7.blank, turn, x, y)) == pytest.approx((x, y))
    setup = lock7.setup("surface")
    for hold in setup.holds:
        again = turned_hold(turned_hold(hold, setup, lock7.blank, turn), setup, lock7.blank, turn)
        assert (again.x, again.y) == pytest.approx((hold.x, hold.y))
        assert (again.heading - hold.heading) % 360 == pytest.approx(0, abs=1e-9)


MEASURED = {
    "as predicted": ((0.0, 0.02, -0.02, 0.0), {"surface.parallel": Level.OK}, 0.0),
    "thicker": ((0.5, 0.5, 0.55, 0.5), {"surface.thickness-off": Level.CARE, "surface.parallel": Level.OK}, 0.5125),
    "a wedge": ((0.0, 0.4, 0.4, 0.0), {"surface.not-parallel": Level.CARE}, 0.2),
}


@pytest.mark.parametrize("name", MEASURED)
def test_what_is_measured_at_the_corners_is_what_the_carving_is_planned_on(name, lock7):
    offs, codes, mean = MEASURED[name]
    job = edit(lock7, "set second face")
    before = plan(job, coarse=True)
    thick = before.setup("front").zero_height
    journal = Journal().add("t", "measured", "back", **{f"corner{i}": thick + off for i, off in enumerate(offs, 1)})
    after = plan(job, journal, coarse=True)
    assert after.setup("front").zero_height == pytest.approx(thick + mean)
    said = {f.code: f.level for f in after.report("surface", "back").findings}
    assert {c: said.get(c) for c in codes} == codes and "surface.measure" not in said
    told = [[p.fingerprint for s in of.setups if s.name != "back" for p in s.programs] for of in (before, after)]
    assert (told[0] == told[1]) == (abs(mean) < 5e-7)


@given(st.integers(0, 10**6), st.floats(0, 4))
@settings(max_examples=tries(60))
def test_turned_over_a_board_rests_on_three_places_of_its_top_about_its_middle(seed, cup):
    """Against trying every three readings."""
    rng = np.random.default_rng(seed)
    xy = np.vstack([[(0, 0), (600, 0), (600, 200), (0, 200)], rng.uniform([20, 20], [580, 180], (6, 2))])
    tops = np.column_stack([xy, 30 + cup * ((xy[:, 1] - 100) / 100) ** 2 + rng.normal(0, 0.4, len(xy))])
    unders = np.column_stack([xy, np.maximum(rng.normal(0.5, 0.3, len(xy)), 0)])
    read, middle = readings(tops, unders), np.array([311.0, 93.0])
    found = turned_lying(read, tuple(middle))
    best = []
    for three in itertools.combinations(range(len(tops)), 3):
        a = np.column_stack([tops[list(three), :2], np.ones(3)])
        if abs(np.linalg.det(a)) < 1.0:
            continue
        s = np.linalg.solve(a, tops[list(three), 2])
        inside = (np.linalg.solve(a.T, np.append(middle, 1.0)) >= -1e-9).all()  # its weight stands within the three
        if inside and (tops[:, 2] <= tops[:, :2] @ s[:2] + s[2] + 1e-9).all():
            best.append(_between(read, float(s[0]), float(s[1])).thickness)
    assert best and min(abs(found.thickness - b) for b in best) < 1e-6


def test_one_face_again_takes_the_setup_away(turned):
    again = edit(turned, "set second face", present=False)
    assert [s.name for s in again.setups] == ["surface", "front"]
    assert {"surface.one-sided"} & {
        f.code for f in plan(edit(again, "set surfacing", cleanup=1.0), coarse=True).findings
    }
    assert not {"surface.one-sided"} & {
        f.code for f in plan(edit(turned, "set surfacing", cleanup=1.0), coarse=True).findings
    }


def test_a_clamp_dragged_on_the_second_face_meets_the_edge_that_lies_there(turned):
    from gatepost.core.plan.handling import moved

    back = next(s for s in turned.setups if s.name == "back")
    for hold in back.holds:
        name, values = moved(turned, "back", f"hold:{hold.name}", 15.0, 0.0)
        after = edit(turned, name, **values)
        said = plan(after, coarse=True).report("hold", "back").findings
        assert not [f for f in said if f.code == "hold.jaw-off"], hold.name
