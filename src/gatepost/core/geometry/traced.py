# SPDX-License-Identifier: GPL-3.0-or-later
"""Art out of a picture: what is darker than a threshold, or lighter, its edge followed between the pixels."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
import shapely
from numpy.typing import NDArray

from gatepost.core.errors import OperatorError
from gatepost.core.geometry.curves import as_multipolygon
from gatepost.core.geometry.drawn_art import DrawnArt
from gatepost.core.picture import unpacked_picture

FINER = 4  # times as many pixels in which the edge is looked for
MOST_SIDE = 2400  # px that a picture is brought to
SPECK = 4.0  # px²: smaller ones are grain
STRAY = 0.3  # px that the edge may lie beside the straight pieces kept of it


def read_picture(
    data: bytes, name: str, width: float, threshold: float = 0.5, light: bool = False, smooth: float = 0.8
) -> DrawnArt:
    """A picture's art. width: of what is traced, mm; threshold: 0 black to 1 white; light: whether what is lighter is taken; smooth: px that it is
    blurred by. Raises OperatorError."""
    import cv2

    grey = _grey(data, name)
    fine: Any = cv2.resize(grey, None, fx=FINER, fy=FINER, interpolation=cv2.INTER_CUBIC).astype(np.float32)
    if smooth > 0.0:
        fine = cv2.GaussianBlur(fine, (0, 0), smooth * FINER)
    inked = (fine > threshold * 255.0) if light else (fine < threshold * 255.0)
    area = _areas(inked)
    if area.is_empty:
        raise OperatorError(
            f"{name}: nothing in it is {'lighter' if light else 'darker'} than {100 * threshold:.0f} %. Move the threshold."
        )
    x0, _, x1, _ = area.bounds
    scale = width / (x1 - x0)
    whole = as_multipolygon(shapely.transform(area, lambda p: (p - [x0, 0.0]) * scale))
    closed = sum(1 + len(p.interiors) for p in whole.geoms)
    said = (f"traced at {100 * threshold:.0f} % {'and lighter' if light else 'and darker'}, one pixel {scale:.3f} mm",)
    high = float(whole.bounds[3] - whole.bounds[1])
    return DrawnArt(whole, (), closed, 0, (), "mm", "as wide as was typed", (("mm", width, high),), (), said)


def _grey(data: bytes, name: str) -> NDArray[np.uint8]:
    import cv2

    raw = unpacked_picture(data, name)
    raw = (raw / 257.0).astype(np.uint8) if raw.dtype == np.uint16 else raw.astype(np.uint8)
    if raw.ndim == 3 and raw.shape[2] == 4:  # what is clear is paper
        clear = raw[:, :, 3:].astype(np.float32) / 255.0
        raw = (raw[:, :, :3] * clear + 255.0 * (1.0 - clear)).astype(np.uint8)
    grey: Any = cv2.cvtColor(raw, cv2.COLOR_BGR2GRAY) if raw.ndim == 3 else raw
    most = max(grey.shape)
    if most > MOST_SIDE:
        grey = cv2.resize(grey, None, fx=MOST_SIDE / most, fy=MOST_SIDE / most, interpolation=cv2.INTER_AREA)
    return np.asarray(cv2.copyMakeBorder(grey, 2, 2, 2, 2, cv2.BORDER_REPLICATE))


def _areas(inked: NDArray[np.bool_]) -> Any:
    """What is set, in px of the picture, Y up: its outlines, outer ones and holes, by their nesting."""
    import cv2

    framed = np.zeros((inked.shape[0] + 2, inked.shape[1] + 2), np.uint8)
    framed[1:-1, 1:-1] = inked
    rings, nesting = cv2.findContours(framed, cv2.RETR_CCOMP, cv2.CHAIN_APPROX_NONE)
    if nesting is None:
        return shapely.MultiPolygon()
    holes: dict[int, list[Any]] = {}
    outer: list[int] = []
    shapes = [_ring(r, framed.shape[0]) for r in rings]
    for i, (_, _, _, parent) in enumerate(np.asarray(nesting)[0].tolist()):
        if shapes[i] is None:
            continue
        if parent < 0:
            outer.append(i)
        else:
            holes.setdefault(parent, []).append(shapes[i])
    parts = [shapely.make_valid(shapely.Polygon(shapes[i], holes.get(i, []))) for i in outer]
    # the steps run through the middles of the outermost pixels: half a pixel more belongs to it all round
    return as_multipolygon(shapely.union_all(parts).buffer(0.5 / FINER, join_style="mitre"))


def _ring(contour: Any, rows: int) -> NDArray[np.float64] | None:
    """An outline through the middles of its steps, thinned; nothing for grain."""
    points = np.asarray(contour, np.float64).reshape(-1, 2)
    if len(points) < 8:
        return None
    middles = 0.5 * (points + np.roll(points, -1, axis=0)) / FINER
    ring = shapely.Polygon(np.column_stack([middles[:, 0], rows / FINER - middles[:, 1]]))
    if ring.area < SPECK:
        return None
    out = shapely.get_coordinates(ring.simplify(STRAY).exterior)
    return out if len(out) >= 4 and math.isfinite(float(out.sum())) else None
