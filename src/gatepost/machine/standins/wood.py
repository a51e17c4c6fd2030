# SPDX-License-Identifier: GPL-3.0-or-later
"""Wood on the bed of the simulated machine: laid, shoved, turned over, stood on an end or an edge, measured with calipers."""

from __future__ import annotations

import json
from dataclasses import dataclass, field
from pathlib import Path

import numpy as np

from gatepost.machine.standins.world import turned_by

NEAR = 0.05  # mm within which a place is meant to be on an edge
NONE = -1e8  # heights below this are no wood


@dataclass
class _Body:
    """The piece in its own directions, those of the bed when it was laid first. top, below: heights over a grid of rows along Y;
    sides: how far out each end and edge stands, by its direction and from the piece's own nought, rows along Z or Y; size: of the grid."""

    top: np.ndarray
    below: np.ndarray
    size: tuple[float, float]
    cell: float
    sides: dict[tuple[int, int], np.ndarray] = field(default_factory=dict)  # by axis (0 for X, 1 for Y) and way

    def __post_init__(self) -> None:
        self.high = float(self.top.max())

    @property
    def wood(self) -> np.ndarray:
        """Which cells are wood."""
        return np.asarray(self.top > NONE)

    def silhouette(self, axis: int, way: int) -> np.ndarray:
        """How far out the piece stands along an axis, seen from one side: over Z (rows) and the other axis; NaN past it."""
        steps = max(1, round(self.high / self.cell))
        count = self.top.shape[1 - axis]
        along = self.size[axis] / count
        out = np.full((steps, self.top.shape[axis]), np.nan)
        for k in range(steps):
            z = (k + 0.5) * self.high / steps
            there = self.wood & (self.below < z) & (self.top > z)
            there = there if axis == 0 else there.T
            some = there.any(axis=1)
            first = np.argmax(there, axis=1) * along
            last = (count - np.argmax(there[:, ::-1], axis=1)) * along
            out[k, some] = (first if way < 0 else last)[some]
        return out

    def side(self, axis: int, way: int) -> np.ndarray:
        """As it was left there, and no farther out than the piece is by now."""
        now = self.silhouette(axis, way)
        left = self.sides.get((axis, way))
        if left is None:
            return now
        nearer = np.fmin(left, now) if way > 0 else np.fmax(left, now)
        return np.where(np.isnan(now), np.nan, nearer)


