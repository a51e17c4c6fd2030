# SPDX-License-Identifier: GPL-3.0-or-later
"""Art out of an SVG drawing as the standard paints it (SVG 1.1, chapters 5 to 11 and 14): groups, transforms, ``use``, nested drawings, styles,
fills by either rule, strokes turned into areas, clips. What is white covers what lies under it, as on paper."""

from __future__ import annotations

import math
import re
import xml.etree.ElementTree as ElementTree
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass, field
from typing import Any

import numpy as np
import shapely
from numpy.typing import NDArray

from gatepost.core.errors import OperatorError
from gatepost.core.geometry.curves import as_multipolygon
from gatepost.core.geometry.drawn_art import DrawnArt, closed_ring, crossings, loose, once_each
from gatepost.core.geometry.svg import DEEPEST, DRAWN, MOST, NUMBER, ONLY_DEFINED, Six, then, transform_of
from gatepost.core.geometry.svg_path import MOST_POINTS, SubPath, of_element
from gatepost.core.geometry.svg_style import INK, PAPER, Styles, paint_of
from gatepost.core.geometry.winding import nonzero

Array = NDArray[np.float64]
TOL = 0.001  # mm by which straight pieces may lie beside a curve
HAIR = 0.3  # mm: a line no wider is a line, not an area, where nothing else is filled
PER_UNIT = {"": 25.4 / 96.0, "px": 25.4 / 96.0, "mm": 1.0, "cm": 10.0, "in": 25.4, "pt": 25.4 / 72.0, "pc": 25.4 / 6.0}
NOT_TAKEN = {
    "text": "text", "image": "a picture", "foreignObject": "what is not a drawing", "tspan": "text", "textPath": "text", "video": "a film", "audio": "sound",
}  # fmt: skip


@dataclass
class _Painted:
    """What is painted, in its order. ink, paper: areas; outlines: closed lines of fills; hairs: thin lines, closed or not; open: lines of fills that
    are not closed."""

    steps: list[tuple[bool, Any]] = field(default_factory=list)
    outlines: list[Array] = field(default_factory=list)
    open: list[Array] = field(default_factory=list)
    hairs: list[Array] = field(default_factory=list)
    left_out: Counter[str] = field(default_factory=Counter)
    said: Counter[str] = field(default_factory=Counter)
    filled: bool = False


def read_svg(data: bytes, name: str, unit: str = "") -> DrawnArt:
    """A drawing's art. unit: of its user units where the file does not say it (px, mm, in), or nothing for what is believed. Raises OperatorError."""
    if b"<!ENTITY" in data or b"<!DOCTYPE" in data[:4096] and b"[" in data[:4096].partition(b"<!DOCTYPE")[2][:400]:
        raise OperatorError(f"{name} is refused: it defines entities of its own.")
    try:
        root = ElementTree.fromstring(data)
    except (ElementTree.ParseError, ValueError, LookupError) as error:
        raise OperatorError(f"{name} can't be read as SVG ({error}).") from None
    if _name(root) != "svg":
        raise OperatorError(f"{name} is no SVG drawing.")
    painted = _Painted()
    try:
        scale, believed, why, asks = _scale(root, unit)
        _Painter(root, painted, scale).element(root, (scale, 0.0, 0.0, -scale, 0.0, 0.0), {}, None, 0)
    except OperatorError as error:
        raise OperatorError(f"{name} {error}") from None
    except (ValueError, OverflowError, ZeroDivisionError, shapely.GEOSException, RecursionError) as error:
        raise OperatorError(
            f"{name} has something in it that can't be read ({error or type(error).__name__})."
        ) from None
    return _told(painted, name, scale, believed, why, asks)


