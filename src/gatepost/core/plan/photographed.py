# SPDX-License-Identifier: GPL-3.0-or-later
"""A piece photographed overhead where it lies on the bed: a first fit by marks that are clicked in the photo, with its ±. It says where to measure, and sets no zero."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, field

import numpy as np
import shapely
from numpy.typing import NDArray

from gatepost.core.blank.photo import HOLDS, USUAL, check_finding, mapped, plane_of, tilted, to_plane, under_lens
from gatepost.core.blank.shape import polygon
from gatepost.core.carve.areas import area_of
from gatepost.core.errors import OperatorError
from gatepost.core.frames import Bed, FaceFrame, Matrix
from gatepost.core.geometry.outline import Area
from gatepost.core.job.blank import Photo
from gatepost.core.job.model import Job, Setup
from gatepost.core.job.register import ByMarks, PieceMark
from gatepost.core.plan.found import as_it_lies, face_to_bed, normal_on_bed
from gatepost.core.plan.turned import lying, placed_in
from gatepost.core.register.fit import Fit, FitVerdict
from gatepost.core.register.marks import MOST_TURN, ReadMark, fit_of, rows_of, turn_and_shift
from gatepost.core.register.moved import Moved
from gatepost.core.units import mm

Array = NDArray[np.float64]
TRIALS = 200
HIGHER = 5.0  # mm of the lens, over which it is seen how the place under it moves
ROUGH = 0.1  # mm of outlines that are laid over a photo
CLICKED = 2.0  # times the ± that a mark may lie beside where all together have the piece, and this much more
MORE = 1.0


@dataclass(frozen=True)
class ScaleOnBed:
    """Where a photo's scale lies. x, y: of its first mark on the bed, mm; heading: of its second from there, degrees against the clock from X."""

    x: float = 0.0
    y: float = 0.0
    heading: float = 0.0

    def to_bed(self, points: Array) -> Array:
        """Places of the scale's plane on the bed, (n, 2)."""
        c, s = math.cos(math.radians(self.heading)), math.sin(math.radians(self.heading))
        return np.asarray(points @ np.array([[c, s], [-s, c]]) + np.array([self.x, self.y]))

    def back(self, points: Array) -> Array:
        """Places of the bed on the scale's plane."""
        c, s = math.cos(math.radians(self.heading)), math.sin(math.radians(self.heading))
        return np.asarray((points - np.array([self.x, self.y])) @ np.array([[c, -s], [s, c]]))


@dataclass(frozen=True)
class FirstFit:
    """Where a piece lies by a photo. move: from where it was meant to; doubt: by which it may lie otherwise at its worst place, mm; degrees: by which it may lie turned otherwise; fit: of the
    marks; setup: as it lies by them; seen: the drawing laid over the photo, each line (n, 2) px; said: what there is to say."""

    move: Moved
    doubt: float
    degrees: float
    fit: Fit
    setup: Setup
    seen: list[list[list[float]]] = field(default_factory=list)
    said: tuple[str, ...] = ()

    @property
    def values(self) -> dict[str, object]:
        """Of the command that lays the piece there."""
        s = self.setup
        return {
            "setup": s.id,
            "x": round(s.x, 2),
            "y": round(s.y, 2),
            "degrees": round(s.skew, 3),
            "first": round(self.doubt, 2),
        }


def first_fit(job: Job, name: str, photo: Photo, size: tuple[int, int], clicked: Array, scale: ScaleOnBed) -> FirstFit:
    """photo: its scale; size: of it, px; clicked: (n, 2) px, the first n marks of the setup. Raises OperatorError.

    The ± moves every mark of the scale and every mark of the piece by the picking error, and the heights by what they are unsure of, fits anew each time, and holds for 95 in 100 at the
    worst place of board and marks; where two marks alone give the scale, what a camera out of level does is added.
    """
    setup = job.setup(name)
    comes = setup.comes
    marks = comes.marks[: len(clicked)] if isinstance(comes, ByMarks) else ()
    if len(marks) < 2:
        raise OperatorError(
            "Name two marks of the piece at least, on the Register page, and click each of them in the photo."
        )
    to_bed = face_to_bed(job, setup)
    scaled = np.array(photo.marks, np.float64).reshape(-1, 2)
    whole, _under = plane_of(photo, size, scaled, photo.above, photo.lens, None)
    seen = scale.to_bed(mapped(whole, clicked))
    read = _read(marks, to_bed, seen)
    checked = fit_of(read, math.inf, faced=True)
    if checked.verdict is FitVerdict.REFUSED:
        raise OperatorError(checked.sentence)
    turn, shift = turn_and_shift(read)
    move = Moved(math.degrees(turn), float(shift[0]), float(shift[1]))
    doubt, degrees = _doubt(job, setup, photo, size, clicked, scale, marks, to_bed, whole, move)
    fit = fit_of(read, CLICKED * doubt + MORE, faced=True)
    there = as_it_lies(job, setup, move)
    if abs(there.skew) > MOST_TURN:
        raise OperatorError(
            f"By these marks the piece lies turned by {there.skew:.0f}°: were they clicked in their order, and is that face up? It is laid straighter, by {MOST_TURN:.0f}° at the most, or its setup turned."
        )
    over = [
        mapped(np.asarray(np.linalg.inv(whole), np.float64), scale.back(line)).tolist() for line in _drawn(job, there)
    ]
    said = [
        f"By the photo the piece lies within ± {mm(doubt)} and ± {degrees:.1f}° of where it is laid over it. That is a first fit: its marks are read at the machine before anything is cut."
    ]
    if fit.verdict is not FitVerdict.FITS:
        said.append(f"{fit.sentence} Look whether each mark was clicked that was asked for.")
    if len(photo.check) == 2 and photo.check_length > 0.0:
        a, b = mapped(to_plane(scaled, photo.across, photo.up), np.array(photo.check))
        said.append(check_finding(photo, math.dist(a, b) - photo.check_length, doubt).message)
    return FirstFit(move, doubt, degrees, fit, there, over, tuple(said))


