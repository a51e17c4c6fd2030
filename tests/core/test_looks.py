# SPDX-License-Identifier: GPL-3.0-or-later
"""A piece proved before it is cut: rings and looks against plain geometry, and what a plan and its programs become by them."""

import math

import numpy as np
import pytest
import shapely
from hypothesis import assume, given
from hypothesis import strategies as st

from gatepost.core.cache import Memory
from gatepost.core.errors import OperatorError
from gatepost.core.findings import Level
from gatepost.core.job.journal import Journal
from gatepost.core.plan.oldcuts import cut_where
from gatepost.core.plan.pipeline import plan
from gatepost.core.register.looks import looked, ring_told, tilted
from gatepost.core.register.marks import ReadMark
from gatepost.core.register.moved import Moved
from gatepost.core.run.standing import done, next_step, stands
from gatepost.core.zero.trust import Trust, trust, where
from tests.core.catalogue_jobs import edited
from tests.core.pinned import seen
from tests.core.told import CELL

MEMORY = Memory()
AT = "2026-11-02T10:00:00"
small, degrees = st.floats(-0.9, 0.9), st.floats(-3.0, 3.0)


def width(ring, hole, middle, way):
    """Of a ring round a hole whose middle lies beside its own, from the hole's rim outward along a ray: by a polygon of many corners."""
    outer = shapely.Point(0.0, 0.0).buffer(ring / 2.0, quad_segs=500)
    ray = shapely.LineString([middle, (middle[0] + 4.0 * ring * way[0], middle[1] + 4.0 * ring * way[1])])
    return ray.intersection(outer).length - hole / 2.0


@given(st.floats(3.0, 40.0), st.floats(1.5, 12.0), small, small)
def test_four_widths_say_exactly_where_the_hole_lies_and_half_the_most_less_the_least_is_how_far(hole, wide, a, b):
    ring = hole + 2.0 * wide
    four = [width(ring, hole, (a, b), w) for w in ((1, 0), (0, 1), (-1, 0), (0, -1))]
    told = ring_told(*four, ring, hole)
    assert told == pytest.approx((a, b), abs=2e-4)
    all_round = [width(ring, hole, (a, b), (math.cos(t), math.sin(t))) for t in np.linspace(0.0, 2.0 * math.pi, 73)]
    assert math.hypot(*told) == pytest.approx((max(all_round) - min(all_round)) / 2.0, abs=2e-3)


@given(
    st.floats(10.0, 60.0), st.floats(80.0, 600.0), st.floats(60.0, 400.0), st.floats(-4.0, 4.0), st.floats(-4.0, 4.0)
)
def test_a_tilted_board_leans_away_from_its_higher_end_by_as_much_as_is_taken_off(thick, long, wide, right, back):
    # the board's own plane, as it lies: its normal carries the top's hole over the place that the underside has
    n = np.cross([long, 0.0, right], [0.0, wide, back])
    top = thick * n / np.linalg.norm(n)
    assert tilted(thick, long, wide, right, back) == pytest.approx(tuple(top[:2]), rel=0.01, abs=1e-6)


@pytest.mark.parametrize(
    "widths, words",
    [
        ((4.1, 4.0, 3.9, -0.2), "never less than 0"),
        ((4.1, 4.0, 3.9, 3.2), "do not go together"),
        ((41.0, 40.0, 39.0, 40.0), "and .* is drawn"),
        ((2.1, 2.0, 1.9, 2.0), "and .* is drawn"),
    ],
)
def test_widths_that_are_of_no_ring_round_a_hole_are_not_taken(widths, words):
    with pytest.raises(OperatorError, match=words):
        ring_told(*widths, 14.0, 6.0)
    assert ring_told(4.1, 4.0, 3.9, 4.0, 14.0, 6.0) == pytest.approx((-0.1, 0.0))


PLACES = ((510.0, 320.0), (640.0, 330.0), (560.0, 395.0), (600.0, 300.0))


