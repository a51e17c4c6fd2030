# SPDX-License-Identifier: GPL-3.0-or-later
"""Holes for pins that are bored into the bare bed: once the side before is cut and the board is off, by the X0 Y0 that it was cut by."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np
from shapely.geometry import MultiPolygon

from gatepost.core.carve.drilling import Drilled, fits, hole_moves
from gatepost.core.carve.sunk_moves import Heights
from gatepost.core.hold.clearance import any_nearer, sections
from gatepost.core.job.base import changed
from gatepost.core.job.holes import Drilling, HolesFigures
from gatepost.core.job.operation import Artwork
from gatepost.core.job.tool import Tool
from gatepost.core.motion import joined
from gatepost.core.plan.cuts import Cuts
from gatepost.core.plan.drive import drive_of
from gatepost.core.plan.known import PlanInputs
from gatepost.core.plan.planned import PlannedSetup, ProgramFile
from gatepost.core.plan.registering import on_bed, tied_to
from gatepost.core.program.lines import by_machine
from gatepost.core.program.read import read
from gatepost.core.program.time import move_seconds
from gatepost.core.program.write import Head, fingerprint, write
from gatepost.core.register.kinds.pins import new_in_bed, pin_holes
from gatepost.core.register.pins import PinHole
from gatepost.core.run.bare import bare_steps
from gatepost.core.run.step import ProgramLoad, TouchOff
from gatepost.core.tolerances import RESERVE, UNDER_A_PIN
from gatepost.core.zero import datum as zeros

BORING = "holes for the pins of"


Bored = tuple[PinHole, float, float]  # a hole, and its place on the bed


def with_bare_bed(k: PlanInputs, cuts: Sequence[Cuts], built: list[PlannedSetup]) -> None:
    """Setups after which the bed is bored for others' pins get that program, and its steps."""
    wanted: dict[int, list[tuple[Cuts, list[Bored]]]] = {}
    for n, c in enumerate(cuts):
        before = tied_to(cuts[:n], c)
        if before is not None and pin_holes(k.job, c.draft.setup) and (holes := _new(k, before, c)):
            wanted.setdefault(next(i for i, b in enumerate(cuts) if b is before), []).append((c, holes))
    for i, each in wanted.items():
        bored = [hole for _, holes in each for hole in holes]
        tool = _tool(k, [c for c, _ in each], bored)
        if tool is not None:
            called = " and ".join(c.draft.setup.title or c.draft.setup.name for c, _ in each)
            built[i] = _with_steps(k, built[i], _program(k, cuts[i], called, bored, tool), bored)


def _new(k: PlanInputs, before: Cuts, c: Cuts) -> list[Bored]:
    """Holes whose pins stand where none was bored through, each with its place on the bed."""
    holes = pin_holes(k.job, c.draft.setup)
    at = np.array([[h.x, h.y] for h in holes])
    stand, was = on_bed(c).array(at), on_bed(before).array(at)
    return [(holes[i], float(stand[i, 0]), float(stand[i, 1])) for i in new_in_bed(stand, was)]


def _tool(k: PlanInputs, later: Sequence[Cuts], holes: Sequence[Bored]) -> Tool | None:
    """What drilled those rows, where it makes all of them; else the first that does."""
    on = {i for c in later for i in getattr(c.draft.setup.comes, "on", ())}
    drilled = [o.figures.tool for s in k.job.setups for o in s.operations if isinstance(o.figures, Drilling) and set(o.on) & on]  # fmt: skip
    table = sorted(k.job.tools, key=lambda t: (t.number not in drilled, t.kind != "drill", -t.diameter))
    return next((t for t in table if t.kind in ("drill", "flat") and all(fits(t, h.across) for h, _, _ in holes)), None)


def _deep(k: PlanInputs, across: float) -> float:
    """How deep a hole is bored for a pin, mm."""
    return min(across, max(1.0, k.job.machine.spoilboard - UNDER_A_PIN))


def _program(k: PlanInputs, before: Cuts, called: str, holes: Sequence[Bored], tool: Tool) -> ProgramFile:
    """One hole after another; X0 Y0 as the side before has it, Z0 on the spoilboard. called: the setups whose pins they are for."""
    d, job = before.draft, k.job
    x, y = holes[0][1], holes[0][2]
    heights = Heights(0.0, 0.0, d.travel, lambda t: (x, y, job.machine.nose_at_home - t.length - RESERVE), MultiPolygon())  # fmt: skip
    each = []
    for n, (hole, hx, hy) in enumerate(holes):
        art = changed(Artwork(id="hole", kind="holes", figures=HolesFigures(across=hole.across)), id=f"hole-{n}", x=hx, y=hy)  # fmt: skip
        figures = Drilling(tool=tool.number, through=True, into=_deep(k, hole.across), peck=tool.pass_depth)
        each.append(hole_moves(Drilled(figures, art), tool, heights))
    placed = zeros.placed(d.setup, d.known.job.blank, 0.0)
    to_work = placed.work_to_bed.inverse()
    moves = to_work.moves(joined(each))
    zero = f"X0 Y0 at {d.setup.zero.xy}, Z0 on the spoilboard"
    head = Head(job.name, d.setup.name, tool, zero, d.carried.then(placed.to_work))
    text = write(moves, head, job.machine.dialect)
    start = moves.points[0]
    back = read(text, home=(float(start[0]), float(start[1]), float(start[2]) + RESERVE))
    seconds = move_seconds(back.moves, drive_of(job))
    return ProgramFile(
        f"{d.setup.name}-bed-T{tool.number}.nc", d.setup.name, tool, (f"{BORING} {called}",), text, back.moves,
        tuple(int(v) for v in back.line), float(seconds.sum()) + job.machine.dialect.spin_up, tuple(float(v) for v in seconds), fingerprint(text, head),
        lower=d.zero_height,
    )  # fmt: skip


def _with_steps(k: PlanInputs, planned: PlannedSetup, program: ProgramFile, holes: Sequence[Bored]) -> PlannedSetup:
    """The setup with the program, and with what is done for it once its own are run."""
    touch = TouchOff(program.tool.number, holes[0][1], holes[0][2], "bed", 0.0)
    moves, parts = planned.on_bed(program), sections(program.tool, k.job.machine)
    near = dict.fromkeys(s.hold for s in planned.solids if any_nearer(moves, parts, [s], k.job.holding.clearance))
    load = ProgramLoad(
        program.name,
        program.tool.number,
        program.operations[0],
        program.seconds / 60.0,
        program.fingerprint,
        program.first_move,
    )
    times = 1 + sum(s.kind == "fit" and s.tool == program.tool.number for s in planned.steps)
    seen = planned.witness or planned.placed.mark
    steps = bare_steps(
        planned.setup, k.job.machine, program.tool, load, touch, tuple(near), seen, planned.witness is None, times
    )
    misfits = zeros.travel_misfits(moves, k.job.machine, program.tool.length, by_machine(program.text, program.line))
    return replace(planned, bare=(program,), bare_touch=touch, steps=(*planned.steps, *steps), out_of_travel=tuple(misfits))  # fmt: skip
