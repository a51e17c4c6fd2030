# SPDX-License-Identifier: GPL-3.0-or-later
"""How the view at the machine is laid out and dressed: words and figure above, the bed and its heights, big keys at the foot."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QHBoxLayout, QLabel, QLineEdit, QProgressBar, QPushButton, QVBoxLayout, QWidget

from gatepost.desk.machine.big_keys import BigKey
from gatepost.desk.machine.jog_row import JogRow
from gatepost.desk.machine.places_row import PlacesRow
from gatepost.desk.machine.while_it_cuts import WhileItCuts
from gatepost.desk.theme.style import font
from gatepost.desk.theme.table import THEMES
from gatepost.desk.theme.words import Label
from gatepost.desk.view.canvas import Canvas

STEP_TALL, FIGURE_TALL, CAUTION_TALL = (
    9.0,
    18.0,
    6.0,
)  # mm at the screen's true size: capitals of step and figure, type of a caution
PAIR = 0.62  # of a figure's size: two of them stand where one does
CAPITAL = 0.668  # of the interface face


class MachineLayout(QWidget):
    """The parts of the view; what they show and do is AtMachine's."""

    def __init__(self, theme: str) -> None:
        super().__init__()
        self.theme = theme
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setObjectName("machine")
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(self._header())
        column.addLayout(self._words(), 0)
        column.addLayout(self._typed_row())
        column.addLayout(self._pictures(theme), 1)
        self.foot = self._foot()
        column.addWidget(self.foot)
        self.dress(theme)

    # -- building ---------------------------------------------------------------------------------------------

    def _header(self) -> QWidget:
        head = QWidget()
        head.setObjectName("mhead")
        row = QHBoxLayout(head)
        row.setContentsMargins(28, 10, 28, 10)
        self.job, self.where, self.link = Label(), Label(), Label()
        for label, bold in ((self.job, True), (self.where, False), (self.link, False)):
            label.setFont(font(18, bold))
        row.addWidget(self.job)
        row.addSpacing(14)
        row.addWidget(self.where)
        row.addStretch(1)
        row.addWidget(self.link)
        self.simulated, self.to_desk = QPushButton("Simulated machine"), QPushButton("To the desk")
        for button, about in (
            (self.simulated, "Start a simulated machine with this job's wood on its bed (Ctrl+M)"),
            (self.to_desk, "Back to the desk (F9)"),
        ):
            button.setFont(font(16))
            button.setFocusPolicy(Qt.FocusPolicy.NoFocus)  # the keys stay with the step
            button.setToolTip(about)
            row.addSpacing(12)
            row.addWidget(button)
        return head

    def _words(self) -> QHBoxLayout:
        row = QHBoxLayout()
        row.setContentsMargins(40, 12, 40, 0)
        row.setSpacing(24)
        left = QVBoxLayout()
        left.setSpacing(4)
        self.count, self.step, self.detail, self.caution = Label(), Label(), Label(), Label()
        self.trouble, self.working_out, self.early, self.others = Label(), Label(), Label(), Label()
        self.others.hide()
        self.trouble.hide()
        self.early.hide()
        self.working_out.hide()
        for label in (self.step, self.others, self.detail, self.caution, self.trouble, self.early, self.working_out):
            label.setWordWrap(True)
        for label in (
            self.count,
            self.step,
            self.others,
            self.detail,
            self.trouble,
            self.early,
            self.caution,
            self.working_out,
        ):
            left.addWidget(label)
        left.addStretch(1)
        row.addLayout(left, 7)
        right = QVBoxLayout()
        right.setSpacing(0)
        self.label, self.figure, self.figure_unit, self.sum = Label(), Label(), Label(), Label()
        self.figures = (self.label, self.figure, self.figure_unit, self.sum)
        for label in self.figures:
            label.setAlignment(Qt.AlignmentFlag.AlignRight)
            right.addWidget(label)
        self.sum.setWordWrap(True)
        right.addStretch(1)
        row.addLayout(right, 3)
        return row

    def _typed_row(self) -> QHBoxLayout:
        row = QHBoxLayout()
        row.setContentsMargins(40, 4, 40, 6)
        self.typed: list[tuple[QLabel, QLineEdit]] = []
        for _ in range(4):
            name, field = Label(), QLineEdit()
            name.setFont(font(17))
            field.setFont(font(24, True))
            field.setFixedWidth(140)
            field.hide()
            row.addWidget(name)
            row.addSpacing(12)
            row.addWidget(field)
            row.addSpacing(18)
            self.typed.append((name, field))
        row.addStretch(1)
        return row

    def _pictures(self, theme: str) -> QVBoxLayout:
        """The bed, always; the heights under it where they matter."""
        column = QVBoxLayout()
        column.setContentsMargins(40, 4, 40, 4)
        column.setSpacing(4)
        self.bar = QProgressBar()
        self.bar.setTextVisible(False)
        self.bar.setFixedHeight(10)
        self.bar.hide()
        column.addWidget(self.bar)
        self.bed = Canvas(theme)
        self.canvas = Canvas(theme)
        self.canvas.setFixedHeight(118)
        for canvas in (self.bed, self.canvas):
            canvas.setFocusPolicy(Qt.FocusPolicy.NoFocus)
            canvas.only_seen = True
        self.canvas.partner = self.bed
        self.bed.resized.connect(self.canvas.update)
        column.addWidget(self.bed, 1)
        column.addWidget(self.canvas)
        return column

    def _foot(self) -> QWidget:
        foot = QWidget()
        foot.setObjectName("mfoot")
        column = QVBoxLayout(foot)
        column.setContentsMargins(28, 4, 28, 14)
        self.not_stop = Label(
            "Pause and stop here are requests over a cable. The emergency stop is the red button on the machine."
        )
        self.not_stop.setAlignment(Qt.AlignmentFlag.AlignRight)
        column.addWidget(self.not_stop)
        self.cutting, self.places = WhileItCuts(self.theme), PlacesRow(self.theme)
        column.addWidget(self.cutting)
        column.addWidget(self.places)
        self.jog = JogRow(self.theme)
        column.addWidget(self.jog)
        row = QHBoxLayout()
        row.setSpacing(14)
        self.back = BigKey("Back", "B", self.theme)
        self.ledger = BigKey("Z ledger", "L", self.theme)
        self.working = BigKey("Working", "W", self.theme)
        self.main = BigKey("Done", "Enter", self.theme, "main")
        self.rocks = BigKey("It rocks", "R", self.theme, "danger")
        self.again = BigKey("Start again…", "A", self.theme)
        self.leave = BigKey("Leave it", "D", self.theme)
        self.lift = BigKey("Lift it", "U", self.theme)
        self.halt = BigKey("Pause", "Esc", self.theme, "danger")
        self.stop = BigKey("Stop", "hold S", self.theme, "danger", True)
        for key, share in (
            (self.back, 4),
            (self.working, 4),
            (self.ledger, 4),
            (self.rocks, 4),
            (self.again, 4),
            (self.leave, 4),
            (self.main, 7),
            (self.lift, 4),
            (self.halt, 4),
            (self.stop, 3),
        ):
            row.addWidget(key, share)
        column.addLayout(row)
        return foot

    def dress(self, theme: str) -> None:
        """Colours and true sizes."""
        self.theme = theme
        c = THEMES[theme]
        per_mm = self.per_mm()
        self.step.setFont(font(STEP_TALL * per_mm / CAPITAL * 0.93, True))
        self.figure.setFont(font(FIGURE_TALL * per_mm / CAPITAL, True))
        for label, size in (
            (self.count, 19),
            (self.detail, 20),
            (self.caution, CAUTION_TALL * per_mm),
            (self.trouble, 24),
            (self.early, 20),
            (self.others, 20),
            (self.working_out, 18),
            (self.label, 20),
            (self.figure_unit, 20),
            (self.sum, 18),
            (self.not_stop, 16),
        ):
            label.setFont(font(size))
        dark = theme == "dark"
        ground, bar, ink, soft, good, care = (
            ("sunk", "slate", "chalk", "chalk-muted", "slate-ok", "slate-care")
            if dark
            else ("paper", "fence", "ink", "muted", "ok", "care")
        )
        self.setStyleSheet(
            f"QWidget#machine {{ background: {c[ground]}; }} QWidget#mhead, QWidget#mfoot {{ background: {c[bar]}; }}"
            f"QLabel {{ color: {c[ink]}; background: transparent; }}"
            f"QWidget#message QLabel {{ color: {c['chalk']}; font-size: 18px; }}"
            f"QLineEdit {{ background: {c['field']}; color: {c['ink']}; border: 2px solid {c['muted']}; border-radius: 6px; padding: 6px; }}"
            f"QLineEdit:focus {{ border-color: {c[good]}; }}"
            f"QProgressBar {{ background: {c[bar]}; border: none; border-radius: 5px; }}"
            f"QProgressBar::chunk {{ background: {c['accent']}; border-radius: 5px; }}"
        )
        for label in (self.count, self.sum, self.early, self.cutting.fed, self.places.words, self.jog.words):
            label.setStyleSheet(f"color: {c[good]};")
        for label in (self.where, self.link, self.label, self.figure_unit, self.detail, self.working_out):
            label.setStyleSheet(f"color: {c[soft]};")
        self.trouble.setStyleSheet(f"color: {c['slate-stop' if dark else 'stop']}; font-weight: 600;")
        for label in (self.caution, self.not_stop):
            label.setStyleSheet(f"color: {c[care]};")
        for key in self.keys():
            key.theme = theme
            key.update()
        for canvas in (self.bed, self.canvas):
            canvas.theme = theme
            canvas.update()

    def keys(self) -> tuple[BigKey, ...]:
        """All big keys, in their order."""
        return (
            self.back, self.working, self.ledger, self.rocks, self.again, self.leave, self.main, self.lift, self.halt, self.stop,
            *self.cutting.keys(), *self.places.keys(), *self.jog.keys(),
        )  # fmt: skip

    def per_mm(self) -> float:
        screen = self.screen()
        dots = screen.physicalDotsPerInch() if screen is not None else 96.0
        return min(max(dots, 88.0), 220.0) / 25.4
