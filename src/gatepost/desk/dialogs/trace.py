# SPDX-License-Identifier: GPL-3.0-or-later
"""What went wrong, to be read and copied."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QApplication, QDialog, QPlainTextEdit, QPushButton, QVBoxLayout, QWidget

from gatepost.desk.theme.words import Label


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
