# SPDX-License-Identifier: GPL-3.0-or-later
"""What of the bed is to be skimmed: where, how deep, with which tool, and how far apart its rows."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QComboBox, QFormLayout, QLineEdit, QWidget

from gatepost.core.job.machine import Machine
from gatepost.core.job.tool import Tool
from gatepost.core.plan.ready import rough_skim
from gatepost.core.units import LengthError, mm, parse_length, show_length, spell
from gatepost.desk.dialogs.card import CardDialog, button_of, card, words_of
from gatepost.desk.theme.style import font

Area = tuple[float, float, float, float]
NOTE = (
    "Everything off the bed: clamps, fences, screws, inserts that stand up. It is planned as a job of its own in which the spoilboard is the wood, and run like any "
    "other. Afterwards a Z0 on the bed is lost in every setup. Its dust is fine: extraction, and a mask of the class that local rules ask for."
)
FIELDS = ("From X", "From Y", "Long", "Wide", "Takes off")
ROWS = 0.45  # of the diameter from row to row
LEAST_ROWS, MOST_ROWS = 0.05, 0.95


class SkimDialog(CardDialog):
    """wanted: tool, area on the bed, depth and stepover."""

    wanted = pyqtSignal(int, tuple, float, float)

    def __init__(
        self,
        parent: QWidget,
        tools: Sequence[Tool],
        machine: Machine,
        unit: str,
        whole: Callable[[Machine, Tool], Area],
    ) -> None:
        super().__init__(parent, "Skim the bed", 680, 640)
        self._tools = [t for t in tools if t.kind in ("surfacing", "flat")]
        self._machine, self._unit, self._whole = machine, unit, whole
        box, column = card("A flat bed, square to the spindle", NOTE)
        form = QFormLayout()
        self.tool = QComboBox()
        self.tool.addItems([f"T{t.number} {t.name}" for t in self._tools])
        self.tool.setAccessibleName("Tool")
        form.addRow("Tool", self.tool)
        self.fields: list[QLineEdit] = []
        for words in FIELDS:
            field = QLineEdit()
            field.setAccessibleName(words)
            self.fields.append(field)
            form.addRow(words, field)
        self.rows = QLineEdit(f"{ROWS:g}")
        self.rows.setAccessibleName("Rows apart, × diameter")
        form.addRow("Rows apart, × diameter", self.rows)
        for one in (self.tool, *self.fields, self.rows):
            one.setFont(font(16))
        column.addLayout(form)
        self.words = words_of("", 16, True)
        column.addWidget(self.words)
        self.column.addWidget(box)
        self.column.addStretch(1)
        self.use = button_of("Plan it", self._use, True)
        self.use.setObjectName("first")
        self.buttons(button_of("Close", self.reject), self.use)
        self.tool.currentIndexChanged.connect(lambda _: self._fill())
        for field in (*self.fields, self.rows):
            field.textChanged.connect(self.work_out)
        self._fill()

    def _fill(self) -> None:
        if not self._tools:
            self.words.setText("No surfacing cutter and no end mill is among this job's tools.")
            self.use.setEnabled(False)
            return
        area = self._whole(self._machine, self._tools[max(self.tool.currentIndex(), 0)])
        for field, value in zip(self.fields, (*area, 0.3)):
            field.setText(show_length(value, self._unit))

    def _values(self) -> tuple[Area, float, float] | None:
        try:
            x, y, length, width, deep = (parse_length(f.text(), self._unit) for f in self.fields)
            rows = float(self.rows.text().replace(",", "."))
        except (LengthError, ValueError):
            return None
        return (
            ((x, y, length, width), deep, rows)
            if length > 0 and width > 0 and LEAST_ROWS <= rows <= MOST_ROWS
            else None
        )

    def work_out(self) -> None:
        """Whether it can be planned."""
        values = self._values()
        self.use.setEnabled(values is not None and bool(self._tools))
        if values is None:
            self.words.setText(f"Type lengths, and rows from {LEAST_ROWS:g} to {MOST_ROWS:g} of the diameter apart.")
            return
        (_, _, length, width), deep, rows = values
        tool = self._tools[max(self.tool.currentIndex(), 0)]
        rough = rough_skim(self._machine, tool, length, width, deep, rows)
        self.words.setText(
            spell(
                f"About {rough.rows} rows, {rough.minutes:.0f} min. The spoilboard stays {mm(rough.left)} thick.",
                self._unit,
            )
        )

    def _use(self) -> None:
        values = self._values()
        if values is not None:
            self.wanted.emit(self._tools[max(self.tool.currentIndex(), 0)].number, *values)
            self.accept()
