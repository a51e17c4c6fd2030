# SPDX-License-Identifier: GPL-3.0-or-later
"""Art out of a drawing: what it covers, its lines, and what is wrong with them. mm, Y up."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry import MultiPolygon

Array = NDArray[np.float64]
CLOSED = 0.05  # mm between the ends of a line that is taken for closed
SAME = 0.02  # mm by which two lines may differ and still be one drawn twice
LEAST = 1e-4  # mm²: less comes of rounding
MOST_LINES = 20_000


@dataclass(frozen=True)
class OpenLine:
    """A line whose ends do not meet. x, y: one of its ends, as the file has places, in mm; gap: to the nearest other loose end, mm."""

    x: float
    y: float
    gap: float
    points: Array


@dataclass(frozen=True)
class Crossing:
    """Two outlines that run across each other, or one across itself. x, y: where, mm."""

    x: float
    y: float


@dataclass(frozen=True)
class DrawnArt:
    """What a drawing comes to at the size that is believed. area: that it fills; lines: that are open; closed: how many outlines are;
    doubled: how many are drawn once more; unit: believed, why: in words; sizes: width and height for each unit that it may be in; left_out: what was not
    taken, line by line; said: what was taken in another way than it may look; layers: their names, taken: of those that were; up: -1 where the file counts Y
    downwards."""

    area: MultiPolygon
    lines: tuple[OpenLine, ...]
    closed: int
    doubled: int
    crossing: tuple[Crossing, ...]
    unit: str
    why: str
    sizes: tuple[tuple[str, float, float], ...]
    left_out: tuple[str, ...] = ()
    said: tuple[str, ...] = ()
    layers: tuple[str, ...] = ()
    taken: tuple[str, ...] = ()
    up: float = 1.0

    @property
    def box(self) -> tuple[float, float, float, float]:
        """x0, y0, x1, y1 of all that it draws."""
        bounds = [self.area.bounds] if not self.area.is_empty else []
        bounds += [(*line.points.min(axis=0), *line.points.max(axis=0)) for line in self.lines]
        if not bounds:
            return (0.0, 0.0, 0.0, 0.0)
        low, high = np.min([b[:2] for b in bounds], axis=0), np.max([b[2:] for b in bounds], axis=0)
        return (float(low[0]), float(low[1]), float(high[0]), float(high[1]))

    @property
    def sound(self) -> bool:
        """Whether no line is open and none runs across another."""
        return not self.lines and not self.crossing


def closed_ring(points: Array) -> Array | None:
    """A line closed, its first point repeated, where its ends all but meet; nothing where they do not."""
    if len(points) < 3 or float(np.hypot(*(points[0] - points[-1]))) > CLOSED:
        return None
    ring = points if np.array_equal(points[0], points[-1]) else np.vstack([points[:-1], points[:1]])
    return ring if len(ring) > 3 else None


def once_each(rings: Sequence[Array]) -> tuple[list[Array], int]:
    """Outlines without those that are drawn once more, and how many those are."""
    kept: list[Array] = []
    known: dict[tuple[int, ...], list[shapely.LinearRing]] = {}
    doubled = 0
    for ring in rings:
        line = shapely.LinearRing(ring)
        middle = line.centroid
        key = tuple(round(v / (10 * SAME)) for v in (middle.x, middle.y, line.length / 4.0))
        near = [k for d in np.ndindex(3, 3, 3) if (k := tuple(a + b - 1 for a, b in zip(key, d))) in known]
        if any(shapely.hausdorff_distance(line, o) < SAME for k in near for o in known[k]):
            doubled += 1
            continue
        known.setdefault(key, []).append(line)
        kept.append(ring)
    return kept, doubled


def crossings(rings: Sequence[Array]) -> tuple[Crossing, ...]:
    """Where outlines run across each other or themselves."""
    out: list[Crossing] = []
    whole: list[shapely.Geometry] = []
    for ring in rings:
        line = shapely.LinearRing(ring)
        if line.is_simple:
            whole.append(shapely.Polygon(ring))
            continue
        reason = shapely.is_valid_reason(shapely.Polygon(ring)).partition("[")[2].rstrip("]").split()
        x, y = (float(v) for v in reason) if len(reason) == 2 else ring[0]
        out.append(Crossing(float(x), float(y)))
        whole.append(shapely.make_valid(shapely.Polygon(ring)))
    if len(whole) < 2:
        return tuple(out)
    areas = np.array(whole)
    a, b = shapely.STRtree(areas).query(areas, predicate="intersects")
    a, b = a[a < b], b[a < b]
    met = shapely.intersection(areas[a], areas[b])
    size, least = shapely.area(met), np.minimum(shapely.area(areas[a]), shapely.area(areas[b]))
    for i in np.nonzero((size > LEAST) & (size < least - LEAST))[0]:
        spot = shapely.intersection(areas[a[i]].boundary, areas[b[i]].boundary).representative_point()
        out.append(Crossing(float(spot.x), float(spot.y)))
    return tuple(out)


def loose(lines: Sequence[Array], place: tuple[float, float, float] = (1.0, 1.0, 0.0)) -> tuple[OpenLine, ...]:
    """Open lines with the gap to the nearest other loose end. place: what X and Y of the file are times X and Y here, and an offset of
    the latter."""
    if not lines:
        return ()
    ends = np.array([[line[0], line[-1]] for line in lines]).reshape(-1, 2)
    far = (
        np.hypot(ends[:, None, 0] - ends[None, :, 0], ends[:, None, 1] - ends[None, :, 1]) if len(ends) < 4000 else None
    )
    out: list[OpenLine] = []
    for i, line in enumerate(lines):
        if far is None:
            gap, end = float(np.hypot(*(line[0] - line[-1]))), 0
        else:
            two = far[2 * i : 2 * i + 2].copy()
            two[0, 2 * i] = two[1, 2 * i + 1] = np.inf
            end, gap = int(np.argmin(two.min(axis=1))), float(two.min())
        x, y = ends[2 * i + end]
        out.append(OpenLine(float(x * place[0]), float(y * place[1] + place[2]), gap, line))
    return tuple(out)
