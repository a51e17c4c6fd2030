# SPDX-License-Identifier: GPL-3.0-or-later
"""Holding, wired: the Hold room's judgement of one setup from its paths, its wood and what stands on the bed."""

from __future__ import annotations

import hashlib
import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np
import shapely
from shapely.geometry import Point, Polygon

from gatepost.core.cache import SMALL, Memory
from gatepost.core.findings import Figure, Report
from gatepost.core.frames import Bed, Board, Matrix
from gatepost.core.hold import reach
from gatepost.core.hold import report as hold_report
from gatepost.core.hold.clearance import Gap, Section, any_nearer, clearance, gantry_gaps, sections
from gatepost.core.hold.kind import HoldingInputs, HoldKinds, with_gaps
from gatepost.core.hold.margins import CutLoad, HoldMargin, Span, spans
from gatepost.core.hold.solids import Solid
from gatepost.core.hold.together import span_places
from gatepost.core.job.blank import UnderGap as Reading
from gatepost.core.job.hold import Hold
from gatepost.core.job.journal import Journal
from gatepost.core.job.machine import Machine
from gatepost.core.job.model import Job, Setup
from gatepost.core.job.tool import Tool
from gatepost.core.job.zero import Zero
from gatepost.core.motion import Moves
from gatepost.core.plan.planned import PlannedCut, ProgramFile, ProgramRun
from gatepost.core.profile import BALLS, MILLS
from gatepost.core.tolerances import RESERVE
from gatepost.core.wood.field import HeightField
from gatepost.core.wood.loose import GripArea
from gatepost.core.working import Working
from gatepost.core.zero.datum import Placed
from gatepost.core.zero.ways import EdgeTouch

LOOKED_AT = 30.0  # mm within which gaps are told to scripts

BESIDE = 60.0  # mm about a place within which cuts are looked for

LIFTS = {"up": 1.0, "compression": 1.0}  # share of its pull that a spiral lifts with


def touching_off(machine: Machine, tool: Tool, x: float, y: float, low: float) -> ProgramRun:
    """The way straight down to where a tool touches off, and up again. x, y: on the bed; low: of the tip, above it, mm."""
    high = max(machine.nose_at_home - tool.length - RESERVE, low)
    moves = Moves(np.array([[x, y, high], [x, y, low], [x, y, high]]), np.ones(2, bool), np.zeros(2))
    return ProgramRun(f"touch-{tool.number}", f"touching off of T{tool.number}", moves, sections(tool, machine))


def plate_under(tool: Tool, x: float, y: float, low: float, zero: Zero) -> ProgramRun | None:
    """The plate as it lies where a tool touches off: it wants room too. low: of the tip as it touches, above the bed."""
    if zero.gauge == "paper":
        return None
    half = 0.5 * zero.gauge_size
    plate = [Section("plate", half, -zero.gauge_thickness, 0.0)]
    moves = Moves(np.array([[x, y, low], [x, y, low]]), np.ones(1, bool), np.zeros(1))
    return ProgramRun(f"plate-{tool.number}", f"plate for T{tool.number}", moves, plate)


def touching_edges(
    machine: Machine, tool: Tool, diameter: float, edges: Sequence[EdgeTouch], words: str
) -> list[ProgramRun]:
    """The way beside each edge that is touched, down, towards it and back. edges: in bed coordinates; diameter: of pin, shank or cutter."""
    runs: list[ProgramRun] = []
    parts = [
        Section("pin", diameter / 2.0, 0.0, tool.length),
        *(s for s in sections(tool, machine) if s.part in ("nut", "shoe")),
    ]
    for edge in edges:
        high = max(machine.nose_at_home - tool.length - RESERVE, edge.z)
        ways = [(edge.start, high), (edge.start, edge.z), (edge.to, edge.z), (edge.start, edge.z), (edge.start, high)]
        points = [(at, edge.along, z) if edge.axis == "x" else (edge.along, at, z) for at, z in ways]
        moves = Moves(np.array(points), np.array([True, False, False, True]), np.zeros(4))
        side = {"xlow": "left", "xhigh": "right", "ylow": "front", "yhigh": "back"}[edge.axis + edge.side]
        runs.append(ProgramRun(f"{words}-{side}", f"{words} of the {side} edge", moves, parts))
    return runs


@dataclass(frozen=True)
class Holds:
    """Of one setup: what stands on the bed, the gaps to it by operation within LOOKED_AT, the margin of each operation and
    the longest free span."""

    held: HoldingInputs
    report: Report
    standing: tuple[Solid, ...]
    gaps: tuple[tuple[str, Gap], ...]
    margins: tuple[HoldMargin, ...]
    span: Span | None
    unreached: Polygon


def bears_of(job: Job, setup: Setup, placed: Placed, outline: Polygon, kinds: HoldKinds) -> list[GripArea]:
    """Where each hold has the board in its grip, on the board as it lies. outline: of the board."""
    out: list[GripArea] = []
    to_bed = placed.to_bed
    work, back = to_bed.area(outline), to_bed.inverse()
    for hold in setup.holds:
        kind = kinds[hold.kind]
        if kind.by == "walls":
            continue  # they stop the push and hold no piece that comes loose
        area = back.area(kind.bearing(hold, work).intersection(work))
        out.append(GripArea(hold.name, area, kind.sticks(hold, job.holding)))
    return out


def loads_of(
    job: Job, placed: Placed, operations: Sequence[PlannedCut], pushes: dict[str, Working]
) -> tuple[CutLoad, ...]:
    """What each operation does to the work, on the bed."""
    out: list[CutLoad] = []
    for op in operations:
        box = placed.to_bed.moves(op.moves).cutting_extents()
        pull = job.holding.pull * LIFTS.get(op.tool.spiral, 0.0) if op.tool.kind in (*MILLS, *BALLS, "drill") else 0.0
        out.append(CutLoad(op.name, pushes[op.name], op.peak, pull, box))
    return tuple(out)


