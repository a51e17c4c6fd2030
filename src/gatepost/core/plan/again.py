# SPDX-License-Identifier: GPL-3.0-or-later
"""Something cut again alone, on the zeros that stand: a letter that was missed, a cut that came out shallow, as it was or deeper."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
import shapely
from numpy.typing import NDArray

from gatepost.core.carve.lettering import Lettering
from gatepost.core.errors import OperatorError
from gatepost.core.motion import Moves
from gatepost.core.plan.drive import drive_of
from gatepost.core.plan.planned import PlannedSetup, ProgramFile
from gatepost.core.plan.result import Plan, Resumed
from gatepost.core.plan.resumed import own_moves, stops_of
from gatepost.core.profile import profile_of
from gatepost.core.program.lines import filled_lines
from gatepost.core.program.read import read
from gatepost.core.program.time import move_seconds
from gatepost.core.program.write import Head, fingerprint, write
from gatepost.core.run.step import ProgramLoad, Step
from gatepost.core.run.steps import running
from gatepost.core.tools.reach import met
from gatepost.core.units import mm
from gatepost.core.wood.field import HeightField, cut, cutter_of

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
    chosen = _chosen(plan, setup, program, wanted)
    moves = _alone(own_moves(program)[0], chosen, deeper, setup.travel - setup.zero_height)
    new = _written(plan, setup, program, wanted, deeper, moves)
    done = [p for p in setup.programs if p.name in ran]
    if program not in done:
        raise OperatorError(f"{program.name} was not run to its end: resume it, or run it.")
    start = setup.start
    for p in done:
        start = cut(start, setup.on_board(p.moves), cutter_of(p.tool)).after
    swept = cut(start, setup.on_board(new.moves), cutter_of(new.tool))
    stops = stops_of(plan, setup, new, new.moves, swept.deepest, 0.0) + _too_deep(plan, setup, new, start)
    told = ", ".join(w.name for w in wanted)
    step = running(
        setup.name,
        ProgramLoad(new.name, new.tool.number, f"{told}, once more{f', {mm(deeper)} deeper' if deeper else ''}", new.seconds / 60.0, new.fingerprint, first=new.first_move),
        plan.job.machine,
        new.tool,
    )  # fmt: skip
    at = next(i for i, s in enumerate(setup.steps) if s.program == program.name)
    steps = (*setup.steps[: at + 1], step, *setup.steps[at + 1 :])
    with_it = replace(setup, programs=(*setup.programs, new), steps=steps)
    whole = replace(plan, setups=tuple(with_it if s.name == setup.name else s for s in plan.setups))
    first = new.first_move or (0.0, 0.0, 0.0)
    words = _what_comes_of_it(plan, setup, done, new, deeper, float((start.z - swept.after.z).max()))
    return Resumed(
        whole, with_it, new, start, swept.after, 0.0, first, new.seconds / 60.0, tuple(stops), words,
        setup.placed.work_to_bed.xy(*first[:2]),
    ), step  # fmt: skip


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


def _written(
    plan: Plan, setup: PlannedSetup, program: ProgramFile, wanted: Sequence[CutItem], deeper: float, moves: Moves
) -> ProgramFile:
    """It as a program, read back from its text."""
    job, tool = plan.job, program.tool
    what = ", ".join(w.name for w in wanted)
    note = f"CUT AGAIN: {what}" + (f", {deeper:.3f} mm deeper" if deeper else "")
    zero = f"X0 Y0 at {setup.setup.zero.xy}, Z0 on the {setup.setup.zero.z}"
    head = Head(job.name, setup.name, tool, zero, setup.blank_to_work, note=note)
    text = write(moves, head, job.machine.dialect)
    home = program.moves.points[0]
    back = read(text, home=(float(home[0]), float(home[1]), float(home[2])))
    seconds = move_seconds(back.moves, drive_of(job))
    stem, _, ending = program.name.rpartition(".")
    return replace(
        program, name=f"{stem}-again.{ending}", operations=(f"{what}, once more",), text=text, moves=back.moves, line=tuple(int(n) for n in back.line),
        seconds=float(seconds.sum()) + job.machine.dialect.spin_up, move_seconds=tuple(float(v) for v in seconds),
        fingerprint=fingerprint(text, head), ran="", beside="again", ends=(len(list(filled_lines(text))),),
    )  # fmt: skip


def _what_comes_of_it(
    plan: Plan, setup: PlannedSetup, done: Sequence[ProgramFile], new: ProgramFile, deeper: float, goes: float
) -> str:
    """What is told before it is run. done: programs that were; goes: mm of wood at the most."""
    out = [f"{mm(goes)} of wood goes at the most."]
    slope = profile_of(cutter_of(new.tool)).steep
    if deeper and new.tool.kind in CONES:
        out.append(f"Its grooves come out {mm(2.0 * deeper / slope)} wider.")
    ran = {name for p in done for name in p.operations}
    if any(
        plan.kinds.operations[op.kind].frees
        for op in setup.operations
        if op.name in ran and op.kind in plan.kinds.operations
    ):
        out.append("What was cut out already may be loose: press on it, spindle isolated, before it is cut again.")
    if deeper:
        out.append("The plan does not know of it: what comes after is planned on the wood as it was to be.")
    return " ".join(out)


def _too_deep(plan: Plan, setup: PlannedSetup, new: ProgramFile, start: HeightField) -> list[str]:
    """What bars a cut that is deeper than it was planned: the bed under it, and what of the tool is above its edges."""
    out: list[str] = []
    planned = min(float(setup.on_bed(p).points[:, 2].min()) for p in setup.programs)
    lowest = float(setup.on_bed(new).points[:, 2].min())
    if lowest < min(planned, 0.0) - 1e-6:
        out.append(f"It would go {mm(-lowest)} into the bed; {mm(max(0.0, -planned))} was planned.")
    for part in met(start, setup.on_board(new.moves), new.tool, plan.job.machine):
        out.append(f"Its {part.part} would run {mm(part.deep)} into wood.")
    return out
