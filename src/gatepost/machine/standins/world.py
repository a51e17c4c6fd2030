# SPDX-License-Identifier: GPL-3.0-or-later
"""What a shop has otherwise than planned: drawn from a seed, and told to nobody."""

from __future__ import annotations

import math
import random
from collections.abc import Callable

import numpy as np

OFF = {  # either way, each as likely; mm, degrees for angles
    "stickout": 0.5,  # of a bit, gripped by hand
    "diameter": 0.05,  # of a bit
    "angle": 0.5,  # of a V, all of it
    "tip": 0.05,  # of a V, across its flat
    "place": 1.5,  # of a board, laid to a mark
    "skew": 0.3,  # that it lies turned by
    "thickness": 0.3,  # of a board that nobody measured
    "outline": 1.0,  # of a board's length and width
    "plate": 0.02,  # of what stands under the tip when it is touched
    "contact": 0.01,  # of a touch
    "eye": 0.2,  # of a look over a point
    "homing": 0.02,  # of each axis, each time
    "spoilboard": 0.1,  # of the bed's four corners
}
Heights = Callable[[np.ndarray, np.ndarray], np.ndarray]


class World:
    """seed: the same gives the same shop; without one everything is exactly as planned."""

    def __init__(self, seed: int | None = None) -> None:
        self.seed = seed
        self._chance = random.Random(seed)
        self._once: dict[str, float] = {}

    def off(self, what: str, most: float | None = None) -> float:
        """By how much something is otherwise this time. most: where another bound than that of its kind holds."""
        bound = OFF[what] if most is None else most
        return self._chance.uniform(-bound, bound) if self.seed is not None else 0.0

    def pick(self, count: int) -> int:
        """One of so many, each as likely; the first where everything is as planned."""
        return self._chance.randrange(count) if self.seed is not None else 0

    def always(self, what: str, which: object = "") -> float:
        """By how much something is otherwise each time: the same bit, the same plate."""
        name = f"{what} {which}"
        if name not in self._once:
            self._once[name] = self.off(what)
        return self._once[name]

    def spoilboard(self, long: float, wide: float) -> Heights:
        """How high the spoilboard's face stands over a bed of that size: straight between its corners."""
        a, b, c, d = (self.off("spoilboard") for _ in range(4))

        def height(x: np.ndarray, y: np.ndarray) -> np.ndarray:
            u, v = np.clip(x / long, 0.0, 1.0), np.clip(y / wide, 0.0, 1.0)
            return np.asarray((a * (1 - u) + b * u) * (1 - v) + (d * (1 - u) + c * u) * v)

        return height


def turned_by(degrees: float) -> np.ndarray:
    """Two by two, against the clock."""
    c, s = math.cos(math.radians(degrees)), math.sin(math.radians(degrees))
    return np.array([[c, -s], [s, c]])
