# SPDX-License-Identifier: GPL-3.0-or-later
"""Raised letters, drawings and the look of a sign, by keys and mouse in the real window."""

import cv2
import numpy as np
import pytest
from PyQt6.QtCore import QEvent, QMimeData, QPoint, QPointF, Qt
from PyQt6.QtGui import QGuiApplication, QImage, QKeyEvent
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QFileDialog, QLabel, QPushButton

from gatepost.core.findings import Level
from gatepost.desk.dialogs.art import ArtDialog
from gatepost.desk.dialogs.look import LookDialog
from gatepost.desk.slate.fields import Field
from tests.core.test_drawn_art import SQUARE, svg
from tests.core.test_relief import pyramid
from tests.desk.looking import CTRL, SHIFT, Key, Keys, drawn, planned


def kinds(window):
    return [o.kind for o in window.document.job.setup("front").operations]


def texts(window):
    return [line.text for a in window.document.job.artwork if a.kind == "lettering" for line in a.figures.lines]


def test_letters_are_raised_typed_again_lowered_and_all_of_it_is_taken_back(qtbot, opened):
    """Ctrl+Shift+U sinks the ground round them; their words are typed on; a letter that says nothing is no depth; Undo cuts them in again."""
    keys = Keys(qtbot, opened)
    before, said = kinds(opened), texts(opened)
    keys.stage(6)
    planned(qtbot, opened)
    keys.press(Key.Key_U, CTRL | SHIFT)
    qtbot.waitUntil(lambda: kinds(opened) == ["ground", "cutout"])
    told = planned(qtbot, opened)
    assert not [f for f in told.report("carve").findings if f.level is Level.STOP]
    assert {op.tool.kind for op in told.carving.operations if op.kind == "ground"} == {"flat", "vee"}
    drawn(qtbot, opened)
    assert any(s.role == "goes" for s in opened.desk.bed.drawing.shapes)
    opened.desk.slate.turn("entered")
    field = next(w for k, w in opened.desk.slate.entries.inputs.items() if k[1] == "Line 1" and k[-1] == "Text")
    field.setFocus()
    field.selectAll()
    QTest.keyClicks(field, "LOCK 8")
    keys.press(Key.Key_Return)
    assert texts(opened)[0] == "LOCK 8" and kinds(opened) == ["ground", "cutout"]
    depth = next(w for k, w in opened.desk.slate.entries.inputs.items() if k[1] == "Ground" and k[-1] == "Depth")
    assert isinstance(depth, Field)
    depth.setFocus()
    depth.selectAll()
    QTest.keyClicks(depth, "3O")
    keys.press(Key.Key_Return)
    assert next(o for o in opened.document.job.setup("front").operations if o.kind == "ground").figures.depth == 3.0
    keys.press(Key.Key_Escape)
    while kinds(opened) != before or texts(opened) != said:
        assert opened.document.stack.canUndo()
        opened.act("undo")
    planned(qtbot, opened)


def dialog_of(kind):
    return next((w for w in QApplication.topLevelWidgets() if isinstance(w, kind) and w.isVisible()), None)


