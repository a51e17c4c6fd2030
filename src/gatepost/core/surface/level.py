# SPDX-License-Identifier: GPL-3.0-or-later
"""How a board is best laid for surfacing: as it lies, or shimmed until the most wood is kept between two parallel planes.

Heights are of the top and of the underside above the bed as the board lies now, mm. A plane is a·x + b·y + c. Tilting
is told by a and b: the plane that the finished faces follow on the board as it lies; shims bring it level.
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from gatepost.core import linear
from gatepost.core.errors import OperatorError
from gatepost.core.units import mm

Array = NDArray[np.float64]
SAME = 1e-9  # mm; two thicknesses that differ by less are the same
HOLLOWS_TOLD = 1e-6  # mm of all hollows together: what the programme's own tolerance leaves open
MOST_TANGENTS, THIRDS = 60, 24
CORNERS = 200  # fewer readings than this are passed on as they are
MOST_SUPPORTS, MOST_AT_HAND = 8, 20  # that shims are rounded for: every way to round them is tried


@dataclass(frozen=True)
class Readings:
    """Heights of both faces: top and under, (n, 3) each, x, y, z. flat: the underside was not read and is taken to lie
    flat on the bed."""

    top: Array
    under: Array
    flat: bool = True


def readings(top: Array, under: Array | None = None) -> Readings:
    """Sound readings. Raises OperatorError with a sentence."""
    sets = {"top": np.asarray(top, np.float64).reshape(-1, 3)}
    if under is not None:
        sets["underside"] = np.asarray(under, np.float64).reshape(-1, 3)
    for face, values in sets.items():
        if not np.isfinite(values).all():
            raise OperatorError(f"A reading of the {face} is not a number.")
        if len(values) < 3:
            raise OperatorError(f"{len(values)} readings of the {face}: at least three are needed, not in a line.")
        spread = values[:, :2] - values[:, :2].mean(axis=0)
        size = np.linalg.svd(spread, compute_uv=False)
        if size[1] < 1e-6 * max(size[0], 1e-12):
            raise OperatorError(
                f"The readings of the {face} lie on one line, which leaves the tilt open. Read beside it too."
            )
    tops = sets["top"]
    flat = under is None
    below = np.column_stack([tops[:, :2], np.zeros(len(tops))]) if flat else sets["underside"]
    return Readings(tops, below, flat)


@dataclass(frozen=True)
class Lying:
    """Two parallel planes inside the wood. thickness: between them, square to them, mm; tilt: (a, b); top, under: their
    heights c at x = y = 0, as the board lies."""

    thickness: float
    tilt: tuple[float, float]
    top: float
    under: float


def _between(read: Readings, a: float, b: float, allowance: float = 0.0) -> Lying:
    """The most that two planes of a tilt have between them. allowance: taken off each face that is cut, mm."""
    slope = np.array([a, b])
    top = float((read.top[:, 2] - read.top[:, :2] @ slope).min())
    under = float((read.under[:, 2] - read.under[:, :2] @ slope).max())
    faces = 1 if read.flat and a == b == 0.0 else 2
    square = math.sqrt(1.0 + a * a + b * b)
    top -= allowance * square
    under += allowance * square * (faces - 1)
    return Lying((top - under) / square, (a, b), top, under)


def as_it_lies(read: Readings, allowance: float = 0.0) -> Lying:
    """Level planes: the top's at its lowest reading, the underside's at its highest."""
    return _between(read, 0.0, 0.0, allowance)


def _corners(points: Array) -> Array:
    """The readings that can touch a plane from above or from below: those of their hull.

    All of them where there are few, or where they lie in one plane and have no hull with an inside.
    """
    if len(points) < CORNERS:
        return points
    from scipy.spatial import ConvexHull, QhullError

    size = np.ptp(points, axis=0)
    try:
        return points[ConvexHull(points / np.where(size > 0, size, 1.0)).vertices]
    except QhullError:
        return points


def best(read: Readings, allowance: float = 0.0, hulls: bool = True) -> Lying:
    """The tilt that keeps most wood: greatest vertical distance of two parallel planes, told square to them.

    Maximise c_t - c_b with a·x + b·y + c_t <= top and a·x + b·y + c_b >= underside at every reading; among tilts that keep
    as much, the least. hulls: pass on only the readings that can rule; the answer is the same.
    """
    tops, unders = (_corners(read.top), _corners(read.under)) if hulls else (read.top, read.under)
    middle = read.top[:, :2].mean(axis=0)
    size = float(np.ptp(read.top[:, :2])) / 2.0  # any size will do
    t, u = (tops[:, :2] - middle) / size, (unders[:, :2] - middle) / size
    one, nil = np.ones, np.zeros
    rows = np.vstack([np.column_stack([t, one(len(t)), nil(len(t))]), np.column_stack([-u, nil(len(u)), -one(len(u))])])
    limits = np.concatenate([tops[:, 2], -unders[:, 2]])
    free: list[tuple[float | None, float | None]] = [(None, None)] * 4
    found = linear.least([0.0, 0.0, -1.0, 1.0], rows, limits, free)
    if found is None:
        raise OperatorError("These readings leave the tilt open. Read beyond the middle, towards the corners.")
    # the least tilt that keeps as much: |a| and |b| as two more unknowns
    wider = np.hstack([rows, nil((len(rows), 2))])
    keep = np.array([[0.0, 0.0, -1.0, 1.0, 0.0, 0.0]])
    size_of = np.array([[1, 0, 0, 0, -1, 0], [-1, 0, 0, 0, -1, 0], [0, 1, 0, 0, 0, -1], [0, -1, 0, 0, 0, -1]], float)
    flattest = linear.least(
        [0.0, 0.0, 0.0, 0.0, 1.0, 1.0],
        np.vstack([wider, keep, size_of]),
        np.concatenate([limits, [found.cost + SAME], nil(4)]),
        [(None, None)] * 6,
    )
    a, b = (float(v) / size for v in (flattest or found).x[:2])
    level = as_it_lies(read)
    if level.thickness >= _between(read, a, b).thickness - 1e-7:  # nothing is won by tilting
        a = b = 0.0
    return _between(read, a, b, allowance)


@dataclass(frozen=True)
class Hollowed:
    """Planes of a target thickness. lying: where they are; top, under: how deep each reading's hollow is, mm."""

    lying: Lying
    top: Array
    under: Array

    @property
    def sum(self) -> float:
        """All hollows together, mm."""
        return float(self.top.sum() + self.under.sum())


