# SPDX-License-Identifier: GPL-3.0-or-later
"""A photo of the finished piece, laid over its plan and kept with how it came out."""

from __future__ import annotations

from base64 import b64encode
from pathlib import Path
from typing import TYPE_CHECKING, Any

from gatepost.core.errors import OperatorError
from gatepost.core.log.judged import PointJudged, Promised, Result
from gatepost.core.units import spell
from gatepost.desk.actions.files import PHOTOS
from gatepost.desk.actions.logging import PICTURE
from gatepost.desk.context.desk_context import Act, DeskContext

if TYPE_CHECKING:
    from gatepost.core.plan.result import Plan
    from gatepost.desk.actions.runs import RunActions
    from gatepost.desk.dialogs.result_photo import ResultPhotoDialog

ACROSS = 900  # px of a photo that is kept


class ResultPhotoActions:
    """One photo at a time."""

    def __init__(self, desk: DeskContext, runs: RunActions) -> None:
        self._desk, self._runs = desk, runs
        self.dialog: ResultPhotoDialog | None = None
        self._plan: Plan | None = None
        self._setup = ""

    def acts(self) -> dict[str, Act]:
        """By name."""
        return {"result_photo": self.ask}

    def ask(self) -> None:
        """Ask for the photo."""
        self._desk.when_planned("result photo", self._ask)

    def _ask(self, plan: Plan) -> None:
        path = self._desk.ask_open("Photo of the finished piece", PHOTOS)
        if path is not None:
            self.read(plan, path)

    def read(self, plan: Plan, path: Path) -> None:
        """Bring it to the size that is worked with, then show it."""
        self._plan = plan
        self._setup = self._desk.showing.setup if plan.setup(self._desk.showing.setup) else plan.carving.name
        if plan.setup(self._setup) is not None and plan.setup(self._setup).flattens:  # type: ignore[union-attr]
            self._setup = plan.carving.name
        self._desk.question("result photo", str(path))
        self._desk.messages.say(f"Reading {path.name}…")

    def told(self, answer: Any) -> None:
        """What the worker found."""
        if answer.plan is False:
            words = spell(answer.words, self._desk.unit)
            if self.dialog is not None:
                self.dialog.refused(words)
            else:
                self._desk.messages.warn(words)
        elif answer.outcome == "result photo":
            self._show(*answer.plan)
        elif self.dialog is not None:
            self.dialog.show_found(answer.plan)

    def _show(self, data: bytes, name: str) -> None:
        from gatepost.core.plan.photo_over import face_of
        from gatepost.desk.dialogs.result_photo import ResultPhotoDialog

        plan = self._plan
        if plan is None:
            return
        self._desk.messages.say("")  # it is read
        try:
            face = face_of(plan, self._setup)
        except OperatorError as error:
            self._desk.messages.warn(str(error))
            return
        self.dialog = dialog = ResultPhotoDialog(self._desk.window, data, name, face.size, self._desk.unit)
        dialog.over_wanted.connect(lambda marks, size: self._desk.question("over plan", plan.job, self._setup, data, name, marks, size))  # fmt: skip
        dialog.kept.connect(lambda found: self._keep(plan, found, data))
        dialog.finished.connect(self._done)
        dialog.open()

    def _done(self) -> None:
        self.dialog = None

    def _keep(self, plan: Plan, found: Any, data: bytes) -> None:
        from gatepost.core.plan.promised import SIZES
        from gatepost.machine.standing_checks import now

        rows = self._runs.rows(plan.job.name)
        kind = "shop" if any(r.kind == "shop" and r.state == "done" for r in rows) else "simulated"
        within = max(SIZES[plan.job.tolerance], found.doubt)
        point = PointJudged(
            Promised(f"carved where {self._setup}", "Carving beside where it was meant to be", 0.0, within, self._setup), found.off, None,
            spell(found.told(), self._desk.unit).rstrip("."),
        )  # fmt: skip
        path = self._desk.document.path if self._desk.document is not None else None
        result = Result(
            plan.job.name, now(), kind, str(path or ""), plan.fingerprint, (point,), words="By a photo laid over the plan.", design=plan.job.design,
            picture=f"{plan.job.name[:50]}, {now()}",
        )  # fmt: skip

        def keep(book: Any) -> bool:
            small = reduced(data)
            if small:
                book.keep(PICTURE, result.picture, {"jpeg": b64encode(small).decode()}, result.at)
            book.learned.judge(result)
            return True

        if self._desk.from_book(keep, False):
            self._desk.messages.say(spell(found.told(), self._desk.unit))


def reduced(data: bytes) -> bytes:
    """A photo as small as a diary wants it, JPEG; nothing where it can't be read."""
    from PyQt6.QtCore import QBuffer, QIODevice
    from PyQt6.QtGui import QImage

    image = QImage.fromData(data)
    if image.isNull():
        return b""
    out = QBuffer()
    out.open(QIODevice.OpenModeFlag.WriteOnly)
    small = image.scaledToWidth(ACROSS) if image.width() > ACROSS else image
    return bytes(out.data().data()) if small.save(out, "JPG", 82) else b""
