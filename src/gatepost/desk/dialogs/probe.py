# SPDX-License-Identifier: GPL-3.0-or-later
"""Probing the top by the machine: the grid is looked at first, then the key is held."""

from __future__ import annotations

from typing import Any

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import QComboBox, QFormLayout, QLineEdit, QProgressBar, QWidget

from gatepost.core.errors import OperatorError
from gatepost.core.plan.probes import probe_places
from gatepost.core.units import LengthError, edit_length, parse_length, spell
from gatepost.desk.dialogs.card import TitledDialog
from gatepost.desk.machine.big_keys import BigKey, HeldKeys
from gatepost.desk.theme.style import font
from gatepost.desk.theme.words import Label
from gatepost.desk.view.canvas import Canvas
from gatepost.drawing.bed import bed
from gatepost.drawing.shapes import Shape, dot

CAUTIONS = (
    "Spindle off and isolated; the probe in its collet, its length true. Prove the circuit by hand: clip on, touch the plate.",
    "Hands off the bed while the drives are live. Pause and stop are requests over a cable: the red button is the emergency stop.",
)


class ProbeDialog(TitledDialog):
    """Asks; the window does. Esc stops while it moves."""

    begun = pyqtSignal(object, object, object)  # places, tool, setup
    stop_wanted = pyqtSignal()

    def __init__(self, parent: QWidget, plan: Any, linked: bool, theme: str) -> None:
        super().__init__(parent, "Probe the top", 1000, 720)
        self.held_keys = HeldKeys(self)
        self.held_keys.came_up.connect(lambda key: self.go.let_go())
        self.plan, self.linked = plan, linked
        self.unit = plan.job.unit
        self.setup = plan.setups[0]
        self.where: Any = None
        self.busy = False
        column = self.body
        form = QFormLayout()
        self.spacing = QLineEdit(edit_length(100.0 if self.unit == "mm" else 101.6, self.unit))
        self.spacing.setAccessibleName("Places no farther apart than")
        self.tool = QComboBox()
        self.tool.setAccessibleName("What is in the collet")
        reach = plan.job.machine.nose_at_home - plan.job.machine.travel_z
        for t in sorted(plan.job.tools, key=lambda t: (t.length < reach + 5.0, t.diameter)):
            self.tool.addItem(f"T{t.number} {t.name}", t.number)
        form.addRow("Places no farther apart than", self.spacing)
        form.addRow("In the collet", self.tool)
        column.addLayout(form)
        self.words = Label()
        self.words.setFont(font(17, True))
        self.words.setWordWrap(True)
        column.addWidget(self.words)
        self.picture = Canvas(theme)
        self.picture.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        column.addWidget(self.picture, 1)
        for caution in CAUTIONS:
            label = Label(caution)
            label.setWordWrap(True)
            label.setFont(font(14))
            column.addWidget(label)
        self.bar = QProgressBar()
        self.bar.hide()
        column.addWidget(self.bar)
        self.go = BigKey("Probe", "hold Enter", theme, "main", held=True)
        self.go.fired.connect(self._begin)
        column.addWidget(self.go)
        self.spacing.textChanged.connect(self._again)
        self._again()
        self.setFocus()

    def _again(self) -> None:
        """Where it would go."""
        drawing = bed(self.plan, self.setup.name, "blank", unit=self.unit)
        self.where = None
        try:
            self.where = probe_places(self.plan.job, self.setup, parse_length(self.spacing.text(), self.unit))
            count = len(self.where.spots)
            more = tuple(_spot(self.setup.at(*s), "touch", 5.0) for s in self.where.spots.tolist())
            b = self.setup.at(*self.where.bed)
            from dataclasses import replace

            drawing = replace(drawing, shapes=(*drawing.shapes, *more, _spot(b, "zero", 6.0)))
            words = f"{count} places, about {self.where_minutes():.0f} min; the bed is touched first, beside the board."
            if not self.linked:
                words += " Link a machine first: Ctrl+M starts a simulated one."
        except (OperatorError, LengthError) as error:
            words = spell(str(error), self.unit)
        self.words.setText(words)
        self.picture.show_drawing(drawing, self.unit)
        self.go.setEnabled(self.where is not None and self.linked and not self.busy)

    def where_minutes(self) -> float:
        """About how long it takes."""
        from gatepost.core.surface.probing import minutes

        return minutes(self.where.spots, self.plan.job.machine.rapid_xy, 12.0, 6.0)

    def _begin(self) -> None:
        if self.where is None or self.busy:
            return
        self.busy = True
        self.go.setEnabled(False)
        self.spacing.setEnabled(False)
        self.bar.setMaximum(len(self.where.spots))
        self.bar.setValue(0)
        self.bar.show()
        self.words.setText("Probing. Esc stops it at once, where it is.")
        self.begun.emit(self.where, self.plan.job.tool(self.tool.currentData()), self.setup)

    def progress(self, done: int, of: int) -> None:
        """So many places are done."""
        self.bar.setValue(done)
        self.bar.setFormat(f"{done} of {of} places")

    def ended(self, words: str) -> None:
        """How it ended."""
        self.busy = False
        self.spacing.setEnabled(True)
        self.bar.hide()
        self._again()
        self.words.setText(spell(words, self.unit))

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Enter is held; Esc stops while it moves, and closes else."""
        if event is None or not self.held_keys.pressed(event):
            return
        key = Qt.Key(event.key())
        if key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.go.press()
            return
        self.go.let_go()
        if key == Qt.Key.Key_Escape and self.busy:
            self.stop_wanted.emit()
            return
        super().keyPressEvent(event)

    def keyReleaseEvent(self, event: QKeyEvent | None) -> None:
        """Letting go lets go."""
        if event is not None:
            self.held_keys.released(event)

    def reject(self) -> None:
        """It is not closed while the machine moves."""
        if not self.busy:
            super().reject()


def _spot(at: tuple[float, float], role: str, size: float) -> Shape:
    return dot(at[0], at[1], role, size=size)
