# SPDX-License-Identifier: GPL-3.0-or-later
"""Zeros, wired: what the Zero room's advice and budget rest on, from a setup's wood, holds and travel."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np
from shapely.geometry import Point as Spot_
from shapely.geometry import Polygon

from gatepost.core.frames import Bed, Board, Matrix
from gatepost.core.hold.lying import AsLaid, lying
from gatepost.core.hold.solids import Solid
from gatepost.core.job.journal import Journal
from gatepost.core.job.model import Job, Setup
from gatepost.core.job.tool import Tool
from gatepost.core.plan.cuts import Cuts
from gatepost.core.plan.drafts import SetupDraft
from gatepost.core.plan.planned import PlannedCut
from gatepost.core.profile import VEES
from gatepost.core.tools.touchoff import is_top
from gatepost.core.wood.field import HeightField
from gatepost.core.working import Named, Working, working
from gatepost.core.zero.adviser import Spot, ZChoice
from gatepost.core.zero.datum import CORNERS, datum, middle_of, touch_place
from gatepost.core.zero.ways import (
    WHEEL,
    Budget,
    EdgeTouch,
    Reach,
    askew,
    budget,
    edge_touches,
    inset_of,
    square_touches,
    vee_off,
)

CALIPER = 0.1  # and by calipers
MARK = 4.0  # mm about a mark that stay free for a point
BESIDE = 40.0  # mm beside the board at which the bed is touched where no place is chosen
EDGE_WOOD = 2.0  # mm inside a corner at which there must be wood


def covering(standing: Sequence[Solid], place: tuple[float, float], around: float, over: float) -> str:
    """The hold that stands within a distance of a bed place and higher than what is touched there, or nothing."""
    disc = Spot_(*place).buffer(around)
    return next((s.hold for s in standing if s.top > over and s.outline.intersects(disc)), "")


def spots_of(
    job: Job,
    setup: Setup,
    to_bed: Matrix[Board, Bed],
    outline: Polygon,
    start: HeightField,
    end: HeightField,
    standing: Sequence[Solid],
) -> tuple[Spot, ...]:
    """Every place that X0 Y0 could be at, with what speaks for and against it. outline: blank frame."""
    places = {name: job.blank.part(fx, fy) for name, (fx, fy) in CORNERS.items()}
    if job.blank.shape == "outline":
        places["outline middle"] = middle_of(job.blank)
    if setup.zero.xy == "mark":
        mark = datum(setup.zero, job.blank)
        places["mark"] = (mark.x, mark.y)
    return tuple(_spot(job, setup, to_bed, name, at, outline, start, end, standing) for name, at in places.items())


def _spot(
    job: Job, setup: Setup, to_bed: Matrix[Board, Bed], name: str, at: tuple[float, float], outline: Polygon, start: HeightField, end: HeightField,
    standing: Sequence[Solid],
) -> Spot:  # fmt: skip
    x, y = at
    corner = name in CORNERS and name != "centre"
    inward = (
        x + (EDGE_WOOD if x < job.blank.middle[0] else -EDGE_WOOD),
        y + (EDGE_WOOD if y < job.blank.middle[1] else -EDGE_WOOD),
    )
    look = inward if corner else at
    wood = bool(outline.intersects(Spot_(*look)))
    if corner:
        after = end.at(*look)
        stays = wood and after == after and after > 0.5 * start.at(*look)
    else:
        stays = wood and is_top(start, end, x, y, MARK) < 0.05
    bed = to_bed.xy(x, y)
    reached = 0.0 <= bed[0] <= job.machine.travel_x and 0.0 <= bed[1] <= job.machine.travel_y
    error = job.blank.outline_doubt
    shifts = error if corner else 0.5 * error if name == "centre" else 0.0
    return Spot(
        name, stays, wood, covering(standing, bed, MARK, float(start.z.max())), reached, shifts, name == setup.zero.xy
    )


def upright_of(job: Job, setup: Setup, spread: float, operations: Sequence[PlannedCut]) -> ZChoice:
    """What Z0 on the top or on the bed costs here. spread: of the wood's thickness, mm."""
    angles = [op.tool.angle for op in operations if op.tool.kind in VEES]
    through = any(o.through for o in setup.operations)
    return ZChoice(spread, max(angles) if angles else None, through, setup.zero.z)


def edges_on_bed(c: Cuts, pin: float, square: bool = False) -> list[EdgeTouch]:
    """The edges that are touched for X0 Y0, or to lay the board square, on the bed. pin: diameter of what touches them."""
    d, blank = c.draft, c.draft.known.job.blank
    if d.setup.zero.xy_way == "pointer" and not square:
        return []
    corner = (d.setup.x + blank.box[0], d.setup.y + blank.box[1])
    touches = square_touches if square else edge_touches
    return touches(d.setup, blank.across, corner, float(d.start.z.max()), pin)


def farthest(c: Cuts) -> tuple[float, float]:
    """How far from X0 Y0 it cuts, along X and Y, mm."""
    points = [np.abs(np.asarray(p.moves.points)[1:][~np.asarray(p.moves.rapid)]) for p in c.programs]
    most = np.max([q.max(axis=0) for q in points if len(q)], axis=0, initial=0.0) if points else np.zeros(3)
    return float(most[0]), float(most[1])


