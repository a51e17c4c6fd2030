# SPDX-License-Identifier: GPL-3.0-or-later
"""The window: whole paths through it, by keyboard and by mouse."""

import os
import threading
import weakref

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QMessageBox

from gatepost.core.findings import Gate, Level
from gatepost.core.job.file import load
from gatepost.desk.app import book
from gatepost.desk.start.recovery import Recovery
from gatepost.desk.window.window import Window
from tests.conftest import EXAMPLES
from tests.desk.conftest import clean
from tests.desk.looking import Keys, drawn, planned

Key = Qt.Key
CTRL = Qt.KeyboardModifier.ControlModifier
SHIFT = Qt.KeyboardModifier.ShiftModifier


def test_the_newcomer_s_first_act_is_to_mend_the_strap_and_undo_brings_it_back(qtbot, opened):
    keys = Keys(qtbot, opened)
    assert opened.desk.fence.gates["hold"][0] is Gate.SHUT
    keys.press(Key.Key_Space)
    assert (opened.presenter.stage, opened.presenter.setup) == ("hold", "front")
    keys.press(Key.Key_Space)
    keys.press(Key.Key_Space)
    planned(qtbot, opened)
    assert opened.desk.fence.gates["hold"][0] is Gate.OPEN and not opened.presenter.plan.stops
    keys.press(Key.Key_Z, CTRL)
    planned(qtbot, opened)
    assert opened.desk.fence.gates["hold"][0] is Gate.SHUT and not opened.document.dirty
    keys.press(Key.Key_Z, CTRL | SHIFT)
    planned(qtbot, opened)
    assert not opened.presenter.plan.stops


def first_strap(qtbot, w):
    """The bed of the front setup, its first strap, and the view of it."""
    w.go("hold")
    w.presenter.choose_setup("front")
    drawn(qtbot, w)
    hold = next(h for h in w.document.job.setup("front").holds if h.name == "C1")
    return w.desk.bed, hold, w.desk.bed.view()


def test_a_clamp_is_dragged_and_escape_leaves_no_trace(qtbot, opened):
    bed, hold, view = first_strap(qtbot, opened)
    at, to = view.to_screen(hold.x, hold.y + 12), view.to_screen(hold.x + 60, hold.y + 12)
    before = opened.document.job

    def drag(end_with_escape):
        QTest.mousePress(bed, Qt.MouseButton.LeftButton, pos=at.toPoint())
        QTest.mouseMove(bed, to.toPoint())
        if end_with_escape:
            bed.setFocus()
            QTest.keyClick(bed, Key.Key_Escape)
        QTest.mouseRelease(bed, Qt.MouseButton.LeftButton, pos=to.toPoint())

    drag(end_with_escape=True)
    assert opened.document.job == before and not opened.document.dirty
    drag(end_with_escape=False)
    moved = next(h for h in opened.document.job.setup("front").holds if h.name == "C1")
    assert moved.x == pytest.approx(hold.x + 60, abs=2.5) and moved.y in opened.document.job.machine.slots
    QTest.keyClick(bed, Key.Key_Right, SHIFT)
    nudged = next(h for h in opened.document.job.setup("front").holds if h.name == "C1")
    assert nudged.x == moved.x + 10


def test_a_dragged_hold_is_judged_where_it_would_stand(qtbot, opened):
    bed, hold, view = first_strap(qtbot, opened)
    at = view.to_screen(hold.x, hold.y + 12).toPoint()

    def verdict_at(x, y):
        before = bed.verdict
        QTest.mouseMove(bed, view.to_screen(x, y + 12).toPoint())
        qtbot.waitUntil(lambda: bed.verdict is not None and bed.verdict is not before, timeout=5_000)
        return bed.verdict

    QTest.mousePress(bed, Qt.MouseButton.LeftButton, pos=at)
    clear = verdict_at(hold.x + 20, hold.y)
    assert not clear[3] and "clear" in clear[4]
    touching = verdict_at(hold.x + 20, hold.y + 100)  # a slot further in: over the lettering
    assert touching[3] and "C1" in touching[4]
    QTest.mouseRelease(bed, Qt.MouseButton.LeftButton, pos=view.to_screen(hold.x + 20, hold.y + 112).toPoint())
    assert bed.verdict is None
    whole = planned(qtbot, opened)
    assert any(f.about == "C1" and f.level is Level.STOP for f in whole.findings)


def test_what_is_asked_at_a_first_look_waits_for_the_whole_plan(qtbot, shown):
    opened = shown(None)  # a process of its own: one that remembers is too quick for a first look
    assert opened.open_path(EXAMPLES / "lock-7-first-look.gatepost")
    planned(qtbot, opened)
    seen, done = [], []
    opened.context.worker.answered.connect(lambda r: seen.append(r.plan.coarse if r.plan is not None else None))
    opened.run("scale lettering", {"factor": 0.9})
    qtbot.waitUntil(
        lambda: opened.presenter.plan.coarse and opened.presenter.plan.job == opened.document.job, timeout=30_000
    )
    opened.context.when_planned("test", done.append)
    assert opened.context.plan is None and not done
    planned(qtbot, opened)
    qtbot.waitUntil(lambda: bool(done), timeout=30_000)
    assert done == [opened.presenter.plan] and not done[0].coarse
    qtbot.waitUntil(lambda: False in seen)  # who else listens may be told a moment later
    assert seen.index(True) < seen.index(False)


