# SPDX-License-Identifier: GPL-3.0-or-later
"""The board as it is laid, before anything is cut: its outline, its top, what of it is used, and how it stands on what."""

from __future__ import annotations

from collections.abc import Hashable
from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray

from gatepost.core.blank import shape
from gatepost.core.blank.top import Extremes, Top, extremes, top_of, underside_of
from gatepost.core.cache import SMALL, Memory
from gatepost.core.frames import Board, FaceFrame, Matrix
from gatepost.core.geometry.outline import Area
from gatepost.core.job.blank import Blank, TopHeight
from gatepost.core.job.model import Job
from gatepost.core.job.surface import Surfacing
from gatepost.core.plan.layout import Wanted
from gatepost.core.surface.seat import Seat, Seats, seats


@dataclass(frozen=True)
class Used:
    """What is made on the face that is up, and from that face, as it is read, to the board."""

    made: tuple[Wanted, ...] = ()
    pose: Matrix[FaceFrame, Board] = Matrix()


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


def wood_of(job: Job, wanted: Surfacing, level: float, used: Used, memory: Memory) -> LaidWood:
    """The board as it is laid. level: what its top is where nothing was measured, mm; used: what is made on the face that is up."""
    key = (job.blank, wanted.cleanup, wanted.shims_at_hand)
    both = memory.get("seats", key, lambda: seats(borne(job.blank), wanted), SMALL) if job.blank.heights else None
    seat = both.shimmed if both is not None and wanted.seat == "shimmed" else None
    laid = job.blank
    if seat is not None:
        laid = laid.model_copy(update={"heights": seat.heights(laid.heights)})
    top = memory.get("top", (laid.heights, level), lambda: top_of(laid, level))
    outline_key = (laid.shape, laid.length, laid.width, laid.outline)
    outline = memory.get("outline", outline_key, lambda: shape.polygon(laid), SMALL)
    used = used if wanted.area == "used" else Used()
    area_key = (outline_key, laid.doubt, used)
    area = memory.get("area", area_key, lambda: _area(job, used, outline), SMALL)
    ends = memory.get("extremes", (laid.heights, level, area_key), lambda: extremes(top, area.intersection(outline)))
    return LaidWood(seat, both, laid.heights, top, ends, outline, area, area_key)


def borne(blank: Blank) -> Blank:
    """The board with those supports alone that have wood over them: a shim beside it bears nothing."""
    wood = shape.polygon(blank).buffer(1e-6)
    under = tuple(s for s in blank.supports if wood.intersects(shapely.Point(s.x, s.y)))
    return blank if len(under) == len(blank.supports) else blank.model_copy(update={"supports": under})


def _area(job: Job, used: Used, outline: Area) -> Area:
    """What is to be made flat: all of the board, or only what the design uses of it; with the outline's ±."""
    doubt = job.blank.outline_doubt
    whole = outline.buffer(doubt, join_style="mitre", mitre_limit=2.0)
    freed = [u for w in used.made if w.kind.frees and (u := w.kind.uses(w.figures, w.tools)) is not None]
    needed = freed or [u for w in used.made if (u := w.kind.uses(w.figures, w.tools)) is not None]
    if not needed:
        return whole
    met = shapely.intersection(used.pose.area(shapely.union_all(needed)), whole)
    return met if met.geom_type in ("Polygon", "MultiPolygon") and not met.is_empty else whole


def under_map(job: Job, wood: LaidWood, shape_of: tuple[int, int]) -> NDArray[np.float32] | None:
    """How high the underside stands as the board is laid, over a grid from the front left, (rows, columns), mm; nothing
    where nobody read it."""
    under = underside_of(job.blank, wood.seat.heights if wood.seat is not None else None)
    if under is None:
        return None
    (x0, y0, x1, y1), (rows, columns) = job.blank.box, shape_of
    return under.over(np.linspace(x0, x1, columns), np.linspace(y0, y1, rows)).astype(np.float32)
