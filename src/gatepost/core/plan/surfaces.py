# SPDX-License-Identifier: GPL-3.0-or-later
"""Wires what is known of the blank to the surfacing: how it is laid, what must come off, where each pass goes."""

from __future__ import annotations

import math
from collections.abc import Callable, Hashable
from dataclasses import dataclass, replace
from typing import TYPE_CHECKING

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry import box

from gatepost.core.blank import shape
from gatepost.core.blank.top import Extremes, Top, extremes, top_of
from gatepost.core.cache import Memory
from gatepost.core.carve.lettering import Lettering, thinnest
from gatepost.core.carve.paths import plate_outline
from gatepost.core.errors import OperatorError
from gatepost.core.geometry.outline import Area
from gatepost.core.job.blank import TopHeight
from gatepost.core.job.model import Job, Setup
from gatepost.core.job.surface import Surfacing
from gatepost.core.job.tool import Tool
from gatepost.core.program.time import Drive, move_seconds
from gatepost.core.surface import passes, rows
from gatepost.core.surface.level import readings, turned_lying
from gatepost.core.surface.probing import Places, places
from gatepost.core.surface.reckoned import Pass, SpindleLoad, SurfacingResult, Way
from gatepost.core.surface.seat import Seat, Seats, seats
from gatepost.core.surface.slips import MOST_ROWS, slip
from gatepost.core.tolerances import CLEAN, FLATNESS, SAFE_TRAVEL
from gatepost.core.tools import forces
from gatepost.core.working import Named, working
from gatepost.core.zero import datum as zeros

if TYPE_CHECKING:
    from gatepost.core.plan.result import PlannedSetup

SMALL = 400  # results to remember where each is small
GRAIN = 4.0  # mm between the places where it is looked whether wood still stands
MARGIN = 5.0  # mm about what the design uses


@dataclass(frozen=True)
class LaidWood:
    """The board as it is laid. area: what is to be made flat, its ± included, blank coordinates."""

    seat: Seat | None
    seats: Seats | None
    heights: tuple[TopHeight, ...]
    top: Top
    extremes: Extremes
    outline: Area
    area: Area
    area_key: Hashable


def wood_of(job: Job, wanted: Surfacing, level: float, memory: Memory) -> LaidWood:
    """The board as it is laid. level: what its top is where nothing was measured, mm."""
    key = (job.blank, wanted.cleanup, wanted.shims_at_hand)
    both = memory.get("seats", key, lambda: seats(job.blank, wanted), SMALL) if job.blank.heights else None
    seat = both.shimmed if both is not None and wanted.seat == "shimmed" else None
    laid = job.blank
    if seat is not None:
        laid = laid.model_copy(update={"heights": seat.heights(laid.heights)})
    top = memory.get("top", (laid.heights, level), lambda: top_of(laid, level))
    outline_key = (laid.shape, laid.length, laid.width, laid.outline)
    outline = memory.get("outline", outline_key, lambda: shape.polygon(laid), SMALL)
    used = (job.carving.plate, job.carving.lines, job.carving.x, job.carving.y) if wanted.area == "used" else ()
    area_key = (outline_key, laid.doubt, used)
    area = memory.get("area", area_key, lambda: _area(job, wanted, outline), SMALL)
    ends = memory.get("extremes", (laid.heights, level, area_key), lambda: extremes(top, area.intersection(outline)))
    return LaidWood(seat, both, laid.heights, top, ends, outline, area, area_key)


def _area(job: Job, wanted: Surfacing, outline: Area) -> Area:
    """What is to be made flat: all of the board, or only what the design uses of it; with the outline's ±."""
    doubt = job.blank.doubt
    whole = outline.buffer(doubt, join_style="mitre", mitre_limit=2.0) if doubt else outline
    if wanted.area != "used":
        return whole
    plate = job.carving.plate
    tool = next((t for t in job.tools if plate is not None and t.number == plate.tool), None)
    if plate is not None:
        used = plate_outline(plate, plate.allowance + (tool.diameter if tool else 0.0) + MARGIN)
    elif job.carving.lines:
        tall = sum(line.height * (1.0 + job.carving.leading) for line in job.carving.lines)
        wide = max(line.width * line.height * (1.0 + line.tracking) for line in job.carving.lines)
        x, y, m = job.carving.x, job.carving.y, job.carving.margin + MARGIN
        used = box(x - wide / 2 - m, y - tall / 2 - m, x + wide / 2 + m, y + tall / 2 + m)
    else:
        return whole
    met = shapely.intersection(used, whole)
    return met if met.geom_type in ("Polygon", "MultiPolygon") and not met.is_empty else whole


