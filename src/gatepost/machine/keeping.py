# SPDX-License-Identifier: GPL-3.0-or-later
"""Runs a program with its row in the logbook: written before it starts, closed in ``finally``."""

from __future__ import annotations

import os
import socket
import uuid
from collections.abc import Callable
from dataclasses import dataclass, field
from itertools import zip_longest
from pathlib import Path
from typing import Any, Protocol

from gatepost.core.errors import OperatorError
from gatepost.core.job.journal import Journal
from gatepost.core.job.machine import BedThings
from gatepost.core.job.tool import Tool
from gatepost.core.plan.planned import PlannedSetup, ProgramFile
from gatepost.core.plan.result import Plan
from gatepost.core.run.step import Step
from gatepost.core.tools.forces import chip
from gatepost.core.units import spell
from gatepost.logbook.notebook import RunFile
from gatepost.machine.blocks import blocks_of
from gatepost.machine.conduct import StepRunner
from gatepost.machine.failures import Overdue
from gatepost.machine.standing_checks import now
from gatepost.machine.steps import running


class Rows(Protocol):
    """What a logbook must be able to do here."""

    def start(self, **values: Any) -> int: ...

    def note(self, run: int, **values: Any) -> None: ...

    def close_run(self, run: int, state: str, ended: str, **values: Any) -> None: ...

    def keep(self, kind: str, name: str, data: dict[str, Any], at: str) -> None: ...

    def kept(self, kind: str) -> dict[str, Any]: ...

    def close(self) -> None: ...


def _clock(conductor: StepRunner) -> float:
    """The machine's own clock, s; nought where it tells none."""
    told = conductor.session.last.get("clock", 0.0)
    return float(told) if isinstance(told, (int, float)) else 0.0


def scar_the_bed(plan: Plan, setup: PlannedSetup, program: str, at: str, rows: Rows) -> None:
    """Keep what a shop run has left in the spoilboard with the shop's bed."""
    from gatepost.core.hold.scars import scarred, scars_of

    file, machine = plan.program(program), plan.job.machine
    if file is None:
        return
    if plan.job.made_for == "skim":
        _skimmed(plan, setup, at, rows)
        return
    new = scars_of(setup.on_bed(file), file.tool, at, f"{plan.job.name}, {program}")
    if not new:
        return
    old = rows.kept("bed").get(machine.name)
    bed = BedThings.model_validate(old.data) if old is not None else machine.bed
    rows.keep("bed", machine.name, scarred(bed, new).model_dump(mode="json"), at)


def _skimmed(plan: Plan, setup: PlannedSetup, at: str, rows: Rows) -> None:
    """Keep of the shop's bed that it was skimmed: no scars there any more, and the spoilboard as much thinner, further under the nose. The plan's own machine counts
    from the spoilboard's underside."""
    from shapely import affinity

    from gatepost.core.hold.scars import scar_outline

    machine, left = plan.job.machine, setup.surfaced.plane
    old = rows.kept("bed").get(machine.name)
    bed = BedThings.model_validate(old.data) if old is not None else machine.bed
    ground = affinity.translate(plan.outline, setup.setup.x, setup.setup.y)
    scars = tuple(s for s in bed.scars if not ground.buffer(1.0).contains(scar_outline(s)))
    rows.keep(
        "bed", machine.name, bed.model_copy(update={"scars": scars, "skimmed": at[:16]}).model_dump(mode="json"), at
    )
    kept = rows.kept("machine").get(machine.name)
    if kept is not None:
        thinner = {**kept.data, "spoilboard": round(left, 3), "nose_at_home": round(machine.nose_at_home - left, 3)}
        rows.keep("machine", machine.name, thinner, at)


def knowingly(journal: Journal, tool: Tool) -> list[dict[str, Any]]:
    """What is kept with a run by another bit than is planned, where somebody said so since a bit was fitted last; else nothing."""
    for e in reversed(journal.this_board()):
        if e.kind == "remark" and e.data.get("tool") == tool.number and "instead" in e.data:
            return [
                {
                    "at": e.at,
                    "block": 0,
                    "what": f"cut by {e.data['instead']} in the place of T{tool.number}, knowingly: {e.data.get('why', '')}",
                }
            ]
        if e.kind == "fitted":
            break
    return []


def row_of(plan: Plan, setup: PlannedSetup, program: str, kind: str, path: str) -> dict[str, Any]:
    """What is known of a run before it starts."""
    file = plan.program(program)
    if file is None:
        raise OperatorError(f"The plan has no program {program}.")
    blank, wood = plan.job.blank, plan.job.wood
    return {
        "started": now(), "kind": kind, "job": plan.job.name, "path": path, "setup": setup.name, "program": program,
        "tool": f"T{file.tool.number} {file.tool.name}", "fingerprint": file.fingerprint, "planned_minutes": file.seconds / 60.0,
        "blank": f"{wood.name} {blank.across[0]:.0f} × {blank.across[1]:.0f} × {plan.thickness.mean:.1f} mm",
        "blocks": len(blocks_of(file.text)), "wood": wood.name, "wood_kind": wood.kind, "chip": chip(file.tool).result,
        "metres": file.moves.fed_metres(), "cuts": _cuts_of(setup, file), "machine": plan.job.machine.name,
    }  # fmt: skip


