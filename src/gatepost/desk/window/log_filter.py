# SPDX-License-Identifier: GPL-3.0-or-later
"""What of the log is wanted: words, wood, tool, kind of work, where it ran, dates."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import date

from PyQt6.QtCore import QTimer, pyqtSignal
from PyQt6.QtWidgets import QComboBox, QHBoxLayout, QLineEdit, QPushButton, QVBoxLayout, QWidget

from gatepost.core.log.filtering import Choices, RowFilter
from gatepost.desk.theme.words import Label

SOON = 120  # ms after the last letter that was typed
WHERE = (("Shop and simulated", ""), ("In the shop", "shop"), ("Simulated", "simulated"))


def work_words(kind: str) -> str:
    """A kind of work, as it is called."""
    from gatepost.core.plan.kinds import called

    return called(kind).capitalize()


def _day(text: str) -> str | None:
    """A date as it was typed, or a year, or a month of one; nothing where it is none."""
    text = text.strip()
    if not text:
        return ""
    for whole in (text, f"{text}-01", f"{text}-01-01"):
        try:
            return date.fromisoformat(whole).isoformat()[: len(text)] if len(text) in (4, 7, 10) else None
        except ValueError:
            continue
    return None


class LogFilter(QWidget):
    """changed: other rows are wanted."""

    changed = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(6)
        self.words = QLineEdit()
        self.words.setPlaceholderText("Find: words, a job, a remark")
        self.words.setClearButtonEnabled(True)
        self.wood, self.tool, self.work, self.where = (QComboBox() for _ in range(4))
        self.since, self.until = QLineEdit(), QLineEdit()
        self.since.setPlaceholderText("from")
        self.until.setPlaceholderText("until")
        self.clear = QPushButton("All")
        self.clear.setToolTip("Shows all rows again.")
        self.clear.clicked.connect(self.show_all)
        self.told = Label()
        self.told.setObjectName("muted")
        names = (
            (self.words, "Find in the log"), (self.wood, "Wood"), (self.tool, "Tool"), (self.work, "Kind of work"), (self.where, "Where it ran"),
            (self.since, "From this date"), (self.until, "Until this date"),
        )  # fmt: skip
        for widget, name in names:
            widget.setAccessibleName(name)
            widget.setToolTip(name)
        for words, value in WHERE:
            self.where.addItem(words, value)
        one, two = QHBoxLayout(), QHBoxLayout()
        one.addWidget(self.words, 3)
        for box in (self.wood, self.tool, self.work):
            box.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
            box.setMinimumContentsLength(9)
            one.addWidget(box, 2)
        two.addWidget(self.where, 2)
        two.addWidget(self.since, 2)
        two.addWidget(self.until, 2)
        two.addWidget(self.clear)
        two.addStretch(2)
        column.addLayout(one)
        column.addLayout(two)
        column.addWidget(self.told)
        self._soon = QTimer(self)
        self._soon.setSingleShot(True)
        self._soon.setInterval(SOON)
        self._soon.timeout.connect(self.changed)
        self.show_choices(Choices())
        for field in (self.words, self.since, self.until):
            field.textChanged.connect(lambda _: self._soon.start())
        for box in (self.wood, self.tool, self.work, self.where):
            box.activated.connect(lambda _: self.changed.emit())

    def show_choices(self, found: Choices) -> None:
        """What there is to choose from; what is chosen stays."""
        for box, any_, values in (
            (self.wood, "Any wood", found.woods), (self.tool, "Any tool", found.tools), (self.work, "Any work", found.works),
        ):  # fmt: skip
            was = box.currentData() or ""
            box.clear()
            box.addItem(any_, "")
            for value in values:
                box.addItem(work_words(value) if box is self.work else value, value)
            box.setCurrentIndex(max(box.findData(was), 0))

    def wanted(self) -> RowFilter:
        """What is wanted now; a date that is none is told, and leaves nothing out."""
        since, until = (_day(f.text()) for f in (self.since, self.until))
        for field, day in ((self.since, since), (self.until, until)):
            field.setProperty("wrong", day is None)
            field.setToolTip("A date, as 2026-03-02, 2026-03 or 2026." if day is None else field.accessibleName())
        told = until or ""
        told = f"{told}-12-31" if len(told) == 4 else f"{told}-31" if len(told) == 7 else told
        wood, tool, work, where = (box.currentData() or "" for box in (self.wood, self.tool, self.work, self.where))
        return RowFilter(self.words.text(), wood, tool, work, since or "", told, where)

    def wrong(self) -> Sequence[str]:
        """Dates that are none."""
        return [f.text() for f in (self.since, self.until) if _day(f.text()) is None]

    def show_all(self) -> None:
        """Leave nothing out."""
        for field in (self.words, self.since, self.until):
            field.clear()
        for box in (self.wood, self.tool, self.work, self.where):
            box.setCurrentIndex(0)
        self._soon.stop()
        self.changed.emit()
