# SPDX-License-Identifier: GPL-3.0-or-later
"""Jobs: new, opened, saved, kept in a recovery copy, and closed with nothing lost."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING, Any

from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from gatepost.core.errors import OperatorError
from gatepost.desk.actions.files import JOBS
from gatepost.desk.context.desk_context import Act, DeskContext
from gatepost.desk.dialogs import questions
from gatepost.desk.start.page import Unfinished
from gatepost.desk.start.recent import RecentJob, picture_of, recent, remember
from gatepost.desk.start.recovery import Recovery, leftovers

if TYPE_CHECKING:
    from gatepost.core.job.finish import Finish
    from gatepost.core.job.machine import Machine
    from gatepost.core.job.model import Job
    from gatepost.desk.context.document import DeskDocument

AUTOSAVE = 1500  # ms after the last change


class JobActions(QObject):
    """machine, unit: the shop's; busy: whether a machine moves; picture: paints the job into a file for the start page.

    taken: another document is open, or none; changed: it has another job or journal; saved: it stands in its file.
    """

    taken = pyqtSignal()
    changed = pyqtSignal()
    retitled = pyqtSignal()

    def __init__(
        self, desk: DeskContext, machine: Callable[[], Machine], finish: Callable[[], Finish], unit: Callable[[], str], busy: Callable[[], bool],
        picture: Callable[[Path], None],
    ) -> None:  # fmt: skip
        super().__init__(desk)
        self._desk, self._machine, self._finish, self._unit, self._busy, self._picture = (
            desk,
            machine,
            finish,
            unit,
            busy,
            picture,
        )
        self.recovery: Recovery | None = None
        self.recovered: Path | None = None  # the copy that the open job came out of
        self._autosave = QTimer(self)
        self._autosave.setSingleShot(True)
        self._autosave.setInterval(AUTOSAVE)
        self._autosave.timeout.connect(self.keep)

    def acts(self) -> dict[str, Act]:
        """By name."""
        return {
            "new": self.new, "open": self.ask_open, "save": self.save, "save_as": self.save_as, "start": self.close,
            "undo": self.undo, "redo": self.redo, "unit": self.other_unit,
        }  # fmt: skip

    # -- opening --------------------------------------------------------------------------------------------------

    def close(self) -> bool:
        """Back to the start page; gives whether nothing spoke against it."""
        if self._desk.document is not None and not self.may_close():
            return False
        self.let_go()
        self._desk.document = None
        self.mark(None)
        self.taken.emit()
        return True

    def for_start(self) -> tuple[list[RecentJob], list[Path], list[Unfinished]]:
        """Recent jobs, copies of those that were left open, and runs that ended early."""
        jobs = recent(self._desk.data)
        return jobs, leftovers(self._desk.data), self._unfinished({str(j.path): j for j in jobs})

    def picture_of_run(self, run: Any) -> Path | None:
        """The picture of a run's sign: of its file, else of the newest job of its name; nothing where none is kept."""
        own = picture_of(self._desk.data, Path(run.path)) if run.path else None
        if own is not None and own.exists():
            return own
        return next((job.picture for job in recent(self._desk.data) if job.name == run.job), None)

    def _unfinished(self, known: dict[str, RecentJob]) -> list[Unfinished]:
        """The newest run of each recent job, where it ended early."""
        from gatepost.logbook.notebook import EARLY

        out: list[Unfinished] = []
        seen: set[str] = set()
        for run in self._desk.from_book(lambda book: list(book.runs()), []) if known else ():
            job = known.get(run.path)
            if job is None or run.path in seen:
                continue
            seen.add(run.path)
            if run.state in EARLY:
                done = 100.0 * run.blocks_done / max(run.blocks, 1)
                words = f"{job.name} ended early, {run.started[:16].replace('T', ' at ')}"
                means = f"{run.program} was {run.state}; {done:.0f} % of its blocks were cut."
                out.append(Unfinished(job.path, job.picture, words, means))
        return out

    def example(self, file: str) -> bool:
        """A shipped example, as a job that has no file yet; gives whether it could be opened."""
        from importlib import resources

        from gatepost.desk.context.document import opened

        if self._desk.document is not None and not self.may_close():
            return False
        shipped = Path(str(resources.files("gatepost").joinpath("assets", "examples", file)))
        try:
            document = opened(shipped, self._desk.kinds)
        except OperatorError as error:
            self._desk.messages.warn(str(error))
            return False
        document.path = None
        self.take(document)
        return True

    def _state(self) -> tuple[str, bool]:
        """How the job stands, in a few words, and whether something bars its run."""
        plan, document = self._desk.showing.plan, self._desk.document
        if plan is None or document is None or plan.job != document.job:
            return "", False
        if plan.stops:
            return ("1 thing to mend" if len(plan.stops) == 1 else f"{len(plan.stops)} things to mend"), True
        entries = document.journal.entries
        runs = [e.at for e in entries if e.kind == "ticked" and str(e.data.get("step", "")).startswith("run")]
        if plan.next.step is None and not plan.questions and runs:
            return f"finished {max(runs)[:10]}", False
        if plan.questions:
            return ("1 question open" if len(plan.questions) == 1 else f"{len(plan.questions)} questions open"), False
        minutes = sum(p.seconds for s in plan.setups for p in s.programs) / 60.0
        return (f"ready to run · {minutes:.0f} min", False) if minutes else ("nothing to cut yet", False)

    def new(self) -> None:
        """A new job, with the shop's machine, hours and rates."""
        from gatepost.core.job.model import Job
        from gatepost.core.job.tool_table import shipped_tools

        if self._desk.document is None or self.may_close():
            self.begin(Job(tools=shipped_tools(), machine=self._machine(), finish=self._finish(), unit=self._unit()))
            self._desk.field_wanted.emit("blank", "Board/Job")

    def begin_ready(self, job: Job) -> bool:
        """A job that was made ready, in the place of the open one; gives whether it was begun."""
        if self._desk.document is not None and not self.may_close():
            return False
        self.begin(job)
        return True

    def begin(self, job: Job) -> None:
        """A job that has no file yet."""
        from gatepost.core.job.file import Document
        from gatepost.desk.context.document import DeskDocument

        self.take(DeskDocument(Document(job), kinds=self._desk.kinds))

    def ask_open(self) -> None:
        """Ask which job to open."""
        path = self._desk.ask_open("Open a job", JOBS)
        if path is not None:
            self.open(path)

    def open(self, path: Path) -> bool:
        """Open a job; gives whether it could be."""
        from gatepost.desk.context.document import opened

        try:
            document = opened(path, self._desk.kinds)
        except OperatorError as error:
            self._desk.messages.warn(str(error))
            return False
        if self._desk.document is not None and not self.may_close():
            return False
        recovered = path.parent == self._desk.data / "recovery"
        if recovered:
            document.path = None
        self.take(document)
        if recovered:
            self.recovered = path  # kept until what it holds is saved, or let go of by a person
            document.journal_saved = -1
            self._desk.messages.say("This is the copy kept when Gatepost ended early. Save it where you want it.")
        return True

    def take(self, document: DeskDocument) -> None:
        """Show a document."""
        self.let_go()
        self.recovered = None
        self._desk.document = document
        self._desk.drop_waiting()
        self.mark(Recovery(self._desk.data, document.path))
        document.changed.connect(self._changed)
        document.journal_changed.connect(self._changed)
        document.refused.connect(self._desk.messages.warn)
        document.stack.indexChanged.connect(self._retitle)
        if document.path is not None:
            remember(self._desk.data, document.path, document.job.name)
        self.taken.emit()
        self.retitled.emit()

    def let_go(self) -> None:
        """The document says nothing more: what is being taken apart must not be asked for a title."""
        if self._desk.document is not None:
            self._desk.document.stack.blockSignals(True)
            self._desk.document.blockSignals(True)

    def mark(self, recovery: Recovery | None) -> None:
        """Another job is open here, or none."""
        if self.recovery is not None:
            self.recovery.closed()
        self.recovery = recovery
        document = self._desk.document
        if recovery is not None and document is not None and document.path is not None and recovery.others():
            self._desk.messages.say("This job is open in another window too. Whoever saves second is asked first.")

    def _retitle(self, _: int) -> None:
        self.retitled.emit()

    def _changed(self) -> None:
        self.retitled.emit()
        self._autosave.start()
        self.changed.emit()

    # -- changing -------------------------------------------------------------------------------------------------

    def undo(self) -> None:
        """The job as it was before the last change."""
        if self._desk.document is not None:
            self._desk.document.stack.undo()

    def redo(self) -> None:
        """The change that was undone."""
        if self._desk.document is not None:
            self._desk.document.stack.redo()

    def other_unit(self) -> None:
        """mm or inches."""
        if self._desk.document is not None:
            self._desk.run("set job", {"unit": "inch" if self._desk.unit == "mm" else "mm"}, "unit")

    # -- saving ---------------------------------------------------------------------------------------------------

    def keep(self) -> None:
        """Write the recovery copy."""
        document = self._desk.document
        if document is not None and self.recovery is not None and document.dirty:
            wrong = self.recovery.keep(document.document())
            if wrong:
                self._desk.messages.warn(f"The recovery copy was not written: {wrong}")

    def save(self) -> bool:
        """Save where it was, or ask where."""
        if self._desk.document is None:
            return False
        if self._desk.document.path is None:
            return self.save_as()
        return self.save_to(self._desk.document.path)

    def save_as(self) -> bool:
        """Ask where to save."""
        document = self._desk.document
        if document is None:
            return False
        named = document.path.name if document.path else f"{document.job.name.lower().replace(' ', '-')}.gatepost"
        path = self._desk.ask_save("Save as", named.replace("/", "-"), JOBS)
        if path is None:
            return False
        return self.save_to(path if path.name.endswith(".gatepost") else path.with_name(path.name + ".gatepost"))

    def save_to(self, path: Path) -> bool:
        """Save into a file; gives whether it was."""
        document = self._desk.document
        assert document is not None
        outside = path == document.path and document.changed_outside()
        if outside and not questions.ask_overwrite(self._desk.window, path.name):
            return False
        try:
            document.save(path)
        except OperatorError as error:
            self._desk.messages.warn(str(error))
            return False
        self._forget_copies()
        self.mark(Recovery(self._desk.data, path))
        self._picture(remember(self._desk.data, path, document.job.name, *self._state()))
        self.retitled.emit()
        self._desk.messages.say(f"Saved as {path.name}.")
        return True

    def may_close(self) -> bool:
        """Ask what there is to ask before the job is closed."""
        document = self._desk.document
        if document is None:
            return True
        if self._busy():
            self._desk.messages.warn(
                "The machine is moving. Stop it, and wait until it stands, before closing the job."
            )
            return False
        if document.dirty:
            answer: Any = questions.ask_to_save(self._desk.window, document.job.name)
            if answer == "cancel" or (answer == "save" and not self.save()):
                return False
        state = self._state()
        if document.path is not None and not document.dirty and state[0]:
            remember(self._desk.data, document.path, document.job.name, *state)
        self._forget_copies()
        return True

    def _forget_copies(self) -> None:
        """What they hold is saved, or is not wanted any more."""
        if self.recovery is not None:
            self.recovery.forget()
        if self.recovered is not None:
            self.recovered.unlink(missing_ok=True)
            self.recovered = None

    def end(self) -> None:
        """At the window's end."""
        self.let_go()
        self._autosave.stop()
        self.mark(None)
