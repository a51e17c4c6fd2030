# SPDX-License-Identifier: GPL-3.0-or-later
"""A lesson made of a run: what to do otherwise, of what that is true, and the figure that it is about. All lessons, and what became of them."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from datetime import date

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QCheckBox, QComboBox, QFormLayout, QHBoxLayout, QLineEdit, QListWidget, QWidget

from gatepost.core.errors import OperatorError
from gatepost.core.log.lesson import AMOUNTS, BEARS, TIED, Lesson, age_words, amount_words
from gatepost.core.plan.kinds import called
from gatepost.core.units import LengthError, edit_length, parse_length, spell
from gatepost.desk.context.stages import NAMES
from gatepost.desk.dialogs.card import CardDialog, TitledDialog, button_of, card, words_of
from gatepost.desk.theme.words import Label

TIES = {
    "wood": "in this wood", "tool": "with this tool", "kind": "at this kind of work", "hold": "held this way", "machine": "on this machine",
}  # fmt: skip


class LessonDialog(CardDialog):
    """kept: the lesson. known: for each tie what the run had first, then what else there is."""

    kept = pyqtSignal(object)

    def __init__(
        self, parent: QWidget, lesson: Lesson, known: Mapping[str, Sequence[str]], unit: str, of: str = ""
    ) -> None:
        super().__init__(parent, "Make a lesson of it" if not lesson.id else "A lesson", 700, 740)
        self._lesson, self._unit = lesson, unit
        box, column = card("What to do otherwise", of)
        self.words = QLineEdit(lesson.words)
        self.words.setPlaceholderText("Burned in the corners: feed faster")
        self.words.setAccessibleName("What to do otherwise")
        column.addWidget(self.words)
        self.column.addWidget(box)
        box, column = card("True of", "It comes back where all that is ticked is planned again, and nowhere else.")
        self.ties: dict[str, tuple[QCheckBox, QComboBox]] = {}
        form = QFormLayout()
        for name in TIED:
            tick, value = QCheckBox(TIES[name]), QComboBox()
            value.setEditable(name != "kind")
            for one in dict.fromkeys((getattr(lesson, name), *known.get(name, ()))):
                if one:
                    value.addItem(called(one) if name == "kind" else one, one)
            value.setAccessibleName(TIES[name])
            tick.setChecked(bool(getattr(lesson, name)))
            value.setEnabled(tick.isChecked())
            tick.toggled.connect(value.setEnabled)
            self.ties[name] = (tick, value)
            form.addRow(tick, value)
        column.addLayout(form)
        self.column.addWidget(box)
        box, column = card("The figure that it is about, where there is one")
        row = QHBoxLayout()
        self.amount = QComboBox()
        self.amount.setAccessibleName("The figure")
        self.amount.addItem("none", "")
        for kind in AMOUNTS.values():
            self.amount.addItem(kind.words, kind.name)
        self.amount.setCurrentIndex(max(self.amount.findData(lesson.amount), 0))
        row.addWidget(self.amount)
        self.bad, self.good = QLineEdit(), QLineEdit()
        for field, words, told in ((self.bad, "wrong at", lesson.bad), (self.good, "right at", lesson.good)):
            field.setAccessibleName(words)
            field.setText(self._shown(told, lesson.amount))
            row.addWidget(Label(words))
            row.addWidget(field)
        self.per = Label("")
        row.addWidget(self.per)
        column.addLayout(row)
        self.column.addWidget(box)
        box, column = card("It comes back on the page")
        self.stage = QComboBox()
        self.stage.setAccessibleName("It comes back on the page")
        for name, words in NAMES.items():
            if name != "log":
                self.stage.addItem(words, name)
        self.stage.setCurrentIndex(max(self.stage.findData(lesson.stage), 0))
        column.addWidget(self.stage)
        self.column.addWidget(box)
        self.wrong = self.wrong_line()
        self.column.addStretch(1)
        self.amount.activated.connect(lambda _: self._figure_chosen())
        self._per()
        self.buttons(button_of("Cancel", self.reject), button_of("Keep the lesson", self.keep, True))

    def _shown(self, value: float | None, amount: str) -> str:
        if value is None:
            return ""
        return f"{value:g}" if amount == "rpm" else edit_length(value, self._unit)

    def _per(self) -> None:
        name = self.amount.currentData()
        kind, length = AMOUNTS.get(name), "in" if self._unit == "inch" else "mm"
        told = "" if kind is None else kind.per if name == "rpm" else f"{length} {kind.per}".strip()
        self.per.setText(told)
        for field in (self.bad, self.good):
            field.setEnabled(bool(name))

    def _figure_chosen(self) -> None:
        self._per()
        page = BEARS.get(self.amount.currentData())
        if page:
            self.stage.setCurrentIndex(self.stage.findData(page))

    def _read(self, field: QLineEdit, amount: str) -> float | None:
        text = field.text().strip()
        if not text or not amount:
            return None
        try:
            plain = text.removesuffix("rpm") if amount == "rpm" else text.removesuffix("/min").removesuffix("a minute")
            return float(plain.replace(",", ".")) if amount == "rpm" else parse_length(plain.strip(), self._unit)
        except (LengthError, ValueError):
            raise OperatorError(f"“{text}” is no figure ({field.accessibleName()}).") from None

    def lesson(self) -> Lesson:
        """As it is typed. Raises OperatorError."""
        old, amount = self._lesson, self.amount.currentData() or ""
        ties = {name: _value(value) if tick.isChecked() else "" for name, (tick, value) in self.ties.items()}
        return Lesson(
            self.words.text().strip(), self.stage.currentData(), **ties, amount=amount, bad=self._read(self.bad, amount), good=self._read(self.good, amount),
            made=old.made, run=old.run, held=old.held, failed=old.failed, judged=old.judged, declined=old.declined, ended=old.ended, id=old.id,
        ).checked()  # fmt: skip

    def keep(self) -> None:
        """Keep it, or say what is wrong with it."""
        try:
            lesson = self.lesson()
        except OperatorError as error:
            self.wrong.setText(str(error))
            return
        self.kept.emit(lesson)
        self.accept()


class LessonsDialog(TitledDialog):
    """All lessons. mend_wanted: one, to be told otherwise; away_wanted: its number; it does not come back any more."""

    mend_wanted = pyqtSignal(object)
    away_wanted = pyqtSignal(int)
    another_wanted = pyqtSignal()

    def __init__(self, parent: QWidget, unit: str, today: date) -> None:
        super().__init__(parent, "Lessons of this shop", 900, 620)
        self.lessons: list[Lesson] = []
        self._unit, self._today = unit, today
        self.sought = QLineEdit()
        self.sought.setPlaceholderText("Find")
        self.sought.setAccessibleName("Find a lesson")
        self.sought.setClearButtonEnabled(True)
        self.sought.textChanged.connect(lambda _: self._show())
        self.body.addWidget(self.sought)
        self.list = QListWidget()
        self.list.setWordWrap(True)
        self.list.setAccessibleName("Lessons")
        self.list.currentRowChanged.connect(lambda _: self._told())
        self.body.addWidget(self.list, 3)
        self.told = words_of("")
        self.body.addWidget(self.told, 0)
        self.change = button_of("Change…", self._change)
        self.away = button_of("Put away", self._put_away)
        self.away.setToolTip("It does not come back any more. It stays in the book.")
        self.buttons(
            button_of("Close", self.reject), button_of("Add…", self.another_wanted.emit), self.away, self.change
        )
        self._shown: list[Lesson] = []
        self.show_lessons([])

    def show_lessons(self, lessons: Sequence[Lesson]) -> None:
        """Newest first."""
        self.lessons = list(reversed(lessons))
        self._show()

    def _show(self) -> None:
        words = self.sought.text().casefold().split()
        self._shown = [x for x in self.lessons if all(w in _text(x).casefold() for w in words)]
        row = max(self.list.currentRow(), 0)
        self.list.clear()
        for x in self._shown:
            self.list.addItem(spell(_text(x), self._unit))
        self.list.setCurrentRow(min(row, len(self._shown) - 1))
        self._told()

    def current(self) -> Lesson | None:
        """The one that is chosen."""
        row = self.list.currentRow()
        return self._shown[row] if 0 <= row < len(self._shown) else None

    def _told(self) -> None:
        lesson = self.current()
        self.change.setEnabled(lesson is not None)
        self.away.setEnabled(lesson is not None)
        if lesson is None:
            none = (
                "No lesson yet. Choose a run in the log, and make a lesson of it; or type what is known in this shop."
            )
            self.told.setText(none if not self.lessons else "None of them has these words.")
            return
        parts = [f"{age_words(lesson, self._today).capitalize()}. It comes back on the {NAMES[lesson.stage]} page."]
        parts += [f"Run {lesson.run} taught it."] if lesson.run else []
        parts += [f"Not followed in {d.job}, {d.at[:10]}: {d.why}" for d in lesson.declined]
        self.told.setText("\n".join(parts))

    def _change(self) -> None:
        lesson = self.current()
        if lesson is not None:
            self.mend_wanted.emit(lesson)

    def _put_away(self) -> None:
        lesson = self.current()
        if lesson is not None:
            self.away_wanted.emit(lesson.id)


def _value(box: QComboBox) -> str:
    """What is chosen, or was typed."""
    return str(box.currentData() or "") if not box.isEditable() else box.currentText().strip()


def _text(lesson: Lesson) -> str:
    kind = called(lesson.kind) if lesson.kind else ""
    tied = " · ".join(v for v in (lesson.wood, lesson.tool, kind, lesson.hold, lesson.machine) if v)
    figure = amount_words(lesson)
    return f"{tied}: {lesson.words}{f' ({figure})' if figure else ''}"
