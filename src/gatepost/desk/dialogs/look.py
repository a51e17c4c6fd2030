# SPDX-License-Identifier: GPL-3.0-or-later
"""The sign as it will look: its light is dragged, its colours and finish are tried, and it is saved as a picture."""

from __future__ import annotations

import math
from dataclasses import replace
from typing import Any

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QColor, QImage, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QCheckBox, QComboBox, QGridLayout, QLabel, QSlider, QWidget

from gatepost.core.units import show_length
from gatepost.desk.dialogs.card import TitledDialog, button_of, words_of
from gatepost.desk.theme.style import font
from gatepost.desk.theme.table import THEMES
from gatepost.drawing.coats import COLOURS
from gatepost.drawing.look import SignLook

FIRST, WHOLE = 640, 1280  # pixels across, while the light is dragged and once it rests
STEP = 10  # degrees that an arrow key moves the light by
TRIED = (("Cut letters", "letters"), ("Sunk ground", "ground"), ("Raised faces", "raised"))


class SignView(QWidget):
    """Shows the picture; dragging over it moves the light, and so do the arrow keys. lit: where from, and how high, degrees; whether it rests."""

    lit = pyqtSignal(float, float, bool)

    def __init__(self, theme: str, unit: str) -> None:
        super().__init__()
        self.colours, self.unit = THEMES[theme], unit
        self.setMinimumSize(360, 200)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("The sign, its light moved by the arrow keys")
        self.setCursor(Qt.CursorShape.CrossCursor)
        self.image: QImage | None = None
        self.words = "working it out…"
        self.per_pixel = 0.0
        self.light, self.high = SignLook().light, SignLook().high

    def paintEvent(self, event: QPaintEvent | None) -> None:  # noqa: N802 - the toolkit's name
        """Paint it with its scale."""
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        painter.fillRect(self.rect(), QColor(self.colours["canvas"]))
        painter.setPen(QColor(self.colours["ink"]))
        painter.setFont(font(13))
        if self.image is None:
            painter.drawText(self.rect(), int(Qt.AlignmentFlag.AlignCenter), self.words)
            return
        room = QRectF(self.rect()).adjusted(18, 18, -18, -44)
        scale = min(room.width() / self.image.width(), room.height() / self.image.height())
        box = QRectF(0, 0, self.image.width() * scale, self.image.height() * scale)
        box.moveCenter(room.center())
        painter.drawImage(box, self.image)
        self._scale(painter, self.per_pixel / scale)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(QPen(QColor(self.colours["accent"]), 2))
        far = min(self.width(), self.height()) * 0.46 * math.cos(math.radians(self.high))
        a = math.radians(self.light)
        painter.drawEllipse(QPointF(self.width() / 2 + far * math.cos(a), self.height() / 2 - far * math.sin(a)), 6, 6)

    def _scale(self, painter: QPainter, mm: float) -> None:
        """A bar of a round length. mm: of a pixel on the screen."""
        if mm <= 0.0:
            return
        whole = 25.4 if self.unit == "inch" else 10.0
        wanted = next((n for n in (1, 2, 5, 10, 20, 50) if n * whole / mm >= 70), 100) * whole
        x, y = 18.0, self.height() - 16.0
        painter.setPen(QPen(QColor(self.colours["ink"]), 2))
        painter.drawLine(QPointF(x, y), QPointF(x + wanted / mm, y))
        for end in (x, x + wanted / mm):
            painter.drawLine(QPointF(end, y - 5), QPointF(end, y + 5))
        words = show_length(wanted, self.unit) + (" in" if self.unit == "inch" else " mm")
        painter.drawText(QPointF(x + wanted / mm + 8, y + 5), words)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:  # noqa: N802
        """The light goes where the pointer is."""
        self._drag(event, False)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:  # noqa: N802
        """And along with it."""
        self._drag(event, False)

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:  # noqa: N802
        """Where it is let go it rests."""
        self._drag(event, True)

    def _drag(self, event: QMouseEvent | None, rests: bool) -> None:
        if event is None:
            return
        dx, dy = event.position().x() - self.width() / 2, self.height() / 2 - event.position().y()
        share = min(1.0, math.hypot(dx, dy) / (0.46 * min(self.width(), self.height())))
        self._to(math.degrees(math.atan2(dy, dx)), math.degrees(math.acos(share)), rests)

    def _to(self, light: float, high: float, rests: bool) -> None:
        self.light, self.high = light % 360.0, min(80.0, max(12.0, high))
        self.update()
        self.lit.emit(self.light, self.high, rests)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:  # noqa: N802
        """Arrow keys: round, and higher or lower."""
        ways = {
            Qt.Key.Key_Left: (STEP, 0),
            Qt.Key.Key_Right: (-STEP, 0),
            Qt.Key.Key_Up: (0, 5),
            Qt.Key.Key_Down: (0, -5),
        }
        way = ways.get(Qt.Key(event.key())) if event is not None else None
        if way is not None:
            self._to(self.light + way[0], self.high + way[1], True)
        else:
            super().keyPressEvent(event)


