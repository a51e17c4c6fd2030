# SPDX-License-Identifier: GPL-3.0-or-later
"""Cut-outs outside, inside and on their line, ends of the grain first, tabs put by hand: on the moves, against plain geometry."""

import math

import numpy as np
import pytest
import shapely
from hypothesis import assume, example, given, settings
from hypothesis import strategies as st

import relief_proof
from gatepost.core.carve import paths
from gatepost.core.carve.cut_away import CarvedArea, Out, cut_away, kept
from gatepost.core.findings import Level
from gatepost.core.frames import Matrix
from gatepost.core.job import commands
from gatepost.core.job.carve import CutOut, Plate
from gatepost.core.job.operation import Operation
from gatepost.core.job.tool_table import shipped_tools
from gatepost.core.plan.arranging import tab_moved
from gatepost.core.plan.pipeline import plan
from tests.conftest import tries
from tests.core.catalogue_jobs import JOBS, edited
from tests.core.test_drawn_plates import plate_of, star

MILL = next(t for t in shipped_tools() if t.number == 2)
TOP, LOW = 12.0, -0.3
plates = st.builds(
    Plate, x=st.floats(100, 300), y=st.floats(80, 200), width=st.floats(60, 200), height=st.floats(40, 160), corner=st.floats(0, 18),
    form=st.sampled_from(["rounded", "clipped", "hollow", "oval", "arched"]), tabs=st.just(0), allowance=st.sampled_from([0.0, 0.3, 0.8]),
    side=st.sampled_from(["outside", "inside", "on"]), grain_first=st.booleans(), turn=st.floats(-180, 180),
)  # fmt: skip


def swept(plate, grain=0.0):
    """Where the cutter goes at its lowest, and the moves."""
    moves = paths.cutout_moves(plate, MILL, TOP, LOW, TOP + 8.0, (0.0, 0.0, 60.0), grain)
    a, b = moves.points[:-1], moves.points[1:]
    low = (np.maximum(a[:, 2], b[:, 2]) < LOW + 1e-6) & ~moves.rapid
    parts = np.split(np.flatnonzero(low), np.flatnonzero(np.diff(np.flatnonzero(low)) > 1) + 1)
    runs = [shapely.LineString(np.vstack([a[k[0]], b[k]])[:, :2]) for k in parts if len(k)]
    noded = shapely.union_all([run for run in runs if run.length > 0])
    return shapely.union_all(shapely.buffer(shapely.get_parts(noded), MILL.diameter / 2.0, quad_segs=64)), moves


@settings(max_examples=tries(15))
@given(plates, st.floats(-90, 90))
def test_the_edge_that_is_wanted_stands_where_it_was_drawn_on_every_side_of_the_line(plate, grain):
    line, r = paths.plate_outline(plate, tol=0.002), MILL.diameter / 2.0
    gone, _ = swept(plate, grain)
    if plate.side == "on":
        wanted = line.exterior.buffer(r, quad_segs=64)
        assert shapely.hausdorff_distance(gone, wanted) < 0.03
        return
    kept = line if plate.side == "outside" else shapely.box(*line.buffer(60).bounds).difference(line)
    assert gone.intersection(kept.buffer(-0.02, quad_segs=64)).area < 1e-6  # nothing of it is cut
    waste = (line.buffer(40) if plate.side == "outside" else line).difference(kept)
    reached = waste.buffer(-r, quad_segs=64).buffer(r, quad_segs=64)  # what a disc gets into
    beside = reached.intersection(kept.buffer(2.0 * r - 0.1, quad_segs=64)).buffer(-0.02)
    assert beside.difference(gone).buffer(-0.004).is_empty


@settings(max_examples=tries(20))
@given(
    plates.filter(lambda p: p.allowance > 0.0 and p.side != "on" and p.grain_first), st.sampled_from([0.0, 90.0, 30.0])
)
def test_the_last_cut_takes_all_ends_of_the_grain_before_its_long_sides(plate, grain):
    _, moves = swept(plate, grain)
    line = paths.middle_line(plate, MILL).exterior
    a, b = moves.points[:-1], moves.points[1:]
    way = (b - a)[:, :2]
    long = np.hypot(*way.T)
    on = (long > 1e-6) & ~moves.rapid & (np.maximum(a[:, 2], b[:, 2]) < LOW + 1e-6)
    on &= shapely.distance(shapely.points((a[:, :2] + b[:, :2]) / 2.0), line) < 0.02
    lean = math.radians(grain)
    across, along = (
        np.abs(way @ np.array(u)) for u in ((-math.sin(lean), math.cos(lean)), (math.cos(lean), math.sin(lean)))
    )
    on &= np.abs(long - plate.allowance) > 1e-6  # the way onto the line and off it
    clear = on & (np.abs(across - along) > 0.05 * long)
    ends = (across > along)[clear]
    assert ends.any() and not ends.all()
    assert not ends[np.argmin(ends) :].any(), "an end after a side"
    assert long[on].sum() == pytest.approx(line.length, abs=2.5)
    lifts = np.flatnonzero(moves.rapid & (long > 1e-6) & (a[:, 2] < TOP))
    assert not len(lifts), "nothing is crossed in the wood"


