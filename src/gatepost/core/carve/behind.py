# SPDX-License-Identifier: GPL-3.0-or-later
"""Screws and hanger recesses that come into the back, judged by the wood that the carving leaves over them."""

from __future__ import annotations

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry import MultiPolygon

from gatepost.core.findings import Finding, Fix, Level, Place
from gatepost.core.geometry.curves import as_multipolygon
from gatepost.core.geometry.outline import Area
from gatepost.core.job.behind import HangerFigures, ScrewsFigures
from gatepost.core.job.operation import Artwork
from gatepost.core.job.rows import row_of
from gatepost.core.motion import turned_about
from gatepost.core.tolerances import FLOOR_LEFT, LIP, WALL
from gatepost.core.units import mm
from gatepost.core.working import Named, Working, working

STAGE = "carve"
ROUND = 32  # straight pieces of a quarter of a round
FINE = 0.001  # mm less deep than the limit: a fix is not right at it
SHORTEST = 4.0  # mm: a shorter screw holds nothing
Array = NDArray[np.float64]
Behind = (ScrewsFigures, HangerFigures)


def areas_behind(art: Artwork) -> list[Area]:
    """What each takes of the wood at its widest, as it stands on its face, mm."""
    figures = art.figures
    if isinstance(figures, ScrewsFigures):
        places = row_of(art, figures.number, figures.pitch)
        return list(shapely.buffer(shapely.points(places), figures.across / 2.0, quad_segs=ROUND))
    assert isinstance(figures, HangerFigures)
    wide = figures.open / 2.0 + figures.undercut
    half = max(figures.slot - figures.open, 0.0) / 2.0
    ends = turned_about(np.array([[0.0, -half], [0.0, half]]), art.turn) + np.array([art.x, art.y])
    return [shapely.LineString(ends).buffer(wide, quad_segs=ROUND)]


def area_behind(art: Artwork) -> MultiPolygon:
    """All of it."""
    return as_multipolygon(shapely.union_all(areas_behind(art)))


def goes_in(art: Artwork) -> float:
    """How far it goes into the wood from behind, mm."""
    if isinstance(art.figures, ScrewsFigures):
        return art.figures.long
    assert isinstance(art.figures, HangerFigures)
    return art.figures.deep


def behind_findings(art: Artwork, over: list[tuple[float, Place]], kept: Area, setup: str) -> list[Finding]:
    """What there is to say of it. over: of each of its parts the least wood from the back to the carved face, mm, and where; kept: what stays of the
    wood, as its face is read."""
    name = art.title or art.id
    least, place = min(over, key=lambda one: one[0])
    left = working("wood - into", Named("wood", least), Named("into", goes_in(art)), shop_rule=True, assumption=f"{FLOOR_LEFT:g} mm is wanted under a floor")  # fmt: skip
    said = [_over(art, name, left, least, place, setup), *_walls(art, name, kept, setup)]
    figures = art.figures
    if isinstance(figures, HangerFigures):
        lip = working("deep - head", Named("deep", figures.deep), Named("head", figures.head))
        if lip.result < LIP:
            message = f"{name}: the lip that the screw's head hangs behind is {mm(max(lip.result, 0.0))} thick; {mm(LIP)} at least is wanted."
            values = {"art": art.id, "head": figures.deep - LIP - FINE}
            fixes = (
                (Fix("set art", values, f"Make the undercut {mm(figures.deep - LIP)} high"),)
                if figures.deep > LIP + 1.0
                else ()
            )
            said.append(Finding("carve.behind-lip", Level.CARE, STAGE, message, setup, lip, fixes, place, name))
    return said


def _over(art: Artwork, name: str, left: Working, least: float, place: Place, setup: str) -> Finding:
    """Whether enough wood stays over it."""
    if left.result >= FLOOR_LEFT:
        message = f"{name}: {mm(left.result)} of wood stays between it and the carving."
        return Finding("carve.behind-held", Level.OK, STAGE, message, setup, left, (), place, name)
    most = least - FLOOR_LEFT - FINE
    fixes: tuple[Fix, ...] = ()
    if isinstance(art.figures, ScrewsFigures) and most >= SHORTEST:
        fixes = (Fix("set art", {"art": art.id, "long": most}, f"Let them go {mm(most)} in"),)
    elif isinstance(art.figures, HangerFigures) and most > art.figures.head + LIP:
        fixes = (Fix("set art", {"art": art.id, "deep": most}, f"Make it {mm(most)} deep"),)
    if left.result <= 0.0:
        message = f"{name}: {mm(goes_in(art))} from behind comes through what is carved; at its deepest {mm(least)} of wood is there."
        return Finding("carve.behind-through", Level.STOP, STAGE, message, setup, left, fixes, place, name)
    message = f"{name}: {mm(left.result)} of wood stays between it and the carving, and {mm(FLOOR_LEFT)} is wanted."
    return Finding("carve.behind-thin", Level.CARE, STAGE, message, setup, left, fixes, place, name)


def _walls(art: Artwork, name: str, kept: Area, setup: str) -> list[Finding]:
    """Whether wood stays beside it."""
    beside = min(float(a.distance(kept.boundary)) if kept.covers(a) else 0.0 for a in areas_behind(art))
    if beside >= WALL:
        return []
    message = (
        f"{name}: {mm(beside)} of wood stays between it and the edge; {mm(WALL)} at least is wanted, or it splits."
    )
    return [Finding("carve.behind-edge", Level.CARE, STAGE, message, setup, about=name)]
