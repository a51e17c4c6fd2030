# SPDX-License-Identifier: GPL-3.0-or-later
"""What nothing refers to any more is taken apart, whether a machine moves or not."""

from __future__ import annotations

import gc
import weakref

import pytest
from PyQt6.QtCore import QTimerEvent
from PyQt6.QtWidgets import QApplication

from gatepost.desk.machine.words import BUSY
from gatepost.desk.tidier import ALL, Tidier


class Ring:
    """Refers to itself: only looking through finds it."""

    def __init__(self) -> None:
        self.itself = self


@pytest.fixture
def tidier(qapp):
    was = gc.isenabled()
    made = Tidier(qapp)
    yield made
    made.machine_moves(False)
    made.deleteLater()
    if was:
        gc.enable()


def looked_through(tidier: Tidier) -> None:
    for _ in range(ALL):
        tidier.timerEvent(QTimerEvent(0))


def test_while_a_machine_moves_what_was_there_before_is_left_and_what_came_since_is_not(tidier):
    before = Ring()
    old = weakref.ref(before)
    tidier.machine_moves(True)
    since = Ring()
    new = weakref.ref(since)
    del before, since
    looked_through(tidier)
    assert new() is None and old() is not None
    tidier.machine_moves(False)
    looked_through(tidier)
    assert old() is None


def test_each_state_in_which_something_goes_on_holds_it_back_and_each_other_lets_it_go(qtbot, window):
    made = QApplication.instance().findChild(Tidier)
    follower = window._parts.follower if window._parts is not None else window.build().follower
    for state in (*BUSY, "ready", BUSY[0], "lost", BUSY[0], "no link", BUSY[1], BUSY[2], "ready"):
        follower.link_state(state, "")
        assert (gc.get_freeze_count() > 0) == (state in BUSY), state
        assert made._moves == (state in BUSY)
