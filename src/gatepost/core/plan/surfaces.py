# SPDX-License-Identifier: GPL-3.0-or-later
"""Wires what is known of the blank to the surfacing: how it is laid, what must come off, where each pass goes."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import replace

import numpy as np
import shapely

from gatepost.core.blank.top import Extremes, Top, extremes, top_of
from gatepost.core.cache import SMALL, Memory
from gatepost.core.errors import OperatorError
from gatepost.core.job.model import Job, Setup
from gatepost.core.job.surface import Surfacing
from gatepost.core.job.tool import Tool
from gatepost.core.plan.drive import drive_of
from gatepost.core.plan.laid import LaidWood
from gatepost.core.plan.surfacing_rows import Laying, Lines, _grid, angle_of, lines_of
from gatepost.core.profile import profile_of
from gatepost.core.program.time import move_seconds
from gatepost.core.surface import passes, rows
from gatepost.core.surface.level import readings, turned_lying
from gatepost.core.surface.reckoned import Pass, SpindleLoad, SurfacingResult, Way
from gatepost.core.surface.seat import Seat
from gatepost.core.surface.slips import MOST_ROWS, slip
from gatepost.core.tolerances import CLEAN, FLATNESS, SAFE_TRAVEL
from gatepost.core.tools import forces
from gatepost.core.working import Named, working
from gatepost.core.zero import datum as zeros


def surfaced(
    job: Job, setup: Setup, wanted: Surfacing, wood: LaidWood, strokes: Sequence[tuple[float, float]], memory: Memory
) -> SurfacingResult:
    """The whole of the surfacing as reckoned, as the board lies in a setup. strokes: the finest of each lettering on the face, with half
    the angle of its bit."""
    ends = wood.extremes
    error = ends.highest[2] - ends.lowest[2]
    judged = [passes.flatness(error, thin, half, FLATNESS[job.tolerance]) for thin, half in strokes]
    flat = min(judged, key=lambda f: f.allowed.result, default=None)
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
    zeroed = zero_height(job, setup, wood.top, tool) if setup.zero.z == "top" else top
    depths = passes.depths(ends.lowest[2], top, zeroed, wanted, _stands_on(job, wanted, wood.seat or _lies(wood)))
    heights = depths.heights[: wanted.stop_after or None]
    laid = lines(wood, heights, wanted.path)
    over = passes.overhang(
        tool,
        tool.diameter * wanted.stepover,
        job.machine.accel_xy,
        laid.outside and not _turns_in_wood(wood, laid, tool.diameter / 2.0),
    )
    gaps = memory.get("missed", (key, wood.heights, heights), lambda: _missed(wood, laid, tool), SMALL)
    deepest = max(bites(ends, heights))
    step = tool.diameter * wanted.stepover
    have = forces.available(job.machine, tool.rpm)
    load = SpindleLoad(
        deepest, forces.power(tool, job.wood, step, deepest), have,
        forces.feed_within(tool, job.wood, step, deepest, have.result),
    )  # fmt: skip
    return SurfacingResult(
        True, flat, depths, over, gaps, chip=forces.thickest_chip(tool, wanted.stepover),
        chips=tuple((s, forces.thickest_chip(tool, s).result) for s in sorted({*SHARES, round(wanted.stepover, 3)})), load=load, seats=wood.seats,
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


SHARES = (0.2, 0.3, 0.4, 0.5, 0.6, 0.7, 0.8)  # stepovers told beside each other
RIM = np.linspace(0.0, 2.0 * np.pi, 16, endpoint=False)


def _turns_in_wood(wood: LaidWood, laid: Lines, radius: float) -> bool:
    """Whether the cutter still cuts where a row begins or ends: wood under its disc stands above the pass that it is in."""
    discs = np.vstack([np.zeros((1, 2)), 0.98 * radius * np.column_stack([np.cos(RIM), np.sin(RIM)])])
    for z, lines in laid.each:
        ends = np.array([line[at, :2] for line in lines for at in (0, -1)]).reshape(-1, 2)
        under = (ends[:, None, :] + discs[None, :, :]).reshape(-1, 2)
        on = under[shapely.contains_xy(wood.outline, under[:, 0], under[:, 1])]
        if len(on) and bool((wood.top.at(on[:, 0], on[:, 1]) > z + CLEAN).any()):
            return True
    return False


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
    x, y, z = top.grid(laid.box)
    z = z[shapely.intersects_xy(inside, x, y)]
    heights = depths.heights[: wanted.stop_after or None]
    highest = depths.plane.result + depths.removal.result
    minutes = {p: _pass_seconds(job, there, tool, lines(there, heights, p)) for p in ("rectangle", "outline")}
    done = tuple(
        Pass(height, seconds, float((z >= height - CLEAN).mean()) if z.size else 0.0)
        for height, seconds in zip(heights, minutes[wanted.path])
    )
    a, b = seat.tilt
    under = _stands_on(job, wanted, seat)
    kept = working(
        "(plane - under) / sqrt(1 + along ** 2 + across ** 2)", Named("plane", heights[-1]), Named("under", under),
        Named("along", a, "number"), Named("across", b, "number"), assumption="what is cleaned up of each face", shop_rule=True,
    )  # fmt: skip
    return Way(seat, kept, highest - heights[-1], done, {path: sum(each) / 60.0 for path, each in minutes.items()})


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


def zero_height(job: Job, setup: Setup, top: Top, tool: Tool | None = None) -> float:
    """Height of Z0 above the bed where the top is touched: of its highest place under the plate, or with a paper under the tool's own
    flat end."""
    spot = zeros.touch_place(setup.zero, job.blank)
    flat = 2.0 * profile_of(tool).flat if tool is not None else 0.0
    radius = 0.5 * (flat if setup.zero.gauge == "paper" else setup.zero.gauge_size)
    turns = np.linspace(0.0, 2.0 * math.pi, 24, endpoint=False)
    rings = [np.zeros((1, 2)), *(r * radius * np.column_stack([np.cos(turns), np.sin(turns)]) for r in (0.5, 1.0))]
    places = np.array([spot.x, spot.y]) + np.vstack(rings)
    x0, y0, x1, y1 = job.blank.box
    on = (places[:, 0] >= x0) & (places[:, 0] <= x1) & (places[:, 1] >= y0) & (places[:, 1] <= y1)
    on[0] = True
    return float(top.at(places[on, 0], places[on, 1]).max())
