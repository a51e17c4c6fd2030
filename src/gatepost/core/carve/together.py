# SPDX-License-Identifier: GPL-3.0-or-later
"""What is V-cut where something else of the same setup stays, or is sunk already."""

from __future__ import annotations

import math
from collections.abc import Sequence

import shapely

from gatepost.core.carve.cut_away import Out
from gatepost.core.carve.lettering import Lettering
from gatepost.core.carve.paths import drawn_holes
from gatepost.core.carve.sunk_report import SunkShape
from gatepost.core.findings import Finding, Fix, Level
from gatepost.core.job.operation import Operation
from gatepost.core.units import area_words, mm

STAGE = "carve"
ROUGH = 0.05  # mm: enough to see whether two lie over each other
HOLE_TABS = 2  # that hold what is cut out of a hole
LEAST = 1.0  # mm² that they may seem to


def over_each_other(
    sunk: Sequence[tuple[str, float, SunkShape]], cut: Sequence[tuple[str, Lettering]], setup: str
) -> list[Finding]:
    """sunk: name, depth (infinite where it goes right through) and shape of each floor; cut: name and letters of each V-cut, all on one face."""
    said: list[Finding] = []
    for name, letters in cut:
        area = shapely.union_all([letter.outline().simplify(ROUGH) for letter in letters.letters])
        for floor, depth, shape in sunk:
            into = area.intersection(shape.stays([a.id for a in shape.art if a.kind == "plate"])).area
            about = f"{name}, {floor}"
            if into > LEAST:
                message = f"{name[:1].upper()}{name[1:]} is cut into what stays in {floor}: {area_words(into)} of it. Move one of them."
                said.append(Finding("carve.cut-into-raised", Level.CARE, STAGE, message, setup, about=about))
            over = area.intersection(shape.top).area
            if over > LEAST:
                lost = (
                    f"which is sunk {mm(depth)}: so much of its grooves is gone there, and what is shallower does not show"
                    if math.isfinite(depth)
                    else "which is cut right through: nothing of it is there"
                )
                message = f"{area_words(over)} of {name} lies over {floor}, {lost}."
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


def holes_left(cut: Sequence[Out], worked: Sequence[Operation], setup: str) -> list[Finding]:
    """Holes of drawings that are cut out, which nothing of the setup cuts. cut: every cut-out; worked: all that is
    done there."""
    said: list[Finding] = []
    for out in cut:
        operation, plate, tool = out.operation, out.plate, out.tool
        others = [o for o in worked if o is not operation and set(o.on) & set(operation.on)]
        if plate.hole or any(o.kind != "cutout" for o in others):
            continue
        done = {getattr(o.figures, "hole", 0) for o in others}
        left = [(n, hole) for n, hole in enumerate(drawn_holes(plate), start=1) if n not in done]
        far = tool.diameter + plate.allowance
        wide = [
            (n, HOLE_TABS if not hole.buffer(-far).is_empty else 0)
            for n, hole in left
            if not hole.buffer(-far / 2.0).is_empty
        ]
        if left:
            thin = len(left) - len(wide)
            more = f"; into {thin} of them tool {tool.number} does not get" if thin else ""
            message = f"{len(left)} hole{'s' if len(left) != 1 else ''} of the drawing {'are' if len(left) != 1 else 'is'} not cut out{more}."
            words = "Cut them out, inside their lines" if len(wide) > 1 else "Cut it out, inside its line"
            fixes = (
                (
                    Fix(
                        "cut out holes",
                        {"operation": operation.id, "holes": tuple(wide)},
                        words,
                    ),
                )
                if wide
                else ()
            )
            said.append(
                Finding("carve.holes-left", Level.CARE, STAGE, message, setup, fixes=fixes, about=operation.name)
            )
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
    fixes = tuple(
        Fix("cut first", {"operation": one.id, "then": other.id}, words)
        for one, other, name, words in (
            (ground, letters, "ground", f"Cut {letters.name} after {ground.name}"), (letters, ground, "letters", f"Cut {letters.name} before {ground.name}"),
        )
        if first != name
    )  # fmt: skip
    return Finding(
        "carve.which-first", Level.NOTE, STAGE, how, setup, fixes=fixes, about=f"{letters.name}, {ground.name}"
    )
