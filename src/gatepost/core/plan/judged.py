# SPDX-License-Identifier: GPL-3.0-or-later
"""What every stage says of a job that has been cut in the removal model, and the setups as the window shows them."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import Any

import numpy as np
from shapely.geometry import Polygon

from gatepost.core.blank import known
from gatepost.core.blank.report import report as blank_report
from gatepost.core.cache import Memory
from gatepost.core.carve.lettered import STAGE as CARVE
from gatepost.core.findings import Finding, Level, Place, Report, waiting, with_more
from gatepost.core.hold.beside import below_the_plane, resting_on_flaws
from gatepost.core.hold.kind import HoldKinds
from gatepost.core.job.hold import Hold
from gatepost.core.job.journal import Journal
from gatepost.core.job.model import Setup
from gatepost.core.job.tool import Tool
from gatepost.core.plan.bare_bed import with_bare_bed
from gatepost.core.plan.carved import carve_report
from gatepost.core.plan.cuts import Cuts, grips_of
from gatepost.core.plan.faces import mixed, surface_reports, unread
from gatepost.core.plan.holds import (
    Holds,
    holds_of,
    loads_of,
    plate_under,
    run_of,
    touching_edges,
    touching_off,
)
from gatepost.core.plan.in_the_round import facing, freed, reliefs_told
from gatepost.core.plan.known import PlanInputs
from gatepost.core.plan.lookedat import lifted
from gatepost.core.plan.mended import told as mended
from gatepost.core.plan.oldcuts import surfaced_already
from gatepost.core.plan.opposite import both_faces
from gatepost.core.plan.parts import parts_of
from gatepost.core.plan.planned import PlannedSetup, ProgramRun
from gatepost.core.plan.pressing import hollow_under, pressed, sticking
from gatepost.core.plan.ran import as_ran
from gatepost.core.plan.registering import comings, laid_on, proofs
from gatepost.core.plan.result import Reports
from gatepost.core.plan.room import room_beside
from gatepost.core.plan.rough import rough_under
from gatepost.core.plan.tooling import meetings, uses_of
from gatepost.core.plan.zeroed import zeroed
from gatepost.core.plan.zeros import edges_on_bed, first_touch, touched_at, zero_found
from gatepost.core.register.report import report as register_report
from gatepost.core.run.standing import done
from gatepost.core.tools import order
from gatepost.core.tools import report as tools_report
from gatepost.core.units import mm
from gatepost.core.wood import loose
from gatepost.core.wood.flaws import Lies


@dataclass(frozen=True)
class Ordered:
    """Which operation comes after which: as chosen, and the best there is. broken: the rule that what was asked for breaks; tasks: what was ordered; prices: by what."""

    chosen: order.Order
    best: order.Order
    broken: str
    tasks: tuple[order.Task, ...] = ()
    prices: order.Prices = order.Prices(0.0)


def judged(
    k: PlanInputs, cuts: list[Cuts], journal: Journal, memory: Memory, ordered: Ordered
) -> tuple[Reports, list[PlannedSetup], dict[str, Any]]:
    """Every stage's report but those of the run, every setup, and what each operation makes."""
    reports: Reports = {}
    built: list[PlannedSetup] = []
    changes: list[tools_report.Change] = []
    holds: Reports = {}
    marks: Reports = {}
    flaws = _flaws(k)
    cuts = [as_ran(c, journal) for c in cuts]
    for number, c in enumerate(cuts):
        name = c.draft.setup.name
        touched = [_touching_off(c, t) for t in {p.tool.number: p.tool for p in c.programs}.values()] + _finding_zeros(
            c
        )
        hollow = hollow_under(c, cuts[:number])
        done = _holds(
            c, touched, journal, memory, sticking(k.kinds.holds, c.draft.placed.to_bed, c.draft.start, hollow)
        )
        planned, marks["zero", name], changed = zeroed(c, journal, done.standing, memory)
        built.append(
            replace(
                laid_on(k, cuts[: number + 1], planned),
                pieces=c.pieces,
                margins=done.margins,
                gaps=done.gaps,
                span=done.span,
                unreached=done.unreached,
                touching=tuple(touched),
                grips=tuple(grips_of(c.draft, memory)),
            )
        )
        told = replace(done.report, tables=(*done.report.tables, *loose.table(c.pieces)))
        holds["hold", name] = with_more(told, [*_beside(c, flaws), *pressed(c, cuts[:number])])
        changes += changed
    with_bare_bed(k, cuts, built)
    reliefs = facing(k, cuts)
    said = [f for c in cuts for f in c.said]
    said += [f for c in cuts for f in mixed(c)] + [*unread(k.job), *both_faces(k, cuts, reliefs)]
    said += freed(k, reliefs, said)
    flat, ends = k.surfaced, k.wood.extremes if k.wood.top.measured else None
    off = flat.removal.result if flat.needed and flat.depths is not None else 0.0
    reports["blank", ""] = blank_report(
        k.job, k.thickness, k.wood.outline, ends, off, flaws, surfaced_already(journal),
        tuple(t for c, s in zip(cuts, built) for t in room_beside(c, s.solids, memory)),
    )  # fmt: skip
    reports.update(surface_reports(k, cuts, journal, said + rough_under(cuts, memory)))
    reports.update(holds)
    reports.update(marks)
    reports["register", ""] = register_report(
        k.job,
        comings(k, cuts, built),
        k.kinds.registers,
        [c.draft.setup for c in cuts],
        _run_all(built, journal),
        proofs(k, cuts),
        parts_of(journal, [o.name.removesuffix(f", {o.stage}") for s in built for o in s.operations]),
        mended(k.job, [c.draft.setup for c in cuts]).and_more(reliefs_told(k, reliefs)),
    )
    made_flat = any(c.draft.laid.flattens for c in cuts)
    face = k.surfaced.plane if made_flat else k.wood.extremes.highest[2]
    reports["carve", ""], made = carve_report(k, cuts, face, flaws, [f for f in said if f.stage == CARVE])
    reports["tools", ""] = _tools(k, cuts, memory, ordered, changes)
    for c in cuts:
        if not c.operations:
            reports["zero", c.draft.setup.name] = waiting(reports["zero", c.draft.setup.name])
    return reports, built, made


