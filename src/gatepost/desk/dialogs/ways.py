# SPDX-License-Identifier: GPL-3.0-or-later
"""Places and ways of holding beside each other, each with a small bed: worked out by the worker, chosen here."""

from __future__ import annotations

from typing import Any

from PyQt6.QtCore import QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QPainter, QPixmap
from PyQt6.QtWidgets import (
    QAbstractItemView,
    QHBoxLayout,
    QHeaderView,
    QLabel,
    QProgressBar,
    QPushButton,
    QSpinBox,
    QTableWidget,
    QTableWidgetItem,
    QWidget,
)

from gatepost.core.units import show_length, spell
from gatepost.desk.dialogs.card import TitledDialog
from gatepost.desk.theme.style import font
from gatepost.desk.theme.table import THEMES
from gatepost.desk.theme.words import Label
from gatepost.desk.view.paint import Brush, fitted
from gatepost.drawing.small import small_bed

COLUMNS = ("", "Way", "Holds", "To set, about", "Margin", "Longest free span", "No tool reaches")
SMALL = (132, 68)  # px
RULE = (
    "Places: first all clear of every move, then the shortest longest free span, then fewest moved. Margins are estimates, good to a "
    "factor of two; minutes are starting values, shop rules."
)


class WaysDialog(TitledDialog):
    """Asks for a comparison, shows it, and says which way was chosen."""

    wanted = pyqtSignal(str, int)  # setup, how many clamps
    called_off = pyqtSignal()
    chosen = pyqtSignal(object)  # the holds of a way

    def __init__(self, parent: QWidget, plan: Any, setup: str, count: int, theme: str) -> None:
        super().__init__(parent, f"Ways to hold it, {plan.setup(setup).setup.title or setup} setup", 1120, 720)
        self._plan, self._theme = plan, theme
        self.setup, self.unit = setup, plan.job.unit
        self.rows: list[Any] = []
        self.busy = False
        column = self.body
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
        self.table.setTabKeyNavigation(False)
        self.table.itemSelectionChanged.connect(self._picked)
        self.table.itemDoubleClicked.connect(lambda _: self._use())
        head, side = self.table.horizontalHeader(), self.table.verticalHeader()
        assert head is not None and side is not None
        head.setSectionResizeMode(QHeaderView.ResizeMode.ResizeToContents)
        head.setSectionResizeMode(2, QHeaderView.ResizeMode.Stretch)
        head.setSectionResizeMode(0, QHeaderView.ResizeMode.Fixed)
        self.table.setColumnWidth(0, SMALL[0] + 8)
        head.setFont(font(14, True))
        side.hide()
        column.addWidget(self.table, 1)
        self.words = Label(RULE)
        self.words.setFont(font(14))
        self.words.setWordWrap(True)
        column.addWidget(self.words)
        self.progress = QProgressBar()
        self.progress.setRange(0, 100)
        self.progress.hide()
        column.addWidget(self.progress)
        self.use = QPushButton("Hold it this way")
        self.use.setObjectName("first")
        self.use.setEnabled(False)
        self.use.clicked.connect(self._use)
        close = QPushButton("Close")
        close.clicked.connect(self.reject)
        self.buttons(close, self.use)

    def begin(self) -> None:
        """Ask for the comparison."""
        self.busy = True
        self.again.setEnabled(False)
        self.progress.setValue(0)
        self.progress.show()
        self.wanted.emit(self.setup, self.count.value())

    def share(self, done: float) -> None:
        """How far it is."""
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
        best = self._best()
        for i, row in enumerate(self.rows):
            for j, words_ in enumerate(self._cells(row)):
                item = QTableWidgetItem(words_)
                side = Qt.AlignmentFlag.AlignLeft if j < 3 else Qt.AlignmentFlag.AlignRight
                item.setTextAlignment(side | Qt.AlignmentFlag.AlignVCenter)
                if i in best.get(j, ()):
                    item.setText(f"★ {words_}")
                    item.setFont(font(15, True))
                    item.setToolTip("The best of its column")
                self.table.setItem(i, j, item)
            picture = QLabel()
            picture.setPixmap(self._small(row.places))
            picture.setAccessibleName(f"The bed with {row.holds or 'nothing'}")
            self.table.setCellWidget(i, 0, picture)
            self.table.setRowHeight(i, SMALL[1] + 6)
        self.table.selectRow(0)
        self.table.setFocus()

    def _cells(self, row: Any) -> tuple[str, ...]:
        if row.why_not:
            return "", row.way, spell(row.why_not, self.unit), "", "", "", ""
        lost = f"{row.lost / 100:.1f} cm²" if row.lost > 1.0 else "nothing"
        margin = "–" if row.margin is None else f"{row.margin:.1f} ×"
        span = "–" if row.span is None else show_length(row.span, self.unit, 0 if self.unit == "mm" else 1, mark=True)
        return "", row.way, row.holds or "nothing", f"{row.minutes:.0f} min", margin, span, lost

    def _best(self) -> dict[int, list[int]]:
        """By column the rows with its best figure, among those that can be done and hold."""
        rows = [(i, r) for i, r in enumerate(self.rows) if r.places and not r.why_not]
        out: dict[int, list[int]] = {}
        for column, name, sign in ((3, "minutes", 1), (4, "margin", -1), (5, "span", 1), (6, "lost", 1)):
            told = [(sign * float(v), i) for i, r in rows if (v := getattr(r, name)) is not None]
            least = min((v for v, _ in told), default=0.0)
            if any(v > least + 1e-6 for v, _ in told):  # where all are alike none is best
                out[column] = [i for v, i in told if v <= least + 1e-6]
        return out

    def _small(self, places: Any) -> QPixmap:
        """A small bed with these holds."""
        pixmap = QPixmap(*SMALL)
        pixmap.fill(QColor(THEMES[self._theme]["canvas"]))
        p = QPainter(pixmap)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        drawing = small_bed(self._plan, self.setup, places)
        room = QRectF(2, 2, SMALL[0] - 4, SMALL[1] - 4)
        Brush(p, fitted(drawing, room), self._theme).draw(drawing, room)
        p.end()
        return pixmap

    def _picked(self) -> None:
        row = self.table.currentRow()
        self.use.setEnabled(0 < row < len(self.rows) and bool(self.rows[row].places))

    def _use(self) -> None:
        row = self.table.currentRow()
        if 0 < row < len(self.rows) and self.rows[row].places:
            self.chosen.emit(self.rows[row].places)
            self.accept()

    def reject(self) -> None:
        """Close; what is being worked out is called off."""
        if self.busy:
            self.called_off.emit()
        super().reject()
