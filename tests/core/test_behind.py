# SPDX-License-Identifier: GPL-3.0-or-later
"""Screws and hanger recesses in the back, against plain geometry of the floor over them, however the board lies."""

import numpy as np
import pytest
import shapely
from hypothesis import example, given, settings
from hypothesis import strategies as st

from gatepost.core.carve.behind import areas_behind
from gatepost.core.errors import OperatorError
from gatepost.core.findings import Level
from gatepost.core.job import commands
from gatepost.core.job.behind import HangerFigures
from gatepost.core.job.operation import Artwork
from gatepost.core.plan.pipeline import plan
from tests.conftest import tries
from tests.core.catalogue_carve import recess
from tests.core.catalogue_jobs import JOBS, edited

CELL = 0.5  # mm, of the wood that is swept, at the most
SIZE = (120.0, 80.0, 16.0)


def over_it(job):
    """What the plan says stays over each thing in the back, before it goes in: by the one that is named least."""
    said = [
        f for f in plan(job).findings if f.code in ("carve.behind-held", "carve.behind-thin", "carve.behind-through")
    ]
    return {f.about: (f.working.values[0].value, f) for f in said}


@settings(max_examples=tries(12))
@given(
    st.floats(20, 100), st.floats(20, 60), st.floats(-90, 90), st.integers(1, 4), st.floats(6, 20), st.floats(2, 9), st.sampled_from([0, 90, 180, 270]),
)  # fmt: skip
@example(60.0, 40.0, 0.0, 1, 10.0, 5.0, 90)
@example(60.0, 47.6, 0.0, 1, 10.0, 5.0, 0)
def test_the_least_wood_over_a_row_of_screws_is_the_floor_s_where_one_reaches_under_it(
    x, y, turn, number, pitch, depth, spin
):
    job = JOBS["strapped"]()
    job = commands.run(job, "remove operation", {"operation": "lettering"})
    job = edited(
        job, recess(depth=depth, corner=0.0), ("set setup", {"setup": "front", "spin": spin}),
        ("add behind", {"setup": "front", "kind": "screws", "number": number, "pitch": pitch, "long": 3.0}),
        ("set art", {"art": "screws", "x": x, "y": y, "turn": turn}),
    )  # fmt: skip
    least, _ = over_it(job)["Screws from behind"]
    along = (np.arange(number) - (number - 1) / 2) * pitch
    rad = np.radians(turn)
    discs = shapely.union_all([shapely.Point(x + a * np.cos(rad), y + a * np.sin(rad)).buffer(2.0) for a in along])
    floor = shapely.box(50, 34, 70, 46)
    if not shapely.box(0, 0, *SIZE[:2]).covers(discs.buffer(2 * CELL)):
        assert least in (
            0.0,
            pytest.approx(SIZE[2], abs=0.02),
            pytest.approx(SIZE[2] - depth, abs=0.02),
        )  # beside the board there is none
    elif discs.buffer(2 * CELL).disjoint(floor):
        assert least == pytest.approx(SIZE[2], abs=0.02)
    elif discs.buffer(-2 * CELL).intersection(floor.buffer(-CELL)).area > 1.0:
        assert least == pytest.approx(SIZE[2] - depth, abs=0.02)


def test_a_hanger_recess_is_as_wide_as_its_slot_and_its_undercut():
    art = Artwork(
        id="h", kind="hanger", x=10.0, y=20.0, turn=90.0, figures=HangerFigures(slot=30, open=5, undercut=2.5)
    )
    (area,) = areas_behind(art)
    x0, y0, x1, y1 = area.bounds
    assert (x1 - x0, y1 - y0) == pytest.approx((35.0, 10.0), abs=0.01)
    assert area.area == pytest.approx(25.0 * 10.0 + np.pi * 25.0, rel=2e-3)


def test_a_fix_leaves_two_millimetres_and_what_can_t_be_mended_has_none():
    job = edited(
        JOBS["strapped"](),
        recess(depth=8.0),
        ("add behind", {"setup": "front", "kind": "screws", "number": 1, "long": 9.0}),
    )
    _, said = over_it(job)["Screws from behind"]
    assert said.level is Level.STOP
    (fix,) = said.fixes
    mended = over_it(commands.run(job, fix.kind, dict(fix.values)))["Screws from behind"][1]
    assert mended.code == "carve.behind-held"
    deeper = commands.run(job, "set operation", {"operation": "recess", "depth": 13.0})
    assert not over_it(deeper)["Screws from behind"][1].fixes


def test_what_lies_past_a_plate_that_is_cut_out_has_no_wall_and_nothing_else_is_said_of_that_side():
    job = edited(JOBS["plate"](), ("add behind", {"setup": "front", "kind": "screws", "number": 1, "long": 3.0}))
    edge = [f for f in plan(job).findings if f.code == "carve.behind-edge"]
    assert not edge
    away = commands.run(job, "set art", {"art": "screws", "x": 3.0, "y": 3.0})
    assert any(f.code == "carve.behind-edge" for f in plan(away).findings)


def test_there_are_two_kinds():
    with pytest.raises(OperatorError, match="screws and hanger"):
        commands.run(JOBS["plate"](), "add behind", {"setup": "front", "kind": "nails"})
