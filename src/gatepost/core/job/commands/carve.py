# SPDX-License-Identifier: GPL-3.0-or-later
"""Edits of lettering and plate."""

from __future__ import annotations

from typing import Any

from pydantic import ValidationError

from gatepost.core.errors import OperatorError
from gatepost.core.job.base import Model, changed, complaint
from gatepost.core.job.carve import CutOut, Glyph, Letters, Rounded, TextLine, VCut
from gatepost.core.job.commands.parts import (
    Commands,
    called,
    free_id,
    in_setup,
    one_of,
    operation_in,
    swap,
    with_art,
    with_operation,
    without,
)
from gatepost.core.job.drawing import DrawnFigures
from gatepost.core.job.gouge import Gouge
from gatepost.core.job.holes import Drilling, Engraving, HolesFigures
from gatepost.core.job.model import Job, Setup
from gatepost.core.job.operation import Artwork, Operation
from gatepost.core.job.relief import HeightsFigures, Relief
from gatepost.core.job.sunk import Ground, Recess, Sunk
from gatepost.core.job.turning import face_size

COMMANDS = Commands()
ART = {"vcut": "lettering", "cutout": "plate"}  # what each works on
DRAWN = "drawing"  # which each may work on in the place of that
STAYS = ("lettering", "plate", DRAWN)  # what may stay in a ground, or frame it
PLACE = ("x", "y", "turn", "mirror")  # of artwork
MILL = 6.0  # mm: an end mill of about that is taken where one is chosen for somebody


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
        name = _free(art.id, [a.id for a in job.artwork])
        free = changed(art, id=name, face=here.up, x=x / 2, y=y / 2)
        job = changed(job, artwork=(*job.artwork, free))
    operation = changed(operation, id=_free(operation.id, called(job)), on=(free.id,))
    first = operation.kind != "cutout"
    together = (operation, *here.operations) if first else (*here.operations, operation)
    return in_setup(job, here.id, operations=together), operation.id


def _art(job: Job, operation: Operation, kind: str = "") -> Artwork | None:
    """What an operation works on. kind: as an operation of that kind does."""
    return next((a for a in job.artwork if a.id in operation.on and a.kind == ART.get(kind or operation.kind)), None)


def _free(wanted: str, taken: list[str]) -> str:
    """An id as it is wanted, or numbered where that is taken."""
    return free_id(wanted, taken) if wanted in taken else wanted


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
    name = _free("lettering", [*called(job), *(a.id for a in job.artwork)])
    art = Artwork(id=name, kind="lettering", face=up, figures=Letters(lines=(line,)))
    art = changed(art, x=wide / 2 if x is None else x, y=high / 2 if y is None else y)
    vee = next((t.number for t in job.tools if t.kind == "vee"), VCut().tool)
    job = changed(job, artwork=(*job.artwork, art))
    return _before_cut_out(job, setup, "vcut", VCut(tool=vee), (name,), name)


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
        art = Artwork(id="plate", kind="plate", figures=Rounded(width=0.8 * x, height=0.8 * y))
        cut = Operation(id="cut-out", kind="cutout", on=("plate",), figures=CutOut())
        job, operation = _made(job, "plate", art, cut, setup)
    return _put(job, "cutout", values, operation)


def _tools(job: Job) -> tuple[int, ...]:
    """An end mill and a V-bit of the job's, as far as it has them."""
    mills = sorted(
        (t for t in job.tools if t.kind == "flat"), key=lambda t: (t.diameter > MILL, abs(t.diameter - MILL))
    )
    vees = [t for t in job.tools if t.kind == "vee"]
    return tuple(t.number for t in (*mills[:1], *vees[:1])) or Sunk().tools


def _before_cut_out(job: Job, setup: str, kind: str, figures: Model, on: tuple[str, ...], id: str = "") -> Job:
    """The job with one more operation, done before anything is cut out. id: as it is called, else as its kind."""
    here = job.setup(setup)
    name = _free(id or kind, called(job))
    made = Operation(id=name, kind=kind, on=on, figures=figures)
    last = [o for o in here.operations if o.kind == "cutout"]
    return in_setup(job, setup, operations=(*(o for o in here.operations if o not in last), made, *last))


@COMMANDS("add drawing", DrawnFigures)
def add_drawing(
    job: Job, setup: str, path: str, wide: float, high: float, id: str = "", title: str = "", **values: Any
) -> Job:
    """A drawing in the middle of the face that is up, as large as it was drawn, V-cut there."""
    face = job.setup(setup).up
    x, y = face_size(job.blank, face)
    name = id or _free(DRAWN, [a.id for a in job.artwork])
    size = {"width": wide, "height": high, **values}
    try:
        figures = DrawnFigures.model_validate({"path": path, "wide": wide, "high": high, **size})
    except ValidationError as error:
        raise OperatorError(complaint(error)) from None
    art = Artwork(id="new", title=title, kind=DRAWN, face=face, x=x / 2, y=y / 2, figures=figures)
    job = changed(job, artwork=(*job.artwork, changed(art, id=name)))
    vee = next((t.number for t in job.tools if t.kind == "vee"), VCut().tool)
    return _before_cut_out(job, setup, "vcut", VCut(tool=vee), (name,), name)


