# SPDX-License-Identifier: GPL-3.0-or-later
"""When what nothing refers to any more is taken apart."""

from __future__ import annotations

import gc

from PyQt6.QtCore import QObject, QTimerEvent

TIDY = 400  # ms between the times that what is no longer used is taken apart
OLDER, ALL = 10, 150  # so many times between those that take what is older, and all


class Tidier(QObject):
    """Takes apart what nothing refers to any more, in the window's own thread alone. Another thread that did it would take a closed
    window's callbacks away while its timers still run, since a window can be deleted only where it was made. Looking through all that
    there is takes a quarter of a second: while a machine moves, only what has come since it began is looked through."""

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        self._times = 0
        self._moves = False
        gc.disable()
        self.startTimer(TIDY)

    def machine_moves(self, moves: bool) -> None:
        """Whether a machine moves now."""
        if moves != self._moves:
            self._moves = moves
            (gc.freeze if moves else gc.unfreeze)()

    def timerEvent(self, event: QTimerEvent | None) -> None:  # noqa: N802 - the toolkit's name
        """A little each time, all of it seldom."""
        self._times += 1
        gc.collect(2 if self._times % ALL == 0 else 1 if self._times % OLDER == 0 else 0)
