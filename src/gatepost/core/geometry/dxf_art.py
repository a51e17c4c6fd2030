# SPDX-License-Identifier: GPL-3.0-or-later
"""Art out of a DXF drawing: lines, arcs, circles, polylines with bulges, ellipses, splines, blocks. What closed lines enclose is filled, and what lies
inside that is not, by turns."""

from __future__ import annotations

import io
import math
from collections import Counter
from collections.abc import Sequence
from typing import Any

import numpy as np
import shapely
from numpy.typing import NDArray

from gatepost.core.errors import OperatorError
from gatepost.core.geometry.curves import as_multipolygon
from gatepost.core.geometry.drawn_art import CLOSED, SAME, DrawnArt, closed_ring, crossings, loose, once_each
from gatepost.core.geometry.svg_path import MOST_POINTS

Array = NDArray[np.float64]
TOL = 0.001  # mm by which straight pieces may lie beside a curve
DEEPEST = 20  # blocks in blocks
MOST_THINGS = 50_000
UNITS = {1: ("in", 25.4), 2: ("ft", 304.8), 4: ("mm", 1.0), 5: ("cm", 10.0), 6: ("m", 1000.0), 8: ("µin", 25.4e-6), 9: ("thou", 0.0254), 10: ("yd", 914.4), 13: ("µm", 0.001), 14: ("dm", 100.0)}  # fmt: skip
NAMED = {"mm": 1.0, "cm": 10.0, "in": 25.4, "m": 1000.0}
SHORT, LONG = 8.0, 2500.0  # mm: smaller or larger than that all over is hardly a sign
DRAWN = ("LINE", "ARC", "CIRCLE", "ELLIPSE", "LWPOLYLINE", "POLYLINE", "SPLINE", "HELIX", "SOLID", "TRACE", "3DFACE")
WORDS = {
    "TEXT": "text", "MTEXT": "text", "ATTRIB": "text", "ATTDEF": "text", "HATCH": "a hatch", "MPOLYGON": "a hatch", "DIMENSION": "a dimension",
    "LEADER": "a leader", "MULTILEADER": "a leader", "IMAGE": "a picture", "POINT": "a point", "MESH": "a mesh", "3DSOLID": "a solid", "REGION": "a region",
    "VIEWPORT": "", "INSERT": "a block that can't be read",
}  # fmt: skip


def read_dxf(data: bytes, name: str, unit: str = "", layers: Sequence[str] | None = None) -> DrawnArt:
    """A drawing's art. unit: of its figures (mm, cm, in, m), or nothing for what is believed; layers: those that are taken, all that are shown
    where that is not said. Raises OperatorError."""
    from ezdxf import recover
    from ezdxf.lldxf import const

    try:
        document, mended = recover.read(io.BytesIO(data))
        space = document.modelspace()
    except (
        const.DXFError,
        OSError,
        ValueError,
        IndexError,
        KeyError,
        TypeError,
        AttributeError,
        OverflowError,
        RecursionError,
        AssertionError,
    ) as error:
        why = " ".join(str(error).split())[:200] or type(error).__name__
        raise OperatorError(f"{name} can't be read as DXF ({why}).") from None
    left_out: Counter[str] = Counter(_lost(e) for e in (*mended.fixes, *mended.errors) if "Deleted" in e.message)
    said: set[str] = set()
    hidden = {layer.dxf.name for layer in document.layers if layer.is_off() or layer.is_frozen()}
    told, per = UNITS.get(int(document.header.get("$INSUNITS", 0) or 0), ("", 0.0))
    tol = TOL / (NAMED[unit] if unit else per or NAMED["in"])
    raw, seen = _lines(space, hidden, layers, left_out, name, tol)
    strange = sorted(set(layers or ()) - seen)
    if strange:
        raise OperatorError(f"{name} has no layer “{strange[0]}”: its layers are {', '.join(sorted(seen))}.")
    if not raw:
        what = f" It has {', '.join(left_out)}, which is not taken." if left_out else ""
        raise OperatorError(f"{name} has no lines that could be carved.{what}")
    scale, believed, why = _unit(raw, told, per, unit)
    lines = [flat * scale for flat in raw]
    rings, open_ = joined(lines)
    kept, doubled = once_each(rings)
    area: Any = shapely.MultiPolygon()
    for ring in kept:
        area = area.symmetric_difference(shapely.make_valid(shapely.Polygon(ring)))
    left = seen - set(layers) if layers is not None else seen & hidden
    if layers is not None and left:
        said.add(f"layers that were not chosen are left out: {', '.join(sorted(left))}")
    elif left:
        said.add(f"layers that are switched off are left out: {', '.join(sorted(left))}")
    points = np.vstack(lines) / scale
    wide, high = (float(v) for v in np.ptp(points, axis=0))
    ways = {believed: scale} | ({} if told and not unit else NAMED)
    lost = tuple(f"{n} × {words}" if n > 1 else words for words, n in left_out.items())
    return DrawnArt(
        as_multipolygon(area), loose(open_), len(kept), doubled, crossings(kept), believed, why,
        tuple((u, wide * s, high * s) for u, s in ways.items()), lost, tuple(sorted(said)), tuple(sorted(seen)),
        taken=tuple(sorted(seen - left)),
    )  # fmt: skip


