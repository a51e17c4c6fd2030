# SPDX-License-Identifier: GPL-3.0-or-later
"""The Register page and its steps at the machine: pins, a rim, and a piece that is found by its marks, in the real window."""

import numpy as np
import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QComboBox, QLineEdit, QPushButton, QWidget

from gatepost.core.job.file import Document, save
from gatepost.core.plan.found import face_to_bed
from gatepost.core.zero.trust import Trust
from gatepost.desk.dialogs.slot import SlotDialog
from tests.core.catalogue_jobs import JOBS, edited
from tests.core.photos import Camera, render
from tests.core.pinned import DEEP, brought_back, holes, tablet, turned
from tests.core.test_photographed import RECTANGLE, SCALE, THICK, lain
from tests.desk.looking import planned

Key = Qt.Key


def opened(qtbot, window, tmp_path, job):
    path = tmp_path / "job.gatepost"
    save(Document(job), path)
    assert window.open_path(path)
    return planned(qtbot, window)


def button(window, words):
    return next(b for b in window.findChildren(QPushButton) if b.text().replace("&", "") == words and b.isVisible())


def figures(window):
    """The page's entries shown."""
    QTest.mouseClick(button(window, "Your figures"), Qt.MouseButton.LeftButton)


def test_two_pins_are_put_by_a_button_and_taken_back_by_undo(qtbot, window, tmp_path):
    opened(qtbot, window, tmp_path, edited(JOBS["taped"](), *turned(), *holes()))
    window.go("register")
    window.presenter.choose_setup("over")
    planned(qtbot, window)
    assert "register.touched-anew" in {f.code for f in window.presenter.plan.findings}
    figures(window)
    QTest.mouseClick(button(window, "Two pins on the line it turns about"), Qt.MouseButton.LeftButton)
    plan = planned(qtbot, window)
    assert len(plan.setup("over").pins) == 2 and {"register.pins-ways"} <= {f.code for f in plan.findings}
    assert any(s.role == "stud" for s in window.desk.bed.drawing.shapes)
    window.act("undo")
    assert not planned(qtbot, window).setup("over").pins


def test_a_rim_is_stepped_while_the_window_goes_on_and_not_for_a_job_that_was_changed(qtbot, window, tmp_path):
    opened(qtbot, window, tmp_path, edited(JOBS["taped"](), *tablet(rim=False)))
    window.go("register")
    window.presenter.choose_setup("over")
    planned(qtbot, window)
    figures(window)
    rims = window.holds.rims
    said = []
    window.messages.told.connect(lambda words, stays: said.append(words))
    QTest.mouseClick(button(window, "Make the rim stepped"), Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: rims.sharing.dialog is not None and rims.sharing.dialog.isVisible(), timeout=20_000)
    qtbot.mouseClick(rims.sharing.dialog.findChild(QPushButton), Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: any("called off" in w for w in said), timeout=20_000)
    assert rims.sharing.dialog is None and window.document.job.setup("over").comes.apart == 0.0
    QTest.mouseClick(button(window, "Make the rim stepped"), Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: window.document.job.setup("over").comes.apart > 0.0, timeout=60_000)
    assert rims.sharing.dialog is None
    plan = planned(qtbot, window)
    assert plan.setup("over").nest.tried.nest.asked.goes_in
    QTest.mouseClick(button(window, "Measure the test piece…"), Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: rims.dialog is not None and rims.dialog.isVisible(), timeout=5_000)
    opening, piece = rims.dialog.fields
    opening.setText("40")
    piece.setText("52.2")
    assert "no slot between" in rims.dialog.words.text() and not rims.dialog.use.isEnabled()
    opening.setText("52,2")
    piece.setText("40")
    QTest.mouseClick(rims.dialog.use, Qt.MouseButton.LeftButton)
    assert window.document.job.setup("over").comes.slot == pytest.approx(6.1) and rims.dialog is None
    window.act("step_rim")
    window.context.run("set job", {"name": "Another"})
    qtbot.waitUntil(lambda: any("changed meanwhile" in w for w in said), timeout=60_000)


