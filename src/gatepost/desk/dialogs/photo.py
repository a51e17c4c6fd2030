# SPDX-License-Identifier: GPL-3.0-or-later
"""An overhead photo: its marks are set by hand, its outline is traced, and looked at before it is used."""

from __future__ import annotations

from typing import Any

import numpy as np
from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QImage
from PyQt6.QtWidgets import (
    QComboBox,
    QDialog,
    QFormLayout,
    QHBoxLayout,
    QLineEdit,
    QSlider,
    QVBoxLayout,
    QWidget,
)

from gatepost.core.units import LengthError, edit_length, parse_length, spell
from gatepost.desk.dialogs.card import button_of, card
from gatepost.desk.dialogs.photo_view import PhotoView
from gatepost.desk.theme.style import font
from gatepost.desk.theme.words import Label

NAMES = ("front left", "front right", "back right", "back left")
WIDE = 360  # px of the words beside the photo
LENGTHS = (
    ("across", "Mark 1 to mark 2", 600.0), ("up", "Mark 2 to mark 3", 400.0), ("above", "Edge above the scale", 0.0),
    ("lens", "Lens above the scale, or 0", 0.0), ("check_length", "Check length A to B, or 0", 0.0),
)  # fmt: skip
WAYS = (("four corners of a rectangle", 4), ("two marks, looking straight down", 2))


