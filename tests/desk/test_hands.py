# SPDX-License-Identifier: GPL-3.0-or-later
"""What hands do: typing while figures change, Esc while anything moves, files that fail to open."""

import re

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QLabel, QWidget

from gatepost.desk.dialogs import questions
from gatepost.desk.dialogs.trace import TraceView
from gatepost.desk.start.recovery import leftovers
from gatepost.machine.link import State
from tests.conftest import EXAMPLES
from tests.desk.looking import CTRL, SHIFT, Key, Keys, planned


@pytest.fixture
def commands(quay_open, monkeypatch):
    """The commands that the open job was given."""
    given, run = [], quay_open.document.run

    def told(name, values, words=""):
        given.append((name, values))
        return run(name, values, words)

    monkeypatch.setattr(quay_open.document, "run", told)
    return given


def test_a_figure_is_what_was_typed_from_field_to_field(qtbot, quay_open, commands):
    keys = Keys(qtbot, quay_open)
    keys.press(Key.Key_U, CTRL)
    field = keys.field("Length")
    del commands[:]
    field.selectAll()
    for words in ("610", "221"):
        QTest.keyClicks(QApplication.focusWidget(), words)
        QTest.keyClick(QApplication.focusWidget(), Key.Key_Tab)
        QApplication.processEvents()
    assert (quay_open.document.job.blank.length, quay_open.document.job.blank.width) == (610.0, 221.0)
    assert len(commands) == 2


def test_what_is_being_typed_stays_whatever_is_worked_out_meanwhile(qtbot, quay_open, commands):
    keys = Keys(qtbot, quay_open)
    keys.press(Key.Key_U, CTRL)
    field = keys.field("Length")
    del commands[:]
    field.selectAll()
    QTest.keyClicks(field, "61")
    quay_open.run("set blank", {"width": 222.0}, "from elsewhere")  # a plan comes, and the page is put right
    planned(qtbot, quay_open)
    assert QApplication.focusWidget() is field and field.text() == "61" and field.cursorPosition() == 2
    other = next(f for f in quay_open.desk.slate.fields() if f.accessibleName() == "Width")
    assert other.text() == "222"
    QTest.keyClicks(field, "0.5")
    QTest.keyClick(field, Key.Key_Return)
    QTest.keyClick(field, Key.Key_Tab)
    planned(qtbot, quay_open)
    assert quay_open.document.job.blank.length == 610.5 and [name for name, _ in commands] == ["set blank"] * 2


def test_rows_put_in_and_taken_away_leave_the_field_in_hand_alone(qtbot, quay_open):
    keys = Keys(qtbot, quay_open)
    keys.press(Key.Key_U, CTRL)
    field = keys.field("Width")
    field.selectAll()
    QTest.keyClicks(field, "19")
    assert quay_open.document.run("add flaw", {"x": 30.0, "y": 30.0})
    planned(qtbot, quay_open)
    assert QApplication.focusWidget() is field and field.text() == "19"
    quay_open.document.stack.undo()
    planned(qtbot, quay_open)
    assert QApplication.focusWidget() is field and field.text() == "19"
    QTest.keyClick(field, Key.Key_Escape)
    assert field.text() != "19" and quay_open.document.job.blank.width == pytest.approx(177.8)


def test_a_figure_that_is_refused_is_told_once_and_esc_brings_back_the_old(qtbot, quay_open):
    keys, said = Keys(qtbot, quay_open), []
    keys.press(Key.Key_U, CTRL)
    quay_open.messages.told.connect(lambda words, stays: said.append(words))
    field = keys.field("Length")
    old = field.text()
    del said[:]
    field.selectAll()
    QTest.keyClicks(field, "-4")
    QTest.keyClick(field, Key.Key_Return)
    assert len(said) == 1 and field.text() == "-4"
    QTest.keyClick(field, Key.Key_Tab)
    assert len(said) == 1
    field.setFocus()
    QTest.keyClick(field, Key.Key_Escape)
    assert field.text() == old and len(said) == 1


def test_undo_in_a_field_takes_back_what_was_entered_and_while_one_types_the_letters(qtbot, quay_open):
    keys = Keys(qtbot, quay_open)
    before = quay_open.document.job
    keys.type("Length", "15 in")
    field = keys.field("Width")  # the focus rests in another one, as Tab leaves it
    entered = quay_open.document.job
    assert entered != before
    QTest.keyClicks(field, "9")
    QTest.keyClick(field, Key.Key_Z, CTRL)
    assert quay_open.document.job == entered and "9" not in field.text()
    QTest.keyClick(field, Key.Key_Z, CTRL)
    assert quay_open.document.job == before
    QTest.keyClick(field, Key.Key_Z, CTRL | SHIFT)
    assert quay_open.document.job == entered


# -- Esc --------------------------------------------------------------------------------------------------------------


