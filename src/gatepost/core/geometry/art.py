# SPDX-License-Identifier: GPL-3.0-or-later
"""Art: the curves that something is cut to."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from gatepost.core.geometry import curves

Array = NDArray[np.float64]


@dataclass(frozen=True)
class Art:
    """What one tool V-cuts. contours: curves in blank frame; exact: whether they are the faces' own curves."""

    contours: tuple[tuple[Array, ...], ...]
    exact: bool

    def through(self, way: Callable[[Array], Array]) -> Art:
        """The same art in another frame. way: takes places (n, 2) there."""
        return Art(tuple(tuple(way(p) for p in c) for c in self.contours), self.exact)

    def svg(self) -> str:
        """Standalone SVG, user units mm, Y up, even-odd."""
        return svg({"": self})


def svg(paths: Mapping[str, Art]) -> str:
    """Standalone SVG of paths by id (none where that is empty), user units mm, Y up, even-odd."""
    drawn = "".join(
        f'<path{_id(name)} fill-rule="evenodd" d="{curves.write_path([list(c) for c in art.contours])}"/>'
        for name, art in paths.items()
    )
    return f'<svg xmlns="http://www.w3.org/2000/svg" data-y-up="true">{drawn}</svg>\n'


def _id(name: str) -> str:
    return f' id="{name}"' if name else ""
