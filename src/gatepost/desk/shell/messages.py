# SPDX-License-Identifier: GPL-3.0-or-later
"""The one message channel, its strip above the next step, and the only message boxes."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

from PyQt6.QtCore import QObject, Qt, QTimer, pyqtSignal
from PyQt6.QtWidgets import (
    QApplication,
    QDialog,
    QHBoxLayout,
    QInputDialog,
    QLabel,
    QMessageBox,
    QPlainTextEdit,
    QPushButton,
    QSizePolicy,
    QVBoxLayout,
    QWidget,
)

from gatepost.core.units import spell
from gatepost.desk.theme.words import Label, plain
from gatepost.trouble import trace_in


class Messages(QObject):
    """Everything that is told to the operator goes through here."""

    told = pyqtSignal(str, bool)
    unit = "mm"

    def say(self, words: str) -> None:
        """Something to know; goes away by itself."""
        self.told.emit(spell(words, self.unit), False)

    def warn(self, words: str) -> None:
        """Something that went wrong; stays until it is put away."""
        self.told.emit(spell(words, self.unit), True)


class Strip(QWidget):
    """Shows the last message."""

    STAYS = 7000  # ms

    def __init__(self, messages: Messages) -> None:
        super().__init__()
        self.setObjectName("message")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        row = QHBoxLayout(self)
        row.setContentsMargins(16, 6, 12, 6)
        self.words = Label()
        self.words.setWordWrap(True)
        self.words.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
        self.words.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        row.addWidget(self.words, 1)
        self.trace: Path | None = None
        self.details = QPushButton("Show its trace")
        self.details.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.details.clicked.connect(self._details)
        self.details.hide()
        row.addWidget(self.details)
        copy = QPushButton("Copy")
        copy.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        copy.clicked.connect(self._copy)
        away = QPushButton("Put away")
        away.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        away.clicked.connect(self.hide)
        row.addWidget(copy)
        row.addWidget(away)
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.timeout.connect(self.hide)
        messages.told.connect(self._show)
        self.hide()

    def _show(self, words: str, stays: bool) -> None:
        self.words.setText(words)
        self.trace = trace_in(words)
        self.details.setVisible(self.trace is not None)
        self.show()
        if stays:
            self._timer.stop()
        else:
            self._timer.start(self.STAYS)

    def _details(self) -> None:
        if self.trace is not None:
            TraceView(self, self.trace).open()

    def _copy(self) -> None:
        board = QApplication.clipboard()
        if board is not None:
            board.setText(self.words.text())


class TraceView(QDialog):
    """The end of the log of what went wrong, to be read and copied."""

    SHOWN = 40_000  # characters

    def __init__(self, parent: QWidget, path: Path) -> None:
        super().__init__(parent)
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.setWindowTitle("What went wrong")
        self.resize(860, 520)
        try:
            words = path.read_text("utf-8", "replace")[-self.SHOWN :]
        except OSError as error:
            words = f"{path} can't be read: {error.strerror or error}."
        self.text = QPlainTextEdit(words)
        self.text.setReadOnly(True)
        self.text.moveCursor(self.text.textCursor().MoveOperation.End)
        copy = QPushButton("Copy all of it")
        copy.clicked.connect(lambda: QApplication.clipboard().setText(words))  # type: ignore[union-attr]
        column = QVBoxLayout(self)
        column.addWidget(Label(str(path)))
        column.addWidget(self.text, 1)
        column.addWidget(copy)


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
    return {keep: "save", drop: "discard"}.get(box.clickedButton(), "cancel")  # type: ignore[arg-type, call-overload]


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


def ask_mark(parent: QWidget, words: str) -> bool:
    """Before a run is gone on with: has the witness mark been looked at?"""
    box = plain(QMessageBox(QMessageBox.Icon.Warning, "Go on with a run", words, parent=parent))
    box.setInformativeText(
        "Has anything been bumped, moved or taken off since? Home the machine, go over the witness mark with the tool that "
        "was in the collet, and look. Is that bit gripped as it was, are spanners, plate and clip away, and does the work stand still "
        "when its corners are pressed, spindle isolated? Z0 is as the log has it. If not, or if the tip does not stand on the mark, touch off again instead: the place is not "
        "known. Stay with it when it starts, a hand at the red button. No gloves near a turning cutter."
    )
    yes = box.addButton("All of that is so: go on", QMessageBox.ButtonRole.AcceptRole)
    no = box.addButton("Not now", QMessageBox.ButtonRole.RejectRole)
    box.setDefaultButton(no)
    box.exec()
    return box.clickedButton() is yes
