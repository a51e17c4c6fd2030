# SPDX-License-Identifier: GPL-3.0-or-later
"""Every key, in one table: the menu, the shortcuts and the list at F1 are made from it."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QDialog, QGridLayout, QPushButton, QVBoxLayout, QWidget

from gatepost.desk.theme.style import font
from gatepost.desk.theme.words import Label

# name, key, words; the window has a method of that name with an underscore before it
KEYS = (
    ("new", "Ctrl+N", "New job"),
    ("open", "Ctrl+O", "Open a job"),
    ("save", "Ctrl+S", "Save"),
    ("save_as", "Ctrl+Shift+S", "Save as"),
    ("start", "Ctrl+Home", "Start page"),
    ("undo", "Ctrl+Z", "Undo"),
    ("redo", "Ctrl+Shift+Z", "Redo"),
    ("unit", "Ctrl+U", "Show mm or inches"),
    ("theme", "Ctrl+D", "Light or dark"),
    ("side", "F2", "Checks or Your figures, first field"),
    ("focus_bed", "F3", "To the bed: N and P choose, arrows nudge"),
    ("focus_heights", "F4", "To the heights"),
    ("near", "F5", "The whole bed, or the board from near"),
    ("other_setup", "F6", "The next setup"),
    ("setups", "Shift+F6", "Setups: add, copy, rename, turn, order, take away"),
    ("first_fix", "F7", "To the first fix offered"),
    ("machine_view", "F9", "Desk or at the machine"),
    ("menu", "F10", "Menu"),
    ("simulated", "Ctrl+M", "Start a simulated machine"),
    ("sheet", "Ctrl+P", "Run sheet as PDF"),
    ("write", "Ctrl+E", "Write programs, art and pictures to a folder"),
    ("check_program", "Ctrl+Shift+O", "Check a program against this job"),
    ("top_table", "Ctrl+T", "Heights of the top from a table (CSV)"),
    ("under_table", "Ctrl+Shift+T", "Gaps under the board from a table (CSV)"),
    ("photo", "Ctrl+L", "Outline of the board from an overhead photo"),
    ("outline_file", "Ctrl+Shift+L", "Outline of the board from an SVG or DXF file"),
    ("pieces_table", "Ctrl+B", "Pieces of a batch from a table (CSV)"),
    ("paste_pieces", "Ctrl+Shift+B", "Pieces of a batch from the clipboard"),
    ("corners_table", "Ctrl+Alt+L", "Outline of the board from a table: corners, or both edges at stations"),
    ("paste_corners", "Ctrl+Alt+Shift+L", "Outline of the board from the clipboard"),
    ("wood", "Ctrl+W", "The shop's woods, with what is known of them here"),
    ("offcuts", "Ctrl+F", "Offcuts on the shelf that would do"),
    ("keep_offcuts", "Ctrl+Shift+F", "Put the cut list's offcuts on the shelf"),
    ("ways", "Ctrl+K", "Places and ways of holding, compared"),
    ("happened", "Ctrl+H", "What happened, and what is still known of the zeros"),
    ("square", "Ctrl+R", "Is it square? Two touches on an edge"),
    ("practice", "Ctrl+Shift+M", "Practice with something wrong with the machine"),
    ("probe", "Ctrl+J", "Probe the top by the machine"),
    ("ledger", "Ctrl+G", "The Z ledger of the surfacing"),
    ("before", "Ctrl+Left", "The wood one operation earlier"),
    ("after", "Ctrl+Right", "The wood one operation later"),
    ("keys", "F1", "This list"),
)
STAGE_KEYS = "Ctrl+1 … Ctrl+9, Ctrl+0"
MORE = (
    (STAGE_KEYS, "The stages along the fence, Blank to Log"),
    ("Space", "Show or tick the next step"),
    ("hold Enter", "At the machine: whatever moves an axis or starts the spindle"),
    ("Esc", "While anything moves: pauses a program, stops all else. Else: leave what was begun"),
    ("B, W, L, S", "At the machine: back, working, Z ledger, stop"),
    ("Tab, Shift+Tab", "To the next or last field"),
)


class KeyList(QDialog):
    """All keys on a page."""

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self.setWindowTitle("Keys")
        column = QVBoxLayout(self)
        grid = QGridLayout()
        grid.setHorizontalSpacing(18)
        rows = [(key, words) for _, key, words in KEYS] + list(MORE)
        half = (len(rows) + 1) // 2
        for i, (key, words) in enumerate(rows):
            cap, text = Label(key), Label(words)
            cap.setFont(font(14, True))
            text.setFont(font(14))
            grid.addWidget(cap, i % half, 2 * (i // half), Qt.AlignmentFlag.AlignRight)
            grid.addWidget(text, i % half, 2 * (i // half) + 1)
        column.addLayout(grid)
        close = QPushButton("Close")
        close.clicked.connect(self.accept)
        column.addWidget(close, 0, Qt.AlignmentFlag.AlignRight)
