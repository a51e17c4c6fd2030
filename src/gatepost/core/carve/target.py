# SPDX-License-Identifier: GPL-3.0-or-later
"""What a relief is to become: heights over a grid, and how low a cutter may go over them."""

from __future__ import annotations

import math
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray

from gatepost.core.geometry.levels import WHITE, unpacked
from gatepost.core.geometry.raster import inside
from gatepost.core.job.operation import Artwork
from gatepost.core.job.relief import HeightsFigures
from gatepost.core.job.tool import Tool
from gatepost.core.motion import read_only, turned_about
from gatepost.core.profile import profile_of

Grid = NDArray[np.float32]
Mask = NDArray[np.bool_]
SKIRT = 2.0  # mm down per mm out, about what is free
LOADED = 100_000_000  # cells times those about each from which two threads pay


@dataclass(frozen=True, eq=False)
class Target:
    """z: (ny, nx) heights wanted, above the bed, mm, and about it what cutters keep to; asked: where they count; cell (j, i) stands at x0 + i·cell,
    y0 + j·cell."""

    z: Grid
    asked: Mask
    x0: float
    y0: float
    cell: float

    def __post_init__(self) -> None:
        read_only(self.z)
        read_only(self.asked)

    @property
    def lowest(self) -> float:
        """Of what is asked; the face where that is nothing, as of a picture thinner than a cell."""
        return float(self.z[self.asked].min()) if self.asked.any() else float(self.z.max())

    def across(self) -> Target:
        """The same with rows for columns."""
        return Target(np.ascontiguousarray(self.z.T), np.ascontiguousarray(self.asked.T), self.y0, self.x0, self.cell)


@dataclass(frozen=True)
class LaidBridge:
    """A strip that is left across a relief's ground. x0, y0 to x1, y1: its middle line on the face; wide, high: of it, mm, half of its height in each face."""

    x0: float
    y0: float
    x1: float
    y1: float
    wide: float
    high: float


def corners(art: Artwork, figures: HeightsFigures) -> NDArray[np.float64]:
    """Corners of its rectangle in the face, (4, 2)."""
    return on_face(art, figures, np.array([[-0.5, -0.5], [0.5, -0.5], [0.5, 0.5], [-0.5, 0.5]]))


def on_face(art: Artwork, figures: HeightsFigures, shares: NDArray[np.float64]) -> NDArray[np.float64]:
    """Places of a picture on its face, (n, 2). shares: from the picture's middle, in its widths and heights."""
    own = shares * [-figures.width if art.mirror else figures.width, figures.height]
    return np.asarray(turned_about(own, art.turn) + np.array([art.x, art.y]))


def in_picture(art: Artwork, figures: HeightsFigures, places: NDArray[np.float64]) -> NDArray[np.float64]:
    """The same the other way round."""
    own = turned_about(places - np.array([art.x, art.y]), -art.turn)
    return np.asarray(own / [-figures.width if art.mirror else figures.width, figures.height])


def target_of(
    art: Artwork, face: float, cell: float, around: float, free: bool, bridges: tuple[LaidBridge, ...] = ()
) -> Target:
    """What a height picture asks of its face. face: its height above the bed; around: how far the grid goes on about it, mm; free: whether cutters may
    run out over what is about it; bridges: that are left across it, with the middle of the wood where it is deepest."""
    figures = art.figures
    assert isinstance(figures, HeightsFigures)
    box = corners(art, figures)
    (x0, y0), (x1, y1) = box.min(axis=0), box.max(axis=0)
    n = math.ceil(around / cell) + 1
    columns, rows = (max(2, math.floor((b - a) / cell + 1e-9) + 1) for a, b in ((x0, x1), (y0, y1)))
    # the cells' middles lie evenly about the picture's
    x0 = 0.5 * (x0 + x1) - 0.5 * (columns - 1) * cell - n * cell
    y0 = 0.5 * (y0 + y1) - 0.5 * (rows - 1) * cell - n * cell
    x = x0 + cell * np.arange(columns + 2 * n)
    y = y0 + cell * np.arange(rows + 2 * n)
    z, asked = _sampled(art, figures, *np.meshgrid(x, y))
    high = np.float32(face)
    deep = figures.black + (figures.white - figures.black) * z
    heights = np.where(asked, high - deep.astype(np.float32), high).astype(np.float32)
    if free and asked.any():
        heights = _skirted(heights, asked, cell)
    for b in bridges:
        strip = shapely.LineString([(b.x0, b.y0), (b.x1, b.y1)]).buffer(b.wide / 2.0, cap_style="flat")
        over = inside(strip, float(x0), float(y0), cell, *heights.shape)
        top = high - np.float32(max(max(figures.black, figures.white) - b.high / 2.0, 0.0))  # no higher than the face
        heights = np.where(over, np.maximum(heights, top), heights)
    return Target(heights, asked, float(x0), float(y0), cell)


