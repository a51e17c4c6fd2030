# SPDX-License-Identifier: GPL-3.0-or-later
"""Paints drawings: the window, pictures, and pages all go through here."""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from PyQt6.QtCore import QLineF, QPointF, QRectF, Qt
from PyQt6.QtGui import QBrush, QColor, QFontMetricsF, QImage, QPainter, QPainterPath, QPen, QPolygonF, QTransform

from gatepost.core.units import show_length
from gatepost.desk.theme.style import font
from gatepost.desk.theme.table import ROLES, THEMES, TOOL_DASHES, TOOL_HUES, RoleLook, tool_index
from gatepost.desk.view.labels import WORDS, around, in_order, settled, taken_up
from gatepost.drawing.shapes import Drawing, Shape


@dataclass(frozen=True)
class View:
    """mm to px: x right, y up. scale_x, scale_y: px per mm; left, bottom: px of the drawing's origin."""

    scale_x: float
    scale_y: float
    left: float
    bottom: float

    def to_screen(self, x: float, y: float) -> QPointF:
        """px of a place."""
        return QPointF(self.left + x * self.scale_x, self.bottom - y * self.scale_y)

    def to_mm(self, point: QPointF) -> tuple[float, float]:
        """The place under a px."""
        return ((point.x() - self.left) / self.scale_x, (self.bottom - point.y()) / self.scale_y)


def fitted(drawing: Drawing, room: QRectF, stretch: bool = False) -> View:
    """A view that shows the whole drawing in a room; with stretch, heights are drawn taller by a whole step."""
    x0, y0, x1, y1 = drawing.extents
    across = room.width() / (x1 - x0)
    up = room.height() / (y1 - y0)
    if not stretch:
        scale = min(across, up)
        sx = sy = scale
    else:
        sx, sy = across, up
        if drawing.tall != 0.0:
            times = up / across
            step = next(
                (s for s in (60, 50, 40, 30, 25, 20, 15, 12, 10, 8, 6, 5, 4, 3, 2, 1.5, 1) if s <= times), times
            )
            sy = across * step
    left = room.left() + (room.width() - (x1 - x0) * sx) / 2 - x0 * sx
    bottom = room.bottom() - (room.height() - (y1 - y0) * sy) / 2 + y0 * sy
    if stretch and drawing.tall != 0.0:
        bottom = room.bottom() + y0 * sy
    return View(sx, sy, left, bottom)


FEW = 12  # points that are not worth thinning


@lru_cache(maxsize=4)
def _decoded(data: bytes) -> QImage:
    """A picture file's image."""
    return QImage.fromData(data)


