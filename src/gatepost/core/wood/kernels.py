# SPDX-License-Identifier: GPL-3.0-or-later
"""Compiled sweep of a cutter over a height field, exact for straight moves.

For a move a to b of length L in XY with slope m = dz/L, a cell at u along and v across: the tool's height
over the cell is convex in the axis position s for every profile that never falls and never bends down on the way out, so
clamping its free minimum to [0, L] is exact without sub-stepping. Kernels that call each other stay in this one module: the kernel
cache does not notice a changed callee in another file. No NaN enters: cells off the wood are masked by a
very high height outside.
"""

from __future__ import annotations

import math
from typing import Any

import numba
import numpy as np

FLAT, BALL, VEE, ROUND = 0, 1, 2, 3
UPRIGHT = 1e9  # mm up per mm out: as steep as no cone is


@numba.njit(cache=True, nogil=True)
def _row_span(ax: float, ay: float, bx: float, by: float, R: float, y: float) -> tuple[float, float]:
    """x from and to, where a row meets the capsule of radius R about a segment; from > to when it does not."""
    lo, hi = math.inf, -math.inf
    for px, py in ((ax, ay), (bx, by)):
        h = R * R - (y - py) * (y - py)
        if h >= 0.0:
            w = math.sqrt(h)
            lo, hi = min(lo, px - w), max(hi, px + w)
    dx, dy = bx - ax, by - ay
    L = math.sqrt(dx * dx + dy * dy)
    if L > 0.0 and abs(dy) > 1e-12 * L:
        shift = R * L / abs(dy)  # the strip's two sides along this row
        centre = ax + (y - ay) * dx / dy
        # only that part of the row whose foot lies between the ends
        ta = ax - (y - ay) * dy / dx if abs(dx) > 1e-12 * L else -math.inf
        tb = ax + (L * L - (y - ay) * dy) / dx if abs(dx) > 1e-12 * L else math.inf
        if abs(dx) <= 1e-12 * L:
            if min(ay, by) <= y <= max(ay, by):
                lo, hi = min(lo, centre - shift), max(hi, centre + shift)
        else:
            f, t = max(min(ta, tb), centre - shift), min(max(ta, tb), centre + shift)
            if f <= t:
                lo, hi = min(lo, f), max(hi, t)
    elif L > 0.0 and abs(y - ay) <= R:
        lo, hi = min(lo, min(ax, bx)), max(hi, max(ax, bx))
    return lo, hi


@numba.njit(cache=True, nogil=True)
def _flat_height(az: float, m: float, L: float, u: float, w: float) -> float:
    s = u - w if m > 0.0 else u + w
    s = min(max(s, 0.0), L)
    return az + m * s


@numba.njit(cache=True, nogil=True)
def _ball_height(az: float, m: float, L: float, u: float, w: float, R: float) -> float:
    s = u - w * m / math.sqrt(1.0 + m * m)
    s = min(max(s, 0.0), L)
    d = w * w - (s - u) * (s - u)
    return az + m * s + R - math.sqrt(d if d > 0.0 else 0.0)


@numba.njit(cache=True, nogil=True)
def _vee_height(az: float, m: float, L: float, u: float, v: float, w: float, k: float, tip: float) -> float:
    """A cone whose virtual point lies k·tip below a flat of radius tip; where the cone's lowest lies within
    the flat, the flat rules: both are convex and the cutter is the higher of them."""
    if k > abs(m):
        s = u - abs(v) * m / math.sqrt(k * k - m * m)
    else:
        s = -math.inf if m > 0.0 else math.inf
    s = min(max(s, max(0.0, u - w)), min(L, u + w))
    rho = math.sqrt((s - u) * (s - u) + v * v)
    if rho < tip:
        return float(_flat_height(az, m, L, u, math.sqrt(tip * tip - v * v)))
    return az + m * s + k * (rho - tip)


HALVINGS = 44  # of the way on which a bull's lowest place is looked for


@numba.njit(cache=True, nogil=True)
def _round_over(rho: float, k: float, flat: float, r: float, arc: float, up: float) -> float:
    """Height of a rounded profile over its tip at a distance from its axis."""
    past = rho - flat
    if past <= 0.0:
        return 0.0
    if past <= arc or k >= UPRIGHT:
        return r - math.sqrt(r * r - past * past) if past < r else r
    return up + k * (past - arc)


