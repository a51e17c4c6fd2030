# SPDX-License-Identifier: GPL-3.0-or-later
"""Clear of everything: every move, rapids too, by cutter, shank and nut each at its own height.

A tool is a stack of upright cylinders; a hold is a set of upright prisms. For a move, the gap to a prism is the
greater of the gap across and the gap in height, the least along the move. Whether a gap falls below a limit is
decided exactly for straight moves of any slope: the part of the move within the limit in height is cut out, and
its exact distance across is taken. The amount itself is exact for level and upright moves; on slopes it may be told
up to the move's own height difference too small, never too large.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray

from gatepost.core.hold.solids import Solid
from gatepost.core.job.model import Machine, Tool
from gatepost.core.motion import Moves

Array = NDArray[np.float64]
CONE_SLICES = 12


@dataclass(frozen=True)
class Section:
    """A cylinder of the tool: radius, from bottom to top above the tip, mm."""

    part: str
    radius: float
    bottom: float
    top: float


@dataclass(frozen=True)
class Gap:
    """The nearest place of a tool to a hold. gap: mm, negative when they would touch; through: the middle of the tool
    goes through the hold, and the gap then says no more than its radius."""

    gap: float
    hold: str
    part: str
    tool_part: str
    x: float
    y: float
    z: float
    move: int
    rapid: bool
    through: bool = False


def sections(tool: Tool, machine: Machine) -> list[Section]:
    """Cutter, shank and nut. A V's cone is a stack of slices, each as wide as its widest."""
    radius = tool.diameter / 2.0
    parts: list[Section] = []
    edge = min(tool.cutting_length, tool.length)
    if tool.kind == "vee":
        steep = np.tan(np.radians(tool.angle / 2.0))
        cone = min((radius - tool.tip / 2.0) / steep, edge)
        cuts = np.linspace(0.0, cone, CONE_SLICES + 1)
        parts += [
            Section("cutter", float(tool.tip / 2.0 + b * steep), float(a), float(b)) for a, b in zip(cuts, cuts[1:])
        ]
        if cone < edge:
            parts.append(Section("cutter", radius, cone, edge))
    else:
        parts.append(Section("cutter", radius, 0.0, edge))
    if edge < tool.length:
        parts.append(Section("shank", tool.shank / 2.0, edge, tool.length))
    parts.append(Section("nut", machine.nut_diameter / 2.0, tool.length, tool.length + machine.nut_height))
    return parts


def _near(moves: Moves, solid: Solid, reach: float) -> NDArray[np.int64]:
    """Numbers of moves whose box comes within reach of a prism's box."""
    x0, y0, x1, y1 = solid.outline.bounds
    a, b = moves.points[:-1], moves.points[1:]
    low, high = np.minimum(a, b), np.maximum(a, b)
    near = (
        (low[:, 0] <= x1 + reach) & (high[:, 0] >= x0 - reach) & (low[:, 1] <= y1 + reach) & (high[:, 1] >= y0 - reach)
    )
    return np.nonzero(near)[0]


def _height_gap(section: Section, solid: Solid, z: Array) -> Array:
    """Gap in height with the tip at z: positive when clear above or below."""
    return np.maximum(z + section.bottom - solid.top, solid.bottom - (z + section.top))


def _within(section: Section, solid: Solid, z0: Array, z1: Array, limit: float) -> tuple[Array, Array]:
    """Parameters from, to (0 to 1) of that part of each move with a gap in height below the limit; from > to if none."""
    low = solid.bottom - section.top - limit
    high = solid.top - section.bottom + limit
    dz = z1 - z0
    with np.errstate(divide="ignore", invalid="ignore", over="ignore"):
        ta, tb = (low - z0) / dz, (high - z0) / dz
    level = np.abs(dz) < 1e-12
    inside = (z0 > low) & (z0 < high)
    start = np.where(level, np.where(inside, 0.0, 2.0), np.clip(np.minimum(ta, tb), 0.0, 1.0))
    end = np.where(level, np.where(inside, 1.0, -1.0), np.clip(np.maximum(ta, tb), 0.0, 1.0))
    missed = ~level & ((np.maximum(ta, tb) <= 0.0) | (np.minimum(ta, tb) >= 1.0))
    return np.where(missed, 2.0, start), np.where(missed, -1.0, end)


