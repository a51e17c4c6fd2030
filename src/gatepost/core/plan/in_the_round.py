# SPDX-License-Identifier: GPL-3.0-or-later
"""Reliefs on both faces that lie over one another: their floors held against each other, and what both free together."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry import Polygon

from gatepost.core.cache import SMALL
from gatepost.core.carve.relief_report import depth_of
from gatepost.core.carve.target import corners, target_of
from gatepost.core.carve.two_reliefs import (
    LEAST,
    as_bridges,
    bridge_places,
    bridges_of,
    from_behind,
    heights,
    relief_art,
)
from gatepost.core.findings import Finding, Fix, Place
from gatepost.core.geometry.outline import Area
from gatepost.core.job.operation import Artwork, Operation
from gatepost.core.job.relief import MOST_BRIDGES, Relief
from gatepost.core.job.turning import OPPOSITE
from gatepost.core.plan.cuts import Cuts, cutting_of, grips_of
from gatepost.core.plan.known import PlanInputs, heavy
from gatepost.core.plan.planned import PlannedCut
from gatepost.core.register.kind import ComingTold
from gatepost.core.register.reliefs import OneRelief, TwoReliefs, told
from gatepost.core.wood import loose
from gatepost.core.wood.between import underside
from gatepost.core.wood.field import OUTSIDE, HeightField

CELL = 0.5  # mm of the grid that outlines are compared on
STANDS = 0.2  # mm over its floor from which a relief's figure is told
MOST_LOOSE = 6  # pieces that get bridges at once
Mask = NDArray[np.bool_]


@dataclass(frozen=True)
class Facing:
    """Two reliefs that lie over one another. area: where, as the board lies in the later's setup."""

    earlier: Cuts
    later: Cuts
    one: Operation
    other: Operation
    art: Artwork
    behind: Artwork
    area: Area

    @property
    def meets(self) -> bool:
        """Whether they are to meet in the middle of the wood."""
        return any(isinstance(o.figures, Relief) and (o.figures.meets or o.figures.bridges) for o in (self.one, self.other))  # fmt: skip

    @property
    def scallops(self) -> float:
        """Combs that both may leave where they meet, mm: they hold nothing."""
        return sum(o.figures.scallop for o in (self.one, self.other) if isinstance(o.figures, Relief))


def facing(k: PlanInputs, cuts: Sequence[Cuts]) -> list[Facing]:
    """Every two reliefs on opposite faces that lie over one another, both carved."""
    out: list[Facing] = []
    for n, c in enumerate(cuts):
        for b in cuts[:n]:
            if b.draft.laid.up != OPPOSITE[c.draft.laid.up]:
                continue
            for other, art in _reliefs(c):
                for one, behind in _reliefs(b):
                    seen = from_behind(k.job.blank, b.draft.laid.up, corners(behind, heights(behind)))
                    over = Polygon(corners(art, heights(art))).intersection(Polygon(seen))
                    if over.area > 0.0:
                        out.append(Facing(b, c, one, other, art, behind, c.draft.pose.area(over)))
    return out


def _reliefs(c: Cuts) -> list[tuple[Operation, Artwork]]:
    done = {op.operation for op in c.operations}
    arts = [(o, relief_art(c.draft.known.job, o)) for o in c.draft.setup.operations if o.id in done]
    return [(o, a) for o, a in arts if a is not None]


def reliefs_told(k: PlanInputs, found: Sequence[Facing]) -> ComingTold:
    """What there is to say of all of them."""
    each = [told(_seen(k, f)) for f in found]
    return ComingTold(tuple(x for t in each for x in t.figures), tuple(x for t in each for x in t.findings))


