# SPDX-License-Identifier: GPL-3.0-or-later
"""The lines of an SVG drawing as the standard draws them: groups and their transforms, ``use``, nested drawings, clip paths; what is only
defined, hidden or not displayed draws nothing (SVG 1.1, chapters 5, 7 and 14)."""

from __future__ import annotations

import math
import re
from collections.abc import Callable
from typing import Any

import numpy as np
from numpy.typing import NDArray

from gatepost.core.errors import OperatorError

Array = NDArray[np.float64]
Six = tuple[float, float, float, float, float, float]
Flatten = Callable[[list[tuple[str, tuple[Any, ...]]]], list[Array]]
DRAWN = ("path", "rect", "circle", "ellipse", "line", "polyline", "polygon")
ONLY_DEFINED = (
    "defs",
    "clipPath",
    "mask",
    "symbol",
    "pattern",
    "marker",
    "linearGradient",
    "radialGradient",
    "metadata",
    "title",
    "desc",
    "style",
    "script",
)
DEEPEST, MOST = 40, 20_000  # levels of groups and uses, and elements drawn
NUMBER = re.compile(r"[-+]?(?:\d+\.?\d*|\.\d+)(?:[eE][-+]?\d+)?")
WHOLE: Six = (1.0, 0.0, 0.0, 1.0, 0.0, 0.0)


def then(first: Six, second: Six) -> Six:
    """One transform within another: ``second`` is applied before ``first``."""
    a, b, c, d, e, f = first
    g, h, i, j, k, l_ = second
    return (a * g + c * h, b * g + d * h, a * i + c * j, b * i + d * j, a * k + c * l_ + e, b * k + d * l_ + f)


def transform_of(words: str) -> Six:
    """A transform attribute. Raises ValueError."""
    out = WHOLE
    rest = re.sub(r"(\w+)\s*\(([^)]*)\)", "", words).strip(" ,\t\r\n")
    if rest:
        raise ValueError(f"transform “{words[:40]}”")
    for name, inside in re.findall(r"(\w+)\s*\(([^)]*)\)", words):
        v = [float(n) for n in NUMBER.findall(inside)]
        out = then(out, _one(name, v))
    return out


def _one(name: str, v: list[float]) -> Six:
    if name == "matrix" and len(v) == 6:
        return (v[0], v[1], v[2], v[3], v[4], v[5])
    if name == "translate" and len(v) in (1, 2):
        return (1.0, 0.0, 0.0, 1.0, v[0], v[1] if len(v) == 2 else 0.0)
    if name == "scale" and len(v) in (1, 2):
        return (v[0], 0.0, 0.0, v[-1], 0.0, 0.0)
    if name == "rotate" and len(v) in (1, 3):
        c, s = math.cos(math.radians(v[0])), math.sin(math.radians(v[0]))
        x, y = (v[1], v[2]) if len(v) == 3 else (0.0, 0.0)
        return (c, s, -s, c, x - c * x + s * y, y - s * x - c * y)
    if name in ("skewX", "skewY") and len(v) == 1:
        t = math.tan(math.radians(v[0]))
        return (1.0, 0.0, t, 1.0, 0.0, 0.0) if name == "skewX" else (1.0, t, 0.0, 1.0, 0.0, 0.0)
    raise ValueError(f"transform “{name}” with {len(v)} figures")


