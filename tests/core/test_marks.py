# SPDX-License-Identifier: GPL-3.0-or-later
"""A piece found by marks: readings against plain geometry, what they are good to, and where a plan has the piece by them."""

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from gatepost.core.cache import Memory
from gatepost.core.job.journal import Journal
from gatepost.core.plan.found import found_again
from gatepost.core.plan.pipeline import plan
from gatepost.core.register.fit import FitVerdict
from gatepost.core.register.marks import ReadMark, fit_of, shifted_at_worst
from tests.conftest import some
from tests.core.catalogue_jobs import JOBS, edited
from tests.core.pinned import brought_back, holes
from tests.core.told import CELL

MEMORY = Memory()
AT = "2026-11-02T10:00:00"


def turned(p, degrees, about=(0.0, 0.0)):
    c, s = math.cos(math.radians(degrees)), math.sin(math.radians(degrees))
    x, y = p[0] - about[0], p[1] - about[1]
    return np.array([about[0] + c * x - s * y, about[1] + s * x + c * y])


def read(drawn, normal, radius, degrees, shift, slip=0.0, off=(0.0, 0.0)):
    """Where the machine stands: over the mark itself, or with a pin against a slanting edge, somewhere along it."""
    there = turned(drawn, degrees) + shift
    if normal is None:
        return tuple(there + off)
    way = math.radians(normal + degrees)
    n, along = np.array([math.cos(way), math.sin(way)]), np.array([-math.sin(way), math.cos(way)])
    return tuple(there + radius * n + slip * along + off[0] * n)


def some_marks(chance, noise=0.0):
    """Holes, and edges of a rectangle; the turn and the shift that they were read with."""
    long, wide = chance.uniform(80, 900), chance.uniform(60, 400)
    degrees, shift = chance.uniform(-8, 8), chance.uniform(-30, 30, 2)
    marks = []
    count = chance.integers(0, 4)
    for n in range(count):
        marks.append((f"hole {n}", (chance.uniform(0, long), chance.uniform(0, wide)), None))
    sides = [
        ((0.0, 0.3 * wide), 180.0),
        ((0.2 * long, 0.0), -90.0),
        ((0.8 * long, 0.0), -90.0),
        ((long, 0.6 * wide), 0.0),
        ((0.5 * long, wide), 90.0),
    ]
    marks += [(f"edge {n}", *side) for n, side in enumerate(sides[: chance.integers(3 if count < 2 else 0, 6)])]
    radius = chance.uniform(0.0, 5.0)
    offs = chance.uniform(-noise, noise, (len(marks), 2))
    return [
        ReadMark(name, tuple(p), read(p, normal, radius, degrees, shift, chance.uniform(-8, 8), off), normal, radius if normal is not None else 0.0, noise)
        for (name, p, normal), off in zip(marks, offs)
    ], degrees, shift, (long, wide)  # fmt: skip


@pytest.mark.parametrize("seed", some(range(400), 60))
def test_turn_and_shift_come_out_whatever_marks_they_are_and_wherever_along_its_edge_a_pin_stood(seed):
    marks, degrees, shift, _ = some_marks(np.random.default_rng(seed))
    fit = fit_of(marks)
    if fit.verdict is FitVerdict.REFUSED:
        assert len(marks) < 2 or "line" in fit.sentence or "free" in fit.sentence
        return
    assert fit.verdict is FitVerdict.FITS and fit.turn == pytest.approx(degrees, abs=1e-6)
    assert np.allclose(fit.shift, shift, atol=1e-5)
    assert max(r.off for r in fit.residuals) < 1e-5


@pytest.mark.parametrize("seed", some(range(400), 60))
def test_no_place_lies_farther_beside_than_is_said_at_worst(seed):
    chance = np.random.default_rng(seed)
    marks, degrees, shift, (long, wide) = some_marks(chance, noise=0.1)
    fit = fit_of(marks, 1.0)
    if fit.verdict is not FitVerdict.FITS:
        return
    places = np.array([[0.0, 0.0], [long, 0.0], [long, wide], [0.0, wide]])
    said = shifted_at_worst(marks, places)
    truly = [turned(p, degrees) + shift for p in places]
    by_fit = [turned(p, fit.turn) + fit.shift for p in places]
    worst = max(math.dist(a, b) for a, b in zip(truly, by_fit))
    assert worst <= said[1].result * 1.01 + 1e-6
    assert said[1].evaluate() == pytest.approx(said[1].result)


def test_what_is_said_at_worst_is_reached_by_readings_that_are_off_the_worst_way():
    marks = [
        ReadMark(n, p, p, None, 0.0, 0.1) for n, p in (("a", (0.0, 0.0)), ("b", (300.0, 0.0)), ("c", (150.0, 120.0)))
    ]
    place = np.array([[400.0, 60.0]])
    said = shifted_at_worst(marks, place)[1].result
    worst = 0.0
    for signs in np.array(np.meshgrid(*[[-1, 1]] * 6)).T.reshape(-1, 6):
        off = 0.1 * signs.reshape(3, 2)
        shifted = [ReadMark(m.name, m.drawn, tuple(np.array(m.drawn) + d), None, 0.0, 0.1) for m, d in zip(marks, off)]
        fit = fit_of(shifted, 1.0)
        worst = max(worst, math.dist(turned(place[0], fit.turn) + fit.shift, place[0]))
    assert worst == pytest.approx(said, rel=5e-3)