def test_a_drawing_that_is_pasted_is_looked_over_used_kept_and_dragged(qtbot, opened):
    keys = Keys(qtbot, opened)
    keys.stage(6)
    planned(qtbot, opened)
    clipboard = QGuiApplication.clipboard()
    clipboard.setText("no drawing")
    opened.act("paste_art")
    assert dialog_of(ArtDialog) is None
    held = QMimeData()
    held.setData("image/svg+xml", svg(f"<path {SQUARE}/>", 'viewBox="0 0 100 100"'))
    clipboard.setMimeData(held)
    opened.act("paste_art")
    qtbot.waitUntil(lambda: dialog_of(ArtDialog) is not None and dialog_of(ArtDialog).use.isEnabled(), timeout=20_000)
    dialog = dialog_of(ArtDialog)
    choices = dialog._choices.buttons()
    assert [c.text().rpartition(" ")[2] for c in choices] == ["px", "mm", "in"] and choices[0].isChecked()
    choices[1].click()
    qtbot.waitUntil(lambda: dialog._found.values["wide"] == 20.0, timeout=20_000)
    keys.press(Key.Key_Return)
    qtbot.waitUntil(lambda: any(a.kind == "drawing" for a in opened.document.job.artwork))
    art = next(a for a in opened.document.job.artwork if a.kind == "drawing")
    assert art.figures.width == 20.0 and opened.document.document().kept()[art.figures.source].startswith(b"<svg")
    opened.context.run("set art", {"art": art.id, "x": 120.0, "y": 75.0})  # clear of the letters, and of the margin
    art = next(a for a in opened.document.job.artwork if a.kind == "drawing")
    planned(qtbot, opened)
    drawn(qtbot, opened)
    cut = next(o for o in opened.document.job.setup("front").operations if art.id in o.on)
    setup = opened.presenter.plan.carving
    x, y = setup.face_to_bed.xy(art.x, art.y)
    bed = opened.desk.bed
    at = bed.view().to_screen(x, y).toPoint()
    QTest.mousePress(bed, Qt.MouseButton.LeftButton, pos=at)
    for step in (10, 20, 30):
        QTest.mouseMove(bed, at + QPoint(step, 0))
    QTest.mouseRelease(bed, Qt.MouseButton.LeftButton, pos=at + QPoint(30, 0))
    assert cut.kind == "vcut"
    moved = next(a for a in opened.document.job.artwork if a.kind == "drawing")
    assert moved.x > art.x + 1.0 and abs(moved.y - art.y) < 1.0
    for _ in range(3):
        opened.act("undo")
    assert not any(a.kind == "drawing" for a in opened.document.job.artwork)


def test_the_light_on_a_sign_is_dragged_and_moved_by_keys_its_colours_tried_and_its_picture_saved(
    qtbot, opened, tmp_path, monkeypatch
):
    planned(qtbot, opened)
    opened.act("look")
    qtbot.waitUntil(
        lambda: dialog_of(LookDialog) is not None and dialog_of(LookDialog).view.image is not None, timeout=20_000
    )
    dialog = dialog_of(LookDialog)
    view = dialog.view

    def picture():
        return bytes(view.image.constBits().asarray(view.image.sizeInBytes()))

    first = picture()
    QTest.mousePress(view, Qt.MouseButton.LeftButton, pos=view.rect().center() + QPoint(120, 40))
    QTest.mouseRelease(view, Qt.MouseButton.LeftButton, pos=view.rect().center() + QPoint(120, 40))
    assert dialog.look.light > 300 or dialog.look.light < 30
    qtbot.waitUntil(lambda: picture() != first and not dialog._busy and not dialog._rest.isActive(), timeout=20_000)
    second, light = picture(), dialog.look.light
    view.setFocus()
    QTest.keyClick(view, Key.Key_Left)
    assert dialog.look.light != light
    dialog._try(letters="deep red", tilt=30.0)
    qtbot.waitUntil(lambda: picture() != second and not dialog._busy and not dialog._rest.isActive(), timeout=20_000)
    assert view.per_pixel > 0 and dialog.look.letters == "deep red"
    wrong, chosen = (
        [],
        [tmp_path / "none" / "a.png", tmp_path / "sign"],
    )  # a folder that is not there; a name without an ending
    opened.messages.told.connect(lambda words, stays: wrong.append(words))
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *asked: (str(chosen.pop(0)), ""))
    save = next(b for b in dialog.findChildren(QPushButton) if b.text().startswith("Save as a picture"))
    for _ in range(2):
        QTest.mouseClick(save, Qt.MouseButton.LeftButton)
    assert len(wrong) == 1 and "a.png" in wrong[0] and QImage(str(tmp_path / "sign.png")).size() == view.image.size()
    QTest.keyClick(dialog, Key.Key_Escape)
    assert dialog_of(LookDialog) is None


