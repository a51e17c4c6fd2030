# SPDX-License-Identifier: GPL-3.0-or-later
"""Random plates in stepped nests, and a trial of what goes in by pushing one polygon about in the other."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
import shapely
from shapely import affinity

from gatepost.core.register.step_nest import Flip, StepNest, laid, stepped

FINE = 0.001  # mm


def plate(rng: np.random.Generator) -> tuple[Any, str]:
    """A plate, and what it is."""
    wide, high = float(rng.uniform(70, 260)), float(rng.uniform(60, 180))
    box = shapely.box(-wide / 2, -high / 2, wide / 2, high / 2)
    kind = str(rng.choice(["rectangle", "rounded", "oval", "arch", "clipped", "waisted", "random"]))
    round_ = min(wide, high) * float(rng.uniform(0.05, 0.3))
    oval = affinity.scale(shapely.Point(0, 0).buffer(1, quad_segs=48), wide / 2, high / 2)
    area = {
        "rectangle": lambda: box,
        "rounded": lambda: box.buffer(-round_).buffer(round_, quad_segs=24),
        "oval": lambda: oval,
        "arch": lambda: oval.union(shapely.box(-wide / 2, -high / 2, wide / 2, 0)),
        "clipped": lambda: box.buffer(-round_, join_style="mitre").buffer(round_, join_style="bevel"),
        "waisted": lambda: box.difference(shapely.Point(0, high / 2 + 3.2 * wide).buffer(3.25 * wide, quad_segs=90)),
        "random": lambda: shapely.MultiPoint(rng.uniform(-0.5, 0.5, (14, 2)) * [wide, high]).convex_hull.buffer(8.0),
    }[kind]()
    return affinity.translate(area, float(rng.uniform(-50, 400)), float(rng.uniform(-50, 300))), kind


def nest_of(seed: int) -> tuple[StepNest, float, str]:
    """A random plate's nest, its clearance, and what it is."""
    rng = np.random.default_rng(seed)
    area, kind = plate(rng)
    flip: Flip = "X" if rng.random() < 0.5 else "Y"
    tool = float(rng.choice([3.0, 3.175, 4.0, 6.0]))
    clearance = float(rng.uniform(0.05, 0.3))
    made = stepped(area, flip, tool, tool + float(rng.uniform(0.0, 0.4)), clearance, bool(rng.random() < 0.5))
    return made, clearance, kind


def pushed(piece: Any, hole: Any, way: tuple[float, float], far: float) -> float:
    """How far a piece that lies in a hole goes one way before it touches, by halving."""

    def goes(d: float) -> bool:
        return bool(hole.buffer(2e-4).covers(affinity.translate(piece, way[0] * d, way[1] * d)))

    low, high = 0.0, 0.02
    while goes(high) and high < far:
        low, high = high, 2.0 * high
    while high - low > FINE:
        mid = (low + high) / 2.0
        low, high = (mid, high) if goes(mid) else (low, mid)
    return low


def lies(made: StepNest, way: str, shift: tuple[float, float]) -> bool:
    """Whether the piece lies in its hole some way."""
    return bool(made.hole.buffer(2e-4).covers(affinity.translate(laid(made.piece, way, made.middle), *shift)))


def found(made: StepNest, way: str) -> bool:
    """Whether any shift of a lattice of 0.4 mm lets it in."""
    shifts = np.arange(-8.0, 8.01, 0.4)
    piece = laid(made.piece, way, made.middle)
    room = made.hole.buffer(2e-4)
    shapely.prepare(room)
    some = shapely.get_coordinates(piece)[::7]
    places = np.array([(x, y) for x in shifts for y in shifts])
    for x, y in some:
        places = places[shapely.contains_xy(room, x + places[:, 0], y + places[:, 1])]
    return any(room.covers(affinity.translate(piece, x, y)) for x, y in places)


def travels(made: StepNest, way: str, start: tuple[float, float]) -> tuple[float, float]:
    """How far it travels in X and in Y all in all: pushed one way and the other from many places that it can be pushed to."""
    piece = laid(made.piece, way, made.middle)
    at = {start}
    found = [start]
    for _ in range(3):  # pushed on from wherever it got to
        more: set[tuple[float, float]] = set()
        for x, y in at:
            here = affinity.translate(piece, x, y)
            for angle in np.radians(np.arange(0, 360, 15)):
                c, s = math.cos(angle), math.sin(angle)
                d = pushed(here, made.hole, (c, s), 40.0)
                found.append((x + c * d, y + s * d))
                more.add((round(x + 0.999 * c * d, 4), round(y + 0.999 * s * d, 4)))
        xs, ys = sorted(more), sorted(more, key=lambda p: p[1])
        at = {xs[0], xs[-1], ys[0], ys[-1]}
    points = np.array(found)
    return float(np.ptp(points[:, 0])), float(np.ptp(points[:, 1]))


def of_a_nest(seed: int) -> str:
    """A random nest, tried by hand in all ways."""
    made, clearance, kind = nest_of(seed)
    for one in made.ways:
        assert lies(made, one.way, one.at) if one.goes_in else not found(made, one.way), (kind, one)
        if one.goes_in and min(one.play) < 2.0:
            x, y = travels(made, one.way, one.at)
            assert abs(x - one.play[0]) < 0.02 and abs(y - one.play[1]) < 0.02, (kind, one, x, y)
    asked = made.asked
    assert made.way("as cut").goes_in and asked.goes_in, (kind, made.ways)
    assert min(asked.play) < 3.0 * clearance + 0.02, (kind, asked, clearance)  # more than 2 where its sides are askew
    return f"{kind}, alone" if not made.others else kind
