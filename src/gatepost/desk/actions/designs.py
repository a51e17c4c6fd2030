# SPDX-License-Identifier: GPL-3.0-or-later
"""Rival designs, the proof of all words, and what changed since the job was saved."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path
from typing import TYPE_CHECKING, Any

from gatepost.core.errors import OperatorError
from gatepost.core.job import commands
from gatepost.core.units import spell
from gatepost.desk.actions.files import PDF
from gatepost.desk.context.desk_context import Act, DeskContext
from gatepost.desk.dialogs import questions

if TYPE_CHECKING:
    from gatepost.core.plan.versions import Version
    from gatepost.desk.dialogs.designs import DesignsDialog
    from gatepost.desk.dialogs.proof import ChangesDialog, ProofDialog

WIDE = 640  # px of a picture


class DesignActions:
    """Pictures are made by the worker, one after another."""

    def __init__(self, desk: DeskContext) -> None:
        self._desk = desk
        self.dialog: DesignsDialog | None = None
        self.proof_dialog: ProofDialog | None = None
        self.changes_dialog: ChangesDialog | None = None

    def acts(self) -> dict[str, Act]:
        """By name."""
        return {
            "designs": lambda: self._desk.when_planned("designs", lambda plan: self.show()),
            "options_sheet": self.sheet,
            "proof": self.proof,
            "changes": self.changes,
            "compare_file": self.compare_file,
        }

    # -- designs --------------------------------------------------------------------------------------------------

    def show(self) -> None:
        """All designs of the job beside each other."""
        if self._desk.document is None or self.dialog is not None:
            return
        from gatepost.desk.dialogs.designs import DesignsDialog

        dialog = DesignsDialog(self._desk.window, ())
        self.dialog = dialog
        dialog.pictured.connect(self._picture)
        dialog.taken.connect(lambda id: self._change("take design", {"design": id}, "another design"))
        dialog.gone.connect(lambda id: self._change("remove design", {"design": id}, "a design taken away"))
        dialog.kept.connect(self._keep)
        dialog.finished.connect(self._done)
        dialog.approve_wanted.connect(self.approve)
        dialog.moved_wanted.connect(self.moved)
        dialog.sheet_wanted.connect(self.sheet)
        self._show()
        dialog.open()

    def versions(self) -> tuple[Version, ...]:
        """The present design, and the others."""
        document = self._desk.document
        if document is None:
            return ()
        from gatepost.core.plan.versions import versions

        job = document.job
        results = self._desk.from_book(lambda book: book.learned.results(job.name), [])
        return versions(job, results, document.kinds)

    def _show(self) -> None:
        if self.dialog is not None:
            self.dialog.show_designs(self.versions(), self._desk.unit)

    def _keep(self, title: str, why: str) -> None:
        if self._change("keep design", {"title": title, "why": why}, "another design") and self.dialog is not None:
            self.dialog.name.clear()
            self.dialog.why.clear()

    def approve(self, id: str) -> None:
        """Somebody approves a design as it is now."""
        by = questions.ask_name(
            self._desk.window,
            "Approve this design",
            "Who approves it, as it is now? What they said can follow after a colon.",
        )
        who, _, words = by.partition(":")
        if who.strip():
            from gatepost.machine.standing_checks import now

            self._change(
                "approve design",
                {"design": id, "by": who.strip(), "at": now(), "words": words.strip()},
                "a design approved",
            )

    def moved(self, id: str) -> None:
        """What is other in the present design than in another."""
        one = next((v for v in self.versions() if v.id == id), None)
        if one is not None:
            self._tell_changes(f"From “{one.title}” to the present design:", one.moved)

    def compare_file(self) -> None:
        """What is other in this job than in another file of it."""
        path = self._desk.ask_open("Compare with", "Jobs (*.gatepost)") if self._desk.document is not None else None
        if path is not None:
            self.compare_with(path)

    def compare_with(self, path: Path) -> None:
        """Item by item."""
        from gatepost.core.job.file import load
        from gatepost.core.plan.changes import changes

        document = self._desk.document
        if document is None:
            return
        try:
            other = load(path).job
        except OperatorError as error:
            self._desk.messages.warn(str(error))
            return
        self._tell_changes(f"From {path.name} to this job as it is now:", changes(other, document.job, document.kinds))

    def sheet(self) -> None:
        """All designs on paper, as large as they will be, to be approved."""
        document = self._desk.document
        if document is None:
            return
        path = self._desk.ask_save("Write the options sheet", f"{document.job.name} options.pdf", PDF)
        if path is not None:
            self.sheet_to(path)

    def sheet_to(self, path: Path) -> None:
        """Have it written."""
        self._desk.when_planned("options sheet", lambda plan: self._ask_sheet(plan, path))

    def _ask_sheet(self, plan: Any, path: Path) -> None:
        self._desk.messages.say("Each design is planned, then the sheet is written. A change to the job calls it off.")
        self._desk.question("options", plan.job, str(path))

    def _change(self, command: str, values: dict[str, Any], words: str) -> bool:
        done = self._desk.run(command, values, words)
        if done:
            self._show()
        return done

    def _picture(self, id: str) -> None:
        document = self._desk.document
        if document is None or self.dialog is None:
            return
        try:
            job = commands.run(document.job, "take design", {"design": id}) if id else document.job
        except OperatorError as error:
            self.dialog.refused(id, str(error))
            return
        self._desk.question("design", job, id, WIDE)

    def told(self, answer: Any) -> None:
        """The picture of one has come."""
        if self.dialog is None:
            return
        if answer.plan is False:
            id, _, words = answer.words.partition("|")
            self.dialog.refused(id, spell(words, self._desk.unit))
        else:
            id, pixels, minutes, stops = answer.plan
            self.dialog.show_picture(id, pixels, minutes, stops, self._desk.unit)

    def _done(self) -> None:
        self.dialog = None

    # -- words ------------------------------------------------------------------------------------------------------

    def proof(self) -> None:
        """Every line as it will be cut, to be read and ticked."""
        document = self._desk.document
        if document is None or self.proof_dialog is not None:
            return
        from gatepost.core.carve.words import lettered_lines, words_hash
        from gatepost.desk.dialogs.proof import ProofDialog

        job = document.job
        lines = [
            (f"Line {number}, on the {art.face}", line, art.mirror)
            for number, (art, line) in enumerate(lettered_lines(job), start=1)
        ]
        if not lines:
            self._desk.messages.say("There are no words yet. Write something first.")
            return
        self.proof_dialog = ProofDialog(self._desk.window, lines, self._desk.theme)
        said = words_hash(job)
        self.proof_dialog.read.connect(lambda: self._desk.run("words read", {"words": said}, "words read through"))
        self.proof_dialog.finished.connect(self._proof_done)
        self.proof_dialog.open()

    def _proof_done(self) -> None:
        self.proof_dialog = None

    def changes(self) -> None:
        """What changed since the job was saved, item by item."""
        document = self._desk.document
        if document is None or self.changes_dialog is not None:
            return
        if document.path is None:
            self._desk.messages.say("This job was not saved yet: there is nothing to compare it with.")
            return
        from gatepost.core.job.file import load
        from gatepost.core.plan.changes import changes

        try:
            saved = load(document.path).job
        except OperatorError as error:
            self._desk.messages.warn(str(error))
            return
        self._tell_changes(f"Since {document.path.name} was saved:", changes(saved, document.job))

    def _tell_changes(self, since: str, said: Sequence[str]) -> None:
        from gatepost.desk.dialogs.proof import ChangesDialog

        if self.changes_dialog is not None:
            return
        told = [spell(words, self._desk.unit) for words in said]
        over = self.dialog if self.dialog is not None and self.dialog.isVisible() else self._desk.window
        self.changes_dialog = ChangesDialog(over, since, told)
        self.changes_dialog.finished.connect(self._changes_done)
        self.changes_dialog.open()

    def _changes_done(self) -> None:
        self.changes_dialog = None
