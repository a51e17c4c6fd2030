# SPDX-License-Identifier: GPL-3.0-or-later
"""A relief from what is asked of it to the cuts that make it: layers, then rows by balls, each where more than the scallop asked for still stands."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from gatepost.core.carve.relief_paths import Follow, Stretch, closely, roughly, spans
from gatepost.core.carve.sunk_moves import Heights, floors
from gatepost.core.carve.target import (
    CutterUnderside,
    Grid,
    LaidBridge,
    Mask,
    Target,
    corners,
    left_by,
    lifted,
    target_of,
    underside,
)
from gatepost.core.job.base import changed
from gatepost.core.job.operation import Artwork
from gatepost.core.job.relief import HeightsFigures, Relief
from gatepost.core.job.tool import Tool
from gatepost.core.motion import Moves
from gatepost.core.profile import BALLS, MILLS, ball_radius
from gatepost.core.wood.field import HeightField, cut, cutter_of

CELL = 0.196  # mm: under 0.2, and no cell lies just a usual cutter's radius from another, where its side is upright
FINEST = 0.098  # mm: of a small relief
SMALL_AREA = 4000.0  # mm² up to which cells are as fine as that
THIN, THIN_AREA = 1.6, 16_000.0  # mm: balls thinner than that have them up to so many mm²
FIRST_LOOK = 40_000  # cells
MOST_CELLS = 12_000_000  # of a relief over 680 mm square: larger ones get a coarser grid, and it is said
FIRST_SHARE = 0.8  # of the scallop by which rows are laid out at first: slopes want more
NEVER = np.float32(1e9)  # mm: where a tip does not go
LEAST = 0.003  # mm that rows are not told by
ALONG = 20.0  # mm of a row that a ball goes on along rather than fly over: up, across and down again take as long
SCANS = 200_000_000  # looks about a cell that are worth while


@dataclass(frozen=True)
class Relieving:
    """What is carved. figures: how; art: the height picture; bridges: its own, and those of the relief behind it."""

    figures: Relief
    art: Artwork
    bridges: tuple[LaidBridge, ...] = ()


@dataclass(frozen=True, eq=False)
class ReliefStep:
    """What one tool does. deepest: that it takes at once, mm."""

    tool: Tool
    moves: Moves
    deepest: float


@dataclass(frozen=True, eq=False)
class Relieved:
    """A relief made. target: asked; steps: tool by tool; reached: what the last ball leaves where it goes everywhere, over the target's cells; missed: what no
    ball of the list gets into, mm², deep: by how much at most, mm."""

    target: Target
    steps: tuple[ReliefStep, ...]
    reached: Grid
    missed: float
    deep: float


def cell_of(art: Artwork, balls: Sequence[Tool], times: float) -> float:
    """Of the grid that a relief is worked out on, mm. times: coarser by as much, for a first look."""
    (x0, y0), (x1, y1) = (f(corners(art, _heights(art)), axis=0) for f in (np.min, np.max))
    area = float((x1 - x0) * (y1 - y0))
    thin = min((2.0 * ball_radius(b) for b in balls), default=THIN) < THIN
    fine = max(FINEST if area <= (THIN_AREA if thin else SMALL_AREA) else CELL, math.sqrt(area / MOST_CELLS))
    return fine if times <= 1.0 else max(fine, math.sqrt(area / FIRST_LOOK))


def _heights(art: Artwork) -> HeightsFigures:
    assert isinstance(art.figures, HeightsFigures)
    return art.figures


def in_order(tools: tuple[Tool, ...]) -> tuple[list[Tool], list[Tool]]:
    """End mills and balls, the largest first."""
    big = sorted(tools, key=lambda t: (-ball_radius(t) if t.kind in BALLS else 0.0, -t.diameter))
    return [t for t in big if t.kind in MILLS], [t for t in big if t.kind in BALLS]


def scallop(radius: float, step: float) -> float:
    """Left standing between two rows of a ball on the flat, mm: R − √(R² − s²/4)."""
    return radius - math.sqrt(max(radius * radius - step * step / 4.0, 0.0))


def row_step(radius: float, height: float) -> float:
    """Rows of a ball that leave so much on the flat, mm: the scallop's formula the other way round."""
    return 2.0 * math.sqrt(max(2.0 * radius * height - height * height, 0.0)) if height < radius else 2.0 * radius


