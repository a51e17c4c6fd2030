# SPDX-License-Identifier: GPL-3.0-or-later
"""A file that is dropped on the window goes where its kind belongs."""

from __future__ import annotations

from pathlib import Path

from gatepost.desk.actions.jobs import JobActions
from gatepost.desk.actions.outlines import OutlineActions
from gatepost.desk.actions.outputs import OutputActions
from gatepost.desk.actions.tables import TableActions
from gatepost.desk.context.desk_context import DeskContext
from gatepost.desk.dialogs import questions

PHOTO, DRAWING = (".jpg", ".jpeg", ".png"), (".svg", ".dxf")
MESH = ".stl"
FACE = (".ttf", ".otf", ".woff", ".woff2")
TABLE, PROGRAM = (".csv", ".tsv", ".txt"), (".nc", ".ngc", ".tap", ".gcode")


class DroppedFiles:
    """A job is opened; a drawing is artwork or the board's outline, a photo gives the outline, in a new job where none is open; a table is asked about; a program
    is checked against the open job."""

    def __init__(
        self,
        desk: DeskContext,
        jobs: JobActions,
        outlines: OutlineActions,
        tables: TableActions,
        outputs: OutputActions,
    ) -> None:
        self._desk, self._jobs, self._outlines, self._tables, self._outputs = desk, jobs, outlines, tables, outputs

    def take(self, path: Path) -> None:
        """One file."""
        kind = path.suffix.lower()
        if kind == ".gatepost":
            self._jobs.open(path)
        elif kind in (*PHOTO, *DRAWING):
            if self._desk.document is None:
                self._jobs.new()
                (self._outlines.read_photo if kind in PHOTO else self._outlines.read_outline)(path)
            else:
                self._drawing(path, kind in PHOTO)
        elif kind in FACE:
            self._outlines.art.read_face(path)
        elif self._desk.document is None and kind in (*TABLE, *PROGRAM, MESH):
            self._desk.messages.say(f"Open a job first: {path.name} belongs to one.")
        elif kind == MESH:
            self._outlines.art.read(path)
        elif kind in PROGRAM:
            self._outputs.check_program(path)
        elif kind in TABLE:
            self._table(path)
        else:
            self._desk.messages.say(
                f"{path.name} is no job, drawing, photo, mesh, face, table or program that Gatepost can read."
            )

    def _drawing(self, path: Path, photo: bool) -> None:
        """The board's outline on the Blank page, artwork on the Carve page, asked about elsewhere. photo: whether it is a picture."""
        stage = self._desk.showing.stage
        ways = (
            "Artwork, to be carved",
            "A photo of the board, for its outline" if photo else "The board's own outline",
        )
        asked = {"carve": 0, "blank": 1}.get(stage)
        chosen = questions.ask_which(self._desk.window, f"What is {path.name}?", ways) if asked is None else asked
        if chosen == 0:
            self._outlines.art.read(path)
        elif chosen == 1:
            (self._outlines.read_photo if photo else self._outlines.read_outline)(path)

    def _table(self, path: Path) -> None:
        ways = ("Heights of the top", "Gaps under the board", "Pieces of a batch", "Corners of the board, or stations")
        chosen = questions.ask_which(self._desk.window, f"What does {path.name} hold?", ways)
        if chosen in (0, 1):
            self._tables.read_heights(path, "under" if chosen else "top")
        elif chosen == 2:
            self._tables.read_from(path, self._tables.read_pieces)
        elif chosen == 3:
            self._tables.read_from(path, self._tables.read_corners)
