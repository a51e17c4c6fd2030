# SPDX-License-Identifier: GPL-3.0-or-later
"""Compiled timing of moves with accelerations and corner speeds."""

from __future__ import annotations

import math
from typing import Any

import numba
import numpy as np


@numba.njit(cache=True, nogil=True)
def seconds(points: Any, rapid: Any, feed: Any, fastest: Any, accel: Any, deviation: float, out: Any) -> None:
    """Time of each move of a run that starts and ends at rest.

    points: float64 (n + 1, 3); rapid: (n,) bool; feed: (n,) mm/s; fastest, accel: (3,) per axis, mm/s and mm/s²;
    deviation: mm a corner may be rounded by, reckoned only; out: (n,) s. Corner speed v² = a·R with
    R = d·cos(t/2)/(1 - cos(t/2)), t between directions, R no more than the shorter move allows. Moves of no length
    are skipped and keep the direction.
    """
    n = rapid.shape[0]
    length = np.empty(n)
    reach = np.empty(n)  # acceleration along the move
    wanted = np.empty(n)  # speed along the move, squared
    entry = np.empty(n)  # v² at the point before each move
    px, py, pz, last = 0.0, 0.0, 0.0, -1
    for i in range(n):
        dx, dy, dz = points[i + 1, 0] - points[i, 0], points[i + 1, 1] - points[i, 1], points[i + 1, 2] - points[i, 2]
        L = math.sqrt(dx * dx + dy * dy + dz * dz)
        entry[i], out[i] = 0.0, 0.0
        if L < 1e-9:
            length[i] = 0.0
            continue
        length[i] = L
        ux, uy, uz = dx / L, dy / L, dz / L
        a, v = 1e30, 1e30
        if abs(ux) > 1e-12:
            a, v = accel[0] / abs(ux), fastest[0] / abs(ux)
        if abs(uy) > 1e-12:
            a, v = min(a, accel[1] / abs(uy)), min(v, fastest[1] / abs(uy))
        if abs(uz) > 1e-12:
            a, v = min(a, accel[2] / abs(uz)), min(v, fastest[2] / abs(uz))
        if not rapid[i]:
            v = min(v, feed[i])
        reach[i], wanted[i] = a, v * v
        if last >= 0:
            limit = min(wanted[i], wanted[last])
            cosine = px * ux + py * uy + pz * uz
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
    following = 0.0
    for i in range(n - 1, -1, -1):  # backward: can it still brake to what follows
        if length[i] > 0.0:
            entry[i] = min(entry[i], following + 2.0 * reach[i] * length[i])
            following = entry[i]
    # forward: can it have reached that by here; a move waits until the one after it is known
    speed, root, i = 0.0, 0.0, -1
    for j in range(n + 1):
        if j < n and length[j] == 0.0:
            continue
        if i >= 0:
            a, L, vv = reach[i], length[i], wanted[i]
            end = 0.0 if j == n else entry[j]
            end = min(end, speed + 2.0 * a * L)
            peak = min(vv, 0.5 * (speed + end) + a * L)
            ve, vp = math.sqrt(end), math.sqrt(peak)
            flat = L - (2.0 * peak - speed - end) / (2.0 * a)
            out[i] = (2.0 * vp - root - ve) / a + max(0.0, flat) / vp
            speed, root = end, ve
        i = j
