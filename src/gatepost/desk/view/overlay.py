# SPDX-License-Identifier: GPL-3.0-or-later
"""Over a drawing: what is in the hand, where it is now, and words."""

from __future__ import annotations

from dataclasses import replace

from PyQt6.QtCore import QPointF, QRect, Qt
from PyQt6.QtGui import QColor, QPainter

from gatepost.desk.theme.style import font
from gatepost.desk.theme.table import THEMES
from gatepost.desk.view.paint import Brush, View
from gatepost.drawing.shapes import Drawing

LEFT = 46  # px beside the ruler
Verdict = tuple[str, float, float, bool, str]  # of what is dragged: key, by, whether it is bad, words


def _held_role(role: str, bad: bool, judged: bool) -> str:
    """How what is in the hand is painted. judged: whether anything was said of it yet."""
    if role in ("block", "block-edge"):
        return f"{role}-held"
    if role in ("strap", "strap-bad"):
        return ("strap-bad" if bad else "strap") if judged else role
    return role


def in_hand(
    p: QPainter, drawing: Drawing, view: View, theme: str, key: str, by: tuple[float, float], verdict: Verdict | None
) -> None:
    """What is dragged, as far as it is dragged, or where it would snap to. by: mm."""
    dx, dy = by if verdict is None else verdict[1:3]
    moved = View(view.scale_x, view.scale_y, view.left + dx * view.scale_x, view.bottom - dy * view.scale_y)
    brush = Brush(p, moved, theme)
    for shape in (s for s in drawing.shapes if s.key == key):
        brush.shape(
            replace(shape, role=_held_role(shape.role, verdict is not None and verdict[3], verdict is not None))
        )


def tall_words(drawing: Drawing, view: View, stretched: bool) -> str:
    """By how much heights are drawn taller than they are."""
    if not stretched or not drawing.tall or drawing.true or view.scale_y <= 1.05 * view.scale_x:
        return ""
    return f" · ×{view.scale_y / view.scale_x:.2g} tall"


def paint_title(
    p: QPainter, drawing: Drawing, theme: str, width: int, tall: str, busy: str, said: str, verdict: Verdict | None
) -> None:
    """The title and, beside it, what is shown; said, verdict: of what is in the hand, in the place of that."""
    said, bad = (said, False) if verdict is None else (verdict[4], verdict[3])
    c = THEMES[theme]
    left = LEFT if drawing.rulers else 16
    p.setFont(font(13.5, True))
    p.setPen(QColor(c["ink"]))
    p.drawText(QPointF(left, 16), drawing.title)
    after = left + p.fontMetrics().horizontalAdvance(drawing.title) + 9
    p.setFont(font(13.5))
    p.setPen(QColor(c["muted"] if not said else c["stop"] if bad else c["ink"]))
    words = said or busy or drawing.subtitle + tall
    p.drawText(
        QPointF(after, 16), p.fontMetrics().elidedText(words, Qt.TextElideMode.ElideRight, int(width - after - 10))
    )


def say(p: QPainter, room: QRect, theme: str, words: str) -> None:
    """Words in the middle."""
    p.setFont(font(14))
    p.setPen(QColor(THEMES[theme]["muted"]))
    p.drawText(room, Qt.AlignmentFlag.AlignCenter, words)