def relieved(
    r: Relieving, tools: tuple[Tool, ...], at: Heights, cell: float, once: bool, each: Callable[[str], None]
) -> Relieved:
    """A relief made, tool by tool. once: only the first rows of each, for a first look; each: called before each layer and each round of rows with the tool's name; what it raises
    ends it."""
    figures = r.figures
    mills, balls = in_order(tools)
    widest = max(t.diameter for t in tools) / 2.0
    free = figures.around == "free"
    target = target_of(r.art, at.face, cell, (2.0 if free else 1.0) * widest, free, r.bridges)
    across = figures.way == "y"
    target = target.across() if across else target
    work = _Work(figures, target, at, across, np.full(target.z.shape, np.float32(at.highest)), each)
    steps: list[ReliefStep] = []
    if not target.asked.any():
        mills, balls = [], []
    for mill in mills:
        steps.append(work.layered(mill))
    for ball in balls:
        steps.append(work.finished(ball, once))
    missed = work.reached - target.z > figures.scallop + LEAST
    missed &= target.asked
    deep = float((work.reached - target.z)[missed].max()) if missed.any() else 0.0
    area = float(missed.sum()) * cell * cell
    reached = np.ascontiguousarray(work.reached.T) if across else work.reached
    return Relieved(target.across() if across else target, tuple(steps), reached, area, deep)


