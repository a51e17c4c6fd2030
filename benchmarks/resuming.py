# SPDX-License-Identifier: GPL-3.0-or-later
"""Programs stopped anywhere and taken up again, there or where somebody pointed: swept, against the wood of the whole."""

from __future__ import annotations

from typing import Any

import numpy as np

from gatepost.core.motion import Moves
from gatepost.core.plan.resumed import FURTHER, resumed
from gatepost.core.run.resume import NEAR, line_of_block
from gatepost.core.wood.field import cut, cutter_of

BITE = 0.02  # mm that is no cut
OFF = 0.02  # mm: places in between are written to four decimals


def off_path(moves: Any, until: int, at: tuple[float, float, float]) -> float:
    """How far a place lies from the moves up to one, mm."""
    a, b = moves.points[: until + 1][:-1], moves.points[: until + 1][1:]
    t = np.clip(((np.array(at) - a) * (b - a)).sum(1) / np.maximum(((b - a) ** 2).sum(1), 1e-12), 0, 1)
    return float(np.linalg.norm(a + t[:, None] * (b - a) - at, axis=1).min())


def nearest_cut(moves: Any, until: int, x: float, y: float) -> float:
    """How far a place of the work lies from the cuts up to a move, seen from above, mm; sampled closely."""
    best = np.inf
    for k in np.nonzero(~moves.rapid[:until])[0]:
        a, b = moves.points[k, :2], moves.points[k + 1, :2]
        t = np.linspace(0.0, 1.0, 2 + int(np.hypot(*(b - a))))[:, None]
        best = min(best, float(np.hypot(*(a + t * (b - a) - (x, y)).T).min()))
    return best


def of_a_stop(plan: Any, seed: int) -> str:
    """One program stopped at a random block; every other one is taken up at a random place of the board. Raises AssertionError."""
    rng = np.random.default_rng(seed)
    setup, program = [(s, p) for s in plan.setups for p in s.programs][
        rng.integers(sum(len(s.programs) for s in plan.setups))
    ]
    block = int(rng.integers(0, program.line[-1] + 1))
    bed = None
    if rng.random() < 0.5:
        moves = setup.on_bed(program).points
        bed = tuple(float(v) for v in moves[rng.integers(len(moves)), :2] + rng.normal(0.0, 3.0, 2))
    taken = resumed(plan, program.name, block, bed=bed)
    whole = next(op.after for op in setup.operations if op.name == program.operations[-1])
    assert not taken.stops, (program.name, block, bed, taken.stops)
    assert np.abs(taken.after.z - whole.z).max() < OFF, (program.name, block, bed)
    done = int(np.searchsorted(program.line, line_of_block(program.text, block), side="right"))
    _entered_from_above(setup, program, taken)
    if bed is None or taken.words == FURTHER:
        assert 0.0 <= taken.back <= program.tool.diameter + 1e-9 or _on_an_arc(program, done)
        rest = ~program.moves.rapid[done:]
        ahead = done + 1 + int(np.argmax(rest)) if rest.any() and (done == 0 or not rest[0]) else done + 1
        assert off_path(program.moves, ahead + 1, taken.at) < 1e-6
        return "where it ended"
    assert off_path(program.moves, done, taken.at) < 1e-6
    if taken.words:
        return "on an arc or where it goes down"
    x, y = setup.placed.work_to_bed.inverse().xy(*bed)
    assert np.hypot(taken.at[0] - x, taken.at[1] - y) <= nearest_cut(program.moves, done, x, y) + NEAR + 0.5
    return "where it was pointed at"


def _on_an_arc(program: Any, done: int) -> bool:
    """Whether one of the moves before is a piece of several of its line."""
    lines = np.asarray(program.line)
    return bool((lines[max(0, done - 400) : done + 1][1:] == lines[max(0, done - 400) : done + 1][:-1]).any())


def _entered_from_above(setup: Any, program: Any, taken: Any) -> None:
    """Nothing is cut at rapid, and none but straight down until it is where it is taken up."""
    moves = taken.program.moves
    deepest = cut(taken.wood, setup.on_board(moves), cutter_of(program.tool)).deepest
    assert not (deepest[moves.rapid] > BITE).any(), "wood is cut at rapid"
    first = int(np.argmax(~moves.rapid))
    a, b = moves.points[first], moves.points[first + 1]
    assert np.allclose(a[:2], b[:2]) or deepest[first] <= BITE or a[2] >= b[2], "wood is entered from the side"
    if np.allclose(b, taken.at, atol=1e-3) and a[2] > b[2]:
        left = cut(
            taken.wood,
            setup.on_board(Moves(np.array([a, b]), np.array([False]), np.array([300.0]))),
            cutter_of(program.tool),
        )
        assert left.deepest.max() <= BITE, "wood is cut on the way down into what was cut already"
