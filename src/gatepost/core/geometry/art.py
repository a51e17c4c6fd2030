# SPDX-License-Identifier: GPL-3.0-or-later
"""Art: the curves that something is cut to."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from gatepost.core.geometry import curves
from gatepost.core.motion import turned_about

Array = NDArray[np.float64]


@dataclass(frozen=True)
class Art:
    """What one tool V-cuts. contours: curves in blank frame; exact: whether they are the faces' own curves."""

    contours: tuple[tuple[Array, ...], ...]
    exact: bool

    def moved(self, dx: float, dy: float) -> Art:
        """The same art, shifted."""
        shift = np.array([dx, dy])
        return Art(tuple(tuple(p + shift for p in c) for c in self.contours), self.exact)

    def turned(self, degrees: float) -> Art:
        """The same art, turned about nought, positive against the clock."""
        if degrees == 0.0:
            return self
        return Art(tuple(tuple(turned_about(p, degrees) for p in c) for c in self.contours), self.exact)

    def svg(self) -> str:
        """Standalone SVG, user units mm, Y up, even-odd."""
        data = curves.write_path([list(c) for c in self.contours])
        return (
            f'<svg xmlns="http://www.w3.org/2000/svg" data-y-up="true"><path fill-rule="evenodd" d="{data}"/></svg>\n'
        )
