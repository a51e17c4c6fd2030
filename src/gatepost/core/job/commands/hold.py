# SPDX-License-Identifier: GPL-3.0-or-later
"""Edits of where the board lies and of what holds it."""

from __future__ import annotations

import math
from typing import Any

from gatepost.core.errors import OperatorError
from gatepost.core.job.base import changed
from gatepost.core.job.commands.parts import Commands, in_setup, one_of, swap, without
from gatepost.core.job.hold import Hold, Holding, hold_of
from gatepost.core.job.kinds import FigureTables
from gatepost.core.job.model import Job, Setup

COMMANDS = Commands()


def _held(setup: Setup, hold: str) -> Hold:
    found: Hold = one_of(setup.holds, hold, "hold", "name")
    return found


@COMMANDS("place blank")
def place_blank(job: Job, setup: str, x: float, y: float) -> Job:
    """Lay the blank elsewhere on the bed; what holds it and its marks go along."""
    old = job.setup(setup)
    dx, dy = x - old.x, y - old.y
    holds = tuple(changed(h, x=h.x + dx, y=h.y + dy) for h in old.holds)
    return in_setup(job, setup, x=x, y=y, holds=holds)


@COMMANDS("add hold", Hold)
def add_hold(
    job: Job, setup: str, kind: str, x: float, y: float, kinds: FigureTables, heading: float = 0.0, **values: Any
) -> Job:
    """Put one more hold on the bed, with the figures of its kind."""
    holds = job.setup(setup).holds
    letter = kinds.holds[kind].LETTER if kind in kinds.holds else ""
    number = 1 + max((int(h.name[1:]) for h in holds if h.name[:1] == letter and h.name[1:].isdigit()), default=0)
    made = {"name": f"{letter}{number}", **values, "kind": kind, "x": x, "y": y, "heading": heading}
    return in_setup(job, setup, holds=(*holds, _made(made, kinds)))


def _made(values: Any, kinds: FigureTables) -> Hold:
    try:
        return hold_of(values, kinds.holds)
    except (TypeError, ValueError) as error:
        raise OperatorError(str(error)) from None


@COMMANDS("set hold", Hold)
def set_hold(job: Job, setup: str, hold: str, **values: Any) -> Job:
    """Move a hold or change what it is made of, by the figures of its kind."""
    here = job.setup(setup)
    old = _held(here, hold)
    return in_setup(job, setup, holds=swap(here.holds, old, changed(old, **values)))


@COMMANDS("copy hold")
def copy_hold(job: Job, setup: str, hold: str, dx: float, dy: float, kinds: FigureTables) -> Job:
    """Another hold just like one, moved by an amount."""
    here = job.setup(setup)
    old = _held(here, hold)
    return add_hold(job, setup, old.kind, old.x + dx, old.y + dy, kinds, old.heading, **_set_of(old))


@COMMANDS("mirror hold")
def mirror_hold(job: Job, setup: str, hold: str, across: str, kinds: FigureTables) -> Job:
    """Another hold just like one, on the other side of the blank. across: ``X`` for its other end, ``Y`` for its other edge."""
    from gatepost.core.job.turning import standing_in

    if across not in ("X", "Y"):
        raise OperatorError(f"A hold is mirrored across X or across Y, not “{across}”.")
    here = job.setup(setup)
    old, board = _held(here, hold), standing_in(job, here)
    x, y = 2.0 * here.x + board.x0 + board.x1 - old.x, 2.0 * here.y + board.y0 + board.y1 - old.y
    x, y, heading = (x, old.y, 180.0 - old.heading) if across == "X" else (old.x, y, -old.heading)
    return add_hold(job, setup, old.kind, x, y, kinds, math.remainder(heading, 360.0), **_set_of(old))


def _set_of(hold: Hold) -> dict[str, Any]:
    """What a hold is set to, beside its name and place."""
    return {k: v for k, v in hold.model_dump().items() if k not in ("name", "kind", "x", "y", "heading")}


@COMMANDS("set holds")
def set_holds(job: Job, setup: str, holds: Any, kinds: FigureTables) -> Job:
    """All holds of a setup at once."""
    new = tuple(_made(h, kinds) for h in holds)
    if len({h.name for h in new}) < len(new):
        raise OperatorError("Two holds have the same name.")
    return in_setup(job, setup, holds=new)


@COMMANDS("set holding", Holding)
def set_holding(job: Job, **values: Any) -> Job:
    """What holding is reckoned with."""
    return changed(job, holding=changed(job.holding, **values))


@COMMANDS("remove hold")
def remove_hold(job: Job, setup: str, hold: str) -> Job:
    """Take a hold off the bed."""
    here = job.setup(setup)
    return in_setup(job, setup, holds=without(here.holds, _held(here, hold)))
