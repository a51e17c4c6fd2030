# SPDX-License-Identifier: GPL-3.0-or-later
"""The real window, by its keys."""

import os

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QComboBox, QLineEdit, QMessageBox, QPushButton
from pytestqt.exceptions import TimeoutError as QtBotTimeout

from gatepost.core.findings import Gate, Level
from gatepost.core.job.file import load
from gatepost.desk.shell.app import book
from gatepost.desk.shell.recovery import Recovery
from gatepost.desk.shell.window import Window
from tests.conftest import EXAMPLES
from tests.desk.conftest import clean

Key = Qt.Key
CTRL = Qt.KeyboardModifier.ControlModifier
SHIFT = Qt.KeyboardModifier.ShiftModifier


def planned(qtbot, w):
    """Wait until the plan shown is of the job as it is now."""
    qtbot.waitUntil(
        lambda: w.presenter.plan is not None and w.presenter.plan.job == w.document.job and w.desk.bed.busy == "",
        timeout=60_000,
    )
    return w.presenter.plan


def drawn(qtbot, w):
    """Wait until the drawings are those of the page."""
    qtbot.waitUntil(lambda: not w.presenter.drawing, timeout=5_000)


class Keys:
    """Types at whatever has the focus, as a person does."""

    def __init__(self, qtbot, w):
        self.qtbot, self.w = qtbot, w

    def press(self, key, modifier=Qt.KeyboardModifier.NoModifier):
        QTest.keyClick(QApplication.focusWidget() or self.w, key, modifier)
        QApplication.processEvents()

    def stage(self, number):
        self.press(Key(Key.Key_0.value + number % 10), CTRL)

    def entered(self):
        if self.w.desk.slate.side != "entered":
            self.press(Key.Key_F2)
        else:
            self.press(Key.Key_F2)
            self.press(Key.Key_F2)

    def field(self, label, number=0):
        """Tab until the field of a name has the focus."""
        self.entered()
        for _ in range(200):
            focus = QApplication.focusWidget()
            if isinstance(focus, (QLineEdit, QComboBox, QPushButton)) and label in (
                focus.accessibleName(),
                getattr(focus, "text", str)(),
            ):
                if number == 0:
                    return focus
                number -= 1
            self.press(Key.Key_Tab)
        raise AssertionError(
            f"no field {label}; focus {QApplication.focusWidget()}, side {self.w.desk.slate.side}, stage {self.w.presenter.stage}"
        )

    def type(self, label, words, number=0):
        field = self.field(label, number)
        field.selectAll()
        QTest.keyClicks(field, words)
        QTest.keyClick(field, Key.Key_Return)
        QApplication.processEvents()

    def push(self, label):
        QTest.keyClick(self.field(label), Key.Key_Space)

    def choose(self, label, words):
        box = self.field(label)
        assert isinstance(box, QComboBox)
        for _ in range(box.count() + 40):
            if box.currentText() == words:
                break
            before = box.currentIndex()
            wanted = box.findText(words)
            QTest.keyClick(box, Key.Key_Down if wanted > before else Key.Key_Up)
        else:
            raise AssertionError(words)


