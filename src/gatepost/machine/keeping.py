# SPDX-License-Identifier: GPL-3.0-or-later
"""Runs a program with its row in the logbook: written before it starts, closed in ``finally``."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any, Protocol

from gatepost.core.errors import OperatorError
from gatepost.core.planned import Plan, PlannedSetup
from gatepost.core.run.steps import Step
from gatepost.machine.conduct import Conductor, now


class Rows(Protocol):
    """What a logbook must be able to do here."""

    def start(self, **values: Any) -> int: ...

    def note(self, run: int, **values: Any) -> None: ...

    def close_run(self, run: int, state: str, ended: str, **values: Any) -> None: ...

    def close(self) -> None: ...


def row_of(plan: Plan, setup: PlannedSetup, program: str, kind: str, path: str) -> dict[str, Any]:
    """What is known of a run before it starts."""
    file = plan.program(program)
    if file is None:
        raise OperatorError(f"The plan has no program {program}.")
    blank, wood = plan.job.blank, plan.job.wood
    return {
        "started": now(), "kind": kind, "job": plan.job.name, "path": path, "setup": setup.name, "program": program,
        "tool": f"T{file.tool.number} {file.tool.name}", "fingerprint": plan.fingerprint, "planned_minutes": file.seconds / 60.0,
        "blank": f"{wood.name} {blank.length:.0f} x {blank.width:.0f} x {plan.thickness.mean:.1f} mm",
        "blocks": sum(1 for line in file.text.splitlines() if line.strip()),
    }  # fmt: skip


@dataclass
class Keeper:
    """Runs steps and keeps the book. stops: pauses and stops asked for, with their time."""

    rows: Rows
    conductor: Conductor
    kind: str = "simulated"
    path: str = ""
    stops: list[dict[str, str]] = field(default_factory=list)
    current: int | None = None

    def asked(self, what: str) -> None:
        """Remember a pause or stop of the run that goes on now."""
        self.stops.append({"at": now(), "what": what})

    def carry_out(self, setup: PlannedSetup, step: Step, progress: Callable[[int, int], None] | None = None) -> str:
        """Do one step; a program gets its row."""
        if step.kind != "run":
            return self.conductor.carry_out(setup, step)
        return self._run(setup, step, progress)

    def _run(self, setup: PlannedSetup, step: Step, progress: Callable[[int, int], None] | None) -> str:
        conductor = self.conductor
        program = conductor.plan.program(step.program)
        if program is None:
            raise OperatorError(f"The plan has no program {step.program} any more.")
        conductor.may_run(setup, program)
        zeros = {
            n: a.machine
            for n, a in (("x", setup.axes.x), ("y", setup.axes.y), ("z", setup.axes.z))
            if a.machine is not None
        }
        zeros |= {
            str(e.data["axis"]): float(e.data["machine"])
            for e in conductor.journal.standing()
            if e.kind == "touched" and e.setup == setup.name
        }
        self.stops = []
        self.current = self.rows.start(**row_of(conductor.plan, setup, step.program, self.kind, self.path), zeros=zeros)
        state, reason, done = "failed", "", 0
        clock = float(conductor.session.last.get("clock", 0.0))

        def count(n: int, of: int) -> None:
            nonlocal done
            done = n
            if progress is not None:
                progress(n, of)

        try:
            outcome = conductor.carry_out(setup, step, count)
            state = outcome if outcome in ("done", "stopped") else "failed"
            return outcome
        except OperatorError as error:
            reason = str(error)
            raise
        finally:
            minutes = (float(conductor.session.last.get("clock", clock)) - clock) / 60.0
            self.rows.close_run(
                self.current, state, now(), real_minutes=minutes, blocks_done=done, reason=reason, stops=self.stops
            )
            self.current = None
