# SPDX-License-Identifier: GPL-3.0-or-later
"""Keys on a drawing: choosing, nudging, sizing, turning, seeing it larger."""

from __future__ import annotations

from typing import Any, Protocol

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPainter

from gatepost.desk.view.handles import by_arrow
from gatepost.desk.view.paint import View

ARROWS = {Qt.Key.Key_Left: (-1, 0), Qt.Key.Key_Right: (1, 0), Qt.Key.Key_Up: (0, 1), Qt.Key.Key_Down: (0, -1)}
ASKED = {
    "f": "fill",
    "m": "mirror",
    "d": "copy",
    "l": "lock",
    "x": "across",
    "y": "along",
}  # by a key, of what is chosen
NOTCH = 1.18  # times larger a step of the wheel


class Typing(Protocol):
    """Words that are typed on the drawing itself."""

    def key(self, event: QKeyEvent) -> bool:
        """Whether a key was its own."""

    def click(self, event: QMouseEvent, view: View | None) -> bool:
        """Whether a press of the mouse was its own."""

    def paint(self, p: QPainter, view: View) -> None:
        """Its letters, its caret and what is chosen of them."""

    def end(self) -> None:
        """It is left."""


def pressed(canvas: Any, event: QKeyEvent) -> bool:
    """Tab-like choice with N and P, arrows nudge by 1 mm or 1/16 inch, with Shift by ten times that; with Alt they size and turn. Gives whether the key
    meant something."""
    key = Qt.Key(event.key())
    if key == Qt.Key.Key_Escape:
        return bool(canvas.cancel())
    if key in (Qt.Key.Key_N, Qt.Key.Key_P) and canvas.keys():
        keys = canvas.keys()
        step = 1 if key == Qt.Key.Key_N else -1
        canvas.selected = keys[(keys.index(canvas.selected) + step) % len(keys) if canvas.selected in keys else 0]
        canvas.picked.emit(canvas.selected)
        canvas.update()
    elif key in ARROWS and canvas.selected:
        _arrow(canvas, key, event.modifiers())
    elif key in (Qt.Key.Key_Plus, Qt.Key.Key_Equal, Qt.Key.Key_Minus) and canvas.drawing is not None:
        times = NOTCH if key != Qt.Key.Key_Minus else 1.0 / NOTCH
        canvas.camera.zoom(times, canvas.room().center(), canvas.drawing, canvas.room(), canvas.stretch)
        canvas._looked_anew()
    elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and canvas.selected.startswith(("lettering:", "art:")):
        canvas.typing_wanted.emit(canvas.selected, float("nan"), float("nan"))
    elif canvas.selected and event.text() and event.text() in ASKED and not canvas.only_seen:
        canvas.asked.emit(canvas.selected, ASKED[event.text()])
    elif event.text() and event.text() in "0123456789.":
        canvas.typed.emit(event.text())
    else:
        return False
    return True


def _arrow(canvas: Any, key: Qt.Key, held: Qt.KeyboardModifier) -> None:
    far = 10 if held & Qt.KeyboardModifier.ShiftModifier else 1
    size = far * (1.0 if canvas.unit == "mm" else 25.4 / 16)
    dx, dy = ARROWS[key]
    if not held & Qt.KeyboardModifier.AltModifier:
        canvas.nudged.emit(canvas.selected, dx * size, dy * size)
    elif canvas.drawing is not None and canvas.selected in canvas.drawing.frames:
        canvas.handled.emit(by_arrow(canvas.selected, dx * far, dy * far))
