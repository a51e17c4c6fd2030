# SPDX-License-Identifier: GPL-3.0-or-later
"""Where a board is measured next: round its edge with the calipers, and over its faces from the bed up."""

from __future__ import annotations

import math
from collections.abc import Iterable
from dataclasses import dataclass
from typing import Any

import numpy as np
from shapely.geometry import LineString, Point

from gatepost.core.blank.shape import polygon
from gatepost.core.job.blank import Blank

# shares of length and width, and what the place is called; round the edge from the back left corner, as one walks round the bench
EDGE = (
    (0.04, 0.93, "the back left corner"), (0.5, 0.93, "the middle of the back edge"), (0.96, 0.93, "the back right corner"),
    (0.96, 0.07, "the front right corner"), (0.5, 0.07, "the middle of the front edge"), (0.04, 0.07, "the front left corner"),
)  # fmt: skip
FACE = (
    (0.04, 0.07, "the front left corner"), (0.96, 0.07, "the front right corner"), (0.96, 0.93, "the back right corner"),
    (0.04, 0.93, "the back left corner"), (0.5, 0.5, "the middle"), (0.5, 0.07, "the middle of the front edge"),
    (0.96, 0.5, "the middle of the right edge"), (0.5, 0.93, "the middle of the back edge"), (0.04, 0.5, "the middle of the left edge"),
)  # fmt: skip
INSET = 12.0  # mm inside the edge that a reading is taken at, at least
NEAR = 0.13  # of the board's diagonal: a reading nearer than that is the one of that place


@dataclass(frozen=True)
class MeasuringPlace:
    """A place to measure at: blank coordinates, mm, what it is called, and whether a reading has been taken there."""

    number: int
    x: float
    y: float
    words: str
    taken: bool


def measuring_places(blank: Blank, what: str = "caliper") -> list[MeasuringPlace]:
    """All places for readings of a kind (caliper, height or gap), in the order in which one goes round. Each reading takes the place
    that it is nearest to, once, where it is near one at all."""
    shares = EDGE if what == "caliper" else FACE
    places = [_inside(blank, *blank.part(u, v)) for u, v, _ in shares]
    readings: tuple[Any, ...] = {"caliper": blank.calipers, "height": blank.heights, "gap": blank.under}[what]
    taken = _taken(places, [(r.x, r.y) for r in readings], NEAR * math.dist((0, 0), blank.across))
    return [
        MeasuringPlace(i + 1, round(x, 1), round(y, 1), words, i in taken)
        for i, ((x, y), (_, _, words)) in enumerate(zip(places, shares))
    ]


def next_place(blank: Blank, what: str = "caliper", after: int = 0) -> MeasuringPlace | None:
    """The next that is not taken, round from after a number; nothing when all are."""
    places = measuring_places(blank, what)
    return next((p for p in (*places[after:], *places[:after]) if not p.taken), None)


def _taken(places: list[tuple[float, float]], readings: Iterable[tuple[float, float]], near: float) -> set[int]:
    """Which places have a reading: the nearest pairs first."""
    pairs = sorted(
        (math.dist(p, r), i, j) for i, p in enumerate(places) for j, r in enumerate(readings) if math.dist(p, r) <= near
    )
    taken: set[int] = set()
    used: set[int] = set()
    for _, i, j in pairs:
        if i not in taken and j not in used:
            taken.add(i)
            used.add(j)
    return taken


def _inside(blank: Blank, x: float, y: float) -> tuple[float, float]:
    """A place of the box about the board brought onto its wood, a little inside the edge: towards its middle as far as it takes."""
    area: Any = polygon(blank)
    room = area.buffer(-min(INSET, 0.2 * min(blank.across)))
    if room.is_empty:
        room = area
    at = Point(x, y)
    if room.contains(at):
        return x, y
    middle = room.representative_point()
    way = LineString([(x, y), (middle.x, middle.y)]).intersection(room)
    if way.is_empty:
        return middle.x, middle.y
    ends = np.concatenate([np.asarray(part.coords) for part in getattr(way, "geoms", [way])])
    nearest = ends[np.argmin(np.hypot(ends[:, 0] - x, ends[:, 1] - y))]
    return float(nearest[0]), float(nearest[1])
