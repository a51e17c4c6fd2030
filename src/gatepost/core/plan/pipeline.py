# SPDX-License-Identifier: GPL-3.0-or-later
"""The plan, stage after stage: what is known -> setups drafted -> operations ordered -> programs written, read back and swept
-> every stage judged -> gates and the one next step."""

from __future__ import annotations

from collections.abc import Hashable
from dataclasses import replace
from typing import Any

from gatepost.core.cache import Memory
from gatepost.core.findings import Level, Report, with_more
from gatepost.core.finish.report import finish_report
from gatepost.core.job.journal import Journal
from gatepost.core.job.model import Job
from gatepost.core.plan import nextstep
from gatepost.core.plan.boards import rough
from gatepost.core.plan.cuts import Cuts, cuts_of, gone_on_with
from gatepost.core.plan.drafts import SetupDraft, drafts
from gatepost.core.plan.drive import drive_of
from gatepost.core.plan.finishing import finished
from gatepost.core.plan.judged import Ordered, judged
from gatepost.core.plan.kinds import SHIPPED, Kinds
from gatepost.core.plan.known import PlanInputs, heavy, know
from gatepost.core.plan.layout import SURFACE
from gatepost.core.plan.oldcuts import with_old_cuts
from gatepost.core.plan.planned import PlannedSetup, ProgramFile
from gatepost.core.plan.result import Plan, Reports
from gatepost.core.program.time import move_seconds
from gatepost.core.program.write import barred_text
from gatepost.core.tools import order
from gatepost.core.units import spell
from gatepost.core.wood.field import HeightField


def plan(
    job: Job, journal: Journal | None = None, memory: Memory | None = None, cell: float | None = None,
    coarse: bool = False, kinds: Kinds = SHIPPED,
) -> Plan:  # fmt: skip
    """Reckon everything. memory: keeps parts whose inputs did not change; cell: of the height fields, mm; kinds:
    of operations and holds, as the job was read by them.

    coarse: a first look, with outlines and wood followed less finely; good for a picture and for most findings, and
    marked so that nothing is run from it.
    """
    done, of = journal or Journal(), memory or Memory()
    if coarse:  # seen until the whole one is there, and then never again
        return _planned(job, done, of, cell, True, kinds)
    return of.whole(_key(job, cell, kinds), done, lambda: _planned(job, done, of, cell, False, kinds), _most)


def kept(job: Job, journal: Journal, memory: Memory, cell: float | None = None, kinds: Kinds = SHIPPED) -> Plan | None:
    """The whole plan where it is remembered."""
    found = memory.kept_whole(_key(job, cell, kinds), journal)
    return found if isinstance(found, Plan) else None


def _key(job: Job, cell: float | None, kinds: Kinds) -> Hashable:
    """What tells one plan from another, beside what was done; a plan that is kept keeps its kinds."""
    return job, cell, id(kinds)


def _most(made: Plan) -> int:
    """How many plans as large as one are kept."""
    return heavy(sum(s.end.z.size * (1 + len(s.operations)) for s in made.setups))


def _planned(job: Job, journal: Journal, memory: Memory, cell: float | None, coarse: bool, kinds: Kinds) -> Plan:
    known = know(job, memory, cell, coarse, kinds, journal)
    drafted = drafts(known, journal, memory)
    ordered = _ordered(known, drafted)
    cuts: list[Cuts] = []
    for draft in drafted:
        cuts.append(cuts_of(gone_on_with(draft, cuts), ordered.chosen.names, memory))
    reports, built, made = judged(known, cuts, journal, memory, ordered)
    sign = finished(known, cuts, made, ordered.chosen, memory)
    reports["finish", ""] = finish_report(sign)
    plan_ = _finished(known, journal, built, reports, ordered, made, rough(known, memory)[0])
    return replace(plan_, finishing=sign if sign.cut else None)


def _ordered(k: PlanInputs, drafted: list[SetupDraft]) -> Ordered:
    """The order of all cuts: as asked for, where that breaks no rule, else the best."""
    tasks, machine = _tasks(k, drafted), k.job.machine
    change = order.Prices(machine.swap_minutes, machine.rapid_xy)
    best = order.best_order(tasks, change)
    asked = tuple(n for n in k.job.order if any(t.name == n for t in tasks))
    broken = order.broken_rule(tasks, asked) if asked else ""
    return Ordered(
        order.cost(tasks, asked, change) if asked and not broken else best, best, broken, tuple(tasks), change
    )


def _tasks(k: PlanInputs, drafted: list[SetupDraft]) -> list[order.Task]:
    """Cuts with their minutes. What frees pieces comes after all else of its setup."""
    drive = drive_of(k.job)
    tasks: list[order.Task] = []
    for number, draft in enumerate(drafted):
        others = tuple(p.name for p in draft.pieces if not p.wanted.kind.frees)
        cuts: dict[str, list[str]] = {}  # of each operation, in their order
        for p in draft.pieces:
            cuts.setdefault(p.wanted.operation.id, []).append(p.name)
        ring = draft.setup.ring
        rings = cuts.get(ring.operation, ()) if ring is not None else ()
        for p in draft.pieces:
            minutes = float(move_seconds(p.drawn.moves, drive).sum()) / 60.0
            asked = [name for i in p.wanted.operation.after for name in cuts.get(i, ())]
            mine = cuts[p.wanted.operation.id]
            before = mine[: mine.index(p.name)]
            first = rings if p.name not in rings and p.wanted.kind.stage != SURFACE else ()
            after = tuple(dict.fromkeys((*(others if p.wanted.kind.frees else ()), *asked, *before, *first)))
            points = draft.placed.to_bed.array(p.drawn.moves.points[[0, -1], :2])
            begins, ends = ((float(x), float(y)) for x, y in points[:, :2])
            tasks.append(order.Task(p.name, number, p.tool.number, minutes, after, begins, ends))
    return tasks


def _finished(
    k: PlanInputs,
    journal: Journal,
    built: list[PlannedSetup],
    reports: Reports,
    ordered: Ordered,
    made: dict[str, Any],
    raw: HeightField,
) -> Plan:
    built, said = with_old_cuts(built, journal)
    if said:
        reports["carve", ""] = with_more(reports["carve", ""], said)
    reports = nextstep.with_acceptances(reports, k.job)
    reports[("run", "")] = nextstep.run_report(reports, built, journal, k.job.machine)
    reports[("finish", "")] = reports.pop(("finish", ""))
    reports[("log", "")] = Report("log", "", "what was run, and how it went")
    stops = [f for r in reports.values() for f in r.findings if f.level is Level.STOP]
    if stops:
        why = stops[0].message
        built = [
            replace(
                p,
                programs=tuple(_barred(k, q, why) for q in p.programs),
                bare=tuple(_barred(k, q, why) for q in p.bare),
            )
            for p in built
        ]
    next_ = nextstep.next_step(k.job, reports, built, journal)
    return Plan(
        k.job, k.thickness, k.wood.extremes if k.wood.top.measured else None, k.surfaced, ordered.chosen, raw, tuple(built),
        reports, nextstep.questions(reports), next_, k.coarse, k.kinds, made,
        ordered.tasks, ordered.prices,
    )  # fmt: skip


def _barred(k: PlanInputs, program: ProgramFile, reason: str) -> ProgramFile:
    """The program with why it is not to be run as its first comment; lines move down by one."""
    text = barred_text(program.text, spell(reason, k.job.unit), k.job.machine.dialect)
    return replace(program, text=text, line=tuple(n + 1 for n in program.line))
