# SPDX-License-Identifier: GPL-3.0-or-later
"""The simulated machine's wood, turned any way: against a block of cubes, and against what the plan says lies there."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from gatepost.core.job.turning import FACES, FLAT, Lay, relative
from gatepost.machine.standins.messages import BadMessage, ways_of
from gatepost.machine.standins.wood import BedWood
from gatepost.machine.standins.world import OFF, World
from tests.conftest import tries

CELL, SIZE = 0.5, (24, 16, 10)

LAYS = st.builds(Lay, st.sampled_from(list(FACES)), st.sampled_from([0, 90, 180, 270]))


def cubes_seen(cubes, lie):
    """Heights of a block of cubes as it lies on its lowest, over the bed's X and Y; nothing where there is none."""
    axes = [int(np.flatnonzero(way)[0]) for way in lie.ways]
    block = np.transpose(cubes, axes)
    for axis, way in enumerate(lie.ways):
        block = np.flip(block, axis) if sum(way) < 0 else block
    some = block.any(axis=2)
    top = (block.shape[2] - np.argmax(block[:, :, ::-1], axis=2)) * CELL
    return np.where(some, top - np.flatnonzero(block.any(axis=(0, 1)))[0] * CELL, np.nan)


@given(st.integers(1, 15), st.integers(1, 23), st.integers(0, 9), st.lists(LAYS, min_size=1, max_size=4))
@settings(max_examples=tries(120))
def test_turned_any_way_it_lies_as_a_block_of_cubes_would(j, i, low, lies):
    """A block with one corner lower, or gone."""
    z = np.full(SIZE[1::-1], SIZE[2] * CELL, np.float32)
    z[j:, i:] = low * CELL if low else -1e9
    cubes = (np.arange(SIZE[2]) + 0.5) * CELL < z.T[:, :, None]
    wood, before = BedWood(z, 100.0 + CELL / 2, 50.0 + CELL / 2, CELL), FLAT
    for lie in lies:
        wood.turn(np.array(relative(before, lie)))
        before, seen = lie, cubes_seen(cubes, lie)
        got = np.where(wood.z > -1e8, wood.z, np.nan).T
        assert got.shape == seen.shape and np.allclose(got, seen, equal_nan=True)
        first = [np.flatnonzero((~np.isnan(seen)).any(axis=a))[0] for a in (1, 0)]
        at = (wood.x0 + (first[0] - 0.5) * CELL, wood.y0 + (first[1] - 0.5) * CELL)
        if lie.up not in ("front", "back"):  # the corner of its wood lies where its corner lay
            assert at == pytest.approx((100.0, 50.0))
        assert wood.outline.min(axis=0) == pytest.approx((100.0, 50.0))


@given(st.lists(LAYS, min_size=1, max_size=5), st.randoms(use_true_random=False))
@settings(max_examples=tries(60))
def test_what_is_cut_on_a_face_is_there_when_it_is_up_again(lies, chance):
    wood, before = BedWood(np.full(SIZE[1::-1], 5.0, np.float32), CELL / 2, CELL / 2, CELL), FLAT
    cut = {}
    for lie in [*lies, *lies[::-1], FLAT]:
        wood.turn(np.array(relative(before, lie)))
        before = lie
        for there in (k for k in cut if k[0] == lie.up):
            right, back, _ = lie.ways
            i, j = (
                cell if sum(way) > 0 else count - 1 - cell
                for way, cell, count in zip(
                    (right, back),
                    (there[1][np.flatnonzero(right)[0]], there[1][np.flatnonzero(back)[0]]),
                    wood.z.T.shape,
                )
            )
            assert wood.z[j, i] == pytest.approx(cut[there], abs=1e-4)
        j, i = (chance.randrange(n) for n in wood.z.shape)
        place = {int(np.flatnonzero(way)[0]): cell if sum(way) > 0 else count - 1 - cell
                 for way, cell, count in zip(lie.ways, (i, j), wood.z.T.shape)}  # fmt: skip
        key = (lie.up, (place.get(0), place.get(1), place.get(2)))
        wood.z[j, i] -= 0.05
        cut[key] = float(wood.z[j, i])


def test_only_a_turn_is_taken_for_one():
    assert ways_of([[1, 0, 0], [0, -1, 0], [0, 0, -1]]).shape == (3, 3)
    for told in (None, "about X", [[1, 0, 0]], [[1, 0, 0], [0, 1, 0], [0, 0, -1]], [[1, 0, 0], [1, 0, 0], [0, 0, 1]],
                 [[1.0, 0, 0], [0, 1, 0], [0, 0, 1]], [[2, 0, 0], [0, 1, 0], [0, 0, 1]], [[True, 0, 0], [0, 1, 0], [0, 0, 1]]):  # fmt: skip
        with pytest.raises(BadMessage):
            ways_of(told)


@given(st.integers(0, 10**6))
def test_a_shop_is_the_same_for_the_same_seed_within_its_bounds_and_exact_without_one(seed):
    one, other = World(seed), World(seed)
    for _ in range(8):
        for what, most in OFF.items():
            value = one.off(what)
            assert value == other.off(what) and abs(value) <= most
            assert World().off(what) == 0.0
