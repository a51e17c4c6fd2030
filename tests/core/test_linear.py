# SPDX-License-Identifier: GPL-3.0-or-later
"""Linear programmes against every corner of what they allow."""

from __future__ import annotations

import itertools

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.sparse import csr_array

from gatepost.core.linear import least


def _by_corners(cost: np.ndarray, rows: np.ndarray, limits: np.ndarray) -> float | None:
    """The least cost at any corner where two limits meet; what is allowed is bounded here."""
    costs = []
    for two in itertools.combinations(range(len(rows)), 2):
        meeting = rows[list(two)]
        if abs(np.linalg.det(meeting)) > 1e-9:
            corner = np.linalg.solve(meeting, limits[list(two)])
            if (rows @ corner <= limits + 1e-9).all():
                costs.append(float(cost @ corner))
    return min(costs, default=None)


@given(st.integers(0, 10**6), st.integers(0, 8))
def test_the_least_is_the_least_of_all_corners_and_a_sparse_programme_is_the_same(seed, count):
    chance = np.random.default_rng(seed)
    low, high = -chance.uniform(0, 3, 2), chance.uniform(0, 3, 2)
    rows, limits = chance.normal(size=(count, 2)), chance.normal(0.3, 1, count)
    cost = chance.normal(size=2)
    everything = np.vstack([rows, np.eye(2), -np.eye(2)]), np.concatenate([limits, high, -low])
    expected = _by_corners(cost, *everything)
    found = least(cost, rows, limits, list(zip(low, high)))
    sparse = least(cost, csr_array(rows), limits, list(zip(low, high)))
    if expected is None:
        assert found is None and sparse is None
        return
    assert found is not None and sparse is not None
    assert found.cost == pytest.approx(expected, abs=1e-6) == float(cost @ found.x)
    assert (everything[0] @ found.x <= everything[1] + 1e-6).all()
    assert sparse.cost == found.cost and (sparse.x == found.x).all()


def test_without_an_end_there_is_no_least_and_nothing_is_written(capfd):
    assert least([1.0, 0.0], np.array([[0.0, 1.0]]), np.array([1.0]), [(None, None), (0, None)]) is None
    assert least([1.0], np.array([[1.0], [-1.0]]), np.array([1.0, -2.0]), [(None, None)]) is None
    assert capfd.readouterr() == ("", "")
