# SPDX-License-Identifier: GPL-3.0-or-later
"""Gates, questions and the one next step, from what every stage said and what has happened."""

from __future__ import annotations

import hashlib
from collections.abc import Iterator
from dataclasses import replace

from gatepost.core.blank.places import next_place
from gatepost.core.findings import Finding, Gate, Level, Question, Report, gate_of
from gatepost.core.job.journal import Journal
from gatepost.core.job.machine import Machine
from gatepost.core.job.model import Job
from gatepost.core.plan.planned import PlannedSetup, learned_seconds
from gatepost.core.plan.result import STAGES, Next
from gatepost.core.register.proof import BY_STEPS
from gatepost.core.run import report as run_stage
from gatepost.core.run.standing import next_step as step_after
from gatepost.core.zero.trust import Trust


def inputs_hash(finding: Finding) -> str:
    """What an acceptance is about: it lapses when the finding says something else."""
    return hashlib.sha256(f"{finding.code}|{finding.setup}|{finding.about}|{finding.message}".encode()).hexdigest()[:12]


def with_acceptances(reports: dict[tuple[str, str], Report], job: Job) -> dict[tuple[str, str], Report]:
    """Reports with accepted cares marked, and gates told again."""
    out: dict[tuple[str, str], Report] = {}
    for key, report in reports.items():
        findings = tuple(_accepted(f, job) for f in report.findings)
        gate = report.gate if report.gate in (Gate.WAITING, Gate.NOT_NEEDED) else gate_of(findings)
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


def run_report(
    reports: dict[tuple[str, str], Report], setups: list[PlannedSetup], journal: Journal, machine: Machine
) -> Report:
    """The Run stage's."""
    stops = sum(f.level is Level.STOP for r in reports.values() for f in r.findings)
    programs = [
        run_stage.RunProgram(
            p.name,
            p.seconds,
            " and ".join(p.operations),
            learned_seconds(s, p, machine),
            p.vacuum_minutes(machine.vacuum_every),
        )
        for s in setups
        for p in s.programs
    ]
    lost = [
        (s.name, [n for n, a in (("X", s.axes.x), ("Y", s.axes.y), ("Z", s.axes.z)) if a.trust is Trust.LOST])
        for s in setups
    ]
    return run_stage.report(stops, programs, [(name, axes) for name, axes in lost if axes])


def open_findings(reports: dict[tuple[str, str], Report]) -> Iterator[Finding]:
    """What still asks something of the operator, in the order in which it is best put right: stops before cares, along the fence; but
    what is carved before what holds it, since holds hang on the paths."""
    order = ("blank", "surface", "carve", *(s for s in STAGES if s not in ("blank", "surface", "carve")))
    for level in (Level.STOP, Level.CARE):
        for stage in order if level is Level.STOP else STAGES:
            for (name, _), report in reports.items():
                yield from (f for f in (report.findings if name == stage else ()) if f.level is level and f.stands)


def next_step(job: Job, reports: dict[tuple[str, str], Report], setups: list[PlannedSetup], journal: Journal) -> Next:
    """Exactly one thing to do now: what a new job wants first, the first stop, the first open question, then the steps at the machine."""
    led = _led(job, reports, setups, journal)
    if led is not None:
        return led
    for f in open_findings(reports):
        seeing = next((s for s in setups if s.name == f.setup), None) if f.code in BY_STEPS else None
        step = step_after(journal, [s for s in seeing.steps if s.kind in SEEING]) if seeing is not None else None
        if step is not None:  # it is put right at the machine, by what comes next there
            return Next(step.title, "run", f.setup, None, step)
        fix = f.fixes[0] if f.fixes else None
        words = f"{fix.sentence}." if fix is not None and f.level is Level.STOP else f.message
        return Next(words, f.stage, f.setup, fix)
    for s in setups:
        step = step_after(journal, list(s.steps))
        if step is not None:
            return Next(
                step.title,
                "run" if step.kind == "run" else "zero" if step.kind.startswith("zero") else "run",
                s.name,
                None,
                step,
            )
    if not any(s.programs for s in setups):
        return Next(WRITE, "carve", act="write", verb="Write")
    return Next("All steps are done: look at the log and note what was learned.", "log")


SEEING = ("over", "ring", "take")  # kinds of steps that what was seen is put right by
ENOUGH = 4  # readings, one at each corner, after which one is not asked to measure on
WRITE = "Write what it says."


def _led(job: Job, reports: dict[tuple[str, str], Report], setups: list[PlannedSetup], journal: Journal) -> Next | None:
    """How a new job goes on, from the board to what it says; nothing once there is something to cut."""
    if any(s.programs for s in setups) or job.artwork or journal.entries:
        return None
    asked = {f.code for report in reports.values() for f in report.findings if f.stands}
    readings = len(job.blank.calipers)
    if not readings and "blank.not-measured" in asked:
        return Next("Say what the board is, then measure it round the edge.", "blank", act="measure", verb="Measure")
    at = next_place(job.blank)
    if 0 < readings < ENOUGH and at is not None:
        return Next(f"Measure at place {at.number}, {at.words}.", "blank", act="measure", verb="Measure")
    barred = any(f.level is Level.STOP and f.stands for report in reports.values() for f in report.findings)
    return None if barred else Next(WRITE, "carve", act="write", verb="Write")