@COMMANDS("add gouged ground", Gouge)
def add_gouged_ground(job: Job, setup: str, **values: Any) -> Job:
    """A ground gouged round all that is on the face that is up, which stays."""
    here = job.setup(setup)
    stays = tuple(a.id for a in job.artwork if a.face == here.up and a.kind in (*STAYS, "heights"))
    return _before_cut_out(job, setup, "gouge", changed(Gouge(tools=_relief_tools(job)), **values), stays)


@COMMANDS("add holes", HolesFigures, Drilling)
def add_holes(job: Job, setup: str, id: str = "", title: str = "", **values: Any) -> Job:
    """Holes in the middle of the face that is up, drilled there by the drill that is as thick, else by an end mill."""
    face = job.setup(setup).up
    x, y = face_size(job.blank, face)
    own = {k: v for k, v in values.items() if k in HolesFigures.model_fields}
    drills = [t for t in job.tools if t.kind == "drill"]
    holes = changed(HolesFigures(across=drills[0].diameter if drills else MILL), **own)
    made = [t for t in drills if abs(t.diameter - holes.across) < 1e-6]
    made += [t for t in job.tools if t.kind == "flat" and t.diameter <= holes.across]
    name = id or _free("holes", [a.id for a in job.artwork])
    art = changed(Artwork(id="new", title=title, kind="holes", face=face, x=x / 2, y=y / 2, figures=holes), id=name)
    job = changed(job, artwork=(*job.artwork, art))
    tool = made[0].number if made else next((t.number for t in (*drills, *job.tools)), 1)
    figures = changed(Drilling(tool=tool), **{k: v for k, v in values.items() if k not in own})
    return _before_cut_out(job, setup, "drill", figures, (name,))


@COMMANDS("add engraved line", Engraving)
def add_engraved_line(job: Job, setup: str, on: tuple[str, ...] = (), **values: Any) -> Job:
    """A line engraved along outlines: those that are named, or the plate's or drawing's that is there, or else an outline of its own, a little inside the
    edge of the face that is up."""
    face = job.setup(setup).up
    there = tuple(a.id for a in job.artwork if a.face == face and a.kind in ("plate", DRAWN))[:1]
    chosen = tuple(on) or there
    if not chosen:
        x, y = face_size(job.blank, face)
        edge = min(x, y) / 10.0
        name = _free("border", [a.id for a in job.artwork])
        shape = Rounded(width=x - 2.0 * edge, height=y - 2.0 * edge, corner=edge)
        art = Artwork(id=name, title="Border", kind="plate", face=face, x=x / 2, y=y / 2, figures=shape)
        job, chosen = changed(job, artwork=(*job.artwork, art)), (name,)
    vee = next((t.number for t in job.tools if t.kind == "vee"), Engraving().tool)
    inset = {"inset": 6.0} if there and not on else {}
    return _before_cut_out(job, setup, "line", changed(Engraving(tool=vee, **inset), **values), chosen)


@COMMANDS("engrave lettering", Engraving)
def engrave_lettering(job: Job, operation: str, **values: Any) -> Job:
    """Lettering engraved along its lines, in the place of its V-cut and by the same bit: letters of single lines along their strokes, others along their
    outlines."""
    setup, old = operation_in(job, operation)
    if not isinstance(old.figures, VCut):
        raise OperatorError(f"“{old.name}” is no V-cut.")
    figures = changed(Engraving(tool=old.figures.tool), **values)
    new = Operation(id=old.id, title=old.title, kind="line", on=old.on, after=old.after, figures=figures)
    return in_setup(job, setup.id, operations=tuple(new if o is old else o for o in setup.operations))


@COMMANDS("add relief", HeightsFigures, Relief)
def add_relief(job: Job, setup: str, id: str = "", title: str = "", **values: Any) -> Job:
    """Heights in the middle of the face that is up, carved there as a relief."""
    face = job.setup(setup).up
    x, y = face_size(job.blank, face)
    own = {k: v for k, v in values.items() if k in Relief.model_fields}
    unknown = sorted(set(values) - set(own) - set(HeightsFigures.model_fields))
    if unknown:
        raise OperatorError(f"There is no entry “{unknown[0]}” here.")
    try:
        figures = HeightsFigures.model_validate({k: v for k, v in values.items() if k not in own})
    except ValidationError as error:
        raise OperatorError(complaint(error)) from None
    name = id or _free("heights", [a.id for a in job.artwork])
    art = changed(Artwork(id="new", title=title, kind="heights", face=face, x=x / 2, y=y / 2, figures=figures), id=name)
    job = changed(job, artwork=(*job.artwork, art))
    return _before_cut_out(job, setup, "relief", changed(Relief(tools=_relief_tools(job)), **own), (name,))


