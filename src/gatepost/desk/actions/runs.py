# SPDX-License-Identifier: GPL-3.0-or-later
"""The logbook's rows: read, remarked on, and a run that ended early resumed."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING, Any

from PyQt6.QtWidgets import QInputDialog

from gatepost.core.run.stopped import FIRST, why_it_ended
from gatepost.core.units import mm, spell
from gatepost.desk.context.desk_context import Act, DeskContext
from gatepost.desk.dialogs import questions

if TYPE_CHECKING:
    from gatepost.core.plan.result import Plan
    from gatepost.desk.machine.at_machine import AtMachine
    from gatepost.desk.machine.operator import Operator
    from gatepost.desk.machine.words import EndedRun


class RunActions:
    """show_log: reads the log again, and shows the row of a number."""

    def __init__(self, desk: DeskContext, operator: Operator, machine: AtMachine, show_log: Act) -> None:
        self._desk, self._operator, self._machine, self._show_log = desk, operator, machine, show_log
        self._ended = 0  # the number of the run that ended early
        machine.resume_run_wanted.connect(self.resume_ended)
        machine.again_wanted.connect(self.start_again)
        machine.leave_wanted.connect(self.leave)

    def acts(self) -> dict[str, Act]:
        """By name."""
        return {"start_again": self.start_again, "learn_times": self.learn_times}

    def leave(self) -> None:
        """Leave it as it lies: the log keeps it, and it is asked about again."""
        self._desk.stage_wanted.emit("log")

    def rows(self, job: str | None = None, most: int | None = None) -> list[Any]:
        """All rows of the logbook, those of a job, or so many of the newest; a logbook that can't be read is told, not hidden."""
        found: list[Any] = self._desk.from_book(lambda book: list(book.runs(job, most)), [])
        return found

    def unfinished(self) -> Any:
        """The newest run of this job that ended early and was not taken up, run again or left for a fresh board since; or none."""
        from gatepost.logbook.notebook import EARLY
        from gatepost.machine.resume import program_of

        plan, document = self._desk.plan, self._desk.document
        if plan is None or document is None or self._operator.busy:
            return None
        fresh = max((e.at for e in document.journal.entries if e.kind == "fresh board"), default="")
        for run in self.rows(plan.job.name):
            if run.started < fresh or not program_of(run, plan):
                continue
            return run if run.state in EARLY else None
        return None

    def look_for_unfinished(self) -> None:
        """Say at the machine where a run ended early, and what that means for the zeros."""
        run, plan = self.unfinished(), self._desk.plan
        self._ended = run.id if run is not None else 0
        told = ended_words(plan, run) if plan is not None and run is not None else None
        if told is not None and (first := self._why(run)) not in ("", "stopped"):
            told = replace(told, means=f"{told.means} {FIRST[first]}")
        self._machine.show_ended(told)

    def resume_ended(self) -> None:
        """Resume the run that ended early."""
        if self._ended:
            self.resume(self._ended, self._machine.pointed)

    def start_again(self) -> None:
        """From a step: the same program over what is cut, all of it on a fresh board, or from any step of one's choice."""
        if self._desk.document is None or not self._machine.steps:
            return
        titles = [spell(step.title, self._desk.unit) for _, step in self._machine.steps]
        ways = ["Make another: a fresh board, all steps once more"]
        ways += ["The same program again, over what is cut already"] if self._machine.ended is not None else []
        ways += [f"{i + 1}. {title}" for i, title in enumerate(titles)]
        chosen, fine = QInputDialog.getItem(self._desk.window, "Start again from…", "Start again from", ways, 0, False)
        if not fine:
            return
        at = ways.index(chosen)
        first = len(ways) - len(titles)
        if at == 0:
            self._desk.act("fresh_board")
        elif at >= first:
            self._desk.act("from_step", at - first)
        self._machine.show_ended(None)

    def learn_times(self) -> None:
        """Take what this job's kinds of cuts really took in shop runs of its machine, as a dated copy in the job."""
        self._desk.when_planned("learn", self._learn)

    def _learn(self, plan: Plan) -> None:
        from gatepost.core.run.learning import factor_of, taken_of
        from gatepost.machine.standing_checks import now

        cuts = [c for r in self.rows() for c in taken_of(r.kind, r.tool.partition(" ")[2], r.wood, r.cuts)]
        wanted = dict.fromkeys((op.kind, op.tool.name) for s in plan.setups for op in s.operations)
        found = {(kind, tool): factor_of(cuts, kind, tool, plan.job.wood.name) for kind, tool in wanted}
        learned = [
            {"kind": kind, "tool": tool, "factor": f.factor, "within": f.within, "count": f.count, "told_of": f.told_of, "taken": now()[:10]}
            for (kind, tool), f in found.items() if f is not None
        ]  # fmt: skip
        if not learned:
            self._desk.messages.say(
                "Too few shop runs of these kinds of cuts yet: three of a kind are wanted. Runs on a simulated machine are not counted."
            )
        elif self._desk.run("set machine", {"learned": learned}, "minutes of this machine's own runs"):
            told = "; ".join(f.words for f in found.values() if f is not None)
            self._desk.messages.say(f"By this machine's own runs: {told}.")

    def remarked(self, what: str) -> None:
        """Something is seen or heard while a program runs: kept with its time and place; words can be added in the log after."""
        if self._operator.remark(what):
            self._desk.messages.say(f"“{what}” is kept with this run.")

    def remark(self, number: int, words: str) -> None:
        """Keep a remark on a run."""

        def keep(book: Any) -> bool:
            book.note(number, remarks=words)
            return True

        if self._desk.from_book(keep, False):
            self._show_log(number)
            self._desk.messages.say("Remark kept.")

    def resume(self, number: int, bed: tuple[float, float] | None = None) -> None:
        """Ask how a run that ended early is resumed. bed: a place that was pointed at."""
        self._desk.when_planned("resume", lambda plan: self._ask_resume(plan, number, bed))

    def _ask_resume(self, plan: Any, number: int, bed: tuple[float, float] | None) -> None:
        if self._operator.busy:
            self._desk.messages.warn("The machine is busy. Let it finish, or stop it first.")
        elif plan.stops:
            self._desk.messages.warn(f"Not run: {spell(plan.stops[0].message, plan.job.unit)}")
        else:
            self._desk.question("resume", plan.job, self.rows(plan.job.name), number, bed)
            self._desk.messages.say("Working out where it resumes…")

    def told(self, answer: Any) -> None:
        """How it is resumed."""
        if answer.plan is False:
            self._desk.messages.warn(answer.words)
        else:
            self.take_up(*answer.plan)

    def take_up(self, run: Any, taken: Any) -> None:
        """Go on with a run, once its witness mark has been looked at."""
        plan, document = self._desk.plan, self._desk.document
        if document is None or plan is None or plan.job != taken.plan.job:
            return
        unit = plan.job.unit
        if taken.stops:
            self._desk.messages.warn(f"Not run: {spell(taken.stops[0], unit)}")
            return
        words = (
            f"Run {run.id} of {run.program} ended {run.state} after block {run.blocks_done} of {run.blocks}. It is taken up "
            f"{spell(mm(taken.back), unit)} back along the cut, at X {spell(mm(taken.bed[0]), unit)}, Y {spell(mm(taken.bed[1]), unit)} on the bed; {taken.minutes:.1f} min are left."
        )
        words = "\n\n".join([*self._first_looks(run), f"{words} {spell(taken.words, unit)}"])
        if not questions.ask_mark(self._desk.window, words):
            self._desk.messages.say("Nothing was run.")
            return
        self._desk.page_wanted.emit("machine")
        self._operator.go_on(taken, run, document.journal, str(document.path or ""))

    def _why(self, run: Any) -> str:
        """What stopped it, as the journal has it."""
        document = self._desk.document
        return why_it_ended(document.journal, run.program) if document is not None else ""

    def _first_looks(self, run: Any) -> tuple[str, ...]:
        """What is looked at first, by what stopped it."""
        from gatepost.core.run.stopped import look_first

        return look_first(self._why(run), (str(m.get("what", "")) for m in run.marks if isinstance(m, dict)))