@given(degrees, small, small, st.integers(2, 4), st.booleans())
def test_what_is_taken_brings_every_mark_to_where_it_was_seen(turn, a, b, many, line):
    places = [(500.0 + 40.0 * n, 320.0) for n in range(many)] if line else PLACES[:many]
    move = Moved(turn, *np.subtract((570.0 + a, 340.0 + b), Moved(turn).there(570.0, 340.0)))
    marks = [ReadMark(f"{n}", p, move.there(*p), within=0.1) for n, p in enumerate(places)]
    ids = [m.name for m in marks]
    told = looked(ids, marks, frozenset(ids), 0.1, 0.0, 0.2)
    assert told.stands and told.sure == (many > 2)
    for m in marks:
        assert told.move.there(*m.drawn) == pytest.approx(m.read, abs=1e-6)
        assert told.move.back(*m.read) == pytest.approx(m.drawn, abs=1e-6)
    assert told.move.degrees == pytest.approx(turn, abs=1e-6)


def test_one_mark_alone_shifts_and_never_turns_and_an_edge_alone_says_nothing():
    hole, edge = ReadMark("hole", (10.0, 10.0), (10.5, 9.8)), ReadMark("edge", (0.0, 10.0), (0.4, 10.0), 180.0)
    told = looked(["a"], [hole], frozenset("a"), 0.2, 0.0, 0.2)
    assert told.stands and not told.sure and told.move == Moved(0.0, 0.5, pytest.approx(-0.2))
    assert not looked(["a"], [edge], frozenset("a"), 0.2, 0.0, 0.2).stands
    assert looked(["a"], [edge], frozenset("a"), 0.4, 0.0, 0.2).agrees  # it is seen square to itself alone


def misses(job, move):
    """How far each hole of the plan that is looked at lies beside the tip, where the piece lies moved by so much."""
    setup = plan(job, memory=MEMORY, cell=CELL).setup("front")
    looks = setup.proving.looks or setup.proving.rings
    return {i: np.subtract(move.there(*m.drawn), m.drawn) for i, m in zip(looks.ids, looks.marks)}


def journal_of(found, kind="proved", taken=None, within=0.4):
    journal = Journal().add(AT, "laid", "front")
    for axis in "xyz":
        journal = journal.add(AT, "touched", "front", axis=axis, machine=-300.0, way="pointer")
    for i, (a, b) in found.items():
        journal = journal.add(AT, kind, "front", mark=i, x=float(a), y=float(b), within=within)
    if taken is not None:
        journal = journal.add(AT, "moved", "front", degrees=taken.degrees, x=taken.x, y=taken.y)
    return journal


@given(st.floats(-2.0, 2.0), small, small)
def test_what_was_taken_has_the_piece_and_its_programs_lie_where_the_marks_were_seen(turn, a, b):
    job = seen()
    move = Moved(turn, *np.subtract((580.0 + a, 350.0 + b), Moved(turn).there(580.0, 350.0)))
    where_seen = {i: np.add(m, o) for i, m, o in drawn(job, misses(job, move))}
    made = plan(job, journal_of(misses(job, move), taken=move), MEMORY, CELL)
    setup = made.setup("front")
    for i, m in zip(setup.proving.looks.ids, setup.proving.looks.marks):
        assert m.drawn == pytest.approx(tuple(where_seen[i]), abs=1e-4)
    assert setup.meant(setup.proving.looks.marks[0].drawn) == pytest.approx(
        drawn(job, misses(job, move))[0][1], abs=1e-4
    )
    bored = setup.on_bed(setup.programs[0])
    low = np.asarray(bored.points)[np.asarray(bored.points)[:, 2] < 0.0][:, :2]  # in the spoilboard: under the holes
    flat = plan(job, memory=MEMORY, cell=CELL).setup("front")
    meant = np.asarray(flat.on_bed(flat.programs[0]).points)
    meant = meant[meant[:, 2] < 0.0][:, :2]
    there = np.array([move.there(*p) for p in meant])
    assert np.abs(low.mean(axis=0) - there.mean(axis=0)).max() < 0.002


