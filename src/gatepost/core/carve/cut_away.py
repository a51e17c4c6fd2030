# SPDX-License-Identifier: GPL-3.0-or-later
"""What is carved, and then cut away: in the way of a cut-out's cutter, in what it frees of a hole, or outside of every plate."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import shapely
from shapely import affinity

from gatepost.core.carve.fitting import largest_inside
from gatepost.core.carve.paths import plate_outline
from gatepost.core.findings import Finding, Fix, Level, Place
from gatepost.core.frames import Bed, FaceFrame, Matrix
from gatepost.core.geometry.outline import Area
from gatepost.core.job.carve import Plate
from gatepost.core.job.operation import Artwork, Operation
from gatepost.core.job.tool import Tool
from gatepost.core.units import area_words, mm

STAGE = "carve"
BESIDE = 0.02  # mm by which an outline may lie beside itself as it is followed
LEAST = 0.05  # mm² that may seem to be lost
SPARE = 1.0  # mm more than is needed that a larger plate leaves beside what lies on it


@dataclass(frozen=True)
class CarvedArea:
    """What is there when it is carved: letters, strokes, holes. name: as people are told it; lettering: whether it is read; judged: whether it is
    held against the outside of the plate by itself already; letters: the only lettering in it, and the operation that cuts it."""

    name: str
    area: Any
    lettering: bool
    judged: bool = False
    letters: tuple[Artwork, str] | None = None


@dataclass(frozen=True)
class Out:
    """A cut-out as it is done."""

    operation: Operation
    plate: Plate
    tool: Tool


def kept(out: Sequence[Out]) -> tuple[Any, Any]:
    """What is left of a face by its cut-outs: the insides of the outlines that are cut round, nothing where there are none; and what is gone inside."""
    plates: list[Area] = []
    gone: list[Area] = []
    for one in out:
        p = one.plate
        line, r = plate_outline(p), one.tool.diameter / 2.0
        if p.hole:
            gone.append(line)
        elif p.side == "inside":
            gone.append(line.difference(plate_outline(p, -2.0 * r - p.allowance)))
        else:
            plates.append(line if p.side == "outside" else plate_outline(p, -r))
    return shapely.union_all(plates).buffer(BESIDE) if plates else None, shapely.union_all(gone).buffer(-BESIDE)


def cut_away(
    out: Sequence[Out], carved: Sequence[CarvedArea], board: Area, to_bed: Matrix[FaceFrame, Bed], setup: str
) -> list[Finding]:
    """out: what is cut out of a face; carved: what a setup does in it; board: where there is wood; to_bed: of the face."""
    inside, gone = kept(out)
    said: list[Finding] = []
    for one in carved:
        if one.area.is_empty:
            continue
        beyond = one.area.difference(inside) if inside is not None and not one.judged else shapely.Polygon()
        lost = beyond.union(one.area.intersection(gone))
        if lost.area <= LEAST:
            continue
        by = " and ".join(sorted({o.operation.name for o in out}))
        message = f"{area_words(lost.area)} of {one.name} is cut away by {by}."
        at = max(shapely.get_parts(lost), key=lambda p: p.area).representative_point()
        fixes: tuple[Fix, ...] = ()
        if inside is not None and one.area.intersection(gone).area <= LEAST:
            fixes = (*_larger(out, one, board), *_smaller(one, inside))
        level = Level.STOP if one.lettering else Level.CARE
        said.append(
            Finding("carve.cut-away", level, STAGE, message, setup, fixes=fixes, place=Place(*to_bed.xy(at.x, at.y)), about=one.name)
        )  # fmt: skip
    return said


def _larger(out: Sequence[Out], lost: CarvedArea, board: Area) -> tuple[Fix, ...]:
    """The one plate as large as takes it all in, where the board holds it and the slot about it."""
    round_it = [o for o in out if not o.plate.hole and o.plate.side == "outside"]
    if len(round_it) != 1 or round_it[0].plate.drawn:
        return ()
    (one,) = round_it
    p = one.plate
    turned = affinity.rotate(lost.area, -p.turn, origin=(p.x, p.y))
    x0, y0, x1, y1 = turned.bounds
    size = {
        "width": math.ceil(max(p.width, 2.0 * (SPARE + max(x1 - p.x, p.x - x0)))),
        "height": math.ceil(max(p.height, 2.0 * (SPARE + max(y1 - p.y, p.y - y0)))),
    }
    larger = p.model_copy(update=size)
    if not plate_outline(larger).covers(lost.area) or not board.covers(
        plate_outline(larger, one.tool.diameter + p.allowance)
    ):
        return ()
    words = f"Make the plate {mm(size['width'])} long and {mm(size['height'])} wide"
    return (Fix("set plate", {"operation": one.operation.id, **size}, words),)


def _smaller(lost: CarvedArea, inside: Any) -> tuple[Fix, ...]:
    """Its letters as large as the plate takes them in."""
    if lost.letters is None:
        return ()
    art, operation = lost.letters
    points = shapely.get_coordinates(shapely.convex_hull(lost.area))
    factor = largest_inside(points, (art.x, art.y), inside.buffer(-SPARE), 1.0)
    if factor is None or factor >= 1.0:
        return ()
    words = f"Make the lettering {(1.0 - factor) * 100.0:.1f} % smaller"
    return (Fix("scale lettering", {"operation": operation, "factor": factor}, words),)
