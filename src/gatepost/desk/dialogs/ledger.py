# SPDX-License-Identifier: GPL-3.0-or-later
"""The Z ledger at the machine: what comes next in words and machine figures, and what is written down."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import (
    QComboBox,
    QHBoxLayout,
    QLineEdit,
    QPlainTextEdit,
    QWidget,
)

from gatepost.core.errors import OperatorError
from gatepost.core.job.journal import Journal
from gatepost.core.plan.ledgers import Book, book_of, entered, taken_back
from gatepost.core.units import LengthError, edit_length, mm, parse_length, spell
from gatepost.desk.dialogs.card import CardDialog, button_of, card, words_of
from gatepost.desk.theme.style import font
from gatepost.desk.theme.words import Label
from gatepost.desk.view.canvas import Canvas
from gatepost.drawing.ledger import ledger_picture

PLACES = (("face", "the face, highest"), ("low spot", "the low spot"), ("bed", "the bed"))
CAUTION = "Spindle off and isolated while you touch. Lift clear before anything else moves."


class LedgerDialog(CardDialog):
    """Asks; the window writes the journal."""

    grown = pyqtSignal(object)
    left_wanted = pyqtSignal()
    deeper_wanted = pyqtSignal(float)

    def __init__(self, parent: QWidget, plan: Any, journal: Journal, clock: Any, theme: str) -> None:
        super().__init__(parent, "Z ledger", 1080, 740)
        self.plan, self.journal, self.clock = plan, journal, clock
        self.unit = plan.job.unit
        self._asked: tuple[str, dict[str, float | str]] | None = None
        head, column = card("Next")
        self.next, self.sum, self.question = words_of("", 22, True), words_of("", 16), words_of("", 18, True)
        for label in (self.next, self.sum, self.question):
            column.addWidget(label)
        self.column.addWidget(head)
        self.column.addLayout(self._entries())
        row = QHBoxLayout()
        self.picture = Canvas(theme, stretch=True)
        self.picture.setMinimumHeight(190)
        self.picture.only_seen = True
        row.addWidget(self.picture, 3)
        self.lines = QPlainTextEdit()
        self.lines.setReadOnly(True)
        self.lines.setFont(font(14))
        self.lines.setTabChangesFocus(True)
        self.lines.setAccessibleName("What was written down")
        row.addWidget(self.lines, 2)
        self.column.addLayout(row, 1)
        self.column.addWidget(words_of(CAUTION, 14))
        self._keys()
        self._show()

    def _entries(self) -> QHBoxLayout:
        """Three cards in the order of the act: touched, zero set, pass cut."""
        self.fields: dict[str, QLineEdit] = {}
        self.on = QComboBox()
        self.on.setAccessibleName("Touched on")
        for key, words in PLACES:
            self.on.addItem(words, key)
        self.gauge = QLineEdit(edit_length(0.0, self.unit))
        self.gauge.setAccessibleName("Plate or paper thickness")
        touched, column = card("1  Touched")
        column.addWidget(self.on)
        column.addLayout(self._line("touch", "at machine Z", self._touch, "Write down"))
        between = QHBoxLayout()
        between.addWidget(Label("over a plate or paper of"))
        between.addWidget(self.gauge)
        column.addLayout(between)
        column.addStretch(1)
        zero, column = card("2  Z0 set")
        column.addLayout(self._line("zero", "at machine Z", self._zero, "Write down"))
        self.changed_key = button_of("The bit was changed", lambda: self._enter("fitted", {}))
        column.addWidget(self.changed_key)
        column.addStretch(1)
        cut, column = card("3  Pass cut")
        column.addLayout(self._line("pass", "below its Z0", self._pass, "It has run"))
        column.addLayout(self._line("deeper", "deeper by", self._deeper, "Plan it"))
        column.addStretch(1)
        self.fields["pass"].editingFinished.connect(self._show)
        row = QHBoxLayout()
        row.setSpacing(12)
        for box in (touched, zero, cut):
            row.addWidget(box, 1)
        return row

    def _line(self, key: str, label: str, act: Callable[[], None], verb: str) -> QHBoxLayout:
        row = QHBoxLayout()
        field = QLineEdit()
        field.setFont(font(17))
        field.setAccessibleName(f"{label}, {key}")
        field.returnPressed.connect(act)
        self.fields[key] = field
        row.addWidget(Label(label))
        row.addWidget(field, 1)
        row.addWidget(button_of(verb, act))
        return row

    def _keys(self) -> None:
        self.again = button_of("Keep it anyway", self._again)
        self.undo_key = button_of("Take back the last", self._back)
        self.left_key = button_of("Program for what is left…", self.left_wanted.emit)
        self.buttons(self.again, self.undo_key, self.left_key, button_of("Close", self.reject))

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
