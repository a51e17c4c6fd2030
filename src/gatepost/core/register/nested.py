# SPDX-License-Identifier: GPL-3.0-or-later
"""A nest as it is seen by whoever judges it."""

from __future__ import annotations

from dataclasses import dataclass

import shapely

from gatepost.core.job.model import Setup
from gatepost.core.register.step_nest import NestTried


@dataclass(frozen=True)
class NestSeen:
    """before: the setup that cuts it; rim, board: the rim and the board on the bed then; tool: mm across; tabs: that hold the piece; tried: what trying every way
    found, nothing where it was not tried."""

    before: Setup
    rim: shapely.Polygon
    board: shapely.Polygon
    tool: float
    tabs: int
    tried: NestTried | None

    @property
    def seats(self) -> tuple[tuple[float, float, float], ...]:
        """Some ways in which the piece may lie: degrees about the middle, and a shift, mm."""
        if self.tried is None:
            return ()
        return tuple((seat.turn, float(x), float(y)) for seat in self.tried.seats for x, y in seat.shifts[:-1])
