# SPDX-License-Identifier: GPL-3.0-or-later
"""Several jobs by one pair of hands: when each is ready."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import datetime

from gatepost.core.errors import OperatorError
from gatepost.core.finish.hours import parse_hours
from gatepost.core.finish.progress import starts, work_steps
from gatepost.core.finish.report import Finished
from gatepost.core.finish.timetable import FirstStep, ShopHours, Timetable, WorkStep, timetable


@dataclass(frozen=True)
class JobsTogether:
    """When jobs are ready. names, steps: of each; table: as likely as not; sooner, later: of each its ready time where all hands take so much less, or more; said: of jobs that could not be taken, or not whole."""

    names: tuple[str, ...]
    steps: tuple[tuple[WorkStep, ...], ...]
    table: Timetable
    hours: ShopHours
    sooner: tuple[datetime, ...]
    later: tuple[datetime, ...]
    said: tuple[str, ...] = ()


def together(jobs: Sequence[tuple[str, Finished | None]], now: datetime) -> JobsTogether:
    """jobs: names and what is to be done of each, the first one's hours being the shop's; now: before which nothing is done. Raises OperatorError where none can be told."""
    names: list[str] = []
    steps: list[tuple[WorkStep, ...]] = []
    since: list[FirstStep] = []
    said: list[str] = []
    hours: ShopHours | None = None
    for name, sign in jobs:
        try:
            if sign is None:
                raise OperatorError("nothing is cut in it yet.")
            own = parse_hours(sign.work.finish.hours)
            mine, first = tuple(work_steps(sign.work)), starts(sign.work, hours or own, now)
        except OperatorError as error:
            said.append(f"{name} is left out: {error}")
            continue
        if sign.work.scheme != "bare" and not sign.work.finish.coats:
            said.append(f"{name} has no coats chosen yet: what is painted comes on top.")
        hours = hours or own
        names.append(name)
        steps.append(mine)
        since.append(first)
    if hours is None:
        raise OperatorError(said[0] if said else "There is no job.")
    table = timetable(steps, hours, now, since)
    either = [timetable([_taking(s, way) for s in steps], hours, now, since).ready for way in (0, 1)]
    return JobsTogether(tuple(names), tuple(steps), table, hours, either[0], either[1], tuple(said))


def _taking(steps: Sequence[WorkStep], way: int) -> list[WorkStep]:
    """The same with as few minutes of hands as they may take, or as many; what the machine takes stays."""
    return [replace(s, hands=float(round(s.hands * s.off[way])), late=float(round(s.late * s.off[way]))) for s in steps]
