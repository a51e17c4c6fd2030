# SPDX-License-Identifier: GPL-3.0-or-later
"""Setups, operations and artwork as lists: any of them, in any order, told by id."""

from __future__ import annotations

import json
import random

import numpy as np
import pytest

from gatepost.core.cache import Memory
from gatepost.core.errors import OperatorError, UnknownCommand
from gatepost.core.job import commands
from gatepost.core.job.file import read_job
from gatepost.core.job.journal import Journal
from gatepost.core.job.model import Job
from gatepost.core.plan.pipeline import plan
from gatepost.core.run.standing import done, next_step
from gatepost.core.run.step import ticked
from tests.conftest import some
from tests.core.catalogue_jobs import JOBS, edited
from tests.core.told import CELL

MEMORY = Memory(keep=32)


def sound(job: Job) -> None:
    """Ids are one each, what is named is there, what is followed comes before; and it is the same read back."""
    operations = [o.id for s in job.setups for o in s.operations]
    assert len(set(operations)) == len(operations) and len({s.id for s in job.setups}) == len(job.setups) > 0
    art = {a.id for a in job.artwork}
    before = {""}
    for setup in job.setups:
        assert setup.follows in before
        before.add(setup.id)
        for o in setup.operations:
            assert set(o.on) <= art and set(o.after) <= {q.id for q in setup.operations}
    assert read_job(json.dumps(job.model_dump(mode="json")).encode()) == job


def anything(job: Job, chance: random.Random) -> tuple[str, dict]:
    """A command that may or may not be possible."""
    setup = chance.choice(job.setups).id
    operation = chance.choice([o.id for s in job.setups for o in s.operations] or ["none"])
    art = chance.choice([a.id for a in job.artwork] or ["none"])
    order = [s.id for s in job.setups]
    chance.shuffle(order)
    return chance.choice([
        ("add setup", {}), ("add setup", {"id": chance.choice(["front", "second", "Not an id"])}), ("copy setup", {"setup": setup}),
        ("remove setup", {"setup": setup}), ("order setups", {"order": tuple(order)}), ("order setups", {"order": tuple(order[1:])}),
        ("set setup", {"setup": setup, "up": chance.choice(["front", "back"]), "spin": chance.choice([0, 180])}),
        ("set setup", {"setup": setup, "title": "Rückseite", "follows": chance.choice(order)}),
        ("add operation", {"setup": setup, "kind": "vcut", "on": (art,)}),
        ("add operation", {"setup": setup, "kind": chance.choice(["surface", "dance"]), "stepover": chance.choice([0.3, 3.0])}),
        ("set operation", {"operation": operation, "after": (operation,), "title": "again"}),
        ("set operation", {"operation": operation, "tool": 2}), ("remove operation", {"operation": operation}),
        ("add art", {"kind": "plate", "x": 50, "y": 40, "width": 60, "height": chance.choice([30, -1])}),
        ("set art", {"art": art, "x": chance.uniform(0, 99)}), ("remove art", {"art": art}),
        ("set plate", {"present": chance.random() < 0.5}), ("set second face", {"present": chance.random() < 0.5}),
        ("set carving", {"leading": 0.4, "margin": 9.0}),
    ])  # fmt: skip


@pytest.mark.parametrize("seed", some(range(12), 4))
def test_whatever_is_added_moved_and_taken_away_the_job_stays_one(seed):
    chance = random.Random(seed)
    job = chance.choice([JOBS["whole"], JOBS["live"], JOBS["plate"], Job])()
    done = 0
    for _ in range(60):
        name, values = anything(job, chance)
        before = job
        try:
            job = commands.run(job, name, values)
            done += 1
        except UnknownCommand:
            raise
        except OperatorError as error:
            assert str(error) and job is before
        sound(job)
    assert done > 10
    try:
        reckoned = plan(job, Journal(), MEMORY, coarse=True)
    except OperatorError as error:
        assert str(error).endswith(".")
        return
    assert {f.setup for f in reckoned.findings} <= {
        "",
        *(s.name for s in reckoned.setups),
    }  # what is said is said of one
    assert reckoned.next.setup in {"", *(s.name for s in reckoned.setups)}


def test_ids_that_are_not_told_are_the_smallest_that_are_free():
    job = JOBS["plate"]()
    for _ in range(3):
        job = edited(job, ("add setup", {}))
    assert [s.id for s in job.setups] == ["surface", "front", "setup-1", "setup-2", "setup-3"]
    job = edited(job, ("remove setup", {"setup": "setup-2"}), ("add setup", {}))
    assert [s.id for s in job.setups][-1] == "setup-2" and job.setup("setup-3").follows == "setup-1"
    job = edited(job, ("add art", {"kind": "plate", "width": 9, "height": 9}))
    assert [a.id for a in job.artwork] == ["lettering", "plate", "plate-1"]


