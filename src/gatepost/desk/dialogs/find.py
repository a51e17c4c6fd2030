# SPDX-License-Identifier: GPL-3.0-or-later
"""Ctrl+F: a line to type in, and everything that can be done whose words it is found in."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtCore import QEvent, QObject, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import QDialog, QLineEdit, QListWidget, QListWidgetItem, QVBoxLayout, QWidget


def found(rows: Sequence[tuple[str, str]], typed: str) -> list[int]:
    """Which rows have every word that was typed, those with a word that begins so first."""
    wanted = typed.lower().split()
    good = [i for i, (words, _) in enumerate(rows) if all(w in words.lower() for w in wanted)]
    begins = [i for i in good if all(any(x.startswith(w) for x in rows[i][0].lower().split()) for w in wanted)]
    return begins + [i for i in good if i not in begins]


class FindDialog(QDialog):
    """rows: words and what stands beside them (a key); chosen: the number of one."""

    chosen = pyqtSignal(int)

    def __init__(self, parent: QWidget, rows: Sequence[tuple[str, str]]) -> None:
        super().__init__(parent)
        self.setWindowTitle("Find something to do")
        self.resize(620, 460)
        self._rows = rows
        column = QVBoxLayout(self)
        self.line, self.list = QLineEdit(), QListWidget()
        self.line.setPlaceholderText("What do you want to do? “clamp”, “photo”, “depth”…")
        self.line.setAccessibleName("What do you want to do?")
        self.list.setAccessibleName("What can be done")
        self.line.textChanged.connect(self._show)
        self.line.returnPressed.connect(self._take)
        self.line.installEventFilter(self)
        self.list.itemActivated.connect(lambda _: self._take())
        self.list.itemClicked.connect(lambda _: self._take())
        column.addWidget(self.line)
        column.addWidget(self.list, 1)
        self._show("")

    def _show(self, typed: str) -> None:
        self.list.clear()
        for i in found(self._rows, typed):
            words, beside = self._rows[i]
            item = QListWidgetItem(f"{words}    {beside}" if beside else words)
            item.setData(Qt.ItemDataRole.UserRole, i)
            self.list.addItem(item)
        self.list.setCurrentRow(0)

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        """Up and down go along the list while one types."""
        if isinstance(event, QKeyEvent) and event.type() == QEvent.Type.KeyPress and watched is self.line:
            step = {Qt.Key.Key_Up: -1, Qt.Key.Key_Down: 1}.get(Qt.Key(event.key()))
            if step is not None and self.list.count():
                self.list.setCurrentRow((self.list.currentRow() + step) % self.list.count())
                return True
        return super().eventFilter(watched, event)

    def _take(self) -> None:
        item = self.list.currentItem()
        self.accept()
        if item is not None:
            self.chosen.emit(int(item.data(Qt.ItemDataRole.UserRole)))
