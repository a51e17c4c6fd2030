# SPDX-License-Identifier: GPL-3.0-or-later
"""The Z ledger at the machine: what comes next in words and machine figures, and what is written down."""

from __future__ import annotations

from typing import Any

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import (
    QComboBox,
    QDialog,
    QGridLayout,
    QHBoxLayout,
    QLineEdit,
    QPlainTextEdit,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from gatepost.core.errors import OperatorError
from gatepost.core.job.journal import Journal
from gatepost.core.plan.ledgers import Book, book_of, entered, taken_back
from gatepost.core.units import LengthError, edit_length, mm, parse_length, spell
from gatepost.desk.theme.style import font
from gatepost.desk.theme.words import Label
from gatepost.desk.view.canvas import Canvas
from gatepost.drawing.ledger import ledger_picture

PLACES = (("face", "the face, highest"), ("low spot", "the low spot"), ("bed", "the bed"))
CAUTION = "Spindle off and isolated while you touch. Lift clear before anything else moves."


class LedgerDialog(QDialog):
    """Asks; the window writes the journal."""

    grown = pyqtSignal(object)
    left_wanted = pyqtSignal()
    deeper_wanted = pyqtSignal(float)

    def __init__(self, parent: QWidget, plan: Any, journal: Journal, clock: Any, theme: str) -> None:
        super().__init__(parent)
        self.plan, self.journal, self.clock = plan, journal, clock
        self.unit = plan.job.unit
        self._asked: tuple[str, dict[str, float | str]] | None = None
        self.setWindowTitle("Z ledger")
        self.resize(1080, 700)
        column = QVBoxLayout(self)
        self.next, self.sum, self.question = Label(), Label(), Label()
        for label, size, bold in ((self.next, 24, True), (self.sum, 17, False), (self.question, 18, True)):
            label.setFont(font(size, bold))
            label.setWordWrap(True)
            column.addWidget(label)
        row = QHBoxLayout()
        column.addLayout(row, 1)
        self.picture = Canvas(theme, stretch=True)
        self.picture.setMinimumHeight(240)
        row.addWidget(self.picture, 3)
        self.lines = QPlainTextEdit()
        self.lines.setReadOnly(True)
        self.lines.setFont(font(14))
        self.lines.setTabChangesFocus(True)
        self.lines.setAccessibleName("What was written down")
        row.addWidget(self.lines, 2)
        column.addLayout(self._entries())
        caution = Label(CAUTION)
        caution.setFont(font(14))
        column.addWidget(caution)
        self._show()

    def _entries(self) -> QGridLayout:
        grid = QGridLayout()
        self.on = QComboBox()
        for key, words in PLACES:
            self.on.addItem(words, key)
        self.fields: dict[str, QLineEdit] = {}
        rows = (
            ("touch", "Touched", "at machine Z", self._touch), ("zero", "Z0 set", "at machine Z", self._zero),
            ("pass", "The program cuts", "below its Z0", self._pass), ("deeper", "Go deeper", "than planned, by", self._deeper),
        )  # fmt: skip
        for r, (key, words, label, act) in enumerate(rows):
            name = Label(words)
            name.setFont(font(17, True))
            grid.addWidget(name, r % 2, 4 * (r // 2))
            field = QLineEdit()
            field.setFont(font(17))
            field.setFixedWidth(130)
            field.setAccessibleName(f"{words} {label}")
            field.returnPressed.connect(act)
            self.fields[key] = field
            tag = Label(label)
            tag.setFont(font(15))
            grid.addWidget(tag, r % 2, 4 * (r // 2) + 1, Qt.AlignmentFlag.AlignRight)
            grid.addWidget(field, r % 2, 4 * (r // 2) + 2)
            button = QPushButton({"deeper": "Plan it", "pass": "It has run"}.get(key, "Write down"))
            button.setMinimumHeight(36)
            button.setAutoDefault(False)
            button.clicked.connect(act)
            grid.addWidget(button, r % 2, 4 * (r // 2) + 3)
        grid.addWidget(self.on, 2, 0, 1, 2)
        self.gauge = QLineEdit(edit_length(0.0, self.unit))
        self.gauge.setFixedWidth(130)
        self.gauge.setAccessibleName("Plate or paper thickness")
        grid.addWidget(self.gauge, 2, 2)
        grid.addWidget(Label("plate or paper"), 2, 3)
        row = QHBoxLayout()
        self.again = QPushButton("Keep it anyway")
        self.changed_key, self.undo_key, self.left_key, close = (
            QPushButton("The bit was changed"),
            QPushButton("Take back the last"),
            QPushButton("Program for what is left…"),
            QPushButton("Close"),
        )
        for key in (self.again, self.changed_key, self.undo_key, self.left_key, close):
            key.setMinimumHeight(36)
            key.setAutoDefault(False)
            row.addWidget(key)
        grid.addLayout(row, 2, 4, 1, 4)
        self.again.clicked.connect(self._again)
        self.undo_key.clicked.connect(self._back)
        self.changed_key.clicked.connect(lambda: self._enter("fitted", {}))
        self.fields["pass"].editingFinished.connect(self._show)
        self.left_key.clicked.connect(self.left_wanted.emit)
        close.clicked.connect(self.reject)
        return grid

    def refresh(self, plan: Any, journal: Journal) -> None:
        """Another plan, or more in the journal."""
        self.plan, self.journal = plan, journal
        self._show()

    def _book(self) -> Book:
        return book_of(self.plan, self.journal)

    def _show(self) -> None:
        book = self._book()
        plane = None
        try:
            depth = self._depth(book)
            move = book.next(depth)
            words, plane = move.sentence, book.ledger.height(move.machine) - depth
        except OperatorError as error:
            words = str(error)
        self.next.setText(spell(words, self.unit))
        now = book.ledger
        left = f"{mm(now.left, 2)} above its lowest spot" if now.left > 0.005 else "clean all over"
        self.sum.setText(
            spell(
                f"The face stands at {mm(now.plane, 2)} above the bed, {left}; {mm(book.taken, 2)} has come off it in all. A pass may take {mm(book.limit, 2)}.",
                self.unit,
            )
        )
        self.lines.setPlainText(
            "\n".join(
                spell(f"{n}  {li.words}: face {mm(li.plane, 2)}, {mm(li.left, 2)} left{' (questioned)' if li.questioned else ''}", self.unit)
                for n, li in enumerate(book.lines, start=1)
            )
            or "Nothing written down yet."
        )  # fmt: skip
        if not self.fields["pass"].text():
            self.fields["pass"].setText(edit_length(book.depth, self.unit))
        self.picture.show_drawing(ledger_picture(book, plane, self.unit), self.unit)
        self.question.setVisible(bool(self.question.text()))
        self.again.setEnabled(self._asked is not None)
        self.undo_key.setEnabled(any(e.kind.startswith("ledger") for e in self.journal.standing()))

    def _depth(self, book: Book) -> float:
        """How deep the program cuts below its zero: as typed, where that is a length."""
        try:
            typed = parse_length(self.fields["pass"].text(), self.unit)
        except LengthError:
            return book.depth
        return typed if typed > 0.0 else book.depth

    def _typed(self, key: str) -> float | None:
        try:
            return parse_length(self.fields[key].text(), self.unit)
        except LengthError as error:
            self._say(str(error))
            self.fields[key].setFocus()
            return None

    def _say(self, words: str) -> None:
        self.question.setText(spell(words, self.unit))
        self.question.setVisible(bool(words))

    def _touch(self) -> None:
        machine = self._typed("touch")
        if machine is None:
            return
        try:
            gauge = parse_length(self.gauge.text(), self.unit)
        except LengthError as error:
            self._say(str(error))
            return
        self._enter("ledger touched", {"machine": machine, "on": self.on.currentData(), "gauge": gauge})

    def _zero(self) -> None:
        machine = self._typed("zero")
        if machine is not None:
            self._enter("ledger zero", {"machine": machine})

    def _pass(self) -> None:
        depth = self._typed("pass")
        if depth is not None:
            self._enter("ledger pass", {"depth": depth})

    def _deeper(self) -> None:
        by = self._typed("deeper")
        if by is not None and by > 0:
            self.deeper_wanted.emit(by)
        elif by is not None:
            self._say("Deeper wants a length over 0.")

    def _enter(self, kind: str, data: dict[str, float | str], questioned: bool = False) -> None:
        try:
            grown, asked = entered(self.plan, self.journal, self.clock(), kind, questioned, **data)
        except OperatorError as error:
            self._say(str(error))
            return
        self._asked = (kind, data) if asked else None
        self._say(asked)
        if not asked:
            self.journal = grown
            self.grown.emit(grown)
        self._show()

    def _again(self) -> None:
        if self._asked is not None:
            kind, data = self._asked
            self._enter(kind, data, questioned=True)

    def _back(self) -> None:
        try:
            self.journal = taken_back(self.plan, self.journal, self.clock())
        except OperatorError as error:
            self._say(str(error))
            return
        self._asked = None
        self._say("")
        self.grown.emit(self.journal)
        self._show()