def test_a_setup_copied_goes_on_with_the_wood_as_the_first_left_it():
    job = edited(
        JOBS["plate"](),
        ("copy setup", {"setup": "front"}),
        ("remove operation", {"operation": "cut-out"}),
        ("add art", {"kind": "plate", "id": "hole", "x": 60, "y": 40, "width": 20, "height": 16, "corner": 3}),
        (
            "add operation",
            {"setup": "front-1", "kind": "cutout", "id": "opening", "on": ("hole",), "tool": 2, "skin": 3.0},
        ),
    )
    assert [o.id for o in job.setup("front-1").operations] == ["lettering-1", "cut-out-1", "opening"]
    first, second = plan(job, memory=MEMORY, cell=CELL).setups
    assert (first.name, second.name) == ("front", "front-1") and {p.name[:7] for p in second.programs} == {"front-1"}
    assert np.array_equal(second.start.z, first.end.z) and (first.end.z < first.start.z).any()
    again = next(op for op in second.operations if op.name == "lettering-1")
    assert again.after.z[second.start.wood].min() == pytest.approx(first.end.z[first.start.wood].min(), abs=0.02)
    names = [op.name for op in second.operations]
    assert names.index("lettering-1") < min(
        names.index("cut-out-1"), names.index("opening")
    )  # what frees pieces comes last


def test_no_two_operations_are_called_alike_so_that_none_is_lost():
    """The plan, the log and the order tell operations by what they are called."""
    job = edited(
        JOBS["plate"](), ("add operation", {"setup": "front", "kind": "vcut", "id": "again", "on": ("lettering",)})
    )
    for title in ("cut-out", "lettering"):
        with pytest.raises(OperatorError, match=f"two operations are called “{title}”"):
            commands.run(job, "set operation", {"operation": "again", "title": title})
    named = edited(job, ("set operation", {"operation": "again", "title": "once more"}))
    taken = edited(named, ("set operation", {"operation": "again", "title": "vcut-1"}))
    further = edited(taken, ("add operation", {"setup": "front", "kind": "vcut", "on": ("lettering",)}))
    assert len({op.name for op in further.setup("front").operations}) == 4  # a title is no free id
    assert {op.name for op in plan(named, memory=MEMORY, cell=CELL).setup("front").operations} == {
        "lettering",
        "cut-out",
        "once more",
    }


def test_operations_wait_for_what_they_are_told_to():
    job = edited(
        JOBS["plate"](),
        ("add art", {"kind": "plate", "id": "hole", "x": 60, "y": 22, "width": 14, "height": 8, "corner": 2}),
        (
            "add operation",
            {"setup": "front", "kind": "cutout", "id": "opening", "on": ("hole",), "tool": 2, "tabs": 0, "skin": 1.0},
        ),
        ("set operation", {"operation": "cut-out", "after": ("opening",)}),
    )
    names = [op.name for op in plan(job, memory=MEMORY, cell=CELL).setup("front").operations]
    assert names == ["lettering", "opening", "cut-out"]


def test_the_back_is_lettered_on_a_board_turned_over_and_told_in_its_own_frame():
    """By hand: turned about X, what stands 10 mm from the back's front edge stands 10 mm from the board's back edge."""
    base = JOBS["strapped"]()
    job = edited(
        base,
        ("add setup", {"id": "back", "up": "back"}),
        ("add operation", {"setup": "back", "kind": "vcut", "id": "mark", "on": ("lettering",)}),
        ("remove operation", {"operation": "lettering"}),
        (
            "set art",
            {
                "art": "lettering",
                "face": "back",
                "x": base.blank.length - base.carving.x,
                "y": base.blank.width - base.carving.y,
            },
        ),
    )
    front, back = plan(job, memory=MEMORY, cell=CELL).setups
    straight = plan(base, memory=MEMORY, cell=CELL).setup("front")
    assert (
        not front.programs
        and [o.name for o in back.operations] == ["mark"]
        and [s.key for s in back.steps[:2]] == ["isolate-lay", "turn"]
    )
    x, y, _ = (back.blank_to_work.square @ np.array([10.0, 70.0, 0.0, 1.0]))[:3]
    assert (x, y) == pytest.approx((10.0 - 60.0, 80.0 - 70.0 - 40.0))
    x0, y0, x1, y1 = straight.operations[
        0
    ].moves.cutting_extents()  # upside down now: it is read upright when the piece hangs
    mx, my = base.carving.x, base.carving.y
    turned = (2 * mx - x1, 2 * my - y1, 2 * mx - x0, 2 * my - y0)
    assert back.operations[0].moves.cutting_extents() == pytest.approx(turned)


