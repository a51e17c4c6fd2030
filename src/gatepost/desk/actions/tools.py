# SPDX-License-Identifier: GPL-3.0-or-later
"""The tool drawer, a tool's feed, its test groove, and the bed skimmed."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING, Any

from PyQt6.QtWidgets import QDialog

from gatepost.core.errors import OperatorError
from gatepost.desk.context.desk_context import Act, DeskContext

if TYPE_CHECKING:
    from gatepost.core.job.model import Job
    from gatepost.core.job.tool import Tool
    from gatepost.core.tools.blunt import ToolLife

TABLES = "Tables (*.csv);;All files (*)"


class ToolActions:
    """begin: opens a job that was made ready; take: a tool into the open job."""

    def __init__(self, desk: DeskContext, begin: Callable[[Job], bool], take: Callable[[Tool], None]) -> None:
        self._desk, self._begin, self._take = desk, begin, take
        self.dialog: QDialog | None = None

    def acts(self) -> dict[str, Act]:
        """By name."""
        return {
            "drawer": self.drawer,
            "feed": self.feed,
            "groove": self.groove,
            "skim": self.skim,
            "missing_tools": self.missing,
        }

    def _open(self, dialog: QDialog) -> None:
        self.dialog = dialog
        dialog.finished.connect(self._done)
        dialog.open()

    def _done(self) -> None:
        self.dialog = None

    # -- the drawer --------------------------------------------------------------------------------------------------

    def drawer(self) -> None:
        """The shop's tools, with the shipped ones that it has not its own figures of."""
        document = self._desk.document
        if document is None:
            return
        from gatepost.core.job.tool import Tool
        from gatepost.core.job.tool_table import all_shipped
        from gatepost.desk.dialogs.drawer import DrawerDialog
        from gatepost.machine.standing_checks import now

        try:
            kept = [Tool.model_validate(k.data) for k in self._desk.kept_by_shop("tool").values()]
        except ValueError:
            self._desk.messages.warn(
                "What the shop keeps of its tools can't be read: only those of the shipped table are shown."
            )
            kept = []
        own = {t.name for t in kept}
        tools = [*kept, *(t for t in all_shipped() if t.name not in own)]
        dialog = DrawerDialog(
            self._desk.window,
            tools,
            own,
            document.job.machine,
            document.job.unit,
            self._desk.theme,
            self.life,
            now()[:10],
        )
        dialog.taken.connect(self._take)
        dialog.kept.connect(lambda tool: self._desk.keep_for_shop("tool", tool.name, tool.model_dump(mode="json")))
        dialog.forgotten.connect(self._forget)
        dialog.out_key.clicked.connect(lambda: self.write_table(dialog))
        dialog.in_key.clicked.connect(lambda: self.read_table(dialog))
        self._open(dialog)

    def _in_the_drawer(self) -> list[Tool]:
        """The bits that the shop says it has; nothing, and a sentence, where that can't be read."""
        from gatepost.core.job.tool import Tool

        try:
            return [Tool.model_validate(k.data) for k in self._desk.kept_by_shop("tool").values()]
        except ValueError:
            return []

    def missing(self) -> None:
        """Bits that this job wants and the drawer does not have: waited for, or adapted to what there is."""
        self._desk.when_planned("missing", self._missing)

    def _missing(self, plan: Any) -> None:
        from gatepost.core.tools.missing import missing
        from gatepost.desk.dialogs.missing import MissingDialog

        drawer = self._in_the_drawer()
        if not drawer:
            self._desk.messages.say(
                "The drawer has no bit of this shop's own yet: keep those that are there in it first (Ctrl+Shift+D)."
            )
            return
        cuts = [op for s in plan.setups for op in s.operations]
        used = tuple({op.tool.number: op.tool for op in cuts}.values())
        depths: dict[int, float] = {}
        for op in cuts:
            if op.engaged is not None:
                depths[op.tool.number] = max(depths.get(op.tool.number, 0.0), op.engaged.depth)
        dialog = MissingDialog(self._desk.window, missing(used, drawer, depths), plan.job.unit)
        dialog.adapted.connect(self._adapt)
        self._open(dialog)

    def _adapt(self, tool: Tool) -> None:
        """Another bit under a tool's number, with its own figures."""
        values = tool.model_dump()
        if self._desk.run("set tool", values, f"T{tool.number} as {tool.name}"):
            self._desk.messages.say(
                f"T{tool.number} is {tool.name} now; everything is planned and judged anew. Undo brings the other back."
            )

    def _forget(self, name: str) -> None:
        def forget(book: Any) -> bool:
            book.forget("tool", name)
            return True

        self._desk.from_book(forget, False)

    def write_table(self, dialog: Any, path: Path | None = None) -> None:
        """All of the drawer as a table."""
        from gatepost.core.tools.drawer import to_csv
        from gatepost.core.writing import write_whole

        path = path or self._desk.ask_save("Write the drawer", "tools.csv", TABLES)
        if path is None:
            return
        text = to_csv(dialog.tools)
        try:
            write_whole(path, text.encode())
        except OSError as error:
            self._desk.messages.warn(f"{path.name} can't be written: {error.strerror or error}.")
            return
        dialog.write(path, text)

    def read_table(self, dialog: Any, path: Path | None = None) -> None:
        """A table of tools into the drawer."""
        from gatepost.core.tools.drawer import from_csv

        path = path or self._desk.ask_open("Read a table of tools", TABLES)
        if path is None:
            return
        try:
            text = path.read_text("utf-8-sig")
        except (OSError, UnicodeDecodeError) as error:
            self._desk.messages.warn(f"{path.name} can't be read as a table: {error}.")
            return
        dialog.read(lambda: from_csv(text, path.name))

    def life(self, tool: Tool) -> ToolLife:
        """What a tool has done in this shop, by its runs."""
        from gatepost.core.tools.blunt import ToolRun, life

        rows = self._desk.from_book(lambda book: book.runs_of_tool(tool.name), [])
        runs = [
            ToolRun(
                r.started,
                r.wood or "wood that was not noted",
                r.wood_kind,
                r.metres * r.share,
                r.real_minutes or 0.0,
                (*_said(r), r.remarks) if r.remarks else _said(r),
            )
            for r in rows
        ]
        return life(tool, runs)

    # -- one tool ------------------------------------------------------------------------------------------------------

    def feed(self, number: int) -> None:
        """How fast a tool is fed."""
        self._desk.when_planned("feed", lambda plan: self._feed(plan, number))

    def _feed(self, plan: Any, number: int) -> None:
        from gatepost.core.plan.tooling import use_of
        from gatepost.core.tools.feeds import good_runs
        from gatepost.core.tools.uses import heaviest
        from gatepost.desk.dialogs.feed import FeedDialog

        tool, wood = plan.job.tool(number), plan.job.wood
        uses = tuple(use_of(op) for s in plan.setups for op in s.operations)
        rows = self._desk.from_book(lambda book: book.runs_of_tool(tool.name), [])
        record = good_runs(
            [
                (r.chip * r.kept_at, r.started, (*_said(r), r.remarks))
                for r in rows
                if r.state == "done" and r.wood == wood.name
            ]
        )
        dialog = FeedDialog(
            self._desk.window,
            tool,
            wood,
            plan.job.machine,
            heaviest(uses, number),
            record,
            plan.job.unit,
            self._desk.theme,
        )
        dialog.chosen.connect(
            lambda feed: self._desk.run("set tool", {"number": number, "feed": feed}, f"feed of T{number}")
        )
        self._open(dialog)

    def groove(self, number: int) -> None:
        """What a V really is, by a test groove."""
        document = self._desk.document
        if document is None:
            return
        from gatepost.core.plan.ready import groove_depths, groove_job
        from gatepost.desk.dialogs.groove import GrooveDialog

        job, tool = document.job, document.job.tool(number)
        depths = groove_depths(tool)
        dialog = GrooveDialog(self._desk.window, tool, job.unit, depths)
        dialog.used.connect(
            lambda values: self._desk.run("set tool", {"number": number, **values}, f"T{number} as its groove shows it")
        )
        dialog.scrap_wanted.connect(
            lambda: self._made(lambda: groove_job(job.machine, job.tools, number, depths, job.wood, job.unit))
        )
        self._open(dialog)

    # -- the bed -------------------------------------------------------------------------------------------------------

    def skim(self) -> None:
        """Ask what of the bed is to be skimmed, and make a job of it."""
        document = self._desk.document
        if document is None:
            return
        from gatepost.core.plan.ready import skimming, whole_bed
        from gatepost.desk.dialogs.skim import SkimDialog

        job = document.job
        dialog = SkimDialog(self._desk.window, job.tools, job.machine, job.unit, whole_bed)
        dialog.wanted.connect(
            lambda number, area, deep, rows: self._made(
                lambda: skimming(job.machine, job.tools, number, area, deep, rows, job.unit)
            )
        )
        self._open(dialog)

    def _made(self, make: Callable[[], Job]) -> None:
        """A job that is made ready, in the place of the one that is open."""
        try:
            job = make()
        except OperatorError as error:
            self._desk.messages.warn(str(error))
            return
        if self._begin(job):
            self._desk.messages.say(
                f"{job.name}: a job of its own, planned and run like any other. The one that was open is in its file."
            )


def _said(run: Any) -> tuple[str, ...]:
    """What was said of a run while it went on."""
    return tuple(str(m.get("what", "")) for m in run.marks if isinstance(m, dict))
