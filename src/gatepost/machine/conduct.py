# SPDX-License-Identifier: GPL-3.0-or-later
"""Carries out the steps at the machine over a session, and says what goes into the journal."""

from __future__ import annotations

from collections.abc import Callable, Iterator

from gatepost.core.errors import OperatorError
from gatepost.core.job.tool import Tool
from gatepost.core.plan.planned import PlannedSetup
from gatepost.core.run.standing import ASKED
from gatepost.core.run.step import Step, ticked
from gatepost.core.units import spell
from gatepost.machine.failures import CalledOff, LinkLost
from gatepost.machine.in_hand import InHand
from gatepost.machine.launch import tool_words
from gatepost.machine.link import State
from gatepost.machine.session import Progress
from gatepost.machine.standing_checks import ZERO_OFF, CheckFailed, barred, homed, now, placed
from gatepost.machine.steps import getting_ready, laying, looking, marking, proving, running, squaring, touching_off

ACTS: dict[str, Callable[[InHand, PlannedSetup, Step], None]] = {
    "tick": laying.tick,
    "rock": laying.tick,
    "measure": laying.measure,
    "depth": laying.depth,
    "fit": getting_ready.fit,
    "home": getting_ready.home,
    "warm": getting_ready.warm,
    "jog": getting_ready.jog,
    "zero xy": touching_off.zero_xy,
    "zero kept": touching_off.zero_kept,
    "zero known": touching_off.zero_known,
    "zero found": marking.zero_found,
    "mark": marking.read_mark,
    "over": proving.over,
    "ring": proving.ring,
    "take": proving.take,
    "zero z": touching_off.zero_z,
    "again": touching_off.again,
    "sensor": touching_off.sensor,
    "square": squaring.square,
    "witness": looking.witness,
    "note": looking.note,
    "look": looking.look,
    "walk": looking.walk,
    "go": looking.go,
}  # by the step's kind; whatever is none of these is a program


def each_step(runner: StepRunner, after: tuple[str, str] | None = None) -> Iterator[tuple[PlannedSetup, Step]]:
    """Every step of every setup in turn, as the plan has them when each is reached: it may be worked out anew in between. after: a setup and a step's key behind which it
    begins."""
    names = [s.name for s in runner.plan.setups]
    for name in names[names.index(after[0]) if after is not None else 0 :]:
        done: set[str] = set()
        if after is not None and name == after[0]:
            keys = [s.key for s in runner.plan.setups[names.index(name)].steps]
            done = set(keys[: keys.index(after[1]) + 1])
        while True:
            setup = next((s for s in runner.plan.setups if s.name == name), None)
            step = next((s for s in setup.steps if s.key not in done), None) if setup is not None else None
            if setup is None or step is None:
                break
            done.add(step.key)
            yield setup, step


class StepRunner(InHand):
    """Carries out steps of one plan."""

    def carry_out(self, setup: PlannedSetup, step: Step, progress: Progress | None = None) -> str:
        """Do one step and write it into the journal, with what the machine itself tells of: a fault, a link that is gone; gives ``done`` or
        ``stopped``. Raises OperatorError."""
        self.journal = placed(self.journal, self.session.last.get("state"), now())
        barred(self.journal, self.plan, setup, step)
        act = ACTS.get(step.kind)
        try:
            if act is not None:
                act(self, setup, step)
                if step.moves and self.session.called_off:
                    raise CalledOff("Stopped as it ended. Begin it again.")
            elif running.run(self, setup, step, progress) == "stopped":
                self.write(setup, "stopped", why="stopped over the link")
                return "stopped"
        except LinkLost as error:
            self.write(setup, "link lost", why=self._short(error))
            raise
        except CheckFailed as error:
            self.journal = error.journal
            raise
        except OperatorError as error:
            if self.session.state is State.FAULTED:
                self.write(setup, "stalled", why=self._short(error))
            raise
        self.journal = ticked(self.journal, now(), step)
        return "done"

    def _short(self, error: OperatorError) -> str:
        """Why something failed, as the journal keeps it."""
        return spell(str(error), self.plan.job.unit)[:300]

    def recover(self, setup: PlannedSetup, tool: Tool, zeros: dict[str, float], why: str) -> None:
        """After a run that ended early: home, the zeros as the log has them. Whoever calls this has looked at the mark and answered for the
        guards; why: their words, kept with the yes to what is known by the log only. Raises OperatorError."""
        if set(zeros) != {"x", "y", "z"}:
            raise OperatorError("The zeros of that run are not all known. Touch off again instead.")
        known = self.axes(setup)
        if known.laid != setup.name:
            self.write(setup, "laid", why="as the run before left it")
        if known.tool != tool.number:
            self.write(setup, "fitted", tool=tool.number, length=tool.length)
        if known.tool != tool.number or not self._stands_as_it_was(zeros):
            self.write(setup, "power cut", why="the run before ended early")
            if self.session.state is not State.FAULTED and self.session.last.get("state") not in ("unhomed", "faulted"):
                self.session.halt()  # an earlier desk may have left it paused, with blocks in its queue
            self.session.fit(tool_words(tool))
            self.session.home()
            self.write(setup, "homed")
            for axis, value in zeros.items():
                self.write(setup, "touched", axis=axis, machine=value, tool=tool.number, way="log")
            self.session.zero(**zeros)
            self.write(setup, "answered", why=why)
        for step in setup.steps:
            asked = step.key.startswith(ASKED)  # before the run that is resumed
            if asked or step.guard in ("bit", "spanners", "away", "rock"):  # asked of whoever goes on, with the mark
                self.journal = ticked(self.journal, now(), step)

    def _stands_as_it_was(self, zeros: dict[str, float]) -> bool:
        """Whether the machine was only stopped: homed since, ready, and with the zeros of the run."""
        self.session.look()
        last = self.session.last
        on_machine = last.get("zero")
        if last.get("state") != "ready" or not homed(self.journal) or not isinstance(on_machine, (list, tuple)):
            return False
        return all(abs(float(there) - zeros[a]) <= ZERO_OFF for a, there in zip("xyz", on_machine))
