# SPDX-License-Identifier: GPL-3.0-or-later
"""A test piece and its opening, measured: how wide the slot between really is."""

from __future__ import annotations

from PyQt6.QtCore import QRectF, pyqtSignal
from PyQt6.QtGui import QColor, QPainter, QPaintEvent
from PyQt6.QtWidgets import QFormLayout, QLineEdit, QWidget

from gatepost.core.errors import OperatorError
from gatepost.core.job.register import slot_between
from gatepost.core.units import LengthError, mm, parse_length, spell
from gatepost.desk.dialogs.card import CardDialog, button_of, card, words_of
from gatepost.desk.theme.style import font
from gatepost.desk.theme.table import THEMES
from gatepost.desk.view.paint import Brush, fitted
from gatepost.drawing.measured_piece import measured_piece

SAME = 0.005  # mm
NOTE = (
    "Break the piece out of its tabs and brush both clean. Measure both across the same way, in the middle of the sides and half way down: "
    "fuzz stands at the face, tabs at the bottom, and corners are round."
)


class WhereMeasured(QWidget):
    """The piece in its opening. slot: as wide as its cutter, mm."""

    def __init__(self, slot: float, theme: str) -> None:
        super().__init__()
        self._drawing, self._theme = measured_piece(slot), theme
        self.setMinimumHeight(230)
        self.setAccessibleName("Where piece and opening are measured")

    def paintEvent(self, event: QPaintEvent | None) -> None:  # noqa: N802 - the toolkit's name
        """Paint it."""
        p = QPainter(self)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        p.fillRect(self.rect(), QColor(THEMES[self._theme]["canvas"]))
        room = QRectF(self.rect()).adjusted(8, 8, -8, -8)
        Brush(p, fitted(self._drawing, room), self._theme).draw(self._drawing, room)


class SlotDialog(CardDialog):
    """used: an opening and its piece, mm."""

    used = pyqtSignal(float, float)

    def __init__(self, parent: QWidget, cutter: float, unit: str, theme: str) -> None:
        super().__init__(parent, "How wide is the slot?", 720, 640)
        self.cutter, self.unit = cutter, unit
        box, column = card("A test piece, and the opening it came out of", NOTE)
        column.addWidget(WhereMeasured(cutter, theme))
        form = QFormLayout()
        self.fields: list[QLineEdit] = []
        for words in ("Opening", "Piece"):
            field = QLineEdit()
            field.setFont(font(16))
            field.setAccessibleName(words)
            field.textChanged.connect(self.work_out)
            self.fields.append(field)
            form.addRow(words, field)
        column.addLayout(form)
        self.words = words_of("", 18, True)
        column.addWidget(self.words)
        self.column.addWidget(box)
        self.column.addStretch(1)
        self.use = button_of("It is so wide", self._use, True)
        self.buttons(button_of("Close", self.reject), self.use)
        self.work_out()

    def work_out(self) -> None:
        """The slot, as it is typed."""
        self.use.setEnabled(False)
        try:
            slot = slot_between(*(parse_length(f.text(), self.unit) for f in self.fields))
        except LengthError:
            self.words.setText("Type both.")
            return
        except OperatorError as error:
            self.words.setText(spell(str(error), self.unit))
            return
        wider = slot - self.cutter
        than = (
            f"{mm(abs(wider), 2)} {'wider' if wider > 0 else 'narrower'} than" if abs(wider) >= SAME else "as wide as"
        )
        self.words.setText(spell(f"The slot is {mm(slot, 2)} wide, {than} its cutter.", self.unit))
        self.use.setEnabled(True)

    def _use(self) -> None:
        opening, piece = (parse_length(f.text(), self.unit) for f in self.fields)
        self.used.emit(opening, piece)
        self.accept()
