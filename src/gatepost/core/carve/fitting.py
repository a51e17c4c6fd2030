# SPDX-License-Identifier: GPL-3.0-or-later
"""How large something may be where it stands."""

from __future__ import annotations

import numpy as np
import shapely
from numpy.typing import NDArray

SMALLEST = 0.02  # of its size: what fits no larger does not fit


def largest_inside(
    points: NDArray[np.float64], middle: tuple[float, float], usable: shapely.Geometry, most: float
) -> float | None:
    """The factor by which points about a middle may be scaled so that all lie in an area, no more than a most; nothing where none does."""
    if usable.is_empty:
        return None
    about = np.array(middle)

    def fits(factor: float) -> bool:
        scaled = (points - about) * factor + about
        return bool(shapely.contains_xy(usable, scaled[:, 0], scaled[:, 1]).all())

    low, high = SMALLEST, most
    if not fits(low):
        return None
    if fits(high):
        return high
    while high - low > 1e-5 * max(1.0, high):
        half = 0.5 * (low + high)
        low, high = (half, high) if fits(half) else (low, half)
    return low
