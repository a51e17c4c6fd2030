# SPDX-License-Identifier: GPL-3.0-or-later
"""What a kind of operation is given, and what it gives: cuts as they are drawn, and what they may take."""

from __future__ import annotations

from collections.abc import Callable, Hashable
from dataclasses import dataclass
from typing import Any, ClassVar

import numpy as np
from numpy.typing import NDArray

from gatepost.core.cache import Memory
from gatepost.core.findings import Figure, Finding
from gatepost.core.findings import Level as Weight
from gatepost.core.frames import Bed, Board, Matrix
from gatepost.core.geometry.art import Art
from gatepost.core.geometry.outline import Area
from gatepost.core.job.base import Model
from gatepost.core.job.kinds import KindEntry
from gatepost.core.job.model import Job, Setup
from gatepost.core.job.operation import Operation
from gatepost.core.job.tool import Tool
from gatepost.core.motion import Moves
from gatepost.core.wood.flaws import Lies

Spot = tuple[float, float, float]
Level = tuple[float, tuple[NDArray[np.float64], ...]]  # a height above the bed, and the lines that are fed there


@dataclass(frozen=True)
class Site:
    """Where an operation is done. outline: of the board, blank XY; face: height that it is cut from, highest: of the wood,
    travel: of rapids over all that stands there, all above the bed, mm; home: where a tool comes from, blank XY; cell: of the
    height field that is swept, mm; times: outlines are followed coarser by as much, for a first look; levels: passes that bring
    the face down, as they are laid out for this board; bite: the deepest of them, mm."""

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


@dataclass(frozen=True)
class Engaged:
    """How much of a cutter is in the wood at the most, mm. step: beside the path, nothing for a V that cuts both flanks;
    depth: along its axis; peak: peak over mean push, nothing where the step tells it."""

    step: float | None
    depth: float
    peak: float | None = None


@dataclass(frozen=True)
class Drawn:
    """One tool's cutting in one operation as it is drawn. moves: blank XY, heights above the bed; art: what is V-cut."""

    moves: Moves
    engaged: Engaged
    art: Art | None = None


@dataclass(frozen=True)
class Envelope:
    """What an operation allows. area: gives where it may cut at all, blank XY, or nothing for everywhere; low: deeper is a gouge;
    high: what stands above it afterwards was left, nothing where that is not asked; all heights above the bed, mm; key: tells it from others."""

    area: Callable[[], Area] | None
    low: float
    high: float | None = None
    key: Hashable = ()


@dataclass(frozen=True)
class JudgedBy:
    """What an operation that was cut is judged by. setup: in which it is done; named: what tells it from the first of its kind in
    a command, nothing for the first; to_bed: where the board lies; outline: of the board, where there is wood for certain;
    tools: of the job; thickness: of the wood at the start of the setup; height_error: of the face it is cut from, mm; peak:
    of its push, N, nought where it is not cut; flaws: of the wood; site: where it was drawn."""

    setup: str
    named: dict[str, str]
    to_bed: Matrix[Board, Bed]
    outline: Area
    tools: tuple[Tool, ...]
    thickness: float
    height_error: float
    peak: float
    flaws: tuple[Lies, ...]
    site: Site


@dataclass(frozen=True)
class Told:
    """What is said of an operation. fact: in few words; line: what is made, in a line."""

    figures: tuple[Figure, ...] = ()
    findings: tuple[Finding, ...] = ()
    fact: str = ""
    line: str = ""


class OperationKind:
    """A kind of operation. figures: the model of its figures; one: as people are told it; frees: whether it cuts pieces out of
    the board; stage: whose page it is on; art: the kind of artwork that it works on, nothing for the face itself."""

    name: ClassVar[str]
    figures: ClassVar[type[Model]]
    one: ClassVar[str]
    frees: ClassVar[bool] = False
    stage: ClassVar[str] = "carve"
    art: ClassVar[str] = ""
    entries: ClassVar[tuple[KindEntry, ...]] = ()

    def together(self, job: Job, setup: Setup, operation: Operation) -> Any | None:
        """All that it wants to know, of the artwork and of how it is cut; nothing where its artwork is not there."""
        return operation.figures

    def cuts(self, figures: Any, tool: Tool, site: Site) -> Drawn | None:
        """What is cut; nothing where there is nothing to cut, or more than can be worked out."""
        raise NotImplementedError

    def envelope(self, figures: Any, tool: Tool, site: Site) -> Envelope:
        """What it may take and must leave."""
        raise NotImplementedError

    def told(self, figures: Any, tool: Tool, at: JudgedBy) -> Told:
        """What else there is to say of it."""
        return Told(fact=self.one)

    def no_tool(self, number: int, setup: str) -> Finding:
        """Where the tool that it asks for is not there."""
        return Finding("carve.no-tool", Weight.STOP, "carve", f"Tool {number} is not in the table.", setup)
