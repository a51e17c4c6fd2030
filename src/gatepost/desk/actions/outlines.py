# SPDX-License-Identifier: GPL-3.0-or-later
"""The board's outline out of a drawing or an overhead photo."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING, Any

from gatepost.core.units import spell
from gatepost.desk.actions.artwork import ArtActions
from gatepost.desk.actions.files import DRAWINGS, PHOTOS
from gatepost.desk.context.desk_context import Act, DeskContext
from gatepost.desk.dialogs import questions

if TYPE_CHECKING:
    from gatepost.desk.dialogs.photo import PhotoDialog


class OutlineActions:
    """Read by the worker; a photo is marked in a dialog."""

    def __init__(self, desk: DeskContext) -> None:
        self._desk = desk
        self.photo_dialog: PhotoDialog | None = None
        self._of_piece = False  # whether the photo that is read shows where a piece lies
        self.art = ArtActions(desk)

    def acts(self) -> dict[str, Act]:
        """By name."""
        return {
            "photo": self.ask_photo,
            "piece_photo": self.ask_piece,
            "outline_file": self.ask_outline,
            **self.art.acts(),
        }

    def ask_outline(self) -> None:
        """Ask for a drawing."""
        path = self._desk.ask_open("Outline of the board", DRAWINGS) if self._desk.document is not None else None
        if path is not None:
            self.read_outline(path)

    def read_outline(self, path: Path) -> None:
        """The outline from a drawing."""
        self._read("drawing", path)

    def ask_photo(self) -> None:
        """Ask for a photo."""
        path = self._desk.ask_open("Overhead photo of the board", PHOTOS) if self._desk.document is not None else None
        if path is not None:
            self._of_piece = False
            self.read_photo(path)

    def ask_piece(self) -> None:
        """Ask for a photo of the piece where it lies on the bed, for a first fit by its marks."""
        document = self._desk.document
        if document is None:
            return
        comes = document.job.setup(self._desk.showing.setup).comes
        if len(getattr(comes, "marks", ())) < 2:
            self._desk.messages.warn(
                "Name two marks of the piece at least, and better five: they are clicked in the photo one after another."
            )
            return
        path = self._desk.ask_open("Overhead photo of the piece on the bed", PHOTOS)
        if path is not None:
            self._of_piece = True
            self.read_photo(path)

    def read_photo(self, path: Path) -> None:
        """Bring a photo to the size that is worked with, then show it to be marked."""
        self._read("reduce", path)

    def _read(self, what: str, path: Path) -> None:
        self._desk.question(what, str(path))
        self._desk.messages.say(f"Reading {path.name}…")

    def told(self, answer: Any) -> None:
        """What the worker found in a drawing or a photo."""
        if answer.plan is False:
            words = spell(answer.words, self._desk.unit)
            if self.photo_dialog is not None:
                self.photo_dialog.refused(words)
            else:
                self._desk.messages.warn(words)
        elif answer.outcome == "reduce":
            self._show_photo(*answer.plan)
        elif answer.outcome == "drawing":
            self.use(answer.plan)
        elif self.photo_dialog is not None:
            self.photo_dialog.found(answer.plan)

    def _show_photo(self, data: bytes, name: str) -> None:
        from gatepost.desk.dialogs.photo import PhotoDialog

        self._desk.messages.say("")  # it is read
        if self._of_piece:
            return self._show_piece(data, name)
        self.photo_dialog = PhotoDialog(self._desk.window, data, name, self._desk.unit)
        self.photo_dialog.trace_wanted.connect(lambda *values: self._desk.question("trace", *values))
        self.photo_dialog.used.connect(self.use)
        self.photo_dialog.finished.connect(self._photo_done)
        self.photo_dialog.open()

    def _show_piece(self, data: bytes, name: str) -> None:
        """The photo of a piece, its marks to be clicked."""
        from gatepost.desk.dialogs.piece_photo import PiecePhotoDialog

        document, setup = self._desk.document, self._desk.showing.setup
        if document is None:
            return
        job = document.job
        marks = [m.title or m.id for m in getattr(job.setup(setup).comes, "marks", ())]
        thick = job.blank.label_thickness
        dialog = PiecePhotoDialog(self._desk.window, data, name, self._desk.unit, marks, thick)
        self.photo_dialog = dialog
        dialog.fit_wanted.connect(lambda *values: self._desk.question("first fit", job, setup, *values))
        dialog.used.connect(self.lay)
        dialog.finished.connect(self._photo_done)
        dialog.open()

    def lay(self, found: Any) -> None:
        """The piece laid where the photo has it."""
        if self._desk.run("lay by photo", found.values, "the piece"):
            self._desk.messages.say(spell(" ".join(found.said), self._desk.unit))

    def _photo_done(self) -> None:
        self.photo_dialog = None

    def use(self, found: Any) -> None:
        """Take an outline that was found."""
        document = self._desk.document
        if document is None:
            return
        if found.asked is not None:
            ways = [words for words, _ in found.asked.ways]
            chosen = questions.ask_which(self._desk.window, found.asked.sentence, ways)
            if chosen < 0:
                return
            found = found.times(found.asked.ways[chosen][1])
        document.pictures.update(found.pictures)
        if self._desk.run("set outline", found.values, "outline"):
            self._desk.messages.say(spell(" ".join(found.said), self._desk.unit))
