# SPDX-License-Identifier: GPL-3.0-or-later
"""What the removal model says of a setup's operations: left, gouged, loose, hit by a rapid."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray

from gatepost.core.findings import Finding, Fix, Level, Place
from gatepost.core.geometry.raster import inside
from gatepost.core.motion import Moves
from gatepost.core.tolerances import CLEAN
from gatepost.core.units import mm
from gatepost.core.wood.field import Cut, HeightField, Piece, by_bands, pieces

SKIN = 0.05  # mm over the bed; less than this holds nothing together
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
    above = after.z > plane + CLEAN
    above &= after.wood
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
    cut = by_bands(after, lambda b: before.z[b] - after.z[b] > GOUGE)
    cut &= after.wood
    if not cut.any():
        return []
    low = cut & (after.z < np.float32(floor - GOUGE))
    rows, columns = np.nonzero((cut & ~inside(allowed, after.x0, after.y0, after.cell, *cut.shape)) | low)
    if not len(rows):
        return []
    drop = before.z[rows, columns] - after.z[rows, columns]
    w = int(np.argmax(drop))
    x, y = after.x0 + columns[w] * after.cell, after.y0 + rows[w] * after.cell
    message = f"{operation} cuts {mm(float(drop[w]))} deep where nothing is asked, at X {mm(float(x))}, Y {mm(float(y))} of the board."
    return [Finding("wood.gouged", Level.STOP, "carve", message, setup, about=operation)]


@dataclass(frozen=True, eq=False)
class Separate:
    """The separate pieces of a wood, largest first, and a map of their numbers (from 1)."""

    found: tuple[Piece, ...]
    numbers: NDArray[np.int32]


def separate(after: HeightField) -> Separate:
    """The pieces that the wood has come to."""
    if not (after.wood & (after.z <= SKIN)).any():  # nothing is cut through, so there is one
        return Separate((), np.zeros((0, 0), np.int32))
    found, numbers = pieces(after, SKIN, DUST)
    return Separate(tuple(found), numbers)


def loose(
    after: HeightField, apart: Separate, grips: list[Grip], setup: str, operation: str, offset: tuple[float, float],
    tabs: bool,
) -> list[Finding]:  # fmt: skip
    """Separate pieces that no hold bears on. offset: of the blank on the bed, for places; tabs: whether tabs could help."""
    found, numbers = apart.found, apart.numbers
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
