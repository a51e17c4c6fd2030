# SPDX-License-Identifier: GPL-3.0-or-later
"""Proves reliefs against the closing of what is asked by the last ball, worked out in plain NumPy: nothing cut deeper, nothing left higher than the
scallop. The cuts are written as programs, read back and swept.

    python benchmarks/relief_proof.py [--reliefs 20] [--seed N] [--long 60]
"""

from __future__ import annotations

import argparse
import sys
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
import shapely

from gatepost.core.carve.relief_cuts import Relieving, cell_of, in_order, relieved
from gatepost.core.carve.sunk_moves import Heights
from gatepost.core.frames import Matrix
from gatepost.core.geometry.levels import WHITE, packed
from gatepost.core.job.machine import Dialect
from gatepost.core.job.operation import Artwork
from gatepost.core.job.relief import HeightsFigures, Relief
from gatepost.core.job.tool import Tool
from gatepost.core.program.read import read
from gatepost.core.program.write import Head, write
from gatepost.core.wood.field import Cutter, HeightField, cut

TRUE = 0.02  # mm: what is cut deeper, and what stands over the scallop
SLIVER = 1.1  # of pass depth × diameter: a smaller cross-section that is deep is a burr between rows
BITE = 0.1  # mm over a pass
FACE = 30.0  # mm: of the face over the bed
HOME = (0.0, 0.0, 80.0)


@dataclass(frozen=True)
class ReliefProof:
    """gouged: deepest that anything is cut under what is asked, mm; over: highest that anything asked stands over what the last ball reaches; rapid: deepest
    that a rapid ploughs; bite: over what a tool may take at once that it does take, mm."""

    gouged: float
    over: float
    rapid: float
    bite: float

    def holds(self, scallop: float) -> bool:
        """Whether the goal is met."""
        return self.gouged <= TRUE and self.over <= scallop + TRUE and self.rapid <= 1e-3 and self.bite <= BITE


def _waves(rng: np.random.Generator, rows: int, columns: int) -> Any:
    import cv2

    coarse = rng.random((rng.integers(4, 9), rng.integers(4, 9))).astype(np.float32)
    values = cv2.resize(coarse, (columns, rows), interpolation=cv2.INTER_CUBIC)
    return (values - values.min()) / max(float(np.ptp(values)), 1e-9)


def smooth(rng: np.random.Generator, rows: int, columns: int) -> Any:
    """Levels of a random smooth surface."""
    return (1 + np.rint(np.clip(_waves(rng, rows, columns), 0, 1) * (WHITE - 1))).astype(np.uint16)