def _skirted(z: Grid, asked: Mask, cell: float) -> Grid:
    """What is about it falls away from its edge, so that cutters may run out there but go down no more steeply than that."""
    from scipy.ndimage import distance_transform_edt

    away, (j, i) = distance_transform_edt(~asked, sampling=cell, return_indices=True)
    return np.where(asked, z, z[j, i] - np.float32(SKIRT) * away.astype(np.float32)).astype(np.float32)


def _sampled(
    art: Artwork, figures: HeightsFigures, x: NDArray[np.float64], y: NDArray[np.float64]
) -> tuple[NDArray[np.float64], Mask]:
    """Brightness, 0 to 1, at places of the face, between the picture's samples in straight lines; and where it is asked for."""
    levels = unpacked(figures.grid, figures.rows, figures.columns)
    c, s = math.cos(math.radians(art.turn)), math.sin(math.radians(art.turn))
    dx, dy = x - art.x, y - art.y
    u, v = dx * c + dy * s, dy * c - dx * s
    u = -u if art.mirror else u
    edge = 1e-6
    within = (np.abs(u) <= figures.width / 2.0 + edge) & (np.abs(v) <= figures.height / 2.0 + edge)
    i = np.clip((u / figures.width + 0.5) * figures.columns - 0.5, 0.0, figures.columns - 1.0)
    j = np.clip((0.5 - v / figures.height) * figures.rows - 0.5, 0.0, figures.rows - 1.0)
    asked = within & (levels[np.rint(j).astype(int), np.rint(i).astype(int)] > 0)
    i0, j0 = np.minimum(i.astype(int), figures.columns - 2), np.minimum(j.astype(int), figures.rows - 2)
    corner = [levels[j0 + b, i0 + a] for b in (0, 1) for a in (0, 1)]
    fi, fj = i - i0, j - j0
    share = [(1 - fi) * (1 - fj), fi * (1 - fj), (1 - fi) * fj, fi * fj]
    weight = sum(w * (k > 0) for w, k in zip(share, corner))
    total = sum(w * np.where(k > 0, (k - 1.0) / (WHITE - 1.0), 0.0) for w, k in zip(share, corner))
    return np.where(weight > 0.0, total / np.maximum(weight, 1e-12), 0.0), asked


@dataclass(frozen=True, eq=False)
class CutterUnderside:
    """A cutter's underside over a grid. drops: (k,) float32, how far it lies over the tip; reach: (k, 2) int64, rows and columns from it."""

    drops: Grid
    reach: NDArray[np.int64]


def underside(tool: Tool, cell: float, shift: float = 0.0) -> CutterUnderside:
    """Of a cutter, by its profile. shift: of the tip along the row, in cells."""
    profile = profile_of(tool)
    radius = profile.radius
    n = math.ceil(radius / cell) + 1
    j, i = np.mgrid[-n : n + 1, -n : n + 1]
    d2 = (j**2 + (i - shift) ** 2) * cell * cell
    at = d2 <= radius * radius * (1.0 + 1e-12)
    drops = profile.height(np.minimum(np.sqrt(d2[at]), radius))
    return CutterUnderside(drops.astype(np.float32), np.column_stack([j[at], i[at]]).astype(np.int64))


def lifted(z: Grid, under: CutterUnderside, rows: NDArray[np.int64]) -> Grid:
    """How low a tip may go over each cell of some rows, (len(rows), nx)."""
    from gatepost.core.carve import relief_kernels

    out = np.empty((len(rows), z.shape[1]), np.float32)
    _in_bands(lambda a, b: relief_kernels.lift_rows(z, under.drops, under.reach, rows, out, a, b), out.shape, under)
    return out


def left_by(tips: Grid, under: CutterUnderside) -> Grid:
    """What a cutter leaves that stands at every cell as low as it may: the closing of what the tips were lifted from."""
    from gatepost.core.carve import relief_kernels

    out = np.empty_like(tips)
    _in_bands(lambda a, b: relief_kernels.lower_rows(tips, under.drops, under.reach, out, a, b), out.shape, under)
    return out


def _in_bands(work: Callable[[int, int], None], shape: tuple[int, ...], under: CutterUnderside) -> None:
    half = shape[0] // 2
    if shape[0] * shape[1] * len(under.drops) < LOADED:
        work(0, shape[0])
        return
    with ThreadPoolExecutor(2) as pool:
        list(pool.map(lambda band: work(*band), ((0, half), (half, shape[0]))))
