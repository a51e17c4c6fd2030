# SPDX-License-Identifier: GPL-3.0-or-later
"""A board laid on shims, in the whole plan: a wedge with its belly down keeps more, and says what to put where."""

import json

import numpy as np
import pytest

from gatepost.core.findings import Level
from gatepost.core.job import commands
from gatepost.core.job.fixes import apply
from gatepost.core.plan.export import plan_json
from gatepost.core.plan.pipeline import plan


def edit(job, name, /, **values):
    return commands.run(job, name, values)


@pytest.fixture(scope="module")
def leaning(lock7):
    """The Lock 7 board, even in thickness and twisted: it lies along two edges, and the corner between the others
    stands 6 mm up."""
    rows = [(x, y, 34.0 + 6.0 * (x - 10) * (y - 10) / 890 / 290) for x in (10, 455, 900) for y in (10, 155, 300)]
    job = edit(edit(lock7, "set heights", face="top", rows=rows), "set heights", face="under",
               rows=[(x, y, z - 34.0) for x, y, z in rows])  # fmt: skip
    return edit(job, "set surfacing", wanted="yes")


def test_what_shims_would_keep_is_offered_and_taken_step_by_step(leaning):
    first = plan(leaning)
    lies = first.surfaced.ways[0]
    said = next(f for f in first.findings if f.code == "surface.seat")
    assert said.level is Level.NOTE and said.fixes[0].values["supports"]
    with_supports = apply(leaning, said.fixes[0])
    again = next(f for f in plan(with_supports).findings if f.code == "surface.seat")
    shimmed = plan(apply(with_supports, again.fixes[0]))
    way = shimmed.surfaced.ways[1]
    assert way.thickness == pytest.approx(34.0 - 3.0 - 0.4, abs=0.2)  # a twist is halved by the best tilt, no more
    assert way.thickness > lies.thickness + 2.5
    assert len(way.passes) < len(lies.passes) and way.minutes < lies.minutes
    assert way.passes[-1].clean == 1.0 and all(a.clean <= b.clean for a, b in zip(lies.passes, lies.passes[1:]))
    keys, before = ([s.key for s in p.setups[0].steps if s.key[:5] != "depth"] for p in (shimmed, first))
    assert len(keys) == len(before) + 1
    step = shimmed.setups[0].steps[1]
    assert step.key == "shims" and max(s.height for s in way.seat.shims) > 1.0
    assert all((f"{s.height:.9g}" in step.title) == (s.height >= 0.05) for s in way.seat.shims)
    assert not any(s.key == "shims" for s in shimmed.setups[1].steps)
    told = plan_json(shimmed, [])["setups"][0]["surface"]
    assert told["shimmed"]["tilt"] == pytest.approx([3.0 / 890, 3.0 / 290], abs=1e-3)
    assert [s["height"] for s in told["shimmed"]["shims"]] == [s.height for s in way.seat.shims]
    assert told["as_lies"]["thickness"] == lies.thickness and json.dumps(told)


def test_the_wood_of_the_plan_is_the_wood_on_its_shims(leaning):
    job = edit(leaning, "set blank", supports=({"x": 90, "y": 30}, {"x": 820, "y": 30}, {"x": 456, "y": 290}))
    lies, shimmed = plan(job), plan(edit(job, "set surfacing", seat="shimmed"))

    def spread(reckoned):
        field = reckoned.setups[0].start
        return np.ptp(field.z[field.wood])

    assert spread(lies) > 5.0 and spread(shimmed) < 3.6
    for reckoned, at in ((lies, 0), (shimmed, 1)):  # each is told of the way that it takes
        assert len(reckoned.surfaced.ways) == 2
        said = next(f.message for f in reckoned.findings if f.code == "surface.path")
        by_path = reckoned.surfaced.ways[at].by_path
        assert f"takes {by_path['rectangle']:.1f} min" in said and by_path != reckoned.surfaced.ways[1 - at].by_path
    assert shimmed.fingerprint != lies.fingerprint
    clean = next(f for f in shimmed.findings if f.code == "wood.clean")
    assert clean.level is Level.OK
    hand = plan(edit(job, "set surfacing", seat="shimmed", shims_at_hand=(1.0, 2.0)))
    heights = [s.height for s in hand.surfaced.ways[1].seat.shims]
    assert all(h == pytest.approx(round(h)) for h in heights)
    assert hand.surfaced.ways[1].thickness <= shimmed.surfaced.ways[1].thickness + 1e-6


