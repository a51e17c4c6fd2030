# SPDX-License-Identifier: GPL-3.0-or-later
"""Keys that belong to the window whatever has the focus: shortcuts, Space for the next step, Enter for the key that has it, Escape for a pause."""

from __future__ import annotations

import contextlib
from collections.abc import Callable

from PyQt6.QtCore import QEvent, QObject, Qt
from PyQt6.QtGui import QKeyEvent, QKeySequence, QShortcut
from PyQt6.QtWidgets import (
    QAbstractButton,
    QApplication,
    QComboBox,
    QLineEdit,
    QPlainTextEdit,
    QPushButton,
    QToolButton,
    QWidget,
)

from gatepost.desk.context.keys import COMMANDS
from gatepost.desk.context.stages import STAGES
from gatepost.desk.machine.big_keys import HeldKeys

ENTER = (Qt.Key.Key_Return, Qt.Key.Key_Enter)
EDITING = ("Ctrl+Z", "Ctrl+Shift+Z", "Ctrl+Left", "Ctrl+Right")  # that mean something in what is being typed


def is_typing(widget: QWidget | None) -> bool:
    """Whether keys belong to the widget that has the focus."""
    return isinstance(widget, (QLineEdit, QPlainTextEdit, QComboBox)) or bool(widget and widget.property("typing"))


class WindowKeys(QObject):
    """act: does what has a name; stage: opens one. moving: whether anything moves; hold_still: stops it; next_step: shows or ticks it;
    leave: puts the focus back on the fence; at_desk: whether the desk is looked at."""

    def __init__(
        self, window: QWidget, act: Callable[[str], object], stage: Callable[[str], None], at_desk: Callable[[], bool],
        moving: Callable[[], bool], hold_still: Callable[[], None], next_step: Callable[[], None], leave: Callable[[], None],
    ) -> None:  # fmt: skip
        super().__init__(window)
        self._window, self._at_desk, self._moving = window, at_desk, moving
        self._hold_still, self._next_step, self._leave = hold_still, next_step, leave
        self._held = HeldKeys(self)
        self._held.came_up.connect(self._let_go)
        self._entered: QAbstractButton | None = None  # what Enter is down on
        self._own: set[str] = set()
        for command in COMMANDS:
            if command.key:
                self._shortcut(command.key, lambda name=command.name: act(name))
        for i, name in enumerate(STAGES):
            self._shortcut(f"Ctrl+{(i + 1) % 10}", lambda n=name: stage(n))
        window.installEventFilter(self)  # where nothing has the focus, keys come to the window itself
        app = QApplication.instance()
        if isinstance(app, QApplication):
            app.focusChanged.connect(self._watch)

    def _shortcut(self, key: str, act: Callable[[], object]) -> None:
        shortcut = QShortcut(QKeySequence(key), self._window)
        shortcut.activated.connect(act)
        if "Ctrl+" in key and key not in EDITING:
            self._own.add(QKeySequence(key).toString())

    def end(self) -> None:
        """At the window's end."""
        app = QApplication.instance()
        if isinstance(app, QApplication):
            with contextlib.suppress(TypeError):
                app.focusChanged.disconnect(self._watch)

    def watch(self, widget: QObject) -> None:
        """Look at what comes to a widget too."""
        widget.installEventFilter(self)

    def _watch(self, old: QWidget | None, new: QWidget | None) -> None:
        """Look at what comes to the widget with the focus, and at nothing else: every event looked at in Python waits
        for the threads beside, and there are hundreds in a repaint."""
        with contextlib.suppress(RuntimeError):  # the widget is gone already
            if old is not None and old is not self._window:
                old.removeEventFilter(self)
            if self._entered is not None and old is self._entered:
                self._entered.setDown(False)  # Enter is not let go over it
                self._entered = None
        if new is not None and new is not self._window:
            new.installEventFilter(self)

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        """Escape pauses while anything moves, whatever has the focus; Space is the next step unless it is typed; Enter presses the key that has the
        focus; and the window's own keys mean the same in a field, where some of them would take away what was typed."""
        if (
            isinstance(event, QKeyEvent)
            and event.type() == QEvent.Type.ShortcutOverride
            and QKeySequence(event.keyCombination()).toString() in self._own
        ):
            event.ignore()
            return True
        if isinstance(event, QKeyEvent) and event.type() == QEvent.Type.KeyRelease:
            self._held.released(event)
        if isinstance(event, QKeyEvent) and event.type() == QEvent.Type.KeyPress and isinstance(watched, QWidget):
            return self._pressed(watched, event) or super().eventFilter(watched, event)
        return super().eventFilter(watched, event)

    def _let_go(self, key: int) -> None:
        """Enter comes up: what it was down on is pressed, where it still has the focus. Not before: what comes up then would get the repeats."""
        one, self._entered = self._entered, None if key in ENTER else self._entered
        if one is None or key not in ENTER:
            return
        with contextlib.suppress(RuntimeError):  # it is gone already
            one.setDown(False)
            if one is QApplication.focusWidget() and one.isEnabled():
                one.click()

    def _pressed(self, watched: QWidget, event: QKeyEvent) -> bool:
        key = event.key()
        if key not in (Qt.Key.Key_Escape, Qt.Key.Key_Space, *ENTER):
            return False
        new = self._held.pressed(event)
        if key == Qt.Key.Key_Escape and self._moving():  # in a dialog or a menu too
            if new:
                self._hold_still()
            return True
        focus = QApplication.focusWidget()
        here = watched.window() is self._window
        if key in ENTER:
            if not isinstance(focus, (QPushButton, QToolButton)) or (here and not self._at_desk()):
                return False
            if new:
                self._entered = focus
                focus.setDown(True)
            return True
        if not here or not self._at_desk():
            return False
        button = isinstance(focus, QAbstractButton)
        if key == Qt.Key.Key_Space and not is_typing(focus) and not button:
            if new:
                self._next_step()
            return True
        edited = isinstance(focus, QLineEdit) and (focus.isModified() or bool(focus.property("ownEscape")))
        leaves = (is_typing(focus) or button) and not edited and not (focus and focus.property("typing"))
        if key == Qt.Key.Key_Escape and leaves:
            self._leave()
            return True
        return False
