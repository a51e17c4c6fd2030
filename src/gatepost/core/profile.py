# SPDX-License-Identifier: GPL-3.0-or-later
"""What a turning cutter looks like from the side: level at its tip, rounded beside that, then sloped as a cone out to its edge.

Every kind is one of these: an end mill is all level, a ball all round, a bull level and rounded, a V sloped beside its tip's
flat, a rounded V and a tapered ball rounded and then sloped, a drill sloped from its point.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Protocol

import numpy as np
from numpy.typing import NDArray

MILLS, BALLS, VEES = ("flat", "bull"), ("ball", "tapered_ball"), ("vee", "rounded_vee")
KINDS = ("flat", "ball", "tapered_ball", "vee", "rounded_vee", "bull", "surfacing", "drill")


class CutterFigures(Protocol):
    """What tells a cutter's shape. angle: included, degrees; tip: diameter of a V's flat; radius: of a corner or of a rounded tip; mm."""

    @property
    def kind(self) -> str:
        """One of KINDS."""

    @property
    def diameter(self) -> float:
        """Of all of it."""

    @property
    def angle(self) -> float:
        """Of a cone."""

    @property
    def tip(self) -> float:
        """Of a V."""

    @property
    def radius(self) -> float:
        """Of what is rounded."""


@dataclass(frozen=True)
class CutterProfile:
    """flat: radius of what is level at the tip; round: radius of the arc beside it; steep: mm up per mm out beyond that, inf where the
    arc ends upright; radius: of all of it; mm. Its height over the tip never falls and never bends down on the way out."""

    flat: float
    round: float
    steep: float
    radius: float

    @property
    def arc(self) -> float:
        """How far out the arc goes until it has the cone's slope: r·k/√(1 + k²), mm."""
        return self.round if math.isinf(self.steep) else self.round * self.steep / math.hypot(1.0, self.steep)

    @property
    def arc_height(self) -> float:
        """How high it is by then: r·(1 − 1/√(1 + k²)), mm."""
        return self.round if math.isinf(self.steep) else self.round * (1.0 - 1.0 / math.hypot(1.0, self.steep))

    @property
    def shoulder(self) -> float:
        """How high its widest lies over the tip, mm."""
        return float(self.height(np.array([self.radius]))[0])

    def height(self, out: NDArray[np.float64]) -> NDArray[np.float64]:
        """How far its surface lies over the tip at distances from its axis, mm; inf outside it."""
        past = np.maximum(out - self.flat, 0.0)
        on_arc = self.round - np.sqrt(np.maximum(self.round**2 - np.minimum(past, self.round) ** 2, 0.0))
        cone = np.maximum(past - self.arc, 0.0)
        beyond = self.arc_height + (np.where(cone > 0.0, np.inf, 0.0) if math.isinf(self.steep) else self.steep * cone)
        found = np.where(past <= self.arc, on_arc, beyond)
        return np.where(out <= self.radius * (1.0 + 1e-12), np.where(np.isinf(found), self.arc_height, found), np.inf)

    def out_at(self, height: float) -> float:
        """How far out it is wood's width at a height over its tip, mm: half of what a groove so deep is wide."""
        if height <= 0.0:
            return self.flat if height == 0.0 else 0.0
        if height < self.arc_height:
            return self.flat + math.sqrt(max(self.round**2 - (self.round - height) ** 2, 0.0))
        if math.isinf(self.steep):
            return self.radius
        return min(self.radius, self.flat + self.arc + (height - self.arc_height) / self.steep)


def profile_of(tool: CutterFigures) -> CutterProfile:
    """A tool's profile. An angle of 0 or 180 is none: such a cone is level."""
    radius = tool.diameter / 2.0
    steep = 1.0 / math.tan(math.radians(tool.angle / 2.0)) if 0.0 < tool.angle < 180.0 else None
    rounded = min(max(tool.radius, 0.0), radius)
    if tool.kind == "ball":
        return CutterProfile(0.0, radius, math.inf, radius)
    if tool.kind == "bull":
        return CutterProfile(radius - rounded, rounded, math.inf, radius)
    if tool.kind in ("tapered_ball", "rounded_vee") and steep is not None:
        return CutterProfile(0.0, rounded, steep, radius)
    if tool.kind == "vee" and steep is not None:
        return CutterProfile(min(tool.tip / 2.0, radius), 0.0, steep, radius)
    if tool.kind == "drill" and steep is not None:
        return CutterProfile(0.0, 0.0, steep, radius)
    return CutterProfile(radius, 0.0, math.inf, radius)


def point(tool: CutterFigures) -> float:
    """How far a drill's point lies under where it is as wide as its hole, mm; 0 of every other cutter."""
    return profile_of(tool).shoulder if tool.kind == "drill" else 0.0


def is_vee(tool: CutterFigures) -> bool:
    """Whether a tool is a V that cuts: pointed, flat or rounded at its tip."""
    return tool.kind in VEES and 0.0 < tool.angle < 180.0


def upright(tool: CutterFigures) -> bool:
    """Whether its sides stand upright from the tip on, so that what it cuts round is as wide at its foot as in the face."""
    profile = profile_of(tool)
    return profile.flat == profile.radius


def blunt(tool: CutterFigures) -> float:
    """Half of the width that a V's flanks have yet where its tip ends, mm: from there on it is as deep as a pointed one so much
    narrower. Of a rounded tip r·(1 − sin α)/cos α, α half of its angle: the arc that is tangent to both flanks."""
    if tool.kind == "rounded_vee":
        half = math.radians(tool.angle / 2.0)
        return min(max(tool.radius, 0.0), tool.diameter / 2.0) * (1.0 - math.sin(half)) / math.cos(half)
    return tool.tip / 2.0


def ball_radius(tool: CutterFigures) -> float:
    """Of a ball's or a tapered ball's round tip, mm."""
    return profile_of(tool).round
