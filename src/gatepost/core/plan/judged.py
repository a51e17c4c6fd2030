# SPDX-License-Identifier: GPL-3.0-or-later
"""What every stage says of a job that has been cut in the removal model, and the setups as the window shows them."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Any

import numpy as np
from shapely.geometry import Polygon

from gatepost.core.blank import known
from gatepost.core.blank.report import report as blank_report
from gatepost.core.cache import Memory
from gatepost.core.carve.report import STAGE as CARVE
from gatepost.core.carve.report import no_text
from gatepost.core.findings import Figure, Finding, Gate, Level, Report, gate_of
from gatepost.core.geometry.outline import Area
from gatepost.core.hold.beside import below_the_plane, resting_on_flaws
from gatepost.core.hold.kind import HoldKinds
from gatepost.core.job.journal import Journal
from gatepost.core.job.model import Setup
from gatepost.core.job.surface import Surfacing
from gatepost.core.job.tool import Tool
from gatepost.core.operation_kind import JudgedBy
from gatepost.core.plan.cuts import Cuts
from gatepost.core.plan.holds import Holds, ProgramRun, holds_of, loads_of, run_of, touching_off
from gatepost.core.plan.known import PlanInputs
from gatepost.core.plan.layout import Wanted
from gatepost.core.plan.result import PlannedSetup
from gatepost.core.plan.zeroed import first_touch, zeroed
from gatepost.core.surface import report as surface_report
from gatepost.core.surface.second import report_of as second_face
from gatepost.core.surface.second import thickness as thickness_of
from gatepost.core.tools import order
from gatepost.core.tools import report as tools_report
from gatepost.core.wood.flaws import Lies

Reports = dict[tuple[str, str], Report]
FIRST_ONLY = ("surface.no-lettering", "surface.seat", "surface.either-first")  # said of the first face alone


@dataclass(frozen=True)
class Ordered:
    """Which operation comes after which: as chosen, and the best there is. broken: the rule that what was asked for breaks."""

    chosen: order.Order
    best: order.Order
    broken: str


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
    for c in cuts:
        name = c.draft.setup.name
        done = _holds(c, journal, memory)
        planned, marks["zero", name], changed = zeroed(c, journal, done.standing, memory)
        built.append(
            replace(
                planned, pieces=c.pieces, margins=done.margins, gaps=done.gaps, span=done.span, unreached=done.unreached
            )
        )
        holds["hold", name] = _with(done.report, _beside(c, flaws))
        changes += changed
    said = [f for c in cuts for f in c.said]
    said += [surface_report.mixed(c.draft.setup.name) for c in cuts if _mixes(c)]
    flat, ends = k.surfaced, k.wood.extremes if k.wood.top.measured else None
    off = flat.depths.removal.result if flat.needed and flat.depths is not None else 0.0
    reports["blank", ""] = blank_report(k.job, k.thickness, k.wood.outline, ends, off, flaws)
    reports.update(_surface_reports(k, cuts, journal, said))
    reports.update(holds)
    reports.update(marks)
    reports["register", ""] = not_built("register")
    made_flat = any(c.draft.laid.flattens for c in cuts)
    face = k.surfaced.plane if made_flat else k.wood.extremes.highest[2]
    reports["carve", ""], made = _carve_report(k, cuts, face, flaws, [f for f in said if f.stage == CARVE])
    used = tuple({op.tool.number: op.tool for c in cuts for op in c.operations}.values())
    tooled = tools_report.Tooled(ordered.chosen, ordered.best, ordered.broken, tuple(changes), used, k.job.machine)
    reports["tools", ""] = tools_report.report(tooled)
    return reports, built, made


def _mixes(c: Cuts) -> bool:
    """Whether a setup is asked both to make a face flat and to carve."""
    return not c.draft.laid.flattens and any(o.kind == "surface" for o in c.draft.setup.operations)


def _flaws(k: PlanInputs) -> tuple[Lies, ...]:
    """Where each flaw lies in the board as it will be."""
    if not k.job.blank.flaws:
        return ()
    flat = k.surfaced
    places = np.array([(f.x, f.y) for f in k.job.blank.flaws])
    tops = k.wood.top.at(places[:, 0], places[:, 1]) if k.wood.top.measured else np.full(len(places), k.thickness.least)
    finished = [min(float(t), flat.plane) if flat.needed and flat.lines else float(t) for t in tops]
    return tuple(known.lies(f, float(t), z) for f, t, z in zip(k.job.blank.flaws, tops, finished))


def _tool(k: PlanInputs, number: int) -> Tool | None:
    return next((t for t in k.job.tools if t.number == number), None)


def _with(report: Report, more: list[Finding]) -> Report:
    """A report with more findings, its gate told again."""
    if not more:
        return report
    findings = report.findings + tuple(more)
    return replace(report, findings=findings, gate=gate_of(findings))


# -- holding ----------------------------------------------------------------------------------------------------------


def _holds(c: Cuts, journal: Journal, memory: Memory) -> Holds:
    """What holds a setup, judged."""
    d, k = c.draft, c.draft.known
    setup, job = d.setup, k.job
    runs = [run_of(job, p, c.on_bed(p)) for p in c.programs]
    runs += [_touching_off(c, tool) for tool in {p.tool.number: p.tool for p in c.programs}.values()]
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
    )


def _touching_off(c: Cuts, tool: Tool) -> ProgramRun:
    """The way down to where a tool touches off, and up again, as holding sees it."""
    setup = c.draft.setup
    chosen = next((t for t in setup.touches if t.tool == tool.number), None)
    x, y = c.draft.placed.to_bed.xy(chosen.x, chosen.y) if chosen else first_touch(c)
    return touching_off(c.draft.known.job.machine, tool, x, y, c.draft.zero_height + setup.zero.gauge_thickness)


def _beside(c: Cuts, flaws: tuple[Lies, ...]) -> list[Finding]:
    """What else there is to say of a setup's holds: that they stand over the plane it is cut to, or bear on a flaw."""
    d = c.draft
    said: list[Finding] = []
    if d.laid.flattens:
        said += below_the_plane(d.setup.holds, d.setup.name, d.known.surfaced.plane, d.known.kinds.holds)
    if d.laid.up == "front":
        said += resting_on_flaws(d.setup, d.placed.to_bed, _pads(d.setup, d.known.kinds.holds), flaws)
    return said


