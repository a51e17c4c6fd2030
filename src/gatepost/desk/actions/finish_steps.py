# SPDX-License-Identifier: GPL-3.0-or-later
"""The steps of the finish as they are done, and what the shop's own record makes of their minutes."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING, Any

from gatepost.core.finish.own_times import CARVED_HERE, CARVED_SIMULATED, own_times, record_of, taken_by_hands
from gatepost.core.finish.progress import FinishSoFar, so_far
from gatepost.core.job.finish import Finish
from gatepost.desk.context.desk_context import Act, DeskContext

if TYPE_CHECKING:
    from gatepost.core.plan.result import Plan
    from gatepost.desk.dialogs.finish_steps import FinishStepsDialog

HANDS, HOURS, THE_SHOP = "hands", "hours", "Hours of the shop"  # what they are kept under
TOO_FEW = "Too few steps of a kind yet: three are wanted, on pieces that were cut in the shop. A simulated machine makes nothing that can be cleaned up."


class FinishStepActions:
    """One dialog at a time. The shop's record has a line for each job, written anew whenever its steps change: what is undone is in it no more."""

    def __init__(self, desk: DeskContext) -> None:
        self._desk = desk
        self.dialog: FinishStepsDialog | None = None
        self._plan: Plan | None = None
        self._watched: Any = None  # the document whose steps are kept in the shop's record
        self._was = Finish()

    def acts(self) -> dict[str, Act]:
        """By name."""
        return {"finish_steps": self.ask, "keep_hours": self.keep_hours, "take_hours": self.take_hours}

    @staticmethod
    def _now() -> str:
        from gatepost.machine.standing_checks import now

        return now()

    def ask(self) -> None:
        """Which steps are done."""
        self._desk.when_planned("finish steps", self._ask)

    def _ask(self, plan: Plan) -> None:
        from gatepost.desk.dialogs.finish_steps import FinishStepsDialog

        document = self._desk.document
        if plan.finishing is None or document is None:
            self._desk.messages.say("Nothing is cut in this job yet: there is nothing to finish.")
            return
        self._plan = plan
        self.dialog = dialog = FinishStepsDialog(self._desk.window)
        dialog.done_wanted.connect(self.done)
        dialog.undone_wanted.connect(lambda key: self._desk.run("finish step undone", {"step": key}, "finish"))
        dialog.own_wanted.connect(self.take_own)
        dialog.rules_wanted.connect(lambda: self._desk.run("take own times", {"own": ()}, "shop rules"))
        document.changed.connect(self._show)
        dialog.finished.connect(lambda _: self._closed(document))
        dialog.open()
        self._show()

    def _closed(self, document: Any) -> None:
        document.changed.disconnect(self._show)
        self.dialog = self._plan = None

    def _gone(self) -> FinishSoFar:
        plan, document = self._plan, self._desk.document
        assert plan is not None and plan.finishing is not None and document is not None
        return so_far(replace(plan.finishing.work, finish=document.job.finish))

    def _show(self) -> None:
        document = self._desk.document
        if self.dialog is not None and document is not None:
            self.dialog.show_steps(self._gone(), self._desk.unit, bool(document.job.finish.own))

    def done(self, minutes: float) -> None:
        """The next step is done now. The machine's own is done when the log says so."""
        step, plan = self._gone().next, self._plan
        if step is None or plan is None:
            return
        at, work = self._now(), step.work
        if step.kind == "run":
            missing, at, work = self._carved(plan)
            if missing and self.dialog is not None:
                self.dialog.wrong.setText(
                    f"It is not carved yet: {missing} has not been run to its end for this piece, as the log has it."
                )
                return
        self._desk.run(
            "finish step done", {"step": step.key, "at": at, "work": work, "planned": step.rule, "minutes": minutes}, step.brief or step.title,
        )  # fmt: skip

    def _carved(self, plan: Plan) -> tuple[str, str, str]:
        """The first program that was not run to its end as often as there are pieces, or nothing: as the plan has it now, and no other of its name; when the last one was, and where."""
        runs = self._desk.from_book(lambda book: book.runs(plan.job.name), [])  # newest first
        piece = self._desk.document.job.finish.piece if self._desk.document is not None else 1
        programs = [p for s in plan.setups for p in s.programs]
        last = []
        for p in programs:
            mine = [r for r in runs if r.state == "done" and r.fingerprint in (p.fingerprint, p.done_as)]
            if len(mine) < piece:
                return p.name, "", ""
            last.append(mine[0])
        if not last:
            return "no program", "", ""
        here = all(r.kind == "shop" for r in last)
        return "", max(r.ended or r.started for r in last), CARVED_HERE if here else CARVED_SIMULATED

    # -- the shop's own record ----------------------------------------------------------------------------------------

    def watch(self) -> None:
        """Another job is open."""
        document = self._desk.document
        if document is not None and document is not self._watched:
            self._watched, self._was = document, document.job.finish
            document.changed.connect(self._keep_record)

    def _keep_record(self) -> None:
        """Write the open job's line anew, where its steps are others than they were; a piece that was finished before keeps its own."""
        document = self._desk.document
        if document is None or document is not self._watched:
            return
        was, self._was = self._was, document.job.finish
        finish, job = self._was, document.job.name
        if (was.done, was.piece) == (finish.done, finish.piece):
            return
        old, new = _line(job, was) if was.piece == finish.piece else "", _line(job, finish)
        record = record_of(finish, document.job.wood.kind)

        def keep(book: Any) -> None:
            if old and (old != new or not record) and old in book.kept(HANDS):
                book.forget(HANDS, old)
            if record:
                book.keep(HANDS, new, {**record, "job": job}, self._now())

        self._desk.from_book(keep, None)

    def take_own(self) -> None:
        """Minutes by the shop's own record, as a dated copy."""

        own = own_times(taken_by_hands(k.data for k in self._desk.kept_by_shop(HANDS).values()), self._now()[:10])
        if not own:
            if self.dialog is not None:
                self.dialog.wrong.setText(TOO_FEW)
            return
        if self._desk.run("take own times", {"own": [o.model_dump(mode="json") for o in own]}, "own record"):
            told = [f"{o.work}{f' in {o.wood} wood' if o.wood else ''} × {o.factor:.2f}, by {o.count}" for o in own]
            self._desk.messages.say(f"By this shop's own record: {'; '.join(told)}.")

    # -- the shop's hours -----------------------------------------------------------------------------------------------

    def keep_hours(self) -> None:
        """Keep this job's hours for the shop's later jobs."""
        if self._desk.document is not None:
            self._desk.keep_for_shop(HOURS, THE_SHOP, {"hours": self._desk.document.job.finish.hours})

    def take_hours(self) -> None:
        """The shop's hours, into this job."""
        kept = self._desk.kept_by_shop(HOURS).get(THE_SHOP)
        if kept is None:
            self._desk.messages.say("The shop keeps no hours yet: type them, then keep them.")
        else:
            self._desk.run("set finish", {"hours": str(kept.data.get("hours", ""))}, "the shop's hours")


def _line(job: str, finish: Finish) -> str:
    """What a job's record is kept under: its name, which piece it is, and when its first step was done."""
    return f"{job[:40]}, {finish.piece}, {finish.done[0].at[:25]}" if finish.done else ""
