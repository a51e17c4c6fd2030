# SPDX-License-Identifier: GPL-3.0-or-later
"""Rival designs beside each other on the same wood: each with its picture, its minutes and what stands against it."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np
from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QImage, QPixmap
from PyQt6.QtWidgets import QGridLayout, QHBoxLayout, QLabel, QLineEdit, QWidget

from gatepost.core.plan.versions import Version
from gatepost.core.units import spell
from gatepost.desk.dialogs.card import CardDialog, button_of, card, words_of
from gatepost.desk.theme.style import font

ACROSS = 2
WIDE, TALL = 440, 190  # px of a picture
PRESENT = ""  # the id of the one that is worked on


class DesignsDialog(CardDialog):
    """pictured: the picture of a design is wanted; taken, gone: one is to be worked on, or taken away; kept: the present one is to be kept, as something is wrong with it, and what is gone on
    with has another name; approve_wanted: somebody approves one, by its id; moved_wanted: what moved from one to the present is to be told; sheet_wanted: all of them on paper."""

    pictured = pyqtSignal(str)
    taken = pyqtSignal(str)
    gone = pyqtSignal(str)
    kept = pyqtSignal(str, str)
    approve_wanted = pyqtSignal(str)
    moved_wanted = pyqtSignal(str)
    sheet_wanted = pyqtSignal()

    def __init__(self, parent: QWidget, designs: Sequence[Version]) -> None:
        super().__init__(parent, "Designs for this board", 1020, 720)
        keeping, column = card(
            "Try another",
            "The present design is kept under its name; what you go on with has the name that you type here.",
        )
        row = QHBoxLayout()
        self.name = QLineEdit()
        self.name.setFont(font(15))
        self.name.setPlaceholderText("Name of the new design")
        self.name.setAccessibleName("Name of the new design")
        self.name.setMaxLength(80)
        self.name.returnPressed.connect(self._keep)
        self.why = QLineEdit()
        self.why.setFont(font(15))
        self.why.setPlaceholderText("What is wrong with this one, if anything")
        self.why.setAccessibleName("What is wrong with this one")
        self.why.setMaxLength(200)
        self.why.returnPressed.connect(self._keep)
        row.addWidget(self.name, 2)
        row.addWidget(self.why, 3)
        row.addWidget(button_of("Keep this one, go on with the new", self._keep))
        column.addLayout(row)
        self.column.addWidget(keeping)
        self.grid = QGridLayout()
        self.grid.setSpacing(14)
        self.column.addLayout(self.grid)
        self.column.addStretch(1)
        self.buttons(button_of("Options sheet…", self.sheet_wanted.emit), button_of("Close", self.accept, True))
        self.pictures: dict[str, QLabel] = {}
        self.words: dict[str, QLabel] = {}
        self._waiting: list[str] = []
        self.show_designs(designs)

    def show_designs(self, designs: Sequence[Version], unit: str = "mm") -> None:
        """The present one first."""
        while self.grid.count():
            item = self.grid.takeAt(0)
            widget = item.widget() if item is not None else None
            if widget is not None:
                widget.deleteLater()
        self.pictures, self.words = {}, {}
        for i, version in enumerate(designs):
            id, title = version.id, version.title
            box, column = card(title)
            picture = QLabel("working it out…")
            picture.setFixedSize(WIDE, TALL)
            picture.setAlignment(Qt.AlignmentFlag.AlignCenter)
            picture.setAccessibleName(f"Picture of {title}")
            words = words_of("", 14)
            column.addWidget(picture)
            column.addWidget(words)
            if id == PRESENT:
                column.addWidget(words_of("This is the one you are working on.", 14, True))
            for told in version.told():
                column.addWidget(words_of(spell(told, unit), 14))
            row = QHBoxLayout()
            if id != PRESENT:
                row.addWidget(button_of("Work on it", lambda d=id: self.taken.emit(d), True))
                row.addWidget(button_of("What moved…", lambda d=id: self.moved_wanted.emit(d)))
            row.addWidget(button_of("Approve…", lambda d=id: self.approve_wanted.emit(d)))
            if id != PRESENT:
                row.addWidget(button_of("Take it away", lambda d=id: self.gone.emit(d)))
            row.addStretch(1)
            column.addLayout(row)
            column.addStretch(1)
            self.grid.addWidget(box, i // ACROSS, i % ACROSS)
            self.pictures[id], self.words[id] = picture, words
        self._waiting = [version.id for version in designs]
        self._next()

    def _next(self) -> None:
        if self._waiting:
            self.pictured.emit(self._waiting.pop(0))

    def show_picture(self, id: str, pixels: Any, minutes: float, stops: Sequence[str], unit: str) -> None:
        """The picture of a design has come, with its minutes and what would have to be mended."""
        if id in self.pictures:
            rgba = np.ascontiguousarray(pixels)
            image = QImage(
                rgba.tobytes(), rgba.shape[1], rgba.shape[0], 4 * rgba.shape[1], QImage.Format.Format_RGBA8888
            )
            shown = QPixmap.fromImage(image.copy()).scaled(
                WIDE, TALL, Qt.AspectRatioMode.KeepAspectRatio, Qt.TransformationMode.SmoothTransformation
            )
            self.pictures[id].setPixmap(shown)
            against = f"{len(stops)} to mend: {spell(stops[0], unit)}" if stops else "nothing stands against it"
            self.words[id].setText(f"{minutes:.0f} min of cutting · {against}")
        self._next()

    def refused(self, id: str, words: str) -> None:
        """There is no picture of it."""
        if id in self.pictures:
            self.pictures[id].setText("no picture")
            self.words[id].setText(words)
        self._next()

    def _keep(self) -> None:
        if self.name.text().strip():
            self.kept.emit(self.name.text().strip(), self.why.text().strip())
        else:
            self.name.setFocus()