def drawn(job, found):
    setup = plan(job, memory=MEMORY, cell=CELL).setup("front")
    return [(i, m.drawn, found[i]) for i, m in zip(setup.proving.looks.ids, setup.proving.looks.marks)]


def known(made, journal):
    return trust(journal.standing(), where(made.job, made.job.setup("front")))


def test_a_look_that_misses_leaves_nothing_trusted_and_one_that_agrees_raises_nothing():
    job = seen()
    made = plan(job, memory=MEMORY, cell=CELL)
    for by, told in ((0.3, Trust.TRUSTED), (0.5, Trust.PROVISIONAL)):
        journal = journal_of({"look-1": (by, 0.0)})
        assert known(made, journal).x.trust is told
    doubtful = journal_of({}).add(AT, "touched", "front", axis="x", machine=-300.0, way="pin")
    for axis in "xy":
        doubtful = doubtful.add(AT, "touched", "front", axis=axis, machine=-300.0, way="paper")
    assert known(made, doubtful).x.trust is Trust.PROVISIONAL
    assert (
        known(made, doubtful.add(AT, "proved", "front", mark="look-1", x=0.0, y=0.0, within=0.4)).x.trust
        is Trust.PROVISIONAL
    )
    lost = (
        journal_of({})
        .add(AT, "bumped", "front")
        .add(AT, "touched", "front", axis="x", machine=-299.0, way="proof", base="trusted")
    )
    assert known(made, lost).x.trust is Trust.LOST  # nothing follows from what is lost


def test_looks_hold_until_the_piece_is_moved_or_its_zero_is_set_again():
    job = seen()
    found = {i: o for i, _, o in drawn(job, misses(job, Moved(0.0, 0.8, 0.0)))}
    journal = journal_of(found)

    def worst(j):
        looks = plan(job, j, MEMORY, CELL).setup("front").proving.looks
        return looks.worst if looks.seen else None

    assert worst(journal) == pytest.approx(0.8)
    assert worst(journal.add(AT, "touched", "front", axis="z", machine=-50.0, way="plate")) == pytest.approx(0.8)
    for kind, data in (
        ("touched", {"axis": "x", "machine": -300.0, "way": "pointer"}),
        ("bumped", {}),
        ("moved", {"degrees": 0.0, "x": 0.8, "y": 0.0}),
        ("fresh board", {}),
    ):
        assert worst(journal.add(AT, kind, "front", **data)) is None
    moved = journal.add(AT, "moved", "front", degrees=0.0, x=0.8, y=0.0)
    lies = [
        plan(job, j, MEMORY, CELL).setup("front").setup.x for j in (journal, moved, moved.add(AT, "bumped", "front"))
    ]
    assert np.subtract(lies, lies[0]) == pytest.approx([0.0, 0.8, 0.0])


def test_a_ring_that_is_off_bars_all_that_follows_until_it_is_taken_and_is_not_cut_twice():
    job = seen(ring=True)
    flat = plan(job, memory=MEMORY, cell=CELL)
    setup = flat.setup("front")
    assert [p.operations[0] for p in setup.programs] == ["cut-ring", "drilling-marks", "lettering"]
    ring = setup.programs[0]
    ran = journal_of({}).add(
        AT, "run started", "front", program=ring.name, fingerprint=ring.fingerprint, **cut_where(setup, ring)
    )
    run = next(s for s in setup.steps if s.program == ring.name)
    ran = ran.add(AT, "ticked", "front", step=run.key, fingerprint=run.fingerprint)
    move = Moved(0.4, 4.0, -3.6)
    off = journal_of(misses(job, move), kind="ringed", within=0.1)
    told = plan(job, Journal(entries=ran.entries).joined(off.entries[4:], 0), MEMORY, CELL)
    assert [f.code for f in told.stops] == ["register.ring-off"]
    after = (
        Journal(entries=ran.entries)
        .joined(off.entries[4:], 0)
        .add(AT, "moved", "front", degrees=move.degrees, x=move.x, y=move.y)
    )
    made = plan(job, after, MEMORY, CELL)
    again = made.setup("front")
    assert not made.stops and again.programs[0].fingerprint != ring.fingerprint
    assert done(after, next(s for s in again.steps if s.program == ring.name))  # it is in the wood, turned or not
    # but what is drawn elsewhere since is another cut, and runs into the old one
    other = edited(job, ("set art", {"art": "ring", "y": 40.6}))
    told = plan(other, after, MEMORY, CELL)
    assert "carve.old-cut" in {f.code for f in told.findings}
    assert not done(after, next(s for s in told.setup("front").steps if s.program == ring.name))


