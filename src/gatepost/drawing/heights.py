# SPDX-License-Identifier: GPL-3.0-or-later
"""The same from the side: heights along a line across the bed, X to the right, stretched so that they can be read."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from gatepost.core.findings import Finding, Level
from gatepost.core.hold.clearance import sections
from gatepost.core.job.tool import Tool
from gatepost.core.job.turning import OPPOSITE
from gatepost.core.plan.planned import PlannedSetup
from gatepost.core.plan.result import Plan
from gatepost.core.profile import profile_of
from gatepost.core.surface.seat import THINNEST
from gatepost.core.units import show_length
from gatepost.core.wood.arris import CUT
from gatepost.core.wood.between import underside
from gatepost.core.wood.field import HeightField
from gatepost.drawing.bed import field_after, shown_count
from gatepost.drawing.cutters import side_of
from gatepost.drawing.paths import letters_in
from gatepost.drawing.shapes import Drawing, Shape, box, label, line, text

Ends = tuple[float, float, float, float]  # of a line across the board
BARE = ("blank", "carve", "register")  # stages at which what holds the board is left out
TRUE_WIDE = 6.0  # times as wide as tall, the window at true scale
NEAR = 45.0  # mm beside the line within which a hold is drawn solid


@dataclass(frozen=True)
class Look:
    """What is looked at. y: of the line, bed; slant: from where to where, for a line that runs any way; after: operations done; tip: where the tip is now, bed."""

    y: float | None = None
    after: int = -1
    tip: tuple[float, float, float] | None = None
    tool: Tool | None = None
    unit: str = "mm"
    slant: tuple[float, float, float, float] | None = None
    wood: HeightField | None = None


def worst(plan: Plan, setup: PlannedSetup, stage: str) -> Finding | None:
    """The finding whose place the strip follows."""
    for level in (Level.STOP, Level.CARE):
        for f in plan.findings:
            if f.level is level and f.place is not None and f.stage == stage and f.setup == setup.name:
                return f
    return None


def line_y(plan: Plan, setup: PlannedSetup, stage: str, look: Look) -> float:
    """Where the line lies: the operator's, the tip's, the worst place's, the lowest place's, else the middle."""
    if look.y is not None:
        return look.y
    if look.tip is not None:
        return look.tip[1]
    bad = worst(plan, setup, stage)
    if bad is not None and bad.place is not None:
        return bad.place.y
    if stage in ("blank", "surface") and setup.extremes is not None:
        (_, y0, _, y1), width = setup.blank.box, setup.blank.across[1]
        share = 0.0 if setup.blank.shape == "rectangle" else 0.12 * width  # where there is wood all along
        edge = min(max(2.0 * setup.start.cell, share), width / 2.0)
        return setup.at(setup.extremes.lowest[0], min(max(setup.extremes.lowest[1], y0 + edge), y1 - edge))[1]
    letters = letters_in(plan, setup)
    if stage == "carve" and letters:
        bounds = max(letters, key=lambda q: q.cut.widest).outline().bounds
        return setup.face_to_bed.xy((bounds[0] + bounds[2]) / 2, (bounds[1] + bounds[3]) / 2)[1]
    if stage == "zero" and setup.touches:
        return next(iter(setup.touches.values())).y
    return setup.at(*setup.blank.middle)[1]


def heights(plan: Plan, setup_name: str, stage: str, look: Look | None = None) -> Drawing:
    """The strip of heights."""
    look = look or Look()
    setup = plan.setup(setup_name) or plan.setups[-1]
    if look.slant is not None and look.tip is None:
        return along(plan, setup, stage, look, look.slant)
    y = line_y(plan, setup, stage, look)
    machine = plan.job.machine
    left, _, right, _ = _room(setup)
    ends = (*setup.back(left, y), *setup.back(right, y))
    count = shown_count(setup, stage, look.after)
    field = look.wood if look.wood is not None else field_after(setup, count)
    profile = field.profile(*ends, 900)
    before = setup.start.profile(*ends, 300)
    shapes: list[Shape] = [
        box(0, -machine.spoilboard, machine.travel_x, 0, "spoilboard"),
        text(max(8.0, left - 28.0), -4.5, "spoilboard", "muted", "left"),
    ]
    through = passes_done(setup, stage, look.after)
    if count or through:
        shapes += _silhouette(before, left, "wood-ghost", _floor(plan, setup, ends, before))
    if through:
        profile[:, 1] = np.minimum(profile[:, 1], setup.passes[through - 1].z)
    shapes += _silhouette(profile, left, "wood", _floor(plan, setup, ends, profile))
    if stage not in BARE:
        shapes += [*_shims(setup, y, look.unit), *_holds(setup, y)]
    shapes += _passes(plan, setup, stage, look.unit)
    shapes += _marks(plan, setup, stage, look)
    top = _top(plan, setup, stage, look)
    bad = worst(plan, setup, stage)
    where = f"along Y {show_length(y, look.unit)} on the bed"
    if bad is not None and look.y is None and look.tip is None:
        where = f"at the worst place, {bad.about or 'there'}"
    floor = -6.0 if stage in ("surface", *BARE) else -12.0
    if stage in ("blank", "surface") and setup.extremes is not None:  # what matters is the top: shown from near
        low, high = setup.extremes.lowest[2], setup.extremes.highest[2]
        near = 3.0 * max(high - low, 0.5)
        if low - near > 0.25 * high:
            floor, top = low - near, high + 0.8 * near
            where += f", from {show_length(floor, look.unit)} above the bed up"
    if stage == "carve":
        middle = _groove(plan, setup, look, bad)
        half = 0.5 * TRUE_WIDE * (top - floor)
        if middle is not None:
            extents = (middle - half, floor, middle + half, top)
            return Drawing(tuple(shapes), extents, "Heights", f"{where}, true scale", about={"y": y}, true=True)
    if stage == "register":  # under two boards side by side: by itself
        return Drawing(
            tuple(shapes), (left - 30.0, floor, right + 30.0, top), "Heights", where, tall=0.0, about={"y": y}
        )
    return Drawing(tuple(shapes), (0.0, floor, machine.travel_x, top), "Heights", where, about={"y": y})


def _groove(plan: Plan, setup: PlannedSetup, look: Look, bad: Finding | None) -> float | None:
    """X on the bed of the groove that is looked at: where something is wrong, else the widest stroke's; nothing where none is cut."""
    if bad is not None and bad.place is not None and look.y is None:
        return bad.place.x
    letters = letters_in(plan, setup)
    if not letters:
        return None
    bounds = max(letters, key=lambda q: q.cut.widest).outline().bounds
    return setup.face_to_bed.xy((bounds[0] + bounds[2]) / 2, (bounds[1] + bounds[3]) / 2)[0]


