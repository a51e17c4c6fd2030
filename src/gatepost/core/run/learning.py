# SPDX-License-Identifier: GPL-3.0-or-later
"""What runs of this machine really took beside what was planned: a factor by kind of cut, tool and wood, with how far it spreads. From shop runs alone."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np

ENOUGH = 3  # cuts from which a factor is told
LEAST = 0.05  # minutes planned, or taken, that a cut is counted from: less is all starting and stopping
STUDENT = (
    (3, 4.30),
    (4, 3.18),
    (5, 2.78),
    (7, 2.45),
    (10, 2.26),
    (15, 2.14),
    (25, 2.06),
    (60, 2.0),
)  # t of 95 % both ways for so many cuts


@dataclass(frozen=True)
class CutTaken:
    """One cut of a run. where: shop, or simulated; planned, real: minutes."""

    where: str
    kind: str
    tool: str
    wood: str
    planned: float
    real: float


@dataclass(frozen=True)
class LearnedTime:
    """Times what was planned, by a factor. spread: of one cut, times or divided by; within: of the factor itself, in 95 of 100 (both 1 for none); count: of the
    cuts; told_of: which they were, in words."""

    factor: float
    spread: float
    within: float
    count: int
    told_of: str

    @property
    def words(self) -> str:
        """In a sentence."""
        low, high = self.factor / self.within, self.factor * self.within
        return f"× {self.factor:.2f} ({low:.2f} to {high:.2f}), by {self.count} cuts {self.told_of}"


def factor_of(cuts: Sequence[CutTaken], kind: str, tool: str = "", wood: str = "") -> LearnedTime | None:
    """The factor of a kind of cut by a tool in a wood: of just those where there are enough of them, else of more and more alike; nothing where there are
    never enough. By the logarithm of real over planned: their middle, their deviation as the spread, and Student's t over √n (Student, 1908)."""
    shop = [c for c in cuts if c.where == "shop" and c.planned >= LEAST and c.real >= LEAST]
    groups: tuple[tuple[str, Callable[[CutTaken], bool]], ...] = (
        (f"of {kind} by {tool} in {wood}", lambda c: (c.kind, c.tool, c.wood) == (kind, tool, wood)),
        (f"of {kind} by {tool}", lambda c: (c.kind, c.tool) == (kind, tool)),
        (f"of {kind} in {wood}", lambda c: (c.kind, c.wood) == (kind, wood)),
        (f"of {kind}", lambda c: c.kind == kind),
    )
    for words, mine in groups:
        found = [c for c in shop if mine(c)]
        if len(found) >= ENOUGH:
            return _factor(found, words)
    return None


def _factor(cuts: Sequence[CutTaken], words: str) -> LearnedTime:
    logs = np.log([c.real / c.planned for c in cuts])
    off = float(logs.std(ddof=1))
    t = float(np.interp(len(cuts), [n for n, _ in STUDENT], [v for _, v in STUDENT]))
    return LearnedTime(
        math.exp(float(logs.mean())), math.exp(off), math.exp(t * off / math.sqrt(len(cuts))), len(cuts), words
    )


def taken_of(where: str, tool: str, wood: str, rows: Sequence[object]) -> list[CutTaken]:
    """Cuts of a run's row: those whose minutes were seen, nothing of what can't be read. where: its kind; rows: as the logbook keeps them."""
    out = []
    for row in rows:
        if not isinstance(row, dict):
            continue
        planned, real = row.get("planned"), row.get("real")
        if all(
            isinstance(v, (int, float)) and not isinstance(v, bool) and math.isfinite(v) and v > 0.0
            for v in (planned, real)
        ):
            out.append(CutTaken(where, str(row.get("kind", "")), tool, wood, float(planned), float(real)))  # type: ignore[arg-type]
    return out
