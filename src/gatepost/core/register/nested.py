# SPDX-License-Identifier: GPL-3.0-or-later
"""A nest as it is seen by whoever judges it."""

from __future__ import annotations

from dataclasses import dataclass

import shapely
from shapely import affinity

from gatepost.core.job.model import Setup
from gatepost.core.register.step_nest import NestTried

MOST = 150  # ways that are told of all there are


@dataclass(frozen=True)
class NestSeen:
    """before: the setup that cuts it; rim, board: the rim and the board on the bed then; tool: mm across, slot: as wide as it leaves it; tabs: that hold the piece, each whether what is left of it is in nobody's way; tried: what trying every way
    found, nothing where it was not tried; middle: of the piece, through which it is turned over."""

    before: Setup
    rim: shapely.Polygon
    board: shapely.Polygon
    tool: float
    slot: float
    tabs: tuple[bool, ...]
    tried: NestTried | None
    middle: tuple[float, float]

    @property
    def hole(self) -> shapely.Polygon:
        """The opening in the frame, as the cutter leaves it."""
        return self.tried.nest.hole if self.tried is not None else shapely.Polygon(self.rim.buffer(self.slot).exterior)

    def turned(self, about: str) -> shapely.Polygon:
        """The piece turned over about a line along X or Y through its middle."""
        flips = (1.0, -1.0) if about == "X" else (-1.0, 1.0)
        return affinity.scale(self.rim, *flips, origin=self.middle)

    @property
    def seats(self) -> tuple[tuple[float, float, float], ...]:
        """Some ways in which the piece may lie: degrees about the middle, and a shift, mm."""
        if self.tried is None:
            return ()
        return tuple(
            (float(t), float(x), float(y)) for t, x, y in self.tried.seats[:: max(1, len(self.tried.seats) // MOST)]
        )
