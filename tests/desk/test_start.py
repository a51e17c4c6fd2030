# SPDX-License-Identifier: GPL-3.0-or-later
"""The way in: the start page, the two questions of the first start, examples, and files dropped anywhere."""

import shutil

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QPushButton

from gatepost.desk.dialogs import questions
from gatepost.desk.dialogs.shop_settings import ShopSettings
from gatepost.desk.start.page import EXAMPLES as TO_TRY
from gatepost.desk.start.page import JobCard
from gatepost.desk.window.strip import Strip
from tests.conftest import EXAMPLES
from tests.desk.looking import planned

Key = Qt.Key


def cards(w, grid):
    return [grid.itemAt(i).widget() for i in range(grid.count())]


def test_the_first_start_asks_once_whatever_is_answered(qtbot, window):
    window.shop.ask_once()
    dialog = window.shop.dialog
    assert isinstance(dialog, ShopSettings)
    qtbot.keyClick(dialog, Key.Key_Escape)
    assert window.shop.dialog is None
    window.shop.ask_once()
    assert window.shop.dialog is None and window.shop.unit() == "mm"


def test_the_shop_s_machine_and_unit_are_kept_and_taken_into_new_jobs(qtbot, window):
    window.act("settings")
    dialog = window.shop.dialog
    dialog.inch.setChecked(True)
    dialog.own.setChecked(True)
    dialog.name.setText("Long bed")
    dialog.fields["travel_x"].setText("96")
    dialog.fields["rpm_max"].setText("18 000")
    dialog.slots.setText("4 8 1/2 12")  # a length with a space in it is two
    dialog._keep()
    assert dialog.isVisible() and "can't be read" in dialog.wrong.text() or window.shop.machine().slots
    if dialog.isVisible():
        dialog.slots.setText("4 8.5 12")
        dialog._keep()
    machine = window.shop.machine()
    assert (machine.name, machine.travel_x, machine.rpm_max) == ("Long bed", 2438.4, 18000.0)
    window.act("new")
    assert window.document.job.unit == "inch" and window.document.job.machine.name == "Long bed"


@pytest.mark.parametrize(
    "field, typed", [("travel_x", "long"), ("travel_y", "0"), ("rpm_min", ""), ("travel_z", "-3 mm")]
)
def test_a_figure_that_can_t_be_keeps_nothing_and_loses_nothing(qtbot, window, field, typed):
    before = window.shop.machine()
    window.act("settings")
    dialog = window.shop.dialog
    dialog.own.setChecked(True)
    dialog.fields[field].setText(typed)
    dialog._keep()
    assert dialog.isVisible() and dialog.wrong.text() and dialog.fields[field].text() == typed
    assert window.shop.machine() == before
    dialog.reject()


def test_the_shipped_machine_can_be_chosen_again_and_the_shop_s_own_is_not_lost(qtbot, window):
    def settings(own, name=""):
        window.act("settings")
        dialog = window.shop.dialog
        was = dialog.own.isChecked()
        (dialog.own if own else dialog.shipped).setChecked(True)
        if name:
            dialog.name.setText(name)
            dialog.fields["travel_x"].setText("1800")
        dialog._keep()
        return was

    shipped = window.shop.machine().travel_x
    settings(True, "Long bed")
    assert window.shop.machine().travel_x == 1800.0
    assert settings(False) and window.shop.machine().travel_x == shipped
    assert not settings(False) and "Long bed" in window.context.kept_by_shop("machine")
    settings(True, "Longer bed")
    assert window.shop.machine().name == "Longer bed"


def test_what_can_t_be_read_stays_as_it_was_typed_when_the_unit_changes(qtbot, window):
    window.act("settings")
    dialog = window.shop.dialog
    dialog.fields["travel_x"].setText("508")
    dialog.fields["travel_y"].setText("about 700")
    dialog.inch.setChecked(True)
    assert dialog.fields["travel_y"].text() == "about 700" and dialog.fields["travel_x"].text() == "20"
    dialog.reject()


