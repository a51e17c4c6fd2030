# SPDX-License-Identifier: GPL-3.0-or-later
"""The jobs to try that carve more than letters, opened, read, changed and looked at by keys alone."""

import pytest
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication
from shapely.geometry import Polygon

from gatepost.core.findings import Level
from gatepost.desk.dialogs.look import LookDialog
from gatepost.desk.dialogs.proof import ProofDialog
from gatepost.desk.dialogs.slot import SlotDialog
from gatepost.desk.slate.checks import Cell
from gatepost.desk.start.page import JobCard
from tests.desk.looking import CTRL, SHIFT, Key, Keys, planned


def began(qtbot, window, title):
    """A job to try, opened from the start page by Tab and Return."""
    keys = Keys(qtbot, window)
    for _ in range(40):
        focus = QApplication.focusWidget()
        if isinstance(focus, JobCard) and title in focus.accessibleName():
            break
        keys.press(Key.Key_Tab)
    else:
        raise AssertionError(f"no card “{title}”")
    keys.press(Key.Key_Return)
    qtbot.waitUntil(lambda: window.document is not None)
    planned(qtbot, window)
    return keys


def stops(window):
    return [f.message for f in window.presenter.plan.findings if f.level is Level.STOP]


def art(window, kind):
    return next(a for a in window.document.job.artwork if a.kind == kind)


def dialog_of(kind):
    return next((w for w in QApplication.topLevelWidgets() if isinstance(w, kind) and w.isVisible()), None)


def active(qtbot, window):
    """As a window manager makes the window under a dialog that is closed, which the offscreen platform has none of."""
    window.activateWindow()
    qtbot.waitUntil(lambda: QApplication.activeWindow() is window)


def taken_hold_of(window):
    """Whatever is drawn of artwork can be taken hold of where it is drawn, whatever the board lies on or in."""
    bed = window.desk.bed
    blocks = [s for s in bed.drawing.shapes if s.role == "block"]
    assert blocks and {b.key for b in blocks} <= set(bed.drawing.frames)
    for block in blocks:
        inside = Polygon(block.points, block.rings).representative_point()
        assert bed.key_at(bed.view().to_screen(inside.x, inside.y)) in bed.drawing.frames, block.key


def looked_at(qtbot, keys):
    """The sign as it will look, its light moved by the arrow keys, and put away again."""
    active(qtbot, keys.w)
    keys.press(Key.Key_K, CTRL | SHIFT)
    qtbot.waitUntil(
        lambda: (
            dialog_of(LookDialog) is not None
            and dialog_of(LookDialog).isActiveWindow()
            and dialog_of(LookDialog).view.image is not None
        ),
        timeout=30_000,
    )
    dialog = dialog_of(LookDialog)
    first = dialog.view.image.copy()
    dialog.view.setFocus()
    keys.press(Key.Key_Left)
    qtbot.waitUntil(lambda: dialog.view.image != first, timeout=10_000)
    keys.press(Key.Key_Escape)
    qtbot.waitUntil(lambda: dialog_of(LookDialog) is None)


def test_the_tea_room_sign_says_something_else_on_its_arc_and_every_word_is_read(qtbot, window):
    keys = began(qtbot, window, "Tea-room hanging sign")
    assert not stops(window)
    for stage in (1, 3, 4, 6, 7):
        keys.stage(stage)
        assert window.presenter.stage == ("blank", "surface", "hold", "zero", "register", "carve", "tools")[stage - 1]
    keys.stage(6)
    lines = art(window, "lettering").figures.lines
    arc = next(line for line in lines if line.run != "straight")
    keys.type("Text", "WEIR ROOM", lines.index(arc))
    planned(qtbot, window)
    now = next(line for line in art(window, "lettering").figures.lines if line.id == arc.id)
    assert (now.text, now.run, now.radius) == ("WEIR ROOM", arc.run, arc.radius)
    keys.press(Key.Key_Y, CTRL | SHIFT)
    qtbot.waitUntil(lambda: dialog_of(ProofDialog) is not None and dialog_of(ProofDialog).isActiveWindow())
    keys.press(Key.Key_Escape)
    qtbot.waitUntil(lambda: dialog_of(ProofDialog) is None)
    active(qtbot, window)
    assert "paint that is left" in window.desk.bed.drawing.subtitle
    keys.press(Key.Key_Z, CTRL)
    qtbot.waitUntil(lambda: art(window, "lettering").figures.lines == lines)
    looked_at(qtbot, keys)


def test_the_water_lily_is_moved_and_turned_by_figures_and_put_back(qtbot, window):
    keys = began(qtbot, window, "Lock 7 with a water-lily")
    keys.stage(6)
    planned(qtbot, window)
    taken_hold_of(window)
    lily = art(window, "drawing")
    place = "Middle, from the left edge"
    number = next(
        i
        for i, o in enumerate(o for o in window.document.job.setups[-1].operations if o.kind == "vcut")
        if lily.id in o.on
    )
    keys.type(place, f"{lily.x - 2:g}", number)
    keys.type("Turned left by", "4", number)
    planned(qtbot, window)
    moved = art(window, "drawing")
    assert moved.x == pytest.approx(lily.x - 2) and moved.turn == pytest.approx(4.0)
    assert "carve.cut-twice" not in {f.code for f in window.presenter.plan.findings}
    while art(window, "drawing") != lily:
        assert window.document.stack.canUndo()
        keys.press(Key.Key_Z, CTRL)
    looked_at(qtbot, keys)


