# SPDX-License-Identifier: GPL-3.0-or-later
"""Rows of a surfacing pass over any outline: how far each goes, where it is in the air, and what it leaves untouched.

Everything is reckoned in a frame turned so that the rows run along its first axis, and turned back at the end.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry import LineString, MultiPolygon, Polygon, box

from gatepost.core.geometry.outline import Area
from gatepost.core.geometry.region import swept

Array = NDArray[np.float64]
SAME = 1e-9


@dataclass(frozen=True)
class RowCut:
    """How a row is cut. radius, step: mm; sides: overhang beside the outer rows; turn: how far the cutter's middle goes
    past the wood to turn round off it; limits: x0, y0, x1, y1 that the cutter's middle can reach, blank coordinates;
    climb: every row the same way, with the wood on the cutter's right."""

    radius: float
    step: float
    sides: float
    turn: float
    limits: tuple[float, float, float, float]
    climb: bool = False
    hop: float = 200.0  # mm of air that take as long as lifting over them


@dataclass(frozen=True)
class StillStanding:
    """Wood that still stands above a plane, over a grid in the turned frame. u: (n,), v: (m,), over: (m, n)."""

    u: Array
    v: Array
    over: NDArray[np.bool_]


@dataclass(frozen=True)
class LaidRows:
    """Centre lines of one pass, each fed without lifting, blank XY. outside: whether every row turns round off the wood."""

    lines: tuple[Array, ...]
    outside: bool


def turned(points: Array, angle: float) -> Array:
    """Places in the frame whose first axis lies at an angle, degrees."""
    c, s = _turn(angle)
    return np.asarray(np.asarray(points) @ np.array([[c, -s], [s, c]]), np.float64)


def back(points: Array, angle: float) -> Array:
    """The other way."""
    return turned(points, -angle)


def _turn(angle: float) -> tuple[float, float]:
    """Cosine and sine; exact for quarter turns, so that a straight row stays straight in the program."""
    exact = {0.0: (1.0, 0.0), 90.0: (0.0, 1.0), 180.0: (-1.0, 0.0), 270.0: (0.0, -1.0)}.get(angle % 360.0)
    return exact or (math.cos(math.radians(angle)), math.sin(math.radians(angle)))


def turned_area(area: Area, angle: float) -> Area:
    """An area in the turned frame."""
    out = shapely.transform(area, lambda points: turned(points, angle))
    assert isinstance(out, (Polygon, MultiPolygon))
    return out


def places(low: float, high: float, cut: RowCut) -> Array:
    """Where rows lie across an extent: evenly, no farther apart than the step."""
    inset = min(cut.radius - cut.sides, (high - low) / 2.0)
    count = 1
    if high - low > 2 * inset:
        count = max(1, math.ceil((high - low - 2 * inset) / cut.step - 1e-9) + 1)
    return np.linspace(low + inset, high - inset, count)


def following(area: Area, angle: float, cut: RowCut, standing: StillStanding | None = None) -> LaidRows:
    """One pass that follows an outline. area: what must be reached, its ± included; standing: cut only there."""
    there = turned_area(area, angle)
    u0, v0, u1, v1 = there.bounds
    rows = places(v0, v1, cut)
    if len(rows) == 0:
        return LaidRows((), True)
    half = (rows[1] - rows[0]) / 2.0 if len(rows) > 1 else (v1 - v0) / 2.0
    share = np.column_stack([rows - half, rows + half])
    share[0, 0], share[-1, 1] = v0, v1  # the outer rows answer for what lies beyond them
    near = _spans(there, np.column_stack([rows - cut.radius, rows + cut.radius]), (u0, u1))
    mine = _spans(there, share, (u0, u1))
    ends: list[list[tuple[float, float]]] = []
    outside = True
    reach = _reach(cut.limits, angle)
    for row, (low, high) in enumerate(share):
        away = max(high - rows[row], rows[row] - low)
        short = math.sqrt(max(cut.radius**2 - away**2, 0.0))
        spans, wide = mine[row], near[row]
        if standing is not None:
            spans = _met(spans, _stretches(standing, low, high))
            wide = _met(wide, _stretches(standing, rows[row] - cut.radius, rows[row] + cut.radius))
        runs: list[tuple[float, float]] = []
        for a, b in spans:
            want = _past((a, b), wide, cut)
            can = (reach(rows[row], -1), reach(rows[row], +1))
            need = (a + short, b - short)
            got = (min(max(want[0], can[0]), need[0]), max(min(want[1], can[1]), need[1]))
            outside &= got[0] <= want[0] + 1e-6 and got[1] >= want[1] - 1e-6
            runs.append(got if got[0] <= got[1] else ((a + b) / 2.0, (a + b) / 2.0))
        ends.append(_joined(runs, cut.hop))
    return LaidRows(tuple(back(line, angle) for line in _strung(rows, ends, cut)), outside)


def _past(span: tuple[float, float], wide: list[tuple[float, float]], cut: RowCut) -> tuple[float, float]:
    """How far a row wants to go each way to turn round clear of all wood near it."""
    low, high = span[0] - cut.turn, span[1] + cut.turn
    for a, b in reversed(wide):
        if a <= span[1] and b > low - cut.radius:
            low = min(low, a - cut.turn)
    for a, b in wide:
        if b >= span[0] and a < high + cut.radius:
            high = max(high, b + cut.turn)
    return low, high


