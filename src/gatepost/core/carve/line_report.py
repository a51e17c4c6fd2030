# SPDX-License-Identifier: GPL-3.0-or-later
"""What is said of how lines are set: lines and letters that run into each other, arcs that are too tight, strokes that are gone."""

from __future__ import annotations

import math

import shapely

from gatepost.core.carve import spacing
from gatepost.core.carve.glyph_outlines import bolder, lost
from gatepost.core.carve.lettered import STAGE, Carved, spot
from gatepost.core.carve.lettering import glyph_area, layout
from gatepost.core.carve.setting import along, least_radius
from gatepost.core.carve.single_line import NAME
from gatepost.core.errors import OperatorError
from gatepost.core.findings import Finding, Fix, Level
from gatepost.core.job.base import changed
from gatepost.core.job.carve import Carving, TextLine
from gatepost.core.units import mm

ROUGH = 0.01  # mm that outlines may stray where only their distance counts
BROKEN = 0.01  # of a letter's ink that may be lost at its corners
MOST_STEPS = 40  # of letter spacing that are tried
STEP = 0.02  # × height


def lines_told(c: Carved) -> list[Finding]:
    """Everything about how the lines are set."""
    return _single(c) + _gone(c) + _broken(c) + _arcs(c) + _between_letters(c) + _between_lines(c)


def _single(c: Carved) -> list[Finding]:
    """Letters of single lines, which have no strokes to be V-cut."""
    if not any(line.face == NAME and line.glyphs for line in c.carving.lines):
        return []
    message = (
        f"The face “{NAME}” has lines and no strokes: there is nothing for a V to cut. Engrave it along its lines."
    )
    fix = Fix("engrave lettering", {"operation": c.by.operation}, "Engrave it along its lines")
    return [Finding("carve.single-line", Level.STOP, STAGE, message, c.setup, fixes=(fix,))]


def _between_lines(c: Carved) -> list[Finding]:
    """Lines that run into each other."""
    lines = spacing.by_line(c.lettering.letters)
    near = [n for upper, lower in zip(lines, lines[1:]) if (n := spacing.nearest(upper, lower)) is not None]
    if not near:
        return []
    gap, a, b = min(near, key=lambda one: one[0])
    leading = spacing.leading_wanted(c.lettering.letters, c.carving.leading)
    fix = Fix("set carving", {"leading": leading, **c.by.named}, f"Set the line spacing to {leading:.2f}")
    message = (
        f"{a.name} and {b.name} are {mm(gap, 2)} apart: under {mm(spacing.NEAR)} the wall between two grooves breaks out (a shop rule)."
        if gap > 0.0
        else f"{a.name} runs into {b.name}: set the lines farther apart."
    )
    return [
        Finding("carve.lines-meet", Level.CARE, STAGE, message, c.setup, fixes=(fix,), place=spot(c, b), about=b.name)
    ]


def _gone(c: Carved) -> list[Finding]:
    """Letters that finer strokes leave nothing of."""
    out: list[Finding] = []
    for number, line in enumerate(c.carving.lines):
        gone = [g.char for g in line.glyphs if not bolder(g.path, line.bolder / line.height)]
        if line.bolder < 0.0 and gone:
            message = f"Strokes {mm(-line.bolder)} finer on each side leave nothing of {' '.join(dict.fromkeys(gone))} in line {number + 1}."
            fix = Fix(
                "set line", {"line": line.id, "bolder": 0.0, **c.by.named}, "Keep the strokes as the face has them"
            )
            out.append(
                Finding("carve.letters-gone", Level.STOP, STAGE, message, c.setup, fixes=(fix,), about=line.text)
            )
    return out