@pytest.mark.parametrize("unit, told", [("mm", ("6.1 mm", "0.1 mm")), ("inch", ("0.240", "0.004"))])
def test_a_slot_is_told_finely_enough_in_either_unit(qtbot, unit, told):
    parent = QWidget()
    qtbot.addWidget(parent)
    dialog = SlotDialog(parent, 6.0, unit, "light")
    for field, words in zip(dialog.fields, ("52.2 mm", "40 mm")):
        field.setText(words)
    assert dialog.use.isEnabled() and all(t in dialog.words.text() for t in told), dialog.words.text()


def through(qtbot, window, until):
    """All steps at the simulated machine up to one; their kinds."""
    window.act("simulated")
    qtbot.waitUntil(lambda: window.operator.state == "ready", timeout=30_000)
    window.turn_to("machine")
    machine, kinds = window.machine, []
    while True:
        planned(qtbot, window)
        qtbot.waitUntil(lambda: machine.current() is not None, timeout=5_000)
        setup, step = machine.current()
        if until(step):
            return kinds
        kinds.append(step.kind)
        done = len(window.document.journal.entries)
        machine.done_wanted.emit(setup, step, ())
        qtbot.waitUntil(
            lambda: (
                not window.operator.busy
                and machine.current() is not None
                and machine.current()[1].key != step.key
                and len(window.document.journal.entries) > done
            ),
            timeout=60_000,
        )
        assert len(kinds) < 80


def test_a_piece_is_found_by_its_marks_on_the_simulated_machine_and_cut(qtbot, window, tmp_path):
    opened(qtbot, window, tmp_path, brought_back())
    kinds = through(qtbot, window, lambda step: step.kind == "run")
    assert kinds.count("mark") == 3 and kinds.index("zero found") > max(i for i, k in enumerate(kinds) if k == "mark")
    plan = planned(qtbot, window)
    assert plan.setup("front").found.stands and plan.setup("front").axes.x.trust is Trust.TRUSTED
    window.go("register")
    planned(qtbot, window)
    assert any(s.text.endswith("✓") for s in window.desk.bed.drawing.shapes)


def test_old_holes_are_typed_and_rings_about_them_are_cut_measured_and_taken(qtbot, window, tmp_path):
    job = edited(JOBS["taped"](), DEEP, *holes("marks", "front", 60.0, 20.0, 80.0, setup="front"))
    opened(qtbot, window, tmp_path, job)
    window.go("register")
    window.presenter.choose_setup("front")
    planned(qtbot, window)
    figures(window)
    QTest.mouseClick(button(window, "Holes that are there already"), Qt.MouseButton.LeftButton)
    planned(qtbot, window)
    for label, typed in (("Holes", "3"), ("Apart, middle to middle", "45")):
        field = next(f for f in window.findChildren(QLineEdit) if f.isVisible() and f.accessibleName() == label)
        field.setFocus()
        field.selectAll()
        QTest.keyClicks(field, typed)
        QTest.keyClick(field, Key.Key_Return)
        planned(qtbot, window)
    QTest.mouseClick(button(window, "A ring round Old holes"), Qt.MouseButton.LeftButton)
    planned(qtbot, window)
    QTest.mouseClick(button(window, "Take what is there already"), Qt.MouseButton.LeftButton)
    plan = planned(qtbot, window)
    assert len(plan.setup("front").proving.looks.ids) == len(plan.setup("front").proving.rings.ids) == 3
    second = plan.setup("front").programs[1].name
    kinds = through(qtbot, window, lambda step: step.program == second)
    assert kinds.count("ring") == 3 and kinds.count("over") % 3 == 0  # once more over them where they were followed
    last_ring = max(i for i, k in enumerate(kinds) if k == "ring")
    assert kinds.index("over") < kinds.index("run") < kinds.index("ring") and "over" not in kinds[last_ring:]
    plan = planned(qtbot, window)
    assert not plan.stops and plan.setup("front").axes.x.trust is Trust.TRUSTED


