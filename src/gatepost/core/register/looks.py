# SPDX-License-Identifier: GPL-3.0-or-later
"""A piece proved before it is cut: the tip is brought over marks and how far each lies beside it is typed, or a shallow ring is cut round an old hole and its
width is measured all round. What misses says where the piece really lies.

A ring of radius R whose middle lies by (a, b) beside that of a hole of radius r is, measured from the hole's rim outward, to the right √(R² − b²) − a − r wide and to the
left √(R² − b²) + a − r: half their difference is a, whatever R, r and b. The hole lies by (widest − narrowest)/2 off the ring's middle over all directions.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

from gatepost.core.errors import OperatorError
from gatepost.core.register.fit import Fit, FitVerdict, Residual
from gatepost.core.register.marks import MOST_TURN, ReadMark, fit_of
from gatepost.core.register.moved import NOT_MOVED, Moved
from gatepost.core.units import mm

WIDTH = 0.05  # mm that calipers tell a ring's width to
LEAST_LOOK = 0.1  # mm; no eye over a tip is taken to tell less
UNLIKE = (
    1.0  # mm by which a ring may be as wide otherwise than drawn: an old hole is seldom as large as it is said to be
)


@dataclass(frozen=True)
class Looked:
    """Marks of a setup as they were looked at. ids, marks: as they are drawn on the bed, each read where it was seen; seen: ids of those that were; limit: how far
    one may seem to lie off with nothing wrong, mm; skew: degrees that the piece is taken to lie turned by; fit: where all were."""

    ids: tuple[str, ...]
    marks: tuple[ReadMark, ...]
    seen: frozenset[str]
    limit: float
    skew: float = 0.0
    fit: Fit | None = None

    @property
    def complete(self) -> bool:
        """Whether each was looked at."""
        return bool(self.ids) and self.seen == set(self.ids)

    @property
    def worst(self) -> float:
        """How far the one that lies farthest off lies beside the tip, mm; of an edge along its normal."""
        return max((miss(m) for i, m in zip(self.ids, self.marks) if i in self.seen), default=0.0)

    @property
    def agrees(self) -> bool:
        """Whether all lie where they should, as well as can be seen."""
        return self.worst <= self.limit

    @property
    def move(self) -> Moved:
        """What the piece, and X0 Y0 with it, is moved by where they are taken."""
        return Moved(self.fit.turn, *self.fit.shift) if self.fit is not None and self.stands else NOT_MOVED

    @property
    def stands(self) -> bool:
        """Whether they say together where the piece lies."""
        good = self.fit is not None and self.fit.verdict is FitVerdict.FITS
        return good and self.fit is not None and abs(self.skew + self.fit.turn) <= MOST_TURN

    @property
    def sure(self) -> bool:
        """Whether one of them that is wrong would have shown."""
        return self.stands and len(self.marks) > 2


def miss(m: ReadMark) -> float:
    """How far a mark lies beside the tip that is brought over it, mm; of an edge square to it."""
    a, b = m.read[0] - m.drawn[0], m.read[1] - m.drawn[1]
    if m.normal is None:
        return math.hypot(a, b)
    angle = math.radians(m.normal)
    return abs(a * math.cos(angle) + b * math.sin(angle))


def looked(
    ids: Sequence[str], marks: Sequence[ReadMark], seen: frozenset[str], limit: float, skew: float, good: float
) -> Looked:
    """good: how far a mark may lie beside where all together have it, mm."""
    told = Looked(tuple(ids), tuple(marks), seen, limit, skew)
    if not told.complete:
        return told
    return Looked(told.ids, told.marks, seen, limit, skew, _fit(told.marks, good))


def _fit(marks: tuple[ReadMark, ...], good: float) -> Fit:
    """Of several as marks that are read; one hole or point alone tells a shift, and no turn."""
    if len(marks) > 1 or marks[0].normal is not None:
        return fit_of(marks, good, faced=True)
    (m,) = marks
    shift = (m.read[0] - m.drawn[0], m.read[1] - m.drawn[1])
    sentence = f"{m.name} alone says that the piece lies {said(shift)}; one mark can't tell a turn."
    return Fit(0.0, shift, 1.0, (Residual(m.name, 0.0, 0.0),), FitVerdict.FITS, sentence)


def said(off: tuple[float, float]) -> str:
    """A shift in words."""
    named = ((off[0], "right", "left"), (off[1], "back", "front"))
    ways = [f"{mm(abs(v), 2)} to the {more if v > 0 else less}" for v, more, less in named if abs(v) >= 0.005]
    return " and ".join(ways) or "where it should"


def lies(looks: Looked) -> str:
    """Where the piece lies by marks that fit, in words."""
    assert looks.fit is not None
    x, y = (sum(m.drawn[k] for m in looks.marks) / len(looks.marks) for k in (0, 1))
    there = looks.move.there(x, y)
    turn = f", turned by {looks.fit.turn:.2f}°" if abs(looks.fit.turn) >= 0.005 else ""
    alone = " One mark can't tell a turn." if len(looks.marks) == 1 else ""
    middle = "It lies" if len(looks.marks) == 1 else "In the middle of them it lies"
    return f"{middle} {said((there[0] - x, there[1] - y))}{turn}.{alone}"


def to_take(looks: Looked | None) -> str:
    """What comes of taking what was seen, in words; nothing before all was."""
    if looks is None or not looks.complete:
        return ""
    if looks.agrees:
        return f"All lie within {mm(looks.worst, 2)}, and {mm(looks.limit, 2)} is nothing: nothing is changed."
    if not looks.stands:
        return f"{looks.fit.sentence if looks.fit is not None else ''} They are not taken: look again, or lay the piece anew."
    return f"{lies(looks)} X0 Y0 follows, and the programs are turned."


def ring_told(
    right: float,
    back: float,
    left: float,
    front: float,
    ring: float,
    hole: float,
    tilt: tuple[float, float] = (0.0, 0.0),
) -> tuple[float, float]:
    """Where a hole lies of its ring's middle, to the right and to the back, less what tilt gives, mm: by four widths of the ring, measured from the hole's rim outward. ring, hole: their diameters as drawn; tilt: by how much a board
    that lies tilted has the hole lie otherwise, mm. Raises OperatorError where the widths can't be of one ring round one hole."""
    widths = (right, back, left, front)
    if any(w < 0.0 for w in widths):
        raise OperatorError("A width is never less than 0: where the ring runs out into nothing, type 0.")
    drawn = 0.5 * (ring - hole)
    a, b = 0.5 * (left - right), 0.5 * (front - back)
    along, across = 0.5 * (left + right), 0.5 * (front + back)
    radius = 0.5 * ring
    bend = (math.sqrt(max(radius**2 - b**2, 0.0)), math.sqrt(max(radius**2 - a**2, 0.0)))
    apart = (along - bend[0]) - (across - bend[1])  # the hole's radius told twice
    if abs(apart) > 4.0 * WIDTH:
        raise OperatorError(
            f"The four widths do not go together: left and right come to {mm(2.0 * along, 2)}, front and back to {mm(2.0 * across, 2)}, and the hole would not be round. Measure them again, from rim to rim through its middle."
        )
    if abs(along - drawn) > UNLIKE:
        raise OperatorError(
            f"The ring would be {mm(along, 2)} wide, and {mm(drawn, 2)} is drawn: measure from the hole's rim to the ring's outer edge, or say how wide the hole really is."
        )
    return a - tilt[0], b - tilt[1]


def tilted(thickness: float, length: float, width: float, right: float, back: float) -> tuple[float, float]:
    """Where the top of a board that lies higher at its right end, or at its back, by so much lies beside where it would lie flat: to the right and to the back, mm. It leans
    away from the end that is higher, by its thickness times the slope."""
    return -thickness * right / length, -thickness * back / width
