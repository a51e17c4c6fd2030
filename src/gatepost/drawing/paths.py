# SPDX-License-Identifier: GPL-3.0-or-later
"""Where cutters go, and what they carve."""

from __future__ import annotations

from collections.abc import Iterable

import numpy as np
from shapely import union_all
from shapely.geometry import Polygon

from gatepost.core.carve.areas import area_of
from gatepost.core.carve.behind import Behind, areas_behind
from gatepost.core.carve.boxes import corners_of
from gatepost.core.carve.lettering import CutLetter, Lettering
from gatepost.core.carve.paths import plate_outline, tabs
from gatepost.core.carve.sunk_report import LaidShape
from gatepost.core.plan.arranging import art_of, stretches
from gatepost.core.plan.planned import PlannedCut, PlannedSetup
from gatepost.core.plan.result import Plan
from gatepost.core.profile import VEES
from gatepost.drawing.hatching import hatch
from gatepost.drawing.shapes import HandleFrame, Shape, area, dot, line

HATCH, ROUGH = (
    4.0,
    0.05,
)  # mm: from line to line of a hatching, and by which an outline that is taken hold of may lie beside itself
FINE = ("ground", "recess", "stencil", "gouge", "relief", "line")  # drawn by their middle line alone
PATH_STAGES = {
    "surface": ("surface",),
    "hold": ("vcut", "ground", "recess", "stencil", "gouge", "relief", "line", "drill", "cutout", "surface"),
    "carve": ("vcut", "ground", "recess", "stencil", "line", "drill", "cutout"),
    "tools": (),
    "run": (),
}


def pass_lines(plan: Plan, setup: PlannedSetup, stage: str, after: int) -> list[Shape] | None:
    """On the Surface page the lines of the pass shown alone; nothing where all are shown."""
    lines = setup.surfaced.lines
    if stage != "surface" or not setup.flattens or not 0 < after <= len(lines) or not setup.operations:
        return None
    op, to_bed = setup.operations[0], setup.placed.to_bed
    return [
        Shape(
            "line", to_bed.array(line[:, :2]), "cut-fine", f"op:{op.name}", index=op.tool.number, size=op.tool.diameter
        )
        for line in lines[after - 1][1]
    ]


def paths(setup: PlannedSetup, stage: str, with_rapids: bool, only: list[Shape] | None = None) -> list[Shape]:
    out: list[Shape] = []
    if only is not None:
        return only
    for op in setup.operations:
        if op.kind in PATH_STAGES[stage]:
            out += _path(setup, op, with_rapids)
    return out


def _path(setup: PlannedSetup, op: PlannedCut, with_rapids: bool) -> list[Shape]:
    """An operation's centre line: cuts in runs, rapids thin. The deepest pass alone of those one above the other."""
    points = setup.placed.to_bed.array(op.moves.points[:, :2])
    rapid = op.moves.rapid
    breaks = np.nonzero(rapid[1:] != rapid[:-1])[0] + 1
    out: list[Shape] = []
    for start, end in zip(np.concatenate([[0], breaks]), np.concatenate([breaks, [len(rapid)]])):
        run = points[start : end + 1]
        if rapid[start]:
            if with_rapids:
                out.append(line(run, "rapid"))
        elif np.ptp(run, axis=0).max() > 1e-6:
            role = "cut-fine" if op.tool.kind in VEES or op.kind in FINE else "cut"
            out.append(Shape("line", run, role, f"op:{op.name}", index=op.tool.number, size=op.tool.diameter))
    return out


def letters_in(plan: Plan, setup: PlannedSetup) -> list[CutLetter]:
    """All letters that are cut in a setup, on its face as it is read."""
    told = (plan.made.get(o.id) for o in setup.setup.operations)
    return [letter for made in told if isinstance(made, Lettering) for letter in made.letters]


