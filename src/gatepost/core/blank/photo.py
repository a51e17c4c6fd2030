# SPDX-License-Identifier: GPL-3.0-or-later
"""An overhead photo with a scale in it: from px to mm, the edge above the scale, and how far it is to be trusted.

px: u to the right, v down, from the photo's top left. mm: on the scale's plane, X from its first mark to its second, Y up.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from itertools import combinations

import numpy as np
import shapely
from numpy.typing import NDArray

from gatepost.core.errors import OperatorError
from gatepost.core.findings import Finding, Level
from gatepost.core.job.blank import Photo
from gatepost.core.units import mm
from gatepost.core.working import Named, working

Array = NDArray[np.float64]
TRIALS = 300
HOLDS = 0.95  # of the trials lie within the ± that is stated
TRACED = 0.7  # px by which a traced edge may lie beside the true one
FLAT_QUAD = 0.02  # of the square of a photo's diagonal between marks; less is a line
TELL_TALE = 0.005  # of a check length that may be off before it is asked about


def _cross(a: Array, b: Array) -> float:
    return float(a[0] * b[1] - a[1] * b[0])


def _sound(marks: Array) -> None:
    """Whether marks can carry a scale. Raises OperatorError with what is wrong."""
    if len(marks) not in (2, 4):
        raise OperatorError(f"Two marks or four are wanted; {len(marks)} are set.")
    if not np.isfinite(marks).all():
        raise OperatorError("A mark is not a place in the photo.")
    size = float(np.ptp(marks, axis=0).max())
    if any(math.dist(a, b) < 20.0 for a, b in combinations(marks.tolist(), 2)):
        raise OperatorError("Two of the marks lie on each other: they must be well apart.")
    if len(marks) == 2:
        return
    for three in combinations(range(4), 3):
        a, b, c = marks[list(three)]
        if abs(_cross(b - a, c - a)) < FLAT_QUAD * size**2:
            names = ", ".join(str(i + 1) for i in three[:2])
            raise OperatorError(f"Marks {names} and {three[2] + 1} lie in a line: a rectangle's corners are wanted.")
    turns = [_cross(marks[(i + 1) % 4] - marks[i], marks[(i + 2) % 4] - marks[(i + 1) % 4]) for i in range(4)]
    if not (all(t > 0 for t in turns) or all(t < 0 for t in turns)):
        raise OperatorError(
            "The marks cross over: go round the rectangle from its front left corner, one after another."
        )
    if turns[0] > 0:  # v grows downwards: anticlockwise on the bed is clockwise in numbers
        raise OperatorError("The marks go round clockwise: start at the front left corner and go round anticlockwise.")


def to_plane(marks: Array, across: float, up: float) -> Array:
    """The (3, 3) matrix from px to mm on the scale's plane. marks: (4, 2) corners of a rectangle across × up, or (2, 2)
    marks across apart in a photo taken straight down. Raises OperatorError.

    Four marks: the projective map that takes them to the rectangle, eight equations in eight unknowns (any text on
    projective geometry); two: turn, scale and shift.
    """
    _sound(marks)
    if len(marks) == 2:
        a, b = (complex(u, -v) for u, v in marks)
        turn = across / (b - a)
        move = -turn * a
        return np.array([[turn.real, turn.imag, move.real], [turn.imag, -turn.real, move.imag], [0.0, 0.0, 1.0]])
    if up <= 0.0:
        raise OperatorError("Four marks want the rectangle's other side too.")
    corners = np.array([[0.0, 0.0], [across, 0.0], [across, up], [0.0, up]])
    middle, size = marks.mean(axis=0), float(np.ptp(marks, axis=0).max())
    rows, right = [], []
    for (u, v), (x, y) in zip((marks - middle) / size, corners):
        rows += [[u, v, 1, 0, 0, 0, -x * u, -x * v], [0, 0, 0, u, v, 1, -y * u, -y * v]]
        right += [x, y]
    solved = np.append(np.linalg.solve(np.array(rows), np.array(right)), 1.0).reshape(3, 3)
    shift = np.array([[1.0 / size, 0, -middle[0] / size], [0, 1.0 / size, -middle[1] / size], [0, 0, 1.0]])
    return np.asarray(solved @ shift, np.float64)


def mapped(matrix: Array, points: Array) -> Array:
    """Places through a matrix, (n, 2)."""
    out = np.column_stack([points, np.ones(len(points))]) @ matrix.T
    return np.asarray(out[:, :2] / out[:, 2:], np.float64)


def under_lens(matrix: Array, size: tuple[int, int], marks: int, lens: float) -> tuple[float, float]:
    """The place under the lens on the scale's plane. size: of the photo, px; lens: its height over the plane, mm.

    Looking straight down it is the middle of the photo. From a rectangle it follows from how the photo is foreshortened:
    a camera with square pixels and its axis through the middle sees the plane by K·[r1 r2 t]; the focal length is the one
    for which the lens comes to stand at its height. Raises OperatorError when none does.
    """
    if marks == 2:
        x, y = mapped(matrix, np.array([[size[0] / 2.0, size[1] / 2.0]]))[0]
        return float(x), float(y)
    back = np.linalg.inv(matrix)
    back = back * np.sign((back @ np.append(mapped(matrix, np.array([[size[0] / 2.0, size[1] / 2.0]]))[0], 1.0))[2])

    def stands(focal: float) -> Array:
        seen = np.diag([1.0 / focal, 1.0 / focal, 1.0]) @ (
            np.array([[1, 0, -size[0] / 2.0], [0, 1, -size[1] / 2.0], [0, 0, 1.0]]) @ back
        )
        scale = 1.0 / math.sqrt(float(np.linalg.norm(seen[:, 0]) * np.linalg.norm(seen[:, 1])))
        one, two, move = (scale * seen[:, i] for i in range(3))
        turn = np.column_stack([one, two, np.cross(one, two)])
        place: Array = -np.linalg.solve(turn, move)
        return place

    trials = np.geomspace(0.25, 30.0, 60) * max(size)
    heights = np.array([abs(stands(f)[2]) for f in trials])
    over = np.flatnonzero((heights[:-1] - lens) * (heights[1:] - lens) <= 0)
    if len(over) == 0:
        raise OperatorError(
            f"No camera sees these marks from {mm(lens)}: check the height of the lens, and the rectangle's sides."
        )
    low, high = float(trials[over[0]]), float(trials[over[0] + 1])
    for _ in range(60):
        half = 0.5 * (low + high)
        same = (abs(stands(low)[2]) - lens) * (abs(stands(half)[2]) - lens) > 0
        low, high = (half, high) if same else (low, half)
    place = stands(low)
    return float(place[0]), float(place[1])


def lowered(points: Array, above: float, lens: float, under: tuple[float, float]) -> Array:
    """Places seen above the scale, put where they are: C + (seen - C)·(H - t)/H. Raises OperatorError."""
    if lens <= 0.0 or above == 0.0:
        return points
    if above >= lens:
        raise OperatorError(f"The edge can't stand {mm(above)} up with the lens at {mm(lens)}.")
    middle = np.array(under)
    return np.asarray(middle + (points - middle) * ((lens - above) / lens), np.float64)


@dataclass(frozen=True)
class Measured:
    """An outline out of a photo. outline: (n, 2), mm from the first mark; doubt: its ±, mm; matrix: px to mm for the
    edge's own height; under: the place under the lens; check: measured less true, of the check length."""

    outline: Array
    doubt: float
    matrix: Array
    under: tuple[float, float]
    check: float | None


