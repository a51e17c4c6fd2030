# SPDX-License-Identifier: GPL-3.0-or-later
"""How far a bit bends under a cut's push, and what that does to a wall."""

from __future__ import annotations

import math

from gatepost.core.job.tool import Tool
from gatepost.core.profile import VEES
from gatepost.core.working import Named, Working, working

CORE = 0.8  # of its diameter that a fluted bit is as stiff as
STIFF = {
    "carbide": 580_000.0,
    "steel": 210_000.0,
}  # N/mm²: Young's modulus of tungsten carbide with a tenth of cobalt, and of tool steel


def bending(tool: Tool, push: float, depth: float = 0.0) -> Working:
    """How far the tip goes aside, mm. At the tip F·L³/(3·E·I), I = π·(0.8·d)⁴/64 of the flutes and π·D⁴/64 of the plain shank above them: a beam of two
    pieces held at the nut (as any table of beams has it; the 0.8 is a shop rule). depth: over which the push is spread evenly, mm:
    each share of it, s from the tip, bends by F/E·∫x·(x − s)/I dx from there to the nut. A V's own cone counts as stiff as its shank. push: N."""
    flutes = 0.0 if tool.kind in VEES or tool.kind == "surfacing" else min(tool.cutting_length, tool.length)
    stiff = math.pi / 64.0
    core, shank = stiff * (CORE * tool.diameter) ** 4, stiff * tool.shank**4
    spread = min(depth, flutes)
    values: tuple[Named, ...] = (
        Named("push", push, "force"), Named("modulus", STIFF[tool.body], "N/mm²"), Named("flutes", flutes), Named("core", core, "mm⁴"),
        Named("length", tool.length), Named("shank", shank, "mm⁴"),
    )  # fmt: skip
    sums = "push / (3 * modulus) * (flutes ** 3 / core + (length ** 3 - flutes ** 3) / shank)"
    if spread > 0.0:
        values = (*values, Named("spread", spread))
        low = "(flutes ** 3 - 0.75 * spread * flutes ** 2 + 0.125 * spread ** 3)"
        high = "(length ** 3 - flutes ** 3 - 0.75 * spread * (length ** 2 - flutes ** 2))"
        sums = f"push / (3 * modulus) * ({low} / core + {high} / shank)"
    return working(
        sums, *values, assumption="fluted as stiff as 0.8 of its diameter, held at the nut's face; collet and spindle give nothing", shop_rule=True,
        source="F·L³/(3·E·I)",
    )  # fmt: skip


def length_for(tool: Tool, push: float, most: float, depth: float = 0.0) -> float:
    """How far it may stick out to bend no more than so much, mm; never less than its flutes."""
    low, high = min(tool.cutting_length + tool.runout, tool.length), tool.length
    for _ in range(40):
        middle = 0.5 * (low + high)
        if bending(tool.model_copy(update={"length": middle}), push, depth).result > most:
            high = middle
        else:
            low = middle
    return low
