# SPDX-License-Identifier: GPL-3.0-or-later
"""A program made elsewhere, run like one of the plan's own: read, written anew as this machine's control takes it, swept and guarded."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from gatepost.core.errors import OperatorError
from gatepost.core.motion import Moves
from gatepost.core.plan.drive import drive_of
from gatepost.core.plan.planned import PlannedSetup, ProgramFile
from gatepost.core.plan.result import Plan, Resumed
from gatepost.core.plan.resumed import stops_of
from gatepost.core.program.lines import filled_lines
from gatepost.core.program.plain import Program
from gatepost.core.program.read import read
from gatepost.core.program.time import move_seconds
from gatepost.core.program.write import Head, fingerprint, write
from gatepost.core.run.step import ProgramLoad, Step
from gatepost.core.run.steps import running
from gatepost.core.tolerances import RESERVE
from gatepost.core.tools.reach import met
from gatepost.core.units import mm
from gatepost.core.wood.field import cut, cutter_of


def imported(
    plan: Plan, setup_name: str, number: int, name: str, text: str, ran: Sequence[str] = ()
) -> tuple[Resumed, Step]:
    """A program, and the step by which it is run in a setup. number: of its tool; name: of its file; ran: names of the setup's programs that were run to their end.

    The bit is one that the setup fits: its zeros are touched with it there. Raises OperatorError.
    """
    setup = plan.setup(setup_name)
    like = next((p for p in setup.programs if p.tool.number == number), None) if setup is not None else None
    if setup is None or like is None:
        fits = sorted({p.tool.number for p in setup.programs}) if setup is not None else []
        raise OperatorError(
            f"It is for T{number}, and the {setup_name} setup fits {', '.join(f'T{n}' for n in fits) or 'none'}: only there is it known how long that bit is."
        )
    home = (float(like.moves.points[0, 0]), float(like.moves.points[0, 1]), float(like.moves.points[0, 2]))
    back = read(text, home=home)
    if back.complaints:
        worst = back.complaints[0]
        raise OperatorError(f"{name}, line {worst.line}: {worst.reason}.")
    if not len(back.moves) or back.moves.rapid.all():
        raise OperatorError(f"{name} cuts nothing.")
    new = _written(plan, setup, like, name, back)
    wood = setup.start
    for p in setup.programs:
        wood = cut(wood, setup.on_board(p.moves), cutter_of(p.tool)).after if p.name in ran else wood
    swept = cut(wood, setup.on_board(new.moves), cutter_of(new.tool))
    stops = stops_of(plan, setup, new, new.moves, swept.deepest, 0.0)
    lowest, planned = (
        float(setup.on_bed(new).points[:, 2].min()),
        min(float(setup.on_bed(p).points[:, 2].min()) for p in setup.programs),
    )
    if lowest < min(planned, 0.0) - 1e-6:
        stops.append(f"It would go {mm(-lowest)} into the bed.")
    stops += [
        f"Its {m.part} would run {mm(m.deep)} into wood."
        for m in met(wood, setup.on_board(new.moves), new.tool, plan.job.machine)
    ]
    step = running(
        setup.name, ProgramLoad(new.name, number, f"made elsewhere ({name})", new.seconds / 60.0, new.fingerprint, first=new.first_move),
        plan.job.machine, new.tool,
    )  # fmt: skip
    at = max(i for i, s in enumerate(setup.steps) if s.kind == "run" and s.tool == number)
    with_it = replace(
        setup, programs=(*setup.programs, new), steps=(*setup.steps[: at + 1], step, *setup.steps[at + 1 :])
    )
    whole = replace(plan, setups=tuple(with_it if s.name == setup.name else s for s in plan.setups))
    first = new.first_move or (0.0, 0.0, 0.0)
    words = f"{mm(float((wood.z - swept.after.z).max()))} of wood goes at the deepest, of the wood as it is now. The plan does not know of it."
    return Resumed(
        whole, with_it, new, wood, swept.after, 0.0, first, new.seconds / 60.0, tuple(stops), words, setup.placed.work_to_bed.xy(*first[:2]),
    ), step  # fmt: skip


def _from_above(moves: Moves, top: float) -> Moves:
    """Its moves from its first cut on, reached across at the top of the travel and straight down: wherever it came from itself, nothing stands there."""
    first = int(np.argmax(~moves.rapid))
    x, y, z = moves.points[first]
    begin, more = [(x, y, top), (x, y, z)], [True]
    points = np.vstack([np.array(begin), moves.points[first + 1 :]])
    return Moves(points, np.concatenate([more, moves.rapid[first:]]), np.concatenate([[0.0], moves.feed[first:]]))


def _written(plan: Plan, setup: PlannedSetup, like: ProgramFile, name: str, back: Program) -> ProgramFile:
    """It in the words of this machine's control, read back."""
    job, tool = plan.job, like.tool
    zero = f"X0 Y0 at {setup.setup.zero.xy}, Z0 on the {setup.setup.zero.z}"
    head = Head(
        job.name,
        setup.name,
        tool,
        zero,
        setup.blank_to_work,
        note=f"MADE ELSEWHERE: {name}, written anew as it was read",
    )
    home = like.moves.points[0]
    text = write(_from_above(back.moves, float(home[2]) - RESERVE), head, job.machine.dialect)
    again = read(text, home=(float(home[0]), float(home[1]), float(home[2])))
    seconds = move_seconds(again.moves, drive_of(job))
    stem = "".join(c if c.isalnum() or c in "-_" else "-" for c in name.rpartition(".")[0] or name)[:40]
    return replace(
        like, name=f"{stem}-T{tool.number}-made-elsewhere.nc", operations=(name,), text=text, moves=again.moves, line=tuple(int(n) for n in again.line),
        seconds=float(seconds.sum()) + job.machine.dialect.spin_up, move_seconds=tuple(float(v) for v in seconds),
        fingerprint=fingerprint(text, head), ran="", beside="elsewhere", ends=(len(list(filled_lines(text))),),
    )  # fmt: skip
