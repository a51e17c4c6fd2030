# SPDX-License-Identifier: GPL-3.0-or-later
"""How far something long is, with a way to call it off; all else goes on meanwhile."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtWidgets import QProgressDialog, QWidget


class Sharing:
    """Shown from the first that is heard of it until it has come to its end."""

    def __init__(self, title: str, called_off: Callable[[], object]) -> None:
        self._title, self._called_off = title, called_off
        self.dialog: QProgressDialog | None = None

    def show(self, window: QWidget, words: str, done: int, of: int) -> None:
        """So much done of so many, in words."""
        if self.dialog is None:
            self.dialog = QProgressDialog("", "Call it off", 0, of, window)
            self.dialog.setWindowTitle(self._title)
            self.dialog.setMinimumDuration(0)
            self.dialog.setAutoReset(False)
            self.dialog.canceled.connect(self._called_off)
            self.dialog.show()
        self.dialog.setMaximum(of)
        self.dialog.setLabelText(words)
        self.dialog.setValue(done)

    def close(self) -> None:
        """It has come to its end."""
        if self.dialog is not None:
            self.dialog.blockSignals(True)
            self.dialog.close()
            self.dialog.deleteLater()
            self.dialog = None
