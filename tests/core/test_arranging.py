# SPDX-License-Identifier: GPL-3.0-or-later
"""Artwork on the bed: sized by a corner, turned, snapped, set against margins, filled, copied and locked, whatever its kind, its turn and the board's place."""

import math

import numpy as np
import pytest
import shapely
from hypothesis import assume, given, settings
from hypothesis import strategies as st

from gatepost.core.carve.areas import area_of
from gatepost.core.carve.boxes import corners_of
from gatepost.core.errors import OperatorError
from gatepost.core.job import commands
from gatepost.core.plan import arranging
from gatepost.core.plan.handling import moved
from tests.conftest import tries
from tests.core.catalogue_carve import holes, ramp
from tests.core.catalogue_jobs import JOBS, edited

STAR = "M0 10L2 2L10 0L2 -2L0 -10L-2 -2L-10 0L-2 2Z"
JOB = edited(
    JOBS["plate"](),
    ("add drawing", {"setup": "front", "path": STAR, "wide": 20.0, "high": 20.0, "id": "star", "width": 30.0}),
    ramp(tools=(2,)), holes(tool=2, across=8.0, number=3, pitch=12.0),
)  # fmt: skip
KEYS = {
    "lettering:lettering": "lettering",
    "art:star": "star",
    "art:heights": "heights",
    "plate:cut-out": "plate",
    "art:holes": "holes",
}
places = st.floats(-20.0, 20.0)


def art(job, name):
    return next(a for a in job.artwork if a.id == name)


@st.composite
def laid(draw):
    """A job with one of its pieces placed, turned and mirrored, its board askew on the bed; the piece's key and name."""
    key = draw(st.sampled_from(sorted(KEYS)))
    name = KEYS[key]
    place = {
        "x": 60.0 + draw(places),
        "y": 40.0 + draw(places),
        "turn": draw(st.floats(-180, 180)),
        "mirror": draw(st.booleans()),
    }
    job = commands.run(JOB, "set art", {"art": name, **place})
    return commands.run(job, "set skew", {"setup": "front", "degrees": draw(st.floats(-3, 3))}), key, name


@settings(max_examples=tries(60))
@given(laid(), st.integers(0, 3), st.floats(0.3, 3.0), st.floats(0.3, 3.0))
def test_the_corner_opposite_the_one_that_is_dragged_stays_and_the_sides_are_as_long_as_asked(
    job_key_name, corner, across, up
):
    job, key, name = job_key_name
    old = art(job, name)
    if not arranging.stretches(old):
        across = up = max(across, up)
    new = art(commands.run(job, *arranging.resized(job, "front", key, corner, across, up)), name)
    if name == "holes":  # a hole stays as wide as it is
        assert (
            new.figures.pitch == pytest.approx(old.figures.pitch * across) and new.figures.across == old.figures.across
        )
        return
    was, now = corners_of(old), corners_of(new)
    opposite = (corner + 2) % 4
    assert np.allclose(was[opposite], now[opposite], atol=0.02 * max(across, up))
    for i, factor in ((1, across), (3, up)):
        assert math.dist(now[0], now[i]) == pytest.approx(math.dist(was[0], was[i]) * factor, rel=2e-3)


@given(laid(), st.floats(-400.0, 400.0))
def test_a_turn_ends_on_a_multiple_of_fifteen_that_is_near_or_on_a_whole_degree(job_key_name, degrees):
    job, key, name = job_key_name
    old = art(job, name)
    new = art(commands.run(job, *arranging.turned(job, "front", key, degrees)), name)
    off = (new.turn - old.turn - degrees + 180.0) % 360.0 - 180.0
    assert new.turn == round(new.turn) and -180.0 <= new.turn < 180.0
    assert abs(off) <= (3.0 if new.turn % 15.0 == 0.0 else 0.5) + 1e-9
    assert (new.x, new.y) == (old.x, old.y)


@given(laid(), places, places, st.floats(0.0, 4.0))
def test_a_drag_goes_where_the_pointer_is_or_to_what_is_near_and_says_which(job_key_name, dx, dy, reach):
    job, key, name = job_key_name
    x, y, words = arranging.snapped(job, "front", key, dx, dy, reach)
    fine = arranging.FINE
    assert abs(x - dx) <= 2.0 * reach + fine and abs(y - dy) <= 2.0 * reach + fine
    went = art(commands.run(job, *moved(job, "front", key, x, y)), name)
    if ":" not in words:
        assert (x, y) == pytest.approx((dx, dy), abs=fine)
        was = art(job, name)
        for now, before in ((went.x, was.x), (went.y, was.y)):
            assert abs(now / fine - round(now / fine)) < 1e-6 or abs(now - before) <= fine / 2 + 1e-9
        return
    said = words.partition(": ")[2]
    x0, y0, x1, y1 = arranging.room(job, job.setup("front"), went)
    low, high = corners_of(went).min(axis=0), corners_of(went).max(axis=0)
    m = arranging.margin(job.setup("front"), went)
    true = {
        "in the middle, across": went.x == pytest.approx((x0 + x1) / 2), "in the middle, front to back": went.y == pytest.approx((y0 + y1) / 2),
        "against the left margin": low[0] == pytest.approx(x0 + m), "against the right margin": high[0] == pytest.approx(x1 - m),
        "against the front margin": low[1] == pytest.approx(y0 + m), "against the back margin": high[1] == pytest.approx(y1 - m),
    }  # fmt: skip
    for part in said.split(" and "):
        if part.startswith("in line with"):
            others = [
                a for a in job.artwork if a.id != name and (a.title or a.id) == part.removeprefix("in line with ")
            ]
            assert any(went.x == pytest.approx(o.x) or went.y == pytest.approx(o.y) for o in others)
        else:
            assert true[part], part


