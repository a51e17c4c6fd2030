# SPDX-License-Identifier: GPL-3.0-or-later
"""Tools in the real window: the drawer, a feed between gentle and hard, test grooves, cuts dragged in the lanes, the bed skimmed."""

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st
from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QPushButton

from gatepost.core.errors import OperatorError
from gatepost.core.job import commands
from gatepost.core.job.machine import Collet
from gatepost.core.plan.kinds import SHIPPED
from gatepost.core.tools.drawer import chips_words
from gatepost.desk.pages import tools
from gatepost.desk.pages.machine import collet_words, typed_collets
from gatepost.logbook.places import data_folder, logbook_url
from gatepost.logbook.store import Logbook
from tests.conftest import EXAMPLES
from tests.desk.looking import CTRL, SHIFT, Key, Keys, drawn, planned
from tests.desk.test_wood_window import closed, opened


@pytest.fixture
def at_tools(qtbot, window):
    opened(qtbot, window)
    window.go("tools")
    planned(qtbot, window)
    qtbot.waitUntil(lambda: not window.presenter.plan.coarse, timeout=60_000)
    drawn(qtbot, window)
    return window


def typed(widget, words):
    widget.setFocus()
    widget.selectAll()
    QTest.keyClicks(widget, words)


def test_the_drawer_is_searched_by_keys_and_a_tool_taken_copied_sharpened_and_let_go(qtbot, at_tools, tmp_path):
    w = at_tools
    Keys(qtbot, w).press(Key.Key_D, CTRL | SHIFT)
    dialog = w.tools.dialog
    assert dialog.list.count() == 9 and not dialog.own
    typed(dialog.search, "bull")
    assert dialog.list.count() == 1 and dialog.chosen.kind == "bull"
    assert "no collet" not in dialog.told.text() and dialog.picture._drawing is not None
    QTest.keyClick(dialog.copy_key, Key.Key_Space)
    assert dialog.chosen.name == "8 mm bull nose, copy" and "8 mm bull nose, copy" in w.context.kept_by_shop("tool")
    QTest.keyClick(dialog.sharpened_key, Key.Key_Space)
    assert len(dialog.chosen.sharpened) == len("2026-11-30") and dialog.chosen.sharpened in dialog.told.text()
    table = tmp_path / "drawer.csv"
    w.tools.write_table(dialog, table)
    assert len(table.read_text().splitlines()) == 11
    QTest.keyClick(dialog.forget_key, Key.Key_Space)
    assert "8 mm bull nose, copy" not in w.context.kept_by_shop("tool") and len(dialog.tools) == 9
    w.tools.read_table(dialog, table)
    assert len(dialog.own) == 10 and "10 tools" in dialog.said.text()
    bad = tmp_path / "bad.csv"
    bad.write_text("name,kind,diameter\nx,flat,six\n")
    w.tools.read_table(dialog, bad)
    assert "line 2" in dialog.said.text() and len(dialog.tools) == 10
    typed(dialog.search, "no such bit")
    assert dialog.chosen is None and not dialog.take_key.isEnabled()
    typed(dialog.search, "bull")
    dialog.list.setCurrentRow(0)
    QTest.keyClick(dialog.search, Key.Key_Return)  # as one types
    assert w.tools.dialog is None and w.document.job.tools[-1].kind == "bull"
    closed(qtbot, w)
    Keys(qtbot, w).press(Key.Key_Z, CTRL)
    assert all(t.kind != "bull" for t in w.document.job.tools)


def test_what_a_tool_has_cut_in_this_shop_is_told_in_the_drawer(qtbot, at_tools):
    w = at_tools
    book = Logbook(logbook_url(data_folder()))
    row = {
        "kind": "shop",
        "job": "Quay plate",
        "setup": "front",
        "program": "p",
        "tool": "T7 6 mm end mill",
        "fingerprint": "f",
        "planned_minutes": 5.0,
        "wood": "oak",
        "wood_kind": "hard",
        "metres": 40.0,
        "chip": 0.09,
    }
    for day in (1, 2, 3):
        n = book.start(**row, started=f"2026-11-0{day}T10:00")
        book.close_run(
            n, "done", f"2026-11-0{day}T10:06", real_minutes=6.0, marks=[{"what": "burn"}] if day > 1 else []
        )
    n = book.start(**{**row, "kind": "simulated"}, started="2026-11-04T10:00")
    book.close_run(n, "done", "2026-11-04T10:06", real_minutes=6.0)
    book.close()
    w.act("drawer")
    typed(w.tools.dialog.search, "6 mm end mill")
    said = w.tools.dialog.said.text()
    assert "120 m, 0.3 h in oak" in said and "burn 2 times" in said
    w.tools.dialog.reject()
    closed(qtbot, w)


