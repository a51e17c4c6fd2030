# SPDX-License-Identifier: GPL-3.0-or-later
"""The wood as it is cut, swept and shaded in a thread of its own: the window only shows what has come of it last."""

from __future__ import annotations

import threading
from typing import TYPE_CHECKING, Any

from PyQt6.QtCore import QObject, pyqtSignal

if TYPE_CHECKING:
    from gatepost.core.plan.planned import PlannedSetup, ProgramFile
    from gatepost.core.wood.field import HeightField


class LiveWoodPicture(QObject):
    """made: another picture is there. field, pixels: the wood as it was swept last, and its picture; nothing until then."""

    made = pyqtSignal()

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        self.field: HeightField | None = None
        self.pixels: Any = None
        self._of = ""  # the program that is followed, by its fingerprint
        self._live: Any = None
        self._wanted = -1  # moves done, the newest that was told
        self._lock = threading.Lock()
        self._busy = False

    def follow(self, setup: PlannedSetup, program: ProgramFile, before: HeightField, done: int) -> None:
        """So many moves of a program are done: sweep them. Nothing is waited for; of several tellings the newest counts."""
        with self._lock:
            if program.fingerprint != self._of or self._live is None or self._live.before is not before:
                self._of, self.field, self.pixels = program.fingerprint, None, None
                self._live = _wood_of(setup, program, before)
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
            self._of, self._live, self.field, self.pixels, self._wanted = "", None, None, None, -1

    def _work(self) -> None:
        from gatepost.drawing.shade import shaded_once

        while True:
            with self._lock:
                live, done, of = self._live, self._wanted, self._of
                if live is None:
                    self._busy = False
                    return
            field = live.to(done)
            pixels = shaded_once(field)
            with self._lock:
                if of == self._of:
                    self.field, self.pixels = field, pixels
                again = self._live is not None and (self._wanted != done or self._live is not live)
                self._busy = again
            try:
                self.made.emit()
            except RuntimeError:  # the window is gone
                return
            if not again:
                return


def _wood_of(setup: PlannedSetup, program: ProgramFile, before: HeightField) -> Any:
    from gatepost.core.wood.field import cutter_of
    from gatepost.core.wood.live import LiveWood

    return LiveWood(before, setup.placed.to_work.inverse().moves(program.moves), cutter_of(program.tool))