def hollowed(read: Readings, target: float, most: float, tilt: tuple[float, float] | None = None) -> Hollowed:
    """Two parallel planes a target thickness apart with the least sum of hollows, each no deeper than sanding takes.

    Minimise the sum of h with plane <= top + h and plane - v >= underside - h at every reading, 0 <= h <= most, where
    v = target · √(1 + a² + b²) is the planes' distance straight up. v is convex in the tilt, so the whole is: linear
    programmes with a tangent of v at each tilt found (Kelley's cutting planes, 1960) bound the sum from below, the true
    sums at those tilts from above, until the two are HOLLOWS_TOLD apart. Of equal ones the least tilted tried is kept.
    tilt: kept as it is where it is given. Raises OperatorError when no such planes are in this wood.
    """
    best = _hollowed_at(read, target, most, tilt or (0.0, 0.0))
    if tilt is None:
        for below, found in _tilts(read, target, most):
            for other in _towards(read, target, most, best, found):
                if best is None or other.sum < best.sum - 0.1 * HOLLOWS_TOLD:
                    best = other
            if best is not None and best.sum - below < HOLLOWS_TOLD:
                break
    if best is None:
        raise OperatorError(f"{mm(target)} is not in this wood, even with hollows of {mm(most)} left to be sanded out.")
    return best


def _towards(
    read: Readings, target: float, most: float, best: Hollowed | None, tilt: tuple[float, float]
) -> Iterator[Hollowed]:
    """A tilt, and tilts on the way to it from the best so far: the sum is convex along it, so its least is found by
    thirds. A programme's own tilt may ask a little more than sanding takes; on the way to it lies one that does not."""
    there = _hollowed_at(read, target, most, tilt)
    if there is not None:
        yield there
    if best is None:
        return
    (a0, b0), (a1, b1) = best.lying.tilt, tilt
    low, high = 0.0, 1.0
    for _ in range(THIRDS):
        near, far = low + (high - low) / 3.0, high - (high - low) / 3.0
        tried = [_hollowed_at(read, target, most, (a0 + s * (a1 - a0), b0 + s * (b1 - b0))) for s in (near, far)]
        yield from (t for t in tried if t is not None)
        one, other = (t.sum if t is not None else math.inf for t in tried)
        low, high = (low, far) if one <= other else (near, high)


