# SPDX-License-Identifier: GPL-3.0-or-later
"""Carries out the steps at the machine over a session, and says what goes into the journal."""

from __future__ import annotations

import getpass
from collections.abc import Callable
from dataclasses import dataclass
from datetime import UTC, datetime

from gatepost.core.errors import OperatorError
from gatepost.core.job.journal import Journal
from gatepost.core.job.tool import Tool
from gatepost.core.job.turning import lies, relative
from gatepost.core.plan.planned import PlannedSetup, ProgramFile
from gatepost.core.plan.result import Plan
from gatepost.core.run.steps import Step, ticked
from gatepost.core.surface.second import measured_corners
from gatepost.core.tolerances import PUSHED
from gatepost.core.zero.recover import sensed
from gatepost.core.zero.trust import SPREAD_LIMIT, Axes, Trust, trust
from gatepost.core.zero.ways import Skew, askew, edge_touches, line_places, skew, square_touches
from gatepost.machine.launch import standing_words, tool_words
from gatepost.machine.link import State
from gatepost.machine.session import Limits, Session
from gatepost.machine.touching import FoundZero, by_edges, by_eye, pin_of, size_off, skewed, upright

HOME_MISS, WITNESS, SLIPPED, SIZE_OFF = (
    0.1,
    0.3,
    0.1,
    1.2,
)  # mm past which it is told; a board is as long as a tape says it is
SQUARES = 4  # times that a board is pushed square
JOG, PLAY = 10.0, 0.15  # mm of a short jog, and by which it may come back otherwise
OFF_PLAN = 0.1  # mm by which a measured board may differ from the one that was planned on
Progress = Callable[[int, int], None]


def now() -> str:
    """The time, ISO, to the second."""
    return datetime.now(UTC).astimezone().isoformat(timespec="seconds")


def who() -> str:
    """Who is at the machine, as this computer knows them."""
    try:
        return getpass.getuser()
    except (KeyError, OSError):
        return ""


def known_axes(journal: Journal, setup: PlannedSetup) -> Axes:
    """The axes of a setup. Raises OperatorError where one is lost, or provisional without a yes: nothing cuts on it."""
    axes = trust(journal.standing(), setup.name, setup.setup.zero.z == "bed")
    lost = [n for n, a in (("X", axes.x), ("Y", axes.y), ("Z", axes.z)) if a.trust is Trust.LOST]
    if lost:
        raise OperatorError(
            f"Not run: {', '.join(lost)} is not known ({axes.z.why}). Touch off first; nothing cuts on a lost axis."
        )
    doubtful = [
        n for n, a in (("X", axes.x), ("Y", axes.y), ("Z", axes.z)) if a.trust is Trust.PROVISIONAL and not a.accepted
    ]
    if doubtful:
        why = next(a.why for a in (axes.z, axes.x, axes.y) if a.trust is Trust.PROVISIONAL and not a.accepted)
        raise OperatorError(
            f"Not run: {', '.join(doubtful)} is provisional ({why}). Touch again, or say yes to it as it is: what happened, and what is "
            "still known (Ctrl+H)."
        )
    return axes


