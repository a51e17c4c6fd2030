# SPDX-License-Identifier: GPL-3.0-or-later
"""Proves V-cuts against the exact ideal: distance to the art's own curves, over tan of the half angle.

Every glyph is cut by the project's own paths, written as a program, read back, swept by the removal model over a
0.05 mm grid, and compared at every node inside the art. The ideal comes from the curves themselves, flattened much
finer than the cut was planned with; it shares nothing with the medial axis.

    python benchmarks/vcut_proof.py [--all] [--angles 20 60 90 120] [--seed N --sample N]
"""

from __future__ import annotations

import argparse
import math
import multiprocessing
import random
import sys
from dataclasses import dataclass

import numpy as np
import shapely

from gatepost.core.carve.edits import outlines
from gatepost.core.carve.faces import SHIPPED
from gatepost.core.carve.lettering import lettering
from gatepost.core.carve.paths import v_moves
from gatepost.core.frames import Matrix
from gatepost.core.geometry.curves import region
from gatepost.core.job.carve import Carving, TextLine
from gatepost.core.job.machine import Dialect
from gatepost.core.job.tool import Tool
from gatepost.core.program.read import read
from gatepost.core.program.write import Head, write
from gatepost.core.wood.field import Cutter, HeightField, cut

CHARACTERS = [
    chr(c)
    for c in [
        *range(0x21, 0x7F),
        *range(0xA1, 0xAD),
        *range(0xAE, 0x100),
        0x2018,
        0x2019,
        0x201C,
        0x201D,
        0x2013,
        0x2014,
    ]
]
CELL = 0.05
TILE = 16  # nodes
MARGIN = 0.6


@dataclass(frozen=True)
class Proof:
    """inside: nodes; good: share within 0.01 mm; worst: mm inside; outside: deepest more than 0.01 mm outside."""

    inside: int
    good: float
    worst: float
    outside: float

    @property
    def holds(self) -> bool:
        """Whether the goal is met."""
        return self.good >= 0.999 and self.worst <= 0.02 and self.outside <= 0.01


def bit(angle: float) -> Tool:
    """A V-bit wide and long enough for anything at this size."""
    return Tool(
        number=1,
        name="proof bit",
        kind="vee",
        diameter=200,
        angle=angle,
        cutting_length=200,
        shank=8,
        length=250,
        rpm=16000,
        feed=1800,
        plunge=600,
        pass_depth=200,
    )


def prove(char: str, face: str, angle: float, height: float = 25.0) -> Proof:
    """Cut one glyph and compare."""
    return proved(Carving(lines=(TextLine(height=height, **outlines(char, face)),)), angle)


def proved(carving: Carving, angle: float) -> Proof:
    """Cut lettering, or a drawing set as lettering, and compare."""
    tool = bit(angle)
    carved = lettering(carving, tool)
    moves = v_moves(carved.runs, tool, 0.0, 8.0, (0.0, 0.0, 50.0))
    text = write(moves, Head("proof", "front", tool, "centre", Matrix()), Dialect())
    back = read(text, home=(0.0, 0.0, 50.0))
    assert not back.complaints
    ideal = region([list(c) for c in carved.art.contours], 3e-5)
    x0, y0, x1, y1 = ideal.bounds
    columns, rows = math.ceil((x1 - x0 + 2 * MARGIN) / CELL), math.ceil((y1 - y0 + 2 * MARGIN) / CELL)
    field = HeightField(np.zeros((rows, columns), np.float32), x0 - MARGIN, y0 - MARGIN, CELL)
    after = cut(field, back.moves, Cutter("vee", tool.diameter, angle)).after
    x, y = np.meshgrid(field.x0 + np.arange(columns) * CELL, field.y0 + np.arange(rows) * CELL)
    x, y, z = x.ravel(), y.ravel(), after.z.ravel().astype(np.float64)
    shapely.prepare(ideal)
    inside = shapely.contains_xy(ideal, x, y)
    near = nearest(edges_of(ideal), field.x0, field.y0, rows, columns).ravel()
    error = np.abs(z[inside] + near[inside] / math.tan(math.radians(angle / 2)))
    away = ~inside & (near > 0.01)
    return Proof(
        int(inside.sum()),
        float((error <= 0.01).mean()),
        float(error.max()),
        float(-z[away].min()) if away.any() else 0.0,
    )


