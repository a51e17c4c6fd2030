# SPDX-License-Identifier: GPL-3.0-or-later
"""A piece fitted to marks that were measured on it: its turn and shift by least squares, and what its residuals say.

A fit is rigid: measured = R(turn) · M · drawn + shift, with M the mirror of a piece that was turned over. A scale is shown and never
fitted, since a rigid fit hides it. What does not fit is explained by one thing at a time (one mark is wrong, edges were touched on a
chamfer, the drawing is another size), and named only where no other explains it as well.

The turn is the angle of the sum of conj(drawn) · measured about their middles, as complex numbers: the closed form of the two-dimensional
orthogonal Procrustes problem (Schönemann, A generalized solution of the orthogonal Procrustes problem, 1966, of rotations alone).
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from enum import Enum
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from gatepost.core.units import mm

Points = NDArray[np.complex128]
Turned = Literal["", "X", "Y"]
GOOD_TO = 0.1  # mm that the largest residual may be where nothing else is asked
LEAST_APART = 1.0  # mm that two of the marks lie apart at least
SURE = 2.5  # times better that the best of two explanations is where it is taken
BARELY = 1.5  # times what is good enough that all others are at least where one mark is named
ALIKE = 1.0 / 3.0  # of their mean that residuals along their normals differ by where they are all alike
WIDEST = 15.0  # mm that a chamfer, or a pin's radius, is at the most
FACING = -0.7  # cosine between two normals of opposite sides at the most
ROUNDS = 60


class FitVerdict(Enum):
    """What the residuals say."""

    FITS = "fits"
    ODD = "odd one out"
    UNSURE = "can't tell"
    CHAMFER = "chamfer or pin radius"
    SCALE = "scale"
    REFUSED = "refused"


@dataclass(frozen=True)
class MeasuredMark:
    """A feature of the drawing that was measured: mm on the drawing, and mm where the machine found it. normal: outward on the drawing, degrees
    anticlockwise from +X; nothing for what has none, as a hole's centre."""

    name: str
    drawn: tuple[float, float]
    measured: tuple[float, float]
    normal: float | None = None


@dataclass(frozen=True)
class Residual:
    """Measured less fitted, mm. along: along its own outward normal as it lies, nothing where it has none."""

    name: str
    x: float
    y: float
    along: float | None = None

    @property
    def off(self) -> float:
        """How far, mm."""
        return math.hypot(self.x, self.y)


@dataclass(frozen=True)
class Fit:
    """turn: degrees anticlockwise about the drawing's 0, 0; shift: mm; scale: measured over drawn, shown and not fitted; odd: the mark that is left
    out of it; moments: of drawn by measured, about their middles and summed up: along each other, across, and of drawn by itself, mm²; sentence: what there is to say, lengths in brackets as everywhere."""

    turn: float
    shift: tuple[float, float]
    scale: float
    residuals: tuple[Residual, ...]
    verdict: FitVerdict
    sentence: str
    odd: str | None = None
    moments: tuple[float, float, float] = (0.0, 0.0, 0.0)

    @property
    def worst(self) -> Residual | None:
        """The largest of those that the fit is made of."""
        return max((r for r in self.residuals if r.name != self.odd), key=lambda r: r.off, default=None)


@dataclass(frozen=True)
class _Set:
    """Marks as complex numbers: drawn and mirrored, measured, and the outward normals of the mirrored drawing, 0 where there is none."""

    names: tuple[str, ...]
    drawn: Points
    measured: Points
    normal: Points

    def without(self, i: int) -> _Set:
        keep = np.arange(len(self.drawn)) != i
        return _Set(
            tuple(n for k, n in enumerate(self.names) if k != i),
            self.drawn[keep],
            self.measured[keep],
            self.normal[keep],
        )


def fitted(marks: Sequence[MeasuredMark], turned: Turned = "", good_to: float = GOOD_TO, faced: bool = False) -> Fit:
    """The fit of some marks, and what it says. turned: the axis that the piece was turned about; good_to: the largest residual with which it
    fits, mm; faced: whether it is known which face is up."""
    of = _set_of(marks, turned)
    why = _refused(of, 0.0 if faced else good_to)
    if why:
        return Fit(0.0, (0.0, 0.0), 1.0, (), FitVerdict.REFUSED, why)
    turn, shift = _rigid(of.drawn, of.measured)
    left = _left(of, turn, shift)
    if np.abs(left).max() <= good_to:
        return _told(of, turn, shift, FitVerdict.FITS, _fits(of, turn, left, good_to))
    other = math.inf if faced else _other_face(of)
    found = _explained(of, good_to) if other > good_to else None
    if found is None and other <= good_to and len(of.drawn) > 2:
        worst = float(np.abs(left).max())
        words = f"They lie up to {mm(worst)} beside their places as asked, and {mm(other)} with the other face up: which was up when they were measured?"
        return _told(of, turn, shift, FitVerdict.UNSURE, words)
    if found is None:
        return _told(of, turn, shift, FitVerdict.UNSURE, _unsure(of, left))
    verdict, value = found
    if verdict is FitVerdict.ODD:
        odd = int(value)
        turn, shift = _rigid(of.without(odd).drawn, of.without(odd).measured)
        off = abs(_left(of, turn, shift)[odd])
        sentence = (
            f"{of.names[odd]} lies {mm(float(off))} beside what the others say, and they agree. Measure it again."
        )
        return _told(of, turn, shift, verdict, sentence, odd)
    if verdict is FitVerdict.CHAMFER:
        return _told(of, turn, shift, verdict, _beside_edges(value))
    way = "longer" if value > 1.0 else "shorter"
    sentence = (
        f"All measured distances are {abs(value - 1.0) * 100.0:.2f} % {way} than they are drawn: the drawing is another size, or the wood has moved. "
        "Turn and shift are those of the drawing as it is."
    )
    return _told(of, turn, shift, verdict, sentence)


