# SPDX-License-Identifier: GPL-3.0-or-later
"""The log read: its newest rows at once, all of a long one in a thread of its own."""

from __future__ import annotations

import contextlib
import threading
from collections.abc import Callable
from typing import Any

from PyQt6.QtCore import QObject, pyqtSignal

from gatepost.core.errors import OperatorError
from gatepost.core.log.filtering import KnownRow, known

AT_ONCE = 300  # rows


class LogReader(QObject):
    """book: opens the logbook. read: all rows have been read, newest first."""

    read = pyqtSignal(list)
    _came = pyqtSignal(int, list)

    def __init__(self, parent: QObject, book: Callable[[], Any]) -> None:
        super().__init__(parent)
        self._book, self._asked = book, 0
        self._came.connect(self._here)

    def rest(self) -> None:
        """Read all of it, beside what goes on; of several askings the newest counts."""
        self._asked += 1
        threading.Thread(target=self._work, args=(self._asked,), daemon=True).start()

    def drop(self) -> None:
        """What is being read is not wanted any more."""
        self._asked += 1

    def _work(self, asked: int) -> None:
        rows: list[KnownRow] = []
        try:
            book = self._book()
            try:
                rows = [known(run) for run in book.runs()]
            finally:
                book.close()
        except OperatorError:
            return  # the newest were read at once, and who read them was told
        with contextlib.suppress(RuntimeError):  # the window is gone
            self._came.emit(asked, rows)

    def _here(self, asked: int, rows: list[KnownRow]) -> None:
        if asked == self._asked:
            self.read.emit(rows)
