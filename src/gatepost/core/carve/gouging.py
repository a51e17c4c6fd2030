# SPDX-License-Identifier: GPL-3.0-or-later
"""Strokes of a gouged ground: where they lie, how they go down and up, and how they follow one another. Blank XY, heights above the bed, mm."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely import affinity
from shapely.geometry import MultiPolygon

from gatepost.core.carve.sink import Sink, sink
from gatepost.core.carve.sunk_cuts import Sinking, SunkOutline, laid_out
from gatepost.core.carve.sunk_moves import ABOVE, Heights, hop
from gatepost.core.carve.trace import Trace
from gatepost.core.geometry.curves import as_multipolygon
from gatepost.core.geometry.outline import Area
from gatepost.core.geometry.region import centres
from gatepost.core.job.gouge import Gouge
from gatepost.core.job.operation import Artwork
from gatepost.core.job.sunk import Ground
from gatepost.core.job.tool import Tool
from gatepost.core.motion import Moves
from gatepost.core.profile import BALLS, profile_of

Array = NDArray[np.float64]
SHORTEST = 0.25  # of a stroke's length: what is left at a row's end is cut as a stroke of its own from that on
OVER = 0.15  # of a stroke's length by which the next one begins before it ends
BEND = 1.0  # mm along a stroke from point to point
MOST_STROKES = 20_000
FLAT = 0.01  # mm by which straight pieces may lie beside a round


@dataclass(frozen=True)
class Gouging:
    """What is gouged. figures: how; art: what stays in it, or frames it."""

    figures: Gouge
    art: tuple[Artwork, ...]

    @property
    def ground(self) -> Sinking:
        """The ground that is cleared first."""
        f = self.figures
        return Sinking(Ground(depth=max(f.cleared, 0.01), tools=f.tools, rim=f.rim), self.art)


@dataclass(frozen=True)
class Gouged:
    """A gouged ground laid out. laid: its outline; sink: how it is cleared, nothing where that is not asked; middles: where the ball's may be; strokes: (n, 3)
    each, heights from the cleared floor down; half: of how wide the widest is at that floor, mm."""

    laid: SunkOutline
    sink: Sink | None
    middles: MultiPolygon
    strokes: tuple[Array, ...]
    half: float


def parts(tools: Sequence[Tool]) -> tuple[tuple[Tool, ...], Tool | None, tuple[Tool, ...]]:
    """End mills; the ball; and what is neither, or a second ball."""
    ball = next((t for t in tools if t.kind in BALLS), None)
    mills = tuple(t for t in tools if t.kind == "flat")
    return mills, ball, tuple(t for t in tools if t not in mills and t is not ball)


def gouged(g: Gouging, tools: Sequence[Tool], outline: Area, times: float = 1.0) -> Gouged:
    """A ground laid out in strokes. outline: of the board; times: coarser by as much, for a first look."""
    f = g.figures
    mills, ball, _ = parts(tools)
    laid = laid_out(g.ground, outline, 0.0, times)
    if ball is None or laid.top.is_empty:
        return Gouged(laid, None, MultiPolygon(), (), 0.0)
    made = sink(laid.top, g.ground.figures, mills, times) if mills and f.cleared > 0.0 else None
    profile = profile_of(ball)
    away = profile.out_at(f.scoop + (f.cleared if made is not None else 0.0)) + f.clear_of
    floor = laid.top
    if made is not None:  # strokes lie where it was cleared
        floor = made.mills[-1].taken if made.mills else MultiPolygon()
    middles = as_multipolygon(centres(floor, away, FLAT * times).intersection(centres(laid.top, away, FLAT * times)))
    rng = np.random.default_rng(f.seed)
    lines = _rows(middles, f, rng) if f.follows == "rows" else _rounds(middles, f, rng)
    strokes = [s for line in lines for s in _strokes(line, f, rng)][:MOST_STROKES]
    return Gouged(laid, made, middles, tuple(strokes), profile.out_at(f.scoop))


def _steps(low: float, high: float, f: Gouge, rng: np.random.Generator) -> list[float]:
    """Places from one to another, as far apart as is asked, more or less."""
    out: list[float] = []
    at = low + f.apart * rng.uniform(0.2, 0.8)
    while at < high and len(out) < MOST_STROKES:
        out.append(at)
        at += f.apart * (1.0 + 0.5 * f.varied * rng.uniform(-1.0, 1.0))
    return out


def _rows(middles: MultiPolygon, f: Gouge, rng: np.random.Generator) -> list[Array]:
    """Straight rows across an area."""
    if middles.is_empty:
        return []
    turned = affinity.rotate(middles, -f.heading, origin=(0.0, 0.0))
    x0, y0, x1, y1 = turned.bounds
    shapely.prepare(turned)
    out: list[Array] = []
    for number, y in enumerate(_steps(y0, y1, f, rng)):
        met: Any = shapely.intersection(turned, shapely.linestrings([[x0 - 1.0, y], [x1 + 1.0, y]]))
        pieces = [np.asarray(p.coords) for p in shapely.get_parts(met) if p.geom_type == "LineString"]
        pieces.sort(key=lambda p: float(p[0, 0]))
        for piece in pieces if number % 2 == 0 else [p[::-1] for p in reversed(pieces)]:
            line = affinity.rotate(shapely.LineString(piece), f.heading, origin=(0.0, 0.0))
            out.append(np.asarray(line.coords)[:, :2])
    return out


def _rounds(middles: MultiPolygon, f: Gouge, rng: np.random.Generator) -> list[Array]:
    """Lines round what stays: the area's own edge, and that of what is left a row farther in each time."""
    out: list[Array] = []
    area: Any = middles
    while not area.is_empty and len(out) < MOST_STROKES:
        for p in shapely.get_parts(area):
            if p.geom_type == "Polygon":
                out += [np.asarray(r.coords)[:, :2] for r in (p.exterior, *p.interiors)]
        area = area.buffer(-f.apart * (1.0 + 0.5 * f.varied * rng.uniform(-1.0, 1.0)), quad_segs=8)
    return out


