# SPDX-License-Identifier: GPL-3.0-or-later
"""Points and transforms typed by frame; docs/frames.md draws them.

bed: front-left corner of the bed's plate, X right, Y back, Z up from the spoilboard's face.
machine: home is nought, so coordinates are usually negative; of the spindle nose's reference point.
blank: the board's own lower-left-bottom, front face up. work: X0 Y0 Z0 of the setup, as programs use it.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Generic, TypeVar

import numpy as np
from numpy.typing import NDArray


class Frame:
    """The kind of a frame; only its subclasses are used, and only as types."""


class Bed(Frame):
    """Bed frame."""


class Machine(Frame):
    """Machine frame."""


class Blank(Frame):
    """Blank frame."""


class Work(Frame):
    """Work frame."""


F = TypeVar("F", bound=Frame)
G = TypeVar("G", bound=Frame)
H = TypeVar("H", bound=Frame)


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


@dataclass(frozen=True)
class Transform(Generic[F, G]):
    """From frame F to frame G: turn about Z by ``turn`` degrees, then shift by (x, y, z) mm."""

    x: float = 0.0
    y: float = 0.0
    z: float = 0.0
    turn: float = 0.0

    def apply(self, point: Point[F]) -> Point[G]:
        """The same point, told in the other frame."""
        c, s = math.cos(math.radians(self.turn)), math.sin(math.radians(self.turn))
        return Point(c * point.x - s * point.y + self.x, s * point.x + c * point.y + self.y, point.z + self.z)

    def apply_array(self, points: NDArray[np.float64]) -> NDArray[np.float64]:
        """Points of shape (n, 3), mm, in the other frame."""
        c, s = math.cos(math.radians(self.turn)), math.sin(math.radians(self.turn))
        out = np.empty_like(points)
        out[:, 0] = c * points[:, 0] - s * points[:, 1] + self.x
        out[:, 1] = s * points[:, 0] + c * points[:, 1] + self.y
        out[:, 2] = points[:, 2] + self.z
        return out

    def inverse(self) -> Transform[G, F]:
        """The way back."""
        c, s = math.cos(math.radians(-self.turn)), math.sin(math.radians(-self.turn))
        return Transform(-(c * self.x - s * self.y), -(s * self.x + c * self.y), -self.z, -self.turn)

    def then(self, after: Transform[G, H]) -> Transform[F, H]:
        """This, and after it another."""
        moved = after.apply(Point(self.x, self.y, self.z))
        return Transform(moved.x, moved.y, moved.z, self.turn + after.turn)


def bed_to_machine(travel_x: float, travel_y: float, nose_at_home: float, stickout: float) -> Transform[Bed, Machine]:
    """Machine coordinates that put the tool's tip on a bed point.

    Home is back right at the top. nose_at_home: height of the spindle nose over the spoilboard at home;
    stickout: tip below the nose, so it changes with every bit and every grip.
    """
    return Transform(-travel_x, -travel_y, stickout - nose_at_home)
