# SPDX-License-Identifier: GPL-3.0-or-later
"""Hold and Zero in the real window: ways compared, the shop's bed and plates, squareness, what happened, practice."""

import json

import pytest
from PyQt6.QtTest import QTest

from gatepost.core.program.read import read
from gatepost.core.zero.trust import Trust, trust, where
from gatepost.logbook.places import data_folder, logbook_url
from gatepost.logbook.store import Logbook
from tests.desk.looking import CTRL, SHIFT, Key, Keys, planned
from tests.desk.test_wood_window import closed, opened


@pytest.fixture
def at_hold(qtbot, window):
    opened(qtbot, window)
    window.go("hold")
    window.presenter.choose_setup("front")
    return window


def test_ways_are_compared_chosen_by_keys_and_undone(qtbot, at_hold):
    keys, before = Keys(qtbot, at_hold), at_hold.document.job.setup("front").holds
    keys.press(Key.Key_K, CTRL)
    dialog = at_hold.holds.dialog
    qtbot.waitUntil(lambda: not dialog.busy, timeout=30_000)
    assert [r.kind for r in dialog.rows] == ["as it is", "strap", "edge", "wedges", "screw", "tape", "glue", "nest"]
    assert not dialog.use.isEnabled()  # as it is is no change
    assert dialog.rows[1].span < dialog.rows[0].span and dialog.rows[2].lost < dialog.rows[0].lost
    QTest.keyClick(dialog.table, Key.Key_Down)
    QTest.keyClick(dialog.table, Key.Key_Down)
    assert dialog.use.isEnabled()
    QTest.keyClick(dialog.use, Key.Key_Space)
    assert at_hold.holds.dialog is None
    assert {h.kind for h in at_hold.document.job.setup("front").holds} == {"edge"}
    planned(qtbot, at_hold)
    qtbot.waitUntil(lambda: not at_hold.presenter.plan.coarse, timeout=30_000)
    assert not [f for f in at_hold.presenter.plan.stops if f.setup == "front" and f.stage == "hold"]
    closed(qtbot, at_hold)
    keys.press(Key.Key_Z, CTRL)
    assert at_hold.document.job.setup("front").holds == before


def test_a_comparison_called_off_leaves_everything_as_it_was(qtbot, at_hold):
    before = at_hold.document.job
    at_hold.act("ways")
    dialog = at_hold.holds.dialog
    dialog.reject()
    assert at_hold.holds.dialog is None
    at_hold.document.run("set hold", {"setup": "front", "hold": "C1", "x": 262.0})
    planned(qtbot, at_hold)  # the worker goes on with what is wanted
    assert at_hold.presenter.plan.job == at_hold.document.job != before


def test_every_way_of_holding_is_added_copied_mirrored_and_drawn(qtbot, at_hold):
    w, setup = at_hold, "front"
    w.desk.slate.turn("entered")
    s = w.document.job.setup(setup)
    blank = w.document.job.blank
    w.run(
        "add to bed",
        {"what": "nests", "values": {"name": "Nest 1", "x": 30.0, "y": 520.0, "length": 200.0, "width": 120.0}},
    )
    w.run("add to bed", {"what": "fences", "values": {"name": "Fence 1", "x": 60.0, "y": 30.0}})
    w.run("add to bed", {"what": "scars", "values": {"points": [[600, 60], [900, 60]], "width": 6, "depth": 0.3}})
    from gatepost.core.plan.kinds import SHIPPED
    from gatepost.desk.pages import hold

    for group in hold.page(w.document.job, setup, SHIPPED)[0].acts:
        if group.command == "add hold":
            assert w.run(group.command, group.values(None))
    kinds = {h.kind for h in w.document.job.setup(setup).holds}
    assert kinds == {"strap", "edge", "wedges", "screw", "tape", "glue", "nest", "bolted"}
    count = len(w.document.job.setup(setup).holds)
    screw = next(h for h in w.document.job.setup(setup).holds if h.kind == "screw")
    w.run("mirror hold", {"setup": setup, "hold": screw.name, "across": "X"})
    new = w.document.job.setup(setup).holds[-1]
    assert new.x - s.x == pytest.approx(blank.length - (screw.x - s.x)) and new.y == screw.y
    w.run("copy hold", {"setup": setup, "hold": screw.name, "dx": 30.0, "dy": 0.0})
    assert len(w.document.job.setup(setup).holds) == count + 2
    planned(qtbot, w)
    assert {x.role.removesuffix("-bad") for x in w.desk.bed.drawing.shapes} >= {
        "packing", "fence", "scar", "strap", "tape", "tape-hatch",
    }  # fmt: skip
    for _ in range(count):
        w.document.stack.undo()


