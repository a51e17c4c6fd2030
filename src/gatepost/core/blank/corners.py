# SPDX-License-Identifier: GPL-3.0-or-later
"""An outline out of measured figures: its corners one after another, or both edges at stations along the board."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from gatepost.core.errors import OperatorError
from gatepost.core.findings import Finding, Fix, Level
from gatepost.core.geometry.outline import problem
from gatepost.core.job.blank import Blank
from gatepost.core.tables import read_table
from gatepost.core.units import mm

STATIONS = ("x", "front", "back")
CORNERS = ("x", "y")
WORTH = 0.5  # mm; a bend between measured places that is told
MANY = 60  # corners; of more, the outline was traced or drawn, not measured place by place


def read_corners(text: str, name: str, bare: str = "mm") -> NDArray[np.float64]:
    """Corners in order, (n, 2), mm: rows of x, y; or of x, front, back, the places of both edges at stations along the board. Raises
    OperatorError with the line."""
    first = next(
        (line for line in text.lstrip("\ufeff").splitlines() if line.strip() and not line.lstrip().startswith("#")), ""
    )
    cells = [c for b in (";", "\t", ",") if b in first for c in first.split(b)][: len(STATIONS) + 1]
    by_stations = "front" in first.lower() or len([c for c in cells if c.strip()]) >= len(STATIONS)
    rows = read_table(text, name, STATIONS if by_stations else CORNERS, bare=bare)
    told = np.array(rows, dtype=np.float64)
    if by_stations:
        told = told[np.argsort(told[:, 0], kind="stable")]
        wrong = np.flatnonzero(told[:, 2] <= told[:, 1])
        if len(wrong):
            raise OperatorError(f"{name}: at X {told[wrong[0], 0]:g} the back edge does not lie behind the front one.")
        told = np.vstack([told[:, :2], told[::-1, [0, 2]]])
    if len(told) > 1 and np.allclose(told[0], told[-1]):
        told = told[:-1]
    if len(told) < 3:
        raise OperatorError(f"{name} has {len(told)} corners: an outline wants three at least.")
    why = problem(told)
    if why:
        raise OperatorError(f"{name}: {why}")
    return told


def bend(corners: NDArray[np.float64]) -> float:
    """How far an edge may lie off the straight line between two neighbouring places, mm, by how it bends from place to place: a curve
    that lies d off the chord over two gaps lies d/4 off the chord over one."""
    before, after = np.roll(corners, 1, axis=0), np.roll(corners, -1, axis=0)
    chord = after - before
    long = np.hypot(*chord.T)
    off = np.abs(chord[:, 0] * (corners - before)[:, 1] - chord[:, 1] * (corners - before)[:, 0]) / np.maximum(
        long, 1e-9
    )
    a, b = corners - before, after - corners
    turn = np.abs(np.arctan2(a[:, 0] * b[:, 1] - a[:, 1] * b[:, 0], (a * b).sum(axis=1)))
    gentle = turn < np.radians(35.0)  # a true corner is no bend
    return float(off[gentle].max(initial=0.0) / 4.0)


def margin_rule(blank: Blank) -> list[Finding]:
    """Of an outline measured place by place: how far its edge may run otherwise between them, and what that asks of margins."""
    if blank.shape != "outline" or blank.photo is not None or not 3 <= len(blank.outline) <= MANY:
        return []
    corners = np.array(blank.outline)
    off = bend(corners)
    gaps = np.hypot(*(np.roll(corners, -1, axis=0) - corners).T)
    if off < WORTH or blank.doubt >= off:
        return []
    message = (
        f"Its edge is known at {len(corners)} places, up to {mm(float(gaps.max()), 0)} apart, and taken as straight between them; by how it bends it may lie "
        f"{mm(off, 1)} otherwise there. Keep what is cut as far off, beside cutter and holds, or measure between."
    )
    fix = Fix("set blank", {"doubt": round(off, 1)}, f"Take ± {mm(round(off, 1))} for its edge")
    return [Finding("blank.outline-between", Level.NOTE, "blank", message, fixes=(fix,))]
