# SPDX-License-Identifier: GPL-3.0-or-later
"""The simulated control's own reader: one block of text at a time, with modal state. Shares no code with the core.

It refuses what it does not know rather than pass over it. A G2 or G3 whose X and Y are both left out, or bring the tip
back to within NOWHERE of where it stands, is a full circle about I, J. docs/programs.md holds it against the plan's reader.
"""

from __future__ import annotations

import math
import re
from dataclasses import dataclass, field

WORD = re.compile(r"([A-Z])([-+]?(?:[0-9]+\.?[0-9]*|\.[0-9]+))")
COMMENT = re.compile(r"\([^)]*\)|;.*")
ALLOWED_G = {"0", "1", "2", "3", "4", "17", "20", "21", "53", "54", "55", "56", "57", "58", "59", "90"}
ALLOWED_M = {"0", "2", "3", "5", "6", "30"}
LETTERS = "GMNFSTXYZIJP"
MOTION = {"0", "1", "2", "3"}
NOWHERE = 1e-6  # mm; the control counts no finer
FURTHEST = 1e6  # mm that any word may say


class BadBlock(Exception):
    """A block that this control refuses."""


@dataclass
class Modal:
    """Modal state of the control."""

    inch: bool = False
    motion: str = ""
    feed: float = 0.0
    speed: float = 0.0
    tool: int = 0
    chosen: int = 0


@dataclass(frozen=True)
class Action:
    """What a block asks for: legs to go (target in machine or work coordinates), or a word."""

    kind: str  # legs, dwell, spindle, tool, wait, hold, end, nothing
    legs: tuple[tuple[float, float, float], ...] = ()
    rapid: bool = False
    feed: float = 0.0
    machine: bool = False
    axes: tuple[bool, bool, bool] = (False, False, False)
    value: float = 0.0
    more: tuple[Action, ...] = field(default=())


def understand(text: str, modal: Modal, at: tuple[float, float, float]) -> Action:
    """Read a block. at: where the tip will be then, work coordinates, mm. Raises BadBlock."""
    body = COMMENT.sub("", text.upper()).replace(" ", "").strip()
    words = WORD.findall(body)
    if "".join(a + b for a, b in words) != body:
        raise BadBlock(f"cannot read “{text.strip()[:40]}”")
    if not all(math.isfinite(float(number)) and abs(float(number)) <= FURTHEST for _, number in words):
        raise BadBlock(f"cannot read “{text.strip()[:40]}”")
    table: dict[str, float] = {}
    gs: list[str] = []
    ms: list[str] = []
    for letter, number in words:
        if letter == "G":
            gs.append(str(int(float(number))) if float(number).is_integer() else number)
        elif letter == "M":
            ms.append(str(int(float(number))) if float(number).is_integer() else number)
        elif letter not in LETTERS:
            raise BadBlock(f"{letter} is not known here")
        elif letter in table:
            raise BadBlock(f"{letter} is written twice")
        elif letter != "N":
            table[letter] = float(number)
    for g in gs:
        if g not in ALLOWED_G:
            raise BadBlock(f"G{g} is not known here")
    for m in ms:
        if m not in ALLOWED_M:
            raise BadBlock(f"M{m} is not known here")
    _fit_together(gs, ms, table, modal)
    return _act(gs, ms, table, modal, at)


