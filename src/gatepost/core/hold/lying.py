# SPDX-License-Identifier: GPL-3.0-or-later
"""By how much a board may lie otherwise than it is meant to: laid by hand to a mark, against a fence, or into a nest."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

from shapely import affinity
from shapely.geometry import Polygon

from gatepost.core.hold.solids import fence_edge
from gatepost.core.job.hold import Bolted, Hold, InNest
from gatepost.core.job.machine import BedThings
from gatepost.core.tolerances import AT_A_STOP, LAID_OFF, LAID_SKEW

TOUCHES = 0.5  # mm from a fence within which an edge is meant to lie against it
BOLT_PLAY = 0.5  # mm that a bolt has in its hole; a shop rule
ENOUGH = 20.0  # mm of an edge that must lie along a fence


@dataclass(frozen=True)
class AsLaid:
    """Bounds either way: mm along X and Y of the bed, and degrees; by: what stops it, in words."""

    x: float = LAID_OFF
    y: float = LAID_OFF
    degrees: float = LAID_SKEW
    by: str = "laid by hand"


def lying(holds: Sequence[Hold], bed: BedThings, work: Polygon) -> AsLaid:
    """How a board may lie. work: its outline on the bed as it is meant to lie."""
    for hold in holds:
        nest = next((n for n in bed.nests if isinstance(hold, InNest) and n.name == hold.of), None)
        if nest is not None:
            x0, y0, x1, y1 = affinity.rotate(work, -nest.heading, origin=(nest.x, nest.y)).bounds
            right, back = nest.corner.endswith("right"), nest.corner.startswith("back")
            a, b = nest.x - (nest.length if right else 0.0), nest.y - (nest.width if back else 0.0)
            play = max(nest.play, nest.length - (x1 - x0), nest.width - (y1 - y0), 0.0)
            longest = max(x1 - x0, y1 - y0)
            # meant to lie in the middle it is off by half the play either way; against the stop corner by all of it, one way
            off = [
                max(0.5 * nest.play, low - at, at + size - high)
                for low, high, at, size in ((x0, x1, a, nest.length), (y0, y1, b, nest.width))
            ]
            return AsLaid(
                min(off[0], play), min(off[1], play), math.degrees(math.atan2(play, longest)), f"in {nest.name}"
            )
    if any(isinstance(h, Bolted) for h in holds):  # its bolts' holes leave it that much
        x0, y0, x1, y1 = work.bounds
        return AsLaid(
            BOLT_PLAY, BOLT_PLAY, math.degrees(math.atan2(2.0 * BOLT_PLAY, max(x1 - x0, y1 - y0))), "on its bolts"
        )
    found = AsLaid()
    for fence in bed.fences:
        along = work.exterior.intersection(fence_edge(fence).buffer(TOUCHES, cap_style="flat"))
        long = along.length - 2.0 * TOUCHES
        if long < ENOUGH:
            continue
        across = abs(math.sin(math.radians(fence.heading)))  # 1 where it runs along Y
        degrees = min(found.degrees, math.degrees(math.atan2(2.0 * AT_A_STOP, long)))
        found = AsLaid(
            AT_A_STOP if across > 0.999 else found.x, AT_A_STOP if across < 0.001 else found.y, degrees, f"against {fence.name}"
        )  # fmt: skip
    return found