class Brush:
    """Paints shapes with a theme."""

    def __init__(self, painter: QPainter, view: View, theme: str, scale: float = 1.0) -> None:
        self.p = painter
        self.view = view
        self.theme = theme
        self.c = THEMES[theme]
        self.scale = scale
        self.placed: dict[int, QRectF | None] = {}  # by a shape's own number: where its words go

    def place(self, drawing: Drawing, room: QRectF) -> dict[int, QRectF | None]:
        """Settle where the words of a drawing go."""
        words = [s for s in drawing.shapes if s.kind in WORDS]
        found = settled([(s, self._meant(s, ROLES[s.role])) for s in words], room)
        self.placed = {id(s): found[i] for i, s in enumerate(words)}
        return self.placed

    def colour(self, name: str, index: int = 0) -> QColor:
        """A colour of the theme; ``tool`` is the tool's own hue."""
        if name == "tool":
            return QColor(TOOL_HUES[self.theme][tool_index(index)])
        return QColor(self.c[name])

    def pen(self, look: RoleLook, shape: Shape) -> QPen:
        """The pen of a role."""
        if not look.stroke:
            return QPen(Qt.PenStyle.NoPen)
        pen = QPen(self.colour(look.stroke, shape.index), look.width * self.scale)
        if look.opacity < 1.0 and not look.fill:
            colour = pen.color()
            colour.setAlphaF(look.opacity)
            pen.setColor(colour)
        dash = TOOL_DASHES[tool_index(shape.index)] if look.stroke == "tool" and shape.role != "cut-fine" else look.dash
        if dash:
            pen.setDashPattern(list(dash))
        pen.setJoinStyle(Qt.PenJoinStyle.RoundJoin)
        pen.setCapStyle(Qt.PenCapStyle.FlatCap if dash else Qt.PenCapStyle.RoundCap)
        return pen

    def brush(self, look: RoleLook, shape: Shape) -> QBrush:
        """The brush of a role."""
        if not look.fill:
            return QBrush(Qt.BrushStyle.NoBrush)
        colour = self.colour(look.fill, shape.index)
        colour.setAlphaF(look.opacity)
        return QBrush(colour)

    def draw(self, drawing: Drawing, room: QRectF) -> None:
        """Paint every shape."""
        self.place(drawing, room)
        for shape in in_order(drawing):
            self.shape(shape)

    def shape(self, shape: Shape) -> None:
        """Paint one shape."""
        look = ROLES[shape.role]
        if shape.clip is None:
            getattr(self, "_" + shape.kind)(shape, look)
            return
        self.p.save()
        path = QPainterPath()
        path.addPolygon(self._polygon(shape.clip))
        self.p.setClipPath(path, Qt.ClipOperation.IntersectClip)
        getattr(self, "_" + shape.kind)(shape, look)
        self.p.restore()

    def _polygon(self, points: np.ndarray) -> QPolygonF:
        v = self.view
        at = np.empty((len(points), 2))
        at[:, 0] = v.left + points[:, 0] * v.scale_x
        at[:, 1] = v.bottom - points[:, 1] * v.scale_y
        if len(at) > FEW:  # what falls on the same third of a pixel as the point before is not seen
            fine = np.rint(3.0 * at)
            keep = np.ones(len(at), np.bool_)
            keep[1:-1] = (fine[1:-1] != fine[:-2]).any(axis=1)
            at = at[keep]
        polygon = QPolygonF([QPointF()] * len(at))
        if len(at):
            into = polygon.data()
            into.setsize(at.nbytes)
            np.frombuffer(into, np.float64).reshape(-1, 2)[:] = at  # type: ignore[call-overload]
        return polygon

    def _lines(self, shape: Shape, look: RoleLook) -> None:
        """Pairs of points, a line each."""
        v = self.view
        x = v.left + shape.points[:, 0] * v.scale_x
        y = v.bottom - shape.points[:, 1] * v.scale_y
        self.p.setPen(self.pen(look, shape))
        self.p.drawLines([QLineF(*ends) for ends in zip(x[::2], y[::2], x[1::2], y[1::2])])  # type: ignore[call-overload]

    def _area(self, shape: Shape, look: RoleLook) -> None:
        path = QPainterPath()
        path.setFillRule(Qt.FillRule.OddEvenFill)
        for ring in (shape.points, *shape.rings):
            path.addPolygon(self._polygon(ring))
            path.closeSubpath()
        self.p.setPen(self.pen(look, shape))
        self.p.setBrush(self.brush(look, shape))
        self.p.drawPath(path)

    def _line(self, shape: Shape, look: RoleLook) -> None:
        pen = self.pen(look, shape)
        if shape.role == "cut" and shape.size:
            across = shape.size * self.view.scale_x
            if across > 6.0:  # as wide as the cutter, softly, under its centre line
                wide = QColor(pen.color())
                wide.setAlphaF(0.10)
                self.p.setPen(
                    QPen(wide, across, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap, Qt.PenJoinStyle.RoundJoin)
                )
                self.p.drawPolyline(self._polygon(shape.points))
        self.p.setPen(pen)
        self.p.setBrush(Qt.BrushStyle.NoBrush)
        self.p.drawPolyline(self._polygon(shape.points))

    def _dot(self, shape: Shape, look: RoleLook) -> None:
        self.p.setPen(self.pen(look, shape))
        self.p.setBrush(self.brush(look, shape))
        r = max(shape.size * 0.5, 2.0) * self.scale
        self.p.drawEllipse(self.view.to_screen(*shape.points[0]), r, r)

    def _ring(self, shape: Shape, look: RoleLook) -> None:
        self.p.setPen(self.pen(look, shape))
        self.p.setBrush(Qt.BrushStyle.NoBrush)
        self.p.drawEllipse(
            self.view.to_screen(*shape.points[0]), shape.size * self.view.scale_x, shape.size * self.view.scale_y
        )

    def _image(self, shape: Shape, look: RoleLook) -> None:
        left, right, back = (self.view.to_screen(*p) for p in shape.points)
        if shape.picture:
            image = _decoded(shape.picture)
        else:
            assert shape.pixels is not None
            rows, columns, _ = shape.pixels.shape
            image = QImage(shape.pixels.tobytes(), columns, rows, 4 * columns, QImage.Format.Format_RGBA8888)
        self.p.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        if abs(right.y() - left.y()) < 1e-6:
            self.p.drawImage(QRectF(back, QPointF(right.x(), left.y())), image)
            return
        wide, high = image.width(), image.height()
        along, down = (right - left) / wide, (left - back) / high
        self.p.save()
        self.p.setTransform(QTransform(along.x(), along.y(), down.x(), down.y(), back.x(), back.y()), True)
        self.p.drawImage(QPointF(0.0, 0.0), image)
        self.p.restore()

    def _meant(self, shape: Shape, look: RoleLook) -> QRectF:
        """What a shape's words would take up where they belong; sets the font."""
        face = font(look.size * self.scale + 1.0, look.bold)
        self.p.setFont(face)
        metrics = QFontMetricsF(face)
        at = self.view.to_screen(*shape.points[0])
        return taken_up(shape, at, metrics.horizontalAdvance(shape.text), metrics.height())

    def _words(self, shape: Shape, look: RoleLook) -> QRectF | None:
        """Where they go."""
        meant = self._meant(shape, look)
        return self.placed.get(id(shape), meant)

    def _text(self, shape: Shape, look: RoleLook) -> None:
        rect = self._words(shape, look)
        if rect is None:
            return
        self.p.setPen(self.colour(look.fill, shape.index))
        self.p.drawText(rect, Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextDontClip, shape.text)

    def _label(self, shape: Shape, look: RoleLook) -> None:
        rect = self._words(shape, look)
        if rect is None:
            return
        dark = look.fill in ("slate", "accent")
        self.p.setPen(QPen(self.colour("post"), 1.6) if not dark else QPen(Qt.PenStyle.NoPen))
        self.p.setBrush(self.brush(look, shape))
        self.p.drawRoundedRect(around(shape, rect), 4, 4)
        self.p.setPen(self.colour("chalk" if look.fill == "slate" else "accent-ink") if dark else self.colour("ink"))
        self.p.drawText(rect, Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextDontClip, shape.text)

    def rulers(self, room: QRectF, unit: str, both: bool) -> None:
        """Rulers along the top and the left of a room, in the operator's unit."""
        self.p.setFont(font(11 * self.scale))
        self.p.setPen(QPen(self.colour("muted"), 1))
        per = 25.4 if unit == "inch" else 1.0
        for vertical in (False, True) if both else (False,):
            scale = (self.view.scale_y if vertical else self.view.scale_x) * per
            step = next((s for s in _steps(unit) if s * scale >= 46), _steps(unit)[-1])
            low, high = (
                self.view.to_mm(QPointF(room.left(), room.bottom())),
                self.view.to_mm(QPointF(room.right(), room.top())),
            )
            a, b = (low[1], high[1]) if vertical else (low[0], high[0])
            for n in range(math.ceil(a / per / step - 1e-9), math.floor(b / per / step + 1e-9) + 1):
                self._tick(room, vertical, n * step * per, unit)

    def _tick(self, room: QRectF, vertical: bool, value: float, unit: str) -> None:
        words = show_length(value, unit)
        if vertical:
            y = self.view.to_screen(0, value).y()
            self.p.drawLine(QPointF(room.left() - 6, y), QPointF(room.left(), y))
            self.p.drawText(
                QRectF(room.left() - 60, y - 8, 50, 16),
                Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter,
                words,
            )
        else:
            x = self.view.to_screen(value, 0).x()
            self.p.drawLine(QPointF(x, room.top() - 6), QPointF(x, room.top()))
            self.p.drawText(QRectF(x - 40, room.top() - 22, 80, 15), Qt.AlignmentFlag.AlignCenter, words)