def mirror(turned: Turned) -> NDArray[np.float64]:
    """The matrix of a piece that was turned over about an axis: about X its y changes sign."""
    return np.diag({"": (1.0, 1.0), "X": (1.0, -1.0), "Y": (-1.0, 1.0)}[turned])


def _set_of(marks: Sequence[MeasuredMark], turned: Turned) -> _Set:
    m = mirror(turned)
    drawn = np.array([k.drawn for k in marks], float).reshape(-1, 2) @ m
    measured = np.array([k.measured for k in marks], float).reshape(-1, 2)
    angles = np.radians([0.0 if k.normal is None else k.normal for k in marks])
    normal = np.column_stack([np.cos(angles), np.sin(angles)]).reshape(-1, 2) @ m
    normal[[k.normal is None for k in marks]] = 0.0
    return _Set(tuple(k.name for k in marks), _complex(drawn), _complex(measured), _complex(normal))


def _complex(points: NDArray[np.float64]) -> Points:
    return np.asarray(points[:, 0] + 1j * points[:, 1], np.complex128)


def _refused(of: _Set, good_to: float) -> str:
    """Why nothing can be fitted, or nothing."""
    if len(of.drawn) < 2:
        return "Two marks at least are wanted, three or more to see whether one is wrong."
    if float(np.abs(of.drawn[:, None] - of.drawn[None, :]).max()) < LEAST_APART:
        return "All marks are drawn at one place: they say where that is, and nothing of how the piece is turned. Measure one far from it."
    if good_to and len(of.drawn) > 2 and 2.0 * _beside_line(of.drawn) <= 3.0 * good_to:
        return (
            "All marks lie on one line: they can't say whether the piece was turned over. Measure one beside that line."
        )
    return ""


def _beside_line(points: Points) -> float:
    """How far the farthest point lies beside the line that fits all best."""
    c = points - points.mean()
    ahead = np.exp(0.5j * np.angle(np.sum(c * c)))  # of the least sum of squares square to it
    return float(np.abs((c * np.conj(ahead)).imag).max())


def _rigid(drawn: Points, measured: Points) -> tuple[float, complex]:
    """Turn in radians, and shift, of the least squares."""
    a, b = drawn.mean(), measured.mean()
    turn = float(np.angle(np.sum(np.conj(drawn - a) * (measured - b))))
    return turn, complex(b - np.exp(1j * turn) * a)


def _left(of: _Set, turn: float, shift: complex) -> Points:
    """Measured less fitted."""
    return np.asarray(of.measured - (np.exp(1j * turn) * of.drawn + shift))


def _scale(of: _Set) -> float:
    """Measured over drawn of the least squares with a scale."""
    p, q = of.drawn - of.drawn.mean(), of.measured - of.measured.mean()
    return float(abs(np.sum(np.conj(p) * q)) / np.sum(np.abs(p) ** 2))


def _explained(of: _Set, good_to: float) -> tuple[FitVerdict, float] | None:
    """The one thing that explains what does not fit; nothing where none does, or two do as well. With it: the number of the mark, the mm
    along the normals, or the scale."""
    if len(of.drawn) < 3:
        return None
    ways: list[tuple[float, FitVerdict, float]] = []  # with the largest residual that it leaves
    ways += _by_one_mark(of, good_to)
    ways += _by_edges(of, good_to)
    scale = _scale(of)
    larger = _Set(of.names, of.drawn * scale, of.measured, of.normal)
    left = float(np.abs(_left(larger, *_rigid(larger.drawn, larger.measured))).max())
    ways += [(left, FitVerdict.SCALE, scale)] if left <= good_to else []
    ways.sort(key=lambda w: w[0])
    if len(of.drawn) == 3 and len(ways) > 1:
        return None  # two marks always fit as well as their distance does
    if len(ways) > 1 and FitVerdict.ODD in (ways[0][1], ways[1][1]) and ways[1][0] < SURE * ways[0][0]:
        return None
    if len(ways) > 1 and ways[1][1] is FitVerdict.CHAMFER and ways[1][0] < SURE / 2.0 * ways[0][0]:
        return ways[1][1:]  # of a square both say the same: an edge is touched sooner than wood grows
    return ways[0][1:] if ways else None


