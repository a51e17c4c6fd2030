# SPDX-License-Identifier: GPL-3.0-or-later
"""What every cut asks of its tool, and whether the tool's shank and the nut keep off the wood."""

from __future__ import annotations

from collections.abc import Sequence
from functools import partial
from typing import Any

from gatepost.core.cache import SMALL, Memory
from gatepost.core.plan.cuts import Cuts
from gatepost.core.plan.planned import PlannedCut
from gatepost.core.tools.forces import peak_factor, push
from gatepost.core.tools.reach import WoodMet, met
from gatepost.core.tools.uses import ToolUse

WALLS = ("cutout", "ground", "recess")  # kinds that leave an upright wall


def uses_of(cuts: Sequence[Cuts]) -> tuple[ToolUse, ...]:
    """All cuts in their order."""
    out: list[ToolUse] = []
    for c in cuts:
        figures = {p.name: p.wanted.figures for p in c.draft.pieces}
        out += [use_of(op, *_last_cut(c, op, figures[op.name])) for op in c.operations]
    return tuple(out)


def use_of(op: PlannedCut, left: float = 0.0, last: float = 0.0, deep: float = 0.0) -> ToolUse:
    """What a cut asks. left, last, deep: of its last cut along a wall, as ToolUse has them."""
    depth = op.engaged.depth if op.engaged is not None else op.tool.pass_depth
    far = op.moves.fed_metres()
    return ToolUse(
        op.tool, op.name, op.setup, op.step, depth, op.push, op.peak, far, op.kind in WALLS, op.kind, left, last, deep
    )


def _last_cut(c: Cuts, op: PlannedCut, figures: Any) -> tuple[float, float, float]:
    """What is left for a last cut along a wall, mm, its greatest push, N, and the wall's whole depth, mm; nothing where none is."""
    left = float(getattr(getattr(figures, "figures", figures), "allowance", 0.0)) if op.kind in WALLS else 0.0
    if left <= 0.0 or not len(op.moves):
        return 0.0, 0.0, 0.0
    deep = float(c.draft.start.z.max()) - float(op.moves.points[:, 2].min())
    return left, push(op.tool, c.draft.known.job.wood, left, deep).result * peak_factor(left, op.tool), deep


def meetings(cuts: Sequence[Cuts], memory: Memory, coarse: bool) -> dict[tuple[str, str], tuple[WoodMet, ...]]:
    """What runs into wood, by setup and cut; not told in a first look."""
    out: dict[tuple[str, str], tuple[WoodMet, ...]] = {}
    for c in cuts if not coarse else ():
        wood, machine = c.draft.start, c.draft.known.job.machine
        for op in c.operations:
            key = (c.keys[op.name], op.tool.length, op.tool.shank, op.tool.cutting_length, machine.nut_diameter)
            found = memory.get("parts above", key, partial(met, wood, op.moves, op.tool, machine), SMALL)
            if found:
                out[op.setup, op.name] = found
            wood = op.after
    return out