def _across(a: Array, b: Array, t0: Array, t1: Array, solid: Solid) -> Array:
    """Distance across of parts of moves to a prism, mm."""
    p = np.round(a[:, :2] + (b - a)[:, :2] * t0[:, None], 9)  # denormal numbers make the distance library warn
    q = np.round(a[:, :2] + (b - a)[:, :2] * t1[:, None], 9)
    lines = shapely.linestrings(np.stack([p, q], axis=1))
    return np.asarray(shapely.distance(lines, solid.outline))


def _worst_plainly(moves: Moves, section: Section, solid: Solid, limit: float) -> Gap | None:
    near = _near(moves, solid, section.radius + max(limit, 0.0))
    if not len(near):
        return None
    a, b = moves.points[:-1][near], moves.points[1:][near]
    t0, t1 = _within(section, solid, a[:, 2], b[:, 2], limit)
    chosen = np.nonzero(t0 <= t1)[0]
    if not len(chosen):
        return None
    a, b, t0, t1, near = a[chosen], b[chosen], t0[chosen], t1[chosen], near[chosen]
    middle = _across(a, b, t0, t1, solid)
    across = middle - section.radius
    ends = [_height_gap(section, solid, a[:, 2] + (b - a)[:, 2] * t) for t in (t0, t1)]
    gap = np.maximum(across, np.minimum(*ends))
    gap = np.where(across < limit, np.minimum(gap, np.nextafter(limit, -np.inf)), gap)
    i = int(np.argmin(gap))
    foot = _nearest(a[i], b[i], float(t0[i]), float(t1[i]), solid)
    number = int(near[i])
    through = bool(middle[i] < 1e-9 and gap[i] < 0.0)
    rapid = bool(moves.rapid[number])
    return Gap(float(gap[i]), solid.hold, solid.part, section.part, *foot, number, rapid, through)


def _nearest(a: Array, b: Array, t0: float, t1: float, solid: Solid) -> tuple[float, float, float]:
    p, q = np.round(a + (b - a) * t0, 9), np.round(a + (b - a) * t1, 9)
    line = shapely.LineString([p[:2], q[:2]]) if not np.array_equal(p[:2], q[:2]) else shapely.Point(p[:2])
    spot = shapely.get_coordinates(shapely.shortest_line(line, solid.outline))[0]
    length = float(np.hypot(*(q - p)[:2]))
    share = float(np.hypot(*(spot - p[:2]))) / length if length > 0 else 0.0
    return float(spot[0]), float(spot[1]), float(p[2] + (q - p)[2] * share)


def _worst(moves: Moves, parts: list[Section], solid: Solid, limit: float) -> Gap | None:
    from gatepost.core.hold import kernels

    out = np.empty(6)
    ring = np.ascontiguousarray(shapely.get_coordinates(solid.outline.exterior))
    table = np.array([(s.radius, s.bottom, s.top) for s in parts]).reshape(-1, 3)
    if not kernels.worst(moves.points, ring, solid.bottom, solid.top, table, limit, out):
        return None
    gap, number, part, t0, t1, middle = float(out[0]), int(out[1]), int(out[2]), *(float(v) for v in out[3:])
    foot = _nearest(moves.points[number], moves.points[number + 1], t0, t1, solid)
    through = middle < 1e-9 and gap < 0.0
    return Gap(gap, solid.hold, solid.part, parts[part].part, *foot, number, bool(moves.rapid[number]), through)


def clearance(
    moves: Moves, parts: list[Section], standing: list[Solid], limit: float, plainly: bool = False
) -> list[Gap]:
    """Per hold, its nearest place that falls below a limit; none when all is clear.

    moves: of the tip, bed XY and heights above the spoilboard, mm. plainly: by the reference, section by section.
    """
    found: dict[str, Gap] = {}
    for solid in standing:
        for wanted in (limit, 0.0):  # a touch is told as one even where the limit alone would round it
            if plainly:
                gaps = [_worst_plainly(moves, section, solid, wanted) for section in parts]
            else:
                gaps = [_worst(moves, parts, solid, wanted)]
            for gap in gaps:
                if (
                    gap is not None
                    and gap.gap < wanted
                    and (solid.hold not in found or gap.gap < found[solid.hold].gap)
                ):
                    found[solid.hold] = gap
    return sorted(found.values(), key=lambda g: g.gap)


def any_nearer(moves: Moves, parts: list[Section], standing: list[Solid], limit: float) -> bool:
    """Whether any move comes nearer to anything than a limit."""
    return any(_worst(moves, parts, solid, limit) is not None for solid in standing)
