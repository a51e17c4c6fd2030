# SPDX-License-Identifier: GPL-3.0-or-later
"""The worker: what it is asked, and to whom its answers go."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from gatepost.desk.actions.designs import DesignActions
    from gatepost.desk.actions.holds import HoldActions
    from gatepost.desk.actions.outlines import OutlineActions
    from gatepost.desk.actions.outputs import OutputActions
    from gatepost.desk.context.desk_context import DeskContext
    from gatepost.desk.window.parts import Parts
    from gatepost.desk.worker.server import Response
    from gatepost.desk.worker.worker import PlanWorker


class Answers:
    """parts: what stands behind the start page; advised: what is offered for findings is known."""

    def __init__(
        self, desk: DeskContext, parts: Callable[[], Parts], outputs: OutputActions, outlines: OutlineActions, holds: HoldActions,
        designs: DesignActions, advised: Callable[[Any], None],
    ) -> None:  # fmt: skip
        self._desk, self._parts, self._advised = desk, parts, advised
        self._outputs, self._outlines, self._holds, self._designs = outputs, outlines, holds, designs

    def begin(self, make: Callable[[], PlanWorker] | None) -> None:
        """Start the worker; it loads beside the window. make: makes what stands for it."""
        if self._desk.worker is not None:
            return
        from gatepost.desk.worker.worker import PlanWorker

        worker = (make or PlanWorker)()
        self._desk.worker = worker
        worker.answered.connect(self._answered)
        worker.pictured.connect(lambda field, pixels: self._parts().drawings.pictured(field, pixels))
        worker.told.connect(self._told)
        self.ask()

    def ask(self) -> None:
        """Ask for a plan of the job as it is."""
        worker, document = self._desk.worker, self._desk.document
        if worker is not None and document is not None:
            first = self._desk.showing.plan is None
            worker.ask(document.job, document.journal, first=first, kinds=self._desk.kinds)
            self._parts().presenter.working_out(True)

    def _answered(self, response: Response) -> None:
        told: Any = response.plan
        if response.outcome in ("coarse", "done"):
            if self._desk.document is None:
                return
            self._parts().presenter.plan_ready(told)
            if not told.coarse:
                self._parts().ledger.refresh(told)
            self._desk.planned()
        elif response.outcome == "advice":
            self._advised(told)
        elif response.outcome == "failed":
            self._parts().presenter.working_out(False)
            self._desk.drop_waiting()
            self._desk.messages.warn(f"The plan could not be worked out: {response.words}")

    def _told(self, answer: Any) -> None:
        """The answer to a small question goes to whoever has asked it."""
        parts = self._parts()
        takers: dict[str, Callable[[Any], None]] = {
            **dict.fromkeys(
                (
                    "sheet",
                    "write",
                    "quote",
                    "options",
                    "diary",
                    "template",
                    "check",
                    "series",
                    "series share",
                    "write share",
                ),
                self._outputs.told,
            ),
            **dict.fromkeys(("drawing", "reduce", "trace", "first fit"), self._outlines.told),
            **dict.fromkeys(("art", "trace art", "heights art"), self._outlines.art.told),
            "look": self._outlines.art.looked,
            "design": self._designs.told,
            **dict.fromkeys(("ways", "share"), self._holds.told),
            "rim": self._holds.rims.told,
            "rim share": self._holds.rims.share,
            "either": self._holds.rims.compared,
            "ready": parts.finishing.told,
            "ready share": parts.finishing.share,
            "resume": parts.runs.told,
            **dict.fromkeys(("result photo", "over plan"), parts.photos.told),
            "again": parts.again.told,
            "import": parts.again.import_told,
            "judge": parts.hands.told,
        }
        taker = takers.get(answer.outcome)
        if taker is not None:
            taker(answer)
