# SPDX-License-Identifier: GPL-3.0-or-later
"""Blank and Surface in the real window: photo, outline, passes, ledger, probing, batch, the second face."""

import make_slab
import pytest
import shapely
from PyQt6.QtCore import QPoint, QPointF, Qt
from PyQt6.QtGui import QMouseEvent, QWheelEvent
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication

from gatepost.core.blank.shape import polygon
from gatepost.core.job.file import load
from gatepost.core.tolerances import MOST_CORNERS
from gatepost.desk.dialogs import questions
from tests.conftest import EXAMPLES
from tests.desk.looking import CTRL, SHIFT, Key, Keys, drawn, planned


def opened(qtbot, window, name="lock-7-name-board"):
    assert window.open_path(EXAMPLES / f"{name}.gatepost")
    planned(qtbot, window)
    qtbot.waitUntil(lambda: not window.presenter.plan.coarse, timeout=30_000)
    return window


def closed(qtbot, window):
    """A dialog is gone: keys go to the window again."""
    with qtbot.waitActive(window):
        window.activateWindow()
    window.desk.fence.setFocus()


def click(view, place):
    at = view._to_screen(place)
    for kind, buttons in (
        (QMouseEvent.Type.MouseButtonPress, Qt.MouseButton.LeftButton),
        (QMouseEvent.Type.MouseButtonRelease, Qt.MouseButton.NoButton),
    ):
        event = QMouseEvent(
            kind, at, view.mapToGlobal(at), Qt.MouseButton.LeftButton, buttons, Qt.KeyboardModifier.NoModifier
        )
        QApplication.sendEvent(view, event)


def test_a_board_comes_out_of_its_photo_and_is_mended_by_hand_and_undone(qtbot, window, tmp_path):
    said = []
    window.messages.told.connect(lambda words, stays: said.append(words))
    keys = Keys(qtbot, window)
    keys.press(Key.Key_N, CTRL)
    planned(qtbot, window)
    before = window.document.job
    (tmp_path / "words.jpg").write_text("no picture")
    window.outlines.read_photo(tmp_path / "words.jpg")
    qtbot.waitUntil(lambda: any("can't be read" in s for s in said), timeout=20_000)
    window.outlines.read_photo(EXAMPLES / "lock-7-slab.jpg")
    qtbot.waitUntil(lambda: window.outlines.photo_dialog is not None, timeout=20_000)
    dialog = window.outlines.photo_dialog
    view = dialog.view
    assert not dialog.trace_key.isEnabled() and "front left" in dialog.hint.text()
    for mark in reversed(make_slab.marks()):
        click(view, mark)
    for key, words in (("across", "1000"), ("up", "420"), ("above", "33.8"), ("lens", "1480 mm")):
        dialog.fields[key].setText(words)
    dialog.trace()
    qtbot.waitUntil(lambda: "clockwise" in dialog.words.text(), timeout=20_000)  # a sentence, and the marks still stand
    assert len(view.marks) == 4 and dialog.result_ is None
    for i, mark in enumerate(make_slab.marks()):
        view.put(i, mark)
    view.chosen, was = 2, view.marks[2]
    QTest.keyClick(view, Key.Key_Right)
    QTest.keyClick(view, Key.Key_Left)
    assert view.marks[2] == was
    dialog.trace()
    qtbot.waitUntil(lambda: dialog.result_ is not None, timeout=20_000)
    blank = window.document.job.blank
    QTest.keyClick(dialog.use_key, Key.Key_Space)
    assert "No length was checked" in dialog.words.text() and window.document.job.blank == blank  # asked for once
    QTest.keyClick(dialog.use_key, Key.Key_Space)
    blank = window.document.job.blank
    true = shapely.Polygon(make_slab.outline())
    found = polygon(blank)
    assert (
        found.symmetric_difference(shapely.affinity.translate(true, *[-v for v in true.bounds[:2]])).area
        < 0.02 * true.area
    )
    assert 1.0 < blank.doubt < 6.0 and set(window.document.pictures) >= {blank.photo.file, blank.photo.squared}
    planned(qtbot, window)
    drawn(qtbot, window)
    assert any(s.picture for s in window.desk.bed.drawing.shapes)
    # a corner is dragged on the bed, another added and taken away by commands, and all is undone
    key = next(k for k in list(window.desk.bed.keys()) if k.startswith("corner:"))
    window.build().hands.moved_on_bed(key, 4.0, 3.0, True)
    assert window.document.job.blank.outline != blank.outline and window.document.job.blank.photo is not None
    path = tmp_path / "slab.gatepost"
    window.document.save(path)
    again = load(path)
    assert (
        again.job == window.document.job
        and again.pictures[blank.photo.squared] == window.document.pictures[blank.photo.squared]
    )
    closed(qtbot, window)
    for _ in range(2):
        keys.press(Key.Key_Z, CTRL)
    assert window.document.job == before and len(blank.outline) <= MOST_CORNERS


