# SPDX-License-Identifier: GPL-3.0-or-later
"""What the removal model says of a setup's operations: left, gouged, loose, hit by a rapid."""

from __future__ import annotations

import math

import numpy as np
import shapely

from gatepost.core.cutting import Envelope, HeightLimits
from gatepost.core.findings import Finding, Fix, Level
from gatepost.core.geometry.raster import inside
from gatepost.core.job.tool import Tool
from gatepost.core.motion import Moves
from gatepost.core.tolerances import CLEAN
from gatepost.core.units import area_words, mm
from gatepost.core.wood.field import OUTSIDE, HeightField, Swept, by_bands

GOUGE = 0.1  # mm deeper than asked before it is told
RAPID_BITE = 0.02


def against(
    allowed: Envelope, before: HeightField, after: HeightField, setup: str, operation: str, stage: str
) -> list[Finding]:
    """An operation's wood held against what it allowed: what was gouged, and what was left standing where that counts."""
    area = allowed.area() if allowed.area is not None else None
    said = gouges(before, after, area, allowed.low, setup, operation) if area is not None else []
    if allowed.limits is not None:
        return said + beyond(allowed.limits(), before, after, setup, operation, stage, allowed.high is not None)
    if allowed.high is None:
        return said
    if allowed.cleared is None:
        return said + left_standing(after, allowed.high, setup, stage, area)
    return said + on_the_floor(after, allowed.high, allowed.cleared(), setup, operation, stage)


def beyond(
    limits: HeightLimits, before: HeightField, after: HeightField, setup: str, operation: str, stage: str, whole: bool
) -> list[Finding]:
    """Cells cut under what is asked there, and wood that stands above it once all is cut. whole: whether it is."""
    there = limits.low.z.shape
    x0, y0 = limits.low.x0, limits.low.y0
    i0, i1 = (round((x - after.x0) / after.cell) for x in (x0, x0 + (there[1] - 1) * limits.low.cell))
    j0, j1 = (round((y - after.y0) / after.cell) for y in (y0, y0 + (there[0] - 1) * limits.low.cell))
    i0, j0, i1, j1 = max(0, i0), max(0, j0), min(after.z.shape[1] - 1, i1), min(after.z.shape[0] - 1, j1)
    if i1 < i0 or j1 < j0:
        return []
    part = (slice(j0, j1 + 1), slice(i0, i1 + 1))
    x, y = np.meshgrid(after.x0 + np.arange(i0, i1 + 1) * after.cell, after.y0 + np.arange(j0, j1 + 1) * after.cell)
    places = np.column_stack([x.ravel(), y.ravel()])
    low, high = (g.at(places).reshape(x.shape) for g in (limits.low, limits.high))
    z, was = after.z[part], before.z[part]
    wood = z > OUTSIDE / 2
    said: list[Finding] = []
    under = np.where(wood & (was - z > GOUGE), np.nan_to_num(low - z, nan=0.0), 0.0)
    if float(under.max()) > GOUGE:
        j, i = np.unravel_index(int(np.argmax(under)), under.shape)
        message = f"{operation} cuts {mm(float(under[j, i]))} deeper than asked, at X {mm(float(x[j, i]))}, Y {mm(float(y[j, i]))} of the board."
        said.append(Finding("wood.gouged", Level.STOP, "carve", message, setup, about=operation))
    over = np.where(wood, np.nan_to_num(z - high, nan=0.0), 0.0)
    if whole and float(over.max()) > CLEAN:
        j, i = np.unravel_index(int(np.argmax(over)), over.shape)
        message = (
            f"{operation}: {area_words(float((over > CLEAN).sum()) * after.cell**2)} stands higher than its cutters should leave it, by up to "
            f"{mm(float(over[j, i]))}, at X {mm(float(x[j, i]))}, Y {mm(float(y[j, i]))} of the board."
        )
        said.append(Finding("wood.left", Level.CARE, stage, message, setup, about=operation))
    return said


def on_the_floor(
    after: HeightField, high: float, cleared: shapely.Geometry, setup: str, operation: str, stage: str
) -> list[Finding]:
    """Wood that stands on a floor where it was to be cut clean; nothing where none does."""
    there = inside(cleared, after.x0, after.y0, after.cell, *after.z.shape)
    above = by_bands(after, lambda b: after.z[b] > high + CLEAN) & there
    if not above.any():
        return []
    j, i = np.unravel_index(int(np.argmax(np.where(above, after.z, -np.inf))), after.z.shape)
    message = (
        f"{operation}: {area_words(float(above.sum()) * after.cell**2)} stays on its floor, up to {mm(float(after.z[j, i]) - high)}, at "
        f"X {mm(after.x0 + i * after.cell)}, Y {mm(after.y0 + j * after.cell)} of the board."
    )
    return [Finding("wood.left", Level.CARE, stage, message, setup, about=operation)]


