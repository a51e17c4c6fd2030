# SPDX-License-Identifier: GPL-3.0-or-later
"""Holds beside other work: what is cut away under them, and flaws that they bear on."""

from __future__ import annotations

from collections.abc import Sequence

import shapely

from gatepost.core.findings import Finding, Level
from gatepost.core.frames import Bed, FaceFrame, Matrix
from gatepost.core.hold.kind import HoldKinds
from gatepost.core.job.hold import Hold
from gatepost.core.job.model import Setup
from gatepost.core.wood.flaws import Lies, flaw_area, flaw_place


def below_the_plane(holds: Sequence[Hold], setup: str, plane: float, kinds: HoldKinds) -> list[Finding]:
    """Whether every hold of a surfacing stays below the finished plane. plane: mm above the bed."""
    return [f for hold in holds for f in kinds[hold.kind].over_plane(hold, setup, plane)]


def resting_on_flaws(
    setup: Setup, to_bed: Matrix[FaceFrame, Bed], pads: list[tuple[str, shapely.Geometry]], flaws: tuple[Lies, ...]
) -> list[Finding]:
    """Holds that bear on a flaw. pads: name of each hold and where it bears, on the bed."""
    said: list[Finding] = []
    for name, pad in pads:
        for lie in flaws:
            disc = to_bed.area(flaw_area(lie.flaw))
            if lie.flaw.kind != "knot" and pad.intersects(disc):
                message = f"{name} bears on the {lie.flaw.kind} at {flaw_place(lie.flaw)} of the board: it may give or split. Move it."
                said.append(Finding("hold.on-flaw", Level.CARE, "hold", message, setup.name, about=name))
    return said
