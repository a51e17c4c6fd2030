# SPDX-License-Identifier: GPL-3.0-or-later
"""A program that is no part of the plan, run beside its steps: written in the control's words, read back, swept over the wood as it is, and
held against everything that a plan's own is."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from gatepost.core.motion import Moves
from gatepost.core.plan.drive import drive_of
from gatepost.core.plan.planned import PlannedSetup, ProgramFile
from gatepost.core.plan.result import Plan, Resumed
from gatepost.core.plan.resumed import stops_of
from gatepost.core.program.lines import filled_lines
from gatepost.core.program.read import read
from gatepost.core.program.time import move_seconds
from gatepost.core.program.write import Head, fingerprint, write
from gatepost.core.run.step import ProgramLoad, Step
from gatepost.core.run.steps import running
from gatepost.core.tools.reach import met
from gatepost.core.units import mm
from gatepost.core.wood.field import HeightField, cut, cutter_of


def wood_after(setup: PlannedSetup, ran: Sequence[str]) -> HeightField:
    """The wood of a setup when some of its programs were run. ran: their names."""
    wood = setup.start
    for p in setup.programs:
        wood = cut(wood, setup.on_board(p.moves), cutter_of(p.tool)).after if p.name in ran else wood
    return wood


def written_beside(
    plan: Plan, setup: PlannedSetup, like: ProgramFile, name: str, what: str, note: str, moves: Moves, kind: str
) -> ProgramFile:
    """It as a program, read back from its text. like: one by the same bit; what: it does, in words; note: a comment at its head; kind: again or elsewhere."""
    job = plan.job
    zero = f"X0 Y0 at {setup.setup.zero.xy}, Z0 on the {setup.setup.zero.z}"
    head = Head(job.name, setup.name, like.tool, zero, setup.blank_to_work, note=note)
    text = write(moves, head, job.machine.dialect)
    x, y, z = (float(v) for v in like.moves.points[0])
    back = read(text, home=(x, y, z))
    seconds = move_seconds(back.moves, drive_of(job))
    return replace(
        like, name=name, operations=(what,), text=text, moves=back.moves, line=tuple(int(n) for n in back.line),
        seconds=float(seconds.sum()) + job.machine.dialect.spin_up, move_seconds=tuple(float(v) for v in seconds),
        fingerprint=fingerprint(text, head), ran="", beside=kind, ends=(sum(1 for _ in filled_lines(text)),),
    )  # fmt: skip


def run_beside(
    plan: Plan, setup: PlannedSetup, new: ProgramFile, after: int, does: str, wood: HeightField, words: str
) -> tuple[Resumed, Step]:
    """What would come of it, and the step by which it is run. after: the place of the step behind which it stands; wood: as it is now; words: beside how much of it goes."""
    swept = cut(wood, setup.on_board(new.moves), cutter_of(new.tool))
    stops = stops_of(plan, setup, new, new.moves, swept.deepest, 0.0) + _too_deep(plan, setup, new, wood)
    load = ProgramLoad(
        new.name, new.tool.number, does, new.seconds / 60.0, new.fingerprint, first=new.first_move, large=len(new.text)
    )
    step = running(setup.name, load, plan.job.machine, new.tool)
    steps = (*setup.steps[: after + 1], step, *setup.steps[after + 1 :])
    with_it = replace(setup, programs=(*setup.programs, new), steps=steps)
    whole = replace(plan, setups=tuple(with_it if s.name == setup.name else s for s in plan.setups))
    first = new.first_move or (0.0, 0.0, 0.0)
    goes = f"{mm(float((wood.z - swept.after.z).max()))} of wood goes at the most."
    return Resumed(
        whole, with_it, new, wood, swept.after, 0.0, first, new.seconds / 60.0, tuple(stops), f"{goes} {words}".strip(),
        setup.placed.work_to_bed.xy(*first[:2]),
    ), step  # fmt: skip


def _too_deep(plan: Plan, setup: PlannedSetup, new: ProgramFile, wood: HeightField) -> list[str]:
    """What bars a cut that is deeper than was planned: the bed under it, and what of the tool is above its edges."""
    planned = min(float(setup.on_bed(p).points[:, 2].min()) for p in setup.programs)
    lowest = float(setup.on_bed(new).points[:, 2].min())
    into = (
        [f"It would go {mm(-lowest)} into the bed; {mm(max(0.0, -planned))} was planned."]
        if lowest < min(planned, 0.0) - 1e-6
        else []
    )
    parts = met(wood, setup.on_board(new.moves), new.tool, plan.job.machine)
    return into + [f"Its {part.part} would run {mm(part.deep)} into wood." for part in parts]
