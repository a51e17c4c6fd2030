# SPDX-License-Identifier: GPL-3.0-or-later
"""Tabs of a piece that is laid back, turned over, into its frame: where what is left of them is in nobody's way.

A tab breaks about the middle of the slot, where the cutter's round ends have left it narrowest, and a stub stays on either side. Beside a low rim the turned
piece has all of the slot and more, beside a high one nothing but its play; so of two stubs one is always in the way, but for the round of the slot about a
riser's corner, where both have room. Nothing of that is taken for granted: each place is tried as the wood that the cutter leaves there, both its
stubs, the piece turned over.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Any

import numpy as np
import shapely
from numpy.typing import NDArray

from gatepost.core.register.step_nest import Share, StepNest, laid

Array = NDArray[np.float64]
STUB = 0.6  # of the slot that a stub may be long, on either side: a tab breaks within a tenth of the slot's middle
SPARE = 0.05  # mm more than its play that the piece keeps from a stub
CRUSHED = 0.1  # mm: a stub runs out to nothing along the rim, and what is thinner than that is crushed
STEP = 0.5  # mm from one place that is tried to the next
NARROWEST = 1.5  # mm: a tab narrower than that is a splinter
ABOUT, FINER = 1.0, 0.5  # mm either side of a place, and from one to the next, where stretches are looked for
WIDTHS = (8.0, 6.0, 5.0, 4.0, 3.5, 3.0, 2.5, 2.0, NARROWEST)  # mm


@dataclass(frozen=True)
class NestTabs:
    """Where tabs may stand. nest: as it will be cut; slot: as wide as it is, tool: mm across; loop: the cutter's middle line, closed, (n, 2); more: than its play that the piece keeps from a
    stub, mm."""

    nest: StepNest
    slot: float
    tool: float
    loop: Array
    more: float = SPARE

    @cached_property
    def along(self) -> Array:
        """How far along the line each of its corners is, mm."""
        return np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(self.loop, axis=0).T))])

    @property
    def whole(self) -> float:
        """Once round, mm."""
        return float(self.along[-1])

    @cached_property
    def _turned(self) -> Any:
        return self._over(self.nest.piece)

    def _over(self, area: Any) -> Any:
        """What is fast to the piece once that is turned over into its frame."""
        asked = self.nest.asked
        return shapely.affinity.translate(laid(area, asked.way, self.nest.middle), *asked.at)

    @property
    def _spare(self) -> float:
        return math.hypot(*self.nest.asked.play) / 2.0 + self.more

    def stubs(self, at: float, wide: float) -> tuple[Any, Any]:
        """What is left of a tab on the piece and on the frame, broken where it may be. at: of its middle along the line, wide: of it, mm."""
        half = (wide + self.tool) / 2.0
        reach = half + self.slot
        x, y = self.place(at)
        here = shapely.box(x - reach, y - reach, x + reach, y + reach)
        swept = shapely.MultiLineString([self._line(at + half, at + half + 3.0 * reach), self._line(at - half - 3.0 * reach, at - half)])  # fmt: skip
        cut = swept.buffer(self.tool / 2.0 + abs(self.slot - self.tool))
        left = self._slot.intersection(here).difference(cut)
        parts = [p for p in shapely.get_parts(left) if p.geom_type == "Polygon"]
        tab = min(parts, key=lambda p: p.distance(shapely.Point(x, y)), default=shapely.Polygon())
        near, far = self._broken
        tab = tab.buffer(-CRUSHED / 2.0).buffer(CRUSHED / 2.0)
        return tab.intersection(near), tab.difference(far)

    @cached_property
    def _slot(self) -> Any:
        slot = self.nest.hole.difference(self.nest.piece)
        shapely.prepare(slot)
        return slot

    @cached_property
    def _broken(self) -> tuple[Any, Any]:
        """How far out stubs of the piece reach, and from where on those of the frame."""
        near, far = (self.nest.piece.buffer(s * self.slot) for s in (STUB, 1.0 - STUB))
        return near, far

    def _line(self, a: float, b: float) -> shapely.LineString:
        """The middle line from one place along it to another, which may lie past its start."""
        b = min(b, a + 0.9 * self.whole)
        rounds = [self.along[:-1] + k * self.whole for k in (-1, 0, 1, 2)]
        corners = np.tile(self.loop[:-1], (4, 1))
        at = np.concatenate(rounds)
        between = (at > a) & (at < b)
        return shapely.LineString(np.vstack([self.place(a), corners[between], self.place(b)]))

    def place(self, at: float) -> tuple[float, float]:
        """So far along the line."""
        x, y = (float(np.interp(at % self.whole, self.along, self.loop[:, k])) for k in (0, 1))
        return x, y

    def may_stand(self, at: float, wide: float) -> bool:
        """Whether neither stub of a tab is in the turned piece's way."""
        mine, theirs = self.stubs(at, wide)
        if mine.is_empty or theirs.is_empty:
            return False
        turned = self._over(mine)
        fits = self.nest.hole.covers(turned) and turned.distance(self.nest.hole.exterior) >= self._spare
        if not fits or self._turned.distance(theirs) < self._spare:
            return False
        return bool(turned.distance(theirs) >= self._spare)  # on the flip line a tab's own stubs meet

    def places(self, wide: float, step: float = STEP, on: Share = lambda share: None) -> Array:
        """All places along the line at which a tab so wide may stand, mm. step: from one that is tried to the next; on: hears how far it is."""
        tries = self._free(np.arange(0.0, self.whole, step))
        return np.array(self._good(tries, wide, on), np.float64)

    def _good(self, tries: Array, wide: float, on: Share) -> list[float]:
        """Those of some places at which a tab may stand."""
        out: list[float] = []
        for n, t in enumerate(tries):
            on(n / len(tries))
            out += [float(t)] if self.may_stand(float(t), wide) else []
        return out

    def _free(self, at: Array) -> Array:
        """Those of some places along the line at which the middle of the slot, which both stubs reach, is in nobody's way."""
        middles = shapely.points([self.place(float(t)) for t in at])
        over = np.array([self._over(m) for m in middles])
        inside = shapely.contains(self.nest.hole, over) & (
            shapely.distance(over, self.nest.hole.exterior) >= self._spare
        )
        return np.asarray(at[inside & (shapely.distance(self._turned, middles) >= self._spare)])

    def together(self, at: Sequence[float], wide: float) -> bool:
        """Whether tabs are in nobody's way, each other's stubs among them."""
        each = [self.stubs(a, wide) for a in at]
        over = shapely.union_all([self._over(mine) for mine, _ in each])
        frames = shapely.union_all([theirs for _, theirs in each])
        return all(self.may_stand(a, wide) for a in at) and bool(over.distance(frames) >= self._spare)

    def apart(self, one: float, other: float) -> float:
        """How far two places along the line are from each other, along it, mm."""
        return abs((one - other + self.whole / 2.0) % self.whole - self.whole / 2.0)

    def windows(self, wide: float, near: Array, on: Share = lambda share: None) -> list[float]:
        """Middles of the stretches of the line in which a tab so wide may stand. near: places about which they are looked for, mm; on: hears how far it is."""
        tries = np.unique(np.round((near[:, None] + np.arange(-ABOUT, ABOUT + FINER, FINER)[None, :]).ravel() % self.whole, 3))  # fmt: skip
        good = self._good(self._free(tries), wide, on)
        runs: list[list[float]] = []
        for t in good:
            if runs and t - runs[-1][-1] < 1.5 * STEP:
                runs[-1].append(t)
            else:
                runs.append([t])
        if len(runs) > 1 and runs[0][0] + self.whole - runs[-1][-1] < 1.5 * STEP:  # the line's start lies in one
            runs[0] = [t - self.whole for t in runs.pop()] + runs[0]
        return [(0.5 * (run[0] + run[-1])) % self.whole for run in runs]


