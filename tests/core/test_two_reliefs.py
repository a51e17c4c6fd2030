# SPDX-License-Identifier: GPL-3.0-or-later
"""Two reliefs on opposite faces: where they lie over one another, whether their middle planes meet, and the bridges that hold what both free."""

import itertools
import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from gatepost.core.carve.two_reliefs import bridge_places, from_behind, reliefs_behind
from gatepost.core.findings import Place
from gatepost.core.frames import Matrix
from gatepost.core.job.commands.parts import operation_in
from gatepost.core.job.fixes import apply
from gatepost.core.job.turning import OPPOSITE, Lay, face_size, face_turned, turned
from gatepost.core.plan.pipeline import plan
from gatepost.core.register.reliefs import OneRelief, TwoReliefs
from gatepost.core.wood.between import underside
from tests.conftest import some, tries
from tests.core.catalogue_jobs import JOBS, edited
from tests.core.catalogue_proved import ONE_BRIDGE, domes

CELL = 0.4
BOARD = JOBS["strapped"]()


@pytest.mark.parametrize("face", OPPOSITE)
@given(st.floats(0, 1), st.floats(0, 1))
@settings(max_examples=tries(10))
def test_a_place_is_read_from_behind_where_a_hole_right_through_it_comes_out(face, fx, fy):
    """Through the matrices of both lies: as read, as it lies, in the blank's own frame, and back."""
    blank, box = BOARD.blank, (BOARD.blank.length, BOARD.blank.width, BOARD.blank.label_thickness)
    across, up = face_size(blank, face)
    to = [Matrix(turned(*box, Lay(f)).rows) for f in (face, OPPOSITE[face])]
    size = [turned(*box, Lay(f)).size for f in (face, OPPOSITE[face])]
    if face in ("front", "back"):
        read = [Matrix(face_turned(blank.length, blank.width, Lay(f)).rows) for f in (face, OPPOSITE[face])]
    else:  # as it lies it is read
        read = [Matrix(), Matrix()]
        assert (across, up) == pytest.approx(size[0][:2])
    x, y = across * fx, up * fy
    out = read[0].then(to[0].inverse()).then(to[1]).then(read[1].inverse()).xy(x, y)
    assert from_behind(blank, face, np.array([[x, y]]))[0] == pytest.approx(out, abs=1e-9)


@given(
    st.sampled_from(["top", "bed"]), st.sampled_from(["top", "bed"]), st.floats(2, 9), st.floats(2, 9), st.floats(-1, 1)
)
def test_what_is_left_between_two_floors_of_a_thicker_board_is_as_a_column_of_it_says(first, second, deep, other, more):
    """The column by itself: a floor is cut so far over the bed, or so far under the top that is up."""
    whole = 16.0
    thick = whole + more
    one = (thick if first == "top" else whole) - deep  # over the back face
    two = thick - ((thick if second == "top" else whole) - other)  # of the front's side, over the back face too
    as_told = TwoReliefs(
        OneRelief("one", "front", "a", "a", "black", deep, 0.0, first), OneRelief("two", "over", "b", "b", "black", other, 0.0, second),
        True, whole - deep - other, whole, whole, whole, 0.0, None, None, 0.0, 0, Place(0.0, 0.0),
    )  # fmt: skip
    assert as_told.skin(thick).result == pytest.approx(one - two, abs=1e-9)


def told(job):
    """Its plan, and of its findings those that count here."""
    made = plan(job, cell=CELL)
    return made, [f.code for f in made.findings if f.code.startswith(("wood.", "register.planes", "register.skin"))]


def figure(made, label):
    return next(f.value for f in made.report("register").figures if f.label == label)


