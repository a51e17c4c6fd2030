# SPDX-License-Identifier: GPL-3.0-or-later
"""Shows a plan: which stage, which setup, which drawing; and what dragging asks for."""

from __future__ import annotations

import weakref
from dataclasses import replace
from pathlib import Path
from typing import TYPE_CHECKING, Any

from PyQt6.QtCore import QElapsedTimer, QObject, QTimer

from gatepost.core.findings import Gate
from gatepost.core.job.turning import lies
from gatepost.core.run.standing import done_all
from gatepost.core.units import show_length, spell
from gatepost.desk.pages.table import entries
from gatepost.desk.shell.fence import NAMES, STAGES
from gatepost.desk.shell.setupswitch import Shown

if TYPE_CHECKING:
    from gatepost.desk.shell.desk import DeskView
    from gatepost.desk.shell.window import Window

SOON = 12  # ms
SLANT = 15.0  # mm across; less is a line along X
PAINT_EVERY = 120  # ms between pictures while the machine moves
WOOD_STAGES = ("carve", "tools", "run", "surface")


class PlanPresenter(QObject):
    """What is on the desk and at the machine now."""

    def __init__(self, window: Window, desk: DeskView) -> None:
        super().__init__(window)
        self.w = window
        desk.bed.drawing = desk.heights.drawing = None
        self._told = QElapsedTimer()
        self._pictures: weakref.WeakKeyDictionary[Any, Any] = weakref.WeakKeyDictionary()
        self._asked: tuple[Any, ...] | None = None  # what a drag has asked and not heard yet
        self._to_ask: tuple[Any, ...] | None = None
        self._nothing()

    def forget(self) -> None:
        """Another job: nothing is known of it yet."""
        self._nothing()
        self.w.desk.bed.drawing = None
        self.w.desk.heights.drawing = None

    def _nothing(self) -> None:
        self.plan: Any = None
        self.stage, self.setup = "blank", ""
        self.wish = ""  # a setup to be shown once it is planned
        self.chosen = ""  # the one that was chosen last, whatever a stage shows meanwhile
        self.after = -1
        self.line_y: float | None = None
        self.slant: tuple[float, float, float, float] | None = None
        self.tip: tuple[float, float, float] | None = None
        self.blocks: tuple[int, int] = (0, 0)
        self.drawing = False

    # -- a plan comes -------------------------------------------------------------------------------------------

    def reckoning(self, busy: bool) -> None:
        """Say that figures are being reckoned."""
        words = "working it out…" if busy else ""
        self.w.desk.bed.busy = words
        self.w.desk.bed.update()

    def pictured(self, field: Any, pixels: Any) -> None:
        """The picture of a height field has come."""
        self._pictures[field] = pixels
        if self.plan is not None and field in self._shown_fields():
            self._draw_soon()

    def _shown_fields(self) -> list[Any]:
        setup = self.plan.setup(self.setup)
        return [setup.start, *(op.after for op in setup.operations)] if setup is not None else []

    def plan_ready(self, plan: Any) -> None:
        """Show a new plan, or a first look at one."""
        first = self.plan is None
        self.plan = plan
        self.reckoning(plan.coarse)
        if self.w.ledger_dialog is not None and self.w.document is not None and not plan.coarse:
            self.w.ledger_dialog.refresh(plan, self.w.document.journal)
        if first:  # a small board is shown from near
            self.w.desk.bed.near = plan.job.blank.across[0] < 0.45 * plan.job.machine.travel_x
        if self.wish and plan.setup(self.wish) is not None:
            self.setup, self.wish = self.wish, ""
        if first or plan.setup(self.setup) is None:
            self.setup = plan.next.setup if plan.next.setup and plan.setup(plan.next.setup) else plan.setups[-1].name
        self.show()

    def go(self, stage: str) -> None:
        """Open a stage."""
        if stage != self.stage:
            self.after, self.line_y, self.slant = -1, None, None
        self.stage = stage
        if self.plan is not None:
            self.setup = self._setup_for(stage, self.plan)
        self.w.desk.fence.go(stage)
        if stage == "log":
            self.show_log()
        self.show()

    def _setup_for(self, stage: str, plan: Any) -> str:
        """Which setup a stage is looked at in: the one that was chosen, where the stage has something to do with it."""
        shown = plan.setup(self.chosen) or plan.setup(self.setup)
        now = shown.name if shown is not None else self.setup
        if stage == "surface" and (shown is None or not shown.flattens):
            return next((s.name for s in plan.setups if s.flattens), now)
        if stage == "carve" and (shown is None or shown.flattens):
            return plan.carving.name
        if stage == "blank":  # readings are of the front as it is laid first
            return next((s.name for s in plan.setups if s.setup.up == "front"), now)
        return now

    def choose_setup(self, name: str) -> None:
        """Show another setup; one that is not planned yet once it is."""
        self.wish = self.chosen = name
        if self.plan is not None and self.plan.setup(name) is not None:
            self.setup, self.wish = name, ""
            self.after, self.line_y, self.slant = -1, None, None
        self.show()

    # -- showing --------------------------------------------------------------------------------------------------

    def entered(self) -> None:
        """Something was entered: the page says so at once; the drawings follow with the plan."""
        if self.w.document is None:
            return
        if self.w.pages.currentWidget() is self.w.machine:
            if self.plan is not None:
                self._machine()  # what is ticked is ticked at once
            return
        self._head()
        self._slate()

    def show(self) -> None:
        """Put the page right."""
        if self.w.document is None:
            return
        self._head()
        self._buttons()
        self._slate()
        if self.plan is None:
            return
        self._fence()
        self._scrub()
        self._next()
        self._draw_soon()

    def _head(self) -> None:
        document = self.w.document
        assert document is not None
        desk, job = self.w.desk, document.job
        desk.top.name.setText(job.name)
        size = f"{job.wood.name} · {' × '.join(show_length(v, job.unit) for v in job.blank.across)}"
        desk.top.line.setText(f"  {size} {'mm' if job.unit == 'mm' else 'in'}")
        desk.top.units[job.unit].setChecked(True)
        desk.top.views["desk"].setChecked(True)
        desk.stack.setCurrentWidget(desk.log if self.stage == "log" else desk.split)
        desk.link.setVisible(self.stage == "run")

    def _draw_soon(self) -> None:
        """A moment later, so that keys are answered in between, and once for all that come together."""
        if not self.drawing:
            self.drawing = True
            QTimer.singleShot(SOON, self._draw)

    def _draw(self) -> None:
        if self.w.desk.bed.dragging:  # what is in the hand stays in the hand
            QTimer.singleShot(4 * SOON, self._draw)
            return
        self.drawing = False
        if self.plan is None or self.w.document is None:
            return
        if self.w.pages.currentWidget() is self.w.machine:
            self._machine()
        else:
            self._drawings()
            QTimer.singleShot(SOON, self._machine_soon)

    def _machine_soon(self) -> None:
        if self.plan is not None and self.w.document is not None:
            self._machine()

    def _buttons(self) -> None:
        if self.w.document is None:
            return
        told = [
            Shown(s.id, s.title or s.id, self.plan is None or self.plan.setup(s.id) is not None, lies(s))
            for s in self.w.document.job.setups
        ]
        self.w.desk.setups.show_setups(told, self.setup)

    def _slate(self) -> None:
        document = self.w.document
        assert document is not None
        if self.stage == "log":
            return
        report = self.plan.report(self.stage, self.setup) if self.plan is not None else None
        groups = entries(self.stage, document.job, self.setup, document.kinds)
        called = next((s.title or s.id for s in document.job.setups if s.id == self.setup), self.setup)
        name = NAMES[self.stage] + (f", {called}" if self.stage in ("hold", "zero") else "")
        if report is not None:
            told = tuple(f for f in report.figures if f.setup in ("", self.setup))
            report = replace(report, figures=told)
        self.w.desk.slate.show_stage(name, report, groups, self.plan, document.job.unit, self.w.theme)

    def _fence(self) -> None:
        unit = self.plan.job.unit
        order = (Gate.SHUT, Gate.AJAR, Gate.WAITING, Gate.OPEN, Gate.NOT_NEEDED, Gate.NOT_BUILT)
        gates: dict[str, tuple[Gate, str]] = {}
        for stage in STAGES:
            reports = [r for (s, _), r in self.plan.reports.items() if s == stage]
            worst = min(reports, key=lambda r: order.index(r.gate))
            mine = self.plan.report(stage, self.setup) if stage in ("hold", "zero") else worst
            shown = worst if worst.gate in (Gate.SHUT, Gate.AJAR) else mine
            gates[stage] = (shown.gate, spell(shown.fact, unit))
        count = len(self.w.desk.log.rows)
        gates["log"] = (Gate.OPEN, f"{count} run{'s' if count != 1 else ''}" if count else "")
        self.w.desk.fence.show_gates(gates)

    def _scrub(self) -> None:
        """The slider: over operations, on the Surface page over passes."""
        desk = self.w.desk
        setup = self.plan.setup(self.setup)
        passes = self._passes()
        count = len(passes) if self.stage == "surface" else len(setup.operations) if setup is not None else 0
        desk.scrub_row.setVisible(self.stage in WOOD_STAGES and count > 0)
        desk.scrub.blockSignals(True)
        desk.scrub.setRange(0, count)
        from gatepost.drawing.bed import shown_count

        if self.stage == "surface":
            shown = max(0, min(self.after, count))
            words = self._pass_words(shown)
        else:
            shown = shown_count(setup, self.stage, self.after) if setup is not None else 0
            words = "as it is at the start" if shown == 0 else f"after {setup.operations[shown - 1].name}"
        desk.scrub.setValue(shown)
        desk.scrub.blockSignals(False)
        desk.scrub_words.setText(words)
        stops = self.plan.job.surfacing.stop_after or count
        desk.stop_here.setVisible(
            self.stage == "surface" and setup is not None and setup.first_face and 0 < shown <= count and shown != stops
        )
        desk.stop_here.setText("Run all passes" if shown == count else f"Stop after pass {shown}")

    def _passes(self) -> tuple[Any, ...]:
        setup = self.plan.setup(self.setup)
        return tuple(setup.passes) if setup is not None else ()

    def _pass_words(self, shown: int) -> str:
        """What a pass leaves, in words."""
        passes = self._passes()
        if not shown:
            return "as it is at the start"
        now, unit = passes[shown - 1], self.plan.job.unit
        left = show_length(now.z - passes[-1].z, unit)
        thick = show_length(now.z - self.plan.setup(self.setup).surfaced.under, unit)
        return f"pass {shown}: {100 * now.clean:.0f} % clean · {left} left · {thick} thick"

    def stop_here(self) -> None:
        """Stop the surfacing after the pass shown, or run them all."""
        count = len(self._passes())
        if self.stage == "surface" and 0 < self.after <= count:
            self.w.run("set surfacing", {"stop_after": 0 if self.after == count else self.after}, "stop after pass")

    def step_wood(self, count: int) -> None:
        """Show the wood after so many operations."""
        self.after = count
        if self.plan is not None:
            self._scrub()
            self._drawings()

    def _drawings(self) -> None:
        from gatepost.drawing.bed import bed
        from gatepost.drawing.heights import heights
        from gatepost.drawing.lanes import lanes

        desk, unit = self.w.desk, self.plan.job.unit
        if self.stage == "log":
            return
        stage = self.stage if self.stage in ("blank", "surface", "hold", "zero", "carve", "tools", "run") else "zero"
        at = self.tip[:2] if self.tip is not None and stage == "run" else None
        desk.bed.show_drawing(
            bed(self.plan, self.setup, stage, self.after, at, unit, self._pictures.get, self._photo()), unit
        )
        if stage == "tools":
            desk.heights.show_drawing(lanes(self.plan), unit)
            return
        desk.heights.show_drawing(heights(self.plan, self.setup, stage, self._look(stage)), unit)

    def _photo(self) -> bytes:
        """The squared-up photo of the board, as a file."""
        photo = self.plan.job.blank.photo
        return self.w.document.pictures.get(photo.squared, b"") if photo is not None and self.w.document else b""

    def _look(self, stage: str) -> Any:
        from gatepost.drawing.heights import Look

        tool = None
        if self.tip is not None and self.plan is not None:
            setup = self.plan.setup(self.setup)
            number = setup.axes.tool if setup is not None else None
            tool = next((t for t in self.plan.job.tools if t.number == number), None)
        tip = self.tip if stage == "run" else None
        return Look(self.line_y, self.after, tip, tool if tip else None, self.plan.job.unit, self.slant)

    def _next(self) -> None:
        step = self.plan.next.step
        self.w.messages.unit = self.plan.job.unit
        verb = "Show me"
        if step is not None:
            verb = "At the machine" if step.moves else ("Done" if self.stage == self.plan.next.stage else "Show me")
        self.w.desk.next.say(spell(self.plan.next.sentence, self.plan.job.unit), verb)

    def _machine(self) -> None:
        steps = [(s, step) for s in self.plan.setups for step in s.steps] if not self.plan.stops else []
        journal = self.w.document.journal if self.w.document is not None else None
        if journal is None:
            return
        done = [bool(at) for s in self.plan.setups for at in done_all(journal, s.steps)] if steps else []
        self.w.machine.show_steps(self.plan, steps, done, self.plan.job.unit)
        if self.w.pages.currentWidget() is self.w.machine:
            self.machine_heights()

    def machine_heights(self) -> None:
        """The strip at the machine follows its step."""
        from gatepost.drawing.heights import heights

        now = self.w.machine.current()
        if now is None or self.plan is None:
            return
        setup, step = now
        stage = (
            "run" if step.kind == "run" or self.tip is not None else "zero" if step.kind.startswith("zero") else "hold"
        )
        look = replace(self._look("run"), after=self._cut_before(setup, step))
        if step.place is not None and look.tip is None:  # along the step's own place, where there is wood
            b = setup.blank
            low, high = (setup.at(b.middle[0], y)[1] for y in (b.box[1] + 2.0, b.box[3] - 2.0))
            look = replace(look, y=min(max(step.place[1], low), high))
        self.w.machine.show_heights(heights(self.plan, setup.name, stage, look))

    def _cut_before(self, setup: Any, step: Any) -> int:
        """How many of a setup's operations are cut before a step."""
        earlier = setup.steps[: [s.key for s in setup.steps].index(step.key)]
        programs = [self.plan.program(s.program) for s in earlier if s.kind == "run"]
        return sum(len(p.operations) for p in programs if p is not None)

    # -- handling ---------------------------------------------------------------------------------------------------

    def moved_on_bed(self, key: str, dx: float, dy: float, let_go: bool) -> None:
        """Something was dragged or nudged on the bed."""
        if self.w.document is None:
            return
        if not let_go:
            self._judge(key, dx, dy)
            return
        self._to_ask = None
        from gatepost.core.plan.handling import moved

        edit = moved(self.w.document.job, self.setup, key, dx, dy, kinds=self.w.document.kinds)
        if edit is not None:
            self.w.run(edit[0], edit[1], f"move {key}")

    def _judge(self, key: str, dx: float, dy: float) -> None:
        """Ask what a dragged hold would say there: one question at a time, the newest next."""
        if not key.startswith("hold:") or self.w.reckoner is None:
            return
        question = ("judge", self.setup, key, dx, dy)
        if self._asked is not None:
            self._to_ask = question
            return
        self._asked = question
        self.w.reckoner.question(*question)

    def told(self, answer: Any) -> None:
        """The answer to a small question."""
        if answer.outcome in ("sheet", "write", "check"):
            tell = self.w.messages.warn if answer.plan is False else self.w.messages.say
            tell(answer.words)
            return
        if answer.outcome in ("drawing", "reduce", "trace"):
            self.w.outline_told(answer)
            return
        if answer.outcome in ("ways", "share"):
            self.w.ways_told(answer)
            return
        if answer.outcome == "call off":
            return
        if answer.outcome == "resume":
            if answer.plan is False:
                self.w.messages.warn(answer.words)
            else:
                self.w.take_up(*answer.plan)
            return
        self._asked = None
        verdict = answer.plan
        if verdict is not None and self.plan is not None:
            unit = self.plan.job.unit
            name = verdict.key.partition(":")[2]
            words = spell(verdict.sentence, unit) if verdict.sentence else f"{name} is clear of every move here."
            bad = verdict.worst is not None and verdict.worst.value == "stop"
            self.w.desk.bed.judged(verdict.key, verdict.by, bad, words)
        if self._to_ask is not None:
            question, self._to_ask = self._to_ask, None
            self._asked = question
            self.w.reckoner.question(*question)

    def moved_in_heights(self, key: str, dx: float, dy: float, let_go: bool) -> None:
        """Something was dragged in the heights: Z0 goes to the top or the bed."""
        if not let_go or self.plan is None or self.w.document is None:
            return
        from gatepost.core.plan.handling import z_dragged

        if key == "z0":
            setup = self.plan.setup(self.setup)
            top = float(setup.start.z.max())
            edit = z_dragged(self.w.document.job, self.setup, setup.zero_height + dy, top)
            self.w.run(edit[0], edit[1], "move Z0")

    def picked(self, key: str) -> None:
        """Something was chosen on the bed: a place to touch off is taken."""
        if key.startswith("spot:") and self.plan is not None:
            _, number, letter = key.split(":")
            setup = self.plan.setup(self.setup)
            for change in setup.changes:
                if change.tool.number == int(number):
                    spot = change.spots["ABC".index(letter)]
                    self.w.run(
                        "set touch",
                        {"setup": self.setup, "tool": int(number), "x": spot.x, "y": spot.y},
                        "choose a place to touch off",
                    )

    def line_across(self, x0: float, y0: float, x1: float, y1: float) -> None:
        """A line was dragged across the bed: the heights follow it; one that runs along X, or hardly runs, all across."""
        level = abs(y1 - y0) < max(0.09 * abs(x1 - x0), SLANT)
        self.line_y, self.slant = (y1, None) if level else (None, (x0, y0, x1, y1))
        if self.plan is not None and self.stage not in ("tools", "log"):
            from gatepost.drawing.heights import heights

            stage = self.stage if self.stage in ("blank", "surface", "hold", "zero", "carve", "run") else "zero"
            self.w.desk.heights.show_drawing(
                heights(self.plan, self.setup, stage, self._look(stage)), self.plan.job.unit
            )

    # -- machine ------------------------------------------------------------------------------------------------------

    def link_state(self, state: str, words: str) -> None:
        """The link's state changed."""
        words = spell(words, self.plan.job.unit) if self.plan is not None else words
        said = {
            "no link": "without a link",
            "ready": "ready",
            "busy": "moving",
            "lost": "link lost: look at the machine",
            "connecting": "connecting…",
        }
        self.w.desk.link.state.setText(said.get(state, state) + (f" · {words}" if words else ""))
        self.w.machine.show_state(state, words)
        if state in ("ready", "no link", "lost"):
            self.tip = None

    def step_finished(self, outcome: str, words: str) -> None:
        """A step ended: what went wrong is told, and stays."""
        if words:
            self.w.messages.warn(words)
            self.w.machine.show_trouble(words)
            now = self.w.machine.current()
            self.w.noticed(words, now[1].title if now is not None else "")
        elif outcome == "stopped":
            self.w.messages.say("Stopped. Look at the work before anything else; the run is in the log.")

    def heard(self, event: Any) -> None:
        """The machine said something."""
        often = self._told.isValid() and self._told.elapsed() < PAINT_EVERY and event.data.get("state") == "moving"
        if event.kind == "state" and self.plan is not None and not often:
            self._told.start()
            m = self.plan.job.machine
            now = self.w.machine.current()
            number = now[0].axes.tool if now is not None else None
            length = next((t.length for t in self.plan.job.tools if t.number == number), 0.0)
            x, y, z = event.data["machine"]
            self.tip = (
                (x + m.travel_x, y + m.travel_y, z + m.nose_at_home - length)
                if event.data["state"] in ("moving", "paused")
                else None
            )
            if self.w.pages.currentWidget() is self.w.machine:
                self.machine_heights()
            elif self.stage == "run":
                self._drawings()
        elif event.kind == "paused":
            self.w.machine.show_state("paused", "")
            self.w.desk.link.state.setText("paused: resume or stop at the machine view")
        elif event.kind == "fault":
            self.w.messages.warn(
                f"The machine stopped with a fault: {event.data.get('reason')}. Home it before going on."
            )
        if event.kind == "state" and event.data["state"] == "moving" and self.w.machine.state == "paused":
            self.w.machine.show_state("busy", "")

    def progress(self, done: int, of: int) -> None:
        """Blocks done, what comes next, time left."""
        now = self.w.machine.current()
        program = self.plan.program(now[1].program) if now is not None and self.plan is not None else None
        words, left = f"{done} of {of} blocks", None
        if program is not None:
            left = program.seconds_after(done) / 60.0
            words = f"{words} · {left:.1f} min left"
        self.w.machine.show_progress(done, of, words, left, self._after_this())

    def _after_this(self) -> str:
        """What comes after the step shown at the machine."""
        machine = self.w.machine
        if self.plan is None or machine.at + 1 >= len(machine.steps):
            return ""
        return spell(machine.steps[machine.at + 1][1].title, self.plan.job.unit)

    # -- log ------------------------------------------------------------------------------------------------------

    def show_log(self, number: int | None = None) -> None:
        """Read the logbook again."""
        self.w.desk.log.show_runs(self.w.runs())
        rows = self.w.desk.log.rows
        if number is not None:
            index = next((i for i, r in enumerate(rows) if r.id == number), 0)
            self.w.desk.log.table.selectRow(index)
        if not rows:
            self.w.desk.slate.show_stage("Log", None, (), self.plan, "mm", self.w.theme)

    def show_run(self, run: Any) -> None:
        """One run on the slate."""
        from gatepost.desk.shell.logpage import report_of

        if self.stage == "log" and self.w.document is not None:
            self.w.desk.slate.show_stage("Log", report_of(run), (), self.plan, self.w.document.job.unit, self.w.theme)

    def picture_to(self, path: Path) -> None:
        """A small picture of the job for the start page."""
        if self.plan is None:
            return
        from gatepost.desk.view.pictures import setup_picture

        setup_picture(self.plan, self.plan.setups[-1], "run", -1, width=500, tall=420, shading=self._pictures.get).copy(
            0, 0, 500, 292
        ).save(str(path))
