# SPDX-License-Identifier: GPL-3.0-or-later
"""Lessons of the shop that fit what is planned, told at the page that they belong to."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from datetime import date

from gatepost.core.findings import Finding, Fix, Level, Report
from gatepost.core.log.lesson import AMOUNTS, Doing, Lesson, Recalled, age_words, amount_words, held_kinds, recall
from gatepost.core.plan.kinds import called
from gatepost.core.plan.result import Plan
from gatepost.core.units import mm

CODE = "lesson.returns"


def doings(plan: Plan) -> tuple[Doing, ...]:
    """What a plan does, cut by cut, each kind of thing once."""
    job = plan.job
    out = [
        Doing(s.name, job.wood.name, op.tool, op.kind, held_kinds(s.setup.holds), job.machine.name)
        for s in plan.setups
        for op in s.operations
    ]
    seen: dict[tuple[object, ...], Doing] = {}
    for d in out:
        seen.setdefault((d.setup, d.tool.number, d.kind), d)
    return tuple(seen.values())


def recalled(plan: Plan, lessons: Sequence[Lesson]) -> tuple[Recalled, ...]:
    """Lessons that come back in a plan; those declined for this job are not among them."""
    open_ = [one for one in lessons if not any(d.job == plan.job.name for d in one.declined)]
    return tuple(recall(open_, doings(plan)))


def recalled_at(found: Sequence[Recalled], stage: str, setup: str, today: date) -> tuple[Finding, ...]:
    """What is said of them at a page, in a setup: a note each, with its figure offered where the plan has it on the wrong side, and with a way to decline it."""
    out = []
    for one in found:
        mine = [d for d in one.doings if d.setup == setup] or list(one.doings)
        if one.lesson.stage == stage:
            out.append(_finding(one, mine, today))
    return tuple(out)


def _finding(one: Recalled, doings: Sequence[Doing], today: date) -> Finding:
    lesson = one.lesson
    kind = called(lesson.kind) if lesson.kind else ""
    tied = " · ".join(v for v in (lesson.wood, lesson.tool, kind, lesson.hold, lesson.machine) if v)
    figure = amount_words(lesson)
    words = lesson.words.strip()
    words = words if words.endswith((".", "!", "?")) else f"{words}."
    told = f"Lesson for {tied}: {words}{f' {figure[0].upper()}{figure[1:]}.' if figure else ''} It is {age_words(lesson, today)}."
    fixes = [_taking(lesson, d) for d in {d.tool.number: d for d in one.against}.values()]
    fixes.append(Fix(f"window decline_lesson {lesson.id}", {}, "Not here, with a reason"))
    return Finding(
        CODE, Level.NOTE, lesson.stage, told, setup=doings[0].setup, about=str(lesson.id), fixes=tuple(f for f in fixes if f is not None),
    )  # fmt: skip


def _taking(lesson: Lesson, doing: Doing) -> Fix | None:
    """Its figure put in the place of the planned one, where it is known at which it goes right."""
    if lesson.good is None:
        return None
    kind, good = AMOUNTS[lesson.amount], lesson.good
    shown = f"{good:.0f}" if lesson.amount == "rpm" else mm(good)
    words = f"T{doing.tool.number}: take {kind.words} {shown} {kind.per}".strip()
    return Fix("set tool", {"number": doing.tool.number, lesson.amount: good}, words)


def with_lessons(report: Report, found: Sequence[Recalled], setup: str, today: date) -> Report:
    """A page's report with the lessons that belong to it."""
    more = recalled_at(found, report.stage, setup, today)
    return replace(report, findings=(*report.findings, *more)) if more else report