def _pads(setup: Setup, kinds: HoldKinds) -> list[tuple[str, Polygon]]:
    """Where each hold that presses in one place bears, on the bed."""
    pressing = [h for h in setup.holds if kinds[h.kind].by in ("top", "edge")]
    return [(h.name, kinds[h.kind].bearing(h, Polygon())) for h in pressing]


# -- the other stages -------------------------------------------------------------------------------------------------


def not_built(stage: str) -> Report:
    """Of a stage that is still to come."""
    turning = "Register is not built yet: turning the wood over and registering finished parts come later."
    coats = "Finish is not built yet: coats, colour and waiting times come later."
    said = {
        "register": Finding("register.not-built", Level.NOTE, stage, turning),
        "finish": Finding("finish.not-built", Level.NOTE, stage, coats),
    }[stage]
    return Report(stage, "not built yet", "not built yet", (), (said,), Gate.NOT_BUILT)


def _surface_reports(k: PlanInputs, cuts: list[Cuts], journal: Journal, said: list[Finding]) -> Reports:
    """Of each face that is made flat; of the first one whether it is or not."""
    both = any(c.draft.laid.flattens and c.draft.laid.up != "front" for c in cuts)
    out: Reports = {}
    first = next((c for c in cuts if c.draft.laid.flattens and c.draft.laid.up == "front"), None)
    out["surface", ""] = _surface_report(k, k.job.surfacing, first, both, said)
    for c in cuts:
        if c is first or not c.draft.laid.flattens:
            continue
        name, here = c.draft.setup.name, c.draft.known
        mine = _surface_report(here, c.draft.laid.surfacing or k.job.surfacing, c, both, said)
        own = next(w.operation.id for w in c.draft.laid.wanted)
        told = tuple(_of(f, name, own) for f in mine.findings if f.code not in FIRST_ONLY)
        mine = _with(replace(mine, findings=told), [])
        figures, more = second_face(k.job, k.surfaced, here.surfaced, thickness_of(here.surfaced.plane, journal, k.job))
        out["surface", name] = _with(replace(mine, figures=(*figures, *mine.figures)), more)
    return out


