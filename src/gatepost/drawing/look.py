# SPDX-License-Identifier: GPL-3.0-or-later
"""The sign as it will look: the wood after its last operation, lit from a side, straight on or at an angle, with colour where it is wanted."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray

from gatepost.core.carve.areas import area_of
from gatepost.core.carve.lettering import Lettering
from gatepost.core.carve.painted import painted
from gatepost.core.carve.paths import plate_outline
from gatepost.core.carve.sunk_report import SunkShape
from gatepost.core.geometry.raster import inside
from gatepost.core.plan.planned import PlannedSetup
from gatepost.core.plan.result import Plan
from gatepost.drawing.coats import COLOURS, Rgb, coat_colour, film_here

Pixels = NDArray[np.uint8]
BARE, LETTERS, GROUND, RAISED, FACE, AWAY = 0, 1, 2, 3, 4, 255
WOODS: dict[str, Rgb] = {
    "oak": (193, 154, 107), "elm": (186, 146, 106), "larch": (205, 152, 100), "cherry": (178, 110, 72), "ash": (222, 196, 156), "walnut": (112, 80, 58),
    "sapele": (142, 80, 54), "iroko": (160, 114, 66), "pine": (224, 186, 132), "beech": (214, 172, 132),
}  # fmt: skip
WOOD: Rgb = (208, 170, 122)
THROUGH = 0.05  # mm: what stands no higher is cut through
OILED = 0.80  # of how bright bare wood is
ROUGH = 0.05  # mm by which an outline may lie beside itself


@dataclass(frozen=True)
class SignLook:
    """light: degrees from X, against the clock, that it comes from; high: its height, degrees; tilt: degrees that the sign leans away, 0 straight on; letters,
    ground, raised: colours of cut letters, of a sunk ground and of faces left standing, nothing where they are bare; face: of what was coated before it was carved; oiled: whether the wood is."""

    light: float = 120.0
    high: float = 32.0
    tilt: float = 0.0
    letters: str = ""
    ground: str = ""
    raised: str = ""
    face: str = ""
    oiled: bool = False


@dataclass(frozen=True)
class Subject:
    """What is looked at. z: heights above the bed, rows from the front; part: what each cell is; cell: mm; grain: degrees from X that it runs at."""

    z: NDArray[np.float32]
    part: NDArray[np.uint8]
    cell: float
    wood: str
    grain: float = 0.0


def subject(plan: Plan, setup: PlannedSetup) -> Subject:
    """A setup's face after its last operation, without the waste about what is cut out, which is told apart where a plate is."""
    field = setup.end
    rows, columns = field.z.shape
    part = np.where(field.wood & (field.z > THROUGH), BARE, AWAY).astype(np.uint8)

    def mark(area: shapely.Geometry, what: int) -> None:
        there = inside(setup.pose.area(area), field.x0, field.y0, field.cell, rows, columns)
        part[there & (part != AWAY)] = what

    for operation in setup.setup.operations:
        made = plan.made.get(operation.id)
        if isinstance(made, SunkShape):
            mark(made.top, GROUND)
            for art in made.art:
                if art.kind != "plate" and not shapely.is_empty(area_of(art, ROUGH)):
                    mark(area_of(art, ROUGH).difference(made.top), RAISED)
        elif isinstance(made, Lettering):
            for letter in made.letters:
                mark(letter.outline(), LETTERS)
    plates = [plate_outline(p) for o in setup.setup.operations if (p := plan.job.plate(o)) is not None]
    if plates:
        kept = setup.pose.area(shapely.union_all(plates))
        part[~inside(kept, field.x0, field.y0, field.cell, rows, columns)] = AWAY
    film = film_here(plan, setup)
    if film > 0.0:
        part[(part == BARE) & painted(setup.start, field, film)] = FACE
    z = np.where(part == AWAY, 0.0, field.z).astype(np.float32)
    j, i = np.nonzero(part != AWAY)
    if len(j):
        box = slice(int(j.min()), int(j.max()) + 1), slice(int(i.min()), int(i.max()) + 1)
        z, part = z[box], part[box]
    return Subject(
        np.ascontiguousarray(z), np.ascontiguousarray(part), field.cell, plan.job.wood.name, setup.blank.grain
    )


def first_look(plan: Plan, setup: PlannedSetup) -> SignLook:
    """A look to begin with: what was coated in the colour that its last coat is called by."""
    if film_here(plan, setup) <= 0.0:
        return SignLook()
    return SignLook(face=coat_colour(plan, setup))


def picture(of: Subject, look: SignLook, width: int = 1280, shadows: bool = True) -> Pixels:
    """A picture of so many pixels across, RGBA, rows from the top; clear where nothing is."""
    import cv2

    from gatepost.drawing import look_kernels as kernels

    columns = max(8, width)
    rows = max(4, round(columns * of.z.shape[0] / of.z.shape[1]))
    smaller = cv2.INTER_AREA if columns < of.z.shape[1] else cv2.INTER_LINEAR
    whole = np.where(of.part == AWAY, of.z.max(initial=0.0), of.z).astype(
        np.float32
    )  # so that no edge is drawn down by nothing
    z = np.asarray(cv2.resize(whole, (columns, rows), interpolation=smaller), np.float32)
    part = np.asarray(cv2.resize(of.part, (columns, rows), interpolation=cv2.INTER_NEAREST), np.uint8)
    pitch = of.cell * of.z.shape[1] / columns
    z = np.where(part == AWAY, 0.0, z).astype(np.float32)
    around = np.asarray(cv2.blur(z, (2 * max(1, round(2.5 / pitch)) + 1,) * 2), np.float32)
    a, h = math.radians(look.light), math.radians(look.high)
    light = np.array([math.cos(a) * math.cos(h), math.sin(a) * math.cos(h), math.sin(h)])
    wood = np.array(WOODS.get(of.wood.lower(), WOOD), np.float64) * (OILED if look.oiled else 1.0)
    colours = np.full((5, 3), -1.0)
    for what, name in (
        (LETTERS, look.letters),
        (GROUND, look.ground),
        (RAISED, look.raised or look.face),
        (FACE, look.face),
    ):
        if name:
            colours[what] = COLOURS[name]
    flat = np.zeros((rows, columns, 3), np.float32)
    kernels.lit(
        z,
        part,
        around,
        pitch,
        light,
        wood,
        colours,
        0.35 if look.oiled else 0.12,
        shadows,
        math.radians(of.grain),
        flat,
    )
    t = math.radians(look.tilt)
    span = float(z.max()) if z.size else 0.0
    tall = max(4, math.ceil(rows * math.cos(t) + span / pitch * math.sin(t)) + 2)
    out = np.zeros((tall, columns, 4), np.uint8)
    kernels.leaned(z, part, flat, pitch, math.cos(t), math.sin(t), out)
    return _softened(out)


def _softened(out: Pixels) -> Pixels:
    """The edge against nothing, half a pixel soft."""
    import cv2

    alpha = np.asarray(cv2.GaussianBlur(out[..., 3], (0, 0), 0.8))
    beside = (out[..., 3] == 0) & (alpha > 0)
    spread = np.asarray(cv2.dilate(out[..., :3], np.ones((5, 5), np.uint8)))
    out[beside, :3] = spread[beside]
    out[..., 3] = np.minimum(255, alpha.astype(np.int16) * 2 - 128).clip(0, 255).astype(np.uint8)
    return out
