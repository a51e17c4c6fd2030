# SPDX-License-Identifier: GPL-3.0-or-later
"""A stepped nest: the frame that a cut-out leaves holds the piece when it is turned over.

The rim of the piece runs at two levels, low and high. On one side of the flip line they change some times along it; on the other side each place
has the level that its mirror image has not. The slot's outer wall follows at the slot's width. Turned over, low comes where high was: a high rim
stands against a wall that runs beside a low one, and the play is what the slot is wider than the two levels lie apart. As it was cut the piece
goes in with all of the slot as play. How often the levels change is tried: a rectangle is held by one change a side, an oval turns between two.

Whether it goes in is not taken from how it was made but tried: the places where one polygon lies in another are those that no pair of their
edges shuts out (Lozano-Pérez, Spatial planning: a configuration space approach, 1983), all of them at once, and again with the piece turned a little.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any, Literal

import numpy as np
import shapely
from shapely import affinity
from shapely.ops import substring

from gatepost.core.errors import OperatorError
from gatepost.core.geometry.region import pieces
from gatepost.core.register.lies_in import Array, places, seated
from gatepost.core.register.seating import Seating
from gatepost.core.units import mm

Flip = Literal["X", "Y"]
WAYS = ("as cut", "turned X", "turned Y", "half-turn")
FLAT = 0.002  # mm by which rounds lie beside their pieces
ALIKE = 0.05  # mm by which an outline may differ from its mirror image
HOLLOW = 0.75  # of its hull's area that an outline has at least
KEY_HIGH, KEY_HALF = 3.0, 1.5  # slots that the key stands out, and that it is wide on either side
STEPS = 2.0  # slots that a step is longer than
SECTIONS = (2, 4, 6, 8)  # of one side of the flip line, low and high by turns
COARSE = 0.01  # mm that outlines lie beside themselves where only angles are looked for
MOST_TURN, FINE_TURN = 20.0, 0.004  # degrees
ANGLES = 16  # that are looked at, about
Share = Callable[[float], None]


@dataclass(frozen=True)
class WayTried:
    """One way of laying the piece into its hole. play: mm that it travels in X and in Y, all in all, nothing where it does not go in; at: a shift by
    which it lies there; least: of its shifts in X and in Y."""

    way: str
    goes_in: bool
    play: tuple[float, float] = (0.0, 0.0)
    at: tuple[float, float] = (0.0, 0.0)
    least: tuple[float, float] = (0.0, 0.0)


@dataclass(frozen=True)
class StepNest:
    """The piece with its stepped rim and the opening in the frame as a cutter leaves them, in the piece's first lie; what trying every way
    found; degrees that the turned piece can be turned in its hole, all in all; and the middle of its low rim, about which it is turned over."""

    piece: shapely.Polygon
    hole: shapely.Polygon
    flip: Flip
    ways: tuple[WayTried, ...]
    turning: float
    middle: tuple[float, float]

    @property
    def asked(self) -> WayTried:
        """The way that was asked for."""
        return self.way(f"turned {self.flip}")

    def way(self, name: str) -> WayTried:
        """One of the four ways."""
        return next(w for w in self.ways if w.way == name)

    @property
    def others(self) -> tuple[WayTried, ...]:
        """Ways that go in and should not: all but the one that is asked for, and as it was cut."""
        return tuple(w for w in self.ways if w.goes_in and w.way not in ("as cut", self.asked.way))


def stepped(
    outline: Any,
    flip: Flip,
    tool: float,
    slot: float,
    clearance: float,
    key: bool = False,
    on: Share = lambda share: None,
) -> StepNest:
    """The nest of a plate. outline: its area, mm; tool: the cutter's diameter; slot: as wide as it was measured; clearance: a side; on: hears how far it is, 0 to 1,
    and ends it by what it raises. Raises OperatorError."""
    _refuse(tool, slot, clearance)
    base = _base(outline, flip, tool, slot)
    if flip == "Y":  # worked out lying on its side
        base = _sideways(base)
    middle = _middle(base)
    best: tuple[float, Any, Any] = (math.inf, None, None)
    counts = _changes(base, middle, slot, key)
    for i, n in enumerate(counts):
        on(0.3 * i / len(counts))
        piece, hole = _cut(_rim(base, middle, slot, slot - clearance, key, n), tool, slot)
        off = _loose(laid(piece, "turned X", middle), hole, middle, 3.0 * clearance)
        best = (off, piece, hole) if off < best[0] else best
    _, piece, hole = best
    if flip == "Y":
        piece, hole, middle = _sideways(piece), _sideways(hole), middle[::-1]
    ways = []
    for i, way in enumerate(WAYS):
        on(0.3 + 0.1 * i)
        ways.append(_tried(way, piece, hole, middle))
    asked = f"turned {flip}"
    goes = next(w.goes_in for w in ways if w.way == asked)
    return StepNest(
        piece, hole, flip, tuple(ways), _turning(laid(piece, asked, middle), hole, middle, on) if goes else 0.0, middle
    )


@dataclass(frozen=True)
class NestTried:
    """A nest as it will be cut, every way tried, and where the piece that is turned may lie in it: corners of all that it may, (n, 3): a turn about the
    middle, degrees, and a shift, mm."""

    nest: StepNest
    seats: Array

    def worst(self, places: Array) -> tuple[int, Seating]:
        """Which of some places, (n, 2), may come to lie farthest beside where it is meant to, and how the piece lies then."""
        rel = np.asarray(places) - np.array(self.nest.middle)
        turn = np.radians(self.seats[:, 0])[:, None]
        off = np.hypot(
            self.seats[:, 1][:, None] - turn * rel[None, :, 1], self.seats[:, 2][:, None] + turn * rel[None, :, 0]
        )
        seat, k = (int(v) for v in np.unravel_index(int(np.argmax(off)), off.shape))
        at = self.seats[seat]
        return k, Seating(math.radians(float(at[0])), float(at[1]), float(at[2]), float(rel[k, 0]), float(rel[k, 1]))


def tried(rim: Any, flip: Flip, tool: float, slot: float, middle: tuple[float, float]) -> NestTried:
    """A rim that is cut by a tool through a slot so wide, whichever way it was made: every way of laying the piece into its hole, and the places at which
    it may lie when it is turned as asked, about lines through a middle. Followed within 0.01 mm."""
    piece, hole = (a.simplify(COARSE) for a in _cut(rim, tool, slot))
    ways = tuple(_tried(way, piece, hole, middle) for way in WAYS)
    asked = next(w for w in ways if w.way == f"turned {flip}")
    seats = seated(laid(piece, asked.way, middle), hole, middle, asked.at) if asked.goes_in else np.zeros((0, 3))
    turning = float(np.ptp(seats[:, 0])) if len(seats) else 0.0
    return NestTried(StepNest(piece, hole, flip, ways, turning, middle), seats)


def _sideways(area: Any) -> Any:
    """X and Y changed for each other."""
    return shapely.transform(area, lambda p: p[:, ::-1])


def _middle(area: Any) -> tuple[float, float]:
    x0, y0, x1, y1 = area.bounds
    return (x0 + x1) / 2.0, (y0 + y1) / 2.0


def laid(piece: Any, way: str, middle: tuple[float, float]) -> Any:
    """The piece laid some way: turned over about a line through its middle, or by half a turn."""
    x, y = {"as cut": (1, 1), "turned X": (1, -1), "turned Y": (-1, 1), "half-turn": (-1, -1)}[way]
    return affinity.scale(piece, x, y, origin=middle)


def sentence_of(nest: StepNest) -> str:
    """What there is to say of it."""
    asked, snug = nest.asked, min(nest.asked.play)
    if not asked.goes_in:
        return f"Turned about {nest.flip} it does not go into its hole."
    words = f"Turned about {nest.flip} it goes in with {mm(asked.play[0])} of play in X and {mm(asked.play[1])} in Y, and turns by {nest.turning:.2f}°."
    if nest.others:
        ways = " and ".join(w.way for w in nest.others)
        return f"{words} It goes in {ways} too: give it a key, or mark its faces."
    rattle = nest.way("as cut").play
    return (
        f"{words} No other way goes in but the way it was cut, which rattles ({mm(min(rattle))} instead of {mm(snug)})."
    )


def _refuse(tool: float, slot: float, clearance: float) -> None:
    if not 0.1 <= tool <= 60.0:
        raise OperatorError("The cutter's diameter is from 0.1 to 60 mm.")
    if not tool - 0.2 <= slot <= 3.0 * tool:
        raise OperatorError(
            f"A cutter of {mm(tool)} leaves a slot about as wide, {mm(slot)} is typed: measure it in a test slot in this wood."
        )
    if not 0.0 < clearance < slot / 4.0:
        raise OperatorError("The clearance a side is over 0 and under a quarter of the slot: 0.1 mm is usual.")


def _base(outline: Any, flip: Flip, tool: float, slot: float) -> shapely.Polygon:
    """What the low rim runs along: the outline, or where it is another one when it is turned over, the hull about both. Corners into it are as wide
    as the cutter gets round at both levels."""
    parts = [p for p in shapely.get_parts(outline) if p.geom_type == "Polygon" and not p.is_empty]
    if not parts:
        raise OperatorError("There is no closed outline in it.")
    plate = shapely.Polygon(max(parts, key=lambda p: p.area).exterior)
    if plate.area < HOLLOW * plate.convex_hull.area:
        raise OperatorError(
            "The outline is too hollow for a stepped nest: its rim would touch on too little. Use pins."
        )
    turned = laid(plate, f"turned {flip}", _middle(plate))
    if not (plate.buffer(ALIKE).covers(turned) and turned.buffer(ALIKE).covers(plate)):
        return shapely.Polygon(plate.union(turned).convex_hull.exterior)
    wide = tool / 2.0 + slot
    return _one(_rounded(_rounded(plate, wide), -wide))


def _changes(base: shapely.Polygon, middle: tuple[float, float], slot: float, key: bool) -> list[int]:
    """How often the levels may change on one side of the flip line so that no step is too short to touch. Raises OperatorError."""
    long = _side(base, middle).length - (KEY_HALF + 1.0) * slot * key
    counts = [n for n in SECTIONS if long / n > STEPS * slot]
    x0, y0, x1, y1 = base.bounds
    least = 2.0 * (STEPS / 2.0 + (KEY_HALF + 1.0) * key) * slot
    if not counts or min(x1 - x0, y1 - y0) < least:
        raise OperatorError(
            f"The plate is {mm(x1 - x0)} by {mm(y1 - y0)}: with a slot of {mm(slot)} its steps are too short to touch. A smaller cutter makes shorter ones."
        )
    return counts


def _side(base: shapely.Polygon, middle: tuple[float, float]) -> shapely.LineString:
    """The outline on the far side of the flip line, which lies along X, from its left end to its right one."""
    x0, _, x1, y1 = base.bounds
    above = base.exterior.intersection(shapely.box(x0 - 1.0, middle[1], x1 + 1.0, y1 + 1.0))
    line = shapely.line_merge(above) if above.geom_type != "LineString" else above
    line = max(shapely.get_parts(line), key=lambda p: p.length)
    return line if line.coords[0][0] < line.coords[-1][0] else shapely.reverse(line)


def _rim(
    base: shapely.Polygon, middle: tuple[float, float], slot: float, apart: float, key: bool, count: int
) -> Any:  # fmt: skip
    """The rim that is wanted: low along the base, high along every other part of one side and their counterparts of the other; a key at one end
    of the flip line, which lies along X."""
    side = _side(base, middle)
    ends = np.linspace(0.0, side.length - (KEY_HALF + 1.0) * slot * key, count + 1)
    ends[-1] = side.length
    bands = []
    for n, (a, b) in enumerate(zip(ends[:-1], ends[1:])):
        part = substring(side, a, b).buffer(apart, cap_style="flat", quad_segs=pieces(apart, FLAT))
        bands.append(part if n % 2 == 0 else laid(part, "turned X", middle))
    rim = base.union(shapely.union_all(bands))
    if key:
        half = KEY_HALF * slot
        rim = rim.union(shapely.box(middle[0], middle[1] - half, base.bounds[2] + KEY_HIGH * slot, middle[1] + half))
    return rim


def _cut(wanted: Any, tool: float, slot: float) -> tuple[shapely.Polygon, shapely.Polygon]:
    """Piece and hole as they are left: no wood is taken out of a corner that is narrower than the cutter."""
    piece = _one(_rounded(_rounded(wanted, tool / 2.0), -tool / 2.0))
    return piece, _one(_rounded(piece, slot))


def _loose(piece: Any, hole: Any, middle: tuple[float, float], near: float) -> float:
    """How far a piece can move in its hole at its farthest corner, mm: by all that its rim touches soon, for small moves."""
    from scipy.optimize import linprog

    ring = shapely.segmentize(hole.exterior, 1.0)
    a = np.asarray(shapely.get_coordinates(ring))
    way = a[1:] - a[:-1]
    out = np.column_stack([way[:, 1], -way[:, 0]]) * (1.0 if ring.is_ccw else -1.0)
    out /= np.maximum(np.hypot(*out.T), 1e-12)[:, None]
    place = (a[1:] + a[:-1]) / 2.0
    gap = shapely.distance(shapely.points(place), piece)
    touch = gap <= near
    arm = place[touch] - np.array(middle)
    rows = np.column_stack([out[touch], arm[:, 0] * out[touch][:, 1] - arm[:, 1] * out[touch][:, 0]])
    x0, y0, x1, y1 = piece.bounds
    lever = math.hypot(x1 - x0, y1 - y0) / 2.0
    worst = 0.0
    for aim in ((1, 0, 0), (0, 1, 0), (0, 0, lever)):
        for sign in (-1.0, 1.0):
            free = [(-10.0, 10.0), (-10.0, 10.0), (-10.0 / lever, 10.0 / lever)]
            found = linprog(sign * np.array(aim), A_ub=rows, b_ub=gap[touch], bounds=free) if touch.any() else None
            worst = max(worst, abs(float(found.fun or 0.0)) if found is not None and found.success else 10.0)
    return worst


def _rounded(area: Any, by: float) -> Any:
    return area.buffer(by, quad_segs=pieces(abs(by), FLAT))


def _one(area: Any) -> shapely.Polygon:
    return shapely.Polygon(max(shapely.get_parts(area), key=lambda p: p.area).exterior).simplify(FLAT / 2.0)


def _tried(way: str, piece: Any, hole: Any, middle: tuple[float, float]) -> WayTried:
    found = places(laid(piece, way, middle), hole)
    if found.is_empty:
        return WayTried(way, False)
    largest = max(shapely.get_parts(found), key=lambda p: p.area)
    x0, y0, x1, y1 = largest.bounds
    inside = largest.representative_point()
    return WayTried(
        way, True, (float(x1 - x0), float(y1 - y0)), (float(inside.x), float(inside.y)), (float(x0), float(y0))
    )


def _turning(piece: Any, hole: Any, middle: tuple[float, float], on: Share) -> float:
    """Degrees that a piece can be turned in its hole, from one end to the other, moved about as it needs."""
    piece, hole = piece.simplify(COARSE), hole.simplify(COARSE)

    asked = 0

    def goes(angle: float) -> bool:
        nonlocal asked
        asked += 1
        on(0.7 + 0.3 * min(asked / ANGLES, 1.0))
        return not places(affinity.rotate(piece, angle, origin=middle), hole).is_empty

    return _last(goes, 1.0) + _last(goes, -1.0)


def _last(goes: Callable[[float], bool], way: float) -> float:
    """The angle up to which it goes, one way, degrees."""
    good, bad = 0.0, 0.25
    while goes(way * bad):
        good, bad = bad, 2.0 * bad
        if bad > MOST_TURN:
            return MOST_TURN
    while bad - good > FINE_TURN:
        angle = (good + bad) / 2.0
        good, bad = (angle, bad) if goes(way * angle) else (good, angle)
    return good
