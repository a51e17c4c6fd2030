# SPDX-License-Identifier: GPL-3.0-or-later
"""A year at Fennick Wharf, put into a logbook of its own: made-up rows, so that the log and what is learned from it have something to show."""

from __future__ import annotations

import json
import uuid
from datetime import date, datetime, timedelta
from importlib import resources
from typing import TYPE_CHECKING, Any

from sqlalchemy import insert

from gatepost.core.errors import OperatorError
from gatepost.core.log.due import HANDING_OVER, SHIPPED
from gatepost.core.log.judged import result_of
from gatepost.core.log.lesson import Lesson
from gatepost.logbook.rows import Row

if TYPE_CHECKING:
    from gatepost.logbook.store import Logbook

MORNING = 8 * 60 + 30  # minutes of the day at which a row's count begins
JSON = ("zeros", "stops", "cuts", "overrides", "marks")
OWN = ("before", "minute", "fed", "said")


def shipped_year() -> dict[str, Any]:
    """As it was made."""
    text = resources.files("gatepost").joinpath("assets", "examples", "year.json").read_text("utf-8")
    return dict(json.loads(text))


def fill(book: Logbook, today: date) -> int:
    """Put it in, ending yesterday; gives how many runs. Raises OperatorError where the book has rows of its own: nothing made up is mixed with what was done."""
    if book.count():
        raise OperatorError("This logbook has runs of its own: nothing that was made up is put into it.")
    told = shipped_year()
    rows = [_row(r, today) for r in told["runs"]]
    with book._session() as session:
        session.execute(insert(Row), rows)
    for one in told["lessons"]:
        made = _day(today, one.pop("before"))
        book.learned.add(Lesson(**one, made=made, judged=made if one["held"] or one["failed"] else ""))
    for one in told["results"]:
        at = f"{_day(today, one['before'])}T16:00:00+00:00"
        book.learned.judge(
            result_of(one, job=one["job"], at=at, kind="shop", fingerprint=one["fingerprint"], words=one["words"])
        )
    by = {c.name: c for c in SHIPPED}
    for one in told["checks"]:
        c, last = by[one["name"]], _day(today, one["before"])
        data = {
            "name": c.name,
            "of": c.of,
            "hours": c.hours,
            "days": c.days,
            "lapses": c.lapses,
            "last": last,
            "by": one["by"],
            "found": one["found"],
        }
        book.keep("check", c.name, data, f"{last}T17:00:00+00:00")  # fmt: skip
    for one in told["handovers"]:
        at = f"{_day(today, one['before'])}T17:30:00+00:00"
        answers = [True] * len(HANDING_OVER)
        book.keep("handover", at, {"at": at, "from_": one["from_"], "to": one["to"], "points": list(HANDING_OVER), "answers": answers, "told": one["told"]}, at)  # fmt: skip
    return len(rows)


def _day(today: date, before: int) -> str:
    return (today - timedelta(days=before)).isoformat()


def _row(told: dict[str, Any], today: date) -> dict[str, Any]:
    """A row of the table."""
    began = datetime.fromisoformat(_day(today, told["before"])) + timedelta(minutes=MORNING + told["minute"])

    def at(minutes: float) -> str:
        return f"{(began + timedelta(minutes=minutes)).isoformat(timespec='seconds')}+00:00"

    values: dict[str, Any] = {k: v for k, v in told.items() if k not in OWN}
    values |= {
        "started": at(0.0), "ended": at(told["real_minutes"]), "path": "", "owner": "", "key": uuid.uuid4().hex, "stops": [],
        "overrides": [{"at": at(o["minute"]), "block": o["block"], "percent": o["percent"]} for o in told["fed"]],
        "marks": [{"at": at(m["minute"]), "block": m["block"], "what": m["what"]} for m in told["said"]],
    }  # fmt: skip
    return {k: json.dumps(v, ensure_ascii=False) if k in JSON else v for k, v in values.items()}
