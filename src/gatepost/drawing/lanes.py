# SPDX-License-Identifier: GPL-3.0-or-later
"""The order of operations as lanes over minutes, a lane for each tool."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from gatepost.core.plan.result import Plan
from gatepost.drawing.shapes import Drawing, Shape, box, line, text

LANE = 10.0


def lanes(plan: Plan) -> Drawing:
    """X in minutes from the start, changes counted."""
    swap = plan.job.machine.swap_minutes
    operations = [op for s in plan.setups for op in s.operations]
    tools = list(dict.fromkeys(op.tool.number for op in operations))
    shapes: list[Shape] = []
    at, last, ends = 0.0, None, None
    for op in operations:
        lane = -LANE * tools.index(op.tool.number)
        if last is not None and last != op.tool.number:
            at += swap
            if ends is not None:
                shapes.append(
                    line(np.array([ends, [at - swap / 2, ends[1]], [at - swap / 2, lane], [at, lane]]), "flow")
                )
        minutes = max(op.seconds / 60.0, 0.2)
        shapes.append(box(at, lane - 3.2, at + minutes, lane + 3.2, "lane", f"cut:{op.name}", op.tool.number))
        shapes.append(replace(text(at + minutes / 2, lane, op.name, "lane-text"), key=f"cut:{op.name}"))
        at += minutes
        ends, last = [at, lane], op.tool.number
    total = max(at, 1.0)
    names = {op.tool.number: op.tool.name for op in operations}
    for i, number in enumerate(tools):
        shapes.append(text(-total * 0.02, -LANE * i + 1.6, f"T{number} {names[number]}", "text", "right"))
        shapes.append(
            Shape(
                "line",
                np.array([[-total * 0.2, -LANE * i - 2.6], [-total * 0.02, -LANE * i - 2.6]]),
                "tool-sample",
                index=number,
            )
        )
    step = next(s for s in (1, 2, 5, 10, 20, 30, 60, 120, 600) if total / s <= 12)
    for m in np.arange(0, total + step, step):
        shapes.insert(0, line(np.array([[m, 6.0], [m, -LANE * max(len(tools), 1) + 4]]), "grid"))
        shapes.append(text(float(m), -LANE * max(len(tools), 1) + 2.0, f"{m:.0f}", "muted"))
    words = f"minutes from the start · {plan.order.minutes:.0f} min, {plan.order.changes} tool change{'' if plan.order.changes == 1 else 's'}"
    return Drawing(
        tuple(shapes),
        (-total * 0.26, -LANE * max(len(tools), 1), total * 1.03, 8.0),
        "Order",
        words,
        tall=0.0,
        rulers=False,
    )
