# SPDX-License-Identifier: GPL-3.0-or-later
"""What part of a drawing is seen, and how large. It stays as it was from drawing to drawing, as far as what is drawn allows."""

from __future__ import annotations

from dataclasses import replace

from PyQt6.QtCore import QPointF, QRectF

from gatepost.desk.view.paint import View, fitted
from gatepost.drawing.shapes import Drawing

Box = tuple[float, float, float, float]
MOST, LEAST = 40.0, 0.5  # times what fills the room
ENOUGH = 0.82  # of what is held: a board that needs less room than that is shown larger


class Camera:
    """near: the board and what holds it, or the whole bed. Zoomed and moved by hand it stays so until the other view is asked for."""

    def __init__(self) -> None:
        self.near = True
        self._held: Box | None = None  # what was shown from near last
        self._times = 1.0
        self._middle: tuple[float, float] | None = None  # mm that is in the middle of the room; nothing: as it fits

    def reset(self) -> None:
        """Another job."""
        self.__init__()

    def other(self) -> None:
        """From near, or the whole bed; from what was zoomed by hand first back to what it was."""
        if self.moved:
            self._times, self._middle = 1.0, None
        else:
            self.near = not self.near

    @property
    def moved(self) -> bool:
        """Whether it was zoomed or moved by hand."""
        return self._middle is not None

    def view(self, drawing: Drawing, room: QRectF, stretch: bool) -> View:
        """mm to px."""
        shown = drawing
        if self.near and drawing.close is not None:
            shown = replace(drawing, extents=self._hold(drawing.close))
        base = fitted(shown, room, stretch)
        if self._middle is None:
            return base
        sx, sy = base.scale_x * self._times, base.scale_y * self._times
        x, y = self._middle
        at = room.center()
        return View(sx, sy, at.x() - x * sx, at.y() + y * sy)

    def _hold(self, close: Box) -> Box:
        """What is shown from near: the same as before where that has room for it and is not much too large."""
        held = self._held
        if held is not None:
            fits = held[0] <= close[0] and held[1] <= close[1] and close[2] <= held[2] and close[3] <= held[3]
            share = max((close[2] - close[0]) / (held[2] - held[0]), (close[3] - close[1]) / (held[3] - held[1]))
            if fits and share >= ENOUGH:
                return held
        self._held = close
        return close

    def zoom(self, times: float, at: QPointF, drawing: Drawing, room: QRectF, stretch: bool) -> None:
        """Larger or smaller; what is under the pointer stays there."""
        now = self.view(drawing, room, stretch)
        x, y = now.to_mm(at)
        wanted = min(max(self._times * times, LEAST), MOST)
        real = wanted / self._times
        self._times = wanted
        sx, sy = now.scale_x * real, now.scale_y * real
        middle = room.center()
        self._middle = (x + (middle.x() - at.x()) / sx, y - (middle.y() - at.y()) / sy)

    def pan(self, by: QPointF, drawing: Drawing, room: QRectF, stretch: bool) -> None:
        """Move what is seen along with the pointer."""
        now = self.view(drawing, room, stretch)
        x, y = now.to_mm(room.center())
        self._middle = (x - by.x() / now.scale_x, y + by.y() / now.scale_y)