@pytest.mark.whole
def test_a_new_job_to_a_logged_run_by_keyboard_alone(qtbot, window, tmp_path):
    keys = Keys(qtbot, window)
    keys.press(Key.Key_N, CTRL)
    planned(qtbot, window)
    keys.type("Job", "Lock 8 name board")
    for label, words in (("Length", "500"), ("Width", '8"'), ("Thickness as sold", "25.4 mm")):
        keys.type(label, words)
    assert window.document.job.blank.width == 203.2
    for i, thick in enumerate(("25.1", "25.2", "25.1", "25.15", "25.1")):
        keys.push("Add a caliper reading")
        keys.type("thick", thick, i)
    for i, high in enumerate(("26.1", "26.0", "26.3", "26.2", "25.2")):
        keys.push("Add a height of the top")
        keys.type("height", high, i)
    keys.stage(6)
    keys.push("Add a line")
    keys.type("Text", "WHARF")
    keys.type("Height of capitals", "40")
    keys.type("Middle, from the left edge", "250")
    keys.type("Middle, from the front edge", "101.6")
    keys.push("Cut out a rounded plate")
    for label, words in (("Width", "360"), ("Height", "120"), ("Corner radius", "15")):
        keys.type(label, words)
    plan = planned(qtbot, window)
    assert [s.name for s in plan.setups] == ["surface", "front"]
    keys.stage(3)
    if window.presenter.setup != "surface":
        keys.press(Key.Key_F6)
    for _ in range(4):
        keys.push("Add an edge clamp")
    keys.press(Key.Key_F6)
    for x in ("190", "600"):
        keys.push("Add a strap")
        keys.type("Bolt X", x, len(window.document.job.setup("front").holds) - 1)
    for x in ("190", "600"):
        keys.push("Add a strap")
        n = len(window.document.job.setup("front").holds) - 1
        keys.type("Bolt X", x, n)
        keys.type("Bolt Y", "500", n)
        keys.type("Nose points, degrees", "270", n)
        keys.type("Bolt to nose", "106.8", n)
    plan = planned(qtbot, window)
    for _ in range(12):  # whatever still stands is mended by its first fix
        if not plan.stops and not plan.questions:
            break
        keys.press(Key.Key_Escape)
        for _ in range(3):
            keys.press(Key.Key_Space)
            if isinstance(QApplication.focusWidget(), QPushButton):
                break
        before = window.document.job
        assert isinstance(QApplication.focusWidget(), QPushButton), plan.next
        keys.press(Key.Key_Space)
        assert window.document.job != before, plan.next
        plan = planned(qtbot, window)
    assert not plan.stops and not plan.questions, [f.message for f in plan.findings if f.stands]
    keys.press(Key.Key_Escape)
    window.operator.speed = "max"
    keys.press(Key.Key_M, CTRL)
    qtbot.waitUntil(lambda: window.operator.state == "ready", timeout=30_000)
    keys.press(Key.Key_F9)
    steps = sum(len(s.steps) for s in plan.setups)
    for _ in range(steps):
        setup, step = window.machine.current()
        count = len(window.document.journal.entries)
        QTest.keyPress(window.machine, Key.Key_Return)
        if step.moves:
            qtbot.waitUntil(lambda: window.operator.busy or len(window.document.journal.entries) > count, timeout=5_000)
        QTest.keyRelease(window.machine, Key.Key_Return)
        done = lambda: bool(window.document.journal.ticked(setup.name, step.key)) and not window.operator.busy  # noqa: B023, E731
        try:
            qtbot.waitUntil(done, timeout=60_000)
        except QtBotTimeout:
            link = window.operator._session._link
            raise AssertionError((step, window.operator.state, window.machine.state, vars(link))) from None
        qtbot.waitUntil(lambda: window.machine.state == "ready", timeout=5_000)
    assert all(window.machine.done)
    keys.press(Key.Key_F9)
    keys.stage(10)
    rows = window.desk.log.rows
    assert [r.state for r in rows] == ["done"] * 3 and {r.job for r in rows} == {"Lock 8 name board"}
    assert window.save_to(tmp_path / "lock-8.gatepost")
    assert not window.document.dirty


@pytest.fixture
def opened(qtbot, window):
    assert window.open_path(EXAMPLES / "lock-7-first-look.gatepost")
    planned(qtbot, window)
    return window


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


def test_a_first_look_is_shown_and_nothing_is_run_or_written_from_it(qtbot, shown):
    opened = shown(None)  # a process of its own: one that remembers is too quick for a first look
    assert opened.open_path(EXAMPLES / "lock-7-first-look.gatepost")
    planned(qtbot, opened)
    seen = []
    said = []
    opened.messages.told.connect(lambda words, stays: said.append(words))
    opened.reckoner.answered.connect(lambda r: seen.append(r.plan.coarse if r.plan is not None else None))
    opened.run("scale lettering", {"factor": 0.9})
    qtbot.waitUntil(
        lambda: opened.presenter.plan.coarse and opened.presenter.plan.job == opened.document.job, timeout=30_000
    )
    assert opened._plan_now() is None and "Still working" in said[-1]
    planned(qtbot, opened)
    qtbot.waitUntil(lambda: not opened.presenter.plan.coarse, timeout=30_000)
    assert opened._plan_now() is opened.presenter.plan
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
        opened.read_table(path, "top")
        assert words in said[-1] and opened.document.job == before
    path.write_text("x;y;z\n10;10;34,5\n900;12;34\n450;300;33,5\n")
    opened.read_table(path, "top")
    assert [h.z for h in opened.document.job.blank.heights] == [34.5, 34.0, 33.5]
    opened.read_table(path, "under")
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
    opened.check_program(path)
    qtbot.waitUntil(lambda: any("line 6" in words for words in said), timeout=30_000)
    path.write_bytes(b"\0\0\0")
    opened.check_program(path)
    qtbot.waitUntil(lambda: any("not text" in words for words in said), timeout=30_000)


def test_a_second_window_on_one_job_is_told_and_who_saves_second_is_asked(
    qtbot, opened, reckoner, tmp_path, monkeypatch
):
    path = tmp_path / "shared.gatepost"
    assert opened.save_to(path)
    here = Recovery(opened.data, path)
    here._open = here._open.with_name(here._open.name.replace(str(os.getpid()), str(os.getppid())))
    here.others()
    second = Window(opened.data, book, reckoner=reckoner)
    qtbot.addWidget(second, before_close_func=clean)
    said = []
    second.messages.told.connect(lambda words, stays: said.append(words))
    assert second.open_path(path)
    assert any("another window" in words for words in said)
    opened.run("set job", {"name": "First saved"})
    assert opened._save()
    second.run("set job", {"name": "Second saved"})
    answers = []
    monkeypatch.setattr(
        QMessageBox, "exec", lambda box: answers.append(box.text()) or QMessageBox.StandardButton.Cancel
    )
    second._save()
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
    assert opened.theme == "dark"
    for number, stage in ((2, "surface"), (5, "register"), (7, "tools"), (9, "finish"), (10, "log"), (1, "blank")):
        keys.stage(number)
        assert opened.presenter.stage == stage and opened.desk.fence.here == stage
        assert opened.grab().width() > 1000
    assert "not built yet" in opened.desk.fence.gates["register"][1]
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


