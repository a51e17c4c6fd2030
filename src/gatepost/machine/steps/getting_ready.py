# SPDX-License-Identifier: GPL-3.0-or-later
"""The machine made ready: homed, warmed, jogged, its bit fitted, its zeros known."""

from __future__ import annotations

from gatepost.core.errors import OperatorError
from gatepost.core.plan.planned import PlannedSetup
from gatepost.core.run.step import Step
from gatepost.core.zero.trust import Trust
from gatepost.machine.in_hand import InHand
from gatepost.machine.launch import tool_words
from gatepost.machine.standing_checks import HOME_MISS, JOG, PLAY


def fit(at: InHand, setup: PlannedSetup, step: Step) -> None:
    """The bit of a step into the collet."""
    tool = at.plan.job.tool(step.tool or 0)
    at.session.fit(tool_words(tool))
    at.write(setup, "fitted", tool=tool.number, length=tool.length)


def home(at: InHand, setup: PlannedSetup, step: Step) -> None:
    """Home, and the zeros that are still known sent back. Raises OperatorError where the machine had lost steps."""
    miss = at.session.home()
    at.write(setup, "homed")
    if max(abs(v) for v in miss) > HOME_MISS and step.key != "home":
        at.write(setup, "stalled", why=f"its counting was off by {miss[0]:.2f}, {miss[1]:.2f}, {miss[2]:.2f}")
        at.write(setup, "homed")
        raise OperatorError(
            f"Homed, and its counting was off: X by {miss[0]:.2f}, Y by {miss[1]:.2f}, Z by {miss[2]:.2f} mm. It has lost steps since it "
            "was homed before. Look at what was cut since then, and at the witness mark before going on."
        )
    _zeros_sent_back(at, setup)


def _zeros_sent_back(at: InHand, setup: PlannedSetup) -> None:
    """Zeros that are known after homing, on the machine again: a power cut has taken them. They are no more trusted for that."""
    axes = at.axes(setup)
    known = {
        n: a.machine
        for n, a in (("x", axes.x), ("y", axes.y), ("z", axes.z))
        if a.machine is not None and a.trust is not Trust.LOST
    }
    if known:
        at.session.zero(**known)


def jog(at: InHand, setup: PlannedSetup, step: Step) -> None:
    """A short jog each way, and back: does each axis move the way it should, and come back to where it was from both sides?"""
    tool = at.tool(setup)
    work, m = setup.placed.mark, at.plan.job.machine
    x, y, _ = at.tip_on(tool, *work, 0.0)
    x, y = min(0.0, max(x, -m.travel_x)), min(0.0, max(y, -m.travel_y))
    at.session.jog(x=x, y=y, z=0.0)
    for axis, here in (("x", x), ("y", y)):
        seen = []
        for way in (-1.0, 1.0):
            to = min(0.0, max(here + way * JOG, -(m.travel_x if axis == "x" else m.travel_y)))
            at.session.jog(**{axis: to})
            at.session.jog(**{axis: here})
            seen.append(at.session.sight(*work, 0.0)["xy".index(axis)])
        if abs(seen[1] - seen[0]) > PLAY:
            raise OperatorError(
                f"Coming from the left and from the right, or from the front and the back, {axis.upper()} stands {abs(seen[1] - seen[0]):.2f} mm apart "
                "over the same place: the axis has play. Mend it before anything is cut."
            )
    at.session.jog(z=-JOG)
    at.session.jog(z=0.0)
    at.write(setup, "jogged")


def warm(at: InHand, setup: PlannedSetup, step: Step) -> None:
    """The spindle run warm, speed by speed, as long as the profile says."""
    machine = at.plan.job.machine
    try:
        for rpm in [w.rpm for w in machine.warm] or [machine.rpm_min]:
            at.session.spin(min(max(rpm, machine.rpm_min), machine.rpm_max))
    finally:  # called off half-way too: it does not go on turning
        at.session.spin(0.0)
    at.write(setup, "warmed")