@dataclass
class BedWood:
    """Wood on the bed: heights above the spoilboard over a grid, bed XY. NaN-free; -1e9 where there is none.

    below: how high its underside stands, where that is known; else it lies flat. outline: its corners, for its sides. All of
    these are where it was asked to lie, meant apart: degrees and the place on the bed about which it was asked to lie turned.
    Where it really lies is that turned by skew degrees about the bed's corner, and then moved by slide. sure: how well its thickness
    is known, mm, where that was told.
    """

    z: np.ndarray
    x0: float
    y0: float
    cell: float
    below: np.ndarray | None = None
    outline: np.ndarray = field(default_factory=lambda: np.zeros((0, 2)))
    sure: float | None = None

    def __post_init__(self) -> None:
        if not len(self.outline):
            rows, columns = self.z.shape
            half = 0.5 * self.cell
            x0, y0 = self.x0 - half, self.y0 - half
            x1, y1 = x0 + columns * self.cell, y0 + rows * self.cell
            self.outline = np.array([[x0, y0], [x1, y0], [x1, y1], [x0, y1]])
        self.skew, self.slide = 0.0, np.zeros(2)
        self.meant = (0.0, 0.0, 0.0)
        self.grown = np.zeros(2)  # by how much longer and wider it is than was asked for
        self.lies = np.eye(3, dtype=int)  # X, Y and Z of the bed, told in the piece's own directions
        self.edge = self.outline - self.outline.min(axis=0)  # its corners in its own coordinates
        self.rest = 0.0  # what lies on the bed, along the piece's own axis that is upright
        self.body: _Body | None = None  # until it is turned, what lies there is all there is

    def carry(self, dx: float, dy: float) -> None:
        """Asked to lie elsewhere: it goes there as it lies."""
        by = np.array([dx, dy])
        self.x0 += dx
        self.y0 += dy
        self.outline = self.outline + by
        self.slide = self.slide + by - turned_by(self.skew) @ by

    def lie(self, dx: float, dy: float, degrees: float) -> None:
        """Laid anew: so far from where it was asked to lie, turned about its middle."""
        lying = self._meant(self.outline)
        middle = 0.5 * (lying.min(axis=0) + lying.max(axis=0))
        self.skew = degrees
        self.slide = middle + np.array([dx, dy]) - turned_by(degrees) @ middle

    def knock(self, dx: float, dy: float) -> None:
        """Moved from where it lies."""
        self.slide = self.slide + np.array([dx, dy])

    def push(self, x: float, y: float, degrees: float) -> None:
        """Turned about a place on the bed from as it lies."""
        at = np.array([x, y])
        self.skew += degrees
        self.slide = turned_by(degrees) @ (self.slide - at) + at

    def truly(self, places: np.ndarray) -> np.ndarray:
        """Where what was meant to be at places on the bed, (n, 2), really is."""
        return np.asarray(places @ turned_by(self.skew).T + self.slide)

    def _meant(self, places: np.ndarray) -> np.ndarray:
        degrees, x, y = self.meant
        at = np.array([x, y])
        return np.asarray((places - at) @ turned_by(degrees).T + at)

    def seen(self, place: np.ndarray) -> np.ndarray:
        """Where an eye finds what is meant to be at a place on the bed, (2,): a mark where it was ruled, a corner where the board really has
        one."""
        degrees, x, y = self.meant
        at = np.array([x, y])
        board = (place - at) @ turned_by(degrees) + at
        low, high = self.outline.min(axis=0), self.outline.max(axis=0)
        said_low, said_high = low + 0.5 * self.grown, high - 0.5 * self.grown
        seen = board
        if ((board > said_low - NEAR) & (board < said_high + NEAR)).all():
            for said, really in ((said_low, low), (said_high, high)):
                seen = np.where(abs(board - said) < NEAR, really, seen)
        return np.asarray(self.truly(self._meant(seen[None]))[0])

    def asked(self, places: np.ndarray) -> np.ndarray:
        """Which places of the board, not turned, lie at places on the bed, (n, 2)."""
        degrees, x, y = self.meant
        at = np.array([x, y])
        return np.asarray(((places - self.slide) @ turned_by(self.skew) - at) @ turned_by(degrees) + at)

    def in_piece(self, place: np.ndarray) -> np.ndarray:
        """Which place of the piece, in its own directions, lies at a place on the bed, (2,); it must lie flat."""
        return np.asarray((self.asked(place[None])[0] - self.outline.min(axis=0) + self._corner()) @ self.lies[:2, :2])

    def meant_at(self, piece: np.ndarray) -> np.ndarray:
        """Where on the bed a place of the piece, (2,), is meant to be as it lies."""
        here = piece @ self.lies[:2, :2].T - self._corner() + self.outline.min(axis=0)
        return np.asarray(self._meant(here[None])[0])

    def _corner(self) -> np.ndarray:
        return np.asarray((self.edge @ self.lies[:2, :2].T).min(axis=0))

    @property
    def sides(self) -> np.ndarray:
        """Its corners as it really lies."""
        return self.truly(self._meant(self.outline))

    def otherwise(self, thicker: float, longer: float, wider: float) -> None:
        """Another board than was asked for: of another thickness, length and width, about the same middle."""
        low, high = self.outline.min(axis=0), self.outline.max(axis=0)
        middle, scale = 0.5 * (low + high), 1.0 + np.array([longer, wider]) / (high - low)
        self.outline = middle + (self.outline - middle) * scale
        self.grown = np.array([longer, wider])
        self.edge = self.outline - self.outline.min(axis=0)
        rows, columns = self.z.shape
        x0, y0 = middle + (np.array([self.x0, self.y0]) - middle) * scale
        i, j = (
            np.minimum((np.arange(max(1, round(n * s))) / s + 1e-9).round().astype(int), n - 1)
            for n, s in zip((columns, rows), scale)
        )
        self.x0, self.y0 = float(x0), float(y0)
        self.z = np.where((z := self.z[np.ix_(j, i)]) > NONE, z + np.float32(thicker), z)
        self.below = self.below[np.ix_(j, i)] if self.below is not None else None

    @classmethod
    def load(cls, path: Path) -> BedWood:
        """HEIGHTS.npy with HEIGHTS.json beside it (x0, y0, cell in bed coordinates)."""
        frame = json.loads(path.with_suffix(".json").read_text("utf-8"))
        z = np.load(path, allow_pickle=False).astype(np.float32)
        under = path.with_name(path.stem + "-under.npy")
        below = np.load(under, allow_pickle=False).astype(np.float32) if under.exists() else None
        if z.ndim != 2 or z.size < 4 or (below is not None and below.shape != z.shape):
            raise ValueError("it is not a grid of heights")
        if not np.isfinite(z).any():
            raise ValueError("there is no wood in it")
        z = np.where(np.isnan(z), np.float32(-1e9), z)
        outline = np.asarray(frame.get("outline", np.zeros((0, 2))), float)
        if outline.ndim != 2 or outline.shape[1] != 2 or 0 < len(outline) < 3:
            raise ValueError("its outline has not three corners")
        x0, y0, cell = (float(frame[name]) for name in ("x0", "y0", "cell"))
        if not np.isfinite([x0, y0, cell]).all() or cell <= 0.0 or not np.isfinite(outline).all():
            raise ValueError("where it lies is not told in numbers")
        sure = frame.get("thickness_good_to")
        if sure is not None and not (isinstance(sure, (int, float)) and 0.0 <= sure <= 10.0):
            raise ValueError("how well its thickness is known is not told in a number")
        wood = cls(z, x0, y0, cell, below, outline, sure)
        degrees, x, y = (float(v) for v in frame.get("turned", (0.0, 0.0, 0.0)))
        if not np.isfinite([degrees, x, y]).all():
            raise ValueError("by how much it lies turned is not told in numbers")
        wood.meant = (degrees, x, y)
        return wood

    def turn(self, ways: np.ndarray) -> None:
        """Turned as a whole. ways: X, Y and Z of the bed then, told in the bed's directions now; its corner stays where it is,
        and it lies on the highest places of what comes to be down."""
        corner = np.array([self.x0, self.y0]) - 0.5 * self.cell
        at = self.outline.min(axis=0)
        body = self._kept()
        self.lies = ways @ self.lies
        if self.lies[2, 2]:
            self._shown_flat(body)
            self.x0, self.y0 = corner + 0.5 * self.cell
            edge = self.edge @ self.lies[:2, :2].T
            edge = edge - edge.min(axis=0) + at
            self.outline = edge[::-1].copy() if self.lies[2, 2] < 0 else edge
        else:
            self._shown_on_a_side(body, at)

    def _kept(self) -> _Body:
        """The piece with what lies on the bed now written back to it."""
        if self.body is None:
            below = self.below if self.below is not None else np.zeros_like(self.z)
            size = self.edge.max(axis=0)
            self.body = _Body(self.z, below, (float(size[0]), float(size[1])), self.cell)
            return self.body
        body, up = self.body, self.lies[2]
        z = self._unlaid(self.z)
        if up[2] > 0:
            body.top = np.where(z > NONE, z + np.float32(self.rest), z)
        elif up[2] < 0:
            body.below = np.where(z > NONE, np.float32(self.rest) - z, body.below)
        else:
            axis = 0 if up[0] else 1
            way = int(up[axis])
            body.sides[axis, way] = np.where(z > NONE, self.rest + way * z.astype(float), np.nan)
        return body

    def _shown_flat(self, body: _Body) -> None:
        """With its front or its back up: on the lowest of the one, or the highest of the other."""
        wood = body.wood
        if self.lies[2, 2] > 0:
            self.rest = float(body.below[wood].min())
            top, below = body.top - np.float32(self.rest), body.below - np.float32(self.rest)
        else:
            self.rest = float(body.top[wood].max())
            top, below = np.float32(self.rest) - body.below, np.float32(self.rest) - body.top
        self.z = self._laid(np.where(wood, top, np.float32(-1e9)).astype(np.float32))
        self.below = self._laid(np.where(wood, below, np.float32(0.0)).astype(np.float32))

    def _shown_on_a_side(self, body: _Body, at: np.ndarray) -> None:
        """With an end or an edge up. at: its corner on the bed."""
        up = self.lies[2]
        axis = 0 if up[0] else 1
        way = int(up[axis])
        out, under = body.side(axis, way), body.side(axis, -way)
        wood = ~np.isnan(out) & ~np.isnan(under)
        self.rest = float(np.nanmin(under)) if way > 0 else float(np.nanmax(under))
        top = np.where(wood, way * (out - self.rest), -1e9)
        below = np.where(wood, way * (under - self.rest), 0.0)
        self.z, self.below = (self._laid(a.astype(np.float32)) for a in (top, below))
        rows, columns = (np.nonzero((self.z > NONE).any(axis=a))[0] for a in (1, 0))
        self.x0, self.y0 = float(at[0] + (0.5 - columns[0]) * self.cell), float(at[1] + (0.5 - rows[0]) * self.cell)
        thick = float(body.top[body.wood].max() - body.below[body.wood].min())
        wide, deep = (thick if way_of[2] else body.size[0 if way_of[0] else 1] for way_of in self.lies[:2])
        self.outline = at + np.array([[0.0, 0.0], [wide, 0.0], [wide, deep], [0.0, deep]])

    def _laid(self, grid: np.ndarray) -> np.ndarray:
        """A grid of the piece's own as the bed has it: rows along the bed's Y."""
        right, back, up = self.lies
        rows = 2 if not up[2] else 1  # what the grid's rows go along: Z for a side, else Y
        grid = grid if back[rows] else grid.T
        across = 1 if right.sum() > 0 else -1
        along = 1 if back.sum() > 0 else -1
        return np.ascontiguousarray(grid[::along, ::across])

    def _unlaid(self, grid: np.ndarray) -> np.ndarray:
        """The way back."""
        right, back, up = self.lies
        grid = grid[:: 1 if back.sum() > 0 else -1, :: 1 if right.sum() > 0 else -1]
        return np.ascontiguousarray(grid if back[2 if not up[2] else 1] else grid.T)

    def corners(self) -> list[float]:
        """What calipers show near the corners: front left, front right, back right, back left."""
        below = self.below if self.below is not None else np.zeros_like(self.z)
        rows, columns = np.nonzero(self.z > NONE)
        shares = ((0.06, 0.1), (0.94, 0.1), (0.94, 0.9), (0.06, 0.9))
        out = []
        for x, y in shares:
            i, j = columns.min() + x * np.ptp(columns), rows.min() + y * np.ptp(rows)
            near = int(np.argmin((columns - i) ** 2 + (rows - j) ** 2))
            out.append(round(float(self.z[rows[near], columns[near]] - below[rows[near], columns[near]]), 2))
        return out

    def about(self, x: float, y: float, near: float, about: float) -> tuple[float | None, float, float]:
        """How thick it is in its lowest place so near one that is meant, and in its highest about it; nothing where there is no wood; and how deep that lowest place
        lies under the highest about it, whatever the other face is like."""
        ((px, py),) = self.asked(self.truly(np.array([[x, y]])))
        below = self.below if self.below is not None else np.zeros_like(self.z)
        parts, tops = [], []
        for far in (near, about):
            i0, i1 = (int(round((px + way * far - self.x0) / self.cell)) for way in (-1, 1))
            j0, j1 = (int(round((py + way * far - self.y0) / self.cell)) for way in (-1, 1))
            rows, columns = slice(max(j0, 0), max(j1 + 1, 0)), slice(max(i0, 0), max(i1 + 1, 0))
            z = self.z[rows, columns]
            parts.append((z - below[rows, columns])[z > NONE])
            tops.append(z[z > NONE])
        lowest, highest = parts
        if not len(lowest):
            return None, 0.0, 0.0
        return float(lowest.min()), float(highest.max()), float(tops[1].max() - tops[0].min())

    def highest(self, x: float, y: float, radius: float) -> float:
        """Height of the highest wood over the spoilboard within a radius of a bed place; 0 where there is none."""
        if radius < self.cell:
            return self.under(x, y)
        ((px, py),) = self.asked(np.array([[x, y]]))
        i0, i1, j0, j1 = (
            max(0, round((p + way * radius - low) / self.cell) + (way > 0))
            for p, low in ((px, self.x0), (py, self.y0)) for way in (-1, 1)
        )  # fmt: skip
        z = self.z[j0:j1, i0:i1]
        if not z.size:
            return 0.0
        yy, xx = np.mgrid[j0 : j0 + z.shape[0], i0 : i0 + z.shape[1]]
        within = np.hypot(xx * self.cell + self.x0 - px, yy * self.cell + self.y0 - py) <= radius + 0.5 * self.cell
        there = z[within & (z > NONE)]
        return max(0.0, float(there.max())) if len(there) else 0.0

    def under(self, x: float, y: float) -> float:
        """Height of wood over the spoilboard at a bed place; 0 where there is none."""
        ((px, py),) = self.asked(np.array([[x, y]]))
        i, j = round((px - self.x0) / self.cell), round((py - self.y0) / self.cell)
        if 0 <= j < self.z.shape[0] and 0 <= i < self.z.shape[1]:
            return max(0.0, float(self.z[j, i])) if self.z[j, i] > NONE else 0.0
        return 0.0
