# SPDX-License-Identifier: GPL-3.0-or-later
"""A photo of the finished piece: its corners are clicked, the plan is laid over it, and what differs is told in mm."""

from __future__ import annotations

from typing import Any

import numpy as np
from PyQt6.QtCore import pyqtSignal
from PyQt6.QtGui import QImage
from PyQt6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from gatepost.core.log.over_plan import OverPlan
from gatepost.core.units import LengthError, edit_length, mm, parse_length, spell
from gatepost.desk.dialogs.card import TitledDialog, button_of, card, figures_of, words_of
from gatepost.desk.dialogs.photo_view import PhotoView
from gatepost.desk.theme.words import Label

CORNERS = ("front left", "front right", "back right", "back left")
WORST = 4  # shapes that are told by name


class ResultPhotoDialog(TitledDialog):
    """over_wanted: marks, px, and the piece's size, mm; kept: what was found, to be kept with how the piece came out."""

    over_wanted = pyqtSignal(list, tuple)
    kept = pyqtSignal(object)

    def __init__(self, parent: QWidget, data: bytes, name: str, size: tuple[float, float], unit: str) -> None:
        super().__init__(parent, "The piece over its plan", 1180, 720)
        self.data, self.name, self.unit = data, name, unit
        self.found: OverPlan | None = None
        self._asked = False  # of the corners and the size as they stand
        self.over = button_of("Lay it over the plan", self._over, True)
        self.keep = button_of("Keep what was found", self._keep)
        row = QHBoxLayout()
        self.body.addLayout(row, 1)
        self.view = PhotoView(QImage.fromData(data))
        self.view.changed.connect(self._marked)
        row.addWidget(self.view, 1)
        side = QVBoxLayout()
        row.addLayout(side)
        box, column = card(
            "Click its four corners",
            "As one reads it: front left first, then round against the clock. Take the photo from far, in even light: a groove that is lit from one side seems to lie beside itself.",
        )
        self.next = Label()
        self.told = words_of("")
        column.addWidget(self.next)
        side.addWidget(box)  # fmt: skip
        box, column = card("How large it is, measured", "Between the corners that are clicked.")
        form, (self.across, self.up) = figures_of(("Across", "Up"), self._marked)
        for field, value in zip((self.across, self.up), size):
            field.setText(edit_length(round(value, 2), unit))
        column.addLayout(form)
        side.addWidget(box)
        self.told.setMinimumWidth(330)
        self.told.setMaximumWidth(330)
        side.addWidget(self.told)
        side.addStretch(1)
        self.buttons(button_of("Close", self.reject), self.keep, self.over)
        self._marked()

    def _marked(self) -> None:
        count = len(self.view.marks)
        self.next.setText(f"Next: {CORNERS[count]}." if count < 4 else "All four are set. Drag one to put it right.")
        self.over.setEnabled(count == 4)
        self.found, self._asked = None, False
        self.view.drawn = []
        self.keep.setEnabled(False)

    def _over(self) -> None:
        try:
            size = (parse_length(self.across.text(), self.unit), parse_length(self.up.text(), self.unit))
            if min(size) <= 0.0:
                raise LengthError("The piece has a size.")
        except LengthError as error:
            self.told.setText(str(error))
            return
        self.told.setText("Looking for what was carved…")
        self.over.setEnabled(False)
        self._asked = True
        self.over_wanted.emit(list(self.view.marks), size)

    def show_found(self, found: Any) -> None:
        """How it lies over the plan; nothing where a corner or the size was changed since it was asked."""
        if not self._asked:
            return
        self.found = found
        self.view.drawn = list(found.seen)
        self.view.outline = np.array(self.view.marks)  # what is laid over it is shown with that
        self.view.update()
        worst = sorted(found.each, key=lambda f: -f.off)[:WORST]
        each = "\n".join(f"{f.name}: {mm(f.right, 2)} right, {mm(f.behind, 2)} back" for f in worst)
        self.told.setText(
            spell(f"{found.told()} {found.how()}\n\nThe yellow lines are the plan.\n\nFarthest:\n{each}", self.unit)
        )
        self.over.setEnabled(True)
        self.keep.setEnabled(True)

    def refused(self, words: str) -> None:
        """Why it can't be told."""
        self.told.setText(words)
        self.over.setEnabled(len(self.view.marks) == 4)

    def _keep(self) -> None:
        if self.found is not None:
            self.kept.emit(self.found)
            self.accept()
