# SPDX-License-Identifier: GPL-3.0-or-later
"""The diary of a job: one page that is read from top to bottom, searched, and written as a page, a table or JSON."""

from __future__ import annotations

from collections.abc import Sequence
from html import escape

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QComboBox, QHBoxLayout, QLineEdit, QTextBrowser, QWidget

from gatepost.core.log.diary import KINDS, DiaryLine, minutes_worked, sought
from gatepost.core.units import spell
from gatepost.desk.dialogs.card import TitledDialog, button_of, words_of
from gatepost.desk.view.diary_page import NONE, Pictures, diary_html


class DiaryDialog(TitledDialog):
    """write_wanted: the lines that are shown, as pdf, csv or json. took: what it took beside what was planned, in words; pictures: by the names that lines have."""

    write_wanted = pyqtSignal(str)

    def __init__(self, parent: QWidget, name: str, lines: Sequence[DiaryLine], unit: str, took: str = "", pictures: Pictures = NONE) -> None:  # fmt: skip
        super().__init__(parent, f"Diary of {name}", 940, 700)
        self.lines, self.unit, self.pictures = tuple(lines), unit, pictures
        row = QHBoxLayout()
        self.sought = QLineEdit()
        self.sought.setPlaceholderText("Find: words, a setup, a date")
        self.sought.setAccessibleName("Find in the diary")
        self.sought.setClearButtonEnabled(True)
        self.kind, self.where = QComboBox(), QComboBox()
        self.kind.setAccessibleName("What kind of entry")
        self.where.setAccessibleName("Shop or simulated")
        self.kind.addItem("Everything", "")
        for kind, words in KINDS.items():
            self.kind.addItem(words, kind)
        for words, value in (("Shop and simulated", None), ("In the shop", False), ("Simulated", True)):
            self.where.addItem(words, value)
        row.addWidget(self.sought, 1)
        row.addWidget(self.kind)
        row.addWidget(self.where)
        self.body.addLayout(row)
        self.page = QTextBrowser()
        self.page.setAccessibleName("Diary")
        self.body.addWidget(self.page, 1)
        worked = minutes_worked(self.lines)
        told = f"At the bench: {worked['running']:.0f} min while a program ran, {worked['preparing']:.0f} min preparing and looking after. Breaks over half an hour are not counted."
        self.told = words_of(" ".join(w for w in (told if sum(worked.values()) >= 1.0 else "", took) if w))
        self.body.addWidget(self.told)
        self.sought.textChanged.connect(lambda _: self._show())
        self.kind.activated.connect(lambda _: self._show())
        self.where.activated.connect(lambda _: self._show())
        self.buttons(
            button_of("Close", self.reject), button_of("Write CSV…", lambda: self.write_wanted.emit("csv")),
            button_of("Write JSON…", lambda: self.write_wanted.emit("json")), button_of("Write PDF…", lambda: self.write_wanted.emit("pdf"), True),
        )  # fmt: skip
        self._show()

    def shown(self) -> tuple[DiaryLine, ...]:
        """The lines that are shown."""
        return sought(self.lines, self.sought.text(), self.kind.currentData(), self.where.currentData())

    def _show(self) -> None:
        shown = self.shown()
        none = "Nothing has happened yet." if not self.lines else "No entry is like that."
        self.page.setHtml(diary_html(shown, self.unit, self.pictures) if shown else f"<p>{escape(spell(none))}</p>")
