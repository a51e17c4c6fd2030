# SPDX-License-Identifier: GPL-3.0-or-later
"""Areas with straight pieces as paths, and back."""

from __future__ import annotations

from collections.abc import Sequence
from functools import lru_cache

import numpy as np
import shapely
from shapely.geometry import MultiPolygon

from gatepost.core.geometry.curves import as_multipolygon


def nested(areas: Sequence[shapely.Geometry]) -> MultiPolygon:
    """What is covered an odd number of times: an outline, less what lies in it, and again what lies in that."""
    out: shapely.Geometry = MultiPolygon()
    for area in areas:
        out = out.symmetric_difference(area)
    return as_multipolygon(out)


@lru_cache(maxsize=64)
def as_drawn(path: str) -> MultiPolygon:
    """Areas of a path of straight pieces, even-odd."""
    rings = [
        np.array(run.split(), float).reshape(-1, 2) for run in path.replace("L", " ").replace("Z", "").split("M")[1:]
    ]
    return nested([shapely.make_valid(shapely.Polygon(r)) for r in rings if len(r) > 2])


def path_of(area: MultiPolygon) -> str:
    """Areas as a path of straight pieces, a thousandth of a mm fine."""
    out: list[str] = []
    for polygon in area.geoms:
        for ring in (polygon.exterior, *polygon.interiors):
            points = np.round(np.asarray(ring.coords)[:-1, :2], 4) + 0.0
            out.append("M" + "L".join(f"{x:.4f} {y:.4f}" for x, y in points.tolist()) + "Z")
    return "".join(out)