def test_a_picture_is_carved_by_its_heights_as_wide_as_was_typed_last(qtbot, opened, tmp_path):
    """Return takes what was typed into the field, not what was found before; a width that can't be read takes nothing."""
    keys = Keys(qtbot, opened)
    ramp = np.tile(np.linspace(0, 65535, 60), (40, 1)).astype(np.uint16)
    path = tmp_path / "wave.png"
    path.write_bytes(bytes(cv2.imencode(".png", ramp)[1]))
    keys.stage(6)
    planned(qtbot, opened)
    opened.outlines.art.read(path)
    qtbot.waitUntil(lambda: dialog_of(ArtDialog) is not None and dialog_of(ArtDialog).use.isEnabled(), timeout=20_000)
    dialog = dialog_of(ArtDialog)
    assert dialog.carves.isChecked() and "60 × 40 px of 16 bit" in dialog.said.text()
    dialog.width_field.setFocus()
    dialog.width_field.selectAll()
    QTest.keyClicks(dialog.width_field, "6o")
    QTest.keyClick(dialog.width_field, Key.Key_Return)
    qtbot.waitUntil(lambda: not dialog.use.isEnabled(), timeout=20_000)
    assert not any(a.kind == "heights" for a in opened.document.job.artwork)
    dialog.width_field.selectAll()
    QTest.keyClicks(dialog.width_field, "24")
    QTest.keyClick(dialog.width_field, Key.Key_Return)
    qtbot.waitUntil(lambda: any(a.kind == "heights" for a in opened.document.job.artwork), timeout=20_000)
    art = next(a for a in opened.document.job.artwork if a.kind == "heights")
    assert (art.figures.width, art.figures.height, art.figures.black) == (24.0, 16.0, 6.0)
    told = planned(qtbot, opened)
    missing = next(f for f in told.report("carve").findings if f.code == "carve.relief-no-ball")
    opened.desk.slate.fix_wanted.emit(missing.fixes[0])
    told = planned(qtbot, opened)
    assert [op.tool.kind for op in told.carving.operations if op.kind == "relief"] == ["flat", "ball"]
    for _ in range(2):
        opened.act("undo")
    assert not any(a.kind == "heights" for a in opened.document.job.artwork)


def test_a_mesh_is_as_deep_as_its_width_makes_it_until_its_depth_is_typed(qtbot, opened, tmp_path):
    """20 wide and 8 deep of itself: 16 deep when it is 40 wide; typed, it stays."""
    path = tmp_path / "pyramid.stl"
    path.write_bytes(pyramid(False))
    opened.outlines.art.read(path)
    qtbot.waitUntil(lambda: dialog_of(ArtDialog) is not None and dialog_of(ArtDialog).use.isEnabled(), timeout=20_000)
    dialog = dialog_of(ArtDialog)

    def typed(field, words, wanted):
        field.selectAll()
        QTest.keyClicks(field, words)
        qtbot.waitUntil(
            lambda: (
                dialog._found is not None and (dialog._found.values["width"], dialog._found.values["black"]) == wanted
            ),
            timeout=20_000,
        )

    assert dialog.black_field.text() == "8" and dialog._found.values["width"] == pytest.approx(20.0)
    typed(dialog.width_field, "40", (40.0, pytest.approx(16.0)))
    assert dialog.black_field.text() == "16"
    typed(dialog.black_field, "5", (40.0, 5.0))
    typed(dialog.width_field, "30", (30.0, 5.0))
    dialog.reject()


def lettering_on_the_bed(qtbot, w):
    """The bed of the Carve page, and the key of its lettering there."""
    w.go("carve")
    w.presenter.choose_setup("front")
    planned(qtbot, w)
    drawn(qtbot, w)
    return w.desk.bed, next(s.key for s in w.desk.bed.drawing.shapes if s.key.startswith("lettering:"))


