# SPDX-License-Identifier: GPL-3.0-or-later
"""What the zeros of a setup are judged on."""

from __future__ import annotations

from dataclasses import dataclass

from gatepost.core.frames import MachineFrame, Point
from gatepost.core.job.machine import Machine
from gatepost.core.job.model import Setup
from gatepost.core.job.tool import Tool
from gatepost.core.working import Working
from gatepost.core.zero.adviser import Spot, ZChoice
from gatepost.core.zero.datum import OutOfTravel
from gatepost.core.zero.trust import Axes
from gatepost.core.zero.ways import Budget, EdgeTouch


@dataclass(frozen=True)
class Zeroed:
    """What the zeros of a setup are judged on. mark, touch: bed XY; covered: hold over the mark or the touch; touched: tools that touch off, and
    how high above the spoilboard each does; lying: how the board comes to lie as it does; beside: by how much the hold that is farthest from the
    zero may stand otherwise than judged, kept: how much is kept clear of holds; straight: whether the board has an edge to be laid square by, squares: ways it can be laid square by, with what the cut is good to
    then and by how much the farthest hold may stand otherwise; edges: that are touched, on the bed;
    first: the tool that the zeros are found with; spreads: how far the touches of each axis lay apart; lengths: of each tool its number, how far
    it sticks out, and machine Z0 where it was touched; depths: of each program its name, how deep below the top and how high above the bed; found: how X0 Y0 is set
    where it is not touched."""

    setup: Setup
    machine: Machine
    mark: tuple[float, float]
    touch: tuple[float, float]
    zero_height: float
    expected: Point[MachineFrame]
    misfits: tuple[tuple[str, OutOfTravel], ...]
    covered_mark: str
    covered_touch: str
    touch_on_board: bool
    axes: Axes
    spots: tuple[Spot, ...]
    upright: ZChoice
    budget: Budget
    margin: float
    allowed: float
    now: str
    touched: tuple[tuple[Tool, float], ...] = ()
    lying: str = ""
    beside: Working | None = None
    kept: float = 0.0
    straight: bool = True
    squares: tuple[tuple[str, float, float], ...] = ()
    edges: tuple[EdgeTouch, ...] = ()
    first: Tool | None = None
    spreads: tuple[tuple[str, float], ...] = ()
    lengths: tuple[tuple[int, float, float | None], ...] = ()
    depths: tuple[tuple[str, float, float], ...] = ()
    found: str = ""
