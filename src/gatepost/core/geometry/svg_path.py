# SPDX-License-Identifier: GPL-3.0-or-later
"""Paths and basic shapes of SVG as straight pieces (SVG 1.1, chapters 8 and 9). Arcs are followed as the ellipses that they are."""

from __future__ import annotations

import math
import re
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from gatepost.core.errors import OperatorError
from gatepost.core.geometry.curves import flatten_piece

Array = NDArray[np.float64]
MOST_POINTS = 400_000  # of one drawing
_NUMBER = r"[-+]?(?:\d+\.?\d*|\.\d+)(?:[eE][-+]?\d+)?"
_TOKEN = re.compile(rf"\s*,?\s*([MmZzLlHhVvCcSsQqTtAa]|{_NUMBER})")
_FLAG = re.compile(r"\s*,?\s*([01])")
_WANTED = {"M": 2, "L": 2, "H": 1, "V": 1, "C": 6, "S": 4, "Q": 4, "T": 2, "A": 7, "Z": 0}
LARGEST = 1e7  # units: a coordinate beyond that is a mistake


@dataclass(frozen=True)
class SubPath:
    """A run of points, (n, 2). closed: whether the file closes it."""

    points: Array
    closed: bool


class _Reader:
    """Takes path data apart, number by number."""

    def __init__(self, data: str) -> None:
        self.data, self.at = data, 0

    def token(self) -> str:
        """A command letter or a number, or nothing at the end."""
        met = _TOKEN.match(self.data, self.at)
        if met is None:
            if self.data[self.at :].strip(" ,\t\r\n"):
                raise OperatorError(f"has a path that can't be read at “{self.data[self.at : self.at + 20].strip()}”.")
            return ""
        self.at = met.end()
        return met[1]

    def more(self) -> bool:
        """Whether a number comes next."""
        met = _TOKEN.match(self.data, self.at)
        return met is not None and met[1][-1] not in "MmZzLlHhVvCcSsQqTtAa"

    def numbers(self, count: int, arc: bool) -> list[float]:
        """So many numbers; of an arc the fourth and fifth are flags of one digit."""
        out: list[float] = []
        for i in range(count):
            if arc and i in (3, 4):
                flag = _FLAG.match(self.data, self.at)
                if flag is None:
                    raise OperatorError("has an arc whose flags can't be read.")
                self.at = flag.end()
                out.append(float(flag[1]))
                continue
            word = self.token()
            if not word or word[-1] in "MmZzLlHhVvCcSsQqTtAa":
                raise OperatorError("has a path that ends in the middle of a line.")
            value = float(word)
            if not abs(value) < LARGEST:
                raise OperatorError("has a path with a number that is far too large.")
            out.append(value)
        return out


class _Pen:
    def __init__(self, tol: float) -> None:
        self.tol = tol
        self.done: list[SubPath] = []
        self.points: list[Array] = []
        self.here = self.start = np.zeros(2)
        self.before: tuple[str, Array] | None = None  # the last curve's kind and its last control point

    def move(self, to: Array) -> None:
        self.end(False)
        self.here = self.start = to
        self.points = [to[None]]

    def end(self, closed: bool) -> None:
        if self.points:
            points = np.vstack(self.points)
            keep = (
                np.concatenate([[True], np.abs(np.diff(points, axis=0)).max(axis=1) > 0.0])
                if len(points) > 1
                else np.ones(1, bool)
            )
            self.done.append(SubPath(points[keep], closed))
            self.points = []

    def add(self, points: Array) -> None:
        if not self.points:  # after a close, a line goes on from where that ended
            self.points = [self.here[None]]
        self.points.append(np.asarray(points).reshape(-1, 2))
        self.here = self.points[-1][-1]


def sub_paths(data: str, tol: float) -> list[SubPath]:
    """Path data as runs of points. tol: how far they may lie beside a curve, in the path's units. Raises OperatorError with the end of a
    sentence."""
    reader, pen = _Reader(data), _Pen(tol)
    command = ""
    while True:
        if not (command and command not in "Zz" and reader.more()):
            command = reader.token()
            if not command:
                break
            if command[-1] not in "MmZzLlHhVvCcSsQqTtAa":
                raise OperatorError("has a path that does not begin with a letter.")
        elif command in "Mm":
            command = "l" if command == "m" else "L"
        _command(pen, command, reader.numbers(_WANTED[command.upper()], command in "Aa"))
    pen.end(False)
    return pen.done


def _command(pen: _Pen, command: str, v: list[float]) -> None:
    relative, kind = command.islower(), command.upper()
    if kind == "Z":
        pen.here = pen.start
        pen.end(True)
        pen.before = None
        return
    if kind in "HV":
        axis = 0 if kind == "H" else 1
        to = pen.here.copy()
        to[axis] = v[0] + (pen.here[axis] if relative else 0.0)
        pen.add(to)
        pen.before = None
        return
    if kind == "A":
        to = np.array(v[5:]) + (pen.here if relative else 0.0)
        pen.add(arc(pen.here, to, v[0], v[1], v[2], bool(v[3]), bool(v[4]), pen.tol))
        pen.before = None
        return
    points = np.array(v).reshape(-1, 2) + (pen.here if relative else 0.0)
    if kind == "M":
        pen.move(points[0])
    elif kind == "L":
        pen.add(points)
    else:
        pen.add(_curve(pen, kind, points))
        return
    pen.before = None


