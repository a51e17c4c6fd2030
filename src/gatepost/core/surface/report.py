# SPDX-License-Identifier: GPL-3.0-or-later
"""What the Surface stage says."""

from __future__ import annotations

import math
from dataclasses import dataclass

from gatepost.core.findings import Figure, Finding, Fix, Gate, Level, Report, gate_of
from gatepost.core.job.model import Blank, Surfacing, Tool
from gatepost.core.surface.passes import Depths, Flatness, Missed, Overhang
from gatepost.core.units import mm
from gatepost.core.working import Working

STAGE = "surface"
RULES = {
    "turning round off the wood": "to turn round",
    "reaching the corners": "for corners",
    "scallops between passes": "for scallops",
}


@dataclass(frozen=True)
class Surfaced:
    """The whole of a surfacing as reckoned."""

    needed: bool
    flatness: Flatness | None
    depths: Depths | None = None
    overhang: Overhang | None = None
    missed: tuple[Missed, ...] = ()
    seconds: float = 0.0
    chip: Working | None = None
    measured: bool = True


def verdict(flat: Flatness) -> str:
    """Is it flat enough for this lettering, in one sentence."""
    if flat.needed:
        return (
            f"Not flat enough for this lettering: {mm(flat.error)} out of true would change the thinnest stroke by "
            f"{mm(flat.widening.result)}; {mm(flat.allowed.result)} is allowed."
        )
    return f"Flat enough for this lettering: {mm(flat.error)} out of true, and {mm(flat.allowed.result)} is allowed."


def report(wanted: Surfacing, tool: Tool, blank: Blank, done: Surfaced) -> Report:
    """Figures and findings of a surfacing."""
    if not done.measured:
        message = "Heights of the top are needed: type at least three, not in a line, on the Blank page."
        said = (Finding("surface.no-heights", Level.CARE, STAGE, message),)
        return Report(STAGE, "heights wanted", "not measured yet", (), said, Gate.WAITING)
    findings = _flatness_findings(wanted, done)
    if not done.needed or done.depths is None or done.overhang is None:
        figures = _flat_figures(done)
        gate = Gate.NOT_NEEDED if not any(f.stands for f in findings) else gate_of(tuple(findings))
        return Report(STAGE, "not needed", "the board is used as it is", figures, tuple(findings), gate)
    findings += (
        _pass_findings(wanted, tool, done.depths)
        + _path_findings(done.overhang, done.missed)
        + _chip_findings(tool, done)
    )
    figures = _flat_figures(done) + _figures(done.depths, done.overhang, done)
    fact = f"{len(done.depths.heights)} passes · {max(1, round(done.seconds / 60))} min"
    line = f"{mm(tool.diameter)} cutter, {wanted.direction}, in edge clamps"
    return Report(STAGE, fact, line, figures, tuple(findings), gate_of(tuple(findings)))


def _flat_figures(done: Surfaced) -> tuple[Figure, ...]:
    if done.flatness is None:
        return ()
    return (
        Figure("Out of true", done.flatness.error),
        Figure("Allowed for this lettering", done.flatness.allowed.result, working=done.flatness.allowed, places=2),
    )


def _figures(d: Depths, over: Overhang, done: Surfaced) -> tuple[Figure, ...]:
    ruling = (
        over.turn
        if over.rule.startswith("turning")
        else (over.corner if over.rule.startswith("reaching") else over.scallop)
    )
    return (
        Figure("Finished face above the bed", d.plane.result, working=d.plane),
        Figure("Comes off the highest place", d.removal.result, working=d.removal),
        Figure("Passes", d.count.result, "count", d.count),
        Figure("First bite at the highest", d.first_bite.result, working=d.first_bite),
        Figure(f"Past the ends, {RULES[over.rule]}", ruling.result, working=ruling),
        Figure("Minutes", done.seconds / 60.0, "minutes"),
    )


def _flatness_findings(wanted: Surfacing, done: Surfaced) -> list[Finding]:
    flat = done.flatness
    if flat is None:
        message = "No lettering yet, so nothing says how flat is flat enough."
        return [Finding("surface.no-lettering", Level.NOTE, STAGE, message)]
    words = verdict(flat)
    if flat.needed and wanted.wanted == "no":
        fix = Fix("set surfacing", {"wanted": "ask"}, "Surface it")
        return [Finding("surface.not-flat", Level.CARE, STAGE, words, working=flat.widening, fixes=(fix,))]
    if flat.needed:
        return [Finding("surface.needed", Level.NOTE, STAGE, words, working=flat.widening)]
    return [Finding("surface.flat-enough", Level.OK, STAGE, words, working=flat.widening)]


def _pass_findings(wanted: Surfacing, tool: Tool, d: Depths) -> list[Finding]:
    said: list[Finding] = []
    limit = min(wanted.limit, tool.pass_depth)
    if d.first_bite.result > limit + 1e-9:
        message = (
            f"The first bite is {mm(d.first_bite.result)} at the highest place; this cutter is given {mm(limit)} at most. "
            "It would stall or be torn out."
        )
        fixes = () if wanted.limit <= tool.pass_depth else (
            Fix("set surfacing", {"limit": tool.pass_depth}, f"Take {mm(tool.pass_depth)} a pass at most"),
        )  # fmt: skip
        said.append(Finding("surface.first-bite", Level.STOP, STAGE, message, working=d.first_bite, fixes=fixes))
    if d.plane.result <= 3.0:
        message = f"Only {mm(max(d.plane.result, 0.0))} of board would be left."
        said.append(Finding("surface.nothing-left", Level.STOP, STAGE, message, working=d.plane))
    return said


def _path_findings(over: Overhang, missed: tuple[Missed, ...]) -> list[Finding]:
    if missed:
        worst = missed[0]
        message = f"The cutter misses {worst.area:.1f} mm² at X {mm(worst.x)}, Y {mm(worst.y)} of the board."
        said = [Finding("surface.missed", Level.STOP, STAGE, message)]
    else:
        said = [
            Finding(
                "surface.covered", Level.OK, STAGE, "Every place of the face is reached: the cutter's discs cover it."
            )
        ]
    if over.turns_outside:
        past = over.turn.result - over.corner.result / (1 - 1 / math.sqrt(2))
        message = (
            f"Turns happen off the wood, the cutter's middle {mm(past)} past its ends: no marks from slowing down."
        )
        said.append(Finding("surface.turns", Level.OK, STAGE, message, working=over.turn))
    else:
        message = "There is no travel to turn round off the wood: expect marks near the ends of the rows."
        said.append(Finding("surface.turn-marks", Level.CARE, STAGE, message, working=over.turn))
    return said


def _chip_findings(tool: Tool, done: Surfaced) -> list[Finding]:
    if done.chip is None or done.chip.result >= tool.rub:
        return []
    message = f"The thickest chip is {mm(done.chip.result, 3)}, under the {mm(tool.rub, 3)} at which this cutter rubs and burns."
    faster = tool.feed * tool.rub / done.chip.result
    fix = Fix("set tool", {"number": tool.number, "feed": faster}, f"Feed at {faster:.0f} mm/min")
    return [Finding("surface.rubs", Level.CARE, STAGE, message, working=done.chip, fixes=(fix,))]
