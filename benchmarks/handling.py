# SPDX-License-Identifier: GPL-3.0-or-later
"""Random hands at the window: keys, clicks, wheels and drags over every page and dialog. Nothing may raise, no value may come in that was
not typed whole, and undoing all of it brings the job back as it was."""

from __future__ import annotations

import os
import random
import shutil
import sys
from pathlib import Path
from typing import Any

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

from PyQt6.QtCore import QPoint, QPointF, Qt
from PyQt6.QtGui import QWheelEvent
from PyQt6.QtPrintSupport import QPrintDialog
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QDialog, QFileDialog, QInputDialog, QLineEdit, QMenu, QMessageBox, QWidget

from gatepost.desk.app import book, make_app
from gatepost.desk.context.keys import COMMANDS
from gatepost.desk.context.stages import STAGES
from gatepost.desk.theme.style import dress
from gatepost.desk.window.window import Window

Key = Qt.Key
AWAY = (
    "quit",
    "start",
    "new",
    "open",
    "save",
    "save_as",
    "simulated",
    "practice",
    "connect",
    "unlink",
    "print",
    "sheet",
    "write",
)
PLAIN = (
    Key.Key_Tab, Key.Key_Backtab, Key.Key_Return, Key.Key_Escape, Key.Key_Space, Key.Key_Up, Key.Key_Down, Key.Key_Left, Key.Key_Right,
    Key.Key_F2, Key.Key_F3, Key.Key_F4, Key.Key_F5, Key.Key_F6, Key.Key_F7, Key.Key_F8, Key.Key_N, Key.Key_P, Key.Key_Plus, Key.Key_Minus,
    Key.Key_Home, Key.Key_End, Key.Key_Delete, Key.Key_Backspace,
)  # fmt: skip
NEW = "new"  # in place of a job's file: one that was just begun
LETTERS = '0123456789.,/-" abcXYZ'


