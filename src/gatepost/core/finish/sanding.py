# SPDX-License-Identifier: GPL-3.0-or-later
"""How much each grit takes, and what strokes are left of it."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

from gatepost.core.working import Named, Working, working

TAKES = {80: 0.15, 100: 0.10, 120: 0.07, 150: 0.05, 180: 0.035, 220: 0.025, 240: 0.02, 320: 0.01, 400: 0.006}
OF_WOOD = {"soft": 1.5, "medium": 1.0, "hard": 0.7}
RULE = "what a grit takes off bare wood until the marks of the one before it are gone: of a medium wood; 1.5 × in soft wood, 0.7 × in hard"


def takes(grits: Sequence[int], wood: str) -> Working:
    """mm that grits take off a face, one after another. wood: soft, medium or hard. A shop rule."""
    names = [f"P{g}" for g in grits]
    return working(
        f"({' + '.join(names) or '0'}) * wood", *(Named(n, TAKES[g]) for n, g in zip(names, grits)), Named("wood", OF_WOOD[wood], "times"),
        assumption=RULE, shop_rule=True,
    )  # fmt: skip


def stroke_left(width: float, sanded: float, half_angle: float, raised: bool = False) -> Working:
    """How wide a V-cut stroke is when the face about it is sanded down; of raised letters with sloping walls how wide the gap between them is. mm, degrees; not under 0. From the walls' slope.

    raised: of letters that stand: their strokes get wider, and the gap between two of them narrower, by as much.
    """
    return working(
        "max(gap - 2 * sanded * tan(half), 0)" if raised else "max(width - 2 * sanded * tan(half), 0)",
        Named("gap" if raised else "width", width), Named("sanded", sanded), Named("half", half_angle, "angle"),
        assumption="both walls slope by half the bit's angle",
    )  # fmt: skip


@dataclass(frozen=True)
class SandedStroke:
    """A letter, the width of its thinnest stroke as it is cut, and when sanded, mm; bears: mm that may be sanded off before it is too thin."""

    name: str
    width: float
    left: float
    bears: float


def strokes(
    widths: Sequence[tuple[str, float]], sanded: float, half_angle: float, least: float, raised: bool = False
) -> list[SandedStroke]:
    """Each letter's thinnest stroke, the one that bears least first. widths: name and mm; least: mm that a stroke keeps at least."""
    slope = 2.0 * math.tan(math.radians(half_angle))
    out = [
        SandedStroke(
            name,
            w,
            stroke_left(w, sanded, half_angle, raised).result,
            max(0.0, (w - least) / slope) if slope > 0 else math.inf,
        )
        for name, w in widths
    ]
    return sorted(out, key=lambda s: (s.bears, s.width))


def as_far_as(grits: Sequence[int], wood: str, bears: float) -> tuple[int, ...]:
    """The grits that a stroke still bears: from the fine end, as coarse as may be. A finish is not sanded finer than it was to be, but begun with a finer grit."""
    for first in range(len(grits) + 1):
        if takes(grits[first:], wood).result <= bears + 1e-12:
            return tuple(grits[first:])
    return ()
