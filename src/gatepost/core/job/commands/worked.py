# SPDX-License-Identifier: GPL-3.0-or-later
"""Edits that bring something to be carved: drawings, grounds, recesses, reliefs, holes, lines."""

from __future__ import annotations

from typing import Any

from pydantic import ValidationError

from gatepost.core.errors import OperatorError
from gatepost.core.job.base import Model, changed, complaint
from gatepost.core.job.behind import HangerFigures, ScrewsFigures
from gatepost.core.job.carve import CutOut, Rounded, VCut
from gatepost.core.job.commands.parts import (
    Commands,
    before_cut_out,
    called,
    in_setup,
    operation_in,
    unused,
    with_art,
)
from gatepost.core.job.drawing import DrawnFigures
from gatepost.core.job.gouge import Gouge
from gatepost.core.job.holes import Drilling, Engraving, HolesFigures
from gatepost.core.job.model import Job
from gatepost.core.job.operation import Artwork, Operation
from gatepost.core.job.relief import HeightsFigures, Relief
from gatepost.core.job.sunk import Ground, Recess, Stencil, Sunk
from gatepost.core.job.turning import face_size

COMMANDS = Commands()
DRAWN = "drawing"
STAYS = ("lettering", "plate", DRAWN)  # what may stay in a ground, or frame it
BEHIND: dict[str, tuple[str, Model]] = {
    "screws": ("Screws from behind", ScrewsFigures()),
    "hanger": ("Hanger recess", HangerFigures()),
}
MILL = 6.0  # mm: an end mill of about that is taken where one is chosen for somebody


def mills_and_vee(job: Job) -> tuple[int, ...]:
    """An end mill and a V-bit of the job's, as far as it has them."""
    mills = sorted(
        (t for t in job.tools if t.kind == "flat"), key=lambda t: (t.diameter > MILL, abs(t.diameter - MILL))
    )
    vees = [t for t in job.tools if t.kind == "vee"]
    return tuple(t.number for t in (*mills[:1], *vees[:1])) or Sunk().tools


@COMMANDS("add drawing", DrawnFigures)
def add_drawing(
    job: Job, setup: str, path: str, wide: float, high: float, id: str = "", title: str = "", **values: Any
) -> Job:
    """A drawing in the middle of the face that is up, as large as it was drawn, V-cut there."""
    face = job.setup(setup).up
    x, y = face_size(job.blank, face)
    name = id or unused(DRAWN, [a.id for a in job.artwork])
    size = {"width": wide, "height": high, **values}
    try:
        figures = DrawnFigures.model_validate({"path": path, "wide": wide, "high": high, **size})
    except ValidationError as error:
        raise OperatorError(complaint(error)) from None
    art = Artwork(id="new", title=title, kind=DRAWN, face=face, x=x / 2, y=y / 2, figures=figures)
    job = changed(job, artwork=(*job.artwork, changed(art, id=name)))
    vee = next((t.number for t in job.tools if t.kind == "vee"), VCut().tool)
    return before_cut_out(job, setup, "vcut", VCut(tool=vee), (name,), name)


@COMMANDS("add gouged ground", Gouge)
def add_gouged_ground(job: Job, setup: str, **values: Any) -> Job:
    """A ground gouged round all that is on the face that is up, which stays."""
    here = job.setup(setup)
    stays = tuple(a.id for a in job.artwork if a.face == here.up and a.kind in (*STAYS, "heights"))
    return before_cut_out(job, setup, "gouge", changed(Gouge(tools=_relief_tools(job)), **values), stays)


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
    name = id or unused("holes", [a.id for a in job.artwork])
    art = changed(Artwork(id="new", title=title, kind="holes", face=face, x=x / 2, y=y / 2, figures=holes), id=name)
    job = changed(job, artwork=(*job.artwork, art))
    tool = made[0].number if made else next((t.number for t in (*drills, *job.tools)), 1)
    figures = changed(Drilling(tool=tool), **{k: v for k, v in values.items() if k not in own})
    return before_cut_out(job, setup, "drill", figures, (name,))


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
        name = unused("border", [a.id for a in job.artwork])
        shape = Rounded(width=x - 2.0 * edge, height=y - 2.0 * edge, corner=edge)
        art = Artwork(id=name, title="Border", kind="plate", face=face, x=x / 2, y=y / 2, figures=shape)
        job, chosen = changed(job, artwork=(*job.artwork, art)), (name,)
    vee = next((t.number for t in job.tools if t.kind == "vee"), Engraving().tool)
    inset = {"inset": 6.0} if there and not on else {}
    return before_cut_out(job, setup, "line", changed(Engraving(tool=vee, **inset), **values), chosen)


