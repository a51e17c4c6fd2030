# SPDX-License-Identifier: GPL-3.0-or-later
"""What a round cutter takes of an area: where its middle may be, what it takes from there, and what it leaves.

An area opened by a disc (Serra, *Image Analysis and Mathematical Morphology*, 1982): shrunk by its radius, then grown by it. What is
left goes to the next, smaller cutter. Rounds are in pieces that lie within a tolerance of them.
"""

from __future__ import annotations

import math

from shapely.geometry.base import BaseGeometry

TRUE = 1e-3  # mm that pieces of a round may lie beside it


def centres(area: BaseGeometry, radius: float, tol: float = TRUE) -> BaseGeometry:
    """Where a cutter's middle may be so that it stays in an area; mm."""
    return area.buffer(-radius, quad_segs=pieces(radius, tol))


def swept(middles: BaseGeometry, radius: float, tol: float = TRUE) -> BaseGeometry:
    """What a cutter takes whose middle is everywhere in an area or on a line."""
    return middles.buffer(radius, quad_segs=pieces(radius, tol))


def reach(area: BaseGeometry, radius: float, tol: float = TRUE) -> BaseGeometry:
    """What a cutter takes of an area that it must not leave."""
    return swept(centres(area, radius, tol), radius, tol)


def left(area: BaseGeometry, radius: float, tol: float = TRUE) -> BaseGeometry:
    """What it can't take of it."""
    return area.difference(reach(area, radius, tol))


def pieces(radius: float, tol: float) -> int:
    """To a quarter of a round, so that none lies farther inside it than a tolerance."""
    return max(4, math.ceil(math.pi / 4.0 / math.acos(max(0.0, 1.0 - tol / radius)))) if radius > tol else 4
