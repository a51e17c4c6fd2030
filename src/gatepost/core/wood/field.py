# SPDX-License-Identifier: GPL-3.0-or-later
"""Height fields: the wood's top over a grid, and a cutter's sweep over it."""

from __future__ import annotations

import math
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from functools import cached_property
from typing import Any

import numpy as np
import shapely
from numpy.typing import NDArray

from gatepost.core.geometry.raster import inside
from gatepost.core.motion import Moves, read_only
from gatepost.core.profile import CutterFigures, CutterProfile, profile_of

OUTSIDE = np.float32(-1e9)  # cells off the wood: no cutter ever lowers them
# shapes as the compiled sweep numbers them; compiled code is loaded by those who sweep, not by those who only look
FLAT, BALL, VEE, ROUND = 0, 1, 2, 3
UPRIGHT = 1e9  # mm up per mm out: as steep as no cone is

Heights = Callable[[NDArray[np.float64], NDArray[np.float64]], NDArray[np.float64]]


@dataclass(frozen=True)
class Cutter:
    """What of a tool removes wood. angle: included, degrees; tip: diameter of a V's flat; radius: of what is rounded; mm."""

    kind: str
    diameter: float
    angle: float = 180.0
    tip: float = 0.0
    radius: float = 0.0

    @cached_property
    def profile(self) -> CutterProfile:
        """What it looks like from the side."""
        return profile_of(self)

    @property
    def shape(self) -> int:
        """How its profile is swept: the plainest of the ways that it allows."""
        p = self.profile
        if p.round > 0.0:
            return BALL if p.flat == 0.0 and p.round == p.radius and math.isinf(p.steep) else ROUND
        return FLAT if math.isinf(p.steep) else VEE


def cutter_of(tool: CutterFigures) -> Cutter:
    """What of a tool removes wood."""
    return Cutter(tool.kind, tool.diameter, tool.angle, tool.tip, tool.radius)


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

    @cached_property
    def highest(self) -> float:
        """Of the wood, mm; NaN where there is none."""
        top = float(self.z.max()) if self.z.size else float(OUTSIDE)
        return top if top > float(OUTSIDE) / 2 else math.nan

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


def rectangle(length: float, width: float, cell: float, heights: Heights) -> HeightField:
    """A rectangular board's field in blank XY. heights: called with arrays x, y of cell middles, gives z."""
    return board(length, width, cell, lambda x, y: heights(*(np.asarray(a, np.float64) for a in np.meshgrid(x, y))))


def board(
    length: float, width: float, cell: float, over: Heights, outline: shapely.Geometry | None = None,
    corner: tuple[float, float] = (0.0, 0.0),
) -> HeightField:  # fmt: skip
    """As rectangle. over: called with the axes x (columns,) and y (rows,), gives z (rows, columns); outline: of the wood; corner: its
    lower left."""
    x0, y0 = corner
    columns, rows = max(1, round(length / cell)), max(1, round(width / cell))
    x = x0 + (np.arange(columns, dtype=np.float64) + 0.5) * (length / columns)
    y = y0 + (np.arange(rows, dtype=np.float64) + 0.5) * (width / rows)
    z = np.empty((rows, columns), np.float32)
    for band in bands(rows):
        z[band] = over(x, y[band])
    if outline is not None:
        z[~inside(outline, x0 + 0.5 * cell, y0 + 0.5 * cell, cell, rows, columns)] = OUTSIDE
    return HeightField(z, x0 + 0.5 * cell, y0 + 0.5 * cell, cell)


BAND = 256  # rows looked at at once, where a whole field's worth of working space would be too much


def bands(rows: int) -> list[slice]:
    """Bands of rows, first to last."""
    return [slice(j, min(j + BAND, rows)) for j in range(0, rows, BAND)]


def by_bands(field: HeightField, look: Callable[[slice], NDArray[np.bool_]]) -> NDArray[np.bool_]:
    """A mask over a field, made band by band."""
    mask = np.empty(field.z.shape, np.bool_)
    for band in bands(len(mask)):
        mask[band] = look(band)
    return mask


@dataclass(frozen=True)
class Swept:
    """What a sweep did: the wood after, and per move its volume (mm³) and its deepest bite off one cell (mm).

    Of feed moves the two are whole only where ``amounts`` was asked for; of rapids always."""

    after: HeightField
    taken: NDArray[np.float64]
    deepest: NDArray[np.float64]


SMALL = 200_000  # cells that are not worth a second thread


