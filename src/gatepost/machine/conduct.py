# SPDX-License-Identifier: GPL-3.0-or-later
"""Carries out the steps at the machine over a session, and says what goes into the journal."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from datetime import UTC, datetime

from gatepost.core.errors import OperatorError
from gatepost.core.frames import Point
from gatepost.core.job.journal import Journal
from gatepost.core.job.model import Tool
from gatepost.core.planned import Plan, PlannedSetup, ProgramFile
from gatepost.core.run.steps import Step
from gatepost.core.turning import measured_corners, other_face
from gatepost.core.zero.datum import work_to_bed
from gatepost.core.zero.trust import Trust, trust
from gatepost.core.zero.ways import z_zero
from gatepost.machine.link import State
from gatepost.machine.session import Session

OFF_PLAN = 0.1  # mm by which a measured board may differ from the one that was planned on
Progress = Callable[[int, int], None]


def now() -> str:
    """The time, ISO, to the second."""
    return datetime.now(UTC).astimezone().isoformat(timespec="seconds")


def tool_words(tool: Tool) -> dict[str, object]:
    """A tool, as the link tells it."""
    return {
        "number": tool.number,
        "kind": tool.kind,
        "diameter": tool.diameter,
        "angle": tool.angle,
        "tip": tool.tip,
        "length": tool.length,
    }


@dataclass
class Conductor:
    """Carries out steps of one plan. journal grows as they are done; laid: where the wood lies on the simulated bed."""

    session: Session
    plan: Plan
    journal: Journal
    laid: tuple[float, float]

    def carry_out(self, setup: PlannedSetup, step: Step, progress: Progress | None = None) -> str:
        """Do one step and write it into the journal; gives ``done`` or ``stopped``. Raises OperatorError."""
        act = {
            "tick": self._tick, "fit": self._fit, "home": self._home, "warm": self._warm, "zero xy": self._zero_xy, "zero z": self._zero_z, "measure": self._measure,
        }.get(step.kind)  # fmt: skip
        if act is not None:
            act(setup, step)
        elif self._run(setup, step, progress) == "stopped":
            return "stopped"
        self.journal = self.journal.add(now(), "ticked", setup.name, step=step.key)
        return "done"

    def recover(self, setup: PlannedSetup, tool: Tool, zeros: dict[str, float]) -> None:
        """After a run that ended early: home, the zeros as they were, the witness mark looked at. Raises OperatorError.

        The mark has been looked at by whoever calls this; what happened is written down as it happened.
        """
        if set(zeros) != {"x", "y", "z"}:
            raise OperatorError("The zeros of that run are not all known. Touch off again instead.")
        journal = self.journal
        if trust(journal.standing(), setup.name, setup.setup.zero.z == "bed").tool != tool.number:
            journal = journal.add(now(), "fitted", setup.name, tool=tool.number, length=tool.length)
        for axis, value in zeros.items():
            journal = journal.add(now(), "touched", setup.name, axis=axis, machine=value, tool=tool.number)
        journal = journal.add(now(), "stalled", setup.name, why="the run before ended early")
        if self.session.state is not State.FAULTED and self.session.last.get("state") not in ("unhomed", "faulted"):
            self.session.halt()  # an earlier desk may have left it paused, with blocks in its queue
        self.session.fit(tool_words(tool))
        self.session.home()
        journal = journal.add(now(), "homed", setup.name)
        self.session.zero(**zeros)
        self.journal = journal.add(now(), "witness", setup.name)

    def _measure(self, setup: PlannedSetup, step: Step) -> None:
        """What calipers would show of a simulated board."""
        corners = self.session.calipers()
        data: dict[str, float | str] = {f"corner{i}": v for i, v in enumerate(corners, start=1)}
        self.journal = self.journal.add(now(), "measured", setup.name, **data)

    def _tick(self, setup: PlannedSetup, step: Step) -> None:
        if step.key == "turn":
            back = other_face(self.plan.job)
            self.session.turn(back.turn if back is not None else "about X")
            self.journal = self.journal.add(now(), "turned", setup.name)
        if step.key == "hold":
            dx, dy = setup.setup.x - self.laid[0], setup.setup.y - self.laid[1]
            if dx or dy:
                self.session.lay(dx, dy)
            self.laid = (setup.setup.x, setup.setup.y)

    def _fit(self, setup: PlannedSetup, step: Step) -> None:
        tool = self.plan.job.tool(step.tool or 0)
        self.session.fit(tool_words(tool))
        self.journal = self.journal.add(now(), "fitted", setup.name, tool=tool.number, length=tool.length)

    def _home(self, setup: PlannedSetup, step: Step) -> None:
        self.session.home()
        self.journal = self.journal.add(now(), "homed", setup.name)

    def _warm(self, setup: PlannedSetup, step: Step) -> None:
        self.session.spin(self.plan.job.machine.rpm_min)
        self.session.spin(0.0)
        self.journal = self.journal.add(now(), "warmed", setup.name)

    def _wanted(self, setup: PlannedSetup, tool: Tool, x: float, y: float, z: float) -> tuple[float, float, float]:
        """Machine coordinates that put a tool's tip on a bed place."""
        m = self.plan.job.machine
        return (x - m.travel_x, y - m.travel_y, z + tool.length - m.nose_at_home)

    def _current_tool(self, setup: PlannedSetup) -> Tool:
        axes = trust(self.journal.standing(), setup.name, setup.setup.zero.z == "bed")
        if axes.tool is None:
            raise OperatorError("No tool is fitted yet. Fit it first, then touch off.")
        return self.plan.job.tool(axes.tool)

    def _zero_xy(self, setup: PlannedSetup, step: Step) -> None:
        tool = self._current_tool(setup)
        work = work_to_bed(setup.setup, self.plan.job.blank, setup.zero_height)
        mark = work.apply(Point(0.0, 0.0, 0.0))
        x, y, _ = self._wanted(setup, tool, mark.x, mark.y, mark.z)
        self.session.jog(x=x, y=y, z=0.0)
        self.session.zero(x=x, y=y)
        for axis, value in (("x", x), ("y", y)):
            self.journal = self.journal.add(
                now(), "touched", setup.name, axis=axis, machine=round(value, 4), tool=tool.number
            )

    def _zero_z(self, setup: PlannedSetup, step: Step) -> None:
        tool = self.plan.job.tool(step.tool or 0)
        touch = setup.touches[tool.number]
        gauge = setup.setup.zero.gauge_thickness
        x, y, z = self._wanted(setup, tool, touch.x, touch.y, touch.height + gauge)
        self.session.jog(x=x, y=y, z=min(0.0, z + 8.0))
        first = self.session.touch(z - 15.0, 120.0, gauge)
        self.session.jog(z=min(0.0, first + 2.0))
        second = self.session.touch(z - 15.0, 30.0, gauge)
        zero = z_zero(second, setup.setup.zero.gauge, gauge)
        self.session.zero(z=zero.result)
        self.session.jog(z=0.0)
        self.journal = self.journal.add(
            now(),
            "touched",
            setup.name,
            axis="z",
            machine=round(zero.result, 4),
            tool=tool.number,
            gauge=gauge,
            spread=round(abs(first - second), 4),
        )

    def _run(self, setup: PlannedSetup, step: Step, progress: Progress | None) -> str:
        program = self.plan.program(step.program)
        if program is None:
            raise OperatorError(f"The plan has no program {step.program} any more.")
        self.may_run(setup, program)
        self.journal = self.journal.add(
            now(), "run started", setup.name, program=program.name, plan=self.plan.fingerprint
        )
        outcome = "failed"
        try:
            outcome = self.session.run(program.text, progress)
        finally:
            self.journal = self.journal.add(now(), "run ended", setup.name, program=program.name, outcome=outcome)
        if outcome == "done" and any(name.startswith("surfacing") for name in program.operations):
            self.journal = self.journal.add(now(), "surfaced", setup.name, plane=round(setup.surfaced.plane, 4))
        return outcome

    def may_run(self, setup: PlannedSetup, program: ProgramFile) -> None:
        """Raise OperatorError when something bars this program: a stop, a lost axis, another tool in the collet."""
        if self.plan.stops:
            raise OperatorError(f"Not run: {self.plan.stops[0].code} still stands. Mend it first.")
        corners = measured_corners(self.journal) if setup.name == "front" else ()
        planned = float(setup.start.z.max())
        if corners and abs(sum(corners) / len(corners) - planned) > OFF_PLAN:
            raise OperatorError(
                f"Not run: the board measures {sum(corners) / len(corners):.2f} mm after its second face and {planned:.2f} mm was "
                "planned. Plan again first."
            )
        axes = trust(self.journal.standing(), setup.name, setup.setup.zero.z == "bed")
        lost = [n for n, a in (("X", axes.x), ("Y", axes.y), ("Z", axes.z)) if a.trust is Trust.LOST]
        if lost:
            raise OperatorError(
                f"Not run: {', '.join(lost)} is not known ({axes.z.why}). Touch off first; nothing cuts on a lost axis."
            )
        if axes.tool != program.tool.number:
            raise OperatorError(f"Not run: tool {program.tool.number} is wanted and tool {axes.tool} is fitted.")
