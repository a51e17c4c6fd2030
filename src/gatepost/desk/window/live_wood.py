# SPDX-License-Identifier: GPL-3.0-or-later
"""The wood as it is cut, swept and shaded in a thread of its own: the window only shows what has come of it last."""

from __future__ import annotations

import contextlib
import os
import threading
from typing import TYPE_CHECKING, Any

from PyQt6.QtCore import QObject, pyqtSignal

if TYPE_CHECKING:
    from gatepost.core.plan.planned import PlannedSetup, ProgramFile
    from gatepost.core.wood.field import HeightField


GIVES_WAY = 15  # of the thread that sweeps: its niceness


class LiveWoodPicture(QObject):
    """made: another picture is there. field, pixels: the wood as it was swept last, and its picture; nothing until then."""

    made = pyqtSignal()

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        self.field: HeightField | None = None
        self.pixels: Any = None
        self._asked: Any = None  # what is followed: the setup, its program, the wood before it
        self._live: Any = None  # the wood that is swept, in the thread alone
        self._wanted = -1  # moves done, the newest that was told
        self._lock = threading.Lock()
        self._busy = False

    def follow(self, setup: PlannedSetup, program: ProgramFile, before: HeightField, done: int) -> None:
        """So many moves of a program are done: sweep them. Nothing is waited for; of several tellings the newest counts."""
        with self._lock:
            asked = self._asked
            if asked is None or program.fingerprint != asked[1].fingerprint or asked[2] is not before:
                self._asked, self.field, self.pixels, self._wanted = (setup, program, before), None, None, -1
            if done == self._wanted and self.pixels is not None:
                return
            self._wanted = done
            if self._busy:
                return
            self._busy = True
        threading.Thread(target=self._work, daemon=True).start()

    def drop(self) -> None:
        """Nothing runs any more."""
        with self._lock:
            self._asked, self.field, self.pixels, self._wanted = None, None, None, -1
            if not self._busy:
                self._live = None

    def _work(self) -> None:
        from gatepost.drawing.shade import shaded_once

        with contextlib.suppress(
            OSError, AttributeError
        ):  # a picture gives way to the window and to the machine's link
            os.setpriority(os.PRIO_PROCESS, threading.get_native_id(), GIVES_WAY)
        while True:
            with self._lock:
                asked, done = self._asked, self._wanted
                if asked is None:
                    self._live, self._busy = None, False
                    return
            if self._live is None or self._live.of is not asked:
                self._live = _wood_of(asked)
            field = self._live.to(done)
            pixels = shaded_once(field)
            with self._lock:
                if asked is self._asked:
                    self.field, self.pixels = field, pixels
                again = self._asked is not None and (self._wanted != done or self._asked is not asked)
                self._busy = again
            try:
                self.made.emit()
            except RuntimeError:  # the window is gone
                return
            if not again:
                return


def _wood_of(asked: tuple[PlannedSetup, ProgramFile, HeightField]) -> Any:
    from gatepost.core.wood.field import cutter_of
    from gatepost.core.wood.live import LiveWood

    setup, program, before = asked
    moves = setup.placed.to_work.inverse().moves(program.moves)
    return LiveWood(before, moves, cutter_of(program.tool), asked)
