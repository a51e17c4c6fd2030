# SPDX-License-Identifier: GPL-3.0-or-later
"""Without a link: the operator runs the files on their own control, types read-outs and ticks steps."""

from __future__ import annotations

from gatepost.core.errors import OperatorError
from gatepost.core.job.journal import Journal
from gatepost.core.plan.oldcuts import cut_where
from gatepost.core.plan.planned import PlannedSetup
from gatepost.core.plan.result import Plan
from gatepost.core.run.step import Step, ticked
from gatepost.core.units import mm
from gatepost.core.zero.recover import sensed, sensed_off
from gatepost.core.zero.trust import SPREAD_LIMIT, trust, where
from gatepost.core.zero.ways import SQUARED_IN, FoundZero, edge_touches, skew, spread, square_within, z_zero
from gatepost.machine.failures import Questioned
from gatepost.machine.keeping import Rows, knowingly, row_of, scar_the_bed, timed
from gatepost.machine.standing_checks import (
    FAR,
    FAR_ACROSS,
    SIZE_OFF,
    SLIPPED,
    CheckFailed,
    barred,
    deep_enough,
    expected_zero,
    fitted,
    keeping_zero,
    known_axes,
    known_zero,
    laying,
    looked_at,
    squared_up,
    touched_with,
    who,
)
from gatepost.machine.steps.marking import by_marks, marked_by_hand
from gatepost.machine.steps.proving import looked_over, ring_measured, taken
from gatepost.machine.touching import found_from, pin_of, size_off

CORNERS = ("front left", "front right", "back right", "back left")


def wanted(step: Step) -> tuple[str, ...]:
    """What is typed for a step: read-outs by name."""
    if step.reads:
        return step.reads
    return {
        "run": ("minutes it took",), "measure": CORNERS, "again": ("Z at contact, on the machine",),
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
    sure: bool = False,
) -> Journal:
    """Write a step done by hand into the journal; a run gets its shop row. sure: whether read-outs that were asked about are right all the
    same. Raises OperatorError; Questioned where one is far from what was expected."""
    if len(typed) != len(wanted(step)):
        raise OperatorError("Type the read-outs first.")
    if step.kind == "run":
        if plan.stops:
            raise OperatorError(f"Not run: {plan.stops[0].message}")
        known_axes(journal, plan.job, setup)
    barred(journal, plan, setup, step)
    name = setup.name
    axes = trust(journal.standing(), where(plan.job, setup.setup))
    if step.kind == "fit" and step.tool is not None:
        journal = journal.add(at, "fitted", name, tool=step.tool, length=plan.job.tool(step.tool).length)
    elif step.kind in ("tick", "rock"):
        journal = laying(journal, plan, setup, step, at)
    elif step.kind in ("home", "warm", "jog"):
        journal = journal.add(at, {"home": "homed", "warm": "warmed", "jog": "jogged"}[step.kind], name)  # type: ignore[arg-type]
    elif step.kind == "square":
        journal = _squared(setup, journal, typed, at)
    elif step.kind == "zero xy":
        journal = _zero_across(plan, setup, axes.tool, journal, typed, at, sure)
    elif step.kind == "note":
        journal = journal.add(at, "noted", name, x=typed[0], y=typed[1])
    elif step.kind == "mark":
        journal = marked_by_hand(journal, plan, setup, step, typed, at, sure)
    elif step.kind == "over":
        journal = looked_over(journal, setup, step, (typed[0], typed[1]), at)
    elif step.kind == "ring":
        journal = ring_measured(journal, plan, setup, step, typed, at)
    elif step.kind == "take":
        journal, _ = taken(journal, plan, setup, step, at)
    elif step.kind == "zero found":
        journal, _ = by_marks(journal, plan, setup, at)
    elif step.kind == "zero known":
        journal, _ = known_zero(journal, plan, setup, at)
    elif step.kind == "zero kept":
        journal, _ = keeping_zero(journal, plan, setup, at)
    elif step.kind == "sensor":
        journal = _sensed(plan, setup, step, journal, typed, at, sure)
    elif step.kind == "witness":
        journal = _looked(setup, step, journal, typed, at)
    elif step.kind == "again":
        journal = _again(plan, setup, step, journal, typed[0], at)
    elif step.kind == "zero z":
        journal = _zero_up(plan, setup, step, journal, typed, at, sure)
    elif step.kind == "depth":
        journal = deep_enough(journal, setup, setup.depths[step.tool or 0], typed[0], at)
    elif step.kind == "measure":
        if any(not 0.5 < v < 1000.0 for v in typed):
            raise OperatorError("Type the thickness at each corner, as the calipers show it.")
        corners: dict[str, float | str] = {f"corner{i}": v for i, v in enumerate(typed, start=1)}
        journal = journal.add(at, "measured", name, **corners)
    elif step.kind == "run":
        journal = _ran(plan, setup, step, journal, typed[0], at, rows, path)
    return ticked(journal, at, step)


