# SPDX-License-Identifier: GPL-3.0-or-later
"""The shop's registers: what it has, when each was seen to, and what of it lapses when."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QHBoxLayout, QHeaderView, QLineEdit, QTreeWidget, QTreeWidgetItem, QWidget

from gatepost.core.log.due import Check
from gatepost.core.log.register import HEADS, Registered
from gatepost.core.units import spell
from gatepost.desk.dialogs.card import TitledDialog, button_of, words_of
from gatepost.desk.theme.style import font
from gatepost.desk.theme.words import Label

MARKS = {"due": "●", "soon": "◐", "good": "○", "look": "●", "": ""}
WHERE_KEPT = {
    "machine": "none yet: keep one on the Run page", "tool": "none yet: keep them in the tool drawer", "plate": "none yet: name one on the Zero page, then keep it",
    "fixture": "none yet: keep the bed on the Hold page", "finish": "none yet: type a tin's label on the Finish page, then keep it",
}  # fmt: skip
NOTE = "A date with ≈ comes from running hours, at the pace of the last 90 days. Intervals are starting values, shop rules: the machine's manual comes first."
COLUMNS = ("", "Name", "What it is", "Seen to", "Good until")


class RegistersDialog(TitledDialog):
    """done_wanted: a check was done today, by whom and what was found; change_wanted: one, to be told otherwise, or one of a thing that has none; write_wanted: all lines as a table."""

    done_wanted = pyqtSignal(object, str, str)
    change_wanted = pyqtSignal(object)
    write_wanted = pyqtSignal()

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent, "Registers of the shop", 1120, 700)
        self.lines: tuple[Registered, ...] = ()
        self.unit = "mm"
        self.tree = QTreeWidget()
        self.tree.setColumnCount(len(COLUMNS))
        self.tree.setHeaderLabels(list(COLUMNS))
        self.tree.setAccessibleName("Registers")
        self.tree.setFont(font(14))
        self.tree.setUniformRowHeights(True)
        head = self.tree.header()
        if head is not None:
            head.setStretchLastSection(False)
            head.setSectionResizeMode(QHeaderView.ResizeMode.ResizeToContents)
            head.setSectionResizeMode(2, QHeaderView.ResizeMode.Stretch)
        self.tree.currentItemChanged.connect(lambda *_: self._told())
        self.body.addWidget(self.tree, 1)
        self.told = words_of("")
        self.told.setMinimumHeight(44)
        self.body.addWidget(self.told)
        row = QHBoxLayout()
        self.by, self.what = QLineEdit(), QLineEdit()
        for words, field, wide in (("Seen to by", self.by, 1), ("What was found", self.what, 2)):
            field.setAccessibleName(words)
            row.addWidget(Label(words))
            row.addWidget(field, wide)
        self.body.addLayout(row)
        note = words_of(NOTE, 13)
        note.setObjectName("muted")
        self.body.addWidget(note)
        self.did = button_of("Seen to today", self._done, True)
        self.change = button_of("How often…", self._change)
        self.buttons(
            button_of("Close", self.reject), button_of("Write as CSV…", self.write_wanted.emit), self.change, self.did
        )

    def show_registers(self, lines: Sequence[Registered], unit: str) -> None:
        """Kind by kind; the one that was chosen stays so."""
        was = self.current()
        self.lines, self.unit = tuple(lines), unit
        self.tree.clear()
        chosen = None
        for kind, title in HEADS.items():
            mine = [(n, one) for n, one in enumerate(self.lines) if one.kind == kind]
            due = sum(one.standing in ("due", "look") for _, one in mine)
            head = QTreeWidgetItem(
                [
                    "",
                    f"{title}: {len(mine)}" + (f" ({due} to see to)" if due else ""),
                    "" if mine else WHERE_KEPT.get(kind, ""),
                    "",
                    "",
                ]
            )
            head.setFont(1, font(15, True))
            self.tree.addTopLevelItem(head)
            for n, one in mine:
                until = f"{'≈ ' if one.by_pace else ''}{one.lapses}" if one.lapses else "–"
                item = QTreeWidgetItem([MARKS[one.standing], one.name, spell(one.what, unit), one.seen or "–", until])
                item.setData(0, 0x0100, n)
                item.setToolTip(2, spell(one.what, unit))
                head.addChild(item)
                same = was is not None and (one.kind, one.name) == (was.kind, was.name)
                if same and (chosen is None or (was is not None and one.what == was.what)):
                    chosen = item
            head.setExpanded(kind != "wood")
        self.tree.setCurrentItem(chosen or self.tree.topLevelItem(0))
        self._told()

    def current(self) -> Registered | None:
        """The line that is chosen."""
        item = self.tree.currentItem()
        n = item.data(0, 0x0100) if item is not None else None
        return self.lines[n] if isinstance(n, int) and n < len(self.lines) else None

    def _told(self) -> None:
        one = self.current()
        self.did.setEnabled(one is not None and one.check is not None)
        self.change.setEnabled(one is not None)
        self.change.setText("How often…" if one is None or one.check is not None else "Look after it…")
        told = one.told if one is not None else ""
        words = [f"{told[:1].upper()}{told[1:].rstrip('.')}."] if told else []
        if one is not None and one.check is not None and one.check.lapses:
            words.append(f"Once that is over, not to be trusted: {one.check.lapses}.")
        if one is not None and one.check is not None and one.check.by:
            words.append(f"By {one.check.by}{f': {one.check.found}' if one.check.found else ''}.")
        self.told.setText(spell(" ".join(words), self.unit))

    def _change(self) -> None:
        one = self.current()
        if one is not None:
            self.change_wanted.emit(one.check or Check("", one.name))

    def _done(self) -> None:
        one = self.current()
        if one is not None and one.check is not None:
            self.done_wanted.emit(one.check, self.by.text().strip(), self.what.text().strip())
            self.what.clear()
