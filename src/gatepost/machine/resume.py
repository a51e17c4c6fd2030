# SPDX-License-Identifier: GPL-3.0-or-later
"""Going on at the machine with a run that ended early: which run, and what is done before its program is sent."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any

from gatepost.core.errors import OperatorError
from gatepost.core.job.history import fingerprints_4
from gatepost.core.plan.result import Plan, Resumed
from gatepost.core.units import mm
from gatepost.logbook.notebook import EARLY
from gatepost.machine.keeping import RunRecorder

PLACE_OFF = 5.0  # mm a board may lie from where it is drawn: more is another place


def taken_up(
    rows: Sequence[Any], planned: Plan, number: int | None, bed: tuple[float, float] | None = None
) -> tuple[Any, Resumed]:
    """The run that is resumed, and how. rows: the logbook's, newest first; number: of the run, else the newest
    of this job that ended early; bed: a place that was pointed at. Raises OperatorError where it can't be."""
    from gatepost.core.plan.resumed import resumed  # with all that sweeps wood: only where it is worked out

    early = [r for r in rows if r.state in EARLY and r.job == planned.job.name]
    if number is not None:
        early = [r for r in early if r.id == number]
    if not early:
        raise OperatorError(
            f"The log has no run {number} of this job that ended early."
            if number is not None
            else "The log has no run of this job that ended early."
        )
    run = early[0]
    name = program_of(run, planned)
    if not name:
        raise OperatorError(
            f"Run {run.id} was of {run.program}, program {run.fingerprint}, which the job's plan does not write now: it has been "
            "changed since. Undo the change, or begin again from the wood as it is."
        )
    _same_wood(run, rows, planned, name)
    _same_place(run, planned, name)
    later = [r for r in rows if r.id > run.id and r.job == run.job and r.fingerprint == run.fingerprint]
    if any(r.program == run.program and r.state == "done" for r in later):
        raise OperatorError(f"{run.program} was run to its end after run {run.id}: there is nothing to resume.")
    chain = [run]
    known = {r.id: r for r in rows}
    while chain[0].resumes is not None and chain[0].resumes in known:
        chain.insert(0, known[chain[0].resumes])
    plan_now, wood = planned, None
    taken: Resumed | None = None
    for r in chain:
        taken = resumed(plan_now, name, r.blocks_done, wood, bed if r is chain[-1] else None)
        plan_now, wood = taken.plan, taken.wood
    assert taken is not None
    return run, taken


def program_of(run: Any, planned: Plan) -> str:
    """The name of the plan's program from which the same comes out as from a run's, or nothing.

    Rows of earlier versions tell what the whole job was (``core/job/history.py``); there the name says which program.
    """
    programs = [p for s in planned.setups for p in s.programs]
    same = next((p for p in programs if p.fingerprint == run.fingerprint), None)
    if same is not None:
        return same.name
    named = any(p.name == run.program for p in programs)
    return str(run.program) if named and run.fingerprint in fingerprints_4(planned.job) else ""


def _same_wood(run: Any, rows: Sequence[Any], planned: Plan, name: str) -> None:
    """Raise OperatorError where a program that comes before a run's was not run, or not last as the plan has it. rows: newest
    first."""
    before = [r for r in rows if r.id < run.id and r.job == run.job and r.state == "done"]
    for program in (p for s in planned.setups for p in s.programs):
        if program.name == name:
            return
        if not any(program_of(r, planned) == program.name for r in before):
            raise OperatorError(
                f"The log does not have {program.name} as run before run {run.id} as the plan writes it now, so the wood is not what is "
                "worked out here. Undo what was changed since, or begin again from the wood as it is."
            )


def _same_place(run: Any, planned: Plan, name: str) -> None:
    """Raise OperatorError where the zeros of a run are not where the plan has them now: what stands on the bed was judged there."""
    setup = next(s for s in planned.setups if any(p.name == name for p in s.programs))
    machine = planned.job.machine
    meant = {"x": setup.placed.mark[0] - machine.travel_x, "y": setup.placed.mark[1] - machine.travel_y}
    off = max((abs(float(run.zeros[a]) - v) for a, v in meant.items() if a in run.zeros), default=0.0)
    if off > PLACE_OFF:
        raise OperatorError(
            f"Run {run.id} had its X0 Y0 {mm(off, 2)} from where the plan has it now: the board, or what is planned of it, has been "
            "moved since. Undo the move, or touch off again and begin anew."
        )


def go_on(keeper: RunRecorder, taken: Resumed, run: Any, progress: Callable[[int, int], None] | None = None) -> str:
    """Home, recover the zeros, take the program up; gives ``done`` or ``stopped``. Raises OperatorError.

    Whoever calls this has had the witness mark looked at.
    """
    setup = taken.setup
    step = next(s for s in setup.steps if s.program == taken.program.name)
    zeros = {axis: float(v) for axis, v in run.zeros.items() if axis in ("x", "y", "z")}
    why = f"resuming run {run.id}: the mark was looked at, the bit is as it was gripped, spanners off, plate and clip away, the work stands still"
    keeper.conductor.recover(setup, taken.program.tool, zeros, why)
    keeper.more = {"resumes": run.id, "after_block": run.blocks_done, "fingerprint": taken.program.fingerprint}
    try:
        return keeper.carry_out(setup, step, progress)
    finally:
        keeper.more = {}