def _of(finding: Finding, setup: str, operation: str) -> Finding:
    """A finding of a surfacing as that of a setup's own."""
    fixes = tuple(
        replace(f, values={**f.values, "operation": operation}) if f.kind == "set surfacing" else f
        for f in finding.fixes
    )
    return replace(finding, setup=setup, fixes=fixes)


def _surface_report(k: PlanInputs, wanted: Surfacing, c: Cuts | None, both: bool, said: list[Finding]) -> Report:
    tool = _tool(k, wanted.tool)
    if tool is None:
        return surface_report.no_tool(wanted.tool)
    seconds = sum(op.seconds for op in c.operations) if c is not None else 0.0
    done = replace(k.surfaced, seconds=seconds, other_face=both)
    report = surface_report.report(wanted, tool, k.job.blank, done)
    names = ("", c.draft.setup.name) if c is not None else ("",)
    return _with(report, [f for f in said if f.stage == "surface" and (f.setup in names or f.code == "surface.mixed")])


def _surely(k: PlanInputs) -> Area:
    """The board where there is wood for certain: its outline less its ±."""
    inner = k.wood.outline.buffer(-k.job.blank.doubt) if k.job.blank.doubt else k.wood.outline
    return k.wood.outline if inner.is_empty else inner


def _carve_report(
    k: PlanInputs, cuts: list[Cuts], face: float, flaws: tuple[Lies, ...], said: list[Finding]
) -> tuple[Report, dict[str, Any]]:
    """All that is carved, operation by operation, and what each makes. face: how high the face stands over its rough, above the bed."""
    figures: list[Figure] = []
    findings: list[Finding] = []
    facts: list[str] = []
    lines: list[str] = []
    made: dict[str, Any] = {}
    seconds = 0.0
    for c in cuts:
        mine = [w for w in c.draft.laid.wanted if w.kind.stage == CARVE]
        seconds += sum(op.seconds for op in c.operations if op.name in {w.name for w in mine})
        for w in mine:
            told = w.kind.told(w.figures, w.tool, _judged_by(k, c, w, face, flaws))
            several = sum(o.kind == w.operation.kind for s in k.job.setups for o in s.operations) > 1
            figures += (
                [replace(f, label=f"{w.name}: {f.label[0].lower()}{f.label[1:]}") for f in told.figures]
                if several
                else told.figures
            )
            findings += (
                [replace(f, message=f"{w.name}: {f.message}") for f in told.findings] if several else told.findings
            )
            made |= {w.operation.id: told.made}
            facts += [told.fact] if told.fact else []
            lines += [told.line] if told.line else []
        lacking = [kind.no_tool(n, c.draft.setup.name) for kind, n in c.draft.laid.lacking if kind.stage == CARVE]
        findings += lacking
        facts += ["no tool"] * bool(lacking)
    carved = [k.kinds.operations[o.kind] for s in k.job.setups for o in s.operations]
    if not any(kind.stage == CARVE and not kind.frees for kind in carved):
        findings.append(no_text(next(c.draft.setup.name for c in cuts if c.draft.laid.carves)))
        facts.insert(0, "0 letters")
    figures.append(Figure("Minutes", seconds / 60.0, "minutes"))
    found = (*findings, *said)
    line = " / ".join(lines) or "no lettering yet"
    return Report(CARVE, ", ".join(facts), line, tuple(figures), found, gate_of(found)), made


def _judged_by(k: PlanInputs, c: Cuts, w: Wanted, face: float, flaws: tuple[Lies, ...]) -> JudgedBy:
    """What one operation is judged by."""
    done = next((op for op in c.operations if op.name == w.name), None)
    first = next(o.id for s in k.job.setups for o in s.operations if o.kind == w.operation.kind)
    return JudgedBy(
        c.draft.setup.name, {} if w.operation.id == first else {"operation": w.operation.id}, c.draft.placed.to_bed, _surely(c.draft.known),
        k.job.tools, float(c.draft.start.z.max()), max(0.0, face - k.wood.extremes.lowest[2]),
        done.push * done.peak if done is not None else 0.0, flaws if c.draft.laid.up == "front" else (), c.draft.site,
    )  # fmt: skip
