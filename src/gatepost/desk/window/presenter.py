# SPDX-License-Identifier: GPL-3.0-or-later
"""Shows a plan: which stage, which setup, what the gates say and what comes next."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from typing import TYPE_CHECKING, Any

from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from gatepost.core.findings import Gate, Report
from gatepost.core.job.turning import lies
from gatepost.core.units import show_length, spell
from gatepost.desk.context.stages import NAMES, STAGES
from gatepost.desk.pages.table import entries
from gatepost.desk.window.log_page import report_of, several
from gatepost.desk.window.log_reader import AT_ONCE, LogReader
from gatepost.desk.window.setup_switch import Shown

if TYPE_CHECKING:
    from gatepost.core.plan.result import Plan
    from gatepost.desk.context.desk_context import DeskContext
    from gatepost.desk.window.desk_view import DeskView
    from gatepost.desk.window.drawings import Drawings
    from gatepost.desk.window.follow import MachineFollower

ORDER = (Gate.SHUT, Gate.AJAR, Gate.WAITING, Gate.OPEN, Gate.NOT_NEEDED)
LINK_WORDS = {
    "no link": "No machine is linked.", "ready": "Ready.", "busy": "Moving.", "paused": "Paused: resume or stop at the machine view.",
    "lost": "Link lost: look at the machine.", "connecting": "Connecting…",
}  # fmt: skip
SOON = 12  # ms


class PlanPresenter(QObject):
    """What is on the desk now. rows: reads the logbook; at_machine: whether the view at the machine is looked at. begun: the first plan
    of a job is shown."""

    begun = pyqtSignal()

    def __init__(
        self, desk: DeskContext, view: DeskView, drawings: Drawings, follower: MachineFollower,
        rows: Callable[[str | None, int | None], list[Any]], at_machine: Callable[[], bool],
    ) -> None:  # fmt: skip
        super().__init__(desk)
        self._desk, self._view, self._drawings, self._follower = desk, view, drawings, follower
        self._rows, self._at_machine = rows, at_machine
        self._showing = desk.showing
        self.reader = LogReader(self, desk.book)
        self.reader.read.connect(view.log.show_known)
        self.asked: tuple[str, str, str] | None = None  # what is asked on the bed, in the place of the next step

    @property
    def plan(self) -> Plan | None:
        """The plan shown: coarse or whole, of the job as it is or of the last that was planned."""
        return self._showing.plan

    @property
    def stage(self) -> str:
        """The stage shown."""
        return self._showing.stage

    @property
    def setup(self) -> str:
        """The setup shown."""
        return self._showing.setup

    def forget(self) -> None:
        """Another job: nothing is known of it yet."""
        self._showing.__init__()
        self._drawings.forget()

    # -- a plan comes -------------------------------------------------------------------------------------------

    def working_out(self, busy: bool) -> None:
        """Say that figures are being worked out."""
        self._view.bed.say_busy("working it out…" if busy else "")

    def plan_ready(self, plan: Plan) -> None:
        """Show a new plan, or a first look at one."""
        showing = self._showing
        first = showing.plan is None
        showing.plan = plan
        self.working_out(plan.coarse)
        if showing.wish and plan.setup(showing.wish) is not None:
            showing.setup, showing.wish = showing.wish, ""
        if first or plan.setup(showing.setup) is None:
            next_setup = plan.next.setup
            showing.setup = next_setup if next_setup and plan.setup(next_setup) else plan.setups[-1].name
        self.show()
        if first:
            self.begun.emit()

    def go(self, stage: str) -> None:
        """Open a stage."""
        showing = self._showing
        if stage != showing.stage:
            showing.as_the_stage_wants()
        showing.stage = stage
        if showing.plan is not None:
            showing.setup = self._setup_for(stage, showing.plan)
        self._view.fence.go(stage)
        if stage == "log":
            self.show_log()
        self.show()

    def _setup_for(self, stage: str, plan: Plan) -> str:
        """Which setup a stage is looked at in: the one that was chosen, where the stage has something to do with it."""
        shown = plan.setup(self._showing.chosen) or plan.setup(self._showing.setup)
        now = shown.name if shown is not None else self._showing.setup
        if stage == "surface" and (shown is None or not shown.flattens):
            return next((s.name for s in plan.setups if s.flattens), now)
        if stage == "carve" and (shown is None or shown.flattens):
            return plan.carving.name
        if stage == "blank":  # readings are of the front as it is laid first
            return next((s.name for s in plan.setups if s.setup.up == "front"), now)
        return now

    def choose_setup(self, name: str) -> None:
        """Show another setup; one that is not planned yet once it is."""
        showing = self._showing
        showing.wish = showing.chosen = name
        if showing.plan is not None and showing.plan.setup(name) is not None:
            showing.setup, showing.wish = name, ""
            showing.as_the_stage_wants()
        self.show()

    def next_setup(self) -> None:
        """The setup after the one shown, round and round."""
        names = [s.name for s in self._showing.plan.setups] if self._showing.plan is not None else []
        if self._showing.setup in names:
            self.choose_setup(names[(names.index(self._showing.setup) + 1) % len(names)])

    # -- showing --------------------------------------------------------------------------------------------------

    def entered(self) -> None:
        """Something was entered: the page says so at once; the drawings follow with the plan."""
        if self._desk.document is None:
            return
        if self._at_machine():
            self._follower.show_steps()  # what is ticked is ticked at once
            return
        self._keep_to_the_job()
        self._head()
        self._slate()
        if self._showing.plan is not None:
            self._fence()
        if self._showing.plan is not None and self._desk.unit != self._showing.plan.job.unit:  # units switch at once
            self._drawings.soon()
            self.show_next()

    def advised(self) -> None:
        """What is offered for findings has come: the page and the next step say so."""
        if self._desk.document is not None and not self._at_machine():
            self._slate()
            self.show_next()

    def show(self) -> None:
        """Put the page right."""
        if self._desk.document is None:
            return
        self._keep_to_the_job()
        self._head()
        self._buttons()
        self._slate()
        if self._showing.plan is None:
            return
        self._fence()
        self._drawings.slider()
        self.show_next()
        self._drawings.soon()
        QTimer.singleShot(SOON, self._follower.show_steps)

    def _keep_to_the_job(self) -> None:
        """A setup that the job has: nothing is planned yet, or the one shown was taken away."""
        assert self._desk.document is not None
        names = [s.name for s in self._desk.document.job.setups]
        if self._showing.setup not in names:
            self._showing.setup = names[-1]

    def _head(self) -> None:
        document, view = self._desk.document, self._view
        assert document is not None
        job = document.job
        self._desk.messages.unit = job.unit
        view.top.name.setText(job.name)
        size = f"{job.wood.name} · {' × '.join(show_length(v, job.unit) for v in job.blank.across)}"
        view.top.line.setText(f"  {size} {'mm' if job.unit == 'mm' else 'in'}")
        view.top.units[job.unit].setChecked(True)
        view.top.views["desk"].setChecked(True)
        view.stack.setCurrentWidget(view.log if self._showing.stage == "log" else view.split)
        view.link.setVisible(self._showing.stage == "run")

    def _buttons(self) -> None:
        document, plan = self._desk.document, self._showing.plan
        assert document is not None
        told = [
            Shown(s.id, s.title or s.id, plan is None or plan.setup(s.id) is not None, lies(s))
            for s in document.job.setups
        ]
        self._view.setups.show_setups(told, self._showing.setup)

    def _slate(self) -> None:
        document, showing = self._desk.document, self._showing
        assert document is not None
        if showing.stage == "log":
            return
        report = showing.report(showing.stage)
        groups = entries(showing.stage, document.job, showing.setup, document.kinds)
        called = next((s.title or s.id for s in document.job.setups if s.id == showing.setup), showing.setup)
        name = NAMES[showing.stage] + (f", {called}" if showing.stage in ("hold", "zero") else "")
        if report is not None:
            told = tuple(f for f in report.figures if f.setup in ("", showing.setup))
            report = replace(report, figures=told)
        self._view.slate.show_stage(name, report, groups, showing.plan, document.job.unit, self._desk.theme)

    def _fence(self) -> None:
        plan, unit = self._showing.plan, self._desk.unit
        assert plan is not None
        gates: dict[str, tuple[Gate, str]] = {}
        for stage in STAGES:
            reports = [r for (s, _), r in plan.reports.items() if s == stage]
            worst = min(reports, key=lambda r: ORDER.index(r.gate))
            mine = plan.report(stage, self._showing.setup) if stage in ("hold", "zero") else worst
            shown = worst if worst.gate in (Gate.SHUT, Gate.AJAR) else mine
            gates[stage] = (shown.gate, spell(shown.fact, unit))
        count = max(len(self._view.log.known), self._showing.logged)
        gates["log"] = (Gate.OPEN, "1 run" if count == 1 else f"{count} runs") if count else (Gate.WAITING, "")
        self._view.fence.show_gates(gates)

    def show_next(self) -> None:
        """The one next step; while something is asked on the bed, that."""
        plan = self._showing.plan
        if self.asked is not None:
            self._view.next.say(*self.asked)
            return
        if plan is None:
            return
        step, verb = plan.next.step, plan.next.verb or "Show me"
        if step is not None:
            verb = "At the machine" if step.moves else ("Done" if self._showing.stage == plan.next.stage else "Show me")
        self._view.next.say(spell(self._showing.next_sentence(), self._desk.unit), verb)

    def link_state(self, state: str, words: str) -> None:
        """The link's state changed."""
        self._view.link.say(LINK_WORDS.get(state, state), spell(words, self._desk.unit), state)

    # -- log ------------------------------------------------------------------------------------------------------

    def show_log(self, number: int | None = None) -> None:
        """Read the logbook again: its newest rows at once, a long one's others when they are read."""
        log = self._view.log
        rows = self._rows(None, AT_ONCE)
        self.reader.drop()
        if len(rows) < AT_ONCE:
            log.show_runs(rows)
        else:
            if len(log.known) < AT_ONCE:
                log.show_runs(rows)
            self.reader.rest()
        if number is not None:
            log.select(number)
        if not log.known:
            self._view.slate.show_stage("Log", None, (), self._showing.plan, "mm", self._desk.theme)

    def show_run(self, run: Any) -> None:
        """One run on the slate."""
        self._told_of_runs(report_of(run))

    def show_runs(self, runs: list[Any]) -> None:
        """Some runs together on it."""
        self._told_of_runs(several(runs))

    def _told_of_runs(self, report: Report) -> None:
        if self._showing.stage == "log" and self._desk.document is not None:
            self._view.slate.show_stage("Log", report, (), self._showing.plan, self._desk.unit, self._desk.theme)
