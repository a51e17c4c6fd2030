# SPDX-License-Identifier: GPL-3.0-or-later
"""When many jobs are ready, by one pair of hands."""

from __future__ import annotations

from datetime import datetime

from gatepost.core.finish.timetable import ShopHours, WorkStep, timetable

JOBS = [[WorkStep(f"{j} {i}", 20.0 + 7 * ((i * j) % 9), 60.0 * ((i + j) % 7)) for i in range(20)] for j in range(20)]


def timetables() -> None:
    """20 jobs of 20 steps each."""
    timetable(JOBS, ShopHours(), datetime(2026, 11, 30, 8))
