# SPDX-License-Identifier: GPL-3.0-or-later
"""Compiled scanner for the usual lines of a program; every other line is handed to the plain reader.

It carries out a line whole or not at all: what it does not take (a word or a number it does not know, an error of
any kind, a letter twice, words that exclude each other, G4, G53, G80, M2, M6, M30, %, arcs whose ends
agree only nearly or that their radius does not quite span) it leaves untouched and returns to its caller, so that the plain reader alone
decides what such a line means and what is said about it. Numbers are an integer over a power of ten, both exact in
float64, so the quotient is the nearest double, as float() gives; longer ones are handed over.
"""

from __future__ import annotations

import math
from typing import Any

import numba
import numpy as np

DONE, HAND, ROOM, REST = 0, 1, 2, 3
X, Y, Z, FACTOR, FEED, SPINDLE = 0, 1, 2, 3, 4, 5  # reals
AT, LINE, MOTION, ABSOLUTE, UNITS, COUNT, SAID, WORDS, PIECES = 0, 1, 2, 3, 4, 5, 6, 7, 8  # whole numbers
_POWERS = 10.0 ** np.arange(23)
_LETTER = np.zeros(256, np.int64)
_LETTER[65:91] = np.arange(1, 27)
_LETTER[97:123] = np.arange(1, 27)


@numba.njit(cache=True, nogil=True)
def _centre(
    x0: float, y0: float, x1: float, y1: float, r: float, clockwise: bool, tells: bool, i: float, j: float
) -> tuple[bool, float, float]:
    if not tells:
        return True, x0 + i, y0 + j
    dx, dy = x1 - x0, y1 - y0
    chord = math.hypot(dx, dy)
    if chord == 0.0 or chord > 2.0 * abs(r):
        return False, 0.0, 0.0
    h = math.sqrt(max(0.0, r * r - chord * chord / 4.0))
    side = -1.0 if clockwise else 1.0
    if r <= 0.0:
        side = -side
    return True, (x0 + x1) / 2.0 - side * h * dy / chord, (y0 + y1) / 2.0 + side * h * dx / chord


