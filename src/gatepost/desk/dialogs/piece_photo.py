# SPDX-License-Identifier: GPL-3.0-or-later
"""An overhead photo of a piece on the bed: its marks are clicked, its drawing is laid over it, and it is laid there."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np
from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QComboBox, QVBoxLayout, QWidget

from gatepost.core.units import edit_length, spell
from gatepost.desk.dialogs.card import button_of
from gatepost.desk.dialogs.photo import LENGTHS, NAMES, PhotoDialog
from gatepost.desk.theme.words import Label

RUNS = (
    ("mark 2 lies right of mark 1", 0.0), ("mark 2 lies behind mark 1", 90.0), ("mark 2 lies left of mark 1", 180.0), ("mark 2 lies before mark 1", 270.0),
)  # fmt: skip
LETTERS = "abcdefghijklmnopqrstuvwxyz"


class PiecePhotoDialog(PhotoDialog):
    """The scale, where it lies, the marks, laid over."""

    lengths = (
        ("across", "Mark 1 to mark 2", 600.0), ("up", "Mark 2 to mark 3", 400.0), ("bed_x", "Mark 1 on the bed, X", 0.0), ("bed_y", "Mark 1 on the bed, Y", 0.0),
        ("above", "The top above the scale", 0.0), *LENGTHS[3:],
    )  # fmt: skip
    look, take, called = (
        "Look whether the yellow lines follow the piece",
        "Lay the piece there",
        "Where the piece lies, from",
    )
    unchecked = "No length was checked yet. Type one between two marks on the bed as the check length and click its ends; or press again to lay the piece without."
    fit_wanted = pyqtSignal(bytes, str, dict, list, tuple)

    def __init__(self, parent: QWidget, data: bytes, name: str, unit: str, marks: Sequence[str], thick: float) -> None:
        self.marks = list(marks)
        super().__init__(parent, data, name, unit)
        self.fields["above"].setText(edit_length(thick, unit))
        self.view.names = tuple(LETTERS[: len(self.marks)])

    def _build_scale(self, side: QVBoxLayout) -> None:
        super()._build_scale(side)
        self.runs = QComboBox()
        self.runs.setAccessibleName("From mark 1 to mark 2 it runs")
        for words, degrees in RUNS:
            self.runs.addItem(words, degrees)
        self.runs.currentIndexChanged.connect(self._told)
        column = self.steps[0].layout()
        assert isinstance(column, QVBoxLayout)
        column.insertWidget(2, self.runs)

    def _build_edge(self, side: QVBoxLayout) -> None:
        column = self._step(side, "Click its marks in the photo, one after another")
        self.named = Label()
        self.named.setWordWrap(True)
        column.addWidget(self.named)
        self.trace_key = button_of("Lay the drawing over it", self.trace, True)
        self.trace_key.setMinimumHeight(34)
        column.addWidget(self.trace_key)

    def _again(self) -> None:
        count = int(self.way.currentData())
        self.fields["up"].setEnabled(count == 4)
        self.view.by_hand = True
        self.view.take(count, self._length("check_length") not in (None, 0.0))
        self._told()

    def _told(self) -> None:
        """What is to be clicked now."""
        self.result_ = None
        self.use_key.setEnabled(False)
        view = self.view
        done, clicked = len(view.marks), len(view.edge)
        if clicked > len(self.marks):
            del view.edge[len(self.marks) :]
            clicked = len(self.marks)
        if done < view.wanted:
            corner = NAMES[(done + self.runs.currentIndex()) % len(NAMES)]
            name = corner if view.wanted == 4 else ("first", "second")[done]
            self.hint.setText(
                f"Click mark {done + 1} of the scale: {name}. Drag it to its place under the glass; arrows nudge it."
            )
        elif view.checking and len(view.check) < 2:
            self.hint.setText(f"Click end {'AB'[len(view.check)]} of the check length, on the bed.")
        else:
            self.hint.setText("The scale is marked.")
        more = f"Now {LETTERS[clicked]}: {self.marks[clicked]}." if clicked < len(self.marks) else "All are clicked."
        enough = " Two do; five say whether one is wrong." if clicked < len(self.marks) else ""
        self.named.setText(more + enough)
        self._now(0 if done < view.wanted or (view.checking and len(view.check) < 2) else 2)
        self.trace_key.setEnabled(done == view.wanted and clicked > 1)

    def trace(self) -> None:
        """Ask where it lies."""
        values = self._typed()
        if values is None:
            return
        at = (values.pop("bed_x"), values.pop("bed_y"), float(self.runs.currentData()))
        self.words.setText("Laying the drawing over it…")
        self.trace_key.setEnabled(False)
        self.fit_wanted.emit(self.data, self.name, values, list(self.view.edge), at)

    def found(self, found: Any) -> None:
        """Where it lies."""
        self.result_ = found
        lines = [np.asarray(line) for line in found.seen]
        self.view.outline, self.view.drawn = lines[0], lines[1:]
        self.view.update()
        self.words.setText("\n".join(spell(w, self.unit) for w in found.said))
        self._now(3)
        self.trace_key.setEnabled(True)
        self.use_key.setEnabled(True)
        self.use_key.setFocus()
