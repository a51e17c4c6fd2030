# SPDX-License-Identifier: GPL-3.0-or-later
"""Figures typed where they belong, on the bed; the bed larger, smaller and moved; what a right click offers."""

import pytest
from hypothesis import given
from hypothesis import strategies as st
from PyQt6.QtCore import QPoint, QPointF, QRectF, Qt
from PyQt6.QtGui import QWheelEvent
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication

from gatepost.core.blank.places import measuring_places
from gatepost.desk.dialogs.find import found
from gatepost.desk.view.camera import Camera
from gatepost.drawing.shapes import Drawing, box
from tests.desk.looking import Key, drawn, planned


@pytest.fixture
def new(qtbot, window):
    """A new job, planned, with nothing typed on the bed yet."""
    window.act("new")
    planned(qtbot, window)
    window.desk.fence.setFocus()
    return window


def field(w):
    return w.build().measuring.field


def readings(w):
    return [(r.x, r.y, r.thickness) for r in w.document.job.blank.calipers]


def test_a_new_job_begins_with_its_name_and_readings_go_where_they_are_marked(qtbot, window):
    window.act("new")
    assert QApplication.focusWidget().accessibleName() == "Job"
    planned(qtbot, window)
    window.act("measure")
    places = []
    for figure in ("21.4", "21.6", "3/4 in"):
        places.append(window.build().measuring.place)
        QTest.keyClicks(field(window), figure)
        assert window.desk.next.button.text() == f"Take {figure}" and not [
            r for r in readings(window) if r[2] == figure
        ]
        QTest.keyClick(field(window), Key.Key_Return)
    assert readings(window) == [(p.x, p.y, t) for p, t in zip(places, (21.4, 21.6, 19.05))]
    assert [p.number for p in places] == [1, 2, 3]
    for _ in range(3):
        window.document.stack.undo()
    assert not readings(window)


def test_tab_goes_round_without_a_figure_and_escape_leaves_nothing(qtbot, new):
    new.act("measure")
    numbers = []
    for _ in range(7):
        numbers.append(new.build().measuring.place.number)
        QTest.keyClick(field(new), Key.Key_Tab)
    assert numbers == [1, 2, 3, 4, 5, 6, 1]
    QTest.keyClick(field(new), Key.Key_Backtab)
    QTest.keyClicks(field(new), "21.")
    QTest.keyClick(field(new), Key.Key_Escape)  # clears
    assert field(new).isVisible() and field(new).text() == ""
    QTest.keyClick(field(new), Key.Key_Escape)  # leaves
    assert not field(new).isVisible() and QApplication.focusWidget() is new.desk.fence and not readings(new)


def test_tab_takes_what_is_typed_as_in_any_field_and_stays_where_it_can_t_be_read(qtbot, new):
    new.act("measure")
    for text in ("21.4", "21.6"):
        QTest.keyClicks(field(new), text)
        QTest.keyClick(field(new), Key.Key_Tab)
    assert [r[2] for r in readings(new)] == [21.4, 21.6] and new.build().measuring.place.number == 3
    QTest.keyClicks(field(new), "21..")
    QTest.keyClick(field(new), Key.Key_Tab)
    assert new.build().measuring.place.number == 3 and field(new).text() == "21.." and len(readings(new)) == 2
    field(new).setText("21.5")
    QTest.keyClick(field(new), Key.Key_Backtab)  # back: to the place before that is free
    assert [r[2] for r in readings(new)] == [21.4, 21.6, 21.5] and new.build().measuring.place.number == 6
    assert field(new).text() == ""


def test_what_is_half_typed_or_no_length_is_never_taken(qtbot, new):
    said = []
    new.messages.told.connect(lambda words, stays: said.append(words))
    new.act("measure")
    QTest.keyClicks(field(new), "21.4.4")
    QTest.keyClick(field(new), Key.Key_Return)
    assert not readings(new) and said and field(new).isVisible()
    QTest.keyClick(field(new), Key.Key_Delete)
    QTest.keyClicks(field(new), "21..")
    new.go("carve")  # another page: it is left, and told
    new.go("blank")
    assert not readings(new) and not field(new).isVisible() and len(said) == 2


def on_bed(w, x, y):
    """A place of the board, on the screen."""
    return w.desk.bed.view().to_screen(*w.context.showing.planned_setup().at(x, y)).toPoint()


