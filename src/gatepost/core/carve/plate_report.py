# SPDX-License-Identifier: GPL-3.0-or-later
"""What the Carve stage says of a plate that is cut out: its tool, its place, and its tabs."""

from __future__ import annotations

import math

import shapely

from gatepost.core.carve.flaws import plate_over_flaws
from gatepost.core.carve.lettered import STAGE
from gatepost.core.carve.paths import middle_line, plate_outline
from gatepost.core.carve.tab_places import on_end_grain, tab_shares
from gatepost.core.findings import Finding, Fix, Level
from gatepost.core.geometry.outline import Area
from gatepost.core.job.carve import MOST_TABS, Plate
from gatepost.core.job.tool import Tool
from gatepost.core.operation_kind import JudgedBy
from gatepost.core.profile import upright
from gatepost.core.tolerances import TAB_FACTOR
from gatepost.core.units import area_words, mm
from gatepost.core.wood.flaws import flaw_area
from gatepost.core.working import Named, working


def unfit(number: int, setup: str) -> Finding:
    """A tool that can't cut a plate out."""
    message = f"Tool {number} can't cut the plate out. Choose an end mill."
    return Finding("carve.cutout-tool", Level.STOP, STAGE, message, setup)


def plate_findings(plate: Plate, tool: Tool, c: JudgedBy, rounds: int) -> list[Finding]:
    """What is wrong with a cut-out. rounds: of one that is left out since there are too many to work out, else 0."""
    if not upright(tool):
        return [unfit(plate.tool, c.setup)]
    said: list[Finding] = []
    if rounds:
        message = (
            f"Tool {tool.number} would go round {rounds} times, {mm(tool.pass_depth, 3)} deeper each: more than can be worked out, and "
            "than anybody runs. Take more at a pass; the plate is not cut out until then."
        )
        usual = min(0.5 * tool.diameter, tool.cutting_length)
        fix = Fix(
            "set tool", {"number": tool.number, "pass_depth": usual}, f"Take half its diameter a pass, {mm(usual)}"
        )
        said.append(Finding("carve.too-many-passes", Level.STOP, STAGE, message, c.setup, fixes=(fix,)))
    if plate.out < 0.0 and middle_line(plate, tool, plate.allowance).is_empty:
        slim = sorted(
            (t for t in c.tools if t.kind == "flat" and t.diameter < tool.diameter), key=lambda t: -t.diameter
        )
        fit = next((t for t in slim if not middle_line(plate, t, plate.allowance).is_empty), None)
        fixes = (
            (
                Fix(
                    "set operation",
                    {"operation": c.operation, "tool": fit.number},
                    f"Use tool {fit.number}, {fit.name}",
                ),
            )
            if fit
            else ()
        )
        message = f"Tool {tool.number}, {mm(tool.diameter)} across with {mm(plate.allowance)} left on, does not fit inside: nothing is cut out."
        said.append(Finding("carve.cutout-narrow", Level.STOP, STAGE, message, c.setup, fixes=fixes))
    edge = c.outline
    if not edge.contains(plate_outline(plate)):
        said.append(
            Finding("carve.plate-off-board", Level.STOP, STAGE, "The plate does not lie wholly on the board.", c.setup)
        )
    if tool.cutting_length < c.thickness:
        message = (
            f"The board is {mm(c.thickness)} thick and tool {tool.number} cuts {mm(tool.cutting_length)} deep at most."
        )
        said.append(Finding("carve.cutter-short", Level.STOP, STAGE, message, c.setup))
    if plate.tabs and plate.skin <= 0.0 and c.peak > 0.0:
        said += _tab_findings(c, plate, tool)
    said += _inlets(plate, tool, c)
    return said + plate_over_flaws(plate, tool, c.flaws, c.setup, c.named)


