# SPDX-License-Identifier: GPL-3.0-or-later
"""Where the zeros are, the sums of touching off, and whether everything fits the travel."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from gatepost.core.frames import Bed, Board, MachineFrame, Matrix, Point, Work, bed_to_machine, shift, turn
from gatepost.core.job.blank import Blank as BlankModel
from gatepost.core.job.machine import Machine
from gatepost.core.job.model import Setup
from gatepost.core.job.zero import Zero
from gatepost.core.motion import Moves
from gatepost.core.tolerances import RESERVE
from gatepost.core.working import Named, Working, working

SLACK = 0.005  # mm; rounding of a program written in inches is no misfit
CORNERS = {"front left": (0, 0), "front right": (1, 0), "back left": (0, 1), "back right": (1, 1), "centre": (0.5, 0.5)}


def datum(zero: Zero, blank: BlankModel) -> Point[Board]:
    """X0 Y0 in blank coordinates."""
    if zero.xy == "mark":
        return Point(zero.x, zero.y)
    if zero.xy == "outline middle":
        return Point(*middle_of(blank))
    fx, fy = CORNERS[zero.xy]
    return Point(*blank.part(fx, fy))


def middle_of(blank: BlankModel) -> tuple[float, float]:
    """Middle of a blank's area, blank coordinates: a live edge has no centre of its own. By the surveyor's formula."""
    corners = np.asarray(blank.outline, np.float64)
    if blank.shape != "outline" or len(corners) < 3:
        return blank.middle
    x, y = corners.T
    after_x, after_y = np.roll(x, -1), np.roll(y, -1)
    twice = x * after_y - after_x * y
    area = float(twice.sum())
    if abs(area) < 1e-9:
        return 0.5 * blank.length, 0.5 * blank.width
    return float(((x + after_x) * twice).sum() / (3.0 * area)), float(((y + after_y) * twice).sum() / (3.0 * area))


def touch_place(zero: Zero, blank: BlankModel) -> Point[Board]:
    """Where Z is first touched, in blank coordinates: a chosen place, or the X0 Y0 mark itself."""
    if zero.touch_x is not None and zero.touch_y is not None:
        return Point(zero.touch_x, zero.touch_y)
    return datum(zero, blank)


@dataclass(frozen=True)
class Placed:
    """Where the board lies in a setup: board to work, and work to bed. Everything on the bed goes through these."""

    to_work: Matrix[Board, Work]
    work_to_bed: Matrix[Work, Bed]

    @property
    def to_bed(self) -> Matrix[Board, Bed]:
        """The board on the bed."""
        return self.to_work.then(self.work_to_bed)

    @property
    def mark(self) -> tuple[float, float]:
        """X0 Y0 on the bed: about it the board lies turned."""
        return self.work_to_bed.xy(0.0, 0.0)


def placed(setup: Setup, board: BlankModel, zero_height: float = 0.0) -> Placed:
    """board: as it lies in the setup; zero_height: the Z0 plane above the spoilboard, mm, nought where heights don't count.

    Turned about X0 Y0 by the setup's skew: that is where it is touched.
    """
    mark = datum(setup.zero, board)
    lie: Matrix[Board, Board] = shift(-mark.x, -mark.y, -zero_height)
    return Placed(lie.then(turn(setup.skew)), shift(mark.x + setup.x, mark.y + setup.y, zero_height))


def machine_zero(machine: Machine, stickout: float, work: Matrix[Work, Bed]) -> Point[MachineFrame]:
    """Machine coordinates at which the display is to read nought with a tool of this stickout."""
    frame = bed_to_machine(machine.travel_x, machine.travel_y, machine.nose_at_home, stickout)
    return frame.apply(work.apply(Point(0.0, 0.0, 0.0)))


@dataclass(frozen=True)
class OutOfTravel:
    """Moves that leave the travel. axis: X, Y or Z; by: mm past the limit; end: which limit."""

    axis: str
    by: float
    end: str
    working: Working


def travel_misfits(
    moves: Moves, machine: Machine, stickout: float, by_machine: NDArray[np.bool_] | None = None
) -> list[OutOfTravel]:
    """Every axis on which moves (bed frame) leave the machine's travel, less a reserve at both ends, with how far.

    stickout: tip below the nose, mm, as good as it was measured; by_machine: of each move whether its X, Y and Z are the machine's own
    (moves, 3): those may be at the very end, as may the place that a program begins at.
    """
    frame = bed_to_machine(machine.travel_x, machine.travel_y, machine.nose_at_home, stickout)
    points = frame.array(np.asarray(moves.points))[1:]
    found: list[OutOfTravel] = []
    for axis, travel, column in (("X", machine.travel_x, 0), ("Y", machine.travel_y, 1), ("Z", machine.travel_z, 2)):
        reached = points[:, column] if by_machine is None else points[~by_machine[:, column], column]
        if not len(reached):
            continue
        high, low = float(reached.max()), float(reached.min())
        kept = Named("reserve", RESERVE)
        if high > SLACK - RESERVE:
            sum_ = working("reach + reserve - limit", Named("reach", high), kept, Named("limit", 0.0))
            found.append(OutOfTravel(axis, sum_.result, "home end", sum_))
        if low < RESERVE - travel - SLACK:
            sum_ = working("limit + reserve - reach", Named("limit", -travel), kept, Named("reach", low))
            found.append(OutOfTravel(axis, sum_.result, "far end", sum_))
    return found