def test_a_feed_is_chosen_between_gentle_and_hard_by_keys(qtbot, at_tools):
    w = at_tools
    before = w.document.job.tool(2).feed
    w.context.run("window feed 2", {})
    qtbot.waitUntil(lambda: w.tools.dialog is not None, timeout=60_000)
    dialog = w.tools.dialog
    feeds = []
    for key in (Key.Key_Home, Key.Key_PageUp, Key.Key_End):
        QTest.keyClick(dialog.slider, key)
        feeds.append(dialog.value)
        assert f"{dialog.value:.0f} mm/min" in dialog.feed.text() and dialog.rules.text().startswith("Limited by")
    assert (
        feeds == sorted(feeds)
        and feeds[0] < feeds[-1]
        and "starting values" in dialog.findChildren(type(dialog.feed))[2].text()
    )
    QTest.keyClick(dialog.use, Key.Key_Space)
    assert w.document.job.tool(2).feed == feeds[-1] != before
    Keys(qtbot, w).press(Key.Key_Z, CTRL)
    assert w.document.job.tool(2).feed == before
    closed(qtbot, w)


def test_grooves_typed_tell_the_v_and_half_typed_ones_nothing(qtbot, at_tools):
    w = at_tools
    w.context.run("window groove 4", {})
    dialog = w.tools.dialog
    d1, d2 = 1.0, 4.0
    assert not dialog.use.isEnabled() and "Type both" in dialog.words.text()
    for field, value in zip(
        dialog.fields, (d1, 2 * d1 * math.tan(math.radians(46)) + 0.2, d2, 2 * d2 * math.tan(math.radians(46)) + 0.2)
    ):
        assert not dialog.use.isEnabled()
        typed(field, f"{value:.3f}")
    assert dialog.use.isEnabled() and "92.0°" in dialog.words.text()
    typed(dialog.fields[3], "1.0")
    assert not dialog.use.isEnabled() and "wider" in dialog.words.text()
    typed(dialog.fields[3], "8.485")
    QTest.keyClick(dialog.use, Key.Key_Space)
    assert (w.document.job.tool(4).angle, w.document.job.tool(4).tip) == (
        pytest.approx(92.0, abs=0.1),
        pytest.approx(0.2, abs=0.02),
    )
    closed(qtbot, w)


def lane(w, name):
    """Where a cut's bar is in the lanes, px."""
    canvas = w.desk.heights
    shape = next(s for s in canvas.drawing.shapes if s.key == f"cut:{name}" and s.role == "lane")
    return canvas, canvas.view().to_screen(*shape.points[:4].mean(axis=0)).toPoint()


def test_cuts_are_dragged_in_the_lanes_with_the_price_said_and_never_against_a_rule(qtbot, at_tools):
    w = at_tools
    assert w.run("add engraved line", {"setup": "front"})
    planned(qtbot, w)
    qtbot.waitUntil(lambda: not w.presenter.plan.coarse, timeout=60_000)
    drawn(qtbot, w)
    names = w.presenter.plan.order.names
    first, last = [n for n in names if n != "surfacing"][0], names[-1]
    canvas, at = lane(w, last)
    QTest.mousePress(canvas, Qt.MouseButton.LeftButton, pos=at)
    QTest.mouseMove(canvas, QPointF(at.x() - 400, at.y()).toPoint())
    QApplication.processEvents()
    assert canvas.verdict is not None and "Not there" in canvas.verdict[4]
    QTest.mouseRelease(canvas, Qt.MouseButton.LeftButton, pos=QPointF(at.x() - 400, at.y()).toPoint())
    assert w.document.job.order == ()
    canvas.selected = f"cut:{first}"
    canvas.setFocus()
    QTest.keyClick(canvas, Key.Key_Right)
    order = w.document.job.order
    assert order and order.index(first) == names.index(first) + 1 and sorted(order) == sorted(names)
    Keys(qtbot, w).press(Key.Key_Z, CTRL)
    assert w.document.job.order == ()
    closed(qtbot, w)


