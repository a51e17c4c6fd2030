# SPDX-License-Identifier: GPL-3.0-or-later
"""A test groove: two depths and two widths typed, and what the V really is."""

from __future__ import annotations

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QWidget

from gatepost.core.errors import OperatorError
from gatepost.core.job.tool import Tool
from gatepost.core.tools.groove import told, true_v, values_of
from gatepost.core.units import LengthError, parse_length, show_length, spell
from gatepost.desk.dialogs.card import CardDialog, button_of, card, figures_of, words_of

NOTE = (
    "On scrap, with Z0 touched on its top: one groove at each depth, a hand's length. Rub the fuzz off, and measure straight across, edge to edge, with calipers. "
    "The deeper one tells the angle, the shallower the tip."
)
FIELDS = ("First groove, deep", "First groove, wide", "Second groove, deep", "Second groove, wide")


class GrooveDialog(CardDialog):
    """depths: that its program cuts. used: angle and tip, or radius, for the tool; scrap_wanted: a job that cuts them."""

    used = pyqtSignal(dict)
    scrap_wanted = pyqtSignal()

    def __init__(self, parent: QWidget, tool: Tool, unit: str, depths: tuple[float, float]) -> None:
        super().__init__(parent, f"What is tool {tool.number} really?", 700, 560)
        self._tool, self._unit = tool, unit
        self._values: dict[str, float] = {}
        box, column = card(f"A test groove of {tool.name}", NOTE)
        column.addWidget(button_of("Make a job that cuts both on scrap…", self._wanted))
        form, self.fields = figures_of(FIELDS, lambda: self.work_out())
        column.addLayout(form)
        self.words = words_of("", 18, True)
        column.addWidget(self.words)
        self.column.addWidget(box)
        self.column.addStretch(1)
        self.use = button_of("Enter it so", self._use, True)
        self.use.setObjectName("first")
        self.buttons(button_of("Close", self.reject), self.use)
        for field, depth in zip(self.fields[::2], depths):
            field.setText(show_length(depth, unit))
        self.work_out()

    def work_out(self) -> None:
        """What the V is, as it is typed."""
        self.use.setEnabled(False)
        try:
            d1, w1, d2, w2 = (parse_length(f.text(), self._unit) for f in self.fields)
        except LengthError:
            self.words.setText("Type both depths and both widths.")
            return
        try:
            v = true_v(self._tool, (d1, d2), (w1, w2))
        except OperatorError as error:
            self.words.setText(spell(str(error), self._unit))
            return
        self.words.setText(spell(f"It is {told(self._tool, v)}", self._unit))
        self._values = values_of(self._tool, v)
        self.use.setEnabled(True)

    def _use(self) -> None:
        self.used.emit(self._values)
        self.accept()

    def _wanted(self) -> None:
        self.scrap_wanted.emit()
        self.reject()
