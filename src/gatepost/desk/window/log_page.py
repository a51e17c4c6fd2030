# SPDX-License-Identifier: GPL-3.0-or-later
"""The log: every run in a table; the chosen one in words, with a remark that can be added."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Any

from PyQt6.QtCore import QSize, Qt, pyqtSignal
from PyQt6.QtGui import QIcon
from PyQt6.QtWidgets import (
    QAbstractItemView,
    QHBoxLayout,
    QHeaderView,
    QLineEdit,
    QPushButton,
    QTableWidget,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from gatepost.core.findings import Figure, Finding, Level, Report
from gatepost.desk.theme.words import Label
from gatepost.logbook.notebook import EARLY

PICTURE = QSize(76, 44)
COLUMNS = ("No", "Started", "Job", "Program", "State", "Kind", "Planned", "Real")


def report_of(run: Any) -> Report:
    """One run as the slate shows it."""
    figures = [Figure("Planned", run.planned_minutes, "minutes")]
    if run.real_minutes is not None:
        figures.append(
            Figure(
                "Real, by the machine's clock" if run.kind.startswith("simulated") else "Real, as typed",
                run.real_minutes,
                "minutes",
            )
        )
    figures += [Figure("Blocks done", f"{run.blocks_done} of {run.blocks}", "words")]
    figures += [Figure(f"{axis.upper()}0 on the machine", value, places=2) for axis, value in sorted(run.zeros.items())]
    said = [
        Finding(
            "log.row",
            Level.NOTE,
            "log",
            f"{run.tool}, in the {run.setup} setup. Board: {run.blank}. Program {run.fingerprint}.",
        )
    ]
    if run.reason:
        said.append(Finding("log.reason", Level.CARE, "log", run.reason, accepted="it is written down"))
    said += [Finding("log.asked", Level.NOTE, "log", f"{s['at'][11:19]}: {s['what']} asked for.") for s in run.stops]
    if run.remarks:
        said.append(Finding("log.remark", Level.NOTE, "log", f"Remark: {run.remarks}"))
    state = {"done": Level.OK}.get(run.state, Level.NOTE)
    said.insert(0, Finding("log.state", state, "log", f"{run.state}, {run.kind}."))
    return Report("log", "", f"run {run.id}: {run.program}", tuple(figures), tuple(said))


class LogPage(QWidget):
    """The table and a line for a remark."""

    chosen = pyqtSignal(object)
    resumed = pyqtSignal(int)  # the run to go on with
    remarked = pyqtSignal(int, str)

    def __init__(self) -> None:
        super().__init__()
        self.rows: list[Any] = []
        self.picture: Callable[[Any], Path | None] = lambda run: None  # of a run's sign, where one is kept
        column = QVBoxLayout(self)
        column.setContentsMargins(16, 10, 16, 10)
        self.empty = Label("No run yet. Each run gets a row here before it starts.")
        self.empty.setObjectName("muted")
        column.addWidget(self.empty)
        self.table = QTableWidget(0, len(COLUMNS))
        self.table.setHorizontalHeaderLabels(COLUMNS)
        self.table.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        self.table.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        self.table.setSelectionMode(QAbstractItemView.SelectionMode.SingleSelection)
        self.table.setAccessibleName("Runs")
        self.table.setIconSize(PICTURE)
        self.table.setTabKeyNavigation(False)
        vertical, horizontal = self.table.verticalHeader(), self.table.horizontalHeader()
        if vertical is not None and horizontal is not None:
            vertical.hide()
            vertical.setDefaultSectionSize(PICTURE.height() + 8)
            horizontal.setSectionResizeMode(QHeaderView.ResizeMode.ResizeToContents)
            horizontal.setSectionResizeMode(2, QHeaderView.ResizeMode.Stretch)
        self.table.itemSelectionChanged.connect(self._choose)
        column.addWidget(self.table, 1)
        row = QHBoxLayout()
        self.remark = QLineEdit()
        self.remark.setPlaceholderText("What to do otherwise next time")
        self.remark.setAccessibleName("Remark")
        keep = QPushButton("Keep remark")
        keep.clicked.connect(self._keep)
        self.remark.returnPressed.connect(self._keep)
        row.addWidget(self.remark, 1)
        row.addWidget(keep)
        self.go_on = QPushButton("Resume this run…")
        self.go_on.setToolTip("Resumes a run of this job that ended early, after the last block that was done.")
        self.go_on.clicked.connect(self._resume)
        self.go_on.setEnabled(False)
        row.addWidget(self.go_on)
        column.addLayout(row)

    def show_runs(self, rows: list[Any]) -> None:
        """Show rows, newest first."""
        self.rows = rows
        self.empty.setVisible(not rows)
        self.table.setRowCount(len(rows))
        for r, run in enumerate(rows):
            real = "" if run.real_minutes is None else f"{run.real_minutes:.1f} min"
            values = (
                str(run.id),
                run.started[:16].replace("T", " "),
                run.job,
                run.program,
                run.state,
                run.kind,
                f"{run.planned_minutes:.1f} min",
                real,
            )
            for c, value in enumerate(values):
                item = QTableWidgetItem(value)
                if c == 2:
                    shown = self.picture(run)
                    if shown is not None and shown.exists():
                        item.setIcon(QIcon(str(shown)))
                if c in (0, 6, 7):
                    item.setTextAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
                self.table.setItem(r, c, item)
        if rows:
            self.table.selectRow(0)
            self._choose()

    def current(self) -> Any:
        """The chosen run, or nothing."""
        row = self.table.currentRow()
        return self.rows[row] if 0 <= row < len(self.rows) else None

    def _choose(self) -> None:
        run = self.current()
        if run is not None:
            self.remark.setText(run.remarks)
            self.go_on.setEnabled(run.state in EARLY)
            self.chosen.emit(run)

    def _resume(self) -> None:
        run = self.current()
        if run is not None:
            self.resumed.emit(run.id)

    def _keep(self) -> None:
        run = self.current()
        if run is not None:
            self.remarked.emit(run.id, self.remark.text().strip())
