# SPDX-License-Identifier: GPL-3.0-or-later
"""Setups before their programs are written: how the board lies in each, its zeros, and what is cut there."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from gatepost.core.cache import Memory
from gatepost.core.cutting import Drawn, Envelope, Site, Spot
from gatepost.core.frames import BlankFrame, Board, Matrix, Point, shift
from gatepost.core.hold import solids
from gatepost.core.job.blank import Blank
from gatepost.core.job.journal import Journal
from gatepost.core.job.model import Job, Setup
from gatepost.core.job.surface import Surfacing
from gatepost.core.job.tool import Tool
from gatepost.core.plan.kinds import Kinds
from gatepost.core.plan.known import COARSER, PlanInputs, digest, heavy
from gatepost.core.plan.laid import wood_of
from gatepost.core.plan.layout import Laid, Wanted, layout
from gatepost.core.plan.surfaces import bites, surfaced
from gatepost.core.plan.turned import turned_job
from gatepost.core.surface.seat import Seat
from gatepost.core.surface.second import thickness
from gatepost.core.tolerances import SAFE_TRAVEL
from gatepost.core.tools import forces
from gatepost.core.wood.field import HeightField, board
from gatepost.core.working import Working
from gatepost.core.zero import datum as zeros


@dataclass(frozen=True)
class DraftOperation:
    """An operation as drawn, with what its cutter does to the wood. peak: over the mean push."""

    wanted: Wanted
    drawn: Drawn
    envelope: Envelope
    push: Working
    peak: float

    @property
    def name(self) -> str:
        """The operation's name."""
        return self.wanted.name

    @property
    def tool(self) -> Tool:
        """What cuts."""
        return self.wanted.tool


@dataclass(frozen=True)
class SetupDraft:
    """A setup before its programs are written. known: of the board as it lies here; placed: where it lies; carried: from the
    blank's own frame to the board's; start: the wood, start_key: of all that it comes from; own: whether the board lies on its own underside, uncut; on_cut: on a face that was made flat; turned: about what
    it was turned over before, or nothing; seat: the shims that it lies on; site: where its operations are done."""

    laid: Laid
    known: PlanInputs
    placed: zeros.Placed
    carried: Matrix[BlankFrame, Board]
    zero_height: float
    start: HeightField
    start_key: str
    travel: float
    pieces: tuple[DraftOperation, ...]
    own: bool
    on_cut: bool
    turned: str
    seat: Seat | None
    site: Site

    @property
    def setup(self) -> Setup:
        """The setup as entered."""
        return self.laid.setup


@dataclass(frozen=True)
class _Lie:
    """The board between two setups. plane: height of its face where that was made flat; own: on its own underside, uncut; on_cut: on a face
    that was made flat."""

    known: PlanInputs
    up: str
    field: HeightField
    key: str
    carried: Matrix[BlankFrame, Board]
    plane: float | None = None
    own: bool = True
    on_cut: bool = False


def drafts(k: PlanInputs, journal: Journal, memory: Memory) -> list[SetupDraft]:
    """Every setup that has something to do, one after another; what carries the carving always."""
    lie = _Lie(k, "front", *_rough(k, memory), _laid(k.wood.seat))
    fronts = lie
    made: list[SetupDraft] = []
    for laid in layout(k.job, k.kinds):
        turned = laid.turn if laid.up != lie.up else ""
        if turned and lie.plane is None and laid.flattens and not laid.carves:
            continue  # a board whose one face is left as it is is not surfaced on the other
        if turned:
            lie = _turned_back(fronts, lie, journal, memory) if laid.up == "front" else _turned(lie, laid, memory)
        if laid.flattens and not (lie.known.surfaced.needed and lie.known.surfaced.lines):
            if not laid.carves:
                continue
            laid = replace(laid, flattens=False)
        made.append(_draft(lie, laid, turned))
        if laid.flattens:
            lie = _cut_to(lie, lie.known.surfaced.plane, memory)
        if lie.up == "front":
            fronts = lie
    return made


def _rough(k: PlanInputs, memory: Memory) -> tuple[HeightField, str]:
    """The board as it is laid, and what it comes from."""
    blank = k.job.blank
    made_of = (blank.shape, blank.length, blank.width, blank.outline, k.wood.heights, k.thickness.mean, k.cell)
    outline = None if blank.shape == "rectangle" else k.wood.outline
    field = memory.get(
        "field", made_of, lambda: board(blank.length, blank.width, k.cell, k.wood.top.over, outline),
        heavy(blank.length * blank.width / k.cell**2),
    )  # fmt: skip
    return field, digest(repr(made_of).encode())


def _cut_to(lie: _Lie, plane: float, memory: Memory) -> _Lie:
    """The board once its face was cut down to a plane."""
    rough, key = lie.field, digest(f"{lie.key} cut to {plane!r}".encode())
    field = memory.get("surfaced", key, lambda: _down_to(rough, plane), heavy(rough.z.size))
    return replace(lie, field=field, key=key, plane=plane)


def _down_to(rough: HeightField, plane: float) -> HeightField:
    z = rough.z.copy()
    np.minimum(z, np.float32(plane), out=z, where=rough.wood)
    return replace(rough, z=z)


