# SPDX-License-Identifier: GPL-3.0-or-later
"""Zeros, wired: what the Zero room's advice and budget rest on, from a setup's wood, holds and travel."""

from __future__ import annotations

from collections.abc import Sequence

from shapely.geometry import Point as Spot_
from shapely.geometry import Polygon

from gatepost.core.frames import Bed, Board, Matrix
from gatepost.core.hold.solids import Solid
from gatepost.core.job.journal import Journal
from gatepost.core.job.model import Job, Setup
from gatepost.core.plan.planned import PlannedCut
from gatepost.core.tools.touchoff import is_top
from gatepost.core.wood.field import HeightField
from gatepost.core.zero.adviser import Spot, ZChoice
from gatepost.core.zero.datum import CORNERS, datum, middle_of
from gatepost.core.zero.ways import Budget, budget

JOG = 0.05  # mm, step of a hand wheel
TAPE = 0.5  # mm by which a blank measured with a tape may be another size
CALIPER = 0.1  # and by calipers
MARK = 4.0  # mm about a mark that stay free for a point
EDGE_WOOD = 2.0  # mm inside a corner at which there must be wood


def covering(standing: Sequence[Solid], place: tuple[float, float], around: float, over: float) -> str:
    """The hold that stands within a distance of a bed place and higher than what is touched there, or nothing."""
    disc = Spot_(*place).buffer(around)
    return next((s.hold for s in standing if s.top > over and s.outline.intersects(disc)), "")


def size_error(job: Job) -> float:
    """± of the blank's length and width, mm: of its outline where it was traced, else of a tape measure."""
    return job.blank.doubt or TAPE


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
    error = size_error(job)
    shifts = error if corner else 0.5 * error if name == "centre" else 0.0
    return Spot(
        name, stays, wood, covering(standing, bed, MARK, float(start.z.max())), reached, shifts, name == setup.zero.xy
    )


def upright_of(job: Job, setup: Setup, spread: float, operations: Sequence[PlannedCut]) -> ZChoice:
    """What Z0 on the top or on the bed costs here. spread: of the wood's thickness, mm."""
    angles = [op.tool.angle for op in operations if op.kind == "vcut"]
    through = any(op.kind == "cutout" for op in operations)
    return ZChoice(spread, max(angles) if angles else None, through, setup.zero.z)


def budget_of(job: Job, setup: Setup) -> Budget:
    """± of a setup's zeros."""
    traced = job.blank.doubt if job.blank.photo is not None else 0.0
    return budget(setup.zero, JOG, 0.0 if traced else size_error(job), traced)


def newest_date(journal: Journal) -> str:
    """The date of what happened last, or nothing: there is no clock here."""
    return journal.entries[-1].at[:10] if journal.entries else ""
