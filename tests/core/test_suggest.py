# SPDX-License-Identifier: GPL-3.0-or-later
"""Suggested places against trying every choice."""

import itertools

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from shapely.geometry import box

from gatepost.core.errors import Cancelled
from gatepost.core.hold.suggest import Candidate, choose, clashes, longest
from gatepost.core.job.model import Hold

AROUND = 1000.0


def candidate(along, kept, wide, off):
    hold = Hold(name="C1", kind="edge", x=0, y=0)
    # the edge bent into a line: bodies of unlike width, some shifted so that they stand in the way of others than their neighbours
    return Candidate(hold, along, kept, box(along + off - wide / 2, 0, along + off + wide / 2, 10))


one = st.tuples(st.floats(0, 999), st.booleans(), st.floats(5, 160), st.sampled_from([0.0, 0.0, 0.0, 120.0, -90.0]))


def every_choice(found, count):
    """The least (longest span, moved) over all choices whose holds are out of each other's way."""
    clash = clashes(found)
    best = None
    for picked in itertools.combinations(range(len(found)), count):
        if any(clash[a, b] for a, b in itertools.combinations(picked, 2)):
            continue
        chosen = [found[i] for i in picked]
        told = (round(longest(chosen, AROUND), 6), sum(not c.kept for c in chosen))
        best = told if best is None else min(best, told)
    return best


@given(st.lists(one, min_size=2, max_size=11), st.integers(2, 5))
@settings(max_examples=120, deadline=None)
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
    assert (round(longest(chosen, AROUND), 6), sum(not c.kept for c in chosen)) == pytest.approx(best, abs=2e-6)


def test_a_search_called_off_ends_at_once():
    found = [candidate(float(a), False, 5.0, 0.0) for a in np.arange(0, 990, 20)]
    with pytest.raises(Cancelled):
        choose(found, AROUND, 4, lambda share: False)
    told = []
    assert choose(found, AROUND, 4, lambda share: told.append(share) or True) is not None
    assert told == sorted(told) and 0.8 <= told[0] <= told[-1] <= 1.0
