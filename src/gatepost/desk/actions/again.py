# SPDX-License-Identifier: GPL-3.0-or-later
"""Something cut again alone: chosen, looked at, and run."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING, Any

from gatepost.core.units import spell
from gatepost.desk.actions.files import PROGRAMS
from gatepost.desk.context.desk_context import Act, DeskContext

if TYPE_CHECKING:
    from gatepost.desk.machine.at_machine import AtMachine


class AgainActions:
    """One dialog at a time."""

    def __init__(self, desk: DeskContext, machine: AtMachine) -> None:
        self._desk, self._machine = desk, machine
        self.dialog: Any = None
        self._taken: Any = None
        self._asked = 0  # the question whose answer is awaited

    def acts(self) -> dict[str, Act]:
        """By name."""
        return {"cut_again": self.ask, "run_import": self.ask_import}

    def ask(self) -> None:
        """What is cut again."""
        self._desk.when_planned("again", self._ask)

    def _ask(self, plan: Any) -> None:
        from gatepost.core.plan.again import items
        from gatepost.desk.dialogs.again import AgainDialog

        document, setup = self._desk.document, plan.setup(self._desk.showing.setup)
        if document is None or setup is None:
            return
        ran = [p.name for p in setup.programs if self._ran(document.journal, setup, p)]
        things = items(plan, setup, ran)
        if not things:
            self._desk.messages.say(f"No program of the {setup.name} setup was run to its end on this board yet.")
            return
        self._forget()
        self.dialog = dialog = AgainDialog(self._desk.window, things, plan.job.unit)
        dialog.changed.connect(self._forget)
        dialog.asked.connect(lambda chosen, deeper: self._look(plan.job, setup.name, chosen, tuple(ran), deeper))
        dialog.wanted.connect(lambda: self._run(plan))
        dialog.open()

    def _forget(self) -> None:
        """An answer to what was asked before counts no more."""
        self._taken, self._asked = None, 0

    def _look(self, *values: Any) -> None:
        """Have it worked out."""
        self._asked = self._desk.question("again", *values)

    def ask_import(self) -> None:
        """A program made elsewhere, to be run in the setup that is shown."""
        path = (
            self._desk.ask_open("Run a program made elsewhere", PROGRAMS) if self._desk.document is not None else None
        )
        if path is not None:
            self.run_import(path)

    def run_import(self, path: Path) -> None:
        """Have it read, checked and swept; it is shown at the machine where nothing bars it."""
        self._desk.when_planned("import", lambda plan: self._import(plan, path))

    def _import(self, plan: Any, path: Path) -> None:
        document, setup = self._desk.document, plan.setup(self._desk.showing.setup)
        if document is None or setup is None:
            return
        ran = tuple(p.name for p in setup.programs if self._ran(document.journal, setup, p))
        self._desk.messages.say(f"Reading and sweeping {path.name}…")
        self._desk.question("import", plan.job, setup.name, str(path), ran)

    def import_told(self, answer: Any) -> None:
        """What would come of a program made elsewhere."""
        if not answer.plan:
            self._desk.messages.warn(answer.words)
            return
        taken, step, cares = answer.plan
        unit = taken.plan.job.unit
        if taken.stops:
            self._desk.messages.warn(spell(f"Not to be run. {' '.join(taken.stops)}", unit))
            return
        self._desk.messages.say(spell(" ".join([*cares, taken.words]), unit))
        self._taken = (taken, step)
        self._run(taken.plan)

    @staticmethod
    def _ran(journal: Any, setup: Any, program: Any) -> bool:
        """Whether a program was run to its end on this board."""
        step = next((s for s in setup.steps if s.program == program.name), None)
        return step is not None and bool(journal.ticked(setup.name, step.key, step.fingerprint))

    def told(self, answer: Any) -> None:
        """What would come of it, where it is what was asked last."""
        if answer.asked != self._asked or self.dialog is None:
            return
        self._taken = answer.plan or None
        self.dialog.told(self._taken[0] if self._taken is not None else None, answer.words)

    def _run(self, plan: Any) -> None:
        """Show it at the machine: it is run by a key that is held, and guarded like any run."""
        if self._taken is None:
            return
        taken, step = self._taken
        if taken.stops or self._desk.plan is None or self._desk.plan.job != plan.job:
            self._desk.messages.warn("The job has changed meanwhile. Choose it again.")
            return
        self._desk.page_wanted.emit("machine")
        self._machine.show_extra(taken.plan, taken.setup, step)
