# SPDX-License-Identifier: GPL-3.0-or-later
"""Windows for tests: each is new, and the reckoning processes behind them are warm and handed on from test to test."""

from __future__ import annotations

import pytest

from gatepost.desk.app import book, make_app
from gatepost.desk.theme.style import dress
from gatepost.desk.window.window import Window
from gatepost.desk.worker.worker import PlanWorker, WorkerProcess
from gatepost.logbook.places import data_folder
from tests.conftest import EXAMPLES, LENT
from tests.desk.looking import planned


@pytest.fixture(scope="session")
def workers():
    """Processes that nobody has lent just now."""
    free = []
    yield free
    for worker in free:
        worker.pipe.send(None)
        worker.end()


@pytest.fixture
def plan_worker(workers, qapp):
    """Makes what stands for the worker in a window: with a warm process, given back when the test has ended."""
    lent = []

    def make():
        free = [w for w in workers if w.process.poll() is None]
        worker = free[0] if free else WorkerProcess()
        LENT.add(worker.process.pid)
        workers[:] = free[1:]
        lent.append(worker)
        return PlanWorker(worker)

    yield make
    workers.extend(w for w in lent if w.process.poll() is None)


def clean(w):
    """Nothing is asked at the end of a test."""
    if w.document is not None:
        w.document.stack.setClean()
        w.document.journal_saved = len(w.document.journal.entries)
    w.shut()


@pytest.fixture
def shown(qtbot, plan_worker):
    """Makes a window and shows it."""

    def show(makes=plan_worker, **more):
        dress(make_app(), "light")
        w = Window(data_folder(), book, plan_worker=makes, **more)
        qtbot.addWidget(w, before_close_func=clean)
        with qtbot.waitActive(w):
            w.show()
            w.activateWindow()
        w.ready()
        return w

    return show


@pytest.fixture(autouse=True)
def started_quickly(quick_machines):
    """Every simulated machine of these tests is forked from one that is warm."""


@pytest.fixture(autouse=True)
def the_same_shop_each_time(monkeypatch):
    """Simulated machines of these tests stand in a shop where nothing is quite as planned, and always in the same one."""
    monkeypatch.setattr("gatepost.desk.machine.operator.new_seed", lambda: 20)


@pytest.fixture
def window(shown):
    return shown()


@pytest.fixture
def opened(qtbot, window):
    assert window.open_path(EXAMPLES / "lock-7-first-look.gatepost")
    planned(qtbot, window)
    return window


@pytest.fixture
def quay_open(qtbot, window):
    """The quay plate, planned."""
    assert window.open_path(EXAMPLES / "quay-plate.gatepost")
    planned(qtbot, window)
    return window


@pytest.fixture
def said(window):
    """What messages told."""
    out = []
    window.messages.told.connect(lambda words, stays: out.append(words))
    return out
