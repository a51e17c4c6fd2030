# SPDX-License-Identifier: GPL-3.0-or-later
"""Without a link: the operator runs the files on their own control, types read-outs and ticks steps."""

from __future__ import annotations

from gatepost.core.errors import OperatorError
from gatepost.core.findings import Level
from gatepost.core.job.journal import Journal
from gatepost.core.planned import Plan, PlannedSetup
from gatepost.core.run.steps import Step
from gatepost.core.zero.trust import trust
from gatepost.core.zero.ways import z_zero
from gatepost.machine.keeping import Rows, row_of, scar_the_bed

CORNERS = ("front left", "front right", "back right", "back left")


def wanted(step: Step) -> tuple[str, ...]:
    """What is typed for a step: read-outs by name."""
    return {
        "zero xy": ("X on the machine", "Y on the machine"),
        "zero z": ("Z at contact, on the machine",),
        "run": ("minutes it took",),
        "measure": CORNERS,
    }.get(step.kind, ())


def tick(
    plan: Plan,
    setup: PlannedSetup,
    step: Step,
    journal: Journal,
    typed: tuple[float, ...],
    at: str,
    rows: Rows,
    path: str,
) -> Journal:
    """Write a step done by hand into the journal; a run gets its shop row. Raises OperatorError."""
    if len(typed) != len(wanted(step)):
        raise OperatorError("Type the read-outs first.")
    name = setup.name
    axes = trust(journal.standing(), name, setup.setup.zero.z == "bed")
    if step.kind == "fit" and step.tool is not None:
        journal = journal.add(at, "fitted", name, tool=step.tool, length=plan.job.tool(step.tool).length)
    elif step.key == "turn":
        journal = journal.add(at, "turned", name)
    elif step.kind == "home":
        journal = journal.add(at, "homed", name)
    elif step.kind == "warm":
        journal = journal.add(at, "warmed", name)
    elif step.kind == "zero xy":
        for axis, value in zip("xy", typed):
            journal = journal.add(at, "touched", name, axis=axis, machine=value, tool=axes.tool or 0)
    elif step.kind == "zero z":
        zero = z_zero(typed[0], setup.setup.zero.gauge, setup.setup.zero.gauge_thickness)
        journal = journal.add(
            at,
            "touched",
            name,
            axis="z",
            machine=zero.result,
            tool=step.tool or 0,
            gauge=setup.setup.zero.gauge_thickness,
        )
    elif step.kind == "measure":
        if any(not 0.5 < v < 1000.0 for v in typed):
            raise OperatorError("Type the thickness at each corner, as the calipers show it.")
        corners: dict[str, float | str] = {f"corner{i}": v for i, v in enumerate(typed, start=1)}
        journal = journal.add(at, "measured", name, **corners)
    elif step.kind == "run":
        journal = _ran(plan, setup, step, journal, typed[0], at, rows, path)
    return journal.add(at, "ticked", name, step=step.key)


def _ran(
    plan: Plan, setup: PlannedSetup, step: Step, journal: Journal, minutes: float, at: str, rows: Rows, path: str
) -> Journal:
    if any(f.level is Level.STOP for f in plan.findings):
        raise OperatorError(f"Not run: {plan.stops[0].code} still stands. Mend it first.")
    if not 0 < minutes < 10_000:
        raise OperatorError("Type the minutes it took, such as 21.5.")
    program = plan.program(step.program)
    if program is None:
        raise OperatorError(f"The plan has no program {step.program} any more.")
    zeros = {
        str(e.data["axis"]): float(e.data["machine"])
        for e in journal.standing()
        if e.kind == "touched" and e.setup == setup.name
    }
    row = rows.start(**row_of(plan, setup, step.program, "shop", path), zeros=zeros)
    rows.close_run(row, "done", at, real_minutes=minutes)
    scar_the_bed(plan, setup, step.program, at, rows)
    journal = journal.add(at, "run started", setup.name, program=step.program, plan=plan.fingerprint, by="hand")
    journal = journal.add(at, "run ended", setup.name, program=step.program, outcome="done", minutes=minutes)
    if not any(name.startswith("surfacing") for name in program.operations):
        return journal
    return journal.add(at, "surfaced", setup.name, plane=round(setup.surfaced.plane, 4))
