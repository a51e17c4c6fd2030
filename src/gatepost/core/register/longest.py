# SPDX-License-Identifier: GPL-3.0-or-later
"""Which straight edge of a board lies best along a fence, and by how much it is turned for that."""

from __future__ import annotations

import math
from dataclasses import dataclass

import shapely

from gatepost.core.geometry.outline import Area

NEARLY = 0.98  # of the longest, that an edge which wants less turning is at least


@dataclass(frozen=True)
class StraightEdge:
    """An edge that a straight fence can touch all along. long: mm of it that touch; turn: degrees to the left by which the board is turned to lie along the fence."""

    long: float
    turn: float


def straight_edges(board: Area, heading: float, within: float) -> list[StraightEdge]:
    """Those of a board on the bed, for a fence of a heading, degrees, on whose left the board lies. within: mm by which an edge may be off straight. A hollow edge
    touches with its ends alone, and only that is counted."""
    hull = shapely.get_coordinates(shapely.convex_hull(board).simplify(0.5 * within))
    if len(hull) < 4:
        return []
    if not shapely.LinearRing(hull).is_ccw:
        hull = hull[::-1]
    rings = [p.exterior for p in getattr(board, "geoms", [board])]
    out = []
    for a, b in zip(hull, hull[1:]):
        strip = shapely.LineString([a, b]).buffer(within, cap_style="flat")
        long = sum(float(ring.intersection(strip).length) for ring in rings)
        way = math.degrees(math.atan2(b[1] - a[1], b[0] - a[0]))
        out.append(StraightEdge(min(long, math.dist(a, b)), math.remainder(heading - way, 360.0)))
    return out


def longest_edge(board: Area, heading: float, within: float, fence: float) -> StraightEdge | None:
    """The one of which most lies along a fence so long; of those about as long the one that wants least turning."""
    found = [StraightEdge(min(e.long, fence), e.turn) for e in straight_edges(board, heading, within)]
    most = max((e.long for e in found), default=0.0)
    return min((e for e in found if e.long >= NEARLY * most), key=lambda e: abs(e.turn), default=None)
