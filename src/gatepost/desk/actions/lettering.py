# SPDX-License-Identifier: GPL-3.0-or-later
"""What the sign says: the first line is put in the middle of the board, and its text is ready to be typed."""

from __future__ import annotations

from gatepost.core.job.model import Job
from gatepost.core.job.operation import Operation
from gatepost.desk.actions.designs import DesignActions
from gatepost.desk.context.desk_context import Act, DeskContext


class LetteringActions:
    """In the setup that carving is told of."""

    def __init__(self, desk: DeskContext) -> None:
        self._desk = desk
        self.designs = DesignActions(desk)

    def acts(self) -> dict[str, Act]:
        """By name."""
        return {
            "write": self.write,
            "another_line": self.another_line,
            "cut_out": self.cut_out,
            "ground": self.ground,
            "recess": self.recess,
            **self.designs.acts(),
        }

    def write(self) -> None:
        """A first line where there is none; its text is ready to be typed over."""
        if self._desk.document is not None:
            self._desk.when_planned("write", lambda plan: self._write(plan.carving.name))

    def _write(self, setup: str) -> None:
        document = self._desk.document
        if document is None:
            return
        if self._cut(document.job, setup) is None:
            self._add(document.job, setup)
        self._to_text("Line 1")

    def another_line(self) -> None:
        """One more line under the others, ready to be typed over."""
        if self._desk.document is not None:
            self._desk.when_planned("write", lambda plan: self._another(plan.carving.name))

    def _another(self, setup: str) -> None:
        document = self._desk.document
        if document is None or not self._add(document.job, setup):
            return
        cut = self._cut(document.job, setup)
        lines = [getattr(a.figures, "lines", ()) for a in document.job.artwork if cut is not None and a.id in cut.on]
        self._to_text(f"Line {len(next(filter(None, lines), ()))}")

    def cut_out(self) -> None:
        """A rounded plate about it all, cut out of the board."""
        if self._desk.document is not None:
            self._desk.when_planned("cut out", lambda plan: self._cut_out(plan.job, plan.carving.name))

    def _cut_out(self, job: Job, setup: str) -> None:
        from gatepost.core.carve.edits import new_plate

        self._desk.stage_wanted.emit("carve")
        self._desk.run("set plate", new_plate(job, setup), "cut out")

    def ground(self) -> None:
        """Sunk round all that is on the face."""
        self._sink("add ground", "ground")

    def recess(self) -> None:
        """A recess in the middle."""
        self._sink("add recess", "recess")

    def _sink(self, command: str, words: str) -> None:
        if self._desk.document is not None:
            self._desk.when_planned(words, lambda plan: self._sunk(command, plan.carving.name, words))

    def _sunk(self, command: str, setup: str, words: str) -> None:
        self._desk.stage_wanted.emit("carve")
        self._desk.run(command, {"setup": setup}, words)

    def _add(self, job: Job, setup: str) -> bool:
        from gatepost.core.carve.edits import new_line

        return self._desk.run("add line", {**new_line(job, setup, self._cut(job, setup)), "setup": setup}, "a line")

    def _cut(self, job: Job, setup: str) -> Operation | None:
        """The lettering that is cut in a setup, or none."""
        letters = {a.id for a in job.artwork if a.kind == "lettering"}
        return next((o for o in job.setup(setup).operations if letters & set(o.on)), None)

    def _to_text(self, line: str) -> None:
        self._desk.stage_wanted.emit("carve")
        self._desk.field_wanted.emit("carve", f"{line}/Text")
