# SPDX-License-Identifier: GPL-3.0-or-later
"""What the Carve stage says of letters that are cut through: their islands, bridges, and the wood round them."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Any

import shapely

from gatepost.core.carve.bridges import Stencilled, stencilled, webs
from gatepost.core.carve.paths import plate_outline
from gatepost.core.carve.sink import Sink, roles
from gatepost.core.carve.sunk_cuts import Sinking, laid_out
from gatepost.core.carve.sunk_report import STAGE, JudgedFloor, LaidShape, place_findings, reach_findings
from gatepost.core.findings import Figure, Finding, Fix, Level, Place
from gatepost.core.geometry.outline import Area
from gatepost.core.job.base import changed
from gatepost.core.job.carve import Letters, Plate
from gatepost.core.job.operation import Artwork
from gatepost.core.job.sunk import Stencil, Sunk
from gatepost.core.job.tool import Tool
from gatepost.core.operation_kind import JudgedBy, OperationTold
from gatepost.core.tolerances import BRIDGE, BRIDGE_SHARE, SHIELD, THROUGH_EXTRA
from gatepost.core.units import mm
from gatepost.core.working import Named, Working, working

SHORT = 30.0  # degrees off the grain's direction from which a bridge is weak
ROUGH = 0.05  # mm by which outlines that are only looked at may lie beside themselves
WAYS = {"upright": "upright", "across": "across", "shortest": "where they are shortest"}
TENTH = 0.1  # mm: widths that are offered are whole ones of it


@dataclass(frozen=True)
class Through:
    """What is cut through. figures: how; art: that it is cut by; plates: what is cut out of the board in the same setup."""

    figures: Stencil
    art: tuple[Artwork, ...]
    plates: tuple[Plate, ...] = ()


@dataclass(frozen=True)
class JudgedStencil:
    """A stencil as it is judged. tools: its own."""

    through: Through
    tools: tuple[Tool, ...]
    laid: Stencilled
    sink: Sink
    by: JudgedBy


def sinking_of(figures: Stencil, face: float) -> Sunk:
    """As a floor a little under the wood. face: height of the wood's face, mm."""
    shared = {k: v for k, v in dict(figures).items() if k in Sunk.model_fields}
    return Sunk(**shared, depth=face + THROUGH_EXTRA)


def unfit(figures: Stencil, tools: Sequence[Tool], face: float) -> bool:
    """Whether some tool can't cut it, or not so deep."""
    return bool(_tool_findings(figures, tools, face, "", ""))


def stencil_told(m: JudgedStencil) -> OperationTold:
    """Figures and findings of a stencil."""
    figures, shape = m.through.figures, LaidShape(m.laid.cut, m.through.art)
    if m.laid.whole.is_empty:
        message = "Nothing is cut through: choose what is, under Your figures."
        return OperationTold(
            (), (Finding("carve.stencil-nothing", Level.CARE, STAGE, message, m.by.setup),), "nothing", "", shape
        )
    wrong = _tool_findings(figures, m.tools, m.by.site.face, m.by.setup, m.by.operation)
    floor = _as_floor(m)
    said = [*wrong, *place_findings(floor), *_island_findings(m), *_bridge_findings(m), *_web_findings(m)]
    if not wrong:
        said += reach_findings(floor)
    rim, words = _rim(m)
    if rim < SHIELD:
        how = (
            f"its rim of {mm(rim)} {words} is narrower than {mm(SHIELD, 0)}"
            if rim > 0.0
            else "it reaches past the edge"
        )
        message = f"As a stencil to spray through, {how}: spray gets beside it. Cover what lies there."
        said.append(Finding("carve.stencil-rim", Level.NOTE, STAGE, message, m.by.setup))
    told = (
        Figure("Islands, held by bridges", f"{m.laid.islands}, by {len(m.laid.bridges)}", "words"),
        Figure("Rim round the letters, at its narrowest", max(rim, 0.0)),
    )
    letters = [a.figures for a in m.through.art if isinstance(a.figures, Letters)]
    line = " / ".join(one.text for f in letters for one in f.lines)
    return OperationTold(told, tuple(said), "cut right through", line, shape)


def _as_floor(m: JudgedStencil) -> JudgedFloor:
    sinking = Sinking(sinking_of(m.through.figures, m.by.site.face), m.through.art)
    sunk = replace(m.sink, top=m.laid.whole)
    return JudgedFloor(
        sinking, m.tools, laid_out(sinking, shapely.Polygon(), 0.0), sunk, "stencil", m.by, "the letters"
    )


def _tool_findings(figures: Stencil, tools: Sequence[Tool], face: float, setup: str, operation: str) -> list[Finding]:
    """What stands in the way of its tools: no end mills, or too short."""
    mills, _, _ = roles(tools)
    deep, said = face + THROUGH_EXTRA, list[Finding]()
    for tool in tools:
        kept = tuple(n for n in figures.tools if n != tool.number)
        values = {"operation": operation, "tools": kept}
        fixes = (Fix("set operation", values, f"Leave tool {tool.number} out"),) if kept else ()
        if tool not in mills:
            message = f"Tool {tool.number}, {tool.name}, can't cut letters through: end mills do."
            said.append(Finding("carve.stencil-tool", Level.STOP, STAGE, message, setup, fixes=fixes))
        elif tool.cutting_length < deep - 1e-9:
            message = f"Tool {tool.number} cuts {mm(tool.cutting_length)} deep at most; right through is {mm(deep)}."
            said.append(Finding("carve.stencil-short", Level.STOP, STAGE, message, setup, fixes=fixes))
    return said


