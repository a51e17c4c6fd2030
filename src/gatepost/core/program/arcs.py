# SPDX-License-Identifier: GPL-3.0-or-later
"""Arcs fitted to straight pieces, where a control takes them: as long as none of the way lies off by more than a tolerance."""

from __future__ import annotations

import math
from typing import Any

import numba
import numpy as np
from numpy.typing import NDArray

from gatepost.core.job.machine import Dialect
from gatepost.core.motion import Moves
from gatepost.core.program.lines import number

LEAST = 3  # straight pieces that an arc takes the place of
MOST = 600  # at the most
SWEEP = math.radians(350.0)  # of one arc: nearer to all of it both ends are one by rounding
WIDEST = 2000.0  # mm of radius: flatter ones are straight
POINTS = 0.1  # of the tolerance that points may lie off by; the rest is for the bow of each straight piece, which the arc takes back
SHORTEST = 0.2  # mm along


@numba.njit(cache=True, nogil=True)
def _arc_of(p: Any, a: int, b: int, tol: float, helix: bool, out: Any) -> bool:
    """Whether the points a to b of a way lie on one arc. p: (n, 3), mm; out: gets the middle's x and y, and 1 against the clock. Every point
    and every height lies within a share of tol of the arc, and every straight piece's bow within the rest."""
    m = (a + b) // 2
    ax, ay, bx, by, cx, cy = p[a, 0], p[a, 1], p[m, 0], p[m, 1], p[b, 0], p[b, 1]
    d = 2.0 * ((bx - ax) * (cy - ay) - (by - ay) * (cx - ax))
    if abs(d) < 1e-9:
        return False
    u, v = (bx - ax) ** 2 + (by - ay) ** 2, (cx - ax) ** 2 + (cy - ay) ** 2
    x = ax + ((cy - ay) * u - (by - ay) * v) / d
    y = ay + ((bx - ax) * v - (cx - ax) * u) / d
    r = math.hypot(ax - x, ay - y)
    if r > WIDEST:
        return False
    swept, way = 0.0, 1.0 if d > 0.0 else -1.0
    for k in range(a, b):
        qx, qy, nx, ny = p[k, 0] - x, p[k, 1] - y, p[k + 1, 0] - x, p[k + 1, 1] - y
        if abs(math.hypot(nx, ny) - r) > POINTS * tol:
            return False
        turn = math.atan2(qx * ny - qy * nx, qx * nx + qy * ny) * way
        if turn <= 0.0 or turn > 1.0 or r * (1.0 - math.cos(0.5 * turn)) > (1.0 - POINTS) * tol:
            return False
        swept += turn
    if swept > SWEEP or swept * r < SHORTEST:
        return False
    rise, gone = p[b, 2] - p[a, 2], 0.0
    if rise != 0.0 and not helix:
        return False
    for k in range(a, b):
        qx, qy, nx, ny = p[k, 0] - x, p[k, 1] - y, p[k + 1, 0] - x, p[k + 1, 1] - y
        gone += math.atan2(qx * ny - qy * nx, qx * nx + qy * ny) * way
        if abs(p[k + 1, 2] - (p[a, 2] + rise * gone / swept)) > POINTS * tol:
            return False
    out[0], out[1], out[2] = x, y, way
    return True


@numba.njit(cache=True, nogil=True)
def runs(p: Any, rapid: Any, feed: Any, tol: float, helix: bool, ends: Any, arcs: Any) -> int:
    """Shares a way out to straight moves and arcs, each arc as long as it may be. p: (n + 1, 3); ends: (n,) int64, gets behind which move each share ends; arcs: (n, 3), gets
    of each the middle's x and y, and 1 against the clock, -1 with it, 0 where it is straight. Gives how many shares."""
    n, i, count = len(rapid), 0, 0
    out, best = np.zeros(3), np.zeros(3)
    while i < n:
        last = i + 1
        best[2] = 0.0
        if not rapid[i]:
            far = i + 1
            while far < n and far - i < MOST and not rapid[far] and feed[far] == feed[i]:
                far += 1
            step, j = LEAST, i + LEAST
            while j <= far and _arc_of(p, i, j, tol, helix, out):  # in growing strides, and then by halves
                last, best[0], best[1], best[2] = j, out[0], out[1], out[2]
                step *= 2
                j = min(i + step, far) if last < far else far + 1
            low, high = last, min(j, far + 1)
            while best[2] != 0.0 and high - low > 1:
                middle = (low + high) // 2
                if _arc_of(p, i, middle, tol, helix, out):
                    low, last, best[0], best[1], best[2] = middle, middle, out[0], out[1], out[2]
                else:
                    high = middle
        ends[count] = last
        arcs[count, 0], arcs[count, 1], arcs[count, 2] = best[0], best[1], best[2]
        count += 1
        i = last
    return count


