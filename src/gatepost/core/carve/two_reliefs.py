# SPDX-License-Identifier: GPL-3.0-or-later
"""Reliefs on two opposite faces that belong together: which they are, the bridges that both leave, and where bridges may go."""

from __future__ import annotations

import math
from collections.abc import Iterator

import numpy as np
from numpy.typing import NDArray
from shapely.geometry import Polygon

from gatepost.core.carve.target import LaidBridge, corners, in_picture, on_face
from gatepost.core.job.blank import Blank
from gatepost.core.job.model import Job, Setup
from gatepost.core.job.operation import Artwork, Face, Operation
from gatepost.core.job.relief import HeightsFigures, Relief, ReliefBridge
from gatepost.core.job.turning import OPPOSITE, face_size

Array = NDArray[np.float64]
SECTORS = 8  # ways in which the round is shared out among bridges
MIDDLE = 0.2  # of a sector either side of its middle, in which a bridge stands
LEAST = 2  # bridges: one alone is a hinge


def from_behind(blank: Blank, face: Face, places: Array) -> Array:
    """Places of a face, (n, 2), as they are read on the opposite face."""
    across, up = face_size(blank, face)
    if face in ("top", "bottom"):
        return np.asarray(places * [1.0, -1.0] + [0.0, up])
    return np.asarray(places * [-1.0, 1.0] + [across, 0.0])


def reliefs_behind(job: Job, face: Face, art: Artwork) -> Iterator[tuple[Setup, Operation, Artwork]]:
    """Reliefs of the opposite face that lie over some of one, each with where it is carved."""
    mine = Polygon(corners(art, heights(art)))
    for setup in job.setups:
        for o in setup.operations if setup.up == OPPOSITE[face] else ():
            other = relief_art(job, o)
            if other is not None:
                theirs = Polygon(from_behind(job.blank, setup.up, corners(other, heights(other))))
                if theirs.intersection(mine).area > 0.0:
                    yield setup, o, other


def relief_art(job: Job, o: Operation) -> Artwork | None:
    """The heights that an operation carves, if it does."""
    if not isinstance(o.figures, Relief):
        return None
    return next((a for a in job.artwork if a.id in o.on and isinstance(a.figures, HeightsFigures)), None)


def heights(art: Artwork) -> HeightsFigures:
    """Of a height picture."""
    assert isinstance(art.figures, HeightsFigures)
    return art.figures


def bridges_of(job: Job, setup: Setup, art: Artwork) -> tuple[LaidBridge, ...]:
    """All bridges that a relief leaves, as its face is read: its own, and those of reliefs behind it."""
    out: list[LaidBridge] = []
    for o in setup.operations:
        if relief_art(job, o) is art:
            out += [_laid(o, art, b, None, setup.up) for b in _bridges(o)]
    for there, o, other in reliefs_behind(job, setup.up, art):
        out += [_laid(o, other, b, job.blank, there.up) for b in _bridges(o)]
    return tuple(out)


def _bridges(o: Operation) -> tuple[ReliefBridge, ...]:
    return o.figures.bridges if isinstance(o.figures, Relief) else ()


def _laid(o: Operation, art: Artwork, b: ReliefBridge, behind: Blank | None, face: Face) -> LaidBridge:
    assert isinstance(o.figures, Relief)
    ends = on_face(art, heights(art), np.array([[b.x0, b.y0], [b.x1, b.y1]]))
    ends = from_behind(behind, face, ends) if behind is not None else ends
    (x0, y0), (x1, y1) = ends.tolist()
    return LaidBridge(x0, y0, x1, y1, o.figures.bridge_wide, o.figures.bridge_high)


def bridge_places(left: NDArray[np.float32], loose: NDArray[np.bool_], held: NDArray[np.bool_], cell: float, count: int, wide: float, high: float) -> list[Array]:  # fmt: skip
    """Middle lines of bridges from a piece that nothing holds to what is held, each (2, 2) in cells (column, row): in even sectors round the piece, in each
    where the way across is shortest, and on into the wood on either side to where it is as thick as the bridge. left: how thick the wood is, mm; loose, held: cells of either;
    wide, high: of a bridge, mm. Empty where there is no way."""
    import cv2
    from scipy.ndimage import distance_transform_edt

    if not loose.any() or not held.any():
        return []
    rim = loose & (cv2.erode(loose.astype(np.uint8), np.ones((3, 3), np.uint8), borderValue=0) == 0)
    rows, columns = np.nonzero(rim)
    _, (near_j, near_i) = distance_transform_edt(~held, return_indices=True)
    a = np.column_stack([columns, rows]).astype(np.float64)
    b = np.column_stack([near_i[rows, columns], near_j[rows, columns]]).astype(np.float64)
    across = np.hypot(*(a - b).T)
    middle = a.mean(axis=0)
    angle = np.degrees(np.arctan2(*(a - middle).T[::-1])) % 360.0
    best: tuple[float, list[int]] = (math.inf, [])
    for phase in np.arange(SECTORS) / SECTORS * 360.0 / count:
        sector, within = np.divmod((angle - phase) % 360.0 / (360.0 / count), 1.0)
        mine = [np.flatnonzero((sector == s) & (np.abs(within - 0.5) < MIDDLE)) for s in range(count)]
        chosen = [int(m[np.argmin(across[m])]) for m in mine if len(m)]
        apart = [math.dist(a[p], a[q]) * cell for n, p in enumerate(chosen) for q in chosen[:n]]
        if len(chosen) == count and min(apart, default=math.inf) >= 1.5 * wide and across[chosen].sum() < best[0]:
            best = (float(across[chosen].sum()), chosen)
    return [_into_wood(left, a[k], b[k], high, cell) for k in best[1]]


FARTHEST = 25.0  # mm that a bridge goes on into wood


def _into_wood(left: NDArray[np.float32], a: Array, b: Array, high: float, cell: float) -> Array:
    """A way across, made longer at either end until the wood there is as thick as a bridge."""
    way = (a - b) / max(float(np.hypot(*(a - b))), 1e-9)
    return np.array([_thick(left, a, way, high, cell), _thick(left, b, -way, high, cell)])


def _thick(left: NDArray[np.float32], at: Array, way: Array, high: float, cell: float) -> Array:
    rows, columns = left.shape
    for n in range(round(FARTHEST / cell)):
        i, j = np.rint(at + way * n).astype(int)
        if not (0 <= i < columns and 0 <= j < rows):
            return np.asarray(at + way * max(n - 1, 0))
        if left[j, i] >= high:
            return np.asarray(at + way * n)
    return np.asarray(at + way * round(FARTHEST / cell))


def as_bridges(art: Artwork, ends: list[Array]) -> list[dict[str, float]]:
    """Bridges by their ends on a picture's face, mm, as they are kept."""
    out = []
    for pair in ends:
        (x0, y0), (x1, y1) = in_picture(art, heights(art), pair).tolist()
        out.append({"x0": round(x0, 5), "y0": round(y0, 5), "x1": round(x1, 5), "y1": round(y1, 5)})
    return out