@dataclass
class _Work:
    """The wood on the target's cells, and what has been done to it. Rows run along X of its own frame."""

    figures: Relief
    target: Target
    at: Heights
    across: bool
    wood: Grid
    each: Callable[[str], None]
    reached: Grid = field(init=False)
    bite: float = 0.0  # the deepest that the tool in hand took at once

    def __post_init__(self) -> None:
        self.reached = self.wood

    @property
    def _rows(self) -> NDArray[np.int64]:
        return np.arange(self.target.z.shape[0], dtype=np.int64)

    def layered(self, mill: Tool) -> ReliefStep:
        """An end mill, layer by layer, less what it leaves for the balls."""
        follow = Follow(mill, self.at, self.target, self._rough, self.across)
        step = max(1, math.floor(self.figures.layer_step * mill.diameter / self.target.cell))
        self.bite = 0.0
        self._layers(follow, mill, step, self.target.asked)
        return ReliefStep(mill, follow.moves(), self.bite)

    def finished(self, ball: Tool, once: bool) -> ReliefStep:
        """A ball along rows, closer where more than asked for still stands; first in layers where it would take more than it may at once."""
        t, cell, radius = self.target, self.target.cell, ball.diameter / 2.0
        tip = ball_radius(ball)
        under = underside(ball, cell)
        tips = np.maximum(lifted(t.z, under, self._rows), np.float32(t.lowest))
        reached = self.reached = left_by(tips, under)
        follow = Follow(ball, self.at, t, t.z, self.across)
        wish = np.float32(self.figures.scallop + LEAST)
        self.bite = 0.0
        step = 2 * max(1, math.floor(self.figures.layer_step * ball.diameter / cell))
        free = self.figures.around == "free"
        within = left_by(np.where(t.asked, tips, NEVER), under) if free else np.where(t.asked, reached, self.wood)
        while (deep := self.wood - within > ball.pass_depth).any() and step > 1:
            step //= 2  # closer beside walls, until no strip stands there that is too deep for one pass
            self._layers(follow, ball, step, t.asked & _about(deep, radius, cell))
        step = max(1, math.floor(row_step(tip, FIRST_SHARE * self.figures.scallop) / cell))
        first = True
        while True:
            stands = self._over(reached) > wish
            if not stands.any() or (once and not first):
                break
            self.each(f"relief T{ball.number}")
            needed = self._from(stands, tips, under, radius, first)
            todo = self._stretches(ball, needed, step)
            self._opened(follow, ball, todo, step)
            follow.go(self._lines(ball, tips, todo), step, self.wood)
            self._sweep(ball, follow)
            if step == 1 and not first:
                break
            step, first = max(1, step // 2), False
        return ReliefStep(ball, follow.moves(), self.bite)

    @property
    def _rough(self) -> Grid:
        """What is asked, and what is left on it for the balls."""
        return self.target.z + np.float32(self.figures.left)

    def _opened(self, follow: Follow, ball: Tool, todo: list[tuple[int, int, int]], step: int) -> None:
        """Layers where a ball runs out over what is about the relief, and would take more at once than it may."""
        radius, cell = ball.diameter / 2.0, self.target.cell
        gone = np.zeros(self.wood.shape, bool)
        for row, a, b in todo:
            gone[row, a : b + 1] = True
        deep = _about(gone & ~self.target.asked, radius, cell) & (self.wood - self.reached > ball.pass_depth)
        if deep.any():
            self._layers(follow, ball, step, gone & _about(deep, radius, cell))

    def _over(self, reached: Grid) -> Grid:
        """How far the wood stands over what a cutter reaches, where that is asked."""
        return np.where(self.target.asked, self.wood - reached, np.float32(0.0))

    def _from(self, stands: Mask, tips: Grid, under: CutterUnderside, radius: float, all_about: bool) -> Mask:
        """Where the tip must go for what stands too high."""
        from gatepost.core.carve import relief_kernels

        if all_about or int(stands.sum()) * len(under.drops) > SCANS:
            return _about(stands, radius if not all_about else 0.0, self.target.cell)
        needed = np.zeros(stands.shape, bool)
        relief_kernels.where_from(tips, under.drops, under.reach, stands, needed)
        return needed

    def _stretches(self, ball: Tool, needed: Mask, step: int) -> list[tuple[int, int, int]]:
        """Rows, and from which cell to which, that go over what is needed: each place on the nearest of every step-th row."""
        near, columns = _nearest_row(len(needed), step), needed.shape[1]
        gap = max(2, round(max(ball.diameter, ALONG) / self.target.cell))
        folded: dict[int, Mask] = {}
        for j in np.flatnonzero(needed.any(axis=1)):
            row = int(near[j])
            folded[row] = folded[row] | needed[j] if row in folded else needed[j]
        return [
            (row, max(0, a - 1), min(columns - 1, b + 1)) for row in sorted(folded) for a, b in spans(folded[row], gap)
        ]

    def _lines(self, ball: Tool, tips: Grid, todo: list[tuple[int, int, int]]) -> list[Stretch]:
        """The lines of those stretches."""
        t = self.target
        numbers = np.array(sorted({row for row, _, _ in todo}), np.int64)
        halves = np.maximum(lifted(t.z, underside(ball, t.cell, 0.5), numbers), np.float32(t.lowest))
        at = {int(row): k for k, row in enumerate(numbers)}
        radius = ball_radius(ball)
        return [closely(t, row, a, tips[row, a : b + 1], halves[at[row], a:b], radius) for row, a, b in todo]

    def _layers(self, follow: Follow, tool: Tool, step: int, where: Mask) -> None:
        """Layer by layer, no deeper than the tool takes at once, less what is left for the balls. where: the tip may be wanted."""
        t, floor = self.target, self._rough
        near = _nearest_row(len(floor), step)
        rows, begins = np.unique(near, return_index=True)
        lowest = float(floor[t.asked].min())
        tips = np.maximum(lifted(floor, underside(tool, t.cell), rows), np.float32(lowest))
        wanted = np.logical_or.reduceat(where, begins, axis=0)
        above = self.at.highest
        if lowest >= above:
            return
        gap = max(2, round(tool.diameter / t.cell))
        for level in floors(above, lowest, tool.pass_depth):
            self.each(f"relief T{tool.number}")
            heights = np.maximum(tips, np.float32(level))
            stands = lifted(self.wood, _flat(tool, t.cell), rows)
            here = wanted & (tips < np.float32(above - LEAST)) & (stands > heights + np.float32(LEAST))
            todo = []
            for k, row in enumerate(rows.tolist()):
                for a, b in spans(here[k], gap):
                    a, b = max(0, a - 1), min(tips.shape[1] - 1, b + 1)
                    if b > a:
                        todo.append(roughly(t, row, a, heights[k, a : b + 1], self.figures.left))
            follow.go(todo, step, self.wood, above)
            self._sweep(tool, follow)
            above = level

    def _sweep(self, tool: Tool, follow: Follow) -> None:
        """Takes off what a tool takes in all that it has not been asked for yet."""
        held = HeightField(self.wood, self.target.x0, self.target.y0, self.target.cell)
        moves = follow.fresh()
        done = cut(held, moves, cutter_of(tool))
        self.wood, self.bite = done.after.z, max(self.bite, float(done.deepest.max(initial=0.0)))


def _nearest_row(count: int, step: int) -> NDArray[np.int64]:
    """For each of so many rows the one of every step-th that is nearest, (count,)."""
    first = (count - 1) % step // 2
    last = (count - 1 - first) // step * step + first
    return np.clip(np.round((np.arange(count) - first) / step).astype(np.int64) * step + first, first, last)


def _flat(tool: Tool, cell: float) -> CutterUnderside:
    return underside(changed(tool, kind="flat"), cell)


def _about(mask: Mask, radius: float, cell: float) -> Mask:
    """What is set, and all within a radius of it."""
    import cv2

    n = math.ceil(radius / cell)
    if n < 1 or not mask.any():
        return mask
    round_ = cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (2 * n + 1, 2 * n + 1))
    return np.asarray(cv2.dilate(mask.astype(np.uint8), round_)).astype(bool)