def surface(rng: np.random.Generator, rows: int, columns: int) -> Any:
    """Levels of a random surface: smooth, in steps, or with holes in it that nothing is asked of."""
    values = _waves(rng, rows, columns)
    if rng.random() < 0.5:
        steps = int(rng.integers(2, 6))
        values = np.floor(values * steps) / steps
    levels = (1 + np.rint(np.clip(values, 0, 1) * (WHITE - 1))).astype(np.uint16)
    if rng.random() < 0.3:
        levels[rows // 3 : rows // 2, columns // 4 : columns // 2] = 0
    return levels


def cutter(number: int, kind: Any, diameter: float, pass_depth: float) -> Tool:
    """An end mill or a ball."""
    return Tool(
        number=number, name=kind, kind=kind, diameter=diameter, cutting_length=40, shank=6, length=50, rpm=18000, feed=2000, plunge=600, pass_depth=pass_depth
    )  # fmt: skip


def prove(relieving: Relieving, tools: Sequence[Tool], cell: float | None = None, path: Any = None) -> ReliefProof:
    """One relief made and held against what it should be. path: gives the moves in another way than as they are planned, to hold the proof itself against."""
    art, figures = relieving.art, relieving.figures
    mills, balls = in_order(tuple(tools))
    hop = shapely.box(-1e4, -1e4, 1e4, 1e4)
    at = Heights(FACE, FACE + 0.5, FACE + 8.0, lambda t: HOME, hop)
    made = relieved(relieving, (*mills, *balls), at, cell or cell_of(art, balls, 1.0), False, lambda name: None)
    t = made.target
    wood = HeightField(np.full(t.z.shape, np.float32(at.highest)), t.x0, t.y0, t.cell)
    rapid = bite = 0.0
    for step in made.steps:
        text = write(step.moves, Head("proof", "front", step.tool, "X0 Y0 Z0", Matrix()), Dialect())
        moves = read(text, home=HOME).moves
        moves = path(moves) if path is not None else moves
        swept = cut(wood, moves, Cutter(step.tool.kind, step.tool.diameter), amounts=True)
        if moves.rapid.any():
            rapid = max(rapid, float(swept.deepest[moves.rapid].max()))
        way = np.diff(moves.points, axis=0)
        long = np.maximum(np.linalg.norm(way, axis=1), 1e-9)
        thick = swept.taken / long > SLIVER * step.tool.pass_depth * step.tool.diameter
        bite = max(bite, float(swept.deepest[~moves.rapid & thick].max(initial=0.0)) - step.tool.pass_depth)
        wood = swept.after
    closing = plain_closing(t.z, balls[-1].diameter / 2.0, t.cell, FACE if figures.around == "kept" else -1e6, t.lowest)
    kept = np.ones(t.asked.shape, bool) if figures.around == "kept" else t.asked
    return ReliefProof(float((t.z - wood.z)[kept].max()), float((wood.z - closing)[t.asked].max()), rapid, bite)


def plain_closing(z: Any, radius: float, cell: float, about: float, lowest: float) -> Any:
    """What a ball leaves that goes everywhere it may, cell by cell. about: heights beyond the grid."""
    n = int(np.ceil(radius / cell))
    rows, columns = z.shape
    offsets = [
        (j, i, radius - np.sqrt(radius * radius - (j * j + i * i) * cell * cell))
        for j in range(-n, n + 1) for i in range(-n, n + 1) if (j * j + i * i) * cell * cell <= radius * radius
    ]  # fmt: skip
    high = np.pad(z.astype(np.float64), n, constant_values=about)
    tips = np.full(z.shape, lowest, np.float64)
    for j, i, drop in offsets:
        tips = np.maximum(tips, high[n + j : n + j + rows, n + i : n + i + columns] - drop)
    held = np.pad(tips, n, constant_values=1e9)
    out = np.full(z.shape, 1e9)
    for j, i, drop in offsets:
        out = np.minimum(out, held[n + j : n + j + rows, n + i : n + i + columns] + drop)
    return out


def trial(seed: int, long: float = 40.0) -> tuple[ReliefProof, Relief]:
    """A relief at random. long: its width, mm."""
    rng = np.random.default_rng(seed)
    levels = surface(rng, 150, 220)
    heights = HeightsFigures(
        columns=220, rows=150, grid=packed(levels), width=long, height=long * rng.uniform(0.5, 0.9), black=float(rng.uniform(2, 8)), white=float(rng.choice([0.0, 0.5, 3.0]))
    )  # fmt: skip
    art = Artwork(
        id="heights", kind="heights", x=50.0, y=40.0, turn=float(rng.choice([0.0, 0.0, 17.0, 90.0])), mirror=bool(rng.random() < 0.3), figures=heights
    )  # fmt: skip
    figures = Relief(
        scallop=float(rng.choice([0.02, 0.05, 0.1])), way=str(rng.choice(["x", "y"])), around=str(rng.choice(["kept", "kept", "free"]))
    )  # fmt: skip
    tools = [cutter(2, "flat", float(rng.choice([4.0, 6.0, 6.35])), 3.0)] if rng.random() < 0.8 else []
    tools += [cutter(4, "ball", float(rng.choice([3.0, 3.175, 4.0, 6.0])), 2.0)]
    tools += [cutter(5, "ball", 2.0, 1.5)] if rng.random() < 0.4 else []
    return prove(Relieving(figures, art), tools), figures


def main(argv: Sequence[str] | None = None) -> int:
    """Prove some; 1 where one does not hold."""
    p = argparse.ArgumentParser(description=__doc__)
    p.add_argument("--reliefs", type=int, default=20)
    p.add_argument("--seed", type=int, default=1)
    p.add_argument("--long", type=float, default=60.0)
    a = p.parse_args(argv)
    bad = 0
    for seed in range(a.seed, a.seed + a.reliefs):
        proof, figures = trial(seed, a.long)
        bad += not proof.holds(figures.scallop)
        print(f"{seed}: {proof} {'' if proof.holds(figures.scallop) else 'FAILS'}", flush=True)
    print(f"{a.reliefs - bad} of {a.reliefs} hold")
    return 1 if bad else 0


if __name__ == "__main__":
    sys.exit(main())