def fitted(moves: Moves, tol: float, helix: bool) -> tuple[NDArray[np.int64], NDArray[np.float64]]:
    """Shares of a way: behind which move each ends, and of each the arc's middle and turn (0: straight), as ``runs`` has them."""
    n = len(moves)
    ends, arcs = np.zeros(n, np.int64), np.zeros((n, 3))
    count = runs(np.ascontiguousarray(moves.points), moves.rapid, moves.feed, tol, helix, ends, arcs)
    return ends[:count], arcs[:count]


def lines_with_arcs(
    moves: Moves, dialect: Dialect, before: int, decimals: int, feed_decimals: int
) -> tuple[list[str], list[int]]:
    """Lines of the moves, arcs as G2 and G3 with I and J, and behind which move each line ends. The first goes across to the first place, whose height is reached already."""
    scale = 25.4 if dialect.units == "inch" else 1.0
    ends, arcs = fitted(moves, dialect.arc_tolerance, dialect.arcs == "helix")
    points = np.round(moves.points / scale, decimals)
    lines: list[str] = []
    upto: list[int] = []
    fed = ""

    def say(words: list[str], end: int) -> None:
        lines.append(" ".join([f"N{10 * (before + len(lines) + 1)}"] * dialect.line_numbers + words))
        upto.append(end)

    x, y = (number(v, decimals) for v in points[0, :2])
    say(["G0", f"X{x}", f"Y{y}"], 0)
    here, way = [x, y, ""], "G0"  # its height is said with the first move that follows
    start = 0
    for end, (cx, cy, turn) in zip(ends.tolist(), arcs.tolist()):
        place = [number(v, decimals) for v in points[end]]
        word = "G0" if moves.rapid[start] else ("G1" if turn == 0.0 else "G3" if turn > 0.0 else "G2")
        moved = [f"{axis}{new}" for axis, new, old in zip("XYZ", place, here) if new != old]
        if not moved and turn == 0.0:
            start = end
            continue
        words = [word] if word != way else []
        if turn != 0.0:
            words += [f"X{place[0]}", f"Y{place[1]}", *([f"Z{place[2]}"] if place[2] != here[2] else [])]
            i, j = _middle(points[start], points[end], cx / scale, cy / scale)
            words += [f"I{number(i, decimals)}", f"J{number(j, decimals)}"]
        else:
            words += moved
        if word != "G0":
            told = number(float(moves.feed[start]) / scale, feed_decimals)
            words += [f"F{told}"] if told != fed else []
            fed = told
        say(words, end)
        here, way, start = place, word, end
    return lines, upto


def _middle(a: NDArray[np.float64], b: NDArray[np.float64], cx: float, cy: float) -> tuple[float, float]:
    """An arc's middle from its start, brought onto the line from which both ends, as written, are as far."""
    mx, my = 0.5 * (a[0] + b[0]), 0.5 * (a[1] + b[1])
    nx, ny = -(b[1] - a[1]), b[0] - a[0]
    square = nx * nx + ny * ny
    t = ((cx - mx) * nx + (cy - my) * ny) / square if square > 1e-18 else 0.0
    x, y = (mx + t * nx, my + t * ny) if square > 1e-18 else (cx, cy)
    return float(x - a[0]), float(y - a[1])


def warm() -> None:
    """Compile, or load the compiled kernels."""
    p = np.zeros((5, 3))
    runs(p, np.zeros(4, np.bool_), np.zeros(4), 0.005, True, np.zeros(4, np.int64), np.zeros((4, 3)))
