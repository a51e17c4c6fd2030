# SPDX-License-Identifier: GPL-3.0-or-later
"""What the shop looks after, and handing the machine over."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QCheckBox, QFormLayout, QLineEdit, QListWidget, QWidget

from gatepost.core.errors import OperatorError
from gatepost.core.log.due import HANDING_OVER, Check, DueCheck, Handover
from gatepost.desk.dialogs.card import CardDialog, TitledDialog, button_of, card, words_of

NOTE = "Hours are those of runs in the shop, as the log has them. The intervals are starting values, shop rules: the machine's manual comes first."


class DueDialog(TitledDialog):
    """done_wanted: a check was done today, by whom and what was found; change_wanted: one, to be told otherwise, or a new one; away_wanted: it is looked after no more."""

    done_wanted = pyqtSignal(object, str, str)
    change_wanted = pyqtSignal(object)
    away_wanted = pyqtSignal(object)
    handover_wanted = pyqtSignal()

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent, "What is due", 900, 640)
        self.found: tuple[DueCheck, ...] = ()
        note = words_of(NOTE)
        note.setObjectName("muted")
        self.body.addWidget(note)
        self.list = QListWidget()
        self.list.setWordWrap(True)
        self.list.setAccessibleName("What the shop looks after")
        self.list.currentRowChanged.connect(lambda _: self._told())
        self.body.addWidget(self.list, 1)
        self.told = words_of("")
        self.body.addWidget(self.told)
        form = QFormLayout()
        self.by, self.what = QLineEdit(), QLineEdit()
        for words, field in (("Done by", self.by), ("What was found", self.what)):
            field.setAccessibleName(words)
            form.addRow(words, field)
        self.body.addLayout(form)
        self.did = button_of("Done today", self._done, True)
        self.change = button_of("Change…", lambda: self._emit(self.change_wanted))
        self.away = button_of("Remove", lambda: self._emit(self.away_wanted))
        self.buttons(
            button_of("Close", self.reject), button_of("Hand over…", self.handover_wanted.emit), button_of("Add…", lambda: self.change_wanted.emit(None)),
            self.away, self.change, self.did,
        )  # fmt: skip

    def show_due(self, found: Sequence[DueCheck]) -> None:
        """What is due first."""
        row = max(self.list.currentRow(), 0)
        self.found = tuple(found)
        self.list.clear()
        for d in found:
            of = f", {d.check.of}" if d.check.of else ""
            mark = "●" if d.due else "◐" if d.soon else "○"
            self.list.addItem(f"{mark}  {d.check.name}{of}: {d.told()}")
        self.list.setCurrentRow(min(row, len(found) - 1))
        self._told()

    def current(self) -> DueCheck | None:
        """The one that is chosen."""
        row = self.list.currentRow()
        return self.found[row] if 0 <= row < len(self.found) else None

    def _told(self) -> None:
        one = self.current()
        for button in (self.did, self.change, self.away):
            button.setEnabled(one is not None)
        if one is None:
            self.told.setText("")
            return
        c = one.check
        often = [t for t in (f"{c.hours:g} running hours" if c.hours else "", f"{c.days} days" if c.days else "") if t]
        parts = [f"Due after {' or '.join(often)}{', whichever is sooner' if len(often) > 1 else ''}."]
        parts += [f"Once that is over, not to be trusted: {c.lapses}."] if c.lapses else []
        parts += [f"Last by {c.by}, {c.last}{f': {c.found}' if c.found else ''}."] if c.by else []
        self.told.setText(" ".join(parts))

    def _emit(self, signal: object) -> None:
        one = self.current()
        if one is not None:
            signal.emit(one.check)  # type: ignore[attr-defined]

    def _done(self) -> None:
        one = self.current()
        if one is not None:
            self.done_wanted.emit(one.check, self.by.text().strip(), self.what.text().strip())
            self.what.clear()


class CheckDialog(CardDialog):
    """A check as it is typed. kept: the check."""

    kept = pyqtSignal(object)

    def __init__(self, parent: QWidget, check: Check | None, new: bool = False) -> None:
        super().__init__(parent, "Add a check" if new or check is None else "A check", 620, 480)
        self._old = check or Check("")
        box, column = card("What, and how often")
        form = QFormLayout()
        self.fields: dict[str, QLineEdit] = {}
        for name, words, value in (
            ("name", "What is done", self._old.name), ("of", "Of which machine, tool, plate or fixture", self._old.of),
            ("hours", "After running hours", f"{self._old.hours:g}" if self._old.hours else ""), ("days", "After days", str(self._old.days or "")),
            ("last", "Last done, as 2026-03-02", self._old.last), ("lapses", "What is not to be trusted once it is over", self._old.lapses),
        ):  # fmt: skip
            field = QLineEdit(value)
            field.setAccessibleName(words)
            self.fields[name] = field
            form.addRow(words, field)
        column.addLayout(form)
        self.column.addWidget(box)
        self.wrong = self.wrong_line()
        self.column.addStretch(1)
        self.buttons(button_of("Cancel", self.reject), button_of("Keep", self.keep, True))

    def check(self) -> Check:
        """As it is typed. Raises OperatorError."""
        text = {name: field.text().strip() for name, field in self.fields.items()}
        try:
            hours, days = float(text["hours"].replace(",", ".") or 0.0), int(text["days"] or 0)
        except ValueError:
            raise OperatorError("Hours and days are numbers.") from None
        return Check(
            text["name"], text["of"], hours, days, text["last"], self._old.by, self._old.found, text["lapses"]
        ).checked()

    def keep(self) -> None:
        """Keep it, or say what is wrong."""
        try:
            check = self.check()
        except OperatorError as error:
            self.wrong.setText(str(error))
            return
        self.kept.emit(check)
        self.accept()


class HandoverDialog(CardDialog):
    """kept: the hand-over, signed. due: what is due, for whoever comes next."""

    kept = pyqtSignal(object)

    def __init__(self, parent: QWidget, due: Sequence[DueCheck], at: str) -> None:
        super().__init__(parent, "Handing over", 720, 680)
        self._at = at
        box, column = card("Before you leave it", "Tick what you have seen to yourself.")
        self.points = [QCheckBox(words) for words in HANDING_OVER]
        for tick in self.points:
            column.addWidget(tick)
        self.column.addWidget(box)
        box, column = card("For the next person")
        told = [f"{d.check.name}: {d.told()}" for d in due if d.due or d.soon]
        column.addWidget(words_of("\n".join(told) or "Nothing is due."))
        form = QFormLayout()
        self.told, self.from_, self.to = QLineEdit(), QLineEdit(), QLineEdit()
        for words, field in (("What is wrong", self.told), ("Handed over by", self.from_), ("To", self.to)):
            field.setAccessibleName(words)
            form.addRow(words, field)
        column.addLayout(form)
        self.column.addWidget(box)
        self.wrong = self.wrong_line()
        self.column.addStretch(1)
        self.buttons(button_of("Cancel", self.reject), button_of("Sign", self.keep, True))

    def keep(self) -> None:
        """Sign it, or say what is wrong."""
        made = Handover(self._at, self.from_.text().strip(), self.to.text().strip(), HANDING_OVER, tuple(t.isChecked() for t in self.points), self.told.text().strip())  # fmt: skip
        try:
            made.checked()
        except OperatorError as error:
            self.wrong.setText(str(error))
            return
        self.kept.emit(made)
        self.accept()
