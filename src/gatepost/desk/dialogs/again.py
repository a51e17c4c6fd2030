# SPDX-License-Identifier: GPL-3.0-or-later
"""Something cut again alone: which, how much deeper, and what would come of it."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QAbstractItemView, QListWidget, QWidget

from gatepost.core.plan.again import MOST, CutItem
from gatepost.core.plan.result import Resumed
from gatepost.core.units import LengthError, mm, parse_length, spell
from gatepost.desk.dialogs.card import CardDialog, button_of, card, figures_of, words_of
from gatepost.desk.theme.style import font

NOTE = (
    "On the zeros that stand, with the bit that cut it: one letter that was missed, or a cut that came out shallow. Its program is swept over the wood "
    "as it was left before it is offered."
)


class AgainDialog(CardDialog):
    """things: what can be cut again. asked: some of them, and mm deeper; changed: what was asked is another's; wanted: it is to be run."""

    asked = pyqtSignal(object, float)
    changed = pyqtSignal()
    wanted = pyqtSignal()

    def __init__(self, parent: QWidget, things: Sequence[CutItem], unit: str) -> None:
        super().__init__(parent, "Cut again", 720, 620)
        self._things, self._unit = list(things), unit
        box, column = card("What is cut once more", NOTE)
        self.table = QListWidget()
        self.table.setFont(font(16))
        self.table.setAccessibleName("What is cut once more")
        self.table.setSelectionMode(QAbstractItemView.SelectionMode.ExtendedSelection)
        for t in self._things:
            self.table.addItem(t.name if t.letter >= 0 else f"{t.name}, all of it ({t.program})")
        self.table.setMinimumHeight(180)
        column.addWidget(self.table)
        form, (self.deeper,) = figures_of(("Deeper than planned by",), self._changed)
        column.addLayout(form)
        self.words = words_of("", 18, True)
        column.addWidget(self.words)
        self.column.addWidget(box)
        self.column.addStretch(1)
        self.look = button_of("See what comes of it", self._ask)
        self.go = button_of("To the machine", self._go, True)
        self.go.setObjectName("first")
        close = button_of("Close", self.reject)
        close.setAutoDefault(False)
        self.buttons(close, self.look, self.go)
        self.table.itemSelectionChanged.connect(self._changed)
        for button in (self.look, self.go):
            button.setAutoDefault(False)
        self.deeper.returnPressed.connect(self._ask)
        self.deeper.setText("0")
        self._changed()

    def chosen(self) -> tuple[CutItem, ...]:
        """What is chosen."""
        return tuple(t for i, t in enumerate(self._things) if self.table.item(i).isSelected())  # type: ignore[union-attr]

    def _changed(self) -> None:
        """What was worked out before is another's."""
        self.go.setEnabled(False)
        self.look.setEnabled(bool(self.chosen()))
        self.words.setText("" if self.chosen() else "Choose what is cut once more.")
        self.changed.emit()

    def _ask(self) -> None:
        try:
            deeper = parse_length(self.deeper.text(), self._unit)
        except LengthError:
            self.words.setText("Type how much deeper than planned, or 0.")
            return
        if not 0.0 <= deeper <= MOST:
            self.words.setText(spell(f"Deeper by {mm(0.0)} to {mm(MOST)} at once.", self._unit))
            return
        self._changed()
        self.words.setText("Sweeping it…")
        self.asked.emit(self.chosen(), deeper)

    def told(self, taken: Resumed | None, words: str) -> None:
        """What would come of it; words: why it can't be had."""
        stops = taken.stops if taken is not None else (words,)
        if taken is None or stops:
            self.words.setText(spell(f"Not to be run. {' '.join(stops)}", self._unit))
            return
        self.words.setText(spell(f"{taken.minutes:.1f} min. {taken.words}", self._unit))
        self.go.setEnabled(True)

    def _go(self) -> None:
        self.wanted.emit()
        self.accept()