def ended_words(plan: Plan, run: Any) -> EndedRun:
    """Where a run ended early, what that means, and how many of its moves were done."""
    from gatepost.core.zero.trust import Trust
    from gatepost.desk.machine.words import EndedRun
    from gatepost.drawing.live import live_path
    from gatepost.machine.resume import program_of

    name = program_of(run, plan)
    program = plan.program(name)
    setup = plan.setup(program.setup) if program is not None else None
    if program is None or setup is None:
        return EndedRun(f"Run {run.id} ended early.", "", 0, name)
    path = live_path(plan, setup, program)
    moves = path.moves_done(run.blocks_done)
    here, _ = path.letter_at(moves)
    of = "the letters" if path.letters else "the cut"
    where = f"Stopped at {here}." if here else "Stopped before its end."
    axes = [(n, a) for n, a in (("X", setup.axes.x), ("Y", setup.axes.y), ("Z", setup.axes.z))]
    lost = [n for n, a in axes if a.trust is Trust.LOST]
    doubtful = [n for n, a in axes if a.trust is Trust.PROVISIONAL]
    begun = run.started[:16].replace("T", " at ")
    means = f"{100 * path.share(moves):.0f} % of {of} {'are' if path.letters else 'is'} cut, in the run of {begun}. "
    if lost:
        means += f"{' and '.join(lost)} must be found again first."
    elif doubtful:
        means += f"{' and '.join(doubtful)} should be looked at again first: go over the witness mark."
    else:
        means += "The zeros are as they were. Look at the work: if it has moved or lifted, say so under “What happened” first."
    return EndedRun(where, means, moves, name)
