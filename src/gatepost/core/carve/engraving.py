# SPDX-License-Identifier: GPL-3.0-or-later
"""Lines engraved along outlines. Blank XY, heights above the bed, mm."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
import shapely
from numpy.typing import NDArray

from gatepost.core.carve.areas import area_of
from gatepost.core.carve.legs import from_nearest
from gatepost.core.carve.lettering import layout
from gatepost.core.carve.single_line import NAME, open_strokes
from gatepost.core.carve.sunk_moves import CLEAR, Heights, floors
from gatepost.core.carve.trace import Trace
from gatepost.core.geometry.region import pieces
from gatepost.core.job.carve import Carving, Letters
from gatepost.core.job.holes import Engraving
from gatepost.core.job.operation import Artwork
from gatepost.core.job.tool import Tool
from gatepost.core.motion import Moves
from gatepost.core.profile import profile_of

Array = NDArray[np.float64]
FLAT = 0.004  # mm by which straight pieces may lie beside a curve


@dataclass(frozen=True)
class Engraved:
    """Lines that are engraved. figures: how; art: along whose outlines."""

    figures: Engraving
    art: tuple[Artwork, ...]


def lines_of(e: Engraved, times: float = 1.0) -> tuple[Array, ...]:
    """Closed lines, their first point repeated, and the strokes of letters of single lines, (n, 2) each. times: coarser by as much, for a first look."""
    out: list[Array] = []
    for art in e.art:
        out += strokes(art)
        area: Any = area_of(art, FLAT * times)
        if e.figures.inset > 0.0:
            area = area.buffer(-e.figures.inset, quad_segs=pieces(e.figures.inset, FLAT * times))
        for p in shapely.get_parts(area):
            if p.geom_type == "Polygon" and not p.is_empty:
                out += [np.asarray(r.coords)[:, :2] for r in (p.exterior, *p.interiors)]
    return tuple(out)


def strokes(art: Artwork) -> list[Array]:
    """Strokes of lettering in the face of single lines, where they stand on their face, (n, 2) mm; none of other artwork."""
    if not isinstance(art.figures, Letters) or not any(line.face == NAME for line in art.figures.lines):
        return []
    carving = Carving(**dict(art.figures), x=art.x, y=art.y, turn=art.turn, mirror=art.mirror)
    rings = [
        np.array([piece[0] for piece in contour])
        for g in layout(carving) if art.figures.lines[g.line].face == NAME for contour in g.contours
    ]  # fmt: skip
    return open_strokes(rings)


def half_line(tool: Tool, deep: float) -> float:
    """Half of how wide a line is in the face, mm; that of the whole tool where its angle is none."""
    return profile_of(tool).out_at(deep)


def _from(line: Array, here: Array) -> tuple[Array, float]:
    """A line begun where it is nearest to a place, and how far that is: a closed one anywhere, an open one at either end."""
    if np.allclose(line[0], line[-1]):
        return from_nearest(line, here)
    ends = [float(np.hypot(*(line[k] - here))) for k in (0, -1)]
    return (line, ends[0]) if ends[0] <= ends[1] else (line[::-1], ends[1])


def line_moves(lines: tuple[Array, ...], tool: Tool, deep: float, at: Heights) -> Moves:
    """Line after line, each from its place that is nearest, in passes no deeper than the tool takes at once."""
    home = at.home(tool)
    trace = Trace(*home)
    trace.rapid(z=max(at.travel, home[2]))
    left = list(lines)
    while left:
        here = trace.here[:2]
        n, ring = min(((k, _from(r, here)) for k, r in enumerate(left)), key=lambda found: found[1][1])
        del left[n]
        points = ring[0]
        trace.rapid(z=max(at.travel, trace.here[2]))  # a hold may stand inside a border
        trace.rapid(x=float(points[0, 0]), y=float(points[0, 1]))
        trace.rapid(z=at.highest + CLEAR)
        for level in floors(at.highest, at.face - deep, tool.pass_depth):
            trace.run(np.array([[*points[0], level]]), tool.plunge)
            trace.run(np.column_stack([points[1:], np.full(len(points) - 1, level)]), tool.feed)
    trace.rapid(z=at.travel)
    return trace.moves()
