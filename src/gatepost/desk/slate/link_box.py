# SPDX-License-Identifier: GPL-3.0-or-later
"""On the Run page: which machine, how it stands, and what it is asked."""

from __future__ import annotations

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QGridLayout, QHBoxLayout, QPushButton, QSlider, QVBoxLayout, QWidget

from gatepost.desk.theme.words import Label


class LinkBox(QWidget):
    """One box: the state in words, and a button for each way on."""

    simulated_wanted = pyqtSignal()
    practice_wanted = pyqtSignal()
    address_wanted = pyqtSignal()
    unlink_wanted = pyqtSignal()
    feed_wanted = pyqtSignal(int)

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("linkbox")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        column = QVBoxLayout(self)
        column.setContentsMargins(10, 8, 10, 8)
        column.setSpacing(5)
        self.state, self.more = Label("No machine is linked."), Label()
        self.state.setObjectName("linkstate")
        self.more.setObjectName("sub")
        self.more.setWordWrap(True)
        self.more.hide()
        column.addWidget(self.state)
        column.addWidget(self.more)
        grid = QGridLayout()
        grid.setSpacing(5)
        for i, (words, about, signal) in enumerate(
            (
                ("Simulated machine", "Start a simulated machine with this job's wood on its bed (Ctrl+M)", self.simulated_wanted),
                ("Practice…", "A simulated machine with something wrong, to rehearse a setup (Ctrl+Shift+M)", self.practice_wanted),
                ("Connect…", "Connect to a machine at HOST:PORT", self.address_wanted),
                ("No link", "Run the files on your own control: type its read-outs, tick the steps", self.unlink_wanted),
            )
        ):  # fmt: skip
            button = QPushButton(words)
            button.setToolTip(about)
            button.clicked.connect(lambda _=False, s=signal: s.emit())
            grid.addWidget(button, i // 2, i % 2)
        column.addLayout(grid)
        row = QHBoxLayout()
        row.addWidget(Label("Feed"))
        self.feed = QSlider(Qt.Orientation.Horizontal)
        self.feed.setRange(20, 150)
        self.feed.setValue(100)
        self.feed.setAccessibleName("Feed override, percent")
        self.percent = Label("100 %")
        self.feed.valueChanged.connect(self._feed)
        row.addWidget(self.feed, 1)
        row.addWidget(self.percent)
        column.addLayout(row)

    def _feed(self, value: int) -> None:
        self.percent.setText(f"{value} %")
        self.feed_wanted.emit(value)

    def say(self, words: str, more: str, state: str) -> None:
        """How the machine stands."""
        self.state.setText(words)
        self.more.setText(more)
        self.more.setVisible(bool(more))
        self.setProperty("state", state)
        style = self.style()
        if style is not None:
            style.unpolish(self)
            style.polish(self)
