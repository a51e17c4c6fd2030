# SPDX-License-Identifier: GPL-3.0-or-later
"""What a cut asks of its tool."""

from __future__ import annotations

from dataclasses import dataclass

from gatepost.core.job.tool import Tool


@dataclass(frozen=True)
class ToolUse:
    """One cut of a tool. step, depth: how much of it is in the wood at the most, mm; push: mean, N; peak: over that; metres: that it cuts; wall: whether
    it leaves a wall that stays; kind: of the operation."""

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

    @property
    def worst(self) -> float:
        """Its greatest push, N."""
        return self.push * self.peak


def heaviest(uses: tuple[ToolUse, ...], number: int) -> ToolUse | None:
    """The cut in which a tool is pushed most; nothing where it cuts nothing."""
    return max((u for u in uses if u.tool.number == number), key=lambda u: u.worst, default=None)
