# SPDX-License-Identifier: GPL-3.0-or-later
"""Plates and borders: the outline of each form."""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray
from shapely.geometry import Polygon, box

from gatepost.core.geometry.region import pieces
from gatepost.core.job.carve import Rounded
from gatepost.core.tolerances import COARSE_FLATTEN

Array = NDArray[np.float64]
LEAST = 1e-6  # mm that stays of a straight side


def outline(shape: Rounded, x: float, y: float, tol: float = COARSE_FLATTEN) -> Polygon:
    """A form about its middle, mm. Round parts are straight pieces within tol of them, their corners on them."""
    wide, high = shape.width / 2.0, shape.height / 2.0
    least = min(wide, high)
    if shape.form == "oval":
        corners = _oval(wide, high, tol)
    elif shape.form == "arched":
        corners = _arched(wide, high, min(shape.corner, wide, shape.height - LEAST), tol)
    elif shape.corner <= 1e-9:
        return box(x - wide, y - high, x + wide, y + high)
    elif shape.form == "rounded":
        corner = min(shape.corner, least - LEAST)
        core = box(x - wide + corner, y - high + corner, x + wide - corner, y + high - corner)
        return core.buffer(corner, quad_segs=pieces(corner, tol))
    else:
        corners = _cut_off(wide, high, min(shape.corner, least - LEAST), shape.form == "hollow", tol)
    return Polygon(corners + np.array([x, y]))


def _oval(wide: float, high: float, tol: float) -> Array:
    count = 4 * pieces(max(wide, high), tol)
    t = 2.0 * math.pi * np.arange(count) / count
    return np.column_stack([wide * np.cos(t), high * np.sin(t)])


def _arched(wide: float, high: float, rise: float, tol: float) -> Array:
    """A rectangle whose top is an arc of a circle that rises by so much: radius (w² + rise²)/(2·rise) of the half width w."""
    feet = [[-wide, -high], [wide, -high]]
    if rise <= 1e-9:
        return np.array([*feet, [wide, high], [-wide, high]])
    radius = (wide * wide + rise * rise) / (2.0 * rise)
    half = math.atan2(wide, radius - rise)
    count = max(4, math.ceil(half * 4.0 * pieces(radius, tol) / math.pi))
    t = np.linspace(half, -half, count + 1)
    top = np.column_stack([radius * np.sin(t), high - radius + radius * np.cos(t)])
    return np.vstack([feet, top])


def _cut_off(wide: float, high: float, corner: float, hollow: bool, tol: float) -> Array:
    """A rectangle whose corners are clipped, or hollowed out by a round about each."""
    count = pieces(corner, tol) if hollow else 1
    out: list[Array] = []
    for turn, (sx, sy) in enumerate(((1.0, -1.0), (1.0, 1.0), (-1.0, 1.0), (-1.0, -1.0))):
        t = math.pi + turn * math.pi / 2.0 - np.linspace(0.0, math.pi / 2.0, count + 1)
        out.append(np.column_stack([sx * wide + corner * np.cos(t), sy * high + corner * np.sin(t)]))
    return np.vstack(out)