def test_units_change_the_figures_that_are_shown_and_none_that_is_meant(qtbot, window):
    window.act("settings")
    dialog = window.shop.dialog
    before = dialog._typed()
    dialog.inch.setChecked(True)
    dialog.mm.setChecked(True)
    assert dialog._typed() == before
    dialog.reject()


def test_recent_jobs_stand_with_their_state_and_enter_opens_one(qtbot, window, tmp_path):
    for name in ("quay-plate", "lock-7-first-look"):
        shutil.copy(EXAMPLES / f"{name}.gatepost", tmp_path)
        assert window.open_path(tmp_path / f"{name}.gatepost")
        planned(qtbot, window)  # closing says how it stood: it need not be saved for that
    window.act("start")
    shown = cards(window, window.start.jobs)
    told = [c.accessibleName() for c in shown]
    assert "thing to mend" in told[0] and "ready to run" in told[1]
    shown[0].setFocus()
    qtbot.keyClick(shown[0], Key.Key_Right)
    assert QApplication.focusWidget() is shown[1]
    qtbot.keyClick(shown[1], Key.Key_Return)
    assert window.document is not None and window.document.job.name == "Quay plate"


def test_every_example_opens_as_a_job_that_has_no_file(qtbot, window, monkeypatch):
    monkeypatch.setattr(questions, "ask_to_save", lambda *_: "discard")
    for card, (title, _, _, then) in zip(cards(window, window.start.to_try), TO_TRY):
        assert isinstance(card, JobCard) and card.accessibleName().startswith(title)
        card.click()
        assert window.document is not None and window.document.path is None
        planned(qtbot, window)
        if then == "practice":
            qtbot.waitUntil(lambda: window.build().link.dialog is not None)
            window.build().link.dialog.reject()
        elif then:
            assert window.presenter.stage == then
        window.act("start")
        assert window.document is None


def test_what_is_dropped_goes_where_its_kind_belongs(qtbot, window, tmp_path, monkeypatch):
    said = []
    window.messages.told.connect(lambda words, stays: said.append(words))
    table = tmp_path / "top.csv"
    table.write_text("x mm,y mm,z mm\n0,0,21\n300,0,21.2\n0,150,21.1\n300,150,21.4\n")
    window.dropped.take(table)
    assert window.document is None and "Open a job first" in said[-1]
    job = tmp_path / "quay.gatepost"
    shutil.copy(EXAMPLES / "quay-plate.gatepost", job)
    window.dropped.take(job)
    assert window.document.job.name == "Quay plate"
    planned(qtbot, window)
    monkeypatch.setattr(questions, "ask_which", lambda *_: 0)
    window.dropped.take(table)
    assert len(window.document.job.blank.heights) == 4
    program = tmp_path / "some.nc"
    program.write_text("G21 G90\nM3 S16000\nG0 Z20\nG1 X10 F500\nM5\nM2\n")
    planned(qtbot, window)
    window.dropped.take(program)
    qtbot.waitUntil(lambda: any("some.nc" in words and "Checking" not in words for words in said), timeout=30_000)
    drawing = tmp_path / "board.svg"
    drawing.write_text(
        '<svg xmlns="http://www.w3.org/2000/svg" width="300mm" height="150mm" viewBox="0 0 300 150"><path d="M0 0H300V150H40L0 90Z"/></svg>'
    )
    window.dropped.take(drawing)
    qtbot.waitUntil(lambda: window.document.job.blank.shape == "outline", timeout=30_000)
    window.dropped.take(tmp_path / "notes.docx")
    assert "is no job" in said[-1]


def test_tools_are_added_copied_kept_for_the_shop_and_taken(qtbot, opened):
    count = len(opened.document.job.tools)
    opened.context.run("window keep_tool 3", {})
    tool = opened.document.job.tool(3)
    opened.shop.use_tool(tool)
    assert len(opened.document.job.tools) == count + 1
    new = next(t for t in opened.document.job.tools if t.number not in {1, 2, 3, 4})
    assert (new.diameter, new.angle, new.name) == (tool.diameter, tool.angle, tool.name)
    assert tool.name in opened.context.kept_by_shop("tool")
    opened.document.stack.undo()
    assert len(opened.document.job.tools) == count


