# SPDX-License-Identifier: GPL-3.0-or-later
"""A face of single lines, drawn for this project: its letters are engraved along their strokes, and have no width of their own.

A glyph is its width and its strokes, in capital heights. A stroke is places (x y) and arcs (a cx cy rx ry from to, degrees, either way round). Small letters
are small capitals.
"""

from __future__ import annotations

import math
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]
NAME = "Single line"
BESIDE, SPACE = 0.11, 0.45  # capital heights: on each side of a letter, and of a space
SMALL = 0.74  # of a capital's size that small letters have
STEP = 3.0  # degrees from point to point of an arc

_BOWL = "0 0, 0 1, .34 1, a .34 .74 .28 .26 90 -90, 0 .48"
_RING = "a .46 .5 .46 .5 90 450"
GLYPHS: dict[str, tuple[float, str]] = {
    "A": (0.80, "0 0, .4 1, .8 0; .14 .35, .66 .35"), "B": (0.65, "0 .52, 0 1, .35 1, a .35 .76 .24 .24 90 -90, 0 .52; 0 .52, .37 .52, a .37 .26 .28 .26 90 -90, 0 0, 0 .52"),
    "C": (0.76, "a .42 .5 .42 .5 42 318"), "D": (0.75, "0 0, 0 1, .3 1, a .3 .5 .45 .5 90 -90, 0 0"), "E": (0.58, ".58 0, 0 0, 0 1, .58 1; 0 .52, .48 .52"),
    "F": (0.56, "0 0, 0 1, .56 1; 0 .52, .46 .52"), "G": (0.84, "a .42 .5 .42 .5 42 360, .5 .5"), "H": (0.72, "0 0, 0 1; .72 0, .72 1; 0 .52, .72 .52"),
    "I": (0.0, "0 0, 0 1"), "J": (0.50, ".5 1, .5 .25, a .25 .25 .25 .25 0 -170"), "K": (0.68, "0 0, 0 1; .64 1, 0 .42; .2 .6, .68 0"), "L": (0.56, "0 1, 0 0, .56 0"),
    "M": (0.86, "0 0, 0 1, .43 .3, .86 1, .86 0"), "N": (0.74, "0 0, 0 1, .74 0, .74 1"), "O": (0.92, _RING), "P": (0.62, _BOWL), "Q": (0.92, f"{_RING}; .55 .25, .9 -.06"),
    "R": (0.66, f"{_BOWL}; .3 .48, .66 0"), "S": (0.62, "a .31 .75 .29 .25 30 270, a .31 .25 .31 .25 90 -150"), "T": (0.72, "0 1, .72 1; .36 1, .36 0"),
    "U": (0.72, "0 1, 0 .36, a .36 .36 .36 .36 180 360, .72 1"), "V": (0.78, "0 1, .39 0, .78 1"), "W": (1.10, "0 1, .28 0, .55 .8, .82 0, 1.1 1"),
    "X": (0.74, "0 0, .74 1; 0 1, .74 0"), "Y": (0.76, "0 1, .38 .5, .76 1; .38 .5, .38 0"), "Z": (0.68, "0 1, .68 1, 0 0, .68 0"),
    "0": (0.70, "a .35 .5 .35 .5 90 450"), "1": (0.22, "0 .8, .22 1, .22 0"), "2": (0.62, "a .31 .7 .31 .3 170 -20, 0 0, .62 0"),
    "3": (0.60, "a .29 .76 .27 .24 150 -90, a .29 .26 .31 .26 90 -150"), "4": (0.68, ".5 0, .5 1, 0 .3, .68 .3"), "5": (0.60, ".55 1, .1 1, .06 .52, a .3 .32 .3 .32 140 -140"),
    "6": (0.62, ".46 1, .005 .364, a .31 .31 .31 .31 170 530"), "7": (0.60, "0 1, .6 1, .2 0"), "8": (0.62, "a .31 .76 .25 .24 90 450; a .31 .26 .31 .26 90 450"),
    "9": (0.62, ".16 0, .615 .636, a .31 .69 .31 .31 -10 350"), ".": (0.08, "a .04 .04 .04 .04 0 360"), ",": (0.08, ".08 .06, 0 -.14"), ":": (0.08, "a .04 .04 .04 .04 0 360; a .04 .56 .04 .04 0 360"),
    "-": (0.35, "0 .48, .35 .48"), "–": (0.60, "0 .48, .6 .48"), "'": (0.0, "0 1, 0 .8"), "’": (0.06, ".06 1, 0 .8"), "!": (0.08, ".04 1, .04 .28; a .04 .04 .04 .04 0 360"),
    "?": (0.50, "a .25 .76 .25 .24 170 -60, .25 .46, .25 .28; a .25 .04 .04 .04 0 360"), "/": (0.42, "0 -.05, .42 1.05"), "+": (0.50, "0 .48, .5 .48; .25 .23, .25 .73"),
    "(": (0.20, "a .55 .48 .55 .62 130 230"), ")": (0.20, "a -.35 .48 .55 .62 -50 50"),
    "&": (0.76, ".74 0, .16 .68, a .35 .79 .21 .21 212 -42, .1 .42, a .29 .26 .29 .26 142 330, .74 .44"),
}  # fmt: skip


def _places(stroke: str) -> Array:
    out: list[tuple[float, float]] = []
    for item in stroke.split(","):
        words = item.split()
        if words[0] != "a":
            out.append((float(words[0]), float(words[1])))
            continue
        cx, cy, rx, ry, first, last = (float(w) for w in words[1:])
        count = max(2, math.ceil(abs(last - first) / STEP))
        for i in range(count + 1):
            t = math.radians(first + (last - first) * i / count)
            out.append((cx + rx * math.cos(t), cy + ry * math.sin(t)))
    points = np.array(out)
    kept = np.concatenate([[True], np.hypot(*np.diff(points, axis=0).T) > 1e-9])
    return np.asarray(points[kept])


@lru_cache(maxsize=256)
def strokes_of(char: str) -> tuple[float, tuple[Array, ...]]:
    """How wide a character is and its strokes, capital heights. Raises KeyError where there is no such character."""
    small = char not in GLYPHS and char.upper() in GLYPHS
    wide, strokes = GLYPHS[char.upper() if small else char]
    size = SMALL if small else 1.0
    return wide * size, tuple(_places(s) * size for s in strokes.split(";"))


def has(char: str) -> bool:
    """Whether the face has a character."""
    return char == " " or char in GLYPHS or char.upper() in GLYPHS


def path_of(char: str) -> str:
    """A character's strokes as closed runs that go there and back, as a job keeps outlines."""

    def pair(p: Array) -> str:
        return " ".join(f"{v:.6f}".rstrip("0").rstrip(".") for v in p)

    out: list[str] = []
    for points in strokes_of(char)[1]:
        run = [*points, *points[-2:0:-1]]
        out.append("M" + "L".join(pair(p) for p in run) + "Z")
    return "".join(out)


def open_strokes(contours: list[Array]) -> list[Array]:
    """Of closed rings of points, (n, 2) without the first repeated, those that go there and back, as the strokes they came from: (m, 2), from end to end."""
    out: list[Array] = []
    for ring in contours:
        half = len(ring) // 2
        if len(ring) < 2 or len(ring) % 2:
            continue
        if np.allclose(ring[1:half], ring[:half:-1], atol=1e-9):
            out.append(ring[: half + 1])
    return out
