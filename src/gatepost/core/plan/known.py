# SPDX-License-Identifier: GPL-3.0-or-later
"""What is known before any setup is planned: the board as it is laid, what is asked for, what surfacing comes to."""

from __future__ import annotations

import hashlib
import math
from collections.abc import Sequence
from dataclasses import dataclass, replace

from gatepost.core.blank import thickness as blank_thickness
from gatepost.core.blank.thickness import Thickness
from gatepost.core.cache import Memory
from gatepost.core.job.journal import Journal
from gatepost.core.job.model import Job
from gatepost.core.plan.found import as_it_lies, found_again
from gatepost.core.plan.kinds import Kinds
from gatepost.core.plan.laid import LaidWood, Used, wood_of
from gatepost.core.plan.layout import Laid, Wanted, first_surfacing, layout, made_on
from gatepost.core.plan.proved import moved_by, proving
from gatepost.core.plan.surfaces import surfaced
from gatepost.core.surface.reckoned import SurfacingResult

ROUGHLY, COARSER = 60_000, 12.0  # cells of a first look, and how much less finely its outlines are followed
CELLS = 1_200_000  # of a plan's height field; finer is asked for by name
MOST_REMEMBERED = 60e6  # bytes of height fields of one kind


@dataclass(frozen=True)
class PlanInputs:
    """What is known of the board as it lies, before a setup is planned. setups: all of the job, as they are asked for."""

    job: Job
    thickness: Thickness
    wood: LaidWood
    setups: tuple[Laid, ...]
    surfaced: SurfacingResult
    cell: float
    coarse: bool
    memory: Memory
    kinds: Kinds


def field_cell(length: float, width: float, cells: int = CELLS) -> float:
    """A round cell size that keeps a board within a number of cells, mm."""
    exact = math.sqrt(length * width / cells)
    return next((c for c in (0.05, 0.1, 0.2, 0.25, 0.4, 0.5, 0.8, 1.0, 2.0) if c >= exact), 4.0)


def know(
    job: Job, memory: Memory, cell: float | None, coarse: bool, kinds: Kinds, journal: Journal | None = None
) -> PlanInputs:
    """journal: by which a piece lies as it was found; cell: of the height fields, mm, or nothing for what suits."""
    cell = cell or field_cell(*job.blank.across, ROUGHLY if coarse else CELLS)
    thick = blank_thickness.thickness(job.blank)
    setups = tuple(_as_found(job, laid, journal or Journal()) for laid in layout(job, kinds))
    setup, wanted = first_surfacing(setups)
    made = made_on(setups, "front")
    wood = wood_of(job, wanted, thick.mean, Used(made), memory)
    flat = surfaced(job, setup, wanted, wood, finest(made, coarse, memory), memory)
    return PlanInputs(job, thick, wood, setups, flat, cell, coarse, memory, kinds)


def _as_found(job: Job, laid: Laid, journal: Journal) -> Laid:
    found = found_again(job, laid.setup, journal)
    setup = as_it_lies(job, laid.setup, found.move) if found is not None and found.stands else laid.setup
    moved = moved_by(journal, setup.name)
    setup = as_it_lies(job, setup, moved)
    return replace(laid, setup=setup, found=found, proving=proving(job, setup, moved, journal))


def finest(made: Sequence[Wanted], coarse: bool, memory: Memory) -> list[tuple[float, float]]:
    """The finest stroke of all that is made on a face, with half the angle of its bit."""
    told = (w.kind.finest(w.figures, w.tools, COARSER if coarse else 1.0, memory) for w in made)
    return [one for one in told if one is not None]


def digest(data: bytes) -> str:
    """Of anything that a result hangs on."""
    return hashlib.sha256(data).hexdigest()


def heavy(cells: float) -> int:
    """How many fields of a size to remember: what memory allows, and at least a plan's own."""
    return int(min(8.0, max(3.0, MOST_REMEMBERED / (4.0 * cells))))