def drive_of(job: Job) -> Drive:
    """The machine's drive for timing."""
    m = job.machine
    return Drive((m.rapid_xy, m.rapid_xy, m.rapid_z), (m.accel_xy, m.accel_xy, m.accel_z), m.deviation)


def angle_of(job: Job, wanted: Surfacing) -> float:
    """The direction of the rows, degrees from X."""
    return {
        "along X": 0.0, "along Y": 90.0, "along the grain": job.blank.grain, "across the grain": job.blank.grain + 90.0,
        "at an angle": wanted.angle,
    }[wanted.direction]  # fmt: skip


def cut_of(job: Job, setup: Setup, wanted: Surfacing, tool: Tool, over: passes.Overhang) -> rows.RowCut:
    """How a row is cut, and how far the machine lets it go."""
    m = job.machine
    limits = (-setup.x, -setup.y, m.travel_x - setup.x, m.travel_y - setup.y)
    lift = 2.0 * (SAFE_TRAVEL / (m.rapid_z / 60.0) + SAFE_TRAVEL / (tool.plunge / 60.0))
    radius, step = tool.diameter / 2.0, tool.diameter * wanted.stepover
    slower = 60.0 / tool.feed - 60.0 / m.rapid_xy if m.rapid_xy > tool.feed else 0.0
    hop = lift / slower if slower > 1e-6 else math.inf
    return rows.RowCut(
        radius, step, over.sides, over.turn.result - radius, limits, wanted.way == "climb", max(hop, 2.0 * radius)
    )  # fmt: skip


@dataclass(frozen=True)
class Lines:
    """Every pass's height and lines, and whether each row turns round off the wood."""

    each: tuple[tuple[float, tuple[NDArray[np.float64], ...]], ...]
    outside: bool


Laying = Callable[[LaidWood, tuple[float, ...], str], Lines]


def lines_of(
    job: Job, setup: Setup, wanted: Surfacing, wood: LaidWood, tool: Tool, heights: tuple[float, ...], path: str
) -> Lines:
    """Where each pass goes. path: the plain rectangle over all, or following the outline and what still stands."""
    angle = angle_of(job, wanted)
    over = passes.overhang(tool, tool.diameter * wanted.stepover, job.machine.accel_xy)
    cut = cut_of(job, setup, wanted, tool, over)
    if path == "rectangle":
        whole = rows.plain(wood.area, angle, cut)
        return Lines(tuple((z, whole.lines) for z in heights), whole.outside)
    grid, z_of, mask = _grid(wood, angle)
    done = []
    for z in heights:
        still = rows.StillStanding(grid[0], grid[1], mask & (z_of > z + CLEAN))
        done.append((z, rows.following(wood.area, angle, cut, still)))
    return Lines(tuple((z, p.lines) for z, p in done), all(p.outside for _, p in done))


def _grid(
    wood: LaidWood, angle: float
) -> tuple[tuple[NDArray[np.float64], NDArray[np.float64]], NDArray[np.float64], NDArray[np.bool_]]:
    """Heights over a grid that lies along the rows, and where it is inside what is to be made flat, a step wider."""
    u0, v0, u1, v1 = rows.turned_area(wood.area, angle).bounds
    u = np.linspace(u0, u1, max(2, math.ceil((u1 - u0) / GRAIN) + 1))
    v = np.linspace(v0, v1, max(2, math.ceil((v1 - v0) / GRAIN) + 1))
    uu, vv = np.meshgrid(u, v)
    places = rows.back(np.column_stack([uu.ravel(), vv.ravel()]), angle)
    z = wood.top.at(places[:, 0], places[:, 1]).reshape(uu.shape)
    near = wood.area.buffer(1.5 * GRAIN)
    shapely.prepare(near)
    inside = shapely.intersects_xy(near, places[:, 0], places[:, 1]).reshape(uu.shape)
    return (u, v), z, inside