def _steps(unit: str) -> tuple[float, ...]:
    return (0.25, 0.5, 1, 2, 4, 6, 12, 24) if unit == "inch" else (1, 2, 5, 10, 20, 50, 100, 200, 500)


def bounds_of(drawing: Drawing, view: View, key: str) -> QRectF:
    """What the shapes of a key take up, px, a little about them."""
    out = QRectF()
    for shape in drawing.shapes:
        if shape.key == key:
            for x, y in (shape.points.min(axis=0)[:2], shape.points.max(axis=0)[:2]):
                at = view.to_screen(float(x), float(y))
                out = out.united(QRectF(at.x() - 6, at.y() - 6, 12, 12))
    return out


def hit(
    drawing: Drawing, view: View, point: QPointF, reach: float = 9.0, placed: dict[int, QRectF | None] | None = None
) -> Shape | None:
    """The uppermost shape with a key under a px, or near it; of blocks one over the other the smallest. What lies under the wood comes last.
    placed: where the words went."""
    blocks: list[Shape] = []
    beneath: Shape | None = None
    for shape in reversed(in_order(drawing)):
        if shape.key and _under(shape, view, point, reach, (placed or {}).get(id(shape))):
            if shape.role.startswith("block"):
                blocks.append(shape)
            elif not shape.role.startswith("tape"):
                return shape if not blocks else _smallest(blocks, drawing, view)
            elif beneath is None:
                beneath = shape
    return _smallest(blocks, drawing, view) if blocks else beneath


