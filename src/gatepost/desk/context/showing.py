# SPDX-License-Identifier: GPL-3.0-or-later
"""What is shown now: which plan, stage and setup, how much of it is cut, and along which line it is looked at."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date
from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from gatepost.core.findings import Report
    from gatepost.core.log.lesson import Lesson
    from gatepost.core.plan.advice import Advice
    from gatepost.core.plan.result import Plan


@dataclass
class Showing:
    """plan: the last that came, coarse or whole; wish: a setup to be shown once it is planned; chosen: the one that was chosen
    last, whatever a stage shows meanwhile; after: operations or passes done, -1 as the stage wants it; line_y, slant: where the
    heights are looked at; tip: the tool's, bed mm, while it moves; advice: what is offered for
    its findings, once that is known; lessons: of the shop; logged: how many runs its log has."""

    plan: Plan | None = None
    stage: str = "blank"
    setup: str = ""
    wish: str = ""
    chosen: str = ""
    after: int = -1
    line_y: float | None = None
    slant: tuple[float, float, float, float] | None = None
    tip: tuple[float, float, float] | None = None
    advice: Advice | None = None
    lessons: tuple[Lesson, ...] = ()
    logged: int = 0

    def as_the_stage_wants(self) -> None:
        """Nothing of how the last stage was looked at."""
        self.after, self.line_y, self.slant = -1, None, None

    def report(self, stage: str) -> Report | None:
        """What a stage says in the setup shown, with what is offered for it."""
        if self.plan is None:
            return None
        report = self.plan.report(stage, self.setup)
        fits = self.advice is not None and self.advice.job == self.plan.job
        report = self.advice.put(report) if self.advice is not None and fits else report
        if not self.lessons or self.plan.coarse:
            return report
        from gatepost.core.plan.recalled import recalled, with_lessons

        return with_lessons(report, recalled(self.plan, self.lessons), self.setup, date.today())

    def next_sentence(self) -> str:
        """The next step in words: the fix that is offered first, where there is one."""
        if self.plan is None:
            return ""
        told = self.plan.next
        if told.fix is None or self.advice is None or self.advice.job != self.plan.job:
            return told.sentence
        report = self.plan.report(told.stage, told.setup)
        about = next((f for f in report.findings if told.fix in f.fixes), None)
        stop = about is not None and about.level.value == "stop"
        return f"{self.advice.of(about).fixes[0].sentence}." if about is not None and stop else told.sentence

    def planned_setup(self) -> Any:
        """The setup shown, as planned; nothing where there is none yet."""
        return self.plan.setup(self.setup) if self.plan is not None else None
