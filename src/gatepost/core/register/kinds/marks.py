# SPDX-License-Identifier: GPL-3.0-or-later
"""The piece is found by marks that are measured on it: holes, edges, points of old lettering."""

from __future__ import annotations

import math

import numpy as np
import shapely
from numpy.typing import NDArray

from gatepost.core.findings import Figure, Finding, Fix, Level, Place, Table
from gatepost.core.job.kinds import KindEntry
from gatepost.core.job.register import ByMarks
from gatepost.core.register.fit import Fit, FitVerdict, Residual
from gatepost.core.register.kind import STAGE, Coming, ComingTold, RegisterKind
from gatepost.core.register.marks import MOST_TURN, ReadMark, fit_of, shifted_at_worst
from gatepost.core.tolerances import REGISTERED
from gatepost.core.units import mm
from gatepost.core.working import Named, Working, working

FACING = -0.7  # cosine between two normals of opposite sides at the most
SAME = 1e-6  # by which a sum may be another than what was fitted
ENOUGH = 5  # marks of which one that is wrong can always be named


class MarksKind(RegisterKind):
    """Found by marks."""

    figures, one, alone, zero = ByMarks, "found by marks", True, "set by its marks"
    laying = "Lay the piece about where it is drawn, its corner near {where}."
    entries = (
        KindEntry("A look is good to", "length", "eye"), KindEntry("Pin, against edges and in holes", "length", "pin"), KindEntry("May lie beside its place", "length", "good"),
    )  # fmt: skip

    def told(self, coming: Coming) -> ComingTold:
        """Whether its marks find it, how well, and what they say once they are read."""
        found, name = coming.found, coming.setup.id
        comes = coming.setup.comes
        assert isinstance(comes, ByMarks)
        if found is None or len(found.marks) < 2:
            message = f"{coming.name} is found by marks, and {'one is' if found and found.marks else 'none are'} named: two at least, three or more to see whether one is wrong."
            fix = Fix("marks from art", {"setup": name}, "Take all holes and the edges of what is drawn")
            return ComingTold(findings=(Finding("register.marks-few", Level.STOP, STAGE, message, name, fixes=(fix,)),))
        meant = fit_of([_as_meant(m) for m in found.marks], comes.good)
        if meant.verdict is FitVerdict.REFUSED:
            return ComingTold(findings=(Finding("register.marks-free", Level.STOP, STAGE, meant.sentence, name),))
        said = [*_worth(coming, found.marks), *_off_board(coming, found.marks)]
        figures, more = _good_to(coming, found.marks)
        if found.fit is not None:
            told, tables = _fitted(coming, found.fit)
            return ComingTold((*figures, *_figures(name, found.fit)), (*told, *more, *said), tables)
        left = len(found.marks) - len(found.read)
        some = (
            f"{left} of {len(found.marks)} marks still to be read at the machine."
            if found.read
            else f"Its {len(found.marks)} marks are read at the machine, before X0 Y0 is set."
        )
        if comes.first:
            some += f" By the photo each is within ± {mm(comes.first)} of where it is looked for."
        return ComingTold(
            tuple(figures), (*more, *said, Finding("register.marks-unread", Level.NOTE, STAGE, some, name))
        )


def _as_meant(m: ReadMark) -> ReadMark:
    """A mark as it would be read where it is meant to be."""
    if m.normal is None:
        return ReadMark(m.name, m.drawn, m.drawn)
    angle = math.radians(m.normal)
    at = (m.drawn[0] + m.radius * math.cos(angle), m.drawn[1] + m.radius * math.sin(angle))
    return ReadMark(m.name, m.drawn, at, m.normal, m.radius)


