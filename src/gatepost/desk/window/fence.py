# SPDX-License-Identifier: GPL-3.0-or-later
"""The fence: stages as gates between posts. The shape carries the state; colour repeats it."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QSizePolicy, QWidget

from gatepost.core.findings import Gate
from gatepost.desk.context.stages import NAMES, STAGES
from gatepost.desk.theme.style import font
from gatepost.desk.theme.table import THEMES


def draw_gate(p: QPainter, rect: QRectF, gate: Gate | None, c: dict[str, str]) -> None:
    """Two posts and what hangs between them."""
    x0, x1, y0, y1 = rect.left(), rect.right(), rect.top(), rect.bottom()
    p.setPen(Qt.PenStyle.NoPen)
    p.setBrush(QColor(c["post"]))
    p.drawRect(QRectF(x0, y0, 4, y1 - y0))
    p.drawRect(QRectF(x1 - 4, y0, 4, y1 - y0))
    left, right, middle = x0 + 5, x1 - 5, (y0 + y1) / 2
    if gate is Gate.SHUT:
        p.setPen(QPen(QColor(c["stop"]), 2.4))
        for y in (y0 + 5, middle, y1 - 5):
            p.drawLine(QPointF(left, y), QPointF(right, y))
        p.drawLine(QPointF(left, y1 - 5), QPointF(right, y0 + 5))
    elif gate is Gate.AJAR:
        p.setPen(QPen(QColor(c["care"]), 2.2))
        far = left + (right - left) * 0.66
        for y in (y0 + 4, middle - 1, y1 - 6):
            p.drawLine(QPointF(left, y), QPointF(far, y + 3.5))
        p.drawLine(QPointF(far, y0 + 7), QPointF(far, y1 - 2))
    elif gate is Gate.OPEN:
        p.setPen(QPen(QColor(c["ok"]), 2.2))
        near = left + 6
        for y in (y0 + 3, middle - 2, y1 - 7):
            p.drawLine(QPointF(left, y), QPointF(near, y + 5))
        p.drawLine(QPointF(near, y0 + 8), QPointF(near, y1 - 2))
        p.drawLine(QPointF(near + 4, middle), QPointF(near + 8, middle + 5))
        p.drawLine(QPointF(near + 8, middle + 5), QPointF(right - 1, y0 + 5))
    elif gate is Gate.NOT_NEEDED:
        p.setPen(QPen(QColor(c["rail"]), 1.4))
        p.drawLine(QPointF(left, middle), QPointF(right, middle))
    else:
        p.setPen(QPen(QColor(c["rail"]), 1.4))
        for y in (y0 + 5, middle, y1 - 5):
            p.drawLine(QPointF(left, y), QPointF(right, y))


class FenceView(QWidget):
    """Ten gates, one above the other."""

    chosen = pyqtSignal(str)
    typed = pyqtSignal(str)  # a figure is begun while the fence has the focus

    def __init__(self, theme: str) -> None:
        super().__init__()
        self.setObjectName("fence")
        self.setFixedWidth(178)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setSizePolicy(QSizePolicy.Policy.Fixed, QSizePolicy.Policy.Expanding)
        self.setAccessibleName("Stages")
        self.theme = theme
        self.here = "blank"
        self.gates: dict[str, tuple[Gate, str]] = {}
        self.done: set[str] = set()

    def show_gates(self, gates: dict[str, tuple[Gate, str]]) -> None:
        """Gates and facts by stage."""
        self.gates = gates
        words = "; ".join(f"{NAMES[s]} {g.value}" for s, (g, _) in gates.items())
        self.setAccessibleDescription(words)
        self.update()

    def go(self, stage: str) -> None:
        """Mark a stage as the one that is open."""
        self.here = stage
        self.update()

    def _row(self) -> float:
        return min(66.0, self.height() / len(STAGES))

    def paintEvent(self, event: QPaintEvent | None) -> None:
        """Paint posts, gates, names and facts."""
        p = QPainter(self)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        c = THEMES[self.theme]
        p.fillRect(self.rect(), QColor(c["fence"]))
        row = self._row()
        for i, stage in enumerate(STAGES):
            top = i * row
            gate, fact = self.gates.get(stage, (Gate.WAITING, ""))
            if stage == self.here:
                p.fillRect(QRectF(0, top, self.width(), row - 6), QColor(c["fence-here"]))
                p.fillRect(QRectF(0, top, 4, row - 6), QColor(c["ink"]))
            if self.hasFocus() and stage == self.here:
                p.setPen(QPen(QColor(c["accent"]), 2))
                p.setBrush(Qt.BrushStyle.NoBrush)
                p.drawRect(QRectF(2, top + 1, self.width() - 4, row - 8))
            draw_gate(p, QRectF(18, top + (row - 6) / 2 - 13, 30, 26), gate, c)
            p.setPen(QColor(c["ink"]))
            p.setFont(font(16, stage == self.here))
            p.drawText(QRectF(60, top + (row - 6) / 2 - 21, 114, 20), Qt.AlignmentFlag.AlignVCenter, NAMES[stage])
            p.setFont(font(12.5))
            p.setPen(QColor(c["stop" if gate is Gate.SHUT else "care" if gate is Gate.AJAR else "muted"]))
            short = p.fontMetrics().elidedText(fact, Qt.TextElideMode.ElideRight, 114)
            p.drawText(QRectF(60, top + (row - 6) / 2 - 1, 116, 18), Qt.AlignmentFlag.AlignVCenter, short)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        """Open the stage under the mouse."""
        if event is not None:
            index = int(event.position().y() // self._row())
            if 0 <= index < len(STAGES):
                self.chosen.emit(STAGES[index])

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Up and down go along the fence."""
        if event is None:
            return
        if event.text() and event.text() in "0123456789.":
            self.typed.emit(event.text())
            return
        step = {Qt.Key.Key_Up: -1, Qt.Key.Key_Down: 1}.get(Qt.Key(event.key()))
        if step is None:
            super().keyPressEvent(event)
            return
        index = min(max(STAGES.index(self.here) + step, 0), len(STAGES) - 1)
        self.chosen.emit(STAGES[index])
