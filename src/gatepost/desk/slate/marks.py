# SPDX-License-Identifier: GPL-3.0-or-later
"""The sign of a finding's level."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtGui import QColor, QPainter, QPaintEvent, QPen, QPolygonF
from PyQt6.QtWidgets import QWidget

from gatepost.core.findings import Level
from gatepost.desk.theme.table import THEMES


class Mark(QWidget):
    """The sign of a finding's level: a shape, and a colour that repeats it."""

    def __init__(self, level: Level, theme: str, accepted: bool = False) -> None:
        super().__init__()
        self.level, self.theme, self.accepted = level, theme, accepted
        self.setFixedSize(18, 18)
        self.setAccessibleName(level.value)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        """Square with a bar: stop. Triangle: care. Tick: ok. Dot: note."""
        p = QPainter(self)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        c = THEMES[self.theme]
        p.setPen(Qt.PenStyle.NoPen)
        if self.level is Level.STOP:
            p.setBrush(QColor(c["slate-stop"]))
            p.drawRect(2, 2, 14, 14)
            p.setBrush(QColor(c["slate"]))
            p.drawRect(5, 8, 8, 3)
        elif self.level is Level.CARE:
            p.setBrush(QColor(c["chalk-muted" if self.accepted else "slate-care"]))
            p.drawPolygon(QPolygonF([QPointF(9, 2), QPointF(17, 16), QPointF(1, 16)]))
        elif self.level is Level.OK:
            p.setPen(QPen(QColor(c["slate-ok"]), 2.2))
            p.drawPolyline(QPolygonF([QPointF(2, 9), QPointF(7, 15), QPointF(16, 3)]))
        else:
            p.setBrush(QColor(c["chalk-muted"]))
            p.drawEllipse(6, 6, 6, 6)
