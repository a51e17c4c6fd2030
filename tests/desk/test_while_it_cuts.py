# SPDX-License-Identifier: GPL-3.0-or-later
"""While a program runs: the wood as it is now, first moves slowly, the feed and remarks by a key each, kept with the run."""

import numpy as np
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest

from gatepost.core.wood.field import cut, cutter_of
from gatepost.drawing.bed import field_after
from gatepost.machine.ramp import ramp_of
from tests.desk.looking import planned
from tests.desk.test_runs_window import run_until_it_cuts

Key = Qt.Key


def test_the_wood_is_that_of_what_was_reported_done_and_what_is_pressed_is_kept(qtbot, window):
    m, operator = window.machine, window.operator
    told = []
    operator.fed.connect(told.append)
    run_until_it_cuts(qtbot, window)
    setup = window.presenter.plan.setups[0]
    program = setup.programs[0]
    ramp = ramp_of(setup, program)
    assert told[0] == 30.0  # in the air
    qtbot.waitUntil(lambda: len(told) > 1, timeout=20_000)
    assert told[1] == ramp.least > 30.0 and 1 <= ramp.entry < 20  # in the wood no less than what rubs
    window.turn_to("machine")
    qtbot.waitUntil(lambda: m.cutting.isVisible() and m.current()[1].kind == "run", timeout=20_000)
    assert f"{ramp.least:.0f} %" in m.cutting.fed.text()
    m.setFocus()
    QTest.keyClick(m, Key.Key_F)
    qtbot.waitUntil(lambda: operator.percent == 100.0, timeout=10_000)
    QTest.keyClick(m, Key.Key_Minus)
    qtbot.waitUntil(lambda: operator.percent == 90.0, timeout=10_000)
    QTest.keyClick(m, Key.Key_1)
    QTest.keyClick(m, Key.Key_4)
    wood = window._parts.follower._wood
    qtbot.waitUntil(lambda: wood.field is not None, timeout=20_000)
    operator.hold_still()
    qtbot.waitUntil(lambda: m.state == "paused", timeout=20_000)
    follower = window._parts.follower
    qtbot.waitUntil(
        lambda: wood._live is not None and wood._live.done == follower._moves and not wood._busy, timeout=20_000
    )
    moves = setup.placed.to_work.inverse().moves(program.moves)
    n = follower._moves
    part = type(moves)(moves.points[: n + 1], moves.rapid[:n], moves.feed[:n])
    before = field_after(setup, 0)
    plain = cut(before, part, cutter_of(program.tool)).after.z
    assert n > 20 and np.abs(wood.field.z - plain).max() < 1e-4 and (before.z - plain).max() > 0.5
    qtbot.waitUntil(
        lambda: any(s.pixels is wood.pixels for s in m.bed.drawing.shapes if s.role == "picture"), timeout=5_000
    )
    operator.stop()
    qtbot.waitUntil(lambda: not operator.busy, timeout=30_000)
    planned(qtbot, window)
    run = window.runs()[0]
    percents = [o["percent"] for o in run.overrides]
    assert (
        percents[-2:] == [100.0, 90.0]
        and run.kept_at == 0.9
        and all(o["at"] and o["block"] >= 0 for o in run.overrides)
    )
    assert [x["what"] for x in run.marks] == ["it burns", "it lifted"] and run.wood == "oak" and 0 < run.share < 1
    assert not m.cutting.isVisible()
    operator.feed(20.0)  # nothing runs: kept with no run
    assert len(window.runs()[0].overrides) == len(run.overrides)


def test_a_feed_at_which_the_bit_rubs_is_warned_of_in_the_wood(qtbot, window):
    said = []
    operator = window.operator
    operator.told.connect(said.append)
    run_until_it_cuts(qtbot, window)
    operator.feed(20.0)
    assert said and "rubs" in said[-1]
    count = len(said)
    operator.feed(100.0)
    assert len(said) == count
    operator.stop()
    qtbot.waitUntil(lambda: not operator.busy, timeout=30_000)


def test_too_few_shop_runs_teach_nothing_and_enough_of_them_the_minutes_left(qtbot, window):
    from gatepost.logbook.places import data_folder, logbook_url
    from gatepost.logbook.store import Logbook
    from tests.conftest import EXAMPLES

    assert window.open_path(EXAMPLES / "quay-plate.gatepost")
    plan = planned(qtbot, window)
    qtbot.waitUntil(lambda: not window.presenter.plan.coarse, timeout=30_000)
    window.act("learn_times")
    assert window.document.job.machine.learned == ()
    book = Logbook(logbook_url(data_folder()))
    op = window.presenter.plan.setups[0].operations[0]
    row = {
        "kind": "shop",
        "job": "x",
        "setup": "front",
        "program": "p",
        "tool": f"T9 {op.tool.name}",
        "fingerprint": "f",
        "planned_minutes": 5.0,
        "wood": plan.job.wood.name,
    }
    for n in range(4):
        number = book.start(**row, started=f"2026-11-0{n + 1}T10:00")
        book.close_run(
            number,
            "done",
            "2026-11-01T10:06",
            real_minutes=7.0,
            cuts=[{"name": "x", "kind": op.kind, "planned": 4.0, "real": 5.8 + 0.1 * n}],
        )
    number = book.start(**{**row, "kind": "simulated"}, started="2026-11-09T10:00")
    book.close_run(
        number,
        "done",
        "2026-11-09T10:06",
        real_minutes=9.0,
        cuts=[{"name": "x", "kind": op.kind, "planned": 4.0, "real": 40.0}],
    )
    book.close()
    window.act("learn_times")
    (learned,) = window.document.job.machine.learned
    assert 1.4 < learned.factor < 1.55 and learned.count == 4
    plan = planned(qtbot, window)
    figures = {f.label: f.value for f in plan.reports["run", ""].figures}
    assert (
        figures["All of them, by this machine's own runs"]
        > sum(p.seconds for s in plan.setups for p in s.programs) / 60
    )


