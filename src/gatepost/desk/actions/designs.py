# SPDX-License-Identifier: GPL-3.0-or-later
"""Rival designs, the proof of all words, and what changed since the job was saved."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from gatepost.core.errors import OperatorError
from gatepost.core.job import commands
from gatepost.core.units import spell
from gatepost.desk.context.desk_context import Act, DeskContext

if TYPE_CHECKING:
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
            "proof": self.proof,
            "changes": self.changes,
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
        dialog.show_designs(self._titles())
        dialog.open()

    def _titles(self) -> list[tuple[str, str]]:
        document = self._desk.document
        if document is None:
            return []
        from gatepost.core.job.commands.designs import FIRST

        job = document.job
        return [("", job.design or FIRST), *((d.id, d.title) for d in job.designs)]

    def _keep(self, title: str) -> None:
        if self._change("keep design", {"title": title}, "another design") and self.dialog is not None:
            self.dialog.name.clear()

    def _change(self, command: str, values: dict[str, Any], words: str) -> bool:
        done = self._desk.run(command, values, words)
        if done and self.dialog is not None:
            self.dialog.show_designs(self._titles())
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
        from gatepost.desk.dialogs.proof import ChangesDialog

        try:
            saved = load(document.path).job
        except OperatorError as error:
            self._desk.messages.warn(str(error))
            return
        told = [spell(words, self._desk.unit) for words in changes(saved, document.job)]
        self.changes_dialog = ChangesDialog(self._desk.window, f"Since {document.path.name} was saved:", told)
        self.changes_dialog.finished.connect(self._changes_done)
        self.changes_dialog.open()

    def _changes_done(self) -> None:
        self.changes_dialog = None