def _worth(coming: Coming, marks: tuple[ReadMark, ...]) -> list[Finding]:
    """What so many marks can say, and what edges of one side alone can't."""
    said: list[Finding] = []
    name = coming.setup.id
    if len(marks) == 2:
        message = "Two marks can say that something is wrong, never which of them. Measure a third."
        said.append(Finding("register.marks-two", Level.CARE, STAGE, message, name))
    elif len(marks) < ENOUGH:
        message = f"Of {len(marks)} marks the one that is wrong can't always be named: {ENOUGH} are worth their minutes where the piece can't be replaced."
        said.append(Finding("register.marks-three", Level.NOTE, STAGE, message, name))
    edges = [m for m in marks if m.normal is not None]
    if edges and not _facing(edges):
        message = "Edges are touched on adjoining sides only: a chamfer there, or a pin's radius miscounted, is a shift that nothing shows. Touch opposite edges, or holes."
        said.append(Finding("register.marks-one-sided", Level.CARE, STAGE, message, name))
    return said


def _facing(edges: list[ReadMark]) -> bool:
    angles = np.radians([m.normal or 0.0 for m in edges])
    return bool(np.cos(angles[:, None] - angles[None, :]).min() <= FACING)


def _off_board(coming: Coming, marks: tuple[ReadMark, ...]) -> list[Finding]:
    """Marks that are drawn where there is no wood."""
    if coming.outline is None or coming.found is None or coming.found.stands:
        return []
    board = coming.now.area(coming.outline).buffer(0.5)
    off = [m for m in marks if not board.covers(shapely.Point(*m.drawn))]
    if not off:
        return []
    message = f"{off[0].name} is drawn beside the board, where there is nothing to measure."
    return [
        Finding(
            "register.mark-off-board",
            Level.STOP,
            STAGE,
            message,
            coming.setup.id,
            place=Place(*off[0].drawn),
            about=off[0].name,
        )
    ]


def _good_to(coming: Coming, marks: tuple[ReadMark, ...]) -> tuple[list[Figure], list[Finding]]:
    """By how much what is cut may lie beside where it is drawn, by how well marks are read."""
    found = shifted_at_worst(marks, _hull(coming.cut))
    if found is None:
        return [], []
    k, sum_ = found
    place = Place(*map(float, _hull(coming.cut)[k]))
    name, allowed = coming.setup.id, REGISTERED[coming.job.tolerance]
    figures = [Figure("By its marks, at worst", sum_.result, "length", sum_, 2, setup=name)]
    where = f"X {mm(place.x)}, Y {mm(place.y)} on the bed"
    if sum_.result <= allowed:
        message = f"By these marks nothing cut here lies more than {mm(sum_.result, 2)} beside its place, at {where}."
        return figures, [Finding("register.marks-good", Level.OK, STAGE, message, name, sum_)]
    message = f"By these marks what is cut may lie {mm(sum_.result, 2)} beside its place, at {where}; {mm(allowed, 2)} suits this job. Read more of them, farther apart, or touch edges and holes with a pin."
    return figures, [Finding("register.marks-loose", Level.CARE, STAGE, message, name, sum_, place=place)]


def _hull(cut: NDArray[np.float64]) -> NDArray[np.float64]:
    return np.asarray(shapely.get_coordinates(shapely.convex_hull(shapely.multipoints(cut)))) if len(cut) else cut


def _figures(name: str, fit: Fit) -> list[Figure]:
    if fit.verdict is FitVerdict.REFUSED:
        return []
    worst = fit.worst
    return [
        Figure("It lies turned by", fit.turn, "angle", _turn(fit), 3, setup=name),
        Figure("Distances, measured over drawn", fit.scale, "number", _scale(fit), 5, setup=name),
        *(
            [Figure("Worst mark beside its place", worst.off, "length", _off(worst), 2, setup=name)]
            if worst is not None
            else []
        ),
    ]


def _turn(fit: Fit) -> Working | None:
    """The sum of its turn; nothing where it was found otherwise, as with a chamfer that was taken off first."""
    along, across, _ = fit.moments
    if along <= 0.0:
        return None
    sum_ = working(
        "atan(across / along)", Named("across", across, "mm²"), Named("along", along, "mm²"), unit="angle",
        assumption="of all marks that count: drawn by measured, about their middles, summed up", source="Schönemann, 1966, of rotations alone",
    )  # fmt: skip
    return sum_ if abs(sum_.result - fit.turn) < SAME else None


