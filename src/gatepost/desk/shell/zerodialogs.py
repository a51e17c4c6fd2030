# SPDX-License-Identifier: GPL-3.0-or-later
"""Dialogs about the zeros: is it square, what happened and what is still known, and practice with something wrong."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QDialog,
    QFormLayout,
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from gatepost.core.errors import OperatorError
from gatepost.core.units import LengthError, edit_length, parse_length, show_length, spell
from gatepost.desk.theme.style import font
from gatepost.desk.theme.words import Label, tip


def _label(words: str = "", size: float = 15, bold: bool = False) -> QLabel:
    label = Label(words)
    label.setFont(font(size, bold))
    label.setWordWrap(True)
    return label


def _button(words: str, act: Callable[[], None], bold: bool = False) -> QPushButton:
    button = QPushButton(words)
    button.setFont(font(15, bold))
    button.clicked.connect(lambda _=False: act())
    return button


class SquareDialog(QDialog):
    """Two touches along an edge: how far it lies turned, how far to push, or the programs turned instead."""

    turn_wanted = pyqtSignal(float)

    def __init__(self, parent: QWidget, length: float, width: float, unit: str) -> None:
        super().__init__(parent)
        self.sizes, self.unit = {"y": length, "x": width}, unit
        self.setWindowTitle("Is it square?")
        self.resize(620, 420)
        column = QVBoxLayout(self)
        column.addWidget(
            _label(
                "Touch one edge at two places with the same pin, from the same side, and type what the control shows."
            )
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
            field.textChanged.connect(self.reckon)
            self.fields[key] = field
            form.addRow(words, field)
        self.edge.currentIndexChanged.connect(self._edge)
        column.addLayout(form)
        self.words = _label("", 18, True)
        column.addWidget(self.words)
        self.sum = _label("", 14)
        column.addWidget(self.sum)
        column.addStretch(1)
        row = QHBoxLayout()
        row.addStretch(1)
        self.turn = _button("Turn the programs instead", self._turn)
        self.turn.setEnabled(False)
        row.addWidget(self.turn)
        row.addWidget(_button("Close", self.reject))
        column.addLayout(row)
        self.found: Any = None
        self._edge()

    def _edge(self) -> None:
        long = self.sizes[self.edge.currentData()]
        self.fields["apart"].setText(edit_length(round(0.8 * long, 1), self.unit))
        self.fields["far"].setText(edit_length(round(0.9 * long, 1), self.unit))
        self.reckon()

    def reckon(self) -> None:
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


class HappenedDialog(QDialog):
    """What happened, what is still known of each axis, and the way back to it."""

    happened = pyqtSignal(str)
    looked = pyqtSignal(float, float)
    card_wanted = pyqtSignal()
    accepted_so = pyqtSignal(str)

    def __init__(self, parent: QWidget, setup: str, unit: str, linked: bool) -> None:
        super().__init__(parent)
        from gatepost.core.acts import by_hand

        self.unit = unit
        self.setWindowTitle(f"What happened, and what is still known: {setup} setup")
        self.resize(920, 620)
        column = QVBoxLayout(self)
        self.grid = QGridLayout()
        self.grid.setHorizontalSpacing(18)
        column.addLayout(self.grid)
        column.addWidget(
            _label(
                "Nothing cuts on a lost axis. What happened stays in the job; it is put right by a later entry only.",
                14,
            )
        )
        column.addWidget(_label("What happened", 16, True))
        events = QGridLayout()
        acts = by_hand()
        for i, (kind, words, then) in enumerate((a.kind, a.told, a.then) for a in acts):
            button = _button(words, lambda kind=kind: self.happened.emit(kind))
            tip(button, then)
            events.addWidget(button, i // 2, i % 2)
        if not linked:
            events.addWidget(_button("The machine was homed", lambda: self.happened.emit("homed")), len(acts) // 2, 0)
        column.addLayout(events)
        column.addWidget(_label("Back to the zero", 16, True))
        column.addWidget(
            _label(
                "Home. Go back to the witness mark, lift first, and look over the point: how far does the mark lie from the tip?",
                15,
            )
        )
        row = QHBoxLayout()
        self.right, self.back = QLineEdit("0"), QLineEdit("0")
        for field, words in ((self.right, "right of it by"), (self.back, "back of it by")):
            field.setFont(font(16))
            field.setFixedWidth(110)
            field.setAccessibleName(f"The mark lies {words}")
            row.addWidget(_label(words))
            row.addWidget(field)
        row.addWidget(_button("Looked: take the zeros so", self._looked, True))
        row.addStretch(1)
        column.addLayout(row)
        yes = QHBoxLayout()
        self.why = QLineEdit()
        self.why.setFont(font(16))
        self.why.setPlaceholderText("why a provisional axis is good enough")
        self.why.setAccessibleName("Why a provisional axis is good enough")
        yes.addWidget(self.why, 1)
        yes.addWidget(_button("Go on with it as it is", lambda: self.accepted_so.emit(self.why.text())))
        column.addLayout(yes)
        self.words = _label("", 16, True)
        column.addWidget(self.words)
        column.addStretch(1)
        foot = QHBoxLayout()
        foot.addStretch(1)
        foot.addWidget(_button("Card to print…", self.card_wanted.emit))
        foot.addWidget(_button("Close", self.accept))
        column.addLayout(foot)

    def show_card(self, card: Any) -> None:
        """What is known now."""
        while self.grid.count():
            item = self.grid.takeAt(0)
            widget = item.widget() if item is not None else None
            if widget is not None:
                widget.deleteLater()
        head = ("", "on the machine", "it is", "because", "since")
        for j, words in enumerate(head):
            self.grid.addWidget(_label(words, 13), 0, j)
        for i, (axis, machine, trust, why, at) in enumerate(card.rows, start=1):
            value = "–" if machine is None else show_length(machine, self.unit, 2 if self.unit == "mm" else 4)
            for j, words in enumerate((f"{axis}0", value, trust, why, at[:16].replace("T", " "))):
                cell = _label(words, 17 if j < 3 else 15, j < 3)
                cell.setAlignment(Qt.AlignmentFlag.AlignRight if j == 1 else Qt.AlignmentFlag.AlignLeft)
                self.grid.addWidget(cell, i, j)
        self.grid.setColumnStretch(3, 1)

    def say(self, words: str) -> None:
        """What comes of it."""
        self.words.setText(spell(words, self.unit))

    def _looked(self) -> None:
        try:
            off = (parse_length(self.right.text(), self.unit), parse_length(self.back.text(), self.unit))
        except LengthError as error:
            self.say(str(error))
            return
        self.looked.emit(*off)


class PracticeDialog(QDialog):
    """Practice: which troubles the simulated machine has, and afterwards which were noticed."""

    begun = pyqtSignal(tuple)

    def __init__(self, parent: QWidget, notes: dict[str, tuple[str, str]]) -> None:
        """notes: by the name of a trouble that was practised, where it was noticed and what was said, or nothing."""
        super().__init__(parent)
        from gatepost.machine.rehearsal import TROUBLES

        self.setWindowTitle("Practice with something wrong")
        self.resize(980, 640)
        column = QVBoxLayout(self)
        column.addWidget(
            _label(
                "The simulated machine starts with what you choose, or with a surprise. Go through the steps at the machine; each check "
                "and each stop tells what it finds. Come back here to see what was noticed, and what was missed.", 15,
            )
        )  # fmt: skip
        grid = QGridLayout()
        grid.setHorizontalSpacing(16)
        grid.setVerticalSpacing(2)
        for j, words in enumerate(("trouble", "what it is", "noticed at")):
            grid.addWidget(_label(words, 13), 0, j)
        self.boxes: dict[str, QCheckBox] = {}
        for i, t in enumerate(TROUBLES, start=1):
            box = QCheckBox(t.name)
            box.setFont(font(15))
            self.boxes[t.name] = box
            grid.addWidget(box, i, 0)
            grid.addWidget(_label(t.is_, 14), i, 1)
            where = notes.get(t.name)
            words = "" if where is None else f"✓ {where[0]}" if where[0] else f"missed: it shows at {t.shows}"
            told = _label(words, 14, where is not None and not where[0])
            told.setToolTip(where[1] if where is not None else "")
            grid.addWidget(told, i, 2)
        grid.setColumnStretch(1, 2)
        grid.setColumnStretch(2, 3)
        column.addLayout(grid)
        column.addStretch(1)
        row = QHBoxLayout()
        row.addStretch(1)
        row.addWidget(_button("Surprise me", self._surprise))
        row.addWidget(_button("Begin with these", self._begin, True))
        row.addWidget(_button("Close", self.reject))
        column.addLayout(row)

    def _begin(self) -> None:
        self.begun.emit(tuple(n for n, b in self.boxes.items() if b.isChecked()))
        self.accept()

    def _surprise(self) -> None:
        import random

        self.begun.emit((random.choice(list(self.boxes)),))
        self.accept()