def _turned(lie: _Lie, laid: Laid, memory: Memory) -> _Lie:
    """The board turned onto its cut face: a board of its own."""
    k = lie.known
    plane = lie.plane if lie.plane is not None else k.wood.extremes.highest[2]
    job = turned_job(k.job, laid.setup, plane, k.wood.seat)
    wanted = laid.surfacing or Surfacing(wanted="no")
    wood = wood_of(job, wanted, k.thickness.mean, memory)
    flat = replace(surfaced(job, laid.setup, wanted, wood, k.lettering, None, memory), other_face=True)
    known = replace(k, job=job, wood=wood, surfaced=flat)
    over = lie.carried.then(_over(k.job.blank, laid.turn, plane))
    return _Lie(known, laid.up, *_rough(known, memory), over, own=False, on_cut=lie.plane is not None)


def _turned_back(front: _Lie, back: _Lie, journal: Journal, memory: Memory) -> _Lie:
    """The board turned back onto its other cut face, by as much thinner as came off that."""
    if back.plane is None or front.plane is None:
        return front
    left = thickness(back.plane, journal, front.known.job).used
    down: Matrix[Board, Board] = shift(0.0, 0.0, left - front.plane)
    return replace(_cut_to(front, left, memory), carried=front.carried.then(down), own=False, on_cut=True)


def _laid(seat: Seat | None) -> Matrix[BlankFrame, Board]:
    """A board as it lies first, raised by the shims under it."""
    a, b, c = seat.moved if seat is not None else (0.0, 0.0, 0.0)
    return Matrix(((1.0, 0.0, 0.0, 0.0), (0.0, 1.0, 0.0, 0.0), (a, b, 1.0, c)))


def _over(blank: Blank, turn: str, plane: float) -> Matrix[Board, Board]:
    """Turned over onto a face that lay so far above the bed."""
    if turn == "about X":
        return Matrix(((1.0, 0.0, 0.0, 0.0), (0.0, -1.0, 0.0, blank.width), (0.0, 0.0, -1.0, plane)))
    return Matrix(((-1.0, 0.0, 0.0, blank.length), (0.0, 1.0, 0.0, 0.0), (0.0, 0.0, -1.0, plane)))


def _draft(lie: _Lie, laid: Laid, turned: str) -> SetupDraft:
    k, setup = lie.known, laid.setup
    blank = k.job.blank
    face = lie.plane if lie.plane is not None else _top_at(k, setup)
    highest = lie.plane if lie.plane is not None else k.wood.extremes.highest[2]
    touched = zeros.touch_place(setup.zero, blank)

    def home(tool: Tool) -> Spot:
        """Over the touch place, at the top of the travel."""
        return (touched.x, touched.y, k.job.machine.nose_at_home - tool.length)

    levels = k.surfaced.lines if laid.flattens else ()
    site = Site(
        k.wood.outline, face, highest, _travel(k.job, setup, highest, k.kinds), home, k.cell, COARSER if k.coarse else 1.0, k.memory, levels,
        max(bites(k.wood.extremes, k.surfaced.heights)) if levels else 0.0,
    )  # fmt: skip
    pieces = tuple(p for w in laid.wanted if (p := _piece(w, site, k.job)) is not None)
    zero_height = 0.0 if setup.zero.z == "bed" else face
    return SetupDraft(
        laid=laid, known=k, placed=zeros.placed(setup, blank, zero_height), carried=lie.carried, zero_height=zero_height,
        start=lie.field, start_key=lie.key, travel=site.travel, pieces=pieces, own=lie.own, on_cut=lie.on_cut, turned=turned,
        seat=k.wood.seat if lie.own and lie.plane is None else None, site=site,
    )  # fmt: skip


def _piece(wanted: Wanted, site: Site, job: Job) -> DraftOperation | None:
    """An operation drawn and weighed; nothing where it cuts nothing."""
    drawn = wanted.kind.cuts(wanted.figures, wanted.tool, site)
    if drawn is None:
        return None
    step, depth, peak = drawn.engaged.step, drawn.engaged.depth, drawn.engaged.peak
    tool = wanted.tool
    push = forces.v_push(tool, job.wood, depth) if step is None else forces.push(tool, job.wood, step, depth)
    if peak is None:
        peak = forces.peak_factor(step or tool.diameter, tool)
    return DraftOperation(wanted, drawn, wanted.kind.envelope(wanted.figures, tool, site), push, peak)


def _travel(job: Job, setup: Setup, top: float, kinds: Kinds) -> float:
    """Rapid height: over the wood and over everything that stands on the bed."""
    bed = job.machine.bed
    tops: list[float] = [s.top for h in setup.holds for s in kinds.holds[h.kind].solids(h, top, bed)]
    tops += [s.top for s in solids.bed_solids(bed, setup)]
    return max([top, *tops]) + SAFE_TRAVEL


def _top_at(k: PlanInputs, setup: Setup) -> float:
    """Height of the rough face where it is touched; with Z0 on the bed, where the lettering stands."""
    spot = zeros.touch_place(setup.zero, k.job.blank)
    if setup.zero.z == "bed":
        spot = Point(k.job.carving.x, k.job.carving.y)
    return float(k.wood.top.at(np.array([spot.x]), np.array([spot.y]))[0])
