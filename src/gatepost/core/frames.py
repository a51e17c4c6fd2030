# SPDX-License-Identifier: GPL-3.0-or-later
"""Points and matrices typed by frame; docs/frames.md draws them.

bed: front-left corner of the bed's plate, X right, Y back, Z up from the spoilboard's face.
machine: home is nought, so coordinates are usually negative; of the spindle nose's reference point.
blank: the board's own lower-left-bottom, front face up. board: the same of the board as it lies in a setup, turned over or
not, its underside at 0. face: of one of its six faces as it is read while the piece hangs, from its lower left. work: X0 Y0 Z0 of the setup, as programs use it.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Generic, TypeVar

import numpy as np
from numpy.typing import NDArray
from shapely import affinity
from shapely.geometry.base import BaseGeometry

from gatepost.core.motion import Moves


class Frame:
    """The kind of a frame; only its subclasses are used, and only as types."""


class Bed(Frame):
    """Bed frame."""


class MachineFrame(Frame):
    """Machine frame."""


class BlankFrame(Frame):
    """Blank frame."""


class Board(Frame):
    """Board frame."""


class FaceFrame(Frame):
    """Of a face as it is read while the piece hangs."""


class Work(Frame):
    """Work frame."""


F = TypeVar("F", bound=Frame)
G = TypeVar("G", bound=Frame)
H = TypeVar("H", bound=Frame)
G_ = TypeVar("G_", bound=BaseGeometry)


@dataclass(frozen=True)
class Point(Generic[F]):
    """A point of one frame, mm."""

    x: float
    y: float
    z: float = 0.0

    @property
    def xy(self) -> tuple[float, float]:
        """Its place seen from above."""
        return (self.x, self.y)


Row = tuple[float, float, float, float]
_NIL: tuple[Row, Row, Row] = ((1.0, 0.0, 0.0, 0.0), (0.0, 1.0, 0.0, 0.0), (0.0, 0.0, 1.0, 0.0))


@dataclass(frozen=True)
class Matrix(Generic[F, G]):
    """From frame F to frame G: the upper three rows of a 4 x 4 matrix, whose last row is 0 0 0 1; shifts in mm."""

    rows: tuple[Row, Row, Row] = _NIL

    def apply(self, point: Point[F]) -> Point[G]:
        """The same point, told in the other frame."""
        return Point(*(a * point.x + b * point.y + c * point.z + d for a, b, c, d in self.rows))

    def xy(self, x: float, y: float) -> tuple[float, float]:
        """A place seen from above, told in the other frame."""
        return self.apply(Point(x, y)).xy

    def array(self, points: NDArray[np.float64]) -> NDArray[np.float64]:
        """Points of shape (n, 3), or places of shape (n, 2), in the other frame."""
        n = points.shape[1]
        out = np.empty((len(points), n))
        for i, row in enumerate(self.rows[:n]):
            out[:, i] = sum(row[j] * points[:, j] for j in range(n)) + row[3]
        return out

    def area(self, geometry: G_) -> G_:
        """What is seen from above, in the other frame."""
        (a, b, _, x), (c, d, _, y), _z = self.rows
        return affinity.affine_transform(geometry, (a, b, c, d, x, y))  # type: ignore[no-any-return]

    def moves(self, moves: Moves) -> Moves:
        """Moves in the other frame."""
        return Moves(self.array(np.asarray(moves.points)), moves.rapid, moves.feed)

    @property
    def turn(self) -> float:
        """By how many degrees X lies turned, seen from above, positive against the clock."""
        return math.degrees(math.atan2(self.rows[1][0], self.rows[0][0]))

    def inverse(self) -> Matrix[G, F]:
        """The way back."""
        turn = np.linalg.inv(np.array([row[:3] for row in self.rows]))
        shift = -turn @ np.array([row[3] for row in self.rows])
        return Matrix(_rows(turn, shift))

    def then(self, after: Matrix[G, H]) -> Matrix[F, H]:
        """This, and after it another."""
        mine, other = self.square, after.square
        both = other @ mine
        return Matrix(_rows(both[:3, :3], both[:3, 3]))

    @property
    def square(self) -> NDArray[np.float64]:
        """(4, 4), as it is written."""
        return np.array([*self.rows, (0.0, 0.0, 0.0, 1.0)])


def _rows(turn: NDArray[np.float64], shift: NDArray[np.float64]) -> tuple[Row, Row, Row]:
    first, second, third = ((*(float(v) + 0.0 for v in t), float(s) + 0.0) for t, s in zip(turn, shift, strict=True))
    return first, second, third  # type: ignore[return-value]


def shift(x: float, y: float, z: float = 0.0) -> Matrix[F, G]:
    """Moved by an amount."""
    return Matrix(((1.0, 0.0, 0.0, x), (0.0, 1.0, 0.0, y), (0.0, 0.0, 1.0, z)))


def turn(degrees: float) -> Matrix[F, G]:
    """Turned about Z, positive against the clock seen from above."""
    c, s = math.cos(math.radians(degrees)), math.sin(math.radians(degrees))
    return Matrix(((c, -s, 0.0, 0.0), (s, c, 0.0, 0.0), (0.0, 0.0, 1.0, 0.0)))


def bed_to_machine(travel_x: float, travel_y: float, nose_at_home: float, stickout: float) -> Matrix[Bed, MachineFrame]:
    """Machine coordinates that put the tool's tip on a bed point.

    Home is back right at the top. nose_at_home: height of the spindle nose over the spoilboard at home;
    stickout: tip below the nose, so it changes with every bit and every grip.
    """
    return shift(-travel_x, -travel_y, stickout - nose_at_home)
