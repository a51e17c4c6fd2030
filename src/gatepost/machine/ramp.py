# SPDX-License-Identifier: GPL-3.0-or-later
"""How the feed rises at the beginning of a program: first moves slowly in the air, in the wood never so slowly that the bit rubs, then as whoever watches says."""

from __future__ import annotations

import contextlib
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from gatepost.core.errors import OperatorError
from gatepost.core.plan.planned import PlannedSetup, ProgramFile
from gatepost.core.program.lines import filled_lines
from gatepost.core.tools.feeds import IN_THE_AIR, rubbing_share
from gatepost.machine.session import Session

TOUCHES = 0.05  # mm under the highest wood from which a move is in it
AHEAD = 1  # blocks before the first that enters wood by which the feed has risen


@dataclass
class FeedRamp:
    """entry: the block that enters wood first, 0 where none does; least: of the feed, per cent, under which the bit rubs; risen: whether it has been raised for that."""

    entry: int
    least: float
    risen: bool = False

    @property
    def air(self) -> float:
        """Of the feed, per cent, in the air."""
        return IN_THE_AIR * 100.0

    @property
    def words(self) -> str:
        """What is said where the bit rubs."""
        return f"Under {self.least:.0f} % of its feed this bit rubs in the wood and burns: raise the feed, or slow the spindle."

    def wanted(self, done: int, now: float) -> float | None:
        """What the feed is to rise to before the next block, per cent; nothing where it stays. done: blocks; now: per cent."""
        if self.risen or not self.entry or done < self.entry - 1 - AHEAD:
            return None
        self.risen = True
        return self.least if now < self.least else None

    def rubs(self, done: int, percent: float) -> bool:
        """Whether the bit would rub at a share of its feed, now that it is in the wood."""
        return bool(self.entry) and done >= self.entry - 1 and percent < self.least - 0.5


def ramp_of(setup: PlannedSetup, program: ProgramFile) -> FeedRamp:
    """Of a program. The wood counts as high as its highest place when the setup began."""
    points = np.asarray(setup.on_bed(program).points)
    rapid = program.moves.rapid
    top = float(setup.start.z.max())
    enters = np.flatnonzero(~rapid & (points[1:, 2] < top - TOUCHES))
    if not len(enters):
        return FeedRamp(0, 0.0)
    filled = np.array([number for number, _ in filled_lines(program.text)])
    block = int(np.searchsorted(filled, program.line[int(enters[0])], side="right"))
    return FeedRamp(block, float(np.ceil(100.0 * rubbing_share(program.tool))))


class Slowly:
    """Around a program: its first moves slowly; at full feed again for whatever is done next. told: hears of each."""

    def __init__(self, session: Session, ramp: FeedRamp, told: Callable[[float], None]) -> None:
        self._session, self._ramp, self._told = session, ramp, told

    def __enter__(self) -> None:
        self._to(self._ramp.air)

    def __exit__(self, *what: object) -> None:
        with contextlib.suppress(OperatorError):
            self._to(100.0)

    def _to(self, percent: float) -> None:
        self._session.feed(percent)
        self._told(percent)
