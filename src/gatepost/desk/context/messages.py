# SPDX-License-Identifier: GPL-3.0-or-later
"""The one message channel."""

from __future__ import annotations

from PyQt6.QtCore import QObject, pyqtSignal

from gatepost.core.units import spell


class Messages(QObject):
    """Everything that is told to the operator goes through here."""

    told = pyqtSignal(str, bool)
    unit = "mm"

    def say(self, words: str) -> None:
        """Something to know; goes away by itself."""
        self.told.emit(spell(words, self.unit), False)

    def tell(self, words: str) -> None:
        """Something to be read through; stays until it is put away."""
        self.told.emit(spell(words, self.unit), True)

    def warn(self, words: str) -> None:
        """Something that went wrong; stays until it is put away."""
        self.told.emit(spell(words, self.unit), True)
