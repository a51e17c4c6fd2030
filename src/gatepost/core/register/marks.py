# SPDX-License-Identifier: GPL-3.0-or-later
"""A piece found by marks that were measured on it: what was read, as places that can be held beside the drawing, and what the fit is good to.

An edge is touched along its own normal: where along it that was says nothing, so that it counts by its normal alone. A hole's centre, or a point of old
lettering, counts both ways. Turn and shift are those of least squares over all of these (Gauss, Newton: a piece lies nearly as it was meant to).
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from gatepost.core.register.fit import GOOD_TO, Fit, FitVerdict, MeasuredMark, fitted
from gatepost.core.register.moved import NOT_MOVED, Moved
from gatepost.core.working import Named, Working

Array = NDArray[np.float64]
MOST_TURN = 10.0  # degrees that programs are turned by at the most
GOOD = (FitVerdict.FITS, FitVerdict.CHAMFER)
ROOM = 0.25  # mm that a pin has on every side of it in its hole, beside what it is brought there by eye to
STEPS, STILL = 30, 1e-10
LEAST = 1e-4  # of the largest, that the least of what three numbers are known by is at least
ROUND = 720  # directions in which the worst shift is looked for


@dataclass(frozen=True)
class ReadMark:
    """A mark as it was read. drawn: where it is meant to be, read: where the machine stood, both on the bed, mm; normal: outward of an edge, degrees, as it is
    meant to lie; radius: of what touched it; within: what a reading of it is good to, mm; across: of a hole whose wall the pin touches, 0 for what is looked at."""

    name: str
    drawn: tuple[float, float]
    read: tuple[float, float]
    normal: float | None = None
    radius: float = 0.0
    within: float = 0.0
    across: float = 0.0


def by_pin(across: float, pin: float, eye: float) -> bool:
    """Whether a pin can be put into a hole, as well as it is looked at, and its wall touched."""
    return across >= pin + 2.0 * (eye + ROOM)


@dataclass(frozen=True)
class FoundAgain:
    """What marks say of a setup. ids: of its marks; marks: as they are meant to lie, each with what was read of it; read: ids of those that were; fit: where all
    were; skew: degrees that it is meant to lie turned by."""

    ids: tuple[str, ...]
    marks: tuple[ReadMark, ...]
    read: frozenset[str]
    fit: Fit | None = None
    skew: float = 0.0

    def meant(self, x: float, y: float) -> tuple[float, float]:
        """Where what is found at a place on the bed was meant to be."""
        return self.move.back(x, y)

    @property
    def move(self) -> Moved:
        """From where the piece was meant to lie to where they have it."""
        return Moved(self.fit.turn, *self.fit.shift) if self.fit is not None else NOT_MOVED

    @property
    def stands(self) -> bool:
        """Whether the piece is taken to lie as they say."""
        return self.fit is not None and self.fit.verdict in GOOD and abs(self.skew + self.fit.turn) <= MOST_TURN


def fit_of(marks: Sequence[ReadMark], good_to: float = GOOD_TO, faced: bool = False) -> Fit:
    """The fit of some marks, and what it says. Turned about the bed's 0. faced: whether it is known which face is up."""
    if _rank(marks) < 3:
        words = (
            "These marks leave the piece free to slide or to turn. Measure an edge that runs another way, or a hole."
        )
        return Fit(0.0, (0.0, 0.0), 1.0, (), FitVerdict.REFUSED, words)
    turn, shift = turn_and_shift(marks)
    return fitted([_beside(m, turn, shift) for m in marks], "", good_to, faced)


def _normal(m: ReadMark, turn: float) -> Array:
    angle = math.radians(m.normal or 0.0) + turn
    return np.array([math.cos(angle), math.sin(angle)])


def _turned(p: Sequence[float], turn: float) -> Array:
    c, s = math.cos(turn), math.sin(turn)
    return np.array([c * p[0] - s * p[1], s * p[0] + c * p[1]])


def _beside(m: ReadMark, turn: float, shift: Array) -> MeasuredMark:
    """What was read, as a place of the feature itself; of an edge that place of it that is drawn."""
    read = np.array(m.read)
    if m.normal is None:
        return MeasuredMark(m.name, m.drawn, m.read)
    n = _normal(m, turn)
    meant = _turned(m.drawn, turn) + shift
    there = meant + n * float(n @ (read - m.radius * n - meant))
    return MeasuredMark(m.name, m.drawn, (float(there[0]), float(there[1])), m.normal)


