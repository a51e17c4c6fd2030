# SPDX-License-Identifier: GPL-3.0-or-later
"""What every cut asks of its tool, and whether the tool's shank and the nut keep off the wood."""

from __future__ import annotations

from collections.abc import Sequence
from functools import partial

import numpy as np

from gatepost.core.cache import SMALL, Memory
from gatepost.core.motion import Moves
from gatepost.core.plan.cuts import Cuts
from gatepost.core.tools.reach import Met, met
from gatepost.core.tools.uses import ToolUse

WALLS = ("cutout", "ground", "recess")  # kinds that leave an upright wall


def metres(moves: Moves) -> float:
    """How far a tool is fed, m."""
    ways = np.diff(np.asarray(moves.points), axis=0)
    return float(np.sqrt((ways**2).sum(axis=1))[~moves.rapid].sum()) / 1000.0


def uses_of(cuts: Sequence[Cuts]) -> tuple[ToolUse, ...]:
    """All cuts in their order."""
    out: list[ToolUse] = []
    for c in cuts:
        engaged = {p.name: p.drawn.engaged for p in c.draft.pieces}
        for op in c.operations:
            e = engaged[op.name]
            step = e.step if e.step is not None else min(op.tool.diameter, 2.0 * e.depth)
            out.append(
                ToolUse(
                    op.tool,
                    op.name,
                    op.setup,
                    step,
                    e.depth,
                    op.push,
                    op.peak,
                    metres(op.moves),
                    op.kind in WALLS,
                    op.kind,
                )
            )
    return tuple(out)


def meetings(cuts: Sequence[Cuts], memory: Memory, coarse: bool) -> dict[tuple[str, str], tuple[Met, ...]]:
    """What runs into wood, by setup and cut; not told in a first look."""
    out: dict[tuple[str, str], tuple[Met, ...]] = {}
    for c in cuts if not coarse else ():
        wood, machine = c.draft.start, c.draft.known.job.machine
        for op in c.operations:
            key = (c.keys[op.name], op.tool.length, op.tool.shank, op.tool.cutting_length, machine.nut_diameter)
            found = memory.get("parts above", key, partial(met, wood, op.moves, op.tool, machine), SMALL)
            if found:
                out[op.setup, op.name] = found
            wood = op.after
    return out