@pytest.mark.whole
@pytest.mark.parametrize("linked", [True, False])
def test_a_run_that_was_stopped_is_gone_on_with_from_the_log(qtbot, window, monkeypatch, linked):
    assert window.open_path(EXAMPLES / "quay-plate.gatepost")
    planned(qtbot, window)
    operator, log = window.operator, window.desk.log
    operator.speed = "60"
    window._simulated()
    qtbot.waitUntil(lambda: operator.state == "ready", timeout=30_000)

    def do_steps_until(name):
        setup = window.presenter.plan.setups[0]
        for step in setup.steps:
            if window.document.journal.ticked(setup.name, step.key):
                continue
            assert operator.do(planned(qtbot, window), setup, step, window.document.journal, "")
            if step.program == name:
                return
            qtbot.waitUntil(lambda: not operator.busy and operator.state == "ready", timeout=60_000)

    first = window.presenter.plan.setups[0].programs[0]
    with qtbot.waitSignal(operator.progressed, timeout=60_000, check_params_cb=lambda done, of: done > 40):
        do_steps_until(first.name)
    operator.stop()
    qtbot.waitUntil(lambda: not operator.busy, timeout=30_000)
    planned(qtbot, window)
    assert window.runs()[0].state == "stopped" and 40 < window.runs()[0].blocks_done < window.runs()[0].blocks
    if not linked:
        window._unlink()
    operator.speed = "max"
    asked = []
    monkeypatch.setattr(
        "gatepost.desk.shell.messages.ask_mark", lambda parent, words: asked.append(words) or len(asked) > 1
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
    kinds = [e.kind for e in window.document.journal.entries]
    assert (
        "witness" in kinds and ("power cut" in kinds) is not linked
    )  # stopped over the link with its drives on, it knows its place


def test_by_hand_read_outs_are_typed_and_the_row_is_a_shop_row(qtbot, window):
    window.open_path(EXAMPLES / "quay-plate.gatepost")
    plan = planned(qtbot, window)
    window._at_machine()
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
    from gatepost.desk.shell.holdbutton import BigKey

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
    from gatepost.desk.shell.recovery import leftovers

    opened.run("set job", {"name": "Changed"})
    opened._keep()
    copy = opened.recovery.copy
    assert copy.exists() and leftovers(opened.data) == []  # ours is alive
    orphan = copy.with_name(copy.name.rsplit("-", 1)[0] + "-999999999.gatepost")
    copy.rename(orphan)
    assert leftovers(opened.data) == [orphan]
    opened.document.stack.setClean()
    assert opened.open_path(orphan)
    assert opened.document.job.name == "Changed" and opened.document.path is None and opened.document.dirty


def test_an_exception_nobody_caught_saves_first_and_is_shown(qtbot, opened, capsys):
    import sys

    from gatepost.desk.shell.app import hook

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
        assert opened.recovery.copy.exists() and said and said[-1][1] and "a defect" in said[-1][0]
        assert "a defect" in (opened.data / "trouble.log").read_text()
    finally:
        import threading

        sys.excepthook = old
        threading.excepthook = threading.__excepthook__
        capsys.readouterr()


def test_a_long_page_scrolls_and_nothing_is_squashed_or_cut_off(qtbot, opened):
    from gatepost.desk.shell.slate import ROW

    slate = opened.desk.slate
    for stage in ("surface", "blank", "hold", "carve", "tools", "blank"):
        opened.go(stage)
        for side in ("judged", "entered"):
            slate.turn(side)
            QApplication.processEvents()
            fields = [f for f in slate.fields() if isinstance(f, (QLineEdit, QComboBox))]
            assert all(f.height() >= ROW for f in fields), (stage, side)
            inside = slate.scroll.widget()
            assert inside.width() <= slate.scroll.viewport().width()
            ends = [f.mapTo(inside, f.rect().bottomRight()) for f in slate.fields()]
            assert all(e.y() <= inside.height() and e.x() <= inside.width() for e in ends), (stage, side)
            rows = sorted(f.mapTo(inside, f.rect().topLeft()).y() for f in fields)
            assert all(b - a >= ROW or b - a <= 2 for a, b in zip(rows, rows[1:])), (stage, side)


def test_nothing_is_run_or_written_from_a_plan_of_the_job_as_it_was(qtbot, opened):
    step = opened.presenter.plan.setups[0].steps[0]
    opened.run("set tool", {"number": 2, "feed": 2300.0})
    said = []
    opened.messages.told.connect(lambda words, stays: said.append(words))
    count = len(opened.document.journal.entries)
    opened._do_step(opened.presenter.plan.setups[0], step, ())
    opened._write()
    assert len(opened.document.journal.entries) == count and len(said) == 2 and "working" in said[0]
