# SPDX-License-Identifier: GPL-3.0-or-later
"""Edits of the job itself: its name, its order, what was accepted."""

from __future__ import annotations

from typing import Any

from gatepost.core.errors import OperatorError
from gatepost.core.job.base import changed
from gatepost.core.job.commands.parts import Commands
from gatepost.core.job.model import Acceptance, Job

COMMANDS = Commands()


@COMMANDS("set job")
def set_job(job: Job, **values: Any) -> Job:
    """Name, unit shown, tolerance class, whether it can be replaced, and how many boards are made alike."""
    known = ("name", "unit", "tolerance", "irreplaceable", "boards")
    return changed(job, **{k: v for k, v in values.items() if k in known})


@COMMANDS("set order")
def set_order(job: Job, order: tuple[str, ...]) -> Job:
    """Ask for an order of operations; empty leaves it to be worked out."""
    return changed(job, order=order)


@COMMANDS("accept")
def accept(job: Job, code: str, setup: str, inputs: str, reason: str, at: str, about: str = "") -> Job:
    """Accept a care, or answer a question, with a reason."""
    if not reason.strip():
        raise OperatorError("Say why in a few words: the reason is kept with the job.")
    others = tuple(a for a in job.accepted if (a.code, a.setup, a.about) != (code, setup, about))
    new = Acceptance(code=code, setup=setup, about=about, inputs=inputs, reason=reason.strip(), at=at)
    return changed(job, accepted=(*others, new))


@COMMANDS("take back")
def take_back(job: Job, code: str, setup: str, about: str = "") -> Job:
    """Take an acceptance back."""
    return changed(job, accepted=tuple(a for a in job.accepted if (a.code, a.setup, a.about) != (code, setup, about)))


@COMMANDS("words read")
def words_read(job: Job, words: str) -> Job:
    """Its words were read through and are right. words: what they were, as carve.words gives it; empty takes that back."""
    return changed(job, read=words)
