# SPDX-License-Identifier: GPL-3.0-or-later
"""Something cut again alone, on the zeros that stand: a letter that was missed, a cut that came out shallow, as it was or deeper."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray

from gatepost.core.carve.lettering import Lettering
from gatepost.core.errors import OperatorError
from gatepost.core.motion import Moves
from gatepost.core.plan.beside import run_beside, wood_after, written_beside
from gatepost.core.plan.planned import PlannedSetup, ProgramFile
from gatepost.core.plan.result import Plan, Resumed
from gatepost.core.plan.resumed import own_moves
from gatepost.core.profile import profile_of
from gatepost.core.program.lines import filled_lines
from gatepost.core.run.step import Step
from gatepost.core.units import mm
from gatepost.core.wood.field import cutter_of

ABOUT = 0.2  # mm about a letter within which its cuts run
CONES = ("vee", "rounded_vee", "tapered_ball")
MOST = 3.0  # mm deeper at once


@dataclass(frozen=True)
class CutItem:
    """What can be cut again. program: its name; name: of the operation, or of a letter of it; letter: which one, from 0, or -1 for all of it."""

    program: str
    operation: str
    name: str
    letter: int = -1


def items(plan: Plan, setup: PlannedSetup, ran: Sequence[str]) -> tuple[CutItem, ...]:
    """What of a setup can be cut again. ran: names of the programs that were run to their end."""
    out: list[CutItem] = []
    for program in setup.programs:
        for name in program.operations if program.name in ran else ():
            out.append(CutItem(program.name, name, name))
            out += [CutItem(program.name, name, letter, i) for i, letter in enumerate(_letters(plan, setup, name))]
    return tuple(out)


def again(
    plan: Plan, setup_name: str, wanted: Sequence[CutItem], ran: Sequence[str], deeper: float = 0.0
) -> tuple[Resumed, Step]:
    """A program of some cuts alone, and the step by which it is run. ran: names of the programs that were run to their end; deeper: mm.

    It is written, read back and swept over the wood as those left it, like any other. Raises OperatorError.
    """
    setup = plan.setup(setup_name)
    names = {w.program for w in wanted}
    program = plan.program(next(iter(names))) if len(names) == 1 else None
    if setup is None or program is None:
        raise OperatorError("What is cut again is of one program: one bit is in the collet.")
    if not 0.0 <= deeper <= MOST:
        raise OperatorError(f"Deeper by {mm(0.0)} to {mm(MOST)} at once. For more, change the job and plan it anew.")
    if program.name not in ran:
        raise OperatorError(f"{program.name} was not run to its end: resume it, or run it.")
    what = ", ".join(w.name for w in wanted)
    chosen = _chosen(plan, setup, program, wanted)
    moves = _alone(own_moves(program)[0], chosen, deeper, setup.travel - setup.zero_height)
    stem, _, ending = program.name.rpartition(".")
    note = f"CUT AGAIN: {what}" + (f", {deeper:.3f} mm deeper" if deeper else "")
    new = written_beside(plan, setup, program, f"{stem}-again.{ending}", f"{what}, once more", note, moves, "again")
    after = next(i for i, s in enumerate(setup.steps) if s.program == program.name)
    does = f"{what}, once more{f', {mm(deeper)} deeper' if deeper else ''}"
    return run_beside(
        plan, setup, new, after, does, wood_after(setup, ran), _comes_of_it(plan, setup, ran, new, deeper)
    )


def _letters(plan: Plan, setup: PlannedSetup, operation: str) -> list[str]:
    made = _lettering(plan, setup, operation)
    names = [letter.name for letter in made.letters] if made is not None else []
    return [
        name if names.count(name) == 1 else f"{name}, number {names[: i + 1].count(name)}"
        for i, name in enumerate(names)
    ]


def _lettering(plan: Plan, setup: PlannedSetup, operation: str) -> Lettering | None:
    cut_ = next((op for op in setup.operations if op.name == operation), None)
    made = plan.made.get(cut_.operation) if cut_ is not None else None
    return made if isinstance(made, Lettering) and cut_ is not None and cut_.kind == "vcut" else None


def _chosen(plan: Plan, setup: PlannedSetup, program: ProgramFile, wanted: Sequence[CutItem]) -> NDArray[np.bool_]:
    """Which of a program's own moves are cut again."""
    moves, lines = own_moves(program)
    filled = [number for number, _ in filled_lines(program.text)]
    ends = np.array([filled[min(n, len(filled)) - 1] for n in program.ends])
    owner = np.searchsorted(ends, np.asarray(lines), side="left")
    board = setup.on_board(moves).points
    middle = 0.5 * (board[1:, :2] + board[:-1, :2])
    out = np.zeros(len(moves.rapid), bool)
    for w in wanted:
        mine = owner == program.operations.index(w.operation)
        if w.letter >= 0:
            made = _lettering(plan, setup, w.operation)
            if made is None or w.letter >= len(made.letters):
                raise OperatorError(f"{w.name} is no letter of {w.operation} now.")
            outline = setup.pose.area(made.letters[w.letter].outline()).buffer(ABOUT)
            mine = mine & shapely.contains_xy(outline, middle[:, 0], middle[:, 1])
        out |= mine & ~moves.rapid
    if not out.any():
        raise OperatorError("Nothing of that is cut by this program.")
    return out


def _alone(moves: Moves, chosen: NDArray[np.bool_], deeper: float, safe: float) -> Moves:
    """The passes that have something chosen in them, one after another, and deeper. safe: height between them, work."""
    starts = np.flatnonzero(~moves.rapid & np.concatenate([[True], moves.rapid[:-1]]))
    points: list[NDArray[np.float64]] = []
    rapid: list[bool] = []
    feed: list[float] = []
    for a in starts:
        rest = np.flatnonzero(moves.rapid[a:])
        b = int(a + rest[0]) if len(rest) else len(moves.rapid)
        if not chosen[a:b].any():
            continue
        way = moves.points[a : b + 1].copy()
        top = max(float(way[0, 2]), 0.0)
        way[1:, 2] -= np.where(way[1:, 2] < top, deeper, 0.0)
        over = np.array([way[0, 0], way[0, 1], safe])
        off = np.array([way[-1, 0], way[-1, 1], safe])
        points += [over, way, off]
        rapid += [True, True, *[False] * (b - a), True]
        feed += [0.0, 0.0, *(float(f) for f in moves.feed[a:b]), 0.0]
    every = np.vstack([p.reshape(-1, 3) for p in points])
    return Moves(every, np.array(rapid[1:]), np.array(feed[1:]))


def _comes_of_it(plan: Plan, setup: PlannedSetup, ran: Sequence[str], new: ProgramFile, deeper: float) -> str:
    """What is told before it is run, beside how much wood goes."""
    out: list[str] = []
    if deeper and new.tool.kind in CONES:
        slope = profile_of(cutter_of(new.tool)).steep
        out.append(f"Its grooves come out {mm(2.0 * deeper / slope)} wider.")
    cut_by = {name for p in setup.programs if p.name in ran for name in p.operations}
    if any(plan.kinds.frees(op.kind) for op in setup.operations if op.name in cut_by):
        out.append("What was cut out already may be loose: press on it, spindle isolated, before it is cut again.")
    if deeper:
        out.append("The plan does not know of it: what comes after is planned on the wood as it was to be.")
    return " ".join(out)
