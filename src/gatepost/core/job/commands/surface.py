# SPDX-License-Identifier: GPL-3.0-or-later
"""Edits of surfacing."""

from __future__ import annotations

from typing import Any

from gatepost.core.job.base import changed
from gatepost.core.job.commands.parts import Commands
from gatepost.core.job.model import Job, Setup

COMMANDS = Commands()


@COMMANDS("set surfacing")
def set_surfacing(job: Job, **values: Any) -> Job:
    """What is wanted of surfacing."""
    return changed(job, surfacing=changed(job.surfacing, **values))


@COMMANDS("set second face")
def set_second_face(job: Job, present: bool = True, turn: str = "about X") -> Job:
    """Whether the other face is surfaced too, and what the board is turned about. Its holds are mirrored with it."""
    others = tuple(s for s in job.setups if s.name != "back")
    if not present:
        return changed(job, setups=others)
    from gatepost.core.job.turning import turned_hold

    first = job.setup("surface")
    empty = Setup(name="back", x=first.x, y=first.y)
    back = changed(empty, turn=turn, zero=changed(first.zero, xy="centre", touch_x=None, touch_y=None))
    back = changed(back, holds=tuple(turned_hold(h, first, job.blank, turn) for h in first.holds))
    return changed(
        job, setups=(*(s for s in others if s.name == "surface"), back, *(s for s in others if s.name != "surface"))
    )
