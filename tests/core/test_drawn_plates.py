# SPDX-License-Identifier: GPL-3.0-or-later
"""Drawings that are cut out: the part is what was drawn, and its tabs stand off its corners."""

from __future__ import annotations

import math

import numpy as np
import pytest
import shapely
from hypothesis import example, given, settings
from hypothesis import strategies as st
from shapely import affinity

import relief_proof
from gatepost.core.carve.paths import cutout_moves, plate_outline, tabs
from gatepost.core.geometry.straight import path_of
from gatepost.core.job import commands
from gatepost.core.job.base import changed
from gatepost.core.job.carve import CutOut, Plate
from gatepost.core.plan.pipeline import plan
from gatepost.core.wood.field import Cutter, HeightField, cut
from tests.conftest import tries
from tests.core.catalogue_jobs import JOBS, edited

TALL, CELL = 12.0, 0.1


def star(corners: int, depth: float) -> shapely.Polygon:
    """A star about 0, 0, 40 across, whose inner corners lie in by a share."""
    t = np.arange(2 * corners) * math.pi / corners
    r = np.where(np.arange(2 * corners) % 2 == 0, 20.0, 20.0 * (1.0 - depth))
    return shapely.Polygon(np.column_stack([r * np.cos(t), r * np.sin(t)]))


def plate_of(shape: shapely.Polygon, **values: float | bool) -> Plate:
    """A plate of a drawn shape, as large as it was drawn."""
    x0, y0, x1, y1 = shape.bounds
    middle = np.array([(x0 + x1) / 2.0, (y0 + y1) / 2.0])
    path = path_of(shapely.MultiPolygon([shapely.transform(shape, lambda p: p - middle)]))
    size = {"wide": x1 - x0, "high": y1 - y0, "width": x1 - x0, "height": y1 - y0}
    return Plate(**{"x": 35.0, "y": 30.0, "corner": 0.0, "drawn": path, **size, **dict(CutOut()), **values})


@settings(max_examples=tries(5))
@given(
    corners=st.integers(3, 7),
    depth=st.floats(0.0, 0.35),
    turn=st.floats(-180, 180),
    mirror=st.booleans(),
    allowance=st.sampled_from([0.0, 0.3]),
    grain_first=st.booleans(),
)
@example(corners=5, depth=0.35, turn=11.0, mirror=False, allowance=0.3, grain_first=True)
def test_the_part_is_what_was_drawn_wherever_the_cutter_gets_in(corners, depth, turn, mirror, allowance, grain_first):
    """Measured on the wood: nothing of it is cut, all beside it is, and what stays on in inner corners is what a disc can't reach."""
    shape = star(corners, depth)
    plate = plate_of(shape, turn=turn, mirror=mirror, allowance=allowance, tabs=0, grain_first=grain_first)
    middle = np.array(shape.envelope.centroid.coords[0])
    wanted = shapely.transform(shape, lambda p: (p - middle) * ([-1.0, 1.0] if mirror else [1.0, 1.0]))
    wanted = affinity.translate(affinity.rotate(wanted, turn, origin=(0, 0)), 35.0, 30.0)
    assert shapely.symmetric_difference(plate_outline(plate), wanted).area < 0.01
    tool = relief_proof.cutter(2, "flat", 3.0, 4.0)
    wood = HeightField(np.full((601, 701), np.float32(TALL)), 0.0, 0.0, CELL)
    done = cut(wood, cutout_moves(plate, tool, TALL, -0.3, TALL + 8.0, (0.0, 0.0, 60.0)), Cutter("flat", 3.0)).after
    j, i = (a.ravel()[::3] for a in np.mgrid[0:601, 0:701])
    places = shapely.points(i * CELL, j * CELL)
    z, away = done.z[j, i], shapely.distance(places, wanted.boundary)
    inside = shapely.contains_xy(wanted, i * CELL, j * CELL)
    assert (z[inside & (away > 0.02)] == np.float32(TALL)).all()
    reached = wanted.buffer(1.5, quad_segs=64).buffer(-1.5, quad_segs=64)
    beside = ~shapely.contains_xy(reached.buffer(0.03), i * CELL, j * CELL) & (shapely.distance(places, reached) < 2.9)
    assert z[beside].max() < 0.0


@pytest.mark.parametrize("corners", [3, 4, 5])
def test_tabs_stand_off_corners_and_as_many_as_asked(corners):
    """On a star with long straight sides none comes near a corner."""
    plate, tool = plate_of(star(corners, 0.3), tabs=corners, tab_width=4.0), relief_proof.cutter(2, "flat", 3.0, 4.0)
    found = tabs(plate, tool)
    assert len(found) == corners
    sharp = shapely.multipoints(np.asarray(plate_outline(plate).exterior.coords))
    assert all(shapely.distance(shapely.points(t.x, t.y), sharp) > 3.5 for t in found)


def test_a_drawing_is_cut_out_in_a_plan_and_a_plate_that_is_turned_is_turned():
    """It is judged as a plate is: what its cutter does not get into is told, and a slimmer one mends it."""
    x = star(4, 0.65)
    job = edited(JOBS["plate"](), ("set plate", {"present": False}), ("remove operation", {"operation": "lettering"}))
    path = path_of(shapely.MultiPolygon([x]))
    job = edited(
        job, ("add drawing", {"setup": "front", "path": path, "wide": 40.0, "high": 40.0, "id": "star"}), ("set art", {"art": "star", "x": 60.0, "y": 40.0}),
        ("cut out drawing", {"art": "star"}),
    )  # fmt: skip
    assert [o.kind for o in job.setup("front").operations] == ["cutout"]
    told = plan(job, cell=0.5)
    codes = {f.code for f in told.findings}
    assert "carve.cutout-unreached" in codes and "wood.gouged" not in codes
    assert told.carving.operations[0].area is not None
    slim = changed(job.tool(2), number=9, diameter=1.0)
    job = edited(job, ("add tool", {"tool": slim}), ("set plate", {"tool": 9, "operation": "cut-out"}))
    assert "carve.cutout-unreached" not in {f.code for f in plan(job, cell=0.5).findings}
    turned = commands.run(JOBS["plate"](), "set art", {"art": "plate", "turn": 90.0})
    operation = next(o for o in turned.setup("front").operations if o.kind == "cutout")
    flat = turned.plate(operation)
    assert flat is not None
    (x0, y0, x1, y1) = plate_outline(flat).bounds
    assert (x1 - x0, y1 - y0) == pytest.approx((flat.height, flat.width), abs=0.02)
