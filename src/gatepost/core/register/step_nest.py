# SPDX-License-Identifier: GPL-3.0-or-later
"""A stepped nest: the frame that a cut-out leaves holds the piece when it is turned over.

The rim of the piece runs at two levels, low and high, that change at its middle lines: high in two opposite quarters. The slot's outer wall
follows at the slot's width. Turned over about a middle line, low comes where high was: then a high rim stands against a wall that runs beside
a low one, and the play is what the slot is wider than the two levels lie apart. As it was cut the piece goes in with all of the slot as play.

Whether it goes in is not taken from how it was made but tried: the places where one polygon lies in another are those that no pair of their
edges shuts out (Lozano-Pérez, Spatial planning: a configuration space approach, 1983), all of them at once, and again with the piece turned a little.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any, Literal

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely import affinity

from gatepost.core.errors import OperatorError
from gatepost.core.geometry.region import pieces
from gatepost.core.units import mm

Array = NDArray[np.float64]
Flip = Literal["X", "Y"]
WAYS = ("as cut", "turned X", "turned Y", "half-turn")
FLAT = 0.002  # mm by which rounds lie beside their pieces
ALIKE = 0.05  # mm by which an outline may differ from its mirror image
HOLLOW = 0.75  # of its hull's area that an outline has at least
KEY_HIGH, KEY_HALF = 3.0, 1.5  # slots that the key stands out, and that it is wide on either side
STEPS = 2.0  # slots that a step is longer than
ROOM = 4.0  # slots each way within which places are looked for
HAIR = 1e-6  # mm: what two parallel edges shut out
MOST_TURN, FINE_TURN = 20.0, 0.002  # degrees


@dataclass(frozen=True)
class WayTried:
    """One way of laying the piece into its hole. play: mm that it travels in X and in Y, all in all, nothing where it does not go in."""

    way: str
    goes_in: bool
    play: tuple[float, float] = (0.0, 0.0)


@dataclass(frozen=True)
class StepNest:
    """The piece with its stepped rim and the opening in the frame as a cutter leaves them, in the piece's first lie; what trying every way
    found, and degrees that the turned piece can be turned in its hole, all in all."""

    piece: shapely.Polygon
    hole: shapely.Polygon
    flip: Flip
    ways: tuple[WayTried, ...]
    turning: float

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


def stepped(outline: Any, flip: Flip, tool: float, slot: float, clearance: float, key: bool = False) -> StepNest:
    """The nest of a plate. outline: its area, mm; tool: the cutter's diameter; slot: as wide as it was measured; clearance: a side. Raises
    OperatorError."""
    _refuse(tool, slot, clearance)
    base = _base(outline, flip)
    cx, cy = (base.bounds[0] + base.bounds[2]) / 2.0, (base.bounds[1] + base.bounds[3]) / 2.0
    wanted = _rim(base, (cx, cy), flip, slot, slot - clearance, key)
    piece = _one(
        _rounded(_rounded(wanted, tool / 2.0), -tool / 2.0)
    )  # no wood is left out of a corner narrower than the cutter
    hole = _one(_rounded(piece, slot))
    tried = [_tried(way, piece, hole, (cx, cy), slot) for way in WAYS]
    turned = laid(piece, f"turned {flip}", (cx, cy))
    turning = _turning(turned, hole, (cx, cy), slot) if tried[1 if flip == "X" else 2].goes_in else 0.0
    return StepNest(piece, hole, flip, tuple(tried), turning)


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


def _base(outline: Any, flip: Flip) -> shapely.Polygon:
    """What the low rim runs along: the outline, or where it is another one when it is turned over, the hull about both."""
    parts = [p for p in shapely.get_parts(outline) if p.geom_type == "Polygon"]
    if not parts:
        raise OperatorError("There is no closed outline in it.")
    plate = shapely.Polygon(max(parts, key=lambda p: p.area).exterior)
    if plate.area < HOLLOW * plate.convex_hull.area:
        raise OperatorError(
            "The outline is too hollow for a stepped nest: its rim would touch on too little. Use pins."
        )
    x0, y0, x1, y1 = plate.bounds
    turned = laid(plate, f"turned {flip}", ((x0 + x1) / 2.0, (y0 + y1) / 2.0))
    if plate.buffer(ALIKE).covers(turned) and turned.buffer(ALIKE).covers(plate):
        return shapely.Polygon(plate.intersection(turned).exterior) if ALIKE else plate
    return shapely.Polygon(plate.union(turned).convex_hull.exterior)


def _rim(base: shapely.Polygon, middle: tuple[float, float], flip: Flip, slot: float, apart: float, key: bool) -> Any:
    """The rim that is wanted: low along the base, high in two opposite quarters, and a key at one end of the flip line."""
    (cx, cy), (x0, y0, x1, y1) = middle, base.bounds
    far = 2.0 * (x1 - x0 + y1 - y0) + 10.0 * slot
    at_the_key = KEY_HALF + 1.0 if key else 0.0
    least = 2.0 * (STEPS + at_the_key) * slot
    if min(x1 - x0, y1 - y0) < least:
        raise OperatorError(
            f"The plate is {mm(x1 - x0)} by {mm(y1 - y0)}: with a slot of {mm(slot)} it has to be {mm(least)} each way, or its steps are too short to touch."
        )
    quarters = shapely.box(cx - far, cy, cx, cy + far).union(shapely.box(cx, cy - far, cx + far, cy))
    rim = base.union(_rounded(base, apart).intersection(quarters))
    if key:
        half, out = KEY_HALF * slot, KEY_HIGH * slot
        bump = (
            shapely.box(cx, cy - half, x1 + out, cy + half)
            if flip == "X"
            else shapely.box(cx - half, cy, cx + half, y1 + out)
        )
        rim = rim.union(bump)
    return rim


def _rounded(area: Any, by: float) -> Any:
    return area.buffer(by, quad_segs=pieces(abs(by), FLAT))


def _one(area: Any) -> shapely.Polygon:
    return shapely.Polygon(max(shapely.get_parts(area), key=lambda p: p.area).exterior).simplify(FLAT / 2.0)


# -- what goes in ----------------------------------------------------------------------------------------------------------


def places(piece: Any, hole: Any, room: float) -> Any:
    """Shifts by which a piece lies in a hole, (area in mm): of all within so much each way."""
    a, b = (np.asarray(shapely.get_coordinates(shapely.get_exterior_ring(p))) for p in (piece, hole))
    u, v = a[1:] - a[:-1], b[1:] - b[:-1]
    low = np.minimum(b[:-1], b[1:])[None] - np.maximum(a[:-1], a[1:])[:, None]
    high = np.maximum(b[:-1], b[1:])[None] - np.minimum(a[:-1], a[1:])[:, None]
    i, j = np.nonzero(((low <= room) & (high >= -room)).all(axis=2))
    p = b[j] - a[i]
    shut = shapely.polygons(np.stack([p, p - u[i], p - u[i] + v[j], p + v[j], p], axis=1))
    flat = np.abs(u[i, 0] * v[j, 1] - u[i, 1] * v[j, 0]) < 1e-9
    shut[flat] = shapely.buffer(
        shapely.linestrings(np.stack([_least(p, u[i], v[j]), _most(p, u[i], v[j])], axis=1)[flat]), HAIR
    )
    free = shapely.box(-room, -room, room, room).difference(shapely.union_all(shut))
    good = [c for c in shapely.get_parts(free) if c.area > 1e-9 and _lies(piece, hole, c.representative_point())]
    return shapely.union_all(good) if good else shapely.Polygon()


def _least(p: Array, u: Array, v: Array) -> Array:
    """One end of what two parallel edges shut out."""
    return _ends(p, u, v)[0]


def _most(p: Array, u: Array, v: Array) -> Array:
    return _ends(p, u, v)[1]


def _ends(p: Array, u: Array, v: Array) -> tuple[Array, Array]:
    corners = np.stack([p, p - u, p + v, p - u + v], axis=1)
    along = np.einsum("nkc,nc->nk", corners, np.where(np.abs(u).sum(axis=1, keepdims=True) > 0, u, v))
    n = np.arange(len(p))
    return corners[n, along.argmin(axis=1)], corners[n, along.argmax(axis=1)]


def _lies(piece: Any, hole: Any, shift: Any) -> bool:
    moved = affinity.translate(piece, shift.x, shift.y)
    return bool(hole.buffer(10.0 * HAIR).covers(moved))


def _tried(way: str, piece: Any, hole: Any, middle: tuple[float, float], slot: float) -> WayTried:
    found = places(laid(piece, way, middle), hole, ROOM * slot)
    if found.is_empty:
        return WayTried(way, False)
    largest = max(shapely.get_parts(found), key=lambda p: p.area)
    x0, y0, x1, y1 = largest.bounds
    return WayTried(way, True, (float(x1 - x0), float(y1 - y0)))


def _turning(piece: Any, hole: Any, middle: tuple[float, float], slot: float) -> float:
    """Degrees that a piece can be turned in its hole, from one end to the other, moved about as it needs."""

    def goes(angle: float) -> bool:
        return not places(affinity.rotate(piece, angle, origin=middle), hole, ROOM * slot).is_empty

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