def test_an_outline_out_of_a_drawing_and_one_that_is_none(qtbot, window, tmp_path):
    said = []
    window.messages.told.connect(lambda words, stays: said.append(words))
    opened(qtbot, window, "quay-plate")
    good, bad = tmp_path / "a.svg", tmp_path / "b.svg"
    good.write_text(
        '<svg xmlns="http://www.w3.org/2000/svg" width="300mm" viewBox="0 0 300 200"><ellipse cx="150" cy="90" rx="140" ry="80"/></svg>'
    )
    bad.write_text('<svg xmlns="http://www.w3.org/2000/svg"><path d="M0 0 L9 9"/></svg>')
    before = window.document.job
    window.outlines.read_outline(bad)
    qtbot.waitUntil(lambda: any("no closed line" in s for s in said), timeout=20_000)
    assert window.document.job == before
    window.outlines.read_outline(good)
    qtbot.waitUntil(lambda: window.document.job != before, timeout=20_000)
    blank = window.document.job.blank
    assert (round(blank.length, 1), round(blank.width, 1)) == (280.0, 160.0) and blank.shape == "outline"
    assert any('11.02"' in s or "11" in s for s in said)  # told in the job's own unit


def test_passes_are_slid_through_and_stopped_early(qtbot, window):
    opened(qtbot, window)
    keys = Keys(qtbot, window)
    keys.stage(2)
    drawn(qtbot, window)
    desk, passes = window.desk, window.presenter.plan.setup("surface").passes
    assert desk.scrub.maximum() == len(passes) == 3
    keys.press(Key.Key_Right, CTRL)
    keys.press(Key.Key_Right, CTRL)
    drawn(qtbot, window)
    assert (
        f"{100 * passes[1].clean:.0f} % clean" in desk.scrub_words.text()
        and "after pass 2" in desk.bed.drawing.subtitle
    )
    assert desk.stop_here.isVisible()
    desk.stop_here.click()
    plan = planned(qtbot, window)
    assert window.document.job.surfacing.stop_after == 2 and len(plan.surfaced.lines) == 2
    assert any(f.code == "surface.rough" for f in plan.findings)
    keys.press(Key.Key_Z, CTRL)
    assert window.document.job.surfacing.stop_after == 0


def test_the_ledger_leads_from_pass_to_pass_asks_about_a_double_and_goes_deeper(qtbot, window, tmp_path):
    opened(qtbot, window)
    keys = Keys(qtbot, window)
    keys.press(Key.Key_G, CTRL)
    dialog = window.build().ledger.dialog
    assert "No figure of this bit" in dialog.next.text()

    def enter(key, words):
        dialog.fields[key].setText(words)
        QTest.keyClick(dialog.fields[key], Key.Key_Return)

    enter("pass", "1")
    assert "not set" in dialog.question.text()
    enter("touch", "-62")
    enter("zero", "-62")
    enter("pass", "0.6")
    assert [e.kind for e in window.document.journal.entries] == ["ledger touched", "ledger zero", "ledger pass"]
    assert "Jog to Z" in dialog.next.text()
    enter("pass", "0.6")
    assert "cut air" in dialog.question.text() and len(window.document.journal.entries) == 3
    QTest.keyClick(dialog.again, Key.Key_Space)
    assert len(window.document.journal.entries) == 4 and "(questioned)" in dialog.lines.toPlainText()
    QTest.keyClick(dialog.undo_key, Key.Key_Space)
    assert window.document.journal.entries[-1].kind == "corrected"
    assert window.build().ledger.write_left(window.presenter.plan, tmp_path / "left.nc")
    text = (tmp_path / "left.nc").read_text()
    assert "ONLY WHAT IS LEFT: 2 of 3 passes" in text
    before = window.presenter.plan.surfaced.plane
    enter("deeper", "0.5")
    plan = planned(qtbot, window)
    assert plan.surfaced.plane == before - 0.5
    dialog.reject()


