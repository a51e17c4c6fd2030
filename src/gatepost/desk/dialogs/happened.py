# SPDX-License-Identifier: GPL-3.0-or-later
"""What happened, what is still known of each axis, and the way back to it."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QGridLayout, QHBoxLayout, QLineEdit, QWidget

from gatepost.core.acts import ShopAct, by_hand
from gatepost.core.units import LengthError, parse_length, show_length, spell
from gatepost.desk.dialogs.card import CardDialog, button_of, card, words_of
from gatepost.desk.theme.style import font
from gatepost.desk.theme.words import tip

CAUSES = (
    ("To the board", ("bumped", "clamped", "shimmed", "rocks", "fresh board")),
    ("To the bit", ("fitted", "warmed")),
    ("To the machine", ("stalled", "power cut", "red button", "link lost")),
    ("To the bed", ("bed skimmed",)),
)


def grouped(acts: Sequence[ShopAct]) -> list[tuple[str, list[ShopAct]]]:
    """Acts by what they happened to; what has no place of its own comes last."""
    known = {kind for _, kinds in CAUSES for kind in kinds}
    groups = [(title, [a for kind in kinds for a in acts if a.kind == kind]) for title, kinds in CAUSES]
    return [*groups, ("Otherwise", [a for a in acts if a.kind not in known])]


class HappenedDialog(CardDialog):
    """linked: a machine says by itself when it is homed."""

    happened = pyqtSignal(str)
    looked = pyqtSignal(float, float)
    card_wanted = pyqtSignal()
    accepted_so = pyqtSignal(str)

    def __init__(self, parent: QWidget, setup: str, unit: str, linked: bool) -> None:
        super().__init__(parent, f"What happened: {setup} setup", 940, 720)
        self.unit = unit
        box, column = card(
            "Still known",
            "Nothing cuts on a lost axis. What happened stays in the job; it is put right by a later entry only.",
        )
        self.grid = QGridLayout()
        self.grid.setHorizontalSpacing(18)
        column.addLayout(self.grid)
        self.column.addWidget(box)
        self.words = words_of("", 16, True)
        self.words.hide()
        self.column.addWidget(self.words)
        self.column.addWidget(self._events(linked))
        self.column.addWidget(self._way_back())
        self.column.addStretch(1)
        self.buttons(button_of("Card to print…", self.card_wanted.emit), button_of("Close", self.accept))

    def _events(self, linked: bool) -> QWidget:
        """Each cause under what it happened to, none over another."""
        box, column = card("What happened")
        for title, acts in grouped(by_hand()):
            told = [(a.told, a.then, a.kind) for a in acts]
            if title == "To the machine" and not linked:
                told.append(("The machine was homed", "Then go back to the witness mark and look.", "homed"))
            if not told:
                continue
            column.addWidget(words_of(title, 14, True))
            grid = QGridLayout()
            grid.setSpacing(6)
            for i, (words, then, kind) in enumerate(told):
                button = button_of(words, lambda k=kind: self.happened.emit(k))
                tip(button, then)
                grid.addWidget(button, i // 2, i % 2)
            grid.setColumnStretch(0, 1)
            grid.setColumnStretch(1, 1)
            column.addLayout(grid)
        return box

    def _way_back(self) -> QWidget:
        box, column = card(
            "Back to the zero",
            "Home. Go back to the witness mark, lift first, and look over the point: how far does the mark lie from the tip?",
        )
        row = QHBoxLayout()
        self.right, self.back = QLineEdit("0"), QLineEdit("0")
        for field, words in ((self.right, "right of it by"), (self.back, "back of it by")):
            field.setFont(font(16))
            field.setFixedWidth(110)
            field.setAccessibleName(f"The mark lies {words}")
            row.addWidget(words_of(words))
            row.addWidget(field)
        row.addWidget(button_of("Looked: take the zeros so", self._looked, True))
        row.addStretch(1)
        column.addLayout(row)
        yes = QHBoxLayout()
        self.why = QLineEdit()
        self.why.setFont(font(16))
        self.why.setPlaceholderText("why a provisional axis is good enough")
        self.why.setAccessibleName("Why a provisional axis is good enough")
        yes.addWidget(self.why, 1)
        yes.addWidget(button_of("Go on with it as it is", lambda: self.accepted_so.emit(self.why.text())))
        column.addLayout(yes)
        return box

    def show_card(self, card: Any) -> None:
        """What is known now."""
        while self.grid.count():
            item = self.grid.takeAt(0)
            widget = item.widget() if item is not None else None
            if widget is not None:
                widget.deleteLater()
        head = ("", "on the machine", "it is", "because", "since")
        for j, words in enumerate(head):
            self.grid.addWidget(words_of(words, 13), 0, j)
        for i, (axis, machine, trust, why, at) in enumerate(card.rows, start=1):
            value = "–" if machine is None else show_length(machine, self.unit, 2 if self.unit == "mm" else 4)
            for j, words in enumerate((f"{axis}0", value, trust, why, at[:16].replace("T", " "))):
                cell = words_of(words, 17 if j < 3 else 15, j < 3)
                cell.setAlignment(Qt.AlignmentFlag.AlignRight if j == 1 else Qt.AlignmentFlag.AlignLeft)
                self.grid.addWidget(cell, i, j)
        self.grid.setColumnStretch(3, 1)

    def say(self, words: str) -> None:
        """What comes of it."""
        self.words.setText(spell(words, self.unit))
        self.words.setVisible(bool(words))

    def _looked(self) -> None:
        try:
            off = (parse_length(self.right.text(), self.unit), parse_length(self.back.text(), self.unit))
        except LengthError as error:
            self.say(str(error))
            return
        self.looked.emit(*off)
