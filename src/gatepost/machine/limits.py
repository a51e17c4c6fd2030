# SPDX-License-Identifier: GPL-3.0-or-later
"""What a machine can do by its profile: nothing it says may go past it, and nothing it does may take for ever."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

PATIENCE, GRACE = 3.0, 30.0  # times longer than planned, and s more, before what is done counts as overdue
BEYOND = 1.0  # mm that a place may lie outside the travel, or a contact outside its way, by rounding and by play


@dataclass(frozen=True)
class Limits:
    """Of one machine.

    travel: mm; rapid: mm/min; pace: how many times longer than its own clock says everything takes (a slowed simulation).
    """

    travel: tuple[float, float, float]
    rapid: tuple[float, float, float]
    pace: float = 1.0

    def across(self) -> float:
        """Seconds for the whole travel, axis by axis, at a quarter of its rapids: the longest that homing or a jog takes."""
        return sum(t / (r / 60.0) for t, r in zip(self.travel, self.rapid)) * 4.0

    def holds(self, place: Sequence[float]) -> bool:
        """Whether a place lies within the travel."""
        return all(-t - BEYOND <= v <= BEYOND for v, t in zip(place, self.travel))


def longest(limits: Limits | None, seconds: float) -> float:
    """Seconds that something may take before it is overdue. seconds: that it is planned to take, on the machine's own clock."""
    return PATIENCE * seconds * (limits.pace if limits is not None else 1.0) + GRACE
