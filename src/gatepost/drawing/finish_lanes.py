# SPDX-License-Identifier: GPL-3.0-or-later
"""A job's finish as lanes over days: a lane for each step, its hands and what dries after them, the shop's closed hours behind."""

from __future__ import annotations

from datetime import datetime, timedelta

import numpy as np

from gatepost.core.finish.timetable import ShopHours, Timetable, WorkStep
from gatepost.drawing.shapes import Drawing, Shape, box, line, text

LANE = 10.0
SHORT = 40  # letters of a step's title that are shown


def finish_lanes(steps: list[WorkStep], table: Timetable, hours: ShopHours) -> Drawing:
    """X in hours from the midnight before the beginning. steps: of one job, as they stand in the table."""
    slots = sorted(table.slots, key=lambda s: s.step)
    first = datetime.combine(slots[0].start.date(), datetime.min.time())

    def x(at: datetime) -> float:
        return (at - first).total_seconds() / 3600.0

    begins, ends = x(slots[0].start), max(x(s.dry) for s in slots)
    total = max(ends - begins, 1.0)
    low = -LANE * (len(slots) - 1) - 6.0
    shapes: list[Shape] = []
    days = int(ends // 24) + 1
    for day in range(days):
        date = first + timedelta(days=day)
        span = hours.of(date)
        closed = [(0.0, 24.0)] if span is None else [(0.0, span[0] / 60.0), (span[1] / 60.0, 24.0)]
        for a, b in closed:
            a, b = max(24.0 * day + a, begins), min(24.0 * day + b, ends)
            if b > a:
                shapes.append(box(a, low, b, 6.0, "closed"))
    every = next((n for n in (1, 2, 4, 7, 14, 28, 56) if days / n <= 9), 112)
    for day in range(0, days, every):
        at = max(24.0 * day, begins)
        shapes.append(line(np.array([[at, low], [at, 6.0]]), "grid"))
        if min(24.0 * (day + every), ends) - at > 0.13 * total:  # else it would lie over the next one's
            shapes.append(
                text(at + 0.004 * total, low - 4.0, f"{first + timedelta(days=day):%a %d %b}", "muted", "left")
            )
    least = 0.004 * total
    for lane, slot in enumerate(slots):
        y = -LANE * lane
        a, b, c = x(slot.start), x(slot.end), x(slot.dry)
        if c > b:
            shapes.append(box(b, y - 1.6, c, y + 1.6, "drying", f"step:{slot.step}"))
        shapes.append(
            box(
                a,
                y - 3.2,
                max(b, a + least),
                y + 3.2,
                "run-bar" if steps[slot.step].kind == "run" else "hands",
                f"step:{slot.step}",
            )
        )
        title = steps[slot.step].name
        shapes.append(
            text(
                begins - total * 0.012,
                y,
                title if len(title) <= SHORT else f"{title[: SHORT - 1].rstrip()}…",
                "text",
                "right",
            )
        )
    said = "" if table.surely else ", the best order that was found"
    words = f"ready {table.ready[0]:%a %d %b %H:%M}{said}; hands full, drying thin, closed shaded"
    return Drawing(
        tuple(shapes),
        (begins - total * 0.5, low - 8.0, ends + total * 0.02, 8.0),
        "When it is ready",
        words,
        tall=0.0,
        rulers=False,
    )


def no_lanes(words: str) -> Drawing:
    """Where there is no time to be told, and why."""
    return Drawing(
        (text(50.0, 0.0, words, "text"),), (0.0, -10.0, 100.0, 10.0), "When it is ready", "", tall=0.0, rulers=False
    )
