# SPDX-License-Identifier: GPL-3.0-or-later
"""How a board comes from one setup into the next, a series of rows, and pieces in a setup."""

import pytest

from gatepost.core.errors import OperatorError, UnusableFile
from gatepost.core.job import commands
from gatepost.core.job.file import Document, load, save
from gatepost.core.job.journal import Journal
from gatepost.core.job.register import Register
from gatepost.core.plan.kinds import SHIPPED, Kinds
from gatepost.core.plan.pipeline import plan
from gatepost.core.register.kind import RegisterKind
from gatepost.core.zero.trust import Trust, trust, where
from tests.core.catalogue_jobs import JOBS
from tests.core.told import CELL

AT = "2026-11-20T10:00:00"


def edited(job, *edits, kinds=SHIPPED):
    for name, values in edits:
        job = commands.run(job, name, values, kinds.figures)
    return job


def laying(job, name, kinds=SHIPPED):
    """The step that says where the board is put."""
    return next(s.title for s in plan(job, cell=CELL, kinds=kinds).setup(name).steps if s.key == "hold")


def test_a_board_that_is_not_moved_is_left_where_it_lies_but_not_in_the_first_setup():
    job = edited(JOBS["whole"](), ("set register", {"setup": "front", "kind": "as it lies"}))
    assert laying(job, "surface").startswith("Lay the board") and laying(job, "front").startswith(
        "Leave the board where it lies"
    )
    first = edited(
        JOBS["plate"](), ("set register", {"setup": "front", "kind": "as it lies"})
    )  # what comes before it is not needed
    assert laying(first, "front").startswith("Lay the board")
    again = edited(job, ("set register", {"setup": "front"}))
    assert again == JOBS["whole"]() and laying(again, "front").startswith("Lay the board")


def test_a_piece_that_was_away_is_touched_anew_and_what_was_known_of_it_is_lost():
    job = edited(JOBS["whole"](), ("set register", {"setup": "front", "kind": "brought back"}))
    setup = plan(job, cell=CELL).setup("front")
    kinds = [s.kind for s in setup.steps]
    assert "zero xy" in kinds and "zero kept" not in kinds and "brought back clean" in laying(job, "front")
    happened = Journal().add(AT, "laid", "surface").add(AT, "homed", "surface")
    for axis in "xyz":
        happened = happened.add(AT, "touched", "surface", axis=axis, machine=-10.0, tool=1, spread=0.01)
    known = trust(happened.standing(), where(job, job.setup("surface")))
    assert {known.x.trust, known.y.trust, known.z.trust} == {Trust.TRUSTED}
    back = trust(happened.add(AT, "laid", "front").standing(), where(job, job.setup("front")))
    assert {back.x.trust, back.y.trust, back.z.trust} == {Trust.LOST}


class Thrown(Register):
    """A way that nothing else knows."""

    kind: str = "thrown"


class ThrownKind(RegisterKind):
    figures, one, laying = Thrown, "thrown", "Throw the board to {where}."


THROWN = Kinds("tests.core.test_register:THROWN", SHIPPED.operations, SHIPPED.artwork, SHIPPED.holds, {**SHIPPED.registers, "thrown": ThrownKind()})  # fmt: skip


def test_a_way_of_coming_is_one_class_in_a_table_that_is_given(tmp_path):
    job = edited(JOBS["whole"](), ("set register", {"setup": "front", "kind": "thrown"}), kinds=THROWN)
    assert laying(job, "front", THROWN).startswith("Throw the board to X")
    path = tmp_path / "thrown.gatepost"
    save(Document(job), path)
    assert load(path, THROWN.figures).job == job
    with pytest.raises(UnusableFile, match="thrown"):
        load(path)
    with pytest.raises(OperatorError, match="no way of coming"):
        edited(JOBS["whole"](), ("set register", {"setup": "front", "kind": "thrown"}))


def test_rows_and_pieces_are_kept_with_the_job_and_go_together(tmp_path):
    rows = [{"values": {"name": n}} for n in ("Quay", "Mill", "Weir")]
    pieces = [{"x": 10.0, "y": 20.0, "row": "row-2"}, {"id": "spare", "x": 200.0, "y": 20.0}]
    job = edited(JOBS["plate"](), ("set series", {"rows": rows}), ("set copies", {"setup": "front", "copies": pieces}))
    assert [r.id for r in job.series] == ["row-1", "row-2", "row-3"]
    assert [(c.id, c.row) for c in job.setup("front").copies] == [("copy-1", "row-2"), ("spare", "")]
    path = tmp_path / "series.gatepost"
    save(Document(job), path)
    assert load(path).job == job
    fewer = edited(job, ("set series", {"rows": rows[:1]}))  # the piece whose row is gone goes with it
    assert [c.id for c in fewer.setup("front").copies] == ["spare"]
    assert {f.code for f in plan(job, cell=CELL, coarse=True).stops} >= {"register.copies", "carve.series"}


def test_lettering_that_is_mirrored_for_a_turn_by_hand_is_mirrored_twice():
    lines = JOBS["strapped"]().carving.lines
    job = edited(
        JOBS["strapped"](), ("add setup", {"id": "over", "up": "back"}),
        ("add art", {"kind": "lettering", "id": "rear", "face": "back", "x": 60.0, "y": 40.0, "lines": lines}),
        ("add operation", {"setup": "over", "kind": "vcut", "on": ("rear",), "tool": 4}),
    )  # fmt: skip
    assert "carve.backwards" not in {f.code for f in plan(job, cell=CELL).findings}
    told = [
        f
        for f in plan(edited(job, ("set art", {"art": "rear", "mirror": True})), cell=CELL).stops
        if f.code == "carve.backwards"
    ]
    assert [f.setup for f in told] == ["over"] and "mirrored twice" in told[0].message
    front = plan(edited(job, ("set art", {"art": "lettering", "mirror": True})), cell=CELL)
    assert "twice" not in next(f for f in front.stops if f.code == "carve.backwards").message
