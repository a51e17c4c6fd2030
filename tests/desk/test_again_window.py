# SPDX-License-Identifier: GPL-3.0-or-later
"""Gone on with where the wood was clicked; and one letter cut again alone, by keys, after all of it was run."""

import numpy as np
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication

from tests.desk.looking import planned
from tests.desk.test_by_hand_window import hold
from tests.desk.test_runs_window import run_until_it_cuts

Key = Qt.Key


def click_on(bed, x, y):
    """The left button on a place of a drawing."""
    QTest.mouseClick(bed, Qt.MouseButton.LeftButton, pos=bed.view().to_screen(x, y).toPoint())


def test_taken_up_where_the_wood_was_clicked_then_one_letter_again_and_deeper(qtbot, window, monkeypatch):
    run_until_it_cuts(qtbot, window, over=150)
    m, operator = window.machine, window.operator
    setup = window.presenter.plan.setups[0]
    program = setup.programs[0]
    QTest.keyClick(m, Key.Key_1)  # “it burns”
    operator.stop()
    qtbot.waitUntil(lambda: not operator.busy, timeout=30_000)
    planned(qtbot, window)
    window.turn_to("machine")
    m.setFocus()
    qtbot.waitUntil(lambda: m.ended is not None and m.main.words == "Resume it…", timeout=20_000)
    assert "Click on the wood" in m.detail.text()
    on_bed = setup.on_bed(program)
    k = int(np.flatnonzero(~program.moves.rapid)[12])
    x, y, _ = 0.5 * (on_bed.points[k] + on_bed.points[k + 1])
    click_on(m.bed, x, y)
    assert m.pointed is not None and np.hypot(m.pointed[0] - x, m.pointed[1] - y) < 1.0 and "ring" in m.detail.text()
    click_on(m.bed, x, y)
    assert m.pointed is None  # there again: where it ended
    click_on(m.bed, x, y)
    qtbot.waitUntil(lambda: any(s.role == "tip-ring" for s in m.bed.drawing.shapes), timeout=5_000)
    asked = []
    monkeypatch.setattr("gatepost.desk.dialogs.questions.ask_mark", lambda parent, words: asked.append(words) or True)
    QTest.keyClick(m, Key.Key_Return)
    qtbot.waitUntil(lambda: bool(asked), timeout=30_000)
    assert "Stopped over the link" in asked[0] and "on the bed" in asked[0]
    qtbot.waitUntil(lambda: not operator.busy and window.runs()[0].state == "done", timeout=90_000)
    planned(qtbot, window)
    window.act("cut_again")
    qtbot.waitUntil(lambda: window._parts.again.dialog is not None, timeout=20_000)
    dialog = window._parts.again.dialog
    names = [dialog.table.item(i).text() for i in range(dialog.table.count())]
    letter = next(i for i, n in enumerate(names) if n.startswith("“"))
    assert not dialog.look.isEnabled()
    dialog.table.item(letter).setSelected(True)
    dialog.deeper.setText("3,2 mm")
    dialog.look.click()
    assert "at once" in dialog.words.text() and not dialog.go.isEnabled()
    dialog.deeper.setText("0.2 mm")
    dialog.look.click()
    qtbot.waitUntil(dialog.go.isEnabled, timeout=20_000)
    assert "wood goes" in dialog.words.text()
    dialog.deeper.setText("0.3 mm")
    assert not dialog.go.isEnabled()  # that was of another figure
    dialog.look.click()
    dialog.deeper.setText("0.2 mm")  # changed before the answer is there
    with qtbot.waitSignal(
        window._parts.again._desk.worker.told, timeout=20_000, check_params_cb=lambda r: r.outcome == "again"
    ):
        pass
    QApplication.processEvents()
    assert not dialog.go.isEnabled() and window._parts.again._taken is None
    dialog.look.click()
    qtbot.waitUntil(dialog.go.isEnabled, timeout=20_000)
    count = len(window.runs())
    dialog.go.click()
    m.setFocus()
    qtbot.waitUntil(lambda: m.extra is not None and m.isVisible(), timeout=10_000)
    assert "once more" in m.step.text() and len(window.runs()) == count  # shown, and run by a held key only
    QTest.keyClick(m, Key.Key_B)
    assert m.extra is None
    window._parts.again._run(window.presenter.plan)
    m.setFocus()
    hold(qtbot, m, Key.Key_Return, lambda: operator.busy or bool(m.trouble.text()), 20_000)
    qtbot.waitUntil(lambda: not operator.busy, timeout=90_000)
    if m.trouble.text():  # its guards are asked anew, as of any run
        assert "comes first" in m.trouble.text()
        step = m.extra[2]
        guards = [s for s in m.extra[1].steps if s.guard or s.kind in ("look", "walk")]
        for guard in guards:
            operator.do(window.presenter.plan, m.extra[1], guard, window.document.journal, "")
            qtbot.waitUntil(lambda: not operator.busy, timeout=60_000)
        planned(qtbot, window)
        assert m.current()[1] is step
        m.setFocus()
        lower = []
        monkeypatch.setattr(operator, "lower", lambda *asked: lower.append(asked))
        window._parts.jogging.lower(m.extra[1], step)  # what stands beside the plan can be lifted out too
        monkeypatch.undo()
        assert [feed for _, feed, _ in lower] == [program.tool.plunge] and lower[0][2] >= 2.0
        hold(qtbot, m, Key.Key_Return, lambda: operator.busy, 20_000)
        qtbot.waitUntil(lambda: not operator.busy, timeout=90_000)
    run = window.runs()[0]
    assert len(window.runs()) == count + 1 and run.state == "done" and run.program.endswith("-again.nc")
    assert m.extra is None


def test_a_program_made_elsewhere_is_shown_at_the_machine_or_says_why_not(qtbot, window, tmp_path, monkeypatch):
    from gatepost.core.program.read import read
    from tests.conftest import EXAMPLES

    assert window.open_path(EXAMPLES / "quay-plate.gatepost")
    planned(qtbot, window)
    m, actions = window.machine, window._parts.again
    said = []
    window.messages.told.connect(lambda words, stays: said.append(words))
    good, bad = tmp_path / "line.nc", tmp_path / "deep.nc"
    head = "G21\nG90\nT3 M6\nS16000 M3\nG0 Z30\nG0 X140 Y90\n"  # its Z0 is on the bed
    good.write_text(head + "G1 Z18 F400\nX160\nG0 Z30\nM5\nM30\n")
    bad.write_text(head + "G1 Z-9 F400\nG0 Z30\nM5\nM30\n")
    actions.run_import(bad)
    qtbot.waitUntil(lambda: any("Not to be run" in w for w in said), timeout=30_000)
    assert m.extra is None
    actions.run_import(good)
    qtbot.waitUntil(lambda: m.extra is not None and m.isVisible(), timeout=30_000)
    assert "line.nc" in m.step.text() and any("made elsewhere" in w for w in said)
    text = m.extra[0].program(m.extra[2].program).text
    assert "MADE ELSEWHERE" in text and not read(text).complaints
    path = tmp_path / "try.nc"
    monkeypatch.setattr(window.context, "ask_save", lambda *a: path)
    shown = []
    monkeypatch.setattr("gatepost.desk.dialogs.questions.tell_list", lambda *a: shown.append(a))
    window.act("trial")
    assert path.exists() and shown and any("ruler" in row for row in shown[0][3])
