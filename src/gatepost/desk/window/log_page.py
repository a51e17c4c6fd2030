# SPDX-License-Identifier: GPL-3.0-or-later
"""The log: every run in a table; the chosen one in words, with a remark that can be added."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Any

from PyQt6.QtCore import QSize, pyqtSignal
from PyQt6.QtWidgets import (
    QAbstractItemView,
    QHBoxLayout,
    QHeaderView,
    QLineEdit,
    QPushButton,
    QTableView,
    QVBoxLayout,
    QWidget,
)

from gatepost.core.findings import Figure, Finding, Level, Report
from gatepost.core.log.filtering import KnownRow, choices, chosen, known, totals
from gatepost.desk.theme.words import Label
from gatepost.desk.window.log_filter import LogFilter
from gatepost.desk.window.log_table import LogTable
from gatepost.logbook.notebook import EARLY

PICTURE = QSize(56, 32)
MOST_COMPARED = 4
WIDTHS = {0: 44, 1: 92, 3: 54, 4: 124, 5: 112, 6: 72, 7: 72}  # px of columns


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
    said += [
        Finding("log.mark", Level.NOTE, "log", f"{m['at'][11:19]}: “{m['what']}”, at block {m.get('block', 0)}.")
        for m in run.marks
        if isinstance(m, dict) and m.get("at") and m.get("what")
    ]
    if run.remarks:
        said.append(Finding("log.remark", Level.NOTE, "log", f"Remark: {run.remarks}"))
    state = {"done": Level.OK}.get(run.state, Level.NOTE)
    said.insert(
        0,
        Finding("log.state", state, "log", f"{run.state}, {run.kind}. Begun {run.started[:16].replace('T', ' at ')}."),
    )
    return Report("log", "", f"run {run.id}: {run.program}", tuple(figures), tuple(said))


def several(runs: list[Any]) -> Report:
    """Some runs together: how many, and their minutes; shop and simulated apart."""
    figures = []
    for kind, (_, planned, real) in sorted(totals(runs).items()):
        where = "in the shop" if kind == "shop" else "simulated"
        figures += [Figure(f"Planned, {where}", planned, "minutes"), Figure(f"Real, {where}", real, "minutes")]
    return Report("log", "", f"{len(runs)} runs", tuple(figures))


class LogPage(QWidget):
    """What is wanted of it, the table, a line for a remark, and what can be done with a row."""

    chosen = pyqtSignal(object)
    compared = pyqtSignal(object)  # the runs, a list
    resumed = pyqtSignal(int)  # the run to go on with
    remarked = pyqtSignal(int, str)
    act_wanted = pyqtSignal(str)

    def __init__(self) -> None:
        super().__init__()
        self.known: list[KnownRow] = []
        column = QVBoxLayout(self)
        column.setContentsMargins(16, 10, 16, 10)
        self.empty = Label("No run yet. Each run gets a row here before it starts.")
        self.empty.setObjectName("muted")
        column.addWidget(self.empty)
        self.filter = LogFilter()
        self.filter.changed.connect(self.look)
        column.addWidget(self.filter)
        self.table = QTableView()
        self.model = LogTable(self)
        self.table.setModel(self.model)
        self.table.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        self.table.setSelectionMode(QAbstractItemView.SelectionMode.ExtendedSelection)
        self.table.setAccessibleName("Runs")
        self.table.setIconSize(PICTURE)
        self.table.setTabKeyNavigation(False)
        self.table.setWordWrap(False)
        vertical, horizontal = self.table.verticalHeader(), self.table.horizontalHeader()
        if vertical is not None and horizontal is not None:
            vertical.hide()
            vertical.setSectionResizeMode(QHeaderView.ResizeMode.Fixed)
            vertical.setDefaultSectionSize(PICTURE.height() + 8)
            horizontal.setSectionResizeMode(QHeaderView.ResizeMode.Interactive)
            horizontal.setSectionResizeMode(2, QHeaderView.ResizeMode.Stretch)
            for c, wide in WIDTHS.items():
                horizontal.resizeSection(c, wide)
        selection = self.table.selectionModel()
        if selection is not None:
            selection.selectionChanged.connect(self._choose)
        row = QHBoxLayout()
        self.remark = QLineEdit()
        self.remark.setPlaceholderText("What to do otherwise next time")
        self.remark.setAccessibleName("Remark")
        self.remark.returnPressed.connect(self._keep)
        row.addWidget(self.remark, 1)
        self.keep = self._button(row, "Keep remark", "Keeps these words with the chosen run.", self._keep)
        self.lesson = self._button(
            row, "Make a lesson…", "What to do otherwise, for the jobs that it is true of.", "lesson"
        )
        self.go_on = self._button(
            row, "Resume this run…", "Resumes a run of this job that ended early, after the last block that was done.", self._resume
        )  # fmt: skip
        below = QHBoxLayout()
        self.acts = {
            name: self._button(below, words, tip, name)
            for name, words, tip in (
                (
                    "compare",
                    "Compare…",
                    f"Chosen runs beside each other, {MOST_COMPARED} at the most: with Ctrl or Shift several are chosen.",
                ),
                ("diary", "Diary…", "All that happened to the open job, in its order."),
                ("judge", "Judge it…", "How it came out, by the points that were promised."),
                (
                    "result_photo",
                    "Photo…",
                    "A photo of the finished piece laid over the plan, and how far it lies from it.",
                ),
                ("lessons", "Lessons…", "All that was learned: where it comes back, and whether it held."),
                (
                    "due",
                    "Due…",
                    "Skimming, tram, collets, square, plates: by hours and by dates; handing over.",
                ),
                ("registers", "Registers…", "Machines, tools, plates, fixtures, woods and finishes, with their dates."),
                ("export_log", "Write rows…", "The rows shown, as CSV or JSON."),
            )
        }
        below.addStretch(1)
        column.insertLayout(0, below)
        column.addLayout(row)
        column.addWidget(self.table, 1)  # at the foot: messages stand over it, and never over a key
        self.show_runs([])

    def _button(self, row: QHBoxLayout, words: str, tip: str, act: str | Callable[[], None]) -> QPushButton:
        button = QPushButton(words)
        button.setToolTip(tip)
        button.clicked.connect(lambda _: self.act_wanted.emit(act) if isinstance(act, str) else act())
        row.addWidget(button)
        return button

    @property
    def picture(self) -> Callable[[Any], Path | None]:
        """Of a run's sign, where one is kept."""
        return self.model.picture

    @picture.setter
    def picture(self, of: Callable[[Any], Path | None]) -> None:
        self.model.picture = of

    @property
    def rows(self) -> list[Any]:
        """The rows shown."""
        return self.model.rows

    def show_runs(self, rows: list[Any]) -> None:
        """Show rows, newest first, those that are wanted."""
        self.show_known([known(run) for run in rows])

    def show_known(self, rows: list[KnownRow]) -> None:
        """The same, where they were looked through already."""
        self.known = rows
        self.filter.show_choices(choices(self.known))
        self.empty.setVisible(not rows)
        self.filter.setVisible(bool(rows))
        self.look()

    def look(self) -> None:
        """Show those that are wanted of all."""
        was = self.current()
        wanted = self.filter.wanted()
        rows = chosen(self.known, wanted)
        self.model.show(rows)
        self.filter.told.setText(self._told(rows))
        if rows:
            index = next((i for i, r in enumerate(rows) if was is not None and r.id == was.id), 0)
            self.table.selectRow(index)
        self._choose()

    def _told(self, rows: list[Any]) -> str:
        """How many, and minutes; shop and simulated apart."""
        wrong = self.filter.wrong()
        if wrong:
            return f"“{wrong[0]}” is not a date: type it as 2026-03-02."
        parts = [f"{len(rows)} of {len(self.known)} runs"]
        for kind, (count, planned, real) in sorted(totals(rows).items()):
            ratio = f", real × {real / planned:.2f}" if planned > 0.0 and real > 0.0 else ""
            parts.append(f"{count} {'in the shop' if kind == 'shop' else 'simulated'}{ratio}")
        return " · ".join(parts)

    def select(self, number: int) -> None:
        """Choose the row of a run; all are shown again where it is not among them."""
        index = next((i for i, r in enumerate(self.rows) if r.id == number), None)
        if index is None and any(k.run.id == number for k in self.known):
            self.filter.show_all()
            index = next((i for i, r in enumerate(self.rows) if r.id == number), None)
        if index is not None:
            self.table.selectRow(index)
            self.table.scrollTo(self.model.index(index, 0))

    def current(self) -> Any:
        """The chosen run, the first of several, or nothing."""
        picked = self.picked()
        return picked[0] if picked else None

    def picked(self) -> list[Any]:
        """The chosen runs, as they stand in the table."""
        selection = self.table.selectionModel()
        rows = sorted(index.row() for index in selection.selectedRows()) if selection is not None else []
        return [self.rows[r] for r in rows if r < len(self.rows)]

    def _choose(self) -> None:
        picked = self.picked()
        one = picked[0] if len(picked) == 1 else None
        for button in (self.keep, self.lesson, self.remark):
            button.setEnabled(one is not None)
        self.go_on.setEnabled(one is not None and one.state in EARLY)
        self.acts["compare"].setEnabled(1 < len(picked) <= MOST_COMPARED)
        self.remark.setText(one.remarks if one is not None else "")
        if one is not None:
            self.chosen.emit(one)
        elif picked:
            self.compared.emit(picked)

    def _resume(self) -> None:
        run = self.current()
        if run is not None:
            self.resumed.emit(run.id)

    def _keep(self) -> None:
        run = self.current()
        if run is not None:
            self.remarked.emit(run.id, self.remark.text().strip())
