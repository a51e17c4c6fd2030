# SPDX-License-Identifier: GPL-3.0-or-later
"""One table of figures: medians of five, as ratios to a baseline of the same run, and absolute ones."""

from __future__ import annotations

import statistics
import time
from collections.abc import Callable
from pathlib import Path

import numpy as np
import shapely

import baselines
from gatepost.core.cache import Memory
from gatepost.core.carve.lettering import area_cut
from gatepost.core.job import commands
from gatepost.core.job.file import load
from gatepost.core.plan import cutter_of, drive_of, plan
from gatepost.core.program.read import read
from gatepost.core.program.time import move_seconds
from gatepost.core.wood.field import Cutter, cut

EXAMPLES = Path(__file__).parents[1] / "src" / "gatepost" / "assets" / "examples"


def median(work: Callable[[], object], times: int = 5) -> float:
    """Seconds, the median of five after one to warm up."""
    work()
    taken = []
    for _ in range(times):
        start = time.perf_counter()
        work()
        taken.append(time.perf_counter() - start)
    return statistics.median(taken)


def reach_of(moves: np.ndarray, cutter: Cutter, top: float) -> np.ndarray:
    """How far from the path a cutter can touch wood, per move."""
    low = np.minimum(moves[:, 2], moves[:, 5])
    deep = np.maximum(top - low, 0.0)
    full = np.full(len(moves), cutter.diameter / 2)
    return np.minimum(full, deep / cutter.steepness) if cutter.kind == "vee" else np.where(deep > 0, full, 0.0)


def sweeps(row: Callable[[str, float, float | None], None]) -> None:
    """Removal against a bare minimum over the same cells."""
    reckoned = plan(load(EXAMPLES / "lock-7-name-board.gatepost").job)
    for setup in reckoned.setups:
        wood = setup.start
        for op in setup.operations:
            cutter = cutter_of(op.tool)
            moves = np.ascontiguousarray(op.moves.segments)
            top = float(wood.z.max())
            mine = median(lambda: cut(wood, op.moves, cutter))  # noqa: B023
            bare = median(
                lambda: baselines.bare_minimum(
                    wood.z.copy(), wood.x0, wood.y0, wood.cell, moves, reach_of(moves, cutter, top)
                )
            )  # noqa: B023
            row(f"removal, {op.name}, {len(moves)} moves", mine, bare)
            wood = op.after


def main() -> None:
    """Measure and print."""
    print(f"{'what':<58} {'seconds':>9} {'baseline':>9} {'ratio':>6}")

    def row(what: str, mine: float, base: float | None = None) -> None:
        print(f"{what:<58} {mine:9.4f} " + (f"{base:9.4f} {mine / base:6.2f}" if base else ""), flush=True)

    job = load(EXAMPLES / "lock-7-name-board.gatepost").job
    reckoned = plan(job)
    area = shapely.union_all([letter.outline() for letter in reckoned.lettering.letters])
    row(
        "medial axis and runs, 19 letters, to the bare Voronoi",
        median(lambda: area_cut(area, 1.0)),
        median(lambda: baselines.bare_voronoi(area)),
    )
    sweeps(row)
    text = reckoned.setups[-1].programs[0].text * 20
    row(
        "program read, 50,000 lines, to a regular expression a line",
        median(lambda: read(text.replace("M30", ""))),
        median(lambda: baselines.bare_lines(text)),
    )
    moves = reckoned.setups[-1].programs[0].moves
    wanted = np.full(len(moves), 30.0)
    row(
        "time with accelerations, to a bare sum",
        median(lambda: move_seconds(moves, drive_of(job))),
        median(lambda: baselines.bare_seconds(moves.points, wanted)),
    )
    memory = Memory()
    row("whole plan of the Lock 7 board, nothing remembered", median(lambda: plan(job)))
    plan(job, memory=memory)
    feeds = iter(range(100))
    row(
        "its plan again after a hold moved",
        median(
            lambda: plan(
                commands.run(job, "set hold", {"setup": "front", "hold": "C1", "x": 260.0 + next(feeds) * 0.5}),
                memory=memory,
            )
        ),
    )


if __name__ == "__main__":
    main()
