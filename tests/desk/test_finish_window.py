# SPDX-License-Identifier: GPL-3.0-or-later
"""The Finish page by keys: coats that go with the scheme, a label typed, sanding that takes too much, the shop's own tins, and when it is ready beside another job."""

from icalendar import Calendar
from PyQt6.QtTest import QTest

from tests.conftest import EXAMPLES
from tests.desk.looking import CTRL, Key, Keys, drawn, planned


def words_drawn(view):
    return [s.text for s in view.drawing.shapes if s.text]


def test_a_finish_from_bare_wood_to_a_calendar(qtbot, quay_open, tmp_path):
    w, keys = quay_open, Keys(qtbot, quay_open)
    keys.stage(9)
    drawn(qtbot, w)
    report = w.presenter.plan.report("finish")
    assert report.gate.value == "waiting" and report.fact == "no coats yet" and "hang it" in words_drawn(w.desk.heights)
    assert "4 tabs" in words_drawn(w.desk.bed)
    keys.push("Coats that go with it")
    plan = planned(qtbot, w)
    assert [c.tin for c in w.document.job.finish.coats] == ["primer", "sign-paint", "sign-paint"]
    assert (
        any("acrylic sign paint, letters" in t for t in words_drawn(w.desk.heights))
        and plan.report("finish").gate.value == "open"
    )
    keys.type("Coat again from", "1/2 h")
    planned(qtbot, w)
    assert w.document.job.finish.tin("primer").recoat == 30.0
    keys.type("Coat again from", "soon")
    assert w.document.job.finish.tin("primer").recoat == 30.0  # what can't be read is told, and changes nothing
    keys.press(Key.Key_Escape)
    keys.type("Room, °C", "3")
    planned(qtbot, w)
    assert any("does not dry under" in t for t in words_drawn(w.desk.heights))
    keys.press(Key.Key_Escape)
    keys.press(Key.Key_Z, CTRL)
    plan = planned(qtbot, w)
    assert w.document.job.finish.celsius == 20.0 and not any("does not dry" in t for t in words_drawn(w.desk.heights))
    keys.type("A stroke keeps at least", "2.75 mm")
    plan = planned(qtbot, w)
    assert any(f.code == "finish.sanded-thin" for f in plan.findings)
    red = [s for s in w.desk.bed.drawing.shapes if s.role == "bad"]
    assert red  # about each letter that is too thin then
    keys.press(Key.Key_Escape)
    keys.press(Key.Key_Z, CTRL)
    planned(qtbot, w)


def test_ready_beside_another_job_and_written_as_a_calendar(qtbot, quay_open, tmp_path):
    w = quay_open
    w.context.run("set finish", {"scheme": "bare"})
    plan = planned(qtbot, w)
    w.act("ready")
    actions = w._parts.finishing
    dialog = actions.dialog
    qtbot.waitUntil(lambda: dialog.found is not None, timeout=20_000)
    assert dialog.found.names == ("Quay plate",) and dialog.picture._drawing is not None
    broken = tmp_path / "broken.gatepost"
    broken.write_bytes(b"no job")
    actions.add(plan, [str(EXAMPLES / "tea-room-sign.gatepost"), str(broken)])
    assert dialog.found is None and not dialog.calendar.isEnabled()
    qtbot.waitUntil(lambda: dialog.found is not None, timeout=60_000)
    assert dialog.found.names == ("Quay plate", "Tea-room hanging sign")
    assert "broken.gatepost is left out" in dialog.words.text() and "no coats chosen" in dialog.words.text()
    path = tmp_path / "ready.ics"
    actions.write_to(path, dialog.found)
    assert len(Calendar.from_ical(path.read_bytes()).walk("VEVENT")) > len(dialog.found.names)
    QTest.keyClick(dialog, Key.Key_Escape)


def test_a_tin_as_its_label_was_typed_is_kept_for_the_shop_and_taken_by_another_job(qtbot, quay_open):
    w = quay_open
    w.context.run(
        "take coats",
        {
            "tins": (
                {"id": "tar", "name": "boat tar", "base": "oil", "does": "oil", "recoat": 2000.0, "hard": 9000.0},
            ),
            "coats": ({"tin": "tar"},),
        },
    )
    planned(qtbot, w)
    w.context.act("keep_tin", 0)
    w.context.run("remove tin", {"tin": "tar"})
    w._parts.finishing.use_tin("boat tar")
    tin = w.document.job.finish.tin("tar")
    assert tin.recoat == 2000.0 and len(tin.taken) == len("2026-11-30")
    w.context.run("set tin", {"tin": "tar", "recoat": 100.0})
    w._parts.finishing.use_tin("boat tar")
    assert w.document.job.finish.tin("tar").recoat == 2000.0 and len(w.document.job.finish.tins) == 1
    planned(qtbot, w)
