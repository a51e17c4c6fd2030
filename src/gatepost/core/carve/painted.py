# SPDX-License-Identifier: GPL-3.0-or-later
"""A face that is coated before it is carved: what the film changes, and what paint each operation leaves."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from gatepost.core.carve.depth import depth_of
from gatepost.core.carve.lettered import STAGE, Carved, spot
from gatepost.core.carve.lettering import thinnest
from gatepost.core.findings import Figure, Finding, Fix, Level, Table
from gatepost.core.job.blank import Coat
from gatepost.core.profile import profile_of
from gatepost.core.units import area_words, mm
from gatepost.core.wood.field import HeightField
from gatepost.core.working import Named, working

THROUGH = 0.3  # mm of wood that a stroke goes into under the film, to show clean edges (a shop rule)


def film_on(coats: Sequence[Coat], face: str) -> float:
    """How thick what is on a face is in all, mm."""
    return sum(c.thickness for c in coats if c.face == face)


def painted(start: HeightField, after: HeightField, film: float) -> NDArray[np.bool_]:
    """Where paint is left: wood that no cutter went into deeper than the film is thick. start: before anything was carved; (rows, columns)."""
    return np.asarray(after.wood & (after.z > start.z - film))


def paint_table(
    start: HeightField, done: Sequence[tuple[str, HeightField]], film: float, part: NDArray[np.bool_]
) -> Table:
    """What paint is left after each operation. part: cells of what becomes the sign."""
    cell = start.cell * start.cell
    whole = float(part.sum()) * cell
    rows = [("After", "Painted still", "of the face", "Bare")]
    for name, after in done:
        left = float((painted(start, after, film) & part).sum()) * cell
        rows.append((name, area_words(left), f"{100.0 * left / max(whole, 1e-9):.1f} %", area_words(whole - left)))
    return "Paint left on the face", tuple(rows)


def film_figure(coats: Sequence[Coat], face: str) -> Figure:
    """How thick it is."""
    mine = [c for c in coats if c.face == face]
    names = [f"coat_{i}" for i in range(1, len(mine) + 1)]
    sum_ = working(
        " + ".join(names), *(Named(n, c.thickness) for n, c in zip(names, mine)), assumption="Z is touched on the coat"
    )
    return Figure("Film on the face", sum_.result, working=sum_, places=3)


def film_findings(c: Carved) -> list[Finding]:
    """Letters that hardly go through the film, and sanding that takes it off."""
    if c.by.film <= 0.0 or not c.lettering.letters:
        return []
    said: list[Finding] = []
    thin = [(thinnest(letter.cut), letter) for letter in c.lettering.letters]
    for r, letter in sorted(thin, key=lambda one: one[0]):
        depth = depth_of(r, c.tool).result if r > profile_of(c.tool).flat else 0.0
        into = working("depth - film", Named("depth", depth), Named("film", c.by.film), assumption=f"{THROUGH} mm into the wood shows a clean edge", shop_rule=True)  # fmt: skip
        if into.result >= THROUGH:
            break
        message = f"{letter.name} goes {mm(max(into.result, 0.0))} into the wood under the film at its thinnest stroke: {mm(THROUGH)} shows a clean edge."
        said.append(
            Finding("carve.under-film", Level.CARE, STAGE, message, c.setup, into, (), spot(c, letter), letter.name)
        )
    if c.carving.sanding > 0.0:
        message = f"The face is coated before it is carved, {mm(c.by.film, 3)} thick, and {mm(c.carving.sanding)} is to be sanded off: that takes the paint."
        fix = Fix("set carving", {"sanding": 0.0, **c.by.named}, "Sand nothing off")
        said.append(Finding("carve.sands-film", Level.CARE, STAGE, message, c.setup, fixes=(fix,)))
    return said
