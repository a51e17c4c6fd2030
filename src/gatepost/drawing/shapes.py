# SPDX-License-Identifier: GPL-3.0-or-later
"""What is drawn: shapes in mm, each with a role. Painters know roles; shapes know no colour."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray

if TYPE_CHECKING:
    from shapely.geometry import MultiPolygon, Polygon

Array = NDArray[np.float64]


@dataclass(frozen=True)
class Shape:
    """Rings or a line. kind: area, line, lines (pairs of points), dot, text, label, image, ring. points: (n, 2) mm, Y up.

    key names what can be taken hold of; rings: further outlines of an area (holes); size: mm of a dot or ring;
    index: a tool's number, for its hue and dash; pixels: RGBA rows from the top, of an image whose points are its front left, front right and back left corners,
    or picture, the bytes of a picture file; clip: an outline outside which nothing of it is seen.
    """

    kind: str
    points: Array
    role: str
    key: str = ""
    text: str = ""
    rings: tuple[Array, ...] = ()
    size: float = 0.0
    index: int = 0
    clip: Array | None = None
    picture: bytes = b""
    closed: bool = False
    pixels: NDArray[np.uint8] | None = None
    align: str = "centre"


@dataclass(frozen=True)
class HandleFrame:
    """What a thing is sized and turned by: its corners from the lower left on, to the left about it, in its own directions, and its middle, mm; turn: degrees that
    it is turned by to the left, on its face; stretches: whether it may be made wider without being made higher; locked: whether it stays as it is."""

    corners: Array
    middle: tuple[float, float]
    turn: float = 0.0
    stretches: bool = False
    locked: bool = False


@dataclass(frozen=True)
class Drawing:
    """Shapes in painting order, and the mm that they are to be seen in: x0, y0, x1, y1. tall: how much heights are stretched; frames: by key, of
    what can be sized and turned."""

    shapes: tuple[Shape, ...]
    extents: tuple[float, float, float, float]
    title: str = ""
    subtitle: str = ""
    tall: float = 1.0
    rulers: bool = True
    about: dict[str, float] = field(default_factory=dict)
    true: bool = False  # heights at the scale of lengths: a V is as steep as it is
    frames: dict[str, HandleFrame] = field(default_factory=dict)
    close: tuple[float, float, float, float] | None = None  # the same from near: the board and what holds it


def area(polygon: Polygon | MultiPolygon, role: str, key: str = "", index: int = 0) -> list[Shape]:
    """Areas of a polygon, holes kept."""
    parts = getattr(polygon, "geoms", [polygon])
    return [
        Shape(
            "area",
            np.asarray(p.exterior.coords)[:, :2],
            role,
            key,
            rings=tuple(np.asarray(i.coords)[:, :2] for i in p.interiors),
            index=index,
        )
        for p in parts
        if not p.is_empty
    ]


def box(x0: float, y0: float, x1: float, y1: float, role: str, key: str = "", index: int = 0) -> Shape:
    """A rectangle."""
    return Shape("area", np.array([[x0, y0], [x1, y0], [x1, y1], [x0, y1], [x0, y0]]), role, key, index=index)


def line(points: Array, role: str, key: str = "", index: int = 0) -> Shape:
    """An open line."""
    return Shape("line", np.asarray(points, dtype=np.float64)[:, :2], role, key, index=index)


def dot(x: float, y: float, role: str, key: str = "", size: float = 4.0) -> Shape:
    """A dot."""
    return Shape("dot", np.array([[x, y]]), role, key, size=size)


def text(x: float, y: float, words: str, role: str = "text", align: str = "centre", key: str = "") -> Shape:
    """Words, no box."""
    return Shape("text", np.array([[x, y]]), role, key, words, align=align)


def label(x: float, y: float, words: str, role: str = "label", key: str = "", align: str = "centre") -> Shape:
    """Words in a box."""
    return Shape("label", np.array([[x, y]]), role, key, words, align=align)
