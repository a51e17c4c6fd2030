# SPDX-License-Identifier: GPL-3.0-or-later
"""The steps of the finish, one after another: which are done, what comes next, and how many minutes each took."""

from __future__ import annotations

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QFormLayout, QLineEdit, QListWidget, QWidget

from gatepost.core.errors import OperatorError
from gatepost.core.finish.progress import FinishSoFar
from gatepost.core.finish.times import parse_time, told_time
from gatepost.core.units import spell
from gatepost.desk.dialogs.card import TitledDialog, button_of, words_of

NOTE = "Each is done when you have seen to it. Minutes are those of your hands; from three steps of a kind on, on pieces that were cut in the shop, they can stand in the place of the shop's rules."


class FinishStepsDialog(TitledDialog):
    """done_wanted: the next step was done, in so many minutes, 0 where nobody looked; undone_wanted: the chosen one, by its key, and all after it are to do again; own_wanted, rules_wanted: minutes by the shop's own record, or by shop rules again."""

    done_wanted = pyqtSignal(float)
    undone_wanted = pyqtSignal(str)
    own_wanted = pyqtSignal()
    rules_wanted = pyqtSignal()

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent, "Steps of the finish", 900, 660)
        self.gone = FinishSoFar((), ())
        note = words_of(NOTE)
        note.setObjectName("muted")
        self.body.addWidget(note)
        self.list = QListWidget()
        self.list.setWordWrap(True)
        self.list.setAccessibleName("Steps of the finish")
        self.list.currentRowChanged.connect(lambda _: self._told())
        self.body.addWidget(self.list, 1)
        self.told = words_of("")
        self.told.setMinimumHeight(66)
        self.body.addWidget(self.told)
        form = QFormLayout()
        self.minutes = QLineEdit()
        self.minutes.setPlaceholderText("nothing where you did not look")
        self.minutes.setAccessibleName("It took, minutes of hands")
        self.minutes.returnPressed.connect(self._done)
        form.addRow("It took, minutes of hands", self.minutes)
        self.body.addLayout(form)
        self.wrong = self.wrong_line()
        self.did = button_of("Done", self._done, True)
        self.undo = button_of("Not done after all", self._undone)
        self.own = button_of("Own minutes", self.own_wanted.emit)
        self.own.setToolTip("Takes minutes of hands from this shop's own record.")
        self.rules = button_of("Shop rules", self.rules_wanted.emit)
        self.buttons(button_of("Close", self.reject), self.rules, self.own, self.undo, self.did)

    def show_steps(self, gone: FinishSoFar, unit: str, own: bool) -> None:
        """How far it has come; the next step is chosen. own: whether minutes are by the shop's own record."""
        self.gone, self.unit = gone, unit
        self.list.clear()
        for step, record in gone.done:
            took = f", {record.minutes:.0f} min" if record.minutes else ""
            self.list.addItem(f"✓  {step.title} {record.at[:16].replace('T', ' ')}{took}")
        for n, step in enumerate(gone.left):
            waits = f", then {told_time(step.waits)}" if step.waits else ""
            self.list.addItem(spell(f"{'→' if n == 0 else '○'}  {step.title} {step.hands:.0f} min{waits}", unit))
        self.list.setCurrentRow(min(len(gone.done), self.list.count() - 1))
        self.rules.setEnabled(own)
        self.minutes.clear()
        self.wrong.setText("")
        self._told()

    def _told(self) -> None:
        row, done = self.list.currentRow(), len(self.gone.done)
        self.undo.setEnabled(0 <= row < done)
        self.did.setEnabled(row == done < self.list.count())
        steps = [*(s for s, _ in self.gone.done), *self.gone.left]
        if not 0 <= row < len(steps):
            self.told.setText("")
            return
        words = [steps[row].detail, *steps[row].cautions]
        if row > done:
            words.insert(0, "What stands before it comes first.")
        if not self.gone.left:
            words.insert(0, "All of it is done.")
        self.told.setText(spell(" ".join(w for w in words if w), self.unit))

    def _undone(self) -> None:
        row = self.list.currentRow()
        if row < len(self.gone.done):
            self.undone_wanted.emit(self.gone.done[row][0].key)

    def _done(self) -> None:
        """Say that the next one is done, or what is wrong."""
        if not self.did.isEnabled():
            return
        typed = self.minutes.text().strip()
        try:
            minutes = parse_time(typed) if typed else 0.0
        except OperatorError as error:
            self.wrong.setText(str(error))
            return
        self.wrong.setText("")
        self.done_wanted.emit(minutes)