def _relief_tools(job: Job) -> tuple[int, ...]:
    """An end mill and the largest ball of the job's that is no thicker, as far as it has them."""
    mills = [n for n in _tools(job) if any(t.number == n and t.kind == "flat" and t.centre_cutting for t in job.tools)]
    balls = sorted((t for t in job.tools if t.kind == "ball"), key=lambda t: (t.diameter > MILL, -t.diameter))
    return (*mills, *(t.number for t in balls[:1])) or Relief().tools


@COMMANDS("cut out drawing")
def cut_out_drawing(job: Job, art: str, setup: str = "") -> Job:
    """A drawing cut out along its outer line, in the place of its V-cut where it has one."""
    drawn = next((a for a in job.artwork if a.id == art and a.kind == DRAWN), None)
    if drawn is None:
        raise OperatorError(f"There is no drawing “{art}” in this job.")
    there = [s for s in job.setups if any(art in o.on for o in s.operations)]
    here = (
        job.setup(setup)
        if setup
        else (there[0] if there else next((s for s in reversed(job.setups) if s.up == drawn.face), job.setups[-1]))
    )
    mill = [n for n in _tools(job) if any(t.number == n and t.kind == "flat" for t in job.tools)]
    kept = tuple(o for o in here.operations if not (o.kind in ("vcut", "cutout") and o.on == (art,)))
    ids = {o.id for o in kept}
    kept = tuple(changed(o, after=tuple(a for a in o.after if a in ids)) for o in kept)
    cut = Operation(
        id=_free("cut-out", called(job)), kind="cutout", on=(art,), figures=CutOut(tool=(*mill, CutOut().tool)[0])
    )
    return in_setup(job, here.id, operations=(*kept, cut))


@COMMANDS("size art")
def size_art(job: Job, art: str, width: float | None = None, height: float | None = None, kept: bool = True) -> Job:
    """A plate, border, drawing or relief as wide or as high as is said. kept: whether its proportions are kept where only one is said."""
    old = next((a for a in job.artwork if a.id == art), None)
    figures = old.figures if old is not None else None
    if not isinstance(figures, (Rounded, DrawnFigures, HeightsFigures)):
        raise OperatorError(f"There is no plate, border, drawing or relief “{art}” in this job.")
    wide, high = width or figures.width, height or figures.height
    if kept and (width is None) != (height is None):
        factor = wide / figures.width if width is not None else high / figures.height
        wide, high = figures.width * factor, figures.height * factor
    return with_art(job, art, figures=changed(figures, width=wide, height=high))


@COMMANDS("add ground", Ground)
def add_ground(job: Job, setup: str, **values: Any) -> Job:
    """A ground sunk round all that is on the face that is up, which stays; lettering that was cut into it there is raised from then on."""
    here = job.setup(setup)
    stays = tuple(a.id for a in job.artwork if a.face == here.up and a.kind in STAYS)
    letters = {a.id for a in job.artwork if a.kind == "lettering"}
    kept = tuple(o for o in here.operations if not (o.kind == "vcut" and set(o.on) & letters & set(stays)))
    ids = {o.id for o in kept}
    kept = tuple(changed(o, after=tuple(a for a in o.after if a in ids)) for o in kept)
    job = in_setup(job, setup, operations=kept)
    return _before_cut_out(job, setup, "ground", changed(Ground(tools=_tools(job)), **values), stays)


@COMMANDS("flat floor")
def flat_floor(job: Job, operation: str, depth: float) -> Job:
    """A V-cut made no deeper than is said, with a flat floor where it would be: a recess with the same V-bit at its edge."""
    setup, old = operation_in(job, operation)
    if not isinstance(old.figures, VCut):
        raise OperatorError(f"“{old.name}” is no V-cut.")
    mill = [n for n in _tools(job) if any(t.number == n and t.kind == "flat" for t in job.tools)]
    figures = changed(Recess(), depth=depth, tools=(*mill, old.figures.tool))
    new = Operation(id=old.id, title=old.title, kind="recess", on=old.on, after=old.after, figures=figures)
    return in_setup(job, setup.id, operations=tuple(new if o is old else o for o in setup.operations))


@COMMANDS("add recess", Rounded, Recess)
def add_recess(job: Job, setup: str, **values: Any) -> Job:
    """A recess in the middle of the face that is up, with an outline of its own."""
    face = job.setup(setup).up
    x, y = face_size(job.blank, face)
    own = {k: v for k, v in values.items() if k in Rounded.model_fields}
    shape = changed(Rounded(width=x / 3, height=y / 3, corner=min(x, y) / 30), **own)
    name = _free("outline", [a.id for a in job.artwork])
    art = Artwork(
        id=name,
        title=f"Outline of a recess{name.removeprefix('outline').replace('-', ' ')}",
        kind="plate",
        face=face,
        x=x / 2,
        y=y / 2,
        figures=shape,
    )
    job = changed(job, artwork=(*job.artwork, art))
    figures = changed(Recess(tools=_tools(job)), **{k: v for k, v in values.items() if k not in own})
    return _before_cut_out(job, setup, "recess", figures, (name,))