def test_a_second_lettering_and_a_second_plate_are_made_judged_and_changed_by_their_own_ids():
    job = edited(JOBS["plate"](), ("add setup", {"id": "reverse"}), ("set setup", {"setup": "reverse", "up": "back"}))
    glyphs = {k: getattr(job.carving.lines[0], k) for k in ("text", "face", "glyphs", "width")}
    job = edited(
        job,
        ("add line", {**glyphs, "height": 6.0, "setup": "reverse"}),
        ("set plate", {"setup": "reverse", "width": 50.0, "height": 30.0}),
    )
    letters, cut = job.setup("reverse").operations
    assert (letters.kind, cut.kind) == ("vcut", "cutout") and {letters.id, cut.id}.isdisjoint({"lettering", "cut-out"})
    art = {a.id: a for a in job.artwork}
    assert art[letters.on[0]].x == job.blank.length / 2 and art[cut.on[0]].figures.width == 50.0
    first = job.carving
    for edit in (
        ("set line", {"line": "line-1", "height": 5.0, "operation": letters.id}), ("scale lettering", {"factor": 1.2, "operation": letters.id}),
        ("set carving", {"margin": 3.0, "operation": letters.id}), ("set plate", {"tabs": 2, "operation": cut.id}),
        ("add line", {**glyphs, "height": 4.0, "operation": letters.id}), ("remove line", {"line": "line-2", "operation": letters.id}),
    ):  # fmt: skip
        after = edited(job, edit)
        assert after != job and after.carving == first, edit
        job = after
    assert job.lettering(job.setup("reverse").operations[0]).lines[0].height == pytest.approx(6.0)
    wide = edited(job, ("scale lettering", {"factor": 9.0, "operation": letters.id}))
    done = plan(wide, memory=MEMORY, cell=CELL)
    said = [f for f in done.report("carve").findings if f.setup == "reverse" and f.level.value != "ok"]
    assert said and all(
        f.message.startswith(f"{letters.id}: ") for f in said if "lettering" in f.message or "letter" in f.code
    )
    fix = next(x for f in said for x in f.fixes if x.kind == "scale lettering")
    assert fix.values["operation"] == letters.id and edited(wide, (fix.kind, fix.values)).carving == first
    assert {f.setup for f in done.report("carve").findings} == {"front", "reverse"}
    with pytest.raises(OperatorError, match="no vcut “nothing”"):
        edited(job, ("scale lettering", {"factor": 1.1, "operation": "nothing"}))


def test_flaws_lie_on_the_other_face_where_they_are_in_the_wood():
    job = edited(
        JOBS["plate"](),
        ("add setup", {"id": "reverse"}),
        ("set setup", {"setup": "reverse", "up": "back", "spin": 180}),
        ("add flaw", {"x": 30.0, "y": 20.0, "face": "front"}),
    )
    back = next(
        s
        for s in plan(
            edited(job, ("add operation", {"setup": "reverse", "kind": "vcut", "on": ("lettering",)})),
            memory=MEMORY,
            cell=CELL,
        ).setups
        if s.name == "reverse"
    )
    (flaw,) = back.blank.flaws
    assert (flaw.x, flaw.y, flaw.face) == (job.blank.length - 30.0, 20.0, "back")
    work = back.blank_to_work.xy(30.0, 20.0)
    assert back.placed.to_work.xy(flaw.x, flaw.y) == pytest.approx(work)  # one place of the wood, told either way


def test_what_is_looked_at_again_after_a_run_is_looked_at_again_when_it_is_run_again():
    job = edited(
        JOBS["plate"](),
        ("set job", {"irreplaceable": True}),
        ("set zero", {"setup": "front", "witness_x": 5.0, "witness_y": 5.0}),
    )
    first = plan(job, memory=MEMORY, cell=CELL).setup("front")
    journal = Journal()
    for step in first.steps:
        journal = ticked(journal, "t", step)
    assert next_step(journal, list(first.steps)) is None
    again = plan(edited(job, ("set plate", {"tab_height": 4.0})), memory=MEMORY, cell=CELL).setup("front")
    left = [s.key for s in again.steps if not done(journal, s)]
    program = again.programs[-1].name
    assert left[:3] == [f"air-{program}", f"run-{program}", f"again-{program}"] and {
        "home-again",
        "witness",
        "isolate-clear",
        "depth-2",
        "depth-3",
        "clear",
    } == set(left[3:])
    assert again.programs[0].fingerprint == first.programs[0].fingerprint
