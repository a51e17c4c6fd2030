# SPDX-License-Identifier: GPL-3.0-or-later
"""Curved outlines: lines, quadratics and cubics as a face draws them, and straight pieces for them.

A contour is a closed run of pieces; a piece is an array of its control points, shape (2 to 4, 2), mm:
two for a line, three for a quadratic, four for a cubic.
"""

from __future__ import annotations

import math
import re
from collections.abc import Iterable, Sequence
from typing import TypeAlias

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry import MultiPolygon, Polygon

from gatepost.core.geometry.winding import nonzero

Array: TypeAlias = NDArray[np.float64]
Contour: TypeAlias = list[Array]

_TOKEN = re.compile(r"[MLQCZ]|-?\d*\.?\d+(?:e-?\d+)?")
_POINTS = {"M": 1, "L": 1, "Q": 2, "C": 3}


def parse_path(data: str) -> list[Contour]:
    """Read absolute M L Q C Z path data, as this project writes it. Contours are closed with a line."""
    tokens = _TOKEN.findall(data)
    contours: list[Contour] = []
    here, start, at = np.zeros(2), np.zeros(2), 0
    while at < len(tokens):
        letter = tokens[at]
        at += 1
        if letter == "Z":
            if not np.array_equal(here, start):
                contours[-1].append(np.array([here, start]))
            here = start
            continue
        count = _POINTS[letter]
        points = np.array([float(t) for t in tokens[at : at + 2 * count]]).reshape(count, 2)
        at += 2 * count
        if letter == "M":
            contours.append([])
            start = points[0]
        elif count > 1 or not np.array_equal(here, points[0]):
            contours[-1].append(np.vstack([here, points]))
        here = points[-1]
    return [c for c in contours if c]


def write_path(contours: Iterable[Contour], digits: int = 6) -> str:
    """Path data of contours, absolute, closed."""
    out: list[str] = []
    for contour in contours:
        out.append("M" + _pair(contour[0][0], digits))
        for piece in contour:
            out.append("?LQC"[len(piece) - 1] + " ".join(_pair(p, digits) for p in piece[1:]))
        out.append("Z")
    return "".join(out)


def _pair(point: Array, digits: int) -> str:
    return " ".join(f"{v:.{digits}f}".rstrip("0").rstrip(".") for v in point)


def place(contours: Iterable[Contour], scale: float, dx: float, dy: float) -> list[Contour]:
    """Contours scaled about the origin, then shifted."""
    shift = np.array([dx, dy])
    return [[piece * scale + shift for piece in contour] for contour in contours]


def flatten_piece(piece: Array, tol: float) -> Array:
    """Points along a piece without its first, so that no chord is further than tol from the curve.

    Bound: a curve's chord over a parameter step h strays at most h²/8 of its greatest second derivative.
    """
    if len(piece) == 2:
        return piece[1:]
    if len(piece) == 3:
        bend = 2.0 * float(np.hypot(*(piece[0] - 2 * piece[1] + piece[2])))
    else:
        first, second = piece[0] - 2 * piece[1] + piece[2], piece[1] - 2 * piece[2] + piece[3]
        bend = 6.0 * max(float(np.hypot(*first)), float(np.hypot(*second)))
    count = max(1, math.ceil(math.sqrt(bend / (8.0 * tol))))
    t = np.linspace(0.0, 1.0, count + 1)[1:, None]
    u = 1.0 - t
    if len(piece) == 3:
        return np.asarray(u * u * piece[0] + 2 * u * t * piece[1] + t * t * piece[2])
    return np.asarray(u**3 * piece[0] + 3 * u * u * t * piece[1] + 3 * u * t * t * piece[2] + t**3 * piece[3])


def flatten(contour: Contour, tol: float) -> Array:
    """A contour as a closed ring of points, shape (n, 2), the first not repeated."""
    return np.vstack([flatten_piece(piece, tol) for piece in contour])


def signed_area(ring: Array) -> float:
    """Area of a ring, positive when it turns left. mm²."""
    x, y = ring[:, 0], ring[:, 1]
    return 0.5 * float(np.sum(x * np.roll(y, -1) - np.roll(x, -1) * y))


def region(contours: Sequence[Contour], tol: float) -> MultiPolygon:
    """The area that contours enclose by the winding rule of faces, flattened to tol.

    Where no contour crosses itself, the largest tells which way round is ink, and the others are added or taken away.
    """
    rings = [flatten(c, tol) for c in contours]
    rings = [r for r in rings if len(r) >= 3]
    if not rings:
        return MultiPolygon()
    areas = [signed_area(r) for r in rings]
    ink = math.copysign(1.0, areas[int(np.argmax(np.abs(areas)))])
    shapes = [Polygon(r) for r in rings]
    solid = [p for p, a in zip(shapes, areas) if a * ink > 0]
    holes = [p for p, a in zip(shapes, areas) if a * ink < 0]
    if not all(shapely.is_valid(shapes)) or holes and _overlap(solid):
        return as_multipolygon(nonzero(rings))
    area = shapely.union_all(solid)
    return as_multipolygon(area.difference(shapely.union_all(holes)) if holes else area)


def _overlap(shapes: Sequence[Polygon]) -> bool:
    """Whether any two have area in common."""
    return float(shapely.union_all(list(shapes)).area) < math.fsum(p.area for p in shapes) * (1.0 - 1e-12)


def as_multipolygon(shape: shapely.Geometry) -> MultiPolygon:
    """Only the areas of a geometry."""
    parts = [p for p in shapely.get_parts(shapely.get_parts(shape)) if isinstance(p, Polygon) and p.area > 0]
    return MultiPolygon(parts)


def even_odd_area(contours: Sequence[Contour], tol: float) -> float:
    """Area by the even-odd rule; differs from ``region`` where contours overlap."""
    area: shapely.Geometry = Polygon()
    for contour in contours:
        ring = flatten(contour, tol)
        if len(ring) >= 3:
            area = area.symmetric_difference(shapely.make_valid(Polygon(ring)))
    return float(area.area)


def polygon_contours(area: MultiPolygon) -> list[Contour]:
    """Straight contours of an area."""
    out: list[Contour] = []
    for polygon in area.geoms:
        for ring in [polygon.exterior, *polygon.interiors]:
            points = np.asarray(ring.coords)
            out.append([points[i : i + 2] for i in range(len(points) - 1)])
    return out