@pytest.mark.parametrize("what", ["caliper", "height", "gap"])
def test_by_mouse_alone_each_figure_is_taken_where_it_was_typed(qtbot, new, what):
    """Typed, and then a click on another place, on bare bed, on another page: as any field that is left."""
    drawn(qtbot, new)
    act = {"caliper": "measure", "height": "measure_heights", "gap": "measure_gaps"}[what]
    new.act(act)
    drawn(qtbot, new)
    measuring = new.build().measuring
    wanted, left = [], Qt.MouseButton.LeftButton
    for number, figure in ((3, "1.3"), (4, "1.4"), (1, "1.1")):
        place = next(p for p in measuring_places(new.document.job.blank, what) if p.number == number)
        QTest.mouseClick(new.desk.bed, left, pos=on_bed(new, place.x, place.y))
        assert (measuring.what, measuring.place.number, field(new).text()) == (what, number, "")
        QTest.keyClicks(field(new), figure)
        QTest.mouseClick(
            new.desk.bed, left, pos=on_bed(new, place.x, place.y)
        )  # once more: it is the one that is typed
        assert field(new).text() == figure
        wanted.append((place.x, place.y, float(figure)))
    QTest.mouseClick(new.desk.bed, left, pos=on_bed(new, -60.0, -60.0))  # bare bed
    assert not field(new).isVisible()
    new.act(act)
    place = measuring.place
    QTest.keyClicks(field(new), "1.9")
    new.go("carve")
    wanted.append((place.x, place.y, 1.9))
    blank = new.document.job.blank
    rows = {"caliper": blank.calipers, "height": blank.heights, "gap": blank.under}[what]
    value = "thickness" if what == "caliper" else "z"
    assert [(r.x, r.y, getattr(r, value)) for r in rows] == wanted


def test_what_can_t_be_read_holds_the_place_and_what_is_typed(qtbot, new):
    drawn(qtbot, new)
    new.act("measure")
    first, other = new.build().measuring.place, measuring_places(new.document.job.blank, "caliper")[3]
    QTest.keyClicks(field(new), "17.9o")
    QTest.mouseClick(new.desk.bed, Qt.MouseButton.LeftButton, pos=on_bed(new, other.x, other.y))
    assert new.build().measuring.place == first and field(new).text() == "17.9o" and field(new).hasFocus()
    new.desk.slate.turn("entered")
    length = next(f for f in new.desk.slate.fields() if f.accessibleName() == "Length")
    QTest.mouseClick(length, Qt.MouseButton.LeftButton)
    assert field(new).isVisible() and field(new).text() == "17.9o"  # told, and not thrown away
    assert not readings(new)


def test_a_figure_begun_on_the_fence_or_the_bed_goes_to_the_next_place(qtbot, new):
    for part in (new.desk.fence, new.desk.bed):
        part.setFocus()
        QTest.keyClick(part, Key.Key_2)
        assert field(new).isVisible() and field(new).text() == "2"
        QTest.keyClicks(field(new), "1.5")
        QTest.keyClick(field(new), Key.Key_Return)
        QTest.keyClick(field(new), Key.Key_Escape)
        planned(qtbot, new)
    assert [t for _, _, t in readings(new)] == [21.5, 21.5]


def test_a_click_marks_a_place_of_its_own_and_a_reading_is_typed_anew(qtbot, new):
    drawn(qtbot, new)
    bed, setup = new.desk.bed, new.context.showing.planned_setup()
    at = bed.view().to_screen(*setup.at(300.0, 120.0)).toPoint()
    QTest.mouseClick(bed, Qt.MouseButton.LeftButton, pos=at)
    QTest.keyClicks(field(new), "22.2")
    QTest.keyClick(field(new), Key.Key_Return)
    ((x, y, thick),) = readings(new)
    assert (x, y) == pytest.approx((300.0, 120.0), abs=1.5) and thick == 22.2
    QTest.keyClick(field(new), Key.Key_Escape)
    planned(qtbot, new)
    drawn(qtbot, new)
    figure = next(s for s in bed.drawing.shapes if s.role == "reading-text" and s.text == "22.2")
    for place in (setup.at(x, y), figure.points[0]):  # the reading, or its figure beside it
        QTest.mouseClick(bed, Qt.MouseButton.LeftButton, pos=bed.view().to_screen(*place).toPoint())
        assert field(new).text() == "22.2" and field(new).selectedText() == "22.2"
        QTest.keyClick(field(new), Key.Key_Escape)
        QTest.keyClick(field(new), Key.Key_Escape)
    QTest.mouseClick(bed, Qt.MouseButton.LeftButton, pos=bed.view().to_screen(*setup.at(x, y)).toPoint())
    QTest.keyClicks(field(new), "22.4")
    QTest.keyClick(field(new), Key.Key_Return)
    assert readings(new) == [(x, y, 22.4)]


