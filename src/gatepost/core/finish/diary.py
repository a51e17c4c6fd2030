# SPDX-License-Identifier: GPL-3.0-or-later
"""A timetable as an iCalendar file (RFC 5545), in local time: what is done when, what dries by itself, and when each job is ready."""

from __future__ import annotations

import hashlib
from collections.abc import Sequence
from datetime import datetime, timedelta

from icalendar import Calendar, Event

from gatepost.core.finish.timetable import Timetable, WorkStep
from gatepost.core.units import spell


def calendar_of(
    names: Sequence[str], jobs: Sequence[Sequence[WorkStep]], table: Timetable, now: datetime, unit: str = "mm"
) -> bytes:
    """The file. names: of the jobs; now: when it is written, UTC; unit: that lengths are shown in. What dries takes nobody's time."""
    out = Calendar()
    out.add("prodid", "-//Gatepost//when it is ready//EN")
    out.add("version", "2.0")
    for slot in table.slots:
        step, name = jobs[slot.job][slot.step], names[slot.job]
        what = f"{name}: {step.name}"
        if slot.end > slot.start:
            out.add_component(_event(what, slot.start, slot.end, now, True, spell(step.detail, unit)))
        if slot.dry > slot.end:
            out.add_component(_event(f"{what} dries", slot.end, slot.dry, now, False))
    for name, ready, steps in zip(names, table.ready, jobs):
        if steps:
            out.add_component(_event(f"{name} is ready", ready, ready + timedelta(minutes=15), now, False))
    return bytes(out.to_ical())


def _event(what: str, start: datetime, end: datetime, now: datetime, busy: bool, detail: str = "") -> Event:
    event = Event()
    event.add("uid", hashlib.sha256(f"{what}|{start.isoformat()}".encode()).hexdigest()[:24] + "@gatepost")
    event.add("dtstamp", now)
    event.add("dtstart", start)
    event.add("dtend", end)
    event.add("summary", what)
    if detail:
        event.add("description", detail)
    event.add("transp", "OPAQUE" if busy else "TRANSPARENT")
    return event