def _told(painted: _Painted, name: str, scale: float, unit: str, why: str, asks: bool) -> DrawnArt:
    said = [f"{words} ({n} times)" if n > 1 else words for words, n in painted.said.items()]
    area = _composed(painted.steps)
    outlines, open_ = painted.outlines, painted.open
    thin = [h for h in painted.hairs if closed_ring(h) is not None]
    if not painted.filled and painted.hairs:  # a drawing of lines alone: what they enclose is meant
        rings = [r for h in thin if (r := closed_ring(h)) is not None]
        kept, _ = once_each(rings)
        area = _even_odd(kept)
        outlines, open_ = [*outlines, *rings], [*open_, *(h for h in painted.hairs if closed_ring(h) is None)]
        said.append("its lines are thin and nothing is filled: what closed lines enclose is taken")
    if area.is_empty and not open_:
        what = f" It has {', '.join(painted.left_out)}, which is not taken." if painted.left_out else ""
        raise OperatorError(f"{name} draws nothing that could be carved.{what}")
    kept, doubled = once_each(outlines)
    left = tuple(f"{n} × {words}" if n > 1 else words for words, n in painted.left_out.items())
    box = area.bounds if not area.is_empty else (0.0, 0.0, 0.0, 0.0)
    wide, high = (box[2] - box[0]) / scale, (box[3] - box[1]) / scale
    ways = [unit] if not asks else ["px", "mm", "in"]
    sizes = tuple(
        (u, wide * (scale if u == unit else PER_UNIT[u]), high * (scale if u == unit else PER_UNIT[u])) for u in ways
    )
    return DrawnArt(
        area,
        loose(open_, (1.0, -1.0, 0.0)),
        len(kept),
        doubled,
        crossings(kept),
        unit,
        why,
        sizes,
        left,
        tuple(said),
        (),
        up=-1.0,
    )


def _composed(steps: Sequence[tuple[bool, Any]]) -> Any:
    """Areas painted one over the other."""
    area: Any = shapely.MultiPolygon()
    at = 0
    while at < len(steps):
        ink = steps[at][0]
        end = next((i for i in range(at, len(steps)) if steps[i][0] is not ink), len(steps))
        these = shapely.union_all([s[1] for s in steps[at:end]])
        area = area.union(these) if ink else area.difference(these)
        at = end
    return as_multipolygon(area)


def _even_odd(rings: Sequence[Array]) -> Any:
    area: Any = shapely.MultiPolygon()
    for ring in rings:
        area = area.symmetric_difference(shapely.make_valid(shapely.Polygon(ring)))
    return as_multipolygon(area)


def _scale(root: Any, unit: str) -> tuple[float, str, str, bool]:
    """mm per user unit, the unit believed, why, and whether it might be another."""
    sizes = [
        re.fullmatch(rf"\s*({NUMBER.pattern})\s*(px|mm|cm|in|pt|pc|)\s*", root.get(n) or "")
        for n in ("width", "height")
    ]
    box = [float(v) for v in NUMBER.findall(root.get("viewBox") or "")]
    boxed = len(box) == 4 and box[2] > 0 and box[3] > 0
    told = [
        (float(s[1]), s[2], across)
        for s, across in zip(sizes, box[2:] if boxed else (0.0, 0.0))
        if s is not None and float(s[1]) > 0
    ]
    if unit:
        return PER_UNIT[unit], unit, "as chosen", True
    if boxed and told:
        per = min(size * PER_UNIT[u] / across for size, u, across in told)
        size, u, _ = told[0]
        if u in ("", "px"):
            return per, "px", "the file counts in px: 96 of them are an inch", True
        return per, u, f"the file says it is {size:g} {u} {'wide' if sizes[0] is not None else 'high'}", False
    if told and told[0][1] not in ("", "px"):
        return PER_UNIT["px"], told[0][1], f"the file says it is {told[0][0]:g} {told[0][1]} wide", False
    return PER_UNIT["px"], "px", "the file does not say its unit: 96 px are taken for an inch", True


def _name(element: Any) -> str:
    tag = element.tag
    return tag.rpartition("}")[2] if isinstance(tag, str) else ""


