# SPDX-License-Identifier: GPL-3.0-or-later
"""Times as they stand on a label: 45 min, 4 h, 3 d, 1 1/2 h, 2.5 h; minutes where nothing is said."""

from __future__ import annotations

import math
import re
from decimal import Decimal

from gatepost.core.errors import OperatorError

UNITS = {"": 1.0, "m": 1.0, "min": 1.0, "minute": 1.0, "minutes": 1.0, "h": 60.0, "hr": 60.0, "hour": 60.0, "hours": 60.0, "d": 1440.0, "day": 1440.0, "days": 1440.0, "w": 10080.0, "week": 10080.0, "weeks": 10080.0}  # fmt: skip
PART = re.compile(r"\s*(?:(\d+)\s+(\d+)/(\d+)|(\d+)/(\d+)|(\d+(?:[.,]\d+)?))\s*([a-z]*)\s*(?:,|and|$)?\s*", re.ASCII)


def parse_time(words: str) -> float:
    """Minutes. Several parts are summed: 1 d 4 h. Raises OperatorError."""
    typed, at, out = words.strip().lower(), 0, 0.0
    while at < len(typed):
        m = PART.match(typed, at)
        if m is None or m.end() == at or m[7] not in UNITS or "0" in (m[3], m[5]):
            raise OperatorError(f"“{words.strip()}” is no time. Type it as on the label: 45 min, 4 h, 3 d.")
        value = (
            int(m[1]) + int(m[2]) / int(m[3])
            if m[1]
            else int(m[4]) / int(m[5])
            if m[4]
            else float(m[6].replace(",", "."))
        )
        out, at = out + value * UNITS[m[7]], m.end()
    if not typed:
        raise OperatorError("Type a time, such as 45 min, 4 h or 3 d.")
    return out


def edit_time(minutes: float) -> str:
    """As it is shown to be edited: read back to the very same minutes, in the largest unit that keeps it short."""
    if minutes == 0.0:
        return "0"
    for unit, size in (("d", 1440.0), ("h", 60.0)):
        value = minutes / size
        if value >= 1.0 and abs(value * 4 - round(value * 4)) < 1e-9:
            return f"{value:g} {unit}"
    return f"{Decimal(repr(minutes)):f} min"


def told_time(minutes: float) -> str:
    """As people say it, rounded."""
    if not math.isfinite(minutes):
        return "–"
    if minutes < 90:
        return f"{minutes:.0f} min"
    value, unit = (minutes / 60.0, "h") if minutes < 48 * 60 else (minutes / 1440.0, "days")
    return f"{value:.1f}".removesuffix(".0") + f" {unit}"
