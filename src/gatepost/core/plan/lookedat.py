# SPDX-License-Identifier: GPL-3.0-or-later
"""Places on the board that are looked at or measured when all has run: the witness mark, and how deep each tool cut."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from scipy.ndimage import maximum_filter, minimum_filter

from gatepost.core.blank.top import underside_of
from gatepost.core.cache import SMALL, Memory
from gatepost.core.plan.cuts import Cuts
from gatepost.core.profile import VEES
from gatepost.core.run.step import LIES_ABOUT, Depth
from gatepost.core.wood.field import OUTSIDE, HeightField
from gatepost.core.zero.adviser import Spot
from gatepost.core.zero.datum import CORNERS, datum
from gatepost.core.zero.ways import Budget

LEAST = 0.5  # mm that a cut must be deep, and a floor thick, to be measured
ALLOWED = 0.2  # mm of a depth gauge, and of the top beside the groove
STEP = 0.5  # mm; finer cells are not looked at one by one


def witness(c: Cuts, spots: Sequence[Spot]) -> tuple[float, float] | None:
    """Where the witness mark is, bed XY: the one that was chosen, else X0 Y0 itself where it stays, else a corner that does."""
    setup, to_bed, blank = c.draft.setup, c.draft.placed.to_bed, c.draft.known.job.blank
    zero = setup.zero
    if zero.witness_x is not None and zero.witness_y is not None:
        return to_bed.xy(zero.witness_x, zero.witness_y)
    free = [s for s in spots if s.stays and s.wood and not s.under and s.reached]
    chosen = next((s for s in free if s.chosen), None)
    if chosen is not None:
        return to_bed.xy(*datum(zero, blank).xy)
    corner = next((s for s in free if s.name in CORNERS), None)
    return to_bed.xy(*blank.part(*CORNERS[corner.name])) if corner is not None else None


def depths(c: Cuts, budget: Budget, memory: Memory) -> list[Depth]:
    """Where it is measured how deep each tool cut: in its deepest place that still shows when all is done."""
    if not c.operations:
        return []
    off = budget.cut.worst.result
    near = max(2.0, off + 0.5)
    allowed = budget.deep.worst.result + ALLOWED
    keys = tuple(c.keys[o.name] for o in c.operations)
    found: dict[int, tuple[float, float, float, float]] = memory.get(
        "depths", (c.draft.start_key, keys, round(near, 2), round(off, 2)), lambda: _found(c, near, off), SMALL
    )
    to_bed = c.draft.placed.to_bed
    out: list[Depth] = []
    for number, (x, y, deep, left) in found.items():
        thick = deep < LEAST
        if thick and c.draft.seat is not None:
            continue  # on shims its height is not its thickness
        left -= lifted(c, x, y)
        out.append(Depth(number, x, y, to_bed.xy(x, y), left if thick else deep, thick, near, allowed))
    return out


def lifted(c: Cuts, x: float, y: float) -> float:
    """How far the underside stands off the bed at a place of the board, where that was read."""
    under = underside_of(c.draft.known.job.blank) if c.draft.own else None
    if under is None:
        return 0.0
    return float(under.over(np.array([x]), np.array([y]))[0, 0])


def _found(c: Cuts, near: float, off: float) -> dict[int, tuple[float, float, float, float]]:
    """By tool: a place, how deep it is there under the top about it, and what is left. off: by how much the cut may lie otherwise."""
    start, end = c.draft.start, c.operations[-1].after
    step = max(1, round(STEP / end.cell))
    wide, about = (2 * max(1, round(r / (step * end.cell))) + 1 for r in (near + off, LIES_ABOUT))
    some = np.s_[::step, ::step]  # what is looked at: the rest is left out of all that follows
    left = end.z[some]
    wood = left > OUTSIDE / 2
    z = np.where(wood, left, np.float32(-1e3))
    low = minimum_filter(z, size=wide, mode="constant", cval=-1e3)
    deepest = (low >= LEAST) & (low >= z - 1e-3)  # about itself, and nothing there is open
    before: HeightField = start
    out: dict[int, tuple[float, float, float, float]] = {}
    for op in c.operations:
        after = op.after.z[some]
        cut = (before.z[some] - after > 0.3) & (np.abs(after - left) < 1e-6) & wood
        mine = minimum_filter(cut.astype(np.uint8), size=3, mode="constant") if op.tool.kind not in VEES else cut
        good = mine.astype(bool) & deepest
        if good.any():
            deep = maximum_filter(z, size=about, mode="nearest")
            deep -= low
            deep[~good] = -1.0
            j, i = np.unravel_index(int(np.argmax(deep)), deep.shape)
            x, y = end.x0 + end.cell * step * int(i), end.y0 + end.cell * step * int(j)
            out[op.tool.number] = (float(x), float(y), float(deep[j, i]), float(low[j, i]))
        before = op.after
    return out