@pytest.mark.parametrize(
    ("spin", "z", "front", "back"),
    some(list(itertools.product([0, 180], ["top", "bed"], [6.0, 7.0], [7.5])), 2),
)
def test_the_skin_is_what_the_removal_model_leaves_between_both_grounds(spin, z, front, back):
    """Its thinnest cell in the ground round both domes, of the board as planned."""
    job = edited(
        BOARD,
        *domes(front, back, 24.0, 18.0),
        ("set setup", {"setup": "over", "spin": spin}),
        ("set zero", {"setup": "over", "z": z}),
    )
    made, _ = told(job)
    one, other = (made.setup(name) for name in ("front", "over"))
    g = other.operations[-1].after
    rows, columns = np.nonzero(g.wood)
    places = np.column_stack([g.x0 + columns * g.cell, g.y0 + rows * g.cell])
    lie = [
        Matrix(turned(BOARD.blank.length, BOARD.blank.width, 16.0, Lay(s.up, s.spin)).rows)
        for s in (job.setup("front"), job.setup("over"))
    ]
    left = g.z[rows, columns] - underside(lie[1], lie[0], one.operations[-1].after, places)
    least, most = (figure(made, f"Between their grounds, at {n}") for n in ("least", "most"))
    assert left.min() == pytest.approx(16.0 - front - back, abs=0.01)
    assert least <= left.min() + 0.01 and left.min() - 0.01 <= most
    assert most - least == pytest.approx(0.0 if z == "bed" else 0.04, abs=1e-6)


def test_reliefs_that_come_through_are_a_stop_until_they_are_to_meet_and_loose_until_bridges_hold_them():
    """Each step by the fix that is offered; the bridges lie in the middle of the wood, as high as was asked."""
    job = edited(BOARD, *domes(8.0, 8.0, 72.0, 56.0), ("set operation", {"operation": "relief-1", "meets": False}))
    made, codes = told(job)
    through = next(f for f in made.findings if f.code == "wood.through")
    job = apply(job, next(x for x in through.fixes if "meet" in x.sentence))
    made, codes = told(job)
    assert "wood.through" not in codes and "register.planes-meet" in codes
    loose = next(f for f in made.findings if f.code == "wood.loose")
    job = apply(job, loose.fixes[0])
    made, codes = told(job)
    assert not {"wood.loose", "wood.hangs", "wood.through"} & set(codes)
    figures = operation_in(job, "relief-1")[1].figures
    assert len(figures.bridges) == 3
    high = figures.bridge_high
    for b in figures.bridges:
        x, y = 60.0 - 72.0 * (b.x0 + b.x1) / 2, 40.0 + 56.0 * (b.y0 + b.y1) / 2  # over its back, read from the front
        assert made.setup("front").operations[-1].after.at(x, y) == pytest.approx(8.0 + high / 2, abs=0.11)
        assert made.setup("over").operations[-1].after.at(x, 80.0 - y) == pytest.approx(8.0 + high / 2, abs=0.11)


def test_a_relief_behind_is_found_wherever_they_overlap_and_nowhere_else():
    """Against rectangles of the blank's own frame, mirrored by hand; a bridge is the other's as well."""
    job = edited(BOARD, *domes(6.0, 6.0), ONE_BRIDGE)
    front = next(a for a in job.artwork if a.id == "heights")
    for x, over in [(60.0, True), (41.0, True), (39.0, False), (79.0, True), (81.0, False)]:
        moved = edited(job, ("set art", {"art": "under", "x": 120.0 - x}))
        assert bool(list(reliefs_behind(moved, "front", front))) is over


@given(st.integers(0, 10_000), st.integers(2, 5))
@settings(max_examples=tries(25))
def test_bridges_run_from_what_is_loose_to_what_is_held_by_a_way_that_none_near_it_beats(seed, count):
    """A random island in a round hole; each way across is tried by itself."""
    rng = np.random.default_rng(seed)
    v, u = np.mgrid[0:120, 0:150]
    way = np.arctan2(v - 60, u - 75)
    radius = 24.0 + sum(rng.uniform(-2, 2) * np.cos(n * way + rng.uniform(0, 6)) for n in range(2, 5))
    loose = np.hypot(u - 75, v - 60) < radius
    held = np.hypot(u - 75, v - 60) > 46.0
    left = np.where(loose | held, 6.0, 0.0).astype(np.float32)
    ends = bridge_places(left, loose, held, 1.0, count, 5.0, 4.0)
    assert len(ends) == count
    frame = np.argwhere(held)[:, ::-1]
    for (x0, y0), (x1, y1) in ends:
        assert loose[round(y0), round(x0)] and held[round(y1), round(x1)]
        nearest = float(np.hypot(*(frame - [x0, y0]).T).min())
        assert math.dist((x0, y0), (x1, y1)) == pytest.approx(nearest, abs=1e-6)  # straight across
    turns = sorted(math.degrees(math.atan2(y - 60, x - 75)) % 360 for (x, y), _ in ends)
    assert min(b - a for a, b in zip(turns, [*turns[1:], turns[0] + 360])) > 0.35 * 360 / count
