# SPDX-License-Identifier: GPL-3.0-or-later
"""Edits of the machine and of what stays on its bed."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from pydantic import ValidationError

from gatepost.core.errors import OperatorError
from gatepost.core.job.base import changed, complaint
from gatepost.core.job.commands.parts import Commands, in_setup, one_of, swap, without
from gatepost.core.job.hold import InNest
from gatepost.core.job.machine import BedThings, Fence, Inserts, Machine, Nest, Scar
from gatepost.core.job.model import Job

COMMANDS = Commands()


@COMMANDS("set bed", BedThings)
def set_bed(job: Job, **values: Any) -> Job:
    """What stays on the bed from job to job, in this job's copy of the machine."""
    return changed(job, machine=changed(job.machine, bed=changed(job.machine.bed, **values)))


ON_BED: dict[str, Any] = {"fences": Fence, "nests": Nest, "inserts": Inserts, "scars": Scar}


def _on_bed(job: Job, what: str) -> tuple[Any, ...]:
    if what not in THING:
        raise OperatorError(f"There is nothing called “{what}” on a bed: {', '.join(THING)} have names.")
    return tuple(getattr(job.machine.bed, what))


@COMMANDS("add to bed")
def add_to_bed(job: Job, what: str, values: Mapping[str, Any]) -> Job:
    """One more fence, nest, grid of inserts or scar on this job's copy of the bed."""
    if what not in ON_BED:
        raise OperatorError(f"A bed keeps {', '.join(ON_BED)}, not “{what}”.")
    things = tuple(getattr(job.machine.bed, what))
    if any("name" in values and getattr(t, "name", None) == values["name"] for t in (*things, *_named_things(job))):
        raise OperatorError(f"There is something called {values['name']} on the bed already.")
    try:
        new = ON_BED[what].model_validate(dict(values))
    except ValidationError as error:
        raise OperatorError(complaint(error)) from None
    return set_bed(job, **{what: (*things, new)})


def _named_things(job: Job) -> tuple[Any, ...]:
    """What on the bed has a name."""
    return (*job.machine.bed.fences, *job.machine.bed.nests, *job.machine.bed.inserts)


THING = {"fences": "fence", "nests": "nest", "inserts": "grid of inserts"}  # as people are told them


@COMMANDS("set on bed")
def set_on_bed(job: Job, what: str, name: str, values: Mapping[str, Any]) -> Job:
    """Change something that stays on the bed, told by its name. What lies in a nest whose name changes stays in it."""
    things = _on_bed(job, what)
    old = one_of(things, name, THING[what], "name")
    new = changed(old, **values)
    if new.name != old.name and any(t.name == new.name for t in _named_things(job)):
        raise OperatorError(f"There is something called {new.name} on the bed already.")
    job = set_bed(job, **{what: swap(things, old, new)})
    if what == "nests":
        for setup in job.setups:
            holds = tuple(
                changed(h, of=new.name, x=new.x, y=new.y, heading=new.heading)
                if isinstance(h, InNest) and h.of == old.name
                else h
                for h in setup.holds
            )
            job = in_setup(job, setup.name, holds=holds)
    return job


@COMMANDS("take off bed")
def take_off_bed(job: Job, what: str, name: str) -> Job:
    """Take something off this job's copy of the bed, told by its name."""
    things = _on_bed(job, what)
    return set_bed(job, **{what: without(things, one_of(things, name, THING[what], "name"))})


@COMMANDS("set machine", Machine)
def set_machine(job: Job, **values: Any) -> Job:
    """Change this job's copy of the machine."""
    return changed(job, machine=changed(job.machine, **values))
