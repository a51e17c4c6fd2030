# SPDX-License-Identifier: GPL-3.0-or-later
"""How a line of lettering is set: straight, round an arc or down a column, and where each of its letters stands then."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from gatepost.core.carve.glyph_outlines import bolder, inked
from gatepost.core.job.carve import TextLine

Array = NDArray[np.float64]
COLUMN_GAP = 0.25  # between the letters of a column, × height, before letter spacing
SPACE = 0.5  # of a letter's height that a space of a column takes
FULLEST = 0.97  # of its circle that a line may go round
STEEPEST = 2.331122  # rad: half the angle at which an arc of a length rises highest, where tan(a/2) = a


@dataclass(frozen=True)
class Stand:
    """A glyph of a line: its number, its outline (capital heights), where its origin stands, mm, and degrees that it is turned by to the left about that."""

    index: int
    path: str
    x: float
    y: float
    turn: float = 0.0


@dataclass(frozen=True)
class SetLine:
    """A line as it is set about X 0, its lowest foot at Y 0. wide, tall: the room it takes, mm."""

    stands: tuple[Stand, ...]
    wide: float
    tall: float


def positions(line: TextLine) -> list[int]:
    """Which character of its text each glyph is; in their order where that can't be told."""
    at, out = -1, []
    for glyph in line.glyphs:
        at = line.text.find(glyph.char, at + 1) if glyph.char else -1
        if at < 0:
            return list(range(len(line.glyphs)))
        out.append(at)
    return out


def gap_after(line: TextLine, place: int) -> float:
    """What letter spacing, and the hand, add after a character, capital heights."""
    return line.tracking + (line.kerns[place] if place < len(line.kerns) else 0.0)


def along(line: TextLine) -> tuple[list[float], float]:
    """Where each glyph's origin is along a line, and how long the line is, mm."""
    count = max(len(line.text), len(line.glyphs))
    added = np.concatenate([[0.0], np.cumsum([gap_after(line, i) for i in range(count)])])
    starts = [(g.x + float(added[p])) * line.height for g, p in zip(line.glyphs, positions(line))]
    return starts, (line.width + float(added[max(0, count - 1)])) * line.height


def set_line(line: TextLine) -> SetLine:
    """Where the letters of a line stand. One that bolder or finer strokes leave nothing of is left out."""
    paths = [bolder(g.path, line.bolder / line.height) for g in line.glyphs]
    if line.run == "column":
        return _column(line, paths)
    starts, length = along(line)
    if line.run == "straight":
        stands = [Stand(i, p, x - length / 2.0, 0.0) for i, (p, x) in enumerate(zip(paths, starts)) if p]
        return SetLine(tuple(stands), length, line.height)
    return _arc(line, paths, starts, length)


def _arc(line: TextLine, paths: Sequence[str], starts: Sequence[float], length: float) -> SetLine:
    """Round an arc that the letters' feet stand on, each turned about the middle of its ink: length/radius is the angle, radius·(1 − cos(angle/2))
    what the arc rises by."""
    over, r = line.run == "over", line.radius
    half = length / (2.0 * r)
    rise = rise_of(length, r)
    out: list[Stand] = []
    for i, (path, start) in enumerate(zip(paths, starts)):
        if not path:
            continue
        left, right = inked(path)
        middle = 0.5 * (left + right) * line.height
        at = (start + middle - length / 2.0) / r
        turn = -at if over else at
        x, y = r * math.sin(at), rise - r + r * math.cos(at) if over else r - r * math.cos(at)
        out.append(Stand(i, path, x - middle * math.cos(turn), y - middle * math.sin(turn), math.degrees(turn)))
    widest = (r + line.height if over else r) * (math.sin(half) if half < math.pi / 2.0 else 1.0)
    return SetLine(tuple(out), 2.0 * widest, rise + line.height)


