# SPDX-License-Identifier: GPL-3.0-or-later
"""Outlines out of drawings: SVG and DXF files made elsewhere. mm, Y up."""

from __future__ import annotations

import io
import math
import re
import xml.etree.ElementTree as ElementTree
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from gatepost.core.errors import OperatorError

Array = NDArray[np.float64]
FLAT = 0.02  # mm by which straight pieces may lie beside a curve
CLOSED = 0.5  # mm between the ends of a line that is taken for closed
PER_UNIT = {"": 25.4 / 96.0, "px": 25.4 / 96.0, "mm": 1.0, "cm": 10.0, "in": 25.4, "pt": 25.4 / 72.0, "pc": 25.4 / 6.0}
DXF_UNITS = {1: 25.4, 2: 304.8, 4: 1.0, 5: 10.0, 6: 1000.0}
LARGEST = 32 * 1024 * 1024  # bytes


@dataclass(frozen=True)
class DrawnFile:
    """Closed outlines, largest first, each (n, 2), mm; note: what to look at, or nothing; taken: mm that a unit was taken for where the
    file does not say it; pixels: whether 96 to an inch were."""

    outlines: tuple[Array, ...]
    note: str = ""
    taken: float | None = None
    pixels: bool = False


def read_drawing(data: bytes, name: str) -> DrawnFile:
    """Closed outlines of an SVG or a DXF file, by its ending. Raises OperatorError."""
    if len(data) > LARGEST:
        raise OperatorError(f"{name} is over 32 MB: too large for an outline.")
    ending = name.lower().rpartition(".")[2]
    if ending == "svg":
        lines, note, taken = _svg(data, name)
    elif ending == "dxf":
        lines, note, taken = _dxf(data, name)
    else:
        raise OperatorError(f"{name} is neither an SVG nor a DXF file.")
    closed = [line[:-1] for line in lines if len(line) > 3 and math.dist(line[0], line[-1]) <= CLOSED]
    closed = [line for line in closed if np.isfinite(line).all() and _area(line) > 1.0]
    if not closed:
        open_ = [line for line in lines if len(line) > 1]
        gap = min((math.dist(line[0], line[-1]) for line in open_), default=0.0)
        why = f" Its lines are open; the ends of the nearest are {gap:.1f} mm apart." if open_ else ""
        raise OperatorError(f"{name} has no closed line that could be an outline.{why}")
    return DrawnFile(tuple(sorted(closed, key=lambda c: -_area(c))), note, taken, ending == "svg")


def _area(line: Array) -> float:
    x, y = line[:, 0], line[:, 1]
    return float(abs(np.dot(x, np.roll(y, -1)) - np.dot(y, np.roll(x, -1))) / 2.0)


def _svg(data: bytes, name: str) -> tuple[list[Array], str, float | None]:
    from gatepost.core.geometry import svg

    if b"<!ENTITY" in data or b"<!DOCTYPE" in data[:4096] and b"[" in data[:4096].partition(b"<!DOCTYPE")[2][:400]:
        raise OperatorError(f"{name} is refused: it defines entities of its own.")
    try:
        root = ElementTree.fromstring(data)
    except ElementTree.ParseError as error:
        raise OperatorError(f"{name} can't be read as SVG ({error}).") from None
    scale, note = _svg_scale(root, name)
    try:
        lines = svg.lines_of(root, (scale, 0.0, 0.0, -scale, 0.0, 0.0), _flattened)
    except OperatorError as error:
        raise OperatorError(f"{name} {error}") from None
    except Exception as error:  # the reader raises whatever its parser met
        raise OperatorError(f"{name} has a path that can't be read ({error or type(error).__name__}).") from None
    return lines, note, scale if note else None


def _svg_scale(root: Any, name: str) -> tuple[float, str]:
    """mm per user unit, and what to look at."""
    size = re.fullmatch(r"\s*([\d.eE+-]+)\s*(px|mm|cm|in|pt|pc|)\s*", root.get("width") or "")
    box = [float(v) for v in re.findall(r"[-+]?(?:\d+\.?\d*|\.\d+)(?:[eE][-+]?\d+)?", root.get("viewBox") or "")]
    if size is not None and len(box) == 4 and box[2] > 0:
        note = "" if size[2] not in ("", "px") else f"{name} gives its size in px: 96 of them are taken for an inch."
        return float(size[1]) * PER_UNIT[size[2]] / box[2], note
    if size is not None and size[2] not in ("", "px"):
        return PER_UNIT["px"], f"{name} has no viewBox: 96 units are taken for an inch. Check the size."
    return PER_UNIT["px"], f"{name} does not say its unit: 96 units are taken for an inch. Check the size."


