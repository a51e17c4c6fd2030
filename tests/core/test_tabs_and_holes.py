# SPDX-License-Identifier: GPL-3.0-or-later
"""Tabs that are put off flaws, corners and end grain; holes of a drawing that are cut out before it is; which of two is cut first."""

import math

import numpy as np
import pytest
import shapely
from hypothesis import example, given, settings
from hypothesis import strategies as st
from shapely import affinity

from gatepost.core.carve.paths import along_line, drawn_holes, plate_outline, round_line, tabs
from gatepost.core.carve.tab_places import on_end_grain, tab_shares
from gatepost.core.errors import OperatorError
from gatepost.core.findings import Level
from gatepost.core.geometry.straight import path_of
from gatepost.core.job import commands
from gatepost.core.job.base import changed
from gatepost.core.job.carve import CutOut, Plate
from gatepost.core.plan.pipeline import plan
from tests.conftest import tries
from tests.core.catalogue_carve import frame
from tests.core.catalogue_jobs import JOBS, edited
from tests.core.test_cutting_out import MILL, swept

forms = st.sampled_from(["rounded", "clipped", "oval", "arched"])


@settings(max_examples=tries(12))
@given(
    forms, st.floats(60, 260), st.floats(60, 200), st.integers(2, 8), st.floats(-180, 180), st.sampled_from([None, 0.0, 35.0, 90.0]),
    st.lists(st.tuples(st.floats(-130, 130), st.floats(-100, 100), st.floats(3, 12)), max_size=3),
)  # fmt: skip
@example("rounded", 200.0, 100.0, 4, 0.0, 0.0, [(0.0, -53.0, 8.0)])
def test_tabs_stand_where_they_may_and_no_two_at_one_place(form, wide, high, number, turn, grain, knots):
    """Off what is to be avoided by a tab's width, on a piece of line that hardly bends, along the grain where that is asked: judged by plain geometry."""
    plate = Plate(
        x=300.0, y=200.0, width=wide, height=high, corner=12.0, form=form, tabs=number, turn=turn, tab_width=6.0
    )
    avoid = shapely.union_all([shapely.Point(300 + x, 200 + y).buffer(r) for x, y, r in knots])
    shares = tab_shares(plate, MILL, avoid, grain)
    if not shares:
        assert grain is not None or knots or number * 40.0 > 2.0 * (wide + high) - 8 * 25.0 or form == "clipped"
        return
    placed = changed(plate, tab_at=shares)
    standing = tabs(placed, MILL)
    loop = round_line(plate, MILL)
    whole, half = along_line(loop)[-1], (6.0 + MILL.diameter) / 2.0
    assert (
        len(standing) == number and np.diff(shares, append=shares[0] + 1.0).min() * whole > 6.0 + MILL.diameter - 1e-6
    )
    line = shapely.LineString(loop)
    for tab in standing:
        assert avoid.is_empty or shapely.Point(tab.x, tab.y).distance(avoid) > 6.0 - 0.1
        a, b = (np.array(line.interpolate((tab.along + d) % whole).coords[0]) for d in (-half, half))
        assert math.dist(a, b) > 2.0 * half * math.cos(math.radians(10.0))  # no corner under it
        if grain is not None:
            way = math.degrees(math.atan2(*(b - a)[::-1]))
            assert abs((way - grain + 90.0) % 180.0 - 90.0) < 71.0
    if grain is not None:
        assert on_end_grain(placed, MILL, grain) == 0


def test_a_plain_plate_s_tabs_stand_evenly_and_where_there_is_no_room_there_are_none():
    oval = Plate(x=0.0, y=0.0, width=200.0, height=200.0, form="oval", tabs=4)
    shares = np.array(tab_shares(oval, MILL, shapely.Polygon()))
    assert len(shares) == 4 and np.diff(shares) == pytest.approx(0.25, abs=0.005)
    assert not tab_shares(oval, MILL, shapely.box(-500, -500, 500, 500))


def test_a_fix_moves_tabs_off_a_flaw_and_off_end_grain():
    for job, code in (
        (edited(JOBS["plate"](), ("add flaw", {"kind": "hole", "x": 30, "y": 12, "depth": 5})), "carve.tab-flaw"),
        (edited(JOBS["plate"](), ("set blank", {"grain": 90.0})), "carve.tabs-end-grain"),
    ):
        (said,) = [f for f in plan(job).findings if f.code == code]
        mended = commands.run(job, said.fixes[0].kind, dict(said.fixes[0].values))
        codes = {f.code for f in plan(mended).findings}
        assert code not in codes and "wood.loose" not in codes


