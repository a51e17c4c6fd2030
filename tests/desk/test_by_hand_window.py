# SPDX-License-Identifier: GPL-3.0-or-later
"""At the machine with eyes on the bit: jogged by keys, zero set where it stands; lifted out of the wood and gone on with; by touch."""

import time

import pytest
from PyQt6.QtCore import QEvent, QPointF, Qt
from PyQt6.QtGui import QEventPoint, QInputDevice, QPointingDevice, QTouchEvent
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication

from gatepost.machine.jogging import PACES, UNUSED
from tests.conftest import EXAMPLES
from tests.desk.looking import planned
from tests.desk.test_runs_window import run_until_it_cuts

Key = Qt.Key


def hold(qtbot, widget, key, done, timeout=10_000):
    """Keep a key down until something is so, then let go."""
    QTest.keyPress(widget, key)
    try:
        qtbot.waitUntil(done, timeout=timeout)
    finally:
        QTest.keyRelease(widget, key)


def standing_at(operator):
    return tuple(operator._session.last["machine"])


@pytest.fixture
def at_zero(qtbot, window):
    """Quay plate, its bit fitted and the machine homed: X0 Y0 is to be found by eye."""
    assert window.open_path(EXAMPLES / "quay-plate.gatepost")
    planned(qtbot, window)
    operator, m = window.operator, window.machine
    operator.speed = "max"
    window.act("simulated")
    qtbot.waitUntil(lambda: operator.state == "ready", timeout=30_000)
    setup = window.presenter.plan.setups[0]
    assert setup.setup.zero.xy_way == "pointer"
    for step in setup.steps:
        if step.kind == "zero xy":
            break
        if step.kind != "warm":
            assert operator.do(planned(qtbot, window), setup, step, window.document.journal, "")
            qtbot.waitUntil(lambda: not operator.busy and operator.state == "ready", timeout=60_000)
    planned(qtbot, window)
    window.turn_to("machine")
    m.setFocus()
    m.go([s.key for _, s in m.steps].index(step.key))
    return window, operator, m, step


def test_brought_over_the_mark_by_keys_and_set_where_it_stands(qtbot, at_zero):
    window, operator, m, step = at_zero
    start = standing_at(operator)
    QTest.keyPress(m, Key.Key_Right)
    QTest.keyRelease(m, Key.Key_Right)
    assert not operator.busy and not m.jog.armed  # an arrow alone moves nothing
    hold(qtbot, m, Key.Key_M, lambda: m.jog.armed)
    assert m.jog.words.text() == "" or "lapses" in m.jog.words.text()
    hold(qtbot, m, Key.Key_Left, lambda: operator.busy)
    qtbot.waitUntil(lambda: not operator.busy and operator.state == "ready", timeout=10_000)
    seen = standing_at(operator)
    assert seen[0] < start[0] and seen[1:] == start[1:]
    assert [e.kind for e in window.document.journal.entries].count("jogged") == 2  # of the bring-up, and of this
    setup = window.presenter.plan.setups[0]
    tool = setup.axes.tool
    planned(qtbot, window)
    want = (setup.placed.mark[0] - 1200.0, setup.placed.mark[1] - 700.0)
    operator._session.jog(x=want[0] + 1.0, y=want[1] - 1.0)  # nearly there, as somebody would by now
    m.jog.pace = "fine"
    hold(qtbot, m, Key.Key_Left, lambda: standing_at(operator)[0] < want[0] + 0.9)
    qtbot.waitUntil(lambda: not operator.busy and "The mark lies" in m.detail.text(), timeout=10_000)
    assert m.main.words == "Set it here" and tool is not None
    place = standing_at(operator)
    planned(qtbot, window)  # a jog is in the journal, and what moves the machine waits a moment only
    hold(qtbot, m, Key.Key_Return, lambda: operator.busy or m.here == "")
    qtbot.waitUntil(lambda: not operator.busy and operator.state == "ready", timeout=20_000)
    touched = {e.data["axis"]: e.data["machine"] for e in window.document.journal.entries if e.kind == "touched"}
    assert (touched["x"], touched["y"]) == pytest.approx(place[:2], abs=1e-3)
    assert operator._session.last["zero"][:2] == pytest.approx(place[:2], abs=1e-3)