def _scale(fit: Fit) -> Working | None:
    along, across, square = fit.moments
    if square <= 0.0:
        return None
    named = Named("along", along, "mm²"), Named("across", across, "mm²"), Named("drawn", square, "mm²")
    sum_ = working("sqrt(along ** 2 + across ** 2) / drawn", *named, unit="number", assumption="drawn by measured over drawn by itself, summed up")  # fmt: skip
    return sum_ if abs(sum_.result - fit.scale) < SAME else None


def _off(worst: Residual) -> Working:
    return working("sqrt(x ** 2 + y ** 2)", Named("x", worst.x), Named("y", worst.y), assumption=f"{worst.name}, measured less fitted")  # fmt: skip


def _fitted(coming: Coming, fit: Fit) -> tuple[list[Finding], tuple[Table, ...]]:
    """What the readings say, and what is to be done by it."""
    name = coming.setup.id
    edges = any(r.along is not None for r in fit.residuals)
    rows: list[tuple[str, ...]] = [("Mark", "X", "Y", *(("normal",) if edges else ()))]
    for n, r in enumerate(fit.residuals, start=1):
        along = (mm(r.along, 2) if r.along is not None else "–",) if edges else ()
        rows.append((f"{n} {r.name}", mm(r.x, 2), mm(r.y, 2), *along))
    tables: list[Table] = [(f"{coming.name}: each mark beside where the fit has it", tuple(rows))]
    if fit.verdict in (FitVerdict.FITS, FitVerdict.CHAMFER):
        tables.append((f"{coming.name}: or push it, each corner by so much", tuple(_pushes(coming, fit))))
    turn = fit.turn + coming.setup.skew if coming.found is None or not coming.found.stands else fit.turn
    if fit.verdict is FitVerdict.FITS and coming.found is not None and not coming.found.stands:
        message = f"The piece lies turned by {turn:.1f}°: lay it straighter, by {MOST_TURN:.0f}° at the most."
        return [Finding("register.marks-turned", Level.CARE, STAGE, message, name)], tuple(tables)
    if fit.verdict is FitVerdict.FITS:
        return [
            Finding(
                "register.marks-fit",
                Level.OK,
                STAGE,
                f"{fit.sentence} The programs are turned to lie as it does.",
                name,
            )
        ], tuple(tables)
    if fit.verdict is FitVerdict.CHAMFER:
        return [Finding("register.marks-chamfer", Level.CARE, STAGE, fit.sentence, name)], tuple(tables)
    again = Finding(
        "register.marks-do-not-fit",
        Level.CARE,
        STAGE,
        f"{fit.sentence} Nothing is set by them, and nothing is cut.",
        name,
        about=fit.odd or "",
    )
    return [again], tuple(tables)


def _pushes(coming: Coming, fit: Fit) -> list[tuple[str, ...]]:
    """How far each corner of the board would have to be pushed to lie as it was meant to."""
    if coming.outline is None:
        return []
    x0, y0, x1, y1 = coming.outline.bounds
    back = math.radians(-fit.turn)
    c, s = math.cos(back), math.sin(back)
    rows: list[tuple[str, ...]] = [("Corner", "to the right", "to the back")]
    lying = [coming.now.xy(x, y) for x, y in ((x0, y0), (x1, y0), (x1, y1), (x0, y1))]
    middle = np.mean(lying, axis=0)
    for x, y in lying:
        called = f"{'back' if y > middle[1] else 'front'} {'right' if x > middle[0] else 'left'}"
        a, b = x - fit.shift[0], y - fit.shift[1]
        meant = (c * a - s * b, s * a + c * b)
        rows.append((called, mm(meant[0] - x, 2), mm(meant[1] - y, 2)))
    return rows
