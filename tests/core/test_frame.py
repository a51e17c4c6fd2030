# SPDX-License-Identifier: GPL-3.0-or-later
"""The board's frame never moves, and where its nought lies is anybody's choice; what there is several of is told by its id."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from gatepost.core.blank.shape import polygon
from gatepost.core.cache import Memory
from gatepost.core.errors import OperatorError
from gatepost.core.job import commands
from gatepost.core.job.base import changed
from gatepost.core.job.turning import Lay
from gatepost.core.plan.pipeline import plan
from tests.conftest import tries
from tests.core.catalogue_jobs import JOBS
from tests.core.told import CELL

MEMORY = Memory()
THINGS = ("calipers", "heights", "under", "supports", "flaws")


def edited(job, *edits):
    for name, values in edits:
        job = commands.run(job, name, values)
    return job


def elsewhere(job, dx, dy):
    """The same board told in a frame whose nought lies elsewhere on it, its box what it was."""
    blank = job.blank
    lists = {n: tuple(changed(t, x=t.x + dx, y=t.y + dy) for t in getattr(blank, n)) for n in THINGS}
    outline = tuple((x + dx, y + dy) for x, y in blank.outline)
    art = tuple(changed(a, x=a.x + dx, y=a.y + dy) if a.face == "front" else a for a in job.artwork)
    return changed(job, blank=changed(blank, outline=outline, **lists), artwork=art)


def held_there(job, like, name):
    """A job whose board lies with its corner where another one's does in a setup, its marks where they are on the wood."""
    before, after = (plan(j, cell=CELL, coarse=True, memory=MEMORY).setup(name) for j in (like, job))
    dx, dy = (a - b for a, b in zip(before.corner, after.corner))
    setup = job.setup(name)
    zero = setup.zero
    touch = {} if zero.touch_x is None else {"touch_x": zero.touch_x - dx, "touch_y": zero.touch_y - dy}
    zero = changed(zero, x=zero.x - dx, y=zero.y - dy, **touch)
    moved = changed(setup, x=setup.x + dx, y=setup.y + dy, zero=zero)
    return changed(job, setups=tuple(moved if s.id == name else s for s in job.setups))


@pytest.mark.parametrize(
    "lay", [Lay("front"), Lay("front", 90), Lay("back", 180), Lay("left"), Lay("top", 270)], ids=str
)
def test_the_programs_are_the_same_wherever_the_frame_has_its_nought(lay):
    dx, dy = -14.0, 9.2
    base = edited(JOBS["live"](), ("set second face", {"present": False}), ("set surfacing", {"wanted": "no"}))
    art = {"face": lay.up} | (
        {"x": 8.0, "y": 40.0} if lay.up == "left" else {"x": 60.0, "y": 8.0} if lay.up == "top" else {}
    )
    base = edited(
        base,
        ("set setup", {"setup": "front", "up": lay.up, "spin": lay.spin}),
        ("set art", {"art": "lettering", **art}),
    )
    base = edited(base, ("set zero", {"setup": "front", "xy": "centre", "touch_x": None, "touch_y": None}))
    there = elsewhere(base, dx, dy)
    if lay.up in ("back", "left", "top"):  # artwork there is told from the box's corner, which is a frame's own
        across, up = {"back": (-dx, dy), "left": (0.0, dy), "top": (dx, 0.0)}[lay.up]
        old = next(a for a in there.artwork if a.kind == "lettering")
        there = edited(there, ("set art", {"art": "lettering", "x": old.x + across, "y": old.y + up}))
    there = held_there(there, base, "front")
    one, other = (plan(j, cell=CELL, memory=MEMORY) for j in (base, there))
    told = [s for s in one.setups if s.name == "front"]
    assert told and told[0].programs
    for a, b in zip(one.setup("front").programs, other.setup("front").programs, strict=True):
        assert np.abs(a.moves.points - b.moves.points).max() < 2e-4
    left, again = (p.setup("front").end.z for p in (one, other))
    assert (np.abs(left - again) > 1e-3).mean() < 5e-4  # cells whose middle lies on the outline itself
    assert [(f.code, f.level) for f in one.findings] == [(f.code, f.level) for f in other.findings]


@given(st.lists(st.tuples(st.integers(0, 7), st.floats(-25, 25), st.floats(-25, 25)), min_size=1, max_size=4))
@settings(max_examples=tries(10))
def test_whatever_is_done_to_the_outline_everything_else_stays_as_it_is_told(moves):
    job = JOBS["live"]()
    after = job
    for number, dx, dy in moves:
        x, y = after.blank.outline[number % len(after.blank.outline)]
        try:
            after = edited(after, ("set corner", {"at": (x, y), "x": x + dx, "y": y + dy}))
            after = edited(after, ("add corner", {"x": x + dx / 2, "y": y + dy / 3 + 2.0}))
        except OperatorError:
            continue
    assert changed(after, blank=changed(after.blank, outline=job.blank.outline)) == job
    x0, y0, x1, y1 = polygon(after.blank).bounds
    assert after.blank.box == pytest.approx((x0, y0, x1, y1))
    lies = plan(after, cell=CELL, coarse=True, memory=MEMORY).setup("surface")
    assert lies.start.x0 == pytest.approx(x0, abs=1.0) and lies.start.y0 == pytest.approx(y0, abs=1.0)
    rows, columns = np.nonzero(lies.start.wood)
    assert columns.min() <= 2 and rows.min() <= 2  # nothing of the wood is left out of its field
    assert max(lies.start.z.shape[1] - 1 - columns.max(), lies.start.z.shape[0] - 1 - rows.max()) <= 3


