# SPDX-License-Identifier: GPL-3.0-or-later
"""Edits of how a piece is found again."""

from __future__ import annotations

import math
from typing import Any

from gatepost.core.errors import OperatorError
from gatepost.core.job.base import changed
from gatepost.core.job.carve import CutOut, Rounded
from gatepost.core.job.commands.hold import place_blank
from gatepost.core.job.commands.parts import (
    Commands,
    before_cut_out,
    called,
    free_id,
    in_setup,
    one_of,
    operation_in,
    swap,
    unused,
    with_operation,
    without,
)
from gatepost.core.job.drawing import DrawnFigures
from gatepost.core.job.holes import Drilling, HolesFigures
from gatepost.core.job.model import Job, Setup
from gatepost.core.job.operation import Artwork, Operation
from gatepost.core.job.register import ByMarks, InStepNest, OnPins, PieceMark, slot_between
from gatepost.core.job.rows import holes_there
from gatepost.core.job.turning import about, face_size, lies
from gatepost.core.tolerances import UNDER_A_PIN

COMMANDS = Commands()
NEAR = 0.5  # mm within which a mark is there already
INSET = 1.5  # diameters from a pin's middle to the board's end


@COMMANDS("add pins")
def add_pins(job: Job, setup: str, across: float = 8.0, third: bool = False) -> Job:
    """Two pins for a setup, on the line that the board is turned about, near its ends: their holes drilled right through in the setup before, into the spoilboard.
    third: one more instead, off the line of those that are there."""
    here = job.setup(setup)
    number = job.setups.index(here)
    if number == 0:
        raise OperatorError("The first setup has none before it, in which pins' holes could be drilled.")
    before = job.setups[number - 1]
    if before.up not in ("front", "back"):
        raise OperatorError("Pins stand square to the face that is drilled: lay the board flat in the setup before.")
    old = here.comes if isinstance(here.comes, OnPins) else OnPins()
    x0, y0, x1, y1 = job.blank.box
    along_x = about(lies(before), lies(here)) != "about Y"
    if before.spin % 180:
        along_x = not along_x  # told on the bed; holes are told on the face
    inset = INSET * across
    (long0, long1), (wide0, wide1) = ((x0, x1), (y0, y1)) if along_x else ((y0, y1), (x0, x1))
    middle = 0.5 * (wide0 + wide1)
    if third:
        row = HolesFigures(across=across, number=1)
        place = (long0 + 0.25 * (long1 - long0), wide1 - inset)
    else:
        row = HolesFigures(across=across, number=2, pitch=max(long1 - long0 - 2.0 * inset, 1.0))
        place = (0.5 * (long0 + long1), middle)
    x, y = place if along_x else place[::-1]
    if before.up == "back":
        x = job.blank.length - x
    ids = [a.id for a in job.artwork]
    called = unused("third pin" if third else "pins", ids)
    art = changed(
        Artwork(id="pins", kind="holes", figures=row),
        id=called.replace(" ", "-"), title="Third pin" if third else "Pins", x=x, y=y, turn=0.0 if along_x else 90.0, face=before.up,
    )  # fmt: skip
    job = changed(job, artwork=(*job.artwork, art))
    into = min(across, max(1.0, job.machine.spoilboard - UNDER_A_PIN))
    done = Drilling(tool=_tool(job, across, into), through=True, into=into)
    job = before_cut_out(job, before.id, "drill", done, (art.id,), id=f"drill-{art.id}")
    comes = changed(old, on=(*(old.on if third else ()), art.id))
    return in_setup(job, setup, comes=comes, **({} if third else _onto(before, here)))


def _onto(before: Setup, here: Setup) -> dict[str, Any]:
    """Where it lies so that pins in the middle come onto the holes that they were drilled through."""
    return {"x": before.x, "y": before.y} if before.spin % 180 == here.spin % 180 else {}


