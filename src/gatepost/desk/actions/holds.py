# SPDX-License-Identifier: GPL-3.0-or-later
"""Holding: ways compared, the shop's bed, and nests that are cut."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING, Any

from gatepost.core.errors import OperatorError
from gatepost.desk.actions.files import PROGRAMS
from gatepost.desk.actions.rims import RimActions
from gatepost.desk.context.desk_context import Act, DeskContext

if TYPE_CHECKING:
    from gatepost.desk.dialogs.ways import WaysDialog


class HoldActions:
    """The setup that is shown is held."""

    def __init__(self, desk: DeskContext) -> None:
        self._desk = desk
        self.dialog: WaysDialog | None = None
        self.rims = RimActions(desk)

    def acts(self) -> dict[str, Act]:
        """By name."""
        return {
            "ways": lambda: self._desk.when_planned("ways", self.ways), "keep_bed": self.keep_bed, "take_bed": self.take_bed,
            "skimmed": self.skimmed, "nest_program": self.write_nest, "keep_first_part": self.keep_first, **self.rims.acts(),
        }  # fmt: skip

    # -- ways -----------------------------------------------------------------------------------------------

    def ways(self, plan: Any) -> None:
        """Places and ways of holding this setup, compared."""
        document = self._desk.document
        if document is None:
            return
        from gatepost.desk.dialogs.ways import WaysDialog

        setup = self._desk.showing.setup
        holds = document.job.setup(setup).holds
        count = max(2, sum(plan.kinds.holds[h.kind].by in ("top", "edge") for h in holds) or 4)
        dialog = WaysDialog(self._desk.window, plan, setup, count, self._desk.theme)
        self.dialog = dialog
        dialog.wanted.connect(lambda name, number: self._desk.question("ways", plan.job, name, number))
        dialog.called_off.connect(lambda: self._desk.question("call off"))
        dialog.chosen.connect(
            lambda places: self._desk.run("set holds", {"setup": setup, "holds": places}, "another way of holding")
        )
        dialog.finished.connect(self._done)
        dialog.open()
        dialog.begin()

    def _done(self) -> None:
        self.dialog = None

    def told(self, answer: Any) -> None:
        """What the worker has found of ways, or how far it is."""
        if self.dialog is None:
            return
        if answer.outcome == "share":
            self.dialog.share(float(answer.plan))
        else:
            self.dialog.told(answer.plan or [], answer.words)

    # -- the shop's bed --------------------------------------------------------------------------------------

    def keep_bed(self) -> None:
        """Keep what is on this job's bed for the shop's later jobs."""
        if self._desk.document is not None:
            machine = self._desk.document.job.machine
            self._desk.keep_for_shop("bed", machine.name, machine.bed.model_dump(mode="json"))

    def take_bed(self) -> None:
        """Take what the shop keeps of this machine's bed into this job."""
        if self._desk.document is None:
            return
        name = self._desk.document.job.machine.name
        kept = self._desk.kept_by_shop("bed").get(name)
        if kept is None:
            self._desk.messages.say(f"The shop keeps nothing of {name}'s bed yet.")
        elif self._desk.run("set bed", kept.data, "the shop's bed"):
            self._desk.messages.say(f"The bed of {name} as it was kept on {kept.changed[:10]}.")

    def keep_first(self, index: int = 0) -> None:
        """What the first part measured, kept with its nest, and the bed with that nest for the shop."""
        from gatepost.machine.standing_checks import now

        nests = self._desk.document.job.machine.bed.nests if self._desk.document is not None else ()
        values = {"nest": nests[index].name if index < len(nests) else "", "at": now()[:10]}
        if self._desk.run("keep first part", values, "the first part"):
            self.keep_bed()

    def bed_news(self) -> None:
        """Whether the shop's bed was skimmed by a run since this job was touched off: then a Z0 on it is lost here too."""
        document = self._desk.document
        if document is None or document.job.made_for or not document.journal.entries:
            return
        kept = self._desk.kept_by_shop("bed").get(document.job.machine.name)
        skimmed = str(kept.data.get("skimmed", "")) if kept is not None else ""
        entries = document.journal.this_board()
        noted = max((e.at for e in entries if e.kind == "bed skimmed"), default="")
        if (
            len(skimmed) <= len("2026-01-01")
            or noted[:16] >= skimmed
            or not any(e.kind == "touched" and e.at[:16] < skimmed for e in entries)
        ):
            return
        from gatepost.machine.standing_checks import now

        journal = document.journal
        for setup in document.job.setups:
            journal = journal.add(now(), "bed skimmed", setup.name)
        document.happened(journal)
        self._desk.messages.say(
            f"The bed was skimmed on {skimmed[:10]}, after this job was touched off: a Z0 on the bed wants touching again."
        )

    def skimmed(self) -> None:
        """The bed was skimmed today: no scars any more; a Z0 on the bed is lost."""
        document = self._desk.document
        if document is None:
            return
        from gatepost.machine.standing_checks import now

        at = now()
        if self._desk.run("set bed", {"scars": (), "skimmed": at[:10]}, "the bed skimmed"):
            journal = document.journal
            for setup in document.job.setups:
                journal = journal.add(at, "bed skimmed", setup.name)
            document.happened(journal)
            self._desk.messages.say(
                "The bed was skimmed: its scars are gone, and a Z0 on the bed wants touching again."
            )

    # -- nests ------------------------------------------------------------------------------------------------

    def write_nest(self, index: int, path: Path | None = None) -> None:
        """Write the program that cuts a nest's opening."""
        if self._desk.document is None:
            return
        from gatepost.core.writing import write_whole
        from gatepost.outputs import nest_program

        try:
            text, words = nest_program(self._desk.document.job, index)
            path = path or self._desk.ask_save("Program of the nest", "nest.nc", PROGRAMS)
            if path is None:
                return
            write_whole(path, text.encode())
        except OperatorError as error:
            self._desk.messages.warn(str(error))
        except OSError as error:
            self._desk.messages.warn(f"The program can't be written: {error.strerror or error}.")
        else:
            self._desk.messages.say(f"{path.name}: {words}")