def _broken(c: Carved) -> list[Finding]:
    """Letters that finer strokes break, or whose insides bolder ones close."""
    out: list[Finding] = []
    for number, line in enumerate(c.carving.lines):
        by = line.bolder / line.height
        other = list(dict.fromkeys(g.char for g in line.glyphs if by and BROKEN < lost(g.path, by) < 1.0))
        if not other:
            continue
        how = (
            f"{mm(line.bolder)} bolder on each side close gaps"
            if line.bolder > 0.0
            else f"{mm(-line.bolder)} finer on each side break thin strokes"
        )
        message = f"Strokes {how} of {' '.join(other)} in line {number + 1}: look at them."
        fix = Fix("set line", {"line": line.id, "bolder": 0.0, **c.by.named}, "Keep the strokes as the face has them")
        out.append(Finding("carve.letters-broken", Level.CARE, STAGE, message, c.setup, fixes=(fix,), about=line.text))
    return out


def _arcs(c: Carved) -> list[Finding]:
    """Arcs too tight for what stands on them."""
    out: list[Finding] = []
    for number, line in enumerate(c.carving.lines):
        least = least_radius(line)
        if line.run not in ("over", "under") or line.radius >= least:
            continue
        wider = math.ceil(10.0 * least) / 10.0
        message = (
            f"Line {number + 1} is {mm(along(line)[1], 0)} long and its circle {mm(2.0 * math.pi * line.radius, 0)} round: its ends meet."
            if along(line)[1] > 2.0 * math.pi * line.radius * 0.97
            else f"Line {number + 1} hangs in an arc of {mm(line.radius)}, and its letters are {mm(line.height)} high: their tops meet."
        )
        fix = Fix("set line", {"line": line.id, "radius": wider, **c.by.named}, f"Make the radius {mm(wider, 1)}")
        out.append(Finding("carve.arc-tight", Level.STOP, STAGE, message, c.setup, fixes=(fix,), about=line.text))
    return out


def _moved(line: TextLine) -> bool:
    """Whether letters stand otherwise than the face has them."""
    return line.run != "straight" or bool(line.bolder) or line.tracking < 0.0 or any(k < 0.0 for k in line.kerns)


def _nearest(line: TextLine) -> tuple[float, int]:
    """How near two letters of a line come to each other that follow one another, mm, and which the second is."""
    placed = layout(Carving(lines=(line,)))
    areas = [glyph_area(g, ROUGH) for g in placed]
    gaps = [(float(shapely.distance(a, b)), i + 1) for i, (a, b) in enumerate(zip(areas, areas[1:]))]
    return min(gaps, default=(math.inf, 0))


def _between_letters(c: Carved) -> list[Finding]:
    """Letters of a line that an arc, bolder strokes or closer spacing bring into each other."""
    out: list[Finding] = []
    for number, line in enumerate(c.carving.lines):
        if not _moved(line) or (line.run in ("over", "under") and line.radius < least_radius(line)):
            continue
        gap, which = _nearest(line)
        own = [letter for letter in c.lettering.letters if letter.placed.line == number]
        if gap >= spacing.NEAR or which >= len(own):
            continue
        a, b = own[which - 1], own[which]
        how = (
            f"are {mm(gap, 2)} apart: under {mm(spacing.NEAR)} the wall between two grooves breaks out (a shop rule)"
            if gap > 0.0
            else "run into each other"
        )
        message = f"“{a.placed.char}” and “{b.placed.char}” in line {number + 1} {how}."
        out.append(
            Finding(
                "carve.letters-meet",
                Level.CARE,
                STAGE,
                message,
                c.setup,
                fixes=_spaced(c, line),
                place=spot(c, b),
                about=line.text,
            )
        )
    return out


def _spaced(c: Carved, line: TextLine) -> tuple[Fix, ...]:
    """The least letter spacing, in fiftieths of the height, at which no letters meet."""
    for step in range(1, MOST_STEPS + 1):
        tracking = round(line.tracking + STEP * step, 2)
        try:
            wider = changed(line, tracking=tracking)
        except OperatorError:
            break
        if line.run in ("over", "under") and line.radius < least_radius(wider):
            break
        if _nearest(wider)[0] >= spacing.NEAR:
            values = {"line": line.id, "tracking": tracking, **c.by.named}
            return (Fix("set line", values, f"Set the letter spacing to {tracking:.2f}"),)
    return ()
