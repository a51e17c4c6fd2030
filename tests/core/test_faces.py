# SPDX-License-Identifier: GPL-3.0-or-later
"""The board with any of its six faces up, turned by any quarter: where everything comes to lie, and what is cut where."""

import itertools

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st

from gatepost.core.blank.shape import polygon
from gatepost.core.cache import Memory
from gatepost.core.frames import Matrix, shift
from gatepost.core.job import commands
from gatepost.core.job.turning import FACES, FLAT, OPPOSITE, OUT, Lay, about, face_turned, relative, turned
from gatepost.core.plan.pipeline import plan
from gatepost.core.plan.turned import blank_turned
from gatepost.core.wood.arris import CutFace, meet
from gatepost.core.wood.field import board
from tests.conftest import tries
from tests.core.catalogue_jobs import JOBS
from tests.core.told import CELL
from tests.toys import KINDS

ALL = [Lay(face, spin) for face in FACES for spin in (0, 90, 180, 270)]
MEMORY = Memory()


def edited(job, *edits):
    for name, values in edits:
        job = commands.run(job, name, values, KINDS.figures)
    return job


def bare(name="plate"):
    """A board on which nothing is made yet."""
    job = edited(JOBS[name](), ("set plate", {"present": False}))
    for operation in [o for s in job.setups for o in s.operations]:
        job = edited(job, ("remove operation", {"operation": operation.id}))
    return job


def laid(job, lie, name="front"):
    return edited(job, ("set setup", {"setup": name, "up": lie.up, "spin": lie.spin}))


def test_all_twenty_four_ways_to_lay_a_board_are_there_and_are_turns():
    ways = {lie.ways for lie in ALL}
    assert len(ways) == 24
    for lie in ALL:
        assert np.linalg.det(np.array(lie.ways)) == pytest.approx(1.0)
        assert lie.ways[2] == OUT[lie.up]  # that face looks up
        towards, right = lie.beside
        assert OUT[right] == lie.ways[0] and OUT[OPPOSITE[towards]] == lie.ways[1]


def test_a_face_is_read_as_the_piece_hangs():
    """By hand, walking round a hanging piece, its top up: with the left end before you its front is on your right, and so on."""
    front_is = {"left": (1, 0), "right": (-1, 0), "top": (0, -1), "bottom": (0, 1)}
    for face, way in front_is.items():
        x, y, _ = Lay(face).ways
        assert (x[2], y[2]) == way
    for face in ("front", "left", "right"):
        assert Lay(face).ways[1] == (0, 1, 0)  # the top of the piece at the top of what is read
    assert Lay("back", 180).ways[:2] == ((-1, 0, 0), (0, 1, 0))  # turned over about Y the back is read upright
    assert about(FLAT, Lay("back")) == "about X" and about(FLAT, Lay("back", 180)) == "about Y"
    assert about(Lay("back", 180), FLAT) == "about Y" and about(FLAT, Lay("left")) == about(FLAT, FLAT) == ""


@given(st.sampled_from(ALL), st.sampled_from(ALL), st.tuples(*[st.floats(1, 900)] * 3), st.data())
def test_a_turned_board_keeps_its_box_at_nought_and_its_places_apart(lie, other, size, data):
    to = turned(*size, lie)
    corners = np.array([to.at(*c) for c in itertools.product(*[(0.0, s) for s in size])])
    assert corners.min(axis=0) == pytest.approx((0, 0, 0), abs=1e-9)
    assert corners.max(axis=0) == pytest.approx(to.size) and sorted(to.size) == pytest.approx(sorted(size))
    place = tuple(data.draw(st.floats(0, s)) for s in size)
    # from one lie to another is the turn that the machine is told
    there, here = np.array(to.at(*place)), np.array(turned(*size, other).at(*place))
    ends = np.array(turned(*size, other).at(0, 0, 0)) - np.array(relative(lie, other)) @ np.array(to.at(0, 0, 0))
    assert np.array(relative(lie, other)) @ there + ends == pytest.approx(here, abs=1e-6)
    # what is read at a place of a face lies at that place of the board with the face up
    across = face_turned(to.size[0], to.size[1], lie)
    hung = Lay(lie.up, 180 if lie.up == "back" else 0)
    read = turned(*size, hung).at(*place)
    assert across.at(*read[:2])[:2] == pytest.approx(to.at(*place)[:2], abs=1e-6)


