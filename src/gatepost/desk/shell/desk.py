# SPDX-License-Identifier: GPL-3.0-or-later
"""The desk view: top bar, fence, bed and heights, slate, message strip and the next step."""

from __future__ import annotations

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import (
    QButtonGroup,
    QHBoxLayout,
    QPushButton,
    QSizePolicy,
    QSlider,
    QSplitter,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from gatepost.desk.shell.fence import FenceView
from gatepost.desk.shell.logpage import LogPage
from gatepost.desk.shell.messages import Messages, Strip
from gatepost.desk.shell.setupswitch import SetupSwitch
from gatepost.desk.shell.slate import Slate
from gatepost.desk.theme.words import Label, tip
from gatepost.desk.view.canvas import Canvas


class TopBar(QWidget):
    """Job, board, unit, view, undo and the run sheet."""

    unit_wanted = pyqtSignal(str)
    machine_wanted = pyqtSignal()
    undo_wanted = pyqtSignal()
    redo_wanted = pyqtSignal()
    sheet_wanted = pyqtSignal()
    save_wanted = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("top")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setFixedHeight(48)
        row = QHBoxLayout(self)
        row.setContentsMargins(12, 0, 12, 0)
        row.setSpacing(8)
        self.menu = self._button("Menu", "All commands (F10)")
        self.name, self.line = Label(), Label()
        self.name.setObjectName("jobname")
        self.line.setObjectName("blankline")
        self.line.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        row.addWidget(self.menu)
        row.addWidget(self.name)
        row.addWidget(self.line, 1)
        self.units = self._pair(row, (("mm", "mm"), ("inch", "inch")), self.unit_wanted.emit)
        row.addSpacing(6)
        self.views = self._pair(
            row,
            (("Desk", "desk"), ("At the machine", "machine")),
            lambda v: self.machine_wanted.emit() if v == "machine" else None,
        )
        row.addSpacing(2)
        self.undo, self.redo = self._button("Undo", "Ctrl+Z"), self._button("Redo", "Ctrl+Shift+Z")
        self.save, self.sheet = self._button("Save", "Ctrl+S"), self._button("Run sheet…", "Ctrl+P")
        for button, signal in (
            (self.undo, self.undo_wanted),
            (self.redo, self.redo_wanted),
            (self.save, self.save_wanted),
            (self.sheet, self.sheet_wanted),
        ):
            button.clicked.connect(lambda _=False, s=signal: s.emit())
            row.addWidget(button)

    def _button(self, words: str, about: str) -> QPushButton:
        button = QPushButton(words)
        button.setObjectName("flat")
        button.setToolTip(about)
        button.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        return button

    def _pair(self, row: QHBoxLayout, items: tuple[tuple[str, str], ...], wanted: object) -> dict[str, QPushButton]:
        group = QButtonGroup(self)
        out: dict[str, QPushButton] = {}
        inner = QHBoxLayout()
        inner.setSpacing(0)
        for words, value in items:
            button = QPushButton(words)
            button.setCheckable(True)
            button.setFocusPolicy(Qt.FocusPolicy.NoFocus)
            button.clicked.connect(lambda _=False, v=value: wanted(v))  # type: ignore[operator]
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
        lead = Label("Next")
        self.words = Label()
        self.words.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        self.button = QPushButton("Show me")
        self.button.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.button.clicked.connect(self.wanted.emit)
        cap = Label("Space")
        cap.setObjectName("keycap")
        row.addWidget(lead)
        row.addWidget(self.words, 1)
        row.addWidget(self.button)
        row.addWidget(cap, 0, Qt.AlignmentFlag.AlignVCenter)

    def say(self, words: str, verb: str) -> None:
        """Another next step."""
        self.words.setText(words)
        tip(self.words, words)
        self.button.setText(verb)


class LinkRow(QWidget):
    """On the Run page: which machine, and what it is asked."""

    simulated_wanted = pyqtSignal()
    practice_wanted = pyqtSignal()
    address_wanted = pyqtSignal()
    unlink_wanted = pyqtSignal()
    feed_wanted = pyqtSignal(int)

    def __init__(self) -> None:
        super().__init__()
        row = QHBoxLayout(self)
        row.setContentsMargins(46, 2, 16, 4)
        row.addWidget(Label("Machine"))
        self.simulated = QPushButton("Simulated")
        self.practice = QPushButton("Practice…")
        self.practice.setToolTip("A simulated machine with something wrong, to rehearse a setup (Ctrl+Shift+M)")
        self.address = QPushButton("Connect…")
        self.unlink = QPushButton("No link")
        self.state = Label("without a link")
        self.state.setObjectName("muted")
        self.state.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        self.simulated.setToolTip("Start a simulated machine with this job's wood on its bed (Ctrl+M)")
        self.address.setToolTip("Connect to a machine at HOST:PORT")
        self.unlink.setToolTip("Run the files on your own control: type its read-outs, tick the steps")
        for button, signal in (
            (self.simulated, self.simulated_wanted),
            (self.practice, self.practice_wanted),
            (self.address, self.address_wanted),
            (self.unlink, self.unlink_wanted),
        ):
            button.clicked.connect(lambda _=False, s=signal: s.emit())
            row.addWidget(button)
        row.addWidget(self.state, 1)
        row.addWidget(Label("Feed"))
        self.feed = QSlider(Qt.Orientation.Horizontal)
        self.feed.setRange(20, 150)
        self.feed.setValue(100)
        self.feed.setFixedWidth(90)
        self.feed.setAccessibleName("Feed override, percent")
        self.percent = Label("100 %")
        self.feed.valueChanged.connect(self._feed)
        row.addWidget(self.feed)
        row.addWidget(self.percent)

    def _feed(self, value: int) -> None:
        self.percent.setText(f"{value} %")
        self.feed_wanted.emit(value)


class DeskView(QWidget):
    """The whole desk."""

    setup_wanted = pyqtSignal(str)
    after_wanted = pyqtSignal(int)

    def __init__(self, theme: str, messages: Messages) -> None:
        super().__init__()
        self.setObjectName("desk")
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        self.top = TopBar()
        column.addWidget(self.top)
        middle = QHBoxLayout()
        middle.setSpacing(0)
        self.fence = FenceView(theme)
        self.slate = Slate(theme)
        middle.addWidget(self._left())
        middle.addWidget(self._centre(theme), 1)
        middle.addWidget(self.slate)
        column.addLayout(middle, 1)
        column.addWidget(Strip(messages))
        self.next = NextBar()
        column.addWidget(self.next)

    def _left(self) -> QWidget:
        left = QWidget()
        left.setObjectName("fence")
        left.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        left.setFixedWidth(178)
        column = QVBoxLayout(left)
        column.setContentsMargins(0, 8, 0, 0)
        column.setSpacing(6)
        self.setups = SetupSwitch()
        self.setups.wanted.connect(self.setup_wanted)
        column.addWidget(self.setups)
        column.addWidget(self.fence, 1)
        return left

    def _centre(self, theme: str) -> QWidget:
        self.bed = Canvas(theme)
        self.heights = Canvas(theme, stretch=True)
        self.heights.partner = self.bed
        self.bed.resized.connect(self.heights.update)
        self.log = LogPage()
        self.link = LinkRow()
        upper = QWidget()
        upper.setObjectName("canvas")
        upper.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        column = QVBoxLayout(upper)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(self.bed, 1)
        column.addWidget(self._scrub())
        column.addWidget(self.link)
        self.split = QSplitter(Qt.Orientation.Vertical)
        self.split.setHandleWidth(3)
        self.split.addWidget(upper)
        self.split.addWidget(self.heights)
        self.split.setStretchFactor(0, 5)
        self.split.setStretchFactor(1, 2)
        self.split.setSizes([440, 230])
        self.split.setCollapsible(0, False)
        self.split.setCollapsible(1, False)
        self.stack = QStackedWidget()
        self.stack.addWidget(self.split)
        self.stack.addWidget(self.log)
        return self.stack

    def _scrub(self) -> QWidget:
        self.scrub_row = QWidget()
        row = QHBoxLayout(self.scrub_row)
        row.setContentsMargins(46, 0, 16, 4)
        row.addWidget(Label("Wood"))
        self.scrub = QSlider(Qt.Orientation.Horizontal)
        self.scrub.setAccessibleName("The wood after an operation")
        self.scrub.setPageStep(1)
        self.scrub.valueChanged.connect(self.after_wanted.emit)
        self.scrub_words = Label()
        self.scrub_words.setMinimumWidth(240)
        row.addWidget(self.scrub, 1)
        row.addWidget(self.scrub_words)
        self.stop_here = QPushButton()
        self.stop_here.hide()
        row.addWidget(self.stop_here)
        return self.scrub_row
