# SPDX-License-Identifier: GPL-3.0-or-later
"""Which unit a table or a drawing is in, where it does not say: the one question that is asked then."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from gatepost.core.units import show_length

SMALL = 60.0  # a board, a piece or a plate under so many mm is rare: the figures may be inches
INCH = 25.4


@dataclass(frozen=True)
class WhichUnit:
    """A question. ways: what each answer comes to, in words, and by how much what was read is multiplied then."""

    sentence: str
    ways: tuple[tuple[str, float], ...]


def of_table(name: str, sizes: Sequence[float], unit: str) -> WhichUnit | None:
    """Of a table that says no unit: none is asked where its figures can hardly be inches and the job is in mm. sizes: how far it reaches
    each way, its figures read as mm; unit: of the job."""
    if unit == "mm" and max(sizes, default=0.0) >= SMALL:
        return None
    return _asked(name, sizes, (("mm", 1.0), ("inches", INCH)))


def of_drawing(name: str, sizes: Sequence[float], per_unit: float, pixels: bool) -> WhichUnit:
    """Of a drawing that says no unit. sizes: as read; per_unit: mm that one unit was taken for; pixels: whether 96 to an inch were."""
    ways = (("mm", 1.0 / per_unit), ("inches", INCH / per_unit))
    return _asked(name, sizes, ((("px, 96 to an inch", 1.0),) if pixels else ()) + ways)


def _asked(name: str, sizes: Sequence[float], ways: tuple[tuple[str, float], ...]) -> WhichUnit:
    told = []
    for words, times in ways:
        inch = words == "inches"
        size = " × ".join(show_length(v * times, "inch" if inch else "mm", 2 if inch else 1) for v in sizes)
        told.append(
            (f"{size} {'in' if inch else 'mm'}" + (" (96 px to an inch)" if words.startswith("px") else ""), times)
        )
    return WhichUnit(f"{name} does not say its unit. {' or '.join(w for w, _ in told)}: which?", tuple(told))