@pytest.mark.parametrize("lie", ALL, ids=str)
def test_what_is_cut_with_any_face_up_lies_so_deep_under_that_face_of_the_blank(lie):
    job = laid(bare(), lie)
    d = {"x0": 3.0, "x1": 3.0, "y": 5.0, "depth": 2.5, "tool": 2}
    job = edited(job, ("add operation", {"setup": "front", "kind": "dimple", "id": "dot", **d}))
    there = plan(job, cell=CELL, kinds=KINDS, memory=MEMORY).setup("front")
    program = there.programs[0].moves.points
    low = there.blank_to_work.inverse().array(program[program[:, 2] == program[:, 2].min()])[0]
    blank = job.blank
    thick = max(h.z for h in blank.heights)
    size = np.array([blank.length, blank.width, thick])
    out = np.array(OUT[lie.up])
    face = (out > 0) * size  # a corner of the face that is up
    assert np.dot(face - low, out) == pytest.approx(2.5, abs=2e-3)
    assert (low > 0).all() and (low < size).all()
    right, back, _ = (np.array(w) for w in lie.ways)
    corner = sum(size * (w < 0) for w in (right, back))  # the blank's corner that lies at the front left
    assert np.dot(low - corner, right) == pytest.approx(3.0, abs=2e-3)
    assert np.dot(low - corner, back) == pytest.approx(5.0, abs=2e-3)


@pytest.mark.parametrize("spin", [90, 180, 270])
@pytest.mark.parametrize("face", ["front", "back", "left", "top"])
def test_a_face_that_comes_up_again_turned_keeps_what_was_cut_on_it_where_it_was_cut(face, spin):
    job = laid(bare(), Lay(face))
    d = {"x0": 4.0, "x1": 10.0, "apart": 6.0, "depth": 3.0, "tool": 2}
    job = edited(
        job,
        ("add operation", {"setup": "front", "kind": "dimple", "id": "one", "y": 5.0, **d}),
        ("copy setup", {"setup": "front", "id": "again"}),
        ("set setup", {"setup": "again", "spin": spin}),
    )
    job = edited(job, *[("remove operation", {"operation": o.id}) for o in job.setup("again").operations])
    job = edited(
        job, ("add operation", {"setup": "again", "kind": "dimple", "id": "two", "y": 12.0, **d, "depth": 0.5})
    )
    done = plan(job, cell=CELL, kinds=KINDS, memory=MEMORY)
    first, again = done.setup("front"), done.setup("again")
    across = first.carried.inverse().then(again.carried)
    for x in (4.0, 10.0):
        place = across.xy(x, 5.0)
        assert again.start.at(*place) == pytest.approx(first.end.at(x, 5.0), abs=1e-4)
        assert first.start.at(x, 5.0) - again.start.at(*place) == pytest.approx(3.0, abs=0.011)
    lost = (first.start.z - first.end.z)[first.end.wood].sum()
    kept = (again.start.z.max() - again.start.z)[again.start.wood].sum()
    assert kept == pytest.approx(lost, rel=1e-3)  # all of it, and nothing else
    assert again.start.z[again.start.wood].max() == pytest.approx(first.start.z[first.start.wood].max())


