# SPDX-License-Identifier: GPL-3.0-or-later
"""Jogging by hand: what must be so that anything moves. Keys at the desk's keyboard, or a pad in the hand, with eyes on the bit.

Whoever jogs arms it by a key held for a second; unused it lapses, and at once where the window has the keys no longer. Nothing here
moves anything: it says what speeds are asked for now, and says none where it is not sure of it.
"""

from __future__ import annotations

import threading
from collections.abc import Iterable
from dataclasses import dataclass, field

UNUSED = 10.0  # s unused after which it lapses
STALE = 0.2  # s after which what was asked for counts no longer
PACES = {"fine": 60.0, "slow": 400.0, "quick": 2000.0}  # mm/min across
DOWN = 0.5  # of the pace along Z
Speeds = tuple[float, float, float]
# by key: axis and way
WAYS: dict[str, Speeds] = {
    "left": (-1.0, 0.0, 0.0), "right": (1.0, 0.0, 0.0), "nearer": (0.0, -1.0, 0.0), "farther": (0.0, 1.0, 0.0),
    "up": (0.0, 0.0, 1.0), "down": (0.0, 0.0, -1.0),
}  # fmt: skip


def speeds_of(ways: Iterable[str], pace: str) -> Speeds:
    """mm/min along X, Y and Z. Two ways against each other are none."""
    sums = [sum(WAYS[w][i] for w in set(ways)) for i in range(3)]
    fast = PACES[pace]
    return (sums[0] * fast, sums[1] * fast, sums[2] * fast * DOWN)


@dataclass
class Arming:
    """Whether jogging is armed. Times in s, of any clock that only goes on."""

    _since: float | None = None

    def arm(self, now: float) -> None:
        """The key has been held for its second."""
        self._since = now

    def used(self, now: float) -> None:
        """Something was jogged, while it is armed."""
        if self.armed(now):
            self._since = now

    def end(self) -> None:
        """The window has the keys no longer, the machine does something else, or it was put away."""
        self._since = None

    def armed(self, now: float) -> bool:
        """Whether it is."""
        return self._since is not None and 0.0 <= now - self._since <= UNUSED

    def left(self, now: float) -> float:
        """s until it lapses."""
        return UNUSED - (now - self._since) if self._since is not None and self.armed(now) else 0.0


@dataclass
class Asked:
    """The speeds that are asked for, told by one thread and read by another. What is not told anew within STALE counts no longer, so that
    a window which hangs moves nothing."""

    _speeds: Speeds | None = None
    _at: float = 0.0
    _owed: Speeds | None = None  # what was asked for and not heard yet: a short tap moves a little too
    _guard: threading.Lock = field(default_factory=threading.Lock)

    def tell(self, speeds: Speeds | None, now: float) -> None:
        """What is asked for now; nothing at all where no key is down."""
        with self._guard:
            self._speeds = speeds
            if speeds is not None and any(speeds):
                self._owed, self._at = speeds, now

    def drop(self) -> None:
        """Nothing is asked for, and nothing that was counts any more."""
        with self._guard:
            self._speeds = self._owed = None

    def speeds(self, now: float) -> Speeds | None:
        """What counts now."""
        with self._guard:
            told = self._speeds if self._speeds is not None and any(self._speeds) else None
            asked, self._owed = told or self._owed, None
            return asked if 0.0 <= now - self._at <= STALE else None
