# SPDX-License-Identifier: GPL-3.0-or-later
"""Bits that a job wants and the drawer does not have: waited for, or another taken in their place, and what that does."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from gatepost.core.job.tool import Tool
from gatepost.core.tools.lookalikes import instead, lookalikes

SAME = 0.05  # mm, and degrees of an angle ten times as many, within which a bit is the one that is wanted
OFFERED = 3


@dataclass(frozen=True)
class Adapted:
    """One in its place. tool: as it would be in the job; does: in words, lengths marked."""

    tool: Tool
    does: str


@dataclass(frozen=True)
class MissingTool:
    """One that is not in the drawer. ways: what could be taken, the likest first; empty where the drawer has nothing of its kind."""

    tool: Tool
    ways: tuple[Adapted, ...]


def is_one(tool: Tool, other: Tool) -> bool:
    """Whether a bit cuts as another does: shape and size alone."""
    near = (
        abs(tool.diameter - other.diameter) <= SAME
        and abs(tool.radius - other.radius) <= SAME
        and abs(tool.tip - other.tip) <= SAME
    )
    return tool.kind == other.kind and near and abs(tool.angle - other.angle) <= 10.0 * SAME


def missing(used: Iterable[Tool], drawer: Sequence[Tool], depths: dict[int, float]) -> list[MissingTool]:
    """Of the tools that a job uses. depths: how deep each cuts, mm, by its number."""
    out = []
    for tool in used:
        if any(is_one(tool, other) for other in drawer):
            continue
        apart = [
            t.model_copy(update={"number": 10_000 + i}) for i, t in enumerate(drawer)
        ]  # numbers there are the drawer's own
        ways = [
            Adapted(
                alike.other.model_copy(update={"number": tool.number}),
                instead(tool, alike.other, depths.get(tool.number, 1.0)),
            )
            for alike in lookalikes(tool, apart)[:OFFERED]
        ]
        out.append(MissingTool(tool, tuple(ways)))
    return out
