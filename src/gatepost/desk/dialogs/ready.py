# SPDX-License-Identifier: GPL-3.0-or-later
"""When jobs are ready, by one pair of hands: lanes, and each job's day with what it may be off by."""

from __future__ import annotations

from datetime import datetime

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QWidget

from gatepost.core.finish.scheme import SPREAD
from gatepost.core.finish.together import JobsTogether
from gatepost.desk.dialogs.card import CardDialog, button_of, card, words_of
from gatepost.desk.dialogs.drawing_box import DrawingBox
from gatepost.drawing.finish_lanes import shop_lanes

NOTE = (
    "One pair of hands, within the shop's hours. A router that runs is not left alone; what dries takes nobody's time. Each is ready between the days that are told, where all hands take less or more: "
    f"by {100 * SPREAD:.0f} % where they are by shop rules, and by as much as they differ where the shop has its own record."
)


class ReadyDialog(CardDialog):
    """more_wanted: other jobs beside it; calendar_wanted: all of it written as a calendar."""

    more_wanted = pyqtSignal()
    calendar_wanted = pyqtSignal()

    def __init__(self, parent: QWidget, theme: str) -> None:
        super().__init__(parent, "When it is ready", 980, 680)
        self.found: JobsTogether | None = None
        box, column = card("A lane for each job", NOTE)
        self.picture = DrawingBox(theme, "Lanes of all jobs over the days", 300)
        column.addWidget(self.picture)
        self.words = words_of("", 16, True)
        column.addWidget(self.words)
        self.column.addWidget(box)
        self.column.addStretch(1)
        self.calendar = button_of("Write a calendar…", self.calendar_wanted.emit)
        self.buttons(
            button_of("Close", self.reject), self.calendar, button_of("Add other jobs…", self.more_wanted.emit, True)
        )
        self.wait()

    def wait(self, share: float | None = None) -> None:
        """It is being worked out. share: of the other jobs that are planned."""
        self.found = None
        self.calendar.setEnabled(False)
        self.words.setText(
            "Working it out…" if share is None else f"Planning the other jobs: {100 * share:.0f} %. Close calls it off."
        )

    def show_ready(self, found: JobsTogether | None, words: str) -> None:
        """When they are; or why that can't be told."""
        self.found = found
        self.calendar.setEnabled(found is not None)
        self.picture.show_drawing(
            shop_lanes(found.names, found.steps, found.table, found.hours) if found is not None else None
        )
        if found is None:
            self.words.setText(words)
            return
        told = [_ready(*one) for one in zip(found.names, found.table.ready, found.sooner, found.later)]
        self.words.setText("\n".join([*told, *found.said]))


def _ready(name: str, ready: datetime, sooner: datetime, later: datetime) -> str:
    """A job's day, and those that it may be instead."""
    either = f" (between {sooner:%a %d %b} and {later:%a %d %b})" if sooner.date() != later.date() else ""
    return f"{name}: {ready:%a %d %b, %H:%M}{either}"