def test_a_corner_goes_into_the_side_it_lies_nearest_to_and_is_told_by_its_place():
    job = edited(JOBS["plate"](), ("set blank", {"shape": "outline"}))
    after = edited(job, ("add corner", {"x": 130.0, "y": 40.0}))
    assert after.blank.outline == ((0, 0), (120, 0), (130, 40), (120, 80), (0, 80))
    assert edited(after, ("remove corner", {"at": (129.0, 41.0)})) == job
    with pytest.raises(OperatorError, match="no corner at X 60, Y 40"):
        edited(after, ("remove corner", {"at": (60.0, 40.0)}))
    with pytest.raises(OperatorError, match="no outline yet"):
        edited(JOBS["plate"](), ("add corner", {"x": 1.0, "y": 1.0}))


LISTS = {
    "caliper": {"x": 5.0, "y": 5.0, "thickness": 16.0}, "height": {"x": 5.0, "y": 5.0, "z": 16.0}, "gap": {"x": 5.0, "y": 5.0, "z": 0.1},
    "support": {"x": 5.0, "y": 5.0}, "flaw": {"x": 5.0, "y": 5.0}, "coat": {"name": "oil"}, "saw cut": {"size": "length", "to": 120.0},
}  # fmt: skip
FIELDS = {"caliper": "calipers", "height": "heights", "gap": "under", "support": "supports", "flaw": "flaws", "coat": "coats", "saw cut": "saw_cuts"}  # fmt: skip


@pytest.mark.parametrize("what", LISTS)
def test_each_thing_of_a_list_has_an_id_the_smallest_that_is_free_or_its_own(what):
    word, stem, values = what.replace(" ", "_"), what.replace(" ", "-"), LISTS[what]
    job = JOBS["plate"]()
    for thing in getattr(job.blank, FIELDS[what]):
        job = edited(job, (f"remove {what}", {word: thing.id}))
    for _ in range(3):
        job = edited(job, (f"add {what}", values))
    job = edited(job, (f"add {what}", {**values, "id": "mine"}), (f"remove {what}", {word: f"{stem}-2"}))
    job = edited(job, (f"add {what}", values))
    ids = [t.id for t in getattr(job.blank, FIELDS[what])]
    assert ids == [f"{stem}-1", f"{stem}-3", "mine", f"{stem}-2"]
    field, value = (
        next((k, v) for k, v in values.items() if isinstance(v, float)) if what != "coat" else ("thickness", 0.1)
    )
    after = edited(job, (f"set {what}", {word: "mine", field: value + 1.0}))
    changes = [a.id for a, b in zip(getattr(after.blank, FIELDS[what]), getattr(job.blank, FIELDS[what])) if a != b]
    assert changes == ["mine"]
    for bad in ({"id": "mine"}, {"id": "Not an id"}):
        with pytest.raises(OperatorError):
            edited(job, (f"add {what}", {**values, **bad}))
    with pytest.raises(OperatorError, match=f"no {what} “nobody”"):
        edited(job, (f"set {what}", {word: "nobody", field: value}))


def test_a_job_whose_things_had_no_ids_is_given_them_in_their_order():
    from gatepost.core.job.model import Job

    job = JOBS["whole"]()
    raw = job.model_dump(mode="json")
    bare = {**raw, "blank": {k: [{a: b for a, b in t.items() if a != "id"} for t in v] if k in FIELDS.values() else v for k, v in raw["blank"].items()}}  # fmt: skip
    assert Job.model_validate(bare) == job


def test_a_job_of_the_format_s_first_days_opens_to_the_same_job(tmp_path):
    """A target thickness was “wished”, holds had figures of all kinds, and nothing in a list had an id."""
    import hashlib
    import json
    import zipfile

    from gatepost.core.job.file import Document, load, save
    from gatepost.core.job.history import ALL_KINDS

    job = edited(JOBS["live"](), ("set surfacing", {"target_thickness": 19.0}))
    path = tmp_path / "now.gatepost"
    save(Document(job), path)
    with zipfile.ZipFile(path) as there:
        parts = {name: there.read(name) for name in there.namelist()}
    raw = json.loads(parts["job.json"])
    for setup in raw["setups"]:
        del setup["comes"], setup["copies"]
        setup["holds"] = [{**ALL_KINDS, **h} for h in setup["holds"]]
        for operation in setup["operations"]:
            if operation["kind"] == "surface":
                operation["figures"]["wished"] = operation["figures"].pop("target_thickness")
    del raw["series"]
    raw["blank"] = {k: [{a: b for a, b in t.items() if a != "id"} for t in v] if k in FIELDS.values() else v for k, v in raw["blank"].items()}  # fmt: skip
    parts["job.json"] = json.dumps(raw).encode()
    parts["sums.json"] = json.dumps(
        {n: hashlib.sha256(d).hexdigest() for n, d in parts.items() if n != "sums.json"}
    ).encode()
    with zipfile.ZipFile(tmp_path / "then.gatepost", "w") as out:
        for name, data in parts.items():
            out.writestr(name, data)
    assert load(tmp_path / "then.gatepost").job == job
