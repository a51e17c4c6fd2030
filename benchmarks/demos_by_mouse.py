# SPDX-License-Identifier: GPL-3.0-or-later
"""A job to try by mouse alone: its card clicked, a figure typed over, its art dragged and put back, the sign looked at with its light dragged,
then saved and run whole. argv: where to save, and the job's title on the start page."""

from __future__ import annotations

import sys
from pathlib import Path
from typing import Any

sys.path.insert(0, str(Path(__file__).parents[1]))
sys.path.insert(0, str(Path(__file__).parent))

from PyQt6.QtCore import QPoint, QPointF
from PyQt6.QtWidgets import QApplication, QLineEdit
from tests.desk import first_hour
from tests.desk.first_hour import hour

from by_mouse import Mouser
from gatepost.core.findings import Level
from gatepost.desk.dialogs.look import LookDialog
from gatepost.desk.start.page import JobCard

FIGURES = {  # what is typed over on the Carve page, and the field that it stands in
    "Tea-room hanging sign": ("Text", "WEIR ROOM"),
    "Heron panel": ("Rows apart", "9"),
    "Lock 7 with a water-lily": ("Turned left by", "3"),
    "Raised milepost": ("Text", "12"),
    "Sixteen mileposts": ("Text", "M"),
}
first_hour.PATIENCE = 90.0  # s: a heron is planned, and carved, in more than a moment


class Trier(Mouser):
    """Somebody who tries a job of the start page."""

    def sign(self) -> None:
        """The job opened, changed, put back and looked at."""
        self._open(sys.argv[2])
        shipped = self.job()
        self.stage("carve")
        self.press("Your figures")
        name, figure = FIGURES[sys.argv[2]]
        self._typed_over(name, figure)
        self._back_to(shipped)
        self._dragged()
        self._back_to(shipped)
        self._looked_at()

    def _open(self, title: str) -> None:
        def cards() -> list[JobCard]:
            return [c for c in self.w.findChildren(JobCard) if c.isVisible() and c.accessibleName().startswith(title)]

        self.until(cards, f"the card “{title}”")
        self.t.click(*self._place(cards()[0]))
        self.until(lambda: self.w.document is not None, "the job")
        self._planned()
        stops = [f.message for f in self.w.context.plan.findings if f.level is Level.STOP]
        assert not stops, stops

    def _planned(self) -> None:
        self.planned()
        self.until(lambda: self.w.presenter.plan.job == self.job() and self.w.desk.bed.busy == "", "a whole plan")

    def _typed_over(self, name: str, figure: str) -> None:
        shipped = self.job()
        self.until(
            lambda: any(f.isVisible() and f.accessibleName() == name for f in self.w.findChildren(QLineEdit)), name
        )
        self.figure(name, figure)
        self.t.step("Tab")
        self.until(lambda: self.job() != shipped, f"{name} changed")
        self._planned()

    def _dragged(self) -> None:
        """The first art of this face that can be taken hold of, a little to the right."""
        shipped, bed = self.job(), self.w.desk.bed
        found: list[tuple[int, int]] = []

        def seen() -> bool:
            room = bed.room().toRect()
            places = (
                QPoint(x, y) for y in range(room.top(), room.bottom(), 7) for x in range(room.left(), room.right(), 7)
            )
            found[:] = [self._place(bed, p) for p in places if bed.key_at(QPointF(p)) in bed.drawing.frames]
            return bool(found)

        self.until(seen, "something to take hold of")
        x, y = found[len(found) // 2]
        self.t.drag(x, y, x + 30, y)
        self.until(lambda: self.job() != shipped, "the art dragged")
        self._planned()

    def _back_to(self, shipped: Any) -> None:
        for _ in range(6):
            if self.job() == shipped:
                break
            before = self.job()
            self.press("Undo")
            self.until(lambda before=before: self.job() != before, "something undone")
        assert self.job() == shipped
        self._planned()

    def _looked_at(self) -> None:
        self.press("The sign as it will look…")

        def shown() -> Any:
            return next(
                (w for w in QApplication.topLevelWidgets() if isinstance(w, LookDialog) and w.isVisible()), None
            )

        self.until(lambda: shown() is not None and shown().view.image is not None, "the picture")
        view = shown().view
        before = view.image
        x, y = self._place(view)
        self.t.drag(x - 80, y - 60, x + 120, y - 90)
        self.until(lambda: view.image is not before, "another light")
        self.press("Close")
        self.until(lambda: shown() is None, "the picture put away")
        self.until(lambda: QApplication.activeWindow() is self.w, "the window again")


if __name__ == "__main__":
    sys.exit(hour(Trier))
