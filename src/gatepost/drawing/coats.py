# SPDX-License-Identifier: GPL-3.0-or-later
"""What a face is coated with before it is carved, as it is seen: its colour, and where it is left."""

from __future__ import annotations

from functools import lru_cache

import numpy as np

from gatepost.core.carve.painted import film_on, painted
from gatepost.core.plan.planned import PlannedSetup
from gatepost.core.plan.result import Plan
from gatepost.core.wood.field import HeightField
from gatepost.drawing.shade import Pixels, thinned

Rgb = tuple[int, int, int]
COLOURS: dict[str, Rgb] = {
    "black": (34, 33, 31), "white": (236, 232, 222), "cream": (226, 208, 165), "deep red": (132, 34, 30), "green": (38, 84, 60),
    "blue": (38, 66, 112), "gold": (192, 148, 58), "grey": (112, 116, 114),
}  # fmt: skip
COVERS = 215  # of 255: the wood's shade is seen through it a little


def film_here(plan: Plan, setup: PlannedSetup) -> float:
    """How thick what is on a setup's face before it is carved is, mm: nothing where it is made flat."""
    up = setup.setup.up
    flat = any(s.flattens and s.setup.up == up for s in plan.setups)
    return 0.0 if flat else film_on(plan.job.blank.coats, up)


def coat_colour(plan: Plan, setup: PlannedSetup) -> str:
    """The colour that the last coat of a setup's face is called by; white where none says one."""
    names = " ".join(c.name.lower() for c in plan.job.blank.coats if c.face == setup.setup.up)
    found = [name for name in COLOURS if name in names]
    return max(found, key=names.rfind) if found else "white"


def paint_left(plan: Plan, setup: PlannedSetup, field: HeightField) -> Pixels | None:
    """The film in its colour where no cutter went deeper than it is thick, clear elsewhere; rows from the back. Nothing where a face has none."""
    film = film_here(plan, setup)
    if film <= 0.0 or setup.flattens or field.z.shape != setup.start.z.shape:
        return None
    return _film(setup.start, field, film, COLOURS[coat_colour(plan, setup)])


@lru_cache(maxsize=10)
def _film(start: HeightField, after: HeightField, film: float, colour: Rgb) -> Pixels:
    left = thinned(painted(start, after, film))
    out = np.zeros((*left.shape, 4), np.uint8)
    out[left] = (*colour, COVERS)
    return np.ascontiguousarray(out[::-1])
