# SPDX-License-Identifier: GPL-3.0-or-later
"""The board turned over, stood on another face or turned on its plane: where its places, its holds and it itself come to lie.

A face is named as the finished piece hangs, its front towards whoever looks. On the bed with the front up, the top is the edge
at the back, the left end on the left.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import NamedTuple

from gatepost.core.job.base import changed
from gatepost.core.job.blank import Blank
from gatepost.core.job.hold import Hold
from gatepost.core.job.model import Job, Setup
from gatepost.core.job.operation import Face

Way = tuple[int, int, int]  # a direction along one of the board's own axes
Row = tuple[float, float, float, float]
Ways = tuple[Way, Way, Way]  # X, Y and Z of the board as it lies, told in its own directions

OUT: dict[Face, Way] = {  # where each face looks, the board's own directions
    "front": (0, 0, 1), "back": (0, 0, -1), "left": (-1, 0, 0), "right": (1, 0, 0), "top": (0, 1, 0), "bottom": (0, -1, 0),
}  # fmt: skip
OPPOSITE: dict[Face, Face] = {
    "front": "back", "back": "front", "left": "right", "right": "left", "top": "bottom", "bottom": "top",
}  # fmt: skip
FACES: dict[Face, str] = {  # as people are told them
    "front": "front face", "back": "back face", "left": "left end", "right": "right end", "top": "top edge", "bottom": "bottom edge",
}  # fmt: skip
SIDES: tuple[Face, ...] = ("left", "right", "top", "bottom")
# As the face is read by someone who looks at it while the piece hangs; the top from above with the front nearest, the bottom likewise.
_READ: dict[Face, Ways] = {
    "front": ((1, 0, 0), (0, 1, 0), (0, 0, 1)), "back": ((-1, 0, 0), (0, 1, 0), (0, 0, -1)),
    "left": ((0, 0, 1), (0, 1, 0), (-1, 0, 0)), "right": ((0, 0, -1), (0, 1, 0), (1, 0, 0)),
    "top": ((1, 0, 0), (0, 0, -1), (0, 1, 0)), "bottom": ((1, 0, 0), (0, 0, 1), (0, -1, 0)),
}  # fmt: skip
BACK_SPIN = 180  # a back turned over about X is read upside down


class Lay(NamedTuple):
    """How a board lies: the face that is up, and degrees that it is turned by on its plane then, against the clock."""

    up: Face
    spin: int = 0

    @property
    def ways(self) -> Ways:
        """X, Y and Z on the bed, told in the board's own directions."""
        return _spun(_READ[self.up], self.spin + (BACK_SPIN if self.up == "back" else 0))

    @property
    def beside(self) -> tuple[Face, Face]:
        """The face that looks towards whoever stands before the machine, and the one that looks to the right."""
        right, back, _ = self.ways
        return _face((-back[0], -back[1], -back[2])), _face(right)


FLAT = Lay("front")


def _face(out: Way) -> Face:
    return next(face for face, way in OUT.items() if way == out)


