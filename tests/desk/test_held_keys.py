# SPDX-License-Identifier: GPL-3.0-or-later
"""Keys that are held, with their repeats, as an X server sends them: one press is one, whatever comes up by it."""

import itertools

from PyQt6.QtCore import QElapsedTimer, QEvent, Qt
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import QApplication, QDialog, QPushButton

from tests.desk.looking import Key


class Stamped(QKeyEvent):
    """A key event with an X server's time."""

    def timestamp(self):
        return self.stamp


def key(widget, kind, which, stamp):
    """A key event as an X server's key repeat sends it: with its own time, not marked as one of a repeat."""
    event = Stamped(kind, which, Qt.KeyboardModifier.NoModifier)
    event.stamp = stamp
    QApplication.sendEvent(widget, event)


def kept_down(qtbot, widget, seconds, which=Key.Key_Return):
    """A key kept down: 25 releases and presses a second, some a little apart; then let go."""
    key(widget, QEvent.Type.KeyPress, which, 1000)
    clock = QElapsedTimer()
    clock.start()
    gaps = itertools.cycle((0, 5, 15, 0, 30, 0, 10))
    while clock.elapsed() < 1000 * seconds:
        qtbot.wait(25)
        stamp = 1000 + clock.elapsed()
        key(widget, QEvent.Type.KeyRelease, which, stamp)
        qtbot.wait(next(gaps))
        key(widget, QEvent.Type.KeyPress, which, stamp)
    key(widget, QEvent.Type.KeyRelease, which, 1100 + clock.elapsed())


def at_a_tick(window):
    """The machine view of a window, at a step that is ticked by a press, and the steps that are ticked from now on."""
    view, done = window.machine, []
    window.turn_to("machine")
    view.done_wanted.disconnect()
    view.done_wanted.connect(lambda setup, step, typed: done.append(step.key))
    view.main.label("Tick", "Enter", held=False)
    return view, done


def test_a_key_kept_down_ticks_one_step_and_begins_one_motion(qtbot, quay_open):
    """The ring fills once, whatever the X server's key repeat sends, and what comes next waits for the key to come up."""
    view, done = at_a_tick(quay_open)
    kept_down(qtbot, view, 0.6)
    assert len(done) == 1
    qtbot.waitUntil(lambda: not view.held_keys._down, timeout=1000)
    view.main.label("Home", "hold Enter", held=True)
    kept_down(qtbot, view, 0.6)  # not long enough
    qtbot.waitUntil(lambda: view.main.share == 0.0, timeout=1000)
    assert len(done) == 1
    qtbot.waitUntil(lambda: not view.held_keys._down, timeout=1000)
    for _ in range(4):  # a computer that is busy elsewhere may take it for let go: a person presses once more
        kept_down(qtbot, view, 2.6)
        if len(done) > 1:
            break
        qtbot.waitUntil(lambda: not view.held_keys._down, timeout=1000)
    assert len(done) == 2


def test_a_repeat_that_comes_late_is_no_new_press(qtbot, quay_open):
    """A busy desk sees the press of a repeat long after its release: by the X server's clock they are one moment, and one press."""
    view, done = at_a_tick(quay_open)
    key(view, QEvent.Type.KeyPress, Key.Key_Return, 1000)
    for stamp in (1250, 1290, 1330):
        key(view, QEvent.Type.KeyRelease, Key.Key_Return, stamp)
        qtbot.waitUntil(lambda: not view.held_keys._down, timeout=2000)
        key(view, QEvent.Type.KeyPress, Key.Key_Return, stamp)
    assert len(done) == 1
    key(view, QEvent.Type.KeyRelease, Key.Key_Return, 1400)
    qtbot.waitUntil(lambda: not view.held_keys._down, timeout=2000)
    key(view, QEvent.Type.KeyPress, Key.Key_Return, 1900)
    assert len(done) == 2


def test_space_kept_down_shows_one_thing(qtbot, quay_open, monkeypatch):
    shown = []
    monkeypatch.setattr(quay_open, "do_next", lambda: shown.append(1))
    quay_open.desk.fence.setFocus()
    kept_down(qtbot, quay_open.desk.fence, 0.5, Key.Key_Space)
    assert shown == [1]


def test_enter_presses_what_has_the_focus_once_and_nothing_that_comes_up_by_it(qtbot, quay_open):
    """Kept down, with its repeats: on a key of the desk that opens the view at the machine, on one that is gone before it comes up, and in a dialog."""
    pressed, view = [], quay_open.machine
    view.done_wanted.disconnect()
    view.done_wanted.connect(lambda setup, step, typed: pressed.append(step.key))
    to_machine = QPushButton("At the machine", quay_open.desk)
    to_machine.clicked.connect(lambda: quay_open.turn_to("machine"))
    to_machine.show()
    to_machine.setFocus()
    kept_down(qtbot, to_machine, 0.4)
    qtbot.waitUntil(lambda: view.isVisible(), timeout=2000)
    qtbot.wait(200)
    assert not pressed and not view.main.held
    dialog = QDialog(quay_open)
    leave, take = QPushButton("Leave", dialog), QPushButton("Take", dialog)
    leave.setAutoDefault(False)
    take.setDefault(True)
    leave.clicked.connect(lambda: pressed.append("leave"))
    take.clicked.connect(lambda: pressed.append("take"))
    dialog.open()
    leave.setFocus()
    qtbot.waitUntil(leave.hasFocus, timeout=2000)
    kept_down(qtbot, leave, 0.3)
    qtbot.waitUntil(lambda: bool(pressed), timeout=2000)
    key(leave, QEvent.Type.KeyPress, Key.Key_Return, 90_000)
    take.setFocus()
    key(take, QEvent.Type.KeyRelease, Key.Key_Return, 90_050)
    qtbot.waitUntil(lambda: not leave.isDown(), timeout=2000)
    assert pressed == ["leave"]
    qtbot.waitUntil(take.hasFocus, timeout=2000)
    key(take, QEvent.Type.KeyPress, Key.Key_Return, 99_000)
    leave.setFocus()  # by the mouse, with Enter still down
    assert not take.isDown()
    key(leave, QEvent.Type.KeyRelease, Key.Key_Return, 99_050)
    qtbot.wait(150)
    assert pressed == ["leave"]
    dialog.close()
