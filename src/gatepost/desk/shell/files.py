# SPDX-License-Identifier: GPL-3.0-or-later
"""What the window reads from files and writes to them: tables, outlines, photos, programs, run sheets."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING, Any

from PyQt6.QtWidgets import QApplication, QFileDialog, QWidget

from gatepost.core.errors import OperatorError

if TYPE_CHECKING:
    from gatepost.desk.shell.desk import DeskView
    from gatepost.desk.shell.document import DeskDocument
    from gatepost.desk.shell.ledgerdialog import LedgerDialog
    from gatepost.desk.shell.messages import Messages
    from gatepost.desk.shell.operator import Operator
    from gatepost.desk.shell.photodialog import PhotoDialog
    from gatepost.desk.shell.probedialog import ProbeDialog
    from gatepost.desk.shell.worker import Reckoner

    _Part = QWidget
else:
    _Part = object  # a part of a class that is a widget already

TABLES = "Tables (*.csv *.txt *.tsv);;All files (*)"
PROGRAMS = "Programs (*.nc *.ngc *.tap *.gcode *.txt);;All files (*)"
DRAWINGS = "Drawings (*.svg *.dxf)"
PHOTOS = "Photos (*.jpg *.jpeg *.png)"


class FileActions(_Part):
    """A part of the window: everything that asks for a file's name."""

    document: DeskDocument | None
    messages: Messages
    reckoner: Reckoner | None
    desk: DeskView
    theme: str
    photo_dialog: PhotoDialog | None = None
    ledger_dialog: LedgerDialog | None = None
    probe_dialog: ProbeDialog | None = None
    shop_dialog: Any = None
    _book: Any
    operator: Operator

    def run(self, name: str, values: dict[str, Any], words: str = "") -> bool:
        """The window's own."""
        raise NotImplementedError

    def _plan_now(self) -> Any:
        raise NotImplementedError

    def _ask_file(self, title: str, kinds: str) -> Path | None:
        if self.document is None:
            return None
        name, _ = QFileDialog.getOpenFileName(self, title, str(Path.home()), kinds)
        return Path(name) if name else None

    # -- written ------------------------------------------------------------------------------------------------

    def _sheet(self) -> None:
        plan = self._plan_now()
        if self.document is None or plan is None:
            return
        start = (self.document.path.parent if self.document.path else Path.home()) / "run-sheet.pdf"
        name, _ = QFileDialog.getSaveFileName(self, "Run sheet", str(start), "PDF (*.pdf)")
        if name and self.reckoner is not None:
            self.reckoner.question("sheet", plan.job, name)
            self.messages.say("Writing the run sheet…")

    def _write(self) -> None:
        plan = self._plan_now()
        if plan is None:
            return
        folder = QFileDialog.getExistingDirectory(self, "Write programs, art and pictures to")
        if folder and self.reckoner is not None:
            self.reckoner.question("write", plan.job, folder)
            self.messages.say("Writing programs, art and pictures…")

    # -- the shop's lists ---------------------------------------------------------------------------------------

    def _wood(self) -> None:
        """The shop's woods."""
        if self.document is None:
            return
        from gatepost.desk.shell.shopdialog import WoodDialog
        from gatepost.machine.conduct import now

        book = self._open_book()
        if book is None:
            return
        dialog = WoodDialog(self, book, now, self.document.job.wood.name)
        self.shop_dialog = dialog
        dialog.chosen.connect(lambda values: self.run("set wood", values, "wood"))
        dialog.finished.connect(lambda _: self._shop_done(book))
        dialog.open()

    def _offcuts(self) -> None:
        """Offcuts on the shelf that would do for this blank."""
        if self.document is None:
            return
        from gatepost.core.blank.offcuts import that_would_do
        from gatepost.desk.shell.shopdialog import OffcutDialog

        book = self._open_book()
        if book is None:
            return
        offcuts, job = book.offcuts(), self.document.job
        dialog = OffcutDialog(self, offcuts, that_would_do(offcuts, job.blank), job.unit)
        self.shop_dialog = dialog
        dialog.taken.connect(lambda offcut: self._take_offcut(book, offcut))
        dialog.finished.connect(lambda _: self._shop_done(book))
        dialog.open()

    def _take_offcut(self, book: Any, offcut: Any) -> None:
        from gatepost.machine.conduct import now

        stock = {"length": offcut.length, "width": offcut.width, "thickness": offcut.thickness}
        if self.run("set stock", stock, "offcut"):
            book.use_offcut(offcut.id, now())
            self.messages.say(f"{offcut.name} is taken off the shelf as rough stock.")

    def _keep_offcuts(self) -> None:
        """Put the offcuts that the cut list names on the shelf."""
        if self.document is None:
            return
        from gatepost.core.blank.cutlist import keeping
        from gatepost.machine.conduct import now

        job = self.document.job
        named = keeping(job.blank)
        if not named:
            self.messages.say("Name an offcut in the cut list first: “keep offcut as”.")
            return
        book = self._open_book()
        if book is None:
            return
        try:
            for name, offcut in named:
                book.keep_offcut(name, job.wood.name, (offcut.length, offcut.width, offcut.thickness), job.name, now())
        except OperatorError as error:
            self.messages.warn(str(error))
            return
        finally:
            book.close()
        self.messages.say(f"{len(named)} offcut{'s are' if len(named) > 1 else ' is'} on the shelf, for later jobs.")

    def _open_book(self) -> Any:
        try:
            return self._book()
        except OperatorError as error:
            self.messages.warn(str(error))
            return None

    def _shop_done(self, book: Any) -> None:
        book.close()
        self.shop_dialog = None

    # -- probing ------------------------------------------------------------------------------------------------

    def _probe(self) -> None:
        """Have the machine probe the top."""
        plan = self._plan_now()
        if plan is None or self.document is None or self.operator.busy:
            return
        from gatepost.desk.shell.probedialog import ProbeDialog

        dialog = ProbeDialog(self, plan, self.operator.state == "ready", self.theme)
        self.probe_dialog = dialog
        dialog.begun.connect(self._begin_probing)
        dialog.stop_wanted.connect(self.operator.stop_probing)
        dialog.finished.connect(self._probe_done)
        dialog.open()

    def _probe_done(self) -> None:
        self.probe_dialog = None

    def _begin_probing(self, where: Any, tool: Any, setup: Any) -> None:
        plan, document = self._plan_now(), self.document
        begun = (
            plan is not None
            and document is not None
            and self.operator.probe(plan, setup, tool, where, document.journal)
        )
        if not begun and self.probe_dialog is not None:
            self.probe_dialog.ended("The machine is busy, or there is none. Nothing was probed.")

    def probe_told(self, found: Any) -> None:
        """What a probing came to: its heights in the place of those that were there; Undo brings these back."""
        from gatepost.core.units import spell

        if found is None:
            words = f"{self.operator.last_words} Nothing was changed.".strip()
        else:
            words = found.words()
            self.run("set heights", {"face": "top", "rows": found.heights}, "probed heights")
            self.messages.say(spell(words, self.document.job.unit if self.document is not None else "mm"))
        if self.probe_dialog is not None:
            self.probe_dialog.ended(words)

    def probe_progress(self, done: int, of: int) -> None:
        """So many places are probed."""
        if self.probe_dialog is not None:
            self.probe_dialog.progress(done, of)

    # -- the Z ledger -------------------------------------------------------------------------------------------

    def _ledger(self) -> None:
        """The Z ledger of the surfacing."""
        plan = self._plan_now()
        if plan is None or self.document is None:
            return
        from gatepost.desk.shell.ledgerdialog import LedgerDialog
        from gatepost.machine.conduct import now

        try:
            dialog = LedgerDialog(self, plan, self.document.journal, now, self.theme)
        except OperatorError as error:
            self.messages.warn(str(error))
            return
        self.ledger_dialog = dialog
        dialog.grown.connect(self.document.happened)
        dialog.left_wanted.connect(self._left)
        dialog.deeper_wanted.connect(self._deeper)
        dialog.finished.connect(self._ledger_done)
        dialog.open()

    def _ledger_done(self) -> None:
        self.ledger_dialog = None

    def _deeper(self, by: float) -> None:
        if self.document is not None:
            now = self.document.job.surfacing.cleanup
            self.run("set surfacing", {"cleanup": now + by}, "go deeper")

    def _left(self) -> None:
        plan = self._plan_now()
        if plan is None or self.document is None:
            return
        name, _ = QFileDialog.getSaveFileName(
            self, "Program for what is left", str(Path.home() / "surface-left.nc"), PROGRAMS
        )
        if name:
            self.write_left(Path(name))

    def write_left(self, path: Path) -> bool:
        """Write a program only for the passes that are left; gives whether it could be."""
        from gatepost.core.plan.ledgers import left_program
        from gatepost.core.units import spell
        from gatepost.core.writing import write_whole

        plan = self._plan_now()
        if plan is None or self.document is None:
            return False
        try:
            program = left_program(plan, self.document.journal)
            write_whole(path, program.text.encode("ascii"))
        except OperatorError as error:
            self.messages.warn(spell(str(error), plan.job.unit))
            return False
        self.messages.say(
            f"{path.name}: {program.seconds / 60.0:.1f} min of what is left. Z0 as it was first set, not lowered."
        )
        return True

    # -- checked ------------------------------------------------------------------------------------------------

    def _check_program(self) -> None:
        if self._plan_now() is None:
            return
        path = self._ask_file("Check a program", PROGRAMS)
        if path is not None:
            self.check_program(path)

    def check_program(self, path: Path) -> None:
        """Have a program checked against the plan shown; what is found is told."""
        plan = self._plan_now()
        if plan is not None and self.reckoner is not None:
            self.reckoner.question("check", plan.job, str(path))
            self.messages.say(f"Checking {path.name}…")

    # -- tables -------------------------------------------------------------------------------------------------

    def _top_table(self) -> None:
        path = self._ask_file("Heights of the top", TABLES)
        if path is not None:
            self.read_table(path, "top")

    def _under_table(self) -> None:
        path = self._ask_file("Gaps under the board", TABLES)
        if path is not None:
            self.read_table(path, "under")

    def read_table(self, path: Path, face: str) -> None:
        """Heights of one face, from a table, in the place of those that were there; Undo brings these back."""
        from gatepost.checks import read_text
        from gatepost.core.tables import read_heights

        try:
            text = read_text(path)
            rows = self._in_its_unit(text, path.name, lambda bare: read_heights(text, path.name, bare=bare).tolist())
        except OperatorError as error:
            self.messages.warn(str(error))
            return
        if rows is None:
            return
        words = f"{len(rows)} heights from {path.name}"
        if self.run("set heights", {"face": face, "rows": rows}, words):
            self.messages.say(f"{words}.")

    def _in_its_unit(self, text: str, name: str, read: Callable[[str], list[Any]]) -> list[Any] | None:
        """Rows of a table in the unit that it says, or that was asked for; nothing where it was not answered. Raises OperatorError."""
        from gatepost.core.tables import says_unit
        from gatepost.core.whichunit import of_table
        from gatepost.desk.shell.messages import ask_which

        rows = read("mm")
        numbers = [[v for v in row if isinstance(v, float)][:2] for row in rows]
        unit = self.document.job.unit if self.document is not None else "mm"
        asked = None if says_unit(text) else of_table(name, [max(map(abs, c)) for c in zip(*numbers)], unit)
        if asked is None:
            return rows
        chosen = ask_which(self, asked.sentence, [words for words, _ in asked.ways])
        return None if chosen < 0 else read("mm" if asked.ways[chosen][1] == 1.0 else "inch")

    def _pieces_table(self) -> None:
        path = self._ask_file("Pieces of a batch", TABLES)
        if path is not None:
            self._read_from(path, self.read_pieces)

    def _read_from(self, path: Path, read: Callable[[str, str], None]) -> None:
        from gatepost.checks import read_text

        try:
            read(read_text(path), path.name)
        except OperatorError as error:
            self.messages.warn(str(error))

    def _paste_pieces(self) -> None:
        self.read_pieces(self._pasted(), "The clipboard")

    def _pasted(self) -> str:
        clipboard = QApplication.clipboard()
        return clipboard.text() if clipboard is not None else ""

    def read_pieces(self, text: str, name: str) -> None:
        """The batch's pieces from a table, in the place of those that were there."""
        from gatepost.core.blank.batch import read_pieces

        try:
            rows = self._in_its_unit(text, name, lambda bare: read_pieces(text, name, bare))
        except OperatorError as error:
            self.messages.warn(str(error))
            return
        if rows is not None and self.run("set pieces", {"rows": rows}, f"{len(rows)} pieces"):
            self.messages.say(f"{len(rows)} pieces from {_inside(name)}.")

    def _corners_table(self) -> None:
        path = self._ask_file("Corners of the board, or its edges at stations", TABLES)
        if path is not None:
            self._read_from(path, self.read_corners)

    def _paste_corners(self) -> None:
        self.read_corners(self._pasted(), "The clipboard")

    def read_corners(self, text: str, name: str) -> None:
        """The outline from measured corners, or from both edges at stations."""
        from gatepost.outlining import from_table

        try:
            found = self._in_its_unit(text, name, lambda bare: from_table(text, name, bare).values["points"])
        except OperatorError as error:
            self.messages.warn(str(error))
            return
        if found is not None and self.run("set outline", {"points": found, "doubt": 0.0, "photo": None}, "outline"):
            self.messages.say(f"Outline of {len(found)} corners from {_inside(name)}.")

    # -- outlines -----------------------------------------------------------------------------------------------

    def _outline_file(self) -> None:
        path = self._ask_file("Outline of the board", DRAWINGS)
        if path is not None:
            self.read_outline(path)

    def read_outline(self, path: Path) -> None:
        """The outline from a drawing; read by the worker."""
        if self.reckoner is not None:
            self.reckoner.question("drawing", str(path))
            self.messages.say(f"Reading {path.name}…")

    def _photo(self) -> None:
        if self.document is None:
            return
        path = self._ask_file("Overhead photo of the board", PHOTOS)
        if path is not None:
            self.read_photo(path)

    def read_photo(self, path: Path) -> None:
        """Bring a photo to the size that is worked with, then show it to be marked."""
        if self.reckoner is not None:
            self.reckoner.question("reduce", str(path))
            self.messages.say(f"Reading {path.name}…")

    def outline_told(self, answer: Any) -> None:
        """What the worker found in a drawing or a photo."""
        from gatepost.core.units import spell

        unit = self.document.job.unit if self.document is not None else "mm"
        if answer.plan is False:
            if self.photo_dialog is not None:
                self.photo_dialog.refused(spell(answer.words, unit))
            else:
                self.messages.warn(spell(answer.words, unit))
            return
        if answer.outcome == "reduce":
            from gatepost.desk.shell.photodialog import PhotoDialog

            data, name = answer.plan
            self.photo_dialog = PhotoDialog(self, data, name, unit)
            self.photo_dialog.trace_wanted.connect(self._trace)
            self.photo_dialog.used.connect(self._use_outline)
            self.photo_dialog.finished.connect(self._photo_done)
            self.photo_dialog.open()
        elif answer.outcome == "trace":
            if self.photo_dialog is not None:
                self.photo_dialog.found(answer.plan)
        else:
            self._use_outline(answer.plan)

    def _trace(self, data: bytes, name: str, values: dict[str, Any]) -> None:
        if self.reckoner is not None:
            self.reckoner.question("trace", data, name, values)

    def _use_outline(self, found: Any) -> None:
        if self.document is None:
            return
        from gatepost.core.units import spell
        from gatepost.desk.shell.messages import ask_which

        if found.asked is not None:
            chosen = ask_which(self, found.asked.sentence, [words for words, _ in found.asked.ways])
            if chosen < 0:
                return
            found = found.times(found.asked.ways[chosen][1])
        self.document.pictures.update(found.pictures)
        if self.run("set outline", found.values, "outline"):
            self.messages.say(spell(" ".join(found.said), self.document.job.unit))

    def _photo_done(self) -> None:
        self.photo_dialog = None


def _inside(name: str) -> str:
    """A name as it stands inside a sentence."""
    return name[0].lower() + name[1:] if name.startswith("The ") else name
