# SPDX-License-Identifier: GPL-3.0-or-later
"""A nest for repeated blanks: the opening of a frame, cleared from the middle out, its corners relieved so that a square
blank goes right into them."""

from __future__ import annotations

import numpy as np
import shapely
from shapely import affinity
from shapely.geometry import Polygon

from gatepost.core.errors import OperatorError
from gatepost.core.geometry.region import centres
from gatepost.core.hold.solids import nest_opening
from gatepost.core.job.machine import Nest
from gatepost.core.job.tool import Tool
from gatepost.core.motion import Moves, Pen

STEPOVER = 0.4  # share of the cutter
FINISH = 0.3  # mm left for the last turn at full depth
EXTRA = 0.2  # mm into the spoilboard, so that no skin stays in the corners
LIFT = 8.0
DEEPEST_ROUND = 500  # turns inwards


def opening(nest: Nest) -> Polygon:
    """The opening in the nest's own coordinates: its stop corner at nought, not turned."""
    return affinity.rotate(affinity.translate(nest_opening(nest), -nest.x, -nest.y), -nest.heading, origin=(0, 0))


def blank_in(nest: Nest) -> Polygon:
    """The largest blank as it lies against the stop corner, in the nest's own coordinates."""
    right, back = nest.corner.endswith("right"), nest.corner.startswith("back")
    long, wide = nest.length - nest.play, nest.width - nest.play
    x0, y0 = (-long if right else 0.0), (-wide if back else 0.0)
    return shapely.box(x0, y0, x0 + long, y0 + wide)


def moves(nest: Nest, tool: Tool) -> Moves:
    """Clears the opening, in the nest's own coordinates with Z from the spoilboard. Raises OperatorError."""
    if tool.kind != "flat":
        raise OperatorError("A nest's opening is cut with a flat cutter.")
    radius = tool.diameter / 2.0
    if nest.relief < radius - 1e-9:
        raise OperatorError(
            f"The corners are relieved by {nest.relief:g} mm and the cutter's radius is {radius:g} mm: a square corner would not go in. "
            "Relieve them by the cutter's radius at least, or take a thinner cutter."
        )
    if tool.cutting_length < nest.height + EXTRA:
        raise OperatorError(
            f"The walls are {nest.height:g} mm high and tool {tool.number} cuts {tool.cutting_length:g} mm."
        )
    wall = centres(opening(nest), radius)
    rough = centres(opening(nest), radius + FINISH)
    if wall.is_empty or rough.is_empty:
        raise OperatorError("The opening is too narrow for this cutter.")
    turns = _turns(rough, STEPOVER * tool.diameter)
    depth = nest.height + EXTRA
    count = int(np.ceil(depth / tool.pass_depth - 1e-9))
    floors = [nest.height - depth * (i + 1) / count for i in range(count)]
    over = nest.height + LIFT
    first = turns[0][0]
    pen = Pen(float(first[0]), float(first[1]), over)
    for number, floor in enumerate(floors):
        above = nest.height if number == 0 else floors[number - 1]
        for i, turn in enumerate(turns):
            _round(pen, turn, floor, above, over, tool, i == 0)
    for ring in _rings(wall):
        _round(pen, ring, floors[-1], floors[-1], over, tool, True)
    pen.rapid(z=over)
    return pen.moves()


def _turns(rough: Polygon, step: float) -> list[np.ndarray]:
    """Turns about the opening, the innermost first; neighbours no further apart than a step, so that nothing stays."""
    found: list[np.ndarray] = []
    area = rough
    for _ in range(DEEPEST_ROUND):
        rings = _rings(area)
        if not rings:
            break
        found += rings
        area = centres(area, step)
    return found[::-1]


def _rings(area: shapely.Geometry) -> list[np.ndarray]:
    return [np.asarray(p.exterior.coords) for p in getattr(area, "geoms", [area]) if not p.is_empty]


def _round(pen: Pen, ring: np.ndarray, floor: float, above: float, over: float, tool: Tool, lifted: bool) -> None:
    """Once round a turn: down along its first stretch by a ramp where wood stands, then on."""
    x, y = float(ring[0, 0]), float(ring[0, 1])
    if lifted:
        pen.rapid(z=over)
        pen.rapid(x=x, y=y)
        pen.rapid(z=max(above + 1.0, floor))
    else:
        pen.feed(tool.feed, x=x, y=y)
    if above > floor and lifted:
        share = np.linspace(0.0, 1.0, len(ring))
        for (px, py), t in zip(ring.tolist(), share.tolist()):
            pen.feed(tool.plunge, px, py, above + (floor - above) * t)
    pen.feed(tool.plunge, z=floor)
    for px, py in ring.tolist():
        pen.feed(tool.feed, px, py)
