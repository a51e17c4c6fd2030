# SPDX-License-Identifier: GPL-3.0-or-later
"""Without a link: the operator runs the files on their own control, types read-outs and ticks steps."""

from __future__ import annotations

from gatepost.core.errors import OperatorError
from gatepost.core.findings import Level
from gatepost.core.job.journal import Journal
from gatepost.core.plan.planned import PlannedSetup
from gatepost.core.plan.result import Plan
from gatepost.core.run.steps import Step, ticked
from gatepost.core.tolerances import PUSHED
from gatepost.core.units import mm
from gatepost.core.zero.recover import sensed
from gatepost.core.zero.trust import trust
from gatepost.core.zero.ways import SQUARED_IN, edge_touches, skew, z_zero
from gatepost.machine.conduct import SIZE_OFF, SLIPPED, WITNESS, known_axes, who
from gatepost.machine.keeping import Rows, row_of, scar_the_bed
from gatepost.machine.touching import FoundZero, found_from, pin_of, size_off

CORNERS = ("front left", "front right", "back right", "back left")


class CheckFailed(OperatorError):
    """A check by hand has found something. journal: with what it found, to be kept though the step is not ticked."""

    def __init__(self, words: str, journal: Journal) -> None:
        super().__init__(words)
        self.journal = journal


def wanted(step: Step) -> tuple[str, ...]:
    """What is typed for a step: read-outs by name."""
    if step.reads:
        return step.reads
    return {
        "run": ("minutes it took",), "measure": CORNERS, "again": ("Z at contact, on the machine",),
        "witness": ("the mark lies right of the tip by", "and back of it by"),
    }.get(step.kind, ())  # fmt: skip


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
    elif step.key.startswith("rock"):
        journal = journal.add(at, "rocked", name, answer="still")
    elif step.kind == "home":
        journal = journal.add(at, "homed", name)
    elif step.kind == "square":
        journal = _squared(setup, journal, typed, at)
    elif step.kind == "warm":
        journal = journal.add(at, "warmed", name)
    elif step.kind == "zero xy":
        found = _across(plan, setup, axes.tool, typed)
        for f in found:
            journal = journal.add(
                at,
                "touched",
                name,
                axis=f.axis,
                machine=f.machine,
                tool=axes.tool or 0,
                way=setup.setup.zero.xy_way,
                by=who(),
            )
    elif step.kind == "sensor":
        journal, _ = sensed(journal, name, setup.setup.zero.z == "bed", step.tool or 0, typed[0], at)
    elif step.kind == "witness":
        journal = journal.add(at, "witness", name, x=typed[0], y=typed[1])
        if max(abs(v) for v in typed) > WITNESS:
            raise CheckFailed(
                "The witness mark is missed: the board has moved, or steps were lost. Home, look again, then touch off anew.",
                journal.add(at, "bumped", name),
            )
    elif step.kind == "again":
        journal = _again(setup, step, journal, typed[0], at)
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
            by=who(),
        )
    elif step.kind == "measure":
        if any(not 0.5 < v < 1000.0 for v in typed):
            raise OperatorError("Type the thickness at each corner, as the calipers show it.")
        corners: dict[str, float | str] = {f"corner{i}": v for i, v in enumerate(typed, start=1)}
        journal = journal.add(at, "measured", name, **corners)
    elif step.kind == "run":
        journal = _ran(plan, setup, step, journal, typed[0], at, rows, path)
    return ticked(journal, at, step)


def _squared(setup: PlannedSetup, journal: Journal, typed: tuple[float, ...], at: str) -> Journal:
    """Two places of an edge, or of a line, as read: where they differ the board is to be pushed."""
    long = setup.blank.across[0] >= setup.blank.across[1]
    apart = (1.0 - 2.0 * SQUARED_IN) * max(setup.blank.across)
    first, second = typed
    told = skew("y" if long else "x", first, second, apart, apart)
    push = told.push.result
    journal = journal.add(at, "squared", setup.name, push=push, degrees=told.degrees.result)
    if push > PUSHED:
        raise CheckFailed(
            f"The board lies {mm(push)} askew over {mm(apart)}: loosen what holds it, push its {'right' if long else 'back'} end {told.way} by "
            "that, hold it again, and touch both places once more.",
            journal,
        )
    return journal


def _across(plan: Plan, setup: PlannedSetup, tool: int | None, typed: tuple[float, ...]) -> list[FoundZero]:
    """X0 and Y0 from what was read. Raises OperatorError where the blank is not the size that was measured."""
    zero, blank, m = setup.setup.zero, setup.blank, plan.job.machine
    if zero.xy_way == "pointer":
        return [FoundZero(a, v, 0.0, z_zero(v, "nothing", 0.0)) for a, v in zip("xy", typed)]
    if tool is None:
        raise OperatorError("No tool is fitted yet. Fit it first, then touch off.")
    pin = pin_of(setup.setup, plan.job.tool(tool))
    corner = (setup.corner[0] - m.travel_x, setup.corner[1] - m.travel_y)
    edges = edge_touches(setup.setup, blank.across, corner, 0.0, pin)
    out: list[FoundZero] = []
    for axis in ("x", "y"):
        mine = [(e, c) for e, c in zip(edges, typed) if e.axis == axis]
        out.append(found_from(axis, [e for e, _ in mine], [c for _, c in mine], pin, 0.0))
    off = size_off(out, *blank.across, max(SIZE_OFF, blank.doubt))
    if off:
        raise OperatorError(off)
    return out


def _again(setup: PlannedSetup, step: Step, journal: Journal, contact: float, at: str) -> Journal:
    """Touched again: where it is off, the bit has slipped or the board has moved, and Z is lost."""
    zero = z_zero(contact, setup.setup.zero.gauge, setup.setup.zero.gauge_thickness).result
    before = trust(journal.standing(), setup.name, setup.setup.zero.z == "bed").z.machine
    if before is not None and abs(zero - before) > SLIPPED:
        raise CheckFailed(
            f"Touched again, Z0 is {zero - before:+.2f} mm off: the bit has slipped in its collet, or the board has moved. Grip it again, "
            "then touch off.",
            journal.add(at, "fitted", setup.name, tool=step.tool or 0),
        )
    return journal


def _ran(
    plan: Plan, setup: PlannedSetup, step: Step, journal: Journal, minutes: float, at: str, rows: Rows, path: str
) -> Journal:
    if any(f.level is Level.STOP for f in plan.findings):
        raise OperatorError(f"Not run: {plan.stops[0].code} still stands. Mend it first.")
    known_axes(journal, setup)
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
    journal = journal.add(
        at, "run started", setup.name, program=step.program, fingerprint=program.fingerprint, by="hand"
    )
    journal = journal.add(at, "run ended", setup.name, program=step.program, outcome="done", minutes=minutes)
    if not any(name.startswith("surfacing") for name in program.operations):
        return journal
    return journal.add(at, "surfaced", setup.name, plane=round(setup.surfaced.plane, 4))
