# SPDX-License-Identifier: GPL-3.0-or-later
"""The board between two setups: each face as it was left, turned over, stood on an end or an edge, turned on its plane."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from gatepost.core.blank.thickness import Thickness
from gatepost.core.cache import Memory
from gatepost.core.frames import BlankFrame, Board, FaceFrame, Matrix, shift
from gatepost.core.job.blank import TopHeight
from gatepost.core.job.journal import Journal
from gatepost.core.job.model import Job
from gatepost.core.job.surface import Surfacing
from gatepost.core.job.turning import Lay, face_turned, lies, turned
from gatepost.core.plan.known import PlanInputs, digest, finest, heavy
from gatepost.core.plan.laid import Used, wood_of
from gatepost.core.plan.layout import Laid, made_on
from gatepost.core.plan.surfaces import surfaced
from gatepost.core.plan.turned import blank_turned, spun, standing, turned_job
from gatepost.core.surface.seat import Seat
from gatepost.core.surface.second import thickness
from gatepost.core.wood.field import HeightField
from gatepost.core.wood.field import board as board_field


@dataclass(frozen=True)
class LyingBoard:
    """The board with one face up, between two setups. lies: how; plane: height of its face where that was made flat; own: on its own
    underside, uncut; on_cut: on a face that was made flat."""

    known: PlanInputs
    lies: Lay
    field: HeightField
    key: str
    carried: Matrix[BlankFrame, Board]
    plane: float | None = None
    own: bool = True
    on_cut: bool = False

    @property
    def top(self) -> float:
        """The highest place of what is up."""
        return self.plane if self.plane is not None else self.known.wood.extremes.highest[2]


def up(faces: dict[str, LyingBoard], laid: Laid, memory: Memory) -> LyingBoard:
    """The board as a setup has it up. faces: front and back as they were left, the front not turned on its plane."""
    if laid.up == "front":
        board = faces["front"]
    elif laid.up == "back":
        board = faces["back"] if "back" in faces else _turned_over(faces["front"], laid, memory)
    else:
        board = _on_a_side(faces["front"], laid, memory)
    board = board if board.lies == lies(laid.setup) else _spun(board, laid, memory)
    return _once_more(board, laid, memory) if laid.flattens and board.plane is not None else board


def _once_more(board: LyingBoard, laid: Laid, memory: Memory) -> LyingBoard:
    """A face that was made flat already and is to be again: as high everywhere as it was cut, by its own figures."""
    assert board.plane is not None
    k, blank = board.known, board.known.job.blank
    corners = tuple(
        TopHeight(x=x, y=y, z=board.plane) for x, y in (blank.part(fx, fy) for fx in (0, 1) for fy in (0, 1))
    )
    level = blank.model_copy(update={"heights": corners, "under": (), "supports": ()})
    known = _known(k, k.job.model_copy(update={"blank": level}), laid, memory, board.plane)
    return replace(board, known=known)


def rough(k: PlanInputs, memory: Memory) -> tuple[HeightField, str]:
    """The board as it is laid, and what it comes from."""
    blank = k.job.blank
    made_of = (blank.shape, blank.length, blank.width, blank.outline, k.wood.heights, k.thickness.mean, k.cell)
    long, wide = blank.across
    outline = None if blank.shape == "rectangle" else k.wood.outline
    field = memory.get(
        "field", made_of, lambda: board_field(long, wide, k.cell, k.wood.top.over, outline, blank.box[:2]),
        heavy(long * wide / k.cell**2),
    )  # fmt: skip
    return field, digest(repr(made_of).encode())


def cut_to(board: LyingBoard, plane: float, memory: Memory) -> LyingBoard:
    """The board once its face was cut down to a plane."""
    key = digest(f"{board.key} cut to {plane!r}".encode())
    field = memory.get("surfaced", key, lambda: _down_to(board.field, plane), heavy(board.field.z.size))
    return replace(board, field=field, key=key, plane=plane)


def _down_to(field: HeightField, plane: float) -> HeightField:
    z = field.z.copy()
    np.minimum(z, np.float32(plane), out=z, where=field.wood)
    return replace(field, z=z)


def _known(k: PlanInputs, job: Job, laid: Laid, memory: Memory, level: float) -> PlanInputs:
    """What is known of the board as another job tells it. level: of its top where nothing was read, mm."""
    wanted = laid.surfacing or Surfacing(wanted="no")
    made = made_on(k.setups, laid.up)
    pose: Matrix[FaceFrame, Board] = Matrix(face_turned(job.blank.length, job.blank.width, lies(laid.setup)).rows)
    wood = wood_of(job, wanted, level, Used(made, pose), memory)
    flat = surfaced(job, laid.setup, wanted, wood, finest(made, k.coarse, memory), memory)
    return replace(k, job=job, wood=wood, surfaced=flat)


def _turned_over(front: LyingBoard, laid: Laid, memory: Memory) -> LyingBoard:
    """The board turned onto its cut face: a board of its own."""
    k = front.known
    job = turned_job(k.job, laid.setup, front.top, k.wood.seat)
    known = _known(k, job, laid, memory, k.thickness.mean)
    known = replace(known, surfaced=replace(known.surfaced, other_face=True))
    over = Matrix[Board, Board](turned(k.job.blank.length, k.job.blank.width, front.top, lies(laid.setup)).rows)
    carried = front.carried.then(over)
    return LyingBoard(
        known, lies(laid.setup), *rough(known, memory), carried, own=False, on_cut=front.plane is not None
    )


def turned_back(front: LyingBoard, back: LyingBoard, journal: Journal, memory: Memory) -> LyingBoard:
    """The board turned back onto its other cut face, by as much thinner as came off that."""
    if back.plane is None or front.plane is None:
        return front
    left = thickness(back.plane, journal, front.known.job).used
    down: Matrix[Board, Board] = shift(0.0, 0.0, left - front.plane)
    return replace(cut_to(front, left, memory), carried=front.carried.then(down), own=False, on_cut=True)


def lowered(back: LyingBoard, by: float) -> LyingBoard:
    """The board on a face from which so much has come off since."""
    if back.plane is None or not by:
        return back
    down: Matrix[Board, Board] = shift(0.0, 0.0, -by)
    key = digest(f"{back.key} lowered by {by!r}".encode())
    return replace(
        back, field=back.field.moved(0.0, 0.0, -by), key=key, plane=back.plane - by, carried=back.carried.then(down)
    )


def _on_a_side(front: LyingBoard, laid: Laid, memory: Memory) -> LyingBoard:
    """The board stood on an end or an edge, as thick as it is by then."""
    k, lie = front.known, lies(laid.setup)
    to = turned(k.job.blank.length, k.job.blank.width, front.top, lie)
    low, high = standing(k.job.blank, to)
    job = k.job.model_copy(update={"blank": blank_turned(k.job.blank, lie, front.top)})
    tall = high - low
    known = _known(replace(k, thickness=Thickness(tall, tall, tall, (), False)), job, laid, memory, tall)
    down: Matrix[Board, Board] = shift(0.0, 0.0, -low)
    over = front.carried.then(Matrix[Board, Board](to.rows)).then(down)
    return LyingBoard(known, lie, *rough(known, memory), over, own=False)


def _spun(board: LyingBoard, laid: Laid, memory: Memory) -> LyingBoard:
    """The board turned on its plane."""
    k, lie = board.known, lies(laid.setup)
    blank = k.job.blank
    turn = (lie.spin - board.lies.spin) % 360
    job = k.job.model_copy(update={"blank": spun(blank, turn)})
    known = _known(k, job, laid, memory, k.thickness.mean)
    over = Matrix[Board, Board](turned(blank.length, blank.width, 0.0, Lay("front", turn)).rows)
    there = replace(board, known=known, lies=lie, carried=board.carried.then(over), plane=None)
    field, key = rough(known, memory)
    there = replace(there, field=field, key=key)
    return there if board.plane is None else cut_to(there, board.plane, memory)


def laid_first(seat: Seat | None) -> Matrix[BlankFrame, Board]:
    """A board as it lies first, raised by the shims under it."""
    a, b, c = seat.moved if seat is not None else (0.0, 0.0, 0.0)
    return Matrix(((1.0, 0.0, 0.0, 0.0), (0.0, 1.0, 0.0, 0.0), (a, b, 1.0, c)))
