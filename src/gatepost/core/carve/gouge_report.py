# SPDX-License-Identifier: GPL-3.0-or-later
"""What the Carve stage says of a gouged ground: depth, strokes, what they miss, and what other settings would take."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from gatepost.core.carve.gouging import OVER, Gouged, Gouging, covered, parts
from gatepost.core.carve.relief_report import ball_fixes
from gatepost.core.carve.sunk_report import SMALL, STAGE, SunkShape
from gatepost.core.findings import Figure, Finding, Fix, Level, Table
from gatepost.core.job.sunk import MOST_TOOLS
from gatepost.core.job.tool import Tool
from gatepost.core.operation_kind import JudgedBy, OperationTold
from gatepost.core.tolerances import FLOOR_LEFT
from gatepost.core.units import area_words, mm
from gatepost.core.working import Named, working

FINE = 0.001  # mm less deep than the limit: a fix is not right at it
TRIED = (2.0, 3.0, 4.0, 6.0)  # mm: rows apart that are compared
SPARSE = 0.5  # of the ground that strokes touch: less is worth a word


@dataclass(frozen=True)
class JudgedGouge:
    """A gouged ground as it is judged."""

    gouging: Gouging
    tools: tuple[Tool, ...]
    made: Gouged
    by: JudgedBy


def gouge_told(m: JudgedGouge) -> OperationTold:
    """Figures, findings and the table of a gouged ground."""
    f, setup = m.gouging.figures, m.by.setup
    deep = f.scoop + (f.cleared if m.made.sink is not None else 0.0)
    shape = SunkShape(m.made.laid.top, m.gouging.art, deep, m.made.laid.frame)
    if m.made.laid.top.is_empty:
        message = "Nothing is gouged: choose what stays in it, under Your figures."
        return OperationTold(
            (), (Finding("carve.gouge-nothing", Level.CARE, STAGE, message, setup),), "gouged ground", "", shape
        )
    wrong = tool_findings(m.gouging, m.tools, setup, m.by.tools, m.by.operation)
    said = [*wrong, *_depth(m, deep)]
    figures = [Figure("Deepest stroke, below the face", deep), Figure("Strokes", f"{len(m.made.strokes)}", "words")]
    tables: tuple[Table, ...] = ()
    if not wrong:
        said += [*_touched(m), *_unreached(m)]
        tables = _table(m)
    return OperationTold(tuple(figures), tuple(said), f"gouged {mm(deep)} deep", "", shape, tables)


def tool_findings(
    g: Gouging, tools: Sequence[Tool], setup: str, table: Sequence[Tool], operation: str
) -> list[Finding]:
    """What stands in the way of its tools. table: all tools that there are."""
    mills, ball, others = parts(tools)
    f = g.figures
    said: list[Finding] = []

    def without(number: int) -> tuple[Fix, ...]:
        kept = tuple(n for n in f.tools if n != number)
        values = {"operation": operation, "tools": kept}
        return (
            (Fix("set operation", values, f"Leave tool {number} out"),)
            if ball is not None and ball.number in kept
            else ()
        )

    for tool in others:
        message = f"Tool {tool.number}, {tool.name}, can't gouge a ground: end mills clear it, and one ball gouges it."
        said.append(Finding("carve.gouge-tool", Level.STOP, STAGE, message, setup, fixes=without(tool.number)))
    if f.cleared > 0.0 and not mills:
        fix = Fix("set operation", {"operation": operation, "cleared": 0.0}, "Gouge the face itself")
        message = f"The ground is to be cleared {mm(f.cleared)} deep first, and no end mill is among its tools."
        said.append(Finding("carve.gouge-tool", Level.STOP, STAGE, message, setup, fixes=(fix,)))
    if ball is None:
        fixes = ball_fixes(mills, table, operation)
        said.append(
            Finding(
                "carve.gouge-no-ball",
                Level.STOP,
                STAGE,
                "A ground is gouged by a ball, and none is among its tools.",
                setup,
                fixes=fixes,
            )
        )
        return said
    if f.scoop > ball.pass_depth + 1e-9:
        fix = Fix(
            "set operation",
            {"operation": operation, "scoop": ball.pass_depth - FINE},
            f"Gouge it {mm(ball.pass_depth - FINE)} deep",
        )
        message = f"Strokes go {mm(f.scoop)} down, and tool {ball.number} takes {mm(ball.pass_depth)} at once."
        said.append(Finding("carve.gouge-deep", Level.STOP, STAGE, message, setup, fixes=(fix,)))
    short = [t for t in (*mills, ball) if t.cutting_length < f.cleared + (f.scoop if t is ball else 0.0) - 1e-9]
    for tool in short:
        message = f"Tool {tool.number} cuts {mm(tool.cutting_length)} deep at most; the ground lies deeper."
        said.append(Finding("carve.gouge-short", Level.STOP, STAGE, message, setup, fixes=without(tool.number)))
    return said


def _depth(m: JudgedGouge, deep: float) -> list[Finding]:
    left = working("thickness - depth", Named("thickness", m.by.thickness), Named("depth", deep))
    if left.result >= FLOOR_LEFT:
        return [
            Finding(
                "carve.gouge-floor",
                Level.OK,
                STAGE,
                f"{mm(left.result)} of wood stays under the deepest stroke.",
                m.by.setup,
                left,
            )
        ]
    most = m.by.thickness - FLOOR_LEFT - m.gouging.figures.scoop - FINE
    fixes = (
        (Fix("set operation", {"operation": m.by.operation, "cleared": most}, f"Clear it {mm(most)} deep"),)
        if most > 0.1
        else ()
    )
    message = f"Strokes go {mm(deep)} below the face: {mm(max(left.result, 0.0))} of wood would stay under them and {mm(FLOOR_LEFT)} is wanted."
    return [Finding("carve.gouge-through", Level.STOP, STAGE, message, m.by.setup, left, fixes)]


def _touched(m: JudgedGouge) -> list[Finding]:
    """How much of the ground strokes touch, and what becomes of the rest."""
    whole = m.made.laid.top.area
    share = covered(m.made).intersection(m.made.laid.top).area / whole if m.made.strokes else 0.0
    rest = "stays flat, as it was cleared" if m.made.sink is not None else "stays as the face is"
    missed = area_words(whole * (1.0 - share))
    if share >= SPARSE:
        message = f"Strokes touch {100 * share:.0f} % of the ground; {missed} of it {rest}."
        return [Finding("carve.gouge-touched", Level.OK, STAGE, message, m.by.setup)]
    f = m.gouging.figures
    fixes: tuple[Fix, ...] = ()
    if m.made.strokes and f.apart > 2.0 * m.made.half:
        fixes = (
            Fix(
                "set operation",
                {"operation": m.by.operation, "apart": 1.5 * m.made.half},
                f"Rows {mm(1.5 * m.made.half)} apart",
            ),
        )
    message = f"Strokes touch only {100 * share:.0f} % of the ground: {missed} of it {rest}."
    return [Finding("carve.gouge-sparse", Level.CARE, STAGE, message, m.by.setup, fixes=fixes)]


def _unreached(m: JudgedGouge) -> list[Finding]:
    """What no end mill clears: it stands as high as the face."""
    made = m.made.sink
    if made is None or made.rest.area < SMALL:
        return []
    mills = parts(m.tools)[0]
    smallest = min(t.diameter for t in mills)
    free = [
        t
        for t in m.by.tools
        if t.kind == "flat"
        and t.diameter < smallest
        and t.cutting_length >= made.depth
        and t.number not in m.gouging.figures.tools
    ]
    fixes: tuple[Fix, ...] = ()
    if free and len(m.gouging.figures.tools) < MOST_TOOLS:
        smaller = max(free, key=lambda t: t.diameter)
        values = {"operation": m.by.operation, "tools": (*m.gouging.figures.tools, smaller.number)}
        fixes = (Fix("set operation", values, f"Add tool {smaller.number}, {smaller.name}"),)
    message = f"{area_words(made.rest.area)} of the ground no fitted cutter clears: gaps narrower than Ø {mm(smallest)} stay as high as the face."
    return [Finding("carve.gouge-unreached", Level.CARE, STAGE, message, m.by.setup, fixes=fixes)]


def _table(m: JudgedGouge) -> tuple[Table, ...]:
    """Rows apart, and how long the ball is fed along them."""
    f, ball = m.gouging.figures, parts(m.tools)[1]
    assert ball is not None
    area = m.made.middles.area
    rows = [
        (
            mm(apart),
            f"{area / apart / f.stroke / (1.0 - OVER):.0f}",
            f"{area / apart / ball.feed:.1f}",
            "chosen" if apart == f.apart else "",
        )
        for apart in sorted({*TRIED, f.apart})
    ]
    return (("Rows of strokes (estimate)", (("Rows apart", "strokes", "min", ""), *rows)),)
