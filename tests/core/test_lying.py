# SPDX-License-Identifier: GPL-3.0-or-later
"""Wherever the board lies: everything on the bed lies with it, turned about X0 Y0 as it is measured."""

import math

import numpy as np
import pytest

from gatepost.core.cache import Memory
from gatepost.core.job import commands
from gatepost.core.job.journal import Journal
from gatepost.core.plan.handling import moved
from gatepost.core.plan.pipeline import plan
from gatepost.core.run.step import TouchOff
from tests.core.catalogue_jobs import JOBS, edited
from tests.core.told import CELL

MEMORY = Memory(keep=32)
DEGREES = 3.0


def turned_by_hand(place, about, degrees):
    """By the plain formula, in the bed's frame."""
    a = math.radians(degrees)
    dx, dy = place[0] - about[0], place[1] - about[1]
    return about[0] + math.cos(a) * dx - math.sin(a) * dy, about[1] + math.sin(a) * dx + math.cos(a) * dy


@pytest.fixture(scope="module", params=["front left", "centre", "back right"])
def askew(request):
    job = edited(
        JOBS["plate"](),
        ("set zero", {"setup": "front", "xy": request.param, "touch_x": 60, "touch_y": 14}),
        ("set touch", {"setup": "front", "tool": 2, "x": 20.0, "y": 8.0}),
        ("set zero", {"setup": "front", "witness_x": 6.0, "witness_y": 70.0}),
        ("add flaw", {"kind": "crack", "x": 6.0, "y": 3.0, "size": 10, "depth": 4.0}),
        ("set skew", {"setup": "front", "degrees": DEGREES}),
    )
    return plan(job, memory=MEMORY, cell=CELL).setup("front")


