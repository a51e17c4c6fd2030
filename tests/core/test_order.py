# SPDX-License-Identifier: GPL-3.0-or-later

import itertools
import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from gatepost.core.tools.order import Prices, Task, best_order, broken_rule, cost, least_changes
from tests.conftest import tries

NAMES = "abcdefgh"
spot = st.tuples(st.floats(0, 900), st.floats(0, 500))


@st.composite
def cuts(draw, most):
    """Cuts of one or two setups, some of which must come before others."""
    raw = draw(
        st.lists(
            st.tuples(st.integers(0, 1), st.integers(1, 3), st.floats(0.5, 20), spot, spot), min_size=1, max_size=most
        )
    )
    pairs = draw(st.sets(st.tuples(st.sampled_from(NAMES[:most]), st.sampled_from(NAMES[:most])), max_size=5))
    first = {b: tuple(a for a, c in pairs if c == b and a < b and NAMES.index(a) < len(raw)) for b in NAMES}
    return [Task(NAMES[i], s, t, m, first[NAMES[i]], p, q) for i, (s, t, m, p, q) in enumerate(sorted(raw))]


def plainly(tasks, names, change, rapid):
    """Minutes, summed by hand."""
    row = [next(t for t in tasks if t.name == n) for n in names]
    minutes = sum(t.minutes for t in row)
    for a, b in zip(row, row[1:]):
        if a.tool != b.tool:
            minutes += change
        elif rapid and a.setup == b.setup:
            minutes += math.hypot(a.ends[0] - b.begins[0], a.ends[1] - b.begins[1]) / rapid
    return minutes


def held_against_all(tasks, prices):
    allowed = [p for p in itertools.permutations([t.name for t in tasks]) if not broken_rule(tasks, p)]
    best = best_order(tasks, prices)
    assert not broken_rule(tasks, best.names) and best.sure
    assert best.minutes == pytest.approx(min(plainly(tasks, p, prices.change, prices.rapid) for p in allowed))
    assert best.changes >= best.least == least_changes(tasks)
    assert min(cost(tasks, p, prices).changes for p in allowed) >= best.least


@given(cuts(5), st.floats(0, 9), st.sampled_from([0.0, 300.0, 8000.0]))
@settings(max_examples=tries(90))
def test_the_order_is_the_best_of_all_that_keep_the_rules(tasks, change, rapid):
    held_against_all(tasks, Prices(change, rapid))


@given(cuts(8), st.floats(0.1, 9))
@settings(max_examples=tries(12), deadline=None)
def test_of_eight_cuts_too(tasks, change):
    held_against_all(tasks, Prices(change, 2000.0))


def many(rng, count, tools):
    """Cuts of one setup by so many tools, each third of which follows an earlier one."""
    out = []
    for i in range(count):
        after = (f"c{rng.integers(0, i)}",) if i and rng.random() < 0.33 else ()
        at = tuple(map(float, rng.uniform(0, 800, 4)))
        out.append(Task(f"c{i}", 0, int(rng.integers(1, tools + 1)), float(rng.uniform(0.5, 9)), after, at[:2], at[2:]))
    return out


@pytest.mark.parametrize("seed", range(6))
def test_many_cuts_keep_the_rules_and_come_near_what_every_order_wants(seed):
    """The quick way of larger setups, on cuts that can also be weighed: as few changes, and no more than a few seconds of ways more."""
    from gatepost.core.tools import order

    rng = np.random.default_rng(seed)
    forty = many(rng, 40, 6)
    long = best_order(forty, Prices(5.5, 8000.0))
    assert not broken_rule(forty, long.names) and not long.sure and long.changes >= long.least
    nine = many(rng, 9, 3)
    prices = Prices(5.5, 8000.0)
    known = {t.name: t for t in nine}
    (_, names), exact = min(order._quickly(nine, known, {"": (0.0, ())}, prices).values()), best_order(nine, prices)
    assert sorted(names) == sorted(known) and not broken_rule(nine, names)
    assert cost(nine, names, prices).changes == exact.changes
    assert exact.minutes <= cost(nine, names, prices).minutes <= exact.minutes + 0.5


def test_one_tool_already_fitted_wins_over_a_change():
    """A small cutter that is in the spindle may clear what a larger one would clear faster."""
    small = [Task("letters", 0, 1, 5.0), Task("ground", 0, 1, 9.0), Task("outline", 0, 1, 6.0)]
    large = [Task("letters", 0, 1, 5.0), Task("ground", 0, 2, 5.0), Task("outline", 0, 1, 6.0)]
    prices = Prices(5.5)
    assert best_order(small, prices).minutes == 20.0
    assert best_order(large, prices).minutes == 16.0 + 5.5  # once there and not back: the ground comes last or first
