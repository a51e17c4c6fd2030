# SPDX-License-Identifier: GPL-3.0-or-later
"""Holes drilled, pecked, or bored by an end mill."""

from __future__ import annotations

import shapely
from shapely.geometry import MultiPolygon, box

from gatepost.core.carve.drilling import Drilled, bottom_of, fits, hole_moves
from gatepost.core.carve.kinds.sunk import PEAK, SLACK
from gatepost.core.carve.sunk_moves import Heights
from gatepost.core.carve.sunk_report import STAGE, LaidShape
from gatepost.core.cutting import Drawn, Engaged, Envelope, Site
from gatepost.core.findings import Figure, Finding, Fix, Level
from gatepost.core.geometry.outline import Area
from gatepost.core.job.holes import Drilling, HolesFigures
from gatepost.core.job.kinds import KindEntry
from gatepost.core.job.model import Job, Setup
from gatepost.core.job.operation import Operation
from gatepost.core.job.rows import places
from gatepost.core.job.tool import Tool
from gatepost.core.operation_kind import JudgedBy, OperationKind, OperationTold, Tools
from gatepost.core.profile import point
from gatepost.core.tolerances import FLOOR_LEFT, THROUGH_EXTRA
from gatepost.core.units import mm
from gatepost.core.working import Named, working

BESIDE = 5.0  # mm about what is used
FINE = 0.001  # mm less deep than the limit: a fix is not right at it
YES = (("yes", True), ("no", False))


class DrillKind(OperationKind):
    """Holes."""

    name, figures, one, title, art, many = "drill", Drilling, "row of holes", "Holes", "holes", "rows of holes"
    entries = (
        KindEntry("Drilled by", "tool", "tool", (("drill", "drill"), ("flat", "flat"))), KindEntry("Right through", "choice", "through", YES),
        KindEntry("Depth, to the tip", "length", "deep"), KindEntry("Into the spoilboard", "length", "into"), KindEntry("Up to clear after", "length", "peck"),
    )  # fmt: skip
    art_entries = (
        KindEntry("Diameter", "length", "across"), KindEntry("Holes", "number", "number"), KindEntry("Apart, middle to middle", "length", "pitch"),
        KindEntry("Middle, from the left edge", "length", "x"), KindEntry("Middle, from the front edge", "length", "y"), KindEntry("Row turned left by", "number", "turn", (), "°"),
    )  # fmt: skip

    def together(self, job: Job, setup: Setup, operation: Operation) -> Drilled | None:
        """The holes, and how they are drilled."""
        assert isinstance(operation.figures, Drilling)
        art = next((a for a in job.artwork if a.id in operation.on and isinstance(a.figures, HolesFigures)), None)
        return Drilled(operation.figures, art) if art is not None else None

    def tools(self, figures: Drilled) -> tuple[int, ...]:
        """Its one."""
        return (figures.figures.tool,)

    def cuts(self, figures: Drilled, tools: Tools, site: Site) -> tuple[Drawn, ...]:
        """One hole after another; nothing by a tool that does not make them."""
        (tool,) = tools
        if _wrong(figures, tool, site.face, ""):
            return ()
        at = Heights(site.face, site.highest, site.travel, site.home, MultiPolygon())
        key = (figures, tool, site.face, site.highest, site.travel, site.home(tool))
        moves = site.memory.get("holes", key, lambda: hole_moves(figures, tool, at))
        return (Drawn(tool, moves, Engaged(tool.diameter, min(figures.figures.peck, tool.pass_depth), PEAK)),)

    def envelope(self, figures: Drilled, tools: Tools, site: Site) -> Envelope:
        """Its holes, no deeper than asked."""
        (tool,) = tools
        low = bottom_of(figures, tool, site.face)
        return Envelope(lambda: _discs(figures).buffer(SLACK * site.cell), low, key=(figures, tools))

    def told(self, figures: Drilled, tools: Tools, at: JudgedBy) -> OperationTold:
        """Depth, and whether they lie on the board."""
        (tool,) = tools
        face = at.site.face
        said = _wrong(figures, tool, face, at.setup, at.tools, at.operation)
        discs = _discs(figures)
        if not at.outline.buffer(1e-6).covers(discs):
            message = "A hole reaches past the board's edge."
            said.append(Finding("carve.drill-off-board", Level.CARE, STAGE, message, at.setup))
        if figures.figures.through:
            deep = Figure("Right through, and into the spoilboard", max(THROUGH_EXTRA, figures.figures.into))
        else:
            deep = Figure("Holes, deep", figures.figures.deep)
            said += _floor(figures, tool, at)
        number = figures.holes.number
        fact = f"{number} hole{'s' if number != 1 else ''} Ø {mm(figures.holes.across)}"
        return OperationTold((deep,), tuple(said), fact, "", LaidShape(discs, (figures.art,)))

    def uses(self, figures: Drilled, tools: Tools) -> Area:
        """All of them, and a little more."""
        return box(*_discs(figures).bounds).buffer(BESIDE, join_style="mitre")


