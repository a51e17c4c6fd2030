# SPDX-License-Identifier: GPL-3.0-or-later
"""A sign from *New job* to a logged run in a real window on a real X server, by somebody who sits at it. Run as a process of its own, it
prints what came of it as JSON. Keys and clicks come from a thread beside the window, as a person's do."""

from __future__ import annotations

import json
import os
import sys
import threading
import time
import traceback
from pathlib import Path

from PyQt6.QtCore import Qt, QTimer
from PyQt6.QtWidgets import QApplication, QFileDialog, QLineEdit

from gatepost.core.job.model import Job
from gatepost.desk.app import book, hook, make_app
from gatepost.desk.theme.style import dress
from gatepost.desk.window.window import Window
from gatepost.logbook.places import data_folder
from tests.desk.typist import Typist

PATIENCE = 60.0  # s that anything may take


class Person:
    """Somebody who looks at the window and types. target: where the job is saved."""

    def __init__(self, window: Window, typist: Typist, target: Path) -> None:
        self.w, self.t, self.target = window, typist, target
        self._pause = threading.Event()

    def until(self, seen, what: str) -> None:
        """Look until something is seen."""
        limit = time.monotonic() + PATIENCE
        while not seen():
            if time.monotonic() > limit:
                focus = QApplication.focusWidget()
                raise AssertionError(f"not seen: {what}; focus {focus}, next {self.w.desk.next.words.text()!r}")
            self._pause.wait(0.02)

    def planned(self) -> None:
        """Until the figures stand, and what was pressed has been heard."""
        self._pause.wait(0.15)
        self.until(lambda: self.w.context.plan is not None, "a plan")

    def focused(self, name: str) -> None:
        """Until the field of a name has the focus."""
        self.until(lambda: getattr(QApplication.focusWidget(), "accessibleName", str)() == name, f"the field {name}")

    def fields(self, *figures: str) -> None:
        """Figures into fields one after the other; an empty one leaves a field as it is."""
        for figure in figures:
            if figure:
                self.t.type(figure)
            self.t.step("Tab")

    def sign(self) -> None:
        """The sign of the tow path."""
        t = self.t
        t.chord("ctrl+n")
        self.focused("Job")
        self.fields("Tow path", "", "600", "220", "22", "oak")
        t.chord("F8")
        self.focused("Caliper reading, the back left corner")
        for figure in ("21.4", "21.6", "21.5", "21.3"):
            t.type(figure)
            t.step("Return")
        t.step("Escape")
        self.planned()
        t.chord("space")
        self.focused("Text")
        t.type("TOW PATH")
        t.step("Return")
        self.planned()
        t.chord("ctrl+shift+Return")
        self.until(lambda: len(self.lines()) == 2, "a second line")
        self.focused("Text")
        t.type("No cycling")
        t.step("Return")
        t.chord("ctrl+shift+x")
        self.planned()
        t.step("Escape")
        self.until(lambda: any(o.kind == "cutout" for o in self.job().setup("front").operations), "the cut-out")
        self.mend()
        t.chord("ctrl+4")
        t.chord("F2")
        self.focused("X0 Y0 at")
        t.type("front left")
        t.step("Return", "Escape")
        self.until(lambda: self.job().setup("front").zero.xy == "front left", "the zero in the corner")
        self.mend()

    def job(self):
        """The job as it is."""
        return self.w.document.job

    def lines(self):
        """Its lines of lettering."""
        return [line for a in self.job().artwork if a.kind == "lettering" for line in a.figures.lines]

    def mend(self) -> None:
        """Whatever stands in the way, shown, then the first that is offered."""
        for _ in range(8):
            self.planned()
            plan = self.w.context.plan
            if plan.next.step is not None or plan.next.act:
                return
            before = self.job()
            self.take_fix()
            self.until(lambda before=before: self.job() != before, "a change")

    def take_fix(self) -> None:
        """The next step shown, and the first fix that is offered for it."""
        self.t.chord("space")
        self.until(
            lambda: QApplication.focusWidget() is not None and QApplication.focusWidget().property("fix"), "a fix"
        )
        self.t.chord("space")

    def save(self) -> None:
        """Ctrl+S, and the file's name."""
        self.t.chord("ctrl+s")
        self.until(lambda: isinstance(QApplication.activeModalWidget(), QFileDialog), "a file dialog")
        self.until(lambda: isinstance(QApplication.focusWidget(), QLineEdit), "its line")
        self.t.chord("ctrl+a", count=False)
        self.t.type(str(self.target))
        self.t.step("Return")
        self.until(self.target.exists, "the file")
        self.until(lambda: QApplication.activeModalWidget() is None, "the dialog gone")
        self.until(lambda: QApplication.activeWindow() is self.w, "the window again")

    def run(self) -> None:
        """Every step at the machine: Enter, held where something moves. Ticks are counted apart."""
        self.t.chord("ctrl+m")
        self.until(lambda: self.w.operator.state == "ready", "a machine")
        self.t.chord("F9")
        at_desk, w = self.t.acts, self.w
        for _ in range(120):
            self.until(
                lambda: w.machine.state == "ready" and not w.operator.busy and w.context.plan is not None,
                "a machine at rest",
            )
            if all(w.machine.done):
                break
            before = len(w.document.journal.entries)

            def done(before: int = before) -> bool:
                return len(w.document.journal.entries) > before or w.operator.busy

            held = w.machine.main.held
            self.t.hold("Return", 1.25 if held else 0.05, done if held else None)
            self.until(done, "something done")
        self.ticks = self.t.acts - at_desk
        self.t.acts = at_desk
        self.t.chord("ctrl+s")
        self.until(lambda: not w.document.dirty, "a saved job")