def _seen(k: PlanInputs, f: Facing) -> TwoReliefs:
    c, b = f.later.draft, f.earlier.draft
    over = b.carried.inverse().then(c.carried).rows[2]
    floors = (_of(f.one, f.behind, f.earlier), _of(f.other, f.art, f.later))
    was, now = b.site.face, c.site.face
    there = [over[2] * z + over[3] for z in (was, was - floors[0].deep)]
    whole = now - there[0]
    flat = {one.draft.laid.up for one in (f.earlier, f.later) if one.draft.laid.flattens}
    thinnest, thickest = (whole, whole) if flat else (k.thickness.least, k.thickness.greatest)
    comes = c.setup.comes
    bounds = k.kinds.registers[comes.kind].bounds(k.job, c.setup) if comes is not None else None
    faces = (f.earlier.draft.laid.up, f.later.draft.laid.up)
    apart, aside = k.memory.get("outlines", (f.art, f.behind, *faces, k.job.blank), lambda: _outlines(k, f), SMALL)
    middle = f.area.centroid
    x, y = c.placed.to_bed.xy(*c.pose.xy(*k.job.blank.middle))
    places = [c.placed.to_bed.xy(float(u), float(v)) for u, v in shapely.get_coordinates(f.area)]
    return TwoReliefs(
        *floors, f.meets, now - floors[1].deep - there[1], whole, thinnest, thickest, apart, aside, bounds,
        max(math.dist(p, (x, y)) for p in places), len(bridges_of(k.job, c.setup, f.art)), Place(*c.placed.to_bed.xy(middle.x, middle.y), now, 20.0),
    )  # fmt: skip


def _of(o: Operation, art: Artwork, c: Cuts) -> OneRelief:
    figures = heights(art)
    deepest = "black" if figures.black >= figures.white else "white"
    name = o.name if o.name.lower() != "relief" else f"relief of {c.draft.setup.title or c.draft.setup.name}"
    return OneRelief(name, c.draft.setup.name, o.id, art.id, deepest, depth_of(figures), min(figures.black, figures.white), c.draft.setup.zero.z)  # fmt: skip


def _outlines(k: PlanInputs, f: Facing) -> tuple[float, tuple[float, float] | None]:
    """How far the outlines of two lie beside each other, mm, and where the later's middle is to stand so that it is less than half of that."""
    corner = np.vstack([corners(f.art, heights(f.art)), from_behind(k.job.blank, f.earlier.draft.laid.up, corners(f.behind, heights(f.behind)))])  # fmt: skip
    (x0, y0), (x1, y1) = corner.min(axis=0) - 2.0, corner.max(axis=0) + 2.0
    cell = max(CELL, math.sqrt((x1 - x0) * (y1 - y0) / 1e6))
    u, v = np.meshgrid(np.arange(x0, x1, cell), np.arange(y0, y1, cell))
    places = np.column_stack([u.ravel(), v.ravel()])
    mine = _figure(f.art, places, cell).reshape(u.shape)
    theirs = _figure(f.behind, from_behind(k.job.blank, f.later.draft.laid.up, places), cell).reshape(u.shape)
    apart = _beside(mine, theirs, cell)
    if apart <= 0.0 or not mine.any() or not theirs.any():
        return apart, None
    dx, dy = (float(a[theirs].mean() - a[mine].mean()) for a in (u, v))
    moved = _figure(f.art, places - [dx, dy], cell).reshape(u.shape)
    aside = (f.art.x + dx, f.art.y + dy) if _beside(moved, theirs, cell) < 0.5 * apart else None
    return apart, aside


def _figure(art: Artwork, places: NDArray[np.float64], cell: float) -> Mask:
    """Where a relief stands over its floor, of places of its face."""
    t = target_of(art, 0.0, cell, 0.0, False)
    i, j = (np.rint((places[:, n] - c) / cell).astype(int) for n, c in ((0, t.x0), (1, t.y0)))
    on = (i >= 0) & (j >= 0) & (i < t.z.shape[1]) & (j < t.z.shape[0])
    out = np.zeros(len(places), np.bool_)
    out[on] = (t.asked & (t.z > STANDS - depth_of(heights(art))))[j[on], i[on]]
    return out


def _beside(one: Mask, other: Mask, cell: float) -> float:
    """How far cells of one of two lie from the other at the most, mm; two cells of it are how they are told."""
    import cv2

    if not one.any() or not other.any():
        return 0.0
    far = 0.0
    for a, b in ((one, other), (other, one)):
        away = cv2.distanceTransform((~b).astype(np.uint8), cv2.DIST_L2, cv2.DIST_MASK_PRECISE)
        far = max(far, float(away[a].max()) * cell)
    return max(0.0, far - 2.0 * cell)


