# SPDX-License-Identifier: GPL-3.0-or-later
"""Which machine: a simulated one, one with something wrong to practise on, one at an address, or none."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from PyQt6.QtWidgets import QInputDialog

from gatepost.desk.context.desk_context import Act, DeskContext

if TYPE_CHECKING:
    from gatepost.desk.dialogs.practice import PracticeDialog
    from gatepost.desk.machine.operator import Operator


class LinkActions:
    """practised: of each trouble that is practised, at which step it was noticed, and by what words."""

    def __init__(self, desk: DeskContext, operator: Operator) -> None:
        self._desk, self._operator = desk, operator
        self.practised: dict[str, tuple[str, str]] = {}
        self.dialog: PracticeDialog | None = None

    def acts(self) -> dict[str, Act]:
        """By name."""
        return {
            "simulated": self.simulated,
            "practice": lambda: self._desk.when_planned("practice", self._ask_practice),
            "connect": self.ask_address,
            "unlink": self.unlink,
        }

    def simulated(self) -> None:
        """Start a simulated machine with this job's wood on its bed."""

        def start(plan: Any) -> None:
            if not self._operator.busy:
                self._operator.start_simulated(plan)

        self._desk.when_planned("link", start)

    def ask_address(self) -> None:
        """Connect to a machine at HOST:PORT."""
        words, good = QInputDialog.getText(
            self._desk.window, "Connect to a machine", "HOST:PORT", text="127.0.0.1:7007"
        )
        if good and self._desk.document is not None:
            self._desk.when_planned("link", lambda plan: self._operator.connect_to(plan, words.strip()))

    def unlink(self) -> None:
        """Let go of the machine."""
        if self._desk.document is not None:
            self._operator.unlink()

    def _ask_practice(self, plan: Any) -> None:
        """Which troubles, or what was noticed of them."""
        from gatepost.desk.dialogs.practice import PracticeDialog

        self.dialog = PracticeDialog(self._desk.window, self.practised)
        self.dialog.begun.connect(self.practise)
        self.dialog.finished.connect(self._done)
        self.dialog.open()

    def _done(self) -> None:
        self.dialog = None

    def practise(self, names: tuple[str, ...]) -> None:
        """Begin with these troubles; nothing of it goes to the shop's figures."""

        def start(plan: Any) -> None:
            self.practised = dict.fromkeys(names, ("", ""))
            self._operator.start_simulated(plan, names)
            self._desk.page_wanted.emit("machine")
            self._desk.messages.say(
                "Practice: go through the steps. Something may be wrong."
                if names
                else "Practice: nothing is wrong with this machine."
            )

        self._desk.when_planned("link", start)

    def noticed(self, words: str, step: str) -> None:
        """A check or a stop has told of something: which trouble was that? It is put right on the simulated machine."""
        from gatepost.machine.rehearsal import BY_NAME, tells_of

        for name, (where, _) in self.practised.items():
            if not where and tells_of(BY_NAME[name], words):
                self.practised[name] = (step or "the machine's own stop", words)
                self._operator.mend(name)