@numba.njit(cache=True, nogil=True)
def _round_height(
    az: float, m: float, L: float, u: float, v: float, w: float, k: float, flat: float, r: float, arc: float, up: float
) -> float:  # fmt: skip
    """A level tip of radius flat, an arc of radius r beside it and a cone of slope k beyond. a: how steep the way is; far: how far down
    the way the axis is when it is lowest over the cell: on the cone as of a V, on the arc of a rounded tip as of a ball; a bull's has no closed form and is
    halved down to."""
    a, c = abs(m), abs(v)
    far = 0.0
    if a > 0.0:
        on_cone = c * k / math.sqrt(k * k - a * a) if k > a else math.inf
        if k <= a:
            far = math.inf
        elif on_cone >= flat + arc:
            far = c * a / math.sqrt(k * k - a * a)
        elif flat == 0.0:
            far = math.sqrt(max(r * r - c * c, 0.0)) * a / math.sqrt(1.0 + a * a)
        else:
            low = math.sqrt(max(flat * flat - c * c, 0.0))
            high = math.sqrt(max((flat + arc) * (flat + arc) - c * c, 0.0))
            for _ in range(HALVINGS):
                far = 0.5 * (low + high)
                rho = math.sqrt(far * far + c * c)
                past = rho - flat
                # slope of the arc along the way: past/sqrt(r² - past²)·far/rho, against a
                if past > 0.0 and past * far > a * rho * math.sqrt(max(r * r - past * past, 0.0)):
                    high = far
                else:
                    low = far
    s = u - far if m > 0.0 else u + far
    s = min(max(s, max(0.0, u - w)), min(L, u + w))
    return float(az + m * s + _round_over(math.sqrt((s - u) * (s - u) + c * c), k, flat, r, arc, up))


@numba.njit(cache=True, nogil=True)
def _row_any(
    row: Any, cell: float, kind: int, az: float, m: float, L: float, R: float, k: float, tip: float, r: float, arc: float, up: float, u: float,
    v: float, tx: float, ty: float,
) -> tuple[float, float]:  # fmt: skip
    """One row by any cutter at any slope: the plain way, cell by cell. Gives height summed and greatest taken."""
    volume, most = 0.0, 0.0
    for c in range(row.shape[0]):
        ww = R * R - v * v
        if ww >= 0.0:
            w = math.sqrt(ww)
            if kind == FLAT:
                h = _flat_height(az, m, L, u, w)
            elif kind == BALL:
                h = _ball_height(az, m, L, u, w, R)
            elif kind == VEE:
                h = _vee_height(az, m, L, u, v, w, k, tip)
            else:
                h = _round_height(az, m, L, u, v, w, k, tip, r, arc, up)
            rounded = np.float32(h)
            if rounded < row[c]:
                drop = row[c] - rounded
                volume += drop
                most = max(most, drop)
                row[c] = rounded
        u += cell * tx
        v -= cell * ty
    return volume, most


@numba.njit(cache=True, nogil=True, fastmath={"nnan", "ninf", "nsz", "reassoc", "contract"})
def _row_level(row: Any, height: float) -> tuple[float, float]:
    """One row by a flat cutter that keeps its height."""
    h = np.float32(height)
    volume, most = np.float32(0.0), np.float32(0.0)
    for c in range(row.shape[0]):
        old = row[c]
        drop = max(old - h, np.float32(0.0))
        row[c] = min(old, h)
        volume += drop
        most = max(most, drop)
    return float(volume), float(most)


@numba.njit(cache=True, nogil=True, fastmath={"nnan", "ninf", "nsz", "reassoc", "contract"})
def _row_cone(
    row: Any, cell: float, az: float, m: float, L: float, k: float, lean: float, u0: float, v0: float, tx: float,
    ty: float,
) -> tuple[float, float]:  # fmt: skip
    """One row by a pointed V that stays within its edge: places from the row's start in float32."""
    du, dv = np.float32(cell * tx), np.float32(-cell * ty)
    u1, v1, end = np.float32(u0), np.float32(v0), np.float32(L)
    base, slope, steep, leans = np.float32(az + m * u0), np.float32(m), np.float32(k), np.float32(-lean)
    rise = np.float32(m * cell * tx)
    volume, most, nil = np.float32(0.0), np.float32(0.0), np.float32(0.0)
    for c in range(row.shape[0]):
        n = np.float32(c)
        u, v = u1 + n * du, v1 + n * dv
        t = min(max(leans * abs(v), -u), end - u)  # from the cell's foot to where the tip is lowest for it
        h = (base + n * rise) + (slope * t + steep * np.sqrt(t * t + v * v))
        old = row[c]
        drop = max(old - h, nil)
        row[c] = min(old, h)
        volume += drop
        most = max(most, drop)
    return float(volume), float(most)


