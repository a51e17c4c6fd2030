# SPDX-License-Identifier: GPL-3.0-or-later
"""Every page and dialog, in both themes: named for a screen reader, gone through by Tab, nothing cut off, and true to size."""

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtGui import QFontMetricsF
from PyQt6.QtWidgets import (
    QAbstractButton,
    QApplication,
    QCheckBox,
    QComboBox,
    QDialog,
    QLabel,
    QLineEdit,
    QListWidget,
    QPlainTextEdit,
    QRadioButton,
    QSlider,
    QSpinBox,
    QTableWidget,
    QWidget,
)

from gatepost.desk.context.stages import STAGES
from gatepost.desk.dialogs.happened import CAUSES, grouped
from gatepost.desk.dialogs.practice import GROUPS
from gatepost.desk.dialogs.practice import grouped as troubles_grouped
from gatepost.desk.machine.machine_layout import CAPITAL, CAUTION_TALL, FIGURE_TALL, STEP_TALL
from gatepost.machine.rehearsal import TROUBLES
from tests.conftest import some
from tests.desk.looking import drawn, planned

DIALOGS = (
    "wood",
    "offcuts",
    "ways",
    "square",
    "happened",
    "ledger",
    "practice",
    "probe",
    "settings",
    "help",
    "find",
    "look",
)
HANDLED = (QAbstractButton, QLineEdit, QComboBox, QSpinBox, QSlider, QTableWidget, QListWidget, QPlainTextEdit)


def shown(widget):
    """What is handled in a window, and can be seen."""
    return [
        w
        for kind in HANDLED
        for w in widget.findChildren(kind)
        if w.isVisibleTo(widget) and not w.objectName().startswith("qt_")
    ]


def nameless(widget):
    """What a screen reader has no word for."""
    out = []
    for w in shown(widget):
        if isinstance(w, QLineEdit) and isinstance(w.parentWidget(), (QSpinBox, QComboBox)):
            continue
        words = w.accessibleName() or (w.text() if isinstance(w, (QAbstractButton,)) else "")
        if not words.strip():
            out.append((type(w).__name__, w.objectName(), w.toolTip()))
    return out


def cut_off(widget):
    """Buttons and boxes whose words do not fit in them."""
    out = []
    for w in shown(widget):
        if isinstance(w, QAbstractButton) and w.text() and w.objectName() not in ("figure", "card"):
            beside = 24.0 if isinstance(w, (QCheckBox, QRadioButton)) else 8.0
            if QFontMetricsF(w.font()).horizontalAdvance(w.text()) + beside > w.width() + 1.0:
                out.append((w.text(), w.width()))
    return out


@pytest.mark.parametrize("theme", ["light", "dark"])
def test_every_page_is_named_and_nothing_is_cut_off(qtbot, opened, theme):
    if theme == "dark":
        opened.act("theme")
    for size in ((1280, 720), (1280, 800)):
        opened.resize(*size)
        for stage in STAGES:
            opened.go(stage)
            for side in ("judged", "entered"):
                opened.desk.slate.turn(side)
                drawn(qtbot, opened)
                assert not nameless(opened.desk), (stage, side)
                assert not cut_off(opened.desk), (stage, side, size)
    opened.turn_to("machine")
    assert not nameless(opened.machine)
    if theme == "dark":
        opened.act("theme")


@pytest.mark.parametrize("name", some(DIALOGS, 7))
def test_every_dialog_is_named_gone_through_by_tab_and_closed_by_escape(qtbot, opened, name):
    planned(qtbot, opened)
    if name == "ledger":
        opened.context.run("set surfacing", {"wanted": "yes"})
        planned(qtbot, opened)
    opened.act(name)
    dialog = next((w for w in QApplication.topLevelWidgets() if isinstance(w, QDialog) and w.isVisible()), None)
    assert dialog is not None, name
    assert dialog.windowTitle()
    assert not nameless(dialog), name
    assert not cut_off(dialog), name
    assert dialog.width() <= opened.width() and dialog.height() <= opened.height()
    wanted = {w for w in shown(dialog) if w.focusPolicy() & Qt.FocusPolicy.TabFocus and w.isEnabled()}
    seen = set()
    qtbot.waitUntil(lambda: QApplication.activeWindow() is dialog)
    for _ in range(2 * len(wanted) + 6):
        qtbot.keyClick(QApplication.focusWidget() or dialog, Qt.Key.Key_Tab)
        seen.add(QApplication.focusWidget())
    left = [w for w in wanted - seen if not isinstance(w, QRadioButton)]  # of a group one is come to
    assert not left, [(type(w).__name__, w.accessibleName() or getattr(w, "text", str)()) for w in left]
    qtbot.keyClick(dialog, Qt.Key.Key_Escape)
    qtbot.waitUntil(lambda: not dialog.isVisible() if not _gone(dialog) else True)


def _gone(widget: QWidget) -> bool:
    try:
        widget.objectName()
    except RuntimeError:
        return True
    return False


def test_no_cause_and_no_trouble_is_left_out_or_told_twice(qapp):
    from gatepost.core.acts import by_hand

    told = [a.kind for _, acts in grouped(by_hand()) for a in acts]
    assert sorted(told) == sorted(a.kind for a in by_hand())
    assert {k for _, kinds in CAUSES for k in kinds} <= set(told)
    names = [t.name for _, troubles in troubles_grouped() for t in troubles]
    assert sorted(names) == sorted(t.name for t in TROUBLES) and {n for _, ns in GROUPS for n in ns} <= set(names)


def test_nothing_lies_on_anything_else_in_what_happened(qtbot, opened):
    opened.act("happened")
    dialog = opened.build().zeros.dialog
    buttons = [b for b in dialog.findChildren(QAbstractButton) if b.isVisible()]
    for i, a in enumerate(buttons):
        for b in buttons[i + 1 :]:
            if a.parentWidget() is b.parentWidget():
                assert not a.geometry().intersects(b.geometry()), (a.text(), b.text())
    dialog.reject()


@pytest.mark.parametrize("dots", [96.0, 120.0, 160.0])
def test_words_at_the_machine_are_true_to_size(qtbot, opened, monkeypatch, dots):
    """Capitals of the step 9 mm, of the figure 18 mm, type of a caution 6 mm, by the screen's own dots."""
    machine = opened.machine
    monkeypatch.setattr(machine, "per_mm", lambda: dots / 25.4)
    machine.dress("light")
    opened.turn_to("machine")
    planned(qtbot, opened)
    per = dots / 25.4
    for label, tall, capital in ((machine.step, STEP_TALL * 0.93, CAPITAL), (machine.caution, CAUTION_TALL, 1.0)):
        assert label.font().pixelSize() * capital / per == pytest.approx(tall, abs=0.2)
    machine.figure.setText("12.00")
    assert machine.figure.font().pixelSize() * CAPITAL / per >= FIGURE_TALL * 0.6 - 0.2
    assert not [w for w in machine.findChildren(QLabel) if w.isVisibleTo(machine) and w.text() and w.width() < 20]
