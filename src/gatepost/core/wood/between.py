# SPDX-License-Identifier: GPL-3.0-or-later
"""Two opposite faces held against each other: how much wood is left between what is cut into the one and what is cut into the other."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from gatepost.core.findings import Finding, Fix, Level, Place
from gatepost.core.frames import Bed, BlankFrame, Board, Matrix
from gatepost.core.geometry.outline import Area
from gatepost.core.geometry.raster import inside
from gatepost.core.tolerances import FLOOR_LEFT
from gatepost.core.units import mm
from gatepost.core.wood.arris import CUT, CutFace
from gatepost.core.wood.field import OUTSIDE, HeightField
from gatepost.core.working import Named, Working, working

STAGE = "carve"
RIGHT_THROUGH = 0.05  # mm over the underside below which one face alone is cut through: it was asked for


@dataclass(frozen=True)
class Between:
    """The least wood between two faces where both are cut. x, y: of the later's board, mm; from_other: from the later's underside up to what
    is cut into the other; floor: how high the later's floor stands over that underside; slack: how much thinner the board may be there than its figures say."""

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


def underside(
    lies: Matrix[BlankFrame, Board], other: Matrix[BlankFrame, Board], g: HeightField, places: NDArray[np.float64]
) -> NDArray[np.float64]:
    """How high the underside of a board stands at places of it, shape (n, 2), as an opposite face was left: NaN off that wood. lies, other: from
    the blank's own frame to the board's, as it lies and as it lay with that face up; g: the wood then."""
    there = lies.inverse().then(other).array(np.column_stack([places, np.zeros(len(places))]))
    i, j = (np.rint((there[:, k] - corner) / g.cell).astype(int) for k, corner in ((0, g.x0), (1, g.y0)))
    on = (i >= 0) & (j >= 0) & (i < g.z.shape[1]) & (j < g.z.shape[0])
    z = np.full(len(places), np.nan)
    z[on] = g.z[j[on], i[on]]
    z[z <= OUTSIDE / 2] = np.nan
    return np.asarray(there[:, 2] - z)


def between(later: CutFace, earlier: CutFace, kept: Area | None, thinnest: float) -> Between | None:
    """Where least is left between two opposite faces, or nothing where they are nowhere both cut. kept: what stays of the board, as the
    later lies, where not all does; thinnest: of the readings of a board that was not made flat, mm, else infinite."""
    f = later.after
    cut = later.cut & (f.z > RIGHT_THROUGH)
    if kept is not None:
        cut &= inside(kept, f.x0, f.y0, f.cell, *f.z.shape)
    rows, columns = np.nonzero(cut)
    if not len(rows) or not earlier.cut.any():
        return None
    places = np.column_stack([f.x0 + columns * f.cell, f.y0 + rows * f.cell])
    was, now = (underside(later.lies, earlier.lies, g, places) for g in (earlier.before, earlier.after))
    bed = (
        later.lies.inverse().then(earlier.lies).array(np.zeros((1, 3)))[0, 2]
    )  # which of its heights is this one's underside
    both = (now - was > CUT) & (bed - now > RIGHT_THROUGH)
    if not both.any():
        return None
    floor, whole = (np.asarray(one.z[rows, columns], np.float64) for one in (f, later.before))
    slack = np.maximum(whole - was - thinnest, 0.0)
    k = int(np.argmin(np.where(both, floor - now - slack, np.inf)))
    return Between(*map(float, (*places[k], floor[k], now[k], slack[k])))


def between_findings(
    found: Between, later: CutFace, earlier: CutFace, to_bed: Matrix[Board, Bed], fixes: tuple[Fix, ...]
) -> list[Finding]:
    """What there is to say of it. fixes: that leave as much as is wanted."""
    left = found.left
    place = Place(*to_bed.xy(found.x, found.y), found.floor, 10.0)
    where = f"X {mm(found.x)}, Y {mm(found.y)} of the board as it lies there"
    if left.result >= FLOOR_LEFT:
        message = f"Where the {later.name} and the {earlier.name} are both cut, {mm(left.result, 2)} of wood is left at the thinnest, {where}."
        return [Finding("wood.between", Level.OK, STAGE, message, later.setup, left)]
    if left.result <= 0.0:
        message = f"What is cut on the {later.name} comes through into what is cut on the {earlier.name}, by {mm(-left.result, 2)} at {where}."
        return [Finding("wood.through", Level.STOP, STAGE, message, later.setup, left, fixes, place)]
    message = f"Between what is cut on the {later.name} and on the {earlier.name} {mm(left.result, 2)} of wood is left at {where}; {mm(FLOOR_LEFT)} is wanted."
    return [Finding("wood.thin-between", Level.CARE, STAGE, message, later.setup, left, fixes, place)]
