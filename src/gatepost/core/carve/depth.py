# SPDX-License-Identifier: GPL-3.0-or-later
"""How deep a V goes for a stroke's width, and how wide it can cut."""

from __future__ import annotations

import math

from gatepost.core.job.tool import Tool
from gatepost.core.profile import profile_of
from gatepost.core.working import Named, Working, working


def steepness(tool: Tool) -> float:
    """Depth per mm of radius, 1/tan(half angle)."""
    return 1.0 / math.tan(math.radians(tool.angle / 2.0))


def bit_radius(tool: Tool) -> float:
    """The widest stroke's half that a V-bit's edge can cut, mm: its own radius, or what its edge's length gives."""
    return profile_of(tool).out_at(tool.cutting_length)


def depth_of(radius: float, tool: Tool) -> Working:
    """Depth of a V-cut of half width ``radius``: (w - tip/2)/tan(half angle); of a rounded tip w/tan(half angle) - r·(1/sin(half angle) - 1) from
    where the arc ends, r - sqrt(r² - w²) until then."""
    if tool.kind == "rounded_vee":
        arc = profile_of(tool).arc
        half = (Named("half_width", radius), Named("round", tool.radius))
        if radius < arc:
            return working("round - sqrt(round * round - half_width * half_width)", *half)
        return working(
            "half_width / tan(half_angle) - round * (1 / sin(half_angle) - 1)",
            *half,
            Named("half_angle", tool.angle / 2.0, "angle"),
        )
    return working(
        "(half_width - tip / 2) / tan(half_angle)",
        Named("half_width", radius),
        Named("tip", tool.tip),
        Named("half_angle", tool.angle / 2.0, "angle"),
    )