def cut(
    field: HeightField, moves: Moves, cutter: Cutter, threads: int = 2, plainly: bool = False, amounts: bool = False
) -> Swept:
    """Sweep a cutter along moves (in the field's frame) and give the wood after.

    The rows are swept in two bands whatever the number of threads (1 or 2), so that the result is the same to the bit.
    plainly: by the reference kernel, each move on its own. amounts: tell what each feed move takes. A straight run of
    feed moves is swept as one; its volume is told at its first move.
    """
    from gatepost.core.wood import kernels, survey_kernels

    z = field.z.copy()
    segments = moves.segments
    taken, deepest = np.zeros(len(segments)), np.zeros(len(segments))
    if len(segments) == 0 or z.size == 0:
        return Swept(HeightField(z, field.x0, field.y0, field.cell), taken, deepest)
    first = np.arange(len(segments))
    if not plainly:
        first = first[: survey_kernels.straight_runs(segments, moves.rapid, first)]
        last = np.append(first[1:], len(segments)) - 1
        segments = np.hstack([segments[first, :3], segments[last, 3:]])
    told = np.ascontiguousarray(moves.rapid[first]) | amounts
    top = float(z.max())
    low = segments[:, [2, 5]].min(axis=1)
    cutting = segments[low < top]
    p = cutter.profile
    radius = p.out_at(top - float(np.median(low[low < top]))) if len(cutting) else p.radius
    steep = min(p.steep, UPRIGHT)
    middle, cells = _balanced(field, cutting, radius)

    def band(rows: tuple[int, int]) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
        volume, most = np.zeros(len(segments)), np.zeros(len(segments))
        kernels.sweep(
            z, field.x0, field.y0, field.cell, segments, cutter.shape, p.radius, steep,
            p.flat, p.round, top, told, volume, most, *rows, plainly,
        )  # fmt: skip
        return volume, most

    bands = [(0, middle), (middle, z.shape[0])]
    if threads > 1 and cells >= SMALL:
        with ThreadPoolExecutor(2) as pool:
            done = list(pool.map(band, bands))
    else:
        done = [band(rows) for rows in bands]
    taken[first] = done[0][0] + done[1][0]
    deepest[first] = np.maximum(done[0][1], done[1][1])
    return Swept(HeightField(z, field.x0, field.y0, field.cell), taken, deepest)


def _balanced(field: HeightField, segments: NDArray[np.float64], radius: float) -> tuple[int, float]:
    """The row with half of the sweeping on either side, and about how many cells are swept in all."""
    if len(segments) == 0:
        return field.z.shape[0] // 2, 0.0
    ways = segments[:, 3:5] - segments[:, :2]
    cells = (np.hypot(ways[:, 0], ways[:, 1]) * 2.0 * radius + math.pi * radius**2) / field.cell**2
    middles = (0.5 * (segments[:, 1] + segments[:, 4]) - field.y0) / field.cell
    rows = np.clip(middles, 0, field.z.shape[0] - 1).astype(np.int64)
    sums = np.cumsum(np.bincount(rows, cells))
    row = int(np.searchsorted(sums, sums[-1] / 2.0))
    return row, float(sums[-1])


@dataclass(frozen=True)
class WoodPiece:
    """A separate piece of wood. x, y: a place inside it; box: x0, y0, x1, y1; area: mm²."""

    x: float
    y: float
    box: tuple[float, float, float, float]
    area: float
    top: float


Numbers = NDArray[np.int32] | NDArray[np.uint16]


def pieces(field: HeightField, floor: float, least: float = 1.0) -> tuple[list[WoodPiece], Numbers]:
    """Separate pieces of what stands above floor, largest first, with a map of their numbers (from 1, 0 none).

    least: smaller ones (mm²) are dust.
    """
    standing = field.z > floor
    if not standing.any():
        return [], np.zeros(standing.shape, np.uint16)
    import cv2  # only where something is cut through

    from gatepost.core.wood import survey_kernels

    label: Callable[..., Any] = cv2.connectedComponents
    labels: Numbers
    try:
        count, labels = label(standing.view(np.uint8), connectivity=4, ltype=cv2.CV_16U)  # half the memory
    except cv2.error:  # more than it can number, which is seldom
        count, labels = label(standing.view(np.uint8), connectivity=4, ltype=cv2.CV_32S)
    count -= 1  # nought is no piece
    boxes, cells = np.zeros((count + 1, 4), np.int64), np.zeros(count + 1, np.int64)
    tops, places = np.full(count + 1, -np.inf), np.zeros((count + 1, 3), np.int64)
    survey_kernels.survey(labels, field.z, count, boxes, cells, tops, places)
    areas = cells * field.cell**2
    order = [int(n) for n in np.argsort(-areas[1:], kind="stable") + 1 if areas[n] >= least]
    found: list[WoodPiece] = []
    for number in order:
        j0, j1, i0, i1 = (int(v) for v in boxes[number])
        _, j, i = (int(v) for v in places[number])
        (x0, y0), (x1, y1), (x, y) = (_middle(field, *cell) for cell in ((j0, i0), (j1, i1), (j, i)))
        found.append(WoodPiece(x, y, (x0, y0, x1, y1), float(areas[number]), float(tops[number])))
    numbering = np.zeros(count + 1, labels.dtype)
    numbering[order] = np.arange(1, len(order) + 1)
    for band in bands(len(labels)):
        labels[band] = numbering[labels[band]]
    return found, labels


def _middle(field: HeightField, j: int, i: int) -> tuple[float, float]:
    return field.x0 + i * field.cell, field.y0 + j * field.cell