def _far(plan: Plan, axis: str, got: float, expected: float, limit: float, sure: bool) -> None:
    """Raise OperatorError where a zero can't be on this machine at all, Questioned where it is far from what was expected."""
    m = plan.job.machine
    travel = {"x": m.travel_x, "y": m.travel_y, "z": m.travel_z + m.nose_at_home}[axis]
    name = axis.upper()
    if not -travel - 1.0 <= got <= travel + 1.0:
        raise OperatorError(
            f"{name}0 would be at {mm(got, 2)} on the machine, which has no such place. Type what its display reads."
        )
    if abs(got - expected) > limit and not sure:
        raise Questioned(
            f"{name}0 comes out at {mm(got, 2)} on the machine, and {mm(expected, 2)} was expected: {mm(abs(got - expected), 2)} off. Read it again; if it is right, "
            "press once more."
        )


def _zero_across(
    plan: Plan, setup: PlannedSetup, tool: int | None, journal: Journal, typed: tuple[float, ...], at: str, sure: bool
) -> Journal:
    fitted_tool = plan.job.tool(tool) if tool is not None else None
    found = _across(plan, setup, tool, typed)
    if fitted_tool is not None:
        expected = expected_zero(plan, setup, fitted_tool)
        for f in found:
            _far(plan, f.axis, f.machine, getattr(expected, f.axis), FAR_ACROSS, sure)
    for f in found:
        twice: dict[str, float | str] = {"spread": round(f.spread, 4)} if setup.setup.zero.xy_way != "pointer" else {}
        journal = journal.add(
            at,
            "touched",
            setup.name,
            axis=f.axis,
            machine=f.machine,
            tool=tool or 0,
            way=setup.setup.zero.xy_way,
            by=who(),
            **(touched_with(setup, fitted_tool) if fitted_tool is not None else {}),
            **twice,
        )
    worst = max(f.spread for f in found)
    if worst > SPREAD_LIMIT:
        raise CheckFailed(
            f"The two touches of an edge lie {mm(worst, 2)} apart. Wipe pin and edge, and touch again.", journal
        )
    return journal


def _zero_up(
    plan: Plan, setup: PlannedSetup, step: Step, journal: Journal, typed: tuple[float, ...], at: str, sure: bool
) -> Journal:
    zero, gap = setup.setup.zero, spread(typed)
    found = z_zero(typed[-1], zero.gauge, zero.gauge_thickness).result
    _far(
        plan, "z", found, expected_zero(plan, setup, plan.job.tool(step.tool or 0)).z - setup.lower_at(step), FAR, sure
    )
    journal = journal.add(
        at,
        "touched",
        setup.name,
        axis="z",
        machine=found,
        tool=step.tool or 0,
        gauge=zero.gauge_thickness,
        spread=round(gap, 4),
        by=who(),
    )
    if gap > SPREAD_LIMIT:
        raise CheckFailed(
            f"The two touches lie {mm(gap, 2)} apart. Wipe plate and face, rub raised fibres off, and touch again.",
            journal,
        )
    return journal


def _sensed(
    plan: Plan, setup: PlannedSetup, step: Step, journal: Journal, typed: tuple[float, ...], at: str, sure: bool
) -> Journal:
    """The sensor as read; asked about where the bit sticks out otherwise than entered."""
    number, lengths = step.tool or 0, {t.number: t.length for t in plan.job.tools}
    new, zero = sensed(journal, where(plan.job, setup.setup), number, typed, at)
    off = sensed_off(journal, lengths, number, zero) if zero is not None else ""
    if off and not sure:
        raise Questioned(f"{off} Read it again; if it is right, press once more.")
    return new


def _looked(setup: PlannedSetup, step: Step, journal: Journal, typed: tuple[float, ...], at: str) -> Journal:
    """A look over X0 Y0 or over the witness mark, and before wood is cut how the witness mark lies."""
    journal, words = looked_at(setup, journal, step, typed[:2], at)
    if words:
        raise CheckFailed(words, journal)
    if len(typed) > 2:
        journal = journal.add(at, "noted", setup.name, x=typed[2], y=typed[3])
    return journal


