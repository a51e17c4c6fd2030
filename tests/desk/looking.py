# SPDX-License-Identifier: GPL-3.0-or-later
"""How tests wait for a window, and press its keys."""

from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QComboBox, QLineEdit, QPushButton

from gatepost.desk.app import book

Key = Qt.Key
CTRL = Qt.KeyboardModifier.ControlModifier
SHIFT = Qt.KeyboardModifier.ShiftModifier


def planned(qtbot, w):
    """Wait until the plan shown is of the job as it is now, and drawn."""
    qtbot.waitUntil(
        lambda: w.presenter.plan is not None and w.presenter.plan.job == w.document.job and w.desk.bed.busy == "",
        timeout=60_000,
    )
    drawn(qtbot, w)
    return w.presenter.plan


def drawn(qtbot, w):
    """Wait until the drawings are those of the page."""
    qtbot.waitUntil(lambda: not w.drawings.waiting, timeout=5_000)


class Keys:
    """Types at whatever has the focus, as a person does."""

    def __init__(self, qtbot, w):
        self.qtbot, self.w = qtbot, w

    def press(self, key, modifier=Qt.KeyboardModifier.NoModifier):
        QTest.keyClick(QApplication.focusWidget() or self.w, key, modifier)
        QApplication.processEvents()

    def stage(self, number):
        self.press(Key(Key.Key_0.value + number % 10), CTRL)

    def entered(self):
        if self.w.desk.slate.side != "entered":
            self.press(Key.Key_F2)
        else:
            self.press(Key.Key_F2)
            self.press(Key.Key_F2)

    def field(self, label, number=0):
        """Tab until the field of a name has the focus."""
        self.entered()
        for _ in range(200):
            focus = QApplication.focusWidget()
            if isinstance(focus, (QLineEdit, QComboBox, QPushButton)) and label in (
                focus.accessibleName(),
                getattr(focus, "text", str)(),
            ):
                if number == 0:
                    return focus
                number -= 1
            self.press(Key.Key_Tab)
        raise AssertionError(
            f"no field {label}; focus {QApplication.focusWidget()}, side {self.w.desk.slate.side}, stage {self.w.presenter.stage}"
        )

    def type(self, label, words, number=0):
        field = self.field(label, number)
        field.selectAll()
        QTest.keyClicks(field, words)
        QTest.keyClick(field, Key.Key_Return)
        QApplication.processEvents()

    def push(self, label):
        QTest.keyClick(self.field(label), Key.Key_Space)

    def choose(self, label, words):
        box = self.field(label)
        assert isinstance(box, QComboBox)
        for _ in range(box.count() + 40):
            if box.currentText() == words:
                break
            before = box.currentIndex()
            wanted = box.findText(words)
            QTest.keyClick(box, Key.Key_Down if wanted > before else Key.Key_Up)
        else:
            raise AssertionError(words)


ROW = {
    "setup": "front", "program": "front-1.nc", "fingerprint": "abc", "planned_minutes": 4.0, "blank": "elm 300 × 100 × 18.0 mm", "blocks": 100,
}  # fmt: skip


def rows(*values):
    """Runs that are over."""
    log = book()
    out = []
    for more in values:
        given = {
            **ROW,
            "started": "2026-03-02T09:00:00",
            "kind": "shop",
            "job": "Quay plate",
            "tool": "T1 60° V",
            "wood": "elm",
            **more,
        }
        out.append(log.start(**given, state="done", ended="2026-03-02T09:06:00", real_minutes=5.0, blocks_done=100))
    log.close()
    return out


def push(button):
    button.setFocus()
    QTest.keyClick(button, Key.Key_Space)
    QApplication.processEvents()
