# SPDX-License-Identifier: GPL-3.0-or-later
"""What a cut asks of its tool."""

from __future__ import annotations

from dataclasses import dataclass

from gatepost.core.job.tool import Tool


@dataclass(frozen=True)
class ToolUse:
    """One cut of a tool. step, depth: how much of it is in the wood at the most, mm; push: mean, N; peak: over that; metres: that it cuts; wall: whether
    it leaves a wall that stays; kind: of the operation; left: for a light last cut along the wall, mm, last: its greatest push, N, deep: how deep it is then, mm."""

    tool: Tool
    name: str
    setup: str
    step: float
    depth: float
    push: float
    peak: float
    metres: float
    wall: bool = False
    kind: str = ""
    left: float = 0.0
    last: float = 0.0
    deep: float = 0.0

    @property
    def worst(self) -> float:
        """Its greatest push, N."""
        return self.push * self.peak


def wall_push(use: ToolUse) -> float:
    """What bends a bit that leaves the wall: its last cut's push where wood is left for one, else its greatest, N."""
    return use.last if use.left > 0.0 else use.worst


def heaviest(uses: tuple[ToolUse, ...], number: int) -> ToolUse | None:
    """The cut in which a tool is pushed most; nothing where it cuts nothing."""
    return max((u for u in uses if u.tool.number == number), key=lambda u: u.worst, default=None)
