# SPDX-License-Identifier: GPL-3.0-or-later
"""Holds on what was carved before: what presses on it, what has nothing under it, and what has nothing to stick to."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any

import numpy as np
from numpy.typing import NDArray
from shapely.geometry import Polygon

from gatepost.core.findings import Finding, Level, Place
from gatepost.core.frames import Bed, BlankFrame, Board, Matrix
from gatepost.core.geometry.raster import inside
from gatepost.core.hold.kind import STAGE, HoldKinds
from gatepost.core.job.hold import Hold
from gatepost.core.job.turning import FACES, OPPOSITE
from gatepost.core.plan.cuts import Cuts
from gatepost.core.plan.planned import PlannedSetup
from gatepost.core.plan.result import Plan
from gatepost.core.units import area_words
from gatepost.core.wood.arris import CUT
from gatepost.core.wood.between import underside
from gatepost.core.wood.field import HeightField

Array = NDArray[Any]
LEAST = 4.0  # mm² of what is carved under a hold that are told


def pressed(c: Cuts, before: Sequence[Cuts]) -> list[Finding]:
    """Of each hold of a setup that presses on the top or sticks to the underside. before: the setups that come before it."""
    d = c.draft
    down = _down(c, before)
    said: list[Finding] = []
    for hold in d.setup.holds:
        by = d.known.kinds.holds[hold.kind].by
        if by not in ("top", "under"):
            continue
        rows, columns = np.nonzero(_under(c, hold))
        if not len(rows):
            continue
        places, hollow = _hollow(c, down, rows, columns)
        carved = d.uncut.z[rows, columns] - d.start.z[rows, columns] > CUT if by == "top" else np.zeros_like(hollow)
        said += _told(c, hold, by, places, hollow, carved)
    return said


Hollow = Callable[
    [Array, Array], Array
]  # of rows and columns of a board, over which of those cells its underside was carved


def hollow_under(c: Cuts, before: Sequence[Cuts]) -> Hollow | None:
    """Where the underside of a board was carved; nothing where it was not. before: the setups that come before."""
    down = _down(c, before)
    return (lambda rows, columns: _hollow(c, down, rows, columns)[1]) if down else None


def hollow_in(plan: Plan, planned: PlannedSetup) -> Hollow | None:
    """The same of a setup as it was planned."""
    down = OPPOSITE[planned.setup.up]
    before = plan.setups[: plan.setups.index(planned)]
    carved = [s for s in before if s.setup.up == down and s.operations and not s.flattens]
    if not carved:
        return None
    fields = (carved[0].start, carved[-1].operations[-1].after)
    return lambda rows, columns: _lower(planned.start, planned.carried, carved[-1].carried, fields, rows, columns)[1]


def sticking(
    kinds: HoldKinds, to_bed: Matrix[Board, Bed], start: HeightField, hollow: Hollow | None
) -> Callable[[Hold], float]:
    """Of a hold, the share that has wood to stick to. start: the board."""

    def share(hold: Hold) -> float:
        if hollow is None or kinds[hold.kind].by != "under":
            return 1.0
        patch = to_bed.inverse().area(kinds[hold.kind].covers(hold, []))
        x0, y0, x1, y1 = patch.bounds
        high, long = start.z.shape
        i0, i1 = (int(np.clip(round((v - start.x0) / start.cell) + more, 0, long)) for v, more in ((x0, -1), (x1, 2)))
        j0, j1 = (int(np.clip(round((v - start.y0) / start.cell) + more, 0, high)) for v, more in ((y0, -1), (y1, 2)))
        if i1 <= i0 or j1 <= j0:
            return 1.0
        mine = inside(patch, start.x0 + i0 * start.cell, start.y0 + j0 * start.cell, start.cell, j1 - j0, i1 - i0)
        rows, columns = np.nonzero(mine & start.wood[j0:j1, i0:i1])
        return 1.0 - float(hollow(rows + j0, columns + i0).mean()) if len(rows) else 1.0

    return share


def _down(c: Cuts, before: Sequence[Cuts]) -> list[Cuts]:
    """Setups before one in which what lies on the bed now was carved."""
    down = OPPOSITE[c.draft.laid.up]
    return [b for b in before if b.draft.laid.up == down and b.operations and not b.draft.laid.flattens]


def _hollow(c: Cuts, down: Sequence[Cuts], rows: Array, columns: Array) -> tuple[Array, Array]:
    """Places of some cells of a board, (n, 2), and over which of them its underside was carved."""
    d = c.draft
    if not down:
        places = np.column_stack([d.start.x0 + columns * d.start.cell, d.start.y0 + rows * d.start.cell])
        return places, np.zeros(len(places), np.bool_)
    other = down[-1]
    fields = (other.draft.uncut, other.operations[-1].after)
    return _lower(d.start, d.carried, other.draft.carried, fields, rows, columns)


def _lower(
    start: HeightField, lies: Matrix[BlankFrame, Board], lay: Matrix[BlankFrame, Board], fields: tuple[HeightField, HeightField], rows: Array, columns: Array
) -> tuple[Array, Array]:  # fmt: skip
    """The same by the opposite face before and after it was carved. lies, lay: from the blank's own frame to the board's, now and then."""
    places = np.column_stack([start.x0 + columns * start.cell, start.y0 + rows * start.cell])
    was, now = (underside(lies, lay, f, places) for f in fields)
    return places, np.asarray(now - was > CUT)


def _under(c: Cuts, hold: Hold) -> np.ndarray:
    """Which cells of the board a hold presses on, or sticks to."""
    d = c.draft
    kind, work = d.known.kinds.holds[hold.kind], d.placed.to_bed.area(d.known.wood.outline)
    patch = (
        kind.covers(hold, [])
        if kind.by == "under"
        else kind.bearing(hold, work if isinstance(work, Polygon) else work.convex_hull)
    )
    there = d.placed.to_bed.inverse().area(patch)
    return np.asarray(inside(there, d.start.x0, d.start.y0, d.start.cell, *d.start.z.shape) & d.start.wood)


def _told(c: Cuts, hold: Hold, by: str, places: np.ndarray, hollow: np.ndarray, carved: np.ndarray) -> list[Finding]:
    d = c.draft
    cell, up, down = d.start.cell**2, FACES[d.laid.up], FACES[OPPOSITE[d.laid.up]]
    said: list[Finding] = []
    for where, words in (
        (carved, f"{hold.name} presses on what is carved on the {up}, over {{}}: pad it, or move the hold."),
        (hollow, f"{hold.name} has nothing to stick to over {{}}, where the {down} is carved: only the rest of it is counted."
         if by == "under" else f"Under {hold.name} the {down} is carved, over {{}}: nothing bears there, so pack it or move the hold."),
    ):  # fmt: skip
        area = float(where.sum()) * cell
        if area >= LEAST:
            x, y = places[where].mean(axis=0)
            place = Place(*d.placed.to_bed.xy(float(x), float(y)), 0.0, 20.0)
            said.append(
                Finding(
                    "hold.on-carved",
                    Level.CARE,
                    STAGE,
                    words.format(area_words(area)),
                    d.setup.name,
                    place=place,
                    about=hold.name,
                )
            )
    return said
