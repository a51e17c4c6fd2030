# SPDX-License-Identifier: GPL-3.0-or-later
"""The switch above the fence: which setup is shown, however many there are, and what can be done with it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from PyQt6.QtCore import QPoint, Qt, pyqtSignal
from PyQt6.QtWidgets import QButtonGroup, QComboBox, QHBoxLayout, QMenu, QPushButton, QWidget

from gatepost.core.job.turning import FACES, FLAT, Lay

SIDE_BY_SIDE = 3  # setups that each have a button; of more, one is picked from a list
ROOM, BESIDE = 130, 8  # px for all buttons, and beside the words of each


@dataclass(frozen=True)
class Shown:
    """A setup as the switch shows it. planned: whether there is something to see of it; lies: how the board lies in it."""

    id: str
    title: str
    planned: bool
    lies: Lay = FLAT


class SetupSwitch(QWidget):
    """Buttons side by side, or a list. acts: what the menu offers is told by ``asked``: a word, and the setup's id."""

    wanted = pyqtSignal(str)
    asked = pyqtSignal(str, str)

    def __init__(self) -> None:
        super().__init__()
        self.buttons: dict[str, QPushButton] = {}
        self._shown: tuple[tuple[Shown, ...], str] | None = None
        self._group = QButtonGroup(self)
        self._row = QHBoxLayout(self)
        self._row.setContentsMargins(12, 0, 12, 0)
        self._row.setSpacing(0)
        self.list = QComboBox()
        self.list.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.list.setToolTip("Setup shown (F6 changes it)")
        self.list.activated.connect(lambda i: self.wanted.emit(str(self.list.itemData(i))))
        self.more = QPushButton("⋯")
        self.more.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.more.setToolTip("Add, copy, order, turn or take away a setup (Shift+F6)")
        self.more.setFixedWidth(26)
        self.more.setStyleSheet("padding-left: 2px; padding-right: 2px;")
        self.more.clicked.connect(self.open_menu)
        self._row.addWidget(self.list, 1)
        self._row.addWidget(self.more)
        self.list.hide()

    def show_setups(self, setups: Sequence[Shown], current: str) -> None:
        """These, and which of them is shown."""
        now = (tuple(setups), current)
        if now == self._shown:
            return
        if self._shown is None or [(s.id, s.title) for s in self._shown[0]] != [(s.id, s.title) for s in setups]:
            self._lay_out(setups)
        self._shown = now
        for one in setups:
            if one.id in self.buttons:
                button = self.buttons[one.id]
                button.setText(one.title)
                button.setEnabled(one.planned)
                button.setChecked(one.id == current)
        for i, one in enumerate(setups):
            if i < self.list.count():
                self.list.setItemText(i, one.title)
        if self.list.count():
            self.list.setCurrentIndex(next((i for i, s in enumerate(setups) if s.id == current), 0))

    def _lay_out(self, setups: Sequence[Shown]) -> None:
        for button in self.buttons.values():
            self._group.removeButton(button)
            self._row.removeWidget(button)
            button.deleteLater()
        self.buttons = {}
        self.list.clear()
        wide = sum(self.fontMetrics().horizontalAdvance(s.title) + BESIDE for s in setups)
        many = len(setups) > SIDE_BY_SIDE or wide > ROOM
        self.list.setVisible(many)
        for i, one in enumerate(setups):
            if many:
                self.list.addItem(one.title, one.id)
                continue
            button = QPushButton(one.title)
            button.setCheckable(True)
            button.setFocusPolicy(Qt.FocusPolicy.NoFocus)
            button.setToolTip("Setup shown (F6 changes it)")
            button.setStyleSheet("padding-left: 3px; padding-right: 3px;")
            button.clicked.connect(lambda _=False, name=one.id: self.wanted.emit(name))
            self._group.addButton(button)
            self._row.insertWidget(i, button)
            self.buttons[one.id] = button

    def menu(self) -> QMenu:
        """What can be done with the setup shown."""
        menu = QMenu(self)
        setups, current = self._shown if self._shown is not None else ((), "")
        at = next((i for i, s in enumerate(setups) if s.id == current), 0)
        for word, sentence, can in (
            ("add", "Add a setup after the last", True),
            ("copy", "Copy this setup", True),
            ("rename", "Rename this setup…", True),
            ("over", "Turn the board over for it", True),
            ("earlier", "One earlier", at > 0),
            ("later", "One later", at < len(setups) - 1),
            ("remove", "Take this setup away", len(setups) > 1),
        ):
            action = menu.addAction(sentence)
            if action is not None:
                action.setEnabled(can)
                action.triggered.connect(lambda _=False, w=word: self.asked.emit(w, current))
        lies = setups[at].lies if setups else FLAT
        faces = [(f"up {face}", words.capitalize(), face == lies.up) for face, words in FACES.items()]
        spins = [(f"spin {by}", f"{by}°" if by else "as it comes", by == lies.spin) for by in (0, 90, 180, 270)]
        for title, choices in (("Face that is up", faces), ("Turned on its plane", spins)):
            self._choices(menu, title, choices, current)
        return menu

    def _choices(self, menu: QMenu, title: str, choices: Sequence[tuple[str, str, bool]], current: str) -> None:
        """A menu in the menu, of which one is chosen."""
        inner = menu.addMenu(title)
        for word, sentence, on in choices:
            action = inner.addAction(sentence) if inner is not None else None
            if action is not None:
                action.setCheckable(True)
                action.setChecked(on)
                action.triggered.connect(lambda _=False, w=word: self.asked.emit(w, current))

    def open_menu(self) -> None:
        """Open it under its button."""
        menu = self.menu()
        menu.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        menu.popup(self.more.mapToGlobal(QPoint(0, self.more.height())))
