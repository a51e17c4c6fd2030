# SPDX-License-Identifier: GPL-3.0-or-later
"""A feed on a scale: where the bit rubs, where it is between gentle and hard, and what limits it."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np

from gatepost.core.tools.feeds import FeedOffer
from gatepost.drawing.shapes import Drawing, Shape, box, dot, line, text

WIDE, HIGH = 100.0, 17.0  # the drawing's own units
STAGGER = (11.5, 14.5)  # names of limits, above each other so that none lies on the next


def feed_scale(gentle: FeedOffer, hard: FeedOffer, chosen: FeedOffer, now: float, rubs_under: float) -> Drawing:
    """gentle, hard: both ends of what is offered; chosen: of them; now: as it is set, mm/min; rubs_under: the feed under which the bit rubs, mm/min."""
    limits = sorted((one for one in chosen.all if math.isfinite(one.feed)), key=lambda one: one.feed)
    shown = [
        hard.feed,
        now,
        chosen.feed,
        rubs_under,
        *(one.feed for one in limits if one.feed < 3.0 * max(hard.feed, now)),
    ]
    most = 1.08 * max(shown)
    at = WIDE / most
    shapes: list[Shape] = [
        box(0.0, 4.0, min(rubs_under * at, WIDE), 8.0, "art-bad"),
        box(gentle.feed * at, 4.0, max(hard.feed * at, gentle.feed * at + 0.6), 8.0, "lane", index=2),
        line(np.array([[0.0, 4.0], [WIDE, 4.0]]), "flow"),
    ]
    if rubs_under * at > 4.0:
        shapes.append(text(0.5 * min(rubs_under * at, WIDE), 9.0, "rubs", "muted"))
    shapes.append(text(WIDE, 1.0, "mm/min", "muted"))
    shapes += _marks(0.93 * most, at)
    for i, one in enumerate(limits):
        x = min(one.feed, most) * at
        shapes.append(line(np.array([[x, 4.0], [x, STAGGER[i % 2] - 0.6]]), "grid"))
        far = "" if one.feed <= most else f", {one.feed:.0f}"
        shapes.append(
            text(
                x,
                STAGGER[i % 2],
                f"{one.name}{far}",
                "text" if one is chosen.rules else "muted",
                "right" if x > 0.85 * WIDE else "centre",
            )
        )
    shapes += [dot(now * at, 6.0, "stud", size=6.0), dot(chosen.feed * at, 6.0, "tip", size=9.0)]
    return Drawing(tuple(shapes), (-1.0, -1.0, WIDE + 3.0, HIGH), "", "", rulers=False)


def _marks(most: float, at: float) -> Sequence[Shape]:
    """Round figures under the scale."""
    step = next(s for s in (50, 100, 200, 500, 1000, 2000, 5000, 10_000) if most / s <= 10)
    out: list[Shape] = []
    for feed in np.arange(0.0, most, step):
        out += [
            line(np.array([[feed * at, 4.0], [feed * at, 3.2]]), "flow"),
            text(float(feed * at), 1.0, f"{feed:.0f}", "muted"),
        ]
    return out
