# SPDX-License-Identifier: GPL-3.0-or-later
"""Gates, questions and the one next step, from what every stage said and what has happened."""

from __future__ import annotations

import hashlib
from dataclasses import replace

from gatepost.core.findings import Finding, Gate, Level, Question, Report, gate_of
from gatepost.core.job.journal import Journal
from gatepost.core.job.model import Job
from gatepost.core.plan.planned import PlannedSetup
from gatepost.core.plan.result import STAGES, Next
from gatepost.core.run import report as run_stage
from gatepost.core.run.standing import next_step as step_after
from gatepost.core.run.step import Step
from gatepost.core.zero.trust import Trust


def inputs_hash(finding: Finding) -> str:
    """What an acceptance is about: it lapses when the finding says something else."""
    return hashlib.sha256(f"{finding.code}|{finding.setup}|{finding.about}|{finding.message}".encode()).hexdigest()[:12]


def with_acceptances(reports: dict[tuple[str, str], Report], job: Job) -> dict[tuple[str, str], Report]:
    """Reports with accepted cares marked, and gates told again."""
    out: dict[tuple[str, str], Report] = {}
    for key, report in reports.items():
        findings = tuple(_accepted(f, job) for f in report.findings)
        gate = report.gate if report.gate in (Gate.WAITING, Gate.NOT_NEEDED, Gate.NOT_BUILT) else gate_of(findings)
        out[key] = replace(report, findings=findings, gate=gate)
    return out


def _accepted(finding: Finding, job: Job) -> Finding:
    if finding.level is not Level.CARE:
        return finding
    for a in job.accepted:
        if (a.code, a.setup, a.about) == (finding.code, finding.setup, finding.about) and a.inputs == inputs_hash(
            finding
        ):
            return replace(finding, accepted=a.reason)
    return finding


def questions(reports: dict[tuple[str, str], Report]) -> tuple[Question, ...]:
    """Cares that wait for an answer."""
    return tuple(
        Question(f.code + (f":{f.about}" if f.about else ""), f.stage, f.setup, f.message)
        for r in reports.values()
        for f in r.findings
        if f.level is Level.CARE and not f.accepted
    )


def run_report(reports: dict[tuple[str, str], Report], setups: list[PlannedSetup], journal: Journal) -> Report:
    """The Run stage's."""
    stops = sum(f.level is Level.STOP for r in reports.values() for f in r.findings)
    programs = [run_stage.RunProgram(p.name, p.seconds, " and ".join(p.operations)) for s in setups for p in s.programs]
    lost = [
        (s.name, [n for n, a in (("X", s.axes.x), ("Y", s.axes.y), ("Z", s.axes.z)) if a.trust is Trust.LOST])
        for s in setups
    ]
    return run_stage.report(stops, programs, [(name, axes) for name, axes in lost if axes])


def next_step(job: Job, reports: dict[tuple[str, str], Report], setups: list[PlannedSetup], journal: Journal) -> Next:
    """Exactly one thing to do now: the first stop, the first open question, then the steps at the machine."""
    for level in (Level.STOP, Level.CARE):
        for stage in STAGES:
            for (name, _), report in reports.items():
                for f in report.findings if name == stage else ():
                    if f.level is level and f.stands:
                        fix = f.fixes[0] if f.fixes else None
                        words = f"{fix.sentence}." if fix else f.message
                        return Next(words, stage, f.setup, fix)
    for s in setups:
        step: Step | None = step_after(journal, list(s.steps))
        if step is not None:
            return Next(
                step.title,
                "run" if step.kind == "run" else "zero" if step.kind.startswith("zero") else "run",
                s.name,
                None,
                step,
            )
    if not any(s.programs for s in setups):
        return Next("Type a line of lettering on the Carve page.", "carve")
    return Next("All steps are done: look at the log and note what was learned.", "log")
