# SPDX-License-Identifier: GPL-3.0-or-later
"""Several jobs beside each other, and the calendar that is written of them."""

from dataclasses import replace
from datetime import UTC, datetime, timedelta

import pytest
from icalendar import Calendar

from gatepost.core.errors import OperatorError
from gatepost.core.finish.diary import calendar_of
from gatepost.core.finish.scheme import coats_for
from gatepost.core.finish.together import together
from gatepost.core.job import commands
from gatepost.core.plan.pipeline import plan

NOW = datetime(2026, 11, 30, 7, 0)


@pytest.fixture(scope="module")
def signs(quay, quay_plan, memory):
    """A painted one, and one of which no coats are chosen."""
    painted = plan(commands.run(quay, "take coats", coats_for(quay)), memory=memory).finishing
    return painted, quay_plan.finishing


def with_finish(sign, **values):
    return replace(sign, work=replace(sign.work, finish=sign.work.finish.model_copy(update=values)))


def test_jobs_share_the_hands_and_none_is_ready_sooner_than_alone(signs):
    painted, plain = signs
    both = together([("Quay", painted), ("Lock", plain)], NOW)
    assert both.names == ("Quay", "Lock") and any("Lock has no coats chosen" in s for s in both.said)
    for j, sign in enumerate(signs):
        alone = together([("one", sign)], NOW).table.ready[0]
        assert both.table.ready[j] >= alone
    for sooner, ready, later in zip(both.sooner, both.table.ready, both.later):
        assert sooner <= later and ready >= NOW
    assert max(both.sooner) <= max(both.table.ready) <= max(both.later)


def test_a_job_that_begins_later_or_in_a_cold_shop_is_told_so(signs):
    painted, plain = signs
    late = together([("Quay", with_finish(painted, begins="2026-12-14")), ("Lock", plain)], NOW)
    assert min(s.start for s in late.table.slots if s.job == 0) >= datetime(2026, 12, 14) > late.table.ready[1]
    cold = together([("Quay", with_finish(painted, celsius=3.0)), ("Lock", plain)], NOW)
    assert cold.names == ("Lock",) and "does not dry under" in cold.said[0]
    nights = together([("Quay", with_finish(painted, night=3.0))], NOW)
    assert nights.table.ready[0] > together([("Quay", painted)], NOW).table.ready[0]
    with pytest.raises(OperatorError, match="nothing is cut"):
        together([("New job", None)], NOW)
    assert together([("Lock", plain), ("New job", None)], NOW).names == ("Lock",)


def test_the_calendar_read_back_has_every_step_once_and_hands_never_twice(signs):
    both = together([("Quay; plate, “A”\nof oak", signs[0]), ("Lock", signs[1])], NOW)
    data = calendar_of(both.names, both.steps, both.table, datetime(2026, 11, 30, 6, 0, tzinfo=UTC))
    assert "⟦" not in data.decode() and b"tabs" in data.replace(
        b"\r\n ", b""
    )  # lengths in words, and what is left by the cutter
    assert all(len(row) <= 75 for row in data.split(b"\r\n"))
    events = list(Calendar.from_ical(data).walk("VEVENT"))
    busy = sorted(
        ((e.decoded("dtstart"), e.decoded("dtend")) for e in events if e["transp"] == "OPAQUE"), key=lambda t: t[0]
    )
    assert len(busy) == sum(s.end > s.start for s in both.table.slots)
    assert all(a[1] <= b[0] for a, b in zip(busy, busy[1:]))
    dry = [e for e in events if str(e["summary"]).endswith(" dries")]
    assert len(dry) == sum(s.dry > s.end for s in both.table.slots)
    ready = {str(e["summary"]): e.decoded("dtstart") for e in events if str(e["summary"]).endswith(" is ready")}
    assert set(ready.values()) == set(both.table.ready)
    assert any("of oak" in name for name in ready)
    assert len({str(e["uid"]) for e in events}) == len(events)
    assert data == calendar_of(both.names, both.steps, both.table, datetime(2026, 11, 30, 6, 0, tzinfo=UTC))
    assert timedelta(0) < max(ready.values()) - NOW
