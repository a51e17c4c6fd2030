# SPDX-License-Identifier: GPL-3.0-or-later
"""Enough? What holds against push, turning and pull of each operation. Estimates, good to a factor of two.

Sideways: friction on one face of everything that presses, less an up-cut's pull, and whatever holds sideways by itself;
the weakest direction counts, so that a jaw's or a fence's own stop is left out. Turning: the same forces, each by its arm
about their common middle, against the push at the farthest place of the cutting. Lifting: what presses or holds down,
against the pull.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry import Polygon

from gatepost.core.job.hold import Holding
from gatepost.core.working import Named, Working, working

Array = NDArray[np.float64]
SPREAD = 5  # places along and across over which a strip's hold, or a board's weight, is shared out
FACTOR_TWO = "estimate; figures good to a factor of two"


@dataclass(frozen=True)
class CutLoad:
    """What an operation does to the work. push: its mean, N; peak: times that; pull: share of the push that lifts, for an
    up-cut; box: of the cutter's middle on the bed: x0, y0, x1, y1."""

    operation: str
    push: Working
    peak: float
    pull: float
    box: tuple[float, float, float, float]


@dataclass(frozen=True)
class Grip:
    """What one hold does. press: N down on the work; shear: N sideways by itself; lift: N it holds down by itself; places:
    (n, 2) on the bed over which it is shared out."""

    hold: str
    press: float
    shear: float
    lift: float
    places: Array


@dataclass(frozen=True)
class HoldMargin:
    """Of one operation. slide, turn, lift: what holds over what the cut does, times; lift where nothing pulls is nothing."""

    load: CutLoad
    slide: Working
    turn: Working
    lift: Working | None

    @property
    def least(self) -> Working:
        """The weakest of them."""
        return min((w for w in (self.slide, self.turn, self.lift) if w is not None), key=lambda w: w.result)

    @property
    def how(self) -> str:
        """What gives first."""
        return {id(self.slide): "slides", id(self.turn): "turns"}.get(id(self.least), "lifts")


def spread(area: Polygon) -> Array:
    """Places spread evenly over an area's own box, those inside it; its middle where none are."""
    x0, y0, x1, y1 = area.bounds
    share = (np.arange(SPREAD) + 0.5) / SPREAD
    x, y = np.meshgrid(x0 + (x1 - x0) * share, y0 + (y1 - y0) * share)
    inside = shapely.contains_xy(area, x.ravel(), y.ravel())
    found = np.column_stack([x.ravel(), y.ravel()])[inside]
    return found if len(found) else np.array([[area.centroid.x, area.centroid.y]])


def enough(
    load: CutLoad, grips: list[Grip], weight: float, work: Polygon, rules: Holding, squeezed: float
) -> HoldMargin:
    """What holds against one operation. weight: of the work, N; squeezed: of all presses, how much is sideways (clamps and
    wedges): it holds by friction against lifting too, and does not press on the bed."""
    whole = [*grips, Grip("weight", weight, 0.0, 0.0, spread(work))]
    press = sum(g.press for g in grips)
    shear, down = sum(g.shear for g in grips), sum(g.lift for g in grips)
    pull = load.pull * load.push.result
    slide = working(
        "(friction * max(0, pressing + weight - pull) + sideways) / push", Named("friction", rules.friction, "number"),
        Named("pressing", press, "force"), Named("weight", weight, "force"), Named("pull", pull, "force"),
        Named("sideways", shear, "force"), Named("push", load.push.result, "force"), unit="times",
        assumption=f"one face of friction; {FACTOR_TWO}", shop_rule=True,
    )  # fmt: skip
    turn = _turn(load, whole, pull, rules)
    lift = None
    if pull > 0.0:
        lift = working(
            "(pressing - squeezed + friction * squeezed + weight + down) / pull", Named("pressing", press, "force"),
            Named("squeezed", squeezed, "force"), Named("friction", rules.friction, "number"), Named("weight", weight, "force"),
            Named("down", down, "force"), Named("pull", pull, "force"), unit="times",
            assumption=f"an up-cut lifts with a share of its push; {FACTOR_TWO}", shop_rule=True,
        )  # fmt: skip
    return HoldMargin(load, slide, turn, lift)


def _turn(load: CutLoad, grips: list[Grip], pull: float, rules: Holding) -> Working:
    """Turning of the push at the farthest place of the cutting about the common middle of what holds."""
    press = sum(g.press for g in grips)
    share = max(0.0, press - pull) / press if press > 0.0 else 0.0
    places = np.vstack([g.places for g in grips])
    forces = np.concatenate(
        [np.full(len(g.places), (rules.friction * g.press * share + g.shear) / len(g.places)) for g in grips]
    )
    total = float(forces.sum())
    middle = (forces[:, None] * places).sum(axis=0) / total if total > 0.0 else places.mean(axis=0)
    holding = float((forces * np.hypot(*(places - middle).T)).sum()) / 1000.0
    x0, y0, x1, y1 = load.box
    arm = max(math.hypot(x - middle[0], y - middle[1]) for x in (x0, x1) for y in (y0, y1)) / 1000.0
    return working(
        "holding / (push * arm)", Named("holding", holding, "N·m"), Named("push", load.push.result, "force"),
        Named("arm", max(arm, 1e-6), "m"), unit="times", assumption=f"about the middle of what holds; {FACTOR_TWO}", shop_rule=True,
    )  # fmt: skip


@dataclass(frozen=True)
class Span:
    """A stretch of the board's edge between two holds. length: along the edge; chord: straight across, mm; middle: of it, on
    the bed."""

    first: str
    last: str
    length: float
    middle: tuple[float, float]
    chord: float


def edge_place(work: Polygon, x: float, y: float) -> float:
    """How far along the outline, from its start, the place of it nearest to a place lies, mm."""
    return float(shapely.line_locate_point(work.exterior, shapely.Point(x, y)))


def spans(work: Polygon, places: list[tuple[str, float, float]]) -> list[Span]:
    """Free stretches of the edge between holds, longest first. places: name and bearing place of each."""
    if not places:
        return []
    around = work.exterior.length
    along = sorted((edge_place(work, x, y), name, (x, y)) for name, x, y in places)
    out: list[Span] = []
    for (a, first, here), (b, last, there) in zip(along, [*along[1:], (along[0][0] + around, *along[0][1:])]):
        middle = shapely.get_coordinates(work.exterior.interpolate((0.5 * (a + b)) % around))[0]
        out.append(Span(first, last, b - a, (float(middle[0]), float(middle[1])), math.dist(here, there)))
    return sorted(out, key=lambda s: -s.length)
