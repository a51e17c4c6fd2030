# SPDX-License-Identifier: GPL-3.0-or-later
"""Edits of lettering and plate."""

from __future__ import annotations

from typing import Any

from gatepost.core.errors import OperatorError
from gatepost.core.job.base import changed
from gatepost.core.job.carve import PLATE, CutOut, Glyph, Letters, Rounded, TextLine, VCut
from gatepost.core.job.commands.parts import (
    Commands,
    before_cut_out,
    called,
    in_setup,
    one_of,
    swap,
    unused,
    with_art,
    with_operation,
    without,
)
from gatepost.core.job.drawing import DrawnFigures
from gatepost.core.job.model import Job, Setup
from gatepost.core.job.operation import Artwork, Operation
from gatepost.core.job.turning import face_size

COMMANDS = Commands()
ART = {"vcut": "lettering", "cutout": "plate"}  # what each works on
DRAWN = "drawing"  # which each may work on in the place of that
PLACE = ("x", "y", "turn", "mirror")  # of artwork


def _last(job: Job) -> Setup:
    """Where carving is done when nothing else is said: in the last setup with the front up."""
    return next((s for s in reversed(job.setups) if s.up == "front"), job.setups[-1])


def _made(job: Job, kind: str, art: Artwork, operation: Operation, where: str) -> tuple[Job, str]:
    """The job with an operation on artwork of a kind, and its id: the one that is there, or one that is made, with artwork of
    its own, in the middle of the face that is up, where all that there is is worked on already. where: the setup, or nothing for anywhere; what frees pieces goes last."""
    for setup in job.setups:
        for one in setup.operations:
            there = _art(job, one) is not None or one.kind == "cutout" and job.art(DRAWN, one.on) is not None
            if one.kind == operation.kind and where in ("", setup.id) and there:
                return job, one.id
    here = job.setup(where) if where else _last(job)
    used = {i for s in job.setups for o in s.operations for i in o.on}
    free = next((a for a in job.artwork if a.kind == kind and a.face == here.up and a.id not in used), None)
    if free is None:
        x, y = face_size(job.blank, here.up)
        name = unused(art.id, [a.id for a in job.artwork])
        free = changed(art, id=name, face=here.up, x=x / 2, y=y / 2)
        job = changed(job, artwork=(*job.artwork, free))
    operation = changed(operation, id=unused(operation.id, called(job)), on=(free.id,))
    first = operation.kind != "cutout"
    together = (operation, *here.operations) if first else (*here.operations, operation)
    return in_setup(job, here.id, operations=together), operation.id


def _art(job: Job, operation: Operation, kind: str = "") -> Artwork | None:
    """What an operation works on. kind: as an operation of that kind does."""
    return next((a for a in job.artwork if a.id in operation.on and a.kind == ART.get(kind or operation.kind)), None)


def _lettered(job: Job, where: str = "") -> tuple[Job, str]:
    """The job with lettering and its V-cut, empty where there was none, and the V-cut's id."""
    cut = Operation(id="lettering", kind="vcut", on=("lettering",), figures=VCut())
    art = Artwork(id="lettering", kind="lettering", figures=Letters())
    return _made(job, "lettering", art, cut, where)


def _done(job: Job, kind: str, operation: str, art: str = "") -> tuple[Operation, Artwork]:
    """An operation that works on what a kind works on, and that artwork: those that are named, else the first of that kind, else the
    first of all."""
    there = [o for s in job.setups for o in s.operations if operation in ("", o.id)]
    for wanted in (ART[kind], DRAWN):
        for one in sorted(there, key=lambda o: o.kind != kind):
            on = (a for a in job.artwork if a.id in one.on and a.kind == wanted and art in ("", a.id))
            found = next(on, None)
            if found is not None:
                return one, found
    raise OperatorError(f"There is no {kind} “{operation}” with its artwork in this job.")


def _put(job: Job, kind: str, values: dict[str, Any], operation: str = "", on: str = "") -> Job:
    """Values of an operation, of the artwork it works on, and of its place, each where it belongs."""
    one, art = _done(job, kind, operation, on)
    for name in values:
        if not any(name in type(m).model_fields for m in (art.figures, one.figures)) and name not in PLACE:
            raise OperatorError(f"There is no entry “{name}” here.")
    mine = {k: v for k, v in values.items() if k in type(art.figures).model_fields}
    done = {k: v for k, v in values.items() if k in type(one.figures).model_fields and k not in mine}
    place = {k: v for k, v in values.items() if k in PLACE}
    if mine or place:
        job = with_art(job, art.id, figures=changed(art.figures, **mine), **place)
    return with_operation(job, one.id, figures=changed(one.figures, **done)) if done else job


def _lettering(job: Job, operation: str, where: str = "", art: str = "") -> tuple[Job, str, tuple[TextLine, ...]]:
    """The job with lettering; its V-cut's id and its lines: of the one that is named, of the one in a setup, or the first."""
    if not operation:
        here = [o for o in job.setup(where).operations if _art(job, o, "vcut") is not None] if where else []
        job, operation = (job, here[0].id) if here else _lettered(job, where)
    figures = _done(job, "vcut", operation, art)[1].figures
    if not isinstance(figures, Letters):
        raise OperatorError(f"“{operation}” has no lines of lettering: it works on a drawing.")
    return job, operation, figures.lines


