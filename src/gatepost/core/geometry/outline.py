# SPDX-License-Identifier: GPL-3.0-or-later
"""Outlines from corners: what is wrong with one, and where it is laid."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TypeAlias

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry import MultiPolygon, Polygon

from gatepost.core.errors import OperatorError
from gatepost.core.tolerances import MOST_CORNERS
from gatepost.core.units import mm

Array = NDArray[np.float64]
Area: TypeAlias = Polygon | MultiPolygon

SMALLEST = 100.0  # mm²; less is no board


def problem(corners: Array) -> str:
    """What is wrong with an outline, or nothing."""
    if len(corners) < 3:
        return f"An outline needs three corners at least; this one has {len(corners)}."
    if len(corners) > MOST_CORNERS:
        return f"{len(corners)} corners are more than an outline keeps: {MOST_CORNERS} at most."
    polygon = Polygon(corners)
    if not polygon.is_valid:
        why = shapely.is_valid_reason(polygon)
        where = why.partition("[")[2].rstrip("]").split()
        if len(where) == 2:
            return f"The outline crosses or touches itself near X {mm(float(where[0]))}, Y {mm(float(where[1]))}. Move or take away a corner there."
        return "The outline crosses or touches itself."
    if polygon.area < SMALLEST:
        return "The outline has next to no area: its corners lie in a line, or it is in another unit."
    return ""


def placed(points: Sequence[Sequence[float]] | Array) -> tuple[Array, tuple[float, float]]:
    """An outline laid with its lower left at the blank's corner, anticlockwise, and by how much it was moved, mm. Raises
    OperatorError with what is wrong."""
    corners = sound(points)
    low = corners.min(axis=0)
    return corners - low, (-float(low[0]), -float(low[1]))


def sound(points: Sequence[Sequence[float]] | Array) -> Array:
    """An outline where it is, anticlockwise, (n, 2).

    Corners are taken to a millionth of a mm; one that repeats the one before is dropped. Raises OperatorError with what is wrong.
    """
    corners = np.round(np.asarray(points, dtype=np.float64).reshape(-1, 2), 6)
    if not np.isfinite(corners).all():
        raise OperatorError("A corner of the outline is not a number.")
    if len(corners):
        keep = np.any(corners != np.roll(corners, 1, axis=0), axis=1)
        corners = corners[keep] if keep.any() else corners[:1]
    wrong = problem(corners)
    if wrong:
        raise OperatorError(wrong)
    if shapely.LinearRing(corners).is_ccw is False:
        corners = corners[::-1]
    return corners
