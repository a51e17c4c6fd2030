# SPDX-License-Identifier: GPL-3.0-or-later
"""The board pushed square."""

from __future__ import annotations

from gatepost.core.errors import OperatorError
from gatepost.core.job.tool import Tool
from gatepost.core.plan.planned import PlannedSetup
from gatepost.core.run.step import Step
from gatepost.core.zero.ways import Skew, line_places, skew, square_touches, square_within
from gatepost.machine.in_hand import InHand
from gatepost.machine.standing_checks import SQUARES
from gatepost.machine.steps.pin import pin_in
from gatepost.machine.touching import skewed


def square(at: InHand, setup: PlannedSetup, step: Step) -> None:
    """The board laid square: touched, or looked at, at two places, and pushed until both agree."""
    tool = at.tool(setup)
    for _ in range(SQUARES):
        told = _askew(at, setup, tool)
        at.write(setup, "squared", push=round(told.push.result, 4), degrees=round(told.degrees.result, 4))
        if told.push.result <= square_within(setup.setup.zero):
            return
        mark = setup.placed.mark
        at.session.jog(z=0.0)
        at.session.push(*mark, -told.degrees.result)
    raise OperatorError(
        f"The board still lies {told.push.result:.2f} mm askew over its length after {SQUARES} pushes. Look at what it lies on, then "
        f"push its far end {told.way}."
    )


def _askew(at: InHand, setup: PlannedSetup, tool: Tool) -> Skew:
    """How far the board lies askew, along a line looked at or an edge touched."""
    zero = setup.setup.zero
    if zero.square == "line":
        places = line_places(setup.blank)
        beds = [setup.placed.to_bed.xy(*p) for p in places]
        offs = []
        for bed in beds:
            x, y, _ = at.tip_on(tool, *bed, 0.0)
            at.session.jog(x=x, y=y, z=0.0)
            offs.append(at.session.sight(*bed, zero.eye))
        i = 1 if beds[1][0] - beds[0][0] >= beds[1][1] - beds[0][1] else 0
        apart = beds[1][1 - i] - beds[0][1 - i]
        return skew("xy"[i], offs[0][i], offs[1][i], apart, apart)  # type: ignore[arg-type]
    with pin_in(at, setup, tool) as pin:
        edges = square_touches(setup.setup, setup.blank.across, pin.corner, pin.face, pin.diameter)
        return skewed(at.session, edges, at.travel)[0]
