# SPDX-License-Identifier: GPL-3.0-or-later
"""The strip that shows the last message, floating over the foot of the window."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtCore import QEvent, QObject, Qt, QTimer
from PyQt6.QtWidgets import QApplication, QHBoxLayout, QPushButton, QSizePolicy, QWidget

from gatepost.desk.context.messages import Messages
from gatepost.desk.dialogs.trace import TraceView
from gatepost.desk.theme.words import Label
from gatepost.trouble import trace_in


class Strip(QWidget):
    """Shows the last message, floating over the foot of what it is laid on: nothing moves for it. above: what it stays clear of."""

    STAYS = 7000  # ms

    def __init__(self, messages: Messages, over: QWidget, above: QWidget | None = None) -> None:
        super().__init__(over)
        self._above, self._there = above, ""
        self.setObjectName("message")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        row = QHBoxLayout(self)
        row.setContentsMargins(16, 6, 12, 6)
        self.words = Label()
        self.words.setWordWrap(True)
        self.words.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
        self.words.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.words.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        row.addWidget(self.words, 1)
        self.trace: Path | None = None
        self.details = self._button("Show what happened", self._details)
        self.details.hide()
        row.addWidget(self.details)
        row.addWidget(self._button("Copy", self._copy))
        row.addWidget(self._button("Put away", self.hide))
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.timeout.connect(self.hide)
        messages.told.connect(self._show)
        over.installEventFilter(self)
        if above is not None:
            above.installEventFilter(self)
        self.hide()

    def _button(self, words: str, act: object) -> QPushButton:
        button = QPushButton(words)
        button.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        button.clicked.connect(act)  # type: ignore[arg-type]
        return button

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        """Follow what it lies on."""
        if event is not None and event.type() == QEvent.Type.Resize and self.isVisible():
            self._place()
        return super().eventFilter(watched, event)

    def _place(self) -> None:
        over = self.parentWidget()
        if over is None:
            return
        wide = min(over.width() - 24, 980)
        self.setFixedWidth(wide)
        layout = self.layout()
        tall = max(layout.totalHeightForWidth(wide), 44) if layout is not None and layout.hasHeightForWidth() else 44
        foot = self._above.height() if self._above is not None else 0
        self.setGeometry((over.width() - wide) // 2, over.height() - foot - tall - 8, wide, tall)
        self.raise_()

    def stands_there(self, words: str) -> None:
        """Words that stand on the page itself from now on: they are not told twice."""
        self._there = words
        if words and self.words.text() == words:
            self.hide()

    def _show(self, words: str, stays: bool) -> None:
        """Show a message; no words put away the one that is shown."""
        if not words or words == self._there:
            self.hide()
            return
        self.words.setText(words)
        self.trace = trace_in(words)
        self.details.setVisible(self.trace is not None)
        self.show()
        self._place()
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
