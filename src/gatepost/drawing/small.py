# SPDX-License-Identifier: GPL-3.0-or-later
"""A small bed: the board and some holds, nothing else."""

from __future__ import annotations

from collections.abc import Sequence

from gatepost.core.blank.shape import polygon
from gatepost.core.job.hold import Hold
from gatepost.core.plan.holding_ways import held_in
from gatepost.core.plan.result import Plan
from gatepost.drawing.bed import Shading, bed
from gatepost.drawing.shapes import Drawing, Shape, area

MARGIN = 40.0  # mm
SIGN = ("picture", "wood-plain", "wood-edge")  # roles that a sign is made of


def small_bed(plan: Plan, setup_name: str, holds: Sequence[Hold]) -> Drawing:
    """The board as it lies in a setup, with these holds in the place of its own."""
    planned = plan.setup(setup_name) or plan.setups[-1]
    held = held_in(plan, planned)
    work = planned.placed.to_bed.area(polygon(planned.blank))
    shapes: list[Shape] = area(work, "wood")
    boxes = [work.bounds]
    for hold in holds:
        solids = held.solids(hold)
        for solid in solids:
            shapes += area(solid.outline, solid.look.role)
            boxes.append(solid.outline.bounds)
        kind = held.kind(hold)
        if kind.by == "under":  # tape shows through the board
            shapes += area(kind.bearing(hold, work).intersection(work), "tape")
    x0, y0 = min(b[0] for b in boxes) - MARGIN, min(b[1] for b in boxes) - MARGIN
    x1, y1 = max(b[2] for b in boxes) + MARGIN, max(b[3] for b in boxes) + MARGIN
    return Drawing(tuple(shapes), (x0, y0, x1, y1), rulers=False)


def sign(plan: Plan, shading: Shading) -> Drawing:
    """The finished sign, nothing about it: for cards and rows."""
    planned = plan.carving
    whole = bed(plan, planned.name, "run", -1, unit=plan.job.unit, shading=shading)
    x0, y0, x1, y1 = planned.placed.to_bed.area(polygon(planned.blank)).bounds
    off = 0.04 * (x1 - x0)
    shapes = tuple(s for s in whole.shapes if s.role in SIGN)
    return Drawing(shapes, (x0 - off, y0 - off, x1 + off, y1 + off), rulers=False)
