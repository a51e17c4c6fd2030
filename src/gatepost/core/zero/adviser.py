# SPDX-License-Identifier: GPL-3.0-or-later
"""Advice for X0 Y0 and for Z0 from this job, as short tables; the operator decides."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

from gatepost.core.units import mm

Row = tuple[str, ...]


@dataclass(frozen=True)
class Spot:
    """A place that X0 Y0 could be at. stays: whether it survives the cutting; wood: whether there is wood to touch there;
    under: the hold that covers it, or nothing; reached: whether the tip can be brought there; shifts: how much an error
    of the blank's size moves the work, mm; chosen: whether it is the zero now."""

    name: str
    stays: bool
    wood: bool
    under: str
    reached: bool
    shifts: float
    chosen: bool = False

    @property
    def against(self) -> int:
        """How much speaks against it."""
        return 4 * (not self.wood) + 4 * bool(self.under) + 4 * (not self.reached) + 2 * (not self.stays)


def best(spots: Sequence[Spot]) -> Spot:
    """The place with the least against it; of those, the one that an error of the blank's size moves least."""
    return min(spots, key=lambda s: (s.against, s.shifts))


def xy_table(spots: Sequence[Spot]) -> tuple[str, tuple[Row, ...]]:
    """X0 Y0: what speaks for and against each place."""
    rows: list[Row] = [("X0 Y0 at", "stays", "to touch", "size error")]
    for s in spots:
        touch = (
            f"under {s.under}" if s.under else "no wood" if not s.wood else "out of reach" if not s.reached else "yes"
        )
        rows.append(
            (
                f"{'● ' if s.chosen else ''}{s.name}",
                "yes" if s.stays else "cut away" if s.wood else "–",
                touch,
                mm(s.shifts, 2) if s.shifts else "none",
            )
        )
    return f"X0 Y0 from this job: least against it {best(spots).name}", tuple(rows)


@dataclass(frozen=True)
class ZChoice:
    """What Z0 on the top or on the bed costs. spread: of the wood's thickness, mm; angle: of the V, degrees, or nothing;
    through: whether anything is cut through; chosen: top or bed."""

    spread: float
    angle: float | None
    through: bool
    chosen: str

    @property
    def stroke(self) -> float:
        """How much a stroke's width changes over the spread, mm, with Z0 on the bed."""
        return 2.0 * self.spread * math.tan(math.radians(self.angle / 2.0)) if self.angle else 0.0

    @property
    def better(self) -> str:
        """What suits this job: the top where letters show a height error, else the bed where anything goes through."""
        return "top" if self.angle else "bed" if self.through else "top"


def z_table(z: ZChoice) -> tuple[str, tuple[Row, ...]]:
    """Z0: what each plane costs."""

    def name(plane: str) -> str:
        return f"{'● ' if z.chosen == plane else ''}{plane}"

    top = (name("top"), "as drawn", f"± {mm(z.spread, 2)}" if z.through and z.spread > 0.005 else "as asked")
    bed = (name("bed"), f"± {mm(z.stroke, 2)}" if z.stroke > 0.005 else "as drawn", "as asked")
    rows = (("Z0 on", "strokes", "into the bed"), top, bed)
    return f"Z0 from this job: {z.better}, by a spread of {mm(z.spread, 2)}", rows
