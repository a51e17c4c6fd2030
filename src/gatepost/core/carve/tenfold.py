# SPDX-License-Identifier: GPL-3.0-or-later
"""Depths that look as if the point had been forgotten."""

from __future__ import annotations

from gatepost.core.carve.lettered import STAGE
from gatepost.core.findings import Finding, Fix, Level
from gatepost.core.job.operation import Operation
from gatepost.core.units import mm

FIELDS = {"ground": "depth", "recess": "depth", "gouge": "cleared", "line": "sunk"}  # of each kind, how deep it goes
DEEP = 0.6  # of the wood's thickness from which a depth is asked about
LEAST = 0.3  # mm that a tenth of it must be to be meant


def tenfold(operation: Operation, thickness: float, setup: str) -> list[Finding]:
    """A depth of most of the wood, of which a tenth would be usual: asked about in both units. thickness: mm."""
    field = FIELDS.get(operation.kind, "")
    depth = float(getattr(operation.figures, field, 0.0)) if field else 0.0
    if depth < DEEP * thickness or depth / 10.0 < LEAST:
        return []
    tenth = round(depth / 10.0, 6)
    message = (
        f"{operation.name} is to be {depth:g} mm ({depth / 25.4:.3f} in) deep, of wood {thickness:.1f} mm thick. Is a point missing: "
        f"{tenth:g} mm ({tenth / 25.4:.3f} in)?"
    )
    fix = Fix("set operation", {"operation": operation.id, field: tenth}, f"Make it {mm(tenth)} deep")
    return [Finding("carve.ten-times", Level.CARE, STAGE, message, setup, fixes=(fix,), about=operation.name)]
