# SPDX-License-Identifier: GPL-3.0-or-later
"""Holds beside other work: what is cut away under them, and flaws that they bear on."""

from __future__ import annotations

import math
from collections.abc import Sequence

import shapely
from shapely.geometry import Point as Spot

from gatepost.core.findings import Finding, Fix, Level
from gatepost.core.frames import Bed, Board, Matrix
from gatepost.core.hold.solids import SIDES
from gatepost.core.job.hold import Hold
from gatepost.core.job.model import Setup
from gatepost.core.units import mm
from gatepost.core.wood.flaws import Lies

BELOW = 1.0  # mm that holds stay below the finished plane


def below_the_plane(holds: Sequence[Hold], setup: str, plane: float) -> list[Finding]:
    """Whether every hold of a surfacing stays below the finished plane. plane: mm above the bed."""
    said: list[Finding] = []
    for hold in holds:
        if hold.kind == "strap":
            message = (
                f"{hold.name} presses on the face that is cut away. For surfacing the wood is held below the finished plane: "
                "edge clamps, wedges, tape or screws in waste; and a slab is never pulled flat, it springs back."
            )
            fix = Fix("remove hold", {"setup": setup, "hold": hold.name}, f"Take {hold.name} away")
            said.append(Finding("hold.on-the-face", Level.STOP, "hold", message, setup, fixes=(fix,), about=hold.name))
        elif hold.kind in SIDES and hold.height > plane - BELOW:
            message = f"{hold.name} stands {mm(hold.height)} high and the finished face is at {mm(plane)}: it must stay {mm(BELOW)} below."
            low = math.floor((plane - BELOW) * 2.0) / 2.0
            fixes = (
                (Fix("set hold", {"setup": setup, "hold": hold.name, "height": low}, f"Set it to {mm(low)}"),)
                if low > 2.0
                else ()
            )
            said.append(Finding("hold.above-plane", Level.STOP, "hold", message, setup, fixes=fixes, about=hold.name))
    return said


def resting_on_flaws(
    setup: Setup, to_bed: Matrix[Board, Bed], pads: list[tuple[str, shapely.Geometry]], flaws: tuple[Lies, ...]
) -> list[Finding]:
    """Holds that bear on a flaw. pads: name of each hold and where it bears, on the bed."""
    said: list[Finding] = []
    for name, pad in pads:
        for lie in flaws:
            disc = Spot(*to_bed.xy(lie.flaw.x, lie.flaw.y)).buffer(max(lie.flaw.size / 2.0, 0.5))
            if lie.flaw.kind != "knot" and pad.intersects(disc):
                message = f"{name} bears on the {lie.flaw.kind} at X {mm(lie.flaw.x)}, Y {mm(lie.flaw.y)} of the board: it may give or split. Move it."
                said.append(Finding("hold.on-flaw", Level.CARE, "hold", message, setup.name, about=name))
    return said
