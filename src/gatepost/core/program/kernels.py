# SPDX-License-Identifier: GPL-3.0-or-later
"""Compiled timing of moves with accelerations and corner speeds."""

from __future__ import annotations

import math
from typing import Any

import numba
import numpy as np


@numba.njit(cache=True, nogil=True)
def seconds(points: Any, wanted: Any, accel: Any, deviation: float, out: Any) -> None:
    """Time of each move of a run that starts and ends at rest.

    points: float64 (n + 1, 3); wanted: (n,) mm/s; accel: (3,) mm/s² per axis; deviation: mm a corner may be
    rounded by, reckoned only; out: (n,) s. Corner speed v² = a·R with R = d·cos(t/2)/(1 - cos(t/2)), t between
    directions, R no more than the shorter move allows. Moves of no length are skipped and keep the direction.
    """
    n = wanted.shape[0]
    length = np.zeros(n)
    reach = np.zeros(n)  # acceleration along the move
    entry = np.zeros(n + 1)  # v² at each point
    px, py, pz, last = 0.0, 0.0, 0.0, -1
    for i in range(n):
        dx, dy, dz = points[i + 1, 0] - points[i, 0], points[i + 1, 1] - points[i, 1], points[i + 1, 2] - points[i, 2]
        L = math.sqrt(dx * dx + dy * dy + dz * dz)
        if L < 1e-9:
            continue
        length[i] = L
        ux, uy, uz = dx / L, dy / L, dz / L
        a = 1e30
        if abs(ux) > 1e-12:
            a = min(a, accel[0] / abs(ux))
        if abs(uy) > 1e-12:
            a = min(a, accel[1] / abs(uy))
        if abs(uz) > 1e-12:
            a = min(a, accel[2] / abs(uz))
        reach[i] = a
        if last >= 0:
            cosine = px * ux + py * uy + pz * uz
            cap = min(wanted[i], wanted[last])
            limit = cap * cap
            if cosine < 0.9999999:
                half = math.sqrt(max(0.0, 0.5 * (1.0 + cosine)))  # cos of half the change of direction
                R = deviation * half / (1.0 - half)
                sine = math.sqrt(max(0.0, 0.5 * (1.0 - cosine)))
                shorter = 0.5 * min(L, length[last])
                if sine > 1e-9:
                    R = min(R, shorter * half / sine)
                limit = min(limit, min(a, reach[last]) * R)
            entry[i] = limit
        px, py, pz, last = ux, uy, uz, i
    following, at_rest = 0.0, True
    for i in range(n - 1, -1, -1):  # backward: can it still brake to what follows
        if length[i] == 0.0:
            continue
        end = 0.0 if at_rest else following
        entry[i] = min(entry[i], end + 2.0 * reach[i] * length[i])
        following, at_rest = entry[i], False
    speed = 0.0
    for i in range(n):  # forward: can it have reached that by here
        if length[i] == 0.0:
            continue
        start = min(entry[i], speed)
        end = 0.0
        for j in range(i + 1, n):
            if length[j] > 0.0:
                end = entry[j]
                break
        end = min(end, start + 2.0 * reach[i] * length[i])
        a, L, v = reach[i], length[i], wanted[i]
        peak = min(v * v, 0.5 * (start + end) + a * L)
        vs, ve, vp = math.sqrt(start), math.sqrt(end), math.sqrt(peak)
        up, down = (peak - start) / (2.0 * a), (peak - end) / (2.0 * a)
        out[i] = (vp - vs) / a + (vp - ve) / a + max(0.0, L - up - down) / vp
        speed = end
