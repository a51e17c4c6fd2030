# SPDX-License-Identifier: GPL-3.0-or-later
"""Where things in a row stand on their face."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from gatepost.core.job.holes import HolesFigures
from gatepost.core.job.operation import Artwork
from gatepost.core.motion import turned_about

Array = NDArray[np.float64]


def row_of(art: Artwork, number: int, pitch: float) -> Array:
    """Middles of so many in a row about the middle of their artwork, (number, 2)."""
    along = (np.arange(number) - 0.5 * (number - 1)) * pitch
    row = np.column_stack([-along if art.mirror else along, np.zeros(number)])
    return np.asarray(turned_about(row, art.turn) + np.array([art.x, art.y]))


def places(art: Artwork) -> Array:
    """Middles of holes on their face, (n, 2)."""
    figures = art.figures
    assert isinstance(figures, HolesFigures)
    return row_of(art, figures.number, figures.pitch)
