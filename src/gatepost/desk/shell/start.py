# SPDX-License-Identifier: GPL-3.0-or-later
"""The start page: recent jobs with their pictures, a new job, and what was left open."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtCore import QSize, Qt, pyqtSignal
from PyQt6.QtGui import QIcon, QPixmap
from PyQt6.QtWidgets import QGridLayout, QHBoxLayout, QPushButton, QToolButton, QVBoxLayout, QWidget

from gatepost.desk.theme.style import font
from gatepost.desk.theme.words import Label, tip

PICTURE = QSize(250, 146)


class StartPage(QWidget):
    """Names and pictures; everything by keyboard too."""

    new_wanted = pyqtSignal()
    open_wanted = pyqtSignal()
    job_wanted = pyqtSignal(object)

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("start")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        column = QVBoxLayout(self)
        column.setContentsMargins(56, 40, 56, 30)
        title = Label("Gatepost")
        title.setFont(font(34, True))
        column.addWidget(title)
        words = Label("From a bare board to a finished, logged sign.")
        words.setObjectName("muted")
        column.addWidget(words)
        column.addSpacing(16)
        row = QHBoxLayout()
        self.new = QPushButton("New job")
        self.new.setToolTip("Ctrl+N")
        self.open = QPushButton("Open…")
        self.open.setToolTip("Ctrl+O")
        self.new.clicked.connect(self.new_wanted.emit)
        self.open.clicked.connect(self.open_wanted.emit)
        for button in (self.new, self.open):
            button.setFont(font(17, True))
            button.setMinimumSize(140, 44)
            row.addWidget(button)
        row.addStretch(1)
        column.addLayout(row)
        column.addSpacing(14)
        self.grid = QGridLayout()
        self.grid.setSpacing(16)
        column.addLayout(self.grid)
        column.addStretch(1)
        foot = Label(
            "Gatepost says what it checked, never that a setup is safe. The machine's manual and local rules come first."
        )
        foot.setObjectName("muted")
        column.addWidget(foot)

    def show_jobs(self, jobs: list[tuple[Path, str, Path]], left: list[Path]) -> None:
        """Recent jobs, and recovery copies first."""
        while self.grid.count():
            item = self.grid.takeAt(0)
            if item is not None and item.widget() is not None:
                item.widget().deleteLater()  # type: ignore[union-attr]
        cards = [(p, f"Left open: {p.stem.rsplit('-', 2)[0]}", None) for p in left[:2]] + [
            (p, n, q) for p, n, q in jobs[:8]
        ]
        for i, (path, name, picture) in enumerate(cards):
            button = QToolButton()
            button.setToolButtonStyle(Qt.ToolButtonStyle.ToolButtonTextUnderIcon)
            button.setIconSize(PICTURE)
            button.setFixedSize(PICTURE.width() + 22, PICTURE.height() + 46)
            button.setFont(font(15, True))
            button.setText(name)
            tip(button, str(path))
            button.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
            if picture is not None and picture.exists():
                button.setIcon(QIcon(QPixmap(str(picture))))
            button.clicked.connect(lambda _=False, p=path: self.job_wanted.emit(p))
            self.grid.addWidget(button, i // 4, i % 4, Qt.AlignmentFlag.AlignLeft)
        self.grid.setColumnStretch(4, 1)