def _tool(job: Job, across: float, into: float) -> int:
    """What drills or bores them: a drill as thick, else the thickest end mill that is long enough."""
    deep = job.blank.label_thickness + into
    drills = [t for t in job.tools if t.kind == "drill" and math.isclose(t.diameter, across, abs_tol=0.05)]
    mills = [t for t in job.tools if t.kind == "flat" and t.diameter <= across + 1e-9]
    best = sorted([*drills, *mills], key=lambda t: (t.cutting_length < deep, t.kind != "drill", -t.diameter))
    return best[0].number if best else 6


def _marks_of(job: Job, setup: str) -> ByMarks:
    comes = job.setup(setup).comes
    return comes if isinstance(comes, ByMarks) else ByMarks()


@COMMANDS("add mark", PieceMark)
def add_mark(job: Job, setup: str, **values: Any) -> Job:
    """One more mark of the piece by which a setup finds it, on the face that is up: a hole or a point, or with its outward normal an edge."""
    comes = _marks_of(job, setup)
    return in_setup(job, setup, comes=changed(comes, marks=(*comes.marks, values)))


@COMMANDS("set mark", PieceMark)
def set_mark(job: Job, setup: str, mark: str, **values: Any) -> Job:
    """Where a mark is drawn, and what it is."""
    comes = _marks_of(job, setup)
    old = one_of(comes.marks, mark, "mark")
    return in_setup(job, setup, comes=changed(comes, marks=swap(comes.marks, old, changed(old, **values))))


@COMMANDS("remove mark")
def remove_mark(job: Job, setup: str, mark: str) -> Job:
    """A mark that is not read any more."""
    comes = _marks_of(job, setup)
    return in_setup(job, setup, comes=changed(comes, marks=without(comes.marks, one_of(comes.marks, mark, "mark"))))


@COMMANDS("lay by photo")
def lay_by_photo(job: Job, setup: str, x: float, y: float, degrees: float, first: float) -> Job:
    """A piece laid where a photo has it, turned as it lies there; its marks say where it really is. first: what the photo is good to, mm."""
    comes = job.setup(setup).comes
    if not isinstance(comes, ByMarks):
        raise OperatorError("A photo is a first fit: the setup is one that is found by marks.")
    job = place_blank(job, setup, x, y)
    return in_setup(job, setup, skew=degrees, comes=changed(comes, first=first))


@COMMANDS("marks from art")
def marks_from_art(job: Job, setup: str, edges: bool = True) -> Job:
    """Marks of all holes that are there on the face that is up, and with edges of the middles of the board's four edges, where it is straight; those that are there
    are kept."""
    here = job.setup(setup)
    comes = _marks_of(job, setup)
    marks = list(comes.marks)
    there = [(m.x, m.y) for m in marks]
    for hole in holes_there(job, here):
        if all(math.dist((hole.x, hole.y), p) > NEAR for p in there):
            name = free_id("mark", (m.id for m in marks))
            marks.append(PieceMark(id=name, title=hole.title, x=hole.x, y=hole.y, across=hole.across))
    if edges and job.blank.shape == "rectangle" and not any(m.normal is not None for m in marks):
        long, wide = face_size(job.blank, here.up)
        for title, x, y, normal in (
            ("the left edge", 0.0, 0.5 * wide, 180.0), ("the right edge", long, 0.5 * wide, 0.0), ("the lower edge, left", 0.2 * long, 0.0, -90.0),
            ("the lower edge, right", 0.8 * long, 0.0, -90.0), ("the upper edge", 0.5 * long, wide, 90.0),
        ):  # fmt: skip
            marks.append(PieceMark(id=free_id("mark", (m.id for m in marks)), title=title, x=x, y=y, normal=normal))
    if len(marks) == len(comes.marks):
        raise OperatorError(
            "There are no holes on this face, and no straight edges to take marks from. Add marks one by one."
        )
    return in_setup(job, setup, comes=changed(comes, marks=tuple(marks)))


