# SPDX-License-Identifier: GPL-3.0-or-later
"""The bed from above, as shapes in bed coordinates."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from gatepost.core.blank.shape import polygon, ring
from gatepost.core.plan.planned import PlannedSetup
from gatepost.core.plan.result import Plan
from gatepost.core.wood.field import HeightField
from gatepost.drawing import shade
from gatepost.drawing.by_hand import by_hand
from gatepost.drawing.coats import coat_colour, film_here, paint_left
from gatepost.drawing.hatching import hatch
from gatepost.drawing.marks import corners, flaws, readings, spots, stops, supports, to_measure, zeros
from gatepost.drawing.paths import art, behind, frames, pass_lines, paths, sunk
from gatepost.drawing.shapes import Array, Drawing, Shape, area, box, dot, line
from gatepost.drawing.standing import bearing, holds, lasting, old_cuts, touching

Shading = Callable[[HeightField], "shade.Pixels | None"]


def bed(
    plan: Plan, setup_name: str, stage: str, after: int = -1, at: tuple[float, float] | None = None, unit: str = "mm",
    shading: Shading = shade.shaded, photo: bytes = b"", measure: tuple[str, int] | None = None,
) -> Drawing:  # fmt: skip
    """The bed as a stage shows it. after: operations done (-1: as the stage wants it); at: where the tip is now, bed
    XY; shading: a field's picture, or nothing while it is not made yet: the board is plain then; photo: the squared-up
    one, as a file; measure: which kind of reading is taken, and the number of the place where the next one is."""
    setup = plan.setup(setup_name) or plan.setups[-1]
    machine = plan.job.machine
    shapes: list[Shape] = [box(0, 0, machine.travel_x, machine.travel_y, "bed")]
    shapes += [line(np.array([[0, y], [machine.travel_x, y]]), "slot") for y in machine.slots]
    shapes += lasting(plan)
    pictured = photo if stage == "blank" else b""
    if pictured:
        shapes += _photo(plan, setup, pictured)
    shapes += _wood(plan, setup, stage, after, shading, bool(pictured))
    if stage in ("surface", "hold", "carve"):
        shapes += paths(
            setup, stage, with_rapids=stage == "carve" and after >= 0, only=pass_lines(plan, setup, stage, after)
        )
    if stage in ("carve", "hold", "zero"):
        shapes += art(plan, setup, stage)
    if stage == "carve":
        shapes += [*sunk(plan, setup, after), *behind(plan, setup)]
    if stage == "blank":
        shapes += corners(plan, setup)
    if stage in ("blank", "carve"):
        shapes += flaws(plan, setup)
    shapes += old_cuts(setup)
    if stage == "blank":
        shapes += readings(plan, setup, unit)
        shapes += to_measure(plan, setup, *measure) if measure is not None else []
    if stage not in ("blank", "finish"):
        shapes += holds(plan, setup)
    if stage == "hold":
        shapes += bearing(plan, setup)
    if stage == "hold" and setup.unreached is not None:
        for part in getattr(setup.unreached, "geoms", [setup.unreached]):
            shapes += area(part, "unreached") + hatch(part, 7.0, "unreached") if not part.is_empty else []
    if stage in ("zero", "hold", "tools", "run", "surface"):
        shapes += zeros(plan, setup, stage)
    if stage in ("zero", "hold"):
        shapes += touching(setup)
    if stage == "surface" and setup.first_face:
        shapes += supports(plan, setup, unit)
    if stage == "tools":
        shapes += spots(setup)
    shapes += stops(plan, setup, stage) if stage != "finish" else by_hand(plan, setup)
    if at is not None:
        shapes.append(dot(at[0], at[1], "tip", size=9.0))
    extents = (-20.0, -20.0, machine.travel_x + 20.0, machine.travel_y + 20.0)
    held = frames(plan, setup, (s.key for s in shapes if s.key)) if stage == "carve" else {}
    words = _subtitle(plan, setup, stage, after)
    return Drawing(tuple(shapes), extents, "Bed", words, frames=held, close=_near_board(plan, setup))


def _near_board(plan: Plan, setup: PlannedSetup) -> tuple[float, float, float, float]:
    """The board, what holds it and a margin, bed coordinates."""
    boxes = [setup.placed.to_bed.area(polygon(setup.blank)).bounds, *(q.outline.bounds for q in setup.solids)]
    margin = 30.0
    return (
        min(b[0] for b in boxes) - margin,
        min(b[1] for b in boxes) - margin,
        max(b[2] for b in boxes) + margin,
        max(b[3] for b in boxes) + margin,
    )


def _subtitle(plan: Plan, setup: PlannedSetup, stage: str, after: int) -> str:
    words = f"{setup.name} setup · seen from above"
    if stage == "blank":
        return "front face up · calipers at the edge, heights of the top in boxes"
    if stage == "surface" and 0 < after <= len(setup.passes):
        return f"after pass {after} of {len(setup.passes)} · green is cut, amber is not reached yet"
    if film_here(plan, setup) > 0.0 and not setup.flattens:
        words = f"{words} · {coat_colour(plan, setup)} is the paint that is left"
    count = shown_count(setup, stage, after)
    if count > 0:
        return f"{words} · after {setup.operations[count - 1].name}"
    return words


def shown_count(setup: PlannedSetup, stage: str, after: int) -> int:
    """How many operations are shown as done. On the Surface page passes are counted, and operations are not."""
    if stage == "surface":
        return 0
    if after >= 0:
        return min(after, len(setup.operations))
    if stage == "tools" and setup.changes:  # the wood as it is when the first change comes
        return next(i for i, op in enumerate(setup.operations) if op.name == setup.changes[0].before)
    return len(setup.operations) if stage in ("carve", "run", "finish") else 0


def field_after(setup: PlannedSetup, count: int) -> HeightField:
    """The wood after so many operations."""
    return setup.operations[count - 1].after if count > 0 else setup.start


def _photo(plan: Plan, setup: PlannedSetup, data: bytes) -> list[Shape]:
    """The photo that the outline was traced in, squared up."""
    photo = plan.job.blank.photo
    if photo is None:
        return []
    return [Shape("image", _corners_of(setup, *photo.box), "picture", picture=data)]


def _corners_of(setup: PlannedSetup, x0: float, y0: float, x1: float, y1: float) -> Array:
    """Where a picture of the board lies on the bed: its corners front left, front right, back left."""
    return setup.placed.to_bed.array(np.array([[x0, y0], [x1, y0], [x0, y1]]))


def _wood(
    plan: Plan, setup: PlannedSetup, stage: str, after: int, shading: Shading, clear: bool = False
) -> list[Shape]:
    """The board. clear: only its edge and contours, over a photo."""
    blank, to_bed = setup.blank, setup.placed.to_bed
    corners = _corners_of(setup, *blank.box)
    edge = to_bed.array(ring(blank))
    edge = np.vstack([edge, edge[:1]])
    clip = None if blank.shape == "rectangle" else edge
    outline = Shape("area", edge, "wood-edge", "blank")
    if stage == "surface" and setup.top_map is not None and 0 < after <= len(setup.passes):
        pixels = shade.passed(setup.top_map, setup.passes[after - 1].z, setup.passes[-1].z)
        return [Shape("image", corners, "picture", pixels=pixels, clip=clip), outline]
    if stage in ("blank", "surface") and setup.top_grid is not None and after <= 0:
        x, y, z = (np.asarray(a) for a in setup.top_grid)
        out = (
            [outline]
            if clear
            else [
                Shape(
                    "image",
                    corners,
                    "picture",
                    pixels=shade.height_map(np.asarray(setup.top_map, np.float64)),
                    clip=clip,
                ),
                outline,
            ]
        )
        every = 0.5 if np.ptp(z) > 1.5 else 0.1 if np.ptp(z) > 0.2 else 0.02
        found = [p for _, pieces in shade.contours(x, y, z, every) for p in pieces]
        for some in range(0, len(found), AT_ONCE):
            out.append(Shape("lines", to_bed.array(np.vstack(found[some : some + AT_ONCE])), "contour", clip=clip))
        return out
    if clear:
        return [outline]
    field = field_after(setup, shown_count(setup, stage, after))
    shown = shading(field)
    plain = Shape("area", edge, "wood-plain")
    coat = paint_left(plan, setup, field)
    paint = [] if coat is None or shown is None else [Shape("image", corners, "picture", pixels=coat)]
    return [plain if shown is None else Shape("image", corners, "picture", pixels=shown), *paint, outline]


AT_ONCE = 300  # pieces of contours in one shape: painting goes on between shapes
