# SPDX-License-Identifier: GPL-3.0-or-later
"""Letters cut through: what stays is one piece, found again from the wood that the cutter left, cell by cell."""

import math

import numpy as np
import pytest
import shapely
from hypothesis import example, given, settings
from hypothesis import strategies as st
from scipy import ndimage

import sunk_proof
from gatepost.core.carve.areas import area_of
from gatepost.core.carve.bridges import loose_in, stencilled, webs
from gatepost.core.carve.edits import outlines
from gatepost.core.carve.stencil_report import sinking_of
from gatepost.core.findings import Level
from gatepost.core.job import commands
from gatepost.core.job.carve import Letters, TextLine
from gatepost.core.job.operation import Artwork
from gatepost.core.job.sunk import Stencil
from gatepost.core.plan.pipeline import plan
from gatepost.drawing.look import AWAY, subject
from tests.conftest import tries
from tests.core.catalogue_carve import stencil
from tests.core.catalogue_jobs import JOBS, edited

MILL = sunk_proof.mill(2, 2.0)


def lettering(text, face="Sans", turn=0.0, mirror=False, **line):
    """Lettering by itself."""
    lines = (TextLine(height=40.0, **outlines(text, face), **line),)
    return Artwork(id="text", kind="lettering", turn=turn, mirror=mirror, figures=Letters(lines=lines))


def pieces_of(cut, cell=0.1):
    """Pieces of the wood about an area once it is gone: cells that touch by a side, counted."""
    x0, y0, x1, y1 = cut.buffer(2.0).bounds
    x, y = np.meshgrid(np.arange(x0, x1, cell), np.arange(y0, y1, cell))
    wood = ~shapely.contains_xy(cut, x, y)
    numbers, count = ndimage.label(wood)
    sizes = ndimage.sum_labels(wood, numbers, np.arange(1, count + 1))
    return int((sizes > 40).sum())


texts = st.text("OABDPQR08469&oaegb%B", min_size=1, max_size=3)


@settings(max_examples=tries(12))
@given(
    texts, st.sampled_from(["Sans", "Serif"]), st.sampled_from(["upright", "across", "shortest"]), st.floats(1.0, 8.0), st.floats(-180, 180),
    st.booleans(), st.sampled_from(["straight", "over", "column"]),
)  # fmt: skip
@example("%B&", "Serif", "across", 3.0, 30.0, True, "over")
def test_bridges_leave_wood_as_wide_as_asked_that_runs_as_the_letter_stands(text, face, way, width, turn, mirror, run):
    art = lettering(text, face, turn, mirror, run=run, radius=150.0, tracking=0.2)
    laid = stencilled(Stencil(bridge=width, way=way), [art], 0.01)
    whole = area_of(art, 0.01)
    assert laid.cut.difference(whole).area < 1e-6 and laid.islands == sum(len(p.interiors) for p in whole.geoms)
    assert len(laid.loose) + 1 == pieces_of(laid.cut)  # what is said to fall out is what does
    kept = whole.difference(laid.cut)
    assert kept.symmetric_difference(shapely.union_all([b.area for b in laid.bridges])).area < 2e-4 * kept.length + 1e-6
    for bridge in laid.bridges:
        along = np.array([math.cos(math.radians(bridge.heading)), math.sin(math.radians(bridge.heading))])
        corners = shapely.get_coordinates(bridge.area) @ np.array([-along[1], along[0]])
        assert np.ptp(corners) < width + 1e-6
        if run == "straight" and way != "shortest":
            upright = 90.0 + turn if way == "upright" else turn
            assert abs(math.sin(math.radians(bridge.heading - upright))) < 1e-6


@pytest.mark.parametrize("face", ["Sans", "Serif"])
@pytest.mark.parametrize("run", ["straight", "over"])
def test_every_letter_and_figure_is_held_by_bridges_of_an_eighth_of_its_height(face, run):
    art = lettering("ABDOPQRabdegopq04689", face, tracking=0.2, run=run, radius=600.0)
    for way in ("upright", "shortest"):
        assert not stencilled(Stencil(bridge=5.0, way=way), [art], 0.01).loose
    bare = stencilled(Stencil(bridge=0.0), [art], 0.01)
    assert len(bare.loose) == bare.islands > 20 and not bare.bridges


def test_the_shortest_way_has_no_more_wood_than_any_of_twelve_others():
    art = lettering("A", turn=7.0)
    best = sum(b.area.area for b in stencilled(Stencil(bridge=3.0, way="shortest"), [art], 0.01).bridges)
    for turn in range(0, 180, 15):  # the letter turned under bridges that stay upright
        turned = lettering("A", turn=0.0)
        area = shapely.affinity.rotate(area_of(turned, 0.01), -turn, origin=(0, 0))
        island = shapely.Polygon(next(r for p in area.geoms for r in p.interiors))
        strip = shapely.box(island.centroid.x - 1.5, -99, island.centroid.x + 1.5, 99).intersection(area)
        own = sum(p.area for p in shapely.get_parts(strip) if p.distance(island) < 1e-3)
        assert best < own * 1.06 + 0.05


def test_nested_rings_are_held_one_by_the_other():
    ring = shapely.Point(0, 0).buffer(30).difference(shapely.Point(0, 0).buffer(25))
    both = shapely.MultiPolygon([ring, shapely.Point(0, 0).buffer(15).difference(shapely.Point(0, 0).buffer(10))])
    assert len(loose_in(both)) == 2 == pieces_of(both) - 1
    assert webs(both)[0] == pytest.approx(10.0, abs=0.05)


@pytest.mark.parametrize("route, allowance", [("rings", 0.0), ("rows", 0.2)])
def test_what_is_cut_is_the_letters_less_their_bridges_on_the_moves_read_back(route, allowance):
    art = lettering("R8", "Serif")
    figures = Stencil(bridge=3.0, tools=(2,), route=route, allowance=allowance)
    laid = stencilled(figures, [art], 0.004)
    floor = sinking_of(figures, 6.0)
    assert floor.depth == pytest.approx(6.3)
    assert sunk_proof.prove(laid.cut, floor, [MILL], 0.1).holds(0.05)


def test_the_picture_of_the_sign_is_seen_through_where_it_is_cut_through():
    told = plan(edited(JOBS["strapped"](), *stencil()), cell=0.2)
    shown = subject(told, told.carving)
    made = stencilled(Stencil(bridge=6.0), [a for a in told.job.artwork if a.kind == "lettering"], 0.01)
    r = told.job.tool(2).diameter / 2.0
    reached = made.cut.buffer(-r).buffer(r).area
    assert (shown.part == AWAY).sum() * shown.cell**2 == pytest.approx(reached, rel=0.02)


def test_the_wood_says_the_same_with_bridges_and_without():
    held = edited(JOBS["strapped"](), *stencil())
    done = plan(held)
    stops = {f.code for f in done.findings if f.level is Level.STOP}
    assert not {"wood.loose", "wood.gouged", "carve.stencil-island"} & stops
    bare = plan(commands.run(held, "set operation", {"operation": "lettering", "bridge": 0.0}))
    loose = [f for f in bare.findings if f.code == "wood.loose"]
    told = [f for f in bare.findings if f.code == "carve.stencil-island"]
    assert len(loose) == 2 and told[0].message.startswith("2 pieces") and "carve.stencil-island" not in stops
    again = plan(commands.run(held, told[0].fixes[0].kind, {"operation": "lettering", "bridge": 4.1}))
    assert not any(f.code in ("wood.loose", "carve.stencil-island") for f in again.findings)
