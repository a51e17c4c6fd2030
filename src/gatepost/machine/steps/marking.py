# SPDX-License-Identifier: GPL-3.0-or-later
"""Marks of a piece read one after another, and X0 Y0 set by where it lies."""

from __future__ import annotations

import math

from gatepost.core.errors import OperatorError
from gatepost.core.job.journal import Journal
from gatepost.core.plan.found import found_again
from gatepost.core.plan.planned import PlannedSetup
from gatepost.core.plan.result import Plan
from gatepost.core.register.fit import FitVerdict
from gatepost.core.register.marks import MOST_TURN, ReadMark
from gatepost.core.run.step import Step
from gatepost.core.tolerances import CONTACT
from gatepost.core.units import mm
from gatepost.core.zero.trust import SPREAD_LIMIT, Trust
from gatepost.core.zero.ways import BELOW_TOP, EdgeTouch
from gatepost.machine.failures import Questioned
from gatepost.machine.in_hand import InHand
from gatepost.machine.standing_checks import expected_zero, now, who
from gatepost.machine.steps.pin import pin_in
from gatepost.machine.touching import by_eye, in_hole, one_edge

IN_HOLE = 4.0  # mm that a pin reaches down into a hole
OTHER_HOLE = 0.6  # mm by which a hole may be another width than was entered
FAR_MARK = 15.0  # mm from where it is meant to be at which a mark is asked about
ASIDE, ON = 9.0, 9.0  # mm beside where an edge is meant to be at which a pin begins, and past it that it goes on


def read_mark(at: InHand, setup: PlannedSetup, step: Step) -> None:
    """One mark: a point brought over it, or a pin against it."""
    mark = mark_of(setup, step)
    comes = setup.setup.comes
    tool = at.tool(setup)
    if mark.normal is None:
        x, y, _ = at.tip_on(tool, *mark.drawn, 0.0)
        found = by_eye(at.session, (x, y), mark.drawn, getattr(comes, "eye", setup.setup.zero.eye))
        if mark.across:
            return _in_hole(at, setup, step, mark, (found[0].machine, found[1].machine))
        at.write(setup, "marked", mark=_id(step), x=round(found[0].machine, 4), y=round(found[1].machine, 4))
        return
    with pin_in(at, setup, tool, 2.0 * mark.radius) as pin:
        touch = edge_of(mark, at.travel, pin.face - BELOW_TOP)
        contact, spread = one_edge(at.session, touch, at.travel)
    if spread > SPREAD_LIMIT:
        raise OperatorError(
            f"The two touches of {mark.name} lie {mm(spread, 2)} apart. Wipe pin and edge, and touch again."
        )
    x, y = (contact, touch.along) if touch.axis == "x" else (touch.along, contact)
    at.write(setup, "marked", mark=_id(step), x=round(x, 4), y=round(y, 4), pin=round(2.0 * mark.radius, 4))


def _in_hole(at: InHand, setup: PlannedSetup, step: Step, mark: ReadMark, over: tuple[float, float]) -> None:
    """A hole's middle by a pin against its wall."""
    with pin_in(at, setup, at.tool(setup), getattr(setup.setup.comes, "pin", 0.0)) as pin:
        (x, y), wide, spread = in_hole(at.session, over, mark.across, pin.diameter, pin.face - IN_HOLE)
    if spread > SPREAD_LIMIT:
        raise OperatorError(
            f"The two touches of {mark.name} lie {mm(spread, 2)} apart. Wipe pin and hole, and touch again."
        )
    _as_wide(mark, wide)
    # no wheel's steps here, and the pin's own width falls out between two walls that face each other
    at.write(setup, "marked", mark=_id(step), x=round(x, 4), y=round(y, 4), pin=round(pin.diameter, 4), within=CONTACT)


def _as_wide(mark: ReadMark, wide: float) -> None:
    """Raise OperatorError where a hole is not as wide as it was said to be."""
    if abs(wide - mark.across) > OTHER_HOLE:
        raise OperatorError(
            f"{mark.name} measures {mm(wide, 2)} across, and {mm(mark.across, 2)} was entered: is it this hole? Measure it, enter what it is, or look at it instead (0)."
        )


