# SPDX-License-Identifier: GPL-3.0-or-later
"""A test piece and its opening, measured: how wide the slot between really is."""

from __future__ import annotations

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QWidget

from gatepost.core.errors import OperatorError
from gatepost.core.job.register import slot_between
from gatepost.core.units import LengthError, mm, parse_length, spell
from gatepost.desk.dialogs.card import CardDialog, button_of, card, figures_of, words_of
from gatepost.desk.dialogs.drawing_box import DrawingBox
from gatepost.drawing.measured_piece import measured_piece

SAME = 0.005  # mm
NOTE = (
    "Break the piece out of its tabs and brush both clean. Measure both across the same way, in the middle of the sides and half way down: "
    "fuzz stands at the face, tabs at the bottom, and corners are round."
)


class SlotDialog(CardDialog):
    """used: an opening and its piece, mm."""

    used = pyqtSignal(float, float)

    def __init__(self, parent: QWidget, cutter: float, unit: str, theme: str) -> None:
        super().__init__(parent, "How wide is the slot?", 720, 640)
        self.cutter, self.unit = cutter, unit
        box, column = card("A test piece, and the opening it came out of", NOTE)
        where = DrawingBox(theme, "Where piece and opening are measured")
        where.show_drawing(measured_piece(cutter))
        column.addWidget(where)
        form, self.fields = figures_of(("Opening", "Piece"), lambda: self.work_out())
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