@COMMANDS("add behind")
def add_behind(job: Job, setup: str, kind: str, **values: Any) -> Job:
    """Screws, or a recess to hang it by, that come into the back under the middle of the face that is up: nothing is cut of them here."""
    face = job.setup(setup).up
    x, y = face_size(job.blank, face)
    name = unused(kind, [a.id for a in job.artwork])
    number = name.removeprefix(kind).replace("-", " ")
    if kind not in BEHIND:
        raise OperatorError(f"From behind there are {' and '.join(BEHIND)}.")
    title, figures = BEHIND[kind]
    art = Artwork(id=name, title=f"{title}{number}", kind=kind, face=face, x=x / 2, y=y / 2, figures=changed(figures, **values))  # fmt: skip
    return changed(job, artwork=(*job.artwork, art))


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


@COMMANDS("cut letters through", Stencil)
def cut_letters_through(job: Job, operation: str, **values: Any) -> Job:
    """Lettering or a drawing cut right through, as a stencil is, in the place of its V-cut."""
    setup, old = operation_in(job, operation)
    if not isinstance(old.figures, VCut):
        raise OperatorError(f"“{old.name}” is no V-cut.")
    mills = [n for n in mills_and_vee(job) if any(t.number == n and t.kind == "flat" for t in job.tools)]
    figures = changed(Stencil(tools=tuple(mills) or Stencil().tools), **values)
    new = Operation(id=old.id, title=old.title, kind="stencil", on=old.on, after=old.after, figures=figures)
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
    name = id or unused("heights", [a.id for a in job.artwork])
    art = changed(Artwork(id="new", title=title, kind="heights", face=face, x=x / 2, y=y / 2, figures=figures), id=name)
    job = changed(job, artwork=(*job.artwork, art))
    return before_cut_out(job, setup, "relief", changed(Relief(tools=_relief_tools(job)), **own), (name,))


def _relief_tools(job: Job) -> tuple[int, ...]:
    """An end mill and the largest ball of the job's that is no thicker, as far as it has them."""
    mills = [
        n for n in mills_and_vee(job) if any(t.number == n and t.kind == "flat" and t.centre_cutting for t in job.tools)
    ]
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
    mill = [n for n in mills_and_vee(job) if any(t.number == n and t.kind == "flat" for t in job.tools)]
    kept = tuple(o for o in here.operations if not (o.kind in ("vcut", "cutout") and o.on == (art,)))
    ids = {o.id for o in kept}
    kept = tuple(changed(o, after=tuple(a for a in o.after if a in ids)) for o in kept)
    cut = Operation(
        id=unused("cut-out", called(job)), kind="cutout", on=(art,), figures=CutOut(tool=(*mill, CutOut().tool)[0])
    )
    return in_setup(job, here.id, operations=(*kept, cut))


@COMMANDS("cut out holes")
def cut_out_holes(job: Job, operation: str, holes: Any) -> Job:
    """Holes of a drawing that is cut out, each cut out along its inside before the drawing is, by the same tool. holes: which, the largest being 1, and
    the tabs of each."""
    setup, outer = operation_in(job, operation)
    art = job.art(DRAWN, outer.on)
    if not isinstance(outer.figures, CutOut) or art is None:
        raise OperatorError(f"“{outer.name}” cuts no drawing out.")
    made: list[Operation] = []
    for number, tabs in holes:
        figures = changed(outer.figures, side="inside", hole=number, tabs=tabs, tab_at=())
        taken = [*called(job), *(o.id for o in made)]
        made.append(Operation(id=unused(f"hole-{number}", taken), kind="cutout", on=(art.id,), figures=figures))
    last = changed(outer, after=(*outer.after, *(o.id for o in made)))
    operations = [one for o in setup.operations for one in ((*made, last) if o is outer else (o,))]
    return in_setup(job, setup.id, operations=tuple(operations))


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
    return before_cut_out(job, setup, "ground", changed(Ground(tools=mills_and_vee(job)), **values), stays)


@COMMANDS("flat floor")
def flat_floor(job: Job, operation: str, depth: float) -> Job:
    """A V-cut made no deeper than is said, with a flat floor where it would be: a recess with the same V-bit at its edge."""
    setup, old = operation_in(job, operation)
    if not isinstance(old.figures, VCut):
        raise OperatorError(f"“{old.name}” is no V-cut.")
    mill = [n for n in mills_and_vee(job) if any(t.number == n and t.kind == "flat" for t in job.tools)]
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
    name = unused("outline", [a.id for a in job.artwork])
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
    figures = changed(Recess(tools=mills_and_vee(job)), **{k: v for k, v in values.items() if k not in own})
    return before_cut_out(job, setup, "recess", figures, (name,))