def edge_of(mark: ReadMark, travel: tuple[float, float], z: float) -> EdgeTouch:
    """An edge as it is touched: along the axis that its normal is nearest to, from outside. z: of the tip, mm."""
    angle = math.radians(mark.normal or 0.0)
    n = (math.cos(angle), math.sin(angle))
    i = 0 if abs(n[0]) >= abs(n[1]) else 1
    way = 1.0 if n[i] > 0.0 else -1.0
    meant = [mark.drawn[k] + mark.radius * n[k] - travel[k] for k in (0, 1)]
    return EdgeTouch(
        "x" if i == 0 else "y",
        "high" if way > 0.0 else "low",
        meant[i] + way * ASIDE,
        meant[i] - way * ON,
        meant[1 - i],
        z,
    )


def zero_found(at: InHand, setup: PlannedSetup, step: Step) -> None:
    """X0 and Y0 where the marks have the piece."""
    if at.replan is not None:
        at.plan = at.replan(at.journal)
    setup = next((s for s in at.plan.setups if s.name == setup.name), setup)
    at.journal, found = by_marks(at.journal, at.plan, setup, now())
    at.session.zero(**found)


def by_marks(journal: Journal, plan: Plan, setup: PlannedSetup, at: str) -> tuple[Journal, dict[str, float]]:
    """The journal with X0 and Y0 set by the marks, and what they are. Raises OperatorError where the marks do not fit, or the plan is of others."""
    told = found_again(plan.job, plan.job.setup(setup.name), journal)
    if told is None or told.fit is None:
        unread = [m.name for i, m in zip(told.ids, told.marks) if i not in told.read] if told is not None else []
        raise OperatorError(f"Read {' and '.join(unread) or 'the marks'} first.")
    if not told.stands:
        if told.fit.verdict is FitVerdict.FITS:
            raise OperatorError(
                f"The piece lies turned by {told.skew + told.fit.turn:.1f}°: lay it straighter, by {MOST_TURN:.0f}° at the most, and read the marks again. Nothing is set."
            )
        raise OperatorError(f"{told.fit.sentence} Nothing is set.")
    if setup.found is None or setup.found.fit is None or setup.found.fit != told.fit:
        raise OperatorError("The plan is being worked out anew by these marks. Once more, when it is there.")
    tool = plan.job.tools[0]  # X and Y are the same with every tool
    zero = expected_zero(plan, setup, tool)
    sure = len(told.marks) > 2 and told.fit.verdict is FitVerdict.FITS
    base = Trust.TRUSTED if sure else Trust.PROVISIONAL
    found = {"x": zero.x, "y": zero.y}
    for axis, value in found.items():
        journal = journal.add(
            at, "touched", setup.name, axis=axis, machine=round(value, 4), way="marks", base=base.value, by=who()
        )
    return journal, found


def mark_of(setup: PlannedSetup, step: Step) -> ReadMark:
    """The mark that a step reads. Raises OperatorError where it is not there any more."""
    if setup.found is None or _id(step) not in setup.found.ids:
        raise OperatorError("This mark is not in the plan any more.")
    return setup.found.marks[setup.found.ids.index(_id(step))]


def _id(step: Step) -> str:
    return step.key.removeprefix("read-").removesuffix("-mark")


def marked_by_hand(
    journal: Journal, plan: Plan, setup: PlannedSetup, step: Step, typed: tuple[float, ...], at: str, sure: bool
) -> Journal:
    """The journal with a mark as it was read off the operator's own control. sure: whether one that was asked about is right. Raises OperatorError;
    Questioned where it lies far from where it is meant to."""
    mark = mark_of(setup, step)
    travel = plan.job.machine.travel_x, plan.job.machine.travel_y
    axes = "XXYY" if mark.across else "XY"
    for axis, got, far in zip(axes, typed, (travel["XY".index(a)] for a in axes)):
        if not -far - 1.0 <= got <= 1.0:
            raise OperatorError(
                f"{axis} {mm(got, 2)} is no place of this machine: type what its display reads in machine coordinates."
            )
    if mark.across:
        pin = float(getattr(setup.setup.comes, "pin", 0.0))
        _as_wide(mark, max(typed[1] - typed[0], typed[3] - typed[2]) + pin)
        typed = (0.5 * (typed[0] + typed[1]), 0.5 * (typed[2] + typed[3]))
    off = math.dist((typed[0] + travel[0], typed[1] + travel[1]), mark.drawn) - mark.radius
    if off > FAR_MARK and not sure:
        raise Questioned(
            f"{mark.name} would lie {mm(off)} from where it is meant to. Read it again; if it is right, press once more."
        )
    more = {"pin": float(getattr(setup.setup.comes, "pin", 0.0))} if mark.normal is not None or mark.across else {}
    return journal.add(at, "marked", setup.name, mark=_id(step), x=typed[0], y=typed[1], **more)