def test_another_bit_knowingly_is_kept_with_the_job_and_with_the_run_and_a_bit_fitted_again_is_asked_about_anew(
    qtbot, window, monkeypatch
):
    from gatepost.machine.keeping import knowingly
    from tests.conftest import EXAMPLES

    assert window.open_path(EXAMPLES / "quay-plate.gatepost")
    planned(qtbot, window)
    qtbot.waitUntil(lambda: not window.presenter.plan.coarse, timeout=30_000)
    window.turn_to("machine")
    m = window.machine
    at = next(i for i, (_, s) in enumerate(m.steps) if s.key.startswith("bit-"))
    m.go(at)
    setup, step = m.current()
    assert m.rocks.isVisible() and m.rocks.words == "Another bit…"
    asked = []
    monkeypatch.setattr(
        "gatepost.desk.actions.steps.QInputDialog.getItem", lambda *a: (asked.append(a[3]) or a[3][0], True)
    )
    monkeypatch.setattr("gatepost.desk.actions.steps.QInputDialog.getText", lambda *a: (asked.append(a[2]) or "", True))
    QTest.keyClick(m, Key.Key_R)
    assert "wide in the face" in asked[1] and not [
        e for e in window.document.journal.entries if e.kind == "remark"
    ]  # no reason, no exception
    monkeypatch.setattr(
        "gatepost.desk.actions.steps.QInputDialog.getText", lambda *a: ("the other is at the grinder", True)
    )
    QTest.keyClick(m, Key.Key_R)
    (entry,) = [e for e in window.document.journal.entries if e.kind == "remark"]
    assert entry.data["tool"] == step.tool and entry.data["why"] == "the other is at the grinder"
    tool = window.document.job.tool(step.tool)
    (mark,) = knowingly(window.document.journal, tool)
    assert "knowingly: the other is at the grinder" in mark["what"]
    assert knowingly(window.document.journal.add("2027-01-01T00:00", "fitted", setup.name, tool=step.tool), tool) == []


def test_a_named_place_is_gone_to_by_a_held_key_and_hands_are_asked_about_again(qtbot, window):
    from gatepost.core.run.standing import stands
    from tests.conftest import EXAMPLES

    assert window.open_path(EXAMPLES / "quay-plate.gatepost")
    plan = planned(qtbot, window)
    operator, m = window.operator, window.machine
    operator.speed = "max"
    window.act("simulated")
    qtbot.waitUntil(lambda: operator.state == "ready", timeout=30_000)
    setup = plan.setups[0]
    for step in setup.steps:
        assert operator.do(planned(qtbot, window), setup, step, window.document.journal, "")
        qtbot.waitUntil(lambda: not operator.busy and operator.state == "ready", timeout=60_000)
        if step.key == "home":
            break
    window.turn_to("machine")
    planned(qtbot, window)
    qtbot.waitUntil(lambda: m.current()[1].key == "warm", timeout=20_000)
    m.go(next(i for i, (_, s) in enumerate(m.steps) if s.kind == "fit"))
    assert m.places.isVisible() and m.places.keys()[1].words == "tool change" and not m.cutting.isVisible()
    m.setFocus()
    QTest.keyPress(m, Key.Key_G)
    qtbot.waitUntil(lambda: m.places.keys()[1].share > 0.2, timeout=5_000)
    QTest.keyRelease(m, Key.Key_G)
    qtbot.waitUntil(lambda: m.places.keys()[1].share == 0, timeout=5_000)
    assert not operator.busy  # let go too soon: nothing moves
    QTest.keyPress(m, Key.Key_G)
    qtbot.waitUntil(lambda: any(e.kind == "jogged" for e in window.document.journal.entries), timeout=20_000)
    QTest.keyRelease(m, Key.Key_G)
    qtbot.waitUntil(lambda: not operator.busy and operator.state == "ready", timeout=20_000)
    place = window.document.job.machine.places[1]
    machine = window.document.job.machine
    at = operator._session.last["machine"]
    assert np.allclose(at, (place.x - machine.travel_x, place.y - machine.travel_y, 0.0), atol=0.01)
    isolate = next(s for s in setup.steps if s.guard == "isolate")
    assert not stands(window.document.journal, isolate)  # it moved: hands are asked about anew
