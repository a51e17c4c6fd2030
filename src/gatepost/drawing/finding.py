# SPDX-License-Identifier: GPL-3.0-or-later
"""A piece found by its marks: where it was meant to lie and where it does, each mark, and by how much it lies beside where the fit has it."""

from __future__ import annotations

import math
from dataclasses import replace

import numpy as np
from shapely.geometry import Point as Place

from gatepost.core.blank.shape import polygon
from gatepost.core.job.holes import HolesFigures
from gatepost.core.job.rows import places
from gatepost.core.job.turning import lies
from gatepost.core.plan.planned import PlannedSetup
from gatepost.core.plan.result import Plan
from gatepost.core.register.fit import Fit, FitVerdict, Residual
from gatepost.core.register.looks import Looked
from gatepost.core.register.marks import FoundAgain, ReadMark
from gatepost.core.units import mm, spell
from gatepost.drawing.paths import art
from gatepost.drawing.shapes import Array, Drawing, Shape, area, label, line, text

# shares of the piece's longest side
CROSS, LONG, ABOUT, UNDER, BESIDE = 0.018, 0.12, 0.12, 0.1, 0.04
HEAD = 0.02
ROUND = (1.0, 2.0, 5.0)  # what arrows are longer by, and tens of these


def finding(plan: Plan, name: str, unit: str = "mm") -> Drawing | None:
    """The piece on the bed with its marks; nothing for a setup that is not found by any."""
    setup = plan.setup(name)
    found = _of(setup) if setup is not None else None
    if setup is None or found is None:
        return None
    outline = setup.placed.to_bed.area(polygon(setup.blank))
    x0, y0, x1, y1 = outline.bounds
    long = max(x1 - x0, y1 - y0)
    shapes: list[Shape] = []
    if found.stands:
        meant = np.array([found.meant(*p) for p in np.asarray(outline.exterior.coords)])
        shapes.append(line(meant, "goes"))
    shapes += area(outline, "wood")
    shapes += [replace(s, key="") for s in art(plan, setup, "hold") if s.role == "art"]
    shapes += _holes(plan, setup)
    shapes += _marks(setup, found, long)
    words, arrows = _arrows(found, long)
    shapes += arrows
    low = y0 - UNDER * long - ABOUT * long
    shapes += [text(0.5 * (x0 + x1), low + 0.5 * UNDER * long, spell(words, unit))] if words else []
    extents = (x0 - ABOUT * long, low, x1 + ABOUT * long, y1 + ABOUT * long)
    title = f"{setup.setup.title or setup.name}: {_titled(setup, found)}"
    return Drawing(tuple(shapes), extents, "Marks", title, rulers=False)


def _holes(plan: Plan, setup: PlannedSetup) -> list[Shape]:
    """Every hole of the face that is up, drilled here or there already, and rings round them."""
    out: list[Shape] = []
    for a in plan.job.artwork:
        if a.face == setup.setup.up and isinstance(a.figures, HolesFigures):
            for x, y in places(a):
                at = setup.face_to_bed.xy(float(x), float(y))
                round_ = np.asarray(Place(*at).buffer(0.5 * a.figures.across, quad_segs=12).exterior.coords)
                out.append(line(round_, "goes"))
    return out


def _of(setup: PlannedSetup) -> FoundAgain | None:
    """What is shown: rings once one was measured, marks that were looked at, else those that it is found by; nothing where there are none."""
    rings, looks = setup.proving.rings, setup.proving.looks
    for seen in (rings, looks):
        if seen is not None and seen.seen:
            return _as_seen(seen)
    if setup.found is not None and setup.found.marks:
        return setup.found
    shown = looks if looks is not None else rings
    turned = setup.before != lies(setup.setup)  # how it is turned is shown until something was seen
    return _as_seen(shown) if shown is not None and not turned else None


