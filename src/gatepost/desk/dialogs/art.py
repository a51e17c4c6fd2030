# SPDX-License-Identifier: GPL-3.0-or-later
"""The import check of a drawing: how large it is taken to be and why, what of it is open, crosses or is not taken, before it is used."""

from __future__ import annotations

from typing import Any

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QPainter, QPainterPath, QPaintEvent, QPen, QPolygonF
from PyQt6.QtWidgets import QButtonGroup, QRadioButton, QWidget

from gatepost.core.units import show_length
from gatepost.desk.dialogs.card import CardDialog, button_of, card, words_of
from gatepost.desk.theme.style import font
from gatepost.desk.theme.table import THEMES

ROOM = 14  # px about what is shown


class ArtPicture(QWidget):
    """A drawing on its face, filled; loose ends and crossings ringed."""

    def __init__(self, theme: str) -> None:
        super().__init__()
        self.colours = THEMES[theme]
        self.setMinimumHeight(220)
        self._found: Any = None
        self._face = (0.0, 0.0)

    def show_found(self, found: Any, face: tuple[float, float]) -> None:
        """Another drawing. face: length and width of the face that it comes to stand on, mm."""
        self._found, self._face = found, face
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:  # noqa: N802 - the toolkit's name
        """Paint it."""
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), QColor(self.colours["canvas"]))
        if self._found is None:
            return
        x0, y0, x1, y1 = self._found.art.box
        long, wide = max(x1 - x0, self._face[0], 1e-3), max(y1 - y0, self._face[1], 1e-3)
        scale = min((self.width() - 2 * ROOM) / long, (self.height() - 2 * ROOM) / wide)
        cx, cy = (x0 + x1) / 2, (y0 + y1) / 2

        def at(x: float, y: float) -> QPointF:
            return QPointF(self.width() / 2 + (x - cx) * scale, self.height() / 2 - (y - cy) * scale)

        if self._face[0] > 0:
            size = (self._face[0] * scale, self._face[1] * scale)
            board = QRectF(self.width() / 2 - size[0] / 2, self.height() / 2 - size[1] / 2, *size)
            painter.setPen(QPen(QColor(self.colours["wood-edge"]), 1.5))
            painter.setBrush(QColor(self.colours["wood"]))
            painter.drawRect(board)
        path = QPainterPath()
        path.setFillRule(Qt.FillRule.OddEvenFill)
        for polygon in self._found.art.area.geoms:
            for ring in (polygon.exterior, *polygon.interiors):
                path.addPolygon(QPolygonF([at(x, y) for x, y in np.asarray(ring.coords)[:, :2].tolist()]))
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QColor(self.colours["carved"]))
        painter.drawPath(path)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(QColor(self.colours["stop"]), 2.0))
        for line in self._found.art.lines:
            painter.drawPolyline(QPolygonF([at(x, y) for x, y in line.points.tolist()]))
            for x, y in (line.points[0], line.points[-1]):
                painter.drawEllipse(at(float(x), float(y)), 6, 6)
        for place in self._found.art.crossing:
            painter.drawEllipse(at(place.x, place.y), 8, 8)


class ArtDialog(CardDialog):
    """unit_wanted: it is to be read in another unit; used: it is taken."""

    unit_wanted = pyqtSignal(str)
    used = pyqtSignal(object)

    def __init__(self, parent: QWidget, name: str, unit: str) -> None:
        super().__init__(parent, "Bring a drawing in", 720, 700)
        self._unit, self._found = unit, None
        self.picture = ArtPicture(getattr(parent, "theme", "light"))
        self.column.addWidget(self.picture)
        self._sizes, self._size_column = card("How large is it?")
        self.column.addWidget(self._sizes)
        found, self._found_column = card("What was found")
        self.said = words_of("")
        self._found_column.addWidget(self.said)
        self.column.addWidget(found)
        self.column.addStretch(1)
        self._choices = QButtonGroup(self)
        self._size_words = words_of(name)
        self._size_column.addWidget(self._size_words)
        self.use = button_of("Use it", self._use, True)
        self.use.setDefault(True)
        self.buttons(button_of("Go back", self.reject), self.use)

    def show_found(self, found: Any, face: tuple[float, float]) -> None:
        """What was read, at the size that is believed now."""
        self._found = found
        self.picture.show_found(found, face)
        art = found.art
        size = " × ".join(self._length(v) for v in (found.values["wide"], found.values["high"]))
        share = 100.0 * max(found.values["wide"] / face[0], found.values["high"] / face[1]) if min(face) > 0 else 0.0
        board = f" That is {share:.0f} % of the face." if share else ""
        self._size_words.setText(f"{size}: {art.why}.{board}")
        for old in self._choices.buttons():
            self._choices.removeButton(old)
            self._size_column.removeWidget(old)
            old.deleteLater()
        for unit, wide, high in art.sizes if len(art.sizes) > 1 else ():
            choice = QRadioButton(f"{self._length(wide)} × {self._length(high)}, if its unit is {unit}")
            choice.setFont(font(15))
            choice.setChecked(unit == art.unit)
            choice.clicked.connect(lambda _=False, u=unit: self.unit_wanted.emit(u))
            self._choices.addButton(choice)
            self._size_column.addWidget(choice)
        rest = [s for s in found.said[1:] if not s.startswith("It may also be")]
        self.said.setText("\n".join(rest) or "Every line is closed, none crosses another, and all of it is taken.")

    def _length(self, value: float) -> str:
        return show_length(value, self._unit, 1 if self._unit == "mm" else 3) + (" mm" if self._unit == "mm" else " in")

    def _use(self) -> None:
        if self._found is not None:
            self.used.emit(self._found)
        self.accept()
