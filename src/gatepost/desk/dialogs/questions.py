# SPDX-License-Identifier: GPL-3.0-or-later
"""The only message boxes: questions with an answer."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QInputDialog, QLabel, QMessageBox, QWidget

from gatepost.desk.dialogs.card import CardDialog, button_of, words_of
from gatepost.desk.theme.words import plain


def ask_which(parent: QWidget, sentence: str, ways: Sequence[str]) -> int:
    """Which of some answers; -1 where none was given."""
    box = plain(QMessageBox(QMessageBox.Icon.Question, "Gatepost", sentence, parent=parent))
    buttons = [box.addButton(words, QMessageBox.ButtonRole.AcceptRole) for words in ways]
    box.addButton("Neither: go back" if len(ways) == 2 else "None of these: go back", QMessageBox.ButtonRole.RejectRole)
    box.exec()
    return next((i for i, button in enumerate(buttons) if button is box.clickedButton()), -1)


def ask_to_save(parent: QWidget, name: str) -> str:
    """What to do with unsaved changes: save, discard or cancel."""
    words = f"Save what was changed in “{name}”?"
    box = plain(QMessageBox(QMessageBox.Icon.Question, "Gatepost", words, parent=parent))
    keep = box.addButton("Save", QMessageBox.ButtonRole.AcceptRole)
    drop = box.addButton("Don't save", QMessageBox.ButtonRole.DestructiveRole)
    box.addButton("Go back", QMessageBox.ButtonRole.RejectRole)
    box.exec()
    return {keep: "save", drop: "discard"}.get(box.clickedButton(), "cancel")  # type: ignore[arg-type]


def ask_overwrite(parent: QWidget, name: str) -> bool:
    """The file changed outside: write over it all the same?"""
    words = f"“{name}” was changed by somebody else since it was opened. Write over it? What they wrote in its journal is kept."
    box = plain(QMessageBox(QMessageBox.Icon.Warning, "Gatepost", words, parent=parent))
    over = box.addButton("Write over it", QMessageBox.ButtonRole.DestructiveRole)
    box.addButton("Go back", QMessageBox.ButtonRole.RejectRole)
    box.exec()
    return box.clickedButton() is over


def ask_reason(parent: QWidget, sentence: str) -> str:
    """The reason why a care is accepted; empty when it is not."""
    dialog = QInputDialog(parent)
    dialog.setWindowTitle("Accept with a reason")
    dialog.setLabelText(f"{sentence}\n\nWhy is it all right here?")
    for label in dialog.findChildren(QLabel):
        label.setTextFormat(Qt.TextFormat.PlainText)
        label.setWordWrap(True)
    return dialog.textValue().strip() if dialog.exec() else ""


def ask_name(parent: QWidget, title: str, words: str) -> str:
    """A name, and what was said; empty where it is called off."""
    dialog = QInputDialog(parent)
    dialog.setWindowTitle(title)
    dialog.setLabelText(words)
    for label in dialog.findChildren(QLabel):
        label.setTextFormat(Qt.TextFormat.PlainText)
        label.setWordWrap(True)
    return dialog.textValue().strip() if dialog.exec() else ""


def ask_mark(parent: QWidget, words: str) -> bool:
    """Before a run is resumed: has the witness mark been looked at?"""
    box = plain(QMessageBox(QMessageBox.Icon.Warning, "Resume a run", words, parent=parent))
    box.setInformativeText(
        "Has anything been bumped, moved or taken off since? Home the machine, go over the witness mark with the tool that "
        "was in the collet, and look. Is that bit gripped as it was, are spanners, plate and clip away, and does the work stand still "
        "when its corners are pressed, spindle isolated? Z0 is as the log has it. If not, or if the tip does not stand on the mark, touch off again instead: the place is not "
        "known. Stay with it when it starts, a hand at the red button. No gloves near a turning cutter."
    )
    yes = box.addButton("All of that is so: resume it", QMessageBox.ButtonRole.AcceptRole)
    no = box.addButton("Not now", QMessageBox.ButtonRole.RejectRole)
    box.setDefaultButton(no)
    box.exec()
    return box.clickedButton() is yes


def tell_list(parent: QWidget, title: str, words: str, rows: Sequence[str]) -> None:
    """Something to read, row by row."""
    dialog = CardDialog(parent, title, 760, 620)
    dialog.column.addWidget(words_of(words, 17))
    for row in rows:
        dialog.column.addWidget(words_of(row, 16))
    dialog.column.addStretch(1)
    dialog.buttons(button_of("Close", dialog.accept, True))
    dialog.open()
