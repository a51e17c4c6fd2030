# SPDX-License-Identifier: GPL-3.0-or-later
"""Any number of setups in the window: switched, added, copied, renamed, turned, ordered, taken away, and all of it undone."""

from __future__ import annotations

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QInputDialog

from tests.conftest import EXAMPLES
from tests.desk.looking import planned

Key = Qt.Key


@pytest.fixture
def quay_open(qtbot, window):
    assert window.open_path(EXAMPLES / "quay-plate.gatepost")
    planned(qtbot, window)
    return window


def offered(window):
    """What the menu offers now, by its words."""
    told = window.desk.setups.menu().actions()
    return {a.text(): a for one in told for a in ([one] if one.menu() is None else one.menu().actions())}


def do(qtbot, window, words):
    """Choose one of the menu."""
    action = offered(window)[words]
    assert action.isEnabled()
    action.trigger()
    planned(qtbot, window)


def ids(window):
    return [s.id for s in window.document.job.setups]


def names(window):
    """What the list has."""
    told = window.desk.setups.list
    return [told.itemText(i) for i in range(told.count())]


def test_setups_are_added_copied_ordered_turned_and_taken_away_and_undone(qtbot, quay_open, monkeypatch):
    w = quay_open
    before = w.document.job
    assert set(w.desk.setups.buttons) == {"surface", "front"} and not w.desk.setups.list.isVisibleTo(w)
    w.presenter.choose_setup("front")
    do(qtbot, w, "Copy this setup")
    assert ids(w) == ["surface", "front", "front-1"] and w.presenter.setup == "front-1"
    assert names(w) == ["surface", "front", "front-1"]  # longer than there is room for beside each other
    assert w.presenter.plan.setup("front-1").programs
    assert not offered(w)["One later"].isEnabled()
    do(qtbot, w, "One earlier")
    assert ids(w) == ["surface", "front-1", "front"] and w.document.job.setup("front").follows == "front-1"
    monkeypatch.setattr(QInputDialog, "getText", lambda *args, **kwargs: ("Second coat", True))
    do(qtbot, w, "Rename this setup…")
    assert w.document.job.setup("front-1").title == "Second coat"
    assert names(w) == ["surface", "Second coat", "front"] and not w.desk.setups.buttons
    do(qtbot, w, "Turn the board over for it")
    assert w.document.job.setup("front-1").up == "back"
    assert "carve.other-face" in {f.code for f in w.presenter.plan.stops}  # its lettering is on the front
    assert offered(w)["Back face"].isChecked() and offered(w)["as it comes"].isChecked()
    do(qtbot, w, "180°")
    assert w.document.job.setup("front-1").turn == "about Y"
    do(qtbot, w, "Left end")
    lying = w.presenter.plan.setup("front-1").blank
    assert lying.label_thickness == w.document.job.blank.length and offered(w)["Left end"].isChecked()
    do(qtbot, w, "Add a setup after the last")
    assert ids(w)[-1] == "setup-1" and not w.desk.setups.buttons  # four: one is picked from a list
    assert names(w) == ["surface", "Second coat", "front", "setup-1"]
    w.desk.setups.list.activated.emit(1)
    assert w.presenter.setup == "front-1" and w.desk.setups.list.currentText() == "Second coat"
    do(qtbot, w, "Take this setup away")
    assert ids(w) == ["surface", "front", "setup-1"] and w.presenter.setup in ids(w)
    for _ in range(20):
        if w.document.job == before:
            break
        QTest.keyClick(w, Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    planned(qtbot, w)
    assert w.document.job == before and set(w.desk.setups.buttons) == {"surface", "front"}


def test_the_menu_opens_by_its_key_and_the_last_setup_stays(qtbot, quay_open):
    w = quay_open
    QTest.keyClick(w, Key.Key_F6, Qt.KeyboardModifier.ShiftModifier)
    from PyQt6.QtWidgets import QApplication

    menu = QApplication.activePopupWidget()
    assert menu is not None and menu.actions()[0].text() == "Add a setup after the last"
    QTest.keyClick(menu, Key.Key_Escape)
    assert QApplication.activePopupWidget() is None
    w.presenter.choose_setup("front")
    do(qtbot, w, "Take this setup away")
    assert ids(w) == ["surface"] and not offered(w)["Take this setup away"].isEnabled()
    assert w.presenter.setup == "surface" and not w.presenter.plan.setup("surface").programs


def test_the_setup_that_was_chosen_is_kept_from_stage_to_stage(qtbot, quay_open):
    w = quay_open
    w.presenter.choose_setup("front")
    do(qtbot, w, "Add a setup after the last")
    do(qtbot, w, "Top edge")
    for stage, shown in (
        ("hold", "setup-1"),
        ("blank", "front"),
        ("carve", "setup-1"),
        ("surface", "setup-1"),
        ("zero", "setup-1"),
    ):
        w.go(stage)
        planned(qtbot, w)
        assert w.presenter.setup == shown, stage
