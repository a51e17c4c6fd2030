# SPDX-License-Identifier: GPL-3.0-or-later
"""The first hour by mouse alone: letters and figures are typed, all else is done by clicks on what can be seen."""

from __future__ import annotations

import contextlib
import sys
from collections.abc import Callable
from pathlib import Path
from typing import Any

sys.path.insert(0, str(Path(__file__).parents[1]))

from PyQt6.QtCore import QPoint, QRect
from PyQt6.QtWidgets import QAbstractButton, QAbstractItemView, QApplication, QComboBox, QFileDialog, QLineEdit, QWidget
from tests.desk.first_hour import Person, hour

from gatepost.desk.context.stages import STAGES
from gatepost.desk.machine.big_keys import BigKey

UP, DOWN = 4, 5  # the wheel's buttons: away from oneself, and towards


class Mouser(Person):
    """Somebody who has a mouse, and keys for letters only."""

    def _place(self, widget: QWidget, at: QPoint | None = None) -> tuple[int, int]:
        """On the screen."""
        there = widget.mapToGlobal(at if at is not None else widget.rect().center())
        return there.x(), there.y()

    def on(self, widget: QWidget, at: QPoint | None = None, times: int = 1) -> None:
        """A click on it, once it can be seen."""
        self._see(widget)
        for _ in range(times):
            self.t.click(*self._place(widget, at))
        self._pause.wait(0.1)

    def _see(self, widget: QWidget) -> None:
        """Scroll the slate until all of it can be seen."""
        page = self.w.desk.slate.page
        if not page.isAncestorOf(widget):
            return
        turned = False
        for _ in range(60):
            room = QRect(page.mapToGlobal(QPoint()), page.size())
            there = QRect(widget.mapToGlobal(QPoint()), widget.size())
            if room.contains(there):
                if not turned:
                    return
                turned = False  # the wheel may have been turned farther than has been seen yet
                self._steady(lambda: widget.mapToGlobal(QPoint()))
                continue
            turned = True
            self.t.click(room.center().x() - 90, room.center().y(), UP if there.top() < room.top() else DOWN)
            self._pause.wait(0.2)
        raise AssertionError(f"can't be scrolled to: {widget}")

    def _top(self) -> Any:
        return QApplication.activePopupWidget() or QApplication.activeModalWidget() or self.w

    def button(self, words: str) -> QWidget:
        """The button that says this, as soon as there is one."""
        found: list[QWidget] = []

        def says(b: Any) -> bool:
            named = (b.accessibleName(), getattr(b, "text", str)().replace("&", ""))
            return bool(b.isVisible() and b.isEnabled() and words in named)

        def seen() -> bool:
            with contextlib.suppress(RuntimeError):  # one that was just taken away
                found[:] = [b for kind in (QAbstractButton, BigKey) for b in self._top().findChildren(kind) if says(b)]
            return bool(found)

        self.until(seen, f"the button “{words}”")
        return found[0]

    def press(self, words: str) -> None:
        """The button that says this; where the page is laid out anew meanwhile, the one that is there then."""
        self._see(self.button(words))
        self._steady(lambda: self.button(words))
        self.on(self.button(words))

    def next(self) -> None:
        """The button of the next step."""
        self.on(self.w.desk.next.button)

    def figure(self, name: str, figure: str) -> None:
        """Typed over what stands in a field."""
        field = next(f for f in self.w.findChildren(QLineEdit) if f.isVisible() and f.accessibleName() == name)
        self._over(field, figure)

    def _over(self, field: QLineEdit, words: str) -> None:
        """Typed over all that stands in a line; clicked again where that was not taken for three clicks together."""
        for _ in range(5):
            self.on(field, times=3)
            self._pause.wait(0.2)
            if field.selectedText() == field.text():
                break
        self.t.type(words)

    def choose(self, name: str, choice: str) -> None:
        """One of a list."""
        box = next(b for b in self.w.findChildren(QComboBox) if b.isVisible() and b.accessibleName() == name)
        self.on(box)
        self.until(lambda: box.view().isVisible(), "the list")
        view: QAbstractItemView = box.view()
        index = view.model().index(box.findText(choice), 0)
        self._pause.wait(0.3)
        at = self._place(view.viewport(), view.visualRect(index).center())
        self.t.move(at[0], at[1] - 4)
        self.t.move(*at)  # a hand moves there before it presses
        self._pause.wait(0.3)
        self.t.click(*at)
        self.until(lambda: not box.view().isVisible(), "the list gone")

    def stage(self, stage: str) -> None:
        """A gate of the fence."""
        fence = self.w.desk.fence
        self.on(fence, QPoint(100, int((STAGES.index(stage) + 0.5) * fence._row())))
        self.until(lambda: self.w.context.showing.stage == stage, f"the page {stage}")

    def on_board(self, x: float, y: float) -> None:
        """A place of the board, mm."""
        self.planned()
        bed, setup = self.w.desk.bed, self.w.context.showing.planned_setup()
        self.on(bed, bed.view().to_screen(*setup.at(x, y)).toPoint())

    def sign(self) -> None:
        """The sign of the tow path."""
        self.press("New job")
        self.focused("Job")
        self.t.type("Tow path")
        for name, figure in (("Length", "600"), ("Width", "220"), ("Thickness as sold", "22"), ("Wood", "oak")):
            self.figure(name, figure)
        self.next()
        self.focused("Caliper reading, the back left corner")
        for figure, after in (
            ("21.4", (300.0, 204.6)),
            ("21.6", (576.0, 204.6)),
            ("21.5", (576.0, 15.4)),
            ("21.3", (300.0, -40.0)),
        ):
            self.t.type(figure)
            self.on_board(*after)
        self.planned()
        self.next()
        self.focused("Text")
        self.t.type("TOW PATH")
        self.press("Add a line")
        self.until(lambda: len(self.lines()) == 2, "a second line")
        self.focused("Text")
        self.t.type("No cycling")
        self.press("Cut out a rounded plate")
        self.until(lambda: any(o.kind == "cutout" for o in self.job().setup("front").operations), "the cut-out")
        self.mend()
        self.stage("zero")
        self.press("Your figures")
        self.choose("X0 Y0 at", "front left")
        self.until(lambda: self.job().setup("front").zero.xy == "front left", "the zero in the corner")
        self.mend()

    def fixes(self) -> list[QWidget]:
        """What is offered on the page."""
        return [f for f in self.w.desk.slate.fields() if f.property("fix")]

    def _steady(self, seen: Callable[[], Any]) -> None:
        """Until what is seen has stayed the same for a moment: a hand takes one to get there."""
        while True:
            before = seen()
            self._pause.wait(0.6)
            now = seen()
            if now and now == before:
                return

    def take_fix(self) -> None:
        """The next step shown, and the first fix that is offered for it."""
        self.next()
        self.until(self.fixes, "a fix")
        self._steady(self.fixes)
        self.on(self.fixes()[0])

    def save(self) -> None:
        """Save, and the file's name."""
        self.press("Save")
        self.until(lambda: isinstance(QApplication.activeModalWidget(), QFileDialog), "a file dialog")
        dialog: Any = QApplication.activeModalWidget()
        line = dialog.findChild(QLineEdit)
        self._over(line, str(self.target))
        self.press("Save")
        self.until(self.target.exists, "the file")
        self.until(lambda: QApplication.activeModalWidget() is None, "the dialog gone")
        self.until(lambda: QApplication.activeWindow() is self.w, "the window again")

    def run(self) -> None:
        """Every step at the machine: the main key clicked, held where something moves; back to the desk, and saved."""
        at_desk, w = self.t.acts, self.w
        self.press("At the machine")
        self.press("Simulated machine")
        self.until(lambda: w.operator.state == "ready", "a machine")
        for _ in range(120):
            self.until(
                lambda: w.machine.state == "ready" and not w.operator.busy and w.context.plan is not None,
                "a machine at rest",
            )
            if all(w.machine.done):
                break
            before = len(w.document.journal.entries)
            self.t.keep_down(*self._place(w.machine.main), 1.25 if w.machine.main.held else 0.05)
            self.until(
                lambda before=before: len(w.document.journal.entries) > before or w.operator.busy, "something done"
            )
        self.ticks = self.t.acts - at_desk
        self.t.acts = at_desk
        self.press("To the desk")
        self.press("Save")
        self.until(lambda: not w.document.dirty, "a saved job")


if __name__ == "__main__":
    sys.exit(hour(Mouser))
