# SPDX-License-Identifier: GPL-3.0-or-later
"""A stepped rim, and either of two faces first: worked out by the worker."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from gatepost.core.job.register import InStepNest
from gatepost.desk.context.desk_context import Act, DeskContext
from gatepost.desk.dialogs.sharing import Sharing

if TYPE_CHECKING:
    from gatepost.desk.dialogs.slot import SlotDialog


class RimActions:
    """What was asked for is dropped where the job has changed meanwhile."""

    def __init__(self, desk: DeskContext) -> None:
        self._desk = desk
        self._asked: Any = None
        self.dialog: SlotDialog | None = None
        self.sharing = Sharing("A stepped rim", lambda: desk.question("call off"))

    def acts(self) -> dict[str, Act]:
        """By name."""
        return {"step_rim": self.make, "either_face": self.compare, "measure_slot": self.measure}

    def make(self) -> None:
        """The rim of what is cut out before the setup that is looked at, made so that its frame holds it turned over."""
        document, setup = self._desk.document, self._desk.showing.setup
        if document is None:
            return
        self._asked = document.job
        self._desk.messages.say("Making the rim: every way of stepping it is tried, and every place for its tabs.")
        self._desk.question("rim", document.job, setup)

    def measure(self) -> None:
        """How wide the slot really is, from a test piece."""
        document, setup = self._desk.document, self._desk.showing.setup
        comes = document.job.setup(setup).comes if document is not None else None
        if document is None or not isinstance(comes, InStepNest):
            return
        from gatepost.desk.dialogs.slot import SlotDialog

        cutter = document.job.width_of(comes.cut)
        if cutter <= 0.0:
            self._desk.messages.warn("What cut the frame is not in this job any more: make the rim stepped first.")
            return
        self.dialog = SlotDialog(self._desk.window, cutter, document.job.unit, self._desk.theme)
        self.dialog.used.connect(
            lambda opening, piece: self._desk.run(
                "measure slot", {"setup": setup, "opening": opening, "piece": piece}, "the slot"
            )
        )
        self.dialog.finished.connect(self._measured)
        self.dialog.open()

    def _measured(self) -> None:
        self.dialog = None

    def share(self, answer: Any) -> None:
        """How far the rim is; it can be called off there."""
        if self._asked is not None:
            self.sharing.show(self._desk.window, "The rim and its tabs are tried", round(100.0 * answer.plan), 100)

    def compare(self) -> None:
        """Either of two faces first: both are planned."""
        if self._desk.document is not None:
            self._desk.messages.say("Planning it with either face first…")
            self._desk.question("either", self._desk.document.job)

    def compared(self, answer: Any) -> None:
        """What either comes to, or why only one can be first."""
        if answer.plan:
            self._desk.messages.tell(str(answer.plan))
        else:
            self._desk.messages.warn(answer.words)

    def told(self, answer: Any) -> None:
        """The rim, or why there is none."""
        document, asked = self._desk.document, self._asked
        self._asked = None
        self.sharing.close()
        if document is None or asked is None:
            return
        if document.job != asked:
            self._desk.messages.warn("The job was changed meanwhile: make the rim once more.")
        elif not answer.plan:
            self._desk.messages.warn(answer.words)
        elif self._desk.run("set rim", dict(answer.plan), "a stepped rim"):
            self._desk.messages.say("The rim is stepped: its outline is cut out now in the place of the plate's.")
