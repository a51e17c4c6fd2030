# SPDX-License-Identifier: GPL-3.0-or-later
"""The board as it lies in a setup, told in its own coordinates as it lies there: turned over, stood on an end or an edge, turned on
its plane; and as a job of its own for the surfacing to work out."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import TypeVar

import numpy as np
import shapely

from gatepost.core.blank.shape import polygon
from gatepost.core.blank.thickness import thickness
from gatepost.core.job.base import changed
from gatepost.core.job.blank import Blank, Flaw, Reading, Support, TopHeight, UnderGap
from gatepost.core.job.model import Job, Setup
from gatepost.core.job.turning import OUT, SIDES, Lay, Turned, lies, turned
from gatepost.core.surface.seat import Seat
from gatepost.core.zero.datum import Placed, placed

ALONG = 61  # places along a side that is not straight, at which it is followed
LEAST = 0.001  # mm above the bed that anything stands at the least


def lying(job: Job, setup: Setup) -> Blank:
    """The board as it lies in a setup, as thick as it was measured."""
    lie = lies(setup)
    return job.blank if lie == Lay("front") else blank_turned(job.blank, lie, thickness(job.blank).mean)


def placed_in(job: Job, setup: Setup) -> Placed:
    """Where the board lies in a setup; heights are left out."""
    return placed(setup, lying(job, setup))


def turned_job(job: Job, back: Setup, plane: float, seat: Seat | None) -> Job:
    """The job as the second face's surfacing sees it. plane: of the first face, above the bed, as it was cut.

    The board lies on its cut face, so that what was so far above the bed is now so far below that face. An underside that
    was not read is taken to have lain flat on the bed.
    """
    blank = job.blank
    a, b, c = seat.moved if seat is not None else (0.0, 0.0, 0.0)
    gaps = [(g.x, g.y, g.z) for g in blank.under]
    if not gaps:
        x0, y0, x1, y1 = blank.box
        gaps = [(x, y, 0.0) for x in (x0, x1) for y in (y0, y1)]
    over = turned(blank.length, blank.width, plane, lies(back))
    heights = []
    for x, y, z in gaps:
        tx, ty, tz = over.at(x, y, z + a * x + b * y + c)
        heights.append(TopHeight(x=tx, y=ty, z=max(tz, LEAST)))
    return job.model_copy(update={"blank": blank_turned(blank, lies(back), plane, heights)})


def blank_turned(blank: Blank, lie: Lay, thick: float, heights: Sequence[TopHeight] = ()) -> Blank:
    """A board that lay front up, so thick, as it lies otherwise. heights: of its top then, where its back or its front is up and
    they are known; a side is as high as the outline makes it."""
    to = turned(blank.length, blank.width, thick, lie)
    length, width, high = to.size
    what: dict[str, object] = {"length": length, "width": width, "label_thickness": high, "photo": None}
    what |= _of_a_side(blank, lie, to) if lie.up in SIDES else _of_a_face(blank, lie, to, heights)
    return blank.model_copy(update={**what, "grain": _grain(blank.grain, lie)})


def spun(blank: Blank, degrees: int) -> Blank:
    """A board as it lies, turned on its plane, everything that was read of it with it."""
    lie = Lay("front", degrees % 360)
    to = turned(blank.length, blank.width, 0.0, lie)
    return blank_turned(blank, lie, blank.label_thickness, [_there(h, to) for h in blank.heights]).model_copy(
        update={
            "label_thickness": blank.label_thickness,
            "under": tuple(_there(g, to) for g in blank.under),
            "supports": tuple(_there(s, to) for s in blank.supports),
        }
    )


T = TypeVar("T", TopHeight, UnderGap, Support, Reading)


def _there(thing: T, to: Turned) -> T:
    """A thing with a place, where it comes to lie; its height is left as it is."""
    x, y, _ = to.at(thing.x, thing.y)
    return changed(thing, x=x, y=y)


def _of_a_face(blank: Blank, lie: Lay, to: Turned, heights: Sequence[TopHeight]) -> dict[str, object]:
    over = lie.up == "back"
    corners = [to.at(x, y)[:2] for x, y in blank.outline]
    return {
        "outline": tuple(reversed(corners) if over else corners), "heights": tuple(heights), "under": (), "supports": (),
        "label_thickness": blank.label_thickness, "calipers": tuple(_there(r, to) for r in blank.calipers),
        "flaws": tuple(_flaw(f, to, over) for f in blank.flaws),
    }  # fmt: skip


def _flaw(flaw: Flaw, to: Turned, over: bool) -> Flaw:
    """A flaw where it comes to lie; what was seen on the face that is down now is on the one that is up."""
    x, y, _ = to.at(flaw.x, flaw.y)
    other = "back" if flaw.face == "front" else "front"
    if len(flaw.ends) > 1:
        u, v, _ = to.at(*flaw.ends[1])
        flaw = changed(flaw, to_x=u, to_y=v)
    return changed(flaw, x=x, y=y, face=other if over else flaw.face)


def standing(blank: Blank, to: Turned) -> tuple[float, float]:
    """From where to where a board reaches, upright, once it stands on an end or an edge: past its box, or not as far."""
    x0, y0, x1, y1 = blank.box
    each = [to.at(x, y, 0.0)[2] for x in (x0, x1) for y in (y0, y1)]
    return min(each), max(each)


def _of_a_side(blank: Blank, lie: Lay, to: Turned) -> dict[str, object]:
    """A side is a strip as wide as the board is thick, as high everywhere as the outline makes it there. Nothing was read on it."""
    x0, y0, x1, y1 = blank.box
    low, high = standing(blank, to)
    thick = to.size[0] if lie.ways[0][2] else to.size[1]
    ends = [to.at(x, y, z)[:2] for x, y, z in ((x0, y0, 0.0), (x1, y1, thick))]
    (left, front), (right, back) = (tuple(f(a, b) for a, b in zip(*ends)) for f in (min, max))
    fills = blank.box == (0.0, 0.0, blank.length, blank.width)
    strip = () if fills else ((left, front), (right, front), (right, back), (left, back))
    return {
        "shape": "rectangle" if fills else "outline", "outline": strip, "label_thickness": high - low,
        "heights": () if blank.shape == "rectangle" else _followed(blank, lie, to, low),
        "under": (), "supports": (), "calipers": (), "flaws": (), "coats": (), "rocks": None, "diagonals": None,
    }  # fmt: skip


def _followed(blank: Blank, lie: Lay, to: Turned, low: float) -> tuple[TopHeight, ...]:
    """Heights of a side that is not straight, along both its long edges. low: where it stands on, the box's way."""
    edge, (x0, y0, x1, y1) = polygon(blank), blank.box
    endwise = lie.up in ("left", "right")  # looked at along X
    first, last = (y0, y1) if endwise else (x0, x1)
    outward = sum(OUT[lie.up])
    thick = to.size[0] if lie.ways[0][2] else to.size[1]
    out: list[TopHeight] = []
    for at in np.linspace(first, last, ALONG):
        across = [(x0 - 1.0, at), (x1 + 1.0, at)] if endwise else [(at, y0 - 1.0), (at, y1 + 1.0)]
        met = shapely.get_coordinates(edge.intersection(shapely.LineString(across)))
        if not len(met):
            continue
        x, y = met[int(np.argmax(outward * met[:, 0 if endwise else 1]))]
        for z in (0.0, thick):
            tx, ty, tz = to.at(float(x), float(y), z)
            out.append(TopHeight(x=tx, y=ty, z=max(tz - low, LEAST)))
    return tuple(out)


def _grain(degrees: float, lie: Lay) -> float:
    """The grain's direction on the bed, degrees from X, either way along it; 0 where it stands upright."""
    if lie.up in SIDES:
        way = (math.cos(math.radians(degrees)), math.sin(math.radians(degrees)), 0.0)
        x, y, _ = (sum(a * b for a, b in zip(axis, way)) for axis in lie.ways)
        return math.degrees(math.atan2(y, x)) if math.hypot(x, y) > 1e-9 else 0.0
    seen = -degrees if lie.up == "back" else degrees
    return seen if lie.spin % 180 == 0 else math.remainder(seen + lie.spin, 180.0)