def test_the_raised_milepost_is_sunk_deeper_and_its_figure_typed_over(qtbot, window):
    keys = began(qtbot, window, "Raised milepost")
    assert not stops(window)
    keys.stage(6)
    planned(qtbot, window)
    taken_hold_of(window)
    keys.type("Text", "12", 0)
    keys.type("Depth", "2,5")
    planned(qtbot, window)
    ground = next(o for s in window.document.job.setups for o in s.operations if o.kind == "ground")
    assert ground.figures.depth == 2.5 and art(window, "lettering").figures.lines[0].text == "12"
    assert not stops(window)
    looked_at(qtbot, keys)


def test_the_heron_is_planned_with_its_progress_and_a_figure_changes_it(qtbot, window):
    keys = began(qtbot, window, "Heron panel")
    assert not stops(window)
    keys.stage(6)
    before = [p.fingerprint for s in window.presenter.plan.setups for p in s.programs]
    keys.type("Rows apart", "9")
    told = planned(qtbot, window)
    gouge = next(o for s in window.document.job.setups for o in s.operations if o.kind == "gouge")
    assert gouge.figures.apart == 9.0 and [p.fingerprint for s in told.setups for p in s.programs] != before
    QTest.keyClick(QApplication.focusWidget(), Key.Key_Z, CTRL)
    qtbot.waitUntil(
        lambda: (
            next(o for s in window.document.job.setups for o in s.operations if o.kind == "gouge").figures.apart != 9.0
        )
    )


def registering(qtbot, window, title, setup):
    """A job to try that is registered, opened by keys, on its Register page with a setup looked at."""
    keys = began(qtbot, window, title)
    assert not stops(window)
    keys.stage(5)
    for _ in window.document.job.setups:
        if window.presenter.setup == setup:
            break
        keys.press(Key.Key_F6)
        planned(qtbot, window)
    assert (window.presenter.stage, window.presenter.setup) == ("register", setup)
    return keys


def put_back(qtbot, window, keys, job):
    """Undone, step by step, until it is the job that it was."""
    while window.document.job != job:
        assert window.document.stack.canUndo()
        keys.press(Key.Key_Z, CTRL)
    return planned(qtbot, window)


def test_both_sides_of_the_tea_room_sign_lie_on_pins_instead_and_in_their_frame_again(qtbot, window):
    """The slot that was measured on a test piece, wider; then two pins in the frame's place."""
    keys = registering(qtbot, window, "Tea-room sign, both sides", "back")
    was = window.document.job
    keys.push("Measure the test piece…")
    qtbot.waitUntil(lambda: dialog_of(SlotDialog) is not None)
    measuring = dialog_of(SlotDialog)
    for field, words in zip(measuring.fields, ("52,2", "40")):
        assert not measuring.use.isEnabled()
        field.setFocus()
        QTest.keyClicks(field, words)
    assert "6.1" in measuring.words.text()
    QTest.keyClick(measuring.use, Key.Key_Space)
    active(qtbot, window)
    told = planned(qtbot, window)
    assert window.document.job.setup("back").comes.slot == pytest.approx(6.1)
    play = next(f.value for f in told.report("register").figures if f.label == "Play in its frame")
    assert play == pytest.approx(2 * (6.1 - 5.98)) and any(f.code == "register.nest-tabs-stand" for f in told.findings)
    keys.push("Two pins on the line it turns about")
    told = planned(qtbot, window)
    assert len(told.setup("back").pins) == 2
    said = {f.code for f in told.findings if f.setup == "back"}
    assert "register.pins-ways" in said and not any("nest" in code for code in said)
    back = put_back(qtbot, window, keys, was)
    assert back.setup("back").nest is not None and not stops(window)


def test_the_bench_rail_is_laid_by_a_mark_more_and_good_to_less_is_asked_of_it(qtbot, window):
    keys = registering(qtbot, window, "Towpath bench rail", "front")
    was = window.document.job
    before = len(was.setup("front").comes.marks)
    sure = next(
        f.value for f in window.presenter.plan.report("register").figures if f.label == "By its marks, at worst"
    )
    keys.push("Add a mark")
    planned(qtbot, window)
    mark = window.document.job.setup("front").comes.marks[-1]
    assert len(window.document.job.setup("front").comes.marks) == before + 1
    keys.type(f"{mark.title}: X", "430")
    keys.type(f"{mark.title}: Y", "60")
    assert (
        window.document.job.setup("front").comes.marks[-1].x,
        window.document.job.setup("front").comes.marks[-1].y,
    ) == (430, 60)
    keys.type("A look is good to", "0.3")
    told = planned(qtbot, window)
    assert next(f.value for f in told.report("register").figures if f.label == "By its marks, at worst") > sure
    put_back(qtbot, window, keys, was)
    assert not stops(window)


def test_a_face_of_the_milepost_says_another_name_and_is_said_to_be_turned_where_it_is_not(qtbot, window):
    keys = registering(qtbot, window, "Four-faced milepost", "east")
    window.desk.slate.turn("judged")
    cells = [c for c in window.findChildren(Cell) if c.isVisible()]
    qtbot.waitUntil(lambda: all(c.height() >= c.heightForWidth(c.width()) for c in cells if c.wordWrap()))
    assert any(c.wordWrap() and c.height() > 1.5 * c.fontMetrics().height() for c in cells)
    assert "read towards" in {c.text() for c in cells}
    was = window.document.job
    keys.choose("Comes from the setup before", "as it lies")
    told = planned(qtbot, window)
    assert any(f.code == "register.not-as-it-lies" and f.setup == "east" for f in told.findings)
    put_back(qtbot, window, keys, was)
    keys.stage(6)
    planned(qtbot, window)
    keys.type("Text", "WEIR", 0)
    planned(qtbot, window)
    changed = [a.id for a, b in zip(window.document.job.artwork, was.artwork) if a != b]
    assert len(changed) == 1 and not stops(window)
    put_back(qtbot, window, keys, was)
