# SPDX-License-Identifier: GPL-3.0-or-later
"""Some runs beside each other: what differs stands first, and stands out."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QAbstractItemView, QHeaderView, QTableWidget, QTableWidgetItem, QWidget

from gatepost.core.log.filtering import side_by_side
from gatepost.desk.dialogs.card import TitledDialog, button_of, words_of
from gatepost.desk.theme.style import font

MIXED = "Not all of them ran in the shop: minutes of a simulated run are not of the same kind."


class CompareDialog(TitledDialog):
    """runs: as they stand in the log."""

    def __init__(self, parent: QWidget, runs: Sequence[Any]) -> None:
        super().__init__(parent, f"{len(runs)} runs beside each other", 340 + 210 * len(runs), 700)
        rows = sorted(side_by_side(runs), key=lambda row: not row[2])
        self.table = QTableWidget(len(rows), len(runs) + 1)
        self.table.setAccessibleName("Runs beside each other")
        self.table.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        self.table.setSelectionMode(QAbstractItemView.SelectionMode.NoSelection)
        self.table.setHorizontalHeaderLabels(["", *(f"Run {run.id}, {run.started[:10]}" for run in runs)])
        for r, (name, values, differs) in enumerate(rows):
            for c, words in enumerate((name, *values)):
                item = QTableWidgetItem(words)
                item.setFont(font(14, differs and c > 0))
                item.setTextAlignment(Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter)
                self.table.setItem(r, c, item)
        across, down = self.table.horizontalHeader(), self.table.verticalHeader()
        if across is not None and down is not None:
            down.hide()
            down.setSectionResizeMode(QHeaderView.ResizeMode.ResizeToContents)
            across.setSectionResizeMode(QHeaderView.ResizeMode.Stretch)
            across.setSectionResizeMode(0, QHeaderView.ResizeMode.ResizeToContents)
        self.body.addWidget(self.table, 1)
        note = "What differs stands first, in bold."
        self.body.addWidget(words_of(f"{note} {MIXED}" if len({run.kind == "shop" for run in runs}) > 1 else note))
        self.buttons(button_of("Close", self.reject, True))