def _fit_together(gs: list[str], ms: list[str], table: dict[str, float], modal: Modal) -> None:
    """Raise BadBlock where the words of a block can't all be meant."""
    for apart in (MOTION, {"20", "21"}, {"4", "53"}):
        if len(set(gs) & apart) > 1:
            raise BadBlock(f"G{' and G'.join(sorted(set(gs) & apart))} exclude each other")
    if len(ms) > 1:
        raise BadBlock("one M word a block")
    motion = next((g for g in gs if g in MOTION), modal.motion)
    axes, centre = any(a in table for a in "XYZ"), "I" in table or "J" in table
    if "4" in gs and (axes or centre or set(gs) & MOTION or table.get("P", -1.0) < 0.0):
        raise BadBlock("a dwell wants P, 0 or more, and nothing else that moves")
    if "P" in table and "4" not in gs:
        raise BadBlock("P stands with G4 alone")
    if centre and (motion not in ("2", "3") or "53" in gs):
        raise BadBlock("I and J stand with an arc alone")
    if ms and (axes or centre):
        raise BadBlock(f"M{ms[0]} stands in a block without a move")
    if "53" in gs and motion in ("2", "3"):
        raise BadBlock("G53 goes straight")
    if not table.get("T", 0.0).is_integer():
        raise BadBlock("a tool's number is a whole number")
    if table.get("F", 1.0) <= 0.0 or table.get("S", 0.0) < 0.0:
        raise BadBlock("a feed is more than 0, and a speed not less")


def _act(gs: list[str], ms: list[str], table: dict[str, float], modal: Modal, at: tuple[float, float, float]) -> Action:
    if "20" in gs or "21" in gs:
        modal.inch = "20" in gs
    scale = 25.4 if modal.inch else 1.0
    if "F" in table:
        modal.feed = table["F"] * scale
    if "S" in table:
        modal.speed = table["S"]
    if "T" in table:
        modal.chosen = int(table["T"])
    for g in gs:
        if g in ("0", "1", "2", "3"):
            modal.motion = g
    if "4" in gs:
        return Action("dwell", value=table.get("P", 0.0))
    if ms:
        word = {"3": "spindle", "5": "spindle", "6": "tool", "0": "wait", "2": "end", "30": "end"}[ms[0]]
        value = modal.speed if ms[0] == "3" else float(modal.chosen) if ms[0] == "6" else 0.0
        return Action(word, value=value)
    arc = modal.motion in ("2", "3")
    if not any(a in table for a in "XYZ") and not (arc and ("I" in table or "J" in table)):
        return Action("nothing")
    named = tuple(a in table for a in "XYZ")
    if "53" in gs:
        target = tuple(table.get(a, 0.0) * scale for a in "XYZ")
        return Action("legs", (target,), True, 0.0, True, named)  # type: ignore[arg-type]
    if not modal.motion:
        raise BadBlock("it moves before G0 or G1")
    x, y, z = (table[a] * scale if a in table else at[i] for i, a in enumerate("XYZ"))
    target = (x, y, z)
    if modal.motion != "0" and modal.feed <= 0:
        raise BadBlock("it cuts before a feed is set")
    if arc:
        return Action(
            "legs", _arc(at, target, table, scale, modal.motion == "2"), False, modal.feed, False, (True, True, True)
        )
    return Action("legs", (target,), modal.motion == "0", modal.feed, False, (True, True, True))


def _arc(
    a: tuple[float, float, float], b: tuple[float, ...], table: dict[str, float], scale: float, cw: bool
) -> tuple[tuple[float, float, float], ...]:
    """An arc as legs of two degrees at most."""
    cx, cy = a[0] + table.get("I", 0.0) * scale, a[1] + table.get("J", 0.0) * scale
    r = math.hypot(a[0] - cx, a[1] - cy)
    if r < 1e-6 or abs(math.hypot(b[0] - cx, b[1] - cy) - r) > 0.02:
        raise BadBlock("the arc does not close")
    start, end = math.atan2(a[1] - cy, a[0] - cx), math.atan2(b[1] - cy, b[0] - cx)
    sweep = -((start - end) % math.tau) if cw else (end - start) % math.tau
    if sweep == 0 or math.hypot(b[0] - a[0], b[1] - a[1]) <= NOWHERE:
        sweep = -math.tau if cw else math.tau
    n = max(1, math.ceil(abs(sweep) / math.radians(2)))
    legs = [
        (
            cx + r * math.cos(start + sweep * i / n),
            cy + r * math.sin(start + sweep * i / n),
            a[2] + (b[2] - a[2]) * i / n,
        )
        for i in range(1, n)
    ]
    return (*legs, (b[0], b[1], b[2]))
