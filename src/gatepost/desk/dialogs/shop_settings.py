# SPDX-License-Identifier: GPL-3.0-or-later
"""The shop's own settings: which machine it has, and the unit that figures are shown in. Asked once, and always here."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import (
    QButtonGroup,
    QFormLayout,
    QHBoxLayout,
    QLineEdit,
    QPushButton,
    QRadioButton,
    QWidget,
)

from gatepost.core.errors import OperatorError
from gatepost.core.job.machine import Machine
from gatepost.core.units import LengthError, edit_length, parse_length
from gatepost.desk.dialogs.card import CardDialog, card
from gatepost.desk.theme.words import Label

LENGTHS = (
    ("travel_x", "Bed and travel in X"), ("travel_y", "Bed and travel in Y"), ("travel_z", "Travel in Z"),
    ("nose_at_home", "Spindle nose above the bed, at home"),
)  # fmt: skip
RATES = (("rpm_min", "Slowest spindle speed, rpm"), ("rpm_max", "Fastest spindle speed, rpm"))


class ShopSettings(CardDialog):
    """kept: the machine's figures, none for the shipped one, and the unit. shipped: whether that one was chosen before."""

    kept = pyqtSignal(dict, str)

    def __init__(
        self, parent: QWidget, machine: Machine, unit: str, first: bool = False, shipped: bool = False
    ) -> None:
        super().__init__(parent, "Shop settings")
        self._machine, self.unit = machine, unit
        if first:
            hello = Label("Two questions, once. All of it stands under Shop settings afterwards.")
            hello.setWordWrap(True)
            self.column.addWidget(hello)
        self.column.addWidget(self._units())
        self.column.addWidget(self._machines(own=not (first or shipped)))
        self.wrong = self.wrong_line()
        self.column.addStretch(1)
        keep, leave = QPushButton("Keep"), QPushButton("Not now" if first else "Leave as it was")
        keep.setObjectName("first")
        keep.setDefault(True)
        keep.clicked.connect(self._keep)
        leave.clicked.connect(self.reject)
        self.buttons(leave, keep)
        self._show()

    def _units(self) -> QWidget:
        box, column = card("Figures are shown in")
        row = QHBoxLayout()
        self.mm, self.inch = QRadioButton("millimetres"), QRadioButton("inches")
        (self.inch if self.unit == "inch" else self.mm).setChecked(True)
        group = QButtonGroup(self)
        for button in (self.mm, self.inch):
            group.addButton(button)
            row.addWidget(button)
        self.inch.toggled.connect(lambda on: self._other_unit("inch" if on else "mm"))
        row.addStretch(1)
        column.addLayout(row)
        return box

    def _machines(self, own: bool) -> QWidget:
        box, column = card("The machine")
        self.shipped = QRadioButton("The simulated one that comes with Gatepost, to try things on")
        self.own = QRadioButton("Our own")
        group = QButtonGroup(self)
        for button in (self.shipped, self.own):
            group.addButton(button)
            column.addWidget(button)
        self.form = QWidget()
        form = QFormLayout(self.form)
        form.setContentsMargins(24, 4, 0, 0)
        self.name = QLineEdit(self._machine.name)
        self.name.setAccessibleName("Its name")
        form.addRow("Its name", self.name)
        self.fields: dict[str, QLineEdit] = {}
        for field, words in (*LENGTHS, *RATES):
            self.fields[field] = QLineEdit()
            self.fields[field].setAccessibleName(words)
            form.addRow(words, self.fields[field])
        self.slots = QLineEdit()
        self.slots.setAccessibleName("T-slots, at Y")
        form.addRow("T-slots, at Y, with spaces between", self.slots)
        column.addWidget(self.form)
        (self.own if own else self.shipped).setChecked(True)
        self.form.setVisible(own)
        self.own.toggled.connect(self.form.setVisible)
        return box

    def _show(self) -> None:
        """The machine's figures in the unit that is chosen."""
        for field, _ in LENGTHS:
            self.fields[field].setText(edit_length(getattr(self._machine, field), self.unit))
        for field, _ in RATES:
            self.fields[field].setText(f"{getattr(self._machine, field):g}")
        self.slots.setText(" ".join(edit_length(y, self.unit) for y in self._machine.slots))

    def _other_unit(self, unit: str) -> None:
        if unit == self.unit:
            return
        old, self.unit = self.unit, unit
        for line in (*(self.fields[f] for f, _ in LENGTHS), self.slots):
            try:
                line.setText(" ".join(edit_length(parse_length(word, old), unit) for word in line.text().split()))
            except LengthError:  # what can't be read stays as it was typed
                continue

    def _typed(self) -> dict[str, Any] | None:
        """The figures as typed; nothing, and a sentence, where one can't be read."""
        values: dict[str, Any] = {"name": self.name.text().strip() or self._machine.name}

        def length(text: str) -> float:
            return parse_length(text, self.unit)

        def rate(text: str) -> float:
            return float(text.replace(" ", "").replace(",", "."))

        def all_slots(text: str) -> tuple[float, ...]:
            return tuple(parse_length(word, self.unit) for word in text.split())

        rows: list[tuple[str, str, QLineEdit, Callable[[str], Any]]] = [
            *((f, w, self.fields[f], length) for f, w in LENGTHS), *((f, w, self.fields[f], rate) for f, w in RATES),
            ("slots", "T-slots", self.slots, all_slots),
        ]  # fmt: skip
        for field, words, line, read in rows:
            try:
                values[field] = read(line.text())
            except (LengthError, ValueError):
                self.wrong.setText(f"“{line.text()}” can't be read: {words.partition(',')[0]}.")
                line.setFocus()
                return None
        return values

    def _keep(self) -> None:
        if self.shipped.isChecked():
            self.kept.emit({}, self.unit)
            self.accept()
            return
        values = self._typed()
        if values is None:
            return
        try:
            machine = Machine.model_validate({**self._machine.model_dump(mode="json"), **values})
        except (OperatorError, ValueError):
            self.wrong.setText("One of these figures can't be: a length is larger than 0, and the slowest speed too.")
            return
        self.kept.emit(machine.model_dump(mode="json", exclude={"bed"}), self.unit)
        self.accept()
