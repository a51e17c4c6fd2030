# SPDX-License-Identifier: GPL-3.0-or-later
"""Nothing comes loose: every separate piece of wood after an operation and what holds it, what hangs by too little, and
strips so narrow that they break off and are thrown. All from the removal model."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, field, replace

import numpy as np
from numpy.typing import NDArray
from shapely.geometry import Polygon

from gatepost.core.findings import Finding, Fix, Level, Place, Table
from gatepost.core.frames import Bed, Board, Matrix
from gatepost.core.geometry.raster import inside
from gatepost.core.units import mm
from gatepost.core.wood.field import HeightField, Numbers, WoodPiece, pieces
from gatepost.core.working import Named, Working, working

SKIN = 0.05  # mm over the bed; less than this holds nothing together
DUST = 25.0  # mm²; a smaller loose piece is a chip
THIN = 8.0  # mm; wood no thicker than this is looked at as what another piece hangs by
SHARE = 0.2  # of a hold's bearing that must lie on a piece for it to count
SMALL_ON_TAPE = 5000.0  # mm²; a smaller piece wants tabs or a skin, whatever its tape reckons
TAPE_TIMES, UP_CUT_TIMES = 2.0, 3.0  # push that a piece's own tape must hold
HANGING = 2.0  # times the peak push that what a piece hangs by must bear


@dataclass(frozen=True)
class GripArea:
    """Where a hold has the blank in its grip, blank XY. sticks: N/mm² of a strip of tape, or nothing where it presses."""

    hold: str
    area: Polygon
    sticks: float | None = None


@dataclass(frozen=True)
class Cutting:
    """What an operation does to what it frees. push, peak: N; lifts: whether the bit is an up-cut; tabs: whether tabs can be
    left; hung: whether somebody else judges its tabs."""

    setup: str
    operation: str
    push: float
    peak: float
    lifts: bool = False
    tabs: bool = False
    hung: bool = False


@dataclass(frozen=True)
class PieceState:
    """A piece after an operation. at: a place inside it, blank XY; area: mm²; held_by: names of holds; box: blank XY; bears, wanted: N
    that has it and that is asked for, where only tape, tabs or a skin has it; hangs: whether tabs or a skin join it to what is held."""

    operation: str
    area: float
    at: tuple[float, float]
    held_by: tuple[str, ...]
    box: tuple[float, float, float, float]
    bears: float | None = None
    wanted: float = 0.0
    hangs: bool = False


@dataclass(frozen=True)
class Attachment:
    """A piece that stands in thick wood, and what it hangs by. section: mm² of thin wood at its foot; thinnest: mm there."""

    piece: WoodPiece
    section: float
    thinnest: float


@dataclass(frozen=True, eq=False)
class Pieces:
    """The separate pieces of a wood, largest first, and a map of their numbers (from 1); the same of what stands in thick
    wood, with what each of those hangs by."""

    found: tuple[WoodPiece, ...]
    numbers: Numbers
    thick: tuple[Attachment, ...] = ()
    thick_numbers: Numbers | None = None
    asked: dict[int, Attachment] = field(default_factory=dict)

    def hanging(self, after: HeightField, number: int) -> Attachment:
        """What a piece hangs by where that is least on its way to the next; worked out once. after: the wood that the pieces are of."""
        if number not in self.asked:
            hangs, numbers = self.thick[number - 1], self.thick_numbers
            assert numbers is not None
            self.asked[number] = replace(hangs, section=narrowest(after, numbers, number, hangs.piece, hangs.section))
        return self.asked[number]


def separate(after: HeightField) -> Pieces:
    """The pieces that the wood has come to. Where nothing is cut through there is one, and no map."""
    if not (after.wood & (after.z <= THIN)).any():
        return Pieces((_whole(after),), np.zeros((0, 0), np.uint16))
    found, numbers = pieces(after, SKIN, DUST)
    bodies, body_numbers = pieces(after, THIN, DUST)
    if len(bodies) < 2:
        return Pieces(tuple(found), numbers)
    sections, thinnest = _feet(after, body_numbers, len(bodies))
    hangs = tuple(Attachment(b, float(s), float(t)) for b, s, t in zip(bodies, sections, thinnest))
    return Pieces(tuple(found), numbers, hangs, body_numbers)


def _whole(after: HeightField) -> WoodPiece:
    wood = after.wood
    across, down = wood.sum(axis=0), wood.sum(axis=1)
    count = int(across.sum())
    if not count:
        return WoodPiece(after.x0, after.y0, (after.x0, after.y0, after.x0, after.y0), 0.0, 0.0)
    mean_i, mean_j = (float(n @ np.arange(len(n))) / count for n in (across, down))
    i, j = round(mean_i), round(mean_j)
    if not wood[j, i]:  # a ring, or a bay: the cell of wood nearest to the middle
        rows, columns = np.nonzero(wood)
        near = int(np.argmin((columns - mean_i) ** 2 + (rows - mean_j) ** 2))
        i, j = int(columns[near]), int(rows[near])
    (left, right), (front, back) = (np.flatnonzero(n)[[0, -1]].tolist() for n in (across, down))
    x0, y0, cell = after.x0, after.y0, after.cell
    box = (x0 + cell * left, y0 + cell * front, x0 + cell * right, y0 + cell * back)
    return WoodPiece(x0 + cell * i, y0 + cell * j, box, count * cell**2, float(after.z.max()))


def _feet(after: HeightField, numbers: Numbers, count: int) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """Of each body, the section of thin wood that it hangs by, mm², and how thin that is, mm."""
    thin = after.wood & (after.z > SKIN) & (after.z <= THIN)
    sections, least = np.zeros(count + 1), np.full(count + 1, np.inf)
    ahead, behind, all_ = slice(1, None), slice(None, -1), slice(None)
    for here, beside in (((ahead, all_), (behind, all_)), ((all_, ahead), (all_, behind))):
        for mine, other in ((here, beside), (beside, here)):
            there, z = numbers[other], after.z[mine]
            meets = thin[mine] & (there > 0)
            who, low = there[meets], z[meets]
            sections += np.bincount(who, weights=low.astype(np.float64) * after.cell, minlength=count + 1)
            np.minimum.at(least, who, low)
    return sections[1:], least[1:]


FAR = 16.0  # mm from a piece within which what it hangs by is looked for
MANY = 60  # pieces; of more, the foot alone is looked at


def narrowest(after: HeightField, numbers: Numbers, number: int, piece: WoodPiece, foot: float) -> float:
    """The least section of thin wood about a piece, mm²: a tab is narrowest in the middle of the slot, where the cutter's round ends come
    nearest to each other, and a third wider at its foot.

    The section at a distance is the sum over the faces of cells that it lies between, low height · cell · |change of distance| a face, which
    gives a front at any angle its true length. foot: mm² where it meets the piece.
    """
    import cv2  # only where something hangs

    if foot <= 0.0 or number > MANY:
        return foot
    reach, (rows, columns) = math.ceil(FAR / after.cell), numbers.shape
    x0, y0, x1, y1 = piece.box
    i0, i1 = (
        max(0, round((x0 - after.x0) / after.cell) - reach),
        min(columns, round((x1 - after.x0) / after.cell) + reach + 1),
    )
    j0, j1 = (
        max(0, round((y0 - after.y0) / after.cell) - reach),
        min(rows, round((y1 - after.y0) / after.cell) + reach + 1),
    )
    here, z = (
        numbers[j0:j1, i0:i1],
        np.where(after.wood[j0:j1, i0:i1] & (after.z[j0:j1, i0:i1] > SKIN), after.z[j0:j1, i0:i1], 0.0),
    )
    away = cv2.distanceTransform((here != number).view(np.uint8), cv2.DIST_L2, cv2.DIST_MASK_PRECISE)  # cells
    last = min(float(away[(here > 0) & (here != number)].min(initial=reach)), float(reach))
    levels = np.arange(0.5, last, 1.0)
    if len(levels) < 2:
        return foot
    sums = np.zeros(len(levels) + 1)
    about = np.pad(away, 1, mode="edge")  # a face with the rim of the window has no change of distance
    high = np.pad(z, 1)
    del away, z  # as large as the board each
    slot = (about > 0.0) & (about < last + 1.0)
    slot[[0, -1]], slot[:, [0, -1]] = False, False
    rows_, columns_ = np.nonzero(slot)
    a, mine = about[rows_, columns_], high[rows_, columns_]
    for dj, di in ((0, 1), (0, -1), (1, 0), (-1, 0)):
        b, low = about[rows_ + dj, columns_ + di], np.minimum(mine, high[rows_ + dj, columns_ + di])
        once = np.where(
            slot[rows_ + dj, columns_ + di], 0.5, 1.0
        )  # a face between two cells of the slot is met from both
        first = np.ceil(np.minimum(a, b) - 0.5).clip(0, len(levels)).astype(int)  # levels that a face lies between
        past = np.ceil(np.maximum(a, b) - 0.5).clip(0, len(levels)).astype(int)
        weight = once * low * after.cell * np.abs(a - b)
        sums += np.bincount(first, weights=weight, minlength=len(sums))
        sums -= np.bincount(past, weights=weight, minlength=len(sums))
    return max(0.0, min(foot, float(np.cumsum(sums)[:-1].min())))


def _reached(after: HeightField, numbers: Numbers, bears: GripArea) -> dict[int, float]:
    """How much of a hold's bearing lies on each piece, mm²."""
    if not numbers.size or bears.area.is_empty:
        return {}
    x0, y0, x1, y1 = bears.area.bounds
    rows, columns = numbers.shape
    i0, i1 = (int(np.clip(round((v - after.x0) / after.cell), 0, columns - 1)) for v in (x0, x1))
    j0, j1 = (int(np.clip(round((v - after.y0) / after.cell), 0, rows - 1)) for v in (y0, y1))
    window = numbers[j0 : j1 + 1, i0 : i1 + 1]
    mask = inside(bears.area, after.x0 + i0 * after.cell, after.y0 + j0 * after.cell, after.cell, *window.shape)
    counts = np.bincount(window[mask])
    return {n: float(c) * after.cell**2 for n, c in enumerate(counts) if n and c}


