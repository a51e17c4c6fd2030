# SPDX-License-Identifier: GPL-3.0-or-later
"""Edits of where the board lies and of what holds it."""

from __future__ import annotations

from typing import Any

from gatepost.core.errors import OperatorError
from gatepost.core.job.base import changed
from gatepost.core.job.commands.parts import Commands, in_setup, swap
from gatepost.core.job.hold import Hold, Holding, hold_of
from gatepost.core.job.kinds import FigureTables
from gatepost.core.job.model import Job, Setup

COMMANDS = Commands()


def _hold_index(setup: Setup, hold: str) -> int:
    for index, h in enumerate(setup.holds):
        if h.name == hold:
            return index
    raise OperatorError(f"There is no hold {hold} in this setup.")


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
    index = _hold_index(here, hold)
    return in_setup(job, setup, holds=swap(here.holds, index, changed(here.holds[index], **values)))


@COMMANDS("copy hold")
def copy_hold(job: Job, setup: str, hold: str, dx: float, dy: float, kinds: FigureTables) -> Job:
    """Another hold just like one, moved by an amount."""
    here = job.setup(setup)
    old = here.holds[_hold_index(here, hold)]
    return add_hold(job, setup, old.kind, old.x + dx, old.y + dy, kinds, old.heading, **_set_of(old))


@COMMANDS("mirror hold")
def mirror_hold(job: Job, setup: str, hold: str, across: str, kinds: FigureTables) -> Job:
    """Another hold just like one, on the other side of the blank. across: ``X`` for its other end, ``Y`` for its other edge."""
    from gatepost.core.job.turning import turned_hold

    if across not in ("X", "Y"):
        raise OperatorError(f"A hold is mirrored across X or across Y, not “{across}”.")
    here = job.setup(setup)
    old = here.holds[_hold_index(here, hold)]
    new = turned_hold(old, here, job.blank, "about Y" if across == "X" else "about X")
    return add_hold(job, setup, new.kind, new.x, new.y, kinds, new.heading, **_set_of(new))


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
    index = _hold_index(here, hold)
    return in_setup(job, setup, holds=here.holds[:index] + here.holds[index + 1 :])
