# SPDX-License-Identifier: GPL-3.0-or-later
"""Two opposite faces, both carved: how much wood is left between them, and where."""

import math

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st

from gatepost.core.findings import Level
from gatepost.core.frames import Matrix
from gatepost.core.job.turning import OPPOSITE, Lay, turned
from gatepost.core.plan.holding_ways import ways_compared
from gatepost.core.plan.pipeline import plan
from gatepost.core.wood.arris import CutFace
from gatepost.core.wood.between import between
from gatepost.core.wood.field import board
from gatepost.drawing.heights import Look, heights
from tests.conftest import tries
from tests.core.catalogue_carve import PRESSING, recess, two_recesses
from tests.core.catalogue_jobs import JOBS, edited
from tests.core.told import CELL

SIZE, EDGE = (20, 12, 8), 0.5  # of a block of cubes, and of a cube, mm
BOXES = st.lists(
    st.tuples(st.integers(0, 19), st.integers(0, 11), st.integers(1, 6), st.integers(1, 4), st.integers(1, 7)),
    min_size=1,
    max_size=5,
)
MIDDLES = (np.stack(np.meshgrid(*map(np.arange, SIZE), indexing="ij"), axis=-1).reshape(-1, 3) + 0.5) * EDGE


def face_of(face, boxes, spin):
    """A face of the block with boxes taken out of it, and which cubes they took."""
    to = turned(*(n * EDGE for n in SIZE), Lay(face, spin))
    field = board(to.size[0], to.size[1], EDGE, lambda x, y: np.full((len(y), len(x)), to.size[2]))
    z = field.z.copy()
    for i, j, wide, long, deep in boxes:
        rows, columns = z.shape
        z[j % rows : j % rows + long, i % columns : i % columns + wide] = to.size[2] - deep * EDGE
    there = Matrix(to.rows).array(MIDDLES)
    i, j = (np.rint((there[:, k] - c) / EDGE).astype(int) for k, c in ((0, field.x0), (1, field.y0)))
    after = type(field)(z, field.x0, field.y0, field.cell)
    return CutFace(face, face, Matrix(to.rows), field, after), there[:, 2] > z[j, i]


@given(st.sampled_from(list(OPPOSITE)), BOXES, BOXES, st.sampled_from([0, 90, 180, 270]), st.booleans())
@settings(max_examples=tries(120))
def test_the_least_wood_is_that_of_the_thinnest_column_of_cubes_that_both_faces_took_from(
    face, ones, others, spin, half
):
    axis = next(k for k in range(3) if Lay(face).ways[2][k])
    earlier, took = face_of(OPPOSITE[face], ones, 0)
    later, also = face_of(face, others, spin)
    kept = None
    lies_in = np.ones(len(MIDDLES), bool)
    if half:  # a plate of the half that lies to the left of the later
        wide = later.after.z.shape[1] * EDGE
        kept = shapely.box(-1.0, -1.0, wide / 2, 99.0)
        lies_in = later.lies.array(MIDDLES)[:, 0] < wide / 2
    columns = np.delete(np.floor(MIDDLES / EDGE).astype(int), axis, axis=1)
    one, other, within = ({}, {}, {})
    for column, a, b, inside in zip(map(tuple, columns), took, also, lies_in):
        one[column] = one.get(column, 0) + a
        other[column] = other.get(column, 0) + b
        within[column] = inside
    both = [
        SIZE[axis] - one[c] - other[c]
        for c in one
        if 0 < one[c] < SIZE[axis] and 0 < other[c] < SIZE[axis] and within[c]
    ]
    found = between(later, earlier, kept, math.inf)
    assert (found is not None) == bool(both)
    if found is not None:
        assert found.left.result == pytest.approx(min(both) * EDGE, abs=1e-5)
        assert later.after.at(found.x, found.y) == pytest.approx(found.floor)


def board_of(front, back, apart=0.0, spin=0, plate=None):
    """A board 16 mm thick, 120 by 80, carved on both faces."""
    job = edited(JOBS["strapped"](), *two_recesses(front, back, apart), ("set setup", {"setup": "over", "spin": spin}))
    if plate is not None:
        job = edited(job, ("set plate", {"x": plate, "y": 40, "width": 30, "height": 60, "corner": 5, "tool": 2}))
    return job


LEVELS = {"wood.through": Level.STOP, "wood.thin-between": Level.CARE, "wood.between": Level.OK}


def told(job):
    return [f for f in plan(job, cell=CELL).findings if f.code in LEVELS]


