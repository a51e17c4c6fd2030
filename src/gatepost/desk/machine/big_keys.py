# SPDX-License-Identifier: GPL-3.0-or-later
"""A button that must be held for a second before anything moves: a ring fills, any other key lets go."""

from __future__ import annotations

from PyQt6.QtCore import QElapsedTimer, QEvent, QObject, QPointF, QRectF, Qt, QTimer, QTimerEvent, pyqtSignal
from PyQt6.QtGui import QColor, QFontMetricsF, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QSizePolicy, QWidget

from gatepost.desk.theme.style import font
from gatepost.desk.theme.table import THEMES

HOLD = 1000  # ms
REPEAT = 80  # ms that the press of a key that repeats may come after its release, where a window is busy
SAME_MOMENT = 4  # ms by the X server's clock


class HeldKeys(QObject):
    """Which keys are down. A key that repeats is one press: an X server sends a release and a press for each repeat, both at
    the same moment by its own clock, and only a release that no such press follows is one. So a key kept down ticks one step,
    and begins one motion."""

    came_up = pyqtSignal(int)

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        self._down: dict[int, int] = {}  # by key the timer that counts it as up, 0 while none runs
        self._released: dict[int, int] = {}  # when each came up last, or seemed to, by the X server's clock, ms

    def pressed(self, event: QKeyEvent) -> bool:
        """Whether a press is a new one."""
        if event.isAutoRepeat():
            return False
        key, stamp = event.key(), event.timestamp()
        if stamp and 0 <= stamp - self._released.get(key, -1000) <= SAME_MOMENT:
            self._hold(key)  # still the same press, even where it came so late that the key counted as up: no new one
            return False
        self._up(key)
        self._hold(key)
        return True

    def _hold(self, key: int) -> None:
        timer = self._down.get(key, 0)
        if timer:
            self.killTimer(timer)
        self._down[key] = 0

    def released(self, event: QKeyEvent) -> None:
        """A release, or what looks like one."""
        key = event.key()
        if not event.isAutoRepeat() and key in self._down:
            self._hold(key)
            self._released[key] = event.timestamp()
            self._down[key] = self.startTimer(REPEAT)

    def timerEvent(self, event: QTimerEvent | None) -> None:  # noqa: N802 - the toolkit's name
        """No press came after a release: the key is up."""
        for key, timer in list(self._down.items()):
            if event is not None and timer == event.timerId():
                self._up(key)

    def all_up(self) -> None:
        """Whoever had the keys has them no longer."""
        for key in list(self._down):
            self._up(key)

    def _up(self, key: int) -> None:
        timer = self._down.pop(key, None)
        if timer:
            self.killTimer(timer)
        if timer is not None:
            self.came_up.emit(key)


class BigKey(QWidget):
    """A large key with its letter beside. held: it must be held down for a second."""

    fired = pyqtSignal()

    def __init__(self, words: str, cap: str, theme: str, role: str = "key", held: bool = False, tall: int = 68) -> None:
        super().__init__()
        self._tall = tall
        self.words, self.cap, self.theme, self.role, self.held = words, cap, theme, role, held
        self._room()
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.setAttribute(Qt.WidgetAttribute.WA_AcceptTouchEvents)  # itself: two fingers may hold two keys
        self._clock = QElapsedTimer()
        self._timer = QTimer(self)
        self._timer.setInterval(30)
        self._timer.timeout.connect(self._tick)

    def label(self, words: str, cap: str, held: bool, enabled: bool = True) -> None:
        """Say something else."""
        if (words, cap, held) != (self.words, self.cap, self.held):
            self.let_go()
        self.words, self.cap, self.held = words, cap, held
        self._room()
        self.setEnabled(enabled)
        self.setAccessibleName(words)
        self.update()

    def _room(self) -> None:
        """As wide as its words at least."""
        words = QFontMetricsF(font(self._size, True)).horizontalAdvance(self.words)
        cap = QFontMetricsF(font(15)).horizontalAdvance(self.cap) + 34 if self.cap else 0.0
        self.setMinimumSize(max(120 if self._tall > 60 else 60, round(words + cap + 24)), self._tall)

    @property
    def _size(self) -> float:
        return 23 if self._tall > 60 else 17

    @property
    def share(self) -> float:
        """How much of the second is held."""
        return min(1.0, self._clock.elapsed() / HOLD) if self._timer.isActive() else 0.0

    def press(self) -> None:
        """Begin: at once when it need not be held."""
        if not self.isEnabled():
            return
        if not self.held:
            self.fired.emit()
        elif not self._timer.isActive():
            self._clock.start()
            self._timer.start()
            self.update()

    def let_go(self) -> None:
        """Let go: nothing happens."""
        self._timer.stop()
        self.update()

    def _tick(self) -> None:
        self.update()
        if self._clock.elapsed() >= HOLD:
            self._timer.stop()
            self.fired.emit()

    def event(self, event: QEvent | None) -> bool:
        """A finger goes down, or comes up."""
        kind = event.type() if event is not None else QEvent.Type.None_
        if kind == QEvent.Type.TouchBegin:
            self.mousePressEvent(None)
        elif kind in (QEvent.Type.TouchEnd, QEvent.Type.TouchCancel):
            self.mouseReleaseEvent(None)
        elif kind != QEvent.Type.TouchUpdate:
            return super().event(event)
        if event is not None:
            event.accept()  # else the mouse is pressed for it as well
        return True

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
        p.setFont(font(self._size, True))
        cap_font = font(15)
        wide = p.fontMetrics().horizontalAdvance(self.words)
        p.setFont(cap_font)
        cap = p.fontMetrics().horizontalAdvance(self.cap) + 20 if self.cap else 0
        left = (self.width() - wide - cap - (12 if cap else 0)) / 2
        p.setFont(font(self._size, True))
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
