# SPDX-License-Identifier: GPL-3.0-or-later
"""Several pieces of a series cut out of one board: where the plate of a job may stand besides, and a job with one at each place."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray

from gatepost.core.blank.shape import polygon
from gatepost.core.carve.areas import area_of
from gatepost.core.carve.paths import plate_outline
from gatepost.core.errors import OperatorError
from gatepost.core.job.base import changed
from gatepost.core.job.commands.parts import called, unused
from gatepost.core.job.model import Job, Setup
from gatepost.core.job.operation import Artwork, Operation
from gatepost.core.job.surface import Surfacing
from gatepost.core.plan.result import Plan
from gatepost.core.tolerances import WALL
from gatepost.core.wood.flaws import flaw_area

STEP = 1.0  # mm from one place that is tried to the next
CLEAR = 5.0  # mm beside what holds the board (a shop rule)
ROUGH = 0.1  # mm
MOST_PLACES = 60
Array = NDArray[np.float64]


@dataclass(frozen=True)
class Room:
    """What one piece takes, its slot with it. box: x0, y0, x1, y1 where the job has it; free: where such a box may lie; all as the face is read, mm."""

    box: tuple[float, float, float, float]
    free: shapely.Geometry


def carved_in(job: Job) -> Setup:
    """The one setup in which anything is carved. Raises OperatorError."""
    there = [s for s in job.setups if any(not isinstance(o.figures, Surfacing) for o in s.operations)]
    if len(there) != 1:
        raise OperatorError("As many on a board as fit: the pieces have to be carved in one setup.")
    return there[0]


def room_of(plan: Plan) -> Room:
    """What one piece takes, and where there is room for it: on the board, off its edge, its flaws and what holds it. Raises OperatorError."""
    job = plan.job
    setup = carved_in(job)
    plates = [p for o in setup.operations if (p := job.cut_out(o)) is not None and p.out >= 0.0]
    if len(plates) != 1:
        raise OperatorError("As many on a board as fit: the piece has to be cut out, along one outline.")
    (plate,) = plates
    tool = job.tool(plate.tool)
    part = plate_outline(plate)
    for art in _worked(job, setup):
        if not part.buffer(ROUGH).covers(area_of(art, ROUGH)):
            raise OperatorError(f"As many on a board as fit: {art.title or art.id} reaches past what is cut out.")
    slot = part.buffer(tool.diameter + plate.allowance if plate.out > 0.0 else tool.diameter / 2.0)
    planned = next(s for s in plan.setups if s.setup.id == setup.id)
    back = planned.face_to_bed.inverse()
    board = back.area(planned.placed.to_bed.area(polygon(planned.blank)))
    free = board.buffer(-(WALL + job.blank.doubt), join_style="mitre")
    taken = [back.area(s.outline).buffer(CLEAR) for s in planned.solids]
    if setup.up == "front":
        taken += [flaw_area(f).buffer(ROUGH) for f in job.blank.flaws]
    return Room(slot.bounds, free.difference(shapely.union_all(taken)))


def places(room: Room) -> Array:
    """By how much the piece is moved to stand at each place, (n, 2) mm: in rows, each filled from the left, the rows where most fit. Slots of two pieces
    leave a wall between them."""
    x0, y0, x1, y1 = room.box
    wide, high = x1 - x0, y1 - y0
    if room.free.is_empty:
        return np.zeros((0, 2))
    left, front, right, back = room.free.bounds
    xs = np.arange(left, right - wide + 1e-9, STEP)
    ys = np.arange(front, back - high + 1e-9, STEP)
    if not len(xs) or not len(ys):
        return np.zeros((0, 2))
    grid_x, grid_y = np.meshgrid(xs, ys)
    shapely.prepare(room.free)
    fits = shapely.covers(room.free, shapely.box(grid_x, grid_y, grid_x + wide, grid_y + high))
    rows = [_filled(line, xs, wide + WALL) for line in fits]
    best: list[tuple[float, float]] = []
    for chosen in _stacked([len(r) for r in rows], ys, high + WALL):
        best += [(x - x0, ys[chosen] - y0) for x in rows[chosen]]
    return np.array(best[:MOST_PLACES]).reshape(-1, 2)


def _filled(fits: NDArray[np.bool_], xs: Array, pitch: float) -> list[float]:
    """Places along a row, each as far left as it goes."""
    out: list[float] = []
    for x in xs[fits]:
        if not out or x >= out[-1] + pitch - 1e-9:
            out.append(float(x))
    return out


def _stacked(counts: Sequence[int], ys: Array, pitch: float) -> list[int]:
    """Rows that hold the most pieces together, no two nearer than the pitch: the best total up to each row, by the one before it that is far enough."""
    best, before = np.zeros(len(ys) + 1, int), [0] * len(ys)
    for i in range(len(ys)):
        before[i] = int(np.searchsorted(ys, ys[i] - pitch + 1e-9, side="right"))
        best[i + 1] = max(best[i], best[before[i]] + counts[i])
    out, i = list[int](), len(ys)
    while i:
        if best[i] == best[i - 1]:
            i -= 1
        else:
            out.append(i - 1)
            i = before[i - 1]
    return out[::-1]


def _worked(job: Job, setup: Setup) -> list[Artwork]:
    """Artwork of the face that is up but what is cut out."""
    out = {i for o in setup.operations if o.kind == "cutout" for i in o.on}
    return [a for a in job.artwork if a.face == setup.up and a.id not in out]


def together(job: Job, pieces: Sequence[Job], at: Array) -> Job:
    """A job with several pieces on its board. pieces: each as it is alone, of the same artwork; at: by how much each is moved, (n, 2) or more, mm."""
    setup = carved_in(job)
    art: list[Artwork] = [a for a in job.artwork if a.face != setup.up]
    made: dict[str, list[Operation]] = {o.id: [] for o in setup.operations}
    arts, names = [a.id for a in job.artwork], called(job)
    for number, (piece, (dx, dy)) in enumerate(zip(pieces, at.tolist()), start=1):
        mine = [a for a in piece.artwork if a.face == setup.up]
        ids = {a.id: a.id if number == 1 else unused(f"{a.id[:34]}-{number}", arts) for a in mine}
        arts += ids.values()
        art += [
            changed(a, id=ids[a.id], x=a.x + dx, y=a.y + dy, title=f"{a.title} {number}"[:400] if a.title and number > 1 else a.title)
            for a in mine
        ]  # fmt: skip
        done = [o for o in setup.operations if o.on or number == 1]
        own = {o.id: o.id if number == 1 else unused(f"{o.id[:34]}-{number}", names) for o in done}
        names += own.values()
        for o in done:
            title = f"{o.title} {number}"[:400] if o.title and number > 1 else o.title
            after = tuple(own.get(i, i) for i in o.after)
            made[o.id].append(changed(o, id=own[o.id], title=title, on=tuple(ids[i] for i in o.on), after=after))
    operations = tuple(o for one in setup.operations for o in made[one.id])
    setups = tuple(changed(s, operations=operations) if s.id == setup.id else s for s in job.setups)
    return changed(job, artwork=tuple(art), setups=setups)