class _Painter:
    def __init__(self, root: Any, painted: _Painted, scale: float) -> None:
        self.painted, self.scale = painted, scale
        self.ids = {e.get("id"): e for e in root.iter() if e.get("id")}
        self.styles = Styles(root)
        self.rule = "fill-rule"
        self.count = self.points = 0

    def element(
        self, element: Any, at: Six, inherited: dict[str, str], clip: Any, depth: int, inner: bool = False
    ) -> None:
        """Paint an element and what is in it. inner: whether it is drawn as a part of something else."""
        name = _name(element)
        self.count += 1
        if depth > DEEPEST or self.count > MOST:
            raise OperatorError("has groups or uses that go on for ever, or more than can be drawn.")
        if not name or (name in ONLY_DEFINED and not inner):
            return
        style = self.styles.of(element, name, inherited)
        if style.get("display") == "none" or _share(style.get("opacity", "1")) <= 0.0:
            return
        if name in NOT_TAKEN:
            self.painted.left_out[NOT_TAKEN[name] + _words(element)] += 1
            return
        at = then(at, transform_of(element.get("transform") or ""))
        for what in ("mask", "filter"):
            if style.get(what, "none") != "none":
                self.painted.left_out[f"a {what}: what it is on is taken whole"] += 1
        clip = self._clipped(style.get("clip-path", ""), clip, at, depth)
        if name in DRAWN:
            if style.get("visibility") not in ("hidden", "collapse"):
                self._shape(element, name, at, style, clip)
            return
        if name == "use":
            self._used(element, at, style, clip, depth)
            return
        if name in ("svg", "symbol") and depth:
            at = then(at, _view(element, self._lengths(element)))
        for child in element:
            self.element(child, at, style, clip, depth + 1)

    def _used(self, element: Any, at: Six, style: dict[str, str], clip: Any, depth: int) -> None:
        link = element.get("href") or element.get("{http://www.w3.org/1999/xlink}href") or ""
        target = self.ids.get(link.removeprefix("#")) if link.startswith("#") else None
        if target is None:
            self.painted.left_out["a use of what is not in the file"] += 1
            return
        length = self._lengths(element)
        at = then(at, (1.0, 0.0, 0.0, 1.0, length("x", 0.0), length("y", 0.0)))
        self.element(target, at, style, clip, depth + 1, inner=True)

    def _lengths(self, element: Any) -> Any:
        def length(name: str, otherwise: float) -> float:
            found = re.match(r"\s*([-+]?[\d.]+(?:[eE][-+]?\d+)?)\s*(px|mm|cm|in|pt|pc)?", element.get(name) or "")
            if found is None:
                return otherwise
            return float(found[1]) * (PER_UNIT[found[2]] / PER_UNIT["px"] if found[2] else 1.0)

        return length

    def _shape(self, element: Any, name: str, at: Six, style: dict[str, str], clip: Any) -> None:
        size = math.sqrt(abs(at[0] * at[3] - at[1] * at[2]))
        largest = max(math.hypot(at[0], at[1]), math.hypot(at[2], at[3]))
        if size <= 1e-12:
            return
        tol, length = TOL / largest, self._lengths(element)
        runs = of_element(
            name,
            lambda n: element.get(n) or "",
            length,
            lambda n: length(n, 0.0) if element.get(n) not in (None, "", "auto") else None,
            tol,
        )
        self.points += sum(len(r.points) for r in runs)
        if self.points > MOST_POINTS:
            raise OperatorError(f"has more than {MOST_POINTS:,} corners: too much for a carving.".replace(",", " "))
        here = [_moved(r.points, at) for r in runs]
        fill, note = paint_of(style.get("fill", "black"), style)
        if fill and name != "line" and _share(style.get("fill-opacity", "1")) > 0.0:
            self._filled(runs, here, fill, style.get(self.rule, "nonzero"), clip)
            self._note(note, name)
        stroke, note = paint_of(style.get("stroke", "none"), style)
        width = _length_of(style.get("stroke-width", "1"))
        if stroke and width > 0.0 and _share(style.get("stroke-opacity", "1")) > 0.0:
            self._note(note, name)
            if style.get("stroke-dasharray", "none") not in ("none", ""):
                self.painted.left_out["dashes: the line is taken whole"] += 1
            if any(style.get(f"marker-{e}", style.get("marker", "none")) != "none" for e in ("start", "mid", "end")):
                self.painted.left_out["arrows and other marks at a line's ends"] += 1
            if width * size <= HAIR:
                self.painted.hairs += [_with_end(h, r.closed) for h, r in zip(here, runs) if len(h) > 1]
            area = _stroked(runs, width, style, tol)
            self._paint(shapely.transform(area, lambda p: _moved(p, at)), stroke, clip)
            self.painted.filled |= width * size > HAIR

    def _note(self, note: str, name: str) -> None:
        if note:
            self.painted.left_out[f"{note} of a {name}: it is taken as one colour"] += 1

    def _filled(self, runs: list[SubPath], here: list[Array], fill: str, rule: str, clip: Any) -> None:
        rings = [h for h in here if len(h) > 2]
        if not rings:
            return
        area = _by_rule(rings, rule)
        self._paint(area, fill, clip)
        self.painted.filled = True
        for ring, run in zip(here, runs):
            whole = closed_ring(_with_end(ring, run.closed))
            if whole is not None:
                self.painted.outlines.append(whole)
            elif len(ring) > 1:
                self.painted.open.append(ring)

    def _paint(self, area: Any, paint: str, clip: Any) -> None:
        area = area if clip is None else area.intersection(clip)
        if area.is_empty:
            return
        if paint == PAPER:
            self.painted.said["what is white is taken as bare"] += 1
        self.painted.steps.append((paint == INK, area))

    def _clipped(self, words: str, clip: Any, at: Six, depth: int) -> Any:
        link = re.search(r"url\(\s*['\"]?#([^)'\"]+)", words)
        target = self.ids.get(link[1]) if link else None
        if target is None or _name(target) != "clipPath":
            return clip
        if target.get("clipPathUnits") == "objectBoundingBox":
            raise OperatorError("clips by a share of a shape's size, which is not read here: draw the outline itself.")
        inside = _Painted()
        painter = _Painter.__new__(_Painter)
        painter.__dict__.update(self.__dict__, painted=inside, rule="clip-rule")
        within = then(at, transform_of(target.get("transform") or ""))
        for child in target:
            painter.element(child, within, {"fill": "black", "stroke": "none"}, None, depth + 1, inner=True)
        self.count = painter.count
        area = shapely.union_all([s[1] for s in inside.steps]) if inside.steps else shapely.MultiPolygon()
        return area if clip is None else clip.intersection(area)