@numba.njit(cache=True, nogil=True)
def scan(
    data: Any, reals: Any, whole: Any, points: Any, rapid: Any, feeds: Any, lines: Any, said: Any, longest: int,
    largest: float, tolerance: float, most: int, same: float, largest_arc: float, most_pieces: int,
) -> int:  # fmt: skip
    """Read on from whole[AT] until the end, a line to be handed over, arrays that are full, or ``most`` lines.

    data: uint8 with a line end at its close; points: float64 (n + 1, 3); rapid, feeds, lines: (n,), line counts
    from 1; said: int64 (k, 2), where comments begin and end; same: mm within which an arc's ends agree; largest_arc: mm of
    radius; most_pieces: of all arcs. Returns DONE, HAND (the line at whole[AT], numbered
    whole[LINE], is untouched), ROOM or REST.
    """
    value = np.zeros(27)
    seen = np.zeros(27, np.int64)
    codes = np.zeros(16)
    size = data.shape[0]
    at, line, motion, absolute, units = whole[AT], whole[LINE], whole[MOTION], whole[ABSOLUTE], whole[UNITS]
    count, spoken = whole[COUNT], whole[SAID]
    px, py, pz = reals[X], reals[Y], reals[Z]
    factor, feed, spindle = reals[FACTOR], reals[FEED], reals[SPINDLE]
    begun, all_pieces = whole[WORDS], whole[PIECES]
    stop, stamp = line + most, 0
    status = DONE
    while at < size:
        if line >= stop:
            status = REST
            break
        if count >= rapid.shape[0] or spoken + 64 > said.shape[0]:
            status = ROOM
            break
        stamp += 1
        p, talk, g, m = at, spoken, 0, 0
        bad = words = False
        while True:  # the words of one line
            c = data[p]
            if c == 10 or c == 13:
                break
            if c == 32 or c == 9:
                p += 1
                continue
            if c == 40 or c == 59:  # ( ;
                p += 1
                begin = p
                while data[p] != 10 and data[p] != 13 and (c == 59 or data[p] != 41):
                    p += 1
                if talk >= said.shape[0]:
                    bad = True
                    break
                said[talk, 0], said[talk, 1] = begin, p
                talk += 1
                if data[p] == 41:
                    p += 1
                continue
            letter = _LETTER[c]
            if letter == 0:
                bad = True
                break
            words = True
            p += 1
            while data[p] == 32 or data[p] == 9:
                p += 1
            negative = data[p] == 45
            if negative or data[p] == 43:
                p += 1
            mantissa, digits, places, point = 0, 0, 0, False
            while True:
                d = data[p]
                if 48 <= d <= 57:
                    mantissa = mantissa * 10 + (d - 48)
                    digits += 1
                    if point:
                        places += 1
                elif d == 46 and not point:
                    point = True
                else:
                    break
                p += 1
                if digits > 15:
                    break
            if digits == 0 or digits > 15:
                bad = True
                break
            number = mantissa / _POWERS[places]
            if negative:
                number = -number
            if letter == 7:
                whole_code = number
                if g >= 16 or not (
                    number == 0 or number == 1 or number == 2 or number == 3 or number == 17 or number == 20
                    or number == 21 or number == 40 or number == 49
                    or number == 90 or number == 91 or number == 94
                ):  # fmt: skip
                    bad = True
                    break
                codes[g] = whole_code
                g += 1
            elif letter == 13:
                m += 1
                if m > 1 or not (
                    number == 0 or number == 3 or number == 4 or number == 5 or number == 8 or number == 9
                ):
                    bad = True
                    break
            else:
                known = letter == 6 or letter == 9 or letter == 10 or letter == 14 or 18 <= letter <= 20 or letter >= 24
                if (
                    not known
                    or seen[letter] == stamp
                    or (letter == 19 and number < 0.0)
                    or (letter == 20 and places > 0)
                ):
                    bad = True
                    break
                value[letter] = number
                seen[letter] = stamp
        if bad or p - at > longest:
            status = HAND
            break
        # what the line will have changed, on copies
        new_factor, new_units, new_absolute, new_motion, new_feed = factor, units, absolute, motion, feed
        ways = scales = distances = 0
        for i in range(g):
            code = codes[i]
            if code == 20:
                new_factor, new_units = 25.4, 2
                scales += 1
            elif code == 21:
                new_factor, new_units = 1.0, 1
                scales += 1
            elif code == 90:
                new_absolute = 1
                distances += 1
            elif code == 91:
                new_absolute = 0
                distances += 1
            elif code <= 3:
                new_motion = int(code)
                ways += 1
        centred, spans = seen[9] == stamp or seen[10] == stamp, seen[18] == stamp
        placed = seen[24] == stamp or seen[25] == stamp or seen[26] == stamp or (centred and new_motion >= 2)
        if ways > 1 or scales > 1 or distances > 1 or ((centred or spans) and (new_motion < 2 or not placed)):
            status = HAND
            break
        if seen[6] == stamp:
            new_feed = value[6] * new_factor
            if new_feed <= 0:
                status = HAND
                break
        room = True
        if placed:
            nx, ny, nz = px, py, pz
            if seen[24] == stamp:
                nx = value[24] * new_factor + (0.0 if new_absolute else px)
                bad = bad or abs(value[24] * new_factor) > largest
            if seen[25] == stamp:
                ny = value[25] * new_factor + (0.0 if new_absolute else py)
                bad = bad or abs(value[25] * new_factor) > largest
            if seen[26] == stamp:
                nz = value[26] * new_factor + (0.0 if new_absolute else pz)
                bad = bad or abs(value[26] * new_factor) > largest
            if bad or new_motion < 0 or (new_motion >= 1 and new_feed <= 0):
                status = HAND
                break
            if new_motion <= 1:
                if nx != px or ny != py or nz != pz:
                    points[count + 1, 0], points[count + 1, 1], points[count + 1, 2] = nx, ny, nz
                    rapid[count] = new_motion == 0
                    feeds[count] = 0.0 if new_motion == 0 else new_feed
                    lines[count] = line
                    count += 1
                    px, py, pz = nx, ny, nz
            else:
                clockwise = new_motion == 2
                tells = spans
                ci = value[9] * new_factor if seen[9] == stamp else 0.0
                cj = value[10] * new_factor if seen[10] == stamp else 0.0
                good, cx, cy = _centre(px, py, nx, ny, value[18] * new_factor, clockwise, tells, ci, cj)
                radius, end = math.hypot(px - cx, py - cy), math.hypot(nx - cx, ny - cy)
                if not good or centred == spans or radius < 1e-9 or abs(radius - end) > max(0.01, 0.001 * radius):
                    status = HAND
                    break
                apart = math.hypot(nx - px, ny - py)
                if radius > largest_arc or 0.0 < apart <= same:
                    status = HAND
                    break
                a0, a1 = math.atan2(py - cy, px - cx), math.atan2(ny - cy, nx - cx)
                turn = (a0 - a1) if clockwise else (a1 - a0)
                turn = turn % (2.0 * math.pi)
                if turn == 0.0 or apart == 0.0:
                    turn = 2.0 * math.pi
                step = 2.0 * math.acos(max(0.0, 1.0 - tolerance / max(radius, tolerance)))
                pieces = max(1, int(math.ceil(turn / step)))
                if all_pieces + pieces > most_pieces:
                    status = HAND
                    break
                if count + pieces > rapid.shape[0]:
                    room = False
                else:
                    all_pieces += pieces
                    sz = pz
                    for i in range(1, pieces + 1):
                        qx, qy, qz = nx, ny, nz
                        if i < pieces:
                            a = a0 + (-turn if clockwise else turn) * i / pieces
                            r = radius + (end - radius) * i / pieces
                            qx, qy, qz = cx + r * math.cos(a), cy + r * math.sin(a), sz + (nz - sz) * i / pieces
                        if qx != px or qy != py or qz != pz:
                            points[count + 1, 0], points[count + 1, 1], points[count + 1, 2] = qx, qy, qz
                            rapid[count] = False
                            feeds[count] = new_feed
                            lines[count] = line
                            count += 1
                            px, py, pz = qx, qy, qz
        if not room:
            status = ROOM
            break
        factor, units, absolute, motion, feed = new_factor, new_units, new_absolute, new_motion, new_feed
        if seen[19] == stamp:
            spindle = value[19]
        spoken = talk
        if words:
            begun = 1
        if data[p] == 13 and p + 1 < size and data[p + 1] == 10:
            p += 1
        at = p + 1
        line += 1
    whole[AT], whole[LINE], whole[MOTION], whole[ABSOLUTE], whole[UNITS] = at, line, motion, absolute, units
    whole[COUNT], whole[SAID], whole[WORDS], whole[PIECES] = count, spoken, begun, all_pieces
    reals[X], reals[Y], reals[Z] = px, py, pz
    reals[FACTOR], reals[FEED], reals[SPINDLE] = factor, feed, spindle
    return status


def warm() -> None:
    """Compile, or load the compiled scanner."""
    data = np.frombuffer(b"G0X1\n", np.uint8)
    scan(
        data, np.ones(6), np.array([0, 1, -1, 1, 0, 0, 0, 0, 0]), np.zeros((3, 3)), np.zeros(2, bool), np.zeros(2),
        np.zeros(2, np.int64), np.zeros((64, 2), np.int64), 2000, 1e5, 0.002, 10, 1e-6, 1e6, 10,
    )  # fmt: skip
