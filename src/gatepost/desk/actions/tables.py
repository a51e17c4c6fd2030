# SPDX-License-Identifier: GPL-3.0-or-later
"""Heights, pieces and corners out of tables: files or the clipboard. A table that says no unit is asked about once."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Any

from PyQt6.QtWidgets import QApplication

from gatepost.core.errors import OperatorError
from gatepost.desk.actions.files import TABLES
from gatepost.desk.context.desk_context import Act, DeskContext
from gatepost.desk.dialogs import questions


class TableActions:
    """Each takes the place of what was there before; Undo brings that back."""

    def __init__(self, desk: DeskContext) -> None:
        self._desk = desk

    def acts(self) -> dict[str, Act]:
        """By name."""
        return {
            "top_table": self.ask_top, "under_table": self.ask_under, "pieces_table": self.ask_pieces,
            "paste_pieces": lambda: self.read_pieces(_pasted(), "The clipboard"), "corners_table": self.ask_corners,
            "paste_corners": lambda: self.read_corners(_pasted(), "The clipboard"),
        }  # fmt: skip

    def _ask(self, title: str) -> Path | None:
        return self._desk.ask_open(title, TABLES) if self._desk.document is not None else None

    def ask_top(self) -> None:
        """Ask for heights of the top."""
        path = self._ask("Heights of the top")
        if path is not None:
            self.read_heights(path, "top")

    def ask_under(self) -> None:
        """Ask for gaps under the board."""
        path = self._ask("Gaps under the board")
        if path is not None:
            self.read_heights(path, "under")

    def ask_pieces(self) -> None:
        """Ask for the pieces of a batch."""
        path = self._ask("Pieces of a batch")
        if path is not None:
            self.read_from(path, self.read_pieces)

    def ask_corners(self) -> None:
        """Ask for corners of the board."""
        path = self._ask("Corners of the board, or its edges at stations")
        if path is not None:
            self.read_from(path, self.read_corners)

    def read_from(self, path: Path, read: Callable[[str, str], None]) -> None:
        """Read a file's text; what can't be read is told."""
        from gatepost.checks import read_text

        try:
            read(read_text(path), path.name)
        except OperatorError as error:
            self._desk.messages.warn(str(error))

    def _rows(self, text: str, name: str, read: Callable[[str], list[Any]]) -> list[Any] | None:
        """Rows of a table in the unit that it says, or that was asked for; nothing where it can't be read, which is told, or was
        not answered."""
        from gatepost.core.tables import says_unit
        from gatepost.core.whichunit import of_table

        try:
            rows = read("mm")
            numbers = [[v for v in row if isinstance(v, float)][:2] for row in rows]
            largest = [max(map(abs, column)) for column in zip(*numbers)]
            asked = None if says_unit(text) else of_table(name, largest, self._desk.unit)
            if asked is None:
                return rows
            chosen = questions.ask_which(self._desk.window, asked.sentence, [words for words, _ in asked.ways])
            return None if chosen < 0 else read("mm" if asked.ways[chosen][1] == 1.0 else "inch")
        except OperatorError as error:
            self._desk.messages.warn(str(error))
            return None

    def read_heights(self, path: Path, face: str) -> None:
        """Heights of one face."""
        from gatepost.core.tables import read_heights

        def take(text: str, name: str) -> None:
            rows = self._rows(text, name, lambda bare: read_heights(text, name, bare=bare).tolist())
            words = f"{len(rows or ())} heights from {name}"
            if rows is not None and self._desk.run("set heights", {"face": face, "rows": rows}, words):
                self._desk.messages.say(f"{words}.")

        self.read_from(path, take)

    def read_pieces(self, text: str, name: str) -> None:
        """The batch's pieces."""
        from gatepost.core.blank.batch import read_pieces

        rows = self._rows(text, name, lambda bare: read_pieces(text, name, bare))
        if rows is not None and self._desk.run("set pieces", {"rows": rows}, f"{len(rows)} pieces"):
            self._desk.messages.say(f"{len(rows)} pieces from {_inside(name)}.")

    def read_corners(self, text: str, name: str) -> None:
        """The outline from measured corners, or from both edges at stations."""
        from gatepost.outlining import from_table

        found = self._rows(text, name, lambda bare: from_table(text, name, bare).values["points"])
        values = {"points": found, "doubt": 0.0, "photo": None}
        if found is not None and self._desk.run("set outline", values, "outline"):
            self._desk.messages.say(f"Outline of {len(found)} corners from {_inside(name)}.")


def _pasted() -> str:
    clipboard = QApplication.clipboard()
    return clipboard.text() if clipboard is not None else ""


def _inside(name: str) -> str:
    """A name as it stands inside a sentence."""
    return name[0].lower() + name[1:] if name.startswith("The ") else name
