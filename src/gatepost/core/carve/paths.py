# SPDX-License-Identifier: GPL-3.0-or-later
"""Tip paths of V-cuts and cut-outs, in blank XY and heights above the bed."""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray
from shapely import affinity, get_parts, transform
from shapely.geometry import LineString, Point, Polygon, box

from gatepost.core.carve.legs import from_nearest
from gatepost.core.carve.lettering import met, v_depths
from gatepost.core.carve.shapes import outline
from gatepost.core.geometry.region import pieces
from gatepost.core.geometry.straight import as_drawn
from gatepost.core.job.carve import MOST_DRAWN_HOLES, Plate
from gatepost.core.job.tool import Tool
from gatepost.core.motion import Moves, Pen
from gatepost.core.profile import blunt
from gatepost.core.tolerances import COARSE_FLATTEN

Array = NDArray[np.float64]
RAMP_SLOPE = 0.08  # rise over run of a ramped entry: about 5 degrees


def v_moves(
    runs: tuple[Array, ...], tool: Tool, top: float, travel: float, start: tuple[float, float, float], passes: int = 1
) -> Moves:  # fmt: skip
    """V-cut along runs of axis (x, y, r), in so many passes of like depth. top: height of the Z0 plane's wood; travel: rapid height; mm above
    the bed."""
    pen = Pen(*start)
    pen.rapid(z=max(travel, start[2]))
    lines = [v_depths(run, tool) + np.array([0.0, 0.0, top]) for run in runs]
    lines = [line for line in lines if blunt(tool) <= 0 or line[:, 2].min() < top]
    deepest = min((float(line[:, 2].min()) for line in lines), default=top)
    above = math.inf
    for number in range(1, passes + 1):
        floor = top - (top - deepest) * number / passes if number < passes else -math.inf
        for line in lines:
            if line[:, 2].min() < above - 1e-9:  # else it is cut already
                _v_line(pen, _no_deeper(line, floor), tool, top, travel)
        above = floor
    return pen.moves()


def _no_deeper(line: Array, floor: float) -> Array:
    """A line whose points lie no deeper than a floor: what is deeper follows it, and it bends where it gets there."""
    if line[:, 2].min() >= floor:
        return line
    bent = met(line, floor)
    return np.column_stack([bent[:, :2], np.maximum(bent[:, 2], floor)])


def _v_line(pen: Pen, points: Array, tool: Tool, top: float, travel: float) -> None:
    if points[0, 2] < points[-1, 2]:  # the shallow end first: the plunge is the shorter
        points = points[::-1]
    pen.rapid(x=points[0, 0], y=points[0, 1])
    pen.rapid(z=top + 2.0)
    pen.feed(tool.plunge, z=points[0, 2])
    pen.run(points[1:], tool.feed)
    pen.rapid(z=travel)


@lru_cache(maxsize=512)
def plate_outline(plate: Plate, grow: float = 0.0, tol: float = COARSE_FLATTEN) -> Polygon:
    """A plate, larger all round by ``grow``; blank frame. Arcs in pieces within tol. Of one that was drawn, what its outer line encloses."""
    if plate.form == "rounded" and not plate.drawn:
        whole = _rounded(plate, grow, tol)
        return affinity.rotate(whole, plate.turn, origin=(plate.x, plate.y)) if plate.turn else whole
    whole = _drawn(plate) if plate.drawn else outline(plate, plate.x, plate.y, tol)
    if plate.mirror:
        whole = transform(whole, lambda p: p * [-1.0, 1.0] + [2.0 * plate.x, 0.0])
    if plate.turn:
        whole = affinity.rotate(whole, plate.turn, origin=(plate.x, plate.y))
    out = whole.buffer(grow, quad_segs=pieces(abs(grow), tol)) if abs(grow) > 1e-9 else whole
    if out.is_empty:
        return Polygon()
    largest = max(get_parts(out), key=lambda p: p.area) if out.geom_type == "MultiPolygon" else out
    return Polygon(largest.exterior)


def middle_line(plate: Plate, tool: Tool, more: float = 0.0) -> Polygon:
    """What the cutter's middle goes round; more: mm farther off the line. Empty where it is too wide to go inside."""
    return plate_outline(plate, plate.out * (tool.diameter / 2.0 + more))


