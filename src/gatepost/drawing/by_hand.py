# SPDX-License-Identifier: GPL-3.0-or-later
"""What stays to be done by hand when the cutters are through, on the bed."""

from __future__ import annotations

from gatepost.core.finish.report import thin_letters
from gatepost.core.plan.planned import PlannedSetup
from gatepost.core.plan.result import Plan
from gatepost.core.units import spell
from gatepost.drawing.shapes import Shape, dot, text

MANY = 60  # places of one kind that are drawn


def by_hand(plan: Plan, setup: PlannedSetup) -> list[Shape]:
    """A ring at each tab and corner, and a red one about each letter that sanding makes too thin."""
    sign = plan.finishing
    if sign is None:
        return []
    shapes: list[Shape] = []
    for item in sign.left:
        if item.setup == setup.name and item.where and item.drawn:
            shapes += [dot(x, y, "touch", size=7.0) for x, y in item.where[:MANY]]
            x, y = item.where[0]
            shapes.append(text(x, y - 14.0, spell(item.what.split(",")[0], plan.job.unit), "touch-text"))
    return shapes + [dot(x, y, "bad", size=12.0) for x, y in thin_letters(sign, setup.name)]
