# SPDX-License-Identifier: GPL-3.0-or-later
"""A photo of the finished piece laid over its plan by its own corners: how far what was carved lies from where it was meant to, and what that is good to.

What was carved is found as what does not look like the bare face about it, by the shift and turn with which the plan's own shapes fit it best (Evangelidis and Psarakis, Parametric image
alignment using enhanced correlation coefficient maximization, 2008, as OpenCV has it). Uses OpenCV, which only those who ask for it load.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely import affinity

from gatepost.core.blank.photo import HOLDS, mapped, to_plane
from gatepost.core.errors import OperatorError
from gatepost.core.geometry.outline import Area
from gatepost.core.units import mm

Array = NDArray[np.float64]
TRIALS = 400
MOST_CELLS = 1_600_000  # of the squared-up picture
FINEST, COARSEST = 0.08, 1.0  # mm that one of them is across
SEARCH = 8.0  # mm by which a carving may lie elsewhere, and still be found
LIKE = 0.35  # of how well shapes and picture fit, under which nothing is said
ROUGH = 0.05  # mm of outlines
STEADY = 0.12  # cells that a place is known to at the least


@dataclass(frozen=True)
class Found:
    """A shape of the plan in the photo. right, behind: from where it was meant to be, mm."""

    name: str
    right: float
    behind: float

    @property
    def off(self) -> float:
        """How far, mm."""
        return math.hypot(self.right, self.behind)


@dataclass(frozen=True)
class OverPlan:
    """right, behind: by which all that was carved lies elsewhere, mm; turn: degrees, against the clock; doubt: ± of the shift, mm, turn_doubt: of the turn, degrees; each: shape by shape, of those that were
    found; like: how well it fits, to 1; seen: the plan's outlines where it has them, px of the photo, each (n, 2); picked: by how much a corner is taken to be clicked wrong, mm."""

    right: float
    behind: float
    turn: float
    doubt: float
    turn_doubt: float
    each: tuple[Found, ...]
    like: float
    seen: tuple[Array, ...]
    picked: float = 0.0

    @property
    def off(self) -> float:
        """How far, mm."""
        return math.hypot(self.right, self.behind)

    def how(self) -> str:
        """Where its ± comes from, in sentences."""
        rest = [math.hypot(f.right - self.right, f.behind - self.behind) for f in self.each]
        apart = (
            f" and each of {len(rest)} shapes by as much as they lie beside each other, {mm(float(np.median(rest)), 2)} in the middle"
            if len(rest) > 1
            else ""
        )
        return f"The ± moves each corner by {mm(self.picked, 2)} of wrong clicking{apart}, {TRIALS} times; it holds for 95 in 100. A larger photo, from farther off, makes it smaller."

    def told(self) -> str:
        """In a sentence."""
        if self.off <= self.doubt:
            return f"By the photo what was carved lies where it was meant to, within ± {mm(self.doubt, 2)}."
        ways = [f"{mm(abs(v), 2)} {words}" for v, words in ((self.right, "to the right" if self.right > 0 else "to the left"), (self.behind, "to the back" if self.behind > 0 else "to the front")) if abs(v) > 0.3 * self.doubt]  # fmt: skip
        turn = f", turned by {self.turn:.2f}°" if abs(self.turn) > self.turn_doubt else ""
        return f"By the photo what was carved lies {' and '.join(ways)} of where it was meant to{turn}, ± {mm(self.doubt, 2)}."


