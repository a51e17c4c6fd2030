# SPDX-License-Identifier: GPL-3.0-or-later
"""Compiled shading of wood. Written plainly in ``shade``."""

from __future__ import annotations

import math
from typing import Any

import numba
import numpy as np


@numba.njit(cache=True, nogil=True)
def shade(z: Any, floor: float, pitch: float, wood: Any, cut: Any, out: Any) -> None:
    """Wood lit from the back left, darker where it is cut. z: float32 (rows, columns); out: uint8, rows from the back.

    Slopes are central differences, one-sided at the rims; what is cut through stands at nought.
    """
    rows, columns = z.shape
    top = 0.0
    for j in range(rows):
        for i in range(columns):
            if z[j, i] > floor and z[j, i] > top:
                top = z[j, i]
    span = max(0.35 * (top if top > 0.0 else 1.0), 1e-6)
    for j in range(rows):
        j0, j1 = max(j - 1, 0), min(j + 1, rows - 1)
        for i in range(columns):
            o = rows - 1 - j
            if not z[j, i] > floor:
                out[o, i, 3] = 0
                continue
            i0, i1 = max(i - 1, 0), min(i + 1, columns - 1)
            left, right = z[j, i0], z[j, i1]
            front, back = z[j0, i], z[j1, i]
            left, right = (left if left > floor else 0.0), (right if right > floor else 0.0)
            front, back = (front if front > floor else 0.0), (back if back > floor else 0.0)
            gx = (right - left) / (pitch * max(i1 - i0, 1))
            gy = (back - front) / (pitch * max(j1 - j0, 1))
            light = (1.0 + 0.9 * gx - 0.9 * gy) / math.sqrt(1.0 + gx * gx + gy * gy)
            light = min(1.18, max(0.35, 0.62 + 0.38 * light))
            light *= 1.0 + 0.035 * math.sin(j * pitch * 0.55 + 3.0 * math.sin(i * pitch * 0.006))
            depth = min(1.0, max(0.0, (top - z[j, i]) / span))
            for k in range(3):
                value = (wood[k] * (1.0 - depth) + cut[k] * depth) * light
                out[o, i, k] = np.uint8(min(255.0, max(0.0, value)))
            out[o, i, 3] = 255


def warm() -> None:
    """Compile, or load the compiled shading."""
    shade(np.ones((2, 2), np.float32), 0.0, 1.0, np.ones(3), np.ones(3), np.zeros((2, 2, 4), np.uint8))
