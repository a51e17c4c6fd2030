# SPDX-License-Identifier: GPL-3.0-or-later
"""A test piece in its opening: where each is measured, from above and in a cut through the middle."""

from __future__ import annotations

import numpy as np
import shapely

from gatepost.drawing.shapes import Drawing, Shape, area, box, line, text

PIECE, THICK = 40.0, 16.0  # mm, as they are drawn
ROUND = 14.0  # mm of wood about the opening
APART = 22.0  # mm between both pictures
TICK = 2.5  # mm


def measured_piece(slot: float) -> Drawing:
    """From above on the left, cut through on the right. slot: as wide as its cutter, mm."""
    half, out = 0.5 * PIECE, 0.5 * PIECE + slot
    wide = out + ROUND
    board = shapely.box(-wide, -wide, wide, wide)
    opening = shapely.box(-half, -half, half, half).buffer(slot)
    shapes: list[Shape] = [
        *area(board, "wood"), *area(opening, "spoilboard"), box(-half, -half, half, half, "wood"),
        *_across(-half, half, 0.3 * PIECE, "piece"), *_across(-out, out, -0.3 * PIECE, "opening"),
    ]  # fmt: skip
    left = wide + APART
    mid, base = left + wide, -0.5 * THICK
    shapes.append(box(left, base - 6.0, left + 2.0 * wide, base, "spoilboard"))
    for x0, x1 in ((-wide, -out), (-half, half), (out, wide)):
        shapes.append(box(mid + x0, base, mid + x1, base + THICK, "wood"))
    shapes += [
        line(np.array([[left - 4.0, 0.0], [left + 2.0 * wide + 4.0, 0.0]]), "place"),
        text(mid, base + THICK + 6.0, "half way down", "touch-text"),
    ]
    return Drawing(tuple(shapes), (-wide - 2.0, -wide - 2.0, left + 2.0 * wide + 6.0, wide + 2.0), rulers=False)


def _across(x0: float, x1: float, y: float, words: str) -> list[Shape]:
    """A length from wall to wall, with its name over it."""
    ends = [line(np.array([[x, y - TICK], [x, y + TICK]]), "touch") for x in (x0, x1)]
    return [line(np.array([[x0, y], [x1, y]]), "touch"), *ends, text(0.5 * (x0 + x1), y + 4.5, words, "touch-text")]
