# SPDX-License-Identifier: GPL-3.0-or-later
"""A piece that is laid, turned over, into the frame that its own cut-out left: its rim made, and tried as it will be cut."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np
import shapely

from gatepost.core.cache import SMALL, Memory
from gatepost.core.carve.paths import plate_outline, round_line, share_along, tabs
from gatepost.core.errors import OperatorError
from gatepost.core.frames import Bed, FaceFrame, Matrix
from gatepost.core.geometry.straight import path_of
from gatepost.core.job.carve import CutOut, Plate
from gatepost.core.job.commands.parts import operation_in
from gatepost.core.job.commands.register import set_rim
from gatepost.core.job.model import Job, Setup
from gatepost.core.job.operation import Operation
from gatepost.core.job.register import InStepNest
from gatepost.core.job.tool import Tool
from gatepost.core.job.turning import about, face_turned, lies
from gatepost.core.plan.cuts import Cuts
from gatepost.core.register.nest_tabs import SPARE, NestTabs, by_risers
from gatepost.core.register.nested import NestSeen
from gatepost.core.register.step_nest import Flip, Share, StepNest, stepped, tried

HALF = 0.6  # of the time that a rim takes, for the rim itself; the rest is for its tabs
FINE = 0.003  # mm by which a rim's straight pieces may lie beside it


def seen_in(cuts: Sequence[Cuts], setup: Setup, coarse: bool) -> NestSeen | None:
    """The nest that a setup is laid into, as its cut-out leaves it; nothing where there is none. cuts: of all setups before. In a first look nothing is tried."""
    comes = setup.comes
    if not isinstance(comes, InStepNest):
        return None
    for c in cuts:
        for w in c.draft.laid.wanted:
            if w.operation.id == comes.cut and isinstance(w.figures, Plate):
                d, tool = c.draft, w.tools[0]
                to_bed = d.pose.then(d.placed.to_bed)
                rim = to_bed.area(plate_outline(w.figures))
                over = about(lies(d.setup), lies(setup))
                middle = _middle(d.known.job, c, w.operation, comes, rim)
                frame = d.placed.to_bed.area(d.known.wood.outline)
                slot = comes.slot - comes.lean
                if coarse or not over or slot < tool.diameter - 0.2:
                    return NestSeen(d.setup, rim, frame, tool.diameter, slot, (False,) * w.figures.tabs, None, middle)
                flip: Flip = "X" if over == "about X" else "Y"
                key = (shapely.normalize(rim).wkb, flip, tool.diameter, slot, middle)
                found = d.known.memory.get("nest", key, lambda: tried(rim, flip, tool.diameter, slot, middle), SMALL)  # noqa: B023
                stand = _standing(w.figures, tool, found.nest, slot, to_bed, d.known.memory)
                return NestSeen(d.setup, rim, frame, tool.diameter, slot, stand, found, middle)
    return None


def _standing(
    plate: Plate, tool: Tool, nest: StepNest, slot: float, to_bed: Matrix[FaceFrame, Bed], memory: Memory
) -> tuple[bool, ...]:
    """Of each tab, whether what is left of it is in nobody's way once the piece is turned over into its frame."""
    if not nest.asked.goes_in or not plate.tabs:
        return (False,) * plate.tabs

    def each() -> tuple[bool, ...]:
        loop = np.array([to_bed.xy(float(x), float(y)) for x, y in round_line(plate, tool)])
        seen = NestTabs(nest, slot, tool.diameter, loop)
        at = [t.along for t in tabs(plate, tool)]
        alone = tuple(seen.may_stand(a, plate.tab_width) for a in at)
        return (
            alone if seen.together([a for a, good in zip(at, alone) if good], plate.tab_width) else (False,) * len(at)
        )

    return memory.get("nest tabs", (plate, tool.diameter, slot, nest.middle, nest.flip, to_bed), each, SMALL)


def _middle(job: Job, c: Cuts, operation: Operation, comes: InStepNest, rim: shapely.Polygon) -> tuple[float, float]:
    """What the piece is turned over about: the middle of what its rim was made about, on the bed."""
    plate = job.cut_out(operation.model_copy(update={"on": (comes.of,)})) if comes.of else None
    if plate is None:
        x0, y0, x1, y1 = rim.bounds
        return 0.5 * (x0 + x1), 0.5 * (y0 + y1)
    x0, y0, x1, y1 = c.draft.pose.then(c.draft.placed.to_bed).area(plate_outline(plate)).bounds
    return 0.5 * (x0 + x1), 0.5 * (y0 + y1)