class RandomHands:
    """One window, and a person who does anything at all with it."""

    def __init__(self, data: Path, job: Path, seed: int) -> None:
        self.app = make_app()
        dress(self.app, "light")
        self.chance = random.Random(seed)
        self.wrong: list[str] = []
        sys.excepthook = lambda kind, error, where: self.wrong.append(f"{kind.__name__}: {error}")
        self._silence()
        self.w = Window(data, book)
        self.w.show()
        self.w.ready()
        if job.name == NEW:
            self.w.act("new")
        else:
            assert self.w.open_path(job)
        self._settle()
        assert self.w.document is not None
        self.before = self.w.document.job

    def _silence(self) -> None:
        """Dialogs that would wait for an answer give one: nobody is there."""
        QFileDialog.getOpenFileName = staticmethod(lambda *a, **k: ("", ""))  # type: ignore[method-assign]
        QFileDialog.getSaveFileName = staticmethod(lambda *a, **k: ("", ""))  # type: ignore[method-assign]
        QFileDialog.getExistingDirectory = staticmethod(lambda *a, **k: "")  # type: ignore[method-assign]
        QInputDialog.getText = staticmethod(lambda *a, **k: ("", False))  # type: ignore[method-assign]
        QInputDialog.getItem = staticmethod(lambda *a, **k: ("", False))  # type: ignore[method-assign]
        QInputDialog.exec = lambda self: 0  # type: ignore[assignment, method-assign]
        QPrintDialog.exec = lambda self: 0  # type: ignore[method-assign, assignment]
        QMessageBox.exec = lambda self: 0  # type: ignore[assignment, method-assign]

    def _settle(self) -> None:
        for _ in range(2000):
            self.app.processEvents()
            if self.w.context.plan is not None:
                return
            QTest.qWait(5)

    def _somewhere(self) -> tuple[QWidget, QPoint]:
        """A place of whatever is on top, and the widget that is there."""
        top: Any = QApplication.activePopupWidget() or QApplication.activeModalWidget() or self.w
        at = QPoint(self.chance.randrange(max(top.width(), 1)), self.chance.randrange(max(top.height(), 1)))
        below = top.childAt(at)
        return (below, below.mapFrom(top, at)) if below is not None else (top, at)

    def act(self) -> str:
        """One thing."""
        kind = self.chance.choices(
            ("key", "type", "click", "wheel", "drag", "right", "command", "stage"), (30, 20, 20, 8, 8, 4, 5, 5)
        )[0]
        target: Any = QApplication.focusWidget() or self.w
        if kind == "key":
            QTest.keyClick(target, self.chance.choice(PLAIN))
        elif kind == "type":
            self._type(target, "".join(self.chance.choice(LETTERS) for _ in range(self.chance.randint(1, 6))))
        elif kind == "stage":
            self.w.go(self.chance.choice(STAGES))
        elif kind == "command":
            name = self.chance.choice([c.name for c in COMMANDS if c.name not in AWAY])
            if QApplication.activeModalWidget() is None:
                self.w.act(name)
            return f"command {name}"
        else:
            self._mouse(kind)
        return kind

    def _type(self, target: Any, letters: str) -> None:
        """Letters; in a field they are nobody's figure until Enter or Tab."""
        field = isinstance(target, QLineEdit)
        before = self.w.document.job if self.w.document is not None else None
        QTest.keyClicks(target, letters)
        after = self.w.document.job if self.w.document is not None else None
        if field and after != before:
            self.wrong.append(f"“{letters}” was taken into “{target.accessibleName()}” while it was being typed")

    def _mouse(self, kind: str) -> None:
        widget, at = self._somewhere()
        left = Qt.MouseButton.LeftButton
        if kind == "click":
            QTest.mouseClick(widget, left, pos=at)
        elif kind == "right":
            QTest.mouseClick(widget, Qt.MouseButton.RightButton, pos=at)
        elif kind == "wheel":
            turn = QPoint(0, self.chance.choice((-240, -120, 120, 240)))
            place = QPointF(widget.mapToGlobal(at))
            event = QWheelEvent(
                QPointF(at), place, QPoint(), turn, Qt.MouseButton.NoButton, Qt.KeyboardModifier.NoModifier,
                Qt.ScrollPhase.NoScrollPhase, False,
            )  # fmt: skip
            QApplication.sendEvent(widget, event)
        else:
            QTest.mousePress(widget, left, pos=at)
            for _ in range(3):
                at = at + QPoint(self.chance.randint(-40, 40), self.chance.randint(-40, 40))
                QTest.mouseMove(widget, at)
            QTest.mouseRelease(widget, left, pos=at)

    def close_all(self) -> None:
        """Every menu and dialog away."""
        for _ in range(6):
            for widget in QApplication.topLevelWidgets():
                if isinstance(widget, (QDialog, QMenu)) and widget.isVisible():
                    widget.close()
            self.app.processEvents()

    def live(self, count: int) -> str:
        """So many things, then all of it undone; gives what was wrong, or nothing."""
        last = ""
        for i in range(count):
            last = self.act()
            if i % 25 == 0:
                self.app.processEvents()
            if i % 200 == 199:
                self.close_all()
            if self.wrong:
                return f"after {i + 1} acts, {last}: {self.wrong[0]}"
        self.close_all()
        return self.undone()

    def undone(self) -> str:
        """Everything undone is the job as it was."""
        document = self.w.document
        assert document is not None
        for _ in range(3):  # what was asked for before comes in while this goes on, and is undone like the rest
            while document.stack.canUndo():
                document.stack.undo()
            self._settle()
        if document.job != self.before:
            was, now = self.before.model_dump(), document.job.model_dump()
            other = "; ".join(f"{k}: {str(was[k])[:120]} -> {str(now[k])[:120]}" for k in was if was[k] != now[k])
            return f"undoing everything does not bring the job back: {other}"
        return self.wrong[0] if self.wrong else ""

    def end(self) -> None:
        """Away with it."""
        if self.w.document is not None:
            self.w.document.stack.setClean()
            self.w.document.journal_saved = len(self.w.document.journal.entries)
        self.w.shut()
        self.w.deleteLater()
        self.app.processEvents()


def begun(kind: type[RandomHands]) -> int:
    """One life at the window. argv: the job or "new", the data folder, a seed, and how many acts; prints what was wrong."""
    job, data, seed, count = sys.argv[1:5]
    os.environ["GATEPOST_DATA"] = data
    Path(data).mkdir(parents=True, exist_ok=True)
    named = Path(job)
    copied = named if named.name == NEW else Path(shutil.copy(named, Path(data) / named.name))  # it may well be saved
    hands = kind(Path(data), copied, int(seed))
    wrong = hands.live(int(count))
    hands.end()
    print(wrong)
    return 1 if wrong else 0


if __name__ == "__main__":
    sys.exit(begun(RandomHands))
