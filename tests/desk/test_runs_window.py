# SPDX-License-Identifier: GPL-3.0-or-later
"""Runs in the window: resumed, by hand, kept and saved; and what is asked while a plan is worked out."""

import socket

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QComboBox, QLineEdit

from tests.conftest import EXAMPLES, some
from tests.desk.looking import planned

Key = Qt.Key

CTRL = Qt.KeyboardModifier.ControlModifier
SHIFT = Qt.KeyboardModifier.ShiftModifier


def run_until_it_cuts(qtbot, window, over=40):
    """Quay plate on a simulated machine, its first program under way."""
    assert window.open_path(EXAMPLES / "quay-plate.gatepost")
    planned(qtbot, window)
    operator = window.operator
    operator.speed = "60"
    window.act("simulated")
    qtbot.waitUntil(lambda: operator.state == "ready", timeout=30_000)
    setup = window.presenter.plan.setups[0]
    with qtbot.waitSignal(operator.progressed, timeout=60_000, check_params_cb=lambda done, of: done > over):
        for step in setup.steps:
            assert operator.do(planned(qtbot, window), setup, step, window.document.journal, "")
            if step.program == setup.programs[0].name:
                break
            qtbot.waitUntil(lambda: not operator.busy and operator.state == "ready", timeout=60_000)


def test_what_was_cut_when_the_cable_came_out_is_told_and_drawn_on_every_step_until_it_is_resumed(qtbot, window):
    run_until_it_cuts(qtbot, window)
    m, operator = window.machine, window.operator
    window.turn_to("machine")
    qtbot.waitUntil(lambda: m.label.text() == "left of this program", timeout=20_000)
    operator.hold_still()
    qtbot.waitUntil(lambda: m.state == "paused", timeout=20_000)
    assert m.label.text() == "left of this program" and "Cutting" in m.detail.text() and m.figure.isVisible()
    operator._session._socket.shutdown(socket.SHUT_RDWR)
    qtbot.waitUntil(lambda: not operator.busy and operator.state == "lost", timeout=30_000)
    window.act("simulated")
    qtbot.waitUntil(lambda: operator.state == "ready", timeout=30_000)
    qtbot.waitUntil(lambda: m.ended is not None and m.current()[1].kind != "run", timeout=30_000)
    assert m.early.isVisible() and m.ended.where in m.early.text() and m.main.words != "Run"
    qtbot.waitUntil(lambda: {"cut-done", "uncut"} <= {s.role for s in m.bed.drawing.shapes}, timeout=10_000)


@pytest.mark.parametrize("linked", some([True, False], 1))
def test_a_run_that_was_stopped_is_gone_on_with_from_the_log(qtbot, window, monkeypatch, linked):
    run_until_it_cuts(qtbot, window)
    operator, log = window.operator, window.desk.log
    first = window.presenter.plan.setups[0].programs[0]
    operator.stop()
    qtbot.waitUntil(lambda: not operator.busy, timeout=30_000)
    planned(qtbot, window)
    assert window.runs()[0].state == "stopped" and 40 < window.runs()[0].blocks_done < window.runs()[0].blocks
    window.turn_to("machine")  # said where it stopped, and no green Run over the half-cut board
    ended = window.machine.ended
    means = ended.means
    assert ended.where.startswith("Stopped at “") and "% of the letters are cut" in means and ended.moves > 0
    assert window.machine.main.words == "Resume it…" and window.machine.again.isVisible()
    if linked:
        assert "as they were" in means  # stopped over the link, its drives on
    if not linked:
        window.act("unlink")
    operator.speed = "max"
    asked = []
    monkeypatch.setattr(
        "gatepost.desk.dialogs.questions.ask_mark", lambda parent, words: asked.append(words) or len(asked) > 1
    )
    window.go("log")
    assert log.go_on.isEnabled()
    log.go_on.setFocus()
    said = []
    window.messages.told.connect(lambda words, stays: said.append(words))
    QTest.keyClick(log.go_on, Key.Key_Space)
    qtbot.waitUntil(lambda: "Nothing was run." in said, timeout=30_000)  # nobody looked at the mark
    assert len(window.runs()) == 1 and "back along the cut" in asked[0]
    QTest.keyClick(log.go_on, Key.Key_Space)
    qtbot.waitUntil(lambda: len(window.runs()) == 2 and window.runs()[0].state == "done", timeout=60_000)
    qtbot.waitUntil(lambda: not operator.busy and operator.state == "ready", timeout=30_000)
    new, old = window.runs()
    assert (new.resumes, new.after_block, new.program) == (old.id, old.blocks_done, first.name)
    step = next(s for s in window.presenter.plan.setups[0].steps if s.program == first.name)
    qtbot.waitUntil(lambda: bool(window.document.journal.ticked("front", step.key)), timeout=10_000)
    qtbot.waitUntil(lambda: window.machine.ended is None, timeout=10_000)
    window.context.act("from_step", 0)  # start again from the first step
    assert not any(window.machine.done) and window.machine.at == 0
    kinds = [e.kind for e in window.document.journal.entries]
    assert (
        "witness" in kinds and ("power cut" in kinds) is not linked
    )  # stopped over the link with its drives on, it knows its place