def as_expected(job: Job, runs: list[list[str]]) -> None:
    """The sign of the tow path, value by value, and what was run of it. Raises AssertionError."""
    assert (job.name, job.unit, job.wood.name) == ("Tow path", "mm", "oak")
    assert (job.blank.length, job.blank.width, job.blank.label_thickness) == (600.0, 220.0, 22.0)
    assert [(r.x, r.y, r.thickness) for r in job.blank.calipers] == [
        (24.0, 204.6, 21.4), (300.0, 204.6, 21.6), (576.0, 204.6, 21.5), (576.0, 15.4, 21.3),
    ]  # fmt: skip
    lettering, plate = job.artwork
    assert [(li.text, li.face, li.align) for li in lettering.figures.lines] == [
        ("TOW PATH", "Serif", "centre"), ("No cycling", "Serif", "centre"),
    ]  # fmt: skip
    assert (lettering.x, lettering.y, plate.x, plate.y) == (300.0, 110.0, 300.0, 110.0)
    assert (plate.figures.width, plate.figures.height) == (574.0, 176.0)  # as the first line is long
    front = job.setup("front")
    assert [o.kind for o in front.operations] == ["vcut", "cutout"]
    assert (front.zero.xy, front.zero.z) == ("front left", "top") and len(front.holds) >= 2
    assert [o.figures.wanted for o in job.setup("surface").operations] == ["no"]
    assert len({name for name, _ in runs}) == 2 and {state for _, state in runs} == {"done"}


def manage(window: Window, typist: Typist, seen: list[int]) -> None:
    """What a window manager does: the keys go to whatever is on top."""
    top = QApplication.activeModalWidget() or QApplication.activePopupWidget() or window
    handle = top.windowHandle()
    if handle is not None and QApplication.activeWindow() is not top and int(handle.winId()) not in seen[-1:]:
        seen.append(int(handle.winId()))
        typist.focus(seen[-1])
    elif QApplication.activeWindow() is top:
        seen.append(0)


def hour(person: type[Person]) -> int:
    """One first hour. argv: where to save."""
    target = Path(sys.argv[1])
    app = make_app()
    dress(app, "light")
    app.setAttribute(Qt.ApplicationAttribute.AA_DontUseNativeDialogs)
    window = Window(data_folder(), book, running=lambda: book(5.0))
    hook(window)
    window.operator.speed = "max"
    window.operator.next_seed = lambda: None
    window.show()
    typist = Typist(os.environ["DISPLAY"])
    seen: list[int] = []
    managing = QTimer()
    managing.timeout.connect(lambda: manage(window, typist, seen))
    managing.start(20)
    QTimer.singleShot(0, window.ready)
    told: dict[str, object] = {}
    somebody = person(window, typist, target)

    def live() -> None:
        try:
            somebody.until(lambda: QApplication.activeWindow() is window, "the window")
            for part in (somebody.sign, somebody.save, somebody.run):
                part()
                told[part.__name__] = typist.acts
            told["runs"] = [(r.program, r.state) for r in window.runs()]
        except BaseException:
            told["wrong"] = traceback.format_exc()

    thread = threading.Thread(target=live)

    def over() -> None:
        """Nothing is asked at the end."""
        if not thread.is_alive():
            if window.document is not None:
                window.document.stack.setClean()
                window.document.journal_saved = len(window.document.journal.entries)
            app.quit()

    managing.timeout.connect(over)
    thread.start()
    app.exec()
    thread.join()
    window.shut()
    print(json.dumps(told))
    return 1 if "wrong" in told else 0


if __name__ == "__main__":
    sys.exit(hour(Person))
