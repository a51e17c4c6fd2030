# SPDX-License-Identifier: GPL-3.0-or-later
"""Wood and heights as pictures: arrays of RGBA pixels."""

from __future__ import annotations

from functools import lru_cache
from typing import Any

import numpy as np
from numpy.typing import NDArray

from gatepost.core.wood.field import HeightField

Pixels = NDArray[np.uint8]
WOOD = np.array([217.0, 180.0, 131.0])
CUT = np.array([148.0, 104.0, 62.0])
LOW, MIDDLE, HIGH = np.array([52.0, 84.0, 120.0]), np.array([214.0, 218.0, 202.0]), np.array([214.0, 152.0, 62.0])
FLAT = 0.3  # mm; heights that differ by less are not drawn as far apart as colours go
MOST = 1400  # pixels along a side


def _thin(z: NDArray[np.float32]) -> tuple[NDArray[np.float32], int]:
    return thinned(z), _step(z.shape)


def _step(shape: tuple[int, ...]) -> int:
    return max(1, int(np.ceil(max(shape) / MOST)))


def thinned(cells: NDArray[Any]) -> NDArray[Any]:
    """Cells of a board as many of them as a picture has pixels."""
    step = _step(cells.shape)
    return cells[::step, ::step]


@lru_cache(maxsize=10)
def shaded(field: HeightField, floor: float = 0.05) -> Pixels:
    """As shaded_once, kept for the next time."""
    return shaded_once(field, floor)


def shaded_once(field: HeightField, floor: float = 0.05) -> Pixels:
    """Wood lit from the back left, darker where it is cut; transparent where it is cut through. Rows from the back."""
    from gatepost.drawing import kernels  # compiled code is loaded when it is first wanted, never before a first paint

    z, step = _thin(field.z)
    out = np.zeros((*z.shape, 4), np.uint8)
    kernels.shade(np.ascontiguousarray(z), floor, field.cell * step, WOOD, CUT, out)
    return out


def shaded_plainly(field: HeightField, floor: float = 0.05) -> Pixels:
    """The same written plainly: the reference."""
    z, step = _thin(field.z)
    wood = z > floor
    height = np.where(wood, z, 0.0).astype(np.float64)
    gy, gx = np.gradient(height, field.cell * step)
    light = (1.0 + 0.9 * gx - 0.9 * gy) / np.sqrt(1.0 + gx * gx + gy * gy)
    light = np.clip(0.62 + 0.38 * light, 0.35, 1.18)
    grain = 0.035 * np.sin(
        np.arange(z.shape[0])[:, None] * step * field.cell * 0.55
        + 3.0 * np.sin(np.arange(z.shape[1])[None, :] * step * field.cell * 0.006)
    )
    top = float(height.max()) if wood.any() else 1.0
    depth = np.clip((top - height) / max(0.35 * top, 1e-6), 0.0, 1.0)[..., None]
    colour = (WOOD * (1 - depth) + CUT * depth) * (light * (1 + grain))[..., None]
    out = np.zeros((*z.shape, 4), np.uint8)
    out[wood, :3] = np.clip(colour, 0, 255)[wood]
    out[..., 3] = np.where(wood, 255, 0)
    return np.ascontiguousarray(out[::-1])


def height_map(z: NDArray[np.float64]) -> Pixels:
    """Heights from low (blue) through grey to high (amber). z: rows from the front."""
    low, high = float(np.nanmin(z)), float(np.nanmax(z))
    half = 0.5 * max(high - low, FLAT)  # what is flat is grey all over, and not as low as can be
    t = np.clip(0.5 + 0.5 * (z - 0.5 * (low + high)) / half, 0.0, 1.0)[..., None]
    colour = np.where(t < 0.5, LOW + (MIDDLE - LOW) * t * 2, MIDDLE + (HIGH - MIDDLE) * (t - 0.5) * 2)
    out = np.full((*z.shape, 4), 255, np.uint8)
    out[..., :3] = colour
    return np.ascontiguousarray(out[::-1])


ROUGH, CLEAN, DONE = np.array([214.0, 152.0, 62.0]), np.array([150.0, 190.0, 160.0]), np.array([92.0, 160.0, 128.0])


def passed(z: NDArray[np.float32], plane: float, finished: float, near: float = 0.005) -> Pixels:
    """A face after a pass. z: heights before, rows from the front; plane: of the pass; finished: of the last one.

    What was cut is green, the deeper the nearer it is to the finished plane; what no pass has reached yet keeps its
    wood's colour, the darker the deeper it lies.
    """
    cut = z >= plane - near
    done = 1.0 if plane <= finished + near else 0.35
    deep = np.clip((plane - z) / max(float(np.ptp(z)), 1e-6), 0.0, 1.0)[..., None]
    out = np.empty((*z.shape, 4), np.uint8)
    out[..., :3] = np.where(cut[..., None], CLEAN * (1.0 - done) + DONE * done, ROUGH * (1.0 - 0.55 * deep))
    out[..., 3] = 255
    return np.ascontiguousarray(out[::-1])


def contours(
    x: NDArray[np.float64], y: NDArray[np.float64], z: NDArray[np.float64], every: float
) -> list[tuple[float, list[NDArray[np.float64]]]]:
    """Contour segments of a grid at multiples of ``every``: per level, pairs of points (marching squares).

    A grid that comes again, as it does with every step at the machine, is not followed again.
    """
    return _followed(*(np.ascontiguousarray(a, np.float64).tobytes() for a in (x, y, z)), z.shape, every)


@lru_cache(maxsize=8)
def _followed(
    xs: bytes, ys: bytes, zs: bytes, shape: tuple[int, int], every: float
) -> list[tuple[float, list[NDArray[np.float64]]]]:
    x, y, z = (np.frombuffer(part).reshape(shape) for part in (xs, ys, zs))
    out: list[tuple[float, list[NDArray[np.float64]]]] = []
    for level in np.arange(np.ceil(z.min() / every) * every, z.max(), every):
        pieces: list[NDArray[np.float64]] = []
        above = z > level
        code = above[:-1, :-1] + 2 * above[:-1, 1:] + 4 * above[1:, 1:] + 8 * above[1:, :-1]
        for j, i in zip(*np.nonzero((code > 0) & (code < 15))):
            corners = [(j, i), (j, i + 1), (j + 1, i + 1), (j + 1, i)]
            crossings = []
            for a, b in zip(corners, corners[1:] + corners[:1]):
                if above[a] != above[b]:
                    t = (level - z[a]) / (z[b] - z[a])
                    crossings.append([x[a] + t * (x[b] - x[a]), y[a] + t * (y[b] - y[a])])
            for k in range(0, len(crossings) - 1, 2):
                pieces.append(np.array(crossings[k : k + 2]))
        if pieces:
            out.append((float(level), pieces))
    return out
