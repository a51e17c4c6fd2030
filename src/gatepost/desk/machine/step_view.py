# SPDX-License-Identifier: GPL-3.0-or-later
"""How a step is shown at the machine: its words, its one figure, what is typed for it, and which keys it has."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PyQt6.QtCore import pyqtSignal

from gatepost.core.run.reasons import reason
from gatepost.core.run.screens import screen_of
from gatepost.core.run.step import Step
from gatepost.core.units import spell
from gatepost.desk.machine.machine_keys import MachineKeys
from gatepost.desk.machine.machine_layout import CAPITAL, FIGURE_TALL, PAIR
from gatepost.desk.machine.places_row import AT
from gatepost.desk.machine.words import BUSY, VERBS, EndedRun, in_short, until_it_cuts
from gatepost.desk.theme.style import font
from gatepost.desk.view.figures import show_value
from gatepost.drawing.shapes import Drawing

if TYPE_CHECKING:
    from gatepost.core.plan.planned import PlannedSetup
    from gatepost.core.plan.result import Plan


STANDS_STILL = {
    "paused": "Paused: the spindle turns in one place and burns. Lift it, or go on. Never hands in: a pause is not isolation.",
    "lifted": "Lifted, and the spindle stands; it is not isolated. To reach in: stop it here, isolate, and resume from where it ended. Else look, "
    "and go down again into the place that was left.",
}  # what is said while a program stands still, by the state
POINT = "Click on the wood to take it up further back."
POINTED = "It is taken up where the ring is, or before. Click there again: where it ended."
NO_JOG = ("run", "take")  # steps at which nobody brings the tip anywhere by hand


class StepView(MachineKeys):
    """What of the view follows the step that is shown."""

    turned_to = pyqtSignal()  # another step is shown
    troubled = pyqtSignal(str)  # what is told of the step shown, in its own words

    def __init__(self, theme: str) -> None:
        super().__init__(theme)
        self.unit = "mm"
        self.plan: Plan | None = None
        self.steps: list[tuple[PlannedSetup, Step]] = []
        self.done: list[bool] = []
        self.at = 0
        self._typed_for = ("", "")
        self.pointed: tuple[float, float] | None = None  # on the bed, where a run that ended early is to be taken up
        self.seen = ""  # what is seen over the tip since it was jogged
        self.here = ""  # the step at which the tip was brought by hand to where it is about
        self.barred = ""  # what keeps everything from being done, or nothing
        self.linked = False
        self.named: tuple[str, ...] = ()
        self.state = "no link"
        self.link.setText("without a link")
        self.progress = (0, 0)
        self.ended: EndedRun | None = None
        self._told: tuple[float | None, str, str] | None = (
            None  # of the program that runs: minutes left, what is cut, what comes after
        )
        self.extra: tuple[Plan, PlannedSetup, Step] | None = (
            None  # a step that is no step of the plan: something cut again
        )

    def show_steps(self, plan: Plan, steps: list[tuple[PlannedSetup, Step]], done: list[bool], unit: str) -> None:
        """All steps, and which are done; the first that is not is shown."""
        self.unit, self.plan = unit, plan
        if self.extra is not None and self.extra[0].job != plan.job:
            self.extra = None  # it was of the job as it was
        self.barred = plan.shut[0].message if plan.shut else ""
        fresh = [s.key for _, s in steps] != [s.key for _, s in self.steps] or done != self.done
        self.steps, self.done = steps, done
        self.job.setText(plan.job.name)
        self.cutting.show_remarks(plan.job.machine.remarks)
        self.named = tuple(p.name for p in plan.job.machine.places)
        if fresh:
            self.show_trouble("")
            self.at = next((i for i, d in enumerate(done) if not d), max(len(steps) - 1, 0))
        self.go(self.at)

    def show_extra(self, plan: Plan, setup: PlannedSetup, step: Step) -> None:
        """A step that is no step of the plan, until it is done or left."""
        self.extra = (plan, setup, step)
        self.here = self.seen = ""
        self.show_trouble("")
        self.go(self.at)
        self.turned_to.emit()

    def leave_extra(self) -> None:
        """Back to the steps."""
        if self.extra is not None:
            self.extra = None
            self.go(self.at)
            self.turned_to.emit()

    def current(self) -> tuple[PlannedSetup, Step] | None:
        """The step shown."""
        if self.extra is not None:
            return self.extra[1:]
        return self.steps[self.at] if 0 <= self.at < len(self.steps) else None

    def go(self, index: int) -> None:
        """Show a step."""
        if not self.steps:
            self.step.setText("Nothing to do at the machine yet.")
            self.detail.setText(spell(self.barred, self.unit) or "Mend what the gates say at the desk first.")
            for label in (self.caution, self.count, *self.figures):
                label.setText("")
            for key in (self.rocks, self.again, self.leave, self.back, self.working, self.ledger):
                key.hide()
            for _, field in self.typed:
                field.hide()
            busy = self.state in BUSY
            for key in (self.halt, self.stop):
                key.setVisible(self.linked)
                key.setEnabled(busy)
            self.main.label("Show me at the desk", "Enter", False)
            return
        for key in (self.back, self.working):
            key.show()
        other = index != self.at
        self.at = min(max(index, 0), len(self.steps) - 1)
        if other:
            self.show_trouble("")
            self.working_out.hide()
            self.here = self.seen = ""
            self.turned_to.emit()
        setup, step = self.steps[self.at] if self.extra is None else self.extra[1:]
        self.where.setText(f"{setup.name} setup{f' · T{step.tool}' if step.tool else ''}")
        self.count.setText(
            "Beside the steps; Back leads to them"
            if self.extra is not None
            else "All steps are done"
            if all(self.done)
            else f"{self.at + 1} of {len(self.steps)}"
            + (" · done" if self.done[self.at] else until_it_cuts(self.steps, self.done, self.at))
        )
        self.step.setText(spell(step.title, self.unit))
        self.step.setToolTip(f"Without it: {reason(step).why}")
        self.detail.setText(self.seen or spell(step.detail, self.unit))
        self._show_beside()
        running = (self.state in BUSY or self.ended is not None) and step.kind == "run"
        self.caution.setText(spell(in_short(step.caution) if running else step.caution, self.unit))
        self._show_figure(setup, step)
        if self.ended is not None and step.kind == "run" and self.state not in BUSY and self.extra is None:
            self.step.setText(spell(self.ended.where, self.unit))
            self.detail.setText(spell(f"{POINT if self.pointed is None else POINTED} {self.ended.means}", self.unit))
        self._show_early(step)
        if self.state in STANDS_STILL and step.kind == "run":
            self.caution.setText(STANDS_STILL[self.state])
        if self._told is not None and step.kind == "run" and self.state in BUSY:
            self._show_left(*self._told)  # as it was told last: a pause takes none of it away
        self._show_typed(step)
        self._show_keys(setup, step)
        for label in self.figures:  # where there is none, the words have its room
            label.setVisible(bool(label.text()))

    def _show_beside(self) -> None:
        """The steps on the same screen: which are answered, and by which digit each is gone to."""
        seen = self.beside()
        self.others.setVisible(len(seen) > 1)
        if len(seen) > 1:
            titles = [spell(self.steps[i][1].title, self.unit) for i in seen]
            short = all(":" in t for t in titles)
            names = [t.partition(":")[0].removeprefix("Set ") if short else t for t in titles]
            rows = [
                f"{n} {'✓' if self.done[i] else '▸' if i == self.at else '○'} {name}"
                for n, (i, name) in enumerate(zip(seen, names), 1)
            ]
            self.others.setText("      ".join(rows) if short else "\n".join(rows))

    def beside(self) -> range:
        """The steps on the same screen, by their places."""
        if self.extra is not None or not self.steps:
            return range(0)
        return screen_of([s for _, s in self.steps], self.at)

    def to_answer(self, number: int) -> bool:
        """To one of the answers of this screen; gives whether it has so many."""
        seen = self.beside()
        if len(seen) > 1 and number <= len(seen):
            self.go(seen[number - 1])
            return True
        return False

    def _show_early(self, step: Step) -> None:
        """Before a run that ended early can be resumed: that it is there, and that it comes after what is to be done first."""
        busy = self.state in BUSY
        seen = self.ended is not None and step.kind != "run" and not busy and not all(self.done)
        self.early.setVisible(seen)
        if seen and self.ended is not None:
            self.early.setText(
                spell(f"{self.ended.program}: {self.ended.where} Resume it, once these steps are done.", self.unit)
            )

    def _show_figure(self, setup: PlannedSetup, step: Step) -> None:
        digits, sign = (
            ("", "")
            if step.figure is None
            else show_value(step.figure, step.unit, self.unit, 2 if step.unit == "length" else None)
        )
        size = FIGURE_TALL * self.per_mm() / CAPITAL
        if step.pair is not None:
            x, y = (show_value(v, "length", self.unit)[0] for v in step.pair)
            digits, size = f"X {x}\nY {y}", size * PAIR
        self.figure.setFont(font(size, True))
        self.label.setText(step.label if step.pair is None else step.label.partition(",")[0])
        self.figure.setText(digits)
        self.figure_unit.setText(sign)
        zero = setup.axes.z
        words = ""
        if step.kind == "zero z":
            words = f"Z0 = contact − {digits} {sign}"
        elif step.kind == "run":
            words = f"Z is {zero.trust.value}: {zero.why}"
        self.sum.setText(words)

    def _show_typed(self, step: Step) -> None:
        from gatepost.machine.by_hand import wanted

        names = wanted(step) if not self.linked or step.kind == "measure" else ()
        other = self._typed_for != (step.setup, step.key)  # what was typed for one step is not another's
        self._typed_for = (step.setup, step.key)
        for i, (name, field) in enumerate(self.typed):
            shown = i < len(names)
            name.setVisible(shown)
            if other or field.isVisible() != shown or (shown and name.text() != names[i]):
                field.clear()
            field.setVisible(shown)
            field.setFixedWidth(140 if len(names) < 4 else 96)
            if shown:
                name.setText(names[i])
                field.setAccessibleName(names[i])

    def _show_keys(self, setup: PlannedSetup, step: Step) -> None:
        busy = self.state in BUSY
        moves = step.moves and self.linked
        ended = self.ended is not None and step.kind == "run" and not busy and self.extra is None
        for key in (self.again, self.leave):
            key.setVisible(ended)
        verb = (
            "Set it here"
            if self.here == step.key
            else VERBS.get(step.kind, "Done")
            if self.linked or step.kind == "rock"
            else "Done"
        )
        listed = step.key.startswith("list-")
        bit = step.key.startswith("bit-")  # the other answer: to the rock test, or to whether it is the right bit
        self.rocks.label("Another bit…" if bit else "Not yet" if listed else "It rocks", "R", False, enabled=not busy)
        self.rocks.setVisible(step.kind == "rock" or bit or listed)
        self.lift.setVisible(self.state == "paused" and step.kind == "run")
        if self.state in ("paused", "lifted"):
            self.main.label("Down and on" if self.state == "lifted" else "Resume", "hold Enter", True)
        elif ended:
            self.main.label("Resume it…", "Enter", False)
        elif self.extra is None and self.done and all(self.done):
            self.main.label("Make another", "hold Enter", True, enabled=not busy)
        else:
            self.main.label(
                verb,
                "hold Enter" if moves else "Enter",
                moves,
                enabled=not busy and self.state not in ("connecting", "lost"),
            )
        self.back.setEnabled(not busy)
        self.ledger.setEnabled(not busy)
        self.ledger.setVisible(setup.first_face and step.kind != "rock")
        self.halt.label("Pause", "Esc", False, enabled=self.state == "busy")
        self.stop.label("Stop", "hold S", True, enabled=busy)
        self.halt.setVisible(self.linked)
        self.stop.setVisible(self.linked)
        self.cutting.setVisible(busy and self.linked and step.kind == "run")
        hands = step.reach or step.guard  # under the spindle, which is isolated for them
        self.jog.show_row(self.linked and self.state == "ready" and step.kind not in NO_JOG and not hands, self.unit)
        self.places.show_places(self.named, self.state == "ready" and step.key.partition("-")[0] in AT)

    def show_state(self, state: str, words: str) -> None:
        """The link's state."""
        self.state = state
        if state not in BUSY:
            self._told = None
        self.linked = state in ("ready", *BUSY, "lost", "connecting")
        if state not in ("ready", *BUSY):
            self.here = self.seen = ""  # another machine, or one that has lost its place, stands nowhere that was meant
        said = {
            "busy": "moving",
            "no link": "without a link",
            "lost": "link lost: look at the machine",
            "connecting": "connecting…",
        }.get(state, state)
        self.link.setText(said)
        self.simulated.setVisible(state in ("no link", "lost"))
        self.bar.setVisible(state in BUSY and self.progress[1] > 0)
        self.go(self.at)

    def show_trouble(self, words: str) -> None:
        """What a check or the machine has told of the step shown; nothing takes it away."""
        self.trouble.setText(spell(words, self.unit))
        self.trouble.setVisible(bool(words))
        self.troubled.emit(self.trouble.text())

    def brought(self, key: str) -> None:
        """The tip was brought by hand to where a step is about: it is set there."""
        self.here = key
        self.go(self.at)

    def say_seen(self, words: str) -> None:
        """What is seen over the tip, until another step is shown."""
        self.seen = words
        self.detail.setText(words)

    def show_progress(self, done: int, of: int, left: float | None, words: str, after: str) -> None:
        """Minutes left before anything else; what is being cut; and what comes after."""
        self.progress, self._told = (done, of), (left, words, after)
        self._show_left(left, words, after)
        self.bar.setUpdatesEnabled(False)  # else it paints at once, and with it all that waits to be painted
        self.bar.setMaximum(max(of, 1))
        self.bar.setValue(done)
        self.bar.setUpdatesEnabled(True)
        self.bar.setAccessibleName("How much of the program is done")
        self.bar.setVisible(self.state in BUSY)

    def _show_left(self, left: float | None, words: str, after: str) -> None:
        if left is not None:
            whole = round(60.0 * left)
            self.figure.setFont(font(FIGURE_TALL * self.per_mm() / CAPITAL, True))
            self.label.setText("left of this program")
            self.figure.setText(f"{whole // 60}:{whole % 60:02d}")
            self.figure_unit.setText("")  # its colon says it
            self.figure_unit.hide()
        if words:
            self.detail.setText(words)
        self.sum.setText(f"then: {after}" if after else "")
        self.sum.setVisible(bool(after))

    def show_ended(self, ended: EndedRun | None) -> None:
        """A run of this job has ended early, or none."""
        if ended != self.ended:
            self.ended, self.pointed = ended, None
            self.go(self.at)
            self.turned_to.emit()

    def show_bed(self, drawing: Drawing) -> None:
        """The bed."""
        self.bed.show_drawing(drawing, self.unit)

    def show_heights(self, drawing: Drawing | None) -> None:
        """The strip of heights, where they matter."""
        self.canvas.setVisible(drawing is not None)
        if drawing is not None:
            self.canvas.show_drawing(drawing, self.unit)

    def _fold(self) -> None:
        """The working under the words: it hides nothing."""
        now = self.current()
        self.working_out.setVisible(not self.working_out.isVisible() and now is not None)
        if now is not None:
            self.working_out.setText(spell(self._working_of(*now), self.unit))

    def _file_told(self, setup: PlannedSetup, step: Step) -> tuple[str, ...]:
        """What a program's own text says, and what is worn beside it."""
        from gatepost.core.plan.file_check import file_check
        from gatepost.core.run.protection import protection

        program = next((p for p in setup.programs if p.name == step.program), None)
        if program is None or self.plan is None:
            return ()
        job = self.plan.job
        told = file_check(setup, program, job.machine)
        return (*told.wrong, *told.told, *protection(job.wood.name, job.wood.kind, program.tool.rpm))

    def _working_of(self, setup: PlannedSetup, step: Step) -> str:
        """Where a step's figure comes from, and how far each zero is known."""
        if step.kind == "run":
            return " ".join([*self._file_told(setup, step), *([step.caution] if self.state in BUSY else [])])
        axes = ((n, a) for n, a in (("X", setup.axes.x), ("Y", setup.axes.y), ("Z", setup.axes.z)))
        known = " ".join(f"{name} is {axis.trust.value}: {axis.why}." for name, axis in axes)
        if step.kind == "zero z":
            return f"Z0 is the contact less what lies between, {step.label}. {known}"
        if step.figure is not None:
            return f"{step.label}: as planned, measured from the bed's front left corner where it is a place. {known}"
        return known