@pytest.mark.parametrize("way", arranging.WAYS)
@given(laid())
def test_what_is_set_against_a_margin_touches_it_and_moves_one_way_alone(way, job_key_name):
    job, _, name = job_key_name
    old, new = art(job, name), art(commands.run(job, *arranging.aligned(job, "front", name, way)), name)
    x0, y0, x1, y1 = arranging.room(job, job.setup("front"), new)
    m = arranging.margin(job.setup("front"), new)
    low, high = corners_of(new).min(axis=0), corners_of(new).max(axis=0)
    wanted = {"left": low[0] - x0 - m, "right": x1 - m - high[0], "across": new.x - (x0 + x1) / 2, "front": low[1] - y0 - m, "back": y1 - m - high[1], "along": new.y - (y0 + y1) / 2}  # fmt: skip
    assert wanted[way] == pytest.approx(0.0, abs=1e-6)
    assert (new.y == old.y) if way in ("left", "across", "right") else (new.x == old.x)


@settings(max_examples=tries(25))
@given(laid())
def test_what_is_made_as_large_as_the_margins_allow_fits_and_would_not_if_it_were_larger(job_key_name):
    job, key, name = job_key_name
    assume(name not in ("plate", "holes"))
    old = art(job, name)
    edit = arranging.filled(job, "front", name)
    assume(edit is not None)
    new = art(commands.run(job, *edit), name)
    usable = area_of(art(job, "plate"), 0.01).buffer(-arranging.margin(job.setup("front"), old), quad_segs=64)
    assert (new.x, new.y) == (old.x, old.y)
    assert usable.buffer(0.1).contains(area_of(new, 0.02))
    larger = commands.run(
        job, "resize art", {**edit[1], "across": edit[1]["across"] * 1.01, "up": edit[1]["up"] * 1.01}
    )
    assert not usable.contains(area_of(art(larger, name), 0.02))


@pytest.mark.parametrize("key", KEYS)
def test_a_copy_is_worked_on_as_its_original_is_and_either_can_be_taken_away(key):
    name = KEYS[key]
    job = commands.run(JOB, "copy art", {"art": name})
    new = next(a for a in job.artwork if a.id not in {b.id for b in JOB.artwork})
    old = art(job, name)
    assert new.figures == old.figures and (new.x, new.y) == (old.x + 20.0, old.y - 20.0)
    was = sorted(o.kind for o in JOB.setup("front").operations if name in o.on)
    assert sorted(o.kind for o in job.setup("front").operations if new.id in o.on) == was
    assert commands.run(job, "remove art", {"art": new.id}).artwork == JOB.artwork


@pytest.mark.parametrize("values", [{"x": 1.0}, {"turn": 3.0}, {"mirror": True}, {"width": 12.0}])
def test_what_is_locked_stays_until_it_is_unlocked(values):
    job = commands.run(JOB, "set art", {"art": "star", "locked": True})
    assert commands.run(job, "set art", {"art": "star", "title": "Star"}) != job
    with pytest.raises(OperatorError, match="locked"):
        commands.run(job, "set art", {"art": "star", **values})
    for edit in (arranging.resized(job, "front", "art:star", 0, 2.0, 2.0), arranging.turned(job, "front", "art:star", 30.0), moved(job, "front", "art:star", 3.0, 0.0)):  # fmt: skip
        with pytest.raises(OperatorError, match="locked"):
            commands.run(job, *edit)
    assert commands.run(job, "set art", {"art": "star", "locked": False, **values}) != job


def test_lettering_that_is_mirrored_is_its_own_picture_in_a_mirror():
    job = commands.run(JOB, "set art", {"art": "lettering", "mirror": True, "turn": 0.0})
    plain, seen = (area_of(art(j, "lettering"), 0.005) for j in (JOB, job))
    middle = art(job, "lettering").x
    mirrored = shapely.transform(plain, lambda p: p * [-1.0, 1.0] + [2.0 * middle, 0.0])
    assert shapely.hausdorff_distance(mirrored, seen) < 0.01
    made = job.lettering(next(o for o in job.setup("front").operations if o.kind == "vcut"))
    from gatepost.core.carve.lettering import lettering

    cut = lettering(made, next(t for t in job.tools if t.number == 3))
    assert shapely.union_all([c.outline() for c in cut.letters]).symmetric_difference(seen).area < 0.1
    assert all(seen.buffer(0.02).contains(shapely.LineString(run[:, :2])) for run in cut.runs)


def test_a_copy_of_a_plate_is_worked_on_as_the_plate_is_by_everything_that_works_on_it_alone():
    job = JOBS["plate"]()
    for inset in (4.0, 8.0):
        job = commands.run(job, "add engraved line", {"setup": "front", "on": ("plate",), "inset": inset})
    done = commands.run(job, "copy art", {"art": "plate"})
    on = {name: [o.figures for o in done.setup("front").operations if o.on == (name,)] for name in ("plate", "plate-1")}
    assert len(on["plate"]) == 3 and on["plate"] == on["plate-1"]
