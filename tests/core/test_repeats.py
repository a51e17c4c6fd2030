# SPDX-License-Identifier: GPL-3.0-or-later
"""The same part several times over: counted, the first one measured, drifts seen and single odd parts not taken for one."""

import itertools

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from gatepost.core.cache import Memory
from gatepost.core.findings import Level
from gatepost.core.job import commands
from gatepost.core.job.journal import Journal
from gatepost.core.plan.pipeline import plan
from gatepost.core.register.repeats import LEAST_DRIFT, LUCK, drift
from tests.conftest import some
from tests.core.catalogue_jobs import JOBS, edited
from tests.core.pinned import DEEP, holes
from tests.core.told import CELL

MEMORY = Memory()


def at(n):
    return f"2026-11-02T{8 + n // 4:02d}:{15 * (n % 4):02d}:00"


def batch(parts=6, **sizes):
    """Drilled boards; a distance of holes is measured of each."""
    job = edited(
        JOBS["taped"](),
        DEEP,
        *holes("marks", "front", 60.0, 20.0, 80.0, setup="front"),
        ("set parts", {"parts": parts}),
    )
    return edited(job, ("add size", {"title": "holes apart", "nominal": 80.0, "within": 0.3, **sizes}))


def made(job, count, seen=()):
    """The journal of so many parts cut whole, and the plan by it. seen: how far a mark of each lay off, mm."""
    programs = [p for s in plan(job, memory=MEMORY, cell=CELL).setups for p in s.programs]
    journal = Journal()
    for n in range(count):
        if n:
            journal = journal.add(at(n), "fresh board", "front")
        journal = journal.add(at(n), "laid", "front")
        if n < len(seen):
            journal = journal.add(at(n), "proved", "front", mark="look-1", x=seen[n], y=0.0, within=9.0)
        for p in programs:
            does = " and ".join(p.operations)
            journal = journal.add(at(n), "run started", p.setup, program=p.name, fingerprint=p.fingerprint, does=does)
            journal = journal.add(at(n), "run ended", p.setup, program=p.name, outcome="done")
    return journal, plan(job, journal, MEMORY, CELL)


def said(reckoned):
    return {f.code: f for f in reckoned.report("register").findings}


def test_parts_are_counted_by_what_ran_to_its_end_and_not_by_boards_that_were_laid():
    job = edited(batch(), ("set part", {"part": 1, "size": "size-1", "value": 80.0}))
    for count in (0, 1, 3, 6):
        journal, reckoned = made(job, count)
        f = said(reckoned)["register.parts-count"]
        assert f.message.startswith(f"{count} of 6 parts")
    journal, _ = made(job, 2)
    begun = (
        journal.add(at(3), "fresh board", "front")
        .add(at(3), "laid", "front")
        .add(at(3), "run ended", "front", program="front-1-T2.nc", outcome="stopped")
    )
    assert said(plan(job, begun, MEMORY, CELL))["register.parts-count"].message.startswith("2 of 6")


def test_parts_that_are_cut_stay_so_when_another_bit_is_taken_for_the_next():
    job = edited(batch(), ("set part", {"part": 1, "size": "size-1", "value": 80.0}))
    journal, before = made(job, 3)
    other = edited(job, ("set operation", {"operation": "lettering", "tool": 4}))
    after = plan(other, journal, MEMORY, CELL)
    assert {p.name for s in after.setups for p in s.programs} != {p.name for s in before.setups for p in s.programs}
    assert said(after)["register.parts-count"].message.startswith("3 of 6")
    more = edited(
        job, *holes("more", "front", 60.0, 62.0, number=1, setup="front")
    )  # a part that has a hole more is none of those
    assert said(plan(more, journal, MEMORY, CELL))["register.parts-count"].message.startswith("0 of 6")


def test_the_second_part_waits_until_the_first_is_measured_and_good():
    job = batch()
    _, before = made(job, 1)
    assert said(before)["register.first-part"].level is Level.NOTE and not before.stops
    journal, _ = made(job, 1)
    journal = journal.add(at(2), "fresh board", "front").add(at(2), "laid", "front")
    second = plan(job, journal, MEMORY, CELL)
    assert [f.code for f in second.stops] == ["register.first-part"]
    for value, stops in (
        (80.29, []),
        (80.31, ["register.first-part-off"]),
        (79.69, ["register.first-part-off"]),
        (79.71, []),
    ):
        measured = edited(job, ("set part", {"part": 1, "size": "size-1", "value": value}))
        assert [f.code for f in plan(measured, journal, MEMORY, CELL).stops] == stops
    later = edited(
        job,
        ("set part", {"part": 1, "size": "size-1", "value": 80.0}),
        ("set part", {"part": 2, "size": "size-1", "value": 80.4}),
    )
    assert said(plan(later, journal, MEMORY, CELL))["register.part-off"].level is Level.CARE


def test_one_part_alone_and_nothing_measured_asks_nothing():
    job = edited(batch(parts=1), ("remove size", {"size": "size-1"}))
    assert not [c for c in said(made(job, 1)[1]) if "part" in c]


def inversions(values):
    return sum(a > b for a, b in itertools.combinations(values, 2))


def chance_of_order(values):
    """Of so much order or more, either way, among all orders: by counting them."""
    n, most = len(values), len(values) * (len(values) - 1) // 2
    mine = min(inversions(values), most - inversions(values))
    orders = list(itertools.permutations(range(n)))
    return sum(min(inversions(o), most - inversions(o)) <= mine for o in orders) / len(orders)


