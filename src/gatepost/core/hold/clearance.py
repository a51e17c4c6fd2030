# SPDX-License-Identifier: GPL-3.0-or-later
"""Clear of everything: every move, rapids too, by cutter, shank, nut and shoe each at its own height.

A tool is a stack of upright cylinders; a hold is a set of upright prisms. At a moment, the gap to a prism is the
greater of the gap across (signed: negative inside its outline) and the gap in height; of a move it is the least, exact
for straight moves of any slope.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray

from gatepost.core.hold.solids import Solid
from gatepost.core.job.machine import Machine
from gatepost.core.job.tool import Tool
from gatepost.core.motion import Moves
from gatepost.core.profile import profile_of

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
    """The nearest place of a tool to a hold. gap: mm, negative when they would touch: the least by which one of the two
    would have to give way."""

    gap: float
    hold: str
    part: str
    tool_part: str
    x: float
    y: float
    z: float
    move: int
    rapid: bool


@dataclass(frozen=True)
class Passing:
    """One part of a tool past one solid. gap_xy: over all moments at which they overlap in height, the least distance of
    the axis to the outline (negative inside) less the part's radius; gap_z: over all moments at which they overlap in
    plan, the least of the part's underside less the solid's top; nothing where that never happens; move: of the worse."""

    name: str
    part: str
    gap_xy: float | None
    gap_z: float | None
    move: int | None


def sections(tool: Tool, machine: Machine) -> list[Section]:
    """Cutter, shank, nut and shoe. What of a cutter is a cone is a stack of slices, each as wide as its widest; what is rounded counts as upright."""
    profile = profile_of(tool)
    radius = profile.radius
    parts: list[Section] = []
    edge = min(tool.cutting_length, tool.length)
    if not math.isinf(profile.steep):
        cone = min(profile.shoulder, edge)
        cuts = np.linspace(0.0, cone, CONE_SLICES + 1)
        parts += [Section("cutter", profile.out_at(float(b)), float(a), float(b)) for a, b in zip(cuts, cuts[1:])]
        if cone < edge:
            parts.append(Section("cutter", radius, cone, edge))
    else:
        parts.append(Section("cutter", radius, 0.0, edge))
    if edge < tool.length:
        parts.append(Section("shank", tool.shank / 2.0, edge, tool.length))
    parts.append(Section("nut", machine.nut_diameter / 2.0, tool.length, tool.length + machine.nut_height))
    if machine.shoe > 0.0:
        low = tool.length + machine.shoe_above
        parts.append(Section("shoe", machine.shoe / 2.0, low, low + machine.shoe_height))
    return parts


def _nearest(a: Array, b: Array, t0: float, t1: float, solid: Solid) -> tuple[float, float, float]:
    p, q = np.round(a + (b - a) * t0, 9), np.round(a + (b - a) * t1, 9)
    line = shapely.LineString([p[:2], q[:2]]) if not np.array_equal(p[:2], q[:2]) else shapely.Point(p[:2])
    spot = shapely.get_coordinates(shapely.shortest_line(line, solid.outline))[0]
    length = float(np.hypot(*(q - p)[:2]))
    share = float(np.hypot(*(spot - p[:2]))) / length if length > 0 else 0.0
    return float(spot[0]), float(spot[1]), float(p[2] + (q - p)[2] * share)


def _ring(solid: Solid) -> Array:
    return np.ascontiguousarray(shapely.get_coordinates(solid.outline.exterior))


def _table(parts: Sequence[Section]) -> Array:
    return np.array([(s.radius, s.bottom, s.top) for s in parts], dtype=np.float64).reshape(-1, 3)


def _worst(moves: Moves, parts: list[Section], solid: Solid, limit: float) -> Gap | None:
    from gatepost.core.hold import kernels

    out = np.empty(6)
    starts, ends = moves.points[:-1], moves.points[1:]
    if not kernels.worst(starts, ends, _ring(solid), solid.bottom, solid.top, _table(parts), limit, out):
        return None
    gap, number, part, t0, t1 = float(out[0]), int(out[1]), int(out[2]), float(out[3]), float(out[4])
    foot = _nearest(starts[number], ends[number], t0, t1, solid)
    return Gap(gap, solid.hold, solid.part, parts[part].part, *foot, number, bool(moves.rapid[number]))


def clearance(moves: Moves, parts: list[Section], standing: list[Solid], limit: float) -> list[Gap]:
    """Per hold, its nearest place that falls below a limit, nearest first; none when all is clear.

    moves: of the tip, bed XY and heights above the spoilboard, mm.
    """
    found: dict[str, Gap] = {}
    for solid in standing:
        least = found[solid.hold].gap if solid.hold in found else limit
        gap = _worst(moves, parts, solid, least)
        if gap is not None:
            found[solid.hold] = gap
    return sorted(found.values(), key=lambda g: g.gap)


def any_nearer(moves: Moves, parts: list[Section], standing: Sequence[Solid], limit: float) -> bool:
    """Whether any move comes nearer to anything than a limit."""
    from gatepost.core.hold import kernels

    starts, ends, table = moves.points[:-1], moves.points[1:], _table(parts)
    return any(kernels.nearer(starts, ends, _ring(s), s.bottom, s.top, table, limit) for s in standing)


def gantry_gaps(moves: Moves, machine: Machine, standing: Sequence[Solid], limit: float) -> list[Gap]:
    """Per hold that the gantry's beam comes near, its gap: the beam reaches right across, behind the spindle, at its own
    height. moves: on the bed."""
    if machine.gantry <= 0.0:
        return []
    y = moves.points[:, 1]
    found: dict[str, Gap] = {}
    for solid in standing:
        x0, y0, x1, y1 = solid.outline.bounds
        across = max(y0 - float(y.max()) - machine.gantry_back, float(y.min()) + machine.gantry_front - y1)
        gap = max(across, machine.gantry - solid.top)
        if gap < limit and (solid.hold not in found or gap < found[solid.hold].gap):
            behind = 0.5 * (machine.gantry_front + machine.gantry_back)
            at = int(np.argmin(np.abs(y + behind - 0.5 * (y0 + y1))))
            move = max(at - 1, 0)
            rapid = bool(moves.rapid[move]) if len(moves) else True
            found[solid.hold] = Gap(
                gap, solid.hold, solid.part, "gantry", 0.5 * (x0 + x1), 0.5 * (y0 + y1), machine.gantry, move, rapid
            )
    return sorted(found.values(), key=lambda g: g.gap)


def passings(starts: Array, ends: Array, parts: list[Section], standing: Sequence[Solid]) -> list[Passing]:
    """Every part past every solid. starts, ends: (n, 3) of the tip, in the solids' coordinates, mm."""
    from gatepost.core.hold import kernels

    out, said = np.empty(4), []
    starts, ends = np.ascontiguousarray(starts), np.ascontiguousarray(ends)
    for solid in standing:
        ring = _ring(solid)
        for part, row in zip(parts, _table(parts)):
            kernels.passings(starts, ends, ring, solid.bottom, solid.top, row, out)
            gaps = [(float(out[i]), int(out[i + 1])) for i in (0, 2) if out[i + 1] >= 0]
            said.append(
                Passing(
                    solid.hold, part.part, float(out[0]) if out[1] >= 0 else None, float(out[2]) if out[3] >= 0 else None,
                    min(gaps)[1] if gaps else None,
                )
            )  # fmt: skip
    return said
