# SPDX-License-Identifier: GPL-3.0-or-later
"""Two opposite faces held against each other: how much wood is left between what is cut into the one and what is cut into the other."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from gatepost.core.findings import Finding, Fix, Level, Place
from gatepost.core.frames import Bed, Board, Matrix
from gatepost.core.geometry.outline import Area
from gatepost.core.geometry.raster import inside
from gatepost.core.tolerances import FLOOR_LEFT
from gatepost.core.units import mm
from gatepost.core.wood.arris import CutFace
from gatepost.core.working import Named, Working, working

STAGE = "carve"
RIGHT_THROUGH = 0.05  # mm over the underside below which one face alone is cut through: it was asked for


@dataclass(frozen=True)
class Between:
    """The least wood between two faces where both are cut. x, y: of the later's board, mm; from_other: from the later's underside up to what
    is cut into the other; floor: how high the later's floor stands over that underside; slack: how much thinner than it was reckoned the board may be there."""

    x: float
    y: float
    floor: float
    from_other: float
    slack: float

    @property
    def left(self) -> Working:
        """What is left, at the thinnest reading."""
        named = Named("floor", self.floor), Named("behind", self.from_other), Named("thinner", self.slack)
        return working("floor - behind - thinner", *named, shop_rule=True, assumption=f"{FLOOR_LEFT:g} mm is wanted under a floor")  # fmt: skip


def between(later: CutFace, earlier: CutFace, kept: Area | None, thinnest: float) -> Between | None:
    """Where least is left between two opposite faces, or nothing where they are nowhere both cut. kept: what stays of the board, as the
    later lies, where not all does; thinnest: of the readings of a board that was not made flat, mm, else infinite."""
    f, g = later.after, earlier.after
    cut = later.cut & (f.z > RIGHT_THROUGH)
    if kept is not None:
        cut &= inside(kept, f.x0, f.y0, f.cell, *f.z.shape)
    rows, columns = np.nonzero(cut)
    if not len(rows) or not earlier.cut.any():
        return None
    x, y = f.x0 + columns * f.cell, f.y0 + rows * f.cell
    over: Matrix[Board, Board] = later.lies.inverse().then(earlier.lies)
    there = over.array(np.column_stack([x, y, np.zeros(len(x))]))  # its underside, as the other face lay up
    i, j = (np.rint((there[:, k] - corner) / g.cell).astype(int) for k, corner in ((0, g.x0), (1, g.y0)))
    on = (i >= 0) & (j >= 0) & (i < g.z.shape[1]) & (j < g.z.shape[0])
    other = np.zeros(len(x))  # how far the earlier's cut reaches up from the later's underside
    mine = np.zeros(len(x), np.bool_)
    z = g.z[j[on], i[on]]
    mine[on] = earlier.cut[j[on], i[on]] & (z > RIGHT_THROUGH)
    other[on] = there[on, 2] - z
    whole = np.zeros(len(x))  # how thick the board is reckoned there, before anything is cut
    whole[on] = later.before.z[rows[on], columns[on]] - (there[on, 2] - earlier.before.z[j[on], i[on]])
    if not mine.any():
        return None
    floor = f.z[rows, columns].astype(np.float64)
    slack = np.maximum(whole - thinnest, 0.0)
    k = int(np.argmin(np.where(mine, floor - other - slack, np.inf)))
    return Between(float(x[k]), float(y[k]), float(floor[k]), float(other[k]), float(slack[k]))


def between_findings(
    found: Between, later: CutFace, earlier: CutFace, to_bed: Matrix[Board, Bed], fixes: tuple[Fix, ...]
) -> list[Finding]:
    """What there is to say of it. fixes: that leave as much as is wanted."""
    left = found.left
    if left.result >= FLOOR_LEFT:
        return []
    place = Place(*to_bed.xy(found.x, found.y), found.floor, 10.0)
    where = f"X {mm(found.x)}, Y {mm(found.y)} of the board as it lies there"
    if left.result <= 0.0:
        message = f"What is cut on the {later.name} comes through into what is cut on the {earlier.name}, by {mm(-left.result, 2)} at {where}."
        return [Finding("wood.through", Level.STOP, STAGE, message, later.setup, left, fixes, place)]
    message = f"Between what is cut on the {later.name} and on the {earlier.name} {mm(left.result, 2)} of wood is left at {where}; {mm(FLOOR_LEFT)} is wanted."
    return [Finding("wood.thin-between", Level.CARE, STAGE, message, later.setup, left, fixes, place)]