def first_touch(c: Cuts) -> tuple[float, float]:
    """Where Z is touched first, bed XY: for Z on the bed with nothing chosen, beside the board to its left."""
    setup, blank, to_bed = c.draft.setup, c.draft.known.job.blank, c.draft.placed.to_bed
    if setup.zero.z == "bed" and setup.zero.touch_x is None:
        return to_bed.xy(blank.box[0] - BESIDE, blank.middle[1])
    return to_bed.xy(*touch_place(setup.zero, blank).xy)


def touched_at(c: Cuts, tool: Tool) -> tuple[float, float]:
    """Where a tool's Z is touched, bed XY: at the place chosen for it, else where the first one's is."""
    chosen = next((t for t in c.draft.setup.touches if t.tool == tool.number), None)
    return c.draft.placed.to_bed.xy(chosen.x, chosen.y) if chosen is not None else first_touch(c)


def farthest_from_touch(c: Cuts) -> tuple[float, float]:
    """How far from where its tool's Z is touched it cuts, along X and Y, mm."""
    to_work = c.draft.placed.work_to_bed.inverse()
    most = np.zeros(2)
    for p in c.programs:
        at = to_work.xy(*touched_at(c, p.tool))
        cut = np.asarray(p.moves.points)[1:][~np.asarray(p.moves.rapid)][:, :2]
        if len(cut):
            most = np.maximum(most, np.abs(cut - np.array(at)).max(axis=0))
    return float(most[0]), float(most[1])


def lying_in(c: Cuts) -> AsLaid:
    """How the board may lie in a setup: as it is found again, else as its holds and fences let it."""
    d = c.draft
    comes = d.setup.comes
    kind = d.known.kinds.registers[comes.kind] if comes is not None else None
    found = kind.bounds(d.known.job, d.setup) if kind is not None and (kind.alone or d.previous is not None) else None
    if found is not None:
        return AsLaid(found.x, found.y, found.degrees, found.by)
    outline = d.placed.to_bed.area(d.known.wood.outline)
    return lying(d.setup.holds, d.known.job.machine.bed, outline)


def budget_of(c: Cuts, lies: AsLaid, setup: Setup | None = None) -> Budget:
    """± of a setup's zeros and of what is cut by them. setup: as it would be otherwise."""
    d, job = c.draft, c.draft.known.job
    x, y = farthest(c)
    flat = any(p.tool.kind not in VEES for p in c.programs)
    photo = job.blank.doubt if job.blank.photo is not None else 0.0
    kept = d.tied if kept_zero(d) else None
    setup = kept or setup or d.setup
    long = max(job.blank.across)
    degrees = askew(setup, AsLaid().degrees if kept else lies.degrees, long) + (lies.degrees if kept else 0.0)
    top = float(d.start.z.max()) - d.zero_height
    vees = [
        vee_off(p.tool.angle, max(0.0, top - float(p.moves.points[:, 2].min())))
        for p in c.programs
        if p.tool.kind in VEES
    ]
    travel = (job.machine.travel_x, job.machine.travel_y)
    return budget(
        setup.zero,
        Reach(
            x,
            y,
            degrees,
            travel,
            flat,
            photo,
            WHEEL,
            max(vees, default=0.0),
            max(inset_of(v) for v in job.blank.across),
            farthest_from_touch(c),
            max(lies.x, lies.y) if kept else 0.0,
        ),
    )


def kept_zero(d: SetupDraft) -> bool:
    """Whether a setup's X0 Y0 is set by that of the one before, by how the work is found again."""
    comes = d.setup.comes
    return comes is not None and d.previous is not None and d.known.kinds.registers[comes.kind].keeps


def zero_found(d: SetupDraft) -> str:
    """How a setup's X0 Y0 is set where it is not touched, in few words; nothing where it is."""
    comes = d.setup.comes
    if comes is None:
        return ""
    kind = d.known.kinds.registers[comes.kind]
    return kind.zero if kind.alone or d.previous is not None else ""


def beside(c: Cuts, lies: AsLaid, mine: Budget, setup: Setup | None = None) -> Working | None:
    """By how much the hold that is farthest from the zero may stand otherwise than it was judged, where it is set from the board."""
    d, mark = c.draft, c.draft.placed.mark
    places = [d.known.kinds.holds[h.kind].touch_point(h) for h in d.setup.holds if h.kind != "nest"]
    if not places:
        return None
    lever = max(math.dist(mark, p) for p in places)
    degrees = askew(setup or d.setup, lies.degrees, max(d.known.job.blank.across))
    photo = next(
        (v.value for v in mine.across.worst.values if v.name == "photo"), 0.0
    )  # holds are set by the edges themselves
    return working(
        "zero + far * tan(askew)", Named("zero", mine.across.worst.result - photo), Named("far", lever), Named("askew", degrees, "angle"), shop_rule=True
    )  # fmt: skip


def newest_date(journal: Journal) -> str:
    """The date of what happened last, or nothing: there is no clock here."""
    return journal.entries[-1].at[:10] if journal.entries else ""
