# SPDX-License-Identifier: GPL-3.0-or-later
"""Setups before their programs are written: how the board lies in each, its zeros, and what is cut there."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from gatepost.core.cache import Memory
from gatepost.core.cutting import Drawn, Envelope, HeightLimits, Site, Spot
from gatepost.core.frames import BlankFrame, Board, FaceFrame, Matrix, Point
from gatepost.core.geometry.outline import Area
from gatepost.core.hold import solids
from gatepost.core.job.journal import Journal
from gatepost.core.job.model import Job, Setup
from gatepost.core.job.tool import Tool
from gatepost.core.job.turning import FLAT, Lay, face_turned, lies
from gatepost.core.plan.boards import LyingBoard, cut_to, laid_first, lowered, rough, turned_back, up
from gatepost.core.plan.kinds import Kinds
from gatepost.core.plan.known import COARSER, PlanInputs
from gatepost.core.plan.layout import Laid, Wanted, worked_on
from gatepost.core.plan.surfaces import bites, zero_height
from gatepost.core.plan.tied import tied
from gatepost.core.surface.seat import Seat
from gatepost.core.tolerances import RESERVE, SAFE_TRAVEL
from gatepost.core.tools import forces
from gatepost.core.wood.field import HeightField
from gatepost.core.working import Working
from gatepost.core.zero import datum as zeros


@dataclass(frozen=True)
class DraftCut:
    """A cut as drawn, with what its cutter does to the wood. envelope: of its operation; peak: over the mean push; last: whether it is
    its operation's last."""

    wanted: Wanted
    drawn: Drawn
    envelope: Envelope
    push: Working
    peak: float
    last: bool = True

    @property
    def name(self) -> str:
        """Its operation's name, and its stage where there are several."""
        return f"{self.wanted.name}, {self.drawn.stage}" if self.drawn.stage else self.wanted.name

    @property
    def tool(self) -> Tool:
        """What cuts."""
        return self.drawn.tool


@dataclass(frozen=True)
class SetupDraft:
    """A setup before its programs are written. known: of the board as it lies here; placed: where it lies; carried: from the
    blank's own frame to the board's; start: the wood, start_key: of all that it comes from; uncut: as it was before anything was carved on this face; own: whether the board lies on its own underside, uncut; on_cut: on a face that was made flat; previous: the setup
    that is planned before it, where there is one; tied: the one that its place follows from; pose: from the face that is up, as it is read, to the board as it lies; seat: the shims that it lies on; site: where its operations are done."""

    laid: Laid
    known: PlanInputs
    placed: zeros.Placed
    carried: Matrix[BlankFrame, Board]
    zero_height: float
    start: HeightField
    start_key: str
    uncut: HeightField
    travel: float
    pieces: tuple[DraftCut, ...]
    own: bool
    on_cut: bool
    previous: Setup | None
    tied: Setup | None
    pose: Matrix[FaceFrame, Board]
    seat: Seat | None
    site: Site

    @property
    def setup(self) -> Setup:
        """The setup as entered."""
        return self.laid.setup

    @property
    def before(self) -> Lay:
        """How the board lay until then."""
        return lies(self.previous) if self.previous is not None else FLAT


def drafts(k: PlanInputs, journal: Journal, memory: Memory) -> list[SetupDraft]:
    """Every setup that has something to do, one after another; what carries the carving always."""
    faces = {"front": LyingBoard(k, FLAT, *rough(k, memory), laid_first(k.wood.seat))}
    made: list[SetupDraft] = []
    for laid in k.setups:
        if laid.up == "back" and faces["front"].plane is None and laid.flattens and not laid.carves:
            continue  # a board whose one face is left as it is is not surfaced on the other
        board = up(faces, laid, memory)
        if laid.flattens and not (board.known.surfaced.needed and board.known.surfaced.lines):
            if not laid.carves:
                continue
            laid = replace(laid, flattens=False)
        made.append(_draft(board, laid, [d.setup for d in made]))
        if laid.up == "back":
            faces["back"] = board
        if laid.flattens and laid.up == "front" and "back" in faces:
            faces["back"] = lowered(faces["back"], faces["front"].top - board.known.surfaced.plane)
        if laid.flattens:
            faces[laid.up] = cut_to(faces.get(laid.up, board), board.known.surfaced.plane, memory)
        if laid.flattens and laid.up == "back":
            faces["front"] = turned_back(faces["front"], faces["back"], journal, memory)
    return made