def _discs(d: Drilled) -> MultiPolygon:
    whole = shapely.union_all(shapely.buffer(shapely.points(places(d.art)), d.holes.across / 2.0, quad_segs=32))
    return whole if isinstance(whole, MultiPolygon) else MultiPolygon([whole])


def _wrong(d: Drilled, tool: Tool, face: float, setup: str, table: Tools = (), operation: str = "") -> list[Finding]:
    """What stands in the way of its tool."""
    across, deep = d.holes.across, face - bottom_of(d, tool, face)
    if tool.kind not in ("drill", "flat") or not fits(tool, across):
        others = [
            t
            for t in table
            if t.kind in ("drill", "flat") and fits(t, across) and t.cutting_length >= face - bottom_of(d, t, face)
        ]
        best = sorted(others, key=lambda t: (t.kind != "drill", -t.diameter))[:2]
        fixes = [
            Fix("set operation", {"operation": operation, "tool": t.number}, f"Use tool {t.number}, {t.name}")
            for t in best
        ]
        if tool.kind in ("drill", "flat") and operation:
            fixes.append(Fix("set art", {"art": d.art.id, "across": tool.diameter}, f"Make them Ø {mm(tool.diameter)}"))
        message = f"Tool {tool.number}, {tool.name}, makes no holes of Ø {mm(across)}: a drill makes its own, an end mill its own and larger ones."
        return [Finding("carve.drill-tool", Level.STOP, STAGE, message, setup, fixes=tuple(fixes))]
    if tool.cutting_length < deep - 1e-9:
        message = f"Tool {tool.number} cuts {mm(tool.cutting_length)} deep at most; the holes go {mm(deep)} down."
        most = tool.cutting_length - point(tool) - FINE
        values = {"operation": operation, "deep": most, "through": False}
        return [
            Finding(
                "carve.drill-short",
                Level.STOP,
                STAGE,
                message,
                setup,
                fixes=(Fix("set operation", values, f"Drill {mm(most)} deep"),),
            )
        ]
    return []


def _floor(d: Drilled, tool: Tool, at: JudgedBy) -> list[Finding]:
    deep = d.figures.deep + point(tool)
    sums = "thickness - depth" + (" - point" if point(tool) else "")
    values = [
        Named("thickness", at.thickness),
        Named("depth", d.figures.deep),
        *([Named("point", point(tool))] if point(tool) else []),
    ]
    left = working(sums, *values)
    if left.result >= FLOOR_LEFT:
        return [
            Finding(
                "carve.drill-floor",
                Level.OK,
                STAGE,
                f"{mm(left.result)} of wood stays under the holes.",
                at.setup,
                left,
            )
        ]
    most = at.thickness - FLOOR_LEFT - point(tool) - FINE
    fixes = [Fix("set operation", {"operation": at.operation, "through": True}, "Drill right through")]
    if most > 0.1:
        fixes.append(Fix("set operation", {"operation": at.operation, "deep": most}, f"Drill {mm(most)} deep"))
    message = f"The holes go {mm(deep)} down: {mm(max(left.result, 0.0))} of wood would stay under them and {mm(FLOOR_LEFT)} is wanted, unless they go right through."
    return [Finding("carve.drill-deep", Level.STOP, STAGE, message, at.setup, left, tuple(fixes))]
