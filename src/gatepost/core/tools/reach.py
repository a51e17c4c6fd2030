# SPDX-License-Identifier: GPL-3.0-or-later
"""Whether shank, nut and what hangs above them keep off the wood, by the swept wood itself.

Each is a level disc that is carried over the cutter's tip at its own height; where it would take wood that the cutter has left standing,
it runs into it. The cutter goes first, pass by pass.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from gatepost.core.job.machine import Machine
from gatepost.core.job.tool import Tool
from gatepost.core.motion import Moves
from gatepost.core.profile import profile_of
from gatepost.core.wood.field import Cutter, HeightField, cut, cutter_of

PASSES = 24  # parts into which a program is shared at the most: what a disc meets and the cutter takes later in its own part is not told
TOUCHES = 0.05  # mm of wood that a disc may take: the field's own cells
RUBS = 0.02  # mm by which a shank may be thicker than what it follows and yet only lie on the wall


@dataclass(frozen=True)
class PartInWood:
    """Where a part runs into wood. part: shank or nut; deep: by how much at the worst, mm; x, y: there."""

    part: str
    deep: float
    x: float
    y: float


def parts_above(tool: Tool, machine: Machine) -> list[tuple[str, float, float]]:
    """What of a tool is above its edges and wider than they are there: its name, its radius, and how high over the tip it begins, mm."""
    out: list[tuple[str, float, float]] = []
    edge = min(tool.cutting_length, tool.length)
    if edge < tool.length and tool.shank / 2.0 > profile_of(tool).out_at(edge) + RUBS:
        out.append(("shank", tool.shank / 2.0, edge))
    out.append(("nut", machine.nut_diameter / 2.0, tool.length))
    return out


def met(before: HeightField, moves: Moves, tool: Tool, machine: Machine) -> tuple[PartInWood, ...]:
    """What of a tool runs into wood in a cut. before: the wood before it; moves: of the tip, in the field's frame."""
    top = float(before.z.max())
    points = np.asarray(moves.points)
    low = np.minimum(points[:-1, 2], points[1:, 2])
    parts = [p for p in parts_above(tool, machine) if len(low) and float(low.min()) + p[2] < top - TOUCHES]
    if not parts:
        return ()
    worst: dict[str, PartInWood] = {}
    wood, cutter = before, cutter_of(tool)
    for a, b in _shared(moves):
        part_of = Moves(points[a : b + 1].copy(), moves.rapid[a:b].copy(), moves.feed[a:b].copy())
        wood = cut(wood, part_of, cutter).after
        for name, radius, above in parts:
            if float(low[a:b].min()) + above >= top - TOUCHES:
                continue
            done = cut(wood, part_of.moved(0.0, 0.0, above), Cutter("flat", 2.0 * radius), amounts=True)
            i = int(np.argmax(done.deepest))
            deep = float(done.deepest[i])
            if deep > TOUCHES and (name not in worst or deep > worst[name].deep):
                x, y = 0.5 * (part_of.points[i, :2] + part_of.points[i + 1, :2])
                worst[name] = PartInWood(name, deep, float(x), float(y))
    return tuple(worst.values())


def _shared(moves: Moves) -> list[tuple[int, int]]:
    """A program in parts from rapid to rapid, as many as are kept apart."""
    starts = np.flatnonzero(moves.rapid[1:] & ~moves.rapid[:-1]) + 1  # where a pass has ended
    edges = np.unique(np.concatenate([[0], starts, [len(moves)]]))
    if len(edges) - 1 > PASSES:
        edges = np.unique(edges[np.round(np.linspace(0, len(edges) - 1, PASSES + 1)).astype(int)])
    return [(int(a), int(b)) for a, b in zip(edges[:-1], edges[1:]) if b > a]