def cuts_near(runs: Sequence[ProgramRun], x: float, y: float, radius: float) -> float:
    """How near any cut comes to a disc on the bed, mm, looked for within BESIDE; inf where none does."""
    least = math.inf
    at = Point(x, y)
    for run in runs:
        a, b = run.moves.points[:-1], run.moves.points[1:]
        low, high = np.minimum(a, b), np.maximum(a, b)
        near = ~run.moves.rapid
        near &= (
            (low[:, 0] < x + BESIDE) & (high[:, 0] > x - BESIDE) & (low[:, 1] < y + BESIDE) & (high[:, 1] > y - BESIDE)
        )
        if not near.any():
            continue
        lines = shapely.linestrings(np.stack([a[near][:, :2], b[near][:, :2]], axis=1))
        cutter = max((p.radius for p in run.parts if p.part == "cutter"), default=None)
        if cutter is None:
            continue  # a pin or a plate cuts nothing
        least = min(least, float(shapely.distance(lines, at).min()) - radius - cutter)
    return least


def rocked(journal: Journal, setup: str) -> str:
    """What was answered to the rock test last: ``still``, ``rocks``, or nothing."""
    for entry in reversed(journal.this_board()):
        if entry.kind == "rocked" and entry.setup == setup:
            return str(entry.data.get("answer", ""))
        if entry.kind in ("clamped", "shimmed", "turned", "bumped") and entry.setup == setup:
            return ""
    return ""


def _hollow(under: Sequence[Reading], back: Matrix[Bed, Board]) -> Callable[[float, float], float]:
    """How far the underside stands off the bed near a bed place, by the readings of it; nought where it was not read."""

    def at(x: float, y: float) -> float:
        if not under:
            return 0.0
        bx, by = back.xy(x, y)
        return min(under, key=lambda g: math.hypot(g.x - bx, g.y - by)).z

    return at


def holds_of(
    job: Job, setup: Setup, first: bool, placed: Placed, outline: Polygon, start: HeightField, weight: float, loads: tuple[CutLoad, ...],
    runs: Sequence[ProgramRun], journal: Journal, memory: Memory, kinds: HoldKinds, coarse: bool = False,
    idle: bool = False, sticking: Callable[[Hold], float] = lambda hold: 1.0,
) -> Holds:  # fmt: skip
    """Judge the holding of a setup; what no tool reaches, and the least move that clears a hold, are left to the whole plan where it is coarse. first: whether the board lies on its own underside here; outline, start: of it and
    its wood as it lies; weight: N; sticking: the share of a hold that has wood to stick to."""
    rules = job.holding
    work, back = placed.to_bed.area(outline), placed.to_bed.inverse()

    def height(x: float, y: float) -> float:
        return start.at(*back.xy(x, y))

    def clear(standing: list[Solid]) -> bool:
        return not any(any_nearer(run.moves, run.parts, standing, rules.clearance) for run in runs)

    def near(x: float, y: float, radius: float) -> float:
        return cuts_near(runs, x, y, radius)

    held = HoldingInputs(
        setup, job.machine, rules, work, height, kinds, (), loads, weight, job.wood.kind == "soft", clear, near,
        rocked(journal, setup.name), float(start.z.max()), _hollow(job.blank.under if first else (), back), idle, sticking,
    )  # fmt: skip
    standing = tuple(hold_report.all_solids(held))
    gaps = _gaps(job, runs, standing, memory)
    held = with_gaps(held, tuple((w, g) for w, g in gaps if g.gap < rules.clearance))
    margins = tuple(hold_report.margins(held))
    free = spans(work, span_places(held))
    cutting = [r.parts for r in runs if any(p.part == "cutter" for p in r.parts)]
    lost = Polygon() if coarse else memory.get(
        "unreached", (standing, tuple(map(tuple, cutting)), held.thick, rules.clearance, work.wkb),
        lambda: reach.unreached(work, cutting, standing, held.thick, rules.clearance), SMALL,
    )  # fmt: skip
    more = (Figure("Area the holds keep the cutter from", float(lost.area) / 100.0, "cm²"),) if lost.area > 1.0 else ()
    return Holds(
        held, hold_report.report(held, more, first=coarse), standing, gaps, margins, free[0] if free else None, lost
    )


def _gaps(
    job: Job, runs: Sequence[ProgramRun], standing: tuple[Solid, ...], memory: Memory
) -> tuple[tuple[str, Gap], ...]:
    by_hold: dict[str, list[Solid]] = {}
    for solid in standing:
        by_hold.setdefault(solid.hold, []).append(solid)
    found: list[tuple[str, Gap]] = []
    limit = max(LOOKED_AT, job.holding.clearance)
    for run in runs:
        digest = hashlib.sha256(run.moves.points.tobytes()).hexdigest()
        for mine in by_hold.values():
            key = (digest, tuple(run.parts), tuple(mine), limit)
            found += [(run.words, g) for g in memory.get("clear", key, _search(run, mine, limit), SMALL)]
        found += [(run.words, g) for g in gantry_gaps(run.moves, job.machine, standing, limit)]
    return tuple(found)


def _search(run: ProgramRun, standing: list[Solid], limit: float) -> Callable[[], list[Gap]]:
    return lambda: clearance(run.moves, run.parts, standing, limit)


def run_of(job: Job, program: ProgramFile, on_bed: Moves) -> ProgramRun:
    """A program as holding sees it."""
    return ProgramRun(program.name, " and ".join(program.operations), on_bed, sections(program.tool, job.machine))
