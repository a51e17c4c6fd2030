# SPDX-License-Identifier: GPL-3.0-or-later
"""Proves sunk floors against the exact ideal: flat where an end mill's disc fits, sloped by a V from the outline inwards, nothing outside.

The cuts are written as programs, read back and swept by the removal model over a fine grid. What they are held against comes from
exact distances to the outline and shares nothing with rings, openings or axes.

    python benchmarks/sunk_proof.py [--areas 200] [--seed N] [--faces]
"""

from __future__ import annotations

import argparse
import math
import sys
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import shapely

from gatepost.core.carve.sink import roles, sink
from gatepost.core.carve.sunk_cuts import flat_cuts
from gatepost.core.carve.sunk_moves import Heights
from gatepost.core.frames import Matrix
from gatepost.core.geometry.curves import as_multipolygon
from gatepost.core.geometry.raster import inside
from gatepost.core.job.machine import Dialect
from gatepost.core.job.sunk import Sunk
from gatepost.core.job.tool import Tool
from gatepost.core.program.read import read
from gatepost.core.program.write import Head, write
from gatepost.core.wood.field import Cutter, HeightField, cut
from vcut_proof import edges_of, nearest

TRUE = 0.02  # mm: floors, walls and what is cut outside
ROUNDED = 0.006  # mm: what the grid's nearest cell and a program's last digit add


@dataclass(frozen=True)
class SunkProof:
    """floor: worst height over or under a floor that the smallest end mill's disc fits on, mm; cusps: highest over the floor that only the V reaches;
    walls: farthest that a slope lies from its place, mm across; outside: farthest from the outline that anything is cut outside it; slivers:
    cells left standing that a tool could have taken; only_v: area, mm²."""

    floor: float
    cusps: float
    walls: float
    outside: float
    slivers: int
    only_v: float

    def holds(self, cusp: float) -> bool:
        """Whether the goal is met."""
        within = self.floor <= TRUE and self.walls <= TRUE and self.outside <= TRUE
        return within and self.cusps <= cusp + ROUNDED and self.slivers == 0


def mill(number: int, diameter: float, pass_depth: float = 3.0) -> Tool:
    """An end mill."""
    return Tool(
        number=number, name="end mill", kind="flat", diameter=diameter, cutting_length=40, shank=6, length=60,
        rpm=18000, feed=2400, plunge=700, pass_depth=pass_depth,
    )  # fmt: skip


def vee(number: int, angle: float, tip: float = 0.0, pass_depth: float = 4.0) -> Tool:
    """A V-bit wide enough for anything here."""
    return Tool(
        number=number, name="V-bit", kind="vee", diameter=80, angle=angle, tip=tip, cutting_length=40, shank=8, length=70,
        rpm=16000, feed=1800, plunge=600, pass_depth=pass_depth,
    )  # fmt: skip


def random_area(rng: np.random.Generator, size: float = 44.0) -> shapely.MultiPolygon:
    """An area with islands, slots and sharp corners."""
    count = int(rng.integers(5, 11))
    angle = np.sort(rng.uniform(0, 2 * math.pi, count))
    far = rng.uniform(0.35, 1.0, count) * size / 2
    outer: shapely.Geometry = shapely.make_valid(
        shapely.Polygon(np.column_stack([far * np.cos(angle), far * np.sin(angle)]))
    )
    for _ in range(int(rng.integers(0, 3))):
        a, b = rng.uniform(-size / 2, size / 2, (2, 2))
        outer = outer.union(shapely.LineString([a, b]).buffer(rng.choice([1.5, 2.2, 3.0]), cap_style="flat"))
    for _ in range(int(rng.integers(0, 4))):
        x, y, r = (*rng.uniform(-size / 3, size / 3, 2), rng.uniform(1.0, 6.0))
        corners = int(rng.choice([3, 4, 5, 40]))
        turn = rng.uniform(0, 6.3) + np.arange(corners) * 2 * math.pi / corners
        outer = outer.difference(shapely.Polygon(np.column_stack([x + r * np.cos(turn), y + r * np.sin(turn)])))
    return as_multipolygon(shapely.set_precision(outer, 1e-6))


def carved(area: shapely.Geometry, figures: Sunk, tools: Sequence[Tool], cell: float) -> HeightField:
    """The wood after every cut, each written and read back."""
    x0, y0, x1, y1 = area.bounds
    columns, rows = math.ceil((x1 - x0 + 4) / cell), math.ceil((y1 - y0 + 4) / cell)
    wood = HeightField(np.zeros((rows, columns), np.float32), x0 - 2, y0 - 2, cell)
    at = Heights(0.0, 0.0, 8.0, lambda tool: (0.0, 0.0, 50.0), area.convex_hull)
    for one in flat_cuts(sink(area, figures, tools), figures, at):
        tool, moves = one.tool, one.moves
        text = write(moves, Head("proof", "front", tool, "centre", Matrix()), Dialect())
        back = read(text, home=(0.0, 0.0, 50.0))
        assert not back.complaints
        wood = cut(wood, back.moves, Cutter(tool.kind, tool.diameter, tool.angle, tool.tip)).after
    return wood


