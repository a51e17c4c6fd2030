# SPDX-License-Identifier: GPL-3.0-or-later
"""Outlines of glyphs, in capital heights: how wide their ink is, and made bolder or finer."""

from __future__ import annotations

from functools import lru_cache

import numpy as np

from gatepost.core.geometry import curves

FINE = 2e-5  # capital heights that a flattened outline may stray
MITRE = 3.0  # times the amount that a corner may run out
DIGITS = 9


@lru_cache(maxsize=4096)
def inked(path: str) -> tuple[float, float]:
    """Where a glyph's ink begins and ends, capital heights."""
    flat = [curves.flatten(c, FINE) for c in curves.parse_path(path)]
    if not flat:
        return 0.0, 0.0
    x = np.concatenate([ring[:, 0] for ring in flat])
    return float(x.min()), float(x.max())


@lru_cache(maxsize=4096)
def bolder(path: str, by: float) -> str:
    """A glyph whose outline stands farther out by an amount (farther in where that is less than 0), corners kept; capital heights. Empty where
    nothing stays."""
    if abs(by) < FINE:
        return path
    area = curves.region(curves.parse_path(path), FINE).buffer(by, join_style="mitre", mitre_limit=MITRE)
    return curves.write_path(curves.polygon_contours(curves.as_multipolygon(area.simplify(FINE))), DIGITS)


@lru_cache(maxsize=4096)
def lost(path: str, by: float) -> float:
    """What a glyph that is made bolder or finer by an amount does not come back to when that is undone, as a share of its ink: strokes that are gone,
    gaps and insides that are closed."""
    changed = bolder(path, by)
    was = curves.region(curves.parse_path(path), FINE)
    back = curves.region(curves.parse_path(bolder(changed, -by)), FINE) if changed else None
    return float(was.symmetric_difference(back).area / was.area) if back is not None else 1.0
