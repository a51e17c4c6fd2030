# SPDX-License-Identifier: GPL-3.0-or-later
"""What others have written into the same logbook meanwhile: looked for now and then, in a thread of its own."""

from __future__ import annotations

import contextlib
import threading
from collections.abc import Callable
from typing import Any

from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from gatepost.core.errors import OperatorError

EVERY = 20_000  # ms


class BookNews(QObject):
    """book: opens the logbook; busy: whether now is no time for it. came: there is something that was not there when it was looked last."""

    came = pyqtSignal()
    _looked = pyqtSignal(str)

    def __init__(self, parent: QObject, book: Callable[[], Any], busy: Callable[[], bool]) -> None:
        super().__init__(parent)
        self._book, self._busy = book, busy
        self._was, self._looking = "", False
        self._looked.connect(self._here)
        self._timer = QTimer(self)
        self._timer.setInterval(EVERY)
        self._timer.timeout.connect(self.look)

    def begin(self) -> None:
        """From now on."""
        if not self._timer.isActive():
            self._timer.start()
            self.look()

    def look(self) -> None:
        """Look once, unless that goes on already."""
        if self._looking or self._busy():
            return
        self._looking = True
        threading.Thread(target=self._work, daemon=True).start()

    def _work(self) -> None:
        mark = ""
        with contextlib.suppress(OperatorError):  # who needs it is told when it is needed
            book = self._book()
            try:
                mark = book.mark()
            finally:
                book.close()
        with contextlib.suppress(RuntimeError):  # the window is gone
            self._looked.emit(mark)

    def _here(self, mark: str) -> None:
        self._looking = False
        if mark and mark != self._was:
            first, self._was = not self._was, mark
            if not first:
                self.came.emit()