def test_inside_a_waste_piece_comes_loose_without_tabs_and_the_plate_is_no_plate():
    job = edited(JOBS["plate"](), ("set plate", {"side": "inside"}))
    told = plan(job, cell=0.25)
    assert not [f for f in told.findings if f.level is Level.STOP]
    row = next(op for op in told.carving.operations if op.kind == "cutout")
    assert row.area.side == "inside"
    assert job.carving.plate is None and job.cut_out(job.setup("front").operations[-1]) is not None
    loose = plan(edited(job, ("set plate", {"tabs": 0})), cell=0.25)
    assert any(f.code == "wood.loose" for f in loose.findings)


def test_a_tab_is_dragged_along_its_line_and_the_others_stay_where_they_are():
    job = JOBS["plate"]()
    cut = job.setup("front").operations[-1]
    before = paths.tabs(job.cut_out(cut), job.tool(2))
    edit = tab_moved(job, "front", f"tab:{cut.id}/0", 9.0, -30.0)
    new = commands.run(job, *edit)
    after = paths.tabs(new.cut_out(new.setup("front").operations[-1]), new.tool(2))
    near = [min(math.dist((a.x, a.y), (b.x, b.y)) for a in after) for b in before]
    assert near[0] == pytest.approx(9.0, abs=0.05) and max(near[1:]) < 1e-3
    assert (
        paths.middle_line(new.cut_out(cut), job.tool(2)).exterior.distance(shapely.Point(after[0].x, after[0].y)) < 1e-3
    )
    for count in (2, 7):  # as many stand as are said to bear it
        other = commands.run(new, "set plate", {"tabs": count})
        assert len(paths.tabs(other.cut_out(other.setup("front").operations[-1]), job.tool(2))) == count
    even = commands.run(new, "set plate", {"tab_at": ()})
    assert paths.tabs(even.cut_out(even.setup("front").operations[-1]), job.tool(2)) == before


@settings(max_examples=tries(30))
@given(
    st.integers(3, 7),
    st.floats(0.0, 0.7),
    st.floats(0, 180),
    st.sampled_from(["outside", "inside"]),
    st.sampled_from([0.3, 0.8]),
)
@example(3, 0.7, 45.0, "outside", 0.8)  # the way onto the line went through the next side of a sharp inlet
def test_nothing_of_a_drawing_is_cut_on_the_way_onto_its_line_and_off_it(corners, depth, grain, side, allowance):
    plate = plate_of(star(corners, depth), tabs=0, allowance=allowance, grain_first=True, side=side)
    tool = relief_proof.cutter(2, "flat", 3.0, 4.0)
    assume(not paths.middle_line(plate, tool, allowance).is_empty)
    moves = paths.cutout_moves(plate, tool, TOP, LOW, TOP + 8.0, (0.0, 0.0, 60.0), grain)
    a, b = moves.points[:-1], moves.points[1:]
    low = (np.maximum(a[:, 2], b[:, 2]) < LOW + 1e-6) & ~moves.rapid
    line = paths.plate_outline(plate)
    kept = line if side == "outside" else shapely.box(*line.buffer(30).bounds).difference(line)
    runs = shapely.linestrings(np.stack([a[low][:, :2], b[low][:, :2]], axis=1))
    assert shapely.distance(runs, kept).min() > 1.5 - 0.02


@settings(max_examples=tries(20))
@given(
    plates, st.lists(st.tuples(st.floats(-120, 120), st.floats(-100, 100), st.floats(2, 60)), min_size=1, max_size=3)
)
def test_what_is_carved_and_then_cut_away_is_told_as_the_moves_take_it(plate, squares):
    """Against the wood that the moves leave: inside the line, and of an opening beside it too."""
    area = shapely.union_all([shapely.box(x - s, y - s, x + s, y + s) for x, y, s in squares])
    area = shapely.transform(area, lambda p: p + [plate.x, plate.y])
    gone, _ = swept(plate)
    whole = shapely.box(*area.union(gone).bounds).buffer(50.0)
    left = shapely.get_parts(whole.difference(gone))
    middle = paths.plate_outline(plate).representative_point()
    stays = (
        whole.difference(gone) if plate.side == "inside" else shapely.union_all([p for p in left if p.contains(middle)])
    )
    lost = area.difference(stays).area
    out = [Out(Operation(id="cut-out", kind="cutout", figures=CutOut()), plate, MILL)]
    said = cut_away(out, [CarvedArea("squares", area, False)], whole, Matrix(), "front")
    inside, within = kept(out)
    found = area.difference(inside).area if inside is not None else area.intersection(within).area
    assert bool(said) == (found > 0.05) and all(f.level is Level.CARE for f in said)
    assert found == pytest.approx(lost, abs=8.0)  # corners that no cutter gets into stand or not


def test_what_another_setup_cuts_away_of_the_same_face_is_told_as_well():
    small = {"width": 96.0, "height": 15.0, "corner": 0.0}
    job = edited(
        JOBS["raised"](), ("set operation", {"operation": "ground", "on": ("lettering",)}), ("remove operation", {"operation": "cut-out"}),
        ("add setup", {"title": "out", "id": "out"}), ("set plate", {"setup": "out", **small}),
    )  # fmt: skip
    assert [o.kind for o in job.setup("out").operations] == ["cutout"]
    (said,) = [f for f in plan(job, coarse=True).findings if f.code == "carve.cut-away"]
    assert said.setup == "front" and "what stays in ground" in said.message
