# SPDX-License-Identifier: GPL-3.0-or-later
"""Slabs photographed from anywhere over them."""

from __future__ import annotations

import sys
from pathlib import Path


def of_a_photo(seed: int) -> str:
    """A slab photographed from anywhere over it, its marks picked with their error: is the outline within its ±, and how
    near is it when the marks are exact."""
    import numpy as np
    import shapely

    sys.path.insert(0, str(Path(__file__).parents[1]))
    from tests.core.photos import Camera, render, waney

    from gatepost.core.blank import photo as core
    from gatepost.core.blank.trace import traced
    from gatepost.core.job.blank import Photo

    chance = np.random.default_rng(seed)
    length, width, thick = chance.uniform(500, 1000), chance.uniform(200, 350), chance.uniform(15, 75)
    slab = waney(seed, length, width)
    high = chance.uniform(1300, 2200)
    focal = 1500.0 * high / (1.35 * max(length + 150, 1.5 * (width + 150)))
    middle = np.array([length, width]) / 2.0
    at, look = (middle + chance.uniform(-0.12, 0.12, 2) * (length, width) for _ in range(2))
    camera = Camera((*at, high), tuple(look), chance.uniform(-12, 12), focal)
    corners = np.array(
        [[-60, -60, 0], [length + 60, -60, 0], [length + 60, width + 60, 0], [-60, width + 60, 0]], float
    )
    exact = camera.see(corners)
    seen = traced(render(slab, thick, camera, seed), "a photo")
    true = shapely.LinearRing(slab + 60.0)
    out = []
    for marks, above, lens in (
        (exact, thick, high),
        (exact + chance.normal(0, 1.5, (4, 2)), thick + chance.uniform(-1, 1), high + chance.normal(0, 10)),
    ):
        photo = Photo(
            file="photo-000000000000.jpg", squared="photo-000000000000-squared.jpg", marks=tuple(map(tuple, marks)),
            across=length + 120.0, up=width + 120.0, above=max(above, 0.0), lens=lens, lens_doubt=20.0,
        )  # fmt: skip
        done = core.measured(photo, seen.size, seen.outline, seed)
        off = float(shapely.distance(shapely.points(done.outline), true).max())
        out.append((off, done.doubt, core.side_seen(photo, slab + 60.0, done.under)))
    fine = out[0][0] <= max(1.5, 0.003 * length) + out[0][2]
    return f"{'exact' if fine else 'NOT NEAR'}, {'within ±' if out[1][0] <= out[1][1] else 'outside ±'}"
