# SPDX-License-Identifier: GPL-3.0-or-later
"""What every cut asks of its tool, and whether the tool's shank and the nut keep off the wood."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from functools import partial
from typing import Any

import numpy as np

from gatepost.core.cache import SMALL, Memory
from gatepost.core.job.model import Job
from gatepost.core.job.tool import Tool
from gatepost.core.plan.cuts import Cuts
from gatepost.core.plan.planned import PlannedCut
from gatepost.core.run.step import Step
from gatepost.core.tools.forces import peak_factor, push
from gatepost.core.tools.grip import gripped, size_words
from gatepost.core.tools.lookalikes import instead, lookalikes
from gatepost.core.tools.reach import PartInWood, met
from gatepost.core.tools.uses import ToolUse
from gatepost.core.units import mm

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


def meetings(cuts: Sequence[Cuts], memory: Memory, coarse: bool) -> dict[tuple[str, str], tuple[PartInWood, ...]]:
    """What runs into wood, by setup and cut; not told in a first look."""
    out: dict[tuple[str, str], tuple[PartInWood, ...]] = {}
    for c in cuts if not coarse else ():
        wood, machine = c.draft.start, c.draft.known.job.machine
        for op in c.operations:
            key = (c.keys[op.name], op.tool.length, op.tool.shank, op.tool.cutting_length, machine.nut_diameter)
            found = memory.get("parts above", key, partial(met, wood, op.moves, op.tool, machine), SMALL)
            if found:
                out[op.setup, op.name] = found
            wood = op.after
    return out


def told_of_bits(steps: list[Step], job: Job, operations: Sequence[PlannedCut]) -> list[Step]:
    """Steps in which a bit is fitted and looked at, with its collet, and with what tells it from another that could be taken for it."""
    out = []
    for step in steps:
        tool = next((t for t in job.tools if t.number == step.tool), None)
        if tool is None or step.kind != "fit" and not step.key.startswith("bit-"):
            out.append(step)
        elif step.kind == "fit":
            out.append(replace(step, detail=_held(tool, job)))
        else:
            out.append(replace(step, detail=f"{step.detail}{_not_that(tool, job, operations)}"))
    return out


def walked(steps: list[Step], boxes: Sequence[tuple[float, float, float, float]]) -> list[Step]:
    """Steps of a setup in which, before anything is cut, the outline of all that will be is gone round at a lift. boxes: of each program's middle line on the bed."""
    at = next((i for i, s in enumerate(steps) if s.key.startswith("look-") and s.kind == "look"), None)
    if at is None or not boxes:
        return steps
    low, high = np.array(boxes)[:, :2].min(axis=0), np.array(boxes)[:, 2:].max(axis=0)
    box = (float(low[0]), float(low[1]), float(high[0]), float(high[1]))
    old = steps[at]
    words = "It goes round all that will be cut, at a lift, spindle off: does it stay on the wood, and clear of everything that stands?"
    step = replace(
        old,
        kind="walk",
        title="Look over the bed, then walk the outline of what is cut.",
        detail=f"{old.detail} {words}",
        box=box,
    )
    return [*steps[:at], step, *steps[at + 1 :]]


def _held(tool: Tool, job: Job) -> str:
    g = gripped(tool, job.machine.collets)
    where = (
        f"In the {size_words(g.collet.size)} collet" if g.collet is not None else "In a collet of its shank's own size"
    )
    torque = (
        f"{g.collet.torque:g} N·m, its maker's torque"
        if g.collet is not None and g.collet.torque
        else "the maker's torque"
    )
    since = f", in use since {g.collet.since}" if g.collet is not None and g.collet.since else ""
    flutes = ", flutes and their run-out outside" if tool.runout else ""
    return f"{where}{since}, shank right through it{flutes}, {mm(tool.length, 2)} out of the nut; nut to {torque}, spanners off."


def _not_that(tool: Tool, job: Job, operations: Sequence[PlannedCut]) -> str:
    """The likest other bit, how it is told, and what would come of it."""
    other = next(iter(lookalikes(tool, job.tools)), None)
    if other is None:
        return ""
    by = other.by[0] if other.by else "nothing that is entered tells them apart: mark one of them"
    deep = max(
        (op.engaged.depth for op in operations if op.tool.number == tool.number and op.engaged is not None), default=0.0
    )
    comes = f" {instead(tool, other.other, deep)}" if deep > 0.0 else ""
    return f" Not T{other.other.number}, {other.other.name}: {by}.{comes}"
