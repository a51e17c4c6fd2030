# SPDX-License-Identifier: GPL-3.0-or-later
"""What is V-cut where something else of the same setup stays, or is sunk already."""

from __future__ import annotations

from collections.abc import Sequence

import shapely

from gatepost.core.carve.areas import area_of
from gatepost.core.carve.lettering import Lettering
from gatepost.core.carve.sunk_report import SunkShape
from gatepost.core.findings import Finding, Fix, Level
from gatepost.core.job.operation import Operation
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


def cut_twice(cut: Sequence[tuple[str, Lettering]], setup: str) -> list[Finding]:
    """V-cuts that lie over each other: both grooves are there, and neither can be read. cut: name and letters of each, on one face."""
    areas = [
        (name, shapely.union_all([letter.outline().simplify(ROUGH) for letter in made.letters])) for name, made in cut
    ]
    said: list[Finding] = []
    for i, (name, area) in enumerate(areas):
        for other, under in areas[:i]:
            met = area.intersection(under).area
            if met > LEAST:
                message = f"{name[:1].upper()}{name[1:]} is cut over {other}, on {area_words(met)}: neither can be read there. Move one of them."
                said.append(Finding("carve.cut-twice", Level.CARE, STAGE, message, setup, about=f"{name}, {other}"))
    return said


AFTER = "the ground's cutters have gone by, so that no edge of a groove is frayed by them; its grooves are cut beside a floor, where the wood splits more easily"
BEFORE = "its grooves are cut in whole wood; the ground's cutters then go by them, and leave fuzz that is rubbed off"


def which_first(ground: Operation, letters: Operation, setup: str) -> Finding:
    """A ground, and what is cut into the face beside it: which is cut first, and what the other order would do."""
    first = "ground" if ground.id in letters.after else "letters" if letters.id in ground.after else ""
    how = {
        "ground": f"{letters.name} is cut after {ground.name}: {AFTER}.",
        "letters": f"{letters.name} is cut before {ground.name}: {BEFORE}.",
        "": f"{letters.name} and {ground.name} are cut in the order that takes fewest minutes. After the ground, {AFTER}. Before it, {BEFORE}.",
    }[first]
    fixes = []
    for one, other, name, words in (
        (letters, ground, "ground", f"Cut {letters.name} after {ground.name}"), (ground, letters, "letters", f"Cut {letters.name} before {ground.name}"),
    ):  # fmt: skip
        if first != name and one.id not in other.after:
            fixes.append(Fix("set operation", {"operation": one.id, "after": (*one.after, other.id)}, words))
    return Finding(
        "carve.which-first", Level.NOTE, STAGE, how, setup, fixes=tuple(fixes), about=f"{letters.name}, {ground.name}"
    )
