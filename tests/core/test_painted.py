# SPDX-License-Identifier: GPL-3.0-or-later
"""A face that is coated before it is carved: the paint that is left, against the areas that letters cover, and its colour in the picture."""

import math

import numpy as np
import pytest
import shapely

from gatepost.core.carve.areas import area_of
from gatepost.core.job import commands
from gatepost.core.plan.pipeline import plan
from gatepost.drawing.bed import bed
from gatepost.drawing.coats import COLOURS, paint_left
from gatepost.drawing.look import SignLook, first_look, picture, subject
from tests.core.catalogue_jobs import JOBS, edited


def coated(*thick):
    """Letters cut into a plate that was coated first, then the plate cut out."""
    coats = [
        ("add coat", {"name": f"{c} paint", "thickness": t}) for c, t in zip(("white", "deep red"), thick, strict=True)
    ]
    return edited(JOBS["plate"](), *coats, ("set carving", {"sanding": 0.0}))


@pytest.mark.parametrize("film", [0.05, 0.2, 0.8])
def test_paint_is_gone_where_letters_go_deeper_than_the_film(film):
    job = coated(0.6 * film, 0.4 * film)
    told = plan(job, cell=0.1)
    title, rows = told.report("carve").tables[-1]
    assert title == "Paint left on the face" and [r[0] for r in rows[1:]] == ["lettering", "cut-out"]
    letters = next(a for a in job.artwork if a.kind == "lettering")
    # a V of half angle 30° is as deep as the film a little inside each outline: film · tan 30°
    bare = area_of(letters, 0.005).buffer(-film * math.tan(math.radians(30.0)), join_style="mitre").area
    plate = next(a for a in job.artwork if a.kind == "plate")
    whole = area_of(plate, 0.005).area
    for row in rows[1:]:
        assert float(row[2].split()[0]) == pytest.approx(100.0 * (1.0 - bare / whole), abs=0.25)
    film_row = next(f for f in told.report("carve").figures if f.label == "Film on the face")
    assert film_row.value == pytest.approx(film) and film_row.working.result == pytest.approx(film)


def test_a_face_that_is_not_coated_or_made_flat_after_that_has_no_paint():
    assert not [t for t in plan(JOBS["plate"](), cell=0.4).report("carve").tables if "Paint" in t[0]]
    flat = edited(JOBS["slab"](), ("add coat", {"name": "green paint", "thickness": 0.2}))
    told = plan(flat, cell=0.4)
    assert not [t for t in told.report("carve").tables if "Paint" in t[0]]
    assert first_look(told, told.carving) == SignLook()


def test_the_picture_shows_the_last_coats_colour_and_bare_letters():
    told = plan(coated(0.05, 0.1), cell=0.2)
    look = first_look(told, told.carving)
    assert look.face == "deep red"
    shown = picture(subject(told, told.carving), look, 400, shadows=False)
    solid = shown[..., 3] == 255
    red = solid & (shown[..., 0].astype(int) > 1.6 * shown[..., 1])
    letters = area_of(next(a for a in told.job.artwork if a.kind == "lettering"), 0.05).area
    plate = area_of(next(a for a in told.job.artwork if a.kind == "plate"), 0.05).area
    assert 1.0 - red.sum() / solid.sum() == pytest.approx(letters / plate, abs=0.03)
    again = commands.run(told.job, "set coat", {"coat": "coat-2", "name": "limewash"})
    assert first_look(plan(again, cell=0.4), told.carving).face == "white" and "white" in COLOURS


def test_the_bed_shows_what_paint_is_left_after_each_operation_and_none_where_there_was_none():
    told = plan(coated(0.05, 0.1), cell=0.2)
    setup = told.carving
    rows = dict(t for t in told.report("carve").tables)["Paint left on the face"]
    cell = setup.start.cell**2
    plate = area_of(next(a for a in told.job.artwork if a.kind == "plate"), 0.05)
    for row, op in zip(rows[1:], setup.operations):
        shown = paint_left(told, setup, op.after)[::-1]
        y, x = np.nonzero(shown[..., 3])
        on = shapely.contains_xy(
            setup.pose.area(plate), setup.start.x0 + x * setup.start.cell, setup.start.y0 + y * setup.start.cell
        )
        share = on.sum() * cell / plate.area
        assert 100.0 * share == pytest.approx(float(row[2].split()[0]), abs=0.3)
        assert {tuple(c) for c in shown[shown[..., 3] > 0][:, :3].tolist()} == {COLOURS["deep red"]}
    drawing = bed(told, setup.name, "carve")
    assert (
        sum(s.pixels is not None for s in drawing.shapes) == 2
        and "deep red is the paint that is left" in drawing.subtitle
    )
    bare = plan(JOBS["plate"](), cell=0.4)
    assert paint_left(bare, bare.carving, bare.carving.start) is None
    assert "paint" not in bed(bare, bare.carving.name, "carve").subtitle
