# SPDX-License-Identifier: GPL-3.0-or-later
"""When things are ready, as lanes over days: what takes hands, what dries after it, the shop's closed hours behind."""

from __future__ import annotations

import re
from collections.abc import Sequence
from datetime import datetime, timedelta

import numpy as np

from gatepost.core.finish.timetable import ShopHours, Timetable, WorkSlot, WorkStep
from gatepost.drawing.shapes import Drawing, Shape, box, line, text

LANE = 10.0
ONE_OF = re.compile(r" \d+/\d+$")  # behind the name of one of several coats
SHORT = 40  # letters of a lane's name that are shown
HOW = "hands full, drying thin, closed shaded"
Lane = tuple[str, Sequence[WorkSlot]]


def finish_lanes(steps: list[WorkStep], table: Timetable, hours: ShopHours) -> Drawing:
    """Of one job a lane for each step, coats of the same in one. X in hours from the midnight before the beginning."""
    lanes: dict[str, list[WorkSlot]] = {}
    for s in sorted(table.slots, key=lambda s: s.step):
        lanes.setdefault(ONE_OF.sub("", steps[s.step].name), []).append(s)
    named = [(f"{name}, {len(mine)} coats" if len(mine) > 1 else name, mine) for name, mine in lanes.items()]
    return _lanes(named, [steps], table, hours)


def shop_lanes(names: Sequence[str], jobs: Sequence[Sequence[WorkStep]], table: Timetable, hours: ShopHours) -> Drawing:
    """Of several jobs a lane for each."""
    rows = [
        (f"{name}: {table.ready[j]:%a %d %b %H:%M}", [s for s in table.slots if s.job == j])
        for j, name in enumerate(names)
    ]
    return _lanes([(name, slots) for name, slots in rows if slots], jobs, table, hours)


def no_lanes(words: str) -> Drawing:
    """Where there is no time to be told, and why."""
    return Drawing(
        (text(50.0, 0.0, words, "text"),), (0.0, -10.0, 100.0, 10.0), "When it is ready", "", tall=0.0, rulers=False
    )


def _lanes(lanes: Sequence[Lane], jobs: Sequence[Sequence[WorkStep]], table: Timetable, hours: ShopHours) -> Drawing:
    all_of_them = [s for _, slots in lanes for s in slots]
    if not all_of_them:
        return no_lanes("There is nothing to do.")
    first = datetime.combine(min(s.start for s in all_of_them).date(), datetime.min.time())

    def x(at: datetime) -> float:
        return (at - first).total_seconds() / 3600.0

    begins, ends = min(x(s.start) for s in all_of_them), max(x(s.dry) for s in all_of_them)
    total = max(ends - begins, 1.0)
    low = -LANE * (len(lanes) - 1) - 6.0
    shapes = _days(first, begins, ends, low, hours)
    for lane, (name, slots) in enumerate(lanes):
        y = -LANE * lane
        for slot in slots:
            a, b, c = x(slot.start), x(slot.end), x(slot.dry)
            if c > b:
                shapes.append(box(b, y - 1.6, c, y + 1.6, "drying"))
            role = "run-bar" if jobs[slot.job][slot.step].kind == "run" else "hands"
            shapes.append(box(a, y - 3.2, max(b, a + 0.004 * total), y + 3.2, role))
        shown = name if len(name) <= SHORT else f"{name[: SHORT - 1].rstrip()}…"
        shapes.append(text(begins - total * 0.012, y, shown, "text", "right"))
    said = "" if table.surely else ", the best order that was found"
    words = f"ready {max(table.ready):%a %d %b %H:%M}{said}; {HOW}"
    return Drawing(tuple(shapes), (begins - total * 0.5, low - 8.0, ends + total * 0.02, 8.0), "When it is ready", words, tall=0.0, rulers=False)  # fmt: skip


def _days(first: datetime, begins: float, ends: float, low: float, hours: ShopHours) -> list[Shape]:
    """Closed hours, and the days."""
    shapes: list[Shape] = []
    total = max(ends - begins, 1.0)
    days = int(ends // 24) + 1
    for day in range(days):
        span = hours.of(first + timedelta(days=day))
        for a, b in ((0.0, 24.0),) if span is None else ((0.0, span[0] / 60.0), (span[1] / 60.0, 24.0)):
            a, b = max(24.0 * day + a, begins), min(24.0 * day + b, ends)
            if b > a:
                shapes.append(box(a, low, b, 6.0, "closed"))
    every = next((n for n in (1, 2, 4, 7, 14, 28, 56) if days / n <= 7), 112)
    for day in range(0, days, every):
        at = max(24.0 * day, begins)
        shapes.append(line(np.array([[at, low], [at, 6.0]]), "grid"))
        if min(24.0 * (day + every), ends) - at > 0.13 * total:  # else it would lie over the next one's
            shapes.append(
                text(at + 0.004 * total, low - 4.0, f"{first + timedelta(days=day):%a %d %b}", "muted", "left")
            )
    return shapes
