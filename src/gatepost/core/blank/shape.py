# SPDX-License-Identifier: GPL-3.0-or-later
"""The blank's shape: its outline in blank coordinates, however it was told."""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray
from shapely.geometry import Polygon

from gatepost.core.geometry.outline import problem
from gatepost.core.job.blank import Blank
from gatepost.core.tolerances import OUTLINE_STEP

Array = NDArray[np.float64]


def ring(blank: Blank) -> Array:
    """Corners of the outline, (n, 2), not closed, anticlockwise. A shape without corners of its own is its rectangle."""
    if blank.shape in ("round", "oval"):
        a, b = blank.length / 2.0, blank.width / 2.0
        count = max(24, math.ceil(math.pi / math.acos(max(0.0, 1.0 - OUTLINE_STEP / max(a, b)))))
        turn = 2.0 * math.pi * np.arange(count) / count
        return np.column_stack([a + a * np.cos(turn), b + b * np.sin(turn)])
    if blank.shape == "outline" and len(blank.outline) >= 3:
        return np.array(blank.outline, dtype=np.float64)
    return np.array([[0.0, 0.0], [blank.length, 0.0], [blank.length, blank.width], [0.0, blank.width]])


def polygon(blank: Blank) -> Polygon:
    """The outline as an area; of an outline that can't be one, its rectangle."""
    corners = ring(blank)
    if blank.shape == "outline" and problem(corners):
        corners = np.array([[0.0, 0.0], [blank.length, 0.0], [blank.length, blank.width], [0.0, blank.width]])
    return Polygon(corners)