def test_a_skim_is_a_job_of_its_own_and_a_job_that_was_touched_before_it_hears_of_it(qtbot, at_tools, tmp_path):
    w = at_tools
    journal = w.document.journal.add("2026-11-29T09:00:00", "homed").add(
        "2026-11-29T09:01:00", "touched", "front", axis="z", machine=-100.0, tool=1
    )
    w.document.happened(journal)
    path = tmp_path / "touched.gatepost"
    assert w.jobs.save_to(path)
    w.act("skim")
    dialog = w.tools.dialog
    typed(dialog.fields[4], "0.4")
    QTest.keyClick(dialog.use, Key.Key_Space)
    assert w.document.job.made_for == "skim" and w.document.path is None
    planned(qtbot, w)
    assert [f.code for f in w.presenter.plan.stops] in ([], ["zero.travel"])  # the bit may have to stick out farther
    book = Logbook(logbook_url(data_folder()))
    bed = w.document.job.machine.bed.model_copy(update={"skimmed": "2026-11-29T12:00"})
    book.keep("bed", w.document.job.machine.name, bed.model_dump(mode="json"), "2026-11-29T12:00:00")
    book.close()
    w.document.stack.setClean()
    assert w.jobs.open(path)
    kinds = [e.kind for e in w.document.journal.entries]
    assert "bed skimmed" in kinds
    count = len(kinds)
    w.document.stack.setClean()
    w.document.journal_saved = count
    assert w.jobs.save() and w.jobs.open(path) and len(w.document.journal.entries) == count  # told once
    closed(qtbot, w)


@given(
    st.floats(1, 25),
    st.floats(1, 60),
    st.just(0.0) | st.floats(1, 90),
    st.just(0.0) | st.floats(1, 90),
    st.just("") | st.dates().map(str),
)
def test_collets_as_they_are_typed_are_the_collets_that_are_shown(size, grip, bore, torque, since):
    six = [float(f"{v:g}") for v in (size, grip, bore, torque)]
    one = Collet(size=six[0], grip=six[1], bore=six[2], torque=six[3], since=since)
    (values,) = typed_collets(collet_words(one))["collets"]
    assert Collet(**values) == one


@pytest.mark.parametrize(
    "words", ["6 ×", "6", "6 × 18 40", "6 × 18 30.11.2026", "6 × 18 bore", "six × 18", "6 × 18 40 Nm x"]
)
def test_what_is_not_understood_of_a_collet_is_refused_and_not_dropped(words):
    with pytest.raises(OperatorError, match="not"):
        typed_collets(words)


def test_chips_typed_on_the_page_are_those_that_a_table_has(lock7):
    entries = [
        e
        for group in tools.page(lock7, lock7.setups[0].name, SHIPPED)
        for row in group.rows
        for e in row.entries
        if e.label == tools.CHIPS
    ]
    words = "oak 0.05-0.12; birch 0.06-0.14 shop"
    job = commands.run(lock7, entries[0].command, entries[0].values(words))
    assert [(c.wood, c.least, c.most, c.by) for c in job.tools[0].chips] == [
        ("oak", 0.05, 0.12, "maker"),
        ("birch", 0.06, 0.14, "shop"),
    ]
    assert chips_words(job.tools[0].chips) == words and job.tools[1:] == lock7.tools[1:]
    assert commands.run(job, entries[0].command, entries[0].values("")).tools[0].chips == ()
    with pytest.raises(OperatorError, match="^“oak 0.12” is no range of chips"):
        entries[0].values("oak 0.12")


def test_what_the_drawer_lacks_is_waited_for_or_adapted_and_undone(qtbot, window):
    assert window.open_path(EXAMPLES / "quay-plate.gatepost")
    plan = planned(qtbot, window)
    said = []
    window.messages.told.connect(lambda words, stays: said.append(words))
    window.act("missing_tools")
    qtbot.waitUntil(lambda: any("keep those that are there" in w for w in said), timeout=20_000)
    three, two = plan.job.tool(3), plan.job.tool(2)
    other = three.model_copy(update={"name": "the 45 from the tin", "angle": 45.0, "number": 3})
    for t in (two, other):
        window.context.keep_for_shop("tool", t.name, t.model_dump(mode="json"))
    window.act("missing_tools")
    actions = window.context.acts["missing_tools"].__self__
    qtbot.waitUntil(lambda: actions.dialog is not None, timeout=20_000)
    buttons = [b for b in actions.dialog.findChildren(QPushButton) if b.text().startswith("Take ")]
    assert [b.text() for b in buttons] == ["Take the 45 from the tin for T3"]
    buttons[0].click()
    assert window.document.job.tool(3).angle == 45.0 and window.document.job.tool(3).number == 3
    planned(qtbot, window)
    window.act("undo")
    assert window.document.job.tool(3) == three