def along(plan: Plan, setup: PlannedSetup, stage: str, look: Look, slant: tuple[float, float, float, float]) -> Drawing:
    """The wood along a line that runs any way across the bed, from its one end to the other."""
    x0, y0, x1, y1 = slant
    field = field_after(setup, shown_count(setup, stage, look.after))
    profile = field.profile(*setup.back(x0, y0), *setup.back(x1, y1), 600)
    through = passes_done(setup, stage, look.after)
    ghost = profile.copy()
    if through:
        profile[:, 1] = np.minimum(profile[:, 1], setup.passes[through - 1].z)
    flat = _floor(plan, setup, (*setup.back(x0, y0), *setup.back(x1, y1)), profile)
    shapes = [
        *(_silhouette(ghost, 0.0, "wood-ghost", flat) if through else []),
        *_silhouette(profile, 0.0, "wood", flat),
    ]
    long = max(float(profile[-1, 0]), 1.0)
    standing = profile[np.isfinite(profile[:, 1]), 1]
    low, high = (float(standing.min()), float(standing.max())) if len(standing) else (0.0, 1.0)
    near = 2.0 * max(high - low, 0.5)
    floor, top = (max(-2.0, low - near), high + near) if stage in ("blank", "surface") else (-2.0, high + 6.0)
    for z, words in ((high, "highest"), (low, "lowest")):
        at = float(profile[int(np.nanargmax(profile[:, 1] == z)), 0]) if len(standing) else 0.0
        shapes.append(line(np.array([[at, z], [at, z + 0.35 * near]]), "line-across"))
        side = "left" if at < 0.1 * long else "right" if at > 0.9 * long else "centre"
        shapes.append(text(at, z + 0.45 * near, f"{words} {show_length(z, look.unit)}", "pass-text", side))
    ends = f"X {show_length(x0, look.unit)}, Y {show_length(y0, look.unit)} to X {show_length(x1, look.unit)}, Y {show_length(y1, look.unit)}"
    return Drawing(tuple(shapes), (0.0, floor, long, top), "Heights", f"along a line from {ends} on the bed", tall=0.0)