def test_a_key_that_closes_never_leaves_a_run_unwatched(qtbot, opened):
    opened.operator.busy = True
    said = []
    opened.messages.told.connect(lambda words, stays: said.append(words))
    for key in ("start", "quit"):
        opened.act(key)
        assert opened.document is not None and opened.isVisible() and "moving" in said[-1]
    opened.operator.busy = False


def test_the_start_page_is_gone_through_by_tab(qtbot, window, tmp_path):
    window.start.new.setFocus()
    seen = []
    for _ in range(12):
        QTest.keyClick(QApplication.focusWidget(), Key.Key_Tab)
        seen.append(QApplication.focusWidget())
    assert {type(w).__name__ for w in seen} >= {"QPushButton", "JobCard"} and len(set(seen)) >= 6


def test_a_page_that_changes_while_it_is_laid_out_is_laid_out_whole(qtbot, opened, monkeypatch):
    """A field that loses the focus as the page is emptied enters its figure, and the page comes again in the middle of itself."""
    opened.go("carve")
    slate = opened.desk.slate
    slate.turn("entered")
    fill, came = slate.entries.fill, []

    def again(groups):
        if not came:
            came.append(True)
            opened.presenter.entered()
        fill(groups)

    monkeypatch.setattr(slate.entries, "fill", again)
    opened.act("unit")
    slate.turn("judged")
    slate.turn("entered")
    assert came
    wanted = {(g.title, r.label, e.label) for g in slate._groups for r in g.rows for e in r.entries}
    assert wanted == {(title, label, name) for _, title, _, label, _, name in slate.entries.inputs}
    assert all(field.isVisible() for field in slate.entries.inputs.values())


def test_a_message_is_put_away_when_it_is_over(qtbot, opened):
    opened.messages.say("Reading slab.jpg…")
    strips = [s for s in opened.findChildren(Strip) if s.isVisible()]
    assert strips and all(s.words.text().startswith("Reading") for s in strips)
    opened.messages.say("")
    assert not any(s.isVisible() for s in strips)


def test_what_is_told_is_seen_on_the_page_that_is_open_and_covers_no_key_that_stops(qtbot, opened):
    for page in ("machine", "desk"):
        opened.turn_to(page)
        opened.messages.warn("The log can't be read. " * 8)
        shown = [s for s in opened.findChildren(Strip) if s.isVisible()]
        assert len(shown) == 1 and opened.pages.currentWidget().isAncestorOf(shown[0])
        if page == "machine":
            m, (strip,) = opened.machine, shown
            m.jog.setVisible(not m.jog.isVisible())
            QApplication.processEvents()
            assert not strip.geometry().intersects(m.foot.geometry())
            for tell in (
                lambda words: (m.show_trouble(words), opened.messages.warn(words)),
                lambda words: (opened.messages.warn(words), m.show_trouble(words)),
            ):
                tell("It is 5 mm off. Touch it again.")  # in red beside the step: not twice
                assert m.trouble.isVisible() and not strip.isVisible()
                opened.messages.warn("Another thing.")
                assert strip.isVisible()
                m.show_trouble("")


def test_a_job_with_every_tool_number_taken_still_opens_its_tools(qtbot, opened):
    said = []
    opened.messages.told.connect(lambda words, stays: said.append(words))
    tool = opened.document.job.tools[0]
    taken = {t.number for t in opened.document.job.tools}
    for number in set(range(1, 100)) - taken:
        opened.document.run("add tool", {"tool": tool.model_copy(update={"number": number})})
    planned(qtbot, opened)
    opened.go("tools")
    opened.desk.slate.turn("entered")
    add = next(b for b in opened.desk.slate.fields() if isinstance(b, QPushButton) and b.text().startswith("Copy T"))
    qtbot.keyClick(add, Key.Key_Space)
    opened.shop.use_tool(tool)
    assert len(opened.document.job.tools) == 99
    assert len(said) >= 2 and all("Take a tool away first" in words for words in said[-2:])
