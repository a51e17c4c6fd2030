# SPDX-License-Identifier: GPL-3.0-or-later
"""What whoever carries out steps at a machine has in hand: a session, a plan, a journal that grows."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from gatepost.core.errors import OperatorError
from gatepost.core.job.journal import Journal, Kind
from gatepost.core.job.tool import Tool
from gatepost.core.plan.planned import PlannedSetup
from gatepost.core.plan.result import Plan
from gatepost.core.zero.trust import Axes, trust, where
from gatepost.machine.limits import Limits
from gatepost.machine.session import Session
from gatepost.machine.standing_checks import now


@dataclass
class InHand:
    """journal grows as steps are done; laid: where the wood lies on the simulated bed; replan: works the plan out anew by what has
    happened, for whoever does not do that beside; here: the tip was brought by hand to where the next step is about, and stays there; attended: somebody is there who goes on after
    a stop for the vacuum, else there are none."""

    session: Session
    plan: Plan
    journal: Journal
    laid: tuple[float, float]
    replan: Callable[[Journal], Plan] | None = None
    here: bool = False
    attended: bool = False

    def __post_init__(self) -> None:
        m = self.plan.job.machine
        self.session.limits = self.session.limits or Limits(
            (m.travel_x, m.travel_y, m.travel_z), (m.rapid_xy, m.rapid_xy, m.rapid_z)
        )

    def write(self, setup: PlannedSetup, kind: Kind, **data: Any) -> None:
        """One more entry in the journal, of a setup, now."""
        self.journal = self.journal.add(now(), kind, setup.name, **data)

    def axes(self, setup: PlannedSetup) -> Axes:
        """How far each axis can be trusted, by the journal."""
        return trust(self.journal.standing(), where(self.plan.job, setup.setup))

    @property
    def travel(self) -> tuple[float, float]:
        """Of the machine, X and Y, mm."""
        return (self.plan.job.machine.travel_x, self.plan.job.machine.travel_y)

    def tip_on(self, tool: Tool, x: float, y: float, z: float) -> tuple[float, float, float]:
        """Machine coordinates that put a tool's tip on a bed place, mm."""
        return (x - self.travel[0], y - self.travel[1], z + tool.length - self.plan.job.machine.nose_at_home)

    def tool(self, setup: PlannedSetup) -> Tool:
        """The tool in the collet. Raises OperatorError where there is none."""
        fitted = self.axes(setup).tool
        if fitted is None:
            raise OperatorError("No tool is fitted yet. Fit it first, then touch off.")
        return self.plan.job.tool(fitted)

    def seen(self, setup: PlannedSetup, place: tuple[float, float]) -> tuple[float, float]:
        """How far a mark lies from the tip, which is brought over it by the zeros."""
        axes = self.axes(setup)
        if axes.x.machine is None or axes.y.machine is None:
            raise OperatorError("X0 and Y0 are not known: there is nothing to go back to. Touch off again.")
        mark = setup.placed.mark
        self.session.jog(x=axes.x.machine + place[0] - mark[0], y=axes.y.machine + place[1] - mark[1], z=0.0)
        return self.session.sight(*setup.meant(place), setup.setup.zero.eye)
