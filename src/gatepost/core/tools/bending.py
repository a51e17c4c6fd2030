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


def bending(tool: Tool, push: float) -> Working:
    """How far the tip goes aside, mm: F·L³/(3·E·I) with I = π·(0.8·d)⁴/64 of the flutes and π·D⁴/64 of the plain shank above them, as a beam
    of two pieces held at the nut (end load on a cantilever, as any table of beams has it; the 0.8 is a shop rule). A V's own
    cone counts as stiff as its shank. push: N."""
    flutes = 0.0 if tool.kind in VEES or tool.kind == "surfacing" else min(tool.cutting_length, tool.length)
    stiff = math.pi / 64.0
    core, shank = stiff * (CORE * tool.diameter) ** 4, stiff * tool.shank**4
    return working(
        "push / (3 * modulus) * (flutes ** 3 / core + (length ** 3 - flutes ** 3) / shank)",
        Named("push", push, "force"), Named("modulus", STIFF[tool.body], "N/mm²"), Named("flutes", flutes), Named("core", core, "mm⁴"),
        Named("length", tool.length), Named("shank", shank, "mm⁴"),
        assumption="fluted as stiff as 0.8 of its diameter, held at the nut's face; collet and spindle give nothing", shop_rule=True, source="F·L³/(3·E·I)",
    )  # fmt: skip


def length_for(tool: Tool, push: float, most: float) -> float:
    """How far it may stick out to bend no more than so much, mm; never less than its flutes."""
    low, high = min(tool.cutting_length + tool.runout, tool.length), tool.length
    for _ in range(40):
        middle = 0.5 * (low + high)
        if bending(tool.model_copy(update={"length": middle}), push).result > most:
            high = middle
        else:
            low = middle
    return low