def _lost(entry: Any) -> str:
    """What the reader took out of a file before it could be looked over."""
    from ezdxf.audit import AuditError

    return (
        "a block that the file does not hold" if entry.code == AuditError.UNDEFINED_BLOCK else "a thing that is damaged"
    )


def _unit(raw: Sequence[Array], told: str, per: float, unit: str) -> tuple[float, str, str]:
    """mm per unit, the unit believed, and why."""
    if unit:
        return NAMED[unit], unit, "as chosen"
    if told:
        return per, told, f"the file says that its unit is {told}"
    largest = float(np.ptp(np.vstack(raw), axis=0).max())
    fits = [(u, s) for u, s in (("mm", 1.0), ("in", 25.4), ("m", 1000.0)) if SHORT <= largest * s <= LONG]
    if fits and fits[0][0] != "mm":
        u, s = fits[0]
        return s, u, f"the file does not say its unit, and in mm it would be {largest:.3g} mm across"
    return 1.0, "mm", "the file does not say its unit: mm are taken"


def _lines(
    space: Any, hidden: set[str], layers: Sequence[str] | None, left_out: Counter[str], name: str, tol: float
) -> tuple[list[Array], set[str]]:
    from ezdxf.lldxf import const

    out: list[Array] = []
    seen: set[str] = set()
    count = points = 0
    for entity, depth in _flat(space, 0):
        count += 1
        if count > MOST_THINGS:
            raise OperatorError(f"{name} has more than {MOST_THINGS:,} things in it.".replace(",", " "))
        kind = entity.dxftype()
        layer = str(entity.dxf.get("layer", "0"))
        seen.add(layer)
        if (layer in hidden if layers is None else layer not in layers) or entity.dxf.get("invisible", 0):
            continue
        if kind not in DRAWN:
            words = WORDS.get(kind, f"what is called {kind}") if depth <= DEEPEST else "blocks in blocks without an end"
            if words:
                left_out[words + _said(entity, kind)] += 1
            continue
        try:
            flat = _flattened(entity, kind, tol)
        except (TypeError, ValueError, ZeroDivisionError, const.DXFError, AttributeError, IndexError, OverflowError):
            left_out[f"a {kind.lower()} that can't be read"] += 1
            continue
        points += len(flat)
        if points > MOST_POINTS:
            raise OperatorError(
                f"{name} has more than {MOST_POINTS:,} corners: too much for a carving.".replace(",", " ")
            )
        if len(flat) > 1 and np.isfinite(flat).all() and np.abs(flat).max() < 1e7:
            out.append(flat)
    return out, seen


def _flattened(entity: Any, kind: str, tol: float) -> Array:
    """An entity's points, on the curve itself, so that no chord lies farther than tol from it."""
    from ezdxf import path

    if kind == "LINE":
        return _flat_of((entity.dxf.start, entity.dxf.end))
    if kind in ("CIRCLE", "ARC", "ELLIPSE", "SPLINE"):
        return _flat_of(entity.flattening(tol))
    if kind in ("LWPOLYLINE", "POLYLINE") and (kind == "LWPOLYLINE" or entity.is_2d_polyline or entity.is_3d_polyline):
        out, alone = np.zeros((0, 2)), True
        for piece in entity.virtual_entities():
            points = _flattened(piece, piece.dxftype(), tol)
            if not len(out):
                out, alone = points, True
                continue
            if alone and _far(out[-1], points) > _far(out[0], points):  # an arc is told against the clock
                out = out[::-1]
            way = points if np.hypot(*(points[0] - out[-1])) <= np.hypot(*(points[-1] - out[-1])) else points[::-1]
            out = np.vstack([out, way[1:]])
            alone = False
        return out
    return _flat_of(path.make_path(entity).flattening(tol))


def _flat_of(points: Any) -> Array:
    return np.array([(v[0], v[1]) for v in points], dtype=np.float64).reshape(-1, 2)


def _far(end: Array, points: Array) -> float:
    return float(min(np.hypot(*(points[0] - end)), np.hypot(*(points[-1] - end))))


