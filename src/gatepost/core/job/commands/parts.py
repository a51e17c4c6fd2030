# SPDX-License-Identifier: GPL-3.0-or-later
"""What edits are made of."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterable
from typing import Any

from gatepost.core.errors import OperatorError
from gatepost.core.job.base import Model, changed
from gatepost.core.job.model import Job, Setup
from gatepost.core.job.operation import Artwork, Operation

Command = Callable[..., Job]
KINDS = "kinds"  # what a command calls the tables of kinds, where it wants them: they are given to it, not told by name


class Commands(dict[str, Command]):
    """A table of edits by name, entered by decorating. models: whose entries an edit takes beside its own values."""

    def __init__(self) -> None:
        super().__init__()
        self.models: dict[str, tuple[type[Model], ...]] = {}

    def __call__(self, name: str, *models: type[Model]) -> Callable[[Command], Command]:
        """Enter a function by a name."""

        def enter(function: Command) -> Command:
            self[name] = function
            self.models[name] = models
            return function

        return enter


def one_of(items: tuple[Any, ...], name: str, what: str, field: str = "id") -> Any:
    """One of several, by its id. Raises OperatorError when there is none of that id."""
    for one in items:
        if getattr(one, field) == name:
            return one
    raise OperatorError(f"There is no {what} “{name}”.")


def swap(items: tuple[Any, ...], old: Any, new: Any) -> tuple[Any, ...]:
    """Another one in the place of one of several."""
    return tuple(new if i is old else i for i in items)


def without(items: tuple[Any, ...], gone: Any) -> tuple[Any, ...]:
    """All but one of several."""
    return tuple(i for i in items if i is not gone)


def in_setup(job: Job, setup: str, **values: Any) -> Job:
    """The job with a setup changed. Raises OperatorError."""
    job.setup(setup)
    return changed(job, setups=tuple(changed(s, **values) if s.id == setup else s for s in job.setups))


def operation_in(job: Job, operation: str) -> tuple[Setup, Operation]:
    """An operation, and the setup that it is done in. Raises OperatorError."""
    for setup in job.setups:
        for one in setup.operations:
            if one.id == operation:
                return setup, one
    raise OperatorError(f"There is no operation “{operation}” in this job.")


def with_operation(job: Job, operation: str, **values: Any) -> Job:
    """The job with an operation changed. Raises OperatorError."""
    setup, old = operation_in(job, operation)
    new = changed(old, **values)
    return in_setup(job, setup.id, operations=tuple(new if o is old else o for o in setup.operations))


def with_art(job: Job, art: str, **values: Any) -> Job:
    """The job with a piece of artwork changed. Raises OperatorError, also where it is locked and would be moved, turned or sized."""
    old = next((a for a in job.artwork if a.id == art), None)
    if old is None:
        raise OperatorError(f"There is no artwork “{art}” in this job.")
    new = changed(old, **values)
    if old.locked and new.locked and _stands(old) != _stands(new):
        raise OperatorError(
            f"{old.title or old.id.capitalize()} is locked: it stays where it is, and as large. Unlock it first."
        )
    return changed(job, artwork=tuple(new if a is old else a for a in job.artwork))


def _stands(art: Artwork) -> tuple[Any, ...]:
    """Where artwork stands and how large it is."""
    sizes = [getattr(art.figures, name, None) for name in ("width", "height", "corner", "pitch", "across")]
    heights = [line.height for line in getattr(art.figures, "lines", ())]
    return art.x, art.y, art.turn, art.mirror, art.face, sizes, heights


def called(job: Job) -> list[str]:
    """Ids and titles of all operations: what no other may be called."""
    return [called for s in job.setups for o in s.operations for called in (o.id, o.title) if called]


def free_id(wanted: str, taken: Iterable[str]) -> str:
    """``wanted``-1, -2 …: the smallest that is free."""
    used, stem = set(taken), re.sub(r"-\d+$", "", wanted)
    return next(i for i in (f"{stem}-{n}" for n in range(1, 10_000)) if i not in used)


def unused(wanted: str, taken: list[str]) -> str:
    """An id as it is wanted, or numbered where that is taken."""
    return free_id(wanted, taken) if wanted in taken else wanted


def before_cut_out(job: Job, setup: str, kind: str, figures: Model, on: tuple[str, ...], id: str = "") -> Job:
    """The job with one more operation, done before anything is cut out. id: as it is called, else as its kind."""
    here = job.setup(setup)
    name = unused(id or kind, called(job))
    made = Operation(id=name, kind=kind, on=on, figures=figures)
    last = [o for o in here.operations if o.kind == "cutout"]
    return in_setup(job, setup, operations=(*(o for o in here.operations if o not in last), made, *last))
