# SPDX-License-Identifier: GPL-3.0-or-later
"""Going on at the machine with a run that ended early: which run, and what is done before its program is sent."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any

from gatepost.core.errors import OperatorError
from gatepost.core.plan.result import Plan, Resumed
from gatepost.logbook.notebook import EARLY
from gatepost.machine.keeping import RunRecorder


def taken_up(rows: Sequence[Any], reckoned: Plan, number: int | None) -> tuple[Any, Resumed]:
    """The run that is gone on with, and how. rows: the logbook's, newest first; number: of the run, else the newest
    of this job that ended early. Raises OperatorError where it can't be gone on with."""
    from gatepost.core.plan.resumed import resumed  # with all that sweeps wood: only where it is reckoned

    early = [r for r in rows if r.state in EARLY and r.job == reckoned.job.name]
    if number is not None:
        early = [r for r in early if r.id == number]
    if not early:
        raise OperatorError(
            f"The log has no run {number} of this job that ended early."
            if number is not None
            else "The log has no run of this job that ended early."
        )
    run = early[0]
    if run.fingerprint != reckoned.fingerprint:
        raise OperatorError(
            f"Run {run.id} was of plan {run.fingerprint}, and the job's plan is {reckoned.fingerprint} now: it has been "
            "changed since. Undo the change, or begin again from the wood as it is."
        )
    later = [r for r in rows if r.id > run.id and r.job == run.job and r.fingerprint == run.fingerprint]
    if any(r.program == run.program and r.state == "done" for r in later):
        raise OperatorError(f"{run.program} was run to its end after run {run.id}: there is nothing to go on with.")
    chain = [run]
    known = {r.id: r for r in rows}
    while chain[0].resumes is not None and chain[0].resumes in known:
        chain.insert(0, known[chain[0].resumes])
    plan_now, wood = reckoned, None
    taken: Resumed | None = None
    for r in chain:
        taken = resumed(plan_now, r.program, r.blocks_done, wood)
        plan_now, wood = taken.plan, taken.wood
    assert taken is not None
    return run, taken


def go_on(keeper: RunRecorder, taken: Resumed, run: Any, progress: Callable[[int, int], None] | None = None) -> str:
    """Home, recover the zeros, take the program up; gives ``done`` or ``stopped``. Raises OperatorError.

    Whoever calls this has had the witness mark looked at.
    """
    setup = taken.setup
    step = next(s for s in setup.steps if s.program == run.program)
    zeros = {axis: float(v) for axis, v in run.zeros.items() if axis in ("x", "y", "z")}
    keeper.conductor.recover(setup, taken.program.tool, zeros)
    keeper.more = {"resumes": run.id, "after_block": run.blocks_done}
    try:
        return keeper.carry_out(setup, step, progress)
    finally:
        keeper.more = {}
