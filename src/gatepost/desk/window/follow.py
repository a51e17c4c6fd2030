# SPDX-License-Identifier: GPL-3.0-or-later
"""What the machine says, shown as it comes: its state, where the tip is, how far a program is, how a step ended."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from typing import TYPE_CHECKING, Any

from PyQt6.QtCore import QElapsedTimer, QObject, QTimer, pyqtSignal
from PyQt6.QtWidgets import QApplication

from gatepost.core.blank.shape import polygon
from gatepost.core.run.standing import done_all
from gatepost.core.run.vacuum import ASKED
from gatepost.core.units import spell
from gatepost.desk.machine.words import BUSY
from gatepost.desk.tidier import Tidier
from gatepost.desk.window.live_wood import LiveWoodPicture
from gatepost.drawing.live import StillBed

if TYPE_CHECKING:
    from gatepost.core.plan.planned import PlannedSetup
    from gatepost.core.plan.result import Plan
    from gatepost.core.run.step import Step
    from gatepost.desk.context.desk_context import DeskContext
    from gatepost.desk.machine.at_machine import AtMachine
    from gatepost.desk.machine.operator import Operator
    from gatepost.desk.window.drawings import Drawings
    from gatepost.drawing.live import LivePath
    from gatepost.drawing.shapes import Drawing

PAINT_EVERY = 120  # ms between pictures while the machine moves
CROWDED = ("pass-text", "travel-text", "muted")  # words that stand on each other at true scale
HIGH = ("zero z", "again", "sensor", "depth", "fit", "measure")  # steps at which heights matter


class MachineFollower(QObject):
    """here: whether the view at the machine is the one that is looked at. noticed: a check or a stop has told of something, at which
    step; moved: the tip is elsewhere, and the desk is looked at."""

    noticed = pyqtSignal(str, str)
    moved = pyqtSignal()

    def __init__(
        self, desk: DeskContext, view: AtMachine, drawings: Drawings, operator: Operator, here: Callable[[], bool]
    ) -> None:
        super().__init__(desk)
        self._desk, self._view, self._drawings, self._here = desk, view, drawings, here
        self._showing, self._operator = desk.showing, operator
        self._told, self._drawn = QElapsedTimer(), QElapsedTimer()
        self._path: LivePath | None = None
        self._moves = 0  # of its path that are done
        self._wood, self._waits = LiveWoodPicture(self), False
        self._still = StillBed()
        self._room: tuple[PlannedSetup, tuple[float, float, float, float]] | None = (
            None  # of the setup that was drawn last
        )
        self._wood.made.connect(self._swept)
        view.turned_to.connect(self.draw)
        view.pointed_at.connect(self._pointed_at)
        operator.state_changed.connect(self.link_state)
        operator.heard.connect(self.heard)
        operator.progressed.connect(self.progress)
        operator.finished.connect(self.step_finished)

    # -- steps ----------------------------------------------------------------------------------------------------

    def show_steps(self) -> None:
        """All steps of the plan, and which are done."""
        plan, document = self._showing.plan, self._desk.document
        if plan is None or document is None:
            return
        steps = [(s, step) for s in plan.setups for step in s.steps] if not plan.shut else []
        done = [bool(at) for s in plan.setups for at in done_all(document.journal, s.steps)] if steps else []
        self._view.show_steps(plan, steps, done, plan.job.unit)
        if self._here():
            self.draw()

    def draw(self) -> None:
        """Bed and heights at the machine follow its step."""
        self._drawn.start()
        now, plan = self._view.current(), self._plan
        if plan is not None and now is None:
            self._barred(plan)
        self._draw_bed()
        self._draw_heights()

    def _draw_bed(self) -> None:
        from gatepost.drawing.live import machine_bed

        now, plan = self._view.current(), self._plan
        if plan is None or now is None:
            return
        setup, step = now
        before = self._cut_before(setup, step)
        path = self._path_of(plan, setup, step)
        tip = self._showing.tip
        ended = self._view.ended
        moves = ended.moves if ended is not None and tip is None else self._moves
        self._sweep(setup, step, path, before, moves)
        shown = machine_bed(
            plan, setup, step, before, self._picture_of, path, moves, tip[:2] if tip and path else None, plan.job.unit, self._view.pointed or (tip[:2] if tip and self._view.jog.armed else None), self._still,
        )  # fmt: skip
        self._view.show_bed(shown)

    def _draw_heights(self) -> None:
        now, plan = self._view.current(), self._plan
        if plan is not None and now is not None:
            self._view.show_heights(self._heights(plan, *now, self._cut_before(*now)))

    def _sweep(self, setup: PlannedSetup, step: Step, path: LivePath | None, before: int, moves: int) -> None:
        """The wood as it is now, where a program runs or has ended early."""
        from gatepost.drawing.bed import field_after

        if path is None or step.kind != "run" or step.bare or not moves:
            self._wood.drop()
        else:
            self._wood.follow(setup, path.program, field_after(setup, before), moves)

    def _swept(self) -> None:
        """The wood has been swept further: shown soon, with whatever else has come by then."""
        self._draw_soon()

    def _draw_soon(self) -> None:
        """One picture of all that comes meanwhile."""
        if not self._waits:
            self._waits = True
            QTimer.singleShot(
                max(0, PAINT_EVERY - self._drawn.elapsed()) if self._drawn.isValid() else 0, self._show_swept
            )

    def _show_swept(self) -> None:
        """The bed, and the heights when the window has answered what came meanwhile."""
        self._waits = False
        if self._here():
            self._drawn.start()
            self._draw_bed()
            QTimer.singleShot(0, self._show_heights)

    def _show_heights(self) -> None:
        if self._here():
            self._draw_heights()

    def _picture_of(self, field: Any) -> Any:
        """The wood's picture: as it is swept, where a program runs."""
        return self._wood.pixels if self._wood.pixels is not None else self._drawings.picture_of(field)

    def _pointed_at(self, x: float, y: float) -> None:
        """Where the wood was clicked: the cut nearest to that, of the run that ended early."""
        now, plan, ended = self._view.current(), self._plan, self._view.ended
        path = self._path_of(plan, *now) if plan is not None and now is not None else None
        if path is not None and ended is not None:
            self._view.take_place(path.nearest_cut(ended.moves, x, y))

    def _barred(self, plan: Plan) -> None:
        """The bed with what is in the way."""
        from gatepost.drawing.bed import bed

        stop = next((f for f in plan.stops if f.setup), None)
        setup = (plan.setup(stop.setup) if stop is not None else None) or plan.carving
        drawing = bed(plan, setup.name, "hold", unit=plan.job.unit)
        self._view.show_bed(replace(drawing, extents=drawing.close or drawing.extents, rulers=False, subtitle=""))
        self._view.show_heights(None)

    def _path_of(self, plan: Plan, setup: PlannedSetup, step: Step) -> LivePath | None:
        """The path of the program that runs, or is to be run next; kept for as long as it is the same."""
        from gatepost.drawing.live import live_path

        ended = self._view.ended
        name = step.program if step.kind == "run" else ended.program if ended is not None else ""
        program = plan.program(name)
        if program is None or program.setup != setup.name:
            return None
        if self._path is None or self._path.program.fingerprint != program.fingerprint:
            self._path, self._moves = live_path(plan, setup, program), 0
        return self._path

    def _heights(self, plan: Plan, setup: PlannedSetup, step: Step, before: int) -> Drawing | None:
        """The strip, where heights matter: at true scale."""
        from gatepost.drawing.heights import heights

        moving = self._showing.tip is not None
        if step.bare or (not moving and step.kind not in HIGH):
            return None
        stage = "run" if step.kind == "run" or moving else "zero" if step.kind.startswith("zero") else "hold"
        look = replace(self._drawings.look("run"), after=before, wood=self._wood.field)
        if step.place is not None and look.tip is None:  # along the step's own place, where there is wood
            b = setup.blank
            low, high = (setup.at(b.middle[0], y)[1] for y in (b.box[1] + 2.0, b.box[3] - 2.0))
            look = replace(look, y=min(max(step.place[1], low), high))
        drawing = heights(plan, setup.name, stage, look)
        x0, _, x1, _ = self._near(setup)
        shapes = tuple(s for s in drawing.shapes if s.role not in CROWDED)
        return replace(
            drawing, shapes=shapes, extents=(x0, drawing.extents[1], x1, drawing.extents[3]), title="Heights through the tip, true scale", subtitle="", rulers=False,
        )  # fmt: skip

    def _near(self, setup: PlannedSetup) -> tuple[float, float, float, float]:
        if self._room is None or self._room[0] is not setup:
            x0, y0, x1, y1 = setup.placed.to_bed.area(polygon(setup.blank)).bounds
            self._room = setup, (x0 - 30.0, y0, x1 + 30.0, y1)
        return self._room[1]

    @property
    def _plan(self) -> Plan | None:
        """The plan of the step shown: with what is cut again, where that is."""
        return self._view.extra[0] if self._view.extra is not None else self._showing.plan

    def _cut_before(self, setup: Any, step: Any) -> int:
        """How many of a setup's operations are cut before a step."""
        plan = self._plan
        assert plan is not None
        earlier = setup.steps[: [s.key for s in setup.steps].index(step.key)]
        programs = [plan.program(s.program) for s in earlier if s.kind == "run"]
        return sum(len(p.operations) for p in programs if p is not None)

    # -- the link -------------------------------------------------------------------------------------------------

    def link_state(self, state: str, words: str) -> None:
        """The link's state changed."""
        self._view.show_state(state, words)
        app = QApplication.instance()
        tidier = app.findChild(Tidier) if app is not None else None
        if tidier is not None:
            tidier.machine_moves(state in BUSY)
        if state in ("ready", "no link", "lost"):
            self._showing.tip = None

    def step_finished(self, outcome: str, words: str) -> None:
        """A step ended: what went wrong is told, and stays."""
        if outcome == "done":
            self._view.leave_extra()
            self._moves = 0  # another board is not cut yet
        if words:
            self._desk.messages.warn(words)
            self._view.show_trouble(words)
            now = self._view.current()
            self.noticed.emit(words, now[1].title if now is not None else "")
        elif outcome == "stopped":
            self._desk.messages.say("Stopped. Look at the work before anything else; the run is in the log.")

    def heard(self, event: Any) -> None:
        """The machine said something."""
        often = self._told.isValid() and self._told.elapsed() < PAINT_EVERY and event.data.get("state") == "moving"
        if event.kind == "state" and self._showing.plan is not None and not often:
            self._told.start()
            self._tip_at(event.data["state"], event.data["machine"])
        elif event.kind in ("paused", "lifted"):
            self._view.show_state(event.kind, "")
            if event.kind == "paused" and self._operator.held:
                self.progress(self._operator.block, self._view.progress[1])
        elif event.kind == "fault":
            reason = event.data.get("reason")
            self._desk.messages.warn(f"The machine stopped with a fault: {reason}. Home it before going on.")
        if event.kind == "state" and event.data["state"] == "moving" and self._view.state in ("paused", "lifted"):
            self._view.show_state("busy", "")

    def _tip_at(self, state: str, at: tuple[float, float, float]) -> None:
        plan = self._showing.plan
        assert plan is not None
        machine, now = plan.job.machine, self._view.current()
        number = now[0].axes.tool if now is not None else None
        length = next((t.length for t in plan.job.tools if t.number == number), 0.0)
        x, y, z = at
        moves = state in ("moving", "paused", "lifted") or self._view.jog.armed
        there = (x + machine.travel_x, y + machine.travel_y, z + machine.nose_at_home - length)
        self._showing.tip = there if moves else None
        if self._here():
            self._draw_soon()
        else:
            self.moved.emit()

    def progress(self, done: int, of: int) -> None:
        """Time left, the letter that is being cut, and what comes next."""
        now, plan = self._view.current(), self._plan
        if now is None or plan is None:
            return
        program = plan.program(now[1].program)
        left, words = None, ""
        if program is not None:
            from gatepost.core.plan.planned import learned_seconds

            really = learned_seconds(now[0], program, plan.job.machine)
            left = program.seconds_after(done) / 60.0 * (really / program.seconds if really else 1.0)
            path = self._path_of(plan, *now)
            if path is not None:
                self._moves = path.moves_done(done)
                here, later = path.letter_at(self._moves)
                words = f"Cutting {here}." + (f" Next: {later}." if later else "") if here else ""
            words = ASKED if self._operator.held else words
        words = words or f"Block {done} of {of} is done."
        self._view.show_progress(done, of, left, words, self._after_this())

    def _after_this(self) -> str:
        """What comes after the step shown at the machine."""
        view = self._view
        if self._showing.plan is None or view.at + 1 >= len(view.steps):
            return ""
        return spell(view.steps[view.at + 1][1].title, self._desk.unit)