def _draft(board: LyingBoard, laid: Laid, earlier: Sequence[Setup]) -> SetupDraft:
    k, setup = board.known, laid.setup
    previous = earlier[-1] if earlier else None
    blank = k.job.blank
    pose: Matrix[FaceFrame, Board] = Matrix(face_turned(blank.length, blank.width, board.lies).rows)
    face = board.plane if board.plane is not None else _top_at(k, laid, pose)
    highest = board.top
    touched = zeros.touch_place(setup.zero, blank)

    def home(tool: Tool) -> Spot:
        """Over the touch place, a reserve below the top of the travel: that is told by a length which is only as good as it was measured."""
        return (touched.x, touched.y, k.job.machine.nose_at_home - tool.length - RESERVE)

    levels = k.surfaced.lines if laid.flattens else ()
    site = Site(
        k.wood.outline, face, highest, _travel(k.job, setup, highest, k.kinds), home, k.cell, COARSER if k.coarse else 1.0, k.memory, levels,
        max(bites(k.wood.extremes, k.surfaced.heights)) if levels else 0.0, _angle(board.carried, blank.grain),
    )  # fmt: skip
    pieces = tuple(p for w in laid.wanted for p in _cuts(w, site, k.job, pose))
    zero_height = 0.0 if setup.zero.z == "bed" else face
    return SetupDraft(
        laid=laid, known=k, placed=zeros.placed(setup, blank, zero_height), carried=board.carried, zero_height=zero_height,
        start=board.field, start_key=board.key, uncut=board.field, travel=site.travel, pieces=pieces, own=board.own, on_cut=board.on_cut, previous=previous, tied=tied(setup, earlier), pose=pose,
        seat=k.wood.seat if board.own and board.plane is None else None, site=site,
    )  # fmt: skip


def _cuts(wanted: Wanted, site: Site, job: Job, pose: Matrix[FaceFrame, Board]) -> list[DraftCut]:
    """An operation's cuts drawn and weighed. What works on artwork is drawn on the face as it is read."""
    turned = bool(wanted.face) and pose != Matrix()
    there = posed(site, pose) if turned else site
    drawn = wanted.kind.cuts(wanted.figures, wanted.tools, there)
    if not drawn:
        return []
    envelope = wanted.kind.envelope(wanted.figures, wanted.tools, there)
    if turned:
        drawn = tuple(_turned(d, pose) for d in drawn)
        envelope = _turned_envelope(envelope, pose)
    return [DraftCut(wanted, d, envelope, *_weighed(d, job), d is drawn[-1]) for d in drawn]


def _weighed(drawn: Drawn, job: Job) -> tuple[Working, float]:
    """The push of a cut, and its peak over it."""
    step, depth, peak = drawn.engaged.step, drawn.engaged.depth, drawn.engaged.peak
    tool = drawn.tool
    push = forces.v_push(tool, job.wood, depth) if step is None else forces.push(tool, job.wood, step, depth)
    return push, forces.peak_factor(step or tool.diameter, tool) if peak is None else peak


def _turned(drawn: Drawn, pose: Matrix[FaceFrame, Board]) -> Drawn:
    """A cut told on the board as it lies."""
    art = drawn.art.through(pose.array) if drawn.art is not None else None
    area = drawn.area.through(pose.array) if drawn.area is not None else None
    target = drawn.target.through(pose.array) if drawn.target is not None else None
    return replace(drawn, moves=pose.moves(drawn.moves), art=art, area=area, target=target)


def posed(site: Site, pose: Matrix[FaceFrame, Board]) -> Site:
    """A site told on the face as it is read."""
    back = pose.inverse()

    def home(tool: Tool) -> Spot:
        x, y, z = site.home(tool)
        return (*back.xy(x, y), z)

    return replace(site, outline=back.area(site.outline), home=home, grain=_angle(back, site.grain))


def _angle(through: Matrix[Any, Any], degrees: float) -> float:
    """How a direction, told in degrees from X, runs after a transform."""
    way = math.radians(degrees)
    (x0, y0), (x1, y1) = through.xy(0.0, 0.0), through.xy(math.cos(way), math.sin(way))
    return float(math.degrees(math.atan2(y1 - y0, x1 - x0)))


def _turned_envelope(envelope: Envelope, pose: Matrix[FaceFrame, Board]) -> Envelope:

    def turned(area: Callable[[], Area] | None) -> Callable[[], Area] | None:
        return None if area is None else lambda: pose.area(area())

    def limits() -> HeightLimits:
        assert envelope.limits is not None
        there = envelope.limits()
        return HeightLimits(there.low.through(pose.array), there.high.through(pose.array))

    return replace(
        envelope, area=turned(envelope.area), cleared=turned(envelope.cleared), key=(envelope.key, pose),
        limits=limits if envelope.limits is not None else None,
    )  # fmt: skip


def _travel(job: Job, setup: Setup, top: float, kinds: Kinds) -> float:
    """Rapid height: over the wood and over everything that stands on the bed."""
    bed = job.machine.bed
    tops: list[float] = [s.top for h in setup.holds for s in kinds.holds[h.kind].solids(h, top, bed)]
    tops += [s.top for s in solids.bed_solids(bed, setup)]
    return max([top, *tops]) + SAFE_TRAVEL


def _top_at(k: PlanInputs, laid: Laid, pose: Matrix[FaceFrame, Board]) -> float:
    """Height of the rough face where it is touched; with Z0 on the bed, where the first artwork stands."""
    if laid.setup.zero.z == "top":
        first = next((t for w in laid.wanted for t in w.tools), None)
        return zero_height(k.job, laid.setup, k.wood.top, first)
    art = next((a for w in laid.wanted if w.face and (a := worked_on(k.job, w.kind, w.operation)) is not None), None)
    spot = pose.apply(Point(art.x, art.y)) if art is not None else Point[Board](*k.job.blank.middle)
    return float(k.wood.top.at(np.array([spot.x]), np.array([spot.y]))[0])
