# SPDX-License-Identifier: GPL-3.0-or-later
"""Edits of setups, of what is done in them, and of the artwork that it is done to. Everything is told by its id."""

from __future__ import annotations

from typing import Any

from pydantic import ValidationError

from gatepost.core.errors import OperatorError
from gatepost.core.job.base import Model, changed, complaint, of_its_kind
from gatepost.core.job.commands.parts import Commands, called, free_id, in_setup, operation_in, with_art, with_operation
from gatepost.core.job.kinds import FigureTables
from gatepost.core.job.model import Job, Setup
from gatepost.core.job.operation import Artwork, Kinds, Operation
from gatepost.core.job.register import Register

COMMANDS = Commands()


def _setups(job: Job, setups: tuple[Setup, ...]) -> Job:
    """The job with other setups, each going on from the one before where that which it followed is gone or comes later."""
    told: list[Setup] = []
    for setup in setups:
        here = {s.id for s in told}
        follows = setup.follows if setup.follows in here or not setup.follows else told[-1].id if told else ""
        told.append(changed(setup, follows=follows))
    return changed(job, setups=tuple(told))


@COMMANDS("add setup")
def add_setup(job: Job, id: str = "", **values: Any) -> Job:
    """One more way the board lies, after all others. It lies where it lay before, with nothing holding it and nothing done."""
    last = job.setups[-1]
    name = id or free_id("setup", (s.id for s in job.setups))
    new = changed(Setup(id="setup", follows=last.id, up=last.up, spin=last.spin, x=last.x, y=last.y), **values, id=name)
    return changed(job, setups=(*job.setups, new))


@COMMANDS("set setup")
def set_setup(job: Job, setup: str, **values: Any) -> Job:
    """Its title, which face is up, how it is turned on its plane, and what it follows."""
    for name in values:
        if name not in ("title", "up", "spin", "follows"):
            raise OperatorError(f"“{name}” of a setup is not set this way.")
    return in_setup(job, setup, **values)


@COMMANDS("set register", Register)
def set_register(job: Job, setup: str, kinds: FigureTables, kind: str = "", **figures: Any) -> Job:
    """How the board comes into a setup from the one before, by the figures of its kind; without a kind it is laid down again."""
    try:
        new = (
            of_its_kind({**figures, "kind": kind}, Register, kinds.registers, "way of coming into a setup")
            if kind
            else None
        )
    except ValueError as error:
        raise OperatorError(str(error)) from None
    return in_setup(job, setup, comes=new)


@COMMANDS("set copies")
def set_copies(job: Job, setup: str, copies: Any) -> Job:
    """All pieces of a setup beside the first: the place of each on the bed, and the row of the series that it is."""
    return in_setup(job, setup, copies=copies)


@COMMANDS("set series")
def set_series(job: Job, rows: Any) -> Job:
    """All rows of the series at once: what the texts of each piece say, by column. Pieces of rows that go are taken away."""
    done = changed(job, setups=tuple(changed(s, copies=()) for s in job.setups), series=rows)
    ids = {r.id for r in done.series}
    kept = {s.id: tuple(c for c in s.copies if c.row in ("", *ids)) for s in job.setups}
    return changed(done, setups=tuple(changed(s, copies=kept[s.id]) for s in done.setups))


@COMMANDS("copy setup")
def copy_setup(job: Job, setup: str, id: str = "") -> Job:
    """Another just like one, after it, with operations of its own on the same artwork."""
    old = job.setup(setup)
    name = id or free_id(old.id, (s.id for s in job.setups))
    taken = called(job)
    ids: dict[str, str] = {}
    for o in old.operations:  # one after another: what is numbered alike must not be given one number
        ids[o.id] = free_id(o.id, [*taken, *ids.values()])
    done = tuple(changed(o, id=ids[o.id], title="", after=tuple(ids[a] for a in o.after)) for o in old.operations)
    new = changed(old, id=name, title="", follows=old.id, operations=done)
    at = job.setups.index(old) + 1
    return changed(job, setups=(*job.setups[:at], new, *job.setups[at:]))


@COMMANDS("remove setup")
def remove_setup(job: Job, setup: str) -> Job:
    """Take a setup away, and what is done in it."""
    gone = job.setup(setup)
    if len(job.setups) == 1:
        raise OperatorError("A job has one setup at least.")
    return _setups(job, tuple(s for s in job.setups if s is not gone))


