# SPDX-License-Identifier: GPL-3.0-or-later
"""The wood while a program runs: swept as far as the machine says that it is done, and on from there."""

from __future__ import annotations

from gatepost.core.motion import Moves
from gatepost.core.wood.field import Cutter, HeightField, cut


class LiveWood:
    """before: the wood when the program began; moves: all of the program's, in the field's frame; done: how many of them are swept; field: the wood then; of: what it
    is the wood of, for who asks."""

    def __init__(self, before: HeightField, moves: Moves, cutter: Cutter, of: object = None) -> None:
        self.before, self.field, self.done, self.of = before, before, 0, of
        self._moves, self._cutter = moves, cutter

    def to(self, done: int) -> HeightField:
        """The wood after so many moves. What lies behind is swept anew from the beginning."""
        done = min(max(done, 0), len(self._moves))
        if done < self.done:
            self.field, self.done = self.before, 0
        if done > self.done:
            m, a = self._moves, self.done
            part = Moves(m.points[a : done + 1].copy(), m.rapid[a:done].copy(), m.feed[a:done].copy())
            self.field = cut(self.field, part, self._cutter, threads=1).after
            self.done = done
        return self.field
