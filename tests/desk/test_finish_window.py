# SPDX-License-Identifier: GPL-3.0-or-later
"""The Finish page by keys: coats that go with the scheme, a label typed, sanding that takes too much, the shop's own tins, and when it is ready beside another job."""

from datetime import datetime

import pytest
from icalendar import Calendar
from PyQt6.QtTest import QTest

from gatepost.core.finish.report import cost_of
from gatepost.core.job import commands
from gatepost.core.plan.pipeline import plan
from gatepost.desk.view.quotation import quotation_html
from tests.conftest import EXAMPLES
from tests.desk.looking import CTRL, Key, Keys, drawn, planned, push, rows


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
    assert "broken.gatepost is left out" in dialog.words.text()
    path = tmp_path / "ready.ics"
    actions.write_to(path, dialog.found)
    assert len(Calendar.from_ical(path.read_bytes()).walk("VEVENT")) > len(dialog.found.names)
    actions.add(plan, [str(EXAMPLES / "heron-panel.gatepost")])
    qtbot.waitUntil(lambda: "Close calls it off" in dialog.words.text(), timeout=20_000)
    QTest.keyClick(dialog, Key.Key_Escape)  # while the heron is planned for it
    assert actions.dialog is None
    qtbot.waitUntil(lambda: not w.context.worker._open, timeout=60_000)


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


def test_a_quotation_is_written_once_there_are_rates_which_the_shop_keeps(qtbot, quay_open, tmp_path):
    w, finishing = quay_open, quay_open._parts.finishing
    said = []
    w.messages.told.connect(lambda words, stays: said.append(words))
    path = tmp_path / "quotation.pdf"
    finishing.quote_to(path, False)
    qtbot.waitUntil(lambda: any("Type what an hour" in words for words in said), timeout=20_000)
    assert not path.exists()
    w.context.run("set rates", {"money": "marks", "hands": 30.0, "machine": 10.0, "wood": 1500.0})
    w.context.act("keep_rates")
    w.context.run("set rates", {"hands": 1.0})
    w.context.act("take_rates")
    rates = w.document.job.finish.rates
    assert (rates.hands, rates.money, len(rates.taken)) == (30.0, "marks", len("2026-11-30"))
    planned(qtbot, w)
    finishing.quote_to(path, True)
    qtbot.waitUntil(path.exists, timeout=30_000)
    assert path.read_bytes().startswith(b"%PDF") and path.stat().st_size > 5_000
    qtbot.waitUntil(lambda: any("not for the customer" in words for words in said), timeout=20_000)


def test_what_the_shop_pays_stands_in_a_quotation_only_where_it_was_asked_for(quay_plan, memory):
    job = commands.run(quay_plan.job, "set rates", {"hands": 30.0, "money": "marks", "margin": 0.4})
    made = plan(job, memory=memory)
    told, now = cost_of(made.finishing), datetime(2026, 11, 30, 8)
    shown, inside = (quotation_html(made, made.finishing, now, inside) for inside in (False, True))
    assert f"{told.price.result:.2f}" in shown and f"{told.cost.result:.2f}" not in shown
    assert (
        f"{told.cost.result:.2f}" in inside
        and "Hands" in inside
        and "Hands" not in shown
        and "30 November 2026" in shown
    )


def test_steps_are_done_one_after_another_and_what_they_took_becomes_the_shops_own_record(qtbot, quay_open, said):
    w = quay_open
    w.context.run("set finish", {"scheme": "oiled"})
    plan = planned(qtbot, w)
    w.act("finish_steps")
    actions = w.build().finish_steps
    dialog = actions.dialog
    assert dialog.gone.next.kind == "run"
    push(dialog.did)
    assert "not carved yet" in dialog.wrong.text() and not w.document.job.finish.done
    programs = [p for s in plan.setups for p in s.programs]

    def ran(kind, of=lambda p: p.fingerprint):
        rows(*({"program": p.name, "fingerprint": of(p), "kind": kind} for p in programs))

    ran("shop", lambda p: "another")  # programs of the same names that cut something else
    push(dialog.did)
    assert "not carved yet" in dialog.wrong.text() and not w.document.job.finish.done
    ran("simulated")
    push(dialog.did)
    assert dialog.gone.next.key == "clean" and [d.work for d in w.document.job.finish.done] == ["carved, simulated"]
    dialog.list.setFocus()
    QTest.keyClick(dialog.list, Key.Key_End)
    assert not dialog.did.isEnabled() and "comes first" in dialog.told.text()
    dialog.list.setCurrentRow(1)
    dialog.minutes.setFocus()
    QTest.keyClicks(dialog.minutes, "a while")
    QTest.keyClick(dialog.minutes, Key.Key_Return)
    assert "no time" in dialog.wrong.text() and dialog.gone.next.key == "clean"
    for piece, minutes in enumerate(
        ("3 h", "24", "1/2 h", "20 min")
    ):  # cleaned up, sanded, and so on; the first piece is a simulated one
        if piece:
            QTest.keyClick(dialog.minutes, Key.Key_Return)
            assert "not carved yet" in dialog.wrong.text()  # the run of the piece before is not this one's
            ran("shop")
        while dialog.gone.next is not None and dialog.gone.next.key != "sand":
            dialog.minutes.setText("24" if dialog.gone.next.key == "clean" else "")
            QTest.keyClick(dialog.minutes, Key.Key_Return)
        dialog.minutes.setText(minutes)
        QTest.keyClick(dialog.minutes, Key.Key_Return)
        push(dialog.own)
        assert bool(w.document.job.finish.own) == (piece == 3)  # of a simulated machine nothing was ever cleaned up
        assert piece == 3 or "Too few" in dialog.wrong.text()
        w.document.run("finish another", {})
    assert len(w.context.kept_by_shop("hands")) == 3
    ran("shop")
    own = {o.work: o for o in w.document.job.finish.own}
    planned_ = {s.work: s.rule for s in dialog.gone.left}
    assert own["clean up"].count == 3 and own["clean up"].factor == pytest.approx(24 / planned_["clean up"], rel=1e-3)
    assert own["clean up"].spread == 1.0 and own["sand"].spread > 1.1 and "own record" in said[-1]
    plan = planned(qtbot, w)
    told = next(f for f in plan.report("finish").figures if f.label == "Clean-up")
    assert told.value == pytest.approx(24.0, abs=0.01) and "own record" in told.working.assumption
    push(dialog.did)
    push(dialog.did)
    dialog.list.setCurrentRow(0)
    push(dialog.undo)
    assert not w.document.job.finish.done and dialog.gone.next.kind == "run"
    w.document.stack.undo()
    assert len(w.document.job.finish.done) == 2
    push(dialog.rules)
    assert not w.document.job.finish.own


def test_the_shops_hours_are_kept_and_new_jobs_have_them(qtbot, quay_open, said):
    w = quay_open
    w.context.run("set finish", {"hours": "Tue-Sat 9-13; closed 2026-12-24"})
    w.act("keep_hours")
    w.context.run("set finish", {"hours": "Mon 8-9"})
    w.act("take_hours")
    assert w.document.job.finish.hours == "Tue-Sat 9-13; closed 2026-12-24"
    assert w.shop.finish().hours == w.document.job.finish.hours
