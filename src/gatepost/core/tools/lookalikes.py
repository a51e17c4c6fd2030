# SPDX-License-Identifier: GPL-3.0-or-later
"""Bits that can be taken for one another: what would come of it, and what tells them apart with a caliper."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from gatepost.core.job.tool import Tool
from gatepost.core.profile import BALLS, MILLS, VEES, profile_of
from gatepost.core.units import mm

FAMILIES = (VEES, (*MILLS, *BALLS, "drill"), ("surfacing",))
CLOSE = 0.25  # of its diameter by which a bit of another size may still be taken for it
SEEN = 0.15  # mm that a caliper shows on a bit, flutes and all
MEASURED_UP = 5.0  # mm over the tip at which a V is measured across


@dataclass(frozen=True)
class LookAlike:
    """A bit that may be taken for another. by: what tells it, in words, the plainest first."""

    other: Tool
    by: tuple[str, ...]


def across_at(tool: Tool, height: float) -> float:
    """How wide a bit is at a height over its tip, mm."""
    return 2.0 * profile_of(tool).out_at(height)


def lookalikes(tool: Tool, table: Sequence[Tool]) -> list[LookAlike]:
    """Those of a table that could be taken for a tool, the likest first."""
    family = next(f for f in FAMILIES if tool.kind in f)
    near = [t for t in table if t.number != tool.number and t.kind in family and (family is VEES or _close(t, tool))]
    found = [LookAlike(t, differences(tool, t)) for t in near]
    return sorted(found, key=lambda one: (len(one.by), abs(one.other.diameter - tool.diameter)))


def _close(a: Tool, b: Tool) -> bool:
    return abs(a.diameter - b.diameter) <= CLOSE * max(a.diameter, b.diameter)


def differences(tool: Tool, other: Tool) -> tuple[str, ...]:
    """What tells a tool from another one by a caliper and by eye: of each what it is here, and there."""
    out: list[str] = []
    if tool.kind != other.kind:
        out.append(f"{ENDS[tool.kind]}, T{other.number} {ENDS[other.kind]}")
    up = min(MEASURED_UP, 0.8 * profile_of(tool).shoulder, 0.8 * profile_of(other).shoulder)
    if tool.kind in VEES and up > 0.5:
        a, b = across_at(tool, up), across_at(other, up)
        if abs(a - b) > SEEN:
            out.append(f"{mm(up)} over its tip it is {mm(a)} across, T{other.number} {mm(b)}")
    for words, a, b in (
        ("across", tool.diameter, other.diameter), ("its shank", tool.shank, other.shank), ("its edges, long", tool.cutting_length, other.cutting_length),
        ("over all", tool.overall, other.overall),
    ):  # fmt: skip
        if a and b and abs(a - b) > SEEN:
            out.append(f"{words} {mm(a, 2)}, T{other.number} {mm(b, 2)}")
    if tool.teeth != other.teeth:
        out.append(f"{tool.teeth} cutting edge{'s' if tool.teeth != 1 else ''}, T{other.number} {other.teeth}")
    if tool.spiral != other.spiral:
        out.append(f"{SPIRALS[tool.spiral]}, T{other.number} {SPIRALS[other.spiral]}")
    return tuple(out)


ENDS = {
    "flat": "a flat end", "ball": "a ball end", "tapered_ball": "a small ball on a taper", "vee": "a V", "rounded_vee": "a V with a rounded tip",
    "bull": "a flat end with round corners", "surfacing": "a surfacing cutter", "drill": "a drill",
}  # fmt: skip
SPIRALS = {
    "up": "flutes that wind up", "down": "flutes that wind down", "straight": "straight flutes", "compression": "flutes that meet",
}  # fmt: skip


def instead(tool: Tool, other: Tool, depth: float) -> str:
    """What comes of it where another V, or a bit of another width, cuts in the place of a tool, at the depth that was planned."""
    a, b = across_at(tool, depth), across_at(other, depth)
    wide = f"{mm(b, 2)} wide in the face and not {mm(a, 2)}"
    if tool.kind in VEES and other.kind in VEES and 0.0 < other.angle < 180.0:
        half = profile_of(tool).out_at(depth)
        wanted = float(profile_of(other).height(np.array([min(half, other.diameter / 2.0)]))[0])
        return f"A groove planned {mm(depth, 2)} deep is {wide}; as wide as planned it would be {mm(wanted, 2)} deep."
    return f"A groove planned {mm(depth, 2)} deep is {wide}{_round(tool, other)}."


def _round(tool: Tool, other: Tool) -> str:
    return f", {ENDS[other.kind]} and not {ENDS[tool.kind]}" if tool.kind != other.kind else ""