def begin(window, kind):
    """Carry out the steps up to one of a kind, and begin that one."""
    setup = window.presenter.plan.setups[0]
    for step in setup.steps:
        if not window.document.journal.ticked(setup.name, step.key):
            assert window.operator.do(window.presenter.plan, setup, step, window.document.journal, "")
            return step, setup
    raise AssertionError(kind)


@pytest.mark.whole
def test_esc_ends_every_motion_on_the_real_process(qtbot, quay_open):
    """Homing, warming, a short jog, touching, a run: each begun, Esc pressed, and what it was to prove is unproved."""
    w, tried = quay_open, {}
    w.operator.speed = "2"
    w.act("simulated")
    qtbot.waitUntil(lambda: w.operator.state == "ready", timeout=30_000)
    w.turn_to("machine")
    session = w.operator._session
    while "run" not in tried:
        planned(qtbot, w)
        step, setup = begin(w, "run")
        if step.kind in ("home", "jog", "zero xy", "zero z", "run") and step.kind not in tried:
            going = State.RUNNING if step.kind == "run" else State.MOVING
            qtbot.waitUntil(lambda: session.state is going or not w.operator.busy, timeout=20_000)  # noqa: B023
            if not w.operator.busy:  # gone by between two looks
                continue
            QTest.keyClick(QApplication.focusWidget() or w, Key.Key_Escape)
            if step.kind == "run":
                qtbot.waitUntil(lambda: session.state is State.PAUSED, timeout=10_000)
                w.operator.stop()
            qtbot.waitUntil(lambda: not w.operator.busy, timeout=10_000)
            assert not w.document.journal.ticked(setup.name, step.key)
            kinds = [e.kind for e in w.document.journal.entries]
            assert not (step.kind == "home" and "homed" in kinds)
            assert session.state is (State.UNHOMED if step.kind == "home" else State.READY)
            tried[step.kind] = True
        else:
            qtbot.waitUntil(lambda: not w.operator.busy, timeout=60_000)
            assert w.document.journal.ticked(setup.name, step.key), (step, w.operator.last_words)
    assert set(tried) >= {"home", "zero z", "run"}


def test_esc_reaches_the_machine_from_a_dialog_and_a_menu(qtbot, quay_open, monkeypatch):
    asked = []
    monkeypatch.setattr(quay_open.operator, "hold_still", lambda: asked.append(1))
    quay_open.operator.busy = True
    quay_open.act("menu")
    menu = QApplication.activePopupWidget()
    QTest.keyClick(menu, Key.Key_Escape)
    assert asked == [1]
    menu.close()
    quay_open.operator.busy = False
    quay_open.act("happened")
    dialog = QApplication.activeModalWidget()
    quay_open.operator.busy = True
    QTest.keyClick(QApplication.focusWidget() or dialog, Key.Key_Escape)
    assert asked == [1, 1] and dialog.isVisible()
    quay_open.operator.busy = False
    dialog.reject()


def test_pause_and_stop_on_a_lost_link_are_told(qtbot, quay_open):
    said = []
    quay_open.messages.told.connect(lambda words, stays: said.append(words))
    quay_open.operator.speed = "max"
    quay_open.act("simulated")
    qtbot.waitUntil(lambda: quay_open.operator.state == "ready", timeout=30_000)
    quay_open.operator._simulated.process.kill()
    qtbot.waitUntil(lambda: quay_open.operator.state == "lost", timeout=10_000)
    del said[:]
    quay_open.operator.stop()
    qtbot.waitUntil(lambda: bool(said), timeout=5_000)
    assert "red button" in said[-1] or "closed the link" in said[-1] or "lost" in said[-1]
    assert quay_open.operator.state == "lost" and not quay_open.operator.busy


def test_a_run_that_is_overdue_is_not_ready_and_can_still_be_stopped(qtbot, quay_open, monkeypatch):
    w, said = quay_open, []
    w.operator.speed = "max"
    w.act("simulated")
    qtbot.waitUntil(lambda: w.operator.state == "ready", timeout=30_000)
    while True:
        planned(qtbot, w)
        step, _ = begin(w, "run")
        if step.kind == "run":
            break
        qtbot.waitUntil(lambda: not w.operator.busy, timeout=60_000)
    with monkeypatch.context() as patch:
        patch.setattr("gatepost.machine.limits.GRACE", 0.0)
        patch.setattr("gatepost.machine.limits.PATIENCE", 0.0)
        qtbot.waitUntil(lambda: not w.operator.busy, timeout=60_000)
    assert "should take" in w.operator.last_words and w.operator.state == "paused"
    assert w.runs()[0].state == "interrupted"
    assert not w.operator.do(w.presenter.plan, w.presenter.plan.setups[0], step, w.document.journal, "")
    w.messages.told.connect(lambda words, stays: said.append(words))
    w.operator.resume()
    assert "Nothing leads" in said[-1]
    w.operator.stop()
    qtbot.waitUntil(lambda: w.operator.state == "ready", timeout=20_000)
    assert w.operator._session.state is State.READY


