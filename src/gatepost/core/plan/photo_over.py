# SPDX-License-Identifier: GPL-3.0-or-later
"""What a photo of the finished piece is laid over: the piece as it was planned, and all that is carved in its face."""

from __future__ import annotations

from dataclasses import dataclass

import shapely

from gatepost.core.carve.lettering import Lettering
from gatepost.core.carve.paths import plate_outline
from gatepost.core.carve.sunk_report import LaidShape
from gatepost.core.errors import OperatorError
from gatepost.core.geometry.outline import Area
from gatepost.core.plan.planned import PlannedSetup
from gatepost.core.plan.result import Plan

LEAST = 20.0  # mm² of a shape that can be made out


@dataclass(frozen=True)
class PieceFace:
    """size: of the rectangle about the piece, mm; shapes: what is carved in it, by name, mm from its front left corner as one reads it."""

    size: tuple[float, float]
    shapes: tuple[tuple[str, Area], ...]


def face_of(plan: Plan, name: str) -> PieceFace:
    """The face that is carved in a setup. Raises OperatorError where nothing is."""
    setup = plan.setup(name)
    if setup is None:
        raise OperatorError("There is no such setup any more.")
    shapes: list[tuple[str, Area]] = []
    for operation in setup.setup.operations:
        made = plan.made.get(operation.id)
        if isinstance(made, Lettering):
            shapes += [(letter.name, letter.outline()) for letter in made.letters]
        elif isinstance(made, LaidShape):
            shapes.append((operation.title or operation.id, made.top))
    shapes = [(n, s) for n, s in shapes if s.area >= LEAST]
    if not shapes:
        raise OperatorError("Nothing is carved in this setup that a photo could show.")
    x0, y0, x1, y1 = _piece(plan, setup).bounds
    return PieceFace(
        (float(x1 - x0), float(y1 - y0)), tuple((n, shapely.affinity.translate(s, -x0, -y0)) for n, s in shapes)
    )


def _piece(plan: Plan, setup: PlannedSetup) -> Area:
    """What is cut out about the carving on the same face, or the whole board, as it is read."""
    for other in (setup, *plan.setups):
        plates = [plan.job.cut_out(o) for o in other.setup.operations] if other.setup.up == setup.setup.up else []
        kept = [plate_outline(p) for p in plates if p is not None and p.side != "inside"]
        if kept:
            return shapely.union_all(kept)
    return setup.face_outline
