# SPDX-License-Identifier: GPL-3.0-or-later
"""A button that must be held for a second before anything moves: a ring fills, any other key lets go."""

from __future__ import annotations

from PyQt6.QtCore import QElapsedTimer, QPointF, QRectF, Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QColor, QMouseEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QSizePolicy, QWidget

from gatepost.desk.theme.style import font
from gatepost.desk.theme.table import THEMES

HOLD = 1000  # ms
REPEAT = 80  # ms; an X server's key repeat sends a release and a press at each step, some of them a little apart


class BigKey(QWidget):
    """A large key with its letter beside. held: it must be held down for a second."""

    fired = pyqtSignal()

    def __init__(self, words: str, cap: str, theme: str, role: str = "key", held: bool = False) -> None:
        super().__init__()
        self.words, self.cap, self.theme, self.role, self.held = words, cap, theme, role, held
        self.setMinimumSize(120, 76)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self._clock = QElapsedTimer()
        self._timer = QTimer(self)
        self._timer.setInterval(30)
        self._timer.timeout.connect(self._tick)
        self._released = QTimer(self)  # a release that no press has followed yet
        self._released.setSingleShot(True)
        self._released.setInterval(REPEAT)
        self._released.timeout.connect(self.let_go)

    def label(self, words: str, cap: str, held: bool, enabled: bool = True) -> None:
        """Say something else."""
        if (words, cap, held) != (self.words, self.cap, self.held):
            self.let_go()
        self.words, self.cap, self.held = words, cap, held
        self.setEnabled(enabled)
        self.setAccessibleName(words)
        self.update()

    @property
    def share(self) -> float:
        """How much of the second is held."""
        return min(1.0, self._clock.elapsed() / HOLD) if self._timer.isActive() else 0.0

    def press(self) -> None:
        """Begin: at once when it need not be held."""
        if not self.isEnabled():
            return
        if self._released.isActive():  # the key was never up: it repeats
            self._released.stop()
            return
        if not self.held:
            self.fired.emit()
        elif not self._timer.isActive():
            self._clock.start()
            self._timer.start()
            self.update()

    def let_go(self) -> None:
        """Let go: nothing happens."""
        self._released.stop()
        self._timer.stop()
        self.update()

    def release(self) -> None:
        """A key has come up: let go, unless it goes down again at once, as a key that repeats does."""
        if self._timer.isActive():
            self._released.start()

    def _tick(self) -> None:
        self.update()
        if self._clock.elapsed() >= HOLD and not self._released.isActive():
            self._timer.stop()
            self.fired.emit()

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        """Begin."""
        self.press()

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        """Let go."""
        self.let_go()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        """Paint key, words and ring."""
        p = QPainter(self)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        c = THEMES[self.theme]
        fill = {"key": c["key"], "main": c["accent"], "danger": c["danger"]}[self.role]
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(QColor(fill if self.isEnabled() else c["slot"]))
        p.drawRoundedRect(QRectF(self.rect()).adjusted(1, 1, -1, -1), 7, 7)
        ink = QColor("#ffffff" if self.isEnabled() else c["muted"])
        p.setPen(ink)
        p.setFont(font(23, True))
        cap_font = font(15)
        wide = p.fontMetrics().horizontalAdvance(self.words)
        p.setFont(cap_font)
        cap = p.fontMetrics().horizontalAdvance(self.cap) + 20 if self.cap else 0
        left = (self.width() - wide - cap - (12 if cap else 0)) / 2
        p.setFont(font(23, True))
        p.drawText(
            QRectF(left, 0, wide + 4, self.height()),
            Qt.AlignmentFlag.AlignVCenter | Qt.TextFlag.TextDontClip,
            self.words,
        )
        if cap:
            box = QRectF(left + wide + 12, self.height() / 2 - 15, cap, 30)
            p.setPen(QPen(ink, 1.2))
            p.setBrush(Qt.BrushStyle.NoBrush)
            p.drawRoundedRect(box, 5, 5)
            p.setFont(cap_font)
            p.drawText(box, Qt.AlignmentFlag.AlignCenter, self.cap)
        if self.share > 0:
            p.setPen(QPen(QColor("#ffffff"), 5, Qt.PenStyle.SolidLine, Qt.PenCapStyle.FlatCap))
            at = QPointF(34, self.height() / 2)
            p.drawArc(QRectF(at.x() - 17, at.y() - 17, 34, 34), 90 * 16, -int(360 * 16 * self.share))
