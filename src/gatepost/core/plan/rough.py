# SPDX-License-Identifier: GPL-3.0-or-later
"""Whether what is carved lies on wood that the surfacing leaves uncut."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from gatepost.core.cache import SMALL, Memory
from gatepost.core.findings import Finding, Fix, Level, Place
from gatepost.core.plan.cuts import Cuts
from gatepost.core.units import area_words, mm

TOUCHED, CARVED = 0.02, 0.05  # mm that a place must have been lowered by
WORTH = 25.0  # mm²; less is not told


def rough_under(cuts: Sequence[Cuts], memory: Memory) -> list[Finding]:
    """Where carving meets wood that stays as it was sawn, on each face that is made flat."""
    key = tuple(
        (
            c.draft.setup.name,
            c.draft.setup.up,
            c.draft.setup.spin,
            c.draft.start_key,
            tuple(c.keys.values()),
            c.draft.placed.to_bed,
        )
        for c in cuts
    )
    return memory.get("rough under", key, lambda: _rough_under(cuts), SMALL)


def _rough_under(cuts: Sequence[Cuts]) -> list[Finding]:
    said: list[Finding] = []
    for flat in (c for c in cuts if c.draft.laid.flattens and c.operations):
        up, start, end = flat.draft.laid.up, flat.draft.start, flat.operations[-1].after
        rough = end.wood & (start.z - end.z < TOUCHED)
        if not rough.any():
            continue
        for c in (c for c in cuts if c.draft.laid.up == up and not c.draft.laid.flattens and c.operations):
            before, after = c.draft.start, c.operations[-1].after
            if before.z.shape != rough.shape or c.draft.setup.spin != flat.draft.setup.spin:
                continue
            both = rough & before.wood & (before.z - after.z > CARVED)
            area = float(both.sum()) * after.cell**2
            if area < WORTH:
                continue
            rows, columns = np.nonzero(both)
            n = int(np.argmax(end.z[rows, columns] * -1.0))  # the deepest hollow under it
            x, y = after.x0 + after.cell * int(columns[n]), after.y0 + after.cell * int(rows[n])
            deep = float(end.z.max() - end.z[rows[n], columns[n]])
            message = (
                f"{area_words(area)} of what is carved lies on wood that the surfacing leaves as it was, up to {mm(deep, 2)} below the face, at X {mm(x)}, "
                f"Y {mm(y)} of the board: strokes come out narrower there, or not at all. Run all passes, go deeper, or move the lettering."
            )
            fixes = (Fix("set surfacing", {"stop_after": 0, "target_thickness": 0.0}, "Surface all of it clean"),)
            place = Place(*c.draft.placed.to_bed.xy(x, y), float(end.z.max()))
            said.append(
                Finding(
                    "surface.rough-under",
                    Level.CARE,
                    "surface",
                    message,
                    flat.draft.setup.name,
                    fixes=fixes,
                    place=place,
                )
            )
    return said
