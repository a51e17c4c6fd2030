# SPDX-License-Identifier: GPL-3.0-or-later
"""Suggested places against trying every choice."""

import itertools

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st
from shapely import affinity
from shapely.geometry import box

from gatepost.core.errors import Cancelled, OperatorError
from gatepost.core.hold import nest as nests
from gatepost.core.hold.solids import nest_opening, nest_solids
from gatepost.core.hold.suggest import Candidate, choose, clashes, longest
from gatepost.core.job.hold import EdgeClamp
from gatepost.core.job.machine import Nest
from gatepost.core.job.tool_table import shipped_tools
from gatepost.core.wood.field import Cutter, cut, rectangle
from tests.conftest import tries

AROUND = 1000.0


def candidate(along, kept, wide, off):
    hold = EdgeClamp(name="C1", x=0, y=0)
    # the edge bent into a line: bodies of unlike width, some shifted so that they stand in the way of others than their neighbours
    return Candidate(hold, along, kept, box(along + off - wide / 2, 0, along + off + wide / 2, 10))


one = st.tuples(st.floats(0, 999), st.booleans(), st.floats(5, 160), st.sampled_from([0.0, 0.0, 0.0, 120.0, -90.0]))


def told_span(chosen):
    """The longest span in whole thousandths of a millimetre: places are told apart to that, so that ties are ties."""
    along = sorted(round(c.along * 1000) for c in chosen)
    return max(b - a for a, b in zip(along, [*along[1:], along[0] + round(AROUND * 1000)]))


def every_choice(found, count):
    """The least (longest span, moved) over all choices whose holds are out of each other's way."""
    clash = clashes(found)
    best = None
    for picked in itertools.combinations(range(len(found)), count):
        if any(clash[a, b] for a, b in itertools.combinations(picked, 2)):
            continue
        told = (told_span([found[i] for i in picked]), sum(not found[i].kept for i in picked))
        best = told if best is None else min(best, told)
    return best


@given(st.lists(one, min_size=2, max_size=11), st.integers(2, 5))
@settings(max_examples=tries(120), deadline=None)
def test_the_choice_is_the_best_of_all(rows, count):
    found = sorted((candidate(*row) for row in rows), key=lambda c: (c.along, not c.kept))
    picked = choose(found, AROUND, count)
    best = every_choice(found, count)
    if best is None:
        assert picked is None
        return
    chosen = [found[i] for i in picked]
    assert len(set(picked)) == count
    assert not any(clashes(found)[a, b] for a, b in itertools.combinations(picked, 2))
    assert (told_span(chosen), sum(not c.kept for c in chosen)) == best
    assert longest(chosen, AROUND) == pytest.approx(best[0] / 1000)


def test_places_nearly_alike_are_a_tie_and_a_tie_goes_to_what_stands_there_already():
    """Spans that differ by less than a micrometre: the one with fewer moved wins, not the one shorter by rounding."""
    for off in (0.0, 6e-8, -6e-8, 3e-7):
        rows = [(0.0, True, 5.0, 0.0), (500.0 + off, True, 5.0, 0.0), (500.0, False, 5.0, 0.0), (250.0, True, 5.0, 0.0)]
        found = sorted((candidate(*row) for row in rows), key=lambda c: (c.along, not c.kept))
        picked = choose(found, AROUND, 2)
        assert all(found[i].kept for i in picked) and longest([found[i] for i in picked], AROUND) == 500.0


def test_a_search_called_off_ends_at_once():
    found = [candidate(float(a), False, 5.0, 0.0) for a in np.arange(0, 990, 20)]
    with pytest.raises(Cancelled):
        choose(found, AROUND, 4, lambda share: False)
    told = []
    assert choose(found, AROUND, 4, lambda share: told.append(share) or True) is not None
    assert told == sorted(told) and 0.8 <= told[0] <= told[-1] <= 1.0


@given(
    st.floats(60, 300), st.floats(50, 200), st.floats(0, 1), st.sampled_from(["front left", "back right", "back left"]),
    st.floats(3.0, 5.0),
)  # fmt: skip
@settings(max_examples=tries(12), deadline=None)
def test_a_nest_is_cleared_and_takes_a_square_blank_with_its_play_and_no_more(long, wide, play, corner, relief):
    nest = Nest(
        name="N", x=400, y=300, heading=30, length=long, width=wide, height=9, play=play, corner=corner, relief=relief
    )
    tool = next(t for t in shipped_tools() if t.kind == "flat" and t.diameter <= 6)
    hole, blank = nests.opening(nest), nests.blank_in(nest)
    assert hole.buffer(1e-6).contains(blank)
    x0, y0, _, _ = blank.bounds
    for dx, dy in ((play + 0.01, 0), (0, play + 0.01)):  # it rattles by the play and not by more
        shoved = affinity.translate(blank, dx if "left" in corner else -dx, dy if "front" in corner else -dy)
        assert shoved.difference(hole).area > 0
    x0, y0, x1, y1 = (round(v) for v in hole.buffer(12).bounds)
    field = rectangle(x1 - x0, y1 - y0, 0.5, lambda x, y: np.full_like(x, 9.0)).moved(x0, y0, 0.0)
    moves = nests.moves(nest, tool)
    after = cut(field, moves, Cutter("flat", tool.diameter)).after
    low = after.z <= 0.0
    jj, ii = np.nonzero(low)
    cleared = shapely.contains_xy(hole.buffer(0.36), field.x0 + ii * 0.5, field.y0 + jj * 0.5)
    assert cleared.all()  # nothing outside is cut
    jj, ii = np.nonzero(~low)
    inner = hole.buffer(-0.36)
    assert not shapely.contains_xy(inner, field.x0 + ii * 0.5, field.y0 + jj * 0.5).any()  # and nothing stays inside
    walls = nest_solids(nest, "N1")
    whole = shapely.union_all([w.outline for w in walls])
    assert all(not w.outline.interiors for w in walls) and whole.intersection(nest_opening(nest)).area < 1e-6
    assert whole.area == pytest.approx((long + 60) * (wide + 60) - nest_opening(nest).area, rel=0.15)


def test_a_nest_that_can_t_be_cut_is_refused_in_a_sentence():
    nest = Nest(name="N", x=0, y=0, length=80, width=60, relief=1.0)
    tools = shipped_tools()
    for tool in (next(t for t in tools if t.kind == "vee"), next(t for t in tools if t.kind == "flat")):
        with pytest.raises(OperatorError):
            nests.moves(nest, tool)
    assert nests.moves(nest.model_copy(update={"relief": 4.0}), tools[1]) is not None
