# SPDX-License-Identifier: GPL-3.0-or-later
"""What stands on the bed: holds with what they bear on, what stays from job to job, and what finds the zeros."""

from __future__ import annotations

import numpy as np
from shapely import get_coordinates, union_all

from gatepost.core.blank.shape import polygon
from gatepost.core.findings import Level
from gatepost.core.hold.solids import WALL, insert_places
from gatepost.core.plan.planned import PlannedSetup
from gatepost.core.plan.result import Plan
from gatepost.drawing.hatching import hatch
from gatepost.drawing.shapes import Shape, area, dot, label, line, text

ARROW = 26.0  # mm


def bearing(plan: Plan, setup: PlannedSetup) -> list[Shape]:
    """What bears where, and which way: the patch that a hold presses with its drive shown as an arrow, a cross where it presses down; the
    supports that it lies on, where shims are under it."""
    out: list[Shape] = []
    kinds, work = plan.kinds.holds, setup.placed.to_bed.area(polygon(setup.blank))
    for hold in setup.setup.holds:
        kind = kinds[hold.kind]
        if kind.by not in ("top", "edge"):
            continue
        patch = kind.bearing(hold, work).intersection(work)
        if patch.is_empty or patch.geom_type != "Polygon":
            continue
        out.append(line(np.asarray(patch.exterior.coords), "bears"))
        x, y = kind.touch_point(hold)
        if kind.by == "top":
            out += [
                line(np.array([[x - 4, y - 4], [x + 4, y + 4]]), "bears-way"),
                line(np.array([[x - 4, y + 4], [x + 4, y - 4]]), "bears-way"),
            ]
            continue
        way = np.radians(hold.heading)
        along, side = np.array([np.cos(way), np.sin(way)]), np.array([-np.sin(way), np.cos(way)])
        tip = np.array([x, y]) + ARROW * along
        out += [
            line(np.array([[x, y], tip]), "bears-way"),
            line(np.array([tip - 8 * along + 5 * side, tip, tip - 8 * along - 5 * side]), "bears-way"),
        ]
    return out


def holds(plan: Plan, setup: PlannedSetup) -> list[Shape]:
    bad = {f.about for f in plan.report("hold", setup.name).findings if f.level is Level.STOP and f.about}
    out: list[Shape] = []
    kinds = plan.kinds.holds
    for hold in setup.setup.holds:
        kind = kinds[hold.kind]
        if kind.by == "under":
            under = kind.covers(hold, [])
            role = "tape-bad" if hold.name in bad else "tape"
            out += area(under, role, f"hold:{hold.name}")
            out += hatch(under, kind.hatch, role)
    for solid in sorted((s for s in setup.solids if s.look != WALL), key=lambda q: q.look.over):
        role = solid.look.role
        out += area(
            solid.outline, f"{role}-bad" if solid.hold in bad and role == "strap" else role, f"hold:{solid.hold}"
        )
    for name in dict.fromkeys(s.hold for s in setup.solids if s.look == WALL):
        frame = union_all([s.outline.buffer(1e-6) for s in setup.solids if s.hold == name])
        out += area(frame, WALL.role, f"hold:{name}")
    for hold in setup.setup.holds:
        kind = kinds[hold.kind]
        mine = [s for s in setup.solids if s.hold == hold.name]
        out += [line(get_coordinates(mark), "slot-dark") for mark in kind.marks(hold, mine)]
        role = "hold-bad-text" if hold.name in bad else "hold-text"
        x, y = kind.name_at(hold)
        if kind.by == "under":  # its middle is under what is carved: named beside the board
            y = min([s.outline.bounds[1] for s in mine], default=y) - 11.0
        out.append(text(x, y, hold.name, role, key=f"hold:{hold.name}"))
    return out


def lasting(plan: Plan) -> list[Shape]:
    """What stays on the bed from job to job: scars of earlier cuts and inserts."""
    bed_ = plan.job.machine.bed
    out = [
        Shape("line", np.asarray(scar.points[:1] + scar.points, np.float64).reshape(-1, 2), "scar", size=scar.width)
        for scar in bed_.scars
    ]
    return out + [dot(x, y, "insert", size=3.0) for x, y in insert_places(bed_)]


def touching(setup: PlannedSetup) -> list[Shape]:
    """What is moved beside the board to find its zeros, and the room that plates want."""
    out: list[Shape] = []
    for run in setup.touching:
        points, wide = (
            np.asarray(run.moves.points)[:, :2],
            max(p.radius for p in run.parts if p.part in ("pin", "plate", "cutter")),
        )
        if run.name.startswith(("touching", "squaring")):
            out += [
                line(points[[0, 2]], "rapid"),
                dot(float(points[2, 0]), float(points[2, 1]), "rapid", size=2.0 * wide),
            ]
        elif run.name.startswith("plate"):
            out.append(
                line(
                    np.array(
                        [
                            [points[0, 0] + wide * np.cos(t), points[0, 1] + wide * np.sin(t)]
                            for t in np.linspace(0.0, 2.0 * np.pi, 33)
                        ]
                    ),
                    "rapid",
                )
            )
    return out


def old_cuts(setup: PlannedSetup) -> list[Shape]:
    """What was cut in this board and is planned otherwise now."""
    out: list[Shape] = []
    for cut in setup.old_cuts:
        x0, y0, x1, y1 = cut.box
        ring = np.array([setup.at(x, y) for x, y in ((x0, y0), (x1, y0), (x1, y1), (x0, y1), (x0, y0))])
        out += [line(ring, "flaw-under"), line(ring[[0, 2]], "flaw-under"), line(ring[[1, 3]], "flaw-under")]
        out.append(label(*setup.at(0.5 * (x0 + x1), y1), "cut before", "flaw-text"))
    return out
