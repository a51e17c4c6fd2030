# SPDX-License-Identifier: GPL-3.0-or-later
"""What dragging or nudging a thing on the bed means: a command of the table, with snapping."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
from numpy.typing import NDArray

from gatepost.core.blank.shape import polygon
from gatepost.core.frames import Board, FaceFrame, Matrix
from gatepost.core.hold.kind import Dragged, HoldKinds
from gatepost.core.hold.solids import first_contact
from gatepost.core.job.hold import InNest
from gatepost.core.job.model import Job, Setup
from gatepost.core.job.turning import face_turned, lies
from gatepost.core.plan.kinds import SHIPPED, Kinds
from gatepost.core.plan.turned import lying, placed_in
from gatepost.core.zero.datum import CORNERS, datum

SNAP = 12.0  # mm; a dragged zero nearer than this to a corner or the middle goes there

Edit = tuple[str, dict[str, Any]]


def moved(
    job: Job, setup_name: str, key: str, dx: float, dy: float, snap: bool = True, kinds: Kinds = SHIPPED
) -> Edit | None:
    """The command for moving the thing of a key by an amount, bed directions, mm; nothing when it can't be moved."""
    kind, _, name = key.partition(":")
    if kind == "hold":
        return _hold(job, setup_name, name, dx, dy, snap, kinds.holds)
    if kind == "blank":
        setup = job.setup(setup_name)
        return "place blank", {"setup": setup_name, "x": setup.x + dx, "y": setup.y + dy}
    dx, dy = _on_board(job, setup_name, dx, dy)
    lists: dict[str, tuple[Any, ...]] = {
        "caliper": job.blank.calipers, "height": job.blank.heights, "gap": job.blank.under, "support": job.blank.supports,
        "flaw": job.blank.flaws,
    }  # fmt: skip
    name, _, end = name.partition("/")  # of a crack, the end that is dragged
    far = end == "to"
    if kind in ("corner", *lists):
        dx, dy = _on_blank(job, setup_name, dx, dy)
    if kind == "corner" and int(name) < len(job.blank.outline):
        x, y = job.blank.outline[int(name)]
        return "set corner", {"at": (x, y), "x": x + dx, "y": y + dy}
    if kind in lists:
        spot = next((s for s in lists[kind] if s.id == name), None)
        if spot is None:
            return None
        return f"set {kind}", {kind: name, **_on_the_board(job, spot, dx, dy, far)}
    if kind in ("lettering", "art", "plate"):
        return _art(job, setup_name, name, dx, dy, by_id=kind == "art")
    if kind == "zero":
        return _zero(job, setup_name, dx, dy, snap)
    if kind == "touch":
        return _touch(job, setup_name, dx, dy)
    return None


def _on_the_board(job: Job, spot: Any, dx: float, dy: float, far: bool) -> dict[str, float]:
    """Where a thing on the board comes to lie: kept over its box. far: of a crack, its other end alone; else a crack's ends go together."""
    x0, y0, x1, y1 = job.blank.box
    ends = getattr(spot, "ends", ((spot.x, spot.y),))
    moved = [(min(max(x + dx, x0), x1), min(max(y + dy, y0), y1)) for x, y in ends]
    out = {"x": moved[0][0], "y": moved[0][1]} if not far else {}
    return out | ({"to_x": moved[1][0], "to_y": moved[1][1]} if len(moved) > 1 else {})


def _art(job: Job, setup_name: str, name: str, dx: float, dy: float, by_id: bool) -> Edit | None:
    """Artwork moved as a block on its face. name: its own, or of an operation that works on it; dx, dy: in the directions of the board as it lies."""
    setup = job.setup(setup_name)
    done = next((o for o in setup.operations if o.id == name), None)
    on = (name,) if by_id else done.on if done is not None else ()
    art = next((a for a in job.artwork if a.id in on), None)
    if art is None:
        return None
    x, y = _on_face(setup, dx, dy)
    return "set art", {"art": art.id, "x": art.x + x, "y": art.y + y}


def _on_face(setup: Setup, dx: float, dy: float) -> tuple[float, float]:
    """An amount in the directions of the board as it lies, in those of its face."""
    return Matrix[FaceFrame, Board](face_turned(0.0, 0.0, lies(setup)).rows).inverse().xy(dx, dy)


