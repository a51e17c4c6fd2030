# SPDX-License-Identifier: GPL-3.0-or-later
"""Two adjoining faces compared at their arris: whether what is cut on the one runs into what is cut on the other.

The wood is one height field a face, and no face knows what was cut on another; here alone two of them are held against each other.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from gatepost.core.findings import Finding, Level
from gatepost.core.frames import BlankFrame, Board, Matrix
from gatepost.core.units import mm
from gatepost.core.wood.field import HeightField

CUT = 0.1  # mm that a cut is told from none by
APART = 0.05  # mm by which they must overlap to have met


@dataclass(frozen=True)
class CutFace:
    """A face and what is cut on it. lies: from the blank's own frame to the board's with this face up; before, after: the wood."""

    name: str
    setup: str
    lies: Matrix[BlankFrame, Board]
    before: HeightField
    after: HeightField

    @property
    def cut(self) -> NDArray[np.bool_]:
        """Which cells are cut."""
        return self.after.wood & (self.before.z - self.after.z > CUT)


@dataclass(frozen=True)
class WoodMet:
    """Where two faces' cuts meet. x, y: the place that lies deepest in the other, of the first's board; long: along the arris, mm."""

    x: float
    y: float
    long: float


def meet(one: CutFace, other: CutFace) -> WoodMet | None:
    """Where wood is cut away from both faces, or nothing. They must adjoin."""
    rows, columns = np.nonzero(one.cut)
    if not len(rows) or not other.cut.any():
        return None
    f = one.after
    floors = np.column_stack([f.x0 + columns * f.cell, f.y0 + rows * f.cell, f.z[rows, columns].astype(np.float64)])
    across: Matrix[Board, Board] = one.lies.inverse().then(other.lies)
    there = across.array(floors)
    out = [round(row[2]) for row in across.rows]  # where the first's cuts open, in the other's directions
    axis = 1 if out[0] else 0
    g = other.after
    lowest = np.where(other.cut, g.z, np.float32(np.inf))
    flip = (out[0] or out[1]) > 0  # the least of all that lies between a place and the arris
    lowest = np.flip(lowest, axis) if flip else lowest
    lowest = np.minimum.accumulate(lowest, axis)
    lowest = np.flip(lowest, axis) if flip else lowest
    over = 0.5 * g.cell * np.array(out)  # the first cell that lies wholly over the floor
    i = np.rint((there[:, 0] + over[0] - g.x0) / g.cell).astype(int)
    j = np.rint((there[:, 1] + over[1] - g.y0) / g.cell).astype(int)
    on = (i >= 0) & (j >= 0) & (i < g.z.shape[1]) & (j < g.z.shape[0])
    deep = np.full(len(i), -np.inf)
    deep[on] = there[on, 2] - lowest[j[on], i[on]]
    hit = deep > APART
    if not hit.any():
        return None
    w = int(np.argmax(np.where(hit, deep, -np.inf)))
    along = there[hit, 1 if axis == 1 else 0]
    return WoodMet(float(floors[w, 0]), float(floors[w, 1]), float(np.ptp(along)) + g.cell)


def arrises(faces: list[CutFace]) -> list[Finding]:
    """Every two faces that adjoin, told of the later."""
    said: list[Finding] = []
    for n, later in enumerate(faces):
        for earlier in faces[:n]:
            level = earlier.lies.inverse().then(later.lies).rows[2][2]
            met = meet(later, earlier) if abs(level) < 0.5 else None
            if met is not None:
                message = f"What is cut on the {earlier.name} and on the {later.name} meets behind their arris, over {mm(met.long)}, at X {mm(met.x)}, Y {mm(met.y)} of the board: nothing is left between."
                said.append(Finding("wood.arris", Level.CARE, "carve", message, later.setup))
    return said
