# SPDX-License-Identifier: GPL-3.0-or-later
"""Stops for the vacuum in a long program: where the bit is up, so that grooves that fill with dust are taken clear before more is cut in them."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from gatepost.core.motion import Moves
from gatepost.core.program.lines import filled_lines
from gatepost.core.program.split import places_up

LAST = 60.0  # s before its end, in which nobody stops a program any more
ASKED = "Stop for the vacuum: lift it, and take the dust out of the grooves with the hose, not by hand. To reach in: stop, isolate, and resume from here."


def vacuum_stops(
    text: str, moves: Moves, line: Sequence[int], seconds: Sequence[float], every: float
) -> tuple[int, ...]:
    """After how many blocks a program stands still, each the first place with the bit up after so many minutes of cutting. line, seconds: of each of its moves; every: minutes, 0 for none."""
    gone = np.cumsum(np.asarray(seconds, np.float64))
    if every <= 0.0 or not len(gone) or gone[-1] <= 60.0 * every + LAST:
        return ()
    numbers = {number: n for n, (number, _) in enumerate(filled_lines(text), start=1)}
    out: list[int] = []
    since = 0.0
    for i in places_up(moves):
        if i >= len(line) or line[i] == line[i - 1]:
            continue  # behind the last move, or in the middle of a line
        at = float(gone[i - 1])
        if at - since >= 60.0 * every and float(gone[-1]) - at > LAST:
            out.append(numbers[line[i - 1]])
            since = at
    return tuple(out)
