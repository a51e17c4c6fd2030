# SPDX-License-Identifier: GPL-3.0-or-later
"""Marks on the bed: readings, corners, flaws, supports, zeros, places to touch off and what is wrong where."""

from __future__ import annotations

import numpy as np
from shapely.geometry import Point

from gatepost.core.blank.places import measuring_places
from gatepost.core.blank.shape import polygon
from gatepost.core.findings import Level
from gatepost.core.plan.planned import PlannedSetup
from gatepost.core.plan.result import Plan
from gatepost.core.surface.seat import THINNEST
from gatepost.core.units import show_length
from gatepost.core.wood.flaws import flaw_area
from gatepost.drawing.shapes import Shape, dot, label, line, text

LABELLED = 24  # readings that each have their figure; of more, the highest and the lowest alone
FEW_CORNERS = 120  # of an outline, that can still be taken hold of one by one


def readings(plan: Plan, setup: PlannedSetup, unit: str) -> list[Shape]:
    out: list[Shape] = []
    odd = set(plan.thickness.odd)
    for i, r in enumerate(setup.blank.calipers):
        role = "reading-odd" if i in odd else ("reading-out" if r.keep is False else "reading")
        x, y = setup.at(r.x, r.y)
        out.append(dot(x, y, role, f"caliper:{r.id}", size=5))
        up = 1 if r.y > setup.blank.middle[1] else -1
        out.append(text(x, y + up * 26, show_length(r.thickness, unit), "reading-text", key=f"caliper:{r.id}"))
    tops = setup.blank.heights
    ends = {0, len(tops) - 1} if not tops else {
        min(range(len(tops)), key=lambda i: tops[i].z), max(range(len(tops)), key=lambda i: tops[i].z)
    }  # fmt: skip
    for i, h in enumerate(tops):
        if len(tops) <= LABELLED or i in ends:
            out.append(label(*setup.at(h.x, h.y), show_length(h.z, unit), "height", f"height:{h.id}"))
        else:
            out.append(dot(*setup.at(h.x, h.y), "reading-out", f"height:{h.id}", size=3.5))
    return out


def corners(plan: Plan, setup: PlannedSetup) -> list[Shape]:
    """Corners of an outline, to be dragged, and the direction of the grain."""
    blank = setup.blank
    out: list[Shape] = []
    turn = np.radians(blank.grain + setup.placed.to_bed.turn)
    long = min(90.0, 0.2 * blank.across[0])
    x, y = setup.at(*blank.middle)
    way = np.array([np.cos(turn), np.sin(turn)])
    for side in (-9.0, 0.0, 9.0):
        middle = np.array([x, y]) + side * np.array([-way[1], way[0]])
        out.append(line(np.array([middle - long * way, middle + long * way]), "grain"))
    if blank.shape == "outline" and len(blank.outline) <= FEW_CORNERS:
        there = setup.carried.then(setup.placed.to_bed)
        out += [dot(*there.xy(*c), "corner", f"corner:{i}", size=4) for i, c in enumerate(plan.job.blank.outline)]
    return out


def flaws(plan: Plan, setup: PlannedSetup) -> list[Shape]:
    """Flaws of either face as they lie under the face that is up."""
    out: list[Shape] = []
    for flaw in setup.blank.flaws:
        role = "flaw" if flaw.face == "front" else "flaw-under"
        key = f"flaw:{flaw.id}"
        ends = [setup.at(x, y) for x, y in flaw.ends]
        if len(ends) > 1:
            there = setup.placed.to_bed.area(flaw_area(flaw))
            out.append(line(np.asarray(there.exterior.coords), role, key))
            out += [Shape("ring", np.array([p]), role, k, size=4.0) for p, k in zip(ends, (key, f"{key}/to"))]
        else:
            out.append(Shape("ring", np.array(ends), role, key, size=max(flaw.size / 2.0, 4.0)))
        x, y = setup.at(*flaw.middle)
        out.append(text(x, y - flaw.size / 2.0 - 12.0, flaw.kind, "flaw-text", key=key))
    return out


def supports(plan: Plan, setup: PlannedSetup, unit: str) -> list[Shape]:
    """Where shims go, each with its height where that is known."""
    seats = setup.surfaced.seats
    shims = seats.shimmed.shims if seats is not None and seats.shimmed is not None else ()
    out: list[Shape] = []
    for i, spot in enumerate(setup.blank.supports):
        shim = shims[i].height if shims else 0.0
        words = "support" if not shims else f"shim {show_length(shim, unit)}" if shim >= THINNEST else "no shim"
        out.append(label(*setup.at(spot.x, spot.y), words, "height", f"support:{spot.id}"))
    return out


def zeros(plan: Plan, setup: PlannedSetup, stage: str) -> list[Shape]:
    """The X0 Y0 mark and where the first tool touches. The mark's name stands beside the board where it would cover what is carved."""
    x, y = setup.placed.mark
    out = [
        line(np.array([[x, y + 34], [x, y]]), "zero", "zero"), line(np.array([[x, y], [x - 26, y - 20]]), "zero", "zero"),
        line(np.array([[x, y], [x + 26, y - 20]]), "zero", "zero"),
    ]  # fmt: skip
    work = setup.placed.to_bed.area(polygon(setup.blank))
    if work.contains(Point(x, y - 38.0)):
        below = work.bounds[1] - 24.0
        out += [line(np.array([[x, y], [x, below]]), "zero-way"), label(x, below, "X0 Y0", "zero-label", "zero")]
    else:
        out.append(label(x, y - 38, "X0 Y0", "zero-label", "zero"))
    if stage in ("zero", "tools") and setup.touches:
        first = next(iter(setup.touches.values()))
        out.append(Shape("ring", np.array([[first.x, first.y]]), "touch", "touch", size=12))
        if work.contains(Point(first.x, first.y - 30.0)):
            above = work.bounds[3] + 12.0
            out += [
                line(np.array([[first.x, first.y], [first.x, above]]), "zero-way"),
                text(first.x, above, "touch Z", "touch-text"),
            ]
        else:
            out.append(text(first.x, first.y - 30, "touch Z", "touch-text"))
    return out


def spots(setup: PlannedSetup) -> list[Shape]:
    out: list[Shape] = []
    for change in setup.changes:
        for letter, spot in zip("ABC", change.spots):
            out.append(
                label(
                    *setup.at(spot.x, spot.y),
                    letter,
                    "spot",
                    f"spot:{change.tool.number}:{letter}",
                )
            )
    return out


def stops(plan: Plan, setup: PlannedSetup, stage: str) -> list[Shape]:
    out: list[Shape] = []
    for f in plan.findings:
        if f.place is not None and f.setup in ("", setup.name) and f.stage == stage and f.level is Level.STOP:
            out.append(Shape("ring", np.array([[f.place.x, f.place.y]]), "bad", size=max(f.place.size, 30.0)))
    return out


def to_measure(plan: Plan, setup: PlannedSetup, what: str, now: int) -> list[Shape]:
    """The places that are not measured yet, numbered round the board; the next one is full."""
    out: list[Shape] = []
    there = setup.carried.then(setup.placed.to_bed)
    for place in measuring_places(plan.job.blank, what):
        if place.taken and place.number != now:
            continue
        x, y = there.xy(place.x, place.y)
        here = place.number == now
        out.append(dot(x, y, "place-now" if here else "place", f"place:{place.number}", size=26.0 if here else 24.0))
        out.append(text(x, y, str(place.number), "place-text", key=f"place:{place.number}"))
    return out
