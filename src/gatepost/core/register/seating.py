# SPDX-License-Identifier: GPL-3.0-or-later
"""One way in which a piece lies on what it was laid on or into, beside how it was meant to: a small turn and a shift."""

from __future__ import annotations

import math
from dataclasses import dataclass

from gatepost.core.working import Named, Working, working


@dataclass(frozen=True)
class Seating:
    """turn: radians, small, about a middle; right, back: by which that middle is shifted, mm; along, up: where a place lies from the middle, mm."""

    turn: float
    right: float
    back: float
    along: float
    up: float

    @property
    def off(self) -> float:
        """How far the place lies beside where it is meant to, mm."""
        return math.hypot(self.right - self.turn * self.up, self.back + self.turn * self.along)

    def told(self, followed: float = 0.0, times: float = 1.0, said: str = "") -> Working:
        """That as a sum. followed: mm to which outlines are followed; times: how often it counts."""
        return working(
            "(sqrt((right - turn * up)**2 + (back + turn * along)**2) + followed) * times",
            Named("right", self.right), Named("turn", self.turn, "number"), Named("up", self.up), Named("back", self.back), Named("along", self.along), Named("followed", followed),
            Named("times", times, "number"), assumption=said,
        )  # fmt: skip
