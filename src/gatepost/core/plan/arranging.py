# SPDX-License-Identifier: GPL-3.0-or-later
"""What it means to drag artwork on the bed, to size and turn it by its handles, and to set it against margins, middles and other artwork: each a command
of the table."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
import shapely
from numpy.typing import NDArray

from gatepost.core.carve.areas import area_of
from gatepost.core.carve.boxes import corners_of, own_box
from gatepost.core.carve.fitting import largest_inside
from gatepost.core.carve.paths import middle_line, plate_outline, share_along, tabs
from gatepost.core.job.carve import Rounded, VCut
from gatepost.core.job.drawing import DrawnFigures
from gatepost.core.job.model import Job, Setup
from gatepost.core.job.operation import Artwork
from gatepost.core.job.relief import HeightsFigures
from gatepost.core.job.turning import face_size
from gatepost.core.motion import turned_about
from gatepost.core.plan.handling import on_face_of_bed
from gatepost.core.units import mm

Array = NDArray[np.float64]
Edit = tuple[str, dict[str, Any]]
ART = ("lettering", "art", "plate")  # keys of things on the bed that are artwork
ROUGH = 0.05  # mm
FINE = 0.1  # mm: a drag that snaps to nothing ends at a whole number of them
STEP, NEAR = 15.0, 3.0  # degrees: a turn that ends this near to a multiple goes there
WAYS = {
    "left": "Against the left margin", "across": "In the middle, across", "right": "Against the right margin",
    "front": "Against the front margin", "along": "In the middle, front to back", "back": "Against the back margin",
}  # fmt: skip


def art_of(job: Job, setup: Setup, key: str) -> Artwork | None:
    """The artwork that a key of the bed means: by its own name, or by the operation that works on it."""
    kind, _, name = key.partition(":")
    if kind not in ART:
        return None
    done = next((o for o in setup.operations if o.id == name), None) if kind != "art" else None
    on = done.on if done is not None else (name,)
    return next((a for a in job.artwork if a.id in on and (kind != "lettering" or a.kind != "plate")), None)


def stretches(art: Artwork) -> bool:
    """Whether it may be made wider without being made higher."""
    return isinstance(art.figures, (Rounded, DrawnFigures, HeightsFigures))


def room(job: Job, setup: Setup, art: Artwork) -> tuple[float, float, float, float]:
    """The box of what it stands on: the plate that is cut out here, else the face; x0, y0, x1, y1, mm."""
    plate = job.standing_on(setup.operations, art)
    if plate is not None:
        return (
            plate.x - plate.width / 2,
            plate.y - plate.height / 2,
            plate.x + plate.width / 2,
            plate.y + plate.height / 2,
        )
    wide, high = face_size(job.blank, art.face)
    return 0.0, 0.0, wide, high


def margin(setup: Setup, art: Artwork) -> float:
    """What is wanted about it: as the operation on it has it, mm."""
    done = [o.figures for o in setup.operations if art.id in o.on]
    return next(
        (float(f.margin) for f in done if isinstance(f, VCut)),
        VCut().margin if not isinstance(art.figures, Rounded) else 0.0,
    )


def _bounds(art: Artwork) -> tuple[float, float, float, float] | None:
    corners = corners_of(art)
    return None if corners is None else (*corners.min(axis=0).tolist(), *corners.max(axis=0).tolist())


def snapped(job: Job, setup_name: str, key: str, dx: float, dy: float, reach: float) -> tuple[float, float, str]:
    """A drag on the bed brought to what is near: the middle of what it stands on, its margins, the middle of other artwork. reach: mm within which.
    Gives the drag, and in words where it ends."""
    setup = job.setup(setup_name)
    art = art_of(job, setup, key)
    box = _bounds(art) if art is not None else None
    if art is None or box is None:
        return dx, dy, ""
    ways = on_face_of_bed(job, setup_name)
    by = ways @ np.array([dx, dy])
    x0, y0, x1, y1 = room(job, setup, art)
    m = margin(setup, art)
    others = [a for a in job.artwork if a.id != art.id and a.face == art.face]
    words: list[str] = []
    for axis, (at, low, high, edges, names) in enumerate((
        (art.x, box[0], box[2], (x0, x1), ("left", "right", "across")), (art.y, box[1], box[3], (y0, y1), ("front", "back", "front to back")),
    )):  # fmt: skip
        wanted = [
            (0.5 * (edges[0] + edges[1]) - at, f"in the middle, {names[2]}"),
            (edges[0] + m - low, f"against the {names[0]} margin"),
            (edges[1] - m - high, f"against the {names[1]} margin"),
            *(((a.x, a.y)[axis] - at, f"in line with {a.title or a.id}") for a in others),
        ]
        near = min(wanted, key=lambda w: abs(w[0] - by[axis]))
        if abs(near[0] - by[axis]) <= reach:
            by[axis] = near[0]
            words.append(near[1])
        elif abs(by[axis]) > FINE / 2.0:  # where a person might have typed it
            by[axis] = round((at + by[axis]) / FINE) * FINE - at
    back = np.linalg.solve(ways, by)
    place = f"X {mm(art.x + by[0], 1)}, Y {mm(art.y + by[1], 1)}"
    return float(back[0]), float(back[1]), ": ".join([place, *([" and ".join(words)] if words else [])])


def resized(job: Job, setup_name: str, key: str, corner: int, across: float, up: float) -> Edit | None:
    """Artwork sized by one of its corners, the one opposite staying where it is. across, up: factors in its own directions; the same where it
    keeps its proportions; of no corner (-1): about its middle."""
    art = art_of(job, job.setup(setup_name), key)
    box = own_box(art) if art is not None else None
    if art is None or box is None or min(across, up) <= 0.0:
        return None
    if not stretches(art):
        across = up = max(across, up)
    x0, y0, x1, y1 = box
    stays = np.array([x1 if corner in (0, 3) else x0, y1 if corner in (0, 1) else y0]) if corner >= 0 else np.zeros(2)
    shift = turned_about((stays * (1.0 - np.array([across, up])))[None, :], art.turn)[0]
    place = {"x": art.x + float(shift[0]), "y": art.y + float(shift[1])}
    return "resize art", {"art": art.id, "across": across, "up": up, **place}


def turned(job: Job, setup_name: str, key: str, degrees: float, free: bool = False) -> Edit | None:
    """Artwork turned to the left by so many degrees more; brought to a multiple of 15 that is near, or to a whole degree. free: to neither."""
    art = art_of(job, job.setup(setup_name), key)
    if art is None:
        return None
    return "set art", {"art": art.id, "turn": art.turn + degrees if free else near_turn(art.turn + degrees)}


def near_turn(degrees: float) -> float:
    """Degrees as they are snapped to, between -180 and 180."""
    step = STEP * round(degrees / STEP)
    found = step if abs(step - degrees) <= NEAR else float(round(degrees))
    return (found + 180.0) % 360.0 - 180.0


def aligned(job: Job, setup_name: str, art_id: str, way: str) -> Edit | None:
    """Artwork set against a margin or in the middle of what it stands on. way: of WAYS."""
    setup = job.setup(setup_name)
    art = next((a for a in job.artwork if a.id == art_id), None)
    box = _bounds(art) if art is not None else None
    if art is None or box is None:
        return None
    x0, y0, x1, y1 = room(job, setup, art)
    m = margin(setup, art)
    to = {
        "left": {"x": art.x + x0 + m - box[0]}, "right": {"x": art.x + x1 - m - box[2]}, "across": {"x": 0.5 * (x0 + x1)},
        "front": {"y": art.y + y0 + m - box[1]}, "back": {"y": art.y + y1 - m - box[3]}, "along": {"y": 0.5 * (y0 + y1)},
    }  # fmt: skip
    return "set art", {"art": art_id, **to[way]}


def filled(job: Job, setup_name: str, art_id: str) -> Edit | None:
    """Artwork as large as the margins of what it stands on allow, about its middle, its proportions kept."""
    setup = job.setup(setup_name)
    art = next((a for a in job.artwork if a.id == art_id), None)
    if art is None or own_box(art) is None:
        return None
    points = shapely.get_coordinates(area_of(art, ROUGH).convex_hull)
    plate = job.standing_on(setup.operations, art)
    whole = plate_outline(plate) if plate is not None else shapely.box(*room(job, setup, art))
    usable = whole.buffer(-margin(setup, art), quad_segs=32)
    factor = largest_inside(points, (art.x, art.y), usable, 50.0)
    if factor is None or math.isclose(factor, 1.0, rel_tol=1e-6):
        return None
    return "resize art", {"art": art.id, "across": factor, "up": factor, "x": art.x, "y": art.y}


def tab_moved(job: Job, setup_name: str, key: str, dx: float, dy: float) -> Edit | None:
    """A tab brought to the nearest place on its line: all of them stand from then on where they stand now. key: tab:operation/number."""
    name, _, number = key.partition(":")[2].partition("/")
    operation = next((o for o in job.setup(setup_name).operations if o.id == name), None)
    plate = job.cut_out(operation) if operation is not None else None
    tool = next((t for t in job.tools if plate is not None and t.number == plate.tool), None)
    if plate is None or tool is None:
        return None
    standing = tabs(plate, tool)
    by = on_face_of_bed(job, setup_name) @ np.array([dx, dy])
    line = middle_line(plate, tool)
    if line.is_empty or not number.isdigit() or int(number) >= len(standing):
        return None
    held = standing[int(number)]
    shares = [share_along(plate, tool, (t.x, t.y)) for t in standing if t is not held]
    shares.append(share_along(plate, tool, (held.x + float(by[0]), held.y + float(by[1]))))
    return "set plate", {"operation": name, "tab_at": tuple(sorted(shares)), "tabs": len(shares)}
