# SPDX-License-Identifier: GPL-3.0-or-later
"""How deep a V goes for a stroke's width, and how wide it can cut."""

from __future__ import annotations

import math

from gatepost.core.job.tool import Tool
from gatepost.core.working import Named, Working, working


def steepness(tool: Tool) -> float:
    """Depth per mm of radius, 1/tan(half angle)."""
    return 1.0 / math.tan(math.radians(tool.angle / 2.0))


def bit_radius(tool: Tool) -> float:
    """The widest stroke's half that a V-bit's edge can cut, mm: its own radius, or what its edge's length gives."""
    return min(tool.diameter / 2.0, tool.tip / 2.0 + tool.cutting_length / steepness(tool))


def depth_of(radius: float, tool: Tool) -> Working:
    """Depth of a V-cut of half width ``radius``: (r - tip/2)/tan(half angle)."""
    return working(
        "(half_width - tip / 2) / tan(half_angle)",
        Named("half_width", radius),
        Named("tip", tool.tip),
        Named("half_angle", tool.angle / 2.0, "angle"),
    )
