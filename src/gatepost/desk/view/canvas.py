# SPDX-License-Identifier: GPL-3.0-or-later
"""The bed and the heights as widgets: painted from drawings, with direct handling by mouse and arrow keys."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Any

from PyQt6.QtCore import QElapsedTimer, QPointF, QRectF, Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QColor, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QPixmap, QResizeEvent
from PyQt6.QtWidgets import QSizePolicy, QWidget

from gatepost.desk.theme.style import font
from gatepost.desk.theme.table import THEMES
from gatepost.desk.view.paint import Brush, View, fitted, hit
from gatepost.drawing.shapes import Drawing, Shape

LEFT, TOP, RIGHT, BOTTOM = 46, 46, 16, 8
SLICE = 8  # ms of painting at a time
ARROWS = {Qt.Key.Key_Left: (-1, 0), Qt.Key.Key_Right: (1, 0), Qt.Key.Key_Up: (0, 1), Qt.Key.Key_Down: (0, -1)}


def _judged_role(role: str, bad: bool) -> str:
    if role in ("strap", "strap-bad"):
        return "strap-bad" if bad else "strap"
    return role


@dataclass
class _Work:
    """A picture that is being painted. next: the shape to paint next."""

    key: Any
    pixmap: QPixmap
    view: View
    grabbed: str
    drawing: Drawing
    next: int = 0


class Canvas(QWidget):
    """Shows a drawing. A thing with a key can be taken hold of, dragged and nudged; Escape leaves no trace."""

    moved = pyqtSignal(str, float, float, bool)  # key, by x, by y in mm, whether it is let go
    picked = pyqtSignal(str)
    resized = pyqtSignal()
    lined = pyqtSignal(float, float, float, float)  # a line dragged across, from where to where, mm

    def __init__(self, theme: str, stretch: bool = False) -> None:
        super().__init__()
        self.theme = theme
        self.stretch = stretch
        self.unit = "mm"
        self.drawing: Drawing | None = None
        self.busy = ""
        self.near = False  # shown from near, where the drawing knows how
        self.partner: Canvas | None = None  # heights stand under the bed with the same X
        self.selected = ""
        self._grab: tuple[str, QPointF] | None = None
        self._offset = (0.0, 0.0)
        self._verdict: tuple[str, float, float, bool, str] | None = None  # of what is dragged: key, by, bad, words
        self._line: tuple[QPointF, QPointF] | None = None
        self._kept: tuple[Any, QPixmap] | None = None
        self._work: _Work | None = None
        self._number = 0  # of the drawing shown
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setMinimumSize(300, 110)
        self.setAccessibleName("Heights" if stretch else "Bed")

    def show_drawing(self, drawing: Drawing, unit: str) -> None:
        """Show another drawing."""
        self.drawing, self.unit = drawing, unit
        self._number += 1
        self._work = None
        self._offset = (0.0, 0.0)
        keys = {s.key for s in drawing.shapes}
        if self.selected not in keys:
            self.selected = ""
        self.setAccessibleDescription(f"{drawing.title}: {drawing.subtitle}")
        self.update()

    def judged(self, key: str, by: tuple[float, float], bad: bool, words: str) -> None:
        """What is being dragged would come to lie there, and that is what would be said of it."""
        if self._grab is not None and self._grab[0] == key:
            self._verdict = (key, *by, bad, words)
            self.update()

    @property
    def dragging(self) -> bool:
        """Whether something is in the hand."""
        return self._grab is not None

    @property
    def verdict(self) -> tuple[str, float, float, bool, str] | None:
        """What was last said of what is being dragged."""
        return self._verdict if self._grab is not None else None

    def room(self) -> QRectF:
        """Where the drawing goes."""
        left = LEFT if self.drawing is None or self.drawing.rulers else 10
        top = TOP if self.drawing is None or self.drawing.rulers else 34
        return QRectF(left, top, max(self.width() - left - RIGHT, 10), max(self.height() - top - BOTTOM, 10))

    def view(self) -> View | None:
        """mm to px now; heights stand under the bed with the same X."""
        if self.drawing is None:
            return None
        shown = self.drawing
        if self.near and shown.close is not None:
            shown = replace(shown, extents=shown.close)
        view = fitted(shown, self.room(), self.stretch)
        align = self.partner.view() if self.partner is not None else None
        if align is not None and self.stretch and self.drawing.tall:
            room = self.room()
            times = view.scale_y / view.scale_x
            sy = min(align.scale_x * times, room.height() / (self.drawing.extents[3] - self.drawing.extents[1]))
            return View(align.scale_x, sy, align.left, room.bottom() + self.drawing.extents[1] * sy)
        return view

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        """What stands under it follows."""
        self.resized.emit()

    # -- painting -------------------------------------------------------------------------------------------

    def paintEvent(self, event: QPaintEvent | None) -> None:
        """Paint what is kept, and over it what is being dragged."""
        p = QPainter(self)
        c = THEMES[self.theme]
        p.fillRect(self.rect(), QColor(c["strip" if self.stretch else "canvas"]))
        view = self.view()
        if self.drawing is None or view is None:
            self._say(p, self.busy or "Nothing to show yet.")
            return
        picture = self._picture(view)
        if picture is not None:
            p.drawPixmap(0, 0, picture)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        self._over(p, view)
        self._titles(p, view)

    def _picture(self, view: View) -> QPixmap | None:
        """What stands still. It is painted in slices, so that the window answers meanwhile; the one before is shown
        until it is whole, where it still fits."""
        assert self.drawing is not None
        ratio = self.devicePixelRatioF()
        key = ((self._number, self.theme, self._grab[0] if self._grab else "", view), self.size(), ratio)
        if self._kept is not None and self._kept[0] == key:
            return self._kept[1]
        if self._work is None or self._work.key != key:
            pixmap = QPixmap(self.size() * ratio)
            pixmap.setDevicePixelRatio(ratio)
            pixmap.fill(QColor(0, 0, 0, 0))
            self._work = _Work(key, pixmap, view, self._grab[0] if self._grab else "", self.drawing)
            QTimer.singleShot(0, self._go_on)
        if self._kept is None or self._kept[0][1:] != key[1:]:
            return None
        return self._kept[1]

    def _slice(self) -> None:
        """Paint on for a while; the rest when the window has answered what came meanwhile."""
        work = self._work
        if work is None:
            return
        clock = QElapsedTimer()
        clock.start()
        p = QPainter(work.pixmap)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        brush = Brush(p, work.view, self.theme)
        rulers = work.drawing.rulers
        p.setClipRect(self.room().adjusted(-1, -1, 1, 1) if rulers else QRectF(self.rect()))
        shapes = work.drawing.shapes
        while work.next < len(shapes) and clock.elapsed() < SLICE:
            shape = shapes[work.next]
            work.next += 1
            if not work.grabbed or shape.key != work.grabbed:
                brush.shape(shape)
        whole = work.next >= len(shapes)
        if whole and rulers:
            p.setClipping(False)
            brush.rulers(self.room(), self.unit, both=not self.stretch)
        p.end()
        if whole:
            self._kept, self._work = (work.key, work.pixmap), None
        else:
            QTimer.singleShot(0, self._go_on)

    def _go_on(self) -> None:
        if self._work is not None:
            self._slice()
            if self._work is None:
                self.update()

    @property
    def painting(self) -> bool:
        """Whether its picture is still being painted."""
        return self._work is not None

    def _over(self, p: QPainter, view: View) -> None:
        assert self.drawing is not None
        if self._grab is not None:
            dx, dy = self._offset
            bad = False
            if self._verdict is not None:  # a hold is shown where it would snap to
                _, dx, dy, bad, _ = self._verdict
            moved = View(view.scale_x, view.scale_y, view.left + dx * view.scale_x, view.bottom - dy * view.scale_y)
            brush = Brush(p, moved, self.theme)
            for shape in self.drawing.shapes:
                if shape.key == self._grab[0]:
                    brush.shape(replace(shape, role=_judged_role(shape.role, bad)) if self._verdict else shape)
        elif self.selected and self.hasFocus():
            p.setPen(QPen(QColor(THEMES[self.theme]["accent"]), 2, Qt.PenStyle.DashLine))
            p.setBrush(Qt.BrushStyle.NoBrush)
            p.drawRoundedRect(self._bounds(view, self.selected).adjusted(-5, -5, 5, 5), 4, 4)
        if self._line is not None:
            p.setPen(QPen(QColor(THEMES[self.theme]["ink"]), 1.4, Qt.PenStyle.DotLine))
            p.drawLine(*self._line)

    def _bounds(self, view: View, key: str) -> QRectF:
        assert self.drawing is not None
        out = QRectF()
        for shape in self.drawing.shapes:
            if shape.key == key:
                for x, y in (
                    (shape.points[:, 0].min(), shape.points[:, 1].min()),
                    (shape.points[:, 0].max(), shape.points[:, 1].max()),
                ):
                    at = view.to_screen(float(x), float(y))
                    out = out.united(QRectF(at.x() - 6, at.y() - 6, 12, 12))
        return out

    def _titles(self, p: QPainter, view: View) -> None:
        assert self.drawing is not None
        c = THEMES[self.theme]
        left = LEFT if self.drawing.rulers else 16
        p.setFont(font(13.5, True))
        p.setPen(QColor(c["ink"]))
        p.drawText(QPointF(left, 16), self.drawing.title)
        after = left + p.fontMetrics().horizontalAdvance(self.drawing.title) + 9
        p.setFont(font(13.5))
        p.setPen(QColor(c["muted"]))
        tall = (
            f" · ×{view.scale_y / view.scale_x:.2g} tall"
            if self.stretch and self.drawing.tall and view.scale_y > 1.05 * view.scale_x
            else ""
        )
        words = self.busy or self.drawing.subtitle + tall
        if self.verdict is not None:
            words = self.verdict[4]
            p.setPen(QColor(c["stop" if self.verdict[3] else "ink"]))
        p.drawText(
            QPointF(after, 16),
            p.fontMetrics().elidedText(words, Qt.TextElideMode.ElideRight, int(self.width() - after - 10)),
        )

    def _say(self, p: QPainter, words: str) -> None:
        p.setFont(font(14))
        p.setPen(QColor(THEMES[self.theme]["muted"]))
        p.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, words)

    # -- handling -----------------------------------------------------------------------------------------

    def keys(self) -> list[str]:
        """Things that can be taken hold of, in drawing order."""
        shapes: tuple[Shape, ...] = self.drawing.shapes if self.drawing is not None else ()
        return list(dict.fromkeys(s.key for s in shapes if s.key and not s.key.startswith(("op:", "blank"))))

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        """Take hold of what is under the mouse, or begin a line across."""
        view = self.view()
        if event is None or view is None or self.drawing is None or event.button() != Qt.MouseButton.LeftButton:
            return
        shape = hit(self.drawing, view, event.position())
        if shape is not None and not shape.key.startswith(("op:",)):
            self.selected = shape.key
            self._grab = (shape.key, event.position())
            self._verdict = None
            self.picked.emit(shape.key)
        else:
            self.selected = ""
            if not self.stretch:
                self._line = (event.position(), event.position())
        self.update()

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        """Drag along."""
        view = self.view()
        if event is None or view is None:
            return
        if self._grab is not None:
            a, b = view.to_mm(self._grab[1]), view.to_mm(event.position())
            self._offset = (b[0] - a[0], b[1] - a[1])
            self.moved.emit(self._grab[0], *self._offset, False)
            self.update()
        elif self._line is not None:
            self._line = (self._line[0], event.position())
            self.lined.emit(*view.to_mm(self._line[0]), *view.to_mm(self._line[1]))
            self.update()
        elif self.drawing is not None:
            shape = hit(self.drawing, view, event.position())
            can = shape is not None and not shape.key.startswith(("op:", "blank"))
            self.setCursor(Qt.CursorShape.OpenHandCursor if can else Qt.CursorShape.ArrowCursor)

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        """Let go."""
        if self._grab is not None:
            key, offset = self._grab[0], self._offset
            self._grab, self._verdict = None, None
            self._offset = (0.0, 0.0)
            if abs(offset[0]) > 1e-9 or abs(offset[1]) > 1e-9:
                self.moved.emit(key, *offset, True)
        self._line = None
        self.update()

    def cancel(self) -> bool:
        """Leave a gesture without a trace; gives whether there was one."""
        was = self._grab is not None or self._line is not None
        self._grab, self._line, self._verdict = None, None, None
        self._offset = (0.0, 0.0)
        self.update()
        return was

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Tab-like choice with N and P, arrows nudge by 1 mm or 1/16 inch, with Shift by ten times that."""
        if event is None:
            return
        key = Qt.Key(event.key())
        if key == Qt.Key.Key_Escape and self.cancel():
            return
        if key in (Qt.Key.Key_N, Qt.Key.Key_P) and self.keys():
            keys = self.keys()
            step = 1 if key == Qt.Key.Key_N else -1
            index = (keys.index(self.selected) + step) % len(keys) if self.selected in keys else 0
            self.selected = keys[index]
            self.picked.emit(self.selected)
            self.update()
            return
        if key in ARROWS and self.selected:
            size = (1.0 if self.unit == "mm" else 25.4 / 16) * (
                10 if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else 1
            )
            dx, dy = ARROWS[key]
            self.moved.emit(self.selected, dx * size, dy * size, True)
            return
        super().keyPressEvent(event)
