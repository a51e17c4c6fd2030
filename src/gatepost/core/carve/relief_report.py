# SPDX-License-Identifier: GPL-3.0-or-later
"""What the Carve stage says of a relief: depth, scallops and what they cost, what no ball gets into."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from shapely.geometry import MultiPolygon, Polygon

from gatepost.core.carve.relief_cuts import CELL, Relieved, Relieving, in_order, row_step
from gatepost.core.carve.sunk_report import STAGE, LaidShape
from gatepost.core.carve.target import corners
from gatepost.core.findings import Figure, Finding, Fix, Level, Place, Table
from gatepost.core.job.relief import HeightsFigures
from gatepost.core.job.sunk import MOST_TOOLS
from gatepost.core.job.tool import MOST_NUMBER, Tool
from gatepost.core.job.tool_table import of_kind
from gatepost.core.operation_kind import JudgedBy, OperationTold
from gatepost.core.profile import BALLS, ball_radius
from gatepost.core.tolerances import FLAT_SPOT, FLOOR_LEFT
from gatepost.core.units import area_words, mm
from gatepost.core.working import Named, working

FINE = 0.001  # mm less deep than the limit: a fix is not right at it
WORTH = 4.0  # mm²: less that no ball gets into is not worth a word
SHALLOW = 0.3  # mm: less deep than that it is a blunt corner
TRIED = (0.02, 0.05, 0.1, 0.2)  # mm: scallops that are compared


@dataclass(frozen=True)
class JudgedRelief:
    """A relief as it is judged. made: nothing where a tool stands in its way."""

    relieving: Relieving
    tools: tuple[Tool, ...]
    made: Relieved | None
    by: JudgedBy

    @property
    def figures(self) -> HeightsFigures:
        """The heights that are carved."""
        assert isinstance(self.relieving.art.figures, HeightsFigures)
        return self.relieving.art.figures


def depth_of(figures: HeightsFigures) -> float:
    """The deepest that is asked, below the face, mm."""
    return max(figures.black, figures.white)


def relief_told(m: JudgedRelief, wrong: list[Finding]) -> OperationTold:
    """Figures, findings and the table of a relief."""
    depth = depth_of(m.figures)
    art = m.relieving.art
    flat = Polygon(corners(art, m.figures))
    said = [*wrong, *_depth_findings(m), *_place_findings(m, flat)]
    tables: tuple[Table, ...] = ()
    if m.made is not None:
        said += _reach_findings(m)
        tables = _table(m)
    shape = LaidShape(MultiPolygon([flat]), (art,))
    return OperationTold(_figures(m), tuple(said), f"relief {mm(depth)} deep", "", shape, tables)


def _figures(m: JudgedRelief) -> tuple[Figure, ...]:
    depth = depth_of(m.figures)
    left = working("thickness - depth", Named("thickness", m.by.thickness), Named("depth", depth))
    out = [Figure("Deepest, below the face", depth), Figure("Wood left under it", left.result, working=left)]
    _, balls = in_order(m.tools)
    if m.made is None:
        return tuple(out)
    radius, wish = ball_radius(balls[0]), m.relieving.figures.scallop
    if wish < radius:
        step = working(
            "2 * sqrt(2 * radius * scallop - scallop ** 2)", Named("radius", radius), Named("scallop", wish), source="R − √(R² − s²/4)"
        )  # fmt: skip
        out.append(Figure("Rows on the flat, at most apart", step.result, working=step))
    if m.made.target.cell > 1.01 * CELL and m.by.site.times <= 1.0:
        out.append(Figure("Grid, coarser because it is so large", m.made.target.cell))
    return tuple(out)


def ball_fixes(mills: Sequence[Tool], table: Sequence[Tool], operation: str) -> tuple[Fix, ...]:
    """Where a ball is missing: each that is there, after its end mills, or else a new one. table: all tools that there are."""
    there = [t for t in table if t.kind in BALLS][:3]
    if there or not operation or len(table) >= MOST_NUMBER:
        return tuple(
            Fix("set operation", {"operation": operation, "tools": (*(m.number for m in mills), t.number)}, f"Use tool {t.number}, {t.name}")
            for t in there
        )  # fmt: skip
    new = of_kind(table, "ball")
    return (Fix("add tool", {"tool": new.model_dump(), "operation": operation}, f"Add tool {new.number}, {new.name}"),)


def tool_findings(
    r: Relieving, tools: Sequence[Tool], setup: str, table: Sequence[Tool], operation: str
) -> list[Finding]:
    """What stands in the way of its tools: of the wrong kind, no ball, too short. table: all tools that there are."""
    mills, balls = in_order(tuple(tools))
    figures = r.figures
    assert isinstance(r.art.figures, HeightsFigures)
    depth = depth_of(r.art.figures)
    said: list[Finding] = []

    def without(number: int) -> tuple[Fix, ...]:
        kept = tuple(n for n in figures.tools if n != number)
        kept = kept if any(b.number in kept for b in balls) else ()
        return (
            (Fix("set operation", {"operation": operation, "tools": kept}, f"Leave tool {number} out"),) if kept else ()
        )

    for tool in tools:
        if tool.kind not in ("flat", "ball"):
            message = f"Tool {tool.number}, {tool.name}, can't carve a relief: end mills and balls do."
            said.append(Finding("carve.relief-tool", Level.STOP, STAGE, message, setup, fixes=without(tool.number)))
        elif not tool.centre_cutting:
            message = f"Tool {tool.number}, {tool.name}, can't go down into a relief: no edge cuts at its middle."
            said.append(Finding("carve.relief-tool", Level.STOP, STAGE, message, setup, fixes=without(tool.number)))
        elif tool.cutting_length < depth - 1e-9:
            message = (
                f"Tool {tool.number} cuts {mm(tool.cutting_length)} deep at most; the relief goes {mm(depth)} down."
            )
            fixes = (*without(tool.number), *_shallower(r, tool.cutting_length))
            said.append(Finding("carve.relief-short", Level.STOP, STAGE, message, setup, fixes=fixes))
    if not balls:
        fixes = ball_fixes(mills, table, operation)
        message = "A relief is finished by a ball, and none is among its tools."
        said.append(Finding("carve.relief-no-ball", Level.STOP, STAGE, message, setup, fixes=fixes))
    return said


def _shallower(r: Relieving, limit: float) -> tuple[Fix, ...]:
    """No deeper than a limit, mm, where anything is left of it then."""
    heights = r.art.figures
    assert isinstance(heights, HeightsFigures)
    most, other = limit - FINE, min(heights.black, heights.white)
    if most <= other + 0.1:
        return ()
    deepest = "black" if heights.black >= heights.white else "white"
    return (Fix("set art", {"art": r.art.id, deepest: most}, f"Carve it {mm(most)} deep"),)


def _depth_findings(m: JudgedRelief) -> list[Finding]:
    depth = depth_of(m.figures)
    left = working("thickness - depth", Named("thickness", m.by.thickness), Named("depth", depth))
    if left.result >= FLOOR_LEFT:
        message = f"{mm(left.result)} of wood stays under the deepest place of the relief."
        return [Finding("carve.relief-floor", Level.OK, STAGE, message, m.by.setup, left)]
    fixes = _shallower(m.relieving, m.by.thickness - FLOOR_LEFT)
    message = f"The relief goes {mm(depth)} down: {mm(max(left.result, 0.0))} of wood would stay under it and {mm(FLOOR_LEFT)} is wanted."
    return [Finding("carve.relief-deep", Level.STOP, STAGE, message, m.by.setup, left, fixes)]


def _place_findings(m: JudgedRelief, flat: Polygon) -> list[Finding]:
    said: list[Finding] = []
    past = flat.difference(m.by.outline.buffer(1e-6)).area
    if past > 1.0:
        message = f"{area_words(past)} of the relief lies past the board's edge."
        said.append(Finding("carve.relief-off-board", Level.CARE, STAGE, message, m.by.setup))
    said += _flat_spots(m)
    if abs(m.figures.black - m.figures.white) < 1e-9:
        message = "Black and white lie equally deep: there is no relief in it."
        said.append(Finding("carve.relief-flat", Level.CARE, STAGE, message, m.by.setup))
    return said


def _flat_spots(m: JudgedRelief) -> list[Finding]:
    """Whether its highest places may come out as the board's own rough face."""
    over, uneven = min(m.figures.black, m.figures.white), m.by.height_error
    if uneven - over <= FLAT_SPOT:
        return []
    left = working("uneven - over", Named("uneven", uneven), Named("over", over), shop_rule=True)
    more = uneven - over
    values = {"art": m.relieving.art.id, "black": m.figures.black + more, "white": m.figures.white + more}
    fixes = (Fix("set art", values, f"Let it begin {mm(uneven)} under the face"),)
    message = f"{mm(over)} is taken off over its highest places, and the face lies up to {mm(uneven)} lower elsewhere: there they come out flat and rough. Make the face flat first, or let it begin deeper."
    return [Finding("carve.relief-flat-spots", Level.CARE, STAGE, message, m.by.setup, left, fixes)]


