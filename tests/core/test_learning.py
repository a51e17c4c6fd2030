# SPDX-License-Identifier: GPL-3.0-or-later
"""A made-up year of shop rows, drawn from known factors: they are found again within what is said of them."""

import math

import numpy as np
import pytest

from gatepost.core.run.learning import CutTaken, factor_of, taken_of

TRUE = {"surface": 1.12, "vcut": 1.31, "cutout": 0.94, "relief": 1.55}  # by kind
SPREAD = 0.12  # of one cut, of its logarithm
WOODS = {"oak": 1.06, "pine": 0.97}


def a_year(seed, spread=SPREAD):
    rng = np.random.default_rng(seed)
    out = []
    for kind, factor in TRUE.items():
        for _ in range(60):
            wood = str(rng.choice(list(WOODS)))
            planned = float(rng.uniform(0.5, 40.0))
            out.append(
                CutTaken(
                    "shop",
                    kind,
                    "6 mm end mill",
                    wood,
                    planned,
                    planned * factor * WOODS[wood] * math.exp(rng.normal(0, spread)),
                )
            )
    return out


@pytest.mark.parametrize("seed", range(8))
def test_a_factor_is_found_within_its_own_spread_and_says_no_more_than_twice_the_true_one(seed):
    year = a_year(seed)
    found = 0
    for kind, factor in TRUE.items():
        for wood, more in WOODS.items():
            learned = factor_of(year, kind, "6 mm end mill", wood)
            off = abs(math.log(learned.factor / (factor * more)))
            assert off <= math.log(learned.spread)  # within the spread of one cut, always
            found += off <= math.log(learned.within)  # within that of the factor itself, in 95 of 100
            assert math.log(learned.spread) <= 2 * SPREAD and learned.count > 15 and f"in {wood}" in learned.told_of
    assert found >= 6  # of eight


def test_of_all_years_together_95_of_100_lie_within():
    inside = [
        abs(math.log(factor_of(a_year(seed), kind, "6 mm end mill", wood).factor / (TRUE[kind] * WOODS[wood])))
        <= math.log(factor_of(a_year(seed), kind, "6 mm end mill", wood).within)
        for seed in range(40) for kind in ("surface", "relief") for wood in WOODS
    ]  # fmt: skip
    assert 0.90 <= np.mean(inside) <= 0.99


def test_simulated_rows_change_nothing_and_neither_do_moments():
    year = a_year(3)
    rng = np.random.default_rng(4)
    more = [CutTaken("simulated", c.kind, c.tool, c.wood, c.planned, c.planned * 3) for c in year]
    more += [CutTaken("simulated, seed 4", c.kind, c.tool, c.wood, c.planned, c.planned * 2) for c in year]
    more += [CutTaken("shop", c.kind, c.tool, c.wood, 0.01, float(rng.uniform(0.1, 5))) for c in year]
    for kind in TRUE:
        assert factor_of([*year, *more], kind, "6 mm end mill", "oak") == factor_of(year, kind, "6 mm end mill", "oak")


def test_what_is_too_seldom_is_told_of_what_is_like_it_and_of_nothing_never():
    year = a_year(5)
    assert factor_of(year, "vcut", "6 mm end mill", "elm").told_of == "of vcut by 6 mm end mill"
    assert factor_of(year, "vcut", "another", "oak").told_of == "of vcut in oak"
    assert factor_of(year, "vcut", "another", "elm").told_of == "of vcut"
    assert factor_of(year, "gouge", "6 mm end mill", "oak") is None
    assert factor_of(year[:2], "surface", "6 mm end mill", "oak") is None


def test_rows_that_were_spoilt_are_left_out():
    rows = [
        {"kind": "vcut", "planned": 2.0, "real": 3.0},
        {"kind": "vcut", "planned": 2.0},
        "x",
        None,
        {"planned": True, "real": 1},
        {"planned": float("nan"), "real": 1},
        {"planned": -1, "real": 1},
    ]
    assert taken_of("shop", "T", "oak", rows) == [CutTaken("shop", "vcut", "T", "oak", 2.0, 3.0)]
