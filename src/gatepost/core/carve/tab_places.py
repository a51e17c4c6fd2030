# SPDX-License-Identifier: GPL-3.0-or-later
"""Places for tabs off corners, flaws and end grain, as evenly as that goes."""

from __future__ import annotations

import numpy as np
import shapely
from numpy.typing import NDArray

from gatepost.core.carve.paths import along_line, middle_line, round_line, tabs
from gatepost.core.geometry.outline import Area
from gatepost.core.job.carve import Plate
from gatepost.core.job.tool import Tool

Array = NDArray[np.float64]
STEP = 1.0  # mm from one place that is tried to the next
PHASES = 24  # ways round at which the first tab is tried
BEND = 10.0  # degrees that the line may turn under a tab
END = 60.0  # degrees from the grain's direction from which an edge is end grain


def tab_shares(plate: Plate, tool: Tool, avoid: Area, grain: float | None = None) -> tuple[float, ...]:
    """Where as many tabs as a plate has stand off an area and off corners, as shares of the way round: each moved from its even place no farther than
    half the way to the next, or else evenly over what may be used. grain: degrees from X, where they are to stand off end grain as well. Nothing where there are no such places."""
    if not plate.tabs or middle_line(plate, tool).is_empty:
        return ()
    loop = round_line(plate, tool)
    along = along_line(loop)
    whole = float(along[-1])
    tries = np.arange(0.0, whole, STEP)
    free = _allowed(loop, along, tries, plate, tool, avoid, grain)
    if not free.any():
        return ()
    even, best = whole / plate.tabs, (np.inf, np.zeros(0))
    places = tries[free]
    for phase in np.arange(PHASES) / PHASES * even:
        wanted = phase + even * np.arange(plate.tabs)
        off = (places[None, :] - wanted[:, None] + whole / 2.0) % whole - whole / 2.0
        near = np.abs(off).argmin(axis=1)
        moved = np.abs(off[np.arange(plate.tabs), near])
        if moved.max() <= even / 2.0 and (moved**2).sum() < best[0]:
            best = (float((moved**2).sum()), places[near])
    chosen = np.unique(best[1])
    if len(chosen) != plate.tabs:  # then evenly over what is left of the line
        chosen = places[((np.arange(plate.tabs) + 0.5) / plate.tabs * len(places)).astype(int)]
    gaps = np.diff(chosen, append=chosen[0] + whole)
    return tuple((chosen / whole).tolist()) if gaps.min() >= plate.tab_width + tool.diameter else ()


def on_end_grain(plate: Plate, tool: Tool, grain: float) -> int:
    """How many of a plate's tabs stand where its edge is end grain. grain: degrees from X."""
    standing = tabs(plate, tool)
    if not standing:
        return 0
    loop = round_line(plate, tool)
    return int((_off_grain(loop, along_line(loop), np.array([t.along for t in standing]), grain) >= END).sum())


def _off_grain(loop: Array, along: Array, at: Array, grain: float) -> Array:
    """The angle between the line and the grain at places along it, degrees, 0 to 90."""
    way = np.diff(loop, axis=0)
    heading = np.degrees(np.arctan2(way[:, 1], way[:, 0]))
    here = heading[np.clip(np.searchsorted(along, at, side="right") - 1, 0, len(heading) - 1)]
    return np.abs((here - grain + 90.0) % 180.0 - 90.0)


def _allowed(
    loop: Array, along: Array, tries: Array, plate: Plate, tool: Tool, avoid: Area, grain: float | None
) -> NDArray[np.bool_]:
    """Which places along the line a tab may stand at."""
    whole, half = float(along[-1]), (plate.tab_width + tool.diameter) / 2.0
    way = np.diff(loop, axis=0)
    heading = np.degrees(np.arctan2(way[:, 1], way[:, 0]))
    turn = np.abs((np.diff(heading, append=heading[:1]) + 180.0) % 360.0 - 180.0)  # at the end of each piece
    total = np.concatenate([[0.0], np.cumsum(np.tile(turn, 3))])
    ends = np.concatenate([[-np.inf], np.concatenate([along[1:] + k * whole for k in (-1, 0, 1)])])
    bent = (
        total[np.searchsorted(ends, tries + half, side="right") - 1]
        - total[np.searchsorted(ends, tries - half, side="right") - 1]
    )
    places = np.column_stack([np.interp(tries, along, loop[:, k]) for k in (0, 1)])
    out = bent <= BEND
    if not avoid.is_empty:
        out &= shapely.distance(shapely.points(places), avoid) >= plate.tab_width
    if grain is not None:
        out &= _off_grain(loop, along, tries, grain) < END
    return np.asarray(out)
