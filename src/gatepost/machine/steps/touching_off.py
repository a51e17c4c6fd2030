# SPDX-License-Identifier: GPL-3.0-or-later
"""X, Y and Z touched off."""

from __future__ import annotations

from gatepost.core.errors import OperatorError
from gatepost.core.job.tool import Tool
from gatepost.core.plan.planned import PlannedSetup
from gatepost.core.run.step import Step
from gatepost.core.zero.recover import sensed, sensed_off
from gatepost.core.zero.trust import SPREAD_LIMIT, where
from gatepost.core.zero.ways import FoundZero, edge_touches
from gatepost.machine.in_hand import InHand
from gatepost.machine.standing_checks import (
    FAR,
    FAR_ACROSS,
    SIZE_OFF,
    SLIPPED,
    expected_zero,
    keeping_zero,
    known_zero,
    now,
    squared_up,
    touched_with,
    who,
)
from gatepost.machine.steps.pin import pin_in
from gatepost.machine.touching import as_it_stands, by_edges, by_eye, size_off, upright


def zero_xy(at: InHand, setup: PlannedSetup, step: Step) -> None:
    """X0 and Y0 found over a mark or by edges, and set. Raises OperatorError where they come out far from where they are drawn."""
    tool = at.tool(setup)
    zero, blank, work = setup.setup.zero, setup.blank, setup.placed.mark
    if zero.xy_way == "pointer":
        x, y, _ = at.tip_on(tool, *work, 0.0)
        found = as_it_stands(at.session) if at.here else by_eye(at.session, (x, y), work, zero.eye)
    else:
        with pin_in(at, setup, tool) as pin:
            edges = edge_touches(setup.setup, blank.across, pin.corner, pin.face, pin.diameter)
            found = by_edges(at.session, edges, pin.diameter, at.travel)
    off = size_off(found, *blank.across, max(SIZE_OFF, blank.doubt))
    if off:
        raise OperatorError(off)
    found = squared_up(setup, found)
    expected = expected_zero(at.plan, setup, tool)
    for f in found:
        far = abs(f.machine - getattr(expected, f.axis))
        if far > FAR_ACROSS:
            raise OperatorError(
                f"{f.axis.upper()}0 comes out {far:.1f} mm from where it is drawn. Is the board where it is meant to lie, and is it this corner? Nothing is set."
            )
    at.session.zero(**{f.axis: f.machine for f in found})
    for f in found:
        _write_touch(at, setup, tool, f, {"way": zero.xy_way, **touched_with(setup, tool)})


def zero_kept(at: InHand, setup: PlannedSetup, step: Step) -> None:
    """X0 and Y0 set by those of the setup before."""
    at.journal, found = keeping_zero(at.journal, at.plan, setup, now())
    at.session.zero(**found)


def zero_known(at: InHand, setup: PlannedSetup, step: Step) -> None:
    """X0 and Y0 set by where a known edge has the work."""
    at.journal, found = known_zero(at.journal, at.plan, setup, now())
    at.session.zero(**found)


def zero_z(at: InHand, setup: PlannedSetup, step: Step) -> None:
    """Z0 touched off twice, and set. Raises OperatorError where it comes out far from what was expected, or the touches apart."""
    tool = at.plan.job.tool(step.tool or 0)
    found = _touch_z(at, setup, step, tool)
    expected = expected_zero(at.plan, setup, tool).z - setup.lower_at(step)
    if abs(found.machine - expected) > FAR:
        raise OperatorError(
            f"Z0 comes out at {found.machine:.2f} on the machine, and {expected:.2f} was expected: {abs(found.machine - expected):.2f} mm off. Is it the right bit, "
            f"does it stick {tool.length:.2f} mm out, is the plate the one that was entered? Nothing is set."
        )
    at.session.zero(z=found.machine)
    _write_touch(at, setup, tool, found, {"gauge": setup.setup.zero.gauge_thickness})
    if found.spread > SPREAD_LIMIT:
        raise OperatorError(
            f"The two touches lie {found.spread:.2f} mm apart. Wipe plate and face, rub raised fibres off, and touch again."
        )


def again(at: InHand, setup: PlannedSetup, step: Step) -> None:
    """Z touched again with the same bit: has it slipped in its collet?"""
    tool = at.plan.job.tool(step.tool or 0)
    found = _touch_z(at, setup, step, tool)
    before = at.axes(setup).z.machine
    if before is not None and abs(found.machine - before) > SLIPPED:
        at.write(setup, "fitted", tool=tool.number, length=tool.length)
        raise OperatorError(
            f"Touched again, Z0 is {found.machine - before:+.2f} mm off: the bit has slipped in its collet, or the board has moved. What "
            "was cut since is that much too deep or too shallow. Grip it again, then touch off."
        )


def sensor(at: InHand, setup: PlannedSetup, step: Step) -> None:
    """The fixed sensor: with the first tool it is noted how high it stands by it, later tools take Z0 by the difference."""
    m, tool = at.plan.job.machine, at.plan.job.tool(step.tool or 0)
    if m.sensor is None:
        raise OperatorError("This machine has no sensor in its profile.")
    x, y, z = at.tip_on(tool, m.sensor.x, m.sensor.y, m.sensor.height)
    found = upright(at.session, x, y, z, "nothing", m.sensor.height, deeper=20.0)
    journal, zero = sensed(at.journal, where(at.plan.job, setup.setup), tool.number, found.contacts, now())
    lengths = {t.number: t.length for t in at.plan.job.tools}
    off = sensed_off(at.journal, lengths, tool.number, zero) if zero is not None else ""
    if off:
        raise OperatorError(off)
    at.journal = journal
    if zero is not None:
        at.session.zero(z=zero)


def _touch_z(at: InHand, setup: PlannedSetup, step: Step, tool: Tool) -> FoundZero:
    touch = setup.touch_of(step)
    zero = setup.setup.zero
    gauge = zero.gauge_thickness
    x, y, z = at.tip_on(tool, touch.x, touch.y, touch.height + gauge)
    return upright(at.session, x, y, z, zero.gauge, gauge)


def _write_touch(at: InHand, setup: PlannedSetup, tool: Tool, f: FoundZero, more: dict[str, float | str]) -> None:
    told = {"axis": f.axis, "machine": round(f.machine, 4), "tool": tool.number, "spread": round(f.spread, 4)}
    at.write(setup, "touched", **told, by=who(), **more)
