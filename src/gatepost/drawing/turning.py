# SPDX-License-Identifier: GPL-3.0-or-later
"""How the board comes into a setup from the one before: both as they lie, side by side, the same corners named, and an arrow about the axis."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from shapely.geometry import Point as ShapelyPoint
from shapely.geometry.base import BaseGeometry

from gatepost.core.blank.shape import polygon
from gatepost.core.frames import Point
from gatepost.core.job.turning import FACES, OPPOSITE, SIDES, about, lies, relative
from gatepost.core.plan.planned import PlannedSetup
from gatepost.core.plan.result import Plan
from gatepost.core.register.kinds.pins import pin_holes
from gatepost.core.register.nested import NestSeen
from gatepost.drawing.paths import art
from gatepost.drawing.shapes import Array, Drawing, Shape, area, label, line, text

# all of the longest side, so that a large board looks like a small one
APART = 0.5  # between the two
OVER = 0.16  # that an arrow about an axis stands out beside the board
HEAD = 0.055  # of an arrow
BESIDE, INSET = 0.06, 0.08  # from the board to an arrow or an axis' end; of the corners' letters
UNDER, MARGIN = 0.2, 0.14  # room for the words under it, and about it all


def turning(plan: Plan, name: str) -> Drawing | None:
    """The board before a setup and in it; nothing for the first."""
    number = [s.name for s in plan.setups].index(name) if plan.setup(name) is not None else 0
    if number == 0:
        return None
    before, now = plan.setups[number - 1], plan.setups[number]
    left, right = _outline(before), _outline(now)
    (x0, y0, x1, y1), (u0, v0, u1, v1) = left.bounds, right.bounds
    long = max(x1 - x0, y1 - y0, u1 - u0, v1 - v0)
    apart, beside = APART * long, BESIDE * long
    moved = np.array([x1 + apart - u0, 0.5 * (y0 + y1) - 0.5 * (v0 + v1)])  # the later, beside the earlier
    how = said(before, now)
    over = about(lies(before.setup), lies(now.setup))
    if now.nest is not None and over:
        slot = area(now.nest.hole.difference(now.nest.rim), "spoilboard")
        shapes = [
            *_board(plan, before, left, long),
            *slot,
            *(_shifted(s, moved) for s in _in_frame(plan, now, now.nest, left, over[-1])),
        ]
    else:
        shapes = [*_board(plan, before, left, long), *(_shifted(s, moved) for s in _board(plan, now, right, long))]
    shapes += [_shifted(s, moved) for s in _beneath(plan, before, now)]
    shapes += [*_pins(plan, before, now, False), *(_shifted(s, moved) for s in _pins(plan, before, now, True))]
    shapes += _axis(before, now, left.bounds, long)
    middle, far = 0.5 * (y0 + y1), x1 + apart
    start = x1 + beside + (OVER * long if about(lies(before.setup), lies(now.setup)) == "about X" else 0.0)
    shapes += _arrow(np.array([[start, middle], [far - beside, middle]]), long)
    low, high = min(y0, v0 + moved[1]) - UNDER * long, max(y1, v1 + moved[1]) + (MARGIN + OVER) * long
    for one, x in ((before, 0.5 * (x0 + x1)), (now, 0.5 * (u0 + u1) + moved[0])):
        towards, right_of = lies(one.setup).beside
        words = [f"{FACES[one.setup.up]} up, {FACES[towards]} towards you"]
        words += [f"{FACES[right_of]} to the right"] if one.setup.up in SIDES else []
        shapes += [text(x, low + (0.35 - 0.3 * n) * UNDER * long, said_) for n, said_ in enumerate(words)]
    extents = (x0 - MARGIN * long, low, float(u1 + moved[0]) + MARGIN * long, high)
    title = f"{before.setup.title or before.name} to {now.setup.title or now.name}: {how}"
    return Drawing(tuple(shapes), tuple(float(v) for v in extents), "Turn", title, rulers=False)  # type: ignore[arg-type]


def said(before: PlannedSetup, now: PlannedSetup) -> str:
    """How it comes, in words."""
    old, new = lies(before.setup), lies(now.setup)
    over = about(old, new)
    if over:
        return f"turned over {over}"
    (x, y, _), _, up = relative(old, new)
    if up == (0, 0, 1):
        turns = {(1, 0): "", (0, 1): "turned by 90° with the clock", (-1, 0): "turned by half a turn", (0, -1): "turned by 90° against the clock"}[(x, y)]  # fmt: skip
        return turns or "as it lies"
    if up == (0, 0, -1):
        return "turned over, and a quarter round"
    return f"stood up, the {FACES[new.up]} up"


def _outline(setup: PlannedSetup) -> BaseGeometry:
    """The board on the bed."""
    return setup.placed.to_bed.area(polygon(setup.blank))


def _board(plan: Plan, setup: PlannedSetup, outline: BaseGeometry, long: float) -> list[Shape]:
    """The board, what is carved on the face that is up, and its corners named: the same edge of the wood has the same letter whatever is up."""
    out: list[Shape] = [
        *area(outline, "wood"),
        *(replace(s, key="") for s in art(plan, setup, "hold") if s.role == "art"),
    ]
    wood = plan.job.blank
    x0, y0, x1, y1 = wood.box
    to_bed = setup.carried.then(setup.placed.to_bed)
    thick = plan.thickness.mean
    middle = np.array(outline.centroid.coords[0])
    corners = [
        (name, to_bed.apply(Point(x, y, z)))
        for name, x, y in (("A", x0, y0), ("B", x1, y0), ("C", x1, y1), ("D", x0, y1)) for z in (0.0, thick)
    ]  # fmt: skip
    top = max(p.z for _, p in corners)
    for name, p in corners:
        if p.z > top - 0.5 * thick:
            way = middle - np.array([p.x, p.y])
            x, y = np.array([p.x, p.y]) + np.clip(0.3 * way, -INSET * long, INSET * long)
            out.append(label(float(x), float(y), name))
    return out


def _in_frame(plan: Plan, now: PlannedSetup, nest: NestSeen, board: BaseGeometry, way: str) -> list[Shape]:
    """The frame that stayed, and the piece turned over in it. way: X or Y."""
    piece = nest.turned(way)
    return [
        *area(board.difference(nest.hole), "wood"), *area(nest.hole.difference(piece), "spoilboard"), *area(piece, "wood"),
        *(replace(s, key="") for s in art(plan, now, "hold") if s.role == "art"),
    ]  # fmt: skip


def _beneath(plan: Plan, before: PlannedSetup, now: PlannedSetup) -> list[Shape]:
    """What was carved on the face that comes to lie down, as it would be seen through the wood."""
    if OPPOSITE[before.setup.up] != now.setup.up:
        return []
    through = before.placed.to_bed.inverse().then(before.carried.inverse()).then(now.carried).then(now.placed.to_bed)
    return [replace(s, key="", role="behind", points=through.array(s.points), rings=tuple(through.array(r) for r in s.rings)) for s in art(plan, before, "hold") if s.role == "art"]  # fmt: skip


def _pins(plan: Plan, before: PlannedSetup, now: PlannedSetup, later: bool) -> list[Shape]:
    """Holes that it is laid on pins by, and in the later lie the pins in them."""
    out: list[Shape] = []
    one = now if later else before
    to_bed = one.carried.then(one.placed.to_bed)
    for hole in pin_holes(plan.job, now.setup):
        at = ShapelyPoint(*to_bed.xy(hole.x, hole.y))
        out += area(at.buffer(hole.across / 2.0), "goes")
        out += area(at.buffer(hole.pin / 2.0), "stud") if later else []
    return out


def _axis(before: PlannedSetup, now: PlannedSetup, box: tuple[float, ...], long: float) -> list[Shape]:
    """The axis that a board is turned over about, and an arrow round it: from the edge that goes over to where it comes down."""
    over = about(lies(before.setup), lies(now.setup))
    if not over:
        return []
    (x0, y0, x1, y1), past, out = box, BESIDE * long, OVER * long
    angle = np.linspace(0.5 * np.pi, -0.5 * np.pi, 25)
    if over == "about X":
        y = 0.5 * (y0 + y1)
        axis = np.array([[x0 - past, y], [x1 + past, y]])
        arc = np.column_stack([x1 + 0.03 * long + out * np.cos(angle), y + 0.42 * (y1 - y0) * np.sin(angle)])
    else:
        x = 0.5 * (x0 + x1)
        axis = np.array([[x, y0 - past], [x, y1 + past]])
        arc = np.column_stack([x - 0.42 * (x1 - x0) * np.sin(angle), y1 + 0.03 * long + out * np.cos(angle)])
    return [line(axis, "travel"), *_arrow(arc, long)]


def _arrow(points: Array, long: float) -> list[Shape]:
    """A line with a head at its end."""
    way = points[-1] - points[-2]
    way = way / max(float(np.hypot(*way)), 1e-9)
    side = np.array([-way[1], way[0]])
    tip, head = points[-1], HEAD * long
    wings = np.array([tip - head * way + 0.6 * head * side, tip, tip - head * way - 0.6 * head * side])
    return [line(points, "bears-way"), line(wings, "bears-way")]


def _shifted(shape: Shape, by: Array) -> Shape:
    """The same, elsewhere."""
    return replace(shape, points=shape.points + by, rings=tuple(r + by for r in shape.rings))
