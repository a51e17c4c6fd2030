# SPDX-License-Identifier: GPL-3.0-or-later
"""A program made elsewhere, run like one of the plan's own: read, written anew as this machine's control takes it, swept and guarded."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from gatepost.core.errors import OperatorError
from gatepost.core.job.tool import Tool
from gatepost.core.motion import Moves
from gatepost.core.plan.beside import run_beside, wood_after, written_beside
from gatepost.core.plan.result import Plan, Resumed
from gatepost.core.program.plain import Program
from gatepost.core.program.read import read
from gatepost.core.run.step import Step
from gatepost.core.tolerances import RESERVE


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
    if len(set(back.tools)) > 1:
        several = ", ".join(f"T{n}" for n in dict.fromkeys(back.tools))
        raise OperatorError(
            f"{name} changes tools ({several}): have it written as one program to a tool, and run them in order."
        )
    if not len(back.moves) or back.moves.rapid.all():
        raise OperatorError(f"{name} cuts nothing.")
    stem = "".join(c if c.isalnum() or c in "-_" else "-" for c in name.rpartition(".")[0] or name)[:40]
    moves = _from_above(back.moves, home[2] - RESERVE)
    note = f"MADE ELSEWHERE: {name}, written anew as it was read"
    new = written_beside(plan, setup, like, f"{stem}-T{number}-made-elsewhere.nc", name, note, moves, "elsewhere")
    after = max(i for i, s in enumerate(setup.steps) if s.kind == "run" and s.tool == number)
    words = "The plan does not know of it." + _left_out(back, plan, like.tool)
    return run_beside(plan, setup, new, after, f"made elsewhere ({name})", wood_after(setup, ran), words)


def _left_out(back: Program, plan: Plan, tool: Tool) -> str:
    """What of a program is not taken over."""
    out = []
    if back.spindle > 0.0 and abs(back.spindle - tool.rpm) > 1.0:
        out.append(f" It asks for {back.spindle:.0f} rpm, and is run at T{tool.number}'s own {tool.rpm:.0f}.")
    if back.dwell > plan.job.machine.dialect.spin_up:
        out.append(" It waits at places; only the wait for the spindle is kept.")
    return "".join(out)


def _from_above(moves: Moves, top: float) -> Moves:
    """Its moves from its first cut on, reached across at the top of the travel and straight down: wherever it came from itself, nothing stands there."""
    first = int(np.argmax(~moves.rapid))
    x, y, z = moves.points[first]
    begin, more = [(x, y, top), (x, y, z)], [True]
    points = np.vstack([np.array(begin), moves.points[first + 1 :]])
    return Moves(points, np.concatenate([more, moves.rapid[first:]]), np.concatenate([[0.0], moves.feed[first:]]))