def laid_over(
    image: NDArray[np.uint8], marks: Array, size: tuple[float, float], shapes: Sequence[tuple[str, Area]], picking: float = 1.5,
) -> OverPlan:  # fmt: skip
    """image: (rows, columns, 3); marks: (4, 2) px, the corners of the piece from its front left one round against the clock; size: of it, across and up, as it was measured, mm; shapes: what was carved, by
    name, mm from its front left corner; picking: px by which a corner is clicked wrong. Raises OperatorError.

    The ± moves every corner by the picking error and every shape by what it was found to lie beside the others, many times, and holds for 95 in 100."""
    import cv2

    if not shapes:
        raise OperatorError("Nothing is carved in the plan that a photo could show.")
    if len(marks) != 4:
        raise OperatorError("Click the four corners of the piece: front left first, then round against the clock.")
    matrix = to_plane(marks, *size)
    cell = _cell(matrix, marks, size)
    picture, template, inner = _squared(image, matrix, size, shapes, cell)
    whole = _fit(picture, template, inner, cv2.MOTION_EUCLIDEAN, _start(picture, template, cell), cell)
    if whole is None or whole[1] < LIKE:
        raise OperatorError(
            "What the plan has can't be made out in this photo. Even light, the whole piece in the picture and its corners clicked in their order help."
        )
    warp, like = whole
    middles = np.array([(s.centroid.x, s.centroid.y) for _, s in shapes])
    there = _moved(warp, middles, cell)
    names, planned, found = _each(picture, warp, shapes, cell, middles, there)
    turn, shift = _rigid(planned, found)
    doubt, turn_doubt = _doubt(marks, size, planned, found, turn, shift, picking, cell)
    centre = planned.mean(axis=0)
    moved = _turned(centre[None], turn)[0] + shift - centre
    each = tuple(Found(n, float(f[0] - p[0]), float(f[1] - p[1])) for n, p, f in zip(names, planned, found))
    back = np.linalg.inv(matrix)
    seen = tuple(
        mapped(np.asarray(back, np.float64), np.asarray(ring.coords)[:, :2])
        for _, s in shapes
        for part in shapely.get_parts(s)
        for ring in (part.exterior, *part.interiors)
    )
    return OverPlan(
        float(moved[0]),
        float(moved[1]),
        math.degrees(turn),
        doubt,
        turn_doubt,
        each,
        like,
        seen,
        picking * _mm_of_px(marks, size),
    )


def _cell(matrix: Array, marks: Array, size: tuple[float, float]) -> float:
    """mm of a cell of the squared-up picture: about a pixel of the photo."""
    sides = np.linalg.norm(np.roll(marks, -1, axis=0) - marks, axis=1)
    per = (2.0 * (size[0] + size[1])) / max(float(sides.sum()), 1.0)
    return float(min(max(per, FINEST, math.sqrt(size[0] * size[1] / MOST_CELLS)), COARSEST))


def _squared(
    image: NDArray[np.uint8], matrix: Array, size: tuple[float, float], shapes: Sequence[tuple[str, Area]], cell: float
) -> tuple[NDArray[np.float32], NDArray[np.float32], NDArray[np.uint8]]:
    """How unlike the bare face each cell is, to 1; the plan's shapes, softened alike; and where both are looked at."""
    import cv2

    columns, rows = (max(16, round(s / cell)) for s in size)
    to_cell = np.array([[1.0 / cell, 0.0, -0.5], [0.0, 1.0 / cell, -0.5], [0.0, 0.0, 1.0]])
    flat = cv2.warpPerspective(image, to_cell @ matrix, (columns, rows), flags=cv2.INTER_AREA)
    lab = cv2.cvtColor(cv2.GaussianBlur(flat, (0, 0), 0.8), cv2.COLOR_BGR2LAB).astype(np.float32)
    template = _drawn([s for _, s in shapes], (rows, columns), cell)
    bare = template < 0.02
    if bare.sum() < 100:
        raise OperatorError("The plan leaves no bare face about what is carved: a photo tells nothing of it.")
    slope = cv2.GaussianBlur(np.where(bare[..., None], lab, 0.0).astype(np.float32), (0, 0), 12.0 / cell)
    weight = cv2.GaussianBlur(bare.astype(np.float32), (0, 0), 12.0 / cell)[..., None]
    lab = (lab - slope / np.maximum(weight, 1e-3)).astype(np.float32)  # light that falls from one side
    middle = np.median(lab[bare], axis=0)
    spread = np.maximum(1.4826 * np.median(np.abs(lab[bare] - middle), axis=0), 1.0)
    away = np.sqrt((((lab - middle) / spread) ** 2).sum(axis=2))
    top = max(float(np.quantile(away[template > 0.6], 0.7)) if (template > 0.6).any() else 1.0, 1e-6)
    inner = np.full((rows, columns), 255, np.uint8)
    rim = max(1, round(1.5 / cell))
    inner[:rim], inner[-rim:], inner[:, :rim], inner[:, -rim:] = 0, 0, 0, 0
    soft = np.asarray(cv2.GaussianBlur(template, (0, 0), 0.8), np.float32)
    return np.clip(away / top, 0.0, 1.0).astype(np.float32), soft, inner