rings = st.tuples(st.floats(14, 60), st.floats(14, 60), st.integers(3, 8), st.floats(0, 360))


@settings(max_examples=tries(12))
@given(rings, st.booleans(), st.floats(-180, 180), st.sampled_from([0.0, 0.3]))
def test_a_hole_is_what_was_drawn_and_nothing_but_it_is_cut(hole, mirror, turn, allowance):
    wide, high, corners, at = hole
    t = np.radians(at) + np.arange(corners) * 2 * np.pi / corners
    inner = shapely.Polygon(np.column_stack([wide / 2 * np.cos(t) + 10.0, high / 2 * np.sin(t)]))
    whole = shapely.box(-60, -50, 60, 50).difference(inner)
    figures = CutOut(side="inside", hole=1, tabs=0, allowance=allowance)
    plate = Plate(
        x=200.0,
        y=150.0,
        width=120.0,
        height=100.0,
        wide=120.0,
        high=100.0,
        corner=0.0,
        drawn=path_of(shapely.MultiPolygon([whole])),
        turn=turn,
        mirror=mirror,
        **dict(figures),
    )
    wanted = affinity.scale(inner, -1 if mirror else 1, 1, origin=(0, 0))
    wanted = affinity.translate(affinity.rotate(wanted, turn, origin=(0, 0)), 200.0, 150.0)
    assert shapely.hausdorff_distance(plate_outline(plate), wanted) < 1e-3
    assert [h.area for h in drawn_holes(plate)] == pytest.approx([inner.area], rel=1e-4)
    r = MILL.diameter / 2.0
    if wanted.buffer(-r - allowance - 0.1).is_empty or wanted.buffer(-r - allowance).geom_type != "Polygon":
        return
    gone, _ = swept(plate)
    assert gone.difference(wanted.buffer(0.02)).area < 1e-6
    reached = wanted.buffer(-r, quad_segs=64).buffer(r, quad_segs=64)
    beside = reached.difference(wanted.buffer(-2 * r + 0.1)).buffer(-0.02)
    assert beside.difference(gone).buffer(-0.004).is_empty


def test_holes_are_offered_cut_before_the_drawing_and_what_comes_out_of_them_hangs_on_tabs():
    job = edited(JOBS["plate"](), *frame(26.0), ("set blank", {"length": 120.0}))
    job = commands.run(job, "set tool", {"number": 2, "diameter": 3.0})
    (said,) = [f for f in plan(job).findings if f.code == "carve.holes-left"]
    done = commands.run(job, said.fixes[0].kind, dict(said.fixes[0].values))
    again = plan(done)
    codes = {f.code for f in again.findings if f.level is Level.STOP}
    assert "carve.holes-left" not in {f.code for f in again.findings} and "wood.loose" not in codes
    names = [o.operation for o in again.carving.operations]
    assert names.index("hole-1") < names.index("cut-out")
    small = edited(JOBS["plate"](), *frame(10.0))
    (said,) = [
        f
        for f in plan(commands.run(small, "set tool", {"number": 2, "diameter": 6.0})).findings
        if f.code == "carve.holes-left"
    ]
    assert dict(said.fixes[0].values)["holes"] == ((1, 0),)  # nothing of it comes loose: it is cut away


def test_either_of_two_is_cut_first_and_back_again():
    job = edited(JOBS["raised"](), ("add engraved line", {"setup": "front", "on": ("plate",), "inset": 3.0}))

    def order(one):
        return [o.operation for o in plan(one).carving.operations if o.operation in ("ground", "line")]

    for first, then in (("line", "ground"), ("ground", "line"), ("line", "ground")):
        job = commands.run(job, "cut first", {"operation": first, "then": then})
        seen = order(job)
        assert seen.index(then) > max(i for i, o in enumerate(seen) if o == first)
        (said,) = [f for f in plan(job).findings if f.code == "carve.which-first"]
        assert [dict(f.values) for f in said.fixes] == [{"operation": then, "then": first}]
    with pytest.raises(OperatorError, match="not two operations"):
        commands.run(job, "cut first", {"operation": "line", "then": "line"})
