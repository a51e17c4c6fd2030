# SPDX-License-Identifier: GPL-3.0-or-later
"""Resin, by the grooves as they are cut: how much, mixed how, in how many pours."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from gatepost.core.errors import OperatorError
from gatepost.core.job.finish import Tin
from gatepost.core.wood.field import HeightField
from gatepost.core.working import Named, Working, working

MORE = 0.1  # a tenth more than the grooves hold: what soaks in, and stays in the cup


@dataclass(frozen=True)
class Pour:
    """Resin for some grooves. volume: of the grooves, mm³; wanted: with what is lost, ml; parts: ml of resin and of its hardener; pours: one after another; deep: of the deepest groove, mm;
    minutes: that all of it takes to set, by its label."""

    volume: float
    wanted: Working
    parts: tuple[float, float]
    pours: int
    deep: float
    minutes: float


def grooves(start: HeightField, after: HeightField, where: NDArray[np.bool_] | None = None) -> tuple[float, float]:
    """What was cut away, mm³, and how deep at the deepest, mm, in some cells or in all of the wood. start, after: of the same cells."""
    if start.z.shape != after.z.shape:
        raise OperatorError("Two pictures of the wood that are not of the same cells can't be held against each other.")
    gone = np.where(after.wood & start.wood, start.z - after.z, 0.0)
    if where is not None:
        gone = np.where(where, gone, 0.0)
    gone = np.maximum(gone, 0.0)
    return float(gone.sum()) * start.cell * start.cell, float(gone.max(initial=0.0))


def pour(tin: Tin, volume: float, deep: float) -> Pour:
    """How a resin is mixed and poured. volume: of the grooves, mm³; deep: of the deepest, mm. Raises OperatorError for a tin whose label is not whole."""
    if tin.ratio <= 0.0 or tin.deepest <= 0.0:
        raise OperatorError(f"Type the ratio and the greatest depth of a pour from the label of {tin.name} first.")
    wanted = working(
        "grooves * (1 + more)", Named("grooves", volume / 1000.0, "ml"), Named("more", MORE, "share"), unit="ml", assumption="a tenth more than the grooves hold", shop_rule=True,
    )  # fmt: skip
    resin = wanted.result * tin.ratio / (tin.ratio + 1.0)
    count = pours(tin, deep)
    return Pour(volume, wanted, (resin, wanted.result - resin), count, deep, (count - 1) * tin.recoat + tin.hard)


def pours(tin: Tin, deep: float) -> int:
    """Pours that a groove asks for, one after another. deep: mm."""
    return max(1, math.ceil(deep / tin.deepest - 1e-9)) if tin.deepest > 0.0 else 1