@numba.njit(cache=True, nogil=True, fastmath={"nnan", "ninf", "nsz", "reassoc", "contract"})
def _row_cone_untold(
    row: Any, cell: float, az: float, m: float, L: float, k: float, lean: float, u0: float, v0: float, tx: float,
    ty: float,
) -> None:  # fmt: skip
    """As _row_cone, where what is taken need not be told: no sums are carried from cell to cell."""
    du, dv = np.float32(cell * tx), np.float32(-cell * ty)
    u1, v1, end = np.float32(u0), np.float32(v0), np.float32(L)
    base, slope, steep, leans = np.float32(az + m * u0), np.float32(m), np.float32(k), np.float32(-lean)
    rise = np.float32(m * cell * tx)
    for c in range(row.shape[0]):
        n = np.float32(c)
        u, v = u1 + n * du, v1 + n * dv
        t = min(max(leans * abs(v), -u), end - u)
        h = (base + n * rise) + (slope * t + steep * np.sqrt(t * t + v * v))
        row[c] = min(row[c], h)


@numba.njit(cache=True, nogil=True, fastmath={"nnan", "ninf", "nsz", "reassoc", "contract"})
def _row_ball(
    row: Any, cell: float, az: float, m: float, L: float, R: float, u0: float, v0: float, tx: float, ty: float
) -> tuple[float, float]:
    """One row by a ball: places from the row's start in float32."""
    du, dv = np.float32(cell * tx), np.float32(-cell * ty)
    u1, v1, end = np.float32(u0), np.float32(v0), np.float32(L)
    base, slope, square = np.float32(az + m * u0 + R), np.float32(m), np.float32(R * R)
    lean, rise = np.float32(-m / math.sqrt(1.0 + m * m)), np.float32(m * cell * tx)
    volume, most, nil = np.float32(0.0), np.float32(0.0), np.float32(0.0)
    for c in range(row.shape[0]):
        n = np.float32(c)
        u, v = u1 + n * du, v1 + n * dv
        ww = max(square - v * v, nil)
        t = min(max(lean * np.sqrt(ww), -u), end - u)
        h = (base + n * rise) + (slope * t - np.sqrt(max(ww - t * t, nil)))
        old = row[c]
        drop = max(old - h, nil)
        row[c] = min(old, h)
        volume += drop
        most = max(most, drop)
    return float(volume), float(most)