# -- files ------------------------------------------------------------------------------------------------------------


def test_a_file_that_fails_to_open_leaves_the_old_job_and_its_copy(qtbot, quay_open, tmp_path, monkeypatch):
    monkeypatch.setattr(questions, "ask_to_save", lambda *_: "discard")
    quay_open.run("set job", {"name": "Mine"})
    quay_open.jobs.keep()
    copy = quay_open.jobs.recovery.copy
    (tmp_path / "cut.gatepost").write_bytes((EXAMPLES / "quay-plate.gatepost").read_bytes()[:500])
    for path in (tmp_path / "cut.gatepost", tmp_path / "none.gatepost", tmp_path):
        assert not quay_open.open_path(path)
    assert quay_open.document.job.name == "Mine" and quay_open.document.dirty and copy.exists()


def test_a_recovered_copy_stays_until_a_save_has_succeeded(qtbot, quay_open, tmp_path):
    quay_open.run("set job", {"name": "Mine"})
    quay_open.jobs.keep()
    orphan = quay_open.jobs.recovery.copy.with_name("quay-abc-999999999.gatepost")
    quay_open.jobs.recovery.copy.rename(orphan)
    quay_open.document.stack.setClean()
    assert quay_open.open_path(orphan) and quay_open.document.job.name == "Mine"
    assert orphan.exists() and leftovers(quay_open.context.data) == [orphan]
    assert not quay_open.save_to(tmp_path / "nowhere" / "x.gatepost") and orphan.exists()
    assert quay_open.save_to(tmp_path / "kept.gatepost") and not orphan.exists()


def test_words_of_a_job_are_never_markup(qtbot, quay_open):
    wicked = "<h1>big</h1><img src=x> & <b>"
    quay_open.run("set job", {"name": wicked})
    quay_open.run("set wood", {"name": wicked})
    plan = planned(qtbot, quay_open)
    setup = plan.setups[0].name
    for hold in quay_open.document.job.setup(setup).holds[:1]:
        quay_open.run("set hold", {"setup": setup, "name": hold.name, "x": hold.x + 40.0})
    planned(qtbot, quay_open)
    for stage in ("blank", "hold", "zero", "carve", "tools", "run", "log"):
        quay_open.go(stage)
        for view in (quay_open.desk, quay_open.machine):
            for label in view.findChildren(QLabel):
                plain = label.textFormat() is Qt.TextFormat.PlainText
                assert plain or "<h1>" not in label.text(), (stage, label.text())
                assert plain or label.property("textFormat") is not Qt.TextFormat.AutoText
            for widget in view.findChildren(QWidget):
                assert "<h1>" not in widget.toolTip()
    assert re.search("<h1>", quay_open.desk.top.name.text())


def test_a_trace_is_kept_and_shown(qtbot, quay_open):
    from gatepost.trouble import told

    try:
        raise RuntimeError("a defect")
    except RuntimeError as error:
        quay_open.messages.warn(told(error))
    strip = next(w for w in quay_open.findChildren(QWidget) if hasattr(w, "details") and hasattr(w, "trace"))
    assert strip.details.isVisibleTo(strip) and "a defect" in strip.trace.read_text()
    strip.details.click()
    view = next(w for w in QApplication.topLevelWidgets() if isinstance(w, TraceView))
    assert "RuntimeError: a defect" in view.text.toPlainText()
    view.close()
    for n in range(40):  # it never grows past its size: older ones are turned over, and then away
        told(RuntimeError("x" * 100_000 + str(n)))
    assert sum(p.stat().st_size for p in strip.trace.parent.glob("trouble.log*")) < 2_200_000


def test_what_keeps_everything_from_being_done_is_shown_at_the_machine_and_leads_to_the_desk(qtbot, opened):
    w = opened
    w.act("machine_view")
    m = w.machine
    qtbot.waitUntil(lambda: m.bed.drawing is not None)
    assert m.detail.text() and not [k for k in (m.back, m.working, m.ledger, m.halt, m.stop) if k.isVisible()]
    assert "hold:C2" in {s.key for s in m.bed.drawing.shapes} and not m.canvas.isVisible()
    QTest.keyClick(m, Qt.Key.Key_Return)
    assert w.pages.currentWidget() is w.desk and w.context.showing.stage == "hold"
    qtbot.waitUntil(lambda: bool([f for f in w.desk.slate.fields() if f.property("fix")]), timeout=10_000)
    QTest.mouseClick(next(f for f in w.desk.slate.fields() if f.property("fix")), Qt.MouseButton.LeftButton)
    planned(qtbot, w)
    w.act("machine_view")
    assert m.back.isVisible() and m.main.words != "Show me at the desk"
    QTest.mouseClick(m.to_desk, Qt.MouseButton.LeftButton)
    assert w.pages.currentWidget() is w.desk
