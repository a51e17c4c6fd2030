# SPDX-License-Identifier: GPL-3.0-or-later
"""What of the board is left on each side of what is cut, and what of that the holds take."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from shapely.geometry import Polygon, box

from gatepost.core.cache import SMALL, Memory
from gatepost.core.findings import Table
from gatepost.core.hold.solids import Solid
from gatepost.core.plan.cuts import Cuts
from gatepost.core.units import mm

CUT = 0.05  # mm that a place must have been lowered by to be cut
SIDES = ("left", "right", "front", "back")


def room_beside(c: Cuts, standing: Sequence[Solid], memory: Memory) -> tuple[Table, ...]:
    """Side by side: from the board's edge to the nearest cut, the cutter's own width in it; how far a hold reaches in; what is left then."""
    d = c.draft
    if d.laid.flattens or not c.operations:
        return ()
    there = memory.get("cut box", (d.start_key, c.keys[c.operations[-1].name]), lambda: _cut_box(c), SMALL)
    if there is None:
        return ()
    wood = d.known.wood.outline
    (x0, y0, x1, y1), (a0, b0, a1, b1) = wood.bounds, there
    gaps = (a0 - x0, x1 - a1, b0 - y0, y1 - b1)
    back = d.placed.to_bed.inverse()
    reach = _reach([back.area(s.outline) for s in standing], wood, there)
    out = [("side", "to the cut", "a hold reaches in", "left")]
    for name, gap, held in zip(SIDES, gaps, reach):
        out.append((name, mm(gap, 1), mm(held, 1) if held else "–", mm(gap - held, 1)))
    return ((f"Room beside what is cut, {d.setup.name}", tuple(out)),)


def _cut_box(c: Cuts) -> tuple[float, float, float, float] | None:
    """The box of all that is cut, on the board as it lies; nothing where nothing is."""
    start, end = c.draft.start, c.operations[-1].after
    cut = start.wood & (start.z - end.z > CUT)
    rows, columns = np.flatnonzero(cut.any(axis=1)), np.flatnonzero(cut.any(axis=0))
    if not len(rows):
        return None
    half = 0.5 * start.cell
    a0, a1 = (start.x0 + start.cell * int(columns[i]) + s * half for i, s in ((0, -1), (-1, 1)))
    b0, b1 = (start.y0 + start.cell * int(rows[i]) + s * half for i, s in ((0, -1), (-1, 1)))
    return a0, b0, a1, b1


def _reach(holds: Sequence[Polygon], wood: Polygon, cut: tuple[float, float, float, float]) -> tuple[float, ...]:
    """How far holds reach in over each side of the board, beside the box of what is cut."""
    x0, y0, x1, y1 = wood.bounds
    a0, b0, a1, b1 = cut
    far = 1e4
    beside = (box(-far, b0, a0, b1), box(a1, b0, far, b1), box(a0, -far, a1, b0), box(a0, b1, a1, far))
    most = [0.0] * 4
    for hold in holds:
        for k, side in enumerate(beside):
            part = hold.intersection(wood).intersection(side)
            if part.is_empty:
                continue
            left, front, right, behind = part.bounds
            most[k] = max(most[k], (right - x0, x1 - left, behind - y0, y1 - front)[k])
    return tuple(most)
