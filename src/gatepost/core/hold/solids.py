# SPDX-License-Identifier: GPL-3.0-or-later
"""What holds stand on the bed: each as upright prisms, and the sums of a strap."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
import shapely
from shapely import affinity
from shapely.geometry import MultiPolygon, Point, Polygon, box

from gatepost.core.job.hold import Hold
from gatepost.core.job.machine import BedThings, Fence, Machine, Nest
from gatepost.core.job.model import Setup
from gatepost.core.working import Named, Working, working

WASHER, THREADS, NUT_SHARE = 1.6, 3.0, 0.8  # mm, mm over the nut, nut height in stud diameters (ISO 4032)
PAD = 14.0  # how much of the nose bears on the work
BLOCK = 30.0  # packing's length under the tail
HEEL = 8.0  # how far the strap passes the middle of its packing
SIDES = ("edge", "wedges")  # kinds that hold by the edge
FLAT = ("tape", "glue")  # kinds that lie under the work
DOG_BONE = math.sqrt(0.5)


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


def engagement(hold: Hold, machine: Machine) -> Working:
    """How far a stud screws in: one diameter in steel, one and a half in aluminium, two in an insert in wood."""
    times = 2.0 if hold.into != "slot" else 1.5 if machine.bed.slot == "aluminium" else 1.0
    return working("times * diameter", Named("times", times, "number"), Named("diameter", hold.stud), shop_rule=True)


def bolt_force(hold: Hold) -> Working:
    """Force in a bolt, N: as typed, or by the torque on its nut, F = T / (0.2·d), good to ±30 %.

    The 0.2 is the nut factor of a plain steel thread, neither oiled nor rusty.
    """
    if hold.torque <= 0.0:
        return working("bolt", Named("bolt", hold.force, "force"), unit="force")
    return working(
        "torque * 1000 / (0.2 * diameter)", Named("torque", hold.torque, "N·m"), Named("diameter", hold.stud), unit="force",
        assumption="nut factor 0.2; ±30 %", shop_rule=True,
    )  # fmt: skip


def packing_from(blocks: tuple[float, ...], low: float, high: float, most: int = 4) -> tuple[float, ...] | None:
    """The fewest blocks at hand, then the lowest, that stack to a height between two; nothing where none do.

    As many of each as one likes. low, high: mm.
    """
    stacks: list[tuple[float, ...]] = [()]
    for _ in range(most):
        stacks = [s + (b,) for s in stacks for b in sorted(blocks) if not s or b <= s[-1]]
        fitting = [s for s in stacks if low - 1e-6 <= sum(s) <= high + 1e-6]
        if fitting:
            return min(fitting, key=lambda s: (sum(s), s))
        stacks = [s for s in stacks if sum(s) < high]
    return None


def stud_length(hold: Hold, work: float, machine: Machine) -> Working:
    """Length of stud wanted, through the spoilboard from the slot's nut, or from an insert at its face."""
    return working(
        "engagement + board + underside + strap + washer + nut + threads", Named("engagement", engagement(hold, machine).result),
        Named("board", 0.0 if hold.into == "insert" else machine.spoilboard), Named("underside", underside(hold, work)), Named("strap", hold.thickness),
        Named("washer", WASHER), Named("nut", NUT_SHARE * hold.stud), Named("threads", THREADS), shop_rule=True,
    )  # fmt: skip


def clamp_force(hold: Hold) -> Working:
    """Force of a strap on the work, N, from the force in its bolt (a lever about the packing)."""
    return working(
        "bolt * tail / (nose + tail)",
        Named("bolt", bolt_force(hold).result, "force"),
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


def strip(hold: Hold) -> Polygon:
    """Where a strip of tape or glue lies, bed XY."""
    return _rectangle(hold, -hold.length / 2.0, hold.length / 2.0, hold.width)


def solids(hold: Hold, work: float, bed: BedThings | None = None) -> list[Solid]:
    """Everything that a hold puts on the bed. work: height of the work where it bears, mm; bed: where its nest is."""
    if hold.kind == "strap":
        return strap_solids(hold, work)
    if hold.kind in SIDES:
        part = "edge clamp" if hold.kind == "edge" else "wedges"
        return [Solid(hold.name, part, _rectangle(hold, -hold.body, 0.0, hold.width), 0.0, hold.height)]
    if hold.kind == "screw":
        at = Point(hold.x, hold.y)
        head = at.buffer(hold.washer / 2.0 / COSINE_16, quad_segs=8)
        shaft = at.buffer(hold.diameter / 2.0 / COSINE_16, quad_segs=8)
        return [
            Solid(hold.name, "screw head", head, work, work + hold.above),
            Solid(hold.name, "screw", shaft, -hold.bite, work),
        ]
    if hold.kind == "nest":
        nest = next((n for n in bed.nests if n.name == hold.of), None) if bed is not None else None
        return nest_solids(nest, hold.name) if nest is not None else []
    return []


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
    return [Solid(name, "nest", w, 0.0, nest.height) for w in walls if w.area > 0.0]


def fence_outline(fence: Fence) -> Polygon:
    """A fence from above: its working edge runs from its place along its heading, its body lies to the right."""
    flat = box(0.0, -fence.width, fence.length, 0.0)
    return affinity.translate(affinity.rotate(flat, fence.heading, origin=(0, 0)), fence.x, fence.y)


def fence_edge(fence: Fence) -> shapely.LineString:
    """A fence's working edge."""
    turn = math.radians(fence.heading)
    end = (fence.x + fence.length * math.cos(turn), fence.y + fence.length * math.sin(turn))
    return shapely.LineString([(fence.x, fence.y), end])


def bed_solids(bed: BedThings, setup: Setup) -> list[Solid]:
    """What stands on the bed from job to job: fences, and nests that hold nothing now."""
    used = {h.of for h in setup.holds if h.kind == "nest"}
    out = [Solid(f.name, "fence", fence_outline(f), 0.0, f.height) for f in bed.fences]
    for nest in bed.nests:
        if nest.name not in used:
            out += nest_solids(nest, nest.name)
    return out


def touch_point(hold: Hold) -> tuple[float, float]:
    """The place where a hold bears on the work, bed XY."""
    reach = hold.nose if hold.kind == "strap" else 0.0
    return (
        hold.x + reach * math.cos(math.radians(hold.heading)),
        hold.y + reach * math.sin(math.radians(hold.heading)),
    )


def bearing(hold: Hold, work: Polygon) -> Polygon:
    """Where a hold has the work in its grip, bed XY: under a nose or a washer, along a jaw, over a strip, all of a nest's."""
    if hold.kind == "strap":
        return pad(hold)
    if hold.kind == "screw":
        return Point(hold.x, hold.y).buffer(hold.washer / 2.0)
    if hold.kind in FLAT:
        return strip(hold)
    if hold.kind == "nest":
        return work
    return _rectangle(hold, 0.0, JAW, hold.width)


JAW = 8.0  # how far into the wood a jaw's grip is taken to reach


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
