# SPDX-License-Identifier: GPL-3.0-or-later
"""A drawing's picture, painted in slices so that the window answers meanwhile, and kept until something changes."""

from __future__ import annotations

from dataclasses import dataclass

from PyQt6.QtCore import QElapsedTimer, QObject, QRectF, QSize, QTimer, pyqtSignal
from PyQt6.QtGui import QColor, QPainter, QPixmap

from gatepost.desk.view.labels import in_order
from gatepost.desk.view.paint import Brush, View
from gatepost.drawing.shapes import Drawing, Shape

SLICE = 8  # ms of painting at a time


@dataclass(frozen=True)
class PictureKey:
    """What a picture is of. number: the drawing's; grabbed: the key of what is in the hand, which is painted over it instead."""

    number: int
    theme: str
    grabbed: str
    view: View
    size: tuple[int, int]
    ratio: float
    unit: str


@dataclass
class _Work:
    wanted: PictureKey
    pixmap: QPixmap
    drawing: Drawing
    room: QRectF
    order: list[Shape]
    placed: dict[int, QRectF | None] | None = None  # where the words go
    next: int = 0  # the shape to paint next


class SlicedPicture(QObject):
    """ready: a picture is whole. both: rulers along the left too."""

    ready = pyqtSignal()

    def __init__(self, parent: QObject, both: bool) -> None:
        super().__init__(parent)
        self._both = both
        self._kept: tuple[PictureKey, QPixmap] | None = None
        self._work: _Work | None = None
        self.placed: dict[int, QRectF | None] = {}  # where the words of the picture that is kept went
        self._of: Drawing | None = None  # which it is of
        self._soon = QTimer(self)
        self._soon.setSingleShot(True)
        self._soon.timeout.connect(self._go_on)

    @property
    def painting(self) -> bool:
        """Whether a picture is still being painted."""
        return self._work is not None

    def drop(self) -> None:
        """What is being painted is not wanted any more."""
        self._work = None

    def forget(self) -> None:
        """Nor what was painted before."""
        self._kept = self._work = None

    def shown(self, wanted: PictureKey, drawing: Drawing, room: QRectF) -> tuple[QPixmap, View] | None:
        """The picture, or the one before and how it was looked at, until it is whole; nothing where there is none that is as large."""
        if self._kept is not None and self._kept[0] == wanted:
            return self._kept[1], wanted.view
        if self._work is None or self._work.wanted != wanted:
            pixmap = QPixmap(QSize(*wanted.size) * wanted.ratio)
            pixmap.setDevicePixelRatio(wanted.ratio)
            pixmap.fill(QColor(0, 0, 0, 0))
            self._work = _Work(wanted, pixmap, drawing, room, in_order(drawing))
            self._soon.start(0)
        if self._kept is None or (self._kept[0].size, self._kept[0].ratio) != (wanted.size, wanted.ratio):
            return None
        return self._kept[1], self._kept[0].view

    def _go_on(self) -> None:
        """Paint on for a while; the rest when the window has answered what came meanwhile."""
        work = self._work
        if work is None:
            return
        clock = QElapsedTimer()
        clock.start()
        p = QPainter(work.pixmap)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        brush = Brush(p, work.wanted.view, work.wanted.theme)
        drawing = work.drawing
        if work.placed is None:
            work.placed = brush.place(drawing, work.room if drawing.rulers else QRectF(0, 0, *work.wanted.size))
        brush.placed = work.placed
        whole_widget = QRectF(0, 0, *work.wanted.size)
        p.setClipRect(work.room.adjusted(-1, -1, 1, 1) if drawing.rulers else whole_widget)
        while work.next < len(work.order) and clock.elapsed() < SLICE:
            shape = work.order[work.next]
            work.next += 1
            if not work.wanted.grabbed or shape.key != work.wanted.grabbed:
                brush.shape(shape)
        whole = work.next >= len(work.order)
        if whole and drawing.rulers:
            p.setClipping(False)
            brush.rulers(work.room, work.wanted.unit, both=self._both)
        p.end()
        if whole:
            self._kept, self._work = (work.wanted, work.pixmap), None
            self.placed, self._of = work.placed, drawing
            self.ready.emit()
        else:
            self._soon.start(0)