@COMMANDS("set carving", Letters, VCut)
def set_carving(job: Job, operation: str = "", **values: Any) -> Job:
    """Where lettering stands, its margin, tool and finish: of the first, where none is named."""
    if not operation:
        job, operation, _ = _lettering(job, operation)
    return _put(job, "vcut", values, operation)


@COMMANDS("add line", TextLine)
def add_line(
    job: Job, text: str, face: str, height: float, glyphs: tuple[Glyph, ...], width: float, operation: str = "",
    setup: str = "", art: str = "", **values: Any,
) -> Job:  # fmt: skip
    """One more line of lettering, with the outlines that its face gave: of the operation that is named, of the one in a setup,
    which gets one where it has none, or of the first."""
    empty = TextLine(text="", face=face, height=10)
    line = changed(empty, **values, text=text, height=height, glyphs=glyphs, width=width)
    job, one, lines = _lettering(job, operation, setup, art)
    return _put(job, "vcut", {"lines": (*lines, line)}, one, art)


@COMMANDS("add lettering", TextLine)
def add_lettering(
    job: Job, setup: str, text: str, face: str, height: float, glyphs: tuple[Glyph, ...], width: float,
    x: float | None = None, y: float | None = None, **values: Any,
) -> Job:  # fmt: skip
    """Lettering besides what is there, V-cut, with a place and a turn of its own: in the middle of the face that is up where none is told."""
    up = job.setup(setup).up
    wide, high = face_size(job.blank, up)
    line = changed(
        TextLine(text="", face=face, height=10), **values, text=text, height=height, glyphs=glyphs, width=width
    )
    name = unused("lettering", [*called(job), *(a.id for a in job.artwork)])
    art = Artwork(id=name, kind="lettering", face=up, figures=Letters(lines=(line,)))
    art = changed(art, x=wide / 2 if x is None else x, y=high / 2 if y is None else y)
    vee = next((t.number for t in job.tools if t.kind == "vee"), VCut().tool)
    job = changed(job, artwork=(*job.artwork, art))
    return before_cut_out(job, setup, "vcut", VCut(tool=vee), (name,), name)


@COMMANDS("set line", TextLine)
def set_line(job: Job, line: str, operation: str = "", art: str = "", **values: Any) -> Job:
    """Change a line; another text or face comes with its outlines."""
    if ("text" in values or "face" in values) and not {"glyphs", "width"} <= set(values):
        raise OperatorError("Another text or face needs its outlines with it.")
    job, one, lines = _lettering(job, operation, art=art)
    old = one_of(lines, line, "line")
    return _put(job, "vcut", {"lines": swap(lines, old, changed(old, **values))}, one, art)


@COMMANDS("remove line")
def remove_line(job: Job, line: str, operation: str = "", art: str = "") -> Job:
    """Take a line of lettering away."""
    job, one, lines = _lettering(job, operation, art=art)
    return _put(job, "vcut", {"lines": without(lines, one_of(lines, line, "line"))}, one, art)


@COMMANDS("scale lettering")
def scale_lettering(job: Job, factor: float, operation: str = "") -> Job:
    """Every line larger or smaller by a factor."""
    if not 0.01 <= factor <= 100:
        raise OperatorError("Lettering can be scaled between a hundredth and a hundred times.")
    drawn = _done(job, "vcut", operation)[1] if operation else None
    if drawn is not None and isinstance(drawn.figures, DrawnFigures):
        size = {"width": drawn.figures.width * factor, "height": drawn.figures.height * factor}
        return with_art(job, drawn.id, figures=changed(drawn.figures, **size))
    job, one, lines = _lettering(job, operation)
    larger = tuple(line.larger(factor) for line in lines)
    return _put(job, "vcut", {"lines": larger}, one)


@COMMANDS("set plate", Rounded, CutOut)
def set_plate(job: Job, present: bool = True, operation: str = "", setup: str = "", **values: Any) -> Job:
    """A rounded plate that is cut out: of the operation that is named, of the one in a setup, which gets one where it has none, or
    the first; present false takes all away."""
    if not present:
        gone = {a.id for a in job.artwork if a.kind == "plate"}
        for here in job.setups:
            job = in_setup(job, here.id, operations=tuple(o for o in here.operations if not gone & set(o.on)))
        return changed(job, artwork=tuple(a for a in job.artwork if a.id not in gone))
    if not operation:
        x, y = face_size(job.blank, (job.setup(setup) if setup else _last(job)).up)
        art = Artwork(id="plate", kind="plate", figures=Rounded(width=PLATE * x, height=PLATE * y))
        cut = Operation(id="cut-out", kind="cutout", on=("plate",), figures=CutOut())
        job, operation = _made(job, "plate", art, cut, setup)
    return _put(job, "cutout", values, operation)
