# SPDX-License-Identifier: GPL-3.0-or-later
"""The top probed by the machine, and the Z ledger of a surfacing."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING, Any

from gatepost.core.errors import OperatorError
from gatepost.core.units import spell
from gatepost.desk.actions.files import PROGRAMS
from gatepost.desk.context.desk_context import Act, DeskContext

if TYPE_CHECKING:
    from gatepost.desk.dialogs.ledger import LedgerDialog
    from gatepost.desk.dialogs.probe import ProbeDialog
    from gatepost.desk.machine.operator import Operator


class ProbingActions:
    """operator: the machine as the window sees it."""

    def __init__(self, desk: DeskContext, operator: Operator) -> None:
        self._desk, self._operator = desk, operator
        self.dialog: ProbeDialog | None = None
        operator.probed.connect(self.told)
        operator.progressed.connect(self.progress)

    def acts(self) -> dict[str, Act]:
        """By name."""
        return {"probe": lambda: self._desk.when_planned("probe", self.open)}

    def open(self, plan: Any) -> None:
        """Ask where, with what."""
        if self._operator.busy:
            return
        from gatepost.desk.dialogs.probe import ProbeDialog

        self.dialog = ProbeDialog(self._desk.window, plan, self._operator.state == "ready", self._desk.theme)
        self.dialog.begun.connect(self._begin)
        self.dialog.stop_wanted.connect(self._operator.stop_probing)
        self.dialog.finished.connect(self._done)
        self.dialog.open()

    def _done(self) -> None:
        self.dialog = None

    def _begin(self, where: Any, tool: Any, setup: Any) -> None:
        plan, document = self._desk.plan, self._desk.document
        begun = plan is not None and document is not None and self._operator.probe(
            plan, setup, tool, where, document.journal
        )  # fmt: skip
        if not begun and self.dialog is not None:
            self.dialog.ended("The machine is busy, or there is none. Nothing was probed.")

    def told(self, found: Any) -> None:
        """What a probing came to: its heights in the place of those that were there; Undo brings these back."""
        if found is None:
            words = f"{self._operator.last_words} Nothing was changed.".strip()
        else:
            words = found.words()
            self._desk.run("set heights", {"face": "top", "rows": found.heights}, "probed heights")
            self._desk.messages.say(spell(words, self._desk.unit))
        if self.dialog is not None:
            self.dialog.ended(words)

    def progress(self, done: int, of: int) -> None:
        """So many places are probed."""
        if self.dialog is not None:
            self.dialog.progress(done, of)


class LedgerActions:
    """The ledger, and a program for what is left."""

    def __init__(self, desk: DeskContext) -> None:
        self._desk = desk
        self.dialog: LedgerDialog | None = None

    def acts(self) -> dict[str, Act]:
        """By name."""
        return {"ledger": lambda: self._desk.when_planned("ledger", self.open)}

    def open(self, plan: Any) -> None:
        """The Z ledger of the surfacing."""
        document = self._desk.document
        if document is None:
            return
        from gatepost.desk.dialogs.ledger import LedgerDialog
        from gatepost.machine.standing_checks import now

        try:
            dialog = LedgerDialog(self._desk.window, plan, document.journal, now, self._desk.theme)
        except OperatorError as error:
            self._desk.messages.warn(str(error))
            return
        self.dialog = dialog
        dialog.grown.connect(document.happened)
        dialog.left_wanted.connect(self._ask_left)
        dialog.deeper_wanted.connect(self._deeper)
        dialog.finished.connect(self._done)
        dialog.open()

    def _done(self) -> None:
        self.dialog = None

    def refresh(self, plan: Any) -> None:
        """Another plan has come."""
        if self.dialog is not None and self._desk.document is not None:
            self.dialog.refresh(plan, self._desk.document.journal)

    def _deeper(self, by: float) -> None:
        if self._desk.document is not None:
            now = self._desk.document.job.surfacing.cleanup
            self._desk.run("set surfacing", {"cleanup": now + by}, "go deeper")

    def _ask_left(self) -> None:
        path = self._desk.ask_save("Program for what is left", "surface-left.nc", PROGRAMS)
        if path is not None:
            self._desk.when_planned("left", lambda plan: self.write_left(plan, path))

    def write_left(self, plan: Any, path: Path) -> bool:
        """Write a program only for the passes that are left; gives whether it could be."""
        from gatepost.core.plan.ledgers import left_program
        from gatepost.core.writing import write_whole

        if self._desk.document is None:
            return False
        try:
            program = left_program(plan, self._desk.document.journal)
            write_whole(path, program.text.encode("ascii"))
        except OperatorError as error:
            self._desk.messages.warn(spell(str(error), self._desk.unit))
            return False
        self._desk.messages.say(
            f"{path.name}: {program.seconds / 60.0:.1f} min of what is left. Z0 as it was first set, not lowered."
        )
        return True
