# SPDX-License-Identifier: GPL-3.0-or-later
"""The import check of a drawing: how large it is taken to be and why, what of it is open, crosses or is not taken, before it is used."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QColor, QImage, QPainter, QPainterPath, QPaintEvent, QPen, QPolygonF
from PyQt6.QtWidgets import (
    QButtonGroup,
    QCheckBox,
    QHBoxLayout,
    QLineEdit,
    QRadioButton,
    QScrollArea,
    QSlider,
    QVBoxLayout,
    QWidget,
)

from gatepost.artwork import DEEP, MOST_SIDE
from gatepost.core.units import LengthError, parse_length, show_length
from gatepost.desk.dialogs.card import CardDialog, button_of, card, words_of
from gatepost.desk.theme.style import font
from gatepost.desk.theme.table import THEMES

AT_ONCE = 6  # layers; of more, some are scrolled to
ROOM = 14  # px about what is shown
DEEPEST = 200.0  # mm


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
        if hasattr(self._found, "levels"):
            self._heights(painter)
            return
        half = self.width() / 2 if self._face[0] > 0 else self.width()
        x0, y0, x1, y1 = self._found.art.box
        self._drawn(painter, QRectF(0, 0, half, self.height()), (x1 - x0, y1 - y0), marks=True)
        if self._face[0] > 0:
            around = (max(x1 - x0, self._face[0]), max(y1 - y0, self._face[1]))
            self._drawn(painter, QRectF(half, 0, half, self.height()), around, marks=False)

    def _heights(self, painter: QPainter) -> None:
        """What is to be carved, light as it is high, on its face."""
        values, levels = self._found.values, np.asarray(self._found.levels)
        grey = (levels >> 8).astype(np.uint8)
        if values["white"] > values["black"]:
            grey = 255 - grey
        rgba = np.dstack([grey, grey, grey, np.where(levels > 0, 255, 0).astype(np.uint8)])
        image = QImage(
            rgba.tobytes(), levels.shape[1], levels.shape[0], 4 * levels.shape[1], QImage.Format.Format_RGBA8888
        )
        wide, high = max(values["width"], self._face[0]), max(values["height"], self._face[1])
        scale = min((self.width() - 2 * ROOM) / max(wide, 1e-3), (self.height() - 2 * ROOM) / max(high, 1e-3))
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        board, there = (
            QRectF(0, 0, w * scale, h * scale) for w, h in (self._face, (values["width"], values["height"]))
        )
        for box in (board, there):
            box.moveCenter(QRectF(self.rect()).center())
        painter.setPen(QPen(QColor(self.colours["wood-edge"]), 1.5))
        painter.setBrush(QColor(self.colours["wood"]))
        painter.drawRect(board)
        painter.drawImage(there, image)

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
    """unit_wanted: it is to be read in another unit; layers_wanted: with other layers of it; trace_wanted: a picture is to be traced to a width, mm, at a threshold, the lighter side of it or the
    darker; heights_wanted: it is to be carved so wide, with black and white so deep, mm, nothing for a width of its own; used: it is taken."""

    unit_wanted = pyqtSignal(str)
    layers_wanted = pyqtSignal(list)
    trace_wanted = pyqtSignal(float, float, bool)
    heights_wanted = pyqtSignal(float, object, float)
    used = pyqtSignal(object)

    def __init__(
        self, parent: QWidget, name: str, unit: str, theme: str, way: str = "", width: float = 0.0, mesh: bool = False
    ) -> None:
        """way: “trace” or “heights” for a picture or a mesh, nothing for a drawing."""
        super().__init__(
            parent,
            "Bring a drawing in" if not way else "Bring a picture in" if not mesh else "Bring a mesh in",
            720,
            720,
        )
        self._unit, self._found, self._mesh = unit, None, mesh
        self._later = QTimer(self)
        self._later.setSingleShot(True)
        self._later.setInterval(160)
        self._later.timeout.connect(self._ask)
        self._asked = self._then_used = False  # whether it is being read anew, and is taken as soon as that has come
        self._wide = width
        self.picture = ArtPicture(theme)
        self.column.addWidget(self.picture)
        self._sizes, self._size_column = card("How large is it?")
        self.column.addWidget(self._sizes)
        self.layers: list[QCheckBox] = []
        self._layer_card, self._layer_column = card("Which layers of it?")
        self._layer_card.hide()
        self.column.addWidget(self._layer_card)
        if way:
            self.column.addWidget(self._picture_ways(way))
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

    def _picture_ways(self, way: str) -> QWidget:
        """What is made of a picture, and how."""
        box, column = card("What is made of it?")
        self.traces, self.carves = (
            QRadioButton("Outlines: trace where it is darker than a threshold"),
            QRadioButton("A relief: light is high, dark is deep"),
        )
        for choice in (self.traces, self.carves):
            choice.setFont(font(15))
            choice.setVisible(not self._mesh)
            column.addWidget(choice)
        (self.carves if way == "heights" else self.traces).setChecked(True)
        self.threshold = QSlider(Qt.Orientation.Horizontal)
        self.threshold.setRange(2, 98)
        self.threshold.setValue(50)
        self.threshold.valueChanged.connect(lambda _: self._later.start())
        self.light = QCheckBox("take what is lighter")
        self.light.setFont(font(15))
        self.light.toggled.connect(lambda _: self._later.start())
        self.width_field = QLineEdit(show_length(self._wide, self._unit) if self._wide else "")
        self.black_field = QLineEdit(show_length(DEEP, self._unit) if not self._mesh else "")
        self.white_field = QLineEdit(show_length(0.0, self._unit))
        for field in (self.width_field, self.black_field, self.white_field):
            field.textEdited.connect(self._changed)
        self._deep_typed = not self._mesh  # a mesh is as deep as its width makes it until somebody says otherwise
        self.black_field.textEdited.connect(self._deepened)
        deep = ("Deepest, ", "Highest, ") if self._mesh else ("Black lies deep, ", "White lies deep, ")
        self._rows = [
            self._row(column, "Width, " + self._unit, self.width_field),
            self._row(column, "Threshold, per cent", self.threshold),
            self._row(column, deep[0] + self._unit, self.black_field),
            self._row(column, deep[1] + self._unit, self.white_field),
        ]
        column.addWidget(self.light)
        self.carves.toggled.connect(self._turned_to)
        self._shown_for(way == "heights")
        return box

    def _row(self, column: QVBoxLayout, words: str, field: QWidget) -> tuple[QWidget, QWidget]:
        field.setAccessibleName(words)
        label = words_of(words)
        row = QHBoxLayout()
        row.addWidget(label, 1)
        row.addWidget(field, 3)
        column.addLayout(row)
        return label, field

    def _shown_for(self, carved: bool) -> None:
        for number, row in enumerate(self._rows):
            for widget in row:
                widget.setVisible(number == 0 or carved == (number > 1))
        self.light.setVisible(not carved)

    def _changed(self) -> None:
        self._later.start()
        self.use.setEnabled(True)  # what is typed now is read before it is taken

    def _deepened(self, words: str) -> None:
        self._deep_typed = bool(words.strip()) or not self._mesh

    def _turned_to(self, carved: bool) -> None:
        self._shown_for(carved)
        self._later.start()

    def _ask(self) -> None:
        """Read anew as it is entered now; what can't be read is said, and what was found before is not taken."""
        self._later.stop()
        self._asked = True
        try:
            width, black, white = (
                parse_length(f.text(), self._unit) if f.text().strip() else None
                for f in (self.width_field, self.black_field, self.white_field)
            )
        except LengthError as error:
            self.refused(str(error))
            return
        if width is not None and not 1.0 <= width <= MOST_SIDE or width is None and not self._mesh:
            self.refused(f"The width lies between {self._length(1.0)} and {self._length(MOST_SIDE)}.")
            return
        if not self.carves.isChecked():
            self.trace_wanted.emit(width or 0.0, self.threshold.value() / 100.0, self.light.isChecked())
            return
        if not all(0.0 <= d <= DEEPEST for d in (black or 0.0, white or 0.0)):
            self.refused(f"A relief lies between the face and {self._length(DEEPEST)} under it.")
            return
        deep = (DEEP if black is None else black) if self._deep_typed else None
        self.heights_wanted.emit(width or 0.0, deep, white or 0.0)

    def show_found(self, found: Any, face: tuple[float, float]) -> None:
        """What was read, at the size that is believed now."""
        self._found = found
        self._asked = self._later.isActive()
        self.use.setEnabled(True)
        self.picture.show_found(found, face)
        self._told(found, face)
        if self._then_used and not self._asked:
            self._use()

    def _told(self, found: Any, face: tuple[float, float]) -> None:
        if hasattr(found, "levels"):
            self._heights_found(found, face)
            return
        art = found.art
        size = " × ".join(self._length(v) for v in (found.values["wide"], found.values["high"]))
        share = 100.0 * max(found.values["wide"] / face[0], found.values["high"] / face[1]) if min(face) > 0 else 0.0
        board = f" That is {share:.0f} % of the face." if share else ""
        self._size_words.setText(f"{size}: {art.why}.{board}")
        for old in self._choices.buttons():
            self._choices.removeButton(old)
            self._size_column.removeWidget(old)
            old.deleteLater()
        if len(art.layers) > 1 and not self.layers:
            self._layered(art.layers, art.taken)
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

    def _layered(self, names: Sequence[str], taken: Sequence[str]) -> None:
        """A box for each layer, ticked where it is taken; those that would not fit are scrolled to."""
        inside = QWidget()
        column = QVBoxLayout(inside)
        column.setContentsMargins(0, 0, 0, 0)
        for name in names:
            box = QCheckBox(name)
            box.setFont(font(15))
            box.setChecked(name in taken)
            box.toggled.connect(self._layers_ticked)
            column.addWidget(box)
            self.layers.append(box)
        if len(names) <= AT_ONCE:
            self._layer_column.addWidget(inside)
        else:
            area = QScrollArea()
            area.setWidget(inside)
            area.setWidgetResizable(True)
            area.setFixedHeight(150)
            self._layer_column.addWidget(area)
        self._layer_card.show()

    def _layers_ticked(self) -> None:
        chosen = [box.text() for box in self.layers if box.isChecked()]
        if not chosen:
            self.refused("No layer is chosen: nothing of it would be taken.")
            return
        self._asked = True
        self.layers_wanted.emit(chosen)

    def _heights_found(self, found: Any, face: tuple[float, float]) -> None:
        v = found.values
        if not self.width_field.text().strip():
            self.width_field.setText(show_length(v["width"], self._unit))
        if not self._deep_typed:
            self.black_field.setText(show_length(v["black"], self._unit))
        share = (
            f" That is {100.0 * max(v['width'] / face[0], v['height'] / face[1]):.0f} % of the face."
            if min(face) > 0
            else ""
        )
        deep = self._length(abs(v["black"] - v["white"]))
        self._size_words.setText(
            f"{self._length(v['width'])} × {self._length(v['height'])}, {deep} from the deepest to the highest.{share}"
        )
        self.said.setText("\n".join(f"{words[:1].upper()}{words[1:]}." for words in found.said))

    def refused(self, words: str) -> None:
        """It can't be read like that: said where the rest is said, and what was found before is not taken."""
        self._found = None
        self._asked = self._then_used = False
        self.use.setEnabled(False)
        self.said.setText(words)

    def _length(self, value: float) -> str:
        return show_length(value, self._unit, 1 if self._unit == "mm" else 3) + (" mm" if self._unit == "mm" else " in")

    def _use(self) -> None:
        """Taken, as it is entered now: what was typed last is read first."""
        if self._later.isActive():
            self._then_used = True
            self._ask()
            return
        if self._asked:
            self._then_used = True
            return
        if self._found is not None:
            self.used.emit(self._found)
        self.accept()
