# SPDX-License-Identifier: GPL-3.0-or-later
"""What holds stand on the bed: each as upright prisms, and the sums of a strap."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
import shapely
from shapely import affinity
from shapely.geometry import Point, Polygon, box

from gatepost.core.job.model import Hold, Machine
from gatepost.core.working import Named, Working, working

WASHER, THREADS, NUT_SHARE = 1.6, 3.0, 0.8  # mm, mm over the nut, nut height in stud diameters (ISO 4032)
PAD = 14.0  # how much of the nose bears on the work
BLOCK = 30.0  # packing's length under the tail
HEEL = 8.0  # how far the strap passes the middle of its packing


@dataclass(frozen=True)
class Solid:
    """An upright prism on the bed. outline in bed XY; z from bottom to top above the spoilboard, mm."""

    hold: str
    part: str
    outline: Polygon
    bottom: float
    top: float


def _rectangle(hold: Hold, along0: float, along1: float, width: float) -> Polygon:
    """A rectangle in the hold's own direction, from along0 to along1 in front of its place."""
    flat = box(along0, -width / 2.0, along1, width / 2.0)
    return affinity.translate(affinity.rotate(flat, hold.heading, origin=(0, 0)), hold.x, hold.y)


def nose_angle(hold: Hold, work: float) -> Working:
    """Degrees that the nose points down by; negative when it points up. work: height of the work under the nose."""
    return working(
        "atan((packing - work) / (nose + tail))", Named("packing", hold.packing), Named("work", work),
        Named("nose", hold.nose), Named("tail", hold.tail), unit="angle",
    )  # fmt: skip


def underside(hold: Hold, work: float) -> float:
    """Height of the strap's underside at the bolt."""
    return work + (hold.packing - work) * hold.nose / (hold.nose + hold.tail)


def stud_length(hold: Hold, work: float, machine: Machine) -> Working:
    """Length of stud wanted, through the spoilboard from the slot's nut. Engagement one diameter, in steel."""
    return working(
        "engagement + board + underside + strap + washer + nut + threads", Named("engagement", hold.stud),
        Named("board", machine.spoilboard), Named("underside", underside(hold, work)), Named("strap", hold.thickness),
        Named("washer", WASHER), Named("nut", NUT_SHARE * hold.stud), Named("threads", THREADS), shop_rule=True,
    )  # fmt: skip


def clamp_force(hold: Hold) -> Working:
    """Force of a strap on the work, N, from the force in its bolt (a lever about the packing)."""
    return working(
        "bolt * tail / (nose + tail)",
        Named("bolt", hold.force, "force"),
        Named("tail", hold.tail),
        Named("nose", hold.nose),
        unit="force",
    )


def strap_solids(hold: Hold, work: float) -> list[Solid]:
    """Body, packing and stud of a strap on work of a height."""
    stud_top = underside(hold, work) + hold.thickness + WASHER + NUT_SHARE * hold.stud + THREADS
    under = min(work, hold.packing)
    body = _rectangle(hold, -hold.tail - HEEL, hold.nose + PAD / 2.0, hold.width)
    block = _rectangle(hold, -hold.tail - BLOCK + HEEL, -hold.tail + HEEL, hold.width + 8.0)
    stud = Point(hold.x, hold.y).buffer(hold.stud, quad_segs=16)  # the nut's corners, about twice the stud
    return [
        Solid(hold.name, "strap", body, under, max(work, hold.packing) + hold.thickness),
        Solid(hold.name, "packing", block, 0.0, hold.packing),
        Solid(hold.name, "stud", stud, 0.0, stud_top),
    ]


def pad(hold: Hold) -> Polygon:
    """Where a strap's nose bears, bed XY."""
    return _rectangle(hold, hold.nose - PAD / 2.0, hold.nose + PAD / 2.0, hold.width)


def solids(hold: Hold, work: float) -> list[Solid]:
    """Everything that a hold puts on the bed. work: height of the work where it bears, mm."""
    if hold.kind == "strap":
        return strap_solids(hold, work)
    return [Solid(hold.name, "edge clamp", _rectangle(hold, -hold.body, 0.0, hold.width), 0.0, hold.height)]


def touch_point(hold: Hold) -> tuple[float, float]:
    """The place where a hold bears on the work, bed XY."""
    reach = hold.nose if hold.kind == "strap" else 0.0
    return (
        hold.x + reach * math.cos(math.radians(hold.heading)),
        hold.y + reach * math.sin(math.radians(hold.heading)),
    )


def first_contact(work: Polygon, heading: float, width: float, x: float, y: float) -> tuple[float, float]:
    """Where a jaw of a width that comes along its heading first meets the work; as it is where it meets none. Bed."""
    way = np.array([math.cos(math.radians(heading)), math.sin(math.radians(heading))])
    side = 0.5 * width * np.array([-way[1], way[0]])
    here = np.array([x, y])
    far = (1.0 + here.max() + max(work.bounds)) * 2.0 * way
    path = Polygon([here - far - side, here + far - side, here + far + side, here - far + side])
    met = shapely.get_coordinates(work.exterior.intersection(path))
    if not len(met):
        return x, y
    there = here + way * float((met @ way).min() - here @ way)
    return float(there[0]), float(there[1])


def snapped_to_slot(y: float, slots: tuple[float, ...], within: float = 25.0) -> float:
    """The nearest slot's Y when one is within reach, else the Y as it is."""
    if not slots:
        return y
    nearest = min(slots, key=lambda s: abs(s - y))
    return nearest if abs(nearest - y) <= within else y