def by_risers(
    tabs: NestTabs, count: int, wide: float, on: Share = lambda share: None
) -> tuple[float, tuple[tuple[float, float], ...]]:
    """How wide tabs may be by the risers, and the places of as many as are as strong together as so many that are so wide; all there are where that
    is fewer; none where none may stand. count, wide: that are wanted, of how many mm each; on: hears how far it is, 0 to 1, and ends it by what it raises."""
    rough = tabs.places(NARROWEST, 1.0, lambda share: on(0.3 * share))
    best: tuple[float, list[float]] = (0.0, [])
    widths = [w for w in WIDTHS if w <= max(wide, NARROWEST)] if len(rough) else []
    for i, one in enumerate(widths):
        found = tabs.windows(one, rough, lambda share, i=i: on(0.3 + 0.7 * (i + share) / len(widths)))  # type: ignore[misc]
        if one * len(found) > best[0] * len(best[1]):
            best = (one, found)
        if one * len(found) >= count * wide:
            break
    width, free = best
    chosen: list[float] = []
    while free and len(chosen) < math.ceil(count * wide / width - 1e-9):
        farthest = max(free, key=lambda t: min((tabs.apart(t, c) for c in chosen), default=0.0))
        free = [t for t in free if t != farthest]
        if tabs.together([*chosen, farthest], width):
            chosen.append(farthest)
    return width, tuple(tabs.place(t) for t in sorted(chosen))
