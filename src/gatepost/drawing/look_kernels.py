# SPDX-License-Identifier: GPL-3.0-or-later
"""Compiled light on wood, and the same seen at an angle."""

from __future__ import annotations

import math
from typing import Any

import numba
import numpy as np

REACH = 40  # cells that a shadow is followed


@numba.njit(cache=True, nogil=True, parallel=False)
def lit(
    z: Any, part: Any, around: Any, pitch: float, light: Any, wood: Any, colours: Any, gloss: float, shadows: bool, grain: float,
    out: Any,
) -> None:  # fmt: skip
    """Colour of each cell. z, around: heights and their mean near by, part: what each is, 255 nothing; light: towards it, of length one;
    colours: of parts, negative where bare; grain: radians from X that the wood's grain runs at; out: float32 (rows, columns, 3)."""
    rows, columns = z.shape
    way_x, way_y = math.cos(grain), math.sin(grain)
    flat = math.hypot(light[0], light[1])
    sx, sy = (light[0] / flat, light[1] / flat) if flat > 1e-6 else (0.0, 0.0)
    rise = light[2] / flat * pitch if flat > 1e-6 else 1e9
    hx, hy, hz = light[0], light[1], light[2] + 1.0  # half way to whoever looks
    size = math.sqrt(hx * hx + hy * hy + hz * hz)
    hx, hy, hz = hx / size, hy / size, hz / size
    for j in range(rows):
        j0, j1 = max(j - 1, 0), min(j + 1, rows - 1)
        for i in range(columns):
            p = part[j, i]
            if p == 255:
                continue
            i0, i1 = max(i - 1, 0), min(i + 1, columns - 1)
            here = z[j, i]
            left = z[j, i0] if part[j, i0] != 255 else here
            right = z[j, i1] if part[j, i1] != 255 else here
            front = z[j0, i] if part[j0, i] != 255 else here
            back = z[j1, i] if part[j1, i] != 255 else here
            gx, gy = (right - left) / (pitch * 2.0), (back - front) / (pitch * 2.0)
            long = 1.0 / math.sqrt(1.0 + gx * gx + gy * gy)
            towards = max(0.0, (-gx * light[0] - gy * light[1] + light[2]) * long)
            shine = max(0.0, (-gx * hx - gy * hy + hz) * long)
            shade = 1.0
            if shadows:
                for k in range(1, REACH):
                    a, b = int(round(i + sx * k)), int(round(j + sy * k))
                    if a < 0 or b < 0 or a >= columns or b >= rows:
                        break
                    over = z[b, a] - (here + rise * k)
                    if over > 0.0 and part[b, a] != 255:
                        shade = min(shade, max(0.25, 1.0 - over / (0.6 * pitch + 0.15)))
                        if shade <= 0.25:
                            break
            deep = min(0.45, max(0.0, (around[j, i] - here) * 0.09))
            bright = (0.42 + 0.80 * towards * shade) * (1.0 - deep)
            x, y = (i * way_x + j * way_y) * pitch, (j * way_x - i * way_y) * pitch
            ring = math.sin(
                0.62 * y + 2.6 * math.sin(0.011 * x + 0.3 * math.sin(0.05 * y)) + 0.9 * math.sin(0.047 * x + 0.21 * y)
            )
            fibre = math.sin(x * 0.9 + 37.0 * math.sin(y * 5.1)) * math.sin(y * 11.7 + 0.35 * x)
            shade_of = 1.0 + 0.055 * ring + 0.022 * fibre
            painted = p < 5 and colours[p, 0] >= 0.0
            spec = gloss * shine**40 * shade * (1.6 if painted else 1.0) * 120.0
            for c in range(3):
                base = colours[p, c] if painted else wood[c] * shade_of
                out[j, i, c] = min(255.0, base * bright + spec)


@numba.njit(cache=True, nogil=True)
def leaned(z: Any, part: Any, flat: Any, pitch: float, across: float, up: float, out: Any) -> None:
    """What is seen of lit cells by someone who looks from the front, down on a face that leans away: nearer ones hide those behind. across, up: cosine and
    sine of the lean; out: uint8 RGBA, rows from the top."""
    rows, columns = z.shape
    tall = out.shape[0]
    for i in range(columns):
        seen = -1  # the highest row that is filled, counted from the foot
        for j in range(rows):
            if part[j, i] == 255:
                continue
            top = int(j * across + z[j, i] / pitch * up)
            top = min(top, tall - 1)
            foot = int(j * across) if seen < int(j * across) - 2 else seen + 1
            for row in range(max(foot, seen + 1), top + 1):
                dark = 1.0 if row >= top - 1 else 0.62  # a wall that faces whoever looks
                o = tall - 1 - row
                for c in range(3):
                    out[o, i, c] = np.uint8(min(255.0, flat[j, i, c] * dark))
                out[o, i, 3] = 255
            if top > seen:
                seen = top


def warm() -> None:
    """Compile, or load the compiled kernels."""
    z, part = np.ones((3, 3), np.float32), np.zeros((3, 3), np.uint8)
    flat = np.zeros((3, 3, 3), np.float32)
    lit(z, part, z, 1.0, np.array([0.5, 0.5, 0.7]), np.ones(3), np.full((5, 3), -1.0), 0.1, True, 0.0, flat)
    leaned(z, part, flat, 1.0, 1.0, 0.0, np.zeros((5, 3, 4), np.uint8))
