# SPDX-License-Identifier: GPL-3.0-or-later
"""Flaws of the wood, as they lie in the board."""

from __future__ import annotations

from dataclasses import dataclass

import shapely
from shapely.geometry import Polygon

from gatepost.core.job.blank import Flaw
from gatepost.core.units import mm

LEAST = 0.5  # mm about its middle, or its line, that a flaw is at least


@dataclass(frozen=True)
class Lies:
    """Where a flaw lies: how far it reaches down from the finished top and up from the underside; through: right through."""

    flaw: Flaw
    down: float
    up: float
    through: bool


def flaw_area(flaw: Flaw) -> Polygon:
    """Where a flaw is, on the face it is seen on: a disc, or a band from end to end as wide as it is across."""
    line = shapely.Point(*flaw.ends[0]) if len(flaw.ends) == 1 else shapely.LineString(flaw.ends)
    return line.buffer(max(flaw.size / 2.0, LEAST))


def flaw_place(flaw: Flaw) -> str:
    """Where a flaw is, in words."""
    (x, y), *other = flaw.ends
    return f"X {mm(x)}, Y {mm(y)}" + "".join(f" to X {mm(u)}, Y {mm(v)}" for u, v in other)