def _curve(pen: _Pen, kind: str, points: Array) -> Array:
    """A curve's points. The smooth ones begin as the curve before them ended."""
    same = {"S": "C", "T": "Q"}.get(kind)
    if same is not None:
        mirrored = 2.0 * pen.here - pen.before[1] if pen.before is not None and pen.before[0] == same else pen.here
        points = np.vstack([mirrored, points])
    pen.before = ("C" if len(points) == 3 else "Q", points[-2])
    return flatten_piece(np.vstack([pen.here, points]), pen.tol)


def arc(a: Array, b: Array, rx: float, ry: float, turn: float, large: bool, sweep: bool, tol: float) -> Array:
    """An elliptical arc's points without its first (SVG 1.1, F.6). turn: of the ellipse, degrees."""
    rx, ry = abs(rx), abs(ry)
    if rx == 0.0 or ry == 0.0 or np.array_equal(a, b):
        return np.asarray(b)[None]
    c, s = math.cos(math.radians(turn)), math.sin(math.radians(turn))
    frame = np.array([[c, s], [-s, c]])
    p = frame @ ((a - b) / 2.0)
    over = (p[0] / rx) ** 2 + (p[1] / ry) ** 2
    if over > 1.0:
        rx, ry = rx * math.sqrt(over), ry * math.sqrt(over)
    square = (rx * ry) ** 2 - (rx * p[1]) ** 2 - (ry * p[0]) ** 2
    share = math.sqrt(max(0.0, square / max((rx * p[1]) ** 2 + (ry * p[0]) ** 2, 1e-300)))
    centre = share * (1.0 if large != sweep else -1.0) * np.array([rx * p[1] / ry, -ry * p[0] / rx])
    first = math.atan2((p[1] - centre[1]) / ry, (p[0] - centre[0]) / rx)
    last = math.atan2((-p[1] - centre[1]) / ry, (-p[0] - centre[0]) / rx)
    way = (last - first) % (2.0 * math.pi)
    way = way if sweep else way - 2.0 * math.pi
    t = first + way * np.linspace(0.0, 1.0, _count(max(rx, ry), abs(way), tol) + 1)[1:]
    points = np.column_stack([rx * np.cos(t), ry * np.sin(t)]) + centre
    out = points @ frame + (a + b) / 2.0
    out[-1] = b
    return np.asarray(out)


def _count(radius: float, way: float, tol: float) -> int:
    """Pieces of an arc whose chords lie within tol of it."""
    step = 2.0 * math.acos(max(-1.0, 1.0 - tol / radius)) if radius > tol else math.pi / 2.0
    return min(20_000, max(1, math.ceil(way / max(step, 1e-4))))


def _ellipse(x: float, y: float, rx: float, ry: float, tol: float) -> list[SubPath]:
    if rx <= 0.0 or ry <= 0.0:
        return []
    count = max(8, _count(max(rx, ry), 2.0 * math.pi, tol))
    t = 2.0 * math.pi * np.arange(count) / count
    return [SubPath(np.column_stack([x + rx * np.cos(t), y + ry * np.sin(t)]), True)]


def _rectangle(
    x: float, y: float, wide: float, high: float, rx: float | None, ry: float | None, tol: float
) -> list[SubPath]:
    if wide <= 0.0 or high <= 0.0:
        return []
    rx, ry = (ry if rx is None else rx) or 0.0, (rx if ry is None else ry) or 0.0
    rx, ry = min(rx, wide / 2.0), min(ry, high / 2.0)
    if rx <= 0.0 or ry <= 0.0:
        return [SubPath(np.array([[x, y], [x + wide, y], [x + wide, y + high], [x, y + high]]), True)]
    out = [np.array([[x + rx, y]])]
    for ax, ay, bx, by in (
        (x + wide - rx, y, x + wide, y + ry), (x + wide, y + high - ry, x + wide - rx, y + high),
        (x + rx, y + high, x, y + high - ry), (x, y + ry, x + rx, y),
    ):  # fmt: skip
        a, b = np.array([ax, ay]), np.array([bx, by])
        out += [a[None], arc(a, b, rx, ry, 0.0, False, True, tol)]
    return [SubPath(np.vstack(out), True)]


Lengths = Callable[[str, float], float]


def of_element(
    name: str, get: Callable[[str], str], length: Lengths, optional: Callable[[str], float | None], tol: float
) -> list[SubPath]:
    """An element's runs of points. get: an attribute; length: one as a number, or what stands for it; optional: one that may be missing.
    Raises OperatorError."""
    if name == "path":
        return sub_paths(get("d"), tol)
    if name == "rect":
        box = (length("x", 0.0), length("y", 0.0), length("width", 0.0), length("height", 0.0))
        return _rectangle(*box, optional("rx"), optional("ry"), tol)
    if name == "circle":
        r = length("r", 0.0)
        return _ellipse(length("cx", 0.0), length("cy", 0.0), r, r, tol)
    if name == "ellipse":
        return _ellipse(length("cx", 0.0), length("cy", 0.0), length("rx", 0.0), length("ry", 0.0), tol)
    if name == "line":
        ends = np.array([[length("x1", 0.0), length("y1", 0.0)], [length("x2", 0.0), length("y2", 0.0)]])
        return [SubPath(ends, False)]
    numbers = [float(n) for n in re.findall(_NUMBER, get("points"))]
    points = np.array(numbers[: len(numbers) // 2 * 2]).reshape(-1, 2)
    return [SubPath(points, name == "polygon")] if len(points) > 1 else []
