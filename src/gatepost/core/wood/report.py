# SPDX-License-Identifier: GPL-3.0-or-later
"""What the removal model says of a setup's operations: left, gouged, loose, hit by a rapid."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import shapely

from gatepost.core.findings import Finding, Fix, Level, Place
from gatepost.core.motion import Moves
from gatepost.core.tolerances import CLEAN
from gatepost.core.units import mm
from gatepost.core.wood.field import Cut, HeightField, pieces

DUST = 25.0  # mm²; a smaller loose piece is a chip
GOUGE = 0.1  # mm deeper than asked before it is told
RAPID_BITE = 0.02


@dataclass(frozen=True)
class Grip:
    """A place on the blank where a hold bears, blank XY."""

    hold: str
    x: float
    y: float


def left_standing(after: HeightField, plane: float, setup: str) -> list[Finding]:
    """Wood above a surfaced plane."""
    above = (after.z > plane + CLEAN) & after.wood
    if not above.any():
        message = "By the removal model the whole face is clean after the last pass."
        return [Finding("wood.clean", Level.OK, "surface", message, setup)]
    j, i = np.unravel_index(int(np.argmax(np.where(above, after.z, -np.inf))), after.z.shape)
    area = float(above.sum()) * after.cell**2
    message = f"{area / 100:.1f} cm² stays above the plane, up to {mm(float(after.z[j, i]) - plane)}, at X {mm(after.x0 + i * after.cell)}, Y {mm(after.y0 + j * after.cell)} of the board."
    return [Finding("wood.left", Level.CARE, "surface", message, setup)]


def rapid_hits(moves: Moves, cut: Cut, setup: str, operation: str) -> list[Finding]:
    """Rapids that would plough wood. moves: in the field's frame."""
    hits = np.nonzero(moves.rapid & (cut.deepest > RAPID_BITE))[0]
    if not len(hits):
        return []
    worst = int(hits[np.argmax(cut.deepest[hits])])
    x, y, _ = moves.points[worst + 1]
    message = f"A rapid in {operation} ploughs {mm(float(cut.deepest[worst]))} of wood near X {mm(float(x))}, Y {mm(float(y))} of the board."
    return [Finding("wood.rapid", Level.STOP, "carve", message, setup, about=operation)]


def gouges(
    before: HeightField, after: HeightField, allowed: shapely.Geometry, floor: float, setup: str, operation: str
) -> list[Finding]:
    """Cells cut outside an allowed area, or deeper than a floor."""
    cut = (before.z - after.z > GOUGE) & after.wood
    shapely.prepare(allowed)
    rows, columns = np.nonzero(cut)
    x, y = after.x0 + columns * after.cell, after.y0 + rows * after.cell
    outside = ~shapely.contains_xy(allowed, x, y)
    low = after.z[rows, columns] < floor - GOUGE
    wrong = np.nonzero(outside | low)[0]
    if not len(wrong):
        return []
    drop = before.z[rows[wrong], columns[wrong]] - after.z[rows[wrong], columns[wrong]]
    w = int(wrong[int(np.argmax(drop))])
    message = f"{operation} cuts {mm(float(drop.max()))} deep where nothing is asked, at X {mm(float(x[w]))}, Y {mm(float(y[w]))} of the board."
    return [Finding("wood.gouged", Level.STOP, "carve", message, setup, about=operation)]


def loose(
    after: HeightField, grips: list[Grip], setup: str, operation: str, offset: tuple[float, float], tabs: bool
) -> list[Finding]:
    """Separate pieces that no hold bears on. offset: of the blank on the bed, for places; tabs: whether tabs could help."""
    found, numbers = pieces(after, 0.05, DUST)
    if len(found) < 2:
        return []
    held = set()
    reach = max(1, round(4.0 / after.cell))
    for grip in grips:
        i, j = round((grip.x - after.x0) / after.cell), round((grip.y - after.y0) / after.cell)
        window = numbers[max(0, j - reach) : j + reach + 1, max(0, i - reach) : i + reach + 1]
        held |= set(np.unique(window[window > 0]).tolist())
    said: list[Finding] = []
    for number, piece in enumerate(found, start=1):
        if number in held:
            continue
        x0, y0, x1, y1 = piece.box
        size = f"{mm(x1 - x0)} × {mm(y1 - y0)}"
        message = f"{operation} frees a piece of {size} at X {mm(piece.x)}, Y {mm(piece.y)} of the board, and nothing holds it. A freed piece jams and flies."
        fixes = (Fix("set plate", {"tabs": 4}, "Leave 4 tabs"),) if tabs else ()
        place = Place(piece.x + offset[0], piece.y + offset[1], piece.top, max(x1 - x0, y1 - y0) / 2)
        said.append(
            Finding("wood.loose", Level.STOP, "carve", message, setup, None, fixes, place, f"{operation} {number}")
        )
    return said
