# SPDX-License-Identifier: GPL-3.0-or-later
"""A drawing in a dialog, fitted to its room."""

from __future__ import annotations

from PyQt6.QtCore import QRectF
from PyQt6.QtGui import QColor, QPainter, QPaintEvent
from PyQt6.QtWidgets import QWidget

from gatepost.desk.theme.table import THEMES
from gatepost.desk.view.paint import Brush, fitted
from gatepost.drawing.shapes import Drawing

ABOUT = 8  # px about it


class DrawingBox(QWidget):
    """theme: as the window has it; called: what a screen reader says of it."""

    def __init__(self, theme: str, called: str, tall: int = 230) -> None:
        super().__init__()
        self._theme, self._drawing = theme, None
        self.setMinimumHeight(tall)
        self.setAccessibleName(called)

    _drawing: Drawing | None

    def show_drawing(self, drawing: Drawing | None) -> None:
        """Another one, or none."""
        self._drawing = drawing
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:  # noqa: N802 - the toolkit's name
        """Paint it."""
        p = QPainter(self)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        p.fillRect(self.rect(), QColor(THEMES[self._theme]["canvas"]))
        if self._drawing is not None:
            room = QRectF(self.rect()).adjusted(ABOUT, ABOUT, -ABOUT, -ABOUT)
            Brush(p, fitted(self._drawing, room), self._theme).draw(self._drawing, room)