@pytest.mark.parametrize(
    "marks",
    [
        [],
        [((0, 0), None)],
        [((0, 20), 180.0), ((100, 40), 0.0)],  # two edges that face each other
        [((10, 0), -90.0), ((90, 0), -90.0), ((50, 80), 90.0)],  # it slides along them
        [((0, 20), 180.0), ((50, 0), -90.0)],
    ],
)
def test_marks_that_leave_it_free_are_refused(marks):
    fit = fit_of([ReadMark(f"m{n}", p, p, normal) for n, (p, normal) in enumerate(marks)])
    assert fit.verdict is FitVerdict.REFUSED and fit.sentence
    assert (
        shifted_at_worst(
            [ReadMark(f"m{n}", p, p, normal, 0.0, 0.1) for n, (p, normal) in enumerate(marks)], np.array([[5.0, 5.0]])
        )
        is None
    )


def readings(job, degrees, shift, setup="front", journal=None, only=None):
    """The journal with every mark read of a piece that lies so much otherwise than it was meant to."""
    journal = journal or Journal()
    machine = job.machine
    made = found_again(job, job.setup(setup), journal)
    for i, m in zip(made.ids, made.marks):
        if only is not None and i not in only:
            continue
        x, y = read(m.drawn, m.normal, m.radius, degrees, shift)
        journal = journal.add(
            AT, "marked", setup, mark=i, x=x - machine.travel_x, y=y - machine.travel_y, pin=2.0 * m.radius
        )
    return journal


@given(st.floats(-9.0, 9.0), st.floats(-40.0, 40.0), st.floats(-40.0, 40.0), st.booleans())
def test_a_plan_has_the_piece_where_its_marks_say(degrees, dx, dy, edges):
    job = brought_back(edges=edges)
    journal = readings(job, degrees, (dx, dy))
    made = plan(job, journal, MEMORY, cell=1.0)
    setup = made.setup("front")
    assert setup.found.stands and made.job == job  # the job itself is as it was entered
    asked = plan(job, Journal(), MEMORY, cell=1.0).setup("front")
    for x, y in ((0.0, 0.0), (120.0, 0.0), (60.0, 40.0), (17.0, 71.0)):
        truly = turned(asked.placed.to_bed.xy(x, y), degrees) + (dx, dy)
        assert setup.placed.to_bed.xy(x, y) == pytest.approx(tuple(truly), abs=1e-5)
        assert setup.meant(tuple(truly)) == pytest.approx(asked.placed.to_bed.xy(x, y), abs=1e-5)


def test_a_hole_s_program_read_back_drills_it_where_the_piece_really_lies():
    job = brought_back()
    degrees, shift = 3.217, np.array([4.4, -7.9])
    made = plan(job, readings(job, degrees, shift), MEMORY, cell=CELL)
    setup = made.setup("front")
    drilled = next(p for p in setup.programs if p.tool.number == 2)
    points = np.asarray(setup.placed.work_to_bed.moves(drilled.moves).points)
    low = np.unique(np.round(points[points[:, 2] < 0.0][:, :2], 4), axis=0)
    truly = [turned((520.0 + x, 310.0 + 20.0), degrees) + shift for x in (20.0, 100.0)]
    assert len(low) == 2
    for p in truly:
        assert min(math.dist(p, q) for q in low) < 0.0015


@pytest.mark.parametrize("edges", [False, True])
def test_its_turn_its_distances_and_its_worst_mark_are_sums_that_come_out(edges):
    job = brought_back(edges=edges)
    made = plan(job, readings(job, 1.3, (0.8, -0.5)), MEMORY, cell=1.0)
    figures = {f.label: f for f in made.report("register").figures}
    for label in ("It lies turned by", "Distances, measured over drawn", "Worst mark beside its place"):
        assert figures[label].working is not None, label
        assert figures[label].working.evaluate() == pytest.approx(figures[label].value, abs=1e-7)
    assert figures["It lies turned by"].value == pytest.approx(1.3, abs=1e-3)


@pytest.mark.parametrize(("across", "walls"), [(6.0, 2), (6.69, 2), (6.71, 4), (8.0, 4), (0.0, 2)])
def test_a_hole_is_touched_where_the_pin_goes_in_beside_what_an_eye_is_off_by_and_else_looked_at(across, walls):
    job = brought_back(across=max(across, 1.0))
    if across == 0.0:
        for mark in ("mark-1", "mark-2", "mark-3"):
            job = edited(job, ("set mark", {"setup": "front", "mark": mark, "across": 0.0}))
    made = plan(job, memory=MEMORY, cell=1.0)
    assert {len(s.reads) for s in made.setup("front").steps if s.kind == "mark"} == {walls}
    assert [m.across > 0.0 for m in made.setup("front").found.marks] == [walls == 4] * 3


