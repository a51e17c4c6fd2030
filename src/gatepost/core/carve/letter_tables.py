# SPDX-License-Identifier: GPL-3.0-or-later
"""Tables of lettering: margins on every side, each letter by itself, and what another bit in the collet would cut."""

from __future__ import annotations

import numpy as np
import shapely

from gatepost.core.carve.depth import bit_radius, depth_of
from gatepost.core.carve.lettered import Carved
from gatepost.core.carve.lettering import CutLetter, thinnest
from gatepost.core.carve.paths import plate_outline
from gatepost.core.findings import Table
from gatepost.core.job.tool import Tool
from gatepost.core.profile import is_vee, profile_of
from gatepost.core.units import mm

MOST_ROWS = 40  # letters of one table
SIDES = ("left", "right", "front", "back")


def letter_tables(c: Carved) -> tuple[Table, ...]:
    """All of them; none where nothing is lettered, or by no V."""
    if not c.lettering.letters or not is_vee(c.tool):
        return ()
    return (_margins(c), _each(c), *_other_bits(c))


def _margins(c: Carved) -> Table:
    """From the outermost of the letters, and of the bit that cuts them, to the box of what they stand on."""
    on = plate_outline(c.carving.plate) if c.carving.plate else c.by.outline
    x0, y0, x1, y1 = on.bounds
    letters = shapely.union_all([letter.outline() for letter in c.lettering.letters]).bounds
    runs = (
        np.concatenate([run[:, :2] for run in c.lettering.runs])
        if c.lettering.runs
        else np.array([letters[:2], letters[2:]])
    )
    swing = c.tool.diameter / 2.0
    cutter = (*(runs.min(axis=0) - swing), *(runs.max(axis=0) + swing))

    def row(name: str, box: tuple[float, ...]) -> tuple[str, ...]:
        return (name, *(mm(v, 1) for v in (box[0] - x0, x1 - box[2], box[1] - y0, y1 - box[3])))

    title = "Margins to the plate's edge" if c.carving.plate else "Margins to the board's edge"
    return title, (("", *SIDES), row("letters", letters), row("the bit", cutter))


def _each(c: Carved) -> Table:
    """Of each letter of a line its strokes, how deep this bit goes and how deep the next one, and the wood under it."""
    other = next((t for t in c.by.tools if is_vee(t) and t.number != c.tool.number), None)
    bits = (c.tool, other) if other is not None else (c.tool,)
    worst: dict[tuple[int, str], CutLetter] = {}
    for letter in c.lettering.letters:
        key = (letter.placed.line, letter.placed.char or letter.name)
        if key not in worst or letter.cut.widest > worst[key].cut.widest:
            worst[key] = letter
    rows = [("", "widest", "thinnest", *(f"T{t.number} deep" for t in bits), "left under")]
    for letter in list(worst.values())[:MOST_ROWS]:
        name = (
            f"{letter.placed.char}, line {letter.placed.line + 1}"
            if letter.placed.char
            else letter.name.removesuffix(" of the drawing")
        )
        deep = [_deep(letter.cut.widest, t) for t in bits]
        left = mm(c.by.thickness - depth_of(letter.cut.widest, c.tool).result, 1)
        rows.append((name, mm(2 * letter.cut.widest), mm(2 * thinnest(letter.cut)), *deep, left))
    return "Letter by letter", tuple(rows)


def _deep(radius: float, tool: Tool) -> str:
    """How deep a bit goes in a stroke, or that it is too narrow for it."""
    return mm(depth_of(radius, tool).result) if radius <= bit_radius(tool) else "too wide"


def _other_bits(c: Carved) -> tuple[Table, ...]:
    """What the same program would cut with another V in the collet: as deep, but wider or narrower by the tangents of their half angles."""
    widest = max(letter.cut.widest for letter in c.lettering.letters)
    deep = depth_of(widest, c.tool).result
    others = [t for t in c.by.tools if is_vee(t) and abs(t.angle - c.tool.angle) > 0.5]
    if not others:
        return ()
    rows = [("loaded by mistake", "widest stroke", "in place of")]
    for t in others:
        rows.append((f"T{t.number}, {t.angle:g}°", mm(2.0 * profile_of(t).out_at(deep)), mm(2.0 * widest)))
    return (("If another V is in the collet", tuple(rows)),)
