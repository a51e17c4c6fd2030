# SPDX-License-Identifier: GPL-3.0-or-later
"""Places of the machine that it is brought to by one press each: to load, to change the tool, to park."""

from __future__ import annotations

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QHBoxLayout, QWidget

from gatepost.desk.machine.big_keys import BigKey
from gatepost.desk.theme.style import font
from gatepost.desk.theme.words import Label

MOST_PLACES = 4  # of which each has a key
CAPS = "FGHJ"
CODES = (Qt.Key.Key_F, Qt.Key.Key_G, Qt.Key.Key_H, Qt.Key.Key_J)
AT = ("turn", "shims", "hold", "fit", "clear", "measure", "up-bare")  # first words of steps at which hands want room
TALL = 46  # px


class PlacesRow(QWidget):
    """wanted: a place's name."""

    wanted = pyqtSignal(str)

    def __init__(self, theme: str) -> None:
        super().__init__()
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 4)
        row.setSpacing(8)
        self.words = Label("Bring it, hands away, to:")
        self.words.setFont(font(18))
        row.addWidget(self.words)
        self._keys = [BigKey("", f"hold {cap}", theme, "key", True, TALL) for cap in CAPS]
        for key in self._keys:
            row.addWidget(key)
            key.fired.connect(lambda key=key: self.wanted.emit(key.words))
        row.addStretch(1)
        self.hide()

    def keys(self) -> tuple[BigKey, ...]:
        """All of them."""
        return tuple(self._keys)

    def by_key(self) -> dict[Qt.Key, BigKey]:
        """Each by what is held for it; nothing while none is seen."""
        return dict(zip(CODES, self._keys)) if self.isVisible() else {}

    def let_go(self) -> None:
        """No key is down any more."""
        for key in self._keys:
            key.let_go()

    def show_places(self, names: tuple[str, ...], seen: bool) -> None:
        """What each key says; whether they are seen."""
        for key, cap, name in zip(self._keys, CAPS, (*names, *[""] * MOST_PLACES)):
            key.setVisible(bool(name))
            if name and key.words != name:
                key.label(name, f"hold {cap}", True)
        self.setVisible(seen and bool(names))