def rim_for(job: Job, setup: str, on: Share = lambda share: None) -> dict[str, Any]:
    """The values of “set rim” that make a stepped rim for what is cut out before a setup. on: hears how far it is, 0 to 1, and ends it by what it raises. Raises OperatorError."""
    here = job.setup(setup)
    number = job.setups.index(here)
    comes = here.comes if isinstance(here.comes, InStepNest) else InStepNest()
    before, operation = _cut_out(job, number, comes.cut)
    over = about(lies(before), lies(here))
    if not over:
        raise OperatorError("A stepped nest holds a piece that is turned over: about X or about Y.")
    about_it = operation.on if not comes.of or comes.cut != operation.id else (comes.of,)
    plate = job.cut_out(operation.model_copy(update={"on": about_it}))
    if plate is None:
        raise OperatorError(f"“{operation.name}” cuts nothing out any more.")
    tool = job.tool(plate.tool)
    slot = comes.slot if comes.measured else tool.diameter
    to_board = face_turned(job.blank.length, job.blank.width, lies(before))
    (a, b, _, _), (c, d, _, _), _z = to_board.rows
    lying = shapely.affinity.affine_transform(plate_outline(plate), (a, b, c, d, 0.0, 0.0))
    nest = stepped(
        lying,
        "X" if over == "about X" else "Y",
        tool.diameter,
        slot,
        comes.clearance + comes.lean,
        comes.key,
        lambda share: on(HALF * share),
    )
    rim = shapely.affinity.affine_transform(nest.piece.simplify(FINE), (a, c, b, d, 0.0, 0.0))  # the way back: a turn
    x0, y0, x1, y1 = rim.bounds
    x, y = 0.5 * (x0 + x1), 0.5 * (y0 + y1)
    path = path_of(shapely.MultiPolygon([shapely.affinity.translate(rim, -x, -y)]))
    values = {
        "setup": setup, "operation": operation.id, "path": path, "wide": x1 - x0, "high": y1 - y0, "x": x, "y": y, "slot": slot,
        "apart": slot - comes.clearance - comes.lean, "key": comes.key,
    }  # fmt: skip
    return values | _tabs_by_risers(
        job, values, nest, slot - comes.lean, tool, ((a, c), (b, d)), lambda share: on(HALF + (1.0 - HALF) * share)
    )


def _tabs_by_risers(
    job: Job,
    values: dict[str, Any],
    nest: StepNest,
    slot: float,
    tool: Tool,
    back: tuple[tuple[float, float], ...],
    on: Share,
) -> dict[str, Any]:
    """Where tabs stand on a rim so that what is left of them is in nobody's way. back: from the board as it lies to its face, a turn."""
    made = set_rim(job, **values)
    plate = made.cut_out(operation_in(made, values["operation"])[1])
    if plate is None or not plate.tabs or not nest.asked.goes_in:
        return {}
    loop = np.asarray(nest.piece.buffer(tool.diameter / 2.0, quad_segs=32).simplify(FINE).exterior.coords)
    wide, places = by_risers(NestTabs(nest, slot, tool.diameter, loop, 2.0 * SPARE), plate.tabs, plate.tab_width, on)
    shares = [
        share_along(plate, tool, (r[0] * x + r[1] * y, s[0] * x + s[1] * y)) for r, s in (back,) for x, y in places
    ]
    return {"tab_at": tuple(sorted(shares)), "tab_width": wide} if shares else {}


def _cut_out(job: Job, number: int, named: str) -> tuple[Setup, Operation]:
    """The cut-out that is named, or the last before a setup."""
    found = [
        (s, o)
        for s in job.setups[:number]
        for o in s.operations
        if isinstance(o.figures, CutOut) and o.figures.side != "inside"
    ]
    mine = [one for one in found if one[1].id == named]
    if not found:
        raise OperatorError("Nothing is cut out before this setup: a stepped nest is the frame that a cut-out leaves.")
    return (mine or found)[-1]
