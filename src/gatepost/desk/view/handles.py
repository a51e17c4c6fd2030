# SPDX-License-Identifier: GPL-3.0-or-later
"""Handles about what is chosen on the bed: four corners that size it, and a knob that turns it."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from PyQt6.QtCore import QLineF, QPointF, Qt
from PyQt6.QtGui import QColor, QPainter, QPen, QPolygonF, QTransform

from gatepost.core.plan.arranging import near_turn
from gatepost.core.units import show_length
from gatepost.desk.theme.table import THEMES
from gatepost.desk.view.paint import View
from gatepost.drawing.shapes import HandleFrame

KNOB = 26.0  # px that the knob stands above the upper edge
REACH = 11.0  # px about a handle
SIDE = 9.0  # px
SMALLEST = 0.02  # of its size that a thing is dragged to


@dataclass(frozen=True)
class Handling:
    """What a handle asks for: handle: a corner's number, or turn; across, up: factors; degrees: to the left; free: whether with Ctrl, which keeps no
    proportions and snaps to no angle."""

    key: str
    handle: str
    across: float = 1.0
    up: float = 1.0
    degrees: float = 0.0
    free: bool = False


def by_arrow(key: str, dx: float, dy: float) -> Handling:
    """What an arrow asks for: larger by a hundredth upward, turned by a degree sideways, about the middle."""
    larger = 1.0 + 0.01 * dy
    return Handling(key, "turn" if dx else "middle", larger, larger, -dx, free=True)


class Handles:
    """Of one thing at a time."""

    def __init__(self) -> None:
        self.now: Handling | None = None
        self._frame: HandleFrame | None = None
        self._start = (0.0, 0.0)

    def places(self, frame: HandleFrame, view: View) -> dict[str, QPointF]:
        """Where each handle is, px."""
        at = [view.to_screen(*p) for p in frame.corners.tolist()]
        top = QLineF((at[0] + at[1]) / 2.0, (at[2] + at[3]) / 2.0)
        way = QPointF(0.0, -1.0) if top.length() < 1.0 else QPointF(top.dx(), top.dy()) / top.length()
        return {**{str(i): p for i, p in enumerate(at)}, "turn": (at[2] + at[3]) / 2.0 + way * KNOB}

    def under(self, frame: HandleFrame | None, view: View, point: QPointF) -> str:
        """The handle under a px, or nothing."""
        if frame is None or frame.locked:
            return ""
        places = self.places(frame, view)
        near = min(places, key=lambda h: QLineF(places[h], point).length())
        return near if QLineF(places[near], point).length() <= REACH else ""

    def take(self, key: str, handle: str, frame: HandleFrame, at: tuple[float, float]) -> None:
        """A handle is taken hold of at a place, mm."""
        self.now, self._frame, self._start = Handling(key, handle), frame, at

    def drag(self, at: tuple[float, float], free: bool) -> None:
        """It is dragged to a place, mm. free: with Ctrl."""
        if self.now is None or self._frame is None:
            return
        key, handle, frame = self.now.key, self.now.handle, self._frame
        if handle == "turn":
            a, b = (math.atan2(p[1] - frame.middle[1], p[0] - frame.middle[0]) for p in (self._start, at))
            self.now = Handling(key, handle, degrees=math.degrees(b - a), free=free)
            return
        corner = int(handle)
        stays, own = frame.corners[(corner + 2) % 4], frame.corners[corner]
        whole = own - stays
        ways = [frame.corners[1] - frame.corners[0], frame.corners[3] - frame.corners[0]]
        to = whole + np.array(at) - np.array(self._start)
        factors = [float(to @ w / (whole @ w)) if abs(whole @ w) > 1e-9 else 1.0 for w in ways]
        if not (free and frame.stretches):
            factors = [float(to @ whole / (whole @ whole))] * 2
        across, up = (max(f, SMALLEST) for f in factors)
        self.now = Handling(key, handle, across, up, free=free)

    def let_go(self) -> Handling | None:
        """What was asked for; nothing where it was not moved."""
        now, self.now, self._frame = self.now, None, None
        return None if now is None or now == Handling(now.key, now.handle, free=now.free) else now

    def words(self, unit: str) -> str:
        """What it comes to."""
        if self.now is None or self._frame is None:
            return ""
        wide, high = (float(np.hypot(*(self._frame.corners[i] - self._frame.corners[0]))) for i in (1, 3))
        if self.now.handle == "turn":
            turn = self._turned()
            return f"turned {abs(turn):.1f}° {'left' if turn >= 0 else 'right'} in all"
        places = 1 if unit == "mm" else None
        sizes = [show_length(v, unit, places, mark=True) for v in (wide * self.now.across, high * self.now.up)]
        return " × ".join(sizes)

    def _turned(self) -> float:
        """Degrees that it is turned by in all, as it would be let go now."""
        assert self.now is not None and self._frame is not None
        turn = self._frame.turn + self.now.degrees
        return (turn + 180.0) % 360.0 - 180.0 if self.now.free else near_turn(turn)

    def moved(self, view: View) -> QTransform:
        """How what is in the hand is seen, px to px."""
        out = QTransform()
        if self.now is None or self._frame is None:
            return out
        along = self._frame.corners[1] - self._frame.corners[0]
        lean = math.degrees(math.atan2(along[1], along[0]))
        corner = 0 if self.now.handle == "turn" else (int(self.now.handle) + 2) % 4
        about = self._frame.middle if self.now.handle == "turn" else tuple(self._frame.corners[corner])
        at = view.to_screen(*about)
        out.translate(at.x(), at.y())
        if self.now.handle == "turn":
            out.rotate(self._frame.turn - self._turned())
        else:
            out.rotate(-lean)
            out.scale(self.now.across, self.now.up)
            out.rotate(lean)
        out.translate(-at.x(), -at.y())
        return out

    def paint(self, p: QPainter, view: View, frame: HandleFrame, theme: str) -> None:
        """The frame, its corners and its knob; of what is locked the frame alone, dotted."""
        c = THEMES[theme]
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.setPen(QPen(QColor(c["accent"]), 1.6, Qt.PenStyle.DotLine if frame.locked else Qt.PenStyle.SolidLine))
        places = self.places(frame, view)
        corners = [places[str(i)] for i in range(4)]
        p.drawPolygon(QPolygonF(corners))
        if frame.locked:
            return
        p.drawLine((corners[2] + corners[3]) / 2.0, places["turn"])
        p.setBrush(QColor(c["canvas"]))
        for at in corners:
            p.drawRect(int(at.x() - SIDE / 2), int(at.y() - SIDE / 2), int(SIDE), int(SIDE))
        p.drawEllipse(places["turn"], SIDE / 1.7, SIDE / 1.7)