def test_the_shop_keeps_bed_and_plates_for_later_jobs(qtbot, at_hold, tmp_path):
    w = at_hold
    w.run("set bed", {"blocks": (12.0, 22.0), "skimmed": "2026-10-01"})
    w.act("keep_bed")
    w.run(
        "set zero",
        {"setup": "front", "gauge_name": "brass plate", "gauge_thickness": 15.02, "gauge_checked": "2026-09-30"},
    )
    w.act("keep_gauge")
    w.act("keep_machine")
    w.save_to(tmp_path / "kept.gatepost")
    opened(qtbot, w, "quay-plate")
    assert w.document.job.machine.bed.blocks == ()
    w.act("take_bed")
    w.shop.use_gauge("brass plate")
    assert w.document.job.machine.bed.blocks == (12.0, 22.0)
    zero = w.document.job.setup(w.presenter.setup).zero
    assert (zero.gauge_name, zero.gauge_thickness, zero.gauge_checked) == ("brass plate", 15.02, "2026-09-30")
    w.act("take_machine")
    assert w.document.job.machine.taken
    book = Logbook(logbook_url(data_folder()))
    assert set(book.kept("bed")) == {w.document.job.machine.name} and json.dumps(book.kept("gauge")["brass plate"].data)
    book.close()
    w.save_to(tmp_path / "again.gatepost")
    w.act("new")
    assert w.document.job.machine.bed.blocks == (12.0, 22.0) and w.document.job.machine.taken and not w.document.dirty
    w.act("skimmed")
    assert w.document.job.machine.bed.scars == () and w.document.journal.standing()[-1].kind == "bed skimmed"


def test_a_nest_s_program_is_written_read_back_and_refused_in_a_sentence(qtbot, at_hold, tmp_path):
    said = []
    at_hold.messages.told.connect(lambda words, stays: said.append(words))
    nest = {"name": "Nest 1", "x": 30.0, "y": 520.0, "length": 200.0, "width": 120.0, "relief": 3.5}
    at_hold.run("add to bed", {"what": "nests", "values": nest})
    at_hold.holds.write_nest(0, tmp_path / "nest.nc")
    program = read((tmp_path / "nest.nc").read_text())
    assert not program.complaints and len(program.moves) > 20 and "stop" not in said[-1].lower()
    low = program.moves.points[:, 2].min()
    assert low == pytest.approx(-0.2, abs=1e-3) and program.moves.points[1:, 0].max() < 200.0
    at_hold.run("set on bed", {"what": "nests", "name": nest["name"], "values": {"relief": 0.5}})
    at_hold.holds.write_nest(0, tmp_path / "other.nc")
    assert "thin enough" in said[-1] and not (tmp_path / "other.nc").exists()


def test_square_by_two_touches_turns_the_programs_and_undoes(qtbot, at_hold):
    keys = Keys(qtbot, at_hold)
    text = at_hold.presenter.plan.setup("front").programs[0].text
    keys.press(Key.Key_R, CTRL)
    dialog = at_hold.build().zeros.dialog
    assert not dialog.turn.isEnabled()
    for key, words in (("first", "-410"), ("second", "-405"), ("apart", "600"), ("far", "700")):
        dialog.fields[key].setText(words)
    assert "0.477" in dialog.words.text() and "forward" in dialog.words.text() and "5.83" in dialog.words.text()
    dialog.fields["apart"].setText("3")
    assert not dialog.turn.isEnabled() and "10 mm apart" in dialog.words.text()
    dialog.fields["apart"].setText("600")
    QTest.keyClick(dialog.turn, Key.Key_Space)
    assert at_hold.document.job.setup("front").skew == pytest.approx(0.47745, abs=1e-4)
    planned(qtbot, at_hold)
    assert at_hold.presenter.plan.setup("front").programs[0].text != text
    at_hold.document.stack.undo()
    assert at_hold.document.job.setup("front").skew == 0.0