def passes_done(setup: PlannedSetup, stage: str, after: int) -> int:
    """How many passes are shown as done on the Surface page."""
    return after if stage == "surface" and 0 < after <= len(setup.passes) else 0


def _top(plan: Plan, setup: PlannedSetup, stage: str, look: Look) -> float:
    wood = setup.start.highest
    if stage == "surface":
        return max(wood + 6.0, setup.zero_height + 1.2 * _arrow(setup, stage))
    if stage in BARE:
        return wood + 6.0
    tops = [q.top for q in setup.solids] + [setup.travel if stage in ("hold", "run") else 0.0, wood]
    if look.tip is not None:
        tops.append(min(look.tip[2] + 12.0, plan.job.machine.nose_at_home))
    return max(tops) + 8.0


def _floor(plan: Plan, setup: PlannedSetup, ends: Ends, profile: np.ndarray) -> np.ndarray:
    """The underside along a line of the board, at the profile's own places: as it was read, or as the face that is down was carved."""
    (x0, y0), (x1, y1) = ends[:2], ends[2:]
    share = profile[:, 0] / max(math.hypot(x1 - x0, y1 - y0), 1e-9)
    places = np.column_stack([x0 + share * (x1 - x0), y0 + share * (y1 - y0)])
    under = setup.under_map
    if under is None:
        return _carved_under(plan, setup, places)
    rows, columns = under.shape
    (left, front, _, _), (long, wide) = setup.blank.box, setup.blank.across
    x, row = places[:, 0] - left, (places[:, 1] - front) / wide * (rows - 1)
    j = np.clip(np.rint(row), 0, rows - 1).astype(int)
    i = np.clip(x / long * (columns - 1), 0, columns - 1)
    low = np.minimum(i.astype(int), columns - 2)
    return np.asarray(under[j, low] + (i - low) * (under[j, low + 1] - under[j, low]), np.float64)


def _carved_under(plan: Plan, setup: PlannedSetup, places: np.ndarray) -> np.ndarray:
    """How high the underside stands at places of the board, (n, 2), as far as the face that is down was carved before."""
    before = plan.setups[: [s.name for s in plan.setups].index(setup.name)]
    down = [s for s in before if s.setup.up == OPPOSITE[setup.setup.up] and s.operations and not s.flattens]
    if not down:
        return np.zeros(len(places))
    high = underside(setup.carried, down[-1].carried, down[-1].operations[-1].after, places)
    return np.where(high > CUT, high, 0.0)


def _room(setup: PlannedSetup) -> tuple[float, float, float, float]:
    """The bed that the board takes up: x0, y0, x1, y1."""
    left, front, right, back = setup.blank.box
    corners = np.array([[left, front], [right, front], [right, back], [left, back]])
    there = setup.placed.to_bed.array(corners)
    (x0, y0), (x1, y1) = there.min(axis=0).tolist(), there.max(axis=0).tolist()
    return x0, y0, x1, y1


def _shims(setup: PlannedSetup, y: float, unit: str) -> list[Shape]:
    """Wedges under the board, solid where they are near the line."""
    seats = setup.surfaced.seats
    if not setup.on_shims or seats is None or seats.shimmed is None:
        return []
    out: list[Shape] = []
    for shim in seats.shimmed.shims:
        if shim.height < THINNEST:
            continue
        x, at = setup.at(shim.x, shim.y)
        ring = np.array([[x - 20, 0.0], [x + 20, 0.0], [x + 20, shim.height], [x - 20, 0.0]])
        near = abs(at - y) <= NEAR
        out.append(Shape("area", ring, "packing" if near else "hold-far"))
        if near:
            out.append(text(x + 46, -4.5, f"shim {show_length(shim.height, unit)}", "hold-text"))
    return out


def _silhouette(profile: np.ndarray, x: float, role: str, floor: np.ndarray) -> list[Shape]:
    """Wood between its underside and a profile, as areas; gaps where it is cut through."""
    z = np.where(np.isnan(profile[:, 1]) | (profile[:, 1] < 0.05), 0.0, profile[:, 1])
    out: list[Shape] = []
    solid = z > 0.0
    edges = np.nonzero(solid[1:] != solid[:-1])[0] + 1
    for a, b in zip(np.concatenate([[0], edges]), np.concatenate([edges, [len(z)]])):
        if solid[a] and b - a > 1:
            run = np.column_stack([profile[a:b, 0] + x, z[a:b]])
            under = np.column_stack([run[:, 0], np.minimum(floor[a:b], z[a:b])])[::-1]
            ring = np.vstack([run, under, run[:1]])
            out.append(Shape("area", ring, role))
    return out