@pytest.mark.parametrize("shape", ["oval", "round", "outline"])
@pytest.mark.parametrize("face", ["left", "right", "top", "bottom"])
def test_a_side_is_as_high_as_the_outline_makes_it(face, shape):
    blank = JOBS["plate"]().blank
    corners = ((0.0, 10.0), (60.0, 0.0), (120.0, 25.0), (110.0, 80.0), (20.0, 70.0))
    changes = {"shape": shape, "outline": corners if shape == "outline" else ()}
    blank = blank.model_copy(update={**changes, **({"width": 120.0} if shape == "round" else {})})
    lying = blank_turned(blank, Lay(face), 16.0)
    edge = polygon(blank)
    for h in lying.heights:
        x, y, _ = Matrix(turned(blank.length, blank.width, 16.0, Lay(face)).rows).inverse().array(
            np.array([[h.x, h.y, h.z]])
        )[0]  # fmt: skip
        assert edge.exterior.distance(shapely.Point(x, y)) < 1e-6
        beyond = np.array([x, y]) + 0.01 * np.array(OUT[face][:2])
        assert not edge.buffer(-1e-6).contains(shapely.Point(*beyond))
        far = shapely.LineString([beyond, np.array([x, y]) + 500.0 * np.array(OUT[face][:2])])
        assert edge.buffer(-0.01).intersection(far).is_empty  # nothing of it stands farther out


CUTS = st.lists(
    st.tuples(st.integers(0, 19), st.integers(0, 11), st.integers(1, 6), st.integers(1, 4), st.integers(1, 5)),
    min_size=1,
    max_size=5,
)


@given(st.sampled_from(list(itertools.permutations(FACES, 2))), CUTS, CUTS, st.sampled_from([0, 90, 180, 270]))
@settings(max_examples=tries(150))
def test_two_faces_meet_at_their_arris_where_wood_is_cut_away_from_both(pair, ones, others, spin):
    """Against a block of cubes: which of them both faces took."""
    if OPPOSITE[pair[0]] == pair[1]:
        return
    size, cell = (20, 12, 8), 0.5
    gone, faces = [], []
    for face, boxes, turn in ((pair[0], ones, 0), (pair[1], others, spin)):
        lie = Lay(face, turn)
        to = turned(*(n * cell for n in size), lie)
        field = board(to.size[0], to.size[1], cell, lambda x, y, to=to: np.full((len(y), len(x)), to.size[2]))
        z = field.z.copy()
        for i, j, wide, long, deep in boxes:
            rows, columns = z.shape
            z[j % rows : j % rows + long, i % columns : i % columns + wide] = to.size[2] - deep * cell
        after = type(field)(z, field.x0, field.y0, field.cell)
        matrix = Matrix(to.rows)
        faces.append(CutFace(face, face, matrix.then(shift(0, 0, 0)), field, after))
        middles = (np.stack(np.meshgrid(*map(np.arange, size), indexing="ij"), axis=-1).reshape(-1, 3) + 0.5) * cell
        there = matrix.array(middles)
        i, j = (np.rint((there[:, k] - c) / cell).astype(int) for k, c in ((0, field.x0), (1, field.y0)))
        gone.append(there[:, 2] > z[j, i])
    both = gone[0] & gone[1]
    met = meet(*faces)
    assert (met is not None) == bool(both.any())
    if met is not None:
        along = 3 - sum(k for k in range(3) if OUT[pair[0]][k] or OUT[pair[1]][k])
        where = middles[both][:, along]
        assert met.long == pytest.approx(np.ptp(where) + cell, abs=1e-6)


def test_faces_that_meet_are_told_with_their_place():
    job = bare()
    job = edited(
        job,
        ("add operation", {"setup": "front", "kind": "dimple", "id": "one", "x0": 7.0, "x1": 7.0, "y": 40.0, "depth": 6.0, "tool": 2}),
        ("copy setup", {"setup": "front", "id": "end"}), ("set setup", {"setup": "end", "up": "left"}),
    )  # fmt: skip
    job = edited(job, *[("remove operation", {"operation": o.id}) for o in job.setup("end").operations])
    row = {"setup": "end", "kind": "dimple", "id": "two", "x0": 13.0, "x1": 13.0, "y": 40.0, "tool": 2}
    for depth, told in ((3.0, False), (5.0, True)):
        said = plan(edited(job, ("add operation", {**row, "depth": depth})), cell=CELL, kinds=KINDS).findings
        found = [f for f in said if f.code == "wood.arris"]
        assert bool(found) == told
        assert not found or ("front face" in found[0].message and "left end" in found[0].message)


