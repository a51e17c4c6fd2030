# SPDX-License-Identifier: GPL-3.0-or-later
"""Edits of zeros and touch-offs."""

from __future__ import annotations

from typing import Any

from gatepost.core.job.base import changed
from gatepost.core.job.commands.parts import Commands, in_setup
from gatepost.core.job.model import Job
from gatepost.core.job.zero import TouchChoice, Zero

COMMANDS = Commands()


@COMMANDS("set zero", Zero)
def set_zero(job: Job, setup: str, **values: Any) -> Job:
    """Where X0 Y0 and Z0 are, and how they are touched."""
    return in_setup(job, setup, zero=changed(job.setup(setup).zero, **values))


@COMMANDS("set skew")
def set_skew(job: Job, setup: str, degrees: float) -> Job:
    """By how much the blank lies turned, as measured; its programs are turned by as much about X0 Y0."""
    return in_setup(job, setup, skew=degrees)


@COMMANDS("set touch")
def set_touch(job: Job, setup: str, tool: int, x: float, y: float) -> Job:
    """Where a tool fitted later touches off."""
    others = tuple(t for t in job.setup(setup).touches if t.tool != tool)
    return in_setup(job, setup, touches=(*others, changed(TouchChoice(tool=1, x=0, y=0), tool=tool, x=x, y=y)))