def _drawn(plate: Plate) -> Polygon:
    """The largest piece of a drawing, without what is cut out of its inside; or one of its holes, nothing where it has not as many."""
    size = np.array([plate.width / plate.wide, plate.height / plate.high])
    whole = transform(as_drawn(plate.drawn), lambda p: p * size + [plate.x, plate.y])
    largest = max(get_parts(whole), key=lambda p: p.area)
    if not plate.hole:
        return Polygon(largest.exterior)
    holes = sorted((Polygon(ring) for ring in largest.interiors), key=lambda p: -p.area)
    return holes[plate.hole - 1] if plate.hole <= len(holes) else Polygon()


def drawn_holes(plate: Plate) -> list[Polygon]:
    """All holes of a plate that was drawn, the largest first, as they stand."""
    if not plate.drawn:
        return []
    count = len(max(get_parts(as_drawn(plate.drawn)), key=lambda p: p.area).interiors)
    numbers = range(1, min(count, MOST_DRAWN_HOLES) + 1)
    return [plate_outline(plate.model_copy(update={"hole": n})) for n in numbers]


def _rounded(plate: Plate, grow: float, tol: float) -> Polygon:
    corner = min(plate.corner, plate.width / 2.0 - 1e-6, plate.height / 2.0 - 1e-6)
    core = box(
        plate.x - plate.width / 2.0 + corner, plate.y - plate.height / 2.0 + corner,
        plate.x + plate.width / 2.0 - corner, plate.y + plate.height / 2.0 - corner,
    )  # fmt: skip
    radius = corner + grow
    if radius < -1e-9:
        return core.buffer(radius, join_style="mitre")
    return core if radius <= 1e-9 else core.buffer(radius, quad_segs=pieces(radius, tol))


@dataclass(frozen=True)
class Tab:
    """A tab: its middle's distance along the centre line, and the place in blank XY."""

    along: float
    x: float
    y: float


def round_line(plate: Plate, tool: Tool, more: float = 0.0) -> Array:
    """Centre line of the cut (climb: clockwise from above outside, the other way round inside), from the middle of the front side; more: mm farther
    off the line; (n, 2), closed."""
    ring = np.asarray(middle_line(plate, tool, more).exterior.coords)
    clockwise = np.sum((ring[1:, 0] - ring[:-1, 0]) * (ring[1:, 1] + ring[:-1, 1])) >= 0
    if clockwise != (plate.out >= 0.0):
        ring = ring[::-1]
    grow = plate.out * (tool.diameter / 2.0 + more)
    return from_nearest(ring, np.array([plate.x, plate.y - plate.height / 2.0 - grow]))[0]


def along_line(loop: Array) -> Array:
    """How far along a line each of its corners is, mm."""
    return np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(loop, axis=0).T))])


