# SPDX-License-Identifier: GPL-3.0-or-later
"""The bed and the heights as widgets: painted from drawings, with direct handling by mouse and arrow keys."""

from __future__ import annotations

from PyQt6.QtCore import QPoint, QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import (
    QColor,
    QContextMenuEvent,
    QFocusEvent,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QResizeEvent,
    QWheelEvent,
)
from PyQt6.QtWidgets import QSizePolicy, QWidget

from gatepost.desk.theme.table import THEMES
from gatepost.desk.view.camera import Camera
from gatepost.desk.view.canvas_keys import NOTCH, Typing, pressed
from gatepost.desk.view.handles import Handles
from gatepost.desk.view.overlay import LEFT, Verdict, in_hand, paint_title, say, tall_words
from gatepost.desk.view.paint import View, bounds_of, hit
from gatepost.desk.view.slices import PictureKey, SlicedPicture
from gatepost.drawing.shapes import Drawing, Shape

TOP, RIGHT, BOTTOM = 46, 16, 8
SLIP = 4.0  # px that a press may slip and still be a click


class Canvas(QWidget):
    """Shows a drawing. A thing with a key can be taken hold of, dragged and nudged; Escape leaves no trace. The wheel zooms at the
    pointer; the middle button, or Shift, moves what is seen."""

    moved = pyqtSignal(str, float, float, bool)  # key, by x, by y in mm, whether it is let go
    nudged = pyqtSignal(str, float, float)  # key, by x, by y in mm, by a key
    handled = pyqtSignal(object)  # what a handle asks for, of handles.Handling
    typing_wanted = pyqtSignal(str, float, float)  # of a key's words, at a place, mm
    asked = pyqtSignal(str, str)  # key, and one of ASKED
    picked = pyqtSignal(str)
    clicked = pyqtSignal(str, float, float)  # a click on a thing or on nothing: its key or none, and mm
    typed = pyqtSignal(str)  # a figure is begun while the bed has the focus
    menu_wanted = pyqtSignal(str, float, float, QPoint)  # key or nothing, mm, and where on the screen
    resized = pyqtSignal()
    lined = pyqtSignal(float, float, float, float)  # a line dragged across, from where to where, mm

    def __init__(self, theme: str, stretch: bool = False) -> None:
        super().__init__()
        self.theme = theme
        self.stretch = stretch
        self.unit = "mm"
        self.drawing: Drawing | None = None
        self.busy = ""
        self.camera = Camera()
        self.only_seen = False  # looked at, larger or smaller, and never taken hold of
        self.partner: Canvas | None = None  # heights stand under the bed with the same X
        self.selected = ""
        self._grab: tuple[str, QPointF] | None = None
        self._pan: QPointF | None = None
        self._offset = (0.0, 0.0)
        self._verdict: Verdict | None = None  # of what is dragged: key, by, bad, words
        self._line: tuple[QPointF, QPointF] | None = None
        self.handles = Handles()
        self.typing: Typing | None = None
        self._picture = SlicedPicture(self, both=not stretch)
        self._picture.ready.connect(self.update)
        self._number = 0  # of the drawing shown
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setMinimumSize(300, 110)
        self.setAccessibleName("Heights" if stretch else "Bed")

    # -- what is shown ----------------------------------------------------------------------------------------

    def show_drawing(self, drawing: Drawing, unit: str) -> None:
        """Show another drawing."""
        self.drawing, self.unit = drawing, unit
        self._number += 1
        self._picture.drop()
        self._offset = (0.0, 0.0)
        self.selected = self.selected if any(s.key == self.selected for s in drawing.shapes) else ""
        self.setAccessibleDescription(f"{drawing.title}: {drawing.subtitle}")
        self.update()

    def forget(self) -> None:
        """Another job: nothing is shown yet."""
        self.drawing, self.selected = None, ""
        self.cancel()
        self.camera.reset()
        self._picture.forget()
        self.update()

    def say_busy(self, words: str) -> None:
        """What is being worked out, beside the title."""
        self.busy = words
        self.update()

    def other_view(self) -> None:
        """The board from near, or the whole bed."""
        self.camera.other()
        self._looked_anew()

    def _looked_anew(self) -> None:
        self.update()
        self.resized.emit()

    def judged(self, key: str, by: tuple[float, float], bad: bool, words: str) -> None:
        """What is being dragged would come to lie there, and that is what would be said of it."""
        if self._grab is not None and self._grab[0] == key:
            self._verdict = (key, *by, bad, words)
            self.update()

    @property
    def dragging(self) -> bool:
        """Whether something is in the hand."""
        return self._grab is not None or self.handles.now is not None

    @property
    def painting(self) -> bool:
        """Whether its picture is still painted."""
        return self._picture.painting

    @property
    def verdict(self) -> Verdict | None:
        """What was last said of what is dragged."""
        return self._verdict if self._grab is not None else None

    def room(self) -> QRectF:
        """Where the drawing goes."""
        left, top = (LEFT, TOP) if self.drawing is None or self.drawing.rulers else (10, 34)
        return QRectF(left, top, max(self.width() - left - RIGHT, 10), max(self.height() - top - BOTTOM, 10))

    def view(self) -> View | None:
        """mm to px now; heights stand under the bed with the same X."""
        if self.drawing is None:
            return None
        room = self.room()
        if self.drawing.true:
            return self.camera.view(self.drawing, room, False)
        view = self.camera.view(self.drawing, room, self.stretch)
        align = self.partner.view() if self.partner is not None else None
        if align is not None and not self.stretch and not self.camera.moved:  # at the scale of what it stands under
            return View(
                align.scale_x, align.scale_x, align.left, room.bottom() + self.drawing.extents[1] * align.scale_x
            )
        if align is not None and self.stretch and self.drawing.tall and not self.camera.moved:
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
            say(p, self.rect(), self.theme, self.busy or "Nothing to show yet.")
            return
        wanted = PictureKey(
            self._number, self.theme, self._grab[0] if self._grab else "", view, (self.width(), self.height()),
            self.devicePixelRatioF(), self.unit,
        )  # fmt: skip
        shown = self._picture.shown(wanted, self.drawing, self.room())
        if shown is not None:
            pixmap, old = shown
            p.save()
            if old != view:  # until it is painted anew: the one before, brought to where it belongs
                p.setClipRect(self.room())
                sx, sy = view.scale_x / old.scale_x, view.scale_y / old.scale_y
                p.translate(view.left - old.left * sx, view.bottom - old.bottom * sy)
                p.scale(sx, sy)
            p.drawPixmap(0, 0, pixmap)
            p.restore()
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        self._over(p, view)
        tall, said = tall_words(self.drawing, view, self.stretch), self.handles.words(self.unit)
        paint_title(p, self.drawing, self.theme, self.width(), tall, self.busy, said, self.verdict)

    def _over(self, p: QPainter, view: View) -> None:
        assert self.drawing is not None
        if self._grab is not None:
            in_hand(p, self.drawing, view, self.theme, self._grab[0], self._offset, self._verdict)
        elif self.handles.now is not None:
            p.save()
            p.setTransform(self.handles.moved(view), True)
            in_hand(p, self.drawing, view, self.theme, self.handles.now.key, (0.0, 0.0), None)
            p.restore()
        elif self.typing is not None:
            self.typing.paint(p, view)
        elif self.selected in self.drawing.frames:
            self.handles.paint(p, view, self.drawing.frames[self.selected], self.theme)
        elif self.selected and self.hasFocus():
            p.setPen(QPen(QColor(THEMES[self.theme]["accent"]), 2, Qt.PenStyle.DashLine))
            p.setBrush(Qt.BrushStyle.NoBrush)
            p.drawRoundedRect(bounds_of(self.drawing, view, self.selected).adjusted(-5, -5, 5, 5), 4, 4)
        if self._line is not None:
            p.setPen(QPen(QColor(THEMES[self.theme]["ink"]), 1.4, Qt.PenStyle.DotLine))
            p.drawLine(*self._line)

    # -- handling -----------------------------------------------------------------------------------------

    def keys(self) -> list[str]:
        """Things that can be taken hold of, in drawing order."""
        shapes: tuple[Shape, ...] = self.drawing.shapes if self.drawing is not None else ()
        return list(dict.fromkeys(s.key for s in shapes if s.key and not s.key.startswith(("op:", "blank"))))

    def key_at(self, point: QPointF) -> str:
        """What can be taken hold of there."""
        view = self.view()
        if self.drawing is None or view is None:
            return ""
        shape = hit(self.drawing, view, point, placed=self._picture.placed)
        return shape.key if shape is not None and not shape.key.startswith("op:") else ""

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        """Larger or smaller, at the pointer."""
        if event is None or self.drawing is None or self._grab is not None:
            return
        notches = event.angleDelta().y() / 120.0
        if notches and not (self.stretch and self.drawing.rulers is False):
            where = self.partner if self.partner is not None and not self.camera.moved else self
            at = event.position()
            if where is not self and where.drawing is not None:  # heights zoom with the bed they stand under
                at = QPointF(at.x(), where.room().center().y())
            if where.drawing is not None:
                where.camera.zoom(NOTCH**notches, at, where.drawing, where.room(), where.stretch)
                where._looked_anew()
        event.accept()
        self._looked_anew()

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        """Take hold of what is under the mouse, or begin a line across; with Shift or the middle button, move what is seen."""
        if event is None or self.drawing is None:
            return
        shift = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
        if event.button() == Qt.MouseButton.MiddleButton or (event.button() == Qt.MouseButton.LeftButton and shift):
            self._pan = event.position()
            self.setCursor(Qt.CursorShape.ClosedHandCursor)
            return
        if event.button() != Qt.MouseButton.LeftButton:
            return
        if self.only_seen:
            seen = self.view()
            if seen is not None:
                self.clicked.emit("", *seen.to_mm(event.position()))
            return
        if self.typing is not None and self.typing.click(event, self.view()):
            return
        view, frame = self.view(), self.drawing.frames.get(self.selected)
        handle = self.handles.under(frame, view, event.position()) if view is not None else ""
        key = self.key_at(event.position())
        if handle and frame is not None and view is not None:
            self.handles.take(self.selected, handle, frame, view.to_mm(event.position()))
        elif key:
            self.selected = key
            self._grab = (key, event.position())
            self._verdict = None
            self.picked.emit(key)
        else:
            self.selected = ""
            if not self.stretch:
                self._line = (event.position(), event.position())
        self.update()

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        """Drag along."""
        view = self.view()
        if event is None or view is None or self.drawing is None:
            return
        if self._pan is not None:
            seen = self.partner if self.partner is not None and not self.camera.moved else self
            by = event.position() - self._pan
            self._pan = event.position()
            if seen.drawing is not None:
                seen.camera.pan(
                    QPointF(by.x(), by.y() if seen is self else 0.0), seen.drawing, seen.room(), seen.stretch
                )
                seen._looked_anew()
            self._looked_anew()
        elif self.handles.now is not None:
            free = bool(event.modifiers() & Qt.KeyboardModifier.ControlModifier)
            self.handles.drag(view.to_mm(event.position()), free)
            self.update()
        elif self._grab is not None:
            a, b = view.to_mm(self._grab[1]), view.to_mm(event.position())
            self._offset = (b[0] - a[0], b[1] - a[1])
            self.moved.emit(self._grab[0], *self._offset, False)
            self.update()
        elif self._line is not None:
            self._line = (self._line[0], event.position())
            if (event.position() - self._line[0]).manhattanLength() > SLIP:
                self.lined.emit(*view.to_mm(self._line[0]), *view.to_mm(self._line[1]))
            self.update()
        elif not self.only_seen:
            key = self.key_at(event.position())
            handle = self.handles.under(self.drawing.frames.get(self.selected), view, event.position())
            can = bool(key or handle) and not key.startswith("blank")
            self.setCursor(Qt.CursorShape.OpenHandCursor if can else Qt.CursorShape.ArrowCursor)

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        """Let go."""
        view = self.view()
        if self._pan is not None:
            self._pan = None
            self.setCursor(Qt.CursorShape.ArrowCursor)
            return
        if self.handles.now is not None:
            done = self.handles.let_go()
            if done is not None:
                self.handled.emit(done)
        elif self._grab is not None:
            key, offset, start = self._grab[0], self._offset, self._grab[1]
            self._grab, self._verdict = None, None
            self._offset = (0.0, 0.0)
            slipped = event is None or (event.position() - start).manhattanLength() > SLIP
            if slipped and (abs(offset[0]) > 1e-9 or abs(offset[1]) > 1e-9):
                self.moved.emit(key, *offset, True)
            elif view is not None:
                self.clicked.emit(key, *view.to_mm(start))
        elif self._line is not None and view is not None and (self._line[1] - self._line[0]).manhattanLength() <= SLIP:
            self.clicked.emit("", *view.to_mm(self._line[0]))
        self._line = None
        self.update()

    def contextMenuEvent(self, event: QContextMenuEvent | None) -> None:
        """What can be done with that thing, or there."""
        view = self.view()
        if event is None or view is None or self._grab is not None or self.only_seen:
            return
        at = QPointF(event.pos())
        if event.reason() == QContextMenuEvent.Reason.Keyboard and self.selected and self.drawing is not None:
            at = bounds_of(self.drawing, view, self.selected).center()
            key = self.selected
        else:
            key = self.key_at(at)
        self.selected = key
        self.update()
        self.menu_wanted.emit(key, *view.to_mm(at), self.mapToGlobal(at.toPoint()))

    def cancel(self) -> bool:
        """Leave a gesture without a trace; gives whether there was one."""
        was = self._grab is not None or self._line is not None or self.handles.now is not None
        self.handles.let_go()
        self._grab, self._line, self._verdict = None, None, None
        self._offset = (0.0, 0.0)
        self.update()
        return was

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """What is typed goes into the words that are typed on the wood; else as canvas_keys has it."""
        if event is None or (self.typing is not None and self.typing.key(event)):
            return
        if not pressed(self, event):
            super().keyPressEvent(event)

    def mouseDoubleClickEvent(self, event: QMouseEvent | None) -> None:
        """Words are typed where they are clicked twice."""
        view = self.view()
        if (
            event is not None
            and view is not None
            and event.button() == Qt.MouseButton.LeftButton
            and not self.only_seen
        ):
            self.cancel()
            self.typing_wanted.emit(self.key_at(event.position()), *view.to_mm(event.position()))

    def focusOutEvent(self, event: QFocusEvent | None) -> None:
        """Words are typed no longer."""
        if self.typing is not None:
            self.typing.end()
        super().focusOutEvent(event)