def surfaced(
    job: Job, setup: Setup, wanted: Surfacing, wood: LaidWood, letters: Lettering, v_tool: Tool | None, memory: Memory
) -> SurfacingResult:
    """The whole of the surfacing as reckoned, as the board lies in a setup."""
    ends = wood.extremes
    error = ends.highest[2] - ends.lowest[2]
    flat = None
    if letters.letters and v_tool is not None:
        thin = max(2 * min(thinnest(letter.cut) for letter in letters.letters), 0.1)
        flat = passes.flatness(error, thin, v_tool.angle / 2.0, FLATNESS[job.tolerance])
    needed = wanted.wanted == "yes" or (wanted.wanted == "ask" and flat is not None and flat.needed)
    tool = next((t for t in job.tools if t.number == wanted.tool), None)
    if slip(job.blank.heights) is not None:  # thousands of passes would come of it
        return SurfacingResult(False, flat)
    if not wood.top.measured or tool is None:
        return SurfacingResult(False, flat, measured=wood.top.measured)
    counted = passes.depths(
        ends.lowest[2], ends.highest[2], ends.highest[2], wanted, _stands_on(job, wanted, _lies(wood))
    )
    _, v0, _, v1 = rows.turned_area(wood.area, angle_of(job, wanted)).bounds
    each = math.ceil((v1 - v0) / (tool.diameter * wanted.stepover)) + 1
    if len(counted.heights) * each > MOST_ROWS:
        return SurfacingResult(False, flat, too_many=(len(counted.heights), each))
    key = (job.blank, wanted, tool, job.machine, setup.x, setup.y, wood.area_key)

    def lines(there: LaidWood, heights: tuple[float, ...], path: str) -> Lines:
        found = (key, there.heights, heights, path)
        return memory.get("lines", found, lambda: lines_of(job, setup, wanted, there, tool, heights, path), 12)

    ways = memory.get("ways", key, lambda: _ways(job, wanted, wood, tool, lines), SMALL)
    if not needed:
        return SurfacingResult(False, flat, seats=wood.seats, ways=ways)
    top = ends.highest[2]
    zeroed = zero_height(job, setup, wood.top) if setup.zero.z == "top" else top
    depths = passes.depths(ends.lowest[2], top, zeroed, wanted, _stands_on(job, wanted, wood.seat or _lies(wood)))
    heights = depths.heights[: wanted.stop_after or None]
    laid = lines(wood, heights, wanted.path)
    over = passes.overhang(tool, tool.diameter * wanted.stepover, job.machine.accel_xy, laid.outside)
    gaps = memory.get("missed", (key, wood.heights, heights), lambda: _missed(wood, laid, tool), SMALL)
    deepest = max(bites(ends, heights))
    step = tool.diameter * wanted.stepover
    have = forces.available(job.machine, tool.rpm)
    load = SpindleLoad(
        deepest, forces.power(tool, job.wood, step, deepest), have,
        forces.feed_within(tool, job.wood, step, deepest, have.result),
    )  # fmt: skip
    return SurfacingResult(
        True, flat, depths, over, gaps, chip=forces.thickest_chip(tool, wanted.stepover), load=load, seats=wood.seats,
        ways=ways, lines=laid.each, lowest=ends.lowest, under=_stands_on(job, wanted, wood.seat or _lies(wood)),
        rough=_rough(wood, heights[-1]), back_first=_back_first(job, wanted, wood),
    )  # fmt: skip


def _lies(wood: LaidWood) -> Seat | None:
    return wood.seats.lies if wood.seats is not None else None


def _stands_on(job: Job, wanted: Surfacing, seat: Seat | None) -> float:
    """Height of the finished underside above the bed: of its highest place, less what is cleaned up of it."""
    if seat is None:
        return 0.0
    cut = job.blank.under or seat.tilt != (0.0, 0.0)
    return seat.under + (wanted.cleanup if cut else 0.0)


def _missed(wood: LaidWood, laid: Lines, tool: Tool) -> tuple[rows.Missed, ...]:
    """Places that no pass reaches. What lies below the last plane, stopped early or left hollow, need not be reached."""
    if not laid.each:
        return ()
    area, plane = wood.area, laid.each[-1][0]
    if plane > wood.extremes.lowest[2]:
        (u, v), z, inside = _grid(wood, 0.0)
        stands = inside & (z > plane + CLEAN)
        uu, vv = np.meshgrid(u, v)
        du, dv = 0.5 * (u[1] - u[0]), 0.5 * (v[1] - v[0])
        x, y = uu[stands], vv[stands]
        area = shapely.intersection(area, shapely.union_all(shapely.box(x - du, y - dv, x + du, y + dv)))
    return tuple(rows.missed(area, [line for _, lines in laid.each for line in lines], tool.diameter / 2.0))


def _back_first(job: Job, wanted: Surfacing, wood: LaidWood) -> float | None:
    """What is kept when the back is cut first, the board lying on its top; nothing where that can't be told, mm."""
    if len(job.blank.under) < 3:
        return None
    middle = wood.outline.centroid
    try:
        read = readings(
            np.array([(h.x, h.y, h.z) for h in job.blank.heights]), np.array([(g.x, g.y, g.z) for g in job.blank.under])
        )
        return turned_lying(read, (middle.x, middle.y), wanted.cleanup).thickness
    except OperatorError:
        return None


def _rough(wood: LaidWood, plane: float) -> float:
    """Share of the face that lies below a plane: it is never touched by a cut to there."""
    x0, y0, x1, y1 = wood.area.bounds
    x, y = np.meshgrid(np.linspace(x0, x1, 81), np.linspace(y0, y1, 81))
    inside = shapely.intersects_xy(wood.area.intersection(wood.outline), x, y)
    z = wood.top.at(x[inside], y[inside])
    return float((z < plane - CLEAN).mean()) if z.size else 0.0