class PhotoDialog(QDialog):
    """Marks, sizes, trace, use. lengths: that are typed; look: what is looked at last; take: the key that uses it; unchecked: what is said where no length was checked."""

    lengths: tuple[tuple[str, str, float], ...] = LENGTHS
    sized = "Say how long it is, and how high the edge stands"
    look, take, called = "Look whether the yellow line follows the edge", "Use this outline", "Outline from"
    unchecked = "No length was checked yet. Measure one across the board, type it as the check length and click its two ends; or press again to use the outline without."
    trace_wanted = pyqtSignal(bytes, str, dict)
    used = pyqtSignal(object)

    def __init__(self, parent: QWidget, data: bytes, name: str, unit: str) -> None:
        super().__init__(parent)
        self.data, self.name, self.unit = data, name, unit
        self.result_: Any = None
        self._asked = False
        self.setWindowTitle(f"{self.called} {name}")
        self.setObjectName("carddialog")
        self.resize(min(1200, max(parent.width() - 80, 700)), min(740, max(parent.height() - 60, 480)))
        row = QHBoxLayout(self)
        row.setContentsMargins(16, 14, 16, 14)
        row.setSpacing(14)
        self.view = PhotoView(QImage.fromData(data))
        row.addWidget(self.view, 1)
        side = QVBoxLayout()
        side.setSpacing(10)
        row.addLayout(side)
        self.fields: dict[str, QLineEdit] = {}
        self.steps: list[QWidget] = []
        self.hint, self.words = Label(), Label()
        self._build_scale(side)
        self._build_lengths(side)
        self._build_edge(side)
        column = self._step(side, self.look)
        column.addWidget(self.words)
        for told in (self.hint, self.words):
            told.setWordWrap(True)
            told.setFont(font(14))
            told.setFixedWidth(WIDE)
        side.addStretch(1)
        foot = QHBoxLayout()
        self.use_key, close = button_of(self.take, self._use, True), button_of("Close", self.reject)
        for button in (close, self.use_key):
            button.setMinimumHeight(38)
            foot.addWidget(button)
        side.addLayout(foot)
        self.way.currentIndexChanged.connect(self._again)
        self.fields["check_length"].textChanged.connect(self._again)
        self.view.changed.connect(self._told)
        self._again()
        self.view.setFocus()

    def _step(self, side: QVBoxLayout, title: str) -> QVBoxLayout:
        """The next step, numbered; gives the column that it is filled through."""
        box, column = card(f"{len(self.steps) + 1}   {title}")
        column.setContentsMargins(14, 8, 14, 10)
        column.setSpacing(6)
        side.addWidget(box)
        self.steps.append(box)
        return column

    def _build_scale(self, side: QVBoxLayout) -> None:
        column = self._step(side, "Mark the scale in the photo")
        self.way = QComboBox()
        self.way.setAccessibleName("Scale")
        for words, count in WAYS:
            self.way.addItem(words, count)
        column.addWidget(self.way)
        column.addWidget(self.hint)

    def _build_lengths(self, side: QVBoxLayout) -> None:
        form = QFormLayout()
        form.setVerticalSpacing(5)
        self._step(side, self.sized).addLayout(form)
        for key, label, start in self.lengths:
            field = QLineEdit(edit_length(start, self.unit))
            field.setAccessibleName(label)
            form.addRow(label, field)
            self.fields[key] = field

    def _build_edge(self, side: QVBoxLayout) -> None:
        form = QFormLayout()
        column = self._step(side, "Trace the board")
        column.addLayout(form)
        self.hand = QComboBox()
        self.hand.setAccessibleName("Edge")
        self.hand.addItem("traced in the photo", False)
        self.hand.addItem("clicked by hand, corner by corner", True)
        form.addRow("Edge", self.hand)
        self.slide = QSlider(Qt.Orientation.Horizontal)
        self.slide.setRange(-10, 10)
        self.slide.setMinimumHeight(24)
        self.slide.setAccessibleName("How much counts as the board: less to the left, more to the right")
        form.addRow("Counts as board", self.slide)
        self.trace_key = button_of("Trace the board", self.trace, True)
        self.trace_key.setMinimumHeight(34)
        column.addWidget(self.trace_key)
        self.hand.currentIndexChanged.connect(self._again)
        self.slide.valueChanged.connect(self._slid)

    def _now(self, step: int) -> None:
        """The step that one is at stands out."""
        for i, box in enumerate(self.steps):
            box.setProperty("now", i == step)
            style = box.style()
            if style is not None:
                style.unpolish(box)
                style.polish(box)

    def _again(self) -> None:
        count = int(self.way.currentData())
        self.fields["up"].setEnabled(count == 4)
        self.view.by_hand = bool(self.hand.currentData())
        if not self.view.by_hand:
            self.view.edge = []
        self.slide.setEnabled(not self.view.by_hand)
        self.view.take(count, self._length("check_length") not in (None, 0.0))
        self._told()

    def _slid(self) -> None:
        """The slide was moved: traced again, where it was."""
        if self.result_ is not None:
            self.trace()

    def _length(self, key: str) -> float | None:
        try:
            return parse_length(self.fields[key].text(), self.unit)
        except LengthError:
            return None

    def _told(self) -> None:
        """What is to be done now."""
        self.result_ = None
        self.use_key.setEnabled(False)
        view = self.view
        done = len(view.marks)
        if done < view.wanted:
            name = NAMES[done] if view.wanted == 4 else ("first", "second")[done]
            words = (
                f"Click mark {done + 1} of the scale: {name}. Drag it to its place under the glass; arrows nudge it."
            )
        elif view.checking and len(view.check) < 2:
            words = f"Click end {'AB'[len(view.check)]} of the check length, on the plane of the scale."
        elif view.by_hand:
            words = f"Click round the board's edge, corner by corner: {len(view.edge)} so far. Then take it."
        else:
            words = "All marks are set. Trace the board."
        self.hint.setText(words)
        self._now(0 if done < view.wanted or (view.checking and len(view.check) < 2) else 2)
        self.trace_key.setText("Take the clicked edge" if view.by_hand else "Trace the board")
        self.trace_key.setEnabled(done == view.wanted and (not view.by_hand or len(view.edge) > 2))

    def trace(self) -> None:
        """Ask for the outline."""
        values = self._typed()
        if values is None:
            return
        values["sensitivity"] = self.slide.value() / 10.0
        values["by_hand"] = tuple(self.view.edge) if self.view.by_hand else ()
        self.words.setText("Tracing…")
        self.trace_key.setEnabled(False)
        self.trace_wanted.emit(self.data, self.name, values)

    def _typed(self) -> dict[str, Any] | None:
        """Marks of the scale, and all lengths; nothing where one can't be read, which is told."""
        values: dict[str, Any] = {"marks": tuple(self.view.marks), "check": tuple(self.view.check)}
        for key, field in self.fields.items():
            if key == "up" and self.view.wanted == 2:
                continue
            try:
                values[key] = parse_length(field.text(), self.unit)
            except LengthError as error:
                self.refused(str(error))
                field.setFocus()
                return None
        if len(self.view.check) < 2:
            values["check_length"], values["check"] = 0.0, ()
        return values

    def found(self, found: Any) -> None:
        """The outline has come."""
        self.result_ = found
        self.view.outline = np.asarray(found.seen)
        self.view.unsure_at = found.unsure_at
        self.view.update()
        self.words.setText("\n".join([*(spell(w, self.unit) for w in found.said), "Corners can be mended on the bed."]))
        self.hint.setText("The marks stand.")
        self._now(3)
        self.trace_key.setEnabled(True)
        self.use_key.setEnabled(True)
        self.use_key.setFocus()

    def refused(self, words: str) -> None:
        """Why there is none."""
        self.words.setText(words)
        self.trace_key.setEnabled(len(self.view.marks) == self.view.wanted)

    def _use(self) -> None:
        """Taken; where no length was checked that the scale was not made from, it is asked for first, once."""
        if self.result_ is not None and len(self.view.check) < 2 and not self._asked:
            self._asked = True
            self.words.setText(self.unchecked)
            self.fields["check_length"].setFocus()
            return
        if self.result_ is not None:
            self.used.emit(self.result_)
            self.accept()
