# SPDX-License-Identifier: GPL-3.0-or-later
"""What is V-cut where something else of the same setup stays, or is sunk already."""

from __future__ import annotations

from collections.abc import Sequence

import shapely

from gatepost.core.carve.areas import area_of
from gatepost.core.carve.lettering import Lettering
from gatepost.core.carve.sunk_report import SunkShape
from gatepost.core.findings import Finding, Level
from gatepost.core.units import area_words, mm

STAGE = "carve"
ROUGH = 0.05  # mm: enough to see whether two lie over each other
LEAST = 1.0  # mm² that they may seem to


def over_each_other(
    sunk: Sequence[tuple[str, float, SunkShape]], cut: Sequence[tuple[str, Lettering]], setup: str
) -> list[Finding]:
    """sunk: name, depth and shape of each floor; cut: name and letters of each V-cut, all on one face."""
    said: list[Finding] = []
    for name, letters in cut:
        area = shapely.union_all([letter.outline().simplify(ROUGH) for letter in letters.letters])
        for floor, depth, shape in sunk:
            stays = shapely.union_all([area_of(a, ROUGH) for a in shape.art if a.kind != "plate"])
            into = area.intersection(stays).area
            about = f"{name}, {floor}"
            if into > LEAST:
                message = f"{name[:1].upper()}{name[1:]} is cut into what stays in {floor}: {area_words(into)} of it. Move one of them."
                said.append(Finding("carve.cut-into-raised", Level.CARE, STAGE, message, setup, about=about))
            over = area.intersection(shape.top).area
            if over > LEAST:
                message = (
                    f"{area_words(over)} of {name} lies over {floor}, which is sunk {mm(depth)}: so much of its grooves is gone there, and what is "
                    "shallower does not show."
                )
                said.append(Finding("carve.cut-over-floor", Level.CARE, STAGE, message, setup, about=about))
    return said
