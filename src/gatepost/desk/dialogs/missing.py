# SPDX-License-Identifier: GPL-3.0-or-later
"""Bits that the drawer does not have: waited for, or another taken in their place."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QWidget

from gatepost.core.tools.missing import MissingTool
from gatepost.core.units import spell
from gatepost.desk.dialogs.card import CardDialog, button_of, card, words_of

NOTE = "It is not in the drawer by its kind and size."
WAIT = "Wait for it: nothing is changed, and the job stands as it is planned until the bit is there and kept in the drawer."


class MissingDialog(CardDialog):
    """adapted: a tool of the job as it would be, with another bit's figures under its own number."""

    adapted = pyqtSignal(object)

    def __init__(self, parent: QWidget, found: Sequence[MissingTool], unit: str) -> None:
        super().__init__(parent, "Not in the drawer", 760, 620)
        for one in found:
            box, column = card(f"T{one.tool.number} {one.tool.name}", NOTE)
            column.addWidget(words_of(WAIT, 16))
            for way in one.ways:
                column.addWidget(
                    words_of(
                        spell(f"Or adapt, by {way.tool.name}. {way.does} All is planned and judged anew for it.", unit),
                        16,
                    )
                )
                column.addWidget(
                    button_of(f"Take {way.tool.name} for T{one.tool.number}", lambda tool=way.tool: self._take(tool))
                )
            if not one.ways:
                column.addWidget(words_of("The drawer has nothing of its kind.", 16))
            self.column.addWidget(box)
        if not found:
            self.column.addWidget(words_of("Every bit that this job uses is in the drawer, by its kind and size.", 18))
        self.column.addStretch(1)
        self.buttons(button_of("Close", self.reject, True))

    def _take(self, tool: object) -> None:
        self.adapted.emit(tool)
        self.accept()
