# SPDX-License-Identifier: GPL-3.0-or-later
"""Random hands at the machine: a simulated one is linked, and somebody presses, holds and lets go of anything, pulls the cable out, links
again, goes to the desk and comes back. Nothing may raise; what the journal says is never taken back; nothing is left running."""

from __future__ import annotations

import contextlib
import os
import socket
import sys
from typing import Any

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication

from handling import RandomHands, begun

Key = Qt.Key
PRESSED = (
    Key.Key_Return, Key.Key_Space, Key.Key_B, Key.Key_W, Key.Key_L, Key.Key_R, Key.Key_S, Key.Key_A, Key.Key_D, Key.Key_Escape, Key.Key_Tab,
    Key.Key_7,
)  # fmt: skip
HELD = 1150  # ms
AT_REST = 30_000  # ms in which everything comes to a stand


class MachineHands(RandomHands):
    """The same window, with a machine linked."""

    def begin(self) -> None:
        """Link one, as fast as it goes."""
        self.w.operator.speed = "max"
        self.w.operator.next_seed = lambda: 20
        self.written: list[Any] = []
        self.link()
        self.w.turn_to("machine")

    def link(self) -> None:
        """A simulated machine."""
        self.w.act("simulated")
        self._until(lambda: self.w.operator.state in ("ready", "lost") and not self.w.operator.busy)

    def _until(self, seen: Any) -> bool:
        for _ in range(AT_REST // 20):
            self.app.processEvents()
            if seen():
                return True
            QTest.qWait(20)
        return False

    def act(self) -> str:
        """One thing."""
        ways = ("press", "hold", "click", "big", "cable", "link", "desk", "wait", "stage")
        kind = self.chance.choices(ways, (24, 28, 8, 16, 1, 1, 6, 10, 6))[0]
        if self.w.operator.state in ("lost", "no link") and self.chance.random() < 0.4:
            kind = "link"
        machine = self.w.machine
        at: Any = QApplication.activeModalWidget() or QApplication.focusWidget() or machine
        if kind == "press":
            QTest.keyClick(at, self.chance.choice(PRESSED))
        elif kind == "hold":
            QTest.keyPress(at, Key.Key_Return)
            QTest.qWait(self.chance.choice((40, 400, HELD)))
            QTest.keyRelease(at, Key.Key_Return)
        elif kind == "big":
            keys = [
                machine.main,
                machine.halt,
                machine.stop,
                machine.back,
                machine.working,
                machine.again,
                machine.leave,
            ]
            key = self.chance.choice([k for k in keys if k.isVisible()] or [machine.main])
            QTest.mousePress(key, Qt.MouseButton.LeftButton, pos=QPoint(8, 8))
            QTest.qWait(self.chance.choice((10, HELD)) if key.held else 10)
            QTest.mouseRelease(key, Qt.MouseButton.LeftButton, pos=QPoint(8, 8))
        elif kind == "cable":
            self._pull_out()
        elif kind == "link" and QApplication.activeModalWidget() is None:
            self.link()
        elif kind == "desk" and QApplication.activeModalWidget() is None:
            self.w.act("machine_view")
        elif kind == "stage" and QApplication.activeModalWidget() is None:
            self.w.go(self.chance.choice(("hold", "zero", "carve", "run", "log")))
            self.w.turn_to("machine")
        elif kind == "wait":
            QTest.qWait(self.chance.choice((20, 200, 800)))
        else:
            self._mouse("click")
        self._written()
        return kind

    def _pull_out(self) -> None:
        """The cable out, whatever is going on."""
        session = self.w.operator._session
        if session is not None:
            with contextlib.suppress(OSError):
                session._socket.shutdown(socket.SHUT_RDWR)

    def _written(self) -> None:
        """What the journal said it still says."""
        entries = list(self.w.document.journal.entries)
        if entries[: len(self.written)] != self.written:
            self.wrong.append("the journal took something back")
        self.written = entries

    def live(self, count: int) -> str:
        """So many things; gives what was wrong, or nothing."""
        self.begin()
        for i in range(count):
            last = self.act()
            self.app.processEvents()
            if i % 60 == 59:
                self.close_all()
            if self.wrong:
                return f"after {i + 1} acts, {last}: {self.wrong[0]}"
        self.close_all()
        self.w.operator.stop()
        if not self._until(lambda: not self.w.operator.busy):
            return f"it is still busy: {self.w.operator.state}, {self.w.operator.last_words}"
        self._written()
        left = [r.state for r in self.w.runs() if r.state == "running"]
        return self.wrong[0] if self.wrong else f"{len(left)} runs are still said to run" if left else ""


if __name__ == "__main__":
    sys.exit(begun(MachineHands))
