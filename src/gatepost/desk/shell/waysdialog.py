# SPDX-License-Identifier: GPL-3.0-or-later
"""Places and ways of holding beside each other: reckoned by the worker, chosen here."""

from __future__ import annotations

from typing import Any

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import (
    QAbstractItemView,
    QDialog,
    QHBoxLayout,
    QHeaderView,
    QProgressBar,
    QPushButton,
    QSpinBox,
    QTableWidget,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from gatepost.core.units import show_length, spell
from gatepost.desk.theme.style import font
from gatepost.desk.theme.words import Label

COLUMNS = ("Way", "Holds", "To set, about", "Margin", "Longest free span", "No tool reaches")
RULE = (
    "Places: first all clear of every move, then the shortest longest free span, then fewest moved. Margins are estimates, good to a "
    "factor of two; minutes are starting values, shop rules."
)


class WaysDialog(QDialog):
    """Asks for a comparison, shows it, and says which way was chosen."""

    wanted = pyqtSignal(str, int)  # setup, how many clamps
    called_off = pyqtSignal()
    chosen = pyqtSignal(object)  # the holds of a way

    def __init__(self, parent: QWidget, setup: str, count: int, unit: str) -> None:
        super().__init__(parent)
        self.setup, self.unit = setup, unit
        self.rows: list[Any] = []
        self.busy = False
        self.setWindowTitle(f"Ways to hold it, {setup} setup")
        self.resize(1060, 480)
        column = QVBoxLayout(self)
        top = QHBoxLayout()
        label = Label("Clamps or screws")
        label.setFont(font(15))
        self.count = QSpinBox()
        self.count.setRange(2, 24)
        self.count.setValue(count)
        self.count.setFont(font(15))
        self.count.setAccessibleName("How many clamps or screws")
        self.again = QPushButton("Work it out")
        self.again.setFont(font(15))
        self.again.clicked.connect(self.begin)
        top.addWidget(label)
        top.addWidget(self.count)
        top.addWidget(self.again)
        top.addStretch(1)
        column.addLayout(top)
        self.table = QTableWidget(0, len(COLUMNS))
        self.table.setHorizontalHeaderLabels(COLUMNS)
        self.table.setFont(font(15))
        self.table.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        self.table.setSelectionMode(QAbstractItemView.SelectionMode.SingleSelection)
        self.table.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        self.table.setAccessibleName("Ways to hold it")
        self.table.setWordWrap(True)
        self.table.itemSelectionChanged.connect(self._picked)
        self.table.itemDoubleClicked.connect(lambda _: self._use())
        head, side = self.table.horizontalHeader(), self.table.verticalHeader()
        assert head is not None and side is not None
        head.setSectionResizeMode(QHeaderView.ResizeMode.ResizeToContents)
        head.setSectionResizeMode(1, QHeaderView.ResizeMode.Stretch)
        head.setFont(font(14, True))
        side.hide()
        side.setSectionResizeMode(QHeaderView.ResizeMode.ResizeToContents)
        column.addWidget(self.table, 1)
        self.words = Label(RULE)
        self.words.setFont(font(14))
        self.words.setWordWrap(True)
        column.addWidget(self.words)
        self.progress = QProgressBar()
        self.progress.setRange(0, 100)
        self.progress.hide()
        column.addWidget(self.progress)
        foot = QHBoxLayout()
        self.use = QPushButton("Hold it this way")
        self.use.setFont(font(15, True))
        self.use.setEnabled(False)
        self.use.clicked.connect(self._use)
        close = QPushButton("Close")
        close.setFont(font(15))
        close.clicked.connect(self.reject)
        foot.addStretch(1)
        foot.addWidget(self.use)
        foot.addWidget(close)
        column.addLayout(foot)

    def begin(self) -> None:
        """Ask for the comparison."""
        self.busy = True
        self.again.setEnabled(False)
        self.progress.setValue(0)
        self.progress.show()
        self.wanted.emit(self.setup, self.count.value())

    def share(self, done: float) -> None:
        """How much of it is reckoned."""
        self.progress.setValue(round(100 * done))

    def told(self, rows: Any, words: str) -> None:
        """The comparison, or why there is none."""
        self.busy = False
        self.again.setEnabled(True)
        self.progress.hide()
        if not rows:
            self.words.setText(spell(words, self.unit) if words else RULE)
            return
        self.rows = list(rows)
        self.words.setText(RULE)
        self.table.setRowCount(len(self.rows))
        for i, row in enumerate(self.rows):
            lost = f"{row.lost / 100:.1f} cm²" if row.lost > 1.0 else "nothing"
            margin = "–" if row.margin is None else f"{row.margin:.1f} ×"
            span = (
                "–" if row.span is None else show_length(row.span, self.unit, 0 if self.unit == "mm" else 1, mark=True)
            )
            cells = (
                (row.way, spell(row.why_not, self.unit), "", "", "", "")
                if row.why_not
                else (row.way, row.holds or "nothing", f"{row.minutes:.0f} min", margin, span, lost)
            )
            for j, words_ in enumerate(cells):
                item = QTableWidgetItem(words_)
                side = Qt.AlignmentFlag.AlignLeft if j < 2 else Qt.AlignmentFlag.AlignRight
                item.setTextAlignment(side | Qt.AlignmentFlag.AlignVCenter)
                self.table.setItem(i, j, item)
        self.table.selectRow(0)
        self.table.setFocus()

    def _picked(self) -> None:
        row = self.table.currentRow()
        self.use.setEnabled(0 < row < len(self.rows) and bool(self.rows[row].places))

    def _use(self) -> None:
        row = self.table.currentRow()
        if 0 < row < len(self.rows) and self.rows[row].places:
            self.chosen.emit(self.rows[row].places)
            self.accept()

    def reject(self) -> None:
        """Close; what is being reckoned is called off."""
        if self.busy:
            self.called_off.emit()
        super().reject()