@given(st.lists(st.integers(-50, 50), min_size=5, max_size=6, unique=True))
def test_a_drift_is_told_where_so_much_order_is_luck_in_less_than_two_of_a_hundred(values):
    sizes = [80.0 + 0.01 * v for v in values]
    found = drift(range(1, len(sizes) + 1), sizes)
    chance = chance_of_order(values)
    if found is not None:
        assert found.chance == pytest.approx(chance) and chance < LUCK
        slopes = [(b - a) / (j - i) for (i, a), (j, b) in itertools.combinations(enumerate(sizes), 2)]
        assert found.each == pytest.approx(np.median(slopes))
    else:
        slopes = [(b - a) / (j - i) for (i, a), (j, b) in itertools.combinations(enumerate(sizes), 2)]
        assert chance >= LUCK or np.ptp(sizes) < LEAST_DRIFT or abs(np.median(slopes)) * (len(sizes) - 1) < LEAST_DRIFT


@pytest.mark.parametrize("seed", some(range(200), 25))
def test_a_worn_bit_is_seen_one_odd_part_is_not_and_noise_hardly_ever(seed):
    chance = np.random.default_rng(seed)
    n = int(chance.integers(8, 17))
    noise = chance.normal(0.0, 0.02, n)
    parts = range(1, n + 1)
    assert drift(parts, 80.0 + noise + 0.04 * np.arange(n), 80.0, 0.3) is not None
    odd = noise.copy()
    odd[int(chance.integers(0, n))] += 5.0
    found = drift(parts, 80.0 + odd)
    assert found is None or found.chance < LUCK and abs(found.each) < 0.02  # the others, not the odd one


def test_luck_is_taken_for_a_drift_no_more_often_than_is_said():
    chance = np.random.default_rng(3)
    told = sum(drift(range(12), 80.0 + chance.normal(0.0, 0.05, 12)) is not None for _ in range(400))
    assert told <= 400 * LUCK * 2.0


def test_a_drift_is_told_with_the_part_at_which_it_leaves_what_is_allowed():
    job = batch(parts=16)
    for n in range(1, 7):
        job = edited(job, ("set part", {"part": n, "size": "size-1", "value": 80.0 + 0.03 * n}))
    message = said(made(job, 6)[1])["register.part-drift"].message
    assert "At part 10 " in message and "grows by ⟦0.15|2⟧ over 6 parts" in message
    job = edited(
        job,
        ("set part", {"part": 3, "size": "size-1", "value": 79.9}),
        ("set part", {"part": 5, "size": "size-1", "value": 80.0}),
    )
    assert "register.part-drift" not in said(made(job, 6)[1])


def test_where_parts_lie_further_and_further_off_is_told_by_what_was_seen_over_their_marks():
    job = edited(
        batch(parts=9),
        ("set part", {"part": 1, "size": "size-1", "value": 80.0}),
        ("looks from art", {"setup": "front"}),
    )
    _, reckoned = made(job, 6, [0.02, 0.06, 0.11, 0.15, 0.22, 0.26])
    assert "to the right: ⟦0.25" in said(reckoned)["register.place-drift"].message
    _, reckoned = made(job, 6, [0.02, 0.06, -0.11, 0.15, 0.0, 0.06])
    assert "register.place-drift" not in said(reckoned)
    ((title, rows),) = [t for t in reckoned.report("register").tables if t[0] == "Parts"]
    assert len(rows) == 7 and rows[1][2] == "⟦0.02|2⟧" and rows[1][3] == "⟦80|2⟧" and rows[2][3] == "–"


def test_what_the_first_part_measured_is_kept_with_its_nest():
    job = edited(JOBS["nested"](), ("set parts", {"parts": 4}), ("sizes from job", {}))
    nest = job.machine.bed.nests[0].name
    with pytest.raises(Exception, match="Nothing of the first part"):
        commands.run(job, "keep first part", {"nest": nest, "at": "2026-11-02"})
    size = job.repeats.sizes[0]
    job = edited(
        job,
        ("set part", {"part": 1, "size": size.id, "value": 16.05}),
        ("keep first part", {"nest": nest, "at": "2026-11-02"}),
    )
    assert job.machine.bed.nests[0].first.startswith("2026-11-02: thickness 16.05 mm for 16")


@pytest.mark.parametrize(
    "values, code",
    [
        ((79.6, 39.58, 19.62), "register.parts-alike"),  # 0.4 off each: 0.2 on every side
        ((79.2, 39.6, 19.8), "register.parts-scaled"),  # a hundredth of each
        ((80.4, 39.6, 19.6), ""),  # one way and the other
        ((79.97, 39.97, 19.97), ""),  # less than calipers tell
        ((79.6, 39.9, 19.8), ""),  # neither by as much nor by as much of each
    ],
)
def test_sizes_that_are_all_off_say_together_whether_it_is_an_edge_or_a_scale(values, code):
    job = batch(parts=1)
    for n, (nominal, value) in enumerate(zip((40.0, 20.0), values[1:]), start=2):
        job = edited(
            job,
            ("add size", {"title": f"side {n}", "nominal": nominal, "within": 2.0}),
            ("set part", {"part": 1, "size": f"size-{n}", "value": value}),
        )
    job = edited(
        job,
        ("set size", {"size": "size-1", "within": 2.0}),
        ("set part", {"part": 1, "size": "size-1", "value": values[0]}),
    )
    told = {c for c in said(made(job, 0)[1]) if c in ("register.parts-alike", "register.parts-scaled")}
    assert told == ({code} if code else set())
