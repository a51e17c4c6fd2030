# SPDX-License-Identifier: GPL-3.0-or-later
"""F1: what the page one is on is for, then every key."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QDialog, QGridLayout, QPushButton, QScrollArea, QVBoxLayout, QWidget

from gatepost.desk.context.keys import GROUPS, MORE
from gatepost.desk.theme.style import font
from gatepost.desk.theme.words import Label

PAGES = {
    "start": ("Start", "Begin a new job, or open one. Arrow keys and Tab go from card to card; Enter opens it. A job, a drawing, a photo or a program can be dropped anywhere on the window."),
    "blank": ("Blank", "Measure the board and say what it is. Type the first caliper reading at the place marked on the bed; Enter takes it and goes on round the edge. From five readings on they are compared with each other. Say how good it has to be, and whether it rocks on a flat surface."),
    "surface": ("Surface", "Decide whether the top is planed flat, how deep, and in how many passes. Drag a line across the bed to see the heights along it. The slider shows the wood after each pass."),
    "hold": ("Hold", "Put clamps, tape, wedges or screws where they hold and where no move meets them. Drag one on the bed: what is said of it there stands over the bed. “Places and ways compared” tries many for you."),
    "zero": ("Zero", "Choose where X, Y and Z are zero and how each is touched. The figures tell what that does to the depth of the letters at worst."),
    "register": ("Register", "How a part that is turned over or brought back is found again, to a few hundredths of a millimetre."),
    "carve": ("Carve", "Write the words, choose their letters, and say how they are cut. What stands in the way of a letter is marked in red on the bed."),
    "tools": ("Tools", "Which bit cuts what, in which order, and where Z is touched again after a change. Choose a place on the bed by a click."),
    "run": ("Run", "Start a simulated machine or link your own, then go to the machine: one step at a time, each with its one figure."),
    "finish": ("Finish", "What is put on the wood, and how long each coat waits."),
    "log": ("Log", "Every run of every job, with what it was planned to take and what it took. Find rows by words, wood, tool, work and date; choose several with Ctrl and compare them. A remark becomes a lesson that comes back where the same is planned again. Judge the finished piece by what was promised, or lay its photo over the plan. A run that ended early can be resumed from here."),
    "machine": ("At the machine", "One step at a time, to be read from two metres. Enter ticks it; what moves an axis or starts the spindle wants Enter held for a second. Esc pauses. The emergency stop is the red button on the machine."),
}  # fmt: skip


class HelpDialog(QDialog):
    """page: a stage's name, start, or machine."""

    def __init__(self, parent: QWidget, page: str) -> None:
        super().__init__(parent)
        self.setWindowTitle("Help")
        self.resize(980, 660)
        title, words = PAGES.get(page, PAGES["start"])
        inside = QWidget()
        inside.setObjectName("inside")
        column = QVBoxLayout(inside)
        column.setSpacing(8)
        head, about = Label(title), Label(words)
        head.setFont(font(22, True))
        about.setFont(font(15))
        about.setWordWrap(True)
        column.addWidget(head)
        column.addWidget(about)
        column.addSpacing(8)
        keys = [(name, [(c.key, c.words) for c in commands if c.key]) for name, commands in GROUPS]
        grid = QGridLayout()
        grid.setHorizontalSpacing(16)
        grid.setVerticalSpacing(3)
        rows: list[tuple[str, str]] = []
        for name, some in [("Everywhere", list(MORE)), *keys]:
            rows += [("", name), *some]
        half = (len(rows) + 1) // 2
        for i, (key, what) in enumerate(rows):
            cap, text = Label(key), Label(what)
            cap.setFont(font(13, True))
            text.setFont(font(13, not key))
            text.setWordWrap(True)
            if not key:
                text.setObjectName("muted")
            grid.addWidget(cap, i % half, 2 * (i // half), Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignTop)
            grid.addWidget(text, i % half, 2 * (i // half) + 1)
        grid.setColumnStretch(1, 1)
        grid.setColumnStretch(3, 1)
        column.addLayout(grid)
        column.addStretch(1)
        scroll = QScrollArea()
        scroll.setWidgetResizable(True)
        scroll.setWidget(inside)
        outer = QVBoxLayout(self)
        outer.addWidget(scroll, 1)
        close = QPushButton("Close")
        close.setDefault(True)
        close.clicked.connect(self.accept)
        outer.addWidget(close, 0, Qt.AlignmentFlag.AlignRight)
