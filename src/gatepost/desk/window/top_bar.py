# SPDX-License-Identifier: GPL-3.0-or-later
"""The bar over the desk: menu, job, unit, view, undo and save; and the bar under it: the one next step."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QButtonGroup, QHBoxLayout, QPushButton, QSizePolicy, QWidget

from gatepost.desk.theme.words import Label, tip


class TopBar(QWidget):
    """Job, board, unit, view, undo and the run sheet."""

    act_wanted = pyqtSignal(str)
    unit_wanted = pyqtSignal(str)

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("top")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setFixedHeight(48)
        row = QHBoxLayout(self)
        row.setContentsMargins(12, 0, 12, 0)
        row.setSpacing(8)
        self.menu = self._button("Menu", "Everything that can be done (F10)", "menu")
        self.name, self.line = Label(), Label()
        self.name.setObjectName("jobname")
        self.line.setObjectName("blankline")
        self.line.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        row.addWidget(self.menu)
        row.addWidget(self.name)
        row.addWidget(self.line, 1)
        self.units = self._pair(row, (("mm", "mm"), ("inch", "inch")), self.unit_wanted.emit)
        row.addSpacing(6)
        self.views = self._pair(row, (("Desk", "desk"), ("At the machine", "machine")), self._view)
        row.addSpacing(2)
        self.undo = self._button("Undo", "Ctrl+Z", "undo")
        self.redo = self._button("Redo", "Ctrl+Shift+Z", "redo")
        self.save = self._button("Save", "Ctrl+S", "save")
        for button in (self.undo, self.redo, self.save):
            row.addWidget(button)

    def _view(self, value: str) -> None:
        if value == "machine":
            self.act_wanted.emit("machine_view")

    def _button(self, words: str, about: str, act: str) -> QPushButton:
        button = QPushButton(words)
        button.setObjectName("flat")
        button.setToolTip(about)
        button.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        button.clicked.connect(lambda: self.act_wanted.emit(act))
        return button

    def _pair(
        self, row: QHBoxLayout, items: tuple[tuple[str, str], ...], wanted: Callable[[str], None]
    ) -> dict[str, QPushButton]:
        group = QButtonGroup(self)
        out: dict[str, QPushButton] = {}
        inner = QHBoxLayout()
        inner.setSpacing(0)
        for words, value in items:
            button = QPushButton(words)
            button.setCheckable(True)
            button.setFocusPolicy(Qt.FocusPolicy.NoFocus)
            button.clicked.connect(lambda _=False, v=value: wanted(v))
            group.addButton(button)
            inner.addWidget(button)
            out[value] = button
        row.addLayout(inner)
        return out


class NextBar(QWidget):
    """The one next step."""

    wanted = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("next")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setFixedHeight(46)
        row = QHBoxLayout(self)
        row.setContentsMargins(16, 0, 16, 0)
        row.setSpacing(14)
        self.words = Label()
        self.words.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        self.button = QPushButton("Show me")
        self.button.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.button.clicked.connect(self.wanted.emit)
        self.cap = Label("Space")
        self.cap.setObjectName("keycap")
        row.addWidget(Label("Next"))
        row.addWidget(self.words, 1)
        row.addWidget(self.button)
        row.addWidget(self.cap, 0, Qt.AlignmentFlag.AlignVCenter)

    def say(self, words: str, verb: str, cap: str = "Space") -> None:
        """Another next step."""
        self.words.setText(words)
        tip(self.words, words)
        self.button.setText(verb)
        self.cap.setText(cap)