def _read(marks: Sequence[PieceMark], to_bed: Matrix[FaceFrame, Bed], seen: Array) -> list[ReadMark]:
    return [
        ReadMark(m.title or m.id, to_bed.xy(m.x, m.y), (float(p[0]), float(p[1])), normal_on_bed(m, to_bed))
        for m, p in zip(marks, seen)
    ]


def _doubt(
    job: Job, setup: Setup, photo: Photo, size: tuple[int, int], clicked: Array, scale: ScaleOnBed, marks: Sequence[PieceMark], to_bed: Matrix[FaceFrame, Bed],
    whole: Array, move: Moved,
) -> tuple[float, float]:  # fmt: skip
    """By how much the worst place may lie otherwise, mm, and the turn, degrees."""
    corners = np.asarray(_board_on_bed(job, setup).convex_hull.exterior.coords)[:-1]
    drawn = np.array([to_bed.xy(m.x, m.y) for m in marks])
    places = np.vstack([corners, drawn])
    base = np.array([move.there(*p) for p in places])
    rng = np.random.default_rng(1)
    scaled = np.array(photo.marks, np.float64).reshape(-1, 2)
    turn, shift = math.radians(move.degrees), np.array([move.x, move.y])
    ways = rows_of(_read(marks, to_bed, scale.to_bed(mapped(whole, clicked))), turn, shift)[0]
    back = np.linalg.pinv(ways)
    under = _under(photo, size, scaled)
    worst, turned = [], []
    for _ in range(TRIALS):
        by = rng.normal(0.0, photo.picking, scaled.shape)
        above = photo.above + (rng.uniform(-1.0, 1.0) * photo.above_doubt if photo.lens > 0.0 else 0.0)
        higher = rng.normal(0.0, photo.lens_doubt / 2.0) if photo.lens > 0.0 else 0.0
        lens = max(photo.lens + higher, above + 1.0) if photo.lens > 0.0 else 0.0
        at = under[0] + under[1] @ np.append(by, higher) if under is not None else (0.0, 0.0)
        try:
            matrix, _ = plane_of(photo, size, scaled + by, max(above, 0.0), lens, (float(at[0]), float(at[1])))
        except OperatorError:
            worst.append(math.inf)
            turned.append(math.inf)
            continue
        seen = scale.to_bed(mapped(matrix, clicked + rng.normal(0.0, photo.picking, clicked.shape)))
        off = rows_of(_read(marks, to_bed, seen), turn, shift)[1]
        step = back @ off  # a picking error is small: the fit follows it as a straight line
        other = Moved(math.degrees(turn + step[0]), *(shift + step[1:]))
        worst.append(float(np.linalg.norm(np.array([other.there(*p) for p in places]) - base, axis=1).max()))
        turned.append(abs(other.degrees - move.degrees))
    doubt, degrees = float(np.quantile(worst, HOLDS)), float(np.quantile(turned, HOLDS))
    if not math.isfinite(doubt):
        raise OperatorError("The marks lie too near each other for this photo: nothing can be said of its ±.")
    return doubt + tilted(photo, scale.back(base)) + _leaning(photo, size, scale, base), degrees


def _under(photo: Photo, size: tuple[int, int], scaled: Array) -> tuple[Array, Array] | None:
    """The place under the lens, and how it moves with each mark of the scale and with the lens's height, (2, n); nothing where its height is not known, or it does not count."""
    if photo.lens <= 0.0:
        return None
    if photo.under is not None:
        return np.array(photo.under), np.zeros((2, scaled.size + 1))

    def at(marks: Array, lens: float) -> Array:
        return np.array(under_lens(to_plane(marks, photo.across, photo.up), size, len(marks), lens))

    here = at(scaled, photo.lens)
    ways = []
    for k in range(scaled.size):
        by = np.zeros(scaled.size)
        by[k] = photo.picking
        one, other = (at(scaled + way * by.reshape(scaled.shape), photo.lens) for way in (1.0, -1.0))
        ways.append((one - other) / (2.0 * photo.picking))
    ways.append((at(scaled, photo.lens + HIGHER) - here) / HIGHER)
    return here, np.array(ways).T


def _leaning(photo: Photo, size: tuple[int, int], scale: ScaleOnBed, places: Array) -> float:
    """What a top that stands over the scale lies otherwise by where the height of the lens is not known, mm: its height times how far from under the lens, over that height."""
    if photo.lens > 0.0 or photo.above <= 0.0:
        return 0.0
    flat = to_plane(np.array(photo.marks, np.float64).reshape(-1, 2), photo.across, photo.up)
    middle = scale.to_bed(mapped(flat, np.array([[0.5 * size[0], 0.5 * size[1]]])))
    return float(np.linalg.norm(places - middle, axis=1).max()) * photo.above / USUAL


def _board_on_bed(job: Job, setup: Setup) -> Area:
    """The board's outline where it lies."""
    return placed_in(job, setup).to_bed.area(polygon(lying(job, setup)))


def _drawn(job: Job, setup: Setup) -> list[Array]:
    """Outline of the board, and all artwork of the face that is up, on the bed."""
    to_bed = face_to_bed(job, setup)
    areas = [_board_on_bed(job, setup), *(to_bed.area(area_of(a, ROUGH)) for a in job.artwork if a.face == setup.up)]
    rings = [r for a in areas for p in shapely.get_parts(a) for r in (p.exterior, *p.interiors)]
    return [np.asarray(r.coords) for r in rings if not r.is_empty]
