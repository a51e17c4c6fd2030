# SPDX-License-Identifier: GPL-3.0-or-later
"""A pin in the collet, by which edges are touched."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass

from gatepost.core.job.tool import Tool
from gatepost.core.plan.planned import PlannedSetup
from gatepost.machine.in_hand import InHand
from gatepost.machine.launch import tool_words
from gatepost.machine.touching import pin_of


@dataclass(frozen=True)
class PinIn:
    """diameter: mm; corner: of the board as it was laid, X and Y on the machine, mm; face: Z on the machine with its tip on the board, mm."""

    diameter: float
    corner: tuple[float, float]
    face: float


@contextmanager
def pin_in(at: InHand, setup: PlannedSetup, tool: Tool, across: float = 0.0) -> Iterator[PinIn]:
    """The pin in the collet while edges are touched, and the tool again after, whatever happens. across: of another pin than the one for X0 Y0."""
    x, y = at.travel
    face = at.tip_on(tool, 0.0, 0.0, float(setup.start.z.max()))[2]
    pin = across or pin_of(setup.setup, tool)
    at.session.fit({**tool_words(tool), "diameter": pin})
    try:
        yield PinIn(pin, (setup.corner[0] - x, setup.corner[1] - y), face)
    finally:
        at.session.fit(tool_words(tool))
