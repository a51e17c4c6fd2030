# SPDX-License-Identifier: GPL-3.0-or-later
"""Where the words of a drawing go: none over another, none cut off by the frame."""

from __future__ import annotations

from collections.abc import Iterator

from PyQt6.QtCore import QPointF, QRectF

from gatepost.drawing.shapes import Drawing, Shape

WORDS = ("text", "label")
ROUND = (6.0, 1.0)  # px about the words of a label, across and up
BESIDE = 2.0  # px between words
RINGS = 3  # how many heights of a line words are moved at most


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
    there: list[QRectF] = []
    for i in order:
        shape, words = meant[i]
        whole = around(shape, words)
        if not room.adjusted(-1.0, -1.0, 1.0, 1.0).contains(_anchor(shape, words)) or whole.width() > room.width():
            out[i] = words
            continue
        out[i] = None
        for dx, dy in _moves(whole):
            moved = _inside(whole.translated(dx, dy), room)
            if not any(moved.adjusted(-BESIDE, 0.0, BESIDE, 0.0).intersects(other) for other in there):
                there.append(moved)
                out[i] = words.translated(moved.left() - whole.left(), moved.top() - whole.top())
                break
    return out


def _anchor(shape: Shape, words: QRectF) -> QPointF:
    """The place that words belong to."""
    x = {"centre": words.center().x(), "left": words.left(), "right": words.right()}[shape.align]
    return QPointF(x, words.center().y())


def _moves(whole: QRectF) -> Iterator[tuple[float, float]]:
    """By how much words may be moved, px, the least first."""
    yield 0.0, 0.0
    for ring in range(1, 2 * RINGS + 1):
        up = ring * whole.height() / 2.0
        yield 0.0, -up
        yield 0.0, up
        if ring % 2 == 0:
            side = whole.width() / 2.0 + BESIDE
            for dx in (-side, side):
                yield dx, 0.0
                yield dx, -up
                yield dx, up


def _inside(rect: QRectF, room: QRectF) -> QRectF:
    """Moved into the frame."""
    x = min(max(rect.left(), room.left()), room.right() - rect.width())
    y = min(max(rect.top(), room.top()), room.bottom() - rect.height())
    return QRectF(x, y, rect.width(), rect.height())