def _tools(
    k: PlanInputs, cuts: list[Cuts], memory: Memory, ordered: Ordered, changes: list[tools_report.Change]
) -> Report:
    """Order, changes, and each tool in its cuts."""
    used = tuple({op.tool.number: op.tool for c in cuts for op in c.operations}.values())
    return tools_report.report(
        tools_report.Tooled(
            ordered.chosen, ordered.best, ordered.broken, tuple(changes), used, k.job.machine, k.job.wood, uses_of(cuts), meetings(cuts, memory, k.coarse), k.job.boards,
            tuple(tuple(op.tool.number for op in c.operations) for c in cuts),
        )
    )  # fmt: skip


def _run_all(built: list[PlannedSetup], journal: Journal) -> frozenset[str]:
    """Setups whose programs were all run, as they are now."""
    return frozenset(
        s.name for s in built
        if s.programs and all(done(journal, step) for step in s.steps if step.kind == "run")
    )  # fmt: skip


def _flaws(k: PlanInputs) -> tuple[Lies, ...]:
    """Where each flaw lies in the board as it will be."""
    if not k.job.blank.flaws:
        return ()
    flat = k.surfaced
    places = np.array([f.middle for f in k.job.blank.flaws])
    tops = k.wood.top.at(places[:, 0], places[:, 1]) if k.wood.top.measured else np.full(len(places), k.thickness.least)
    finished = [min(float(t), flat.plane) if flat.needed and flat.lines else float(t) for t in tops]
    return tuple(known.lies(f, float(t), z) for f, t, z in zip(k.job.blank.flaws, tops, finished))