def _drawn(shapes: Sequence[Area], size: tuple[int, int], cell: float) -> NDArray[np.float32]:
    """Shapes as a picture: how much of each cell they cover."""
    import cv2

    out = np.zeros(size, np.uint8)
    bits = 8
    for part in (p for s in shapes for p in shapely.get_parts(s)):
        rings = [
            np.rint((np.asarray(r.coords)[:, :2] / cell - 0.5) * 2**bits).astype(np.int32)
            for r in (part.exterior, *part.interiors)
        ]
        one = np.zeros(size, np.uint8)
        cv2.fillPoly(one, rings, 255, cv2.LINE_AA, bits)
        out = np.maximum(out, one)
    return out.astype(np.float32) / 255.0


def _start(picture: NDArray[np.float32], template: NDArray[np.float32], cell: float) -> NDArray[np.float32]:
    """Where to begin: the shift of whole cells with which both fit best."""
    import cv2

    reach = min(round(SEARCH / cell), min(picture.shape) // 3)
    padded = cv2.copyMakeBorder(picture, reach, reach, reach, reach, cv2.BORDER_CONSTANT, value=0.0)
    told = cv2.matchTemplate(padded, template, cv2.TM_CCORR_NORMED)
    row, column = np.unravel_index(int(np.argmax(told)), told.shape)
    return np.array([[1.0, 0.0, float(column) - reach], [0.0, 1.0, float(row) - reach]], np.float32)


def _fit(
    picture: NDArray[np.float32], template: NDArray[np.float32], inner: NDArray[np.uint8], kind: int, start: NDArray[np.float32], cell: float
) -> tuple[NDArray[np.float32], float] | None:  # fmt: skip
    """From the plan's cells to the picture's, (2, 3), and how well it fits; nothing where it does not."""
    import cv2

    stop = (cv2.TERM_CRITERIA_EPS | cv2.TERM_CRITERIA_COUNT, 80, 1e-6)
    try:
        like, warp = cv2.findTransformECC(template, picture, start.copy(), kind, stop, inner, 3)
    except cv2.error:
        return None
    return np.asarray(warp, np.float32), float(like)


def _moved(warp: NDArray[np.float32], places: Array, cell: float) -> Array:
    """Places of the plan as a fit has them, mm."""
    at = places / cell - 0.5
    return np.asarray((at @ warp[:, :2].T + warp[:, 2] + 0.5) * cell, np.float64)


def _each(
    picture: NDArray[np.float32], warp: NDArray[np.float32], shapes: Sequence[tuple[str, Area]], cell: float, middles: Array, there: Array
) -> tuple[list[str], Array, Array]:  # fmt: skip
    """Each shape by itself, where that can be made out: names, where it was meant to be, where it is. All as the whole has them where fewer than three can."""
    import cv2

    names, planned, found = [], [], []
    room = 3.0
    for (name, shape), middle, whole in zip(shapes, middles, there):
        x0, y0, x1, y1 = shape.bounds
        low = np.maximum(np.floor(np.array([x0 - room, y0 - room]) / cell).astype(int), 0)
        high = np.minimum(np.ceil(np.array([x1 + room, y1 + room]) / cell).astype(int), picture.shape[::-1])
        if (high - low).min() < 12:
            continue
        box = (slice(low[1], high[1]), slice(low[0], high[0]))
        size = (int(high[1] - low[1]), int(high[0] - low[0]))
        here = [
            (one is shape, affinity.translate(one, *(-low * cell)))
            for _, one in shapes
            if one is shape or one.distance(shape) < 2.0 * room
        ]
        mine, others = (
            np.asarray(
                cv2.GaussianBlur(_drawn([one for own, one in here if own is ours], size, cell), (0, 0), 0.8), np.float32
            )
            for ours in (True, False)
        )
        inner = np.asarray(others < 0.02, np.uint8) * np.uint8(255)
        start = np.array([[1.0, 0.0, 0.0], [0.0, 1.0, 0.0]], np.float32)
        start[:, 2] = (whole - middle) / cell
        shifted = _fit(
            np.ascontiguousarray(picture[box]),
            mine,
            inner,
            cv2.MOTION_TRANSLATION,
            start,
            cell,
        )
        if shifted is None or shifted[1] < LIKE:
            continue
        at = middle + shifted[0][:, 2] * cell
        if float(np.linalg.norm(at - whole)) <= 1.0:
            names.append(name)
            planned.append(middle)
            found.append(at)
    if len(names) < 3:
        return [n for n, _ in shapes], middles, there
    return names, np.array(planned), np.array(found)


def _turned(points: Array, turn: float) -> Array:
    c, s = math.cos(turn), math.sin(turn)
    return np.asarray(points @ np.array([[c, s], [-s, c]]))


def _rigid(planned: Array, found: Array) -> tuple[float, Array]:
    """Turn, radians, and shift of least squares (Kabsch in the plane); no turn of one place."""
    a, b = planned - planned.mean(axis=0), found - found.mean(axis=0)
    turn = math.atan2(float((a[:, 0] * b[:, 1] - a[:, 1] * b[:, 0]).sum()), float((a * b).sum())) if len(a) > 1 else 0.0
    return turn, np.asarray(found.mean(axis=0) - _turned(planned.mean(axis=0)[None], turn)[0])


def _mm_of_px(marks: Array, size: tuple[float, float]) -> float:
    """How much of the piece a px of the photo is, mm, along its edges."""
    long = np.linalg.norm(np.roll(marks, -1, axis=0) - marks, axis=1)
    return float(np.mean(np.array([size[0], size[1], size[0], size[1]]) / np.maximum(long, 1e-9)))


def _doubt(
    marks: Array, size: tuple[float, float], planned: Array, found: Array, turn: float, shift: Array, picking: float, cell: float
) -> tuple[float, float]:  # fmt: skip
    """± of the shift, mm, and of the turn, degrees."""
    left = found - (_turned(planned, turn) + shift)
    count = max(2 * len(planned) - 3, 1)
    spread = math.hypot(math.sqrt(float((left**2).sum()) / count) if len(planned) > 2 else 0.0, STEADY * cell)
    matrix = to_plane(marks, *size)
    seen = mapped(np.asarray(np.linalg.inv(matrix), np.float64), found)
    centre = planned.mean(axis=0)
    rng = np.random.default_rng(1)
    shifts, turns = [], []
    for _ in range(TRIALS):
        try:
            other = to_plane(marks + rng.normal(0.0, picking, marks.shape), *size)
        except OperatorError:
            continue
        places = mapped(other, seen) + rng.normal(0.0, spread, found.shape)
        t, s = _rigid(planned, places)
        shifts.append(_turned(centre[None], t)[0] + s)
        turns.append(t)
    if len(shifts) < TRIALS // 2:
        raise OperatorError("The corners lie too near each other in this photo: nothing can be said of its ±.")
    base = _turned(centre[None], turn)[0] + shift
    off = np.linalg.norm(np.array(shifts) - base, axis=1)
    return float(np.quantile(off, HOLDS)), math.degrees(float(np.quantile(np.abs(np.array(turns) - turn), HOLDS)))