def plain(area: Area, angle: float, cut: RowCut) -> LaidRows:
    """One pass over the plain rectangle about an area, turned with the rows."""
    return following(turned_back_box(area, angle), angle, cut)


def turned_back_box(area: Area, angle: float) -> Polygon:
    """The rectangle about an area whose sides lie along and across the rows."""
    out = shapely.transform(box(*turned_area(area, angle).bounds), lambda points: back(points, angle))
    assert isinstance(out, Polygon)
    return out


def _reach(limits: tuple[float, float, float, float], angle: float) -> Callable[[float, int], float]:
    """How far along its own line a row can go either way within the limits."""
    c, s = _turn(angle)
    x0, y0, x1, y1 = limits

    def far(v: float, way: int) -> float:
        most = math.inf
        for at, grows, low, high in ((-s * v, c, x0, x1), (c * v, s, y0, y1)):
            if abs(grows) > 1e-12:
                ends = ((low - at) / grows, (high - at) / grows)
                most = min(most, max(ends) if way > 0 else -min(ends))
        return most if way > 0 else -most

    return far


def _spans(area: Area, bands: Array, across: tuple[float, float]) -> list[list[tuple[float, float]]]:
    """Along each band, where the area has anything in it: stretches from left to right."""
    boxes = shapely.box(across[0] - 1.0, bands[:, 0], across[1] + 1.0, bands[:, 1])
    out = []
    for cut in shapely.intersection(area, boxes):
        parts = [p for p in shapely.get_parts(cut) if not p.is_empty]
        out.append(_merged([(p.bounds[0], p.bounds[2]) for p in parts], 0.0))
    return out


def _stretches(standing: StillStanding, low: float, high: float) -> list[tuple[float, float]]:
    """Where anything stands in a band, a grid's step wider each way."""
    step_v = standing.v[1] - standing.v[0] if len(standing.v) > 1 else 0.0
    step_u = standing.u[1] - standing.u[0] if len(standing.u) > 1 else 0.0
    rows = (standing.v >= low - step_v) & (standing.v <= high + step_v)
    any_ = standing.over[rows].any(axis=0)
    if not any_.any():
        return []
    edges = np.flatnonzero(np.diff(np.concatenate([[0], any_.view(np.int8), [0]])))
    found = [
        (float(standing.u[a] - step_u), float(standing.u[b - 1] + step_u)) for a, b in zip(edges[::2], edges[1::2])
    ]
    return _merged(found, 0.0)


def _merged(stretches: Sequence[tuple[float, float]], gap: float) -> list[tuple[float, float]]:
    """Stretches from left to right, joined where they are no more than a gap apart."""
    out: list[tuple[float, float]] = []
    for a, b in sorted(stretches):
        if out and a <= out[-1][1] + gap:
            out[-1] = (out[-1][0], max(out[-1][1], b))
        else:
            out.append((a, b))
    return out


def _joined(runs: list[tuple[float, float]], hop: float) -> list[tuple[float, float]]:
    return _merged(runs, hop)


def _met(one: list[tuple[float, float]], other: list[tuple[float, float]]) -> list[tuple[float, float]]:
    """What is in both."""
    return [(max(a, c), min(b, d)) for a, b in one for c, d in other if max(a, c) <= min(b, d)]


def _strung(rows: Array, ends: list[list[tuple[float, float]]], cut: RowCut) -> list[Array]:
    """Rows strung together back and forth, lifted where the way to the next one is far."""
    lines: list[list[tuple[float, float]]] = []
    forth = not cut.climb  # with the spindle turning clockwise, wood on the right is climb cut
    for row, runs in enumerate(ends):
        for a, b in runs if forth else reversed(runs):
            first, last = ((a, rows[row]), (b, rows[row])) if forth else ((b, rows[row]), (a, rows[row]))
            end = lines[-1][-1] if lines else None
            near = end is not None and abs(end[0] - first[0]) <= 2 * cut.radius and first[1] - end[1] <= 1.5 * cut.step
            if near and not cut.climb and end is not None and end[1] != first[1]:
                lines[-1] += [first, last]
            else:
                lines.append([first, last])
        if runs and not cut.climb:
            forth = not forth
    return [np.array(line) for line in lines]


@dataclass(frozen=True)
class Missed:
    """A place that the cutter's discs never reach. mm, mm²."""

    x: float
    y: float
    area: float


LEAST = 1e-3  # mm² of a missed place that is told


def missed(area: Area, lines: Sequence[Array], radius: float) -> list[Missed]:
    """Places of an area outside the union of the cutter's discs, largest first; empty proves coverage.

    Discs are drawn as polygons inside the true circle, within a micrometre, so what is proved is true.
    """
    covered = shapely.union_all([swept(LineString(line), radius) for line in lines])
    found: list[Missed] = []
    for part in shapely.get_parts(area.difference(covered)):
        if part.area > LEAST:
            spot = part.representative_point()
            found.append(Missed(float(spot.x), float(spot.y), float(part.area)))
    return sorted(found, key=lambda m: -m.area)
