# SPDX-License-Identifier: GPL-3.0-or-later
"""Arcs worked out by hand, for every reader of programs: the plan's two and the simulated machine's.

Each: its lines, from where the tip stands at 0, 0; then what comes of the last line: the length of its way in the plane
and places that it passes, or why it is refused. Angles were taken from a drawing, lengths are r times the angle.
"""

import math

HEAD = "G21\nG90\nG0 X{x} Y{y} Z0\nG1 F600\n"
# from x, y; the arc's line; length; places passed (x, y)
ARCS = [
    ("a full circle by I alone", (0, 0), "G2 I-20", 2 * math.pi * 20, [(-20, 20), (-40, 0), (-20, -20)]),
    ("the other way round", (0, 0), "G3 I-20", 2 * math.pi * 20, [(-20, -20), (-40, 0), (-20, 20)]),
    ("by J alone", (5, 5), "G2 J10", 2 * math.pi * 10, [(-5, 15), (5, 25), (15, 15)]),
    ("a full circle whose end is written", (20, 0), "G2 X20 Y0 I-20", 2 * math.pi * 20, [(0, -20), (-20, 0), (0, 20)]),
    ("only X written, as it is", (20, 0), "G3 X20 I-20", 2 * math.pi * 20, [(0, 20), (-20, 0), (0, -20)]),
    ("a full turn of a helix", (20, 0), "G3 Z-3 I-20", 2 * math.pi * 20, [(0, 20), (-20, 0), (0, -20)]),
    ("a quarter clockwise", (0, 10), "G2 X10 Y0 J-10", math.pi * 5, [(10 * math.sqrt(0.5), 10 * math.sqrt(0.5))]),
    ("three quarters the other way", (0, 10), "G3 X10 Y0 J-10", math.pi * 15, [(-10, 0), (0, -10)]),
    ("a half circle", (-5, 0), "G2 X5 Y0 I5", math.pi * 5, [(0, 5)]),
    ("a half circle below", (-5, 0), "G3 X5 Y0 I5", math.pi * 5, [(0, -5)]),
    ("all but a thousandth", (20, 0), "G3 X20 Y-0.001 I-20", 2 * math.pi * 20 - 0.001, [(0, 20), (-20, 0), (0, -20)]),
    ("a thousandth", (20, 0), "G3 X20 Y0.001 I-20", 0.001, [(20, 0.0005)]),
    ("ends alike but for rounding", (20, 0), "G2 X20.00000000000001 Y0 I-20", 2 * math.pi * 20, [(0, -20), (-20, 0)]),
    ("ends alike but for a nanometre", (20, 0), "G3 X20 Y0.0000005 I-20", 2 * math.pi * 20, [(0, 20), (-20, 0)]),
]
# refused by every reader
SENSELESS = [
    "X1 X2", "G0 G1 X5", "G1 X5 I2", "G1 X5 J2", "I5", "G20 G21", "G4 P1 X5", "G2 X5 Y0 A3 I2", "G53 G2 X5 I2",
    "Q4", "L2 X5", "T2.5 M6", "G2 X10 Y0 I1", "G1 X5 P3", "X-", "G1.5 X2", "F0 X3", "F-5 X3",
]  # fmt: skip


def passes(points, place, within):
    """Whether a way in the plane passes a place."""
    best = math.inf
    for (ax, ay), (bx, by) in zip(points, points[1:]):
        dx, dy = bx - ax, by - ay
        t = ((place[0] - ax) * dx + (place[1] - ay) * dy) / (dx * dx + dy * dy) if dx or dy else 0.0
        t = min(1.0, max(0.0, t))
        best = min(best, math.hypot(place[0] - ax - t * dx, place[1] - ay - t * dy))
    return best <= within


def length(points):
    """Of a way in the plane."""
    return sum(math.hypot(bx - ax, by - ay) for (ax, ay), (bx, by) in zip(points, points[1:]))