def _by_one_mark(of: _Set, good_to: float) -> list[tuple[float, FitVerdict, float]]:
    """One mark is wrong where all the others agree, and no other mark left out does it."""
    worst = []
    for i in range(len(of.drawn)):
        rest = of.without(i)
        worst.append(float(np.abs(_left(rest, *_rigid(rest.drawn, rest.measured))).max()))
    order = np.argsort(worst)
    best, second = worst[order[0]], worst[order[1]]
    if best > good_to or second < max(BARELY * good_to, SURE * best):
        return []
    return [(best, FitVerdict.ODD, float(order[0]))]


def _by_edges(of: _Set, good_to: float) -> list[tuple[float, FitVerdict, float]]:
    """All edges that were touched lie as far beside what is drawn, opposite ones among them."""
    if not _opposite(of):
        return []
    turn, shift = _rigid(of.drawn, of.measured)
    d = 0.0
    for _ in range(ROUNDS):
        turn, shift = _rigid(of.drawn + d * of.normal, of.measured)
        along = (np.conj(np.exp(1j * turn) * of.normal) * (of.measured - np.exp(1j * turn) * of.drawn - shift)).real
        d = float(along[np.abs(of.normal) > 0.5].mean())
    turn, shift = _rigid(of.drawn + d * of.normal, of.measured)
    wider = _Set(of.names, of.drawn + d * of.normal, of.measured, of.normal)
    left = float(np.abs(_left(wider, turn, shift)).max())
    return [(left, FitVerdict.CHAMFER, d)] if abs(d) <= WIDEST and left <= max(good_to, ALIKE * abs(d) / 2.0) else []


def _opposite(of: _Set) -> bool:
    """Whether edges of opposite sides are among the marks."""
    n = of.normal[np.abs(of.normal) > 0.5]
    return bool(len(n) > 1 and (np.conj(n[:, None]) * n[None, :]).real.min() <= FACING)


def _told(of: _Set, turn: float, shift: complex, verdict: FitVerdict, sentence: str, odd: int | None = None) -> Fit:
    left = _left(of, turn, shift)
    along = (np.conj(np.exp(1j * turn) * of.normal) * left).real
    residuals = tuple(
        Residual(name, float(v.real), float(v.imag), float(a) if abs(n) > 0.5 else None)
        for name, v, a, n in zip(of.names, left, along, of.normal)
    )
    scale = _scale(of if odd is None else of.without(odd))
    name = None if odd is None else of.names[odd]
    of = of if odd is None else of.without(odd)
    p, q = of.drawn - of.drawn.mean(), of.measured - of.measured.mean()
    by = complex(np.sum(np.conj(p) * q))
    moments = (by.real, by.imag, float(np.sum(np.abs(p) ** 2)))
    return Fit(math.degrees(turn), (shift.real, shift.imag), scale, residuals, verdict, sentence, name, moments)


def _fits(of: _Set, turn: float, left: Points, good_to: float) -> str:
    worst = int(np.argmax(np.abs(left)))
    words = f"They fit: {of.names[worst]} lies {mm(float(np.abs(left[worst])))} beside its place, the others nearer. Turned by {math.degrees(turn):.3f}°."
    across = 2.0 * float(np.abs(of.drawn - of.drawn.mean()).max())
    if len(of.drawn) == 2:
        words += " Two marks can't say which of them is wrong: measure a third."
    elif abs(_scale(of) - 1.0) * across > good_to:
        words += f" Distances are {(_scale(of) - 1.0) * 100.0:+.2f} % of what is drawn."
    edges = np.abs(of.normal) > 0.5
    if edges.any() and not _opposite(of):
        words += " No opposite edges were touched: a chamfer on them, or a pin's radius miscounted, would be a shift that is not seen."
    return words


def _other_face(of: _Set) -> float:
    """The largest residual with the other face up, mm."""
    flipped = _Set(of.names, np.conj(of.drawn), of.measured, of.normal)
    return float(np.abs(_left(flipped, *_rigid(flipped.drawn, flipped.measured))).max())


def _unsure(of: _Set, left: Points) -> str:
    worst = float(np.abs(left).max())
    if len(of.drawn) == 2:
        longer = float(np.abs(of.measured[1] - of.measured[0]) - np.abs(of.drawn[1] - of.drawn[0]))
        way = "farther apart" if longer > 0.0 else "nearer to each other"
        return (
            f"The two lie {mm(abs(longer))} {way} than they are drawn: one is wrong, or the drawing is another size. "
            "Which, only more marks can say."
        )
    more = "Three marks can seldom say which." if len(of.drawn) == 3 else "No single one explains it."
    return f"They lie up to {mm(worst)} beside their places. {more} Measure again, and one or two marks more."


def _beside_edges(d: float) -> str:
    way = "outside" if d > 0.0 else "inside"
    return (
        f"Every edge was found {mm(abs(d))} {way} of where it is drawn: they were touched on a chamfer, or the radius of a pin {mm(2.0 * abs(d))} thick was left out "
        f"or counted twice, or the drawing is another size. Turn and shift are good all the same where opposite edges were touched alike."
    )