def test_marks_are_taken_of_holes_that_are_there_and_of_no_other():
    """Old ones, those that an earlier setup drilled into the face or right through it from behind; none that are drilled here or later."""
    rows = [("old", "front", ()), ("before", "front", ("first",)), ("through", "back", ("first",)), ("blind", "back", ("first",)), ("here", "front", ("second",)), ("later", "front", ("third",))]  # fmt: skip
    job = edited(
        JOBS["taped"](),
        ("remove operation", {"operation": "lettering"}),
        *(("add setup", {"id": n, "up": u}) for n, u in (("first", "front"), ("second", "front"), ("third", "front"))),
    )
    for n, (name, face, setups) in enumerate(rows):
        job = edited(
            job,
            (
                "add art",
                {
                    "kind": "holes",
                    "id": name,
                    "face": face,
                    "x": 10.0 + 12.0 * n,
                    "y": 30.0,
                    "across": 5.0 + n,
                    "number": 1,
                },
            ),
        )
        for setup in setups:
            job = edited(
                job,
                (
                    "add operation",
                    {
                        "setup": setup,
                        "kind": "drill",
                        "id": f"drill-{name}",
                        "on": (name,),
                        "tool": 2,
                        "deep": 4.0,
                        "through": name == "through",
                    },
                ),
            )
    marks = edited(job, ("marks from art", {"setup": "second", "edges": False})).setup("second").comes.marks
    assert [(m.title, m.x, m.across) for m in marks] == [
        ("old", 10.0, 5.0),
        ("before", 22.0, 6.0),
        ("through", 120.0 - 34.0, 7.0),
    ]
    looks = edited(job, ("looks from art", {"setup": "second"})).setup("second").proof
    assert {p.title for p in looks} == {"old", "before", "through"}


def test_readings_lapse_when_the_piece_is_moved_and_newer_ones_take_their_place():
    job = brought_back()
    journal = readings(job, 1.0, (2.0, 3.0))

    def stands(j):
        found = found_again(job, job.setup("front"), j)
        return found.fit is not None and found.stands

    assert stands(journal)
    for kind in ("laid", "bumped", "clamped", "turned"):
        assert not stands(journal.add(AT, kind, "front"))
    assert stands(journal.add(AT, "laid", "front", still=1.0)) and stands(journal.add(AT, "power cut", "front"))
    assert stands(journal.add(AT, "laid", "another"))  # turned over later: what was cut here was cut by these
    assert not stands(journal.add(AT, "fresh board", "front"))
    again = readings(job, -1.0, (0.0, 0.0), journal=journal)
    assert found_again(job, job.setup("front"), again).fit.turn == pytest.approx(-1.0)
    taken_back = journal.add(AT, "corrected", "front", seq=float(journal.entries[-1].seq))
    assert found_again(job, job.setup("front"), taken_back).fit is None


def test_marks_that_do_not_fit_leave_the_plan_as_it_was_drawn():
    job = brought_back()
    journal = readings(job, 1.0, (2.0, 3.0), only=("mark-1", "mark-2"))
    third = found_again(job, job.setup("front"), journal).marks[2].drawn
    journal = journal.add(AT, "marked", "front", mark="mark-3", x=third[0] - 1200.0 + 9.0, y=third[1] - 700.0)
    made = plan(job, journal, MEMORY, cell=CELL)
    assert made.setup("front").placed == plan(job, Journal(), MEMORY, cell=CELL).setup("front").placed
    assert "register.marks-do-not-fit" in {f.code for f in made.findings}


def test_a_face_that_is_read_from_behind_keeps_the_way_its_edges_look():
    job = edited(
        brought_back(),
        ("set setup", {"setup": "front", "up": "back"}),
        *holes("rear", "back", 60.0, 20.0, 60.0, setup="front"),
        ("set register", {"setup": "front", "kind": "marks"}),
        ("marks from art", {"setup": "front"}),
    )
    found = found_again(job, job.setup("front"), Journal())
    board = plan(job, Journal(), MEMORY, cell=CELL).setup("front")
    middle = np.array(board.placed.to_bed.xy(60.0, 40.0))
    for m in found.marks:
        if m.normal is not None:  # outward on the bed too
            out = np.array([math.cos(math.radians(m.normal)), math.sin(math.radians(m.normal))])
            assert (np.array(m.drawn) - middle) @ out > 35.0


def test_a_piece_that_lies_turned_by_more_than_programs_are_turned_is_told_and_left():
    job = edited(brought_back(), ("set skew", {"setup": "front", "degrees": 6.0}))
    for turn, stands in ((3.9, True), (4.2, False)):
        made = plan(job, readings(job, turn, (1.0, 2.0)), MEMORY, cell=1.0)
        assert made.setup("front").found.stands is stands
        assert ("register.marks-turned" in {f.code for f in made.findings}) is not stands
        assert made.setup("front").setup.skew == pytest.approx(6.0 + turn if stands else 6.0)