def test_artwork_stands_where_its_face_is_read_however_the_board_lies():
    """Lettering on the back, the board turned over about X, about Y, or by a quarter besides: the same letters in the same wood."""
    base = edited(JOBS["strapped"](), ("set art", {"art": "lettering", "face": "back", "x": 50.0, "y": 30.0}))
    seen = []
    for spin in (0, 90, 180, 270):
        done = plan(laid(base, Lay("back", spin)), cell=CELL, memory=MEMORY)
        setup = done.setup("front")
        points = setup.blank_to_work.inverse().array(setup.programs[0].moves.points)
        feeds = ~setup.programs[0].moves.rapid
        cuts = points[1:][feeds]
        cuts = cuts[cuts[:, 2] > 0.0]
        assert (np.round(cuts[:, 0].max() + cuts[:, 0].min(), 0), np.round(cuts[:, 1].mean(), -1)) == pytest.approx(
            (2 * (base.blank.length - 50.0), 30.0), abs=3.0
        )
        seen.append(cuts)
        letters = done.made["lettering"].letters
        outline = setup.face_to_bed.area(letters[0].outline())
        assert (
            outline.centroid.distance(
                shapely.Point(*setup.placed.work_to_bed.xy(*setup.programs[0].moves.points[2, :2]))
            )
            < 40
        )
    for other in seen[1:]:
        assert np.abs(seen[0] - other).max() < 3e-3


def test_artwork_on_a_face_that_is_not_up_is_not_cut_and_can_be_put_there():
    job = laid(JOBS["strapped"](), Lay("back"))
    done = plan(job, cell=CELL, memory=MEMORY, coarse=True)
    found = [f for f in done.stops if f.code == "carve.other-face"]
    assert [f.about for f in found] == ["lettering"] and not done.setup("front").programs
    assert "front face" in found[0].message and "back face" in found[0].message
    after = edited(job, (found[0].fixes[0].kind, found[0].fixes[0].values))
    again = plan(after, cell=CELL, memory=MEMORY, coarse=True)
    assert not [f for f in again.stops if f.code == "carve.other-face"] and again.setup("front").programs


def test_new_artwork_stands_in_the_middle_of_the_face_that_is_up():
    job = laid(bare(), Lay("left", 90))
    job = edited(job, ("set plate", {"setup": "front"}))
    art = next(a for a in job.artwork if a.kind == "plate")
    thick = job.blank.label_thickness
    assert (art.face, art.x, art.y) == ("left", thick / 2, job.blank.width / 2)
    assert (art.figures.width, art.figures.height) == pytest.approx((0.8 * thick, 0.8 * job.blank.width))


def test_a_side_is_not_made_flat_and_the_way_out_is_offered():
    job = laid(bare(), Lay("left"))
    job = edited(job, ("add operation", {"setup": "front", "kind": "surface", "id": "flat", "wanted": "yes"}))
    found = [f for f in plan(job, coarse=True).stops if f.code == "surface.side"]
    assert len(found) == 1 and "left end" in found[0].message
    after = edited(job, (found[0].fixes[0].kind, found[0].fixes[0].values))
    assert not [f for f in plan(after, coarse=True).findings if f.code == "surface.side"]


def test_each_turn_is_a_step_that_says_what_is_up_and_what_looks_where():
    job = edited(laid(bare(), Lay("top")), ("add operation", {"setup": "front", "kind": "dimple", "id": "dot"}))
    said = next(s for s in plan(job, cell=CELL, kinds=KINDS).setup("front").steps if s.key == "turn")
    assert (
        said.title == "Stand the board on its bottom edge: top edge up, front face towards you, right end to the right."
    )
    assert "narrow" in said.detail and said.caution


