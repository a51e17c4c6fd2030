# SPDX-License-Identifier: GPL-3.0-or-later
"""What is offered for a finding once a plan stands: the best ways of holding where nothing holds the work, and of several fixes the one
that clears the most first. It takes longer than the plan itself, so it is asked for by itself, and called off when anything else is wanted."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import Any

from gatepost.core.cache import Memory
from gatepost.core.errors import OperatorError
from gatepost.core.findings import Finding, Fix, Level, Report
from gatepost.core.hold import reach, suggest
from gatepost.core.job import commands
from gatepost.core.job.model import Job
from gatepost.core.plan.holding_ways import ways_compared
from gatepost.core.plan.nextstep import open_findings
from gatepost.core.plan.pipeline import plan as plan_of
from gatepost.core.plan.result import Plan
from gatepost.core.units import area_words

WAYS = 3  # of holding that are offered
MOST = 2  # findings whose fixes are tried
COUNT = 4  # holds, where nothing else is said

Key = tuple[str, str, str]  # code, setup and what it is about


@dataclass(frozen=True)
class Advice:
    """job: that it is for; fixes: of findings by code, setup and what they are about, in the order in which they are to be offered."""

    job: Job
    fixes: dict[Key, tuple[Fix, ...]]

    def of(self, finding: Finding) -> Finding:
        """A finding with what is offered for it."""
        found = self.fixes.get((finding.code, finding.setup, finding.about))
        return finding if found is None else replace(finding, fixes=found)

    def where_none(self, plan: Plan | None) -> Advice:
        """Only what is offered for findings that have no fix of their own: nothing of what is shown changes its place."""
        own = {(f.code, f.setup, f.about) for f in plan.findings if f.fixes} if plan is not None else set()
        return Advice(self.job, {key: fixes for key, fixes in self.fixes.items() if key not in own})

    def put(self, report: Report) -> Report:
        """A report with what is offered for its findings."""
        return replace(report, findings=tuple(self.of(f) for f in report.findings))


def advice(plan: Plan, memory: Memory | None = None, progress: suggest.Progress | None = None) -> Advice:
    """What is offered for the findings that come first. Raises Cancelled when progress says so."""
    memory = memory or Memory()
    fixes: dict[Key, tuple[Fix, ...]] = {}
    tried = 0
    for finding in open_findings(plan.reports):
        key = (finding.code, finding.setup, finding.about)
        if key in fixes:
            continue
        if finding.code == "hold.too-few" and finding.level is Level.STOP:
            fixes[key] = ways_of_holding(plan, finding.setup, progress)
        elif (
            finding.level is Level.STOP and len(finding.fixes) > 1 and tried < MOST
        ):  # answers to a question keep their order
            fixes[key] = by_what_they_clear(plan, finding, memory)
            tried += 1
    return Advice(plan.job, {key: found for key, found in fixes.items() if found})


def ways_of_holding(plan: Plan, setup: str, progress: suggest.Progress | None = None) -> tuple[Fix, ...]:
    """The best ways of holding a setup that nothing holds yet, the quickest first among those that hold well."""
    try:
        ways = ways_compared(plan, setup, COUNT, progress)
    except OperatorError:
        return ()
    wanted = plan.job.holding.factor
    good = [w for w in ways if w.places and not w.why_not and w.kind != "as it is" and (w.margin or wanted) >= wanted]
    good.sort(key=lambda w: (w.minutes + w.lost / 2000.0, w.kind))  # 20 cm² that no tool reaches weigh as a minute
    return tuple(
        Fix("set holds", {"setup": setup, "holds": w.places}, f"Hold it with {w.holds}: {_beside(w)}")
        for w in good[:WAYS]
    )


def _beside(way: reach.Compared) -> str:
    lost = f", {area_words(way.lost)} of the face is out of reach" if way.lost >= 100.0 else ""
    return f"{way.minutes:.0f} min to set{lost}"


def by_what_they_clear(plan: Plan, finding: Finding, memory: Memory) -> tuple[Fix, ...]:
    """A finding's fixes, the one that leaves least to be mended first. One that can't be carried out goes last."""
    return tuple(sorted(finding.fixes, key=lambda fix: _left(plan, fix, memory)))


def _left(plan: Plan, fix: Fix, memory: Memory) -> tuple[int, int]:
    """Stops and open cares that would be left after a fix."""
    run: Callable[..., Any] = commands.run
    try:
        after = plan_of(
            run(plan.job, fix.kind, fix.values, plan.kinds.figures), memory=memory, coarse=True, kinds=plan.kinds
        )
    except OperatorError:
        return 10**6, 10**6
    stops = sum(f.level is Level.STOP for f in after.findings)
    return stops, sum(f.level is Level.CARE and f.stands for f in after.findings)