def wheel(widget, at, turn):
    event = QWheelEvent(
        QPointF(at), QPointF(widget.mapToGlobal(at)), QPoint(), QPoint(0, turn), Qt.MouseButton.NoButton,
        Qt.KeyboardModifier.NoModifier, Qt.ScrollPhase.NoScrollPhase, False,
    )  # fmt: skip
    QApplication.sendEvent(widget, event)


def test_the_wheel_zooms_at_the_pointer_and_shift_moves_what_is_seen(qtbot, opened):
    bed = opened.desk.bed
    at = QPoint(260, 170)
    before = bed.view()
    under = before.to_mm(QPointF(at))
    wheel(bed, at, 360)
    after = bed.view()
    assert after.scale_x > 1.3 * before.scale_x and after.to_mm(QPointF(at)) == pytest.approx(under, abs=0.5)
    job = opened.document.job
    QTest.mousePress(bed, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.ShiftModifier, at)
    QTest.mouseMove(bed, at + QPoint(40, -25))
    QTest.mouseRelease(bed, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.ShiftModifier, at + QPoint(40, -25))
    assert bed.view().to_mm(QPointF(at + QPoint(40, -25))) == pytest.approx(under, abs=0.5)
    assert opened.document.job is job
    opened.act("near")  # back to what it was
    assert bed.view().scale_x == pytest.approx(before.scale_x)


EXTENTS = (-20.0, -20.0, 1220.0, 720.0)


@given(
    st.floats(0, 900), st.floats(0, 500), st.floats(80, 900), st.floats(60, 500),
    st.lists(st.tuples(st.floats(0.4, 2.5), st.floats(10, 700), st.floats(10, 400)), max_size=6),
)  # fmt: skip
def test_zooming_keeps_what_is_under_the_pointer(x, y, wide, tall, turns):
    drawing = Drawing((box(0, 0, 1, 1, "bed"),), EXTENTS, close=(x, y, x + wide, y + tall))
    camera, room = Camera(), QRectF(46, 46, 660, 380)
    for times, u, v in turns:
        under = camera.view(drawing, room, False).to_mm(QPointF(u, v))
        camera.zoom(times, QPointF(u, v), drawing, room, False)
        assert camera.view(drawing, room, False).to_mm(QPointF(u, v)) == pytest.approx(under, abs=1e-6)
    assert camera.moved == bool(turns)
    camera.other()
    assert not camera.moved


@given(st.floats(-15, 15), st.floats(-15, 15))
def test_the_bed_keeps_its_scale_while_what_it_shows_has_room(dx, dy):
    camera, room = Camera(), QRectF(46, 46, 660, 380)
    first = Drawing((), EXTENTS, close=(100, 100, 1000, 500))
    scale = camera.view(first, room, False).scale_x
    smaller = Drawing((), EXTENTS, close=(120 + dx, 120 + dy, 980 + dx, 480 + dy))
    assert camera.view(smaller, room, False).scale_x == scale  # nothing jumps for a little less
    much = Drawing((), EXTENTS, close=(400, 200, 700, 320))
    assert camera.view(much, room, False).scale_x > 1.5 * scale


def test_every_right_click_offers_what_can_be_done_and_undo_takes_it_back(qtbot, opened):
    """Offers that run a command are carried out, one by one; what opens a dialog is only offered."""
    before = opened.document.job
    tried = 0
    for stage in ("blank", "hold", "zero", "carve"):
        opened.go(stage)
        drawn(qtbot, opened)
        for key in dict.fromkeys(("", "blank", *opened.desk.bed.keys())):
            offers = opened.bed_menu.offers(key, 400.0, 300.0)
            assert offers, key
            for words, act in offers:
                if "…" in words or "compared" in words or key.startswith("op:"):
                    continue
                act()
                tried += 1
                while opened.document.stack.canUndo():
                    opened.document.stack.undo()
                assert opened.document.job == before, (key, words)
        if opened.build().measuring.active:
            opened.build().measuring.leave()
    assert tried > 20


@given(
    st.lists(st.sampled_from(("Clamp it", "Photo of the board", "the depth of a groove", "Zero")), unique=True),
    st.text("clampohtde ", max_size=6),
)
def test_the_search_finds_what_has_every_word_that_was_typed(rows, typed):
    hits = found([(r, "") for r in rows], typed)
    assert len(set(hits)) == len(hits)
    assert {rows[i] for i in hits} == {r for r in rows if all(w in r.lower() for w in typed.lower().split())}