def _flattened(calls: list[tuple[str, tuple[Any, ...]]]) -> list[Array]:
    lines: list[list[tuple[float, float]]] = []
    for what, points in calls:
        if what == "moveTo":
            lines.append([points[0]])
        elif not lines:
            continue
        elif what == "lineTo":
            lines[-1].append(points[0])
        elif what in ("curveTo", "qCurveTo"):
            lines[-1] += _curve(what, lines[-1][-1], points)
        elif what == "closePath":
            lines[-1].append(lines[-1][0])
    return [np.array(line, dtype=np.float64) for line in lines]


def _curve(what: str, start: tuple[float, float], points: tuple[Any, ...]) -> list[tuple[float, float]]:
    from fontTools.pens.basePen import decomposeQuadraticSegment

    pieces = [(start, *points)]
    if what == "qCurveTo" and len(points) > 2:
        pieces, at = [], start
        for control, end in decomposeQuadraticSegment(points):
            pieces.append((at, control, end))
            at = end
    out: list[tuple[float, float]] = []
    for piece in pieces:
        p = np.array(piece, dtype=np.float64)
        bend = float(np.abs(np.diff(p, 2, axis=0)).sum())
        count = min(400, max(2, math.ceil(math.sqrt(bend / (4.0 * FLAT)))))
        t = np.linspace(0.0, 1.0, count + 1)[1:, None]
        n = len(p) - 1
        at_ = sum(math.comb(n, k) * t**k * (1.0 - t) ** (n - k) * p[k] for k in range(n + 1))
        out += [(float(x), float(y)) for x, y in np.asarray(at_)]
    return out


def _dxf(data: bytes, name: str) -> tuple[list[Array], str, float | None]:

    from ezdxf import path, recover
    from ezdxf.lldxf import const

    try:
        document, _ = recover.read(io.BytesIO(data))
    except (const.DXFError, OSError, ValueError, IndexError, UnicodeDecodeError) as error:
        raise OperatorError(f"{name} can't be read as DXF ({error or type(error).__name__}).") from None
    unit = int(document.header.get("$INSUNITS", 0))
    scale = DXF_UNITS.get(unit, 1.0)
    note = "" if unit in DXF_UNITS else f"{name} does not say its unit: mm are taken. Check the size."
    lines: list[Array] = []
    loose: list[Array] = []
    for entity in _flat(document.modelspace(), 0):
        try:
            points = np.array([(v.x, v.y) for v in path.make_path(entity).flattening(FLAT / scale)]) * scale
        except (TypeError, ValueError, const.DXFError):
            continue  # what is not a line: text, dimensions, hatches
        if len(points) > 1:
            (lines if math.dist(points[0], points[-1]) <= CLOSED else loose).append(points)
    return lines + _chained(loose), note, scale if note else None


DEEPEST = 20  # blocks in blocks


def _flat(entities: Any, depth: int) -> Any:
    """Entities with what blocks put there in their place."""
    for entity in entities:
        if entity.dxftype() != "INSERT":
            yield entity
        elif depth < DEEPEST:
            rows = entity.multi_insert() if entity.mcount > 1 else (entity,)
            for one in rows:
                yield from _flat(one.virtual_entities(), depth + 1)


def _chained(loose: list[Array]) -> list[Array]:
    """Open lines joined end to end where they meet, as drawings of single lines and arcs are."""
    rest = [line.tolist() for line in loose]
    out: list[Array] = []
    while rest:
        chain = rest.pop()
        grown = True
        while grown and math.dist(chain[0], chain[-1]) > CLOSED:
            grown = False
            for i, other in enumerate(rest):
                way = other if math.dist(chain[-1], other[0]) <= CLOSED else other[::-1]
                if math.dist(chain[-1], way[0]) <= CLOSED:
                    chain = chain + way[1:]
                    del rest[i]
                    grown = True
                    break
        out.append(np.array(chain))
    return out


def thinned(outline: Array, most: int, within: float = 0.05) -> Array:
    """An outline with fewer corners: as few as lie within a distance of it, mm, and no more than most."""
    import shapely

    ring = shapely.Polygon(outline)
    while True:
        out = shapely.get_coordinates(ring.simplify(within).exterior)[:-1]
        if len(out) <= most:
            return np.asarray(out)
        within *= 1.5