def _hollowed_at(read: Readings, target: float, most: float, tilt: tuple[float, float]) -> Hollowed | None:
    """The least hollows with one tilt; nothing where they are too deep.

    With the plane at height c they are the sum of (c - α)+ over the top and (β - c)+ over the underside: least where as
    many α lie under c as β over it, which is the m-th smallest of all (m readings of the underside).
    """
    slope = np.array(tilt)
    vertical = target * math.sqrt(1.0 + float(slope @ slope))
    over = read.top[:, 2] - read.top[:, :2] @ slope
    under = read.under[:, 2] + vertical - read.under[:, :2] @ slope
    low, high = float(under.max()) - most, float(over.min()) + most
    if low > high:
        return None
    every = np.concatenate([over, under])
    level = min(max(float(np.partition(every, len(under) - 1)[len(under) - 1]), low), high)
    lying = Lying(target, tilt, level, level - vertical)
    return Hollowed(lying, np.maximum(level - over, 0.0), np.maximum(under - level, 0.0))


def _tilts(read: Readings, target: float, most: float) -> Iterator[tuple[float, tuple[float, float]]]:
    """Tilts worth trying, each with a sum that no tilt goes under; none where there are no such planes."""
    from scipy.sparse import csr_array, eye_array, hstack, vstack

    middle = read.top[:, :2].mean(axis=0)
    size = float(np.ptp(read.top[:, :2])) / 2.0  # any size will do
    t, u = (read.top[:, :2] - middle) / size, (read.under[:, :2] - middle) / size
    n, m = len(t), len(u)
    bounds = [(None, None)] * 4 + [(0.0, most)] * (n + m)
    planes = csr_array(
        np.vstack([np.column_stack([t, np.ones(n), np.zeros(n)]), np.column_stack([-u, -np.ones(m), np.ones(m)])])
    )  # of a, b, c and v
    beside: Any = hstack([planes, -eye_array(n + m)])
    limits = np.concatenate([read.top[:, 2], -read.under[:, 2]])
    cost = np.concatenate([np.zeros(4), np.ones(n + m)])
    tangents: list[Array] = []
    a = b = 0.0
    for _ in range(MOST_TANGENTS):
        slope = target / math.sqrt(1.0 + a * a + b * b)  # v >= target · (1 + a·a0 + b·b0) / √(1 + a0² + b0²)
        tangents.append(np.array([slope * a / size, slope * b / size, 0.0, -1.0, *np.zeros(n + m), -slope]))
        cuts = np.array(tangents)
        rows: Any = vstack([beside, csr_array(cuts[:, :-1])]).tocsr()
        found = linear.least(cost, rows, np.concatenate([limits, cuts[:, -1]]), bounds)
        if found is None:
            return
        a, b = (float(v) / size for v in found.x[:2])
        yield found.cost, (a, b)


def turned_lying(read: Readings, middle: tuple[float, float], allowance: float = 0.0) -> Lying:
    """What level planes keep when the board is turned over first and comes to rest on its top.

    It rests on the three of its highest places about its middle: a facet of the upper hull. middle: under its weight.
    Raises OperatorError when no facet stands about it.
    """
    resting = _resting(read.top, np.array(middle))
    if resting is None:
        raise OperatorError("The readings of the top do not stand about the board's middle: read nearer its edges.")
    return _between(read, *resting[:2], allowance)


def _resting(points: Array, middle: Array) -> tuple[float, float, float] | None:
    """The plane over points (n, 3) that is lowest over a middle (2,): a, b, and its height there. Nothing where the points
    do not stand about it."""
    size = float(np.ptp(points[:, :2], axis=0).max()) / 2.0
    scaled = np.column_stack([(points[:, :2] - middle) / size, np.ones(len(points))])
    found = linear.least([0.0, 0.0, 1.0], -scaled, -points[:, 2], [(None, None)] * 3)
    if found is None:
        return None
    a, b, height = (float(v) for v in found.x)
    return a / size, b / size, height


