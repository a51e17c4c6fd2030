# SPDX-License-Identifier: GPL-3.0-or-later
"""The shop's lists: woods with what is known of them here, and offcuts on the shelf."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import (
    QComboBox,
    QFormLayout,
    QHBoxLayout,
    QLineEdit,
    QListWidget,
    QPushButton,
    QWidget,
)

from gatepost.core.errors import OperatorError
from gatepost.core.units import mm, spell
from gatepost.desk.dialogs.card import TitledDialog, card, words_of
from gatepost.desk.theme.style import font
from gatepost.desk.theme.words import Label

KINDS = ("soft", "medium", "hard")
RULE = "Starting value, shop rule, not measured here."


class WoodDialog(TitledDialog):
    """Woods: the shipped starting values, and this shop's own figures and experience beside them."""

    chosen = pyqtSignal(dict)

    def __init__(self, parent: QWidget, book: Any, clock: Callable[[], str], now: str) -> None:
        super().__init__(parent, "Woods", 860, 600)
        self.book, self.clock = book, clock
        row = QHBoxLayout()
        row.setSpacing(16)
        self.body.addLayout(row, 1)
        self.list = QListWidget()
        self.list.setFont(font(15))
        self.list.setAccessibleName("Woods")
        row.addWidget(self.list, 2)
        box, side = card("What is known of it")
        row.addWidget(box, 3)
        form = QFormLayout()
        self.name, self.density, self.note = QLineEdit(), QLineEdit(), QLineEdit()
        self.kind = QComboBox()
        self.kind.addItems(KINDS)
        for label, field in (
            ("Wood", self.name),
            ("How hard to cut", self.kind),
            ("Density, kg/m³", self.density),
            ("Burns, fuzzes, chips, good feeds", self.note),
        ):
            field.setAccessibleName(label)
            form.addRow(label, field)
        side.addLayout(form)
        self.source, self.said, self.wrong = Label(), Label(), Label()
        for told in (self.source, self.said, self.wrong):
            told.setWordWrap(True)
            told.setFont(font(14))
            side.addWidget(told)
        side.addStretch(1)
        self.use, self.keep = QPushButton("Use it for this job"), QPushButton("Keep as this shop's own")
        close = QPushButton("Close")
        for key in (self.use, self.keep, close):
            key.setAutoDefault(False)
        self.use.setObjectName("first")
        self.buttons(self.keep, close, self.use)
        self.use.clicked.connect(self._use)
        self.keep.clicked.connect(self._keep)
        close.clicked.connect(self.reject)
        self.list.currentRowChanged.connect(self._show)
        self.fill(now)

    def fill(self, name: str) -> None:
        """Read the list again, and choose one."""
        self.woods = self.book.woods()
        self.list.clear()
        self.list.addItems([w.name + (" · own" if w.own else "") for w in self.woods])
        names = [w.name for w in self.woods]
        self.list.setCurrentRow(names.index(name) if name in names else 0)

    def _show(self, row: int) -> None:
        if not 0 <= row < len(self.woods):
            return
        w = self.woods[row]
        self.name.setText(w.name)
        self.kind.setCurrentText(w.kind)
        self.density.setText(f"{w.density:.0f}")
        self.note.setText(w.note)
        self.source.setText("This shop's own figures." if w.own else RULE)
        self.said.setText(
            "\n".join(["From the log:", *w.said[:6]])
            if w.said
            else "Nothing in the log yet: remarks on shop runs come here."
        )
        self.wrong.setText("")

    def _typed(self) -> dict[str, Any] | None:
        try:
            density = float(self.density.text().replace(",", "."))
        except ValueError:
            self.wrong.setText("The density wants a number, in kg/m³.")
            return None
        return {"name": self.name.text().strip(), "kind": self.kind.currentText(), "density": density}

    def _use(self) -> None:
        values = self._typed()
        if values is not None:
            self.chosen.emit({**values, "taken": self.clock()[:10]})
            self.accept()

    def _keep(self) -> None:
        values = self._typed()
        if values is None:
            return
        try:
            self.book.set_wood(values["name"], values["kind"], values["density"], self.note.text(), self.clock())
        except OperatorError as error:
            self.wrong.setText(str(error))
            return
        self.fill(values["name"])


class OffcutDialog(TitledDialog):
    """Offcuts on the shelf; those that would do for this blank first."""

    taken = pyqtSignal(object)

    def __init__(self, parent: QWidget, offcuts: list[Any], good: list[Any], unit: str) -> None:
        super().__init__(parent, "Offcuts on the shelf", 680, 460)
        self.offcuts = [*good, *(o for o in offcuts if o not in good)]
        count = len(good)
        words = f"{count} of {len(offcuts)} offcuts hold this blank." if offcuts else "No offcut is on the shelf yet."
        self.body.addWidget(words_of(words))
        self.list = QListWidget()
        self.list.setFont(font(15))
        self.list.setAccessibleName("Offcuts")
        for i, o in enumerate(self.offcuts):
            size = f"{mm(o.length)} × {mm(o.width)} × {mm(o.thickness)}"
            self.list.addItem(
                spell(f"{'would do · ' if i < count else ''}{o.name} · {o.wood} · {size} · from {o.job}", unit)
            )
        self.list.setCurrentRow(0)
        self.body.addWidget(self.list, 1)
        self.list.setVisible(bool(self.offcuts))
        self.take, close = QPushButton("Take it as rough stock"), QPushButton("Close")
        for key in (self.take, close):
            key.setAutoDefault(False)
        self.take.setObjectName("first")
        self.buttons(close, self.take)
        self.take.setEnabled(bool(self.offcuts))
        if not self.offcuts:
            self.body.addStretch(1)
        self.take.clicked.connect(self._take)
        close.clicked.connect(self.reject)

    def _take(self) -> None:
        row = self.list.currentRow()
        if 0 <= row < len(self.offcuts):
            self.taken.emit(self.offcuts[row])
            self.accept()
