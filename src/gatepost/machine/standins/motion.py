# SPDX-License-Identifier: GPL-3.0-or-later
"""Time-stepped motion with a short look-ahead, and stamped removal. Shares no code with the core.

Every tick the tip speeds up, holds or slows by what its axes can do, watching the corners it can see in its queue;
a corner may be rounded by the machine's deviation. Wood goes wherever the cutter's shape stands, stamp by stamp.
"""

from __future__ import annotations

import math
from typing import Any

import numba
import numpy as np

SEE_AHEAD = 48  # legs


@numba.njit(cache=True)
def corner_speed(
    ux: float, uy: float, uz: float, vx: float, vy: float, vz: float, reach: float, shorter: float, d: float
) -> float:
    """Speed squared at which a corner can be rounded within a deviation."""
    c = ux * vx + uy * vy + uz * vz
    if c > 0.9999999:
        return 1e12
    if c < -0.9999999:
        return 0.0
    half_turn = 0.5 * math.acos(min(1.0, max(-1.0, c)))
    radius = d / (1.0 / math.cos(half_turn) - 1.0)
    return reach * min(radius, 0.5 * shorter / math.tan(half_turn))


@numba.njit(cache=True)
def _exit_speed(legs: Any, i: int, n: int, scale: float, d: float) -> float:
    """Speed squared allowed at the end of leg i, by the legs that can be seen behind it."""
    limit, run = 1e12, 0.0
    last = min(n, i + SEE_AHEAD)
    for j in range(i + 1, last + 1):
        if j == n:
            corner = 0.0
        else:
            a, b = legs[j - 1], legs[j]
            corner = corner_speed(a[3], a[4], a[5], b[3], b[4], b[5], min(a[8], b[8]), min(a[6], b[6]), d)
            corner = (
                min(corner, (scale * a[7]) ** 2, (scale * b[7]) ** 2)
                if (a[9] == 0.0 and b[9] == 0.0)
                else min(corner, a[7] ** 2, b[7] ** 2)
            )
        limit = min(limit, corner + 2.0 * run)
        if j == n:
            break
        run += legs[j][8] * legs[j][6]
        if 2.0 * run > limit:
            break
    return limit


@numba.njit(cache=True)
def march(
    legs: Any, state: Any, scale: float, braking: bool, tick: float, most: int, d: float, trace: Any
) -> tuple[int, int]:
    """Advance through legs for at most ``most`` ticks.

    legs: (n, 10) start x, y, z; direction x, y, z; length; speed; acceleration along; 1 for a rapid. state: leg,
    distance along it, speed, changed in place. braking: slow to a stand. trace: (most, 4) gets x, y, z, leg of each
    tick. Gives ticks used and 1 when it stands still at the end or by braking, else 0.
    """
    n = legs.shape[0]
    i, s, v = int(state[0]), state[1], state[2]
    allowed = _exit_speed(legs, i, n, scale, d) if i < n else 0.0
    used, still = 0, 0
    while used < most:
        if i >= n:
            v, still = 0.0, 1
            break
        leg = legs[i]
        wanted = leg[7] if leg[9] == 1.0 else leg[7] * scale
        a = leg[8]
        if braking:
            v = max(0.0, v - a * tick)
            if v == 0.0:
                still = 1
                break
        elif v > wanted:
            v = max(wanted, v - a * tick)
        else:
            v = min(wanted, v + a * tick)
        left = leg[6] - s
        ceiling = math.sqrt(allowed + 2.0 * a * max(0.0, left - 0.5 * v * tick))
        if v > ceiling:
            v = max(ceiling, 0.2)
        s += v * tick
        used += 1
        while i < n and s >= legs[i][6] - 1e-9:
            s -= legs[i][6]
            i += 1
            if i < n:
                allowed = _exit_speed(legs, i, n, scale, d)
        if i >= n:
            s = 0.0
            end = legs[n - 1]
            trace[used - 1, 0], trace[used - 1, 1], trace[used - 1, 2] = (
                end[0] + end[3] * end[6],
                end[1] + end[4] * end[6],
                end[2] + end[5] * end[6],
            )
            trace[used - 1, 3] = n
            v, still = 0.0, 1
            break
        s = max(s, 0.0)
        on = legs[i]
        trace[used - 1, 0], trace[used - 1, 1], trace[used - 1, 2] = (
            on[0] + on[3] * s,
            on[1] + on[4] * s,
            on[2] + on[5] * s,
        )
        trace[used - 1, 3] = i
    state[0], state[1], state[2] = i, s, v
    return used, still


@numba.njit(cache=True)
def stamp(
    z: Any, x0: float, y0: float, cell: float, path: Any, flat: float, rounded: float, slope: float, radius: float
) -> float:
    """Lower wood under a cutter at each place of a path (n, 3), bed frame. flat: radius of its level tip; rounded: of the round beside that;
    slope: height that the cone beyond gains per mm of radius; radius: of all of it. Gives the greatest drop of one cell.
    """
    bend = (
        rounded * slope / math.sqrt(1.0 + slope * slope)
    )  # how far out the round goes until it is as steep as the cone
    rise = rounded - math.sqrt(max(rounded * rounded - bend * bend, 0.0))
    rows, columns = z.shape
    worst = 0.0
    for p in range(path.shape[0]):
        px, py, pz = path[p, 0], path[p, 1], path[p, 2]
        j0, j1 = max(0, int((py - radius - y0) / cell)), min(rows - 1, int((py + radius - y0) / cell) + 1)
        i0, i1 = max(0, int((px - radius - x0) / cell)), min(columns - 1, int((px + radius - x0) / cell) + 1)
        for j in range(j0, j1 + 1):
            dy = y0 + j * cell - py
            for i in range(i0, i1 + 1):
                if z[j, i] <= pz:
                    continue
                dx = x0 + i * cell - px
                q = dx * dx + dy * dy
                if q > radius * radius:
                    continue
                out = math.sqrt(q) - flat
                if out <= 0.0:
                    h = pz
                elif out <= bend:
                    h = pz + rounded - math.sqrt(max(rounded * rounded - out * out, 0.0))
                else:
                    h = pz + rise + slope * (out - bend)
                if h < z[j, i]:
                    worst = max(worst, z[j, i] - h)
                    z[j, i] = h
    return worst


def thinned(path: np.ndarray, step: float) -> np.ndarray:
    """Places of a path at least a step apart, both ends kept."""
    if len(path) < 3:
        return path
    run = np.concatenate([[0.0], np.cumsum(np.sqrt((np.diff(path, axis=0) ** 2).sum(axis=1)))])
    marks = np.floor(run / step)
    keep = np.concatenate([[True], marks[1:] != marks[:-1]])
    keep[-1] = True
    return np.asarray(path[keep])


def warm() -> None:
    """Compile, or load what was compiled: a machine must not fall silent over it once it is spoken to."""
    leg = np.array([[0.0, 0.0, 0.0, 1.0, 0.0, 0.0, 1.0, 1.0, 1.0, 0.0]])
    march(leg, np.zeros(3), 1.0, False, 0.01, 1, 0.02, np.empty((1, 4)))
    stamp(np.zeros((1, 1), np.float32), 0.0, 0.0, 1.0, np.zeros((1, 3)), 1.0, 0.0, 1.0, 1.0)


if __name__ == "__main__":
    warm()