def thick(c: Cuts, after: HeightField, b: Cuts, less: float = 0.0) -> HeightField:
    """How thick the wood is over a later setup's board, with what an earlier one took out of the opposite face. less: what is not counted on, mm."""
    rows, columns = np.nonzero(after.wood)
    places = np.column_stack([after.x0 + columns * after.cell, after.y0 + rows * after.cell])
    under = np.nan_to_num(underside(c.draft.carried, b.draft.carried, b.operations[-1].after, places))
    z = np.full(after.z.shape, OUTSIDE, np.float32)
    z[rows, columns] = np.maximum(after.z[rows, columns] - under - less, 0.0)
    return HeightField(z, after.x0, after.y0, after.cell)


def freed(k: PlanInputs, found: Sequence[Facing], said: Sequence[Finding]) -> list[Finding]:
    """What two reliefs that meet free together, and what hangs by too little, after each cut of the later. said: of each setup by itself."""
    known = {(f.code, f.setup, f.about) for f in said}
    out: list[Finding] = []
    for f in found:
        if not f.meets:
            continue
        c = f.later
        bears, to_bed = grips_of(c.draft, k.memory), c.draft.placed.to_bed
        rules = k.job.holding
        fixes = _bridges(k, f)
        for op in c.operations:
            piece = next(p for p in c.draft.pieces if p.name == op.name)
            left, apart = _apart(k, f, op)
            cutting = cutting_of(c.draft, piece, op)
            for one in loose.loose(left, apart, bears, cutting, to_bed, rules.tab_shear, rules.skin):
                if (one.code, one.setup, one.about) not in known:
                    known.add((one.code, one.setup, one.about))
                    out.append(replace(one, fixes=fixes))
    return out


def _apart(k: PlanInputs, f: Facing, op: PlannedCut) -> tuple[HeightField, loose.Pieces]:
    """How thick the wood is once one cut of the later is done, and the pieces that it has come to."""
    c, b = f.later, f.earlier
    key = (c.keys[op.name], b.keys[b.operations[-1].name], c.draft.carried, b.draft.carried, f.scallops)

    def each() -> tuple[HeightField, loose.Pieces]:
        left = thick(c, op.after, b, f.scallops)
        return left, loose.separate(left)

    return k.memory.get("thick", key, each, heavy(op.after.z.size))


def _bridges(k: PlanInputs, f: Facing) -> tuple[Fix, ...]:
    """As many bridges as bear twice the peak push, round whatever nothing holds once both are carved; or one more than there are."""
    figures, c = f.other.figures, f.later
    assert isinstance(figures, Relief)
    left, apart = _apart(k, f, c.operations[-1])
    if apart.thick_numbers is None:
        return ()
    held = loose.held_by(left, apart.thick_numbers, grips_of(c.draft, k.memory))
    held = held or {1: {}}  # with no holds set yet, the largest is what will be held
    free = [n for n in range(1, len(apart.thick) + 1) if n not in held][:MOST_LOOSE]
    if not free:
        return ()
    peak = max(op.push * op.peak for op in c.operations)
    bears = figures.bridge_wide * figures.bridge_high * k.job.holding.tab_shear
    there = len(figures.bridges) // len(free)
    count = max(LEAST + 1, math.ceil(loose.HANGING * peak / bears), there + 1)
    firm = np.isin(apart.thick_numbers, list(held))
    made: list[dict[str, float]] = []
    for n in free:
        ends = bridge_places(left.z, apart.thick_numbers == n, firm, left.cell, count, figures.bridge_wide, figures.bridge_high)  # fmt: skip
        on_board = [np.array([left.x0, left.y0]) + left.cell * e for e in ends]
        made += as_bridges(f.art, [np.array([c.draft.pose.inverse().xy(*map(float, p)) for p in e]) for e in on_board])
    if not made or len(made) > MOST_BRIDGES:
        return ()
    return (Fix("set operation", {"operation": f.other.id, "bridges": tuple(made)}, f"Leave {len(made)} bridges"),)