def test_by_hand_read_outs_are_typed_and_the_row_is_a_shop_row(qtbot, window):
    window.open_path(EXAMPLES / "quay-plate.gatepost")
    plan = planned(qtbot, window)
    window.turn_to("machine")
    machine = window.machine
    typed = {
        "X on the machine": "-900 mm",
        "Y on the machine": "-440 mm",
        "minutes it took": "4.5",
        "the mark lies right of the tip by": "0",
        "and back of it by": "0.1 mm",
    }
    for _ in range(len(plan.setups[0].steps)):
        setup, step = machine.current()
        out = (plan.job.tool(step.tool).length if step.tool else 0.0) - 175.0 + 0.1
        typed |= dict.fromkeys(("Z at contact, on the machine", "Z at contact, once more"), f"{out} mm")
        typed |= {"it measures": f"{step.figure} mm"}
        for name, field in machine.typed:
            if field.isVisible():
                field.setFocus()
                QTest.keyClicks(field, typed[name.text()])
        count = len(window.document.journal.entries)
        QTest.keyClick(machine, Key.Key_Return)
        assert len(window.document.journal.entries) > count, step
        planned(qtbot, window)
    touched = [e for e in window.document.journal.entries if e.kind == "touched" and e.data["axis"] == "z"]
    assert touched[0].data["machine"] == pytest.approx(plan.job.tool(3).length - 175.0)
    rows = window.runs()
    assert [(r.kind, r.state, r.real_minutes) for r in rows] == [("shop", "done", 4.5)] * 2


def test_a_held_key_must_be_held(qtbot, opened):
    from gatepost.desk.machine.big_keys import BigKey

    key = BigKey("Run", "hold Enter", "light", held=True)
    qtbot.addWidget(key)
    fired = []
    key.fired.connect(lambda: fired.append(1))
    key.press()
    key.let_go()
    assert not fired and key.share == 0.0
    with qtbot.waitSignal(key.fired, timeout=3000):
        key.press()
    assert fired == [1]


def test_autosave_keeps_a_copy_and_the_start_page_offers_it(qtbot, opened):
    from gatepost.desk.start.recovery import leftovers

    opened.run("set job", {"name": "Changed"})
    opened.jobs.keep()
    copy = opened.jobs.recovery.copy
    assert copy.exists() and leftovers(opened.context.data) == []  # ours is alive
    orphan = copy.with_name(copy.name.rsplit("-", 1)[0] + "-999999999.gatepost")
    copy.rename(orphan)
    assert leftovers(opened.context.data) == [orphan]
    opened.document.stack.setClean()
    assert opened.open_path(orphan)
    assert opened.document.job.name == "Changed" and opened.document.path is None and opened.document.dirty


def test_an_exception_nobody_caught_saves_first_and_is_shown(qtbot, opened, capsys):
    import sys

    from gatepost.desk.app import hook

    old = sys.excepthook
    try:
        hook(opened)
        opened.run("set job", {"name": "Changed"})
        said = []
        opened.messages.told.connect(lambda words, stays: said.append((words, stays)))
        try:
            raise RuntimeError("a defect")
        except RuntimeError as error:
            sys.excepthook(type(error), error, error.__traceback__)
        assert opened.jobs.recovery.copy.exists() and said and said[-1][1] and "trouble.log" in said[-1][0]
        assert "RuntimeError" not in said[-1][0] and "a defect" not in said[-1][0]  # that is for the log
        assert "a defect" in (opened.context.data / "trouble.log").read_text()
    finally:
        import threading

        sys.excepthook = old
        threading.excepthook = threading.__excepthook__
        capsys.readouterr()


