# SPDX-License-Identifier: GPL-3.0-or-later
"""What the Register stage is told of each setup that follows another."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace

import numpy as np
import shapely
from numpy.typing import NDArray

from gatepost.core.frames import Bed, BlankFrame, Matrix
from gatepost.core.geometry.outline import Area
from gatepost.core.job.holes import Drilling
from gatepost.core.plan.cuts import Cuts
from gatepost.core.plan.known import PlanInputs
from gatepost.core.plan.nesting import seen_in
from gatepost.core.plan.planned import PlannedCut, PlannedSetup
from gatepost.core.plan.proved import ring_art, ring_width
from gatepost.core.register.kind import Coming, Near
from gatepost.core.register.moved import NOT_MOVED
from gatepost.core.register.proof import Proved
from gatepost.core.tolerances import THROUGH_EXTRA
from gatepost.core.wood.field import HeightField

CUT = 0.05  # mm
SOME = 4000  # places of a setup's cuts that are looked at
UNDER = 2.0  # mm under the face down to which a cutter may go over what stands in the board


def comings(k: PlanInputs, cuts: Sequence[Cuts], built: Sequence[PlannedSetup]) -> list[Coming]:
    """Of every setup that is planned after another, and of the first where it is found by itself."""
    return [
        Coming(
            before.draft.setup, c.draft.setup, k.job, on_bed(before), on_bed(c), before.draft.carried.inverse().area(before.draft.known.wood.outline),
            _cut_places(c), k.thickness.greatest, _through(cuts[:n]), _cut_here(c), _cut_before(cuts[:n], before), _beside(now), c.draft.laid.found, seen_in(cuts[:n], c.draft.setup, k.coarse), _grips(c, now), *_bore(cuts, built, c),
        )
        for n, (c, now) in enumerate(zip(cuts, built))
        for before in (tied_to(cuts[:n], c) or c,)
        if n or _alone(k, c)
    ]  # fmt: skip


def tied_to(earlier: Sequence[Cuts], c: Cuts) -> Cuts | None:
    """The setup before, or the one in which what its piece is laid on or into was made."""
    return next((b for b in earlier if c.draft.tied is not None and b.draft.setup.name == c.draft.tied.name), None)


def _bore(cuts: Sequence[Cuts], built: Sequence[PlannedSetup], c: Cuts) -> tuple[str, float]:
    """The program that bores the bare bed for a setup's pins, nothing where none does; and by how much it leaves the travel, mm."""
    before = tied_to(cuts[: [one is c for one in cuts].index(True)], c)
    planned = next((b for one, b in zip(cuts, built) if one is before), None)
    if planned is None or not planned.bare:
        return "", 0.0
    return planned.bare[-1].name, max((m.by for m in planned.out_of_travel), default=0.0)


def proofs(k: PlanInputs, cuts: Sequence[Cuts]) -> list[Proved]:
    """Of every setup whose place is proved, or was moved by what was seen."""
    out = []
    for c in cuts:
        setup, seen = c.draft.setup, c.draft.laid.proving
        if setup.proof or setup.ring is not None or seen.moved != NOT_MOVED:
            board = c.draft.placed.to_bed.area(c.draft.known.wood.outline)
            both = ring_art(k.job, setup)
            wide = ring_width(*both) if both is not None else None
            out.append(Proved(setup, seen.looks, seen.rings, seen.moved, board, _cut_places(c), wide))
    return out


def _grips(c: Cuts, now: PlannedSetup) -> tuple[tuple[str, Area], ...]:
    """Where each hold has the board, on the bed."""
    return tuple((g.hold, c.draft.placed.to_bed.area(g.area)) for g in now.grips)


def laid_on(k: PlanInputs, cuts: Sequence[Cuts], built: PlannedSetup) -> PlannedSetup:
    """A setup with what the piece is laid on or into: pins and their play, or the frame with the ways in which it may lie in it. cuts: up to its own."""
    c = cuts[-1]
    comes = c.draft.setup.comes
    if comes is None or len(cuts) < 2:
        return built
    kind = k.kinds.registers[comes.kind]
    nest = seen_in(cuts[:-1], c.draft.setup, k.coarse)
    if nest is not None:
        x0, y0, x1, y1 = nest.rim.bounds
        lay = on_bed(tied_to(cuts[:-1], c) or c).inverse().then(on_bed(c))
        were = ((x0, y0), (x1, y1))
        return replace(
            built, pins=tuple(lay.xy(*p) for p in were), were=(*were, nest.middle), seats=nest.seats, nest=nest
        )
    bounds = kind.bounds(k.job, c.draft.setup)
    pins = tuple(on_bed(c).xy(*p) for p in kind.pins(k.job, c.draft.setup))
    return replace(built, pins=pins, play=bounds.play if bounds is not None else 0.0)