def test_a_face_is_made_flat_once_more_from_where_it_was_cut_to_and_by_its_own_figures():
    job = edited(
        JOBS["slab"](), ("copy setup", {"setup": "surface", "id": "again"}), ("order setups", {"order": ("surface", "again", "front")})
    )  # fmt: skip
    again = job.setup("again").operations[0].id
    assert plan(job, cell=CELL).setup("again") is None  # asked whether it needs it once more, it does not
    job = edited(job, ("set surfacing", {"operation": again, "wanted": "yes", "cleanup": 0.7, "limit": 0.4}))
    done = plan(job, cell=CELL)
    first, second, last = (done.setup(n) for n in ("surface", "again", "front"))
    plane = float(first.end.z[first.end.wood].max())
    assert np.ptp(second.start.z[second.start.wood]) < 0.01 and second.start.z.max() == pytest.approx(plane, abs=0.01)
    deep = np.array([plane - z for z, _ in second.surfaced.lines])
    assert deep[-1] == pytest.approx(0.7, abs=0.011) and np.diff([0.0, *deep]).max() <= 0.4 + 1e-6
    assert second.end.z[second.end.wood].max() == pytest.approx(plane - 0.7, abs=0.011)
    assert last.start.z.max() == pytest.approx(plane - 0.7, abs=0.011) and last.zero_height < first.zero_height
    assert not [f for f in done.findings if f.code == "wood.left"]


def test_a_face_must_be_as_flat_as_what_is_made_on_it_asks_not_as_what_is_on_another():
    fine = edited(JOBS["slab"](), ("scale lettering", {"factor": 0.4}))
    coarse = plan(JOBS["slab"](), coarse=True).surfaced.flatness
    finer = plan(fine, coarse=True).surfaced.flatness
    assert finer.allowed.result < 0.6 * coarse.allowed.result
    away = edited(fine, ("set art", {"art": "lettering", "face": "left", "x": 5.0, "y": 40.0}))
    assert plan(away, coarse=True).surfaced.flatness is None


@pytest.mark.parametrize("spin", [0, 180])
def test_what_the_design_uses_of_a_back_is_where_its_artwork_stands(spin):
    job = edited(
        JOBS["slab"](), ("set second face", {"turn": "about Y" if spin else "about X"}),
        ("add art", {"id": "mark", "kind": "plate", "face": "back", "x": 30.0, "y": 25.0, "width": 20.0, "height": 16.0}),
        ("add setup", {"id": "out", "up": "back", "spin": spin}),
        ("add operation", {"setup": "out", "kind": "cutout", "id": "out-1", "on": ("mark",), "tool": 2}),
        ("set surfacing", {"operation": job_surfacing(JOBS["slab"](), spin), "area": "used"}),
    )  # fmt: skip
    back = plan(job, cell=CELL, coarse=True).setup("back")
    where = back.surfaced.lines[-1][1]
    x, y = np.concatenate([line[:, 0] for line in where]), np.concatenate([line[:, 1] for line in where])
    middle = back.pose.xy(30.0, 25.0)
    assert ((x.min() + x.max()) / 2, (y.min() + y.max()) / 2) == pytest.approx(middle, abs=12.0)
    assert np.ptp(y) < 0.75 * back.blank.width


def job_surfacing(job, spin):
    """The id of the second face's surfacing once there is one."""
    after = edited(job, ("set second face", {"turn": "about Y" if spin else "about X"}))
    return after.setup("back").operations[0].id


def test_a_front_cut_once_more_leaves_the_back_thinner_by_as_much():
    job = edited(
        JOBS["slab"](), ("set second face", {"turn": "about X"}), ("copy setup", {"setup": "surface", "id": "again"}),
        ("order setups", {"order": ("surface", "back", "again", "front")}),
    )  # fmt: skip
    job = edited(
        job, ("set surfacing", {"operation": job.setup("again").operations[0].id, "wanted": "yes", "cleanup": 0.8})
    )
    job = edited(
        job,
        ("add setup", {"id": "mark", "up": "back"}),
        ("add operation", {"setup": "mark", "kind": "dimple", "tool": 2}),
    )
    done = plan(job, cell=CELL, kinds=KINDS)
    thick = [float(done.setup(n).start.z.max()) for n in ("front", "mark")]
    assert thick[0] == pytest.approx(thick[1], abs=1e-3)  # as thick whichever face is up
    assert float(done.setup("again").start.z.max()) - thick[0] == pytest.approx(0.8, abs=0.011)
