# SPDX-License-Identifier: GPL-3.0-or-later
"""Two touches on an edge: how far the board lies turned."""

from __future__ import annotations

from typing import Any

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QComboBox, QFormLayout, QLineEdit, QWidget

from gatepost.core.errors import OperatorError
from gatepost.core.units import LengthError, edit_length, parse_length, show_length
from gatepost.desk.dialogs.card import CardDialog, button_of, card, words_of
from gatepost.desk.theme.style import font


class SquareDialog(CardDialog):
    """Two touches along an edge: how far it lies turned, how far to push, or the programs turned instead."""

    turn_wanted = pyqtSignal(float)

    def __init__(self, parent: QWidget, length: float, width: float, unit: str) -> None:
        super().__init__(parent, "Is it square?", 660, 560)
        self.sizes, self.unit = {"y": length, "x": width}, unit
        box, column = card(
            "Two touches on one edge",
            "At two places with the same pin, from the same side: type what the control shows.",
        )
        form = QFormLayout()
        self.edge = QComboBox()
        self.edge.addItem("front or back edge, touched in Y", "y")
        self.edge.addItem("left or right edge, touched in X", "x")
        self.edge.setAccessibleName("Which edge")
        form.addRow("Edge", self.edge)
        self.fields: dict[str, QLineEdit] = {}
        for key, words in (
            ("first", "First contact"),
            ("second", "Second contact"),
            ("apart", "Between the two places"),
            ("far", "First place to the end you push"),
        ):
            field = QLineEdit()
            field.setFont(font(16))
            field.setAccessibleName(words)
            field.textChanged.connect(self.work_out)
            self.fields[key] = field
            form.addRow(words, field)
        self.edge.currentIndexChanged.connect(self._edge)
        column.addLayout(form)
        self.column.addWidget(box)
        said, below = card("How it lies")
        self.words, self.sum = words_of("", 18, True), words_of("", 14)
        below.addWidget(self.words)
        below.addWidget(self.sum)
        self.column.addWidget(said)
        self.column.addStretch(1)
        self.turn = button_of("Turn the programs instead", self._turn)
        self.turn.setEnabled(False)
        self.buttons(self.turn, button_of("Close", self.reject))
        self.found: Any = None
        self._edge()

    def _edge(self) -> None:
        long = self.sizes[self.edge.currentData()]
        self.fields["apart"].setText(edit_length(round(0.8 * long, 1), self.unit))
        self.fields["far"].setText(edit_length(round(0.9 * long, 1), self.unit))
        self.work_out()

    def work_out(self) -> None:
        """The angle and the push, as it is typed."""
        from gatepost.core.zero.ways import skew

        self.found = None
        self.turn.setEnabled(False)
        self.sum.setText("")
        try:
            v = {k: parse_length(f.text(), self.unit) for k, f in self.fields.items()}
        except LengthError:
            self.words.setText("Type both contacts.")
            return
        try:
            self.found = skew(self.edge.currentData(), v["first"], v["second"], v["apart"], v["far"])
        except OperatorError as error:
            self.words.setText(str(error))
            return
        degrees = self.found.degrees.result
        way = "against the clock" if degrees > 0 else "with the clock"
        push = show_length(self.found.push.result, self.unit, mark=True)
        square = abs(degrees) < 1e-4
        self.words.setText(
            "It lies square."
            if square
            else f"Turned by {abs(degrees):.3f}° {way}. Push its far end {push} {self.found.way}."
        )
        self.sum.setText(f"atan({v['second'] - v['first']:.3f} ÷ {v['apart']:.1f}) = {degrees:.3f}°".replace("-", "−"))
        self.turn.setEnabled(not square)

    def _turn(self) -> None:
        if self.found is not None:
            self.turn_wanted.emit(float(self.found.degrees.result))
            self.accept()