def _holds(setup: PlannedSetup, y: float) -> list[Shape]:
    out: list[Shape] = []
    for solid in setup.solids:
        x0, y0, x1, y1 = solid.outline.bounds
        near = y0 - NEAR <= y <= y1 + NEAR
        role = solid.look.role
        out.append(box(x0, solid.bottom, x1, solid.top, role if near else "hold-far", f"hold:{solid.hold}"))
        if near and solid.look.named:
            out.append(text((x0 + x1) / 2, solid.top + 4, solid.hold, "hold-text"))
    return out


def _passes(plan: Plan, setup: PlannedSetup, stage: str, unit: str) -> list[Shape]:
    depths = setup.surfaced.depths
    if not setup.flattens or stage not in ("surface", "hold", "zero") or depths is None:
        return []
    out: list[Shape] = []
    x0, _, x1, _ = _room(setup)
    x0, x1 = x0 - 10, x1 + 10
    for i, z in enumerate(depths.heights):
        last = i == len(depths.heights) - 1
        out.append(line(np.array([[x0, z], [x1, z]]), "finished" if last else "pass"))
    above = 0.6 * (depths.heights[0] - depths.heights[-1]) if stage == "surface" else 4.0
    words = f"pass 1, down to the finish at {show_length(depths.heights[-1], unit)}"
    out.append(text(x1 - 6, depths.heights[0] + above, words, "pass-text", "right"))
    return out


def _marks(plan: Plan, setup: PlannedSetup, stage: str, look: Look) -> list[Shape]:
    out: list[Shape] = []
    if stage in ("hold", "run"):
        out.append(line(np.array([[0, setup.travel], [plan.job.machine.travel_x, setup.travel]]), "travel"))
        out.append(
            text(
                max(8.0, _room(setup)[0] - 28.0),
                setup.travel + 6.0,
                f"travel height {show_length(setup.travel, look.unit, 1 if look.unit == 'mm' else 2)} above the bed",
                "travel-text",
                "left",
            )
        )
    if stage in ("zero", "hold", "surface", "tools", "run"):
        x = setup.placed.mark[0]
        touch = next(iter(setup.touches.values()), None)
        x = touch.x if touch is not None else x
        z, tall = setup.zero_height, _arrow(setup, stage)
        out += [
            line(np.array([[x, z + tall], [x, z]]), "zero", "z0"),
            line(np.array([[x - 8, z + tall / 3], [x, z], [x + 8, z + tall / 3]]), "zero", "z0"),
        ]
        out.append(label(x + 30, z + 0.75 * tall, "Z0", "zero-label", "z0"))
    bad = worst(plan, setup, stage)
    if bad is not None and bad.place is not None and stage == "hold":
        out += _tool_at(plan, setup, bad)
    if look.tip is not None and look.tool is not None:
        out += _tool(plan, look.tool, look.tip[0], look.tip[2])
    return out


def _arrow(setup: PlannedSetup, stage: str) -> float:
    """How tall the arrow of Z0 is, mm."""
    if stage == "surface" and setup.extremes is not None:
        return 2.0 * max(setup.extremes.highest[2] - setup.extremes.lowest[2], 0.5)
    return 9.0


def _tool_at(plan: Plan, setup: PlannedSetup, bad: Finding) -> list[Shape]:
    program = next((p for p in setup.programs if f"of the {' and '.join(p.operations)}." in bad.message), None)
    return _tool(plan, program.tool, bad.place.x, bad.place.z) if program is not None and bad.place is not None else []


def _cutter(tool: Tool, top: float) -> np.ndarray:
    """A cutter from the side, its tip at 0, 0, as it is ground; (n, 2) mm, closed."""
    right = side_of(profile_of(tool), top)
    left = right[::-1] * np.array([-1.0, 1.0])
    return np.vstack([right, left, right[:1]])


def _tool(plan: Plan, tool: Tool, x: float, z: float) -> list[Shape]:
    """Cutter, shank and nut standing at a place."""
    out: list[Shape] = []
    for part in sections(tool, plan.job.machine):
        role = {"cutter": "cutter", "shank": "shank", "nut": "nut", "shoe": "packing"}[part.part]
        if part.part == "cutter":
            out.append(Shape("area", _cutter(tool, part.top) + np.array([x, z]), role, index=tool.number))
            continue
        out.append(box(x - part.radius, z + part.bottom, x + part.radius, z + part.top, role, index=tool.number))
    return out