def held_by(
    after: HeightField, numbers: Numbers, bears: list[GripArea]
) -> dict[int, dict[str, tuple[float, GripArea]]]:
    """By number of a piece, the holds that have it, each with how much of its bearing lies there, mm²."""
    out: dict[int, dict[str, tuple[float, GripArea]]] = {}
    for one in bears:
        areas = _reached(after, numbers, one)
        total = sum(areas.values())
        for number, area in areas.items():
            if one.sticks is not None or area >= SHARE * total:
                out.setdefault(number, {})[one.hold] = (area, one)
    return out


def standing(after: HeightField, apart: Pieces, bears: list[GripArea], cutting: Cutting) -> tuple[PieceState, ...]:
    """Every piece after an operation, with what holds it."""
    name = cutting.operation
    if not apart.numbers.size:
        names = tuple(b.hold for b in bears if not b.area.is_empty)
        return tuple(PieceState(name, p.area, (p.x, p.y), names, p.box) for p in apart.found)
    held = held_by(after, apart.numbers, bears)
    out: list[PieceState] = []
    for n, p in enumerate(apart.found, start=1):
        mine = held.get(n, {})
        taped = bool(mine) and all(b.sticks is not None for _, b in mine.values())
        strength, wanted = tape_holds(mine, cutting) if taped else (None, 0.0)
        force = strength.result if strength is not None else None
        out.append(PieceState(name, p.area, (p.x, p.y), tuple(mine), p.box, force, wanted))
    return tuple(out)