def measured(photo: Photo, size: tuple[int, int], traced: Array, seed: int = 1, unsure: float = 0.0) -> Measured:
    """The outline of a traced edge. size: of the photo, px; traced: (n, 2), px; unsure: px by which its edge may be another. Raises OperatorError.

    The ± is not the fit's residual, which is nought. Every mark is moved by its picking error, and the heights by what
    they are unsure of, many times: 95 in 100 of the worst places along the outline lie within it, and what a traced
    edge may be off is added; where two marks alone give the scale, so is what a camera does that is not quite level.
    """
    marks = np.array(photo.marks, dtype=np.float64).reshape(-1, 2)
    whole, under = plane_of(photo, size, marks, photo.above, photo.lens, None)
    outline = mapped(whole, traced)
    some = traced[:: max(1, len(traced) // 60)]
    base = mapped(whole, some)
    rng = np.random.default_rng(seed)
    worst = []
    for _ in range(TRIALS):
        moved = marks + rng.normal(0.0, photo.picking, marks.shape)
        above = photo.above + (rng.uniform(-1.0, 1.0) * photo.above_doubt if photo.lens > 0.0 else 0.0)
        lens = photo.lens + rng.normal(0.0, photo.lens_doubt / 2.0) if photo.lens > 0.0 else 0.0
        try:
            matrix, _ = plane_of(photo, size, moved, max(above, 0.0), max(lens, above + 1.0) if lens else 0.0, under)
        except OperatorError:
            worst.append(math.inf)  # so badly placed that a picking error spoils it
            continue
        worst.append(float(np.linalg.norm(mapped(matrix, some) - base, axis=1).max()))
    step = mapped(whole, some + np.array([TRACED + unsure, 0.0])) - base
    doubt = (
        float(np.quantile(worst, HOLDS))
        + float(np.linalg.norm(step, axis=1).max())
        + side_seen(photo, outline, under)
        + tilted(photo, outline)
    )
    if not math.isfinite(doubt):
        raise OperatorError("The marks lie too near each other for this photo: nothing can be said of the outline's ±.")
    check = None
    if len(photo.check) == 2 and photo.check_length > 0.0:
        flat = to_plane(marks, photo.across, photo.up)
        a, b = mapped(flat, np.array(photo.check))
        check = math.dist(a, b) - photo.check_length
    return Measured(outline, doubt, whole, under, check)


LEVEL = 2.0  # degrees that a camera held by eye is out of level; a shop rule
USUAL = 1500.0  # mm that a lens stands over the scale where nobody measured it


def tilted(photo: Photo, outline: Array) -> float:
    """What a camera out of level does to an outline scaled by two marks, mm: r²·sin(tilt)/H at a distance r from the middle between them."""
    if len(photo.marks) != 2:
        return 0.0
    far = float(np.linalg.norm(outline - np.array([0.5 * photo.across, 0.0]), axis=1).max())
    return far**2 * math.sin(math.radians(LEVEL)) / (photo.lens or USUAL)


def side_seen(photo: Photo, outline: Array, under: tuple[float, float]) -> float:
    """How far the foot of an upright side may be taken for the edge where the lens sees that side, mm.

    At a place p whose outward normal n points to the lens, the foot comes to lie (C - p)·n·t/H outside the edge.
    """
    if photo.lens <= 0.0 or photo.above == 0.0:
        return 0.0
    few = outline[:: max(1, len(outline) // 400)]
    along = np.roll(few, -1, axis=0) - np.roll(few, 1, axis=0)
    way = 1.0 if shapely.is_ccw(shapely.linearrings(few)) else -1.0  # outwards is to the right of it, or to the left
    normal = (
        way * np.column_stack([along[:, 1], -along[:, 0]]) / np.maximum(np.linalg.norm(along, axis=1), 1e-9)[:, None]
    )
    facing = ((np.array(under) - few) * normal).sum(axis=1)
    return max(0.0, float(facing.max())) * photo.above / photo.lens


def plane_of(
    photo: Photo, size: tuple[int, int], marks: Array, above: float, lens: float, under: tuple[float, float] | None
) -> tuple[Array, tuple[float, float]]:
    """px to mm for an edge above the scale, and the place under the lens."""
    flat = to_plane(marks, photo.across, photo.up)
    if lens <= 0.0:
        return flat, under or (0.0, 0.0)
    if under is None:
        under = photo.under or under_lens(flat, size, len(marks), lens)
    if above >= lens:
        raise OperatorError(f"The edge can't stand {mm(above)} up with the lens at {mm(lens)}.")
    k = (lens - above) / lens
    lower = np.array([[k, 0.0, under[0] * (1.0 - k)], [0.0, k, under[1] * (1.0 - k)], [0.0, 0.0, 1.0]])
    return np.asarray(lower @ flat, np.float64), under


def findings(photo: Photo | None, doubt: float) -> list[Finding]:
    """What there is to say of an outline out of a photo, and of its ±."""
    if photo is None:
        return []
    said: list[Finding] = []
    size = max(photo.box[2] - photo.box[0], 1.0)
    picks = working(
        "picking * across / pixels", Named("picking", photo.picking, "number"), Named("across", photo.across),
        Named("pixels", float(np.linalg.norm(np.subtract(photo.marks[1], photo.marks[0]))) if len(photo.marks) > 1 else 1.0, "number"),
        assumption="px by which a mark is picked wrong", shop_rule=True,
    )  # fmt: skip
    message = (
        f"The outline is from a photo, good to ± {mm(doubt)}: passes go that much farther. Each mark can be off by "
        f"{mm(picks.result)} here. A phone's wide lens bends lines: take it from far, with the board in the middle of the picture."
    )
    said.append(Finding("blank.photo", Level.NOTE, "blank", message, working=picks))
    if photo.above > 0.0 and photo.lens == 0.0:
        off = 100.0 * photo.above / 1500.0
        message = (
            f"The edge stands {mm(photo.above)} above the scale and the height of the lens is not known: from 1.5 m the "
            f"outline would come out {off:.1f} % too large. Measure the lens's height."
        )
        said.append(Finding("blank.photo-lens", Level.CARE, "blank", message))
    if len(photo.marks) == 2:
        message = "Two marks tell the scale only if the camera looks straight down: 7° of tilt makes 1.5 %. Four corners of a rectangle are surer."
        said.append(Finding("blank.photo-two-marks", Level.NOTE, "blank", message))
    if not photo.check_length:
        message = "No length was checked that the scale was not made from. Measure one across the board and mark it."
        said.append(Finding("blank.photo-no-check", Level.NOTE, "blank", message))
    if doubt > 0.02 * size:
        message = f"± {mm(doubt)} is much for this board. Marks farther apart, or a photo from nearer, would be better."
        said.append(Finding("blank.photo-doubt", Level.CARE, "blank", message))
    return said


def check_finding(photo: Photo, off: float, doubt: float) -> Finding:
    """What a check length says."""
    allowed = max(doubt, TELL_TALE * photo.check_length)
    if abs(off) <= allowed:
        message = f"The check length comes out {mm(abs(off))} {'long' if off > 0 else 'short'}: within what is allowed, {mm(allowed)}."
        return Finding("blank.photo-check", Level.OK, "blank", message)
    message = f"The check length of {mm(photo.check_length)} comes out {mm(abs(off))} too {'long' if off > 0 else 'short'}: a mark, the scale's size or the lens is wrong."
    return Finding("blank.photo-check", Level.CARE, "blank", message)


def largest(points: Array) -> Array:
    """The largest simple outline of a traced one that may touch itself."""
    made = shapely.make_valid(shapely.Polygon(points))
    parts = [p for p in shapely.get_parts(made) if p.geom_type == "Polygon"]
    if not parts:
        raise OperatorError("No outline was found in the photo.")
    best = max(parts, key=lambda p: p.area)
    return np.asarray(shapely.get_coordinates(best.exterior)[:-1])
