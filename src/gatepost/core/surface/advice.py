# SPDX-License-Identifier: GPL-3.0-or-later
"""What else there is to say of a surfacing: its path, stopping early, a target thickness, ridges, holding, the other face."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING

from gatepost.core.findings import Finding, Fix, Level, Table
from gatepost.core.job.blank import Blank
from gatepost.core.job.surface import Surfacing
from gatepost.core.job.tool import Tool
from gatepost.core.units import mm
from gatepost.core.working import Named, Working, working

if TYPE_CHECKING:
    from gatepost.core.surface.reckoned import SurfacingResult

STAGE = "surface"
WORTH = 1.0  # minutes; less is not worth another path
CUPS = 2.0  # mm off one face; less hardly cups a board
TO_DRAW = 10.0  # minutes to measure an outline and draw it; a shop rule
PLANER_WIDE, PLANER_TAKES, PLANER_SET, PLANER_PASS = (
    300.0,
    1.0,
    8.0,
    1.0,
)  # mm, mm a pass, minutes to set it up and for a pass; shop rules
SANDS, SANDER, HAND = 0.3, 200.0, 60.0  # mm that a sander takes; minutes for a mm off a square metre; shop rules
PER = 100.0  # mm of a spindle's mount that a lean is told over


def findings(wanted: Surfacing, tool: Tool, blank: Blank, done: SurfacingResult) -> list[Finding]:
    """All of it."""
    return [
        *_path(wanted, blank, done),
        *_early(wanted, done),
        *_target(wanted, done),
        *_ridges(wanted, tool),
        *_one_sided(done),
        *_either_first(done),
    ]


def _path(wanted: Surfacing, blank: Blank, done: SurfacingResult) -> list[Finding]:
    """Minutes of both paths, those that it takes to measure and draw an outline counted where there is none yet."""
    way = done.way(wanted.seat)
    if way is None or len(way.by_path) < 2:
        return []
    plain, follow = way.by_path["rectangle"], way.by_path["outline"]
    known = blank.shape != "rectangle"
    words = f"the plain rectangle takes {plain:.1f} min, following the outline and what still stands {follow:.1f}"
    words += "" if known else f", and to measure and draw an outline about {TO_DRAW:.0f} more (a shop rule)"
    other = "outline" if wanted.path == "rectangle" else "rectangle"
    saved = plain - follow if other == "outline" else follow - plain
    if saved < (WORTH if known or other == "rectangle" else TO_DRAW):
        return [Finding("surface.path", Level.OK, STAGE, f"Of the two paths, {words}.")]
    sentence = "Follow the outline, skip the air" if other == "outline" else "Go over the plain rectangle"
    fix = Fix("set surfacing", {"path": other}, sentence)
    return [Finding("surface.path", Level.NOTE, STAGE, f"Of the two paths, {words}.", fixes=(fix,))]


def tables(wanted: Surfacing, tool: Tool, blank: Blank, done: SurfacingResult) -> tuple[Table, ...]:
    """What other stepovers come to, and other ways to take as much off."""
    if done.depths is None or not done.seconds:
        return ()
    return _stepovers(wanted, tool, done), _other_ways(blank, done)


def _stepovers(wanted: Surfacing, tool: Tool, done: SurfacingResult) -> Table:
    """Minutes in proportion to the rows, the ridge that the measured lean leaves, and the thickest chip, by stepover."""
    slope = max(
        (
            s / over
            for s, over in ((wanted.step_x, patch(wanted, tool)), (wanted.step_y, patch(wanted, tool)))
            if s > 0.0
        ),
        default=0.0,
    )
    rows = [("stepover", "about", "ridge", "chip")]
    for share, chip in done.chips:
        step = share * tool.diameter
        minutes = done.seconds / 60.0 * wanted.stepover / share
        mark = "● " if abs(share - wanted.stepover) < 1e-6 else ""
        rows.append(
            (
                f"{mark}{100 * share:.0f} %, {mm(step, 1)}",
                f"{minutes:.0f} min",
                mm(slope * step, 3) if slope else "–",
                mm(chip, 3),
            )
        )
    lean_ = "the ridge by the lean measured" if slope else "measure two test patches for the ridge"
    return f"Stepover: {lean_}; it rubs under {mm(tool.rub, 3)} of chip", tuple(rows)


def _other_ways(blank: Blank, done: SurfacingResult) -> Table:
    """The same amount by other means; all figures but the router's are shop rules."""
    assert done.depths is not None
    off = done.removal.result
    long, wide = blank.across
    area = long * wide / 1e6
    planer = (
        f"{PLANER_SET + PLANER_PASS * math.ceil(off / PLANER_TAKES):.0f} min" if wide <= PLANER_WIDE else "too wide"
    )
    sander = f"{SANDER * area * off:.0f} min" if off <= SANDS else "too much"
    return f"To take {mm(off, 2)} off other ways (shop rules)", (
        ("way", "about"),
        ("● router: marks, tram", f"{done.seconds / 60.0:.0f} min"),
        (f"planer: one face flat first, to {mm(PLANER_WIDE, 0)} wide, ends sniped", planer),
        ("hand plane: winding sticks", f"{HAND * area * off:.0f} min"),
        (f"sander: up to {mm(SANDS, 2)}, dubs the edges", sander),
    )


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
        f"{mm(deep, 2)} below it, at X {mm(x, 2)}, Y {mm(y, 2)}. {mm(done.plane - done.depths.plane.result, 2)} more wood is kept."
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
            f"This board can't give {mm(wanted.target_thickness, 2)}: its lowest place would stay {mm(hollow, 2)} hollow, and "
            f"sanding takes {mm(wanted.hollow, 2)}. {mm(most, 2)} is the most."
        )
        fixes = (
            [
                Fix(
                    "set surfacing",
                    {"target_thickness": round(math.floor(most * 100.0) / 100.0, 2)},
                    f"Leave {mm(most, 2)}",
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
                f"{mm(wanted.target_thickness, 2)} is left, as wanted, and all of it is clean.",
            )
        ]
    x, y, _ = done.lowest
    message = f"{mm(wanted.target_thickness, 2)} is left, as wanted; a hollow of {mm(hollow, 2)} at X {mm(x, 2)}, Y {mm(y, 2)} is to be sanded out."
    return [Finding("surface.wished", Level.NOTE, STAGE, message)]


def lean(step: float, stepover: float) -> Working:
    """Lean of the spindle across the feed from a step between passes, degrees. step, stepover: mm."""
    return working("atan(step / stepover)", Named("step", step), Named("stepover", stepover), unit="angle",
                   source="a disc that leans cuts a saw-tooth: step = stepover · tan of the lean")  # fmt: skip


def patch(wanted: Surfacing, tool: Tool) -> float:
    """Stepover, mm, of the patches that the steps were measured on."""
    return wanted.patch_stepover or tool.diameter * wanted.stepover


def _ridges(wanted: Surfacing, tool: Tool) -> list[Finding]:
    said: list[Finding] = []
    over, wide = patch(wanted, tool), wanted.patch_diameter or tool.diameter
    taken = f", on {wanted.patch_taken}" if wanted.patch_taken else ""
    with_ = f" Measured with a cutter of {mm(wide, 2)} at a stepover of {mm(over, 2)}{taken}: measure it again when anything was knocked, taken off or set."
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
        here = step * tool.diameter * wanted.stepover / over
        message = (
            f"Equal steps of {mm(step, 3)} between rows {rows}: the spindle leans {tilt.result:.2f}° and cuts lower at the {low}; "
            f"the top of it stands too far to the {low}. Bring it back by {mm(shim, 2)} in every {mm(PER, 0)} of its mount, "
            f"and test again. As planned the steps are {mm(here, 3)}, and rows the other way {mm(hollow / 10.0, 3)} hollow at most.{with_}"
        )
        level = Level.CARE if here > 0.05 else Level.NOTE
        said.append(Finding("surface.ridges", level, STAGE, message, working=tilt, about=rows))
    return said


def _one_sided(done: SurfacingResult) -> list[Finding]:
    if done.depths is None or done.other_face or done.removal.result < CUPS:
        return []
    message = (
        f"{mm(done.removal.result, 2)} comes off one face: a one-sided cut cups. Take like amounts off both faces, and let "
        "the board rest between."
    )
    return [Finding("surface.one-sided", Level.NOTE, STAGE, message)]


def _either_first(done: SurfacingResult) -> list[Finding]:
    """Which face is better cut first."""
    if done.back_first is None or not done.ways or done.ways[0].kept is None:
        return []
    front, back = done.ways[0].thickness, done.back_first
    words = f"Cutting the front first leaves {mm(front, 2)} of the board, the back first {mm(back, 2)}"
    if back - front < 0.3:
        return [Finding("surface.either-first", Level.OK, STAGE, f"{words}: the front can be cut first.")]
    message = f"{words}: turn it over and begin with the back. Measure it again as it lies then."
    return [Finding("surface.either-first", Level.NOTE, STAGE, message)]
