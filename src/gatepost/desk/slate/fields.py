# SPDX-License-Identifier: GPL-3.0-or-later
"""What a value is typed or chosen in."""

from __future__ import annotations

import re
from functools import lru_cache
from typing import Any

from PyQt6.QtCore import QEvent, Qt, pyqtSignal
from PyQt6.QtGui import QFocusEvent, QFont, QFontDatabase, QKeyEvent, QKeySequence, QWheelEvent
from PyQt6.QtWidgets import QComboBox, QLineEdit, QStyledItemDelegate

from gatepost.core.units import LengthError, edit_length, parse_length, show_length
from gatepost.desk.pages.entries import PageEntry
from gatepost.desk.theme.words import tip

UNIT_BEHIND = re.compile(r"([-+−]?\s*[\d.,]*\d[.,]?)\s*([^\s\d.,][^\s]*)")  # a number, and one word behind it
WORD = re.compile(r"[^\s,;:()]+")
ROW = 29  # px: what a field needs; a long page scrolls and is never squashed


class Field(QLineEdit):
    """A typed value. Enter or leaving it enters it, once; Escape puts the old one back. What is being typed stays as it is
    whatever changes meanwhile."""

    entered = pyqtSignal(object)

    def __init__(self, entry: PageEntry, unit: str) -> None:
        super().__init__(text_of(entry, unit))
        self.entry, self.unit = entry, unit
        self._kept = self._tried = self.text()
        self.setAccessibleName(entry.label)
        self.setObjectName("field")
        self.setMinimumHeight(ROW)
        self.editingFinished.connect(self._enter)
        self.setCursorPosition(0)

    def focusOutEvent(self, event: QFocusEvent | None) -> None:
        """What is too long for it is read from its beginning: the end of a figure is another figure."""
        super().focusOutEvent(event)
        self.setCursorPosition(0)

    def _enter(self) -> None:
        if self.text() in (self._kept, self._tried):
            return
        self._tried = self.text()
        try:
            value = value_of(self.entry, self.text(), self.unit)
        except (LengthError, ValueError) as error:
            self.setProperty("wrong", True)
            tip(self, str(error))
            self._restyle()
            self.entered.emit(error)
            return
        self.setProperty("wrong", False)
        self._restyle()
        self.entered.emit(value)

    def refresh(self, entry: PageEntry, unit: str) -> None:
        """The figure as it is now; what is typed and not entered yet is left alone."""
        typing = self.hasFocus() and self.text() not in (self._kept, self._tried)
        self.entry, self.unit = entry, unit
        text = text_of(entry, unit)
        self._kept = text
        if typing:
            return
        self.setModified(False)
        if text == self.text():
            return
        whole = self.hasSelectedText() and self.selectedText() == self.text()
        self._tried = text
        self.setText(text)
        if whole:
            self.selectAll()
        elif not self.hasFocus():
            self.setCursorPosition(0)
        if self.property("wrong"):
            self.setProperty("wrong", False)
            self.setToolTip("")
            self._restyle()

    def _restyle(self) -> None:
        style = self.style()
        if style is not None:
            style.unpolish(self)
            style.polish(self)

    def event(self, event: QEvent | None) -> bool:
        """Where nothing is being typed, undoing and redoing are the window's: what was entered is undone, not its letters."""
        if isinstance(event, QKeyEvent) and event.type() == QEvent.Type.ShortcutOverride and self._rests(event):
            event.ignore()
            return False
        return super().event(event)

    def _rests(self, event: QKeyEvent) -> bool:
        undoing = event.matches(QKeySequence.StandardKey.Undo) or event.matches(QKeySequence.StandardKey.Redo)
        return undoing and self.text() in (self._kept, self._tried)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Escape puts the old text back."""
        if event is not None and self._rests(event):
            event.ignore()
            return
        if event is not None and event.key() == Qt.Key.Key_Escape and self.text() != self._kept:
            self._tried = self._kept
            self.setText(self._kept)
            if self.property("wrong"):
                self.setProperty("wrong", False)
                self.setToolTip("")
                self._restyle()
            return
        super().keyPressEvent(event)


class Choice(QComboBox):
    """A value out of a few."""

    chosen = pyqtSignal(object)

    def __init__(self, entry: PageEntry) -> None:
        super().__init__()
        self.entry = entry
        self._choices: tuple[Any, ...] = ()
        self.setObjectName("field")
        self.setMinimumHeight(ROW)
        self.setMaxVisibleItems(18)
        self.setItemDelegate(QStyledItemDelegate(self))  # rows as tall as the style says
        self.activated.connect(lambda i: self.chosen.emit(self.entry.choices[i][1]))
        self.refresh(entry)

    def showPopup(self) -> None:
        """The list, as wide as its longest choice."""
        view = self.view()
        if view is not None:
            view.setMinimumWidth(view.sizeHintForColumn(0) + 24)
        super().showPopup()

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        """Over a closed list the wheel scrolls the page: it changes no value that nobody looked at."""
        if event is not None:
            event.ignore()

    def refresh(self, entry: PageEntry) -> None:
        """The choices and the value as they are now."""
        self.entry = entry
        self.setAccessibleName(entry.label)
        if entry.choices != self._choices:
            self._choices = entry.choices
            self.clear()
            for words, value in entry.choices:
                self.addItem(words, value)
            for i, file in enumerate(entry.drawn):
                family = _letters_of(file)
                if family:
                    self.setItemData(i, QFont(family, 15), Qt.ItemDataRole.FontRole)
        values = [v for _, v in entry.choices]
        self.setCurrentIndex(values.index(entry.value) if entry.value in values else -1)


@lru_cache(maxsize=256)
def _letters_of(file: str) -> str:
    """The family by which a face's file is drawn; nothing where it can't be."""
    number = QFontDatabase.addApplicationFont(file) if file else -1
    families = QFontDatabase.applicationFontFamilies(number) if number >= 0 else []
    return families[0] if families else ""


def text_of(entry: PageEntry, unit: str) -> str:
    """A value as it is typed."""
    if entry.kind == "length":
        if entry.value is None:  # not set is not 0
            return ""
        exact = edit_length(entry.value, unit)
        # too long to read: shown rounded; what is not changed is not entered, so the exact figure stays
        rounded = show_length(entry.value, unit, 4 if unit == "inch" else 3)
        return exact if len(exact) <= 9 else rounded.rstrip("0").rstrip(".")
    if entry.kind == "number":
        return "" if entry.value is None else f"{entry.value:.10g}"
    return str(entry.value)


def _bare(text: str, said: str) -> str:
    """A number without the unit behind it, where that is one that its field tells: 5 min in a field of minutes. said: by the field."""
    m = UNIT_BEHIND.fullmatch(text.strip())
    known = {word.casefold() for word in WORD.findall(said)}
    return m[1] if m is not None and m[2].casefold() in known else text


def value_of(entry: PageEntry, text: str, unit: str) -> Any:
    """What was typed, as a value. Raises LengthError and ValueError."""
    if entry.optional and not text.strip():
        return None
    if entry.kind == "length":
        return parse_length(text, unit)
    if entry.kind == "number":
        number = float(_bare(text, f"{entry.label} {entry.unit}").replace(",", ".").replace(" ", "").replace("−", "-"))
        return int(number) if isinstance(entry.value, int) and number.is_integer() else number
    return text
