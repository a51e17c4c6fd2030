# SPDX-License-Identifier: GPL-3.0-or-later
"""Practice: which troubles the simulated machine has, and afterwards which were noticed."""

from __future__ import annotations

import random

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QCheckBox, QGridLayout, QWidget

from gatepost.desk.dialogs.card import CardDialog, button_of, card, words_of
from gatepost.desk.theme.style import font
from gatepost.machine.rehearsal import TROUBLES, Trouble

GROUPS = (
    ("Touching off", ("dead plate", "shorted plate", "dirty plate", "tool slips")),
    ("What was left, or leaned on", ("spanner on", "hold in the way", "bump")),
    ("Axes and drives", ("backlash", "missed steps", "drives asleep", "stall")),
    ("Power and cable", ("power loss", "drop link")),
)


def grouped() -> list[tuple[str, list[Trouble]]]:
    """Troubles by what they are of; what has no place of its own comes last."""
    known = {name for _, names in GROUPS for name in names}
    groups = [(title, [t for name in names for t in TROUBLES if t.name == name]) for title, names in GROUPS]
    return [*groups, ("Otherwise", [t for t in TROUBLES if t.name not in known])]


class PracticeDialog(CardDialog):
    """begun: with these troubles."""

    begun = pyqtSignal(tuple)

    def __init__(self, parent: QWidget, notes: dict[str, tuple[str, str]]) -> None:
        """notes: by the name of a trouble that was practised, where it was noticed and what was said, or nothing."""
        super().__init__(parent, "Practise with something wrong", 940, 720)
        self.column.addWidget(
            words_of(
                "The simulated machine starts with what you choose, or with a surprise. Go through the steps at the machine; each check "
                "and each stop tells what it finds. Come back here to see what was noticed, and what was missed.", 15,
            )
        )  # fmt: skip
        self.boxes: dict[str, QCheckBox] = {}
        for title, troubles in grouped():
            if troubles:
                self.column.addWidget(self._group(title, troubles, notes))
        self.column.addStretch(1)
        self.buttons(
            button_of("Surprise me", self._surprise), button_of("Close", self.reject), button_of("Begin with these", self._begin, True)
        )  # fmt: skip

    def _group(self, title: str, troubles: list[Trouble], notes: dict[str, tuple[str, str]]) -> QWidget:
        box, column = card(title)
        grid = QGridLayout()
        grid.setHorizontalSpacing(16)
        grid.setVerticalSpacing(4)
        for i, t in enumerate(troubles):
            check = QCheckBox(t.is_)
            check.setFont(font(15))
            check.setAccessibleName(t.name)
            self.boxes[t.name] = check
            grid.addWidget(check, i, 0)
            where = notes.get(t.name)
            words = f"watch for it at: {t.shows}"
            if where is not None:
                words = f"✓ {where[0]}" if where[0] else f"missed: it shows at {t.shows}"
            told = words_of(words, 14, where is not None and not where[0])
            told.setToolTip(where[1] if where is not None else "")
            if where is None:
                told.setObjectName("muted")
            grid.addWidget(told, i, 1)
        grid.setColumnStretch(0, 1)
        grid.setColumnStretch(1, 1)
        column.addLayout(grid)
        return box

    def _begin(self) -> None:
        self.begun.emit(tuple(n for n, b in self.boxes.items() if b.isChecked()))
        self.accept()

    def _surprise(self) -> None:
        self.begun.emit((random.choice(list(self.boxes)),))
        self.accept()
