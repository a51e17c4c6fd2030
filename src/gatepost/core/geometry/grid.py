# SPDX-License-Identifier: GPL-3.0-or-later
"""Heights over a grid that are told in several frames."""

from __future__ import annotations

import json
import math
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from gatepost.core.motion import read_only

Array = NDArray[np.float64]
SQUARE = 1e-9  # of a unit vector: less aslant is rounding


@dataclass(frozen=True, eq=False)
class GridHeights:
    """z: (ny, nx) float32 at x0 + i·cell, y0 + j·cell, mm; NaN where nothing is asked."""

    z: NDArray[np.float32]
    x0: float
    y0: float
    cell: float

    def __post_init__(self) -> None:
        read_only(self.z)

    def through(self, way: Callable[[Array], Array]) -> GridHeights:
        """The same in another frame. way: takes places (n, 2) there, turned, shifted or seen from behind. What comes to lie aslant is taken from the
        nearest cell."""
        rows, columns = self.z.shape
        ends = np.array([[0.0, 0.0], [1.0, 0.0], [0.0, 1.0]])
        origin, right, up = (np.asarray(p) for p in way(ends))
        turn = np.column_stack([right - origin, up - origin])
        corners = way(
            np.array(
                [
                    [x, y]
                    for x in (self.x0, self.x0 + (columns - 1) * self.cell)
                    for y in (self.y0, self.y0 + (rows - 1) * self.cell)
                ]
            )
        )
        (x0, y0), (x1, y1) = corners.min(axis=0), corners.max(axis=0)
        if np.abs(np.abs(turn).max(axis=1) - 1.0).max() > SQUARE:
            return self._aslant(turn, origin, (x0, y0, x1, y1))
        z = self.z if abs(turn[0, 0]) > 0.5 else self.z.T
        z = z[:, ::-1] if turn[0].sum() < 0.0 else z
        z = z[::-1] if turn[1].sum() < 0.0 else z
        return GridHeights(np.ascontiguousarray(z), float(x0), float(y0), self.cell)

    def _aslant(self, turn: Array, origin: Array, box: tuple[float, float, float, float]) -> GridHeights:
        x0, y0, x1, y1 = box
        columns, rows = math.floor((x1 - x0) / self.cell) + 1, math.floor((y1 - y0) / self.cell) + 1
        x, y = np.meshgrid(x0 + self.cell * np.arange(columns), y0 + self.cell * np.arange(rows))
        back = (np.column_stack([x.ravel(), y.ravel()]) - origin) @ np.linalg.inv(turn).T
        i, j = (
            np.rint((back[:, 0] - self.x0) / self.cell).astype(int),
            np.rint((back[:, 1] - self.y0) / self.cell).astype(int),
        )
        on = (i >= 0) & (j >= 0) & (i < self.z.shape[1]) & (j < self.z.shape[0])
        z = np.full(len(i), np.nan, np.float32)
        z[on] = self.z[j[on], i[on]]
        return GridHeights(z.reshape(rows, columns), float(x0), float(y0), self.cell)

    def lifted(self, dz: float) -> GridHeights:
        """The same, higher by so much."""
        return GridHeights(self.z + np.float32(dz), self.x0, self.y0, self.cell)

    def at(self, places: Array) -> NDArray[np.float32]:
        """Of the nearest cell at places (n, 2); NaN off it."""
        i = np.rint((places[:, 0] - self.x0) / self.cell).astype(int)
        j = np.rint((places[:, 1] - self.y0) / self.cell).astype(int)
        on = (i >= 0) & (j >= 0) & (i < self.z.shape[1]) & (j < self.z.shape[0])
        out = np.full(len(places), np.nan, np.float32)
        out[on] = self.z[j[on], i[on]]
        return out

    def told(self) -> str:
        """Where it lies, as JSON."""
        return json.dumps({"x0": self.x0, "y0": self.y0, "cell": self.cell}) + "\n"
