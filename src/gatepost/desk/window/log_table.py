# SPDX-License-Identifier: GPL-3.0-or-later
"""Rows of the log as a table shows them: only what is looked at is made."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Any

from PyQt6.QtCore import QAbstractTableModel, QModelIndex, QObject, Qt
from PyQt6.QtGui import QIcon

COLUMNS = ("No", "Started", "Job", "Wood", "Tool", "Ended", "Plan, min", "Real, min")
NUMBERS = (0, 6, 7)
Role = Qt.ItemDataRole


def _minutes(value: float | None) -> str:
    return "" if value is None else f"{value:.1f}"


class LogTable(QAbstractTableModel):
    """picture: of a run's sign, where one is kept."""

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        self.rows: list[Any] = []
        self.picture: Callable[[Any], Path | None] = lambda run: None
        self._icons: dict[Path, QIcon] = {}

    def show(self, rows: list[Any]) -> None:
        """Other rows."""
        self.beginResetModel()
        self.rows = rows
        self._icons.clear()
        self.endResetModel()

    def rowCount(self, parent: QModelIndex = QModelIndex()) -> int:  # noqa: B008 - the toolkit's way
        """How many."""
        return 0 if parent.isValid() else len(self.rows)

    def columnCount(self, parent: QModelIndex = QModelIndex()) -> int:  # noqa: B008 - the toolkit's way
        """How many columns."""
        return 0 if parent.isValid() else len(COLUMNS)

    def headerData(self, section: int, orientation: Qt.Orientation, role: int = Role.DisplayRole) -> Any:
        """Their names."""
        if orientation == Qt.Orientation.Horizontal and role == Role.DisplayRole:
            return COLUMNS[section]
        return None

    def data(self, index: QModelIndex, role: int = Role.DisplayRole) -> Any:
        """Of a cell."""
        run, column = self.rows[index.row()], index.column()
        if role == Role.DisplayRole:
            return self.words(run)[column]
        if role == Role.ToolTipRole:
            return f"{run.started[11:16]}, {run.job}, {run.setup}: {run.program}. {run.blank}"
        if role == Role.TextAlignmentRole and column in NUMBERS:
            return Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
        if role == Role.DecorationRole and column == 2:
            path = self.picture(run)
            return self._icon(path) if path is not None else None
        return None

    def _icon(self, path: Path) -> QIcon | None:
        if path not in self._icons:
            self._icons[path] = QIcon(str(path)) if path.exists() else QIcon()
        return self._icons[path]

    @staticmethod
    def words(run: Any) -> tuple[str, ...]:
        """A row, cell by cell."""
        state = run.state if run.kind == "shop" else f"{run.state}, simulated"
        return (
            str(run.id), run.started[:10], run.job, run.wood, run.tool, state,
            _minutes(run.planned_minutes), _minutes(run.real_minutes),
        )  # fmt: skip
