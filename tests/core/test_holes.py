# SPDX-License-Identifier: GPL-3.0-or-later
"""Holes and engraved lines: what the moves leave in the wood, against discs and distances."""

from __future__ import annotations

import math
from dataclasses import replace

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st

import relief_proof
from gatepost.core.carve.areas import area_of
from gatepost.core.carve.drilling import Drilled, bottom_of, hole_moves
from gatepost.core.carve.engraving import Engraved, half_line, line_moves, lines_of
from gatepost.core.carve.sunk_moves import Heights
from gatepost.core.job.base import changed
from gatepost.core.job.carve import Rounded
from gatepost.core.job.holes import Drilling, Engraving, HolesFigures
from gatepost.core.job.operation import Artwork
from gatepost.core.job.rows import places
from gatepost.core.plan.pipeline import plan
from gatepost.core.tolerances import THROUGH_EXTRA
from gatepost.core.wood.field import Cutter, HeightField, cut, cutter_of
from tests.conftest import tries
from tests.core.catalogue_jobs import JOBS, edited
from tests.core.test_wood import shape_height

FACE, CELL = 20.0, 0.1
AT = Heights(FACE, FACE + 0.4, FACE + 8.0, lambda t: (0.0, 0.0, 60.0), shapely.box(0, 0, 60, 40))


def wood(high: float) -> HeightField:
    """A board 60 by 40."""
    return HeightField(np.full((401, 601), np.float32(high)), 0.0, 0.0, CELL)


@settings(max_examples=tries(6))
@given(
    across=st.floats(3.0, 11.0), thin=st.floats(0.0, 0.75), number=st.integers(1, 4), pitch=st.floats(12.0, 14.0), turn=st.floats(-40, 40), mirror=st.booleans(),
    deep=st.floats(1.0, 15.0), through=st.booleans(), peck=st.floats(0.5, 6.0),
)  # fmt: skip
def test_holes_are_as_wide_and_deep_as_asked_and_nothing_else_is_touched(
    across, thin, number, pitch, turn, mirror, deep, through, peck
):
    """By a tool of the hole's own size, pecked, or by a thinner end mill, bored: measured on the wood."""
    art = Artwork(
        id="holes",
        kind="holes",
        x=30.0,
        y=20.0,
        turn=turn,
        mirror=mirror,
        figures=HolesFigures(across=across, number=number, pitch=pitch),
    )
    bored = thin > 0.1
    tool = relief_proof.cutter(6, "flat", across * (1.0 - thin) if bored else across, 3.0)
    d = Drilled(Drilling(tool=6, deep=deep, through=through, peck=peck), art)
    moves = hole_moves(d, tool, AT)
    done = cut(wood(AT.highest), moves, Cutter("flat", tool.diameter))
    low = bottom_of(d, tool, FACE)
    assert low == (-THROUGH_EXTRA if through else pytest.approx(FACE - deep))
    away = shapely.distance(
        shapely.points(*(a.ravel() for a in np.meshgrid(np.arange(601) * CELL, np.arange(401) * CELL))),
        shapely.multipoints(places(art)),
    )
    z, away = done.after.z.ravel(), away.ravel()
    assert np.abs(z[away < across / 2.0 - 0.02] - low).max() < 1e-4
    assert (z[away > across / 2.0 + 0.01] == np.float32(AT.highest)).all()
    assert done.deepest[moves.rapid].max() < 1e-3
    assert done.deepest[~moves.rapid].max() < (max(3.0, peck * 1.2) + 1e-3)
    assert area_of(art, 0.001).area == pytest.approx(number * math.pi * across**2 / 4.0, rel=2e-3)


POINTED = ("vee", "tapered_ball", "rounded_vee")