def _squared(setup: PlannedSetup, journal: Journal, typed: tuple[float, ...], at: str) -> Journal:
    """Two places of an edge, or of a line, as read: where they differ the board is to be pushed."""
    long = setup.blank.across[0] >= setup.blank.across[1]
    apart = (1.0 - 2.0 * SQUARED_IN) * max(setup.blank.across)
    first, second = typed
    told = skew("y" if long else "x", first, second, apart, apart)
    push = told.push.result
    journal = journal.add(at, "squared", setup.name, push=push, degrees=told.degrees.result)
    if push > square_within(setup.setup.zero):
        raise CheckFailed(
            f"The board lies {mm(push, 2)} askew over {mm(apart, 2)}: isolate, loosen what holds it, push its {'right' if long else 'back'} end {told.way} by "
            "that, hold it again, and touch both places once more.",
            journal,
        )
    return journal


def _across(plan: Plan, setup: PlannedSetup, tool: int | None, typed: tuple[float, ...]) -> list[FoundZero]:
    """X0 and Y0 from what was read. Raises OperatorError where the blank is not the size that was measured."""
    zero, blank, m = setup.setup.zero, setup.blank, plan.job.machine
    if zero.xy_way == "pointer":
        return squared_up(setup, [FoundZero(a, v, 0.0, z_zero(v, "nothing", 0.0)) for a, v in zip("xy", typed)])
    middle = zero.xy in ("centre", "outline middle")
    if tool is None:
        raise OperatorError("No tool is fitted yet. Fit it first, then touch off.")
    pin = pin_of(setup.setup, plan.job.tool(tool))
    corner = (setup.corner[0] - m.travel_x, setup.corner[1] - m.travel_y)
    edges = edge_touches(setup.setup, blank.across, corner, 0.0, pin)
    out: list[FoundZero] = []
    for axis in ("x", "y"):
        mine = [e for e in edges if e.axis == axis]
        read = typed[:2] if axis == "x" else typed[2:]
        contacts, gap = (read, 0.0) if middle else (read[-1:], spread(read))
        out.append(found_from(axis, mine, contacts, pin, gap))
    off = size_off(out, *blank.across, max(SIZE_OFF, blank.doubt))
    if off:
        raise OperatorError(off)
    return squared_up(setup, out)


def _again(plan: Plan, setup: PlannedSetup, step: Step, journal: Journal, contact: float, at: str) -> Journal:
    """Touched again: where it is off, the bit has slipped or the board has moved, and Z is lost."""
    zero = z_zero(contact, setup.setup.zero.gauge, setup.setup.zero.gauge_thickness).result
    before = trust(journal.standing(), where(plan.job, setup.setup)).z.machine
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
    if not 0 < minutes < 10_000:
        raise OperatorError("Type the minutes it took, such as 21.5.")
    program = plan.program(step.program)
    if program is None:
        raise OperatorError(f"The plan has no program {step.program} any more.")
    fitted(known_axes(journal, plan.job, setup), program)
    zeros = {
        str(e.data["axis"]): float(e.data["machine"])
        for e in journal.standing()
        if e.kind == "touched" and e.setup == setup.name
    }
    values = row_of(plan, setup, step.program, "shop", path)
    row = rows.start(**values, zeros=zeros)
    planned = sum(c["planned"] for c in values["cuts"]) or 1.0
    shares = [
        minutes * c["planned"] / planned for c in values["cuts"]
    ]  # one figure was typed: all its cuts were slower alike
    rows.close_run(
        row,
        "done",
        at,
        real_minutes=minutes,
        cuts=timed(values["cuts"], shares),
        marks=knowingly(journal, program.tool),
    )
    scar_the_bed(plan, setup, step.program, at, rows)
    journal = journal.add(
        at,
        "run started",
        setup.name,
        program=step.program,
        fingerprint=program.fingerprint,
        by="hand",
        **({} if step.bare else cut_where(setup, program)),
    )
    journal = journal.add(at, "run ended", setup.name, program=step.program, outcome="done", minutes=minutes)
    if not any(name.startswith("surfacing") for name in program.operations):
        return journal
    return journal.add(at, "surfaced", setup.name, plane=round(setup.surfaced.plane, 4))