def _strokes(line: Array, f: Gouge, rng: np.random.Generator) -> list[Array]:
    """Strokes one after another along a line, each down and up again."""
    way = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(line, axis=0).T))])
    whole, at = float(way[-1]), 0.0
    out: list[Array] = []
    first = True
    while whole - at > SHORTEST * f.stroke or first and whole > BEND:
        long = f.stroke * (1.0 + 0.5 * f.varied * rng.uniform(-1.0, 1.0))
        if first:
            long *= rng.uniform(0.4, 1.0)  # so that rows do not begin alike
        end = min(whole, at + long)
        end = whole if whole - end < SHORTEST * f.stroke else end
        deep = f.scoop * (1.0 - 0.5 * f.varied * rng.uniform(0.0, 1.0))
        t = np.unique(
            np.concatenate(
                [np.linspace(at, end, max(5, math.ceil((end - at) / BEND) + 1)), way[(way > at) & (way < end)]]
            )
        )
        z = -deep * np.sin(np.pi * (t - at) / (end - at))
        out.append(np.column_stack([np.interp(t, way, line[:, 0]), np.interp(t, way, line[:, 1]), z]))
        first, at = False, end if end >= whole else end - OVER * (end - at)
    return out


def gouge_moves(made: Gouged, ball: Tool, floor: float, wood: float, at: Heights) -> Moves:
    """All strokes, one after another. floor: height that they go down from; wood: the highest that stands where they are."""
    home = at.home(ball)
    trace = Trace(*home)
    trace.rapid(z=max(at.travel, home[2]))
    within = made.middles.buffer(FLAT, quad_segs=2)
    shapely.prepare(within)
    for stroke in made.strokes:
        points = stroke + np.array([0.0, 0.0, floor])
        here = trace.here
        beside = here[2] <= floor + 1e-6 and math.hypot(*(points[0, :2] - here[:2])) < 2.0 * ball.diameter
        if beside and wood <= floor + 1e-6 and shapely.covers(within, shapely.linestrings([here[:2], points[0, :2]])):
            trace.run(points[:1], ball.feed)
        else:
            hop(trace, points[0], at)
            trace.rapid(z=wood + ABOVE)
            trace.run(points[:1], ball.plunge)
        trace.run(points[1:], ball.feed)
    trace.rapid(z=at.travel)
    return trace.moves()


def covered(made: Gouged) -> Area:
    """What strokes touch at the floor that they go down from, about."""
    if not made.strokes:
        return MultiPolygon()
    return shapely.union_all([shapely.LineString(s[:, :2]).buffer(made.half * 0.8, quad_segs=3) for s in made.strokes])