def sunk(plan: Plan, setup: PlannedSetup, after: int) -> list[Shape]:
    """What is sunk: its outline, hatched as long as it is not cut, and what stays or outlines it, to be taken hold of. after: operations shown as done,
    all where negative."""
    out: list[Shape] = []
    done = {op.operation for op in setup.operations[: after if after >= 0 else len(setup.operations)]}
    for operation in setup.setup.operations:
        made = plan.made.get(operation.id)
        if not isinstance(made, LaidShape):
            continue
        top = setup.face_to_bed.area(made.top)
        out += area(top, "goes") if operation.id in done else [*area(top, "goes"), *hatch(top, HATCH, "goes")]
        for art in made.art:
            outlines = list(area_of(art, ROUGH).geoms)
            corners = corners_of(art)
            if corners is not None:
                whole = Polygon(corners).buffer(4.0, join_style="mitre")
                out += area(setup.face_to_bed.area(whole), "block-edge" if outlines else "block", f"art:{art.id}")
            out += [s for p in outlines for s in area(setup.face_to_bed.area(p), "block", f"art:{art.id}")]
    return out


def behind(plan: Plan, setup: PlannedSetup) -> list[Shape]:
    """What comes into the back under the face that is up, to be taken hold of."""
    out: list[Shape] = []
    for one in plan.job.artwork:
        corners = corners_of(one) if isinstance(one.figures, Behind) and one.face == setup.setup.up else None
        if corners is not None:
            whole = Polygon(corners).buffer(2.0, join_style="mitre")
            out += area(setup.face_to_bed.area(whole), "block-edge", f"art:{one.id}")
            for part in areas_behind(one):
                there = setup.face_to_bed.area(part)
                out += [*area(there, "block", f"art:{one.id}"), *area(there, "behind")]
    return out


def art(plan: Plan, setup: PlannedSetup, stage: str) -> list[Shape]:
    kinds = plan.kinds.operations
    done = [o for o in setup.setup.operations if kinds[o.kind].stage == "carve"]
    to_bed = setup.face_to_bed
    out: list[Shape] = []
    letters = letters_in(plan, setup)
    if stage != "carve":
        for letter in letters:
            out += area(to_bed.area(letter.outline()), "art")
    else:
        bad = {f.about for f in plan.report("carve").findings if f.about and f.stands}
        for letter in letters:
            if letter.name in bad:  # under the blocks: what is wrong with a letter is no reason not to take hold of it
                out += area(to_bed.area(letter.outline()), "art-bad")
        out += _blocks(plan, setup)
    for name, plate in ((o.id, p) for o in done if o.id in plan.made and (p := plan.job.cut_out(o)) is not None):
        edge = np.asarray(to_bed.area(plate_outline(plate)).exterior.coords)
        out += [Shape("line", edge, "plate", f"plate:{name}")]
        tool = next((t for t in plan.job.tools if t.number == plate.tool), None)
        if stage == "carve" and tool is not None:
            out += [
                dot(*to_bed.xy(t.x, t.y), "tab", f"tab:{name}/{i}", size=5) for i, t in enumerate(tabs(plate, tool))
            ]
    return out


def _blocks(plan: Plan, setup: PlannedSetup) -> list[Shape]:
    """Each lettering as a block that can be taken hold of: nothing is seen of it until it is dragged."""
    out: list[Shape] = []
    for operation in setup.setup.operations:
        made = plan.made.get(operation.id)
        if not isinstance(made, Lettering) or not made.letters:
            continue
        key = f"lettering:{operation.id}"
        outlines = [setup.face_to_bed.area(letter.outline()) for letter in made.letters]
        out += area(union_all(outlines).envelope.buffer(4.0, join_style="mitre"), "block-edge", key)
        for outline in outlines:
            out += area(outline, "block", key)
    return out


def frames(plan: Plan, setup: PlannedSetup, keys: Iterable[str]) -> dict[str, HandleFrame]:
    """By key, what artwork is sized and turned by."""
    out: dict[str, HandleFrame] = {}
    for key in dict.fromkeys(keys):
        art = art_of(plan.job, setup.setup, key)
        corners = corners_of(art) if art is not None else None
        if art is not None and corners is not None:
            middle = setup.face_to_bed.xy(art.x, art.y)
            out[key] = HandleFrame(setup.face_to_bed.array(corners), middle, art.turn, stretches(art), art.locked)
    return out
