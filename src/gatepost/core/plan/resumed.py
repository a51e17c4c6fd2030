# SPDX-License-Identifier: GPL-3.0-or-later
"""Going on with a run that ended early: the program from there, swept from the wood as it was left."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from gatepost.core.errors import OperatorError
from gatepost.core.hold.clearance import clearance, sections
from gatepost.core.job.tool import Tool
from gatepost.core.motion import Moves
from gatepost.core.plan.drive import drive_of
from gatepost.core.plan.planned import PlannedSetup, ProgramFile
from gatepost.core.plan.result import Plan, Resumed
from gatepost.core.program.lines import by_machine
from gatepost.core.program.read import read
from gatepost.core.program.time import move_seconds
from gatepost.core.program.write import Head, write
from gatepost.core.run.resume import line_of_block, pick, take_up
from gatepost.core.tolerances import RESERVE
from gatepost.core.units import mm
from gatepost.core.wood.field import HeightField, cut, cutter_of
from gatepost.core.wood.report import RAPID_BITE
from gatepost.core.zero.datum import travel_misfits

FURTHER = "That has not been cut yet, or is nearer to where it ended than the bit is wide: it is taken up where it would be without a place."


def wood_before(plan: Plan, setup: PlannedSetup, program: ProgramFile) -> HeightField:
    """The wood when a program begins."""
    wood = setup.start
    for other in setup.programs:
        if other.name == program.name:
            return wood
        wood = next(op.after for op in setup.operations if op.name == other.operations[-1])
    raise OperatorError(f"The plan has no program {program.name}.")


def resumed(
    plan: Plan, name: str, blocks_done: int, wood: HeightField | None = None, bed: tuple[float, float] | None = None
) -> Resumed:
    """Take a program up after the last block carried out. bed: a place on the bed that was pointed at, where it is taken up at or before that.

    wood: when the program began, where it is not the plan's (it was taken up before). Raises OperatorError.
    """
    if any(p.name == name for s in plan.setups for p in s.bare):
        raise OperatorError("What is bored into the bare bed is bored anew, from its start: it is not taken up again.")
    setup = next((s for s in plan.setups if any(p.name == name for p in s.programs)), None)
    program = plan.program(name)
    if setup is None or program is None:
        raise OperatorError(f"The plan has no program {name}.")
    tool, job = program.tool, plan.job
    last = line_of_block(program.text, blocks_done)
    moves, lines = own_moves(program)
    place = None
    if bed is not None:
        x, y = setup.placed.work_to_bed.inverse().xy(*bed)
        place = pick(moves, lines, last, tool.diameter, x, y)
    words = "" if bed is None else FURTHER if place is None else place.words
    up = take_up(moves, lines, last, tool.diameter, setup.travel - setup.zero_height, tool.plunge, place)
    start = wood if wood is not None else wood_before(plan, setup, program)
    done = Moves(
        program.moves.points[: up.done + 1].copy(), program.moves.rapid[: up.done].copy(),
        program.moves.feed[: up.done].copy(),
    )  # fmt: skip
    left = cut(start, setup.on_board(done), cutter_of(tool)).after
    head = Head(
        job.name, setup.name, tool, f"X0 Y0 at {setup.setup.zero.xy}, Z0 on the {setup.setup.zero.z}", setup.blank_to_work,
        note=f"TAKEN UP AGAIN after block {blocks_done} of {name}",
    )  # fmt: skip
    text = write(up.moves, head, job.machine.dialect)
    home = program.moves.points[0]
    back = read(text, home=(float(home[0]), float(home[1]), float(home[2])))
    swept = cut(left, setup.on_board(back.moves), cutter_of(tool))
    seconds = move_seconds(back.moves, drive_of(job))
    new = replace(
        program, text=text, moves=back.moves, line=tuple(int(n) for n in back.line),
        seconds=float(seconds.sum()) + job.machine.dialect.spin_up, move_seconds=tuple(float(v) for v in seconds),
    )  # fmt: skip
    swapped = replace(setup, programs=tuple(new if p.name == name else p for p in setup.programs))
    return Resumed(
        replace(plan, setups=tuple(swapped if s.name == setup.name else s for s in plan.setups)), swapped, new, left,
        swept.after, up.back, up.at, new.seconds / 60.0, tuple(stops_of(plan, swapped, new, back.moves, swept.deepest, _entry(up.moves, setup, left, tool))), words, setup.placed.work_to_bed.xy(*up.at[:2]),
    )  # fmt: skip


def _entry(moves: Moves, setup: PlannedSetup, left: HeightField, tool: Tool) -> float:
    """How much wood goes where a program that is taken up goes straight down to where that is, mm; swept alone."""
    if moves.rapid[1:2].all():
        return 0.0
    down = Moves(moves.points[1:3].copy(), np.array([False]), moves.feed[1:2].copy())
    return float(cut(left, setup.on_board(down), cutter_of(tool)).deepest.max())


def own_moves(program: ProgramFile) -> tuple[Moves, Sequence[int]]:
    """The moves that a program is written of: approached from a reserve below the top of the travel, and without its last lift to the
    top in machine coordinates, which is written to every program."""
    there = by_machine(program.text, program.line)[:, 2]
    count = len(there)
    while count and there[count - 1]:
        count -= 1
    points = program.moves.points[: count + 1].copy()
    points[0, 2] -= RESERVE
    return Moves(points, program.moves.rapid[:count].copy(), program.moves.feed[:count].copy()), program.line[:count]


def stops_of(
    plan: Plan, setup: PlannedSetup, program: ProgramFile, moves: Moves, deepest: np.ndarray, entry: float
) -> list[str]:
    """What bars it: the same checks as a plan's programs go through. entry: mm of wood that goes where it goes straight down into what is cut already."""
    said: list[str] = []
    if (deepest[moves.rapid] > RAPID_BITE).any():
        said.append("A rapid on its way back ploughs wood.")
    if entry > RAPID_BITE:
        said.append(f"On its way down it would cut {mm(entry)} of wood that is not cut yet.")
    on_bed = setup.on_bed(program)
    for gap in clearance(
        on_bed, sections(program.tool, plan.job.machine), list(setup.solids), plan.job.holding.clearance
    ):
        if gap.gap < 0:
            said.append(f"On its way back its {gap.tool_part} cuts {mm(-gap.gap)} into {gap.hold}'s {gap.part}.")
    for misfit in travel_misfits(on_bed, plan.job.machine, program.tool.length, by_machine(program.text, program.line)):
        said.append(f"It leaves the travel on {misfit.axis} by {mm(misfit.by)}, {mm(RESERVE)} kept in reserve.")
    return said