@pytest.mark.parametrize(
    ("name", "values", "code"),
    [
        ("set blank", {"supports": ({"x": 90, "y": 30}, {"x": 820, "y": 30})}, "surface.no-supports"),
        ("set heights", {"face": "under", "rows": [(0, 0, 0.0), (9, 9, 1.0)]}, "surface.seat-open"),
    ],
)
def test_a_seat_that_can_t_be_is_told_and_the_board_is_planned_as_it_lies(leaning, name, values, code):
    reckoned = plan(edit(edit(leaning, name, **values), "set surfacing", seat="shimmed"))
    assert next(f for f in reckoned.findings if f.code == code).level is Level.CARE
    assert len(reckoned.surfaced.ways) == 1 and np.ptp(reckoned.setups[0].start.z) > 5.0


def test_an_underside_that_was_not_read_lies_flat_out_to_the_corners(leaning):
    from gatepost.core.surface.seat import seats

    bare = edit(edit(leaning, "set heights", face="under", rows=[]), "set surfacing", cleanup=0.0)
    b = bare.blank
    corners = [(0.0, 0.0, 0.0), (b.length, 0.0, 0.0), (b.length, b.width, 0.0), (0.0, b.width, 0.0)]
    read = edit(bare, "set heights", face="under", rows=corners)
    mine, told = seats(b, bare.surfacing), seats(read.blank, read.surfacing)
    assert mine.promised == pytest.approx(told.promised, abs=1e-9) and mine.lies.tilt == told.lies.tilt


def test_more_passes_than_can_be_worked_out_are_told_of_a_board_that_was_read_on_both_faces_too(leaning):
    done = plan(edit(leaning, "set surfacing", limit=0.001, stepover=0.05), coarse=True)
    assert done.surfaced.too_many is not None and done.setup("surface") is None
    assert any(f.level is Level.STOP for f in done.findings if f.stage == "surface")


def test_a_job_of_the_first_format_opens_without_what_came_later():
    import zipfile

    from gatepost.core.job.blank import Blank
    from gatepost.core.job.file import read_job
    from gatepost.core.job.surface import Surfacing
    from tests.earlier import MADE

    with zipfile.ZipFile(MADE / "04.gatepost") as kept:
        raw = json.loads(kept.read("job.json"))
    whole = read_job(json.dumps(raw).encode())
    assert raw["format"] == 4 and whole.format == 5
    first = {
        "blank": ("length", "width", "label_thickness", "calipers", "heights", "rocks"),
        "surfacing": ("wanted", "tool", "stepover", "limit", "last", "cleanup", "direction"),
    }
    for part, names in first.items():
        raw[part] = {name: raw[part][name] for name in names}
    for name in ("tolerance", "irreplaceable"):
        del raw[name]
    old = read_job(json.dumps({**raw, "format": 1}).encode())
    for part, names, model in (("blank", first["blank"], Blank()), ("surfacing", first["surfacing"], Surfacing())):
        mine, all_ = getattr(old, part), getattr(whole, part)
        kept_, added = set(names), set(type(model).model_fields) - set(names)
        assert all(getattr(mine, n) == getattr(all_, n) for n in kept_)
        assert all(getattr(mine, n) == getattr(model, n) for n in added)
    assert old.tolerance == "sign" and old.carving == whole.carving and old.setups[-1] == whole.setups[-1]


def test_the_side_view_stands_the_board_on_its_shims(leaning):
    from gatepost.drawing.heights import Look, heights

    job = edit(leaning, "set blank", supports=({"x": 90, "y": 30}, {"x": 820, "y": 30}, {"x": 456, "y": 290}))
    shimmed = plan(edit(job, "set surfacing", seat="shimmed"))
    setup = shimmed.setup("surface")
    shims = [s for s in setup.surfaced.seats.shimmed.shims if s.height > 0.05]
    for shim in shims:
        drawn = heights(shimmed, "surface", "hold", Look(y=setup.setup.y + shim.y))
        wedges = [s for s in drawn.shapes if s.role == "packing"]
        assert any(s.points[:, 1].max() == pytest.approx(shim.height) for s in wedges)
        wood = next(s for s in drawn.shapes if s.role == "wood")
        near = wood.points[np.abs(wood.points[:, 0] - setup.setup.x - shim.x) < 8]
        assert near[:, 1].min() == pytest.approx(shim.height, abs=0.4)  # its underside lies on the shim there
