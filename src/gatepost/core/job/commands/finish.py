# SPDX-License-Identifier: GPL-3.0-or-later
"""Edits of how a job is finished: its room and grits, the tins that it uses, and their coats."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from pydantic import ValidationError

from gatepost.core.errors import OperatorError
from gatepost.core.job.base import changed, complaint
from gatepost.core.job.commands.parts import Commands, one_of, swap, without
from gatepost.core.job.finish import Coating, Finish, OwnTime, Rates, StepDone, Tin
from gatepost.core.job.model import Job

COMMANDS = Commands()


@COMMANDS("set finish", Finish)
def set_finish(job: Job, **values: Any) -> Job:
    """Scheme, room, grits, and what else is no list."""
    return changed(job, finish=changed(job.finish, **values))


@COMMANDS("set rates", Rates)
def set_rates(job: Job, **values: Any) -> Job:
    """What hours, wood and waiting cost this shop, in its own money."""
    return set_finish(job, rates=changed(job.finish.rates, **values))


@COMMANDS("add tin", Tin)
def add_tin(job: Job, tin: Tin | dict[str, Any]) -> Job:
    """A dated copy of a tin; one of the same id is taken once."""
    new = _tin(tin)
    if any(t.id == new.id for t in job.finish.tins):
        raise OperatorError(f"{new.name} is in this job already.")
    return set_finish(job, tins=(*job.finish.tins, new))


@COMMANDS("set tin", Tin)
def set_tin(job: Job, tin: str, **values: Any) -> Job:
    """What a tin's label says."""
    old = one_of(job.finish.tins, tin, "tin")
    return set_finish(job, tins=swap(job.finish.tins, old, changed(old, **values)))


@COMMANDS("remove tin")
def remove_tin(job: Job, tin: str) -> Job:
    """A tin and its coats."""
    gone = one_of(job.finish.tins, tin, "tin")
    coats = tuple(c for c in job.finish.coats if c.tin != tin)
    return set_finish(job, tins=without(job.finish.tins, gone), coats=coats)


@COMMANDS("add finish coat", Coating)
def add_coat(job: Job, tin: str, **values: Any) -> Job:
    """Coats of a tin, after all others."""
    one_of(job.finish.tins, tin, "tin")
    return set_finish(job, coats=(*job.finish.coats, {"tin": tin, **values}))


@COMMANDS("set finish coat", Coating)
def set_coat(job: Job, coat: str, **values: Any) -> Job:
    """How many, of what, and where."""
    old = one_of(job.finish.coats, coat, "coat")
    return set_finish(job, coats=swap(job.finish.coats, old, changed(old, **values)))


@COMMANDS("remove finish coat")
def remove_coat(job: Job, coat: str) -> Job:
    """Coats taken away; their tin stays."""
    return set_finish(job, coats=without(job.finish.coats, one_of(job.finish.coats, coat, "coat")))


@COMMANDS("finish coat earlier")
def coat_earlier(job: Job, coat: str) -> Job:
    """Coats before those that came before them."""
    old = one_of(job.finish.coats, coat, "coat")
    coats = list(job.finish.coats)
    i = coats.index(old)
    if i == 0:
        raise OperatorError("They come first already.")
    coats[i - 1], coats[i] = coats[i], coats[i - 1]
    return set_finish(job, coats=tuple(coats))


@COMMANDS("take coats")
def take_coats(job: Job, tins: Sequence[Tin | dict[str, Any]], coats: Sequence[Coating | dict[str, Any]]) -> Job:
    """All coats anew, with the tins that they are of; a tin that is in the job stays as its label was typed."""
    have = {t.id for t in job.finish.tins}
    new = tuple(t for t in map(_tin, tins) if t.id not in have)
    return set_finish(job, tins=(*job.finish.tins, *new), coats=tuple(coats))


@COMMANDS("finish step done", StepDone)
def step_done(job: Job, step: str, at: str, **values: Any) -> Job:
    """A step of the finish, done; one that was done already is done anew."""
    done = tuple(d for d in job.finish.done if d.step != step)
    return set_finish(job, done=(*done, {"step": step, "at": at, **values}))


@COMMANDS("finish step undone")
def step_undone(job: Job, step: str) -> Job:
    """A step of the finish that is to do again, and all that were done after it."""
    at = next((i for i, d in enumerate(job.finish.done) if d.step == step), None)
    if at is None:
        raise OperatorError("It is not told as done.")
    return set_finish(job, done=job.finish.done[:at])


@COMMANDS("finish another")
def finish_another(job: Job) -> Job:
    """Another piece: all steps of the finish once more. What was done of the one before stays in the shop's record."""
    return set_finish(job, done=(), piece=job.finish.piece + 1) if job.finish.done else job


@COMMANDS("take own times")
def take_own_times(job: Job, own: Sequence[OwnTime | dict[str, Any]]) -> Job:
    """Minutes of hands by the shop's own record, a dated copy; none for shop rules again."""
    return set_finish(job, own=tuple(own))


def _tin(tin: Tin | dict[str, Any]) -> Tin:
    if isinstance(tin, Tin):
        return tin
    try:
        return Tin.model_validate(tin)
    except ValidationError as error:
        raise OperatorError(complaint(error)) from None