def prove(area: shapely.Geometry, figures: Sunk, tools: Sequence[Tool], cell: float = 0.08) -> SunkProof:
    """Cut a floor and compare."""
    wood = carved(area, figures, tools, cell)
    mills, v, _ = roles(tools)
    within = inside(area, wood.x0, wood.y0, cell, *wood.z.shape)
    near = nearest(edges_of(area), wood.x0, wood.y0, *wood.z.shape, cell)
    z = wood.z.astype(np.float64)
    tan = math.tan(math.radians(v.angle / 2)) if v is not None else 0.0
    slope = figures.depth * tan
    on_floor = within & (near > slope + TRUE)
    floor = area.buffer(-slope, quad_segs=60)
    smallest = min((t.diameter for t in mills), default=math.inf) / 2
    fits = floor.buffer(-smallest, quad_segs=90) if math.isfinite(smallest) else shapely.Polygon()
    opened = _within(fits, smallest - TRUE, wood) & on_floor
    only_v = on_floor & ~_within(fits, smallest + TRUE, wood)
    half_tip = v.tip / 2 if v is not None else 0.0
    if half_tip:  # nor does a flat tip get into a sharp corner
        only_v &= _within(floor.buffer(-half_tip, quad_segs=30), half_tip - TRUE, wood)
    ideal = (
        -figures.depth * np.ones_like(z) if v is None else np.where(within, -np.minimum(figures.depth, near / tan), 0.0)
    )
    wall = within & ~on_floor & (near > TRUE) if v is not None else np.zeros_like(within)
    away = ~within & (near > cell * 1e-6) & (z < -1e-4)
    # a place between two lines of the V stays a cusp too high, and beside a flat tip by what the tip can't get into
    beside = np.maximum((z - ideal)[wall] * tan - figures.cusp * tan - half_tip, (ideal - z)[wall] * tan)
    return SunkProof(
        float(np.abs(z + figures.depth)[opened].max(initial=0.0)),
        float((z + figures.depth)[only_v].max(initial=0.0)) if v is not None else 0.0,
        float(beside.max(initial=0.0)),
        float(near[away].max(initial=0.0)),
        int((z[opened] > -figures.depth + TRUE).sum()),
        float(only_v.sum()) * cell**2,
    )


def _within(middles: shapely.Geometry, far: float, wood: HeightField) -> np.ndarray:
    """Cells no farther from an area than that."""
    return inside(middles.buffer(far, quad_segs=90), wood.x0, wood.y0, wood.cell, *wood.z.shape)


def trial(seed: int, tip: bool = False, size: float = 44.0, cell: float = 0.08) -> tuple[SunkProof, Sunk]:
    """One random area with random cutters. tip: whether a V may have a flat one; size: of the area, cell: of the grid, mm."""
    rng = np.random.default_rng(seed)
    area = random_area(rng, size)
    depth = float(rng.choice([1.2, 2.5, 4.0]))
    tools = [mill(1, float(rng.choice([6.0, 8.0]))), mill(2, 3.0)][: int(rng.integers(1, 3))]
    if rng.random() < 0.7:
        tools.append(vee(9, float(rng.choice([60.0, 90.0])), float(rng.choice([0.0, 0.2])) if tip else 0.0))
    figures = Sunk(
        depth=depth, tools=tuple(t.number for t in tools), stepover=float(rng.choice([0.3, 0.5])),
        route=str(rng.choice(["rings", "rings", "rows"])), start=str(rng.choice(["inside", "outside"])),
        cut=str(rng.choice(["climb", "conventional"])), entry=str(rng.choice(["ramp", "helix", "plunge"])),
        allowance=float(rng.choice([0.0, 0.0, 0.2])),
    )  # fmt: skip
    return prove(area, figures, tools, cell), figures


def main() -> int:
    """Command line."""
    parser = argparse.ArgumentParser()
    parser.add_argument("--areas", type=int, default=200)
    parser.add_argument("--seed", type=int, default=1)
    options = parser.parse_args()
    bad = 0
    for n in range(options.areas):
        proof, figures = trial(options.seed * 100_000 + n, tip=True)
        if not proof.holds(figures.cusp):
            bad += 1
            print(options.seed * 100_000 + n, proof, figures)
    print(f"{options.areas - bad} of {options.areas} areas hold")
    return 1 if bad else 0


if __name__ == "__main__":
    sys.exit(main())