def _said(entity: Any, kind: str) -> str:
    text = (
        str(entity.dxf.get("text", ""))
        if kind in ("TEXT", "ATTRIB")
        else str(getattr(entity, "text", ""))
        if kind == "MTEXT"
        else ""
    )
    return f" “{text[:40]}”: draw it as lines" if text else ""


def _flat(entities: Any, depth: int) -> Any:
    """Entities with what blocks put there in their place, each with how deep it lies."""
    from ezdxf.lldxf import const

    for entity in entities:
        if entity.dxftype() != "INSERT" or depth > DEEPEST:
            yield entity, depth
            continue
        try:
            rows = list(entity.multi_insert()) if entity.mcount > 1 else [entity]
            inner = [list(one.virtual_entities()) for one in rows]
        except (const.DXFError, ValueError, TypeError, AttributeError, KeyError):
            yield entity, depth
            continue
        for these in inner:
            yield from _flat(these, depth + 1)


def joined(lines: Sequence[Array]) -> tuple[list[Array], list[Array]]:
    """Lines joined end to end where they meet, straight on where several do: closed outlines, and what stays open. A line drawn once more is
    left out first."""
    rings: list[Array] = []
    loose_: list[Array] = []
    for line in lines:
        ring = closed_ring(line)
        if ring is not None:
            rings.append(ring)
        elif float(np.hypot(*np.diff(line, axis=0).T).sum()) > 1e-9:
            loose_.append(line)
    loose_ = _once(loose_)
    if not loose_:
        return rings, []
    ends = np.array([[line[0], line[-1]] for line in loose_]).reshape(-1, 2)
    spot = _together(ends)
    used = np.zeros(len(loose_), bool)
    at: dict[int, list[int]] = {}
    for k, s in enumerate(spot.tolist()):
        at.setdefault(s, []).append(k)
    open_: list[Array] = []
    order = sorted(range(len(loose_)), key=lambda i: min(len(at[int(spot[2 * i])]), len(at[int(spot[2 * i + 1])])) != 1)
    for i in order:  # what has a loose end first
        if used[i]:
            continue
        chain = _walk(i, loose_, spot, at, used)
        ring = closed_ring(chain)
        (rings if ring is not None else open_).append(ring if ring is not None else chain)
    return rings, open_


def _once(lines: Sequence[Array]) -> list[Array]:
    out: list[Array] = []
    known: dict[tuple[int, ...], list[Array]] = {}
    for line in lines:
        a, b = sorted((tuple(line[0]), tuple(line[-1])))
        key = tuple(round(v / SAME) for v in (*a, *b))
        same = known.setdefault(key, [])
        if any(shapely.hausdorff_distance(shapely.LineString(line), shapely.LineString(o)) < SAME for o in same):
            continue
        same.append(line)
        out.append(line)
    return out


def _together(ends: Array) -> NDArray[np.int64]:
    """Numbers of the places where ends lie, those within a gap of each other the same."""
    from scipy.sparse import coo_matrix
    from scipy.sparse.csgraph import connected_components
    from scipy.spatial import cKDTree

    pairs = cKDTree(ends).query_pairs(CLOSED, output_type="ndarray")
    links = coo_matrix((np.ones(len(pairs)), (pairs[:, 0], pairs[:, 1])), shape=(len(ends), len(ends)))
    return np.asarray(connected_components(links, directed=False)[1], np.int64)


def _walk(
    first: int, lines: Sequence[Array], spot: NDArray[np.int64], at: dict[int, list[int]], used: NDArray[np.bool_]
) -> Array:
    """A chain from a line on, begun at its looser end."""
    back = len(at[int(spot[2 * first])]) > len(at[int(spot[2 * first + 1])])
    chain = lines[first][::-1] if back else lines[first]
    used[first] = True
    begin, here = (2 * first + 1, 2 * first) if back else (2 * first, 2 * first + 1)
    while spot[here] != spot[begin]:
        free = [k for k in at[int(spot[here])] if not used[k // 2]]
        if not free:
            break
        way = chain[-1] - chain[-2]
        k = max(free, key=lambda k: _ahead(way, lines[k // 2][::-1] if k % 2 else lines[k // 2]))
        line = lines[k // 2][::-1] if k % 2 else lines[k // 2]
        used[k // 2] = True
        chain = np.vstack([chain, line[1:]])
        here = k - 1 if k % 2 else k + 1
    return chain


def _ahead(way: Array, line: Array) -> float:
    on = line[1] - line[0]
    return float(way @ on) / max(math.hypot(*way) * math.hypot(*on), 1e-300)