def tabs(plate: Plate, tool: Tool) -> list[Tab]:
    """Tabs where they were put, or spread evenly over the two long sides, away from corners; distance along the finishing centre line."""
    if middle_line(plate, tool).is_empty:
        return []
    loop = round_line(plate, tool)
    along = along_line(loop)
    if len(plate.tab_at) == plate.tabs:  # another number of tabs than were placed is spread anew
        middles = [share * float(along[-1]) for share in plate.tab_at]
        return [Tab(m, *(float(np.interp(m, along, loop[:, k])) for k in (0, 1))) for m in sorted(middles)]
    if plate.form in ("oval", "arched") or plate.drawn or plate.turn:
        middles = [(i + 0.5) / plate.tabs * float(along[-1]) for i in range(plate.tabs)]
        if plate.drawn:
            middles = _off_corners(loop, along, middles, plate.tab_width + tool.diameter)
        return [Tab(m, *(float(np.interp(m, along, loop[:, k])) for k in (0, 1))) for m in middles]
    flat_x = plate.width >= plate.height
    straight = (plate.width if flat_x else plate.height) - 2 * plate.corner
    per_side = [plate.tabs - plate.tabs // 2, plate.tabs // 2]
    found: list[Tab] = []
    grow = plate.out * tool.diameter / 2.0
    for side, count in enumerate(per_side):
        for i in range(count):
            offset = ((i + 0.5) / count - 0.5) * straight
            sign = -1.0 if side == 0 else 1.0
            half = (plate.height if flat_x else plate.width) / 2.0 + grow
            place = (plate.x + offset, plate.y + sign * half) if flat_x else (plate.x + sign * half, plate.y + offset)
            found.append(Tab(_nearest_along(loop, along, place), place[0], place[1]))
    return sorted(found, key=lambda t: t.along)


def share_along(plate: Plate, tool: Tool, place: tuple[float, float]) -> float:
    """Where on its line a place is nearest, as a share of the way round, 0 to 1."""
    loop = round_line(plate, tool)
    along = along_line(loop)
    return min(_nearest_along(loop, along, place) / float(along[-1]), 1.0 - 1e-9)


def _off_corners(loop: Array, along: Array, middles: list[float], wide: float) -> list[float]:
    """Places for tabs, each moved along to where the line bends least under it, no farther than a third of the way to the next."""
    whole, step = float(along[-1]), float(along[-1]) / max(len(middles), 1)
    way = np.diff(loop, axis=0)
    turn = np.abs(np.angle(np.exp(1j * np.diff(np.unwrap(np.arctan2(way[:, 1], way[:, 0]))))))
    at, bends = along[1:-1], turn
    out: list[float] = []
    for m in middles:
        tries = m + np.linspace(-step / 3.0, step / 3.0, 41)
        gap = np.abs((at[None, :] - tries[:, None] + whole / 2.0) % whole - whole / 2.0)
        cost = np.where(gap < wide / 2.0, bends[None, :], 0.0).sum(axis=1) + 1e-6 * np.abs(tries - m)
        out.append(float(tries[int(np.argmin(cost))] % whole))
    return sorted(out)


def _nearest_along(loop: Array, along: Array, place: tuple[float, float]) -> float:
    a, way = loop[:-1], np.diff(loop, axis=0)
    square = np.maximum((way * way).sum(axis=1), 1e-300)
    t = np.clip(((np.array(place) - a) * way).sum(axis=1) / square, 0.0, 1.0)
    i = int(np.argmin(((a + t[:, None] * way - place) ** 2).sum(axis=1)))
    return float(along[i] + t[i] * math.sqrt(square[i]))


def _profile(
    loop: Array,
    along: Array,
    spans: list[tuple[float, float]],
    floor: float,
    tab_top: float,
    ramp_from: float,
    ramp: float,
) -> Array:
    """One turn and the ramp once more, (n, 3): floor, or tab_top over tabs; the first ``ramp`` mm slope from ramp_from."""
    length = float(along[-1])
    raised = [(a + k * length, b + k * length) for a, b in spans for k in (-1, 0, 1)] if tab_top > floor else []
    ends = [s for ab in raised for s in ab if 0.0 < s < length + ramp]
    again = length + along[along < ramp]
    ordered = np.unique(np.concatenate([[0.0, length, ramp, length + ramp], along, again, ends]))
    ordered = ordered[ordered <= length + ramp + 1e-9]
    middle = 0.5 * (ordered[:-1] + ordered[1:])
    over = np.zeros(len(middle), np.bool_)
    for a, b in raised:
        over |= (a < middle) & (middle < b)
    base = (
        ramp_from + (floor - ramp_from) * np.minimum(1.0, ordered / ramp) if ramp > 0 else np.full(len(ordered), floor)
    )
    heights = np.stack([base[:-1], base[1:]], axis=1)
    heights[over] = np.maximum(heights[over], tab_top)
    round_ = np.where(ordered > length, ordered % length, ordered)
    places = np.column_stack([np.interp(round_, along, loop[:, 0]), np.interp(round_, along, loop[:, 1])])
    points = np.column_stack([np.stack([places[:-1], places[1:]], axis=1).reshape(-1, 2), heights.reshape(-1)])
    keep = np.concatenate([[True], np.any(np.abs(np.diff(points, axis=0)) > 1e-9, axis=1)])
    kept: Array = points[keep]
    return kept


MOST_PASSES = 400  # of a cut-out: 60 mm of wood in passes of 0.15 mm


def cutout_passes(top: float, bottom: float, step: float) -> int:
    """How many roughing passes are wanted."""
    return max(1, math.ceil((top - bottom) / step - 1e-9))


def cutout_floors(top: float, bottom: float, step: float) -> list[float]:
    """Heights of roughing passes, equal and no deeper than step each, the last at the bottom."""
    count = cutout_passes(top, bottom, step)
    return [top - (top - bottom) * (i + 1) / count for i in range(count)]


def cutout_moves(
    plate: Plate, tool: Tool, top: float, bottom: float, travel: float, start: tuple[float, float, float],
    grain: float = 0.0,
) -> Moves:  # fmt: skip
    """Roughing with an allowance in ramped passes, then a full-depth last pass on the line, over tabs in both.

    top: of the wood; bottom: deepest tip; heights above the bed, mm; grain: degrees from X that it runs at.
    """
    pen = Pen(*start)
    pen.rapid(z=max(travel, start[2]))
    tab_top = plate.tab_height if plate.tabs and plate.skin <= 0.0 else -math.inf
    half = (plate.tab_width + tool.diameter) / 2.0
    rough = round_line(plate, tool, plate.allowance)
    along = along_line(rough)
    fine = round_line(plate, tool)
    standing = tabs(plate, tool)
    # each where it stands, whichever line is followed: corners are longer outside, straight sides are not
    spans = [(m - half, m + half) for m in (_nearest_along(rough, along, (t.x, t.y)) for t in standing)]
    level = top
    for number, floor in enumerate(cutout_floors(top, bottom, tool.pass_depth)):
        ramp = min((level - floor) / RAMP_SLOPE, 0.4 * along[-1])
        points = _profile(rough, along, spans, floor, tab_top, level, ramp)
        if number == 0:
            pen.rapid(x=points[0, 0], y=points[0, 1])
            pen.rapid(z=top + 2.0)
        else:
            pen.rapid(z=top + 2.0)
            pen.rapid(x=points[0, 0], y=points[0, 1])
        pen.feed(tool.plunge, z=points[0, 2])
        _run_over_tabs(pen, points[1:], tool)
        level = floor
    if plate.allowance > 0 and plate.out:
        spans = [(t.along - half, t.along + half) for t in standing]
        points = _profile(fine, along_line(fine), spans, bottom, tab_top, bottom, 0.0)
        if plate.grain_first:
            for run in ends_first(points, grain):
                _in_from_the_slot(pen, run, rough, tool, top)
        else:
            pen.rapid(z=top + 2.0)
            outside = rough[0] + (rough[0] - fine[0])
            pen.rapid(x=float(outside[0]), y=float(rough[0, 1]))
            pen.feed(tool.plunge, z=bottom)
            _run_over_tabs(pen, points, tool)
    pen.rapid(z=travel)
    return pen.moves()


def _run_over_tabs(pen: Pen, points: Array, tool: Tool) -> None:
    for x, y, z in points.tolist():
        down = z < pen.here[2] - 1e-9 and math.hypot(x - pen.here[0], y - pen.here[1]) < 1e-9
        pen.feed(tool.plunge if down else tool.feed, x, y, z)


def ends_first(points: Array, grain: float) -> list[Array]:
    """A round parted where it turns from the ends of the grain to its long sides or back, the ends before the sides: what they tear out at their
    corners, the sides take away. points: (n, 3), closed; grain: degrees from X."""
    way = np.diff(points[:, :2], axis=0)
    flat = np.hypot(*way.T) > 1e-9
    lean = np.radians(grain)
    across = np.abs(way @ np.array([-np.sin(lean), np.cos(lean)])) > np.abs(
        way @ np.array([np.cos(lean), np.sin(lean)])
    )
    kind = np.where(flat, across, False)
    for i in range(1, len(kind)):  # a rise over a tab goes with what it rises from
        kind[i] = kind[i] if flat[i] else kind[i - 1]
    if kind.all() or not kind.any():
        return [points]
    cuts = np.flatnonzero(kind[1:] != kind[:-1]) + 1
    ends = np.concatenate([[0], cuts, [len(kind)]])
    runs = [(bool(kind[a]), points[a : b + 1]) for a, b in zip(ends[:-1], ends[1:])]
    if runs[0][0] == runs[-1][0] and len(runs) > 1:  # the round begins in the middle of one
        runs = [(runs[0][0], np.vstack([runs[-1][1], runs[0][1][1:]])), *runs[1:-1]]
    return [r for is_end, r in runs if is_end] + [r for is_end, r in runs if not is_end]


def _in_from_the_slot(pen: Pen, run: Array, rough: Array, tool: Tool, top: float) -> None:
    """Part of the last cut: down where the roughing went nearest to its beginning, onto the line, along it, and off again to where the roughing went. rough:
    the roughing's line, closed."""
    slot = LineString(rough)
    first, last = (slot.interpolate(slot.project(Point(run[k, :2]))) for k in (0, -1))
    pen.rapid(z=top + 2.0)
    pen.rapid(x=first.x, y=first.y)
    pen.feed(tool.plunge, z=float(run[0, 2]))
    _run_over_tabs(pen, run, tool)
    pen.feed(tool.feed, last.x, last.y, float(run[-1, 2]))