# -- shims ------------------------------------------------------------------------------------------------------------


def under_at(read: Readings, places: Array) -> Array:
    """The underside's height at places (n, 2): straight between readings, the nearest reading's beyond them."""
    if read.flat:
        return np.zeros(len(places))
    from scipy.interpolate import LinearNDInterpolator, NearestNDInterpolator

    xy, z = read.under[:, :2], read.under[:, 2]
    out = np.asarray(LinearNDInterpolator(xy, z)(places), np.float64)
    beyond = np.isnan(out)
    if beyond.any():
        out[beyond] = NearestNDInterpolator(xy, z)(places[beyond])
    return out


def shims(read: Readings, tilt: tuple[float, float], supports: Array) -> Array:
    """Height of a shim under each support that brings a tilt level, mm.

    The gap under each support less the least gap over all readings, or the belly would rest on the bed.
    """
    if not len(supports):
        return np.zeros(0)
    slope = np.array(tilt)
    gap = under_at(read, supports) - supports @ slope
    least = min(float((read.under[:, 2] - read.under[:, :2] @ slope).min()), float(gap.min()))
    return np.asarray(gap - least)


def rest(read: Readings, supports: Array, heights: Array) -> tuple[float, float, float]:
    """How a board comes to lie on shims: it moves by a·x + b·y + c, mm.

    It sinks until its middle is as low as it will go: a linear programme whose limits are the shims and the bed under
    every reading. The middle stands for the centre of gravity. Raises OperatorError.
    """
    middle = read.top[:, :2].mean(axis=0)
    ends = _corners(read.under)
    under = np.column_stack([ends[:, :2], -ends[:, 2]])
    raised = np.column_stack([supports, heights - under_at(read, supports)]) if len(supports) else np.zeros((0, 3))
    resting = _resting(np.vstack([raised, under]), middle)
    if resting is None:
        raise OperatorError("The board would tip over on these supports: set them round its middle.")
    a, b, height = resting
    return a, b, height - float(np.array([a, b]) @ middle)


@dataclass(frozen=True)
class Shimmed:
    """A board on shims, as it comes to lie: planes, and the height of each shim, mm."""

    lying: Lying
    heights: tuple[float, ...]


def on_shims(read: Readings, supports: Array, heights: Array, allowance: float = 0.0) -> Shimmed:
    """What a board gives on these shims."""
    a, b, _ = rest(read, supports, heights)
    return Shimmed(_between(read, -a, -b, allowance), tuple(float(h) for h in heights))


def stacks(at_hand: Sequence[float], most: float) -> list[float]:
    """Heights that up to three shims make, nought included, up to the first over ``most``."""
    sums = {0.0}
    for count in (1, 2, 3):
        sums |= {round(sum(some), 6) for some in itertools.combinations_with_replacement(sorted(at_hand), count)}
    heights = sorted(sums)
    return [h for h in heights if h <= most] + [h for h in heights if h > most][:1]


def rounded(
    read: Readings, supports: Array, wanted: Array, at_hand: Sequence[float], allowance: float = 0.0
) -> Shimmed:
    """The best of the shims at hand: each the next above or below what is wanted, reckoned again as the board would lie.

    at_hand: thicknesses, as many of each as one likes; up to three are stacked. Raises OperatorError.
    """
    if not at_hand or min(at_hand) <= 0:
        raise OperatorError("Shims at hand want their thicknesses, each over 0.")
    if len(supports) > MOST_SUPPORTS or len(at_hand) > MOST_AT_HAND:
        raise OperatorError(
            f"Shims are rounded for {MOST_SUPPORTS} supports and {MOST_AT_HAND} thicknesses at most. Leave some of them out."
        )
    heights = stacks(at_hand, float(wanted.max(initial=0.0)))
    choices: list[list[float]] = []
    for height in wanted.tolist():
        over = next((h for h in heights if h >= height - 1e-9), heights[-1])
        below = [h for h in heights if h <= height + 1e-9][-1:]
        choices.append(sorted({*below, over}))
    results = [on_shims(read, supports, np.array(some), allowance) for some in itertools.product(*choices)]
    return max(results, key=lambda r: (r.lying.thickness, -sum(r.heights)))
