# SPDX-License-Identifier: GPL-3.0-or-later
"""The import check of a drawing: how large it is taken to be and why, what of it is open, crosses or is not taken, before it is used."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QColor, QPainter, QPainterPath, QPaintEvent, QPen, QPolygonF
from PyQt6.QtWidgets import QButtonGroup, QCheckBox, QHBoxLayout, QLineEdit, QRadioButton, QSlider, QWidget

from gatepost.artwork import MOST_SIDE
from gatepost.core.units import LengthError, parse_length, show_length
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
        """Paint it from near, and on its face beside that."""
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), QColor(self.colours["canvas"]))
        if self._found is None:
            return
        half = self.width() / 2 if self._face[0] > 0 else self.width()
        x0, y0, x1, y1 = self._found.art.box
        self._drawn(painter, QRectF(0, 0, half, self.height()), (x1 - x0, y1 - y0), marks=True)
        if self._face[0] > 0:
            around = (max(x1 - x0, self._face[0]), max(y1 - y0, self._face[1]))
            self._drawn(painter, QRectF(half, 0, half, self.height()), around, marks=False)

    def _drawn(self, painter: QPainter, room: QRectF, size: tuple[float, float], marks: bool) -> None:
        """The drawing in a part of the picture. size: mm that are to be seen there; marks: whether what is wrong is ringed, else the face
        lies under it."""
        scale = min((room.width() - 2 * ROOM) / max(size[0], 1e-3), (room.height() - 2 * ROOM) / max(size[1], 1e-3))
        x0, y0, x1, y1 = self._found.art.box
        cx, cy, middle = (x0 + x1) / 2, (y0 + y1) / 2, room.center()

        def at(x: float, y: float) -> QPointF:
            return QPointF(middle.x() + (x - cx) * scale, middle.y() - (y - cy) * scale)

        if not marks:
            board = QRectF(0, 0, self._face[0] * scale, self._face[1] * scale)
            board.moveCenter(middle)
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
        if marks:
            self._marked(painter, at)

    def _marked(self, painter: QPainter, at: Callable[[float, float], QPointF]) -> None:
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(QColor(self.colours["stop"]), 2.0))
        for line in self._found.art.lines:
            painter.drawPolyline(QPolygonF([at(x, y) for x, y in line.points.tolist()]))
            for x, y in (line.points[0], line.points[-1]):
                painter.drawEllipse(at(float(x), float(y)), 6, 6)
        painter.setPen(QPen(QColor(self.colours["care"]), 1.6))
        for place in self._found.art.crossing:
            painter.drawEllipse(at(place.x, place.y), 7, 7)


class ArtDialog(CardDialog):
    """unit_wanted: it is to be read in another unit; trace_wanted: a picture is to be traced to a width, mm, at a threshold, the lighter side of it or the
    darker; used: it is taken."""

    unit_wanted = pyqtSignal(str)
    trace_wanted = pyqtSignal(float, float, bool)
    used = pyqtSignal(object)

    def __init__(
        self, parent: QWidget, name: str, unit: str, theme: str, traced: bool = False, width: float = 0.0
    ) -> None:
        super().__init__(parent, "Bring a drawing in", 720, 700)
        self._unit, self._found = unit, None
        self._wide = width
        self.picture = ArtPicture(theme)
        self.column.addWidget(self.picture)
        self._sizes, self._size_column = card("How large is it?")
        self.column.addWidget(self._sizes)
        if traced:
            self.column.addWidget(self._tracing())
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

    def _tracing(self) -> QWidget:
        """How a picture is traced."""
        self._later = QTimer(self)
        self._later.setSingleShot(True)
        self._later.setInterval(160)
        self._later.timeout.connect(self._trace)
        box, column = card("Trace it", "What is darker than the threshold is taken, or what is lighter.")
        self.threshold = QSlider(Qt.Orientation.Horizontal)
        self.threshold.setRange(2, 98)
        self.threshold.setValue(50)
        self.threshold.setAccessibleName("Threshold, per cent")
        self.light = QCheckBox("take what is lighter")
        self.light.setFont(font(15))
        self.width_field = QLineEdit(show_length(self._wide, self._unit))
        self.width_field.setAccessibleName("Width")
        self.threshold.valueChanged.connect(lambda _: self._later.start())
        self.light.toggled.connect(lambda _: self._later.start())
        self.width_field.editingFinished.connect(self._later.start)
        for words, field in (("Threshold", self.threshold), ("Width, " + self._unit, self.width_field)):
            row = QHBoxLayout()
            row.addWidget(words_of(words), 1)
            row.addWidget(field, 3)
            column.addLayout(row)
        column.addWidget(self.light)
        return box

    def _trace(self) -> None:
        try:
            width = parse_length(self.width_field.text(), self._unit)
        except LengthError as error:
            self.said.setText(str(error))
            return
        if not 1.0 <= width <= MOST_SIDE:
            self.said.setText("The width lies between 1 and 9000 mm.")
            return
        self.trace_wanted.emit(width, self.threshold.value() / 100.0, self.light.isChecked())

    def show_found(self, found: Any, face: tuple[float, float]) -> None:
        """What was read, at the size that is believed now."""
        self._found = found
        self.use.setEnabled(True)
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
        likely = [s for s in art.sizes if max(s[1:]) <= MOST_SIDE]
        for unit, wide, high in likely if len(likely) > 1 else ():
            choice = QRadioButton(f"{self._length(wide)} × {self._length(high)}, if its unit is {unit}")
            choice.setFont(font(15))
            choice.setChecked(unit == art.unit)
            choice.clicked.connect(lambda _=False, u=unit: self.unit_wanted.emit(u))
            self._choices.addButton(choice)
            self._size_column.addWidget(choice)
        rest = [s for s in found.said[1:] if not s.startswith("It may also be")]
        self.said.setText("\n".join(rest) or "Every line is closed, none crosses another, and all of it is taken.")

    def refused(self, words: str) -> None:
        """It can't be read like that: said where the rest is said, and what was found before is not taken."""
        self._found = None
        self.use.setEnabled(False)
        self.said.setText(words)

    def _length(self, value: float) -> str:
        return show_length(value, self._unit, 1 if self._unit == "mm" else 3) + (" mm" if self._unit == "mm" else " in")

    def _use(self) -> None:
        if self._found is not None:
            self.used.emit(self._found)
        self.accept()