def test_armed_it_lapses_unused_with_the_window_s_keys_gone_and_by_esc(qtbot, at_zero, monkeypatch):
    window, operator, m, _ = at_zero
    hold(qtbot, m, Key.Key_M, lambda: m.jog.armed)
    m.clearFocus()  # the keys are elsewhere
    assert not m.jog.armed
    m.setFocus()
    hold(qtbot, m, Key.Key_M, lambda: m.jog.armed)
    QTest.keyClick(m, Key.Key_Escape)
    assert not m.jog.armed
    hold(qtbot, m, Key.Key_M, lambda: m.jog.armed)
    clock = time.monotonic
    monkeypatch.setattr("gatepost.desk.machine.jog_row.time.monotonic", lambda: clock() + UNUSED + 0.1)
    qtbot.waitUntil(lambda: not m.jog._timer.isActive(), timeout=5_000)
    before = standing_at(operator)
    QTest.keyPress(m, Key.Key_Right)
    assert not operator.busy and standing_at(operator) == before and not m.jog.down
    QTest.keyRelease(m, Key.Key_Right)


def test_a_window_that_hangs_with_a_key_down_moves_nothing_for_long(qtbot, at_zero):
    window, operator, m, _ = at_zero
    m.jog.pace = "quick"
    hold(qtbot, m, Key.Key_M, lambda: m.jog.armed)
    QTest.keyPress(m, Key.Key_Left)
    qtbot.waitUntil(lambda: operator.busy, timeout=5_000)
    before = standing_at(operator)[0]
    time.sleep(1.2)  # the window's thread answers nothing
    gone = before - operator._session.last["machine"][0]
    assert gone < PACES["quick"] / 60.0 * 0.6  # 0.2 s of words and 0.2 s of the machine's own, and what braking takes
    QTest.keyRelease(m, Key.Key_Left)
    qtbot.waitUntil(lambda: not operator.busy, timeout=5_000)


def test_paused_lifted_and_down_again_as_one_sequence_then_to_its_end(qtbot, window):
    run_until_it_cuts(qtbot, window)
    m, operator = window.machine, window.operator
    window.turn_to("machine")
    m.setFocus()
    qtbot.waitUntil(lambda: m.state == "busy" and m.current()[1].kind == "run", timeout=20_000)
    assert not m.lift.isVisible() and not m.jog.isVisible()
    QTest.keyClick(m, Key.Key_BracketLeft)
    qtbot.waitUntil(lambda: "rpm 90 %" in m.cutting.fed.text(), timeout=5_000)
    QTest.keyClick(m, Key.Key_Escape)
    qtbot.waitUntil(lambda: m.state == "paused", timeout=20_000)
    assert m.lift.isVisible() and "burns" in m.caution.text()
    place = standing_at(operator)
    QTest.keyClick(m, Key.Key_U)
    qtbot.waitUntil(lambda: m.state == "lifted", timeout=20_000)
    assert standing_at(operator)[2] == 0.0 and "not isolated" in m.caution.text() and m.main.words == "Down and on"
    qtbot.waitUntil(lambda: operator._session.last["spindle"] == 0.0, timeout=5_000)
    QTest.keyClick(m, Key.Key_Return)  # not held
    QTest.keyClick(m, Key.Key_Escape)  # it stands already
    assert m.state == "lifted" and operator.busy
    lowered = []
    operator.heard.connect(lambda e: lowered.append(standing_at(operator)) if e.kind == "lowered" else None)
    hold(qtbot, m, Key.Key_Return, lambda: m.state == "busy" or bool(lowered))
    qtbot.waitUntil(lambda: bool(lowered), timeout=30_000)
    operator.feed(100.0)
    qtbot.waitUntil(lambda: not operator.busy, timeout=120_000)
    run = window.runs()[0]
    assert run.state == "done" and [s["what"] for s in run.stops] == ["pause", "lift", "lower", "resume"]
    assert {"rpm": 90.0}.items() <= next(o for o in run.overrides if "rpm" in o).items() and run.kept_at == 1.0
    assert place[2] < 0.0
    qtbot.waitUntil(lambda: operator.speed_percent == 100.0, timeout=5_000)


@pytest.fixture
def touch(qtbot):
    """A finger on a big key until something is so."""
    kinds = QInputDevice.DeviceType.TouchScreen, QPointingDevice.PointerType.Finger, QInputDevice.Capability.Position
    finger = QPointingDevice("finger", 1, *kinds, 5, 0)

    def touched(key, kind, state):
        at = QPointF(key.width() / 2, key.height() / 2)
        point = QEventPoint(0, state, at, key.mapToGlobal(at))
        event = QTouchEvent(kind, finger, Qt.KeyboardModifier.NoModifier, [point])
        event.ignore()
        QApplication.sendEvent(key, event)
        assert event.isAccepted()  # else the mouse is pressed for it as well

    def touch(key, done, timeout=10_000):
        assert key.isVisible() and key.height() >= 40 and key.width() >= 60  # a finger finds it
        touched(key, QEvent.Type.TouchBegin, QEventPoint.State.Pressed)
        qtbot.waitUntil(done, timeout=timeout)
        touched(key, QEvent.Type.TouchEnd, QEventPoint.State.Released)

    return touch