def _as_seen(looks: Looked) -> FoundAgain:
    """Marks that were looked at, each beside the tip by what was seen."""
    off = tuple(Residual(m.name, m.read[0] - m.drawn[0], m.read[1] - m.drawn[1]) for m in looks.marks)
    fit = Fit(0.0, (0.0, 0.0), 1.0, off, FitVerdict.UNSURE, "") if looks.seen else None
    return FoundAgain(looks.ids, looks.marks, looks.seen, fit)


def _titled(setup: PlannedSetup, found: FoundAgain) -> str:
    if setup.found is not None and found is setup.found:
        return f"found by {len(found.marks)} marks, {len(found.read)} of them read"
    rings = setup.proving.rings is not None and found.ids == setup.proving.rings.ids
    what = "rings round old holes" if rings else "marks before wood is cut"
    return f"{what}, {len(found.read)} of {len(found.marks)} {'measured' if rings else 'looked at'}"


def _there(found: FoundAgain, m: ReadMark) -> Array:
    """Where a mark is, by what is known of the piece."""
    if not found.stands or found.fit is None:
        return np.array(m.drawn)
    angle = math.radians(found.fit.turn)
    x, y = m.drawn
    return np.array([
        math.cos(angle) * x - math.sin(angle) * y + found.fit.shift[0], math.sin(angle) * x + math.cos(angle) * y + found.fit.shift[1],
    ])  # fmt: skip


def _marks(setup: PlannedSetup, found: FoundAgain, long: float) -> list[Shape]:
    """A cross at each hole or point, a short line along each edge; its name beside it."""
    out: list[Shape] = []
    arm, middle = CROSS * long, float(np.mean([_there(found, m)[0] for m in found.marks]))
    for number, (i, m) in enumerate(zip(found.ids, found.marks), start=1):
        at = _there(found, m)
        if m.normal is None:
            out += [
                line(np.array([at - [arm, 0.0], at + [arm, 0.0]]), "zero"),
                line(np.array([at - [0.0, arm], at + [0.0, arm]]), "zero"),
            ]
        else:
            angle = math.radians(m.normal)
            n, along = np.array([math.cos(angle), math.sin(angle)]), np.array([-math.sin(angle), math.cos(angle)])
            out += [
                line(np.array([at - 1.5 * arm * along, at + 1.5 * arm * along]), "zero"),
                line(np.array([at, at + 1.5 * arm * n]), "zero"),
            ]
        # towards the middle: a cross beside its name, an edge inside of it
        inwards = (
            [math.copysign(1.0, middle - at[0]), 0.0]
            if m.normal is None
            else [-math.cos(math.radians(m.normal)), -math.sin(math.radians(m.normal))]
        )
        x, y = at + BESIDE * long * np.array(inwards)
        out.append(label(float(x), float(y), f"{number}{' ✓' if i in found.read else ''}"))
    return out


def _arrows(found: FoundAgain, long: float) -> tuple[str, list[Shape]]:
    """What each mark lies beside its place, all by as much longer; and how much."""
    fit = found.fit
    if fit is None or not fit.residuals:
        return "", []
    worst = max(r.off for r in fit.residuals)
    if worst < 1e-6:
        return "Every mark lies where it is drawn", []
    times = _round(LONG * long / worst)
    out: list[Shape] = []
    for m, r in zip(found.marks, fit.residuals):
        at, tip = _there(found, m), _there(found, m) + times * np.array([r.x, r.y])
        out.append(line(np.array([at, tip]), "bears-way"))
        if times * r.off > 2.0 * HEAD * long:
            way = (tip - at) / (times * r.off)
            side = np.array([-way[1], way[0]])
            out.append(
                line(
                    np.array([tip - HEAD * long * (way - 0.6 * side), tip, tip - HEAD * long * (way + 0.6 * side)]),
                    "bears-way",
                )
            )
    return f"Arrows {times:g} times as long; the longest is {mm(worst, 2)}", out


def _round(times: float) -> float:
    """A round number that is no larger."""
    power = 10.0 ** math.floor(math.log10(max(times, 1e-9)))
    return max(r for r in ROUND if r * power <= times * (1 + 1e-9)) * power
