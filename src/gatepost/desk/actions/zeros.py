# SPDX-License-Identifier: GPL-3.0-or-later
"""Zeros: is it square, what happened to them, and the card that tells where they are."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING, Any

from gatepost.core.errors import OperatorError
from gatepost.desk.actions.files import PDF
from gatepost.desk.context.desk_context import Act, DeskContext

if TYPE_CHECKING:
    from gatepost.desk.dialogs.happened import HappenedDialog
    from gatepost.desk.dialogs.square import SquareDialog


class ZeroActions:
    """linked: whether a machine is there to be asked."""

    def __init__(self, desk: DeskContext, linked: Act) -> None:
        self._desk, self._linked = desk, linked
        self.dialog: HappenedDialog | SquareDialog | None = None

    def acts(self) -> dict[str, Act]:
        """By name."""
        return {"square": self.square, "happened": self.happened}

    def _done(self) -> None:
        self.dialog = None

    def square(self) -> None:
        """Two touches on an edge."""
        if self._desk.document is None:
            return
        from gatepost.desk.dialogs.square import SquareDialog

        job, setup = self._desk.document.job, self._desk.showing.setup
        dialog = SquareDialog(self._desk.window, *job.blank.across, job.unit)
        self.dialog = dialog
        dialog.turn_wanted.connect(
            lambda degrees: self._desk.run("set skew", {"setup": setup, "degrees": degrees}, "programs turned")
        )
        dialog.finished.connect(self._done)
        dialog.open()

    # -- what happened -----------------------------------------------------------------------------------------

    def happened(self) -> None:
        """What happened, and what is still known."""
        if self._desk.document is None:
            return
        from gatepost.desk.dialogs.happened import HappenedDialog

        setup = self._desk.showing.setup
        dialog = HappenedDialog(self._desk.window, setup, self._desk.unit, self._linked())
        self.dialog = dialog
        dialog.happened.connect(lambda kind: self._it_happened(setup, kind))
        dialog.looked.connect(lambda x, y: self._looked_at(setup, x, y))
        dialog.accepted_so.connect(lambda why: self._yes_to(setup, why))
        dialog.card_wanted.connect(lambda: self.write_card(setup))
        dialog.finished.connect(self._done)
        self._show_known(setup)
        dialog.open()

    def _axes(self, setup: str) -> Any:
        from gatepost.core.zero.trust import trust

        assert self._desk.document is not None
        return trust(self._desk.document.journal.standing(), self._where(setup))

    def _where(self, setup: str) -> Any:
        from gatepost.core.zero.trust import where

        assert self._desk.document is not None
        return where(self._desk.document.job, self._desk.document.job.setup(setup))

    def _say(self, words: str) -> None:
        """In the dialog, where it is still there."""
        from gatepost.desk.dialogs.happened import HappenedDialog

        if isinstance(self.dialog, HappenedDialog):
            self.dialog.say(words)

    def _show_known(self, setup: str) -> None:
        from gatepost.core.zero.recover import card
        from gatepost.desk.dialogs.happened import HappenedDialog

        if isinstance(self.dialog, HappenedDialog):
            self.dialog.show_card(card(self._axes(setup)))

    def _it_happened(self, setup: str, kind: str) -> None:
        from gatepost.core.acts import TABLE
        from gatepost.core.zero.recover import happened
        from gatepost.machine.standing_checks import now

        document = self._desk.document
        if document is None:
            return
        at = now()
        if kind == "homed":
            document.happened(document.journal.add(at, "homed", setup))
            words = "Homed. Now go back to the witness mark and look."
        else:
            document.happened(happened(document.journal, kind, setup, self._axes(setup).tool, at))
            words = TABLE[kind].then
        self._say(words)
        self._show_known(setup)

    def _looked_at(self, setup: str, x: float, y: float) -> None:
        from gatepost.core.zero.recover import looked
        from gatepost.core.zero.trust import AGREES
        from gatepost.machine.standing_checks import now

        document = self._desk.document
        if document is None:
            return
        try:
            document.happened(looked(document.journal, self._where(setup), (x, y), now()))
        except OperatorError as error:
            self._say(str(error))
            return
        agrees = max(abs(x), abs(y)) <= AGREES
        self._say(
            "The mark agrees: X0 and Y0 are known again. Z wants touching: a look proves nothing of it."
            if agrees
            else "X0 and Y0 are moved by the miss, and provisional: one mark can't tell a turn. Touch Z again."
        )
        self._show_known(setup)

    def _yes_to(self, setup: str, why: str) -> None:
        from gatepost.core.zero.recover import accepted
        from gatepost.machine.standing_checks import now

        document = self._desk.document
        if document is None:
            return
        try:
            document.happened(accepted(document.journal, self._where(setup), why, now()))
        except OperatorError as error:
            self._say(str(error))
            return
        self._say("Going on with this zero. Your reason is kept.")
        self._show_known(setup)

    def write_card(self, setup: str, path: Path | None = None) -> None:
        """The card to print: zeros in machine coordinates, with tool and time."""
        document = self._desk.document
        if document is None:
            return
        from gatepost.core.zero.recover import card
        from gatepost.desk.view.sheet import zero_card

        path = path or self._desk.ask_save("Card of the zeros", "zeros.pdf", PDF)
        if path is None:
            return
        try:
            zero_card(document.job, setup, card(self._axes(setup)), path)
        except OperatorError as error:
            self._desk.messages.warn(str(error))
            return
        self._desk.messages.say(f"{path.name} is written.")
