# SPDX-License-Identifier: GPL-3.0-or-later
"""Carving that meets flaws of the wood."""

from __future__ import annotations

import shapely
from shapely.geometry import Point as Spot

from gatepost.core.carve.depth import depth_of
from gatepost.core.carve.lettering import CutLetter
from gatepost.core.carve.paths import plate_outline, tabs
from gatepost.core.carve.tab_places import tab_shares
from gatepost.core.findings import Finding, Fix, Level, Place
from gatepost.core.frames import Bed, FaceFrame, Matrix
from gatepost.core.job.carve import Plate
from gatepost.core.job.tool import Tool
from gatepost.core.wood.flaws import Lies, flaw_area, flaw_place


def carving_over_flaws(
    letters: tuple[CutLetter, ...],
    tool: Tool,
    flaws: tuple[Lies, ...],
    setup: str,
    to_bed: Matrix[FaceFrame, Bed],
    height: float,
) -> list[Finding]:
    """Letters that are cut into a flaw. height: of the face they are cut from, above the bed."""
    said: list[Finding] = []
    for lie in flaws:
        disc = flaw_area(lie.flaw)
        hit = [
            letter
            for letter in letters
            if letter.outline().intersects(disc)
            and (lie.down > 0.0 or height - depth_of(letter.cut.widest, tool).result <= lie.up)
        ]
        if not hit:
            continue
        names = ", ".join(letter.name for letter in hit[:3]) + (f" and {len(hit) - 3} more" if len(hit) > 3 else "")
        reach = "is cut through" if lie.down > 0.0 else "is reached from above by"
        message = f"The {lie.flaw.kind} at {flaw_place(lie.flaw)} {reach} {names}: edges break out there. Move the lettering, or fill it first."
        place = Place(*to_bed.xy(*lie.flaw.middle), height, lie.flaw.size)
        said.append(
            Finding(
                "carve.flaw", Level.CARE, "carve", message, setup, place=place, about=f"{lie.flaw.x:g},{lie.flaw.y:g}"
            )
        )
    return said


def plate_over_flaws(
    plate: Plate, tool: Tool, flaws: tuple[Lies, ...], setup: str, named: dict[str, str]
) -> list[Finding]:
    """Tabs that stand in a flaw, and flaws that the plate's edge is cut through. named: what tells the cut-out from the first in a command."""
    said: list[Finding] = []
    off = tab_shares(plate, tool, shapely.union_all([flaw_area(lie.flaw) for lie in flaws])) if flaws else ()
    fixes = (Fix("set plate", {"tab_at": off, "tabs": len(off), **named}, "Move the tabs off it"),) if off else ()
    edge = plate_outline(plate).exterior
    places = tabs(plate, tool)
    for lie in flaws:
        f = lie.flaw
        disc = flaw_area(f)
        where = f"the {f.kind} at {flaw_place(f)}"
        standing = [t for t in places if disc.distance(Spot(t.x, t.y)) < plate.tab_width]
        if standing:
            message = f"A tab stands in {where}: it holds little there. Drag it along the line, or move the plate."
            about = f"{f.x:g},{f.y:g}"
            said.append(Finding("carve.tab-flaw", Level.CARE, "carve", message, setup, fixes=fixes, about=about))
        if f.kind != "knot" and edge.intersects(disc):
            message = (
                f"The plate's edge is cut through {where}: look whether it breaks out, and fill it before painting."
            )
            said.append(Finding("carve.edge-flaw", Level.NOTE, "carve", message, setup, about=f"{f.x:g},{f.y:g}"))
    return said
