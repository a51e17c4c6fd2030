# SPDX-License-Identifier: GPL-3.0-or-later
"""What stands on the bed, as upright prisms; and what every kind of hold measures itself by."""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
import shapely
from shapely import affinity
from shapely.geometry import MultiPolygon, Point, Polygon, box

from gatepost.core.job.hold import Hold, InNest
from gatepost.core.job.machine import BedThings, Fence, Nest
from gatepost.core.job.model import Setup

DOG_BONE = math.sqrt(0.5)


@dataclass(frozen=True)
class PartLook:
    """How a part is drawn. role: its colours; over: what it is drawn over, from below; named: whether its hold's name stands
    beside it in a section."""

    role: str = "strap"
    over: int = 6
    named: bool = False


FENCE, WALL = PartLook("fence", 0, True), PartLook("fence", 1)


@dataclass(frozen=True)
class Solid:
    """An upright prism on the bed. outline in bed XY; z from bottom to top above the spoilboard, mm."""

    hold: str
    part: str
    outline: Polygon
    bottom: float
    top: float
    look: PartLook = PartLook()


def along(hold: Hold, along0: float, along1: float, width: float) -> Polygon:
    """A rectangle in the hold's own direction, from along0 to along1 in front of its place."""
    return _rectangle(hold.x, hold.y, hold.heading, along0, along1, width / 2.0)


@lru_cache(maxsize=4096)
def _rectangle(x: float, y: float, heading: float, along0: float, along1: float, half: float) -> Polygon:
    c, s = (0.0 if abs(v) < 1e-15 else v for v in (math.cos(math.radians(heading)), math.sin(math.radians(heading))))
    corners = ((along1, -half), (along1, half), (along0, half), (along0, -half))
    return Polygon([(x + u * c - v * s, y + u * s + v * c) for u, v in corners])


COSINE_16 = math.cos(math.pi / 32.0)  # of half the angle of a round outline's pieces: they lie outside it then


def nest_opening(nest: Nest) -> Polygon:
    """A nest's opening, corners relieved, bed XY. Its stop corner stands at the nest's place."""
    right, back = nest.corner.endswith("right"), nest.corner.startswith("back")
    x0, y0 = (-nest.length if right else 0.0), (-nest.width if back else 0.0)
    flat = box(x0, y0, x0 + nest.length, y0 + nest.width)
    if nest.relief > 0.0:  # a round hole whose rim goes through each corner, its middle on the corner's own diagonal
        shift = nest.relief * DOG_BONE
        holes = [
            Point(x + (shift if x == x0 else -shift), y + (shift if y == y0 else -shift)).buffer(
                nest.relief, quad_segs=16
            )
            for x in (x0, x0 + nest.length)
            for y in (y0, y0 + nest.width)
        ]
        flat = shapely.union_all([flat, *holes])
    return affinity.translate(affinity.rotate(flat, nest.heading, origin=(0, 0)), nest.x, nest.y)


def nest_solids(nest: Nest, name: str) -> list[Solid]:
    """A nest's walls, each an outline without a hole."""
    opening = nest_opening(nest)
    rim = opening.minimum_rotated_rectangle.buffer(nest.rim, join_style="mitre").difference(opening)
    middle = opening.centroid
    cut = affinity.rotate(box(middle.x - 1e5, middle.y - 1e5, middle.x + 1e5, middle.y), nest.heading, origin=middle)
    walls: list[Polygon] = []
    for half in (rim.intersection(cut), rim.difference(cut)):
        walls += list(half.geoms) if isinstance(half, MultiPolygon) else [half]
    return [Solid(name, "nest", w, 0.0, nest.height, WALL) for w in walls if w.area > 0.0]


def fence_outline(fence: Fence) -> Polygon:
    """A fence from above: its working edge runs from its place along its heading, its body lies to the right."""
    flat = box(0.0, -fence.width, fence.length, 0.0)
    return affinity.translate(affinity.rotate(flat, fence.heading, origin=(0, 0)), fence.x, fence.y)


def fence_edge(fence: Fence) -> shapely.LineString:
    """A fence's working edge."""
    return shapely.LineString(fence.ends)


def bed_solids(bed: BedThings, setup: Setup) -> list[Solid]:
    """What stands on the bed from job to job: fences, and nests that hold nothing now."""
    used = {h.of for h in setup.holds if isinstance(h, InNest)}
    out = [Solid(f.name, "fence", fence_outline(f), 0.0, f.height, FENCE) for f in bed.fences]
    for nest in bed.nests:
        if nest.name not in used:
            out += nest_solids(nest, nest.name)
    return out


def insert_places(bed: BedThings) -> list[tuple[float, float]]:
    """Where the bed's inserts are."""
    return [(g.x + i * g.across, g.y + j * g.up) for g in bed.inserts for j in range(g.rows) for i in range(g.columns)]


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