def test_a_long_page_scrolls_and_nothing_is_squashed_or_cut_off(qtbot, opened):
    from gatepost.desk.slate.fields import ROW

    slate = opened.desk.slate
    for stage in ("surface", "blank", "hold", "carve", "tools", "blank"):
        opened.go(stage)
        for side in ("judged", "entered"):
            slate.turn(side)
            QApplication.processEvents()
            fields = [f for f in slate.fields() if isinstance(f, (QLineEdit, QComboBox))]
            assert all(f.height() >= ROW for f in fields), (stage, side)
            inside = slate.page.widget()
            assert inside.width() <= slate.page.viewport().width()
            ends = [f.mapTo(inside, f.rect().bottomRight()) for f in slate.fields()]
            assert all(e.y() <= inside.height() and e.x() <= inside.width() for e in ends), (stage, side)
            rows = sorted(f.mapTo(inside, f.rect().topLeft()).y() for f in fields)
            assert all(b - a >= ROW or b - a <= 2 for a, b in zip(rows, rows[1:])), (stage, side)


def test_a_change_never_blocks_the_next_act_which_is_done_of_the_job_as_it_is_by_then(qtbot, opened, monkeypatch):
    setup = opened.presenter.plan.setups[0]
    step = next(s for s in setup.steps if not s.moves)
    begun = []
    monkeypatch.setattr(opened.operator, "start_simulated", lambda plan, faults=(): begun.append(plan.job))
    opened.run("set tool", {"number": 2, "feed": 2300.0})
    opened.build().steps.do(setup, step, ())
    opened.act("simulated")
    opened.act("simulated")
    assert not opened.document.journal.entries and not begun  # nothing is done from a plan of the job as it was
    planned(qtbot, opened)
    qtbot.waitUntil(lambda: bool(begun), timeout=30_000)
    assert opened.document.journal.ticked(setup.name, step.key)
    assert [job.tool(2).feed for job in begun] == [2300.0]  # once, though it was asked twice


def test_what_moves_waits_for_its_plan_a_moment_only(qtbot, opened, monkeypatch):
    setup = opened.presenter.plan.setups[0]
    step = next(s for s in setup.steps if s.moves)
    monkeypatch.setattr("gatepost.desk.actions.steps.SOON", -1.0)
    done, said = [], []
    monkeypatch.setattr(opened.build().steps, "_carry_out", lambda *values: done.append(values))
    opened.messages.told.connect(lambda words, stays: said.append(words))
    opened.run("set tool", {"number": 2, "feed": 2300.0})
    opened.build().steps.do(setup, step, ())
    planned(qtbot, opened)
    qtbot.waitUntil(lambda: any("Press again" in words for words in said), timeout=30_000)
    assert not done


def test_what_is_ticked_is_what_was_shown_when_the_key_went_down(qtbot, window, monkeypatch):
    """A change is on its way: a tick for the step as it was read never counts for the step as it becomes."""
    w, done, said = window, [], []
    assert w.open_path(EXAMPLES / "quay-plate.gatepost")
    plan = planned(qtbot, w)
    w.messages.told.connect(lambda words, stays: said.append(words))
    monkeypatch.setattr(w.build().steps, "_carry_out", lambda plan, setup, step, typed: done.append(step))
    setup, step = next((s, x) for s in plan.setups for x in s.steps if x.pair is not None)
    assert w.document.run("place blank", {"setup": setup.name, "x": setup.setup.x + 25.0, "y": setup.setup.y})
    w.build().steps.do(setup, step, ())
    planned(qtbot, w)
    assert not done and "changed meanwhile" in said[-1]
    w.document.stack.undo()
    w.build().steps.do(setup, step, ())
    planned(qtbot, w)
    assert done == [step]


def test_space_ticks_nothing_that_was_not_on_the_screen(qtbot, window, monkeypatch):
    """The step that comes next once a change is worked out is shown first, whatever was pressed before."""
    w, done = window, []
    assert w.open_path(EXAMPLES / "quay-plate.gatepost")
    plan = planned(qtbot, w)
    monkeypatch.setattr(w.build().steps, "do", lambda setup, step, typed: done.append(step))
    w.go(plan.next.stage)
    w.build().steps._do_next(plan, plan.setups[-1].steps[-1])
    w.build().steps._do_next(plan, None)
    assert not done
    w.do_next()
    assert done == [plan.next.step]