@dataclass
class StepRunner:
    """Carries out steps of one plan. journal grows as they are done; laid: where the wood lies on the simulated bed."""

    session: Session
    plan: Plan
    journal: Journal
    laid: tuple[float, float]

    def __post_init__(self) -> None:
        m = self.plan.job.machine
        self.session.limits = self.session.limits or Limits(
            (m.travel_x, m.travel_y, m.travel_z), (m.rapid_xy, m.rapid_xy, m.rapid_z)
        )

    def carry_out(self, setup: PlannedSetup, step: Step, progress: Progress | None = None) -> str:
        """Do one step and write it into the journal; gives ``done`` or ``stopped``. Raises OperatorError."""
        act = {
            "tick": self._tick, "fit": self._fit, "home": self._home, "warm": self._warm, "zero xy": self._zero_xy, "zero z": self._zero_z, "measure": self._measure, "jog": self._jog,
            "sensor": self._sensor, "again": self._again, "witness": self._witness, "look": self._look, "square": self._square,
        }.get(step.kind)  # fmt: skip
        if act is not None:
            act(setup, step)
        elif self._run(setup, step, progress) == "stopped":
            return "stopped"
        self.journal = ticked(self.journal, now(), step)
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
            self.session.turn(relative(setup.before, lies(setup.setup)))
            self.journal = self.journal.add(now(), "turned", setup.name)
        if step.key.startswith("rock"):
            self.journal = self.journal.add(now(), "rocked", setup.name, answer="still")
        if step.key == "hold":
            dx, dy = setup.corner[0] - self.laid[0], setup.corner[1] - self.laid[1]
            comes = setup.setup.comes
            still = (
                comes is not None
                and setup.name != self.plan.setups[0].name
                and not self.plan.kinds.registers[comes.kind].moved
            )
            as_laid, turned_by = setup.lying, setup.setup.skew
            degrees = askew(setup.setup, as_laid.degrees, max(setup.blank.across)) if turned_by else as_laid.degrees
            off, turned = (as_laid.x, as_laid.y, degrees), (turned_by, *setup.placed.mark)
            self.session.lay(dx, dy, standing_words(setup.solids), still, off, turned)
            self.laid = setup.corner

    def _fit(self, setup: PlannedSetup, step: Step) -> None:
        tool = self.plan.job.tool(step.tool or 0)
        self.session.fit(tool_words(tool))
        self.journal = self.journal.add(now(), "fitted", setup.name, tool=tool.number, length=tool.length)

    def _home(self, setup: PlannedSetup, step: Step) -> None:
        miss = self.session.home()
        self.journal = self.journal.add(now(), "homed", setup.name)
        if max(abs(v) for v in miss) > HOME_MISS and step.key != "home":
            self.journal = self.journal.add(
                now(), "stalled", setup.name, why=f"its counting was off by {miss[0]:.2f}, {miss[1]:.2f}, {miss[2]:.2f}"
            )
            self.journal = self.journal.add(now(), "homed", setup.name)
            raise OperatorError(
                f"Homed, and its counting was off: X by {miss[0]:.2f}, Y by {miss[1]:.2f}, Z by {miss[2]:.2f} mm. It has lost steps since it "
                "was homed before. Look at what was cut since then, and at the witness mark before going on."
            )

    def _jog(self, setup: PlannedSetup, step: Step) -> None:
        """A short jog each way, and back: does each axis move the way it should, and come back to where it was from both sides?"""
        tool = self._current_tool(setup)
        work, m = setup.placed.mark, self.plan.job.machine
        x, y, _ = self._wanted(setup, tool, *work, 0.0)
        x, y = min(0.0, max(x, -m.travel_x)), min(0.0, max(y, -m.travel_y))
        self.session.jog(x=x, y=y, z=0.0)
        for axis, at in (("x", x), ("y", y)):
            seen = []
            for way in (-1.0, 1.0):
                to = min(0.0, max(at + way * JOG, -(m.travel_x if axis == "x" else m.travel_y)))
                self.session.jog(**{axis: to})
                self.session.jog(**{axis: at})
                seen.append(self.session.sight(*work, 0.0)["xy".index(axis)])
            if abs(seen[1] - seen[0]) > PLAY:
                raise OperatorError(
                    f"Coming from the left and from the right, or from the front and the back, {axis.upper()} stands {abs(seen[1] - seen[0]):.2f} mm apart "
                    "over the same place: the axis has play. Mend it before anything is cut."
                )
        self.session.jog(z=-JOG)
        self.session.jog(z=0.0)
        self.journal = self.journal.add(
            now(), "remark", setup.name, words="a short jog each way: every axis moved as it should"
        )

    def _look(self, setup: PlannedSetup, step: Step) -> None:
        """What an operator sees who looks over machine and bed. Raises OperatorError where something is not as it should be."""
        seen = self.session.look_over(
            {"spanners": "machine", "prove": "circuit"}.get(step.key.partition("-")[0], "bed")
        )
        if seen:
            raise OperatorError(f"Look: {'; '.join(seen)}. Put it right first.")

    def _again(self, setup: PlannedSetup, step: Step) -> None:
        """Z touched again with the same bit: has it slipped in its collet?"""
        tool = self.plan.job.tool(step.tool or 0)
        found = self._touch_z(setup, tool)
        before = trust(self.journal.standing(), setup.name, setup.setup.zero.z == "bed").z.machine
        if before is not None and abs(found.machine - before) > SLIPPED:
            self.journal = self.journal.add(now(), "fitted", setup.name, tool=tool.number, length=tool.length)
            raise OperatorError(
                f"Touched again, Z0 is {found.machine - before:+.2f} mm off: the bit has slipped in its collet, or the board has moved. What "
                "was cut since is that much too deep or too shallow. Grip it again, then touch off."
            )

    def _sensor(self, setup: PlannedSetup, step: Step) -> None:
        """The fixed sensor: with the first tool it is noted how high it stands by it, later tools take Z0 by the difference."""
        m, tool = self.plan.job.machine, self.plan.job.tool(step.tool or 0)
        if m.sensor is None:
            raise OperatorError("This machine has no sensor in its profile.")
        x, y, z = self._wanted(setup, tool, m.sensor.x, m.sensor.y, m.sensor.height)
        found = upright(self.session, x, y, z, "nothing", m.sensor.height, deeper=20.0)
        contact = found.contacts[-1]
        self.journal, zero = sensed(self.journal, setup.name, setup.setup.zero.z == "bed", tool.number, contact, now())
        if zero is not None:
            self.session.zero(z=zero)

    def _witness(self, setup: PlannedSetup, step: Step) -> None:
        """The tip is brought over the witness mark, and how far it misses is looked at."""
        if step.place is None:
            return
        axes = trust(self.journal.standing(), setup.name, setup.setup.zero.z == "bed")
        if axes.x.machine is None or axes.y.machine is None:
            raise OperatorError("X0 and Y0 are not known: there is nothing to go back to. Touch off again.")
        work = setup.placed.mark
        dx, dy = step.place[0] - work[0], step.place[1] - work[1]
        self.session.jog(x=axes.x.machine + dx, y=axes.y.machine + dy, z=0.0)
        off = self.session.sight(*step.place, 0.0)
        self.journal = self.journal.add(now(), "witness", setup.name, x=off[0], y=off[1])
        if max(abs(v) for v in off) > WITNESS:
            self.journal = self.journal.add(now(), "bumped", setup.name)
            raise OperatorError(
                f"The witness mark lies X {off[0]:+.2f}, Y {off[1]:+.2f} mm from the tip: the board has moved, or steps were lost. Home, look "
                "again, then touch off anew."
            )

    def _warm(self, setup: PlannedSetup, step: Step) -> None:
        machine = self.plan.job.machine
        try:
            for rpm in [w.rpm for w in machine.warm] or [machine.rpm_min]:
                self.session.spin(min(max(rpm, machine.rpm_min), machine.rpm_max))
        finally:  # called off half-way too: it does not go on turning
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
        zero, blank, m = setup.setup.zero, setup.blank, self.plan.job.machine
        work = setup.placed.mark
        if zero.xy_way == "pointer":
            x, y, _ = self._wanted(setup, tool, *work, 0.0)
            found = by_eye(self.session, (x, y), work, zero.eye)
        else:
            corner = (setup.corner[0] - m.travel_x, setup.corner[1] - m.travel_y)
            face = self._wanted(setup, tool, 0.0, 0.0, float(setup.start.z.max()))[2]
            pin = pin_of(setup.setup, tool)
            self.session.fit({**tool_words(tool), "diameter": pin})
            edges = edge_touches(setup.setup, blank.across, corner, face, pin)
            try:
                found = by_edges(self.session, edges, pin, (m.travel_x, m.travel_y))
            finally:
                self.session.fit(tool_words(tool))
        off = size_off(found, *blank.across, max(SIZE_OFF, blank.doubt))
        if off:
            raise OperatorError(off)
        self.session.zero(**{f.axis: f.machine for f in found})
        for f in found:
            self._write_touch(setup, tool, f, {"way": zero.xy_way})

    def _square(self, setup: PlannedSetup, step: Step) -> None:
        """The board laid square: touched, or looked at, at two places, and pushed until both agree."""
        tool = self._current_tool(setup)
        for _ in range(SQUARES):
            told = self._askew(setup, tool)
            self.journal = self.journal.add(
                now(), "squared", setup.name, push=round(told.push.result, 4), degrees=round(told.degrees.result, 4)
            )
            if told.push.result <= PUSHED:
                return
            mark = setup.placed.mark
            self.session.jog(z=0.0)
            self.session.push(*mark, -told.degrees.result)
        raise OperatorError(
            f"The board still lies {told.push.result:.2f} mm askew over its length after {SQUARES} pushes. Look at what it lies on, then "
            f"push its far end {told.way}."
        )

    def _askew(self, setup: PlannedSetup, tool: Tool) -> Skew:
        m, zero = self.plan.job.machine, setup.setup.zero
        if zero.square == "line":
            places = line_places(setup.blank)
            beds = [setup.placed.to_bed.xy(*p) for p in places]
            offs = []
            for bed in beds:
                x, y, _ = self._wanted(setup, tool, *bed, 0.0)
                self.session.jog(x=x, y=y, z=0.0)
                offs.append(self.session.sight(*bed, zero.eye))
            i = 1 if beds[1][0] - beds[0][0] >= beds[1][1] - beds[0][1] else 0
            apart = beds[1][1 - i] - beds[0][1 - i]
            return skew("xy"[i], offs[0][i], offs[1][i], apart, apart)  # type: ignore[arg-type]
        corner = (setup.corner[0] - m.travel_x, setup.corner[1] - m.travel_y)
        face = self._wanted(setup, tool, 0.0, 0.0, float(setup.start.z.max()))[2]
        pin = pin_of(setup.setup, tool)
        self.session.fit({**tool_words(tool), "diameter": pin})
        try:
            edges = square_touches(setup.setup, setup.blank.across, corner, face, pin)
            return skewed(self.session, edges, (m.travel_x, m.travel_y))[0]
        finally:
            self.session.fit(tool_words(tool))

    def _write_touch(self, setup: PlannedSetup, tool: Tool, f: FoundZero, more: dict[str, float | str]) -> None:
        self.journal = self.journal.add(
            now(),
            "touched",
            setup.name,
            axis=f.axis,
            machine=round(f.machine, 4),
            tool=tool.number,
            spread=round(f.spread, 4),
            by=who(),
            **more,
        )

    def _touch_z(self, setup: PlannedSetup, tool: Tool) -> FoundZero:
        touch = setup.touches[tool.number]
        zero = setup.setup.zero
        gauge = zero.gauge_thickness
        x, y, z = self._wanted(setup, tool, touch.x, touch.y, touch.height + gauge)
        return upright(self.session, x, y, z, zero.gauge, gauge)

    def _zero_z(self, setup: PlannedSetup, step: Step) -> None:
        tool = self.plan.job.tool(step.tool or 0)
        found = self._touch_z(setup, tool)
        self.session.zero(z=found.machine)
        self._write_touch(setup, tool, found, {"gauge": setup.setup.zero.gauge_thickness})
        if found.spread > SPREAD_LIMIT:
            raise OperatorError(
                f"The two touches lie {found.spread:.2f} mm apart. Wipe plate and face, rub raised fibres off, and touch again."
            )

    def _run(self, setup: PlannedSetup, step: Step, progress: Progress | None) -> str:
        program = self.plan.program(step.program)
        if program is None:
            raise OperatorError(f"The plan has no program {step.program} any more.")
        self.may_run(setup, program)
        self.journal = self.journal.add(
            now(), "run started", setup.name, program=program.name, fingerprint=program.fingerprint
        )
        outcome = "failed"
        try:
            outcome = self.session.run(program.text, progress, program.block_seconds())
        finally:
            self.journal = self.journal.add(now(), "run ended", setup.name, program=program.name, outcome=outcome)
        if outcome == "done" and any(name.startswith("surfacing") for name in program.operations):
            self.journal = self.journal.add(now(), "surfaced", setup.name, plane=round(setup.surfaced.plane, 4))
        return outcome

    def may_run(self, setup: PlannedSetup, program: ProgramFile) -> None:
        """Raise OperatorError when something bars this program: a stop, a lost axis, another tool in the collet."""
        if self.plan.stops:
            raise OperatorError(f"Not run: {self.plan.stops[0].code} still stands. Mend it first.")
        corners = measured_corners(self.journal, self.plan.job) if setup.carves else ()
        planned = float(setup.start.z.max())
        if corners and abs(sum(corners) / len(corners) - planned) > OFF_PLAN:
            raise OperatorError(
                f"Not run: the board measures {sum(corners) / len(corners):.2f} mm after its second face and {planned:.2f} mm was "
                "planned. Plan again first."
            )
        axes = known_axes(self.journal, setup)
        if axes.tool != program.tool.number:
            raise OperatorError(f"Not run: tool {program.tool.number} is wanted and tool {axes.tool} is fitted.")