def hanging(
    after: HeightField, apart: Pieces, bears: list[GripArea], cutting: Cutting, tab_shear: float
) -> tuple[PieceState, ...]:
    """What tabs or a skin alone join to what is held."""
    if apart.thick_numbers is None:
        return ()
    held, wanted = held_by(after, apart.thick_numbers, bears), HANGING * cutting.peak
    free = [n for n, h in enumerate(apart.thick, start=1) if n not in held and h.section > 0.0]
    mine = [apart.hanging(after, n) for n in free]
    return tuple(
        PieceState(cutting.operation, h.piece.area, (h.piece.x, h.piece.y), (), h.piece.box, hangs_by(h, tab_shear).result, wanted, True) for h in mine
    )  # fmt: skip


def hangs_by(hangs: Attachment, tab_shear: float) -> Working:
    """What the thin wood at a piece's foot bears. tab_shear: N/mm²."""
    return working(
        "section * shear", Named("section", hangs.section, "mm²"), Named("shear", tab_shear, "N/mm²"), unit="force",
        assumption="grain running short across what it hangs by", shop_rule=True,
    )  # fmt: skip


MOST_ROWS = 40  # of pieces told one by one


def table(pieces: Sequence[PieceState]) -> tuple[Table, ...]:
    """What comes free, operation by operation, and what has it; nothing while the board is one piece."""
    rows: list[tuple[str, ...]] = []
    for name in dict.fromkeys(p.operation for p in pieces):
        mine = [p for p in pieces if p.operation == name]
        if sum(not p.hangs for p in mine) < 2 and not any(p.hangs for p in mine):
            continue
        for p in mine:
            x0, y0, x1, y1 = p.box
            if p.bears is None:
                has, bears = ", ".join(p.held_by) or "nothing", "–"
            else:
                has, bears = "tabs or skin" if p.hangs else ", ".join(p.held_by), f"{p.bears:.0f} of {p.wanted:.0f} N"
            rows.append((f"{name}: {mm(x1 - x0, 0)} × {mm(y1 - y0, 0)}", has, bears))
    if not rows:
        return ()
    more = [(f"and {len(rows) - MOST_ROWS} more", "", "")] if len(rows) > MOST_ROWS else []
    return (
        (
            "What comes free, what has it, and what that bears of what is wanted",
            (("piece", "had by", "bears"), *rows[:MOST_ROWS], *more),
        ),
    )