def _least(m: JudgedStencil) -> Working:
    """How wide bridges and webs are to be at least, mm."""
    return working(
        "max(least, share * thickness)", Named("least", BRIDGE), Named("share", BRIDGE_SHARE, ""), Named("thickness", m.by.thickness), shop_rule=True,
    )  # fmt: skip


def _wider(m: JudgedStencil, width: float) -> Fix:
    values = {"operation": m.by.operation, "bridge": width}
    return Fix("set operation", values, f"Make bridges {mm(width)} wide")


def _rounded_up(width: float) -> float:
    return round(math.ceil(width / TENTH - 1e-9) * TENTH, 6)


def _island_findings(m: JudgedStencil) -> list[Finding]:
    """What would fall out."""
    if not m.laid.loose:
        many = len(m.laid.bridges)
        if not m.laid.islands:
            return []
        message = (
            f"{many} bridge{'s' if many != 1 else ''} hold{'s' if many == 1 else ''} what lies inside its letters."
        )
        return [Finding("carve.stencil-held", Level.OK, STAGE, message, m.by.setup)]
    worst = max(m.laid.loose, key=lambda p: p.area)
    x0, y0, x1, y1 = worst.bounds
    spot = worst.representative_point()
    place = Place(*m.by.to_bed.xy(spot.x, spot.y), m.by.thickness, max(x1 - x0, y1 - y0))
    many = len(m.laid.loose)
    message = (
        f"{many} piece{'s' if many != 1 else ''} inside its letters would come loose, the largest {mm(x1 - x0)} × {mm(y1 - y0)}: "
        "bridges that reach the rest have to hold them."
    )
    if m.through.figures.bridge > 0.0:
        fixes = tuple(_run(m, w) for w in WAYS if w != m.through.figures.way and not _laid(m, way=w).loose)[:2]
    else:
        least = _rounded_up(_least(m).result)
        fixes = (_wider(m, least),) if not _laid(m, bridge=least).loose else ()
    return [Finding("carve.stencil-island", Level.STOP, STAGE, message, m.by.setup, fixes=fixes, place=place)]


def _bridge_findings(m: JudgedStencil) -> list[Finding]:
    """Bridges that are narrow, or whose grain runs short across them."""
    if not m.laid.bridges:
        return []
    said: list[Finding] = []
    least, width = _least(m), m.through.figures.bridge
    if width < least.result - 1e-9:
        message = f"Bridges {mm(width)} wide are weak in wood {mm(m.by.thickness)} thick: {mm(least.result)} at least is wanted."
        fixes = (_wider(m, _rounded_up(least.result)),)
        said.append(Finding("carve.stencil-bridge", Level.CARE, STAGE, message, m.by.setup, least, fixes))
    short = [b for b in m.laid.bridges if _between(b.heading, m.by.grain) > SHORT]
    if short:
        along = tuple(_run(m, w) for w in ("upright", "across") if w != m.through.figures.way and _all_along(m, w))
        message = (
            f"{len(short)} of {len(m.laid.bridges)} bridges run across the grain, which is short in them: they break easily, also while they are cut. "
            "In plywood that counts for less."
        )
        said.append(Finding("carve.stencil-grain", Level.NOTE, STAGE, message, m.by.setup, fixes=along))
    return said


def _run(m: JudgedStencil, way: str) -> Fix:
    return Fix("set operation", {"operation": m.by.operation, "way": way}, f"Run bridges {WAYS[way]}")


def _laid(m: JudgedStencil, **values: Any) -> Stencilled:
    """As it would be with other bridges."""
    return stencilled(changed(m.through.figures, **values), m.through.art, ROUGH)


def _all_along(m: JudgedStencil, way: str) -> bool:
    """Whether bridges that run so all have the grain along them, and hold everything."""
    laid = _laid(m, way=way)
    return not laid.loose and all(_between(b.heading, m.by.grain) <= SHORT for b in laid.bridges)


def _between(one: float, other: float) -> float:
    """The angle between two directions, degrees, 0 to 90."""
    off = abs(one - other) % 180.0
    return min(off, 180.0 - off)


def _web_findings(m: JudgedStencil) -> list[Finding]:
    """Wood between letters that is narrow."""
    least, (web, where) = _least(m), webs(m.laid.whole)
    if web >= least.result - 1e-9:
        return []
    place = Place(*m.by.to_bed.xy(where.x, where.y), m.by.thickness, 10.0)
    message = f"Between two letters, or two parts of one, {mm(web)} of wood stays; {mm(least.result)} at least is wanted. Set them farther apart, or make them larger."
    return [Finding("carve.stencil-web", Level.CARE, STAGE, message, m.by.setup, least, place=place)]


def _rim(m: JudgedStencil) -> tuple[float, str]:
    """The least wood between the letters and the edge about them, mm: of the plate that they lie in, else of the board."""
    inside: list[Area] = [a for p in m.through.plates if (a := plate_outline(p)).contains(m.laid.whole.centroid)]
    around = min(inside, key=lambda a: a.area) if inside else m.by.outline
    if not around.covers(m.laid.whole):
        return 0.0, "to the edge"
    return float(
        shapely.distance(m.laid.whole, around.boundary)
    ), "to the plate's edge" if inside else "to the board's edge"
