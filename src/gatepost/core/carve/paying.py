# SPDX-License-Identifier: GPL-3.0-or-later
"""Which end mills pay for a floor: minutes of each choice with its changes counted, by the areas that each would take."""

from __future__ import annotations

import math
from collections.abc import Sequence
from itertools import combinations
from typing import Any

from shapely.geometry import MultiPolygon

from gatepost.core.carve.sink import Sink, cusp_step
from gatepost.core.geometry.region import centres, swept
from gatepost.core.job.sunk import Sunk
from gatepost.core.job.tool import Tool

ROUGH = 0.08  # mm: an estimate needs no more
MOST_MILLS = 6  # of the table that are looked at
Choice = tuple[tuple[Tool, ...], float, float]  # end mills, minutes, mm² of the floor that they leave


def choices(sink: Sink, figures: Sunk, table: Sequence[Tool], change: float) -> list[Choice]:
    """One or two end mills of the table, those chosen, or none where a V could do it all, quickest first. change: minutes of a change."""
    floor = sink.floor.simplify(ROUGH)
    chosen = tuple(m.tool for m in sink.mills)
    fit = [t for t in table if t.kind == "flat" and t.cutting_length >= figures.depth]
    fit = [*chosen, *sorted((t for t in fit if t not in chosen), key=lambda t: -t.diameter)][:MOST_MILLS]
    reach: dict[int, tuple[Any, Any]] = {}
    for tool in fit:
        where = centres(floor, tool.diameter / 2.0, ROUGH)
        if not where.is_empty:
            reach[tool.number] = (where, swept(where, tool.diameter / 2.0, ROUGH))
    fit = [t for t in fit if t.number in reach]
    sets = {tuple(sorted(s, key=lambda t: -t.diameter)) for n in (1, 2) for s in combinations(fit, n)}
    if chosen and all(t.number in reach for t in chosen):
        sets.add(chosen)
    if sink.vee is not None:
        sets.add(())
    return sorted(
        (_estimate(s, sink, floor, figures, reach, change) for s in sets),
        key=lambda o: (o[1], [t.number for t in o[0]]),
    )


def _estimate(
    tools: Sequence[Tool], sink: Sink, floor: Any, figures: Sunk, reach: dict[int, tuple[Any, Any]], change: float
) -> Choice:
    taken: Any = MultiPolygon()
    minutes = 0.0
    for tool in tools:
        where, mine = reach[tool.number]
        if not taken.is_empty:
            left = mine.difference(taken)
            where = where.intersection(left.buffer(tool.diameter / 2.0))
        passes = max(1, math.ceil(figures.depth / tool.pass_depth - 1e-9))
        minutes += passes * (where.area / (figures.stepover * tool.diameter) + where.length / 2.0) / tool.feed
        taken = taken.union(mine)
    left = float(floor.difference(taken).area)
    if sink.vee is not None:
        minutes += (sink.floor.length + left / cusp_step(sink.vee, figures.cusp)) / sink.vee.feed
    count = len(tools) + (sink.vee is not None)
    return tuple(tools), minutes + max(0, count - 1) * change, left
