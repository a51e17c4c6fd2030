# SPDX-License-Identifier: GPL-3.0-or-later
"""Where the focus is after a button of the slate was pressed: what is typed next goes only where it was meant to."""

from collections import Counter

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtGui import QKeySequence
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QPushButton

from gatepost.desk.context.keys import COMMANDS
from gatepost.desk.pages.entries import PageEntry
from gatepost.desk.slate.fields import Choice, Field, value_of
from gatepost.desk.window.shortcuts import EDITING
from tests.desk.looking import planned

PAGES = ("blank", "carve", "tools")


def press(qtbot, w, button):
    """A click on it, as a mouse does."""
    w.desk.slate.page.ensureWidgetVisible(button)
    button.setFocus(Qt.FocusReason.MouseFocusReason)
    QTest.mouseClick(button, Qt.MouseButton.LeftButton)
    QApplication.processEvents()


def buttons(w):
    """Those of the page, that ask nothing more."""
    return [
        b
        for b in w.desk.slate.fields()
        if isinstance(b, QPushButton) and b.isEnabled() and not b.text().endswith(("…", "..."))
    ]


def _kind(button):
    """What it does, whichever of a table's rows it does it to."""
    return (button.accessibleName() or button.text()).rstrip("0123456789")


def names(w):
    """Of all that is typed or chosen on the page, how often each."""
    return Counter(f.accessibleName() for f in w.desk.slate.entries.inputs.values())


def lines(w):
    """Of the lettering."""
    return next(a for a in w.document.job.artwork if a.kind == "lettering").figures.lines


def test_a_line_that_was_added_by_the_mouse_is_what_is_typed_next(qtbot, opened):
    w = opened
    w.go("carve")
    w.desk.slate.turn("entered")
    count = len(lines(w))
    press(qtbot, w, next(b for b in buttons(w) if b.text() == "Add a line"))
    field = QApplication.focusWidget()
    assert isinstance(field, Field) and field.accessibleName() == "Text" and field.hasSelectedText()
    QTest.keyClicks(field, "Mind your head")
    QTest.keyClick(field, Qt.Key.Key_Return)
    assert len(lines(w)) == count + 1 and lines(w)[-1].text == "Mind your head"


@pytest.mark.parametrize("page", PAGES)
def test_no_button_leaves_the_focus_on_something_else_that_stood_there(qtbot, opened, page):
    """It stays on the button, or goes to what has come with it, or is nowhere in the slate."""
    w = opened
    w.go(page)
    w.desk.slate.turn("entered")
    start, tried = w.document.stack.index(), set()
    while button := next((b for b in buttons(w) if _kind(b) not in tried), None):
        words = _kind(button)
        tried.add(words)
        before = names(w)
        press(qtbot, w, button)
        focus = QApplication.focusWidget()
        if isinstance(focus, (Field, Choice)) and w.desk.slate.isAncestorOf(focus):
            name = focus.accessibleName()
            assert names(w)[name] > before[name], f"“{words}” leaves the focus on “{name}”"
        while w.document.stack.index() > start:
            w.document.stack.undo()
        planned(qtbot, w)
        w.go(page)
        w.desk.slate.turn("entered")


def test_the_window_s_own_keys_take_nothing_away_from_what_is_being_typed(opened, monkeypatch):
    """Among them those that a line of text has meanings of its own for: to its beginning, to its end, one letter away."""
    w, done = opened, []
    own = [c for c in COMMANDS if c.key.startswith("Ctrl+") and c.key not in EDITING]
    w.go("blank")
    w.desk.slate.turn("entered")
    field = next(f for f in w.desk.slate.fields() if f.accessibleName() == "Job")
    field.setFocus()
    field.setText("Boathouse")
    for one in w.context.acts:
        monkeypatch.setitem(w.context.acts, one, lambda *a, one=one: done.append(one))
    for command in own:
        field.setCursorPosition(4)
        keys = QKeySequence(command.key)[0]
        QTest.keyClick(field, keys.key(), keys.keyboardModifiers())
        assert done[-1:] == [command.name] and field.text() == "Boathouse", command.key
    assert len(done) == len(own) > 30
    field.setText(w.document.job.name)


def test_lettering_that_is_written_besides_is_what_is_typed_next_and_stands_clear_of_what_was_there(qtbot, opened):
    w = opened
    w.go("carve")
    w.desk.slate.turn("entered")
    planned(qtbot, w)
    before = lines(w)
    for number in (2, 3):
        press(qtbot, w, next(b for b in buttons(w) if b.text() == "Write something else here"))
        field = QApplication.focusWidget()
        assert isinstance(field, Field) and field.accessibleName() == "Text" and field.hasSelectedText()
        QTest.keyClicks(field, f"Number {number}")
        QTest.keyClick(field, Qt.Key.Key_Return)
        letters = [a for a in w.document.job.artwork if a.kind == "lettering"]
        assert len(letters) == number and letters[-1].figures.lines[0].text == f"Number {number}"
        assert lines(w) == before
    found = [f.code for f in planned(qtbot, w).report("carve").findings]
    assert "carve.cut-twice" not in found


@pytest.mark.parametrize(
    ("label", "text", "value"),
    [
        ("Stops for the vacuum after, min, or 0", "5 min", 5.0), ("Room, °C", "18°C", 18.0), ("Room, °C", "−3,5 °C", -3.5), ("Damp of the air, %", "60%", 60.0),
        ("Covers, m² a litre", "12 m²", 12.0), ("Turned left by", "90 °", 90.0), ("Letter spacing, × height", "0.05", 0.05),
    ],
)  # fmt: skip
def test_a_figure_is_taken_with_its_own_unit_behind_it(label, text, value):
    assert value_of(PageEntry(label, "number", 0.0, "", dict, unit="°"), text, "mm") == value


@pytest.mark.parametrize("text", ["5 h", "5 mm", "5 min 3", "min", "5.5.5 min", "", "1e", "5 minutes"])
def test_a_figure_with_another_unit_is_refused(text):
    with pytest.raises(ValueError):
        value_of(PageEntry("Stops for the vacuum after, min, or 0", "number", 0.0, "", dict), text, "mm")