def _cuts_of(setup: PlannedSetup, file: ProgramFile) -> list[dict[str, Any]]:
    """Each cut of a program: its name and kind, how far it is fed, and its planned minutes."""
    known = {op.name: op for op in setup.operations}
    return [
        {"name": name, "kind": known[name].kind if name in known else "", "planned": round(seconds / 60.0, 4), "metres": round(known[name].moves.fed_metres(), 3) if name in known else 0.0}
        for name, seconds in zip(file.operations, file.cut_seconds())
    ]  # fmt: skip


@dataclass
class _Watch:
    """The machine's own clock when each cut of a program ended. ends: their last blocks."""

    ends: tuple[int, ...]
    began: float
    at: list[float] = field(default_factory=list)

    def seen(self, block: int, clock: float) -> None:
        """So many blocks are done."""
        while len(self.at) < len(self.ends) and block >= self.ends[len(self.at)]:
            self.at.append(clock)

    def minutes(self) -> list[float]:
        """Of each cut that ended."""
        return [max(0.0, b - a) / 60.0 for a, b in zip([self.began, *self.at[:-1]], self.at)]


def timed(cuts: list[dict[str, Any]], minutes: list[float]) -> list[dict[str, Any]]:
    """Cuts with what each really took, where that was seen."""
    return [{**c, "real": round(m, 4)} if m is not None else c for c, m in zip_longest(cuts, minutes[: len(cuts)])]


@dataclass
class RunRecorder:
    """Runs steps and keeps the book. rows: the logbook, where it can be had; folder: where runs are noted beside it;
    tell: hears what went wrong with the noting; more: further values of the row; stops: pauses and stops asked for."""

    rows: Rows | None
    conductor: StepRunner
    kind: str = "simulated"
    path: str = ""
    folder: Path | None = None
    tell: Callable[[str], None] = lambda words: None
    more: dict[str, Any] = field(default_factory=dict)
    stops: list[dict[str, str]] = field(default_factory=list)
    overrides: list[dict[str, Any]] = field(default_factory=list)
    marks: list[dict[str, Any]] = field(default_factory=list)
    current: int | None = None
    file: RunFile | None = None

    def asked(self, what: str) -> None:
        """Remember a pause or stop of the run that goes on now."""
        self.stops.append({"at": now(), "what": what})

    def fed(self, percent: float, block: int, of: str = "percent") -> None:
        """Remember an override of the run that goes on now. of: percent, of the feed, or rpm, of the spindle's speed."""
        if self.current is not None or self.file is not None:
            self.overrides.append({"at": now(), "block": block, of: percent})

    def said(self, what: str, block: int) -> bool:
        """Remember a remark of the run that goes on now; gives whether one does."""
        if self.current is None and self.file is None:
            return False
        self.marks.append({"at": now(), "block": block, "what": what})
        return True

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
        running.may_run(conductor, setup, program)
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
        self.stops, self.overrides = [], []
        self.marks = knowingly(conductor.journal, program.tool)
        values = {
            **row_of(conductor.plan, setup, step.program, self.kind, self.path),
            "zeros": zeros, "owner": f"{socket.gethostname()}:{os.getpid()}", "key": uuid.uuid4().hex, **self.more,
        }  # fmt: skip
        self._begin(values)
        state, reason, done = "failed", "", 0
        clock = _clock(conductor)
        watch = _Watch(program.ends, clock)

        def count(n: int, of: int) -> None:
            nonlocal done
            done = n
            watch.seen(n, _clock(conductor))
            if self.file is not None:
                self.file.done(n)
            if progress is not None:
                progress(n, of)

        try:
            outcome = conductor.carry_out(setup, step, count)
            state = outcome if outcome in ("done", "stopped") else "failed"
            if state == "done" and self.kind == "shop" and self.rows is not None:
                scar_the_bed(conductor.plan, setup, step.program, now(), self.rows)
            return outcome
        except OperatorError as error:
            state, reason = (
                "interrupted" if isinstance(error, Overdue) else state,
                spell(str(error), conductor.plan.job.unit),
            )
            raise
        except BaseException as error:
            reason = f"{type(error).__name__}: {str(error)[:300]}"
            raise
        finally:
            minutes = max(0.0, _clock(conductor) - clock) / 60.0
            told = {"cuts": timed(values["cuts"], watch.minutes()), "overrides": self.overrides, "marks": self.marks}
            self._end(
                state, {"real_minutes": minutes, "blocks_done": done, "reason": reason, "stops": self.stops, **told}
            )

    def _begin(self, values: dict[str, Any]) -> None:
        """The row, and the file beside it; a run is noted in one of them at least before anything moves."""
        self.current, trouble = None, ""
        try:
            if self.rows is not None:
                self.current = self.rows.start(**values)
        except OperatorError as error:
            trouble = str(error)
        try:
            self.file = RunFile.begin(self.folder, values, self.current) if self.folder is not None else None
        except OperatorError:
            if self.current is None:
                raise
            self.file = None
        if self.current is None and self.file is None:
            raise OperatorError(f"The run can't be noted anywhere: {trouble or 'there is no logbook'}")
        if trouble:
            self.tell(f"{trouble} The run is noted in {self.folder}, and taken in later.")

    def _end(self, state: str, values: dict[str, Any]) -> None:
        ended = now()
        try:
            if self.current is None or self.rows is None:
                raise OperatorError("There is no row for it.")
            self.rows.close_run(self.current, state, ended, **values)
        except OperatorError as error:
            if self.file is None:
                raise
            self.file.close(state, ended=ended, **values)
            if self.current is not None:
                self.tell(f"{error} How the run ended is noted in {self.folder}, and taken in later.")
        else:
            if self.file is not None:
                self.file.forget()
        self.current, self.file = None, None
