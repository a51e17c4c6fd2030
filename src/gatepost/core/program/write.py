# SPDX-License-Identifier: GPL-3.0-or-later
"""RS-274 programs, written in the dialect that a machine's control understands."""

from __future__ import annotations

import re
from dataclasses import dataclass

from gatepost.core.job.model import Dialect, Tool
from gatepost.core.motion import Moves


@dataclass(frozen=True)
class Head:
    """What a program says at its head. reason: why it is not to be run, or nothing."""

    job: str
    setup: str
    tool: Tool
    zero: str
    fingerprint: str
    reason: str = ""


def plain_text(words: str) -> str:
    """Words fit for a bracketed comment: ASCII, no brackets."""
    return re.sub(r"[^A-Za-z0-9 .,:+\-/*=]", "", words.replace("–", "-").replace("−", "-").replace("·", "-")).strip()


class _Writer:
    """Modal words are written only when they change."""

    def __init__(self, dialect: Dialect) -> None:
        self.d = dialect
        self.lines: list[str] = []
        self._modal: dict[str, str] = {}

    def comment(self, words: str) -> None:
        text = plain_text(words)
        if self.d.comments == "brackets":
            self.lines.append(f"({text})")
        elif self.d.comments == "semicolon":
            self.lines.append(f"; {text}")

    def line(self, *words: str) -> None:
        prefix = f"N{10 * (len(self.lines) + 1)} " if self.d.line_numbers else ""
        self.lines.append(prefix + " ".join(words))

    def number(self, value: float, decimals: int) -> str:
        text = f"{value:.{decimals}f}"
        text = text.rstrip("0").rstrip(".") if "." in text else text
        return "0" if text in ("-0", "") else text

    def length(self, value: float) -> str:
        return self.number(
            value / 25.4 if self.d.units == "inch" else value, self.d.decimals + (self.d.units == "inch")
        )

    def move(self, rapid: bool, feed: float, x: float, y: float, z: float) -> None:
        words = self._changed("G", "G0" if rapid else "G1")
        for axis, value in (("X", x), ("Y", y), ("Z", z)):
            words += self._changed(axis, axis + self.length(value))
        if not words or words[-1][0] == "G":
            return
        if not rapid:
            words += self._changed("F", "F" + self.number(feed / 25.4 if self.d.units == "inch" else feed, 3))
        self.line(*words)

    def start(self, x: float, y: float, z: float) -> None:
        """Across to the first place; the height is the top of the travel, reached already."""
        self._modal.update(Z="Z" + self.length(z))
        self.move(True, 0.0, x, y, z)
        del self._modal["Z"]

    def _changed(self, key: str, word: str) -> list[str]:
        if self._modal.get(key) == word:
            return []
        self._modal[key] = word
        return [word]


def write(moves: Moves, head: Head, dialect: Dialect) -> str:
    """A program that stands alone. moves: work coordinates, mm; the first is reached from the top of the travel.

    It lifts to the top of the travel in machine coordinates first and last, whatever its zero.
    """
    w = _Writer(dialect)
    if head.reason:
        w.comment(f"NOT TO BE RUN: {head.reason}")
    w.comment(f"GATEPOST {head.job} - {head.setup} - T{head.tool.number} {head.tool.name} - plan {head.fingerprint}")
    w.comment(f"Zero {head.zero}; lengths in {dialect.units}")
    w.line("G21" if dialect.units == "mm" else "G20")
    w.line("G17")
    w.line("G90")
    w.line("G54")
    w.line("G53", "G0", "Z0")
    if dialect.tool_change == "pause":
        w.line("M0")
        w.comment(f"Fit T{head.tool.number} {head.tool.name}")
    else:
        w.line(f"T{head.tool.number}", "M6")
    w.line(f"S{w.number(head.tool.rpm, 0)}", "M3")
    if dialect.spin_up:
        w.line("G4", f"P{w.number(dialect.spin_up * (1000 if dialect.dwell == 'ms' else 1), 3)}")
    points = moves.points.tolist()
    w.start(*points[0])
    for (x, y, z), rapid, feed in zip(points[1:], moves.rapid.tolist(), moves.feed.tolist()):
        w.move(rapid, feed, x, y, z)
    w.line("G53", "G0", "Z0")
    w.line("M5")
    w.line("M30")
    return "\n".join(w.lines) + "\n"


def barred_text(text: str, reason: str, dialect: Dialect) -> str:
    """A program that begins with why it is not to be run."""
    w = _Writer(dialect)
    w.comment(f"NOT TO BE RUN: {reason}")
    return "\n".join(w.lines) + ("\n" if w.lines else "") + text
