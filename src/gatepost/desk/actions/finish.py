# SPDX-License-Identifier: GPL-3.0-or-later
"""What is done for the Finish stage: the shop's own tins, and when this job and others are ready."""

from __future__ import annotations

from datetime import UTC, datetime
from pathlib import Path
from typing import TYPE_CHECKING, Any

from PyQt6.QtWidgets import QFileDialog, QInputDialog

from gatepost.core.errors import OperatorError
from gatepost.desk.actions.files import PDF
from gatepost.desk.context.desk_context import Act, DeskContext
from gatepost.desk.dialogs import questions

if TYPE_CHECKING:
    from gatepost.core.finish.together import JobsTogether
    from gatepost.desk.dialogs.ready import ReadyDialog

JOBS = "Jobs (*.gatepost)"
RATES = "This shop's rates"
CALENDARS = "Calendars (*.ics)"


class FinishActions:
    """One dialog at a time."""

    def __init__(self, desk: DeskContext) -> None:
        self._desk = desk
        self.dialog: ReadyDialog | None = None
        self._paths: list[str] = []
        self._asked = 0

    def acts(self) -> dict[str, Act]:
        """By name."""
        return {
            "keep_tin": self.keep_tin,
            "shop_tins": self.shop_tins,
            "ready": self.ask,
            "quote": self.quote,
            "keep_rates": self.keep_rates,
            "take_rates": self.take_rates,
        }

    def keep_tin(self, index: int) -> None:
        """Keep a tin as its label was typed, for the shop's later jobs."""
        if self._desk.document is not None:
            tin = self._desk.document.job.finish.tins[index]
            self._desk.keep_for_shop("tin", tin.name, tin.model_dump(mode="json"))

    def shop_tins(self) -> None:
        """Take one of the shop's own tins, as its label was typed there."""
        kept = self._desk.kept_by_shop("tin")
        if not kept:
            self._desk.messages.say(
                "The shop keeps no tins of its own yet: take one off the shelf, type its label, then keep it."
            )
            return
        names = [f"{name}, kept {k.changed[:10]}" for name, k in kept.items()]
        picked, fine = QInputDialog.getItem(self._desk.window, "The shop's tins", "Take", names, 0, False)
        if fine:
            self.use_tin(list(kept)[names.index(picked)])

    def use_tin(self, name: str) -> None:
        """Into this job, dated; a tin that was taken before is taken anew."""
        kept = self._desk.kept_by_shop("tin").get(name)
        document = self._desk.document
        if kept is None or document is None:
            return
        values = {**kept.data, "taken": kept.changed[:10]}
        own = str(values.pop("id", ""))
        if any(t.id == own for t in document.job.finish.tins):
            self._desk.run("set tin", {"tin": own, **values}, name)
        else:
            self._desk.run("add tin", {"tin": {"id": own, **values}}, name)

    def keep_rates(self) -> None:
        """Keep this job's rates for the shop's later jobs."""
        if self._desk.document is not None:
            self._desk.keep_for_shop(
                "rates", RATES, self._desk.document.job.finish.rates.model_dump(mode="json", exclude={"taken"})
            )

    def take_rates(self) -> None:
        """The shop's rates, into this job, dated."""
        kept = self._desk.kept_by_shop("rates").get(RATES)
        if kept is None:
            self._desk.messages.say("The shop keeps no rates yet: type them, then keep them.")
        else:
            self._desk.run("set rates", {**kept.data, "taken": kept.changed[:10]}, "the shop's rates")

    def quote(self) -> None:
        """Write a quotation; what it costs the shop stands in it only where that is asked for."""
        if self._desk.document is None:
            return
        ways = ("For the customer: the price alone", "For the shop: with what it costs")
        chosen = questions.ask_which(self._desk.window, "Which quotation?", ways)
        path = self._desk.ask_save("Write a quotation", "quotation.pdf", PDF) if chosen >= 0 else None
        if path is not None:
            self.quote_to(path, chosen == 1)

    def quote_to(self, path: Path, inside: bool) -> None:
        """Have it written."""
        self._desk.when_planned("quote", lambda plan: self._desk.question("quote", plan.job, str(path), inside))

    # -- when it is ready -------------------------------------------------------------------------------------------

    def ask(self) -> None:
        """When this job is ready, alone or beside others."""
        self._desk.when_planned("ready", self._ask)

    def _ask(self, plan: Any) -> None:
        from gatepost.desk.dialogs.ready import ReadyDialog

        self._paths = []
        self.dialog = dialog = ReadyDialog(self._desk.window, self._desk.theme)
        dialog.more_wanted.connect(lambda: self._more(plan))
        dialog.calendar_wanted.connect(self.write_calendar)
        dialog.finished.connect(self._closed)
        dialog.open()
        self._work_out(plan)

    def _more(self, plan: Any) -> None:
        names, _ = QFileDialog.getOpenFileNames(self.dialog, "Jobs beside this one", str(self._desk.folder), JOBS)
        self.add(plan, names)

    def add(self, plan: Any, names: list[str]) -> None:
        """Jobs in files beside the one that is open, each once."""
        self._paths = list(dict.fromkeys([*self._paths, *names]))
        if names:
            self._work_out(plan)

    def _work_out(self, plan: Any) -> None:
        if self.dialog is not None:
            self.dialog.wait()
        self._asked = self._desk.question(
            "ready", plan.job, tuple(self._paths), datetime.now().replace(second=0, microsecond=0)
        )

    def share(self, answer: Any) -> None:
        """How many of them are planned so far."""
        if self.dialog is not None:
            self.dialog.wait(answer.plan)

    def _closed(self) -> None:
        """What is still being worked out for it is not wanted any more."""
        if self.dialog is not None and self.dialog.found is None:
            self._desk.question("call off")
        self.dialog = None

    def told(self, answer: Any) -> None:
        """When they are, where it is what was asked last."""
        if self.dialog is None or answer.asked != self._asked:
            return
        found: JobsTogether | None = answer.plan or None
        self.dialog.show_ready(found, answer.words)

    def write_calendar(self) -> None:
        """All of it as a file that a calendar takes in."""
        found = self.dialog.found if self.dialog is not None else None
        path = self._desk.ask_save("Write a calendar", "when-it-is-ready.ics", CALENDARS) if found is not None else None
        if found is not None and path is not None:
            self.write_to(path, found)

    def write_to(self, path: Path, found: JobsTogether) -> None:
        """Write it there."""
        from gatepost.core.finish.diary import calendar_of
        from gatepost.core.writing import write_whole

        try:
            write_whole(
                path,
                calendar_of(
                    found.names, found.steps, found.table, datetime.now(UTC).replace(microsecond=0), self._desk.unit
                ),
            )
        except OperatorError as error:
            self._desk.messages.warn(str(error))
            return
        self._desk.messages.say(f"{path.name} is written: {len(found.table.slots)} steps of {len(found.names)} jobs.")
