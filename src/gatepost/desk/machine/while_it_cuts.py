# SPDX-License-Identifier: GPL-3.0-or-later
"""While a program runs: the feed slower, faster and full, and remarks by a key each."""

from __future__ import annotations

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from gatepost.desk.machine.big_keys import BigKey
from gatepost.desk.theme.style import font
from gatepost.desk.theme.words import Label

MOST_REMARKS = 5  # of which each has a key
STEP, LEAST_FEED, LEAST_SPEED, MOST_FEED = (
    10.0,
    10.0,
    50.0,
    150.0,
)  # per cent of feed and spindle: of one press, and between which it is asked for
TALL = 40  # px


class WhileItCuts(QWidget):
    """feed_wanted: of the feed, per cent; speed_wanted: of the spindle's speed, per cent; remark_wanted: in its words."""

    feed_wanted = pyqtSignal(float)
    speed_wanted = pyqtSignal(float)
    remark_wanted = pyqtSignal(str)

    def __init__(self, theme: str) -> None:
        super().__init__()
        self.percent = self.speed = 100.0
        rows = QVBoxLayout(self)
        rows.setContentsMargins(0, 0, 0, 4)
        rows.setSpacing(6)
        row, said = QHBoxLayout(), QHBoxLayout()
        for line in (row, said):
            line.setSpacing(8)
            rows.addLayout(line)
        self.fed = Label("feed 100 %")
        self.fed.setFont(font(20, True))
        self.slower, self.faster, self.full = (
            BigKey(words, cap, theme, tall=TALL)
            for words, cap in (("Slower", "−"), ("Faster", "+"), ("Full feed", "F"))
        )
        self.turn_down, self.turn_up = (
            BigKey(words, cap, theme, tall=TALL) for words, cap in (("rpm −", "["), ("rpm +", "]"))
        )
        self.fed.setMinimumWidth(230)
        row.addWidget(self.fed)
        for key in (self.slower, self.faster, self.full, self.turn_down, self.turn_up):
            row.addWidget(key)
        self.remarks = [BigKey("", str(n), theme, tall=TALL) for n in range(1, MOST_REMARKS + 1)]
        for key in self.remarks:
            said.addWidget(key, 1)
            key.fired.connect(lambda key=key: self.remark_wanted.emit(key.words))
        self.slower.fired.connect(lambda: self._feed(self.percent - STEP))
        self.faster.fired.connect(lambda: self._feed(self.percent + STEP))
        self.full.fired.connect(lambda: self._feed(100.0))
        self.turn_down.fired.connect(lambda: self._turn(self.speed - STEP))
        self.turn_up.fired.connect(lambda: self._turn(self.speed + STEP))
        self.hide()

    def keys(self) -> tuple[BigKey, ...]:
        """All of them."""
        return (self.slower, self.faster, self.full, self.turn_down, self.turn_up, *self.remarks)

    def by_key(self) -> dict[Qt.Key, BigKey]:
        """Each by what is pressed for it."""
        more = {Qt.Key(Qt.Key.Key_1.value + i): key for i, key in enumerate(self.remarks)}
        return {
            Qt.Key.Key_Minus: self.slower,
            Qt.Key.Key_Plus: self.faster,
            Qt.Key.Key_Equal: self.faster,
            Qt.Key.Key_F: self.full,
            Qt.Key.Key_BracketLeft: self.turn_down,
            Qt.Key.Key_BracketRight: self.turn_up,
            **more,
        }

    def _feed(self, percent: float) -> None:
        self.feed_wanted.emit(min(max(round(percent / STEP) * STEP, LEAST_FEED), MOST_FEED))

    def _turn(self, percent: float) -> None:
        self.speed_wanted.emit(min(max(round(percent / STEP) * STEP, LEAST_SPEED), MOST_FEED))

    def show_sped(self, percent: float) -> None:
        """The spindle's override as it stands."""
        self.speed = percent
        self._say()

    def _say(self) -> None:
        self.fed.setText(f"feed {self.percent:.0f} %" + (f", rpm {self.speed:.0f} %" if self.speed != 100.0 else ""))

    def show_fed(self, percent: float) -> None:
        """The feed override as it stands."""
        self.percent = percent
        self._say()

    def show_remarks(self, words: tuple[str, ...]) -> None:
        """What each key of a remark says."""
        for i, key in enumerate(self.remarks):
            key.setVisible(i < len(words))
            if i < len(words):
                key.label(words[i], str(i + 1), False)