def test_lettering_is_sized_and_turned_by_its_handles_nudged_by_keys_and_stays_where_it_is_locked(qtbot, opened):
    w = opened
    bed, key = lettering_on_the_bed(qtbot, w)

    def letters():
        return next(a for a in w.document.job.artwork if a.kind == "lettering")

    def handle(name):
        drawn(qtbot, w)
        return bed.handles.places(bed.drawing.frames[key], bed.view())[name]

    def drag(start, end, let_go=True):
        QTest.mousePress(bed, Qt.MouseButton.LeftButton, pos=start.toPoint())
        for share in (0.3, 0.7, 1.0):
            QTest.mouseMove(bed, (start + (end - start) * share).toPoint())
        if let_go:
            QTest.mouseRelease(bed, Qt.MouseButton.LeftButton, pos=end.toPoint())

    bed.selected = key
    bed.setFocus()
    first = letters()
    corner, opposite = handle("2"), handle("0")
    to = opposite + (corner - opposite) * 0.8
    drag(corner, to, let_go=False)
    assert "×" in bed.handles.words("mm")
    QTest.keyClick(bed, Key.Key_Escape)  # no trace
    QTest.mouseRelease(bed, Qt.MouseButton.LeftButton, pos=to.toPoint())
    assert letters() == first and not w.document.dirty
    drag(handle("2"), to)
    smaller = letters()
    factor = smaller.figures.lines[0].height / first.figures.lines[0].height
    assert factor == pytest.approx(0.8, abs=0.02)
    planned(qtbot, w)
    moved = handle("2") - to
    assert abs(moved.x()) < 4 and abs(moved.y()) < 4, "the corner is where it was let go"
    knob, middle = handle("turn"), bed.view().to_screen(*bed.drawing.frames[key].middle)
    arm = knob - middle
    drag(knob, middle + QPointF(-arm.y(), arm.x()))
    assert letters().turn == -90.0
    QTest.keyClick(bed, Key.Key_Left, Qt.KeyboardModifier.AltModifier)
    assert letters().turn == -89.0
    before = letters()
    QTest.keyClick(bed, Key.Key_Right)
    assert letters().x == before.x + 1.0
    QTest.keyClick(bed, Key.Key_Up, Qt.KeyboardModifier.AltModifier)
    assert letters().figures.lines[0].height == pytest.approx(before.figures.lines[0].height * 1.01)
    QTest.keyClick(bed, Key.Key_L)
    assert letters().locked
    stays = letters()
    for press in (Key.Key_Right, Key.Key_M, Key.Key_X):
        QTest.keyClick(bed, press)
    assert letters() == stays
    QTest.keyClick(bed, Key.Key_L)
    QTest.keyClick(bed, Key.Key_F)
    planned(qtbot, w)
    assert not letters().locked and letters().figures.lines[0].height != stays.figures.lines[0].height
    while letters() != first:
        w.act("undo")
    QTest.keyClick(bed, Key.Key_D)
    assert len([a for a in w.document.job.artwork if a.kind == "lettering"]) == 2
    planned(qtbot, w)


def test_a_face_is_brought_in_by_its_file_and_said_to_be_none_where_it_is_none(qtbot, opened, tmp_path):
    from gatepost.core.carve.faces import face_path

    (tmp_path / "Towpath.ttf").write_bytes(face_path("Slab").read_bytes())
    opened.go("carve")
    planned(qtbot, opened)
    opened.dropped.take(tmp_path / "Towpath.ttf")
    line = next(a for a in opened.document.job.artwork if a.kind == "lettering").figures.lines[0]
    assert line.face == "Towpath" and (opened.context.data / "faces" / "Towpath.ttf").exists()
    opened.act("undo")
    job = opened.document.job
    (tmp_path / "Bad.otf").write_bytes(b"no face")
    opened.dropped.take(tmp_path / "Bad.otf")
    assert opened.document.job == job
    planned(qtbot, opened)


