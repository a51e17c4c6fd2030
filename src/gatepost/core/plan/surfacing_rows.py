# SPDX-License-Identifier: GPL-3.0-or-later
"""The rows of a surfacing as they are laid out for one board."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray

from gatepost.core.job.model import Job, Setup
from gatepost.core.job.surface import Surfacing
from gatepost.core.job.tool import Tool
from gatepost.core.plan.laid import LaidWood
from gatepost.core.surface import passes, rows
from gatepost.core.tolerances import CLEAN, SAFE_TRAVEL

GRAIN = 4.0  # mm between the places where it is looked whether wood still stands


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