class _Drawing:
    def __init__(self, root: Any, flatten: Flatten) -> None:
        self.flatten = flatten
        self.ids = {e.get("id"): e for e in root.iter() if e.get("id")}
        self.count = 0

    def draw(self, element: Any, at: Six, depth: int, inner: bool) -> list[Array]:
        """inner: whether it is drawn as a part of something else, so that a symbol or a clip's own shapes draw."""
        name = _name(element)
        self.count += 1
        if depth > DEEPEST or self.count > MOST:
            raise OperatorError("has groups or uses that go on for ever, or more than can be drawn.")
        style = _style(element)
        if name is None or style.get("display") == "none" or (name in ONLY_DEFINED and not inner):
            return []
        at = then(at, transform_of(element.get("transform") or ""))
        if name == "use":
            lines = self._used(element, at, depth)
        elif name in DRAWN:
            lines = [] if style.get("visibility") in ("hidden", "collapse") else self._shape(element, at)
        else:
            if name == "svg" and depth:
                at = then(at, _nested(element))
            lines = [line for child in element for line in self.draw(child, at, depth + 1, False)]
        return self._clipped(style.get("clip-path", ""), lines, at, depth)

    def _used(self, element: Any, at: Six, depth: int) -> list[Array]:
        link = element.get("href") or element.get("{http://www.w3.org/1999/xlink}href") or ""
        target = self.ids.get(link.removeprefix("#")) if link.startswith("#") else None
        if target is None:
            return []
        x, y = (float((NUMBER.findall(element.get(n) or "0") or ["0"])[0]) for n in ("x", "y"))
        return self.draw(target, then(at, (1.0, 0.0, 0.0, 1.0, x, y)), depth + 1, True)

    def _shape(self, element: Any, at: Six) -> list[Array]:
        from fontTools.misc.transform import Transform
        from fontTools.pens.recordingPen import RecordingPen
        from fontTools.pens.transformPen import TransformPen
        from fontTools.svgLib.path.parser import parse_path
        from fontTools.svgLib.path.shapes import PathBuilder

        plain = element.__class__(element.tag, {k: v for k, v in element.attrib.items() if k != "transform"})
        builder = PathBuilder()
        builder.add_path_from_element(plain)
        pen = RecordingPen()
        for words in builder.paths:
            parse_path(words, TransformPen(pen, Transform(*at)))
        return self.flatten(pen.value)

    def _clipped(self, words: str, lines: list[Array], at: Six, depth: int) -> list[Array]:
        """Only what lies within a clip path; its closed outlines, as what was filled within it."""
        link = re.search(r"url\(\s*['\"]?#([^)'\"]+)", words)
        clip = self.ids.get(link[1]) if link else None
        if clip is None or not lines:
            return lines
        if clip.get("clipPathUnits") == "objectBoundingBox":
            raise OperatorError("clips by a share of a shape's size, which is not read here: draw the outline itself.")
        import shapely

        within = self.draw(clip, at, depth + 1, True)
        area = shapely.union_all([_area(line) for line in within if len(line) > 3])
        out: list[Array] = []
        for line in lines:
            met = shapely.intersection(_area(line), area) if len(line) > 3 else shapely.Polygon()
            for part in getattr(met, "geoms", [met]):
                if part.geom_type == "Polygon" and not part.is_empty:
                    out += [np.asarray(ring.coords) for ring in (part.exterior, *part.interiors)]
        return out


def _area(line: Array) -> Any:
    import shapely

    return shapely.make_valid(shapely.Polygon(line))


def _name(element: Any) -> str | None:
    tag = element.tag
    return tag.rpartition("}")[2] if isinstance(tag, str) else None


def _style(element: Any) -> dict[str, str]:
    """What decides whether and within what it is drawn: its attributes, and over them its style."""
    out = {n: element.get(n) for n in ("display", "visibility", "clip-path") if element.get(n)}
    for rule in (element.get("style") or "").split(";"):
        name, _, value = rule.partition(":")
        if name.strip() in ("display", "visibility", "clip-path"):
            out[name.strip()] = value.strip()
    return out


def _nested(element: Any) -> Six:
    """Where a drawing within a drawing lies, and how large."""
    x, y = (float((NUMBER.findall(element.get(n) or "0") or ["0"])[0]) for n in ("x", "y"))
    box = [float(v) for v in NUMBER.findall(element.get("viewBox") or "")]
    wide = NUMBER.findall(element.get("width") or "")
    if len(box) != 4 or box[2] <= 0 or not wide:
        return (1.0, 0.0, 0.0, 1.0, x, y)
    s = float(wide[0]) / box[2]
    return (s, 0.0, 0.0, s, x - s * box[0], y - s * box[1])


def lines_of(root: Any, at: Six, flatten: Flatten) -> list[Array]:
    """All that a drawing draws. at: from its units to where it is wanted; flatten: pen strokes to lines of (n, 2). Raises OperatorError with the
    end of a sentence, and what a parser raises."""
    return _Drawing(root, flatten).draw(root, at, 0, False)