@COMMANDS("order setups")
def order_setups(job: Job, order: tuple[str, ...]) -> Job:
    """Setups in another order; order: ids of all of them."""
    if sorted(order) != sorted(s.id for s in job.setups):
        raise OperatorError("To order the setups, name each of them once.")
    setups = [job.setup(name) for name in order]
    linked = [changed(s, follows=before.id if before else "") for s, before in zip(setups, [None, *setups])]
    return changed(job, setups=tuple(linked))


def _figures(kinds: Kinds, what: str, kind: str, values: dict[str, Any]) -> Model:
    if kind not in kinds:
        raise OperatorError(f"There is no {what} of a kind “{kind}”: {', '.join(kinds)}.")
    try:
        return kinds[kind].model_validate(values)
    except ValidationError as error:
        raise OperatorError(complaint(error)) from None


@COMMANDS("add operation")
def add_operation(
    job: Job, setup: str, kind: str, kinds: FigureTables, id: str = "", title: str = "", on: tuple[str, ...] = (),
    after: tuple[str, ...] = (), **figures: Any,
) -> Job:  # fmt: skip
    """One more thing that is done in a setup, after all others. on: ids of artwork; figures: of its kind."""
    here = job.setup(setup)
    name = id or free_id(kind, called(job))
    made = _figures(kinds.operations, "operation", kind, figures)
    new = changed(Operation(id="new", kind=kind, figures=made), id=name, title=title, on=on, after=after)
    return in_setup(job, setup, operations=(*here.operations, new))


@COMMANDS("set operation")
def set_operation(job: Job, operation: str, **values: Any) -> Job:
    """Its title, what it works on and what it waits for, and the figures of its kind."""
    _, old = operation_in(job, operation)
    own = {k: v for k, v in values.items() if k in ("title", "on", "after")}
    figures = {k: v for k, v in values.items() if k not in own}
    return with_operation(job, operation, **own, figures=changed(old.figures, **figures))


@COMMANDS("cut first")
def cut_first(job: Job, operation: str, then: str) -> Job:
    """One operation before another, whichever of them waited for the other until then."""
    setup, one = operation_in(job, operation)
    there, other = operation_in(job, then)
    if setup is not there or one is other:
        raise OperatorError(f"“{one.name}” and “{other.name}” are not two operations of one setup.")
    job = with_operation(job, one.id, after=tuple(a for a in one.after if a != other.id))
    return with_operation(job, other.id, after=tuple(dict.fromkeys((*other.after, one.id))))


@COMMANDS("remove operation")
def remove_operation(job: Job, operation: str) -> Job:
    """Take an operation away; none waits for it any more."""
    setup, gone = operation_in(job, operation)
    left = tuple(changed(o, after=tuple(a for a in o.after if a != gone.id)) for o in setup.operations if o is not gone)
    return in_setup(job, setup.id, operations=left)


@COMMANDS("add art")
def add_art(
    job: Job,
    kind: str,
    kinds: FigureTables,
    id: str = "",
    title: str = "",
    x: float = 0.0,
    y: float = 0.0,
    face: str = "front",
    turn: float = 0.0,
    mirror: bool = False,
    **figures: Any,
) -> Job:
    """One more thing to be made, with the figures of its kind."""
    name = id or free_id(kind, (a.id for a in job.artwork))
    new = Artwork(id="new", kind=kind, figures=_figures(kinds.artwork, "artwork", kind, figures))
    return changed(
        job, artwork=(*job.artwork, changed(new, id=name, title=title, x=x, y=y, face=face, turn=turn, mirror=mirror))
    )


@COMMANDS("set art")
def set_art(job: Job, art: str, **values: Any) -> Job:
    """Its title and place, and the figures of its kind."""
    old = next((a for a in job.artwork if a.id == art), None)
    if old is None:
        raise OperatorError(f"There is no artwork “{art}” in this job.")
    own = {k: v for k, v in values.items() if k in ("title", "x", "y", "turn", "mirror", "locked", "face", "colour")}
    figures = {k: v for k, v in values.items() if k not in own}
    return with_art(job, art, **own, figures=changed(old.figures, **figures))


@COMMANDS("remove art")
def remove_art(job: Job, art: str) -> Job:
    """Take artwork away, and the operations that worked on nothing else."""
    if not any(a.id == art for a in job.artwork):
        raise OperatorError(f"There is no artwork “{art}” in this job.")
    for setup in job.setups:
        kept = tuple(changed(o, on=tuple(a for a in o.on if a != art)) for o in setup.operations if o.on != (art,))
        ids = {o.id for o in kept}
        kept = tuple(changed(o, after=tuple(a for a in o.after if a in ids)) for o in kept)
        job = in_setup(job, setup.id, operations=kept)
    return changed(job, artwork=tuple(a for a in job.artwork if a.id != art))