def _by_rule(rings: Sequence[Array], rule: str) -> Any:
    """What outlines enclose: an odd number of times, or with a winding other than 0."""
    if rule == "evenodd":
        return _even_odd([np.vstack([r, r[:1]]) for r in rings])
    return nonzero(rings)


def _stroked(runs: Sequence[SubPath], width: float, style: dict[str, str], tol: float) -> Any:
    """A line as the area that it paints, in its own units."""
    cap = {"round": "round", "square": "square"}.get(style.get("stroke-linecap", "butt"), "flat")
    join = {"round": "round", "bevel": "bevel"}.get(style.get("stroke-linejoin", "miter"), "mitre")
    limit = max(1.0, float((NUMBER.findall(style.get("stroke-miterlimit", "4")) or ["4"])[0]))
    segments = (
        max(8, math.ceil(math.pi / 4.0 / math.acos(max(0.0, 1.0 - tol / (width / 2.0))))) if width / 2.0 > tol else 8
    )
    out: list[Any] = []
    for run in runs:
        if len(run.points) < 2:
            if cap != "flat" and len(run.points):
                out.append(shapely.Point(run.points[0]).buffer(width / 2.0, quad_segs=segments))
            continue
        points = np.vstack([run.points, run.points[:1]]) if run.closed and len(run.points) > 2 else run.points
        line = shapely.LinearRing(points) if run.closed and len(points) > 3 else shapely.LineString(points)
        out.append(line.buffer(width / 2.0, quad_segs=segments, cap_style=cap, join_style=join, mitre_limit=limit))
    return shapely.union_all(out) if out else shapely.MultiPolygon()


def _with_end(points: Array, closed: bool) -> Array:
    return np.vstack([points, points[:1]]) if closed and len(points) > 2 else points


def _moved(points: Array, at: Six) -> Array:
    a, b, c, d, e, f = at
    return np.column_stack([a * points[:, 0] + c * points[:, 1] + e, b * points[:, 0] + d * points[:, 1] + f])


def _view(element: Any, length: Any) -> Six:
    """Where a drawing within a drawing lies, and how large (chapter 7.8, one scale both ways and in the middle unless none is kept)."""
    x, y = length("x", 0.0), length("y", 0.0)
    box = [float(v) for v in NUMBER.findall(element.get("viewBox") or "")]
    wide, high = length("width", 0.0), length("height", 0.0)
    if len(box) != 4 or box[2] <= 0 or box[3] <= 0 or wide <= 0:
        return (1.0, 0.0, 0.0, 1.0, x, y)
    high = high or wide * box[3] / box[2]
    sx, sy = wide / box[2], high / box[3]
    if (element.get("preserveAspectRatio") or "").strip() != "none":
        s = min(sx, sy)
        x, y, sx, sy = x + (wide - s * box[2]) / 2.0, y + (high - s * box[3]) / 2.0, s, s
    return (sx, 0.0, 0.0, sy, x - sx * box[0], y - sy * box[1])


def _share(words: str) -> float:
    found = NUMBER.match(words.strip())
    return float(found[0]) / (100.0 if words.strip().endswith("%") else 1.0) if found else 1.0


def _length_of(words: str) -> float:
    found = re.match(r"\s*([-+]?[\d.]+(?:[eE][-+]?\d+)?)\s*(px|mm|cm|in|pt|pc)?", words)
    return float(found[1]) * (PER_UNIT[found[2]] / PER_UNIT["px"] if found[2] else 1.0) if found else 1.0


def _words(element: Any) -> str:
    said = " ".join(" ".join(element.itertext()).split())
    return f" “{said[:40]}”: turn it into paths" if said else ""
