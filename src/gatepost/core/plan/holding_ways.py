# SPDX-License-Identifier: GPL-3.0-or-later
"""What is asked of a planned setup's holding by name: the best places for holds, and the usual ways compared."""

from __future__ import annotations

from shapely.geometry import Polygon

from gatepost.core.blank.shape import polygon
from gatepost.core.errors import OperatorError
from gatepost.core.hold import reach, suggest
from gatepost.core.hold.clearance import any_nearer
from gatepost.core.hold.kind import HoldingInputs
from gatepost.core.hold.solids import Solid
from gatepost.core.plan.holds import cuts_near, run_of
from gatepost.core.plan.planned import PlannedSetup, ProgramRun
from gatepost.core.plan.pressing import hollow_in, sticking
from gatepost.core.plan.result import Plan
from gatepost.core.wood.flaws import flaw_area

MARK_FREE, TOUCH_FREE = 6.0, 16.0  # mm about a mark and about a touch place


def held_in(plan: Plan, planned: PlannedSetup) -> HoldingInputs:
    """What a planned setup's holding is judged on, put together again."""
    job, setup, start = plan.job, planned.setup, planned.start
    work, back = planned.placed.to_bed.area(polygon(planned.blank)), planned.placed.to_bed.inverse()
    runs = runs_in(plan, planned)
    rules = job.holding

    def clear(standing: list[Solid]) -> bool:
        return not any(any_nearer(run.moves, run.parts, standing, rules.clearance) for run in runs)

    weight = work.area * plan.thickness.mean * job.wood.density * 1e-9 * 9.81
    return HoldingInputs(
        setup, job.machine, rules, work, lambda x, y: start.at(*back.xy(x, y)), plan.kinds.holds, (),
        tuple(m.load for m in planned.margins), weight, job.wood.kind == "soft", clear,
        lambda x, y, r: cuts_near(runs, x, y, r), thick=float(start.z.max()),
        sticking=sticking(plan.kinds.holds, planned.placed.to_bed, start, hollow_in(plan, planned)),
    )  # fmt: skip


def runs_in(plan: Plan, planned: PlannedSetup) -> list[ProgramRun]:
    """A planned setup's programs as holding sees them."""
    return [run_of(plan.job, p, planned.on_bed(p)) for p in planned.programs]


def to_stay_free(plan: Plan, planned: PlannedSetup) -> list[Polygon]:
    """Bed areas that no hold may stand in: about the X0 Y0 mark and where tools touch off."""
    return [
        *suggest.free_areas([planned.placed.mark], MARK_FREE),
        *suggest.free_areas([(t.x, t.y) for t in planned.touches.values()], TOUCH_FREE),
    ]


def unsound(plan: Plan, planned: PlannedSetup) -> list[Polygon]:
    """Bed areas that no hold may bear on: flaws that give or split."""
    return [planned.placed.to_bed.area(flaw_area(f)) for f in planned.blank.flaws if f.kind != "knot"]


def suggestion(
    plan: Plan, setup: str, kind: str, count: int, progress: suggest.Progress | None = None
) -> suggest.Suggestion:
    """The best places for a number of holds of a kind in a setup. Raises OperatorError, and Cancelled."""
    planned = _planned_in(plan, setup)
    return suggest.places(
        held_in(plan, planned), kind, count, to_stay_free(plan, planned), unsound(plan, planned), progress
    )


def ways_compared(plan: Plan, setup: str, count: int, progress: suggest.Progress | None = None) -> list[reach.Compared]:
    """The usual ways of holding a setup beside each other. Raises OperatorError, and Cancelled."""
    planned = _planned_in(plan, setup)
    held = held_in(plan, planned)
    tools = [run.parts for run in runs_in(plan, planned)]
    return reach.compare(
        held, tools, float(planned.start.z.max()), count, to_stay_free(plan, planned), unsound(plan, planned), progress
    )


def _planned_in(plan: Plan, setup: str) -> PlannedSetup:
    planned = plan.setup(setup)
    if planned is None or not planned.programs:
        raise OperatorError("There is nothing to run in this setup yet: places for holds hang on the paths.")
    return planned
