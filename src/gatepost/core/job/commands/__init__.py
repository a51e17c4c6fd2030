# SPDX-License-Identifier: GPL-3.0-or-later
"""The one table of edits: every change to a job is a named command with named values.

A command is a pure function of the job. Undo is the job before; nothing else needs to know how to go back.
"""

from __future__ import annotations

import inspect
from collections.abc import Mapping
from typing import Any

from gatepost.core.errors import UnknownCommand
from gatepost.core.job.commands import (
    arrange,
    blank,
    carve,
    designs,
    faces,
    finish,
    hold,
    job,
    machine,
    old,
    proof,
    register,
    repeats,
    setup,
    surface,
    tool,
    worked,
    zero,
)
from gatepost.core.job.commands.parts import KINDS, Command
from gatepost.core.job.kinds import SHIPPED, FigureTables
from gatepost.core.job.model import Job

OWNERS = (
    job,
    setup,
    blank,
    surface,
    hold,
    machine,
    zero,
    carve,
    worked,
    arrange,
    designs,
    old,
    register,
    proof,
    repeats,
    faces,
    tool,
    finish,
)
TABLE: dict[str, Command] = {name: command for owner in OWNERS for name, command in owner.COMMANDS.items()}
MODELS = {name: models for owner in OWNERS for name, models in owner.COMMANDS.models.items()}


def run(job: Job, name: str, values: Mapping[str, Any], kinds: FigureTables = SHIPPED) -> Job:
    """The job after a command. kinds: by which it is read. Raises OperatorError when it can't be done; the job is untouched
    either way."""
    if name not in TABLE:
        raise UnknownCommand(f"There is no command “{name}”.")
    signature = inspect.signature(TABLE[name])
    more = {KINDS: kinds} if KINDS in signature.parameters else {}
    try:
        if KINDS in values:
            raise TypeError(f"got an unexpected keyword argument '{KINDS}'")
        signature.bind(job, **values, **more)
    except TypeError as error:
        raise UnknownCommand(f"The command “{name}” does not take these values: {error}.") from None
    return TABLE[name](job, **values, **more)
