# SPDX-License-Identifier: GPL-3.0-or-later
"""How the board is laid for surfacing: as it lies or on shims, what each keeps, and how it moves when it is shimmed."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from gatepost.core.errors import OperatorError
from gatepost.core.job.blank import Blank, TopHeight
from gatepost.core.job.surface import Surfacing
from gatepost.core.surface.level import Readings, best, readings, rest, rounded, shims

Array = NDArray[np.float64]
WORTH = 0.3  # mm of wood; less is not worth shimming for
THINNEST = 0.05  # mm; a thinner shim is none
FEWEST = 3  # supports that a board stands on


@dataclass(frozen=True)
class Shim:
    """A shim: where it goes under the board, blank coordinates, and how high it is, mm."""

    x: float
    y: float
    height: float


@dataclass(frozen=True)
class Seat:
    """One way to lay the board. moved: how it moves from where it lies, by a·x + b·y + c; tilt: of the finished faces on
    the board as it lies; under: the highest place of the underside then, above the bed."""

    name: str
    moved: tuple[float, float, float]
    tilt: tuple[float, float]
    under: float
    shims: tuple[Shim, ...] = ()

    def heights(self, tops: tuple[TopHeight, ...]) -> tuple[TopHeight, ...]:
        """Heights of the top as the board is laid."""
        a, b, c = self.moved
        if a == b == c == 0.0:
            return tops
        return tuple(h.model_copy(update={"z": h.z + a * h.x + b * h.y + c}) for h in tops)


@dataclass(frozen=True)
class Seats:
    """Both ways. shimmed: nothing without supports for it; promised: what shims of any height would keep, mm, square;
    problem: a sentence, when the readings leave it open."""

    lies: Seat
    shimmed: Seat | None = None
    promised: float = 0.0
    problem: str = ""


def _read(blank: Blank) -> Readings:
    tops = np.array([(h.x, h.y, h.z) for h in blank.heights])
    if blank.under:
        return readings(tops, np.array([(g.x, g.y, g.z) for g in blank.under]))
    x0, y0, x1, y1 = blank.box
    corners = [(x0, y0, 0.0), (x1, y0, 0.0), (x1, y1, 0.0), (x0, y1, 0.0)]
    return Readings(readings(tops).top, np.array(corners))


def seats(blank: Blank, wanted: Surfacing) -> Seats:
    """As it lies and shimmed, from a board's readings.

    An underside that was not read is taken to lie flat on the bed, out to the board's corners.
    """
    level = Seat("as it lies", (0.0, 0.0, 0.0), (0.0, 0.0), max((g.z for g in blank.under), default=0.0))
    try:
        read = _read(blank)
        most = best(read, wanted.cleanup)
    except OperatorError as error:
        return Seats(level, problem=str(error))
    if len(blank.supports) < FEWEST or most.tilt == (0.0, 0.0):
        return Seats(level, None, most.thickness)
    places = np.array([(s.x, s.y) for s in blank.supports])
    try:
        heights = shims(read, most.tilt, places)
        if wanted.shims_at_hand:
            heights = np.array(rounded(read, places, heights, wanted.shims_at_hand, wanted.cleanup).heights)
        a, b, c = rest(read, places, heights)
    except OperatorError as error:
        return Seats(level, None, most.thickness, str(error))
    under = float((read.under[:, 2] + read.under[:, :2] @ np.array([a, b]) + c).max())
    put = tuple(Shim(s.x, s.y, float(h)) for s, h in zip(blank.supports, heights))
    return Seats(level, Seat("shimmed", (a, b, c), (-a, -b), under, put), most.thickness)
