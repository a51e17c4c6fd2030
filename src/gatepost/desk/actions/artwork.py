# SPDX-License-Identifier: GPL-3.0-or-later
"""Drawings brought in as artwork: opened, dropped or pasted, looked over, then put on the face; and the sign as it will look."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING, Any

from PyQt6.QtGui import QGuiApplication

from gatepost.core.errors import OperatorError
from gatepost.core.units import spell
from gatepost.desk.actions.files import ART, FACES, PNG
from gatepost.desk.context.desk_context import Act, DeskContext

if TYPE_CHECKING:
    from gatepost.desk.dialogs.art import ArtDialog
    from gatepost.desk.dialogs.look import LookDialog

PASTED = "pasted drawing.svg"
MIME = ("image/svg+xml", "image/svg")


class ArtActions:
    """Read by the worker; the import check is a dialog."""

    def __init__(self, desk: DeskContext) -> None:
        self._desk = desk
        self.dialog: ArtDialog | None = None
        self.look_dialog: LookDialog | None = None
        self._data, self._name, self._unit = b"", "", ""
        self._layers: list[str] | None = None

    def acts(self) -> dict[str, Act]:
        """By name."""
        return {"art_file": self.ask, "paste_art": self.paste, "look": self.look, "face_file": self.ask_face}

    def ask_face(self) -> None:
        """Ask for a face's file."""
        path = self._desk.ask_open("Bring a face for lettering in", FACES)
        if path is not None:
            self.read_face(path)

    def read_face(self, path: Path) -> None:
        """A face out of a file, kept for every job; the first line of lettering here is set in it."""
        from gatepost.typefaces import brought_in

        try:
            self._set_in(brought_in(path, self._desk.data))
        except OperatorError as error:
            self._desk.messages.warn(str(error))

    def _set_in(self, face: str) -> None:
        """The first line of lettering of this setup in another face, where there is one."""
        from gatepost.core.carve.edits import outlines
        from gatepost.core.job.carve import Letters
        from gatepost.core.job.model import Job

        document = self._desk.document
        job = document.job if document is not None else Job()
        here = job.setup(self._desk.showing.setup).operations if document is not None else ()
        for operation in here:
            for art in (a for a in job.artwork if a.id in operation.on):
                if isinstance(art.figures, Letters) and art.figures.lines:
                    line = art.figures.lines[0]
                    values = {"line": line.id, "operation": operation.id, "art": art.id, **outlines(line.text, face)}
                    if self._desk.run("set line", values, "another face"):
                        self._desk.stage_wanted.emit("carve")
                        self._desk.messages.say(f"{face} can be chosen for any line; the first one here is set in it.")
                    return
        self._desk.messages.say(f"{face} can be chosen for any line of lettering from now on.")

    def look(self) -> None:
        """The sign as it will look."""
        if self._desk.document is not None:
            self._desk.when_planned("look", lambda plan: self._show_look(plan))

    def _show_look(self, plan: Any) -> None:
        from gatepost.desk.dialogs.look import LookDialog
        from gatepost.drawing.look import first_look

        document = self._desk.document
        if document is None or self.look_dialog is not None:
            return
        self.look_dialog = LookDialog(
            self._desk.window, self._desk.theme, self._desk.unit, first_look(plan, plan.carving)
        )
        self.look_dialog.wanted.connect(self._ask_look)
        self.look_dialog.save_wanted.connect(self._save_look)
        self.look_dialog.finished.connect(self._look_done)
        self.look_dialog.open()
        self.look_dialog.begin()

    def _ask_look(self, look: Any, width: int, fine: bool) -> None:
        document = self._desk.document
        if document is not None:
            self._desk.question("look", document.job, look, width, fine)

    def looked(self, answer: Any) -> None:
        """A picture has come."""
        if self.look_dialog is None:
            return
        if answer.plan is False:
            self.look_dialog.refused(spell(answer.words, self._desk.unit))
        else:
            self.look_dialog.show_picture(*answer.plan)

    def _save_look(self, image: Any) -> None:
        from gatepost.desk.view.pictures import save_picture

        document = self._desk.document
        named = document.job.name.replace("/", "-") if document is not None else "sign"
        path = self._desk.ask_save("Save the picture", f"{named}.png", PNG)
        if path is None:
            return
        try:
            save_picture(image, path if path.suffix.lower() == ".png" else path.with_name(path.name + ".png"))
        except OperatorError as error:
            self._desk.messages.warn(str(error))

    def _look_done(self) -> None:
        self.look_dialog = None

    def ask(self) -> None:
        """Ask for a drawing."""
        path = self._desk.ask_open("Bring a drawing in", ART) if self._desk.document is not None else None
        if path is not None:
            self.read(path)

    def read(self, path: Path) -> None:
        """A drawing out of a file."""
        from gatepost.artwork import DEEP, LARGEST, MESH, PICTURES
        from gatepost.core.picture import sixteen_bit
        from gatepost.core.reading import read_whole

        try:
            data = read_whole(path, LARGEST)
            if path.suffix.lower() in (*PICTURES, MESH):
                self._data, self._name = data, path.name
                if path.suffix.lower() == MESH:
                    self._carve(0.0, None, 0.0)
                elif sixteen_bit(data):
                    self._carve(self._width(), DEEP, 0.0)
                else:
                    self._trace(self._width(), 0.5, False)
                return
            self._look(data, path.name)
        except OperatorError as error:
            self._desk.messages.warn(str(error))

    def paste(self) -> None:
        """A drawing out of the clipboard."""
        clipboard = QGuiApplication.clipboard()
        held = clipboard.mimeData() if clipboard is not None else None
        if self._desk.document is None or held is None:
            return
        data = next((bytes(held.data(m).data()) for m in MIME if held.hasFormat(m)), b"")
        text = held.text() if held.hasText() else ""
        if not data and "<svg" in text[:4000]:
            data = text.encode()
        if not data:
            self._desk.messages.say("The clipboard holds no SVG drawing. Copy one, or bring a file in.")
            return
        self._look(data, PASTED)

    def _look(self, data: bytes, name: str, unit: str = "", layers: Any = None) -> None:
        self._data, self._name, self._unit, self._layers = data, name, unit, layers
        self._desk.question("art", data, name, unit, layers)
        self._desk.messages.say(f"Reading {name}…")

    def _trace(self, width: float, threshold: float, light: bool) -> None:
        self._desk.question("trace art", self._data, self._name, width, threshold, light)

    def _carve(self, width: float, black: float | None, white: float) -> None:
        self._desk.question("heights art", self._data, self._name, width, black, white)

    def _face(self) -> tuple[float, float]:
        """Length and width of the face that is up."""
        from gatepost.core.job.turning import face_size

        document = self._desk.document
        if document is None:
            return 0.0, 0.0
        return face_size(document.job.blank, document.job.setup(self._desk.showing.setup).up)

    def _width(self) -> float:
        """As wide as a traced picture is at first: a third of the face."""
        return max(20.0, round(self._face()[0] / 3.0))

    def told(self, answer: Any) -> None:
        """What the worker found in it."""
        self._desk.messages.say("")
        if answer.plan is False:
            words = spell(answer.words, self._desk.unit)
            if self.dialog is not None:
                self.dialog.refused(words)
            else:
                self._desk.messages.warn(words)
            return
        if self.dialog is None:
            from gatepost.desk.dialogs.art import ArtDialog

            way = {"trace art": "trace", "heights art": "heights"}.get(answer.outcome, "")
            mesh = Path(self._name).suffix.lower() == ".stl"
            self.dialog = ArtDialog(
                self._desk.window,
                self._name,
                self._desk.unit,
                self._desk.theme,
                way,
                0.0 if mesh else self._width(),
                mesh,
            )
            self.dialog.heights_wanted.connect(self._carve)
            self.dialog.unit_wanted.connect(lambda unit: self._look(self._data, self._name, unit, self._layers))
            self.dialog.layers_wanted.connect(lambda names: self._look(self._data, self._name, self._unit, names))
            self.dialog.trace_wanted.connect(self._trace)
            self.dialog.used.connect(self._use)
            self.dialog.finished.connect(self._done)
            self.dialog.open()
        self.dialog.show_found(answer.plan, self._face())

    def _done(self) -> None:
        self.dialog = None

    def _use(self, found: Any) -> None:
        document = self._desk.document
        if document is None:
            return
        document.pictures.update(found.pictures)
        setup = self._desk.showing.setup
        relief = hasattr(found, "levels")
        command, what = ("add relief", "a relief") if relief else ("add drawing", "a drawing")
        if self._desk.run(command, {"setup": setup, **found.values}, what):
            self._desk.stage_wanted.emit("carve")
            self._desk.messages.say(
                f"{found.values['title'] or f'The {what[2:]}'} stands in the middle. Drag it, or type its place and size."
            )