def test_words_are_typed_on_the_wood_with_caret_and_selection_and_letters_set_apart_by_hand(qtbot, opened):
    w = opened
    bed, key = lettering_on_the_bed(qtbot, w)
    bed.selected = key
    bed.setFocus()
    QTest.keyClick(bed, Key.Key_Return)
    assert bed.typing is not None
    QTest.keyClicks(bed, " 2")  # Space is typed, and no step is taken
    assert texts(w)[0] == "FENNICK WHARF 2"
    QTest.keyClick(bed, Key.Key_Left, SHIFT)
    QTest.keyClick(bed, Key.Key_Left, SHIFT)
    QTest.keyClicks(bed, "S")
    assert texts(w)[0] == "FENNICK WHARFS"
    QTest.keyClick(bed, Key.Key_Home)
    QTest.keyClick(bed, Key.Key_Delete)
    QTest.keyClicks(bed, "Z3")  # a digit is a letter here, and begins no figure
    assert texts(w)[0] == "Z3ENNICK WHARFS"
    QTest.keyClick(bed, Key.Key_Right, Qt.KeyboardModifier.AltModifier)
    letters = next(a for a in w.document.job.artwork if a.kind == "lettering").figures.lines[0]
    assert letters.kerns[1] == 0.01 and not any(letters.kerns[2:])
    QTest.keyClick(bed, Key.Key_Down)
    QTest.keyClick(bed, Key.Key_End)
    QTest.keyClick(bed, Key.Key_Backspace)
    assert texts(w) == ["Z3ENNICK WHARFS", "LOCK No "]
    QApplication.sendEvent(
        bed, QKeyEvent(QEvent.Type.KeyPress, 0, Qt.KeyboardModifier.NoModifier, "\u0416")
    )  # the face has no such letter: it is said, and nothing is lost
    assert texts(w)[1] == "LOCK No "
    planned(qtbot, w)
    drawn(qtbot, w)
    bed.grab()
    QTest.keyClick(bed, Key.Key_Escape)
    assert bed.typing is None and w.pages.currentWidget() is w.desk
    while texts(w) != ["FENNICK WHARF", "LOCK No 7"]:
        assert w.document.stack.canUndo()
        w.act("undo")
    line = bed.view().to_screen(*bed.drawing.frames[key].middle).toPoint()
    QTest.mouseDClick(bed, Qt.MouseButton.LeftButton, pos=line - QPoint(0, 6))
    assert bed.typing is not None
    QTest.mouseClick(bed, Qt.MouseButton.LeftButton, pos=QPoint(60, bed.height() - 14))
    assert bed.typing is None
    planned(qtbot, w)


def test_every_word_is_ticked_before_all_is_said_to_be_read(qtbot, opened):
    w = opened
    planned(qtbot, w)
    w.act("proof")
    dialog = w.lettering.designs.proof_dialog
    assert not dialog.done_.isEnabled() and len(dialog.ticks) == 2
    dialog.grab()
    dialog.ticks[0].click()
    assert not dialog.done_.isEnabled()
    dialog.ticks[1].click()
    dialog.done_.click()
    told = planned(qtbot, w).report("carve")
    assert next(f.value for f in told.figures if f.label == "Words read through") == "yes"
    w.act("undo")
    told = planned(qtbot, w).report("carve")
    assert next(f.value for f in told.figures if f.label == "Words read through") == "not yet"


def test_a_rival_design_is_kept_seen_and_taken_and_what_changed_is_listed(qtbot, opened, tmp_path):
    w = opened
    planned(qtbot, w)
    w.save_to(tmp_path / "board.gatepost")
    w.act("designs")
    qtbot.waitUntil(lambda: w.lettering.designs.dialog is not None, timeout=20_000)
    dialog = w.lettering.designs.dialog
    QTest.keyClicks(dialog.name, "Plain")
    QTest.keyClick(dialog.name, Key.Key_Return)
    assert w.document.job.design == "Plain" and list(dialog.pictures) == ["", "design-1"]
    w.context.run("set carving", {"margin": 21.0})
    qtbot.waitUntil(
        lambda: all("min of cutting" in x.text() or "Open it again" in x.text() for x in dialog.words.values()),
        timeout=60_000,
    )
    dialog.taken.emit("design-1")
    assert w.document.job.design == "First design" and w.document.job.carving.margin == 18.0
    dialog.taken.emit("design-1")
    assert w.document.job.design == "Plain" and w.document.job.carving.margin == 21.0
    qtbot.waitUntil(lambda: not dialog._waiting, timeout=60_000)
    dialog.accept()
    w.act("changes")
    shown = w.lettering.designs.changes_dialog
    words = [x.text() for x in shown.findChildren(QLabel)]
    assert any("margin to the edge 18 → 21 mm" in t or "margin to the edge 18 mm → 21 mm" in t for t in words)
    shown.accept()
    planned(qtbot, w)
