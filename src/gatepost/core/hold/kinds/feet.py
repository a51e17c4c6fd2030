# SPDX-License-Identifier: GPL-3.0-or-later
"""What bolts and screws go into: slots and inserts."""

from __future__ import annotations

import math

from gatepost.core.findings import Finding, Fix, Level, Place
from gatepost.core.hold.kind import STAGE, Dragged, HoldingInputs
from gatepost.core.hold.solids import insert_places
from gatepost.core.job.hold import Screw, Strap
from gatepost.core.units import mm

ON_SLOT = 1.0  # mm by which a bolt may stand beside its slot or insert


def foot(held: HoldingInputs, hold: Strap | Screw) -> list[Finding]:
    """Whether a bolt has something to go into, and whether it goes too far."""
    name, machine = held.setup.name, held.machine
    place = Place(hold.x, hold.y)
    said: list[Finding] = []
    if hold.into == "slot" and machine.slots:
        nearest = min(machine.slots, key=lambda s: abs(s - hold.y))
        if abs(nearest - hold.y) > ON_SLOT:
            message = f"{hold.name}'s bolt is not over a slot: the nearest is at Y {mm(nearest)}."
            fix = Fix("set hold", {"setup": name, "hold": hold.name, "y": nearest}, f"Put {hold.name} over it")
            said.append(Finding("hold.no-slot", Level.STOP, STAGE, message, name, None, (fix,), place, hold.name))
    if hold.into == "insert":
        spots = insert_places(machine.bed)
        if not spots:
            message = f"{hold.name} is to go into an insert, and this bed has none."
            said.append(Finding("hold.no-insert", Level.STOP, STAGE, message, name, place=place, about=hold.name))
        else:
            x, y = min(spots, key=lambda q: math.hypot(q[0] - hold.x, q[1] - hold.y))
            if math.hypot(x - hold.x, y - hold.y) > ON_SLOT:
                message = f"{hold.name} is not over an insert: the nearest is at X {mm(x)}, Y {mm(y)}."
                fix = Fix("set hold", {"setup": name, "hold": hold.name, "x": x, "y": y}, f"Put {hold.name} over it")
                said.append(Finding("hold.no-insert", Level.STOP, STAGE, message, name, None, (fix,), place, hold.name))
    return said


def to_insert(hold: Strap | Screw, to: Dragged) -> tuple[float, float]:
    """The nearest insert; with a small nudge the next one that way."""
    spots = insert_places(to.machine.bed)
    if not spots:
        return to.x, to.y
    near = min(spots, key=lambda q: math.hypot(q[0] - to.x, q[1] - to.y))
    if near == (hold.x, hold.y) and (to.dx or to.dy):
        ahead = [q for q in spots if (q[0] - hold.x) * to.dx + (q[1] - hold.y) * to.dy > 1e-9]
        near = min(ahead, key=lambda q: math.hypot(q[0] - hold.x, q[1] - hold.y)) if ahead else near
    return near