def _reach_findings(m: JudgedRelief) -> list[Finding]:
    """What no ball of its list gets into."""
    made = m.made
    assert made is not None
    if made.missed < WORTH or made.deep < SHALLOW:
        return []
    smallest = min(2.0 * ball_radius(t) for t in m.tools if t.kind in BALLS)
    figures = m.relieving.figures
    depth = depth_of(m.figures)
    free = [
        t
        for t in m.by.tools
        if t.kind in BALLS
        and 2.0 * ball_radius(t) < smallest
        and t.cutting_length >= depth
        and t.number not in figures.tools
    ]
    smaller = max(free, key=ball_radius, default=None)
    fixes: tuple[Fix, ...] = ()
    if smaller is not None and len(figures.tools) < MOST_TOOLS:
        values = {"operation": m.by.operation, "tools": (*figures.tools, smaller.number)}
        fixes = (Fix("set operation", values, f"Add tool {smaller.number}, {smaller.name}"),)
    t = made.target
    j, i = np.unravel_index(int(np.argmax(np.where(t.asked, made.reached - t.z, -np.inf))), t.z.shape)
    place = Place(*m.by.to_bed.xy(t.x0 + float(i) * t.cell, t.y0 + float(j) * t.cell), m.by.thickness, 20.0)
    share = 100.0 * made.missed / (float(t.asked.sum()) * t.cell**2)
    message = f"Ø {mm(smallest)} gets into all but {area_words(made.missed)} of the relief ({share:.1f} %): there it stays up to {mm(made.deep)} too high."
    return [Finding("carve.relief-missed", Level.NOTE, STAGE, message, m.by.setup, fixes=fixes, place=place)]


def _table(m: JudgedRelief) -> tuple[Table, ...]:
    """Scallops on the flat, how far apart rows lie for them, and how long the largest ball is fed along them."""
    _, balls = in_order(m.tools)
    assert m.made is not None
    ball, t = balls[0], m.made.target
    area, wish = float(t.asked.sum()) * t.cell**2, m.relieving.figures.scallop
    rows = []
    for height in sorted({*TRIED, wish}):
        if height >= ball.diameter / 2.0:
            continue
        step = row_step(ball.diameter / 2.0, height)
        rows.append((mm(height), mm(step), f"{area / step / ball.feed:.1f}", "chosen" if height == wish else ""))
    return ((f"Scallops of tool {ball.number} on the flat (estimate)", (("Scallop", "rows apart", "min", ""), *rows)),)