def _holds(
    c: Cuts, touched: list[ProgramRun], journal: Journal, memory: Memory, share: Callable[[Hold], float]
) -> Holds:
    """What holds a setup, judged. touched: what is moved to find its zeros; share: of a hold, that has wood to stick to."""
    d, k = c.draft, c.draft.known
    setup, job = d.setup, k.job
    runs = [run_of(job, p, c.on_bed(p)) for p in c.programs]
    runs += touched
    weight = k.wood.outline.area * k.thickness.mean * job.wood.density * 1e-9 * 9.81
    loads = loads_of(job, d.placed, c.operations, {p.name: p.push for p in d.pieces})
    return holds_of(
        job,
        setup,
        d.own,
        d.placed,
        k.wood.outline,
        d.start,
        weight,
        loads,
        runs,
        journal,
        memory,
        k.kinds.holds,
        k.coarse,
        not d.laid.wanted,
        share,
    )


def _touching_off(c: Cuts, tool: Tool) -> ProgramRun:
    """The way down to where a tool touches off, and up again, as holding sees it."""
    low = c.draft.zero_height + c.draft.setup.zero.gauge_thickness
    return touching_off(c.draft.known.job.machine, tool, *touched_at(c, tool), low)


def _finding_zeros(c: Cuts) -> list[ProgramRun]:
    """What is moved to find X0 and Y0 and to lay the board square, and plates where they lie."""
    job, setup = c.draft.known.job, c.draft.setup
    tools = list({p.tool.number: p.tool for p in c.programs}.values())
    if not tools:
        return []
    runs: list[ProgramRun] = []
    for tool in tools if setup.zero.later == "touch" else tools[:1]:
        run = _touching_off(c, tool)
        x, y, low = (float(v) for v in run.moves.points[1])
        plate = plate_under(tool, x, y, low, setup.zero)
        runs += [plate] if plate is not None else []
    first = tools[0]
    pin = first.diameter if setup.zero.xy_way == "cutter" else setup.zero.pin
    if zero_found(c.draft):
        return runs
    runs += touching_edges(job.machine, first, pin, edges_on_bed(c, pin), "touching")
    if setup.zero.square == "edge":
        runs += touching_edges(job.machine, first, pin, edges_on_bed(c, pin, square=True), "squaring")
    return runs


def _beside(c: Cuts, flaws: tuple[Lies, ...]) -> list[Finding]:
    """What else there is to say of a setup's holds: that they stand over the plane it is cut to, or bear on a flaw."""
    d = c.draft
    said: list[Finding] = []
    if d.laid.flattens:
        said += below_the_plane(d.setup.holds, d.setup.name, d.known.surfaced.plane, d.known.kinds.holds)
    said += _free_where_touched(c)
    if d.laid.up == "front":
        said += resting_on_flaws(d.setup, d.pose.then(d.placed.to_bed), _pads(d.setup, d.known.kinds.holds), flaws)
    return said


NEAR = 150.0  # mm within which a hold keeps the board down where Z is touched
HIGH = 0.1  # mm that it may stand off the bed there


def _free_where_touched(c: Cuts) -> list[Finding]:
    """Whether the board may sit high where Z is touched on its top: nothing presses near, and it stands off the bed there."""
    d = c.draft
    holds = [h for h in d.setup.holds if d.known.kinds.holds[h.kind].by in ("top", "edge")]
    if d.setup.zero.z != "top" or not holds or len(holds) < len(d.setup.holds):
        return []
    x, y = first_touch(c)
    away = min(math.dist((x, y), d.known.kinds.holds[h.kind].touch_point(h)) for h in holds)
    bx, by = d.placed.to_bed.inverse().xy(x, y)
    gap = lifted(c, bx, by)
    if away <= NEAR or gap <= HIGH:
        return []
    message = (
        f"Where Z is touched the board stands {mm(gap, 2)} off the bed, and the nearest hold is {mm(away, 0)} away: a bit that touches it may press it down, and Z0 "
        "comes out low. Shim it there, or touch nearer to a hold."
    )
    return [Finding("hold.free-at-touch", Level.CARE, "hold", message, d.setup.name, place=Place(x, y))]


def _pads(setup: Setup, kinds: HoldKinds) -> list[tuple[str, Polygon]]:
    """Where each hold that presses in one place bears, on the bed."""
    pressing = [h for h in setup.holds if kinds[h.kind].by in ("top", "edge")]
    return [(h.name, kinds[h.kind].bearing(h, Polygon())) for h in pressing]