def bites(ends: Extremes, heights: tuple[float, ...]) -> list[float]:
    """How deep each pass goes at the most, mm."""
    planes = (ends.highest[2], *heights)
    return [a - b for a, b in zip(planes, planes[1:])]


def _ways(job: Job, wanted: Surfacing, wood: LaidWood, tool: Tool, lines: Laying) -> tuple[Way, ...]:
    """Each way to lay the board, as it lies first. lines: where passes to some heights go, by a path."""
    if wood.seats is None:
        return ()
    return tuple(
        _way(job, wanted, wood, s, tool, lines) for s in (wood.seats.lies, wood.seats.shimmed) if s is not None
    )


def _way(job: Job, wanted: Surfacing, wood: LaidWood, seat: Seat, tool: Tool, lines: Laying) -> Way:
    """What one way to lay the board comes to."""
    laid = job.blank.model_copy(update={"heights": seat.heights(job.blank.heights)})
    inside = wood.area.intersection(wood.outline)
    if laid.heights == wood.heights:
        there = wood
    else:
        turned = top_of(laid, 0.0)
        there = replace(wood, heights=laid.heights, top=turned, extremes=extremes(turned, inside))
    top, ends = there.top, there.extremes
    depths = passes.depths(ends.lowest[2], ends.highest[2], ends.highest[2], wanted, _stands_on(job, wanted, seat))
    x, y, z = top.grid(laid.length, laid.width)
    z = z[shapely.intersects_xy(inside, x, y)]
    minutes = {p: _pass_seconds(job, there, tool, lines(there, depths.heights, p)) for p in ("rectangle", "outline")}
    done = tuple(
        Pass(height, seconds, float((z >= height - CLEAN).mean()) if z.size else 0.0)
        for height, seconds in zip(depths.heights, minutes[wanted.path])
    )
    a, b = seat.tilt
    under = _stands_on(job, wanted, seat)
    kept = working(
        "(plane - under) / sqrt(1 + along ** 2 + across ** 2)", Named("plane", depths.plane.result), Named("under", under),
        Named("along", a, "number"), Named("across", b, "number"), assumption="what is cleaned up of each face", shop_rule=True,
    )  # fmt: skip
    return Way(seat, kept, depths.removal.result, done, {path: sum(each) / 60.0 for path, each in minutes.items()})


def _pass_seconds(job: Job, wood: LaidWood, tool: Tool, laid: Lines) -> list[float]:
    """How long each pass takes by itself."""
    over, drive, done = wood.extremes.highest[2] + SAFE_TRAVEL, drive_of(job), []
    for z, lines in laid.each:
        if not lines:
            done.append(0.0)
            continue
        start = (float(lines[0][0, 0]), float(lines[0][0, 1]), over)
        done.append(float(move_seconds(passes.moves([(z, lines)], tool, over, start), drive).sum()))
    return done


def zero_height(job: Job, setup: Setup, top: Top) -> float:
    """Height of Z0 above the bed where the top is touched."""
    spot = zeros.touch_place(setup.zero, job.blank)
    return float(top.at(np.array([spot.x]), np.array([spot.y]))[0])


def under_map(job: Job, wood: LaidWood, shape_of: tuple[int, int]) -> NDArray[np.float32] | None:
    """How high the underside stands as the board is laid, over a grid from the front left, (rows, columns), mm; nothing
    where nobody read it."""
    blank = job.blank
    if len(blank.under) < 3:
        return None
    raised = tuple(TopHeight(x=g.x, y=g.y, z=g.z + 1.0) for g in blank.under)  # a height is over nought
    if wood.seat is not None:
        raised = wood.seat.heights(raised)
    top = top_of(blank.model_copy(update={"heights": raised}), 1.0)
    x, y = (np.linspace(0.0, size, count) for size, count in zip((blank.length, blank.width), reversed(shape_of)))
    return np.maximum(top.over(x, y) - 1.0, 0.0).astype(np.float32)


PROBE_ROOM = 12.0  # mm about a probe that must be free of holds


def probe_places(job: Job, planned: PlannedSetup, spacing: float) -> Places:
    """Where the top is probed as a setup lies: on the board, in reach, clear of the holds. Raises OperatorError."""
    m, back = job.machine, planned.placed.to_bed.inverse()
    reach = back.area(box(0.0, 0.0, m.travel_x, m.travel_y))
    standing = [back.area(q.outline.buffer(PROBE_ROOM)) for q in planned.solids]
    doubt = job.blank.doubt
    area = shape.polygon(job.blank).buffer(-doubt) if doubt else shape.polygon(job.blank)
    return places(area, spacing, standing, reach)
