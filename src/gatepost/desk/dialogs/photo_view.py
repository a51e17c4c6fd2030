# SPDX-License-Identifier: GPL-3.0-or-later
"""A photo with the marks that are set in it by hand, and a glass over the one in the hand."""

from __future__ import annotations

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QImage, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QPolygonF
from PyQt6.QtWidgets import QSizePolicy, QWidget

from gatepost.desk.theme.style import font

LENS = 4.0  # times that the glass enlarges
GLASS = 74  # px, half the glass
NEAR = 16.0  # px within which a mark is taken hold of
ARROWS = {Qt.Key.Key_Left: (-1, 0), Qt.Key.Key_Right: (1, 0), Qt.Key.Key_Up: (0, -1), Qt.Key.Key_Down: (0, 1)}


class PhotoView(QWidget):
    """The photo with its marks. A click sets the next one; each is dragged, or chosen with N and P and nudged."""

    changed = pyqtSignal()

    def __init__(self, image: QImage) -> None:
        super().__init__()
        self.image = image
        self.marks: list[tuple[float, float]] = []
        self.check: list[tuple[float, float]] = []
        self.wanted = 4
        self.checking = False
        self.edge: list[tuple[float, float]] = []
        self.by_hand = False
        self.unsure_at: tuple[float, float] | None = None
        self.outline: np.ndarray | None = None
        self.drawn: list[np.ndarray] = []  # laid over it
        self.names: tuple[str, ...] = ()  # of what is clicked by hand, where it is no edge
        self.chosen = -1
        self._held = False
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMinimumSize(560, 420)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setAccessibleName("Photo: click the marks one after another; N and P choose one, arrows nudge it")

    @property
    def places(self) -> list[tuple[float, float]]:
        """Marks of the scale, those of the check length, and corners of an edge that is clicked by hand."""
        return self.marks + self.check + self.edge

    def _fit(self) -> tuple[float, float, float]:
        scale = min(self.width() / self.image.width(), self.height() / self.image.height())
        return scale, (self.width() - scale * self.image.width()) / 2, (self.height() - scale * self.image.height()) / 2

    def _to_screen(self, place: tuple[float, float]) -> QPointF:
        scale, x, y = self._fit()
        return QPointF(x + (place[0] + 0.5) * scale, y + (place[1] + 0.5) * scale)

    def _to_photo(self, at: QPointF) -> tuple[float, float]:
        scale, x, y = self._fit()
        u, v = (at.x() - x) / scale - 0.5, (at.y() - y) / scale - 0.5
        return min(max(u, 0.0), self.image.width() - 1.0), min(max(v, 0.0), self.image.height() - 1.0)

    def put(self, index: int, place: tuple[float, float]) -> None:
        """Set a mark; what was traced before is void."""
        for which in (self.marks, self.check, self.edge):
            if index < len(which):
                which[index] = place
                break
            index -= len(which)
        self.outline = None
        self.changed.emit()
        self.update()

    def add(self, place: tuple[float, float]) -> None:
        """One more mark, where one is still wanted."""
        if len(self.marks) < self.wanted:
            self.marks.append(place)
        elif self.checking and len(self.check) < 2:
            self.check.append(place)
        elif self.by_hand and len(self.edge) < 400:
            self.edge.append(place)
        else:
            return
        self.chosen = len(self.marks) - 1 if not self.check and not self.edge else len(self.places) - 1
        self.outline = None
        self.changed.emit()
        self.update()

    def take(self, marks: int, checking: bool) -> None:
        """How many marks are wanted, and whether a check length is."""
        self.wanted, self.checking = marks, checking
        self.marks = self.marks[:marks]
        self.check = self.check if checking else []
        self.chosen = min(self.chosen, len(self.places) - 1)
        self.outline = None
        self.update()

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        """Take hold of a mark, or set the next."""
        if event is None or event.button() != Qt.MouseButton.LeftButton:
            return
        at = event.position()
        far = [(self._to_screen(p) - at).manhattanLength() for p in self.places]
        if far and min(far) < NEAR:
            self.chosen = int(np.argmin(far))
        else:
            self.add(self._to_photo(at))
        self._held = True
        self.update()

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        """Drag the mark that is held."""
        if event is not None and self._held and 0 <= self.chosen < len(self.places):
            self.put(self.chosen, self._to_photo(event.position()))

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        """Let go."""
        self._held = False
        self.update()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """N and P choose, arrows nudge by a px, with Shift by ten, Delete takes the last mark away."""
        if event is None:
            return
        key = Qt.Key(event.key())
        if key in (Qt.Key.Key_N, Qt.Key.Key_P) and self.places:
            self.chosen = (self.chosen + (1 if key == Qt.Key.Key_N else -1)) % len(self.places)
        elif key in ARROWS and 0 <= self.chosen < len(self.places):
            size = 10 if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else 1
            u, v = self.places[self.chosen]
            self.put(self.chosen, (u + size * ARROWS[key][0], v + size * ARROWS[key][1]))
        elif key in (Qt.Key.Key_Delete, Qt.Key.Key_Backspace) and self.places:
            (self.edge or self.check or self.marks).pop()
            self.chosen = min(self.chosen, len(self.places) - 1)
            self.outline = None
            self.changed.emit()
        else:
            super().keyPressEvent(event)
            return
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        """Photo, outline, marks, and a glass over the one in the hand."""
        p = QPainter(self)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        p.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        scale, x, y = self._fit()
        p.drawImage(QRectF(x, y, scale * self.image.width(), scale * self.image.height()), self.image)
        if self.outline is not None:
            path = QPolygonF([self._to_screen((u, v)) for u, v in self.outline.tolist()])
            for colour, width in (("#10131a", 4.0), ("#ffd84a", 2.0)):
                p.setPen(QPen(QColor(colour), width))
                p.drawPolygon(path)
        for line in self.drawn if self.outline is not None else ():
            path = QPolygonF([self._to_screen((u, v)) for u, v in line.tolist()])
            for colour, width in (("#10131a", 3.0), ("#ffd84a", 1.5)):
                p.setPen(QPen(QColor(colour), width))
                p.drawPolyline(path)
        marks = [self._to_screen(m) for m in self.marks]
        p.setPen(QPen(QColor("#10131a"), 3.0, Qt.PenStyle.DotLine))
        p.drawPolyline(QPolygonF([*marks, marks[0]] if len(marks) == 4 else marks))
        p.drawPolyline(QPolygonF([self._to_screen(m) for m in self.check]))
        if self.edge and self.outline is None and not self.names:
            p.setPen(QPen(QColor("#ffd84a"), 2.0))
            p.drawPolyline(QPolygonF([self._to_screen(m) for m in self.edge]))
        if self.unsure_at is not None and self.outline is not None:
            p.setPen(QPen(QColor("#ff5a3c"), 3.0))
            p.drawEllipse(self._to_screen(self.unsure_at), 22.0, 22.0)
        for i, place in enumerate(self.places):
            n = i - len(self.marks) - len(self.check)
            if n >= 0 and n < len(self.names):
                self._mark(p, self._to_screen(place), self.names[n], i == self.chosen)
                continue
            if n >= 0:
                p.setPen(QPen(QColor("#ffd84a"), 2.0))
                p.drawEllipse(self._to_screen(place), 4.0, 4.0)
                continue
            name = str(i + 1) if i < len(self.marks) else "AB"[i - len(self.marks)]
            self._mark(p, self._to_screen(place), name, i == self.chosen)
        if self._held and 0 <= self.chosen < len(self.places):
            self._glass(p, self.places[self.chosen])

    def _mark(self, p: QPainter, at: QPointF, name: str, chosen: bool) -> None:
        for colour, width in (("#10131a", 4.0), ("#ffffff", 1.8)):
            p.setPen(QPen(QColor(colour), width))
            for dx, dy in ((9, 0), (0, 9)):
                p.drawLine(at - QPointF(dx, dy), at + QPointF(dx, dy))
        p.setFont(font(14, True))
        box = QRectF(at.x() + 9, at.y() - 27, 22, 20)
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(QColor("#ffd84a" if chosen else "#ffffff"))
        p.drawRoundedRect(box, 4, 4)
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.setPen(QColor("#10131a"))
        p.drawText(box, Qt.AlignmentFlag.AlignCenter, name)

    def _glass(self, p: QPainter, place: tuple[float, float]) -> None:
        half = GLASS / LENS
        source = QRectF(place[0] + 0.5 - half, place[1] + 0.5 - half, 2 * half, 2 * half)
        left = self._to_screen(place).x() > self.width() / 2
        into = QRectF(12 if left else self.width() - 2 * GLASS - 12, 12, 2 * GLASS, 2 * GLASS)
        p.drawImage(into, self.image, source)
        p.setPen(QPen(QColor("#10131a"), 2))
        p.drawRect(into)
        p.setPen(QPen(QColor("#ffd84a"), 1))
        p.drawLine(into.center() - QPointF(GLASS, 0), into.center() + QPointF(GLASS, 0))
        p.drawLine(into.center() - QPointF(0, GLASS), into.center() + QPointF(0, GLASS))
