# SPDX-License-Identifier: GPL-3.0-or-later
"""Where the words of a drawing go: none over another, none cut off by the frame."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from PyQt6.QtCore import QPointF, QRectF

from gatepost.drawing.shapes import Drawing, Shape

Array = NDArray[np.float64]
WORDS = ("text", "label")
ROUND = (6.0, 1.0)  # px about the words of a label, across and up
BESIDE = 2.0  # px between words
MOST = 300  # words in one frame; more can't be read
MOVES = (
    (0, 0), (0, -1), (0, 1), (0, -2), (0, 2), (-1, 0), (-1, -2), (-1, 2), (1, 0), (1, -2), (1, 2), (0, -3), (0, 3), (0, -4), (0, 4),
    (-1, -4), (-1, 4), (1, -4), (1, 4), (0, -5), (0, 5), (0, -6), (0, 6), (-1, -6), (-1, 6), (1, -6), (1, 6),
)  # half widths and half heights by which words are moved, the least first  # fmt: skip


def in_order(drawing: Drawing) -> list[Shape]:
    """The shapes as they are painted: words last, so that nothing lies over them."""
    return sorted(drawing.shapes, key=lambda s: s.kind in WORDS)


def taken_up(shape: Shape, at: QPointF, width: float, height: float) -> QRectF:
    """What words take up, px, as they were meant. at: of their place; width, height: of the words."""
    left = {"centre": at.x() - width / 2, "left": at.x(), "right": at.x() - width}[shape.align]
    return QRectF(left, at.y() - height / 2, width, height)


def around(shape: Shape, words: QRectF) -> QRectF:
    """The words with what is drawn about them."""
    across, up = ROUND if shape.kind == "label" else (0.0, 0.0)
    return words.adjusted(-across, -up, across, up)


def settled(meant: list[tuple[Shape, QRectF]], room: QRectF) -> dict[int, QRectF | None]:
    """By the number of each: what its words take up, or None where there is no room for them. meant: as they were meant; room: the frame.

    What has a ground of its own comes first, then what stands for a thing that can be taken hold of, then the rest; each goes where it was
    meant, or as little from there as it can. Words meant outside the frame stay there, unseen.
    """
    order = sorted(range(len(meant)), key=lambda i: (meant[i][0].kind != "label", not meant[i][0].key, i))
    out: dict[int, QRectF | None] = {}
    there = np.empty((MOST, 4))
    count = 0
    for i in order:
        shape, words = meant[i]
        whole = around(shape, words)
        if not room.adjusted(-1.0, -1.0, 1.0, 1.0).contains(_anchor(shape, words)) or whole.width() > room.width():
            out[i] = words
            continue
        out[i] = None
        if count == MOST:
            continue
        places = _places(whole, room)
        taken = there[:count, None]
        over = (
            (places[:, 0] - BESIDE < taken[:, :, 2])
            & (places[:, 2] + BESIDE > taken[:, :, 0])
            & (places[:, 1] < taken[:, :, 3])
            & (places[:, 3] > taken[:, :, 1])
        ).any(axis=0)
        free = np.nonzero(~over)[0]
        if len(free):
            x0, y0, x1, y1 = there[count] = places[free[0]]
            out[i] = words.translated(float(x0) - whole.left(), float(y0) - whole.top())
            count += 1
    return out


def _anchor(shape: Shape, words: QRectF) -> QPointF:
    """The place that words belong to."""
    x = {"centre": words.center().x(), "left": words.left(), "right": words.right()}[shape.align]
    return QPointF(x, words.center().y())


def _places(whole: QRectF, room: QRectF) -> Array:
    """Where words may go, left, top, right and bottom, px, the nearest first, each moved into the frame; (n, 4)."""
    wide, tall = whole.width(), whole.height()
    moves = np.array(MOVES) * (wide / 2.0 + BESIDE, tall / 2.0)
    x = np.clip(whole.left() + moves[:, 0], room.left(), room.right() - wide)
    y = np.clip(whole.top() + moves[:, 1], room.top(), room.bottom() - tall)
    return np.column_stack([x, y, x + wide, y + tall])