def _alone(k: PlanInputs, c: Cuts) -> bool:
    """Whether a setup is found again with none before it."""
    comes = c.draft.setup.comes
    return comes is not None and k.kinds.registers[comes.kind].alone


def on_bed(c: Cuts) -> Matrix[BlankFrame, Bed]:
    """From the blank's own frame, front face up, to the bed."""
    return c.draft.carried.then(c.draft.placed.to_bed)


def _cut_places(c: Cuts) -> NDArray[np.float64]:
    """Ends of moves that cut, on the bed."""
    found = [np.asarray(c.on_bed(p).points)[1:][~np.asarray(p.moves.rapid)][:, :2] for p in c.programs]
    points = np.concatenate(found) if found else np.zeros((0, 2))
    if len(points) <= SOME:
        return points
    hull = shapely.convex_hull(
        shapely.multipoints(points)
    )  # the worst place is a corner of it: shifts grow with distance along any line outwards
    return np.asarray(shapely.get_coordinates(hull))


def _through(cuts: Sequence[Cuts]) -> dict[str, float]:
    """Rows of holes that are drilled right through, and how far into the spoilboard each goes."""
    out: dict[str, float] = {}
    for c in cuts:
        done = {op.operation for op in c.operations}
        for o in c.draft.setup.operations:
            if isinstance(o.figures, Drilling) and o.figures.through and o.id in done:
                out |= {art: max(THROUGH_EXTRA, o.figures.into) for art in o.on}
    return out


def _disc(g: HeightField, x: float, y: float, radius: float) -> tuple[slice, slice, NDArray[np.bool_]]:
    """Rows, columns, and which of their cells lie within a radius of a place of the board."""
    i0, i1 = (int(np.clip(np.rint((x + s * radius - g.x0) / g.cell) + (s > 0), 0, g.z.shape[1])) for s in (-1, 1))
    j0, j1 = (int(np.clip(np.rint((y + s * radius - g.y0) / g.cell) + (s > 0), 0, g.z.shape[0])) for s in (-1, 1))
    u, v = np.meshgrid(g.x0 + g.cell * np.arange(i0, i1), g.y0 + g.cell * np.arange(j0, j1))
    return slice(j0, j1), slice(i0, i1), np.hypot(u - x, v - y) <= radius


def _cut_here(c: Cuts) -> Near:
    """Whether a cutter goes deep near a place on the bed."""
    back, start = c.draft.placed.to_bed.inverse(), c.draft.start

    def near(x: float, y: float, radius: float) -> bool:
        if not c.operations:
            return False
        rows, columns, disc = _disc(start, *back.xy(x, y), radius)
        top, left = start.z[rows, columns], c.operations[-1].after.z[rows, columns]
        return bool((disc & (top - left > UNDER)).any())

    return near


def _cut_before(cuts: Sequence[Cuts], as_in: Cuts) -> Near:
    """Whether what was cut before, but for holes, goes through most of the wood near a place on the bed as it lay in one of them."""
    if not cuts:
        return lambda x, y, radius: False
    last = on_bed(as_in)

    def near(x: float, y: float, radius: float) -> bool:
        for c in cuts:
            there = last.inverse().then(on_bed(c)).then(c.draft.placed.to_bed.inverse())
            before = c.draft.start
            for op in c.operations:
                if not _drills(c, op) and _deep(before, op.after, *there.xy(x, y), radius):
                    return True
                before = op.after
        return False

    return near


def _drills(c: Cuts, op: PlannedCut) -> bool:
    return any(o.id == op.operation and isinstance(o.figures, Drilling) for o in c.draft.setup.operations)


def _deep(before: HeightField, after: HeightField, x: float, y: float, radius: float) -> bool:
    rows, columns, disc = _disc(before, x, y, radius)
    top, left = before.z[rows, columns], after.z[rows, columns]
    return bool((disc & (top - left > CUT) & (left < 0.5 * top)).any())


def _beside(now: PlannedSetup) -> Callable[[float, float, float], tuple[str, ...]]:
    """Names of holds that stand over a place on the bed."""

    def over(x: float, y: float, radius: float) -> tuple[str, ...]:
        disc = shapely.Point(x, y).buffer(radius)
        high = float(now.start.z.max())
        return tuple(dict.fromkeys(s.hold for s in now.solids if s.top > high and s.outline.intersects(disc)))

    return over
