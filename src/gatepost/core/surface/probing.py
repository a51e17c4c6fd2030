# SPDX-License-Identifier: GPL-3.0-or-later
"""Where a machine probes a face, and what its touches come to: a grid fitted to the outline, and heights above the bed."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry import Point

from gatepost.core.errors import OperatorError
from gatepost.core.geometry.outline import Area
from gatepost.core.units import mm

Array = NDArray[np.float64]
MOST = 600  # places of one probing
RIM = 3.0  # mm that a place keeps from the outline, over its ±
MOSTLY = 0.6  # of the longest row that the first and the last have
AGREE = 0.05  # mm within which two touches of one place agree
BESIDE = 25.0  # mm beside the board where the bed is touched


@dataclass(frozen=True)
class Places:
    """Where the tip goes, blank coordinates. spots: (n, 2) in the order they are gone to, back and forth; bed: beside the
    board, where the spoilboard is touched first."""

    spots: Array
    bed: tuple[float, float]


def places(area: Area, spacing: float, keep_off: Sequence[Area], reach: Area) -> Places:
    """A grid over an outline. area: the board; spacing: mm at the most; keep_off: what stands on the bed, with the room
    that the probe wants; reach: where the machine gets to; all on the board as it lies. Raises OperatorError.
    """
    if not math.isfinite(spacing) or spacing < 5.0:
        raise OperatorError("Places nearer than 5 mm to each other tell nothing more. Choose a wider grid.")
    inner = area.buffer(-RIM)
    if inner.is_empty:
        raise OperatorError("The board is too narrow to be probed.")
    x0, y0, x1, y1 = inner.bounds
    y0, y1 = _ends(inner)
    across, up = max(2, math.ceil((x1 - x0) / spacing) + 1), max(2, math.ceil((y1 - y0) / spacing) + 1)
    if across * up > 4 * MOST:
        raise OperatorError(f"That grid has over {MOST} places. Choose a wider one.")
    free = shapely.difference(inner, shapely.union_all(list(keep_off))) if keep_off else inner
    free = shapely.intersection(free, reach)
    shapely.prepare(free)
    rows = []
    for j, y in enumerate(np.linspace(y0, y1, up)):
        left, _, right, _ = shapely.intersection(inner, shapely.box(x0, y - 0.01, x1, y + 0.01)).bounds
        xs = np.linspace(left + 0.05, right - 0.05, across)
        row = np.column_stack([xs, np.full(across, y)])
        row = row[shapely.intersects_xy(free, row[:, 0], row[:, 1])]
        rows.append(row[::-1] if j % 2 else row)
    spots = np.vstack(rows)
    if len(spots) > MOST:
        raise OperatorError(f"That grid has {len(spots)} places; {MOST} are the most. Choose a wider one.")
    if len(spots) < 3:
        raise OperatorError("Fewer than three places of that grid lie on the board, in reach and clear of the holds.")
    return Places(spots, _beside(area, keep_off, reach))


def _ends(area: Area) -> tuple[float, float]:
    """The first and the last row that lie along most of an outline, and not on a bulge of its edge alone."""
    x0, y0, x1, y1 = area.bounds
    ys = np.linspace(y0 + 0.02, y1 - 0.02, 101)
    lines = shapely.linestrings([[(x0, y), (x1, y)] for y in ys])
    long = shapely.length(shapely.intersection(area, lines))
    good = ys[long >= MOSTLY * long.max()]
    return float(good[0]), float(good[-1])


def _beside(area: Area, keep_off: Sequence[Area], reach: Area) -> tuple[float, float]:
    """A place of the bed beside the board, clear of everything. Raises OperatorError."""
    x0, y0, x1, y1 = area.bounds
    taken = shapely.union_all([area.buffer(BESIDE / 2.0), *keep_off])
    middle = ((x0 + x1) / 2.0, (y0 + y1) / 2.0)
    tried = [(x0 - BESIDE, middle[1]), (x1 + BESIDE, middle[1]), (middle[0], y0 - BESIDE), (middle[0], y1 + BESIDE)]
    tried += [(x, y) for x in (x0 - BESIDE, x1 + BESIDE) for y in (y0, y1)]
    for x, y in tried:
        if reach.intersects(Point(x, y)) and not taken.intersects(Point(x, y)):
            return (x, y)
    raise OperatorError("There is no place beside the board where the bed can be touched. Move the board or a hold.")


@dataclass(frozen=True)
class ProbeTouch:
    """One place as it was probed. z: machine Z of the second touch, nothing where there was no wood; spread: between its
    two touches, mm."""

    x: float
    y: float
    z: float | None
    spread: float = 0.0


@dataclass(frozen=True)
class Probed:
    """What a probing came to. heights: rows of x, y, z above the bed; skipped: places without wood; unsure: places whose
    touches did not agree; spread: the widest, mm."""

    heights: tuple[tuple[float, float, float], ...]
    skipped: tuple[tuple[float, float], ...]
    unsure: tuple[tuple[float, float], ...]
    spread: float

    def words(self) -> str:
        """What there is to say of it."""
        said = f"{len(self.heights)} heights, touches within {mm(self.spread, 3)}"
        if self.skipped:
            said += f"; no wood at {len(self.skipped)} places"
        if self.unsure:
            x, y = self.unsure[0]
            said += f"; {len(self.unsure)} did not agree and were left out, the first at X {mm(x)}, Y {mm(y)}: brush off fuzz and chips"
        return said + "."


def probed(touches: Sequence[ProbeTouch], bed: float, least: float) -> Probed:
    """Heights above the bed. bed: machine Z of the bed; least: lower than this above it there is no wood, mm.

    Raises OperatorError when fewer than three places are left.
    """
    heights, skipped, unsure = [], [], []
    widest = 0.0
    for t in touches:
        if t.z is None or t.z - bed < least:
            skipped.append((t.x, t.y))
        elif t.spread > AGREE:
            unsure.append((t.x, t.y))
        else:
            widest = max(widest, t.spread)
            heights.append((round(t.x, 2), round(t.y, 2), round(t.z - bed, 3)))
    if len(heights) < 3:
        raise OperatorError(
            f"Only {len(heights)} places gave a height that can be trusted: {len(skipped)} had no wood and {len(unsure)} did "
            "not agree. Nothing was changed."
        )
    return Probed(tuple(heights), tuple(skipped), tuple(unsure), widest)


def minutes(spots: Array, rapid: float, lift: float, slow: float) -> float:
    """About how long it takes. rapid: mm/min across; lift: mm each way at each place; slow: seconds of touching there."""
    way = float(np.linalg.norm(np.diff(spots, axis=0), axis=1).sum()) if len(spots) > 1 else 0.0
    return way / rapid + len(spots) * (2.0 * lift / 1500.0 + slow / 60.0)