def _spun(ways: Ways, degrees: int) -> Ways:
    """The same, turned against the clock by quarters of a turn."""
    x, y, z = ways
    for _ in range(degrees // 90 % 4):
        x, y = (-y[0], -y[1], -y[2]), x
    return x, y, z


def lies(setup: Setup) -> Lay:
    """How the board lies in a setup."""
    return Lay(setup.up, setup.spin)


def relative(before: Lay, now: Lay) -> Ways:
    """The turn from one lie to another: X, Y and Z of the bed then, told in the bed's directions before."""
    old = before.ways
    a, b, c = (tuple(sum(p * q for p, q in zip(way, axis)) for axis in old) for way in now.ways)
    return a, b, c  # type: ignore[return-value]


def about(before: Lay, now: Lay) -> str:
    """About what a board is turned over between two lies; nothing where it is not simply turned over."""
    x, y, z = relative(before, now)
    if z != (0, 0, -1):
        return ""
    return {(1, 0, 0): "about X", (-1, 0, 0): "about Y"}.get(x, "")


def face_reads(face: Face) -> Ways:
    """X and Y of a face as it is read, and where it looks, in the board's own directions."""
    return _READ[face]


@dataclass(frozen=True)
class Turned:
    """A board of a size, turned. rows: the upper three of a 4 x 4 matrix from the board's own coordinates to those of the board
    as it lies, its lower left at 0; size: of the box about it as it lies, mm."""

    rows: tuple[Row, Row, Row]
    size: tuple[float, float, float]

    def at(self, x: float, y: float, z: float = 0.0) -> tuple[float, float, float]:
        """A place of the board once it is turned."""
        a, b, c = (r[0] * x + r[1] * y + r[2] * z + r[3] for r in self.rows)
        return a, b, c


def turned(length: float, width: float, thick: float, lie: Lay) -> Turned:
    """A board that lay front up, its lower left at 0, laid otherwise."""
    return _into(lie.ways, (length, width, thick))


def face_turned(length: float, width: float, lie: Lay) -> Turned:
    """From the face that is up, as it is read from its own lower left, to the board as it lies, so long and so wide there; heights are
    left as they are."""
    spin = lie.spin + (BACK_SPIN if lie.up == "back" else 0)
    across, up = (length, width) if spin % 180 == 0 else (width, length)
    return _into(_spun(_READ["front"], spin), (across, up, 0.0))


def face_size(blank: Blank, face: Face) -> tuple[float, float]:
    """How long and how wide a face is as it is read, of a board as thick as it was sold."""
    across, up, _ = _into(_READ[face], (blank.length, blank.width, blank.label_thickness)).size
    return across, up


def _into(ways: Ways, box: tuple[float, float, float]) -> Turned:
    def row(way: Way, along: float) -> Row:
        return float(way[0]), float(way[1]), float(way[2]), along if min(way) < 0 else 0.0

    x, y, z = (sum(abs(w) * b for w, b in zip(way, box)) for way in ways)
    return Turned((row(ways[0], x), row(ways[1], y), row(ways[2], z)), (x, y, z))


@dataclass(frozen=True)
class Standing:
    """The rectangle about a board as it lies in a setup, in its own coordinates there, and how high it is as sold."""

    x0: float
    y0: float
    x1: float
    y1: float
    high: float

    def part(self, fx: float, fy: float) -> tuple[float, float]:
        """A place at so much of the way along and across, from its lower left."""
        return self.x0 + (self.x1 - self.x0) * fx, self.y0 + (self.y1 - self.y0) * fy


def standing_in(job: Job, setup: Setup) -> Standing:
    """How a board lies in a setup, told without a plan."""
    b = job.blank
    x0, y0, x1, y1 = b.box
    to = turned(b.length, b.width, b.label_thickness, lies(setup))
    ends = [to.at(x, y, z) for x, y, z in ((x0, y0, 0.0), (x1, y1, b.label_thickness))]
    low, high = ([f(a, c) for a, c in zip(*ends)] for f in (min, max))
    return Standing(low[0], low[1], high[0], high[1], high[2] - low[2])


def other_face(job: Job) -> Setup | None:
    """The setup of the second face, where there is one."""
    return next((s for s in job.setups if s.up == "back"), None)


def there(blank: Blank, turn: str, x: float, y: float) -> tuple[float, float]:
    """A place of the board in its coordinates once it is turned over; the same again turns it back."""
    return (x, blank.width - y) if turn == "about X" else (blank.length - x, y)


def turned_hold(hold: Hold, old: Setup, blank: Blank, turn: str) -> Hold:
    """A hold mirrored with the board, so that it bears on the same edge."""
    x, y = there(blank, turn, hold.x - old.x, hold.y - old.y)
    heading = -hold.heading if turn == "about X" else 180.0 - hold.heading
    return changed(hold, x=old.x + x, y=old.y + y, heading=math.remainder(heading, 360.0))
