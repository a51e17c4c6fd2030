# SPDX-License-Identifier: GPL-3.0-or-later
"""Whether the letters of one line run into those of the next, and how far apart the lines must stand then."""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence

import shapely

from gatepost.core.carve.lettering import CutLetter

NEAR = 0.3  # mm between the letters of two lines, under which they are said to meet
CLEAR = 1.0  # mm that they are set apart then
STEPS = 24  # halvings


def nearest(upper: Sequence[CutLetter], lower: Sequence[CutLetter]) -> tuple[float, CutLetter, CutLetter] | None:
    """The two letters of two lines that come nearest to each other, and their distance, mm; none where none come within NEAR."""
    found = [(float(shapely.distance(a.outline(), b.outline())), a, b) for a, b in _near(upper, lower)]
    close = [one for one in found if one[0] < NEAR - 1e-9]
    return min(close, key=lambda one: one[0]) if close else None


def _near(upper: Sequence[CutLetter], lower: Sequence[CutLetter]) -> Iterator[tuple[CutLetter, CutLetter]]:
    """Pairs whose boxes come within NEAR."""
    boxes = [b.outline().bounds for b in lower]
    for a in upper:
        x0, y0, x1, y1 = a.outline().bounds
        for b, (u0, v0, u1, v1) in zip(lower, boxes):
            if max(u0 - x1, x0 - u1) < NEAR and max(v0 - y1, y0 - v1) < NEAR:
                yield a, b


def apart(upper: Sequence[CutLetter], lower: Sequence[CutLetter]) -> float:
    """By how much a line must stand lower to come no nearer than CLEAR, mm; by halving, never less than is needed."""
    above = shapely.union_all([a.outline() for a in upper])
    below = shapely.union_all([b.outline() for b in lower])
    low, high = 0.0, max(below.bounds[3] - above.bounds[1] + CLEAR, 0.0)
    for _ in range(STEPS):
        middle = 0.5 * (low + high)
        moved = shapely.transform(below, lambda p, d=middle: p - [0.0, d])
        low, high = (low, middle) if shapely.distance(above, moved) >= CLEAR else (middle, high)
    return float(high)


def by_line(letters: Sequence[CutLetter]) -> list[list[CutLetter]]:
    """Letters by their line, lines without any left out."""
    lines: dict[int, list[CutLetter]] = {}
    for letter in letters:
        if not letter.cut.area.is_empty:
            lines.setdefault(letter.placed.line, []).append(letter)
    return [lines[n] for n in sorted(lines)]


def leading_wanted(letters: Sequence[CutLetter], leading: float) -> float:
    """The line spacing with which no line runs into the next, in heights of the lower one, to a hundredth."""
    more = 0.0
    lines = by_line(letters)
    for upper, lower in zip(lines, lines[1:]):
        if nearest(upper, lower) is not None:
            more = max(more, apart(upper, lower) / lower[0].placed.scale)
    return math.ceil(100.0 * (leading + more) - 1e-6) / 100.0
