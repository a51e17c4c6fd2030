# SPDX-License-Identifier: GPL-3.0-or-later
"""At the machine: the next step, the one figure that matters, and the heights; large enough for two metres away."""

from __future__ import annotations

from PyQt6.QtCore import pyqtSignal

from gatepost.core.run.step import Step
from gatepost.core.units import LengthError, parse_length
from gatepost.desk.machine.step_view import StepView
from gatepost.desk.machine.words import BUSY

SAME_PLACE = 8.0  # mm


class AtMachine(StepView):
    """The second view. It asks; the window does."""

    done_wanted = pyqtSignal(object, object, tuple)  # setup, step, typed read-outs
    still_wanted = pyqtSignal()
    resume_wanted = pyqtSignal()
    lift_wanted = pyqtSignal()
    lower_wanted = pyqtSignal(object, object)  # setup, step: down again into the place that was left, and on
    stop_wanted = pyqtSignal()
    desk_wanted = pyqtSignal()
    mend_wanted = pyqtSignal()  # what keeps everything from being done is to be seen at the desk
    simulated_wanted = pyqtSignal()
    told = pyqtSignal(str)
    ledger_wanted = pyqtSignal()
    rocks_wanted = pyqtSignal(object)  # setup: its work rocks
    other_wanted = pyqtSignal(object, object)  # setup, step: another bit is in the collet, knowingly
    fresh_wanted = pyqtSignal()  # another board lies there: all of it once more
    resume_run_wanted = pyqtSignal()  # a run that ended early, from where it ended
    again_wanted = pyqtSignal()  # the same, from its beginning
    leave_wanted = pyqtSignal()
    pointed_at = pyqtSignal(float, float)  # a place on the bed

    def __init__(self, theme: str) -> None:
        super().__init__(theme)
        self.to_desk.clicked.connect(self.desk_wanted.emit)
        self.simulated.clicked.connect(self.simulated_wanted.emit)
        self.back.fired.connect(lambda: self.leave_extra() if self.extra is not None else self.go(self.at - 1))
        self.working.fired.connect(self._fold)
        self.ledger.fired.connect(self.ledger_wanted.emit)
        self.main.fired.connect(self._main)
        self.rocks.fired.connect(self._rocks)
        self.again.fired.connect(self.again_wanted.emit)
        self.leave.fired.connect(self.leave_wanted.emit)
        self.halt.fired.connect(self._halt)
        self.stop.fired.connect(self.stop_wanted.emit)
        self.lift.fired.connect(self.lift_wanted.emit)
        self.jog.armed_changed.connect(lambda: self.go(self.at))
        self.bed.clicked.connect(lambda _key, x, y: self._point(x, y))
        for _, field in self.typed:
            field.returnPressed.connect(self.press_main)

    # -- keys -------------------------------------------------------------------------------------------------

    def press_main(self) -> None:
        """The main key goes down."""
        self.main.press()

    def _point(self, x: float, y: float) -> None:
        """A place of the wood is clicked: there, or before it, a run that ended early is to be taken up. The same place again: where it ended."""
        now = self.current()
        if self.ended is None or now is None or now[1].kind != "run" or self.state in BUSY:
            return
        self.pointed_at.emit(x, y)

    def take_place(self, place: tuple[float, float] | None) -> None:
        """A place that was cut, pointed at; nothing where none was near."""
        if place is None:
            self.told.emit("Nothing is cut there: click on a cut.")
            return
        was = self.pointed
        same = was is not None and abs(was[0] - place[0]) + abs(was[1] - place[1]) < SAME_PLACE
        self.pointed = None if same else place
        self.go(self.at)
        self.turned_to.emit()

    def _halt(self) -> None:
        if self.state == "busy":
            self.still_wanted.emit()

    def _rocks(self) -> None:
        now = self.current()
        if now is not None and now[1].kind == "rock":
            self.rocks_wanted.emit(now[0])
        elif now is not None and now[1].key.startswith("list-"):
            self._not_yet(now[1])
        elif now is not None:
            self.other_wanted.emit(*now)

    def _not_yet(self, step: Step) -> None:
        """Back to the step that an answer of the shop's list hangs on."""
        there = next(
            (i for i in range(self.at - 1, -1, -1) if self.steps[i][1].setup == step.setup and step.back and self.steps[i][1].key.partition("-")[0] == step.back),
            None,
        )  # fmt: skip
        if there is None:
            self.told.emit("Put it right first, then say so here.")
        else:
            self.go(there)

    def _main(self) -> None:
        now = self.current()
        if self.state == "paused":
            self.resume_wanted.emit()
            return
        if self.state == "lifted" and now is not None:
            self.lower_wanted.emit(*now)
            return
        if now is None:
            self.mend_wanted.emit()
            return
        if self.ended is not None and now[1].kind == "run" and self.state not in BUSY and self.extra is None:
            self.resume_run_wanted.emit()
            return
        if self.extra is None and all(self.done):
            self.fresh_wanted.emit()
            return
        typed: list[float] = []
        for name, field in self.typed:
            if field.isVisibleTo(self):
                try:
                    is_length = "minutes" not in name.text()
                    typed.append(
                        parse_length(field.text(), self.unit) if is_length else float(field.text().replace(",", "."))
                    )
                except (LengthError, ValueError):
                    self.told.emit(f"Type “{name.text()}” first, as the control shows it.")
                    field.setFocus()
                    return
        self.show_trouble("")
        self.done_wanted.emit(now[0], now[1], tuple(typed))
