# SPDX-License-Identifier: GPL-3.0-or-later
"""Cut lists and batches."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from gatepost.core.blank import cutlist
from gatepost.core.blank.batch import batched, fewest_groups, lying
from gatepost.core.blank.batch import table as batch_table
from gatepost.core.findings import Level
from gatepost.core.job.blank import Batch, Blank, Piece, SawCut, Stock
from tests.core.told_of import codes

# -- the cut list ---------------------------------------------------------------------------------------------


@given(
    st.tuples(st.floats(300, 2000), st.floats(100, 600), st.floats(20, 80)),
    st.lists(st.tuples(st.integers(0, 2), st.floats(0.3, 0.99)), max_size=6),
    st.floats(0, 6),
)
def test_blank_offcuts_and_dust_are_all_of_the_stock(size, cuts, kerf):
    now, steps, dust = list(size), [], 0.0
    for axis, share in cuts:
        steps.append(SawCut(size=cutlist.SIZES[axis], to=now[axis] * share))
        off = now[axis] * (1 - share)
        if off > kerf + 0.06:
            dust += kerf * np.prod([v for i, v in enumerate(now) if i != axis])
            now[axis] *= share
        elif off > 0.05 and off < kerf - 0.06:
            steps.pop()
        else:
            return  # to the last hair's breadth: either is right
    blank = Blank(stock=Stock(length=size[0], width=size[1], thickness=size[2], kerf=kerf), saw_cuts=tuple(steps))
    done = cutlist.steps(blank)
    assert all(not s.wrong for s in done)
    last = done[-1].after if done else size
    assert last == pytest.approx(now)
    offcuts = sum(s.offcut.length * s.offcut.width * s.offcut.thickness for s in done)
    assert np.prod(last) + offcuts + dust == pytest.approx(np.prod(size), rel=1e-9)


def test_steps_that_can_t_be_sawn_are_named():
    stock = Stock(length=1000, width=300, thickness=40, kerf=3)
    blank = Blank(
        length=600,
        width=200,
        label_thickness=40,
        stock=stock,
        saw_cuts=(SawCut(size="width", to=320), SawCut(size="width", to=298)),
    )
    said = [f.message for f in cutlist.findings(blank)]
    assert len(said) == 2 and "Step 1" in said[0] and "kerf" in said[1]
    short = blank.model_copy(update={"saw_cuts": (SawCut(size="length", to=600, keep="shelf"),)})
    assert codes(cutlist.findings(short))["blank.cut-list-size"].level is Level.CARE
    whole = blank.model_copy(update={"saw_cuts": (*short.saw_cuts, SawCut(size="width", to=200))})
    assert codes(cutlist.findings(whole))["blank.cut-list-sound"].level is Level.OK
    assert cutlist.keeping(whole) == [("shelf", cutlist.Offcut(397, 300, 40))]


# -- batches --------------------------------------------------------------------------------------------------


def partitions(items):
    """Every way to part a list."""
    if not items:
        yield []
        return
    first, *rest = items
    for parts in partitions(rest):
        yield [[first], *parts]
        for i in range(len(parts)):
            yield [*parts[:i], [first, *parts[i]], *parts[i + 1 :]]


@given(st.lists(st.floats(10, 14).map(lambda v: round(v, 2)), min_size=1, max_size=7), st.floats(0.05, 2))
def test_the_fewest_groups_are_the_best_of_every_way_to_part_them(heights, tolerance):
    groups = fewest_groups(heights, tolerance)
    assert sorted(i for g in groups for i in g.members) == list(range(len(heights)))
    spreads = [max(heights[i] for i in g.members) - min(heights[i] for i in g.members) for g in groups]
    assert all(s <= tolerance + 1e-9 for s in spreads)
    best = min(
        (len(parts), round(sum(max(p) - min(p) for p in parts), 9))
        for parts in partitions(heights)
        if all(max(p) - min(p) <= tolerance + 1e-9 for p in parts)
    )
    assert (len(groups), pytest.approx(sum(spreads), abs=1e-6)) == best


@given(st.tuples(*[st.floats(20, 60)] * 3), st.floats(20, 60), st.floats(20, 60), st.booleans())
def test_a_piece_lies_in_the_nest_the_way_that_suits_best(sizes, long, wide, any_face):
    piece = Piece(name="a", length=sizes[0], width=sizes[1], thickness=sizes[2])
    found = lying(piece, Batch(nest_length=long, nest_width=wide, any_face=any_face))
    assert sorted((found.length, found.width, found.height)) == sorted(sizes)
    batch = Batch(nest_length=long, nest_width=wide, any_face=any_face)
    as_listed = (long - sizes[0], wide - sizes[1])
    ways = [(0, 1, 2), (0, 2, 1), (1, 0, 2), (1, 2, 0), (2, 0, 1), (2, 1, 0)] if any_face else []
    plays = [(long - sizes[a], wide - sizes[b]) for a, b, _ in ways]
    suited = [p for p in plays if all(0 <= v <= batch.play for v in p)]
    assert found.play == pytest.approx(min(suited, key=sum, default=as_listed))
    if not suited and min(as_listed) < 0:
        assert not found.fits  # however it may be turned: stood on its end it would hide that it is too long


def test_a_piece_that_is_too_long_is_not_hidden_by_standing_it_on_its_end():
    plates = [("a", 140.0, 90.0, 14.0), ("long", 151.0, 90.0, 14.0)]
    cubes = [("b", 60.0, 60.0, 60.9), ("c", 60.9, 60.0, 60.0)]
    for rows, (long, wide), fits in ((plates, (140.5, 90.4), [True, False]), (cubes, (60.2, 60.2), [True, True])):
        pieces = tuple(Piece(name=n, length=a, width=b, thickness=c) for n, a, b, c in rows)
        batch = Batch(pieces=pieces, nest_length=long, nest_width=wide, play=0.6, any_face=True)
        done = batched(batch)
        assert [w.fits for w in done.lying] == fits
        heads, *told = batch_table(batch, done)[1]
        assert [r[0] for r in told] == [n for n, *_ in rows] and len({len(r) for r in (heads, *told)}) == 1


def test_what_each_choice_costs():
    rows = [("a", 100, 50, 12.0), ("b", 101, 50.5, 12.4), ("c", 100, 50, 12.1)]
    batch = Batch(pieces=tuple(Piece(name=n, length=a, width=b, thickness=c) for n, a, b, c in rows), allowance=0.5, nest_length=100.4, nest_width=50.6)  # fmt: skip
    done = batched(batch)
    assert done.trim == pytest.approx((99.5, 49.5, 11.5))
    assert done.wood == pytest.approx(sum(a * b * c for _, a, b, c in rows) - 3 * 99.5 * 49.5 * 11.5)
    assert [g.members for g in done.groups] == [(0, 2), (1,)]
    low = done.groups[0].low
    assert low <= 12.0 and done.group_wood == pytest.approx(
        100 * 50 * ((12.0 - low) + (12.1 - low)) + 101 * 50.5 * (12.4 - done.groups[1].low)
    )
    assert [w.fits for w in done.lying] == [True, False, True]
    assert batched(Batch()) is None
