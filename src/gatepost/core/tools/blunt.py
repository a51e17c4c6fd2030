# SPDX-License-Identifier: GPL-3.0-or-later
"""Whether a bit may be blunt: how far it has cut in which wood, and what was said of its last runs. An offer, never a claim."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from gatepost.core.job.tool import Tool

SIGNS = ("burn", "fuzz", "smoke", "chatter", "torn", "squeal")  # words in remarks that a dull edge leaves too
METRES = {
    "carbide": {"soft": 3000.0, "medium": 2000.0, "hard": 1200.0},
    "steel": {"soft": 500.0, "medium": 300.0, "hard": 150.0},
}  # a shop rule
LAST = 5  # runs that are looked at


@dataclass(frozen=True)
class ToolRun:
    """A run of a tool in this shop. metres: that it cut; minutes: that it turned in wood; remarks: what was said of it."""

    at: str
    wood: str
    kind: str
    metres: float
    minutes: float
    remarks: tuple[str, ...] = ()


@dataclass(frozen=True)
class ToolLife:
    """What a tool has done since it was sharpened. by_wood: metres and minutes; signs: of the last runs, how often each was said; offer: in a sentence, or nothing."""

    by_wood: tuple[tuple[str, float, float], ...]
    signs: tuple[tuple[str, int], ...]
    offer: str

    @property
    def metres(self) -> float:
        """In all."""
        return sum(m for _, m, _ in self.by_wood)

    @property
    def hours(self) -> float:
        """In all."""
        return sum(t for _, _, t in self.by_wood) / 60.0


def life(tool: Tool, runs: Sequence[ToolRun]) -> ToolLife:
    """Of a tool, by its runs since the day it was sharpened. runs: of this tool, in shop, in any order."""
    since = sorted((r for r in runs if r.at[:10] >= tool.sharpened), key=lambda r: r.at)
    woods = dict.fromkeys(r.wood for r in since)
    by_wood = tuple(
        (w, sum(r.metres for r in since if r.wood == w), sum(r.minutes for r in since if r.wood == w)) for w in woods
    )
    last = since[-LAST:]
    counts = [(sign, sum(any(sign in word.lower() for word in r.remarks) for r in last)) for sign in SIGNS]
    signs = tuple((sign, n) for sign, n in counts if n)
    worn = sum(r.metres / METRES[tool.body].get(r.kind, METRES[tool.body]["medium"]) for r in since)
    said = " and ".join(f"{sign} {n} time{'s' if n != 1 else ''}" for sign, n in signs)
    far = f"It has cut {sum(m for _, m, _ in by_wood):.0f} m{' since it was sharpened' if tool.sharpened else ''}"
    offer = ""
    if sum(n for _, n in signs) >= 2:
        offer = f"Its last {len(last)} runs spoke of {said}. {far}. Look at its edges under a lens; a dull edge does that, and so do a feed too slow and pitch on the edge."
    elif worn >= 1.0:
        offer = f"{far}, about as far as such edges last (a shop rule). Look at its edges under a lens."
    return ToolLife(by_wood, signs, offer)
