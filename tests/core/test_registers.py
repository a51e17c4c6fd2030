# SPDX-License-Identifier: GPL-3.0-or-later
"""Registers: every thing that is kept and every check stands in them, and what lapses does on the day that a plain walk through the days finds."""

from dataclasses import dataclass, field, replace
from datetime import date, timedelta
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from gatepost.core.log.due import SHIPPED, SQUARE, Check, due_of, hours_since, known_elsewhere, plate_check
from gatepost.core.log.register import registers

TODAY = date(2026, 11, 30)


@dataclass
class Thing:
    data: dict[str, Any]
    changed: str = "2026-10-01T09:00:00"


@dataclass
class Ran:
    started: str
    real_minutes: float | None
    tool: str = "T1 60° V"
    kind: str = "shop"
    planned_minutes: float = 30.0
    machine: str = ""


@dataclass
class Wood:
    name: str = "elm"
    kind: str = "medium"
    density: float = 600.0
    note: str = ""
    own: bool = False
    said: tuple[str, ...] = field(default=())


def day(n):
    return (TODAY - timedelta(days=n)).isoformat()


KEPT = {
    "machine": {"Boat shed router": Thing({"travel_x": 1200, "travel_y": 700, "travel_z": 130, "squared": day(40)})},
    "bed": {"Boat shed router": Thing({"skimmed": day(20), "fences": [{"name": "front fence", "milled": day(30), "length": 300}], "nests": [{"name": "house nest", "made": day(3), "length": 200, "width": 90}]})},
    "tool": {"60° V": Thing({"diameter": 12, "sharpened": day(10)}), "8 mm flat": Thing({"diameter": 8})},
    "gauge": {"block 25": Thing({"gauge": "plate", "gauge_thickness": 25.4, "gauge_checked": day(100)})},
    "tin": {"Linseed": Thing({"does": "oil", "base": "oil", "best": day(1)}), "Grey": Thing({"does": "colour", "base": "water", "best": day(-200)}), "Wax": Thing({"does": "oil", "base": "oil"})},
}  # fmt: skip
RUNS = [Ran(f"{day(n)}T09:00:00", 60.0, "T1 60° V" if n % 2 else "T2 8 mm flat") for n in range(0, 60, 3)]


CHECKS = (*SHIPPED, plate_check("block 25", day(100)))


def made(checks=CHECKS):
    return registers(KEPT, [Wood()], checks, RUNS, TODAY)


def test_each_thing_and_each_check_stands_once():
    lines = made()
    names = [(x.kind, x.name) for x in lines]
    for kind, of in (("machine", "machine"), ("tool", "tool"), ("gauge", "plate"), ("tin", "finish")):
        for name in KEPT[kind]:
            assert names.count((of, name)) == 1
    assert (
        names.count(("fixture", "front fence"))
        == names.count(("fixture", "house nest"))
        == names.count(("wood", "elm"))
        == 1
    )
    assert sorted(x.check.name for x in lines if x.check) == sorted([*(c.name for c in SHIPPED), "Measured"])


def test_what_the_shop_made_before_the_bed_was_skimmed_is_to_be_looked_at_and_a_tin_past_its_date_is_due():
    by = {x.name: x for x in made()}
    assert by["front fence"].standing == "look" and day(20) in by["front fence"].told
    assert by["house nest"].standing == "good"
    assert by["Linseed"].standing == "due" and "scrap" in by["Linseed"].told
    assert by["Grey"].standing == "good" and by["Grey"].lapses == day(-200)
    assert by["Wax"].standing == "" and not by["Wax"].lapses


def test_hours_of_a_tool_are_those_since_it_was_sharpened():
    hours = sum(1 for n in range(0, 60, 3) if n % 2 and n <= 10)
    by = {x.name: x for x in made()}
    assert by["60° V"].told.startswith(f"{hours:.1f} hours")
    assert by["8 mm flat"].told.startswith("10.0 hours") and "not written down" in by["8 mm flat"].told


@pytest.mark.parametrize("of", ["block 25", "front fence", "60° V", "Boat shed router"])
def test_a_check_of_a_thing_stands_with_that_thing(of):
    lines = made((Check("Look at it", of.upper(), days=30, last=day(10)),))
    (line,) = [x for x in lines if x.check]
    assert line.name == of and line.kind and line.lapses == day(-20)
    assert len([x for x in lines if x.name == of]) == 1  # in place of the line without a check
    two = made((Check("Look at it", of, days=30), Check("Clean it", of, days=7)))
    assert len([x for x in two if x.name == of]) == 2


@given(
    st.integers(0, 80), st.integers(0, 120), st.sampled_from([0.0, 5.0, 12.5, 300.0]), st.integers(1, 6), st.booleans()
)
def test_it_lapses_on_the_first_day_that_a_walk_through_the_days_finds_due(gone, days, hours, apart, running):
    if not days and not hours:
        return
    check = Check("Something", hours=hours, days=days, last=day(gone))
    runs = [Ran(f"{day(n)}T10:00:00", 45.0) for n in range(0, 90, apart)] if running else []
    (line,) = registers({}, [], (check,), runs, TODAY)
    pace = hours_since(runs, day(90)) / 90
    ahead = None
    for n in range(3000):
        due_by_days = days and gone + n >= days
        due_by_hours = hours and hours_since(runs, check.last) + pace * n >= hours - 1e-9
        if due_by_days or due_by_hours:
            ahead = n
            break
    now = due_of(check, runs, TODAY).due
    assert (line.standing == "due") == now == (ahead == 0)
    if not line.lapses:
        assert ahead is None or ahead > 2900
    elif line.lapses > TODAY.isoformat():
        assert (
            abs((date.fromisoformat(line.lapses) - TODAY).days - (ahead if ahead is not None else 3000)) <= 1
            or ahead is None
        )
    else:
        assert ahead == 0


def test_what_was_never_seen_to_is_due_and_gives_no_date():
    (line,) = registers({}, [], (Check("Something", days=30),), [], TODAY)
    assert (line.standing, line.lapses, line.seen) == ("due", "", "")


@pytest.mark.parametrize(
    ("skimmed", "of", "last"),
    [({"A": day(3)}, "", day(3)), ({"A": day(3)}, "A", day(3)), ({"A": day(3), "B": day(1)}, "", day(9)), ({"A": day(3), "B": day(1)}, "B", day(1)),
     ({"A": day(30)}, "", day(9)), ({"A": "lately"}, "", day(9)), ({"A": ""}, "", day(9)), ({}, "", day(9)), ({"A": day(3)}, "C", day(9))],
)  # fmt: skip
def test_a_bed_that_was_skimmed_as_a_job_was_skimmed(skimmed, of, last):
    skim = replace(SHIPPED[0], of=of, last=day(9))
    assert known_elsewhere(skim, skimmed, {}).last == last
    other = replace(SHIPPED[1], of=of, last=day(9))
    assert known_elsewhere(other, skimmed, skimmed) == other
    square = replace(SHIPPED[4], of=of, last=day(9))
    assert known_elsewhere(square, {}, skimmed).last == last and SQUARE.startswith("Square")