def test_heights_come_from_a_table_and_a_table_that_can_t_be_used_changes_nothing(qtbot, opened, tmp_path):
    said = []
    opened.messages.told.connect(lambda words, stays: said.append(words))
    path, before = tmp_path / "top.csv", opened.document.job
    for text, words in (
        ("x (mm),y,z\n1,2\n", "line 2"),
        ("x (mm),y,z\n1,2,0\n", "Z must be 0.001 at least"),
        ("x (mm),y,z\n" + "1,2,30\n" * 5001, "more than a job keeps"),
    ):
        path.write_text(text)
        opened.tables.read_heights(path, "top")
        assert words in said[-1] and opened.document.job == before
    path.write_text("x;y;z\n10;10;34,5\n900;12;34\n450;300;33,5\n")
    opened.tables.read_heights(path, "top")
    assert [h.z for h in opened.document.job.blank.heights] == [34.5, 34.0, 33.5]
    opened.tables.read_heights(path, "under")
    assert len(opened.document.job.blank.under) == 3
    Keys(qtbot, opened).press(Key.Key_Z, CTRL)
    Keys(qtbot, opened).press(Key.Key_Z, CTRL)
    assert opened.document.job == before


def test_shims_at_hand_are_typed_as_people_say_them(qtbot, opened):
    said = []
    opened.messages.told.connect(lambda words, stays: said.append(words))
    keys = Keys(qtbot, opened)
    keys.stage(2)
    keys.type("Shims at hand", '0.5; 1 mm; 1/8"')
    assert opened.document.job.surfacing.shims_at_hand == (0.5, 1.0, 3.175)
    keys.type("Shims at hand", "0.5; thin")
    assert opened.document.job.surfacing.shims_at_hand == (0.5, 1.0, 3.175) and "not a length" in said[-1]
    keys.type("Shims at hand", " ")
    assert opened.document.job.surfacing.shims_at_hand == ()


def test_a_program_is_checked_against_the_job_that_is_shown(qtbot, opened, tmp_path):
    said = []
    opened.messages.told.connect(lambda words, stays: said.append(words))
    path = tmp_path / "other.nc"
    path.write_text("G21 G90\nT2 M6\nS16000 M3\nG0 X0 Y0 Z5\nG1 Z-2 F500\nG8 X1\n")
    opened.outputs.check_program(path)
    qtbot.waitUntil(lambda: any("line 6" in words for words in said), timeout=30_000)
    path.write_bytes(b"\0\0\0")
    opened.outputs.check_program(path)
    qtbot.waitUntil(lambda: any("not text" in words for words in said), timeout=30_000)


def test_a_second_window_on_one_job_is_told_and_who_saves_second_is_asked(
    qtbot, opened, plan_worker, tmp_path, monkeypatch
):
    path = tmp_path / "shared.gatepost"
    assert opened.save_to(path)
    here = Recovery(opened.context.data, path)
    here._open = here._open.with_name(here._open.name.replace(str(os.getpid()), str(os.getppid())))
    here.others()
    second = Window(opened.context.data, book, plan_worker=plan_worker)
    qtbot.addWidget(second, before_close_func=clean)
    said = []
    second.messages.told.connect(lambda words, stays: said.append(words))
    assert second.open_path(path)
    assert any("another window" in words for words in said)
    opened.run("set job", {"name": "First saved"})
    assert opened.jobs.save()
    second.run("set job", {"name": "Second saved"})
    answers = []
    monkeypatch.setattr(
        QMessageBox, "exec", lambda box: answers.append(box.text()) or QMessageBox.StandardButton.Cancel
    )
    second.jobs.save()
    assert "changed by somebody else" in answers[0] and second.document.dirty
    assert load(path).job.name == "First saved"


def test_units_themes_stages_and_setups_by_key(qtbot, opened):
    keys = Keys(qtbot, opened)
    exact = opened.document.job.blank
    keys.press(Key.Key_U, CTRL)
    planned(qtbot, opened)
    assert "in" in opened.desk.top.line.text() and opened.document.job.blank == exact
    keys.press(Key.Key_U, CTRL)
    keys.press(Key.Key_D, CTRL)
    assert opened.context.theme == "dark"
    for number, stage in ((2, "surface"), (5, "register"), (7, "tools"), (9, "finish"), (10, "log"), (1, "blank")):
        keys.stage(number)
        assert opened.presenter.stage == stage and opened.desk.fence.here == stage
        assert opened.grab().width() > 1000
    assert "nothing to find" in opened.desk.fence.gates["register"][1]
    keys.stage(3)
    first = opened.presenter.setup
    keys.press(Key.Key_F6)
    assert opened.presenter.setup != first
    keys.press(Key.Key_D, CTRL)


def test_a_wrong_length_is_told_and_loses_nothing(qtbot, opened):
    keys = Keys(qtbot, opened)
    said = []
    opened.messages.told.connect(lambda words, stays: said.append(words))
    before = opened.document.job
    keys.stage(1)
    keys.type("Length", "twelve")
    assert opened.document.job == before and "not a length" in said[-1]
    keys.type("Length", "-4")
    assert opened.document.job == before and "Length must be 5 at least" in said[-1]
    keys.type("Length", "3' 0\"")
    assert opened.document.job.blank.length == 914.4


def test_what_nothing_refers_to_is_taken_apart_in_the_window_s_own_thread_alone(qtbot, window):
    """Another thread would take a closed window's callbacks away under timers that still run."""
    where = []

    class Round:
        """It refers to itself: only a collection takes it apart."""

    thing = Round()
    thing.itself = thing
    weakref.finalize(thing, lambda: where.append(threading.current_thread()))
    del thing
    busy = threading.Thread(target=lambda: [[[k]] for k in range(200_000)])
    busy.start()
    busy.join()
    assert not where
    qtbot.waitUntil(lambda: bool(where))
    assert where == [threading.main_thread()]