def rows_of(marks: Sequence[ReadMark], turn: float, shift: Array) -> tuple[Array, Array, Array]:
    """How each reading moves with turn and shift, (rows, 3); what it is off by; what each is good to. turn: radians."""
    ways, off, good = [], [], []
    for m in marks:
        meant = _turned(m.drawn, turn)
        lever = np.array([-meant[1], meant[0]])
        left = np.array(m.read) - meant - shift
        if m.normal is None:
            ways += [[lever[0], 1.0, 0.0], [lever[1], 0.0, 1.0]]
            off += [left[0], left[1]]
            good += [m.within, m.within]
        else:
            n = _normal(m, turn)
            ways.append([float(n @ lever), n[0], n[1]])
            off.append(float(n @ left) - m.radius)
            good.append(m.within)
    return np.array(ways).reshape(-1, 3), np.array(off), np.array(good)


def turn_and_shift(marks: Sequence[ReadMark]) -> tuple[float, Array]:
    """Of least squares over marks that leave nothing free: radians about the bed's 0, and mm after it."""
    turn, shift = 0.0, np.zeros(2)
    middle = np.mean([m.drawn for m in marks], axis=0)
    about = [_about(m, middle) for m in marks]
    for _ in range(STEPS):
        ways, off, _good = rows_of(about, turn, shift)
        step, *_rest = np.linalg.lstsq(ways, off, rcond=None)
        turn, shift = turn + float(step[0]), shift + step[1:]
        if np.abs(step).max() < STILL:
            break
    return turn, shift + middle - _turned(middle, turn)


def _about(m: ReadMark, middle: Array) -> ReadMark:
    """Told from the middle of all: turn and shift go well together then."""
    drawn, read = np.array(m.drawn) - middle, np.array(m.read) - middle
    return ReadMark(m.name, (drawn[0], drawn[1]), (read[0], read[1]), m.normal, m.radius, m.within)


def _rank(marks: Sequence[ReadMark]) -> int:
    if not marks:
        return 0
    middle = np.mean([m.drawn for m in marks], axis=0)
    ways, _off, _good = rows_of([_about(m, middle) for m in marks], 0.0, np.zeros(2))
    ways[:, 0] /= max(float(np.abs(ways[:, 0]).max()), 1.0)
    return int(np.linalg.matrix_rank(ways, tol=LEAST * max(1.0, float(np.abs(ways).max()))))


def shifted_at_worst(marks: Sequence[ReadMark], places: Array) -> tuple[int, Working] | None:
    """By how much the place that is worst off of some, (n, 2) on the bed, may lie beside where it is drawn when each reading is off by as much as it may be;
    which, and the sum; nothing where the marks leave the piece free.

    A place's shift is linear in the readings: along any direction u it is their weights' sum of amounts, and the worst of all directions is looked for.
    """
    if _rank(marks) < 3 or not len(places):
        return None
    middle = np.mean([m.drawn for m in marks], axis=0)
    ways, _off, good = rows_of([_about(m, middle) for m in marks], 0.0, np.zeros(2))
    back = np.linalg.pinv(ways)  # (3, rows)
    worst, which, shares = 0.0, 0, np.zeros(len(good))
    angle = np.linspace(0.0, math.pi, ROUND, endpoint=False)
    u = np.column_stack([np.cos(angle), np.sin(angle)])
    for k, (x, y) in enumerate(np.asarray(places) - middle):
        here = np.array([[-y, 1.0, 0.0], [x, 0.0, 1.0]]) @ back  # (2, rows)
        each = np.abs(u @ here)
        total = each @ good
        best = int(np.argmax(total))
        if total[best] > worst:
            worst, which, shares = float(total[best]), k, each[best]
    amounts = sorted({round(float(g), 6) for g in good})
    names = [
        Named(f"weight_{n}", float(shares[np.isclose(good, g)].sum()), "number") for n, g in enumerate(amounts, start=1)
    ]
    values = [Named(f"reading_{n}", g) for n, g in enumerate(amounts, start=1)]
    expression = " + ".join(f"{w.name} * {v.name}" for w, v in zip(names, values))
    total_now = sum(w.value * v.value for w, v in zip(names, values))
    said = "every reading is off by all that it may be, each the way that does most; the worst of all directions"
    return which, Working(expression, tuple(x for pair in zip(names, values) for x in pair), total_now, "length", said)