def edges_of(area: shapely.Geometry) -> np.ndarray:
    """Every edge of an outline, (n, 4)."""
    rings = [r for p in shapely.get_parts(area) for r in (p.exterior, *p.interiors)]
    runs = [np.asarray(r.coords) for r in rings]
    return np.concatenate([np.hstack([r[:-1], r[1:]]) for r in runs])


def _distances(px: np.ndarray, py: np.ndarray, e: np.ndarray) -> np.ndarray:
    """Distances of n places to m edges, (n, m)."""
    dx, dy = e[:, 2] - e[:, 0], e[:, 3] - e[:, 1]
    rx, ry = px[:, None] - e[:, 0], py[:, None] - e[:, 1]
    t = np.clip((rx * dx + ry * dy) / np.maximum(dx * dx + dy * dy, 1e-300), 0.0, 1.0)
    return np.hypot(rx - t * dx, ry - t * dy)


def nearest(
    edges: np.ndarray, x0: float, y0: float, rows: int, columns: int, cell: float = CELL
) -> np.ndarray:  # fmt: skip
    """Exact distance of every node of a grid to the nearest edge: edges that can't be nearest to any node of a tile
    are left out by the triangle inequality."""
    out = np.empty((rows, columns))
    for j in range(0, rows, TILE):
        for i in range(0, columns, TILE):
            jj, ii = np.arange(j, min(j + TILE, rows)), np.arange(i, min(i + TILE, columns))
            gx, gy = np.meshgrid(x0 + ii * cell, y0 + jj * cell)
            middle = _distances(np.array([gx.mean()]), np.array([gy.mean()]), edges)[0]
            near = edges[middle <= middle.min() + 2 * 0.7072 * TILE * cell]
            out[np.ix_(jj, ii)] = _distances(gx.ravel(), gy.ravel(), near).min(axis=1).reshape(gx.shape)
    return out


def cases(angles: list[float], sample: int, seed: int) -> list[tuple[str, str, float]]:
    """Faces, characters and angles; a seeded sample when asked."""
    every = [(c, f, a) for f in SHIPPED for c in CHARACTERS for a in angles]
    return random.Random(seed).sample(every, sample) if sample else every


def _prove(case: tuple[str, str, float]) -> Proof:
    return prove(*case)


def main() -> int:
    """Prove all, or a sample; print the worst of each face and angle."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--angles", nargs="*", type=float, default=[20.0, 60.0, 90.0, 120.0])
    parser.add_argument("--sample", type=int, default=0)
    parser.add_argument("--seed", type=int, default=7)
    parser.add_argument("--processes", type=int, default=2)
    asked = parser.parse_args()
    table: dict[tuple[str, float], list[tuple[Proof, str]]] = {}
    chosen = cases(asked.angles, asked.sample, asked.seed)
    with multiprocessing.Pool(asked.processes) as pool:
        for n, (proof, (char, face, angle)) in enumerate(zip(pool.imap(_prove, chosen, 4), chosen), start=1):
            table.setdefault((face, angle), []).append((proof, char))
            if sys.stderr.isatty():
                sys.stderr.write(f"\r{n} of {len(chosen)}")
    failed = 0
    print("face       angle  glyphs  least share within 0.01  worst inside mm  deepest outside mm")
    for (face, angle), proofs in sorted(table.items()):
        wrong = [c for p, c in proofs if not p.holds]
        failed += len(wrong)
        print(f"{face:<10} {angle:5.0f}  {len(proofs):6d}  {min(p.good for p, _ in proofs):23.5f}  {max(p.worst for p, _ in proofs):15.4f}  "
              f"{max(p.outside for p, _ in proofs):18.4f}  {'fails: ' + ' '.join(wrong) if wrong else ''}")  # fmt: skip
    return 1 if failed else 0


if __name__ == "__main__":
    sys.exit(main())