def on_face_of_bed(job: Job, setup_name: str) -> NDArray[np.float64]:
    """What turns an amount along the bed's directions into one along the directions of the face that is up, (2, 2)."""
    setup = job.setup(setup_name)
    columns = [_on_face(setup, *_on_board(job, setup_name, *along)) for along in ((1.0, 0.0), (0.0, 1.0))]
    return np.array(columns, np.float64).T


def _on_blank(job: Job, setup_name: str, dx: float, dy: float) -> tuple[float, float]:
    """An amount in the directions of the board as it lies, in the blank's own."""
    x, y, _ = (sum(row[i] * d for row, d in zip(lies(job.setup(setup_name)).ways, (dx, dy))) for i in range(3))
    return x, y


def _on_board(job: Job, setup_name: str, dx: float, dy: float) -> tuple[float, float]:
    """An amount along the bed's directions, in the board's as it lies."""
    back = placed_in(job, job.setup(setup_name)).to_bed.inverse()
    (x0, y0), (x1, y1) = back.xy(0.0, 0.0), back.xy(dx, dy)
    return x1 - x0, y1 - y0


def _hold(job: Job, setup_name: str, name: str, dx: float, dy: float, snap: bool, kinds: HoldKinds) -> Edit | None:
    setup = job.setup(setup_name)
    hold = next((h for h in setup.holds if h.name == name), None)
    if hold is None:
        return _bed_thing(job, name, dx, dy)
    if isinstance(hold, InNest):
        return _bed_thing(job, hold.of, dx, dy)

    def edge(heading: float, width: float, x: float, y: float) -> tuple[float, float]:
        return on_edge(job, setup, heading, width, x, y)

    to = Dragged(hold.x + dx, hold.y + dy, dx, dy, snap, job.machine, edge)
    x, y = kinds[hold.kind].dragged(hold, to)
    return "set hold", {"setup": setup_name, "hold": name, "x": x, "y": y}


def _bed_thing(job: Job, name: str, dx: float, dy: float) -> Edit | None:
    """A fence or a nest moved on the bed."""
    for what in ("fences", "nests"):
        for thing in getattr(job.machine.bed, what):
            if thing.name == name:
                return "set on bed", {"what": what, "name": name, "values": {"x": thing.x + dx, "y": thing.y + dy}}
    return None


def on_edge(job: Job, setup: Setup, heading: float, width: float, x: float, y: float) -> tuple[float, float]:
    """Where a jaw of a width that comes along its heading stands on the edge that it faces; as it is where it meets none. Bed."""
    board = lying(job, setup)
    if board.shape == "rectangle" and not setup.skew:
        way = math.radians(heading)
        if abs(math.sin(way)) > 0.5:
            return x, setup.y if heading % 360 < 180 else setup.y + board.width
        return (setup.x if math.cos(way) > 0 else setup.x + board.length), y
    outline = placed_in(job, setup).to_bed.area(polygon(board))
    return first_contact(outline, heading, width, x, y)


def _zero(job: Job, setup_name: str, dx: float, dy: float, snap: bool) -> Edit:
    zero, board = job.setup(setup_name).zero, lying(job, job.setup(setup_name))
    old = datum(zero, board)
    x, y = old.x + dx, old.y + dy
    for corner, share in CORNERS.items():
        if snap and corner != zero.xy and math.dist((x, y), board.part(*share)) < SNAP:
            return "set zero", {"setup": setup_name, "xy": corner}
    return "set zero", {"setup": setup_name, "xy": "mark", "x": x, "y": y}


def _touch(job: Job, setup_name: str, dx: float, dy: float) -> Edit:
    zero, board = job.setup(setup_name).zero, lying(job, job.setup(setup_name))
    old = datum(zero, board)
    if zero.touch_x is not None and zero.touch_y is not None:
        x, y = zero.touch_x, zero.touch_y
    elif zero.z == "bed":
        x, y = board.box[0] - 40.0, board.middle[1]
    else:
        x, y = old.x, old.y
    return "set zero", {"setup": setup_name, "touch_x": x + dx, "touch_y": y + dy}


def z_dragged(job: Job, setup_name: str, to_height: float, top: float) -> Edit:
    """Z0 dragged to a height: it falls on the bed or the top, whichever is nearer."""
    where = "bed" if to_height < top / 2.0 else "top"
    values: dict[str, Any] = {"setup": setup_name, "z": where}
    if where != job.setup(setup_name).zero.z:
        values |= {"touch_x": None, "touch_y": None}
    return "set zero", values
