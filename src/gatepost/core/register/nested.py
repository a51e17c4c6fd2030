# SPDX-License-Identifier: GPL-3.0-or-later
"""A nest as it is seen by whoever judges it."""

from __future__ import annotations

from dataclasses import dataclass

import shapely
from shapely import affinity

from gatepost.core.job.model import Setup
from gatepost.core.register.step_nest import NestTried


@dataclass(frozen=True)
class NestSeen:
    """before: the setup that cuts it; rim, board: the rim and the board on the bed then; tool: mm across, slot: as wide as it leaves it; tabs: that hold the piece; tried: what trying every way
    found, nothing where it was not tried."""

    before: Setup
    rim: shapely.Polygon
    board: shapely.Polygon
    tool: float
    slot: float
    tabs: int
    tried: NestTried | None

    @property
    def hole(self) -> shapely.Polygon:
        """The opening in the frame, as the cutter leaves it."""
        return self.tried.nest.hole if self.tried is not None else shapely.Polygon(self.rim.buffer(self.slot).exterior)

    def turned(self, about: str) -> shapely.Polygon:
        """The piece turned over about a line along X or Y through its middle."""
        x0, y0, x1, y1 = self.rim.bounds
        flips = (1.0, -1.0) if about == "X" else (-1.0, 1.0)
        return affinity.scale(self.rim, *flips, origin=(0.5 * (x0 + x1), 0.5 * (y0 + y1)))

    @property
    def seats(self) -> tuple[tuple[float, float, float], ...]:
        """Some ways in which the piece may lie: degrees about the middle, and a shift, mm."""
        if self.tried is None:
            return ()
        return tuple((seat.turn, float(x), float(y)) for seat in self.tried.seats for x, y in seat.shifts[:-1])