def test_a_piece_is_laid_where_its_photo_has_it_and_taken_back_by_undo(qtbot, window, tmp_path, monkeypatch):
    job = brought_back(edges=True)
    true = lain(job, 2.0, 4.0, -3.0)
    to_bed = face_to_bed(true, true.setup("front"))
    camera = Camera((600, 350, 900), (600, 350), focal=1500.0, size=(1200, 900))
    outline = np.array([to_bed.xy(*c) for c in ((0, 0), (120, 0), (120, 80), (0, 80))])
    (tmp_path / "piece.jpg").write_bytes(render(outline, THICK, camera))
    opened(qtbot, window, tmp_path, job)
    window.go("register")
    window.presenter.choose_setup("front")
    planned(qtbot, window)
    monkeypatch.setattr(window.context, "ask_open", lambda *words: tmp_path / "piece.jpg")
    window.act("piece_photo")
    qtbot.waitUntil(lambda: window.outlines.photo_dialog is not None, timeout=20_000)
    dialog = window.outlines.photo_dialog
    dialog.runs.setCurrentIndex(2)  # the rectangle is marked from its back right corner on
    assert "mark 1 of the scale: back right" in dialog.hint.text()
    for place in camera.see(RECTANGLE[[2, 3, 0, 1]] + [SCALE.x, SCALE.y, 0.0]):
        dialog.view.add(tuple(place))
    assert "Now a: old, hole 1" in dialog.named.text() and not dialog.trace_key.isEnabled()
    for m in job.setup("front").comes.marks[:5]:
        dialog.view.add(tuple(camera.see(np.array([[*to_bed.xy(m.x, m.y), THICK]]))[0]))
    for key, words in (("across", "250"), ("up", "180"), ("bed_x", "730"), ("bed_y", "440"), ("lens", "900")):
        dialog.fields[key].setText(words)
    dialog.fields["bed_y"].setText("44o")
    dialog.trace()
    assert dialog.result_ is None and dialog.words.text()  # a sentence, and what was clicked still stands
    dialog.fields["bed_y"].setText("440")
    dialog.trace()
    qtbot.waitUntil(lambda: dialog.result_ is not None, timeout=20_000)
    QTest.keyClick(dialog.use_key, Key.Key_Space)
    assert window.document.job.setup("front").skew == 0.0  # no length was checked: asked for once
    QTest.keyClick(dialog.use_key, Key.Key_Space)
    setup = window.document.job.setup("front")
    assert setup.skew == pytest.approx(2.0, abs=0.3) and 0.3 < setup.comes.first < 8.0
    assert planned(qtbot, window).setup("front").axes.x.trust is Trust.LOST
    window.act("undo")
    assert window.document.job.setup("front").skew == 0.0


def test_the_way_it_comes_is_chosen_and_marks_are_typed(qtbot, window, tmp_path):
    opened(qtbot, window, tmp_path, JOBS["taped"]())
    window.go("register")
    window.presenter.choose_setup("front")
    planned(qtbot, window)
    figures(window)
    box = next(b for b in window.findChildren(QComboBox) if b.isVisible() and b.findText("found by marks") >= 0)
    box.setFocus()
    box.setCurrentIndex(box.findText("found by marks"))
    box.activated.emit(box.currentIndex())
    qtbot.waitUntil(lambda: window.document.job.setup("front").comes is not None, timeout=5_000)
    planned(qtbot, window)
    QTest.mouseClick(button(window, "Add a mark"), Qt.MouseButton.LeftButton)
    planned(qtbot, window)
    field = next(f for f in window.findChildren(QLineEdit) if f.isVisible() and f.accessibleName() == "a mark: X")
    field.setFocus()
    field.selectAll()
    QTest.keyClicks(field, '3/4"')
    QTest.keyClick(field, Key.Key_Return)
    qtbot.waitUntil(lambda: window.document.job.setup("front").comes.marks[0].x == pytest.approx(19.05), timeout=5_000)


def test_either_face_first_is_compared_changed_over_and_taken_back(qtbot, window, tmp_path):
    opened(qtbot, window, tmp_path, edited(JOBS["taped"](), *turned(), *holes()))
    window.go("register")
    window.presenter.choose_setup("over")
    planned(qtbot, window)
    figures(window)
    said = []
    window.messages.told.connect(lambda words, stays: said.append((words, stays)))
    QTest.mouseClick(button(window, "Either face first, compared…"), Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: any("The back face first:" in w and stays for w, stays in said), timeout=60_000)
    QTest.mouseClick(button(window, "Cut the other face first"), Qt.MouseButton.LeftButton)
    plan = planned(qtbot, window)
    assert [s.name for s in plan.setups][-2:] == ["over", "front"]
    window.act("undo")
    assert [s.name for s in planned(qtbot, window).setups][-2:] == ["front", "over"]