def test_the_machine_probes_the_top_and_undo_brings_the_old_heights_back(qtbot, window):
    opened(qtbot, window)
    window.operator.speed = "max"
    keys = Keys(qtbot, window)
    keys.press(Key.Key_J, CTRL)
    assert (
        not window.build().probing.dialog.go.isEnabled()
        and "Link a machine" in window.build().probing.dialog.words.text()
    )
    window.build().probing.dialog.reject()
    closed(qtbot, window)
    keys.press(Key.Key_M, CTRL)
    qtbot.waitUntil(lambda: window.operator.state == "ready", timeout=30_000)
    keys.press(Key.Key_J, CTRL)
    dialog, before = window.build().probing.dialog, window.document.job
    dialog.spacing.setText("150")
    count = len(dialog.where.spots)
    QTest.keyPress(dialog, Key.Key_Return)
    QTest.keyRelease(dialog, Key.Key_Return)
    assert not dialog.busy  # let go before the second was over
    QTest.keyPress(dialog, Key.Key_Return)
    qtbot.waitUntil(lambda: dialog.busy, timeout=5_000)
    QTest.keyRelease(dialog, Key.Key_Return)
    qtbot.waitUntil(lambda: not dialog.busy, timeout=60_000)
    assert f"{count} heights" in dialog.words.text() and len(window.document.job.blank.heights) == count
    assert window.document.journal.entries[-1].kind == "probed"
    probed = window.document.job
    dialog.spacing.setText("40")
    planned(qtbot, window)
    QTest.keyPress(dialog, Key.Key_Return)
    qtbot.waitUntil(lambda: dialog.busy, timeout=5_000)
    qtbot.waitUntil(lambda: dialog.bar.value() > 1, timeout=20_000)
    QTest.keyRelease(dialog, Key.Key_Return)
    QTest.keyClick(dialog, Key.Key_Escape)
    qtbot.waitUntil(lambda: not dialog.busy, timeout=20_000)
    assert "topped" in dialog.words.text() and window.document.job == probed and window.operator.state == "ready"
    dialog.reject()
    closed(qtbot, window)
    keys.press(Key.Key_Z, CTRL)
    assert window.document.job == before


def test_pieces_are_pasted_and_grouped_and_the_other_face_is_asked_for(qtbot, window):
    said = []
    window.messages.told.connect(lambda words, stays: said.append(words))
    opened(qtbot, window)
    clipboard = QApplication.clipboard()
    clipboard.setText("what is this")
    keys = Keys(qtbot, window)
    keys.press(Key.Key_B, CTRL | SHIFT)
    assert window.document.job.blank.batch is None and "clipboard" in said[-1]
    clipboard.setText("name\tlength\twidth\tthickness\na\t100\t50\t12\nb\t101\t50\t12,4\n")
    keys.press(Key.Key_B, CTRL | SHIFT)
    assert [p.thickness for p in window.document.job.blank.batch.pieces] == [12.0, 12.4]
    keys.stage(2)
    keys.push("Surface it too, turned about X")
    plan = planned(qtbot, window)
    assert [s.name for s in plan.setups] == ["surface", "back", "front"] and window.desk.setups.buttons[
        "back"
    ].isVisibleTo(window)
    keys.press(Key.Key_F6)
    assert window.presenter.setup == "back"
    keys.push("Only one face")
    assert [s.name for s in planned(qtbot, window).setups] == ["surface", "front"]
    assert window.presenter.setup in ("surface", "front")


