# SPDX-License-Identifier: GPL-3.0-or-later
"""The bed remembers its scars: where a program cut into the spoilboard."""

from __future__ import annotations

import numpy as np
from shapely.geometry import LineString, Point, Polygon

from gatepost.core.job.machine import BedThings, Scar
from gatepost.core.job.tool import Tool
from gatepost.core.motion import Moves
from gatepost.core.profile import profile_of

SHALLOW = 0.05  # mm; less is no scar
COARSE = 0.2  # mm by which a scar's line may be simplified
MOST, MOST_POINTS = 400, 2000
SAME = 0.5  # mm within which a new scar lies in an old one


def scar_outline(scar: Scar, more: float = 0.0) -> Polygon:
    """What a scar takes of the bed's face: along its line, or round its place where it is a hole. more: mm about it."""
    line = LineString(scar.points) if len(scar.points) > 1 else Point(scar.points[0])
    return line.buffer(scar.width / 2.0 + more)


def _inside(scar: Scar, old: Scar) -> bool:
    """Whether a scar's places lie where an old one's do, as far as that is told by their least and greatest alone."""
    room = SAME + old.width / 2.0
    return all(
        min(p[k] for p in old.points) - room <= p[k] <= max(p[k] for p in old.points) + room
        for k in (0, 1)
        for p in (scar.points[0], scar.points[-1])
    )


def scars_of(moves: Moves, tool: Tool, at: str, run: str) -> list[Scar]:
    """What a program leaves in the spoilboard. moves: of the tip, on the bed, mm."""
    z = moves.points[:, 2]
    deep = (np.minimum(z[:-1], z[1:]) < -SHALLOW) & ~moves.rapid
    out: list[Scar] = []
    for run_of in _runs(deep):
        points = moves.points[run_of.start : run_of.stop + 1]
        depth = float(-points[:, 2].min())
        line = LineString(points[:, :2]) if np.ptp(points[:, :2], axis=0).max() > 1e-6 else None
        corners = np.asarray(line.simplify(COARSE).coords) if line is not None else points[:1, :2]
        width = 2.0 * profile_of(tool).out_at(depth)
        places = tuple((round(float(x), 2), round(float(y), 2)) for x, y in corners[:MOST_POINTS])
        out.append(Scar(points=places, width=max(width, 0.1), depth=round(depth, 2), at=at, run=run))
    return out


def _runs(mask: np.ndarray) -> list[slice]:
    edges = np.flatnonzero(np.diff(np.concatenate([[0], mask.astype(np.int8), [0]])))
    return [slice(int(a), int(b)) for a, b in zip(edges[::2], edges[1::2])]


def scarred(bed: BedThings, new: list[Scar]) -> BedThings:
    """The bed with more scars; one that runs in an old one is not kept twice, and the oldest go when they are too many."""
    kept = list(bed.scars)
    for scar in new:
        if not any(_within(scar, old) for old in kept):
            kept.append(scar)
    return bed.model_copy(update={"scars": tuple(kept[-MOST:])})


def _within(scar: Scar, old: Scar) -> bool:
    if old.depth < scar.depth - SAME or not _inside(scar, old):
        return False
    return bool(scar_outline(scar).within(scar_outline(old, SAME)))
