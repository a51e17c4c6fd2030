# SPDX-License-Identifier: GPL-3.0-or-later
"""Holes: where they are, and the moves that drill or bore them. Blank XY, heights above the bed, mm."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from gatepost.core.carve.paths import RAMP_SLOPE
from gatepost.core.carve.sunk_moves import ABOVE, CLEAR, Heights
from gatepost.core.carve.trace import Trace
from gatepost.core.job.holes import Drilling, HolesFigures
from gatepost.core.job.operation import Artwork
from gatepost.core.job.rows import places
from gatepost.core.job.tool import Tool
from gatepost.core.motion import Moves
from gatepost.core.profile import point
from gatepost.core.tolerances import THROUGH_EXTRA

Array = NDArray[np.float64]
SAME = 0.05  # mm by which a tool may be thinner than its hole and still drill it straight down
BESIDE = 0.45  # of its diameter that a round of an end mill lies from the one inside it, and the first from the middle: no core stays
ROUND = 0.005  # mm by which straight pieces may lie inside a round


@dataclass(frozen=True)
class Drilled:
    """Holes that are drilled. figures: how; art: the holes."""

    figures: Drilling
    art: Artwork

    @property
    def holes(self) -> HolesFigures:
        """Their size and number."""
        assert isinstance(self.art.figures, HolesFigures)
        return self.art.figures


def bottom_of(d: Drilled, tool: Tool, face: float) -> float:
    """How low a tip goes, above the bed: a little into the spoilboard where right through. Holes are as deep as they are whole: a drill's point goes on under that."""
    return (-max(THROUGH_EXTRA, d.figures.into) if d.figures.through else face - d.figures.deep) - point(tool)


def fits(tool: Tool, across: float) -> bool:
    """Whether a tool makes holes of a diameter: a drill its own, an end mill its own and larger ones."""
    straight = 0.0 <= across - tool.diameter + 1e-9 <= SAME + 1e-9
    return straight or tool.kind == "flat" and tool.diameter < across


def hole_moves(d: Drilled, tool: Tool, at: Heights) -> Moves:
    """Hole after hole, each after the one that is nearest."""
    home = at.home(tool)
    trace = Trace(*home)
    trace.rapid(z=max(at.travel, home[2]))
    low = bottom_of(d, tool, at.face)
    bored = d.holes.across - tool.diameter > SAME
    for x, y in _nearest(places(d.art), np.array(home[:2])):
        trace.rapid(x=x, y=y)
        if bored:
            _bore(trace, x, y, d.holes.across, tool, low, at)
        else:
            _peck(trace, tool, low, d.figures.peck, at)
        trace.rapid(z=at.travel)
    return trace.moves()


def _nearest(points: Array, here: Array) -> list[tuple[float, float]]:
    left, out = list(points.tolist()), []
    while left:
        one = min(left, key=lambda p: math.dist(p, here))
        left.remove(one)
        out.append((float(one[0]), float(one[1])))
        here = np.array(one)
    return out


def _peck(trace: Trace, tool: Tool, low: float, peck: float, at: Heights) -> None:
    """Down by so much at a time, up to clear, and down again."""
    x, y, _ = trace.here
    done = at.highest
    while done > low + 1e-9:
        trace.rapid(z=done + (CLEAR if done >= at.highest else ABOVE))
        done = max(low, done - peck)
        done = low if done - low < 0.2 * peck else done
        trace.run(np.array([[x, y, done]]), tool.plunge)
        trace.rapid(z=at.highest + CLEAR)


def _bore(trace: Trace, x: float, y: float, across: float, tool: Tool, low: float, at: Heights) -> None:
    """Round and round down to the bottom, wider each time."""
    for radius in _rounds(across, tool.diameter):
        trace.rapid(z=at.highest + CLEAR)
        trace.rapid(x=x + radius, y=y)
        trace.run(np.array([[x + radius, y, at.highest]]), tool.plunge)
        fall = min(tool.pass_depth, 2.0 * math.pi * radius * RAMP_SLOPE)
        turns = max(1, math.ceil((at.highest - low) / fall))
        pieces = max(24, math.ceil(math.pi / math.acos(max(0.5, 1.0 - ROUND / radius))))
        t = np.arange(1, pieces * (turns + 1) + 1) / pieces
        z = np.maximum(low, at.highest - (at.highest - low) * t / turns)
        angle = -2.0 * math.pi * t  # the cutter's left side on the wall: conventional; the wall stands outside
        trace.run(np.column_stack([x + radius * np.cos(angle), y + radius * np.sin(angle), z]), tool.feed)


def _rounds(across: float, diameter: float) -> Sequence[float]:
    """Radii of an end mill's middle, from the inside out."""
    widest = (across - diameter) / 2.0
    count = max(1, math.ceil(widest / (BESIDE * diameter)))
    return [widest * (k + 1) / count for k in range(count)]
