# SPDX-License-Identifier: GPL-3.0-or-later
"""What a plan promises of the finished piece, point by point, and the warnings that were accepted with it."""

from __future__ import annotations

import math
from collections.abc import Sequence

from gatepost.core.findings import Level
from gatepost.core.job.carve import CutOut
from gatepost.core.log.judged import LessonJudged, Promised, ResultAsked, WarningJudged
from gatepost.core.log.lesson import Lesson
from gatepost.core.plan.recalled import recalled
from gatepost.core.plan.result import Plan
from gatepost.core.tolerances import FLATNESS, REGISTERED
from gatepost.core.units import mm, spell

SIZES = {"trial": 1.0, "sign": 0.5, "heirloom": 0.2}  # mm that a part's length or width may differ by; a shop rule
LEAST = 0.1  # mm: what calipers and a hand tell of wood


def promised(plan: Plan, lessons: Sequence[Lesson] = ()) -> ResultAsked:
    """What the piece is judged by: depth, width, thickness, size, one face beside the other, fit, paint; and what was accepted. lessons: of the shop; those that come back in this job are asked about."""
    points = [*_depths(plan), *_widths(plan), *_flat(plan), *_size(plan), *_through(plan), *_fits(plan), *_by_eye(plan)]
    unit = plan.job.unit
    come = tuple(LessonJudged(r.lesson.id, r.lesson.words) for r in recalled(plan, lessons) if not r.against)
    return ResultAsked(tuple(points), tuple(accepted(plan, unit)), come)


def accepted(plan: Plan, unit: str = "mm") -> list[WarningJudged]:
    """Warnings that stand in the plan and were accepted, each once, with their reasons."""
    out: dict[tuple[str, str, str], WarningJudged] = {}
    for report in plan.reports.values():
        for f in report.findings:
            if f.level is Level.CARE and f.accepted:
                key = (f.code, f.setup, f.about)
                out.setdefault(key, WarningJudged(f.code, f.setup, f.about, spell(f.message, unit), f.accepted))
    return list(out.values())


def _title(plan: Plan, name: str) -> str:
    setup = plan.job.setup(name)
    return setup.title or setup.id


def _depths(plan: Plan) -> list[Promised]:
    out = []
    for setup in plan.setups:
        for number, d in setup.depths.items():
            what = "Wood left under what" if d.thick else "Depth of what"
            out.append(
                Promised(f"depth {setup.name} T{number}", f"{what} T{number} cut, {_title(plan, setup.name)}", d.planned, d.allowed, setup.name)
            )  # fmt: skip
    return out


def _widths(plan: Plan) -> list[Promised]:
    """The widest stroke of each face's letters: it changes first where Z was off."""
    out = []
    done = plan.finishing
    for letters in done.letters if done is not None else ():
        if letters.widest is None or not letters.widths:
            continue
        name, width = letters.widest
        thinnest = min(w for _, w in letters.widths)
        within = max(FLATNESS[plan.job.tolerance] * thinnest, LEAST)
        words = f"Widest stroke, {name}, {_title(plan, letters.setup)}" if letters.setup else f"Widest stroke, {name}"
        out.append(Promised(f"width {letters.setup}", words, width, within, letters.setup))
    return out


def _flat(plan: Plan) -> list[Promised]:
    flattening = [s for s in plan.setups if s.flattens and s.passes]
    if not flattening:
        return []
    flat = plan.surfaced.flatness
    within = max(flat.allowed.result if flat is not None and math.isfinite(flat.allowed.result) else LEAST, LEAST)
    last = flattening[-1]
    way = last.surfaced.way("shimmed" if last.shimmed else "")
    out = [Promised("flat", "Out of flat, under a straight edge", 0.0, within, last.name)]
    if way is not None:
        out.append(Promised("thickness", "Thickness after surfacing", way.thickness, max(within, LEAST), last.name))
    return out


def _size(plan: Plan) -> list[Promised]:
    done = plan.finishing
    cut_out = any(op.kind == "cutout" for s in plan.setups for op in s.operations)
    if done is None or not cut_out or min(done.size) <= 0.0:
        return []
    within = SIZES[plan.job.tolerance]
    return [
        Promised("length", "Length of the part", done.size[0], within),
        Promised("width of the part", "Width of the part", done.size[1], within),
    ]


def _through(plan: Plan) -> list[Promised]:
    """How deep the marks in tape and bed are under what was cut right through: what Z and thickness were really off by together."""
    out = []
    for setup in plan.setups:
        cut = {op.operation for op in setup.operations}
        deep = [
            o.figures.allowance
            for o in setup.setup.operations
            if o.id in cut and isinstance(o.figures, CutOut) and o.figures.skin == 0.0
        ]
        if deep:
            words = f"Marks in tape or bed under the cut, {_title(plan, setup.name)}"
            out.append(Promised(f"through {setup.name}", words, max(deep), max(max(deep) / 2.0, LEAST), setup.name))
    return out


def _fits(plan: Plan) -> list[Promised]:
    carving = [s for s in plan.setups if s.operations and not s.flattens]
    ups = {s.setup.up for s in carving}
    out = []
    if len(ups) > 1:
        out.append(Promised("beside", "One face beside the other", 0.0, REGISTERED[plan.job.tolerance]))
    if any(s.setup.comes is not None for s in carving):
        out.append(Promised("fit", "New lines meet old ones where they should"))
    return out


def _by_eye(plan: Plan) -> list[Promised]:
    out = [Promised("edges", "Edges clean: no burn, no fuzz, nothing torn out")]
    if plan.finishing is not None and plan.finishing.letters:
        out.append(Promised("reads", "Readable from where it will be read"))
    if plan.job.finish.coats or plan.job.blank.coats:
        out.append(Promised("paint", "Paint: even, hard, nothing bled under the mask or into the grain"))
    if any(s.setup.holds for s in plan.setups):
        out.append(Promised("held", "Held: nothing moved, no clamp marks, tabs whole to the end"))
    return out


def asked_words(point: Promised, unit: str) -> str:
    """What is promised of a point, in the unit that is worked in."""
    if point.figure is None:
        return point.words
    return spell(f"{point.words}: {mm(point.figure, 2)} ± {mm(point.within, 2)}", unit)
