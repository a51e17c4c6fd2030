# SPDX-License-Identifier: GPL-3.0-or-later
"""A finished piece, judged by what was promised: measured where calipers reach, else by eye; and what became of the warnings and lessons."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QComboBox, QGridLayout, QLineEdit, QWidget

from gatepost.core.errors import OperatorError
from gatepost.core.log.judged import Drifting, LessonJudged, PointJudged, Promised, ResultAsked, WarningJudged
from gatepost.core.plan.promised import asked_words
from gatepost.core.units import LengthError, parse_length, spell
from gatepost.desk.dialogs.card import CardDialog, button_of, card, words_of
from gatepost.desk.theme.words import Label

ANSWERS = (("not looked at", None), ("good", True), ("not good", False))
HELD = (("not known", None), ("yes", True), ("no", False))
Judged = tuple[tuple[PointJudged, ...], tuple[WarningJudged, ...], tuple[LessonJudged, ...], str]


def _answers(name: str, ways: tuple[tuple[str, bool | None], ...]) -> QComboBox:
    box = QComboBox()
    box.setAccessibleName(name)
    for words, value in ways:
        box.addItem(words, value)
    return box


class JudgeDialog(CardDialog):
    """kept: points, warnings, lessons, and words for the whole. simulated: nothing of it was cut in a shop; drifts: of what is judged, by earlier pieces."""

    kept = pyqtSignal(object)

    def __init__(
        self, parent: QWidget, asked: ResultAsked, unit: str, simulated: bool, drifts: Sequence[Drifting] = ()
    ) -> None:
        super().__init__(parent, "How did it come out?", 980, 700)
        self.asked, self.unit = asked, unit
        if simulated:
            note = words_of(
                "No run of this job in the shop is in the log: what is judged here is kept as simulated, and teaches nothing."
            )
            note.setObjectName("care")
            self.column.addWidget(note)  # fmt: skip
        self.points = [self._point(p) for p in asked.points]
        box, column = card(
            "What was promised",
            "Measure what calipers reach, else look. A measure counts more than an eye; what nobody looked at stays open.",
        )
        grid = QGridLayout()
        grid.setColumnStretch(0, 5)
        grid.setColumnStretch(3, 3)
        for i, words in enumerate(("", "measured", "by eye", "what is to be said")):
            grid.addWidget(Label(words), 0, i)
        for row, (point, (found, eye, said)) in enumerate(zip(asked.points, self.points), start=1):
            label = words_of(asked_words(point, unit))
            grid.addWidget(label, row, 0)
            grid.addWidget(found, row, 1)
            grid.addWidget(eye, row, 2)
            grid.addWidget(said, row, 3)
        column.addLayout(grid)
        self.column.addWidget(box)
        if drifts:
            box, column = card(
                "Time and again in this shop", "By what was measured of earlier pieces: one side, and more than luck."
            )
            for drift in drifts:
                column.addWidget(words_of(spell(drift.told(), unit)))
            self.column.addWidget(box)
        self.warnings = [(_answers(f"Did it go well: {w.code}", HELD), QLineEdit()) for w in asked.warnings]
        if asked.warnings:
            box, column = card("Warnings that you accepted")
            for warning, (held, said) in zip(asked.warnings, self.warnings):
                said.setAccessibleName("What became of it")
                said.setPlaceholderText("what became of it")
                column.addWidget(words_of(spell(warning.asked(), unit)))
                column.addWidget(held)
                column.addWidget(said)
            self.column.addWidget(box)
        self.lessons = [_answers(f"Did it hold: {x.words}", HELD) for x in asked.lessons]
        if asked.lessons:
            box, column = card("Lessons that were followed", "Did they hold?")
            for lesson, held in zip(asked.lessons, self.lessons):
                column.addWidget(words_of(lesson.words))
                column.addWidget(held)
            self.column.addWidget(box)
        box, column = card("All in all")
        self.words = QLineEdit()
        self.words.setAccessibleName("All in all")
        self.words.setPlaceholderText("What would be done otherwise")
        column.addWidget(self.words)
        self.column.addWidget(box)
        self.wrong = self.wrong_line()
        self.buttons(button_of("Cancel", self.reject), button_of("Keep what was found", self.keep, True))

    def _point(self, point: Promised) -> tuple[QLineEdit, QComboBox, QLineEdit]:
        found, said = QLineEdit(), QLineEdit()
        found.setAccessibleName(f"Measured: {point.words}")
        found.setEnabled(point.figure is not None)
        found.setPlaceholderText(self.unit if point.figure is not None else "–")
        found.setMaximumWidth(110)
        said.setAccessibleName(f"Said of it: {point.words}")
        return found, _answers(f"By eye: {point.words}", ANSWERS), said

    def judged(self) -> Judged:
        """As it is typed. Raises OperatorError where a figure is none, or nothing was judged."""
        points = []
        for point, (found, eye, said) in zip(self.asked.points, self.points):
            text, value = found.text().strip(), None
            if text:
                try:
                    value = parse_length(text, self.unit)
                except LengthError as error:
                    raise OperatorError(f"{point.words}: {error}") from None
            points.append(PointJudged(point, value, eye.currentData(), said.text().strip()))
        warnings = [
            WarningJudged(w.code, w.setup, w.about, w.words, w.reason, held.currentData(), said.text().strip())
            for w, (held, said) in zip(self.asked.warnings, self.warnings)
        ]
        lessons = [LessonJudged(x.lesson, x.words, held.currentData()) for x, held in zip(self.asked.lessons, self.lessons)]  # fmt: skip
        anything = any(p.judged for p in points) or any(w.held is not None for w in warnings)
        if not (anything or any(x.held is not None for x in lessons)):
            raise OperatorError("Nothing is judged yet: measure one point, or look at one.")
        return tuple(points), tuple(warnings), tuple(lessons), self.words.text().strip()

    def keep(self) -> None:
        """Keep it, or say what is wrong."""
        try:
            judged = self.judged()
        except OperatorError as error:
            self.wrong.setText(str(error))
            return
        self.kept.emit(judged)
        self.accept()