@numba.njit(cache=True, nogil=True)
def sweep(
    z: Any, x0: float, y0: float, cell: float, moves: Any, kind: int, R: float, k: float, tip: float, r: float, top: float,
    told: Any, taken: Any, deepest: Any, row_from: int, row_to: int, plainly: bool,
) -> None:  # fmt: skip
    """Lower a height field by straight moves of one cutter, rows row_from to row_to only.

    z: float32 (rows, columns), changed in place; cell (j, i) stands at x0 + i·cell, y0 + j·cell. moves: float64
    (n, 6) from x, y, z to x, y, z of the tip. R: radius; k: 1/tan(half angle) of a cone; tip: radius of a level tip; r: of what is rounded
    beside it.
    top: no wood stands above this. taken, deepest: float64 (n,), raised by each move's volume (mm³) and the
    greatest height that it takes off one cell (mm), where told (bool, (n,)) asks for it; else
    perhaps not. plainly: every row the plain way, to hold the quick rows against.
    """
    columns = z.shape[1]
    arc, up = r * k / math.sqrt(1.0 + k * k), r * (1.0 - 1.0 / math.sqrt(1.0 + k * k))
    for i in range(moves.shape[0]):
        ax, ay, az, bx, by, bz = moves[i, 0], moves[i, 1], moves[i, 2], moves[i, 3], moves[i, 4], moves[i, 5]
        low = min(az, bz)
        if low >= top:
            continue
        reach, edge = R, True
        if kind == VEE:
            reach = tip + (top - low) / k
            edge = reach >= R
            reach = min(reach, R)
        elif kind == BALL and top - low < R:
            reach = math.sqrt(R * R - (R - (top - low)) * (R - (top - low)))
        elif kind == ROUND:
            deep = top - low
            reach = tip + (math.sqrt(r * r - (r - deep) * (r - deep)) if deep < up else arc + (deep - up) / k)
            reach = min(reach, R)
        j0 = max(row_from, int(math.ceil((min(ay, by) - reach - y0) / cell)))
        j1 = min(row_to - 1, int(math.floor((max(ay, by) + reach - y0) / cell)))
        if j0 > j1:
            continue
        dx, dy = bx - ax, by - ay
        L = math.sqrt(dx * dx + dy * dy)
        if L < 1e-9:
            L, tx, ty, m = 0.0, 1.0, 0.0, 0.0
            az = low
        else:
            tx, ty = dx / L, dy / L
            m = (bz - az) / L
        quick = 0
        if not plainly:
            if kind == FLAT and m == 0.0:
                quick = 1
            elif kind == VEE and tip == 0.0 and not edge and abs(m) < k:
                quick = 2
            elif kind == BALL and abs(m) < 20.0:
                quick = 3
        lean = m / math.sqrt(k * k - m * m) if quick == 2 else 0.0
        volume, most = 0.0, 0.0
        # a row meets the capsule in both ends' circles and in the strip between them, as in _row_span
        square = reach * reach
        slant = abs(dy) > 1e-12 * L  # the move does not run along the rows
        upright = abs(dx) <= 1e-12 * L
        shift, way = (reach * L / abs(dy), dx / dy) if slant else (0.0, 0.0)
        fall, far = (dy / dx, L * L / dx) if slant and not upright else (0.0, 0.0)
        for j in range(j0, j1 + 1):
            y = y0 + j * cell
            qa, qb = y - ay, y - by
            lo, hi = math.inf, -math.inf
            ha, hb = square - qa * qa, square - qb * qb
            if ha >= 0.0:
                w = math.sqrt(ha)
                lo, hi = ax - w, ax + w
            if hb >= 0.0:
                w = math.sqrt(hb)
                lo, hi = min(lo, bx - w), max(hi, bx + w)
            if slant:
                centre = ax + qa * way
                f, t = centre - shift, centre + shift
                if upright:
                    if (qa > 0.0) == (qb > 0.0):  # not between the ends
                        f, t = math.inf, -math.inf
                else:
                    ta = ax - qa * fall
                    tb = ta + far
                    f, t = max(min(ta, tb), f), min(max(ta, tb), t)
                if f <= t:
                    lo, hi = min(lo, f), max(hi, t)
            elif L > 0.0 and qa * qa <= square:
                lo, hi = min(lo, min(ax, bx)), max(hi, max(ax, bx))
            if lo > hi:
                continue
            i0 = max(0, int(math.ceil((lo - x0) / cell)))
            i1 = min(columns - 1, int(math.floor((hi - x0) / cell)))
            if i0 > i1:
                continue
            u = (x0 + i0 * cell - ax) * tx + (y - ay) * ty
            v = (y - ay) * tx - (x0 + i0 * cell - ax) * ty
            if quick == 2 and not told[i]:
                # whole groups of eight are quicker; beyond its reach a cone is over all the wood there is
                i1 = min(columns - 1, i0 + ((i1 - i0) // 8) * 8 + 7)
                _row_cone_untold(z[j, i0 : i1 + 1], cell, az, m, L, k, lean, u, v, tx, ty)
                continue
            row = z[j, i0 : i1 + 1]
            if quick == 1:
                gone, deep = _row_level(row, az)
            elif quick == 2:
                gone, deep = _row_cone(row, cell, az, m, L, k, lean, u, v, tx, ty)
            elif quick == 3:
                gone, deep = _row_ball(row, cell, az, m, L, R, u, v, tx, ty)
            else:
                gone, deep = _row_any(row, cell, kind, az, m, L, R, k, tip, r, arc, up, u, v, tx, ty)
            volume += gone
            most = max(most, deep)
        taken[i] += volume * cell * cell
        deepest[i] = max(deepest[i], most)


def warm() -> None:
    """Compile, or load the compiled kernels."""
    z = np.zeros((2, 2), np.float32)
    moves = np.zeros((1, 6))
    sweep(
        z,
        0.0,
        0.0,
        1.0,
        moves,
        FLAT,
        1.0,
        1.0,
        0.0,
        0.0,
        -1.0,
        np.ones(1, np.bool_),
        np.zeros(1),
        np.zeros(1),
        0,
        2,
        False,
    )