def left_standing(
    after: HeightField, plane: float, setup: str, stage: str, area: shapely.Geometry | None = None
) -> list[Finding]:
    """Wood above a plane that all of the face, or of an area, was to come down to, and whether it has."""
    there = after.wood if area is None else inside(area, after.x0, after.y0, after.cell, *after.z.shape)
    above = by_bands(after, lambda b: after.z[b] > plane + CLEAN) & there
    hollow = by_bands(after, lambda b: (after.z[b] < plane - CLEAN) & (after.z[b] > OUTSIDE)) & there
    if not above.any() and hollow.any():  # as stopping early leaves them
        return [
            Finding("wood.level", Level.OK, stage, "By the removal model nothing stands above the last pass.", setup)
        ]
    if not above.any():
        message = "By the removal model the whole face is clean after the last pass."
        return [Finding("wood.clean", Level.OK, stage, message, setup)]
    j, i = np.unravel_index(int(np.argmax(np.where(above, after.z, -np.inf))), after.z.shape)
    area = float(above.sum()) * after.cell**2
    message = f"{area_words(area)} stays above the plane, up to {mm(float(after.z[j, i]) - plane)}, at X {mm(after.x0 + i * after.cell)}, Y {mm(after.y0 + j * after.cell)} of the board."
    return [Finding("wood.left", Level.CARE, stage, message, setup)]


STEEP = math.tan(math.radians(10.0))  # a descent steeper than this enters from above


def plunges(moves: Moves, cut: Swept, tool: Tool, setup: str, operation: str, stage: str) -> list[Finding]:
    """Where a cutter that can't be plunged enters wood from above, against the wood that stands then. moves: in the field's frame."""
    if tool.centre_cutting or tool.kind == "drill":
        return []
    way = np.diff(np.asarray(moves.points), axis=0)
    down = -way[:, 2] > STEEP * np.hypot(way[:, 0], way[:, 1])
    hits = np.nonzero(down & (cut.deepest > RAPID_BITE))[0]
    if not len(hits):
        return []
    worst = int(hits[np.argmax(cut.deepest[hits])])
    x, y, _ = moves.points[worst + 1]
    message = (
        f"Tool {tool.number} can't be plunged: no edge cuts at its middle. {operation[:1].upper()}{operation[1:]} lowers it {mm(float(cut.deepest[worst]))} into wood at "
        f"X {mm(float(x))}, Y {mm(float(y))} of the board. Lead it in from outside, or take a cutter that cuts at its middle."
    )
    fixes = (
        (Fix("set surfacing", {"area": "all"}, "Surface all of the face, led in from outside"),)
        if stage == "surface"
        else ()
    )
    return [Finding("wood.plunge", Level.STOP, stage, message, setup, fixes=fixes, about=operation)]


def rapid_hits(moves: Moves, cut: Swept, setup: str, operation: str) -> list[Finding]:
    """Rapids that would plough wood. moves: in the field's frame."""
    hits = np.nonzero(moves.rapid & (cut.deepest > RAPID_BITE))[0]
    if not len(hits):
        return []
    worst = int(hits[np.argmax(cut.deepest[hits])])
    x, y, _ = moves.points[worst + 1]
    message = f"A rapid in {operation} ploughs {mm(float(cut.deepest[worst]))} of wood near X {mm(float(x))}, Y {mm(float(y))} of the board."
    return [Finding("wood.rapid", Level.STOP, "carve", message, setup, about=operation)]


def gouges(
    before: HeightField, after: HeightField, allowed: shapely.Geometry, floor: float, setup: str, operation: str
) -> list[Finding]:
    """Cells cut outside an allowed area, or deeper than a floor."""
    cut = by_bands(after, lambda b: before.z[b] - after.z[b] > GOUGE)
    cut &= after.wood
    if not cut.any():
        return []
    low = cut & (after.z < np.float32(floor - GOUGE))
    rows, columns = np.nonzero((cut & ~inside(allowed, after.x0, after.y0, after.cell, *cut.shape)) | low)
    if not len(rows):
        return []
    drop = before.z[rows, columns] - after.z[rows, columns]
    w = int(np.argmax(drop))
    x, y = after.x0 + columns[w] * after.cell, after.y0 + rows[w] * after.cell
    message = f"{operation} cuts {mm(float(drop[w]))} deep where nothing is asked, at X {mm(float(x))}, Y {mm(float(y))} of the board."
    return [Finding("wood.gouged", Level.STOP, "carve", message, setup, about=operation)]