def _smallest(blocks: list[Shape], drawing: Drawing, view: View) -> Shape:
    """Of blocks the one whose thing is smallest; of two alike the upper."""
    boxes = {b.key: bounds_of(drawing, view, b.key) for b in blocks}
    return min(blocks, key=lambda b: boxes[b.key].width() * boxes[b.key].height())


def _under(shape: Shape, view: View, point: QPointF, reach: float, moved: QRectF | None) -> bool:
    """Whether a shape lies under a px, or near it. moved: where its words went."""
    if moved is not None:
        return around(shape, moved).contains(point)
    if shape.kind == "area":
        at = QPointF(*view.to_mm(point))
        return _holds(shape.points, at) and not any(_holds(ring, at) for ring in shape.rings)
    if shape.kind not in ("dot", "label", "ring", "text"):
        return _near_line(shape, view, point, reach)
    at = view.to_screen(*shape.points[0])
    ring = shape.size * view.scale_x if shape.kind == "ring" else 0.0
    wide = 22.0 if shape.kind == "label" else max(reach, ring)
    high = max(reach, 11.0 if shape.kind == "label" else wide)
    return abs(at.x() - point.x()) <= wide and abs(at.y() - point.y()) <= high


def _holds(ring: np.ndarray, at: QPointF) -> bool:
    """Whether a place lies within a ring, mm."""
    return QPolygonF([QPointF(x, y) for x, y in ring.tolist()]).containsPoint(at, Qt.FillRule.OddEvenFill)


def _near_line(shape: Shape, view: View, point: QPointF, reach: float) -> bool:
    p = np.array([point.x(), point.y()])
    xy = np.column_stack(
        [view.left + shape.points[:, 0] * view.scale_x, view.bottom - shape.points[:, 1] * view.scale_y]
    )
    a, b = xy[:-1], xy[1:]
    if not len(a):
        return False
    d = b - a
    t = np.clip(((p - a) * d).sum(axis=1) / np.maximum((d * d).sum(axis=1), 1e-9), 0, 1)
    return bool((np.linalg.norm(a + t[:, None] * d - p, axis=1) <= reach).any())