def _column(line: TextLine, paths: Sequence[str]) -> SetLine:
    steps = [(SPACE if c == " " else 1.0) * line.height for c in line.text]
    gaps = [(COLUMN_GAP + gap_after(line, i)) * line.height for i in range(len(line.text))]
    tops = np.concatenate([[0.0], np.cumsum(np.add(steps, gaps))])
    tall = float(tops[-1]) - (gaps[-1] if gaps else 0.0)
    out: list[Stand] = []
    widest = 0.0
    for i, (path, place) in enumerate(zip(paths, positions(line))):
        if path:
            left, right = inked(path)
            widest = max(widest, (right - left) * line.height)
            out.append(Stand(i, path, -0.5 * (left + right) * line.height, tall - float(tops[place]) - line.height))
    return SetLine(tuple(out), widest, max(tall, line.height))


def block(lines: Sequence[TextLine], leading: float) -> tuple[float, float]:
    """How wide and how tall lines are that stand one below the other, mm."""
    done = [set_line(line) for line in lines]
    gaps = sum(leading * line.height for line in lines[1:])
    return max((d.wide for d in done), default=0.0), sum(d.tall for d in done) + gaps


# -- where a caret stands -----------------------------------------------------------------------------------------------


def caret_marks(line: TextLine) -> Array:
    """Where a caret stands before each character of a line and after the last: its foot and its top, (n + 1, 2, 2) mm, as set_line has them."""
    count, tall = len(line.text), line.height
    low, high = -0.18 * tall, 1.12 * tall
    if line.run == "column":
        done = set_line(line)
        steps = [
            (SPACE if c == " " else 1.0) * tall + (COLUMN_GAP + gap_after(line, i)) * tall
            for i, c in enumerate(line.text)
        ]
        y = done.tall + 0.5 * COLUMN_GAP * tall - np.concatenate([[0.0], np.cumsum(steps)])
        half = max(0.5 * done.wide, 0.3 * tall)
        return np.stack(
            [np.column_stack([np.full(count + 1, -half), y]), np.column_stack([np.full(count + 1, half), y])], axis=1
        )
    starts, length = along(line)
    x = np.full(count + 1, np.nan)
    x[count] = length
    after = np.full(count + 1, np.nan)  # where the ink of the character before ends
    for glyph, place, start in zip(line.glyphs, positions(line), starts):
        if place < count and np.isnan(x[place]):
            x[place] = start
            after[place + 1] = start + inked(glyph.path)[1] * tall
    x[0] = 0.0 if np.isnan(x[0]) else min(x[0], 0.0)
    known = np.where(np.isnan(x), after, x)
    at = np.flatnonzero(~np.isnan(known))
    x = np.interp(np.arange(count + 1), at, known[at]) - length / 2.0
    if line.run == "straight":
        return np.stack(
            [np.column_stack([x, np.full(count + 1, low)]), np.column_stack([x, np.full(count + 1, high)])], axis=1
        )
    r, turn = line.radius, x / line.radius
    out = (
        np.column_stack([np.sin(turn), np.cos(turn)])
        if line.run == "over"
        else np.column_stack([-np.sin(turn), np.cos(turn)])
    )
    centre = np.array([0.0, rise_of(length, r) - r]) if line.run == "over" else np.array([0.0, r])
    feet = centre + (out if line.run == "over" else -out) * r
    return np.stack([feet + out * low, feet + out * high], axis=1)


# -- arcs ----------------------------------------------------------------------------------------------------------------


def rise_of(length: float, radius: float) -> float:
    """By how much the middle of an arc of a length stands over its ends, mm: r·(1 − cos(length/2r))."""
    return radius * (1.0 - math.cos(min(length / (2.0 * radius), math.pi)))


def radius_of(length: float, rise: float) -> float:
    """The radius of an arc of a length that rises by so much, mm: the flattest there is; the one that rises highest where none rises as high."""
    share = max(rise / length, 1e-6)
    low, high = 1e-7, STEEPEST
    for _ in range(60):  # (1 - cos a)/2a grows all the way to the steepest
        half = 0.5 * (low + high)
        low, high = (half, high) if (1.0 - math.cos(half)) / (2.0 * half) < share else (low, half)
    return length / (2.0 * half)


def least_radius(line: TextLine) -> float:
    """The radius under which a line's ends meet, or the tops of letters that hang in an arc do, mm."""
    round_once = along(line)[1] / (2.0 * math.pi * FULLEST)
    return max(round_once, 1.2 * line.height) if line.run == "under" else round_once
