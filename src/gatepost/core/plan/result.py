# SPDX-License-Identifier: GPL-3.0-or-later
"""A plan: setups, reports, the next step."""

from __future__ import annotations

from dataclasses import dataclass, field
from functools import cached_property
from typing import Any

from shapely.geometry import Polygon

from gatepost.core.blank.shape import polygon
from gatepost.core.blank.thickness import Thickness
from gatepost.core.blank.top import Extremes
from gatepost.core.findings import Finding, Fix, Question, Report
from gatepost.core.finish.report import Finished
from gatepost.core.job.model import Job
from gatepost.core.plan.kinds import SHIPPED, Kinds
from gatepost.core.plan.planned import PlannedSetup, ProgramFile
from gatepost.core.program.fingerprint import of_plan
from gatepost.core.run.step import Step
from gatepost.core.surface.reckoned import SurfacingResult
from gatepost.core.tools.order import Order, Prices, Task
from gatepost.core.wood.field import HeightField

Reports = dict[tuple[str, str], Report]  # by stage and setup, where it has one for each
STAGES = ("blank", "surface", "hold", "zero", "register", "carve", "tools", "run", "finish", "log")


@dataclass(frozen=True)
class Next:
    """The one next step: a sentence, where it is done, and the fix or step that Space would carry out. act: what is done at the desk
    instead (measure, write), and verb: the word for it."""

    sentence: str
    stage: str
    setup: str = ""
    fix: Fix | None = None
    step: Step | None = None
    act: str = ""
    verb: str = ""


@dataclass(frozen=True)
class Plan:
    """Everything reckoned from a job and its journal. rough: the board as it is laid first, front up and untouched."""

    job: Job
    thickness: Thickness
    extremes: Extremes | None
    surfaced: SurfacingResult
    order: Order
    rough: HeightField
    setups: tuple[PlannedSetup, ...]
    reports: dict[tuple[str, str], Report]
    questions: tuple[Question, ...]
    next: Next
    coarse: bool = False  # a first look: nothing is written or run from it
    kinds: Kinds = field(default=SHIPPED, repr=False)
    made: dict[str, Any] = field(default_factory=dict, repr=False)  # by id of each operation, as its kind lays it out

    tasks: tuple[Task, ...] = ()
    prices: Prices = Prices(0.0)
    finishing: Finished | None = field(default=None, repr=False)

    @cached_property
    def fingerprint(self) -> str:
        """Of what comes out: of all programs, in their order."""
        return of_plan(p.fingerprint for s in self.setups for p in s.programs)

    @property
    def laid_first(self) -> tuple[float, float]:
        """Where the lower left of the rectangle about the board lies on the bed before the first setup, front up."""
        x0, y0, _, _ = self.job.blank.box
        return self.setups[0].setup.x + x0, self.setups[0].setup.y + y0

    @property
    def carving(self) -> PlannedSetup:
        """The setup that the carving is told of."""
        return next(s for s in self.setups if s.carves)

    def surfaced_in(self) -> PlannedSetup | None:
        """The setup in which the first face is made flat, if there is one."""
        return next((s for s in self.setups if s.first_face), None)

    @cached_property
    def outline(self) -> Polygon:
        """The board's outline, blank coordinates."""
        return polygon(self.job.blank)

    @property
    def findings(self) -> tuple[Finding, ...]:
        """All findings, in the order of the fence."""
        return tuple(f for report in self.reports.values() for f in report.findings)

    @property
    def stops(self) -> tuple[Finding, ...]:
        """Findings that bar the run."""
        return tuple(f for f in self.findings if f.level.value == "stop")

    @property
    def shut(self) -> tuple[Finding, ...]:
        """Findings that keep everything at the machine from being done; none where what comes next there puts them right."""
        return () if self.next.step is not None else self.stops

    def setup(self, name: str) -> PlannedSetup | None:
        """The setup of that name, if this plan has it."""
        return next((s for s in self.setups if s.name == name), None)

    def report(self, stage: str, setup: str = "") -> Report:
        """A stage's report; of one setup where it has one for each."""
        if (stage, setup) in self.reports:
            return self.reports[(stage, setup)]
        return next(r for (s, _), r in self.reports.items() if s == stage)

    def program(self, name: str) -> ProgramFile | None:
        """The program of that name."""
        return next((p for s in self.setups for p in s.files if p.name == name), None)


@dataclass(frozen=True)
class Resumed:
    """plan: the plan with the program from there in the place of the whole; wood: as it was left; after: as it will be;
    back: mm that are gone over again; minutes: what is left; stops: sentences that bar it, lengths marked; words: why it is taken up at another place than the one that was pointed at, or nothing; bed: where
    on the bed."""

    plan: Plan
    setup: PlannedSetup
    program: ProgramFile
    wood: HeightField
    after: HeightField
    back: float
    at: tuple[float, float, float]
    minutes: float
    stops: tuple[str, ...]
    words: str = ""
    bed: tuple[float, float] = (0.0, 0.0)