def test_what_happened_is_kept_and_the_way_back_found(qtbot, at_hold, tmp_path):
    w = at_hold
    journal = w.document.journal
    journal = journal.add("2026-11-02T08:59:00", "homed", "front")
    for axis, value in (("x", -593.8), ("y", -400.0), ("z", -99.6)):
        journal = journal.add("2026-11-02T09:00:00", "touched", "front", axis=axis, machine=value, tool=3, spread=0.0)
    w.document.happened(journal)

    def axes():
        return trust(w.document.journal.standing(), where(w.document.job, w.document.job.setup("front")))

    Keys(qtbot, w).press(Key.Key_H, CTRL)
    dialog = w.build().zeros.dialog
    dialog.happened.emit("power cut")
    assert axes().x.trust is Trust.LOST and "Home" in dialog.words.text()
    dialog.looked.emit(0.0, 0.0)
    assert axes().x.trust is Trust.LOST and "home first" in dialog.words.text()
    dialog.happened.emit("homed")
    assert axes().z.trust is Trust.PROVISIONAL
    dialog.right.setText("1.4")
    dialog.back.setText("-0,6")
    dialog._looked()
    assert axes().x.machine == pytest.approx(-592.4) and axes().y.machine == pytest.approx(-400.6)
    assert axes().x.trust is axes().z.trust is Trust.PROVISIONAL and "turn" in axes().x.why
    dialog.right.setText("forty")
    count = len(w.document.journal.entries)
    dialog._looked()
    assert len(w.document.journal.entries) == count and "forty" in dialog.words.text()
    w.build().zeros.write_card("front", tmp_path / "zeros.pdf")
    assert (tmp_path / "zeros.pdf").read_bytes().startswith(b"%PDF")
    dialog.accept()
    assert w.build().zeros.dialog is None


def test_practice_tells_what_was_noticed_and_what_was_missed(qtbot, at_hold):
    w = at_hold
    w.operator.speed = "max"
    Keys(qtbot, w).press(Key.Key_M, CTRL | SHIFT)
    dialog = w.build().link.dialog
    dialog.boxes["spanner on"].setChecked(True)
    dialog.boxes["stall"].setChecked(True)
    dialog._begin()
    qtbot.waitUntil(lambda: w.operator.state == "ready", timeout=30_000)
    assert w.pages.currentWidget() is w.machine
    for _ in range(12):
        setup, step = w.machine.current()
        w.machine.done_wanted.emit(setup, step, ())
        qtbot.waitUntil(lambda: not w.operator.busy, timeout=30_000)
        if w.build().link.practised["spanner on"][0]:
            break
        qtbot.waitUntil(lambda step=step: w.machine.current()[1].key != step.key, timeout=30_000)
    assert "Spanners" in w.build().link.practised["spanner on"][0] and not w.build().link.practised["stall"][0]
    assert w.machine.trouble.isVisible() and "spanner" in w.machine.trouble.text()
    setup, step = w.machine.current()
    w.machine.done_wanted.emit(setup, step, ())  # put right: the same check goes through
    qtbot.waitUntil(lambda: w.machine.current()[1].key != step.key, timeout=30_000)
    assert not w.machine.trouble.isVisible()
    w.act("practice")
    told = [label.text() for label in w.build().link.dialog.findChildren(type(w.machine.trouble))]
    assert any(t.startswith("✓ Spanners") for t in told) and any(t.startswith("missed: it shows at") for t in told)
    w.build().link.dialog.reject()


def test_a_machine_that_was_switched_on_anew_is_not_as_the_last_session_left_it(qtbot, at_hold):
    """Ticks and trust of before do not stand until it is homed and touched again."""
    w = at_hold
    journal = w.document.journal.add("2026-11-02T08:59:00", "homed", "front")
    for axis in "xyz":
        journal = journal.add("2026-11-02T09:00:00", "touched", "front", axis=axis, machine=-90.0, tool=3, spread=0.0)
    w.document.happened(journal)
    w.act("simulated")
    qtbot.waitUntil(lambda: w.operator.state == "ready", timeout=30_000)
    qtbot.waitUntil(lambda: w.document.journal.entries[-1].kind == "power cut", timeout=5_000)
    axes = trust(w.document.journal.standing(), where(w.document.job, w.document.job.setup("front")))
    assert axes.x.trust is axes.z.trust is Trust.LOST and axes.x.recoverable


def test_the_rock_test_has_two_answers_and_a_fresh_board_begins_again(qtbot, at_hold):
    w = at_hold
    w.turn_to("machine")
    machine = w.machine
    plan = planned(qtbot, w)
    at = next(i for i, (s, step) in enumerate(machine.steps) if step.kind == "rock")
    machine.go(at)
    assert machine.rocks.isVisible() and not machine.ledger.isVisible()
    machine.rocks.fired.emit()
    assert w.document.journal.entries[-1].data == {"answer": "rocks"}
    assert "hold.rocks" in {f.code for f in planned(qtbot, w).stops}
    qtbot.waitUntil(lambda: "Shim it" in machine.detail.text(), timeout=10_000)
    assert not machine.rocks.isVisible()
    w.act("fresh_board")
    assert w.document.journal.entries[-1].kind == "fresh board"
    assert "hold.rocks" not in {f.code for f in planned(qtbot, w).stops} and len(plan.setups) == len(
        w.presenter.plan.setups
    )
