# SPDX-License-Identifier: GPL-3.0-or-later
"""Where things in a row stand on their face."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from gatepost.core.job.holes import Drilling, HolesFigures
from gatepost.core.job.model import Job, Setup
from gatepost.core.job.operation import Artwork
from gatepost.core.motion import turned_about

Array = NDArray[np.float64]


def row_of(art: Artwork, number: int, pitch: float) -> Array:
    """Middles of so many in a row about the middle of their artwork, (number, 2)."""
    along = (np.arange(number) - 0.5 * (number - 1)) * pitch
    row = np.column_stack([-along if art.mirror else along, np.zeros(number)])
    return np.asarray(turned_about(row, art.turn) + np.array([art.x, art.y]))


@dataclass(frozen=True)
class HoleThere:
    """A hole that is there. x, y: on the face that is up, as it is read; across: its diameter, mm."""

    title: str
    x: float
    y: float
    across: float


def holes_there(job: Job, here: Setup) -> list[HoleThere]:
    """Holes on the face that is up in a setup that are there when it begins: old ones, those that were drilled into it before, and those that came right through
    from behind."""
    before = job.setups[: job.setups.index(here)]
    done = [
        (o.figures.through, i) for s in before for o in s.operations if isinstance(o.figures, Drilling) for i in o.on
    ]
    drilled, through = {i for _, i in done}, {i for right_through, i in done if right_through}
    ever = {i for s in job.setups for o in s.operations if isinstance(o.figures, Drilling) for i in o.on}
    out: list[HoleThere] = []
    for art in job.artwork:
        if not isinstance(art.figures, HolesFigures) or (art.id in ever and art.id not in drilled):
            continue
        behind = art.id in through and {art.face, here.up} == {"front", "back"}
        if art.face == here.up or behind:
            at, called = places(art), art.title or art.id
            for n, (x, y) in enumerate(at.tolist(), start=1):
                title = called if len(at) == 1 else f"{called}, hole {n}"
                out.append(HoleThere(title, job.blank.length - x if behind else x, y, art.figures.across))
    return out


def places(art: Artwork) -> Array:
    """Middles of holes on their face, (n, 2)."""
    figures = art.figures
    assert isinstance(figures, HolesFigures)
    return row_of(art, figures.number, figures.pitch)
