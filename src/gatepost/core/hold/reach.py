# SPDX-License-Identifier: GPL-3.0-or-later
"""What no tool can reach because of the holds, and the usual ways of holding compared."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import shapely
from shapely.geometry import Polygon

from gatepost.core.errors import OperatorError
from gatepost.core.findings import Level
from gatepost.core.hold import suggest
from gatepost.core.hold.clearance import Section
from gatepost.core.hold.kind import HoldingInputs, HoldKinds
from gatepost.core.hold.margins import spans
from gatepost.core.hold.report import all_solids, kinds_in_words, margins
from gatepost.core.hold.solids import Solid
from gatepost.core.hold.together import span_places
from gatepost.core.job.base import changed
from gatepost.core.job.hold import Hold

SMOOTH = 8  # pieces to a quarter of a round: a hundredth of a shank's radius


def unreached(
    work: Polygon, tools: Sequence[Sequence[Section]], standing: Sequence[Solid], face: float, clearance: float
) -> shapely.Geometry:
    """Where on the face no tool's cutter can come for what stands on the bed, each part of it kept clear by a wish.

    work: the outline on the bed; tools: sections of each; face: height of the wood's face, mm.
    """
    left: shapely.Geometry = work
    for parts in tools:
        barred = [
            s.outline.buffer(p.radius + clearance, quad_segs=SMOOTH)
            for p in parts
            for s in standing
            if face + p.bottom < s.top + clearance and face + p.top > s.bottom - clearance
        ]
        if not barred:
            return Polygon()
        cutter = max(p.radius for p in parts if p.part == "cutter")
        around = work.buffer(cutter, quad_segs=SMOOTH)
        free = around.difference(shapely.union_all(barred))
        left = left.difference(free.buffer(cutter, quad_segs=SMOOTH))
        if left.is_empty:
            return left
    return left.buffer(-0.05).buffer(0.05)  # crumbs of rounding


@dataclass(frozen=True)
class Compared:
    """One way of holding beside the others. holds: in words; minutes: to set it; margin: the least over all operations,
    or nothing where nothing is cut; lost: area of the face that no tool reaches, mm²; why_not: where it can't be done; span:
    the longest free stretch of the edge, mm; places: the holds themselves; way: as it is called."""

    kind: str
    holds: str
    minutes: float
    margin: float | None
    lost: float
    why_not: str = ""
    span: float | None = None
    places: tuple[Hold, ...] = ()
    way: str = "As it is now"


def minutes_of(holds: Sequence[Hold], kinds: HoldKinds) -> float:
    """Time to set holds, minutes."""
    return sum(kinds[h.kind].minutes for h in holds) + sum(kinds[name].once for name in {h.kind for h in holds})


def compare(
    held: HoldingInputs, tools: Sequence[Sequence[Section]], face: float, count: int, clear_of: Sequence[Polygon],
    sound: Sequence[Polygon], progress: suggest.Progress | None = None,
) -> list[Compared]:  # fmt: skip
    """As it is now, and as many straps, edge clamps or screws in their best places, and tape and glue. Raises Cancelled."""
    out = [_compared(held, "as it is", held.setup.holds, tools, face)]
    kinds = [name for name, kind in held.kinds.items() if kind.compared]
    for number, kind in enumerate(kinds):

        def share(done: float, number: int = number) -> bool:
            return progress is None or progress((number + done) / len(kinds))

        try:
            if held.kinds[kind].by in ("under", "walls"):
                holds: tuple[Hold, ...] = tuple(held.kinds[kind].tries(held, None))
            else:
                holds = suggest.places(held, kind, count, clear_of, sound, share).holds
        except OperatorError as error:
            out.append(Compared(kind, "", 0.0, None, 0.0, str(error), way=held.kinds[kind].compared))
            continue
        told = replace(_compared(held, kind, holds, tools, face), way=held.kinds[kind].compared)
        out.append(replace(told, why_not=_can_not(held, holds)))
    return out


def _can_not(held: HoldingInputs, holds: tuple[Hold, ...]) -> str:
    """Why holds can't stand so, by the first of them that can't, or nothing."""
    one = replace(held, setup=changed(held.setup, holds=holds), gaps=())
    stops = (f for h in holds for f in one.kind(h).checks(one, h) if f.level is Level.STOP)
    return next((f.message for f in stops), "")


def _compared(
    held: HoldingInputs, kind: str, holds: tuple[Hold, ...], tools: Sequence[Sequence[Section]], face: float
) -> Compared:
    one = replace(held, setup=changed(held.setup, holds=holds), gaps=())
    done = margins(one)
    least = min((e.least.result for e in done), default=None)
    lost = unreached(held.work, tools, all_solids(one), face, held.rules.clearance)
    free = spans(held.work, span_places(one))
    span = free[0].length if free else None
    return Compared(
        kind, kinds_in_words(holds, held.kinds), minutes_of(holds, held.kinds), least, float(lost.area), "", span, holds
    )