@pytest.mark.parametrize(
    ("front", "back", "apart", "code", "left"),
    [
        (5.0, 12.0, 0.0, "wood.through", -1.0),
        (5.0, 10.5, 12.0, "wood.thin-between", 0.5),
        (6.0, 7.9, -18.0, "wood.between", 2.1),
        (9.0, 12.0, 24.0, None, 0.0),  # beside each other
    ],
)
@pytest.mark.parametrize("spin", [0, 180])
def test_what_is_left_between_two_recesses_is_told_with_its_place_and_the_fix_leaves_enough(
    front, back, apart, spin, code, left
):
    job = board_of(front, back, apart, spin)
    said = told(job)
    assert [f.code for f in said] == ([code] if code else [])
    for f in said:
        assert f.level is LEVELS[code] and f.setup == "over"
        assert f.working.result == pytest.approx(left - 0.02, abs=1e-4)  # at its thinnest reading it is 15.98
        if f.level is Level.OK:
            continue
        made = plan(job, cell=CELL).setup("over")
        x, _ = made.face_to_bed.inverse().xy(f.place.x, f.place.y)  # on the back, as it is read
        assert 60.0 + apart - 10.0 - CELL <= x <= 60.0 + apart + 10.0 + CELL
        assert 60.0 - 10.0 - CELL <= 120.0 - x <= 60.0 + 10.0 + CELL  # and on the front
        (fix,) = f.fixes
        assert [g.level for g in told(edited(job, (fix.kind, dict(fix.values))))] == [Level.OK]


def test_only_what_stays_of_the_board_counts():
    assert told(board_of(5.0, 12.0, plate=60.0)) and not told(board_of(5.0, 12.0, plate=100.0))
    around = edited(board_of(5.0, 12.0, plate=60.0), ("set operation", {"operation": "cut-out", "side": "inside"}))
    assert told(
        around
    )  # its inside falls out, of which as wide a strip as the cutter is gone: the recesses lie in the middle


def test_pieces_cut_out_in_setups_of_their_own_all_count():
    """One of them lies over the recesses, the other beside: whichever is cut out first."""
    for first, second in ((60.0, 100.0), (100.0, 60.0)):
        job = edited(
            board_of(5.0, 12.0, plate=first), ("add setup", {"id": "more", "up": "front"}),
            ("add art", {"kind": "plate", "id": "other", "x": second, "y": 40.0, "width": 30, "height": 60, "corner": 5}),
            ("add operation", {"setup": "more", "kind": "cutout", "id": "out", "on": ("other",), "tool": 2}),
        )  # fmt: skip
        assert [f.code for f in told(job)] == ["wood.through"]


def test_a_depth_is_offered_only_where_it_is_what_leaves_too_little():
    job = edited(
        board_of(5.0, 12.0), ("add engraved line", {"setup": "over"}), ("set operation", {"operation": "line", "on": ("outline-1",), "inset": 2.0, "sunk": 12.5})
    )  # fmt: skip
    said = told(job)
    assert (
        said[0].code == "wood.through" and said[0].fixes == ()
    )  # 1 mm less of a line in a floor of 12 mm mends nothing


def test_a_board_that_was_not_made_flat_is_as_thin_as_its_thinnest_reading():
    thinner = [("add caliper", {"x": x, "y": 40.0, "thickness": t}) for x, t in ((10.0, 16.4), (110.0, 15.2))]
    job = board_of(5.0, 8.5)
    assert [f.level for f in told(job)] == [Level.OK]
    (f,) = told(edited(job, *thinner))
    assert f.code == "wood.thin-between" and f.working.result == pytest.approx(15.2 - 13.5, abs=1e-4)


@pytest.mark.parametrize("spin", [0, 180])
def test_what_was_carved_into_the_face_that_is_down_is_seen_from_the_side(spin):
    """The front's recess is 5 mm deep: the wood over it, once it lies turned, begins 5 mm above the bed there, and nowhere else."""
    made = plan(board_of(5.0, 8.0, apart=-12.0, spin=spin), cell=CELL)
    setup = made.setup("over")
    x, y = setup.face_to_bed.xy(60.0, 40.0)  # the middle of the board, where the front's recess is
    (wood,) = [s for s in heights(made, "over", "carve", Look(y=y)).shapes if s.role == "wood"]
    upper, lower = np.split(wood.points[:-1], 2)
    lower = lower[::-1]
    over = np.abs(lower[:, 0] - x) < 9.0
    assert lower[over, 1] == pytest.approx(np.full(over.sum(), 5.0), abs=0.03)
    assert (lower[np.abs(lower[:, 0] - x) > 11.0, 1] == 0.0).all()
    mine = setup.face_to_bed.xy(48.0, 40.0)[0]
    assert upper[np.abs(upper[:, 0] - mine) < 5.0, 1] == pytest.approx(8.0, abs=0.03)