@settings(max_examples=tries(9))
@given(
    kind=st.sampled_from(["vee", "ball", "flat", "bull", "tapered_ball", "rounded_vee"]), sunk=st.floats(0.3, 3.5), inset=st.floats(0.0, 5.0), tip=st.sampled_from([0.0, 0.5]),
    form=st.sampled_from(["rounded", "hollow", "clipped", "oval", "arched"]),
)  # fmt: skip
def test_a_line_is_as_wide_and_deep_as_its_tool_makes_it_at_a_distance_inside_the_outline(kind, sunk, inset, tip, form):
    """Measured on the wood against the distance to the line: sloped by a V, round by a ball, upright by an end mill."""
    art = Artwork(
        id="border",
        kind="plate",
        x=30.0,
        y=20.0,
        turn=8.0,
        figures=Rounded(width=42.0, height=26.0, corner=6.0, form=form),
    )
    tool = changed(
        relief_proof.cutter(3, "flat", 12.0 if kind in POINTED else 3.0, 1.5),
        kind=kind,
        angle=60.0 if kind in POINTED else 0.0,
        tip=tip if kind == "vee" else 0.0,
        radius=0.7,
    )
    e = Engraved(Engraving(sunk=sunk, inset=inset), (art,))
    lines = lines_of(e)
    at = replace(AT, highest=FACE)
    done = cut(wood(FACE), line_moves(lines, tool, sunk, at), cutter_of(tool)).after.z
    line = shapely.multilinestrings([shapely.linestrings(r) for r in lines])
    inner = area_of(art, 0.002)
    inner = inner.buffer(-inset, quad_segs=64) if inset else inner
    assert shapely.hausdorff_distance(shapely.segmentize(line, 0.2), shapely.segmentize(inner.boundary, 0.2)) < 0.05
    j, i = (a.ravel() for a in np.mgrid[0:401:2, 0:601:2])
    away = shapely.distance(shapely.points(i * CELL, j * CELL), line)
    half, z = half_line(tool, sunk), done[j, i]
    assert (z[away > half + 0.01] == np.float32(FACE)).all() and z.min() >= FACE - sunk - 1e-3
    wanted = FACE - sunk + shape_height(cutter_of(tool), np.minimum(away, tool.diameter / 2.0))
    near = away < half - 0.02
    assert np.abs(z[near] - np.minimum(wanted[near], FACE)).max() < 0.002


@settings(max_examples=tries(8))
@given(
    across=st.floats(3.0, 11.0),
    angle=st.sampled_from([60.0, 90.0, 118.0, 140.0]),
    deep=st.floats(1.0, 12.0),
    through=st.booleans(),
)
def test_a_drill_with_a_point_makes_its_hole_whole_as_deep_as_is_asked(across, angle, deep, through):
    """Its point goes on under that, as a cone; right through, the whole width comes out below."""
    art = Artwork(id="hole", kind="holes", x=30.0, y=20.0, figures=HolesFigures(across=across))
    tool = changed(relief_proof.cutter(6, "flat", across, 3.0), kind="drill", angle=angle)
    d = Drilled(Drilling(tool=6, deep=deep, through=through, peck=2.0), art)
    done = cut(wood(AT.highest), hole_moves(d, tool, AT), cutter_of(tool)).after.z
    away = np.hypot(*np.meshgrid(np.arange(601) * CELL - 30.0, np.arange(401) * CELL - 20.0))
    whole = -THROUGH_EXTRA if through else FACE - deep
    inside = away < across / 2.0 - 0.02
    cone = (across / 2.0 - away[inside]) / math.tan(math.radians(angle / 2.0))
    assert np.abs(done[inside] - (whole - cone)).max() < 0.005
    assert (done[away > across / 2.0 + 0.01] == np.float32(AT.highest)).all()


def test_from_line_to_line_a_tool_goes_over_whatever_may_stand_between():
    """A strap may have its nose inside a border: all ways across are as high as travels are."""
    arts = tuple(
        Artwork(id=f"border-{x:.0f}", kind="plate", x=x, y=20.0, figures=Rounded(width=12.0, height=10.0))
        for x in (12.0, 30.0, 48.0)
    )
    tool = relief_proof.cutter(3, "ball", 3.0, 1.5)
    moves = line_moves(lines_of(Engraved(Engraving(), arts)), tool, 1.0, AT)
    way = np.diff(moves.points, axis=0)
    across = moves.rapid & (np.hypot(way[:, 0], way[:, 1]) > 0.0)
    assert across.sum() == 3 and (moves.points[:-1][across][:, 2] >= AT.travel).all()


def test_a_v_without_an_angle_is_told_and_nothing_fails():
    """As a table of tools brought in may have it."""
    job = edited(
        JOBS["strapped"](),
        ("set tool", {"number": 3, "angle": 0.0}),
        ("add engraved line", {"setup": "front", "inset": 22.0, "tool": 3}),
    )
    assert "carve.line-tool" in {f.code for f in plan(job, cell=0.5).stops}
