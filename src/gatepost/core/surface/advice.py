# SPDX-License-Identifier: GPL-3.0-or-later
"""What else there is to say of a surfacing: its path, stopping early, a target thickness, ridges, holding, the other face."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING

from gatepost.core.findings import Finding, Fix, Level
from gatepost.core.job.surface import Surfacing
from gatepost.core.job.tool import Tool
from gatepost.core.units import mm
from gatepost.core.working import Named, Working, working

if TYPE_CHECKING:
    from gatepost.core.surface.reckoned import SurfacingResult

STAGE = "surface"
WORTH = 1.0  # minutes; less is not worth another path
CUPS = 2.0  # mm off one face; less hardly cups a board
PER = 100.0  # mm of a spindle's mount that a lean is told over


def findings(wanted: Surfacing, tool: Tool, done: SurfacingResult) -> list[Finding]:
    """All of it."""
    return [
        *_path(wanted, done),
        *_early(wanted, done),
        *_target(wanted, done),
        *_ridges(wanted, tool),
        *_one_sided(done),
        *_either_first(done),
    ]


def _path(wanted: Surfacing, done: SurfacingResult) -> list[Finding]:
    way = done.way(wanted.seat)
    if way is None or len(way.by_path) < 2:
        return []
    plain, follow = way.by_path["rectangle"], way.by_path["outline"]
    words = f"the plain rectangle takes {plain:.1f} min, following the outline and what still stands {follow:.1f}"
    other = "outline" if wanted.path == "rectangle" else "rectangle"
    saved = plain - follow if other == "outline" else follow - plain
    if saved < WORTH:
        return [Finding("surface.path", Level.OK, STAGE, f"Of the two paths, {words}.")]
    sentence = "Follow the outline, skip the air" if other == "outline" else "Go over the plain rectangle"
    fix = Fix("set surfacing", {"path": other}, sentence)
    return [Finding("surface.path", Level.NOTE, STAGE, f"Of the two paths, {words}.", fixes=(fix,))]


def _early(wanted: Surfacing, done: SurfacingResult) -> list[Finding]:
    if done.depths is None or not done.lines:
        return []
    count = len(done.depths.heights)
    if not 0 < wanted.stop_after < count:
        return []
    deep = done.plane - done.lowest[2]
    x, y, _ = done.lowest
    message = (
        f"Stopped after pass {wanted.stop_after} of {count}: {100.0 * done.rough:.0f} % of the face stays rough, up to "
        f"{mm(deep)} below it, at X {mm(x)}, Y {mm(y)}. {mm(done.plane - done.depths.plane.result)} more wood is kept."
    )
    fix = Fix("set surfacing", {"stop_after": 0}, "Run all passes")
    return [Finding("surface.rough", Level.CARE, STAGE, message, fixes=(fix,))]


def _target(wanted: Surfacing, done: SurfacingResult) -> list[Finding]:
    if not wanted.target_thickness or done.depths is None:
        return []
    plane = done.under + wanted.target_thickness
    hollow = plane - done.lowest[2]
    if abs(done.depths.plane.result - plane) > 1e-6:
        most = done.lowest[2] + wanted.hollow - done.under
        message = (
            f"This board can't give {mm(wanted.target_thickness)}: its lowest place would stay {mm(hollow)} hollow, and "
            f"sanding takes {mm(wanted.hollow)}. {mm(most)} is the most."
        )
        fixes = (
            [
                Fix(
                    "set surfacing",
                    {"target_thickness": round(math.floor(most * 100.0) / 100.0, 2)},
                    f"Leave {mm(most)}",
                )
            ]
            if most > 3.0
            else []
        )
        return [Finding("surface.wished", Level.CARE, STAGE, message, fixes=tuple(fixes))]
    if hollow <= 0.0:
        return [
            Finding(
                "surface.wished",
                Level.OK,
                STAGE,
                f"{mm(wanted.target_thickness)} is left, as wanted, and all of it is clean.",
            )
        ]
    x, y, _ = done.lowest
    message = f"{mm(wanted.target_thickness)} is left, as wanted; a hollow of {mm(hollow)} at X {mm(x)}, Y {mm(y)} is to be sanded out."
    return [Finding("surface.wished", Level.NOTE, STAGE, message)]


def lean(step: float, stepover: float) -> Working:
    """Lean of the spindle across the feed from a step between passes, degrees. step, stepover: mm."""
    return working("atan(step / stepover)", Named("step", step), Named("stepover", stepover), unit="angle",
                   source="a disc that leans cuts a saw-tooth: step = stepover · tan of the lean")  # fmt: skip


def _ridges(wanted: Surfacing, tool: Tool) -> list[Finding]:
    said: list[Finding] = []
    over = tool.diameter * wanted.stepover
    for step, rows, low in ((wanted.step_x, "along X", wanted.low_x), (wanted.step_y, "along Y", wanted.low_y)):
        if step <= 0.0:
            continue
        if wanted.steps == "alternating":
            message = f"Steps of {mm(step, 3)} between rows {rows} that alternate are deflection or play, not tram: lighter passes, one way only, and look for what is loose."
            said.append(Finding("surface.ridges", Level.NOTE, STAGE, message, about=rows))
            continue
        tilt = lean(step, over)
        shim = PER * step / over
        hollow = tool.diameter / 2.0 * math.tan(math.radians(tilt.result))
        message = (
            f"Equal steps of {mm(step, 3)} between rows {rows}: the spindle leans {tilt.result:.2f}° and cuts lower at the {low}; "
            f"the top of it stands too far to the {low}. Bring it back by {mm(shim, 2)} in every {mm(PER, 0)} of its mount, "
            f"and test again. Rows the other way are {mm(hollow / 10.0, 3)} hollow at most."
        )
        level = Level.CARE if step > 0.05 else Level.NOTE
        said.append(Finding("surface.ridges", level, STAGE, message, working=tilt, about=rows))
    return said


def _one_sided(done: SurfacingResult) -> list[Finding]:
    if done.depths is None or done.other_face or done.depths.removal.result < CUPS:
        return []
    message = (
        f"{mm(done.depths.removal.result)} comes off one face: a one-sided cut cups. Take like amounts off both faces, and let "
        "the board rest between."
    )
    return [Finding("surface.one-sided", Level.NOTE, STAGE, message)]


def _either_first(done: SurfacingResult) -> list[Finding]:
    """Which face is better cut first."""
    if done.back_first is None or not done.ways or done.ways[0].kept is None:
        return []
    front, back = done.ways[0].thickness, done.back_first
    words = f"Front first both faces keep {mm(front)}, back first {mm(back)}"
    if back - front < 0.3:
        return [Finding("surface.either-first", Level.OK, STAGE, f"{words}: the front can be cut first.")]
    message = f"{words}: turn it over and begin with the back, lying on its top. Measure it as it lies then."
    return [Finding("surface.either-first", Level.NOTE, STAGE, message)]
