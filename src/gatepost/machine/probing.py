# SPDX-License-Identifier: GPL-3.0-or-later
"""Probes a face over a session: lift, travel, touch twice, and on; stops when the circuit stays open."""

from __future__ import annotations

from collections.abc import Callable

from gatepost.core.errors import OperatorError
from gatepost.core.job.tool import Tool
from gatepost.core.plan.planned import PlannedSetup
from gatepost.core.plan.result import Plan
from gatepost.core.surface.probing import Places, Probed, ProbeTouch, probed
from gatepost.core.units import mm
from gatepost.machine.failures import MachineRefused
from gatepost.machine.in_hand import InHand
from gatepost.machine.launch import tool_words
from gatepost.machine.session import Session
from gatepost.machine.standing_checks import now

OPEN = 3  # places one after another without contact, where wood is expected: the clip is off, or the wire
QUICK, SLOW = 240.0, 40.0  # mm/min of the first touch and the second
BACK = 2.0  # mm lifted between the two
CLEAR = 10.0  # mm lifted over what was touched before it travels
LEAST = 3.0  # mm above the bed that counts as wood
DEEPER = 2.0  # mm below the bed that the tip looks for it


def fitted_and_probed(
    session: Session, conductor: InHand, plan: Plan, setup: PlannedSetup, tool: Tool, where: Places,
    progress: Callable[[int, int], None], wanted: Callable[[], bool],
) -> Probed:  # fmt: skip
    """Homed where it is not, the probe fitted, and every place probed; all of it goes into the journal. As probe."""
    if session.last.get("state") in ("unhomed", "faulted"):
        session.home()
        conductor.journal = conductor.journal.add(now(), "homed", setup.name)
    s = setup.setup
    if conductor.laid != (s.x, s.y):
        session.lay(s.x - conductor.laid[0], s.y - conductor.laid[1])
        conductor.laid = (s.x, s.y)
    session.fit(tool_words(tool))
    conductor.journal = conductor.journal.add(now(), "fitted", setup.name, tool=tool.number, length=tool.length)
    found = probe(session, plan, setup, tool, where, progress, wanted)
    conductor.journal = conductor.journal.add(
        now(), "probed", setup.name, places=float(len(found.heights)), skipped=float(len(found.skipped)), spread=found.spread
    )  # fmt: skip
    return found


def probe(
    session: Session, plan: Plan, setup: PlannedSetup, tool: Tool, where: Places,
    progress: Callable[[int, int], None] | None = None, wanted: Callable[[], bool] = lambda: True,
) -> Probed:  # fmt: skip
    """Probe every place, the bed first. tool: the probe in the collet; wanted: asked before each place.

    Raises OperatorError when it is stopped, when the circuit stays open, or when too few places are left.
    """
    m = plan.job.machine

    def there(x: float, y: float) -> tuple[float, float]:
        bx, by = setup.at(x, y)
        return bx - m.travel_x, by - m.travel_y

    low = tool.length - m.nose_at_home - DEEPER
    if low < -m.travel_z:
        raise OperatorError(
            f"Tool {tool.number} is {mm(tool.length)} out of the nut and can't reach the bed: {mm(m.nose_at_home - m.travel_z + DEEPER)} at least is wanted."
        )
    session.spin(0.0)
    session.jog(z=0.0)
    x, y = there(*where.bed)
    session.jog(x=x, y=y, z=0.0)
    bed = _twice(session, 0.0, low)
    if bed is None:
        raise OperatorError(
            "The bed was not felt beside the board: the circuit stays open. Look at clip and wire, touch the probe to the "
            "plate by hand, and try again."
        )
    session.jog(z=0.0)
    touches: list[ProbeTouch] = []
    open_for = 0
    high = 0.0  # where the tip comes down from: the top of the travel until a height is known
    for number, (bx, by) in enumerate(where.spots.tolist(), start=1):
        if not wanted():
            session.jog(z=0.0)
            raise OperatorError(f"Stopped after {number - 1} of {len(where.spots)} places. Nothing was changed.")
        x, y = there(bx, by)
        session.jog(x=x, y=y, z=high)
        felt = _twice(session, high, bed[0] + LEAST)
        if felt is None:
            open_for += 1
            touches.append(ProbeTouch(bx, by, None))
            if open_for >= OPEN and all(t.z is None for t in touches[-OPEN:]):
                session.jog(z=0.0)
                raise OperatorError(
                    f"No contact at {OPEN} places one after another, the last at X {mm(bx)}, Y {mm(by)} of the board, where there "
                    "should be wood: the circuit stays open. Look at clip and wire."
                )
        else:
            open_for = 0
            touches.append(ProbeTouch(bx, by, felt[0], felt[1]))
            high = (
                min(0.0, max(high if high < 0.0 else -1e9, felt[0]) + CLEAR)
                if high == 0.0
                else min(0.0, max(high, felt[0] + CLEAR))
            )
        session.jog(z=high)
        if progress is not None:
            progress(number, len(where.spots))
    session.jog(z=0.0)
    return probed(touches, bed[0], LEAST)


def _twice(session: Session, high: float, low: float) -> tuple[float, float] | None:
    """Machine Z of the second touch and the spread of the two; nothing without contact."""
    try:
        first = session.touch(low, QUICK, 0.0)
        session.jog(z=min(high, first + BACK))
        second = session.touch(max(low, first - BACK), SLOW, 0.0)
    except MachineRefused as error:
        if "circuit" not in str(error):
            raise
        return None
    return second, abs(first - second)
