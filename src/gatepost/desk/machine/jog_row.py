# SPDX-License-Identifier: GPL-3.0-or-later
"""Jogging by hand: armed by a key held for a second, then for as long as a key, a big key or the pad is held. It lapses by itself."""

from __future__ import annotations

import time
from functools import partial

from PyQt6.QtCore import QEvent, Qt, QTimer, pyqtSignal
from PyQt6.QtWidgets import QHBoxLayout, QWidget

from gatepost.desk.machine.big_keys import BigKey
from gatepost.desk.theme.style import font
from gatepost.desk.theme.words import Label
from gatepost.machine.jogging import PACES, STALE, Arming, Asked, speeds_of
from gatepost.machine.pad import Pad

TALL = 46  # px
EVERY = 40  # ms between words of what is asked for
KEYS = {
    Qt.Key.Key_Left: ("left", "X −", "←"), Qt.Key.Key_Right: ("right", "X +", "→"), Qt.Key.Key_Down: ("nearer", "Y −", "↓"),
    Qt.Key.Key_Up: ("farther", "Y +", "↑"), Qt.Key.Key_PageUp: ("up", "Z +", "PgUp"), Qt.Key.Key_PageDown: ("down", "Z −", "PgDn"),
}  # fmt: skip


class WayKey(BigKey):
    """A key that counts for as long as it is down. down_changed: whether it is."""

    down_changed = pyqtSignal(bool)

    def mousePressEvent(self, event: object) -> None:
        """Down."""
        if self.isEnabled():
            self.down_changed.emit(True)

    def mouseReleaseEvent(self, event: object) -> None:
        """Up."""
        self.down_changed.emit(False)


class JogRow(QWidget):
    """begun: something is asked for, as ``asked`` says, until it says nothing. armed_changed: to be shown anew."""

    begun = pyqtSignal()
    armed_changed = pyqtSignal()

    def __init__(self, theme: str, pad: Pad | None = None) -> None:
        super().__init__()
        self.asked, self.arming, self.pad = Asked(), Arming(), pad or Pad()
        self.down: set[str] = set()
        self.pace, self.unit = "slow", "mm"
        self._ticked = 0.0  # when it was looked at last
        self._going = False  # whether it has been told to begin, and has not ended
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 4)
        row.setSpacing(8)
        self.arm = BigKey("Jog by hand", "hold M", theme, "key", True, TALL)
        self.arm.fired.connect(self._turn)
        row.addWidget(self.arm)
        self._ways = {code: WayKey(words, cap, theme, tall=TALL) for code, (_, words, cap) in KEYS.items()}
        for code, key in self._ways.items():
            row.addWidget(key)
            key.down_changed.connect(partial(self._hold, KEYS[code][0]))
        self.pacing = BigKey("slow", "P", theme, tall=TALL)
        self.pacing.fired.connect(self._next_pace)
        row.addWidget(self.pacing)
        self.words = Label()
        self.words.setFont(font(17))
        row.addWidget(self.words, 1)
        self._timer = QTimer(self)
        self._timer.setInterval(EVERY)
        self._timer.timeout.connect(self._tick)
        self._show()
        self.hide()

    def keys(self) -> tuple[BigKey, ...]:
        """All of them."""
        return (self.arm, *self._ways.values(), self.pacing)

    @property
    def armed(self) -> bool:
        """Whether anything that is held moves it."""
        return self.arming.armed(time.monotonic())

    def by_key(self) -> dict[Qt.Key, BigKey]:
        """Each by what is pressed or held for it, beside the ways."""
        if not self.isVisible():
            return {}
        return {Qt.Key.Key_M: self.arm, **({Qt.Key.Key_P: self.pacing} if self.armed else {})}

    def pressed(self, code: Qt.Key) -> bool:
        """A key went down; gives whether it is one of the ways, and counts."""
        if code not in KEYS or not self.armed or not self.isVisible():
            return False
        self._hold(KEYS[code][0], True)
        return True

    def released(self, code: Qt.Key) -> None:
        """A key came up."""
        if code in KEYS and KEYS[code][0] in self.down:
            self._hold(KEYS[code][0], False)

    def let_go(self) -> None:
        """No key is down any more."""
        self.arm.let_go()
        self._all_up()

    def end(self) -> None:
        """Jogging is not armed any more."""
        if self.arming.armed(time.monotonic()) or self.down:
            self.arming.end()
            self._all_up()
            self._show()
            self.armed_changed.emit()

    def ended(self) -> None:
        """What was begun has ended: the machine stands."""
        self._going = False

    def changeEvent(self, event: QEvent | None) -> None:
        """Nothing is armed in a window that does not have the keys."""
        if event is not None and event.type() == QEvent.Type.ActivationChange and not self.isActiveWindow():
            self.end()
        super().changeEvent(event)

    def show_row(self, seen: bool, unit: str = "mm") -> None:
        """Whether it can be armed now; unit: that is shown."""
        if unit != self.unit:
            self.unit = unit
            self._show()
        if not seen and not self._going:
            self.end()
        self.setVisible(seen or self._going)

    def _turn(self) -> None:
        if self.armed:
            self.end()
            return
        self._ticked = time.monotonic()
        self.arming.arm(self._ticked)
        self._timer.start()
        self._show()
        self.armed_changed.emit()

    def _hold(self, way: str, down: bool) -> None:
        (self.down.add if down and self.armed else self.down.discard)(way)
        self._tick()

    def _all_up(self) -> None:
        self.down.clear()
        self.asked.drop()

    def _next_pace(self) -> None:
        names = list(PACES)
        self.pace = names[(names.index(self.pace) + 1) % len(names)]
        self.arming.used(time.monotonic())
        self._show()

    def _tick(self) -> None:
        now = time.monotonic()
        if not self.arming.armed(now):
            self._timer.stop()
            self._all_up()
            self.pad.close()
            self._show()
            self.armed_changed.emit()
            return
        late, self._ticked = now - self._ticked > STALE, now
        if late:  # the window hung: a key may have come up meanwhile, and its word is still to be read
            self.asked.drop()
            return
        self.pad.look(now)
        speeds = speeds_of(self.down, self.pace) if self.down else self.pad.state.speeds(now)
        self.asked.tell(speeds, now)
        if speeds is not None and any(speeds):
            self.arming.used(now)
            if not self._going:
                self._going = True
                self.begun.emit()
        self._say_left(now)

    def _say_left(self, now: float) -> None:
        pad = "pad: hold its left shoulder" if self.pad.state.plugged_in else ""
        left = self.arming.left(now)
        self.words.setText("; ".join(w for w in (pad, f"lapses in {left:.0f} s" if left < 8.0 else "") if w))

    def _show(self) -> None:
        armed = self.armed
        self.arm.label("Jogging: end it" if armed else "Jog by hand", "hold M", True)
        for key in (*self._ways.values(), self.pacing):
            key.setVisible(armed)
        fast = f"{PACES[self.pace]:.0f} mm/min" if self.unit == "mm" else f"{PACES[self.pace] / 25.4:.0f} in/min"
        self.pacing.label(f"{self.pace}, {fast}", "P", False)
        if not armed:
            self.words.setText("")