def loose(
    after: HeightField, apart: Pieces, bears: list[GripArea], cutting: Cutting, to_bed: Matrix[Board, Bed],
    tab_shear: float, skin: float,
) -> list[Finding]:  # fmt: skip
    """Pieces that nothing holds, that their own tape does not hold, or that hang by too little. to_bed: of the board on the
    bed, for places; tab_shear: N/mm² that thin wood bears; skin: mm under which a skin is none."""
    if not apart.numbers.size:
        return []
    said: list[Finding] = []
    held = held_by(after, apart.numbers, bears)
    if len(apart.found) > 1:
        for number, piece in enumerate(apart.found, start=1):
            said += _one(piece, number, held.get(number, {}), cutting, to_bed)
    if apart.thick_numbers is None or cutting.hung:
        return said
    held = held_by(after, apart.thick_numbers, bears)
    for number, hangs in enumerate(apart.thick, start=1):
        if number not in held and hangs.section > 0.0:
            said += _hanging(apart.hanging(after, number), number, cutting, to_bed, tab_shear, skin)
    return said


def _size(piece: WoodPiece) -> str:
    x0, y0, x1, y1 = piece.box
    return f"{mm(x1 - x0)} × {mm(y1 - y0)} at X {mm(piece.x)}, Y {mm(piece.y)} of the board"


def _place(piece: WoodPiece, to_bed: Matrix[Board, Bed]) -> Place:
    x0, y0, x1, y1 = piece.box
    return Place(*to_bed.xy(piece.x, piece.y), piece.top, max(x1 - x0, y1 - y0) / 2)


def _one(
    piece: WoodPiece,
    number: int,
    held: dict[str, tuple[float, GripArea]],
    cutting: Cutting,
    to_bed: Matrix[Board, Bed],
) -> list[Finding]:
    about, place = f"{cutting.operation} {number}", _place(piece, to_bed)
    fixes = (Fix("set plate", {"tabs": 4}, "Leave 4 tabs"),) if cutting.tabs else ()
    if not held:
        message = (
            f"{cutting.operation} frees a piece of {_size(piece)}, and nothing holds it. A freed piece jams and flies."
        )
        return [Finding("wood.loose", Level.STOP, "carve", message, cutting.setup, None, fixes, place, about)]
    if any(b.sticks is None for _, b in held.values()):
        return []
    strength, wanted = tape_holds(held, cutting)
    if piece.area < SMALL_ON_TAPE:
        message = (
            f"{cutting.operation} frees a piece of {_size(piece)} that only tape holds: under {SMALL_ON_TAPE / 100:.0f} cm² leave tabs, "
            "or a skin to be pared off by hand."
        )
    elif strength.result < wanted:
        message = (
            f"{cutting.operation} frees a piece of {_size(piece)} that only its own tape holds, by about {strength.result:.0f} N; "
            f"{wanted:.0f} N is wanted. Leave tabs or a skin."
        )
    else:
        return []
    return [Finding("wood.tape-weak", Level.STOP, "carve", message, cutting.setup, strength, fixes, place, about)]


def tape_holds(held: dict[str, tuple[float, GripArea]], cutting: Cutting) -> tuple[Working, float]:
    """What a piece's own tape bears sideways, and what is wanted: twice the push, three times with an up-cut. N."""
    area = sum(a for a, _ in held.values())
    shear = sum(a * (b.sticks or 0.0) for a, b in held.values()) / max(area, 1e-9)
    strength = working(
        "area * shear", Named("area", area, "mm²"), Named("shear", shear, "N/mm²"), unit="force",
        assumption="tape in shear over the share that sticks", shop_rule=True,
    )  # fmt: skip
    return strength, (UP_CUT_TIMES if cutting.lifts else TAPE_TIMES) * cutting.push


def _hanging(
    hangs: Attachment, number: int, cutting: Cutting, to_bed: Matrix[Board, Bed], tab_shear: float, skin: float
) -> list[Finding]:
    piece, wanted = hangs.piece, HANGING * cutting.peak
    strength = hangs_by(hangs, tab_shear)
    if hangs.thinnest >= skin and strength.result >= wanted:
        return []
    why = (
        f"by a skin of {mm(hangs.thinnest)}, and {mm(skin)} at least is wanted"
        if hangs.thinnest < skin
        else f"by wood that bears about {strength.result:.0f} N, and {wanted:.0f} N is wanted (twice the peak push)"
    )
    message = f"After {cutting.operation} a piece of {_size(piece)} hangs {why}. It could break free."
    about = f"{cutting.operation} hangs {number}"
    place = _place(piece, to_bed)
    return [Finding("wood.hangs", Level.CARE, "carve", message, cutting.setup, strength, (), place, about)]
