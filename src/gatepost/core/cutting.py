# SPDX-License-Identifier: GPL-3.0-or-later
"""What a kind of operation is given, and what it gives: cuts as they are drawn, and what they may take."""

from __future__ import annotations

from collections.abc import Callable, Hashable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from gatepost.core.cache import Memory
from gatepost.core.geometry.art import Art, svg
from gatepost.core.geometry.grid import GridHeights
from gatepost.core.geometry.outline import Area
from gatepost.core.job.tool import Tool
from gatepost.core.motion import Moves

Spot = tuple[float, float, float]
Level = tuple[float, tuple[NDArray[np.float64], ...]]  # a height above the bed, and the lines that are fed there


@dataclass(frozen=True)
class Site:
    """Where an operation is done. outline: of the board, blank XY; face: height that it is cut from, highest: of the wood,
    travel: of rapids over all that stands there, all above the bed, mm; home: where a tool comes from, blank XY; cell: of the
    height field that is swept, mm; times: outlines are followed coarser by as much, for a first look; levels: passes that bring
    the face down, as they are laid out for this board; bite: the deepest of them, mm; grain: degrees from X that it runs at."""

    outline: Area
    face: float
    highest: float
    travel: float
    home: Callable[[Tool], Spot]
    cell: float
    times: float
    memory: Memory
    levels: tuple[Level, ...] = ()
    bite: float = 0.0
    grain: float = 0.0


@dataclass(frozen=True)
class Engaged:
    """How much of a cutter is in the wood at the most, mm. step: beside the path, nothing for a V that cuts both flanks;
    depth: along its axis; peak: peak over mean push, nothing where the step tells it."""

    step: float | None
    depth: float
    peak: float | None = None


@dataclass(frozen=True)
class SunkArea:
    """A region that is cleared or cut round. floor: the region wanted at the floor, or a part's outline; top: where its walls end in the face, nothing where
    they are upright; z: of the floor, above the bed, mm; side: of an outline that is cut round."""

    floor: Art
    top: Art | None
    z: float
    side: str = ""

    def through(self, way: Callable[[NDArray[np.float64]], NDArray[np.float64]]) -> SunkArea:
        """The same region in another frame. way: takes places (n, 2) there."""
        top = self.top.through(way) if self.top is not None else None
        return SunkArea(self.floor.through(way), top, self.z, self.side)

    def svg(self) -> str:
        """Standalone SVG of both outlines, user units mm, Y up, even-odd."""
        return svg({"floor": self.floor, **({"top": self.top} if self.top is not None else {})})


@dataclass(frozen=True)
class Drawn:
    """One cut as it is drawn: what one tool does in one operation. moves: blank XY, heights above the bed; art: what is V-cut; area: what
    is cleared, or cut round; stage: in a word, where an operation has several cuts; target: heights that are carved, above the bed."""

    tool: Tool
    moves: Moves
    engaged: Engaged
    art: Art | None = None
    stage: str = ""
    area: SunkArea | None = None
    target: GridHeights | None = None


@dataclass(frozen=True)
class HeightLimits:
    """How low and how high wood may stand at places of a face, above the bed, mm. low, high: NaN where that is not asked."""

    low: GridHeights
    high: GridHeights


@dataclass(frozen=True)
class Envelope:
    """What an operation allows. area: gives where it may cut at all, blank XY, or nothing for everywhere; low: deeper is a gouge;
    high: what stands above it afterwards was left, nothing where that is not asked; all heights above the bed, mm; key: tells it from others;
    cleared: gives where high is asked, where that is not all of the area; limits: gives how low and how high place by place, where that differs."""

    area: Callable[[], Area] | None
    low: float
    high: float | None = None
    key: Hashable = ()
    cleared: Callable[[], Area] | None = None
    limits: Callable[[], HeightLimits] | None = None
