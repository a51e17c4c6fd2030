# SPDX-License-Identifier: GPL-3.0-or-later
"""What a hold would say where it is being dragged to: the same checks as the plan's, of that hold alone."""

from __future__ import annotations

from dataclasses import dataclass

from gatepost.core.blank.shape import polygon
from gatepost.core.errors import OperatorError
from gatepost.core.findings import Finding, Level
from gatepost.core.hold import report as hold_report
from gatepost.core.hold.clearance import Section, clearance, sections
from gatepost.core.hold.kind import HoldingInputs, with_gaps
from gatepost.core.job import commands
from gatepost.core.motion import Moves
from gatepost.core.plan.handling import moved
from gatepost.core.plan.planned import PlannedSetup
from gatepost.core.plan.result import Plan


@dataclass(frozen=True)
class Verdict:
    """Of a hold at a place. by: where it would come to lie, from where it is (snapped), mm; worst: level, or nothing
    where all is well; sentence: of the worst, lengths still marked."""

    key: str
    by: tuple[float, float]
    worst: Level | None
    sentence: str


class Judge:
    """Judges drags against one plan; what does not change between frames is made once."""

    def __init__(self, plan: Plan) -> None:
        self.plan = plan
        self._runs: dict[str, list[tuple[str, Moves, list[Section]]]] = {}

    def _programs(self, planned: PlannedSetup) -> list[tuple[str, Moves, list[Section]]]:
        if planned.name not in self._runs:
            machine = self.plan.job.machine
            self._runs[planned.name] = [
                (" and ".join(p.operations), planned.on_bed(p), sections(p.tool, machine)) for p in planned.programs
            ] + [(r.words, r.moves, r.parts) for r in planned.touching]
        return self._runs[planned.name]

    def judge(self, setup_name: str, key: str, dx: float, dy: float) -> Verdict | None:
        """A hold dragged by an amount, bed directions, mm; nothing when the key is not a hold's."""
        planned = self.plan.setup(setup_name)
        edit = moved(self.plan.job, setup_name, key, dx, dy, kinds=self.plan.kinds) if key.startswith("hold:") else None
        if planned is None or edit is None:
            return None
        try:
            job = commands.run(self.plan.job, *edit, self.plan.kinds.figures)
        except OperatorError as error:
            return Verdict(key, (dx, dy), Level.STOP, str(error))
        name = key.partition(":")[2]
        setup = job.setup(setup_name)
        old = next(h for h in planned.setup.holds if h.name == name)
        new = next(h for h in setup.holds if h.name == name)
        start, back = planned.start, planned.placed.to_bed.inverse()
        held = HoldingInputs(
            setup, job.machine, job.holding, planned.placed.to_bed.area(polygon(planned.blank)),
            lambda x, y: start.at(*back.xy(x, y)), self.plan.kinds.holds, soft=job.wood.kind == "soft", thick=float(start.z.max()),
        )  # fmt: skip
        mine = [s for s in hold_report.all_solids(held) if s.hold == name]
        gaps = tuple(
            (words, gap)
            for words, moves, parts in self._programs(planned)
            for gap in clearance(moves, parts, mine, job.holding.clearance)
        )
        found: list[Finding] = hold_report.one_hold(with_gaps(held, gaps), name)
        rank = {Level.STOP: 0, Level.CARE: 1}
        told = sorted((f for f in found if f.level in rank), key=lambda f: rank[f.level])
        worst = told[0] if told else None
        return Verdict(
            key, (new.x - old.x, new.y - old.y), worst.level if worst else None, worst.message if worst else ""
        )
