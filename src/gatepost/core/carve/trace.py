# SPDX-License-Identifier: GPL-3.0-or-later
"""Moves collected line by line: for paths of many points."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from gatepost.core.motion import Moves

Array = NDArray[np.float64]


class Trace:
    """Collects runs of moves one after another, of points (n, 3)."""

    def __init__(self, x: float, y: float, z: float) -> None:
        self._runs: list[tuple[Array, bool, float]] = []
        self._start = np.array([[x, y, z]])
        self.here = self._start[0]

    def rapid(self, x: float | None = None, y: float | None = None, z: float | None = None) -> None:
        """A rapid to a place; what is not named stays."""
        to = np.array([[h if v is None else v for h, v in zip(self.here, (x, y, z))]])
        self._add(to, True, 0.0)

    def run(self, points: Array, feed: float) -> None:
        """Feed moves along points of shape (n, 3)."""
        if len(points):
            self._add(np.asarray(points, np.float64), False, feed)

    def _add(self, points: Array, rapid: bool, feed: float) -> None:
        self._runs.append((points, rapid, feed))
        self.here = points[-1]

    def moves(self) -> Moves:
        """All so far, less what goes nowhere."""
        points = np.vstack([self._start, *(r[0] for r in self._runs)])
        lengths = [len(r[0]) for r in self._runs]
        rapid = np.repeat([r[1] for r in self._runs], lengths).astype(bool)
        feed = np.repeat([r[2] for r in self._runs], lengths).astype(np.float64)
        keep = np.any(np.diff(points, axis=0) != 0.0, axis=1)
        return Moves(np.vstack([points[:1], points[1:][keep]]), rapid[keep], feed[keep])
