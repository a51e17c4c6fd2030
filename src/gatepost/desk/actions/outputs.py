# SPDX-License-Identifier: GPL-3.0-or-later
"""What is written of a plan, and a program made elsewhere that is checked against it."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from PyQt6.QtWidgets import QFileDialog

from gatepost.core.errors import OperatorError
from gatepost.desk.actions.files import PDF, PROGRAMS, TABLES
from gatepost.desk.context.desk_context import Act, DeskContext
from gatepost.desk.dialogs import questions
from gatepost.desk.dialogs.sharing import Sharing


class OutputActions:
    """Run sheet, programs, art and pictures; a program to be checked."""

    def __init__(self, desk: DeskContext) -> None:
        self._desk = desk
        self.sharing = Sharing("A series", lambda: desk.question("stop series"))
        self.parting = Sharing("Programs in parts", lambda: desk.question("call off"))

    def acts(self) -> dict[str, Act]:
        """By name."""
        return {
            "sheet": self.sheet,
            "template": self.template,
            "print": self.ask_print,
            "write": self.write,
            "check_program": self.ask_check,
            "trial": self.trial,
            "series": self.series,
        }

    def sheet(self) -> None:
        """Write the run sheet."""
        if self._desk.document is None:
            return
        path = self._desk.ask_save("Run sheet", f"{_named(self._desk.document.job.name)}-run-sheet.pdf", PDF)
        if path is not None:
            self._desk.when_planned("sheet", lambda plan: self._ask("sheet", plan, path, "Writing the run sheet…"))

    def template(self) -> None:
        """What is carved, at its true size on sheets that are joined."""
        if self._desk.document is None:
            return
        path = self._desk.ask_save("True size on paper", f"{_named(self._desk.document.job.name)}-true-size.pdf", PDF)
        setup = self._desk.showing.setup
        if path is not None:
            words = "Drawing the sheets…"
            self._desk.when_planned("template", lambda plan: self._ask_sheets(plan, path, setup, words))

    def _ask_sheets(self, plan: Any, path: Path, setup: str, words: str) -> None:
        self._desk.question("template", plan.job, str(path), setup)
        self._desk.messages.say(words)

    def ask_print(self) -> None:
        """Ask for a printer, then print the run sheet."""
        self._desk.when_planned("print", self._print)

    def _print(self, plan: Any) -> None:
        from PyQt6.QtPrintSupport import QPrintDialog, QPrinter

        printer = QPrinter(QPrinter.PrinterMode.HighResolution)
        printer.setDocName(f"{plan.job.name}: run sheet")
        dialog = QPrintDialog(printer, self._desk.window)
        if dialog.exec():
            self.print_on(plan, printer)

    def print_on(self, plan: Any, printer: Any) -> None:
        """Print the run sheet."""
        from gatepost.desk.view.sheet import print_sheet

        try:
            print_sheet(plan, printer)
        except OperatorError as error:
            self._desk.messages.warn(str(error))
            return
        self._desk.messages.say("The run sheet is printed.")

    def write(self) -> None:
        """Write programs, art and pictures."""
        if self._desk.document is None:
            return
        folder = QFileDialog.getExistingDirectory(self._desk.window, "Write programs, art and pictures to")
        if folder:
            self._desk.when_planned(
                "write", lambda plan: self._ask("write", plan, Path(folder), "Writing programs, art and pictures…")
            )

    def series(self) -> None:
        """A job for each row of a table of texts, in a folder."""
        from gatepost.core.carve.series import columns_of

        document = self._desk.document
        if document is None:
            return
        if not columns_of(document.job):
            self._desk.messages.say(
                "No text names a column yet. Write {name} in a line for the column “name” of the table."
            )
            return
        table = self._desk.ask_open("A table of texts", TABLES)
        ways = ("smaller", "narrower", "two lines")
        words = ("Make it smaller", "Make it narrower", "Set it in two lines")
        chosen = (
            questions.ask_which(self._desk.window, "A text that is too long for its place:", words)
            if table is not None
            else -1
        )
        boards = ("One board for each row", "As many on a board as fit")
        filled = questions.ask_which(self._desk.window, "How are they cut?", boards) if chosen >= 0 else -1
        folder = QFileDialog.getExistingDirectory(self._desk.window, "Write the series to") if filled >= 0 else ""
        if folder:
            self._desk.question("series", document.document(), str(table), folder, ways[chosen], filled == 1)
            self._desk.messages.say("Making the series: each board is planned by itself…")

    def trial(self) -> None:
        """A small program by which the control shows what it understands, and what to look for."""
        from gatepost.core.program.trial import trial
        from gatepost.core.writing import write_whole

        document = self._desk.document
        path = self._desk.ask_save("Try the control", "try-the-control.nc", PROGRAMS) if document is not None else None
        if document is None or path is None:
            return
        text, look_for = trial(document.job.machine)
        try:
            write_whole(path, text.encode("ascii"))
        except OperatorError as error:
            self._desk.messages.warn(str(error))
            return
        questions.tell_list(
            self._desk.window,
            "Try the control",
            f"{path.name} is written. No bit in the collet. Bring it to the top of its travel and set Z0 there; set X0 Y0 where there is room to the right and to the back. Keep a hand at the red button. Line by line:",
            look_for,
        )

    def ask_check(self) -> None:
        """Ask which program to check."""
        path = self._desk.ask_open("Check a program", PROGRAMS) if self._desk.document is not None else None
        if path is not None:
            self.check_program(path)

    def check_program(self, path: Path) -> None:
        """Have a program checked against the plan; what is found is told."""
        self._desk.when_planned("check", lambda plan: self._ask("check", plan, path, f"Checking {path.name}…"))

    def _ask(self, what: str, plan: Any, path: Path, words: str) -> None:
        self._desk.messages.say(words)
        self._desk.question(what, plan.job, str(path))

    def told(self, answer: Any) -> None:
        """What came of it, or how far it is."""
        if answer.outcome == "series share":
            done, of = answer.plan
            self.sharing.show(self._desk.window, f"{done} of {of} boards planned and written", done, of)
            return
        if answer.outcome == "write share":
            self.parting.show(
                self._desk.window,
                "Programs are shared out among files that the control can take",
                round(100.0 * answer.plan),
                100,
            )
            return
        if answer.outcome == "series":
            self.sharing.close()
        elif answer.outcome == "write":
            self.parting.close()
        tell = self._desk.messages.warn if answer.plan is False else self._desk.messages.say
        tell(answer.words)


def _named(words: str) -> str:
    """A job's name as the beginning of a file's."""
    return "-".join("".join(c if c.isalnum() else " " for c in words.lower()).split()) or "job"