def _inlets(plate: Plate, tool: Tool, c: JudgedBy) -> list[Finding]:
    """What its cutter does not get into from outside: it stays on the plate."""
    stays = _not_reached(plate, tool)
    if plate.out == 0.0 or stays.area < INLET:
        return []
    slimmer = [
        t for t in c.tools if t.kind == "flat" and t.diameter < tool.diameter and t.cutting_length >= c.thickness
    ]
    fixes = tuple(
        Fix("set plate", {"tool": t.number, **c.named}, f"Use tool {t.number}, {t.name}")
        for t in sorted(slimmer, key=lambda t: t.diameter)[:1]
        if _not_reached(plate, t).area < INLET
    )
    message = f"{area_words(stays.area)} in its inner corners and inlets tool {tool.number} does not get into: it stays on, to be cut by hand."
    return [Finding("carve.cutout-unreached", Level.CARE, STAGE, message, c.setup, fixes=fixes)]


def _not_reached(plate: Plate, tool: Tool) -> Area:
    """Beside its line what a cutter leaves: outside in inlets, inside in corners."""
    part = plate_outline(plate)
    line = middle_line(plate, tool).buffer(-plate.out * tool.diameter / 2.0, quad_segs=32)
    return line.difference(part) if plate.out > 0.0 else part.difference(line)


INLET = 1.0  # mm²: less in inner corners is not worth a word
APART = 300.0  # mm round the edge from tab to tab; a shop rule
BY_HAND = 150.0  # N that a tab is still broken by hand with; a shop rule


def _tab_findings(c: JudgedBy, plate: Plate, tool: Tool) -> list[Finding]:
    shear = c.rules.tab_shear
    strength = working(
        "tabs * width * height * shear", Named("tabs", float(plate.tabs), "count"), Named("width", plate.tab_width), Named("height", plate.tab_height),
        Named("shear", shear, "N/mm²"), unit="force", assumption="grain running short across the tab", shop_rule=True,
    )  # fmt: skip
    wanted = TAB_FACTOR * c.peak
    words = f"{plate.tabs} tabs bear about {strength.result:.0f} N; {wanted:.0f} N is wanted (twice the peak push)."
    if strength.result >= wanted:
        return [
            Finding(
                "carve.tabs", Level.OK, STAGE, f"{words} {_breaking(strength.result / plate.tabs)}", c.setup, strength
            ),
            *_tabs_stand(c, plate, tool),
        ]
    height = wanted / (plate.tabs * plate.tab_width * shear) * (1 + 1e-9)
    fixes = (
        (Fix("set plate", {"tab_height": height, **c.named}, f"Make the tabs {mm(height)} high"),)
        if height < c.thickness
        else ()
    )
    return [
        Finding("carve.tabs-weak", Level.CARE, STAGE, f"{words} The plate could break free.", c.setup, strength, fixes),
        *_tabs_stand(c, plate, tool),
    ]


def _breaking(each: float) -> str:
    """How a tab is got off, by what it bears, N."""
    return f"Each breaks at about {each:.0f} N: {'by hand' if each <= BY_HAND else 'saw them through'}, then pare."


def _tabs_stand(c: JudgedBy, plate: Plate, tool: Tool) -> list[Finding]:
    """How far apart they are, and whether they stand on end grain."""
    said: list[Finding] = []
    edge = plate_outline(plate).exterior.length
    apart = working("edge / tabs", Named("edge", edge), Named("tabs", float(plate.tabs), "count"), shop_rule=True)
    if apart.result > APART:
        count = min(2 * math.ceil(edge / APART / 2.0), MOST_TABS)
        fixes = (Fix("set plate", {"tabs": count, **c.named}, f"Leave {count} tabs"),) if count > plate.tabs else ()
        message = f"One tab to {mm(apart.result, 0)} of edge: between them a plate lifts or shivers. {mm(APART, 0)} at most is usual (a shop rule)."
        said.append(Finding("carve.tabs-apart", Level.NOTE, STAGE, message, c.setup, apart, fixes))
    if 2 * on_end_grain(plate, tool, c.grain) > plate.tabs:
        message = "The tabs stand on end grain: they bear more there, and tear the edge when they are broken. Saw and pare them, or leave a skin."
        off = tab_shares(plate, tool, shapely.union_all([flaw_area(lie.flaw) for lie in c.flaws]), c.grain)
        fixes = (
            (Fix("set plate", {"tab_at": off, "tabs": len(off), **c.named}, "Move the tabs to the long grain"),)
            if off
            else ()
        )
        said.append(Finding("carve.tabs-end-grain", Level.NOTE, STAGE, message, c.setup, fixes=fixes))
    return said
