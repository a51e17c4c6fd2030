# SPDX-License-Identifier: GPL-3.0-or-later
"""The shop's hours as they are typed: Mon-Fri 8:00-17:00; Sat 9-12; closed 2026-12-24 - 2027-01-02."""

from __future__ import annotations

import re
from datetime import date

from gatepost.core.errors import OperatorError
from gatepost.core.finish.timetable import DAY, ShopHours

DAYS = ("mon", "tue", "wed", "thu", "fri", "sat", "sun")
PART = re.compile(
    r"\s*([a-z]{3,9})(?:\s*-\s*([a-z]{3,9}))?\s+(\d{1,2})(?::(\d{2}))?\s*-\s*(\d{1,2})(?::(\d{2}))?\s*", re.ASCII
)
FREE = re.compile(r"\s*closed\s+(\d{4}-\d{2}-\d{2})(?:\s*-\s*(\d{4}-\d{2}-\d{2}))?\s*", re.ASCII)
WRONG = "Type the hours as days and times, such as Mon-Fri 8:00-17:00; Sat 9-12; closed 2026-12-24 - 2027-01-02. Days that are not named are closed."


def parse_hours(words: str) -> ShopHours:
    """By day of the week. Raises OperatorError."""
    days: list[tuple[float, float] | None] = [None] * 7
    free: list[tuple[date, date]] = []
    for part in words.lower().split(";"):
        if not part.strip():
            continue
        if part.split()[0] == "closed":
            free.append(_free(part))
            continue
        m = PART.fullmatch(part)
        first = _day(m[1]) if m is not None else None
        last = _day(m[2]) if m is not None and m[2] else first
        if m is None or first is None or last is None:
            raise OperatorError(WRONG)
        opens, closes = 60.0 * int(m[3]) + int(m[4] or 0), 60.0 * int(m[5]) + int(m[6] or 0)
        if not 0 <= opens < closes <= DAY or int(m[4] or 0) > 59 or int(m[6] or 0) > 59:
            raise OperatorError(f"“{part.strip()}”: it closes after it opens, and before midnight.")
        for day in range(first, last + 1 if last >= first else last + 8):
            if days[day % 7] is not None:
                raise OperatorError(f"{DAYS[day % 7].title()} has hours twice.")
            days[day % 7] = (opens, closes)
    if not any(days):
        raise OperatorError(WRONG)
    return ShopHours(tuple(days), tuple(free))


def _free(part: str) -> tuple[date, date]:
    """Dates on which it is closed, both counted. Raises OperatorError."""
    m = FREE.fullmatch(part)
    if m is None:
        raise OperatorError(WRONG)
    try:
        first = date.fromisoformat(m[1])
        last = date.fromisoformat(m[2] or m[1])
    except ValueError:
        raise OperatorError(f"“{part.strip()}”: that is no date.") from None
    if last < first:
        raise OperatorError(f"“{part.strip()}”: it opens again after it closes.")
    return first, last


def _day(word: str) -> int | None:
    return next((i for i, d in enumerate(DAYS) if word.startswith(d)), None)
