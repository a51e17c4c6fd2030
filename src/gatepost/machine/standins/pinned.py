# SPDX-License-Identifier: GPL-3.0-or-later
"""Holes that go right through the piece into the spoilboard, and the piece laid on pins that stand in them."""

from __future__ import annotations

import math
from dataclasses import dataclass, field

import numpy as np

from gatepost.machine.standins.wood import BedWood
from gatepost.machine.standins.world import World, turned_by

NEARLY, UNEVEN = (
    1.5,
    0.5,
)  # mm over it from which is followed how deep it goes, and by how much a cut's last round may lie higher elsewhere
INTO = 0.05  # mm under the spoilboard's face from which a cutter is through the wood
WIDEST = 40.0  # mm that a hole is across at the most
ROUND = 0.3  # mm by which what was bored may be longer than wide
NEAR = 8.0  # mm from where a pin is asked for within which its hole is
STRAY = 0.01  # of a slot's places that are where a cutter went in
SAME = 1.0  # mm within which it is the same hole
TRIES = 400


@dataclass(frozen=True)
class BoredHole:
    """A hole. bed: where in the spoilboard, piece: where in the piece's own directions, mm."""

    bed: np.ndarray
    piece: np.ndarray


@dataclass
class Holes:
    """Those that were made, and what is being made."""

    made: list[BoredHole] = field(default_factory=list)
    deep: list[np.ndarray] = field(default_factory=list)
    slots: list[BoredHole] = field(default_factory=list)
    bare: list[np.ndarray] = field(default_factory=list)  # bored into the bed with no piece on it

    def follow(self, path: np.ndarray, wood: BedWood | None) -> None:
        """The tip goes along some places, (n, 3), heights over the spoilboard's own face."""
        low = path[:, 2] < NEARLY
        if low.any():
            self.deep.append(path[low])
        if self.deep and path[-1, 2] > (float(wood.z.max()) if wood is not None else 0.0):
            deep = np.concatenate(self.deep)
            self.deep = []
            if deep[:, 2].min() > -INTO:
                return
            places = deep[deep[:, 2] < deep[:, 2].min() + UNEVEN, :2]
            first, last = places.min(axis=0), places.max(axis=0)
            size = last - first
            if wood is None:
                self.bare += [0.5 * (first + last)] if size.max() < WIDEST else []
            elif size.max() < WIDEST and abs(size[0] - size[1]) < ROUND:
                hole = BoredHole(0.5 * (first + last), wood.in_piece(0.5 * (first + last)))
                self.made = [h for h in self.made if math.dist(h.piece, hole.piece) > SAME] + [hole]  # pecked once more
            elif size.min() > 2.0 * WIDEST / 3.0:  # cut out: by the corners of its slot it is known again
                ends = [np.quantile(places, share, axis=0) for share in (STRAY, 1.0 - STRAY)]
                self.slots = [BoredHole(at, wood.in_piece(at)) for at in ends]

    def seat(
        self, wood: BedWood, world: World, pins: np.ndarray, play: float, were: np.ndarray, seats: np.ndarray
    ) -> bool:
        """The piece laid on pins, as any seating that their play allows. pins: where they are asked for on the bed, (n, 2); whether two of
        them have holes. It lies where the holes put it, wherever it was meant to lie."""
        if len(seats):
            return self._in_frame(wood, world, pins, were, seats)
        if not self.made:
            return False
        bed = np.array([h.bed for h in self.made] + self.bare)
        piece = np.array([wood.meant_at(h.piece) for h in self.made])
        pairs = []
        for pin in pins:
            b, p = (int(np.argmin(np.hypot(*(at - pin).T))) for at in (bed, piece))
            if math.dist(bed[b], pin) < NEAR and math.dist(piece[p], pin) < NEAR:
                pairs.append((piece[p], bed[b]))
        if len(pairs) < 2:
            return False
        here, there = (np.array([pair[k] for pair in pairs]) for k in (0, 1))
        a, b = here.mean(axis=0), there.mean(axis=0)
        p, q = (here - a) @ [1.0, 1j], (there - b) @ [1.0, 1j]
        turn = float(np.degrees(np.angle(np.sum(np.conj(p) * q))))
        apart = max(math.dist(one, other) for one in here for other in here)
        for _ in range(TRIES):
            degrees = turn + world.off("skew", math.degrees(play / apart))
            by = np.array([world.off("place", play / 2.0) for _ in range(2)])
            slide = b + by - turned_by(degrees) @ a
            beside = here @ turned_by(degrees).T + slide - there
            if np.hypot(*beside.T).max() <= 0.5 * play + 1e-9:
                break
        else:
            degrees, slide = turn, b - turned_by(turn) @ a
        wood.skew, wood.slide = degrees, slide
        return True

    def _in_frame(self, wood: BedWood, world: World, pins: np.ndarray, were: np.ndarray, seats: np.ndarray) -> bool:
        """The piece laid into the frame that it was cut from, in any of some ways: degrees about the middle, and a shift. pins: where two corners of its slot
        are meant to come to lie; were: where they were meant to be when it was cut, and the middle."""
        if not self.slots or len(pins) != 2:
            return False
        bed = np.array([h.bed for h in self.slots])
        off = bed.mean(axis=0) - were[:2].mean(axis=0)  # what the machine's own 0 was off by
        here = np.array([wood.meant_at(h.piece) for h in self.slots])
        pick = seats[world.pick(len(seats))]
        size = np.abs(bed[1] - bed[0])
        way = pins[1] - pins[0]
        meant = np.array([math.copysign(size[0], way[0]), math.copysign(size[1], way[1])])
        lies = here[1] - here[0]
        wood.skew = math.degrees(math.atan2(meant[1], meant[0]) - math.atan2(lies[1], lies[0])) + pick[0]
        middle = were[2] + off
        there = middle + turned_by(pick[0]) @ (pins.mean(axis=0) + off - middle)
        wood.slide = there + pick[1:] - turned_by(wood.skew) @ here.mean(axis=0)
        return True
