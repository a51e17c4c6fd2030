# SPDX-License-Identifier: GPL-3.0-or-later
"""All words as they will be cut, large, to be read through line by line and ticked; and a list of what changed."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtCore import QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QPainter, QPainterPath, QPaintEvent, QTransform
from PyQt6.QtWidgets import QCheckBox, QHBoxLayout, QWidget

from gatepost.core.carve.lettering import layout
from gatepost.core.job.carve import Carving, TextLine
from gatepost.desk.dialogs.card import CardDialog, button_of, card, words_of
from gatepost.desk.theme.style import font
from gatepost.desk.theme.table import THEMES

ROOM = 10  # px about a line
TALL, ARC_TALL = 96, 170  # px of a line, and of one on an arc or in a column


def path_of(line: TextLine, mirror: bool) -> QPainterPath:
    """A line's outlines as they will be cut, mm, Y up."""
    out = QPainterPath()
    out.setFillRule(Qt.FillRule.WindingFill)
    for glyph in layout(Carving(lines=(line,), mirror=mirror)):
        for contour in glyph.contours:
            out.moveTo(*contour[0][0])
            for piece in contour:
                points = [float(v) for p in piece[1:] for v in p]
                {2: out.lineTo, 4: out.quadTo, 6: out.cubicTo}[len(points)](*points)  # type: ignore[operator]
            out.closeSubpath()
    return out


class LineProof(QWidget):
    """One line, as large as there is room."""

    def __init__(self, line: TextLine, mirror: bool, theme: str) -> None:
        super().__init__()
        self._path, self._colours = path_of(line, mirror), THEMES[theme]
        self.setMinimumHeight(TALL if line.run == "straight" else ARC_TALL)
        self.setAccessibleName(line.text)

    def paintEvent(self, event: QPaintEvent | None) -> None:  # noqa: N802 - the toolkit's name
        """Paint it."""
        p = QPainter(self)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        p.fillRect(self.rect(), QColor(self._colours["canvas"]))
        box, room = self._path.boundingRect(), QRectF(self.rect()).adjusted(ROOM, ROOM, -ROOM, -ROOM)
        if box.width() <= 0.0 or box.height() <= 0.0:
            return
        scale = min(room.width() / box.width(), room.height() / box.height())
        turn = QTransform().translate(room.center().x(), room.center().y()).scale(scale, -scale)
        turn.translate(-box.center().x(), -box.center().y())
        p.fillPath(turn.map(self._path), QColor(self._colours["ink"]))


class ProofDialog(CardDialog):
    """read: all of it was read through and is right."""

    read = pyqtSignal()

    def __init__(self, parent: QWidget, lines: Sequence[tuple[str, TextLine, bool]], theme: str) -> None:
        super().__init__(parent, "Read every word as it will be cut", 940, 720)
        note = "Letter by letter, aloud, against what was ordered; then tick it. A wrong letter in wood is a new board."
        self.column.addWidget(words_of(note, 15))
        self.ticks: list[QCheckBox] = []
        for name, line, mirror in lines:
            box, column = card(name)
            column.addWidget(LineProof(line, mirror, theme))
            row = QHBoxLayout()
            row.addWidget(words_of(f"Typed: {line.text}", 15), 1)
            tick = QCheckBox("Read, and right")
            tick.setFont(font(15))
            tick.setAccessibleName(f"Read, and right: {line.text}")
            tick.toggled.connect(self._ticked)
            row.addWidget(tick)
            column.addLayout(row)
            self.column.addWidget(box)
            self.ticks.append(tick)
        self.column.addStretch(1)
        self.done_ = button_of("All read, and right", self._all_read, True)
        self.done_.setEnabled(False)
        self.buttons(button_of("Go back", self.reject), self.done_)

    def _ticked(self) -> None:
        self.done_.setEnabled(all(t.isChecked() for t in self.ticks))

    def _all_read(self) -> None:
        self.read.emit()
        self.accept()


class ChangesDialog(CardDialog):
    """What changed, item by item."""

    def __init__(self, parent: QWidget, since: str, told: Sequence[str]) -> None:
        super().__init__(parent, "What changed", 760, 620)
        self.column.addWidget(words_of(since, 15))
        for words in told or ("Nothing: it is as it was.",):
            self.column.addWidget(words_of(words, 17))
        self.column.addStretch(1)
        self.buttons(button_of("Close", self.accept, True))