@COMMANDS("set rim")
def set_rim(
    job: Job, setup: str, operation: str, path: str, wide: float, high: float, x: float, y: float, slot: float = 6.0, apart: float = 5.9,
    key: bool = True, tab_at: tuple[float, ...] = (), tab_width: float = 0.0,
) -> Job:  # fmt: skip
    """A stepped rim in the place of what a cut-out goes round, and the setup laid into the frame that stays. path: about its middle x, y on its face, so wide and high;
    slot: as wide as the cut leaves it; apart: between its levels; tab_at, tab_width: tabs by its risers, shares of the way round and mm, or nothing for those that there are."""
    before, cut = operation_in(job, operation)
    here = job.setup(setup)
    if not isinstance(cut.figures, CutOut):
        raise OperatorError(f"“{cut.name}” cuts nothing out.")
    if job.setups.index(before) >= job.setups.index(here):
        raise OperatorError("The cut-out comes before the setup that is laid into its frame.")
    old = here.comes if isinstance(here.comes, InStepNest) else InStepNest()
    of = next(iter(cut.on), "")
    rim = next((a for a in job.artwork if a.id == of), None)
    if rim is not None and isinstance(rim.figures, DrawnFigures) and old.cut == operation and old.of and old.of != of:
        of = old.of  # a rim is made anew about the same outline
    else:
        rim = None
    face = next((a.face for a in job.artwork if a.id == of), before.up)
    name = rim.id if rim is not None else unused("rim", [a.id for a in job.artwork])
    drawn = DrawnFigures(path=path, wide=wide, high=high, width=wide, height=high, name="stepped rim")
    art = changed(Artwork(id="rim", kind="drawing", figures=drawn), id=name, title="Stepped rim", x=x, y=y, face=face)
    job = changed(job, artwork=(*(a for a in job.artwork if a is not rim), art))
    figures = changed(cut.figures, side="outside", skin=0.0)
    if tab_at:
        figures = changed(figures, tabs=len(tab_at), tab_at=tuple(tab_at), tab_width=tab_width)
    job = with_operation(job, operation, on=(name,), figures=figures)
    comes = changed(old, cut=operation, of=of, slot=slot, apart=apart, key=key)
    return in_setup(job, setup, comes=comes)


@COMMANDS("measure slot")
def measure_slot(job: Job, setup: str, opening: float, piece: float) -> Job:
    """How wide a slot really is, from a test piece cut out with the same tool in the same wood: its opening less the piece, by half."""
    comes = job.setup(setup).comes
    if not isinstance(comes, InStepNest):
        raise OperatorError("Only a setup that is laid into its frame wants to know how wide the slot is.")
    return in_setup(
        job, setup, comes=changed(comes, slot=slot_between(opening, piece), measured=True, by=job.cut_by(comes.cut))
    )


@COMMANDS("add test slot")
def add_test_slot(job: Job, setup: str, x: float, y: float, size: float = 40.0) -> Job:
    """A small square to be cut out as the piece will be, in waste or on scrap: the slot about it is measured. x, y: its middle, on the face of the setup that the cut-out is
    in."""
    comes = job.setup(setup).comes
    if not isinstance(comes, InStepNest) or not comes.cut:
        raise OperatorError("Make the rim first: the test slot is cut as that will be.")
    before, cut = operation_in(job, comes.cut)
    assert isinstance(cut.figures, CutOut)
    name = unused("test-slot", [a.id for a in job.artwork])
    art = changed(
        Artwork(id="test", kind="plate", figures=Rounded(width=size, height=size, corner=0.0)),
        id=name,
        title="Test slot",
        x=x,
        y=y,
        face=before.up,
    )
    job = changed(job, artwork=(*job.artwork, art))
    done = Operation(
        id=unused("cut-test-slot", called(job)),
        kind="cutout",
        title="",
        on=(name,),
        figures=changed(cut.figures, tabs=2, tab_at=()),
    )
    mine = [o for o in job.setup(before.id).operations if o.id != comes.cut]
    return in_setup(job, before.id, operations=(*mine, done, cut))