def test_everything_seen_is_asked_in_its_place_and_once_more_when_something_was_moved():
    job = seen()
    setup = plan(job, memory=MEMORY, cell=CELL).setup("front")
    keys = [s.key for s in setup.steps]
    looks = [k for k in keys if k.startswith("over-")]
    first_run = next(i for i, s in enumerate(setup.steps) if s.kind == "run")
    assert len(looks) == 3 and keys.index("proof") < keys.index(looks[0]) < keys.index("take-looks") < first_run
    journal = journal_of({})
    for s in setup.steps[: keys.index("take-looks") + 1]:
        journal = journal.add(AT, "ticked", "front", step=s.key)
    after = next_step(journal.add(AT, "touched", "front", axis="x", machine=-300.0, way="pointer"), setup.steps)
    assert after.key not in ("take-looks", *keys[keys.index("take-looks") :])
    moved = journal.add(AT, "moved", "front", degrees=0.0, x=1.0, y=0.0)
    assert not any(stands(moved, s) for s in setup.steps if s.key in looks)


@given(st.floats(-2.0, 2.0), st.floats(-1.5, 1.5), st.floats(-1.5, 1.5))
def test_marks_that_are_taken_from_what_is_there_are_where_it_is(turn, a, b):
    assume(abs(a) + abs(b) > 0.0)
    job = edited(seen(), ("set art", {"art": "old", "turn": 10.0 * turn, "x": 60.0 + a, "y": 40.0 + b}))
    for p in job.setup("front").proof:
        job = edited(job, ("remove look", {"setup": "front", "look": p.id}))
    job = edited(job, ("looks from art", {"setup": "front"}))
    c, s = math.cos(math.radians(10.0 * turn)), math.sin(math.radians(10.0 * turn))
    want = [(60.0 + a - 45.0 * c, 40.0 + b - 45.0 * s), (60.0 + a + 45.0 * c, 40.0 + b + 45.0 * s), (30.0, 66.0)]
    got = sorted((p.x, p.y) for p in job.setup("front").proof)
    assert np.allclose(got, sorted(want))
    assert not [f for f in plan(job, memory=MEMORY, cell=CELL).findings if f.level is Level.STOP]


@pytest.mark.parametrize("ring", [False, True])
def test_what_misses_is_put_right_at_the_machine_by_what_comes_next_there(ring):
    job = seen(ring=ring, number=2)
    made = plan(job, memory=MEMORY, cell=CELL)
    setup = made.setup("front")
    key = "ring" if ring else "look"
    journal, ids = journal_of({}), [f"{key}-{n}" for n in (1, 2)]
    asked = []
    for s in setup.steps:
        if s.kind in ("ring", "over"):
            kind = "ringed" if ring else "proved"
            journal = journal.add(
                AT, kind, "front", mark=s.key.split("-", 1)[1].removesuffix("-mark"), x=0.6, y=0.0, within=0.1
            )
        journal = journal.add(
            AT, "ticked", "front", step=s.key, **({"fingerprint": s.fingerprint} if s.fingerprint else {})
        )
        if s.kind in ("ring", "over"):
            next_ = plan(job, journal, MEMORY, CELL).next
            asked.append((next_.step.key if next_.step else next_.sentence, next_.step and next_.step.detail))
        if s.kind == "take":
            break
    assert [k for k, _ in asked] == [
        f"{'ring' if ring else 'over'}-{ids[1]}-mark",
        "take-rings" if ring else "take-looks",
    ]
    assert "to the right" in asked[-1][1] and "X0 Y0 follows" in asked[-1][1]
