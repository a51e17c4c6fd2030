# SPDX-License-Identifier: GPL-3.0-or-later
"""What a surfacing comes to, as it is reckoned."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from gatepost.core.surface.passes import Depths, Flatness, Overhang
from gatepost.core.surface.rows import Missed
from gatepost.core.surface.seat import Seat, Seats
from gatepost.core.working import Named, Working, working


@dataclass(frozen=True)
class Pass:
    """One pass: its plane above the bed, how long, and the share of the face that has been cut by then."""

    z: float
    seconds: float
    clean: float


@dataclass(frozen=True)
class Way:
    """What one way to lay the board comes to. kept: between the finished faces, square to them; by_path: minutes over the
    plain rectangle and following the outline."""

    seat: Seat
    kept: Working
    removal: float
    passes: tuple[Pass, ...]
    by_path: Mapping[str, float] = field(default_factory=dict)

    @property
    def thickness(self) -> float:
        """What is kept, mm."""
        return self.kept.result

    @property
    def minutes(self) -> float:
        """Of all its passes."""
        return sum(p.seconds for p in self.passes) / 60.0


@dataclass(frozen=True)
class SpindleLoad:
    """What the deepest pass asks of the spindle. depth: its bite; feed: at which it would ask no more than there is."""

    depth: float
    power: Working
    available: Working
    feed: float


@dataclass(frozen=True)
class SurfacingResult:
    """The whole of a surfacing as reckoned. ways: as it lies first, shimmed after it where there are supports; lines: of
    each pass to be run, its height and the centre lines that are fed without lifting, blank XY; lowest: place of the top;
    under: height of the finished underside; other_face: whether it is one of two; back_first: what both faces keep when
    the back is cut first, mm; rough: share of the face that the last of them leaves uncut; chips: the
    thickest by share of the diameter stepped over; too_many: passes and rows of each,
    where they are more than can be worked out."""

    needed: bool
    flatness: Flatness | None
    depths: Depths | None = None
    overhang: Overhang | None = None
    missed: tuple[Missed, ...] = ()
    seconds: float = 0.0
    chip: Working | None = None
    chips: tuple[tuple[float, float], ...] = ()
    measured: bool = True
    load: SpindleLoad | None = None
    seats: Seats | None = None
    ways: tuple[Way, ...] = ()
    lines: tuple[tuple[float, tuple[NDArray[np.float64], ...]], ...] = ()
    lowest: tuple[float, float, float] = (0.0, 0.0, 0.0)
    under: float = 0.0
    rough: float = 0.0
    other_face: bool = False
    back_first: float | None = None
    too_many: tuple[int, int] | None = None

    def way(self, seat: str) -> Way | None:
        """The way that is taken: the one on shims, where there is one and it is asked for."""
        return (self.ways[-1] if seat == "shimmed" else self.ways[0]) if self.ways else None

    @property
    def heights(self) -> tuple[float, ...]:
        """Of the passes to be run, above the bed."""
        return tuple(z for z, _ in self.lines)

    @property
    def plane(self) -> float:
        """Of the last pass to be run, above the bed."""
        return self.lines[-1][0]

    @property
    def removal(self) -> Working:
        """What comes off the highest place by the passes that are run."""
        assert self.depths is not None
        full = self.depths
        if not self.lines or abs(self.plane - full.plane.result) < 1e-9:
            return full.removal
        highest = full.plane.result + full.removal.result
        return working(
            "highest - plane",
            Named("highest", highest),
            Named("plane", self.plane),
            assumption="stopped before the last pass",
        )
