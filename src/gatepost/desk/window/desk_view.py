# SPDX-License-Identifier: GPL-3.0-or-later
"""The desk view: top bar, fence, bed and heights, slate, and the next step; messages float over its foot."""

from __future__ import annotations

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QResizeEvent
from PyQt6.QtWidgets import QHBoxLayout, QPushButton, QSlider, QSplitter, QStackedWidget, QVBoxLayout, QWidget

from gatepost.desk.context.messages import Messages
from gatepost.desk.slate.link_box import LinkBox
from gatepost.desk.slate.slate import NARROW, WIDE, Slate
from gatepost.desk.theme.words import Label
from gatepost.desk.view.canvas import Canvas
from gatepost.desk.window.fence import FenceView
from gatepost.desk.window.log_page import LogPage
from gatepost.desk.window.setup_switch import SetupSwitch
from gatepost.desk.window.strip import Strip
from gatepost.desk.window.top_bar import NextBar, TopBar

SHARE = 0.262  # of the window's width, for the slate


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
        self.link = LinkBox()
        self.link.hide()
        self.slate.set_aside(self.link)
        middle.addWidget(self._left())
        middle.addWidget(self._centre(theme), 1)
        middle.addWidget(self.slate)
        column.addLayout(middle, 1)
        self.next = NextBar()
        column.addWidget(self.next)
        self.strip = Strip(messages, self, self.next)

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
        upper = QWidget()
        upper.setObjectName("canvas")
        upper.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        column = QVBoxLayout(upper)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(self.bed, 1)
        column.addWidget(self._scrub())
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
        """The slider's place is always there, so that the bed keeps its scale from page to page."""
        place = QWidget()
        place.setFixedHeight(38)
        around = QVBoxLayout(place)
        around.setContentsMargins(0, 0, 0, 0)
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
        around.addWidget(self.scrub_row)
        return place

    def show_scrub(self, shown: bool) -> None:
        """The slider, where a stage has one."""
        self.scrub_row.setVisible(shown)

    def dress(self, theme: str) -> None:
        """Another theme."""
        for part in (self.fence, self.bed, self.heights):
            part.theme = theme
            part.update()

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        """The slate widens with the window."""
        self.slate.setFixedWidth(min(max(round(SHARE * self.width()), NARROW), WIDE))