STRAP = dict(PRESSING(230)[1])


@pytest.mark.parametrize(
    ("apart", "hold", "words", "patch"),
    [
        (
            30.0,
            STRAP,
            "Under",
            shapely.box(568, 340, 592, 354),
        ),  # over the front's recess alone
        (30.0, {**STRAP, "y": 205}, None, None),  # its nose 8 mm short of it
        (
            0.0,
            {"setup": "over", "kind": "tape", "x": 580, "y": 350, "length": 60, "width": 25},
            "stick",
            shapely.box(550, 337.5, 610, 362.5),
        ),
    ],
)
def test_a_hold_on_what_was_carved_before_is_told_by_how_much(apart, hold, words, patch):
    """Against the recess as it lies on the bed: 20 by 12 mm, its corners of 3.2 mm radius, in the board's middle at X 580, Y 350."""
    made = plan(edited(board_of(5.0, 3.0, apart), ("add hold", hold)), cell=CELL)
    said = [f for f in made.findings if f.code == "hold.on-carved"]
    assert [f.setup for f in said] == ["over"] * (words is not None)
    if words is not None:
        (f,) = said
        area = shapely.box(573.2, 347.2, 586.8, 352.8).buffer(3.2, quad_segs=32).intersection(patch).area
        told_ = float(f.message.split("over ")[1].split()[0])
        assert words in f.message and f.level is Level.CARE
        assert told_ * 100.0 == pytest.approx(area, abs=20.0 * CELL * 2)  # a cell round its edge
        assert patch.contains(shapely.Point(f.place.x, f.place.y))


def test_tape_holds_by_what_has_wood_to_stick_to_and_no_more():
    """A recess of 20 by 12 with round corners, wholly over a strip of 60 by 25; and the same strip with the recess elsewhere."""
    tape = ("add hold", {"setup": "over", "kind": "tape", "x": 580, "y": 350, "length": 60, "width": 25})
    recess_at = ("set art", {"art": "outline", "y": 68.0})
    sideways = []
    for edits in ([tape], [tape, recess_at]):
        made = plan(edited(board_of(5.0, 3.0), *edits), cell=CELL)
        slide = made.setup("over").margins[0].slide
        sideways.append(next(v.value for v in slide.values if v.name == "sideways"))
    area = shapely.box(3.2, 3.2, 16.8, 8.8).buffer(3.2, quad_segs=32).area
    assert sideways[0] / sideways[1] == pytest.approx(1.0 - area / 1500.0, abs=0.01)


def test_ways_to_hold_are_compared_by_what_they_hold_on_what_was_carved():
    """The tape that is offered, set: its margin is as was said."""
    job = board_of(5.0, 3.0)
    offered = next(w for w in ways_compared(plan(job, cell=CELL), "over", 2) if w.kind == "tape")
    taped = edited(job, *(("add hold", {"setup": "over", **h.model_dump(exclude={"name"})}) for h in offered.places))
    made = plan(taped, cell=CELL)
    assert [f for f in made.findings if f.code == "hold.on-carved"]
    assert min(m.least.result for m in made.setup("over").margins) == pytest.approx(offered.margin, rel=0.01)


def test_a_board_that_lies_on_a_warped_face_is_not_taken_for_carved_there():
    """Its top falls by 0.6 mm to the corners: turned over it stands off the bed there, under the strap, where nothing was cut."""
    low = [("set height", {"height": f"height-{n}", "z": 15.4}) for n in range(1, 5)]
    job = edited(board_of(5.0, 3.0, 30.0), *low, ("add hold", {**STRAP, "x": 545, "y": 205}))
    assert not [f for f in plan(job, cell=CELL).findings if f.code == "hold.on-carved"]


def test_a_hold_on_the_same_face_presses_on_what_was_carved_there_before():
    job = edited(
        JOBS["strapped"](), recess(depth=3.0, corner=3.2), ("add setup", {"id": "more", "up": "front"}),
        recess(setup="more", depth=3.0, corner=3.2), ("set art", {"art": "outline-1", "x": 90.0}), ("add hold", {**STRAP, "setup": "more"}),
    )  # fmt: skip
    (f,) = [f for f in plan(job, cell=CELL).findings if f.code == "hold.on-carved"]
    assert "presses on what is carved on the front face" in f.message and f.setup == "more"
