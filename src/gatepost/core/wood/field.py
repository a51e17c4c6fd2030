# SPDX-License-Identifier: GPL-3.0-or-later
"""Height fields: the wood's top over a grid, and a cutter's sweep over it."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy import ndimage

from gatepost.core.motion import Moves, read_only
from gatepost.core.wood import kernels

OUTSIDE = np.float32(-1e9)  # cells off the wood: no cutter ever lowers them
KINDS = {
    "flat": kernels.FLAT,
    "surfacing": kernels.FLAT,
    "drill": kernels.FLAT,
    "ball": kernels.BALL,
    "vee": kernels.VEE,
}


@dataclass(frozen=True)
class Cutter:
    """What of a tool removes wood. angle: included, degrees; tip: diameter of a V's flat, mm."""

    kind: str
    diameter: float
    angle: float = 180.0
    tip: float = 0.0

    @property
    def steepness(self) -> float:
        """Depth a V gains per mm of radius: 1/tan(half angle)."""
        return 1.0 / math.tan(math.radians(self.angle / 2.0)) if self.kind == "vee" else 1.0


@dataclass(frozen=True, eq=False)
class HeightField:
    """Told apart by identity, so that what is made from one can be remembered.

    z: float32 (rows, columns), mm; z[j, i] is the wood at x0 + i·cell, y0 + j·cell; OUTSIDE off the wood."""

    z: NDArray[np.float32]
    x0: float
    y0: float
    cell: float

    def __post_init__(self) -> None:
        read_only(self.z)

    @property
    def wood(self) -> NDArray[np.bool_]:
        """Which cells are wood or were."""
        return np.asarray(self.z > OUTSIDE / 2)

    def moved(self, dx: float, dy: float, dz: float) -> HeightField:
        """The same wood, told in a shifted frame."""
        return HeightField(np.where(self.wood, self.z + np.float32(dz), OUTSIDE), self.x0 + dx, self.y0 + dy, self.cell)

    def at(self, x: float, y: float) -> float:
        """Height of the nearest cell; NaN off the wood."""
        i, j = round((x - self.x0) / self.cell), round((y - self.y0) / self.cell)
        if 0 <= j < self.z.shape[0] and 0 <= i < self.z.shape[1] and self.z[j, i] > OUTSIDE / 2:
            return float(self.z[j, i])
        return math.nan

    def profile(self, x0: float, y0: float, x1: float, y1: float, count: int = 400) -> NDArray[np.float64]:
        """Heights at count places along a line, shape (count, 2): distance along, height (NaN off the wood)."""
        t = np.linspace(0.0, 1.0, count)
        i = np.rint((x0 + t * (x1 - x0) - self.x0) / self.cell).astype(int)
        j = np.rint((y0 + t * (y1 - y0) - self.y0) / self.cell).astype(int)
        good = (i >= 0) & (j >= 0) & (i < self.z.shape[1]) & (j < self.z.shape[0])
        heights = np.full(count, np.nan)
        heights[good] = self.z[j[good], i[good]]
        heights[heights < OUTSIDE / 2] = np.nan
        return np.column_stack([t * math.hypot(x1 - x0, y1 - y0), heights])


def rectangle(length: float, width: float, cell: float, heights: object) -> HeightField:
    """A rectangular board's field in blank XY. heights: called with arrays x, y of cell middles, gives z."""
    columns, rows = max(1, round(length / cell)), max(1, round(width / cell))
    x = (np.arange(columns) + 0.5) * (length / columns)
    y = (np.arange(rows) + 0.5) * (width / rows)
    assert callable(heights)
    z = np.asarray(heights(*np.meshgrid(x, y)), dtype=np.float32)
    return HeightField(z, 0.5 * cell, 0.5 * cell, cell)


@dataclass(frozen=True)
class Cut:
    """What a sweep did: the wood after, and per move its volume (mm³) and its deepest bite off one cell (mm)."""

    after: HeightField
    taken: NDArray[np.float64]
    deepest: NDArray[np.float64]


def cut(field: HeightField, moves: Moves, cutter: Cutter) -> Cut:
    """Sweep a cutter along moves (in the field's frame) and give the wood after."""
    z = field.z.copy()
    segments = np.ascontiguousarray(moves.segments)
    taken, deepest = np.zeros(len(segments)), np.zeros(len(segments))
    wood = field.wood
    top = float(field.z[wood].max()) if wood.any() else -math.inf
    kernels.sweep(
        z, field.x0, field.y0, field.cell, segments, KINDS[cutter.kind], cutter.diameter / 2.0, cutter.steepness,
        cutter.tip / 2.0, top, taken, deepest, 0, z.shape[0],
    )  # fmt: skip
    return Cut(HeightField(z, field.x0, field.y0, field.cell), taken, deepest)


@dataclass(frozen=True)
class Piece:
    """A separate piece of wood. x, y: a place inside it; box: x0, y0, x1, y1; area: mm²."""

    x: float
    y: float
    box: tuple[float, float, float, float]
    area: float
    top: float


def pieces(field: HeightField, floor: float, least: float = 1.0) -> tuple[list[Piece], NDArray[np.int32]]:
    """Separate pieces of what stands above floor, largest first, with a map of their numbers (from 1, 0 none).

    least: smaller ones (mm²) are dust.
    """
    labels, count = ndimage.label(field.z > floor)
    found: list[tuple[float, int, Piece]] = []
    areas = np.bincount(labels.ravel(), minlength=count + 1) * field.cell**2
    for number, where in enumerate(ndimage.find_objects(labels), start=1):
        if areas[number] < least:
            continue
        inside = labels[where] == number
        j, i = np.unravel_index(int(np.argmax(ndimage.distance_transform_cdt(inside))), inside.shape)
        rows, columns = where
        box = (
            field.x0 + columns.start * field.cell, field.y0 + rows.start * field.cell,
            field.x0 + (columns.stop - 1) * field.cell, field.y0 + (rows.stop - 1) * field.cell,
        )  # fmt: skip
        x, y = field.x0 + (columns.start + i) * field.cell, field.y0 + (rows.start + j) * field.cell
        top = float(field.z[where][inside].max())
        found.append((areas[number], number, Piece(float(x), float(y), box, float(areas[number]), top)))
    found.sort(key=lambda f: -f[0])
    numbering = np.zeros(count + 1, np.int32)
    for rank, (_, number, _) in enumerate(found, start=1):
        numbering[number] = rank
    return [f[2] for f in found], numbering[labels]
