# SPDX-License-Identifier: GPL-3.0-or-later
"""What actions are given: the window they ask on, the open job, what is shown of it, the worker, and the shop's logbook."""

from __future__ import annotations

import time
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING, Any

from PyQt6.QtCore import QObject, pyqtSignal
from PyQt6.QtWidgets import QFileDialog, QWidget

from gatepost.core import shipped
from gatepost.core.errors import OperatorError
from gatepost.desk.context.messages import Messages
from gatepost.desk.context.showing import Showing

if TYPE_CHECKING:
    from gatepost.core.plan.result import Plan
    from gatepost.desk.context.document import DeskDocument
    from gatepost.desk.worker.worker import PlanWorker

Act = Callable[..., Any]
SOON = 1.5  # s that something which moves the machine may wait for its plan; later it would come as a surprise


@dataclass
class _Waiting:
    """An act that waits for the plan. until: when it is too late for it, by the monotonic clock."""

    act: Callable[[Any], Any]
    until: float


class DeskContext(QObject):
    """One a window. book, running_book: open the logbook, for the window and for whoever runs programs; kinds: where the tables of
    kinds stand."""

    page_wanted = pyqtSignal(str)  # start, desk or machine
    stage_wanted = pyqtSignal(str)
    setup_wanted = pyqtSignal(str)
    field_wanted = pyqtSignal(str, str)  # a stage, and the label of a field or button on its page

    def __init__(
        self, window: QWidget, data: Path, book: Callable[[], Any], theme: str, running_book: Callable[[], Any],
        kinds: str = shipped.KINDS,
    ) -> None:  # fmt: skip
        super().__init__(window)
        self.window, self.data, self.book, self.running_book = window, data, book, running_book
        self.theme, self.kinds = theme, kinds
        self.messages = Messages()
        self.showing = Showing()
        self.document: DeskDocument | None = None
        self.worker: PlanWorker | None = None
        self.acts: dict[str, Act] = {}
        self._waiting: dict[str, _Waiting] = {}

    # -- the job ------------------------------------------------------------------------------------------------

    @property
    def unit(self) -> str:
        """The unit that lengths are shown in."""
        return self.document.job.unit if self.document is not None else "mm"

    def run(self, name: str, values: dict[str, Any], words: str = "") -> bool:
        """Run a command on the open job; “window …” is an act of the window itself, a number after it its one value."""
        if name.startswith("window "):
            act, _, number = name.removeprefix("window ").partition(" ")
            self.act(act, *([int(number)] if number else []))
            return True
        return self.document is not None and self.document.run(name, values, words)

    def act(self, name: str, *values: Any) -> Any:
        """Do what has this name."""
        return self.acts[name](*values)

    # -- the plan -----------------------------------------------------------------------------------------------

    @property
    def plan(self) -> Plan | None:
        """The plan of the job as it is now, whole; nothing while it is being worked out."""
        plan = self.showing.plan
        stands = plan is not None and not plan.coarse and self.document is not None and plan.job == self.document.job
        return plan if stands else None

    def when_planned(self, what: str, act: Callable[[Any], Any], within: float = 600.0) -> None:
        """Do something with the plan of the job as it is now: at once, or when it has been worked out. what: a later act of the
        same name takes its place; within: seconds that it may wait."""
        if self.document is None:
            return
        plan = self.plan
        if plan is not None:
            act(plan)
            return
        self._waiting[what] = _Waiting(act, time.monotonic() + within)
        self.messages.say("Working this change out first…")

    def planned(self) -> None:
        """A plan has come: what has waited for it is done, in its order."""
        plan = self.plan
        if plan is None:
            return
        waiting, self._waiting = self._waiting, {}
        for one in waiting.values():
            if time.monotonic() <= one.until:
                one.act(plan)
            else:
                self.messages.say("That took too long to begin by itself now. Press again when you are ready.")

    def drop_waiting(self) -> bool:
        """What waits for a plan is not wanted any more; gives whether anything did."""
        had, self._waiting = bool(self._waiting), {}
        return had

    def question(self, what: str, *values: Any) -> int:
        """Ask the worker; gives the question's id, 0 where there is no worker."""
        return int(self.worker.question(what, *values)) if self.worker is not None else 0

    # -- the shop's logbook -------------------------------------------------------------------------------------

    def open_book(self) -> Any:
        """The logbook; nothing, and a sentence, where it can't be had."""
        try:
            return self.book()
        except OperatorError as error:
            self.messages.warn(str(error))
            return None

    def from_book(self, read: Callable[[Any], Any], otherwise: Any) -> Any:
        """What is read or written in the logbook; another value, and a sentence, where that can't be."""
        book = self.open_book()
        if book is None:
            return otherwise
        try:
            return read(book)
        except OperatorError as error:
            self.messages.warn(str(error))
            return otherwise
        finally:
            book.close()

    def keep_for_shop(self, kind: str, name: str, data: dict[str, Any]) -> None:
        """Keep something for the shop's later jobs."""
        from gatepost.machine.standing_checks import now

        def keep(book: Any) -> bool:
            book.keep(kind, name, data, now())
            return True

        if self.from_book(keep, False):
            self.messages.say(f"{name} is kept for the shop's later jobs.")

    def kept_by_shop(self, kind: str) -> dict[str, Any]:
        """What the shop keeps of a kind, by name."""
        kept: dict[str, Any] = self.from_book(lambda book: book.kept(kind), {})
        return kept

    # -- files --------------------------------------------------------------------------------------------------

    def ask_open(self, title: str, kinds: str) -> Path | None:
        """Which file to read."""
        name, _ = QFileDialog.getOpenFileName(self.window, title, str(self.folder), kinds)
        return Path(name) if name else None

    def ask_save(self, title: str, name: str, kinds: str) -> Path | None:
        """Which file to write."""
        chosen, _ = QFileDialog.getSaveFileName(self.window, title, str(self.folder / name), kinds)
        return Path(chosen) if chosen else None

    @property
    def folder(self) -> Path:
        """Where files are looked for first: beside the job."""
        path = self.document.path if self.document is not None else None
        return path.parent if path is not None else Path.home()
