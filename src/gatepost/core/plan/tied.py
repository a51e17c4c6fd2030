# SPDX-License-Identifier: GPL-3.0-or-later
"""Which setup a piece's place is tied to: where what it is laid on or into was made, though others may have come between."""

from __future__ import annotations

from collections.abc import Sequence

from gatepost.core.job.holes import Drilling
from gatepost.core.job.model import Setup
from gatepost.core.job.register import InStepNest, OnPins


def tied(setup: Setup, earlier: Sequence[Setup]) -> Setup | None:
    """The last in which its pins' holes were drilled right through, or the one in which its frame was cut; else the one directly before, or nothing. earlier: all before it, in their order."""
    comes = setup.comes
    found: list[Setup] = []
    if isinstance(comes, OnPins):
        rows = set(comes.on)
        found = [
            s
            for s in earlier
            if any(isinstance(o.figures, Drilling) and o.figures.through and rows & set(o.on) for o in s.operations)
        ]
    if isinstance(comes, InStepNest):
        found = [s for s in earlier if any(o.id == comes.cut for o in s.operations)]
    return found[-1] if found else earlier[-1] if earlier else None