def test_big_keys_by_touch(qtbot, at_zero, touch):
    window, operator, m, _ = at_zero
    touch(m.jog.arm, lambda: m.jog.armed)
    before = standing_at(operator)
    key = m.jog._ways[Key.Key_Left]
    touch(key, lambda: standing_at(operator)[0] < before[0])
    qtbot.waitUntil(lambda: not operator.busy, timeout=10_000)
    assert standing_at(operator)[0] < before[0] and not m.jog.down
    at = m.at
    touch(m.back, lambda: m.at == at - 1)


def test_a_whole_run_by_touch_alone(qtbot, window, touch):
    assert window.open_path(EXAMPLES / "quay-plate.gatepost")
    plan = planned(qtbot, window)
    operator, m = window.operator, window.machine
    operator.speed = "max"
    window.act("simulated")
    qtbot.waitUntil(lambda: operator.state == "ready", timeout=30_000)
    window.turn_to("machine")
    m.setFocus()
    for _ in range(2 * len(plan.setups[0].steps)):
        planned(qtbot, window)
        if all(m.done):
            break
        at, key = m.at, m.steps[m.at][1].key
        touch(m.main, lambda at=at: operator.busy or m.done[at] or bool(m.trouble.text()), 20_000)
        qtbot.waitUntil(lambda at=at: not operator.busy and (m.done[at] or bool(m.trouble.text())), timeout=120_000)
        assert not m.trouble.text(), (key, m.trouble.text())
    assert all(m.done) and [r.state for r in window.runs()] == ["done", "done"]


def test_holds_on_one_screen_by_digits_and_the_shop_s_own_list_with_not_yet(qtbot, window):
    assert window.open_path(EXAMPLES / "quay-plate.gatepost")
    listed = ({"words": "Bin emptied?"}, {"words": "Shoe level with the tip?", "back": "fit"})
    window.run("set machine", {"checklist": listed}, "own list")
    planned(qtbot, window)
    window.turn_to("machine")
    m = window.machine
    m.setFocus()
    keys = [s.key for _, s in m.steps]
    first = next(i for i, k in enumerate(keys) if k.startswith("set-"))
    m.go(first)
    count = sum(k.startswith("set-") for k in keys[:30])
    assert m.others.isVisible() and sum(m.others.text().count(c) for c in "✓▸○") == count and "▸" in m.others.text()
    QTest.keyClick(m, Key.Key_2)
    assert m.at == first + 1
    QTest.keyClick(m, Key.Key_9)  # there are not so many
    assert m.at == first + 1
    QTest.keyClick(m, Key.Key_Return)
    assert "comes first" in m.trouble.text()  # each is guarded as ever
    own = keys.index("list-2")
    m.go(own)
    assert m.others.isVisible() and m.rocks.words == "Not yet" and "Bin emptied?" in m.others.text()
    QTest.keyClick(m, Key.Key_R)
    assert m.steps[m.at][1].kind == "fit"
    said = []
    m.told.connect(said.append)
    m.go(own - 1)
    QTest.keyClick(m, Key.Key_R)
    assert said and m.at == own - 1  # it hangs on no step
    QTest.keyClick(m, Key.Key_Return)
    qtbot.waitUntil(lambda: m.done[own - 1], timeout=20_000)
    m.go(next(i for i, (_, s) in enumerate(m.steps) if s.kind == "run"))
    assert not m.others.isVisible()
    QTest.keyClick(m, Key.Key_W)
    told = m.working_out.text()
    assert "its first move goes" in told and "Ear defenders" in told and "lengths in inches" in told


def test_a_jog_that_the_machine_refuses_is_said_and_changes_nothing(qtbot, window):
    assert window.open_path(EXAMPLES / "quay-plate.gatepost")
    planned(qtbot, window)
    operator, m = window.operator, window.machine
    window.act("simulated")
    qtbot.waitUntil(lambda: operator.state == "ready", timeout=30_000)
    planned(qtbot, window)
    window.turn_to("machine")
    m.setFocus()
    assert not m.jog.isVisible()  # hands are under the spindle, which is isolated
    m.go(next(i for i, (_, s) in enumerate(m.steps) if s.kind == "home"))
    before = window.document.journal
    hold(qtbot, m, Key.Key_M, lambda: m.jog.armed)
    QTest.keyPress(m, Key.Key_Left)
    qtbot.waitUntil(lambda: "has not been homed" in m.trouble.text(), timeout=10_000)
    QTest.keyRelease(m, Key.Key_Left)
    qtbot.waitUntil(lambda: not operator.busy, timeout=5_000)
    assert not m.jog.armed and window.document.journal == before
