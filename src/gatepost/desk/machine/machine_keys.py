# SPDX-License-Identifier: GPL-3.0-or-later
"""Keys at the machine: big keys by their letter, held or pressed, and the ways of jogging."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QFocusEvent, QKeyEvent

from gatepost.desk.machine.big_keys import HeldKeys
from gatepost.desk.machine.machine_layout import MachineLayout
from gatepost.desk.machine.places_row import CODES

DIGITS = tuple(Qt.Key(Qt.Key.Key_1.value + i) for i in range(9))
MAIN = (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Space)


class MachineKeys(MachineLayout):
    """What is pressed, held and let go."""

    def __init__(self, theme: str) -> None:
        super().__init__(theme)
        self.held_keys = HeldKeys(self)
        self.held_keys.came_up.connect(self._key_up)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Big keys by letter; any other key lets go of one that is being held."""
        if event is None or not self.held_keys.pressed(event):
            return
        key = Qt.Key(event.key())
        if self.jog.pressed(key) or (key in DIGITS and self.to_answer(DIGITS.index(key) + 1)):
            return
        if key in MAIN and not (key == Qt.Key.Key_Space and self.main.held):
            self.main.press()
            return
        for one in (self.main, self.stop, self.places, self.jog):
            one.let_go()
        table = {
            Qt.Key.Key_B: self.back,
            Qt.Key.Key_W: self.working,
            Qt.Key.Key_L: self.ledger,
            Qt.Key.Key_R: self.rocks,
            Qt.Key.Key_S: self.stop,
            Qt.Key.Key_A: self.again,
            Qt.Key.Key_D: self.leave,
            Qt.Key.Key_U: self.lift,
            Qt.Key.Key_Escape: self.halt,
            **self.jog.by_key(),
            **(self.places.by_key() or self.cutting.by_key()),
        }
        if key == Qt.Key.Key_Escape and self.jog.armed:
            self.jog.end()
        elif key in table and table[key].isEnabled() and table[key].isVisibleTo(self):
            table[key].press()
        else:
            super().keyPressEvent(event)

    def to_answer(self, number: int) -> bool:
        """To an answer of this screen; gives whether it has so many."""
        raise NotImplementedError

    def keyReleaseEvent(self, event: QKeyEvent | None) -> None:
        """Letting go of Enter lets go of the main key."""
        if event is not None:
            self.held_keys.released(event)

    def focusOutEvent(self, event: QFocusEvent | None) -> None:
        """Nothing is held by a view that does not have the keys, nor armed."""
        self.held_keys.all_up()
        self.jog.end()
        super().focusOutEvent(event)

    def _key_up(self, key: int) -> None:
        """Its own big key is let go, and no other: what came up late was pressed before."""
        code = Qt.Key(key)
        if code in MAIN[:2]:
            self.main.let_go()
        elif code == Qt.Key.Key_S:
            self.stop.let_go()
        elif code == Qt.Key.Key_M:
            self.jog.arm.let_go()
        elif code in CODES:
            self.places.let_go()
        self.jog.released(code)
