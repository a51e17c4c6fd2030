# SPDX-License-Identifier: GPL-3.0-or-later
"""What the window does about holding: ways compared, the shop's bed, and nests that are cut."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING, Any

from PyQt6.QtWidgets import QFileDialog, QWidget

from gatepost.core.errors import OperatorError

if TYPE_CHECKING:
    from gatepost.desk.shell.document import DeskDocument
    from gatepost.desk.shell.messages import Messages
    from gatepost.desk.shell.show import PlanPresenter
    from gatepost.desk.shell.waysdialog import WaysDialog
    from gatepost.desk.shell.worker import Reckoner

    _Part = QWidget
else:
    _Part = object  # a part of a class that is a widget already


class HoldActions(_Part):
    """A part of the window."""

    document: DeskDocument | None
    messages: Messages
    reckoner: Reckoner | None
    presenter: PlanPresenter
    ways_dialog: WaysDialog | None = None

    def run(self, name: str, values: dict[str, Any], words: str = "") -> bool:
        """The window's own."""
        raise NotImplementedError

    def _plan_now(self) -> Any:
        raise NotImplementedError

    def _keep_for_shop(self, kind: str, name: str, data: dict[str, Any], at: str) -> None:
        raise NotImplementedError

    def _kept_by_shop(self, kind: str) -> Any:
        raise NotImplementedError

    # -- ways -----------------------------------------------------------------------------------------------

    def _ways(self) -> None:
        """Places and ways of holding this setup, compared."""
        plan = self._plan_now()
        if plan is None or self.document is None:
            return
        from gatepost.desk.shell.waysdialog import WaysDialog

        setup = self.presenter.setup
        holds = self.document.job.setup(setup).holds
        count = max(2, sum(plan.kinds.holds[h.kind].by in ("top", "edge") for h in holds) or 4)
        dialog = WaysDialog(self, setup, count, self.document.job.unit)
        self.ways_dialog = dialog
        dialog.wanted.connect(lambda name, number: self._ask_ways(plan.job, name, number))
        dialog.called_off.connect(self._call_off_ways)
        dialog.chosen.connect(
            lambda places: self.run("set holds", {"setup": setup, "holds": places}, "another way of holding")
        )
        dialog.finished.connect(self._ways_done)
        dialog.open()
        dialog.begin()

    def _ask_ways(self, job: Any, setup: str, count: int) -> None:
        if self.reckoner is not None:
            self.reckoner.question("ways", job, setup, count)

    def _call_off_ways(self) -> None:
        if self.reckoner is not None:
            self.reckoner.question("call off")

    def _ways_done(self) -> None:
        self.ways_dialog = None

    def ways_told(self, answer: Any) -> None:
        """What the worker has reckoned of ways, or how far it is."""
        if self.ways_dialog is None:
            return
        if answer.outcome == "share":
            self.ways_dialog.share(float(answer.plan))
        else:
            self.ways_dialog.told(answer.plan or [], answer.words)

    # -- the shop's bed --------------------------------------------------------------------------------------

    def _keep_bed(self) -> None:
        """Keep what is on this job's bed for the shop's later jobs."""
        if self.document is None:
            return
        from gatepost.machine.conduct import now

        machine = self.document.job.machine
        self._keep_for_shop("bed", machine.name, machine.bed.model_dump(mode="json"), now())

    def _take_bed(self) -> None:
        """Take what the shop keeps of this machine's bed into this job."""
        if self.document is None:
            return
        name = self.document.job.machine.name
        kept = self._kept_by_shop("bed").get(name)
        if kept is None:
            self.messages.say(f"The shop keeps nothing of {name}'s bed yet.")
            return
        if self.run("set bed", kept.data, "the shop's bed"):
            self.messages.say(f"The bed of {name} as it was kept on {kept.changed[:10]}.")

    def _skimmed(self) -> None:
        """The bed was skimmed today: no scars any more; a Z0 on the bed is lost."""
        if self.document is None:
            return
        from gatepost.machine.conduct import now

        at = now()
        if self.run("set bed", {"scars": (), "skimmed": at[:10]}, "the bed skimmed"):
            journal = self.document.journal
            for setup in self.document.job.setups:
                journal = journal.add(at, "bed skimmed", setup.name)
            self.document.happened(journal)
            self.messages.say("The bed was skimmed: its scars are gone, and a Z0 on the bed wants touching again.")

    # -- nests ------------------------------------------------------------------------------------------------

    def write_nest(self, index: int, path: Path | None = None) -> None:
        """Write the program that cuts a nest's opening."""
        if self.document is None:
            return
        from gatepost.core.writing import write_whole
        from gatepost.outputs import nest_program

        job = self.document.job
        try:
            text, words = nest_program(job, index)
        except OperatorError as error:
            self.messages.warn(str(error))
            return
        if path is None:
            name, _ = QFileDialog.getSaveFileName(
                self, "Program of the nest", str(Path.home() / "nest.nc"), "Programs (*.nc)"
            )
            if not name:
                return
            path = Path(name)
        try:
            write_whole(path, text.encode())
        except OSError as error:
            self.messages.warn(f"{path.name} can't be written: {error.strerror or error}.")
            return
        self.messages.say(f"{path.name}: {words}")