def test_every_place_of_the_board_lies_turned_about_the_mark(askew):
    s = askew.setup
    mark = (askew.datum[0] + s.x, askew.datum[1] + s.y)
    assert askew.placed.mark == pytest.approx(mark)

    def there(x, y):
        return pytest.approx(turned_by_hand((x + s.x, y + s.y), mark, DEGREES))

    touches: dict[int, TouchOff] = askew.touches
    assert (touches[3].x, touches[3].y) == there(60, 14)
    assert (touches[2].x, touches[2].y) == there(20, 8)
    (witness,) = [step.place for step in askew.steps if step.key == "witness"]
    assert witness == there(6.0, 70.0)
    for x, y in [(0, 0), (120, 0), (60, 40)]:
        assert askew.at(x, y) == there(x, y)
        assert askew.back(*askew.at(x, y)) == pytest.approx((x, y), abs=1e-9)
    for program in askew.programs:  # what is cut is cut there, too
        board = askew.on_board(program.moves).points
        bed = askew.on_bed(program).points
        for p, q in list(zip(board, bed))[:: max(1, len(bed) // 20)]:
            assert tuple(q[:2]) == there(*p[:2]) and q[2] == pytest.approx(p[2])


def test_a_flaw_is_under_a_hold_where_it_lies_and_not_where_it_would_lie_straight():
    """A crack at the board's far end: turned by 3 degrees about its near corner, it has moved 6 mm across."""
    base = edited(
        JOBS["screwed"](),
        ("set zero", {"setup": "front", "xy": "front left"}),
        ("add flaw", {"kind": "crack", "x": 115.0, "y": 60.0, "size": 2.0, "depth": 4.0}),
        ("set skew", {"setup": "front", "degrees": DEGREES}),
    )
    where = turned_by_hand((520 + 115.0, 310 + 60.0), (520.0, 310.0), DEGREES)
    straight = (520 + 115.0, 310 + 60.0)
    for place, on in ((where, True), (straight, False)):
        job = commands.run(
            base, "set hold", {"setup": "front", "hold": "S1", "x": place[0], "y": place[1], "washer": 6.0}
        )
        said = [f for f in plan(job, memory=MEMORY, cell=CELL).findings if f.code == "hold.on-flaw" and f.about == "S1"]
        assert bool(said) is on


@pytest.mark.parametrize("key", ["plate:cut-out", "caliper:caliper-1", "flaw:flaw-1", "touch", "zero"])
def test_what_is_dragged_on_a_board_that_lies_turned_goes_where_the_pointer_goes(key):
    job = edited(
        JOBS["plate"](),
        ("add flaw", {"kind": "knot", "x": 30.0, "y": 30.0, "size": 4, "depth": 1.0}),
        ("set zero", {"setup": "front", "xy": "mark", "x": 50.0, "y": 30.0, "touch_x": 60, "touch_y": 14}),
        ("set skew", {"setup": "front", "degrees": DEGREES}),
    )
    before = plan(job, memory=MEMORY, cell=CELL).setup("front")
    after_job = commands.run(job, *moved(job, "front", key, 7.0, -2.0, snap=False))

    def place(j):
        zero = j.setup("front").zero
        return {
            "plate:cut-out": lambda: (j.carving.plate.x, j.carving.plate.y),
            "caliper:caliper-1": lambda: (j.blank.calipers[0].x, j.blank.calipers[0].y),
            "flaw:flaw-1": lambda: (j.blank.flaws[0].x, j.blank.flaws[0].y),
            "touch": lambda: (zero.touch_x, zero.touch_y),
            "zero": lambda: (zero.x, zero.y),
        }[key]()

    old, new = before.at(*place(job)), before.at(*place(after_job))
    assert (new[0] - old[0], new[1] - old[1]) == pytest.approx((7.0, -2.0), abs=1e-9)


def test_from_the_blank_to_the_programs_is_one_matrix_on_both_faces():
    """The second face: told again by mirroring the board by hand, and by its thickness."""
    job = edited(
        JOBS["live"](),
        ("set zero", {"setup": "back", "xy": "front left", "z": "bed"}),
        ("set skew", {"setup": "back", "degrees": 1.5}),
    )
    reckoned = plan(job, Journal(), memory=MEMORY, cell=CELL)
    first, back, last = reckoned.setups
    assert [s.name for s in reckoned.setups] == ["surface", "back", "front"]
    for x, y, z in [(10.0, 12.0, 3.0), (100.0, 60.0, 20.0)]:
        mirrored = (job.blank.length - x, y)  # about Y: its left end has come to the right
        dx, dy = turned_by_hand(mirrored, (0.0, 0.0), 1.5)
        got = back.blank_to_work.square @ np.array([x, y, z, 1.0])
        assert got[:3] == pytest.approx([dx, dy, first.surfaced.plane - z])
        again = last.blank_to_work.square @ np.array([x, y, z, 1.0])
        left = back.surfaced.plane
        assert again[2] == pytest.approx(z - (first.surfaced.plane - left) - last.zero_height)
    mark = back.placed.mark  # X0 Y0 of the turned board, not of the board as it lay before
    assert mark == pytest.approx((back.setup.x, back.setup.y))


def test_what_comes_loose_is_shown_where_it_lies():
    """No tabs and nothing over the plate: its place on the bed is turned about the mark, by the plain formula."""
    base = edited(JOBS["plate"](), ("set zero", {"setup": "front", "xy": "front left"}), ("set plate", {"tabs": 0}))
    askew = commands.run(base, "set skew", {"setup": "front", "degrees": DEGREES})
    places = []
    for job in (base, askew):
        said = [
            f
            for f in plan(job, memory=MEMORY, cell=CELL).findings
            if f.code.startswith("wood.") and f.place is not None
        ]
        assert said
        places.append({(f.code, f.about): (f.place.x, f.place.y) for f in said})
    straight, turned = places
    for key in straight.keys() & turned.keys():
        assert turned[key] == pytest.approx(turned_by_hand(straight[key], (520.0, 310.0), DEGREES), abs=1.0)
    assert straight.keys() & turned.keys()