def test_a_line_dragged_any_way_across_the_bed_is_a_profile(qtbot, window):
    opened(qtbot, window)
    window.go("surface")
    drawn(qtbot, window)
    bed, setup = window.desk.bed, window.presenter.plan.setup("surface")
    view = bed.view()
    s = setup.setup

    def drag(x0, y0, x1, y1):
        a, b = (view.to_screen(x, y).toPoint() for x, y in ((x0, y0), (x1, y1)))
        QTest.mousePress(bed, Qt.MouseButton.LeftButton, pos=a)
        QTest.mouseMove(bed, b)
        QTest.mouseRelease(bed, Qt.MouseButton.LeftButton, pos=b)

    drag(60.0, 40.0, 1150.0, 640.0)
    assert window.context.showing.slant is not None and "along a line" in window.desk.heights.drawing.subtitle
    wood = next(q for q in window.desk.heights.drawing.shapes if q.role == "wood")
    x0, y0, x1, y1 = window.context.showing.slant
    for share in (0.35, 0.5, 0.65):
        x, y = x0 + share * (x1 - x0), y0 + share * (y1 - y0)
        at = share * ((x1 - x0) ** 2 + (y1 - y0) ** 2) ** 0.5
        top = wood.points[abs(wood.points[:, 0] - at) < 3.0, 1].max()
        assert abs(top - setup.start.at(x - s.x, y - s.y)) < 0.05
    drag(60.0, 60.0, 1100.0, 62.0)
    assert window.context.showing.slant is None and window.context.showing.line_y is not None


# -- units, corners and stations from tables ------------------------------------------------------------------------

STATIONS = "x,front,back\n0,0,8.2\n8,0.4,8.0\n24,0.1,8.4\n"


@pytest.mark.parametrize(("answer", "long"), [(1, 609.6), (0, 24.0), (-1, None)], ids=["inches", "mm", "neither"])
def test_a_table_that_says_no_unit_is_asked_about_once_and_taken_as_answered(qtbot, window, monkeypatch, answer, long):
    asked = []
    monkeypatch.setattr(questions, "ask_which", lambda parent, words, ways: asked.append((words, ways)) or answer)
    opened(qtbot, window, "sixteen-mileposts")
    before = window.document.job
    window.tables.read_corners(STATIONS, "st.csv")
    ((words, ways),) = asked
    assert "does not say its unit" in words and len(ways) == 2
    if long is None:
        assert window.document.job.blank == before.blank
        return
    assert window.document.job.blank.shape == "outline" and abs(window.document.job.blank.across[0] - long) < 1e-6
    window.document.stack.undo()
    assert window.document.job.blank == before.blank


def test_a_table_that_says_its_unit_is_not_asked_about(qtbot, window, monkeypatch):
    monkeypatch.setattr(questions, "ask_which", lambda *_: 1 / 0)
    opened(qtbot, window, "sixteen-mileposts")
    window.tables.read_corners(STATIONS.replace("x,front,back", "x (in),front (in),back (in)"), "st.csv")
    assert abs(window.document.job.blank.across[0] - 609.6) < 1e-6
    window.tables.read_pieces("a,312 mm,90 mm,14 mm\nb,311.5 mm,90 mm,14.2 mm", "The clipboard")
    assert [p.length for p in window.document.job.blank.batch.pieces] == [312.0, 311.5]


def test_what_is_not_set_is_empty_and_can_be_emptied_again(qtbot, window):
    """A witness mark that nobody chose is not at 0, 0."""
    opened(qtbot, window, "sixteen-mileposts")
    keys = Keys(qtbot, window)
    keys.stage(4)

    def zero():
        return window.document.job.setup("front").zero

    assert zero().witness_x is None and keys.field("Witness mark X").text() == ""
    for typed, is_ in (("12.5", 12.5), ("", None)):
        field = keys.field("Witness mark X")
        field.selectAll()
        QTest.keyClick(field, Key.Key_Delete)
        QTest.keyClicks(field, typed)
        QTest.keyClick(field, Key.Key_Return)
        assert zero().witness_x == is_ and zero().witness_y is None


def test_the_wheel_over_a_closed_list_scrolls_the_page_and_changes_nothing(qtbot, window):
    opened(qtbot, window, "sixteen-mileposts")
    keys = Keys(qtbot, window)
    keys.stage(1)
    box, before = keys.field("Good face"), window.document.job
    at = QPointF(box.rect().center())
    for down in (-120, 120):
        event = QWheelEvent(
            at, QPointF(box.mapToGlobal(box.rect().center())), QPoint(), QPoint(0, down), Qt.MouseButton.NoButton,
            Qt.KeyboardModifier.NoModifier, Qt.ScrollPhase.NoScrollPhase, False,
        )  # fmt: skip
        box.wheelEvent(event)
        assert not event.isAccepted() and window.document.job == before and box.currentText() == "either"