class LookDialog(TitledDialog):
    """wanted: a picture of a look, so many pixels across, with shadows or without; save_wanted: the picture is to be saved."""

    wanted = pyqtSignal(object, int, bool)
    save_wanted = pyqtSignal(object)

    def __init__(self, parent: QWidget, theme: str, unit: str, look: SignLook = SignLook()) -> None:  # noqa: B008 - frozen
        super().__init__(parent, "The sign as it will look", 1120, 760)
        self.look = look
        self._waiting: tuple[int, bool] | None = None
        self._busy = False
        self.view = SignView(theme, unit)
        self.view.lit.connect(self._lit)
        self.body.addWidget(self.view, 1)
        row = QGridLayout()
        row.setHorizontalSpacing(14)
        tried = (*TRIED, ("Painted face", "face")) if look.face else TRIED
        for k, (words, name) in enumerate(tried):
            box = QComboBox()
            box.setFont(font(15))
            box.setAccessibleName(words)
            for colour in ("bare wood", *COLOURS):
                box.addItem(colour)
            box.setCurrentText(getattr(look, name) or "bare wood")
            box.currentTextChanged.connect(lambda v, n=name: self._try(**{n: "" if v == "bare wood" else v}))
            row.addWidget(words_of(words), 0, k)
            row.addWidget(box, 1, k)
        self.tilt = QSlider(Qt.Orientation.Horizontal)
        self.tilt.setRange(0, 65)
        self.tilt.setAccessibleName("Leaning away, degrees")
        self.tilt.valueChanged.connect(lambda v: self._try(tilt=float(v)))
        row.addWidget(words_of("Straight on … at an angle"), 0, len(tried))
        row.addWidget(self.tilt, 1, len(tried))
        oiled = QCheckBox("Oiled")
        oiled.setFont(font(15))
        oiled.toggled.connect(lambda on: self._try(oiled=on))
        row.addWidget(oiled, 1, len(tried) + 1)
        self.body.addLayout(row)
        note = QLabel(
            "Drag over the sign, or use the arrow keys, to move the light. The wood is as the plan leaves it; colours are as the screen shows them."
        )
        note.setObjectName("muted")
        note.setWordWrap(True)
        self.body.addWidget(note)
        self._rest = QTimer(self)
        self._rest.setSingleShot(True)
        self._rest.setInterval(140)
        self._rest.timeout.connect(self.begin)
        self.buttons(button_of("Save as a picture…", self._save), button_of("Close", self.accept, True))

    def begin(self) -> None:
        """Ask for the whole picture."""
        self._ask(WHOLE, True)

    def _lit(self, light: float, high: float, rests: bool) -> None:
        self.look = replace(self.look, light=light, high=high)
        self._ask(FIRST, False)
        if rests:
            self._rest.start()

    def _try(self, **values: Any) -> None:
        self.look = replace(self.look, **values)
        self._ask(FIRST, False)
        self._rest.start()

    def _ask(self, width: int, fine: bool) -> None:
        if self._busy:
            self._waiting = (width, fine)
            return
        self._busy = True
        self.wanted.emit(self.look, width, fine)

    def show_picture(self, pixels: Any, per_pixel: float) -> None:
        """A picture has come. per_pixel: mm."""
        rgba = np.ascontiguousarray(pixels)
        image = QImage(
            rgba.tobytes(), rgba.shape[1], rgba.shape[0], 4 * rgba.shape[1], QImage.Format.Format_RGBA8888
        ).copy()
        self.view.image, self.view.per_pixel = image, per_pixel
        self.view.update()
        self._next()

    def refused(self, words: str) -> None:
        """There is none."""
        self.view.image, self.view.words = None, words
        self.view.update()
        self._next()

    def _next(self) -> None:
        self._busy = False
        if self._waiting is not None:
            width, fine = self._waiting
            self._waiting = None
            self._ask(width, fine)

    def _save(self) -> None:
        if self.view.image is not None:
            self.save_wanted.emit(self.view.image)
