# SPDX-License-Identifier: GPL-3.0-or-later
"""Lines engraved along outlines: a border, or a drawing's lines."""

from __future__ import annotations

import numpy as np
import shapely
from shapely.geometry import MultiPolygon

from gatepost.core.carve.areas import about
from gatepost.core.carve.engraving import Engraved, half_line, line_moves, lines_of
from gatepost.core.carve.kinds.sunk import PEAK, SLACK
from gatepost.core.carve.sunk_moves import Heights
from gatepost.core.carve.sunk_report import STAGE, LaidShape
from gatepost.core.cutting import Drawn, Engaged, Envelope, Site
from gatepost.core.findings import Figure, Finding, Fix, Level
from gatepost.core.geometry.outline import Area
from gatepost.core.job.holes import Engraving
from gatepost.core.job.kinds import KindEntry
from gatepost.core.job.model import Job, Setup
from gatepost.core.job.operation import Operation
from gatepost.core.operation_kind import JudgedBy, OperationKind, OperationTold, Tools
from gatepost.core.profile import BALLS, MILLS, VEES, is_vee, profile_of
from gatepost.core.tolerances import FLOOR_LEFT
from gatepost.core.units import mm
from gatepost.core.working import Named, working

BESIDE = 5.0  # mm about what is used
FINE = 0.001  # mm less deep than the limit: a fix is not right at it


class LineKind(OperationKind):
    """Engraved lines."""

    name, figures, one, title, many = "line", Engraving, "engraved line", "Engraved line", "engraved lines"
    arts = ("lettering", "plate", "drawing")
    on_words = "Along:"
    entries = (
        KindEntry("Engraved by", "tool", "tool", tuple((k, k) for k in (*VEES, *BALLS, *MILLS))),
        KindEntry("Depth of its tip", "length", "sunk"), KindEntry("Inside the outline by", "length", "inset"),
    )  # fmt: skip

    def together(self, job: Job, setup: Setup, operation: Operation) -> Engraved:
        """Along what, in the order of the job, and how."""
        assert isinstance(operation.figures, Engraving)
        return Engraved(
            operation.figures, tuple(a for a in job.artwork if a.id in operation.on and a.kind in self.arts)
        )

    def tools(self, figures: Engraved) -> tuple[int, ...]:
        """Its one."""
        return (figures.figures.tool,)

    def cuts(self, figures: Engraved, tools: Tools, site: Site) -> tuple[Drawn, ...]:
        """Line after line; nothing by a tool that can't."""
        (tool,) = tools
        lines = lines_of(figures, site.times)
        if not lines or _wrong(figures, tools, ""):
            return ()
        at = Heights(site.face, site.highest, site.travel, site.home, MultiPolygon())
        key = (figures, tool, site.face, site.highest, site.travel, site.home(tool), site.times)
        moves = site.memory.get("lines", key, lambda: line_moves(lines, tool, figures.figures.sunk, at))
        deep = min(tool.pass_depth, site.highest - site.face + figures.figures.sunk)
        step = None if tool.kind in VEES else 2.0 * half_line(tool, figures.figures.sunk)
        return (Drawn(tool, moves, Engaged(step, deep, PEAK)),)

    def envelope(self, figures: Engraved, tools: Tools, site: Site) -> Envelope:
        """As wide as its tool at that depth."""
        (tool,) = tools
        f = figures.figures
        wide = half_line(tool, site.highest - site.face + f.sunk) + SLACK * site.cell
        return Envelope(
            lambda: _grooves(figures, wide, site.times), site.face - f.sunk, key=(figures, tool, site.times)
        )

    def told(self, figures: Engraved, tools: Tools, at: JudgedBy) -> OperationTold:
        """How wide it is, and whether wood stays under it."""
        (tool,) = tools
        f = figures.figures
        grooves = _grooves(figures, max(half_line(tool, f.sunk), 0.05), at.site.times)
        shape = LaidShape(grooves, figures.art)
        if grooves.is_empty:
            words = (
                "choose along what, under Your figures."
                if not figures.art
                else "no outline is as wide as twice its distance inside."
            )
            finding = Finding("carve.line-nothing", Level.CARE, STAGE, f"Nothing is engraved: {words}", at.setup)
            return OperationTold((), (finding,), "engraved line", "", shape)
        said = _wrong(figures, tools, at.setup, at.tools, at.operation)
        left = working("thickness - depth", Named("thickness", at.thickness), Named("depth", f.sunk))
        if left.result < FLOOR_LEFT:
            most = at.thickness - FLOOR_LEFT - FINE
            fixes = (
                (Fix("set operation", {"operation": at.operation, "sunk": most}, f"Cut the line {mm(most)} deep"),)
                if most > 0.1
                else ()
            )
            message = f"The line goes {mm(f.sunk)} down: {mm(max(left.result, 0.0))} of wood would stay under it and {mm(FLOOR_LEFT)} is wanted."
            said.append(Finding("carve.line-deep", Level.STOP, STAGE, message, at.setup, left, fixes))
        past = grooves.difference(at.outline.buffer(1e-6)).area
        if past > 1.0:
            said.append(
                Finding("carve.line-off-board", Level.CARE, STAGE, "The line runs past the board's edge.", at.setup)
            )
        wide = Figure("Line, wide in the face", 2.0 * half_line(tool, f.sunk))
        return OperationTold((wide, Figure("Line, deep", f.sunk)), tuple(said), "a line", "", shape)

    def uses(self, figures: Engraved, tools: Tools) -> Area | None:
        """All about its artwork, and a little more."""
        return about(figures.art, BESIDE)


def _grooves(e: Engraved, wide: float, times: float) -> MultiPolygon:
    lines = [shapely.linestrings(np.asarray(r)) for r in lines_of(e, times)]
    whole = shapely.union_all([line.buffer(wide) for line in lines]) if lines else MultiPolygon()
    return whole if isinstance(whole, MultiPolygon) else MultiPolygon([whole])


def _wrong(e: Engraved, tools: Tools, setup: str, table: Tools = (), operation: str = "") -> list[Finding]:
    """What stands in the way of its tool."""
    (tool,) = tools
    deep = e.figures.sunk
    if tool.kind not in (*VEES, *BALLS, *MILLS) or tool.kind in VEES and not is_vee(tool):
        others = sorted((t for t in table if is_vee(t)), key=lambda t: t.diameter)[:1]
        fixes = tuple(
            Fix("set operation", {"operation": operation, "tool": t.number}, f"Use tool {t.number}, {t.name}")
            for t in others
        )
        message = f"Tool {tool.number}, {tool.name}, can't engrave a line: a V-bit, a ball or an end mill does."
        return [Finding("carve.line-tool", Level.STOP, STAGE, message, setup, fixes=fixes)]
    most = min(tool.cutting_length, profile_of(tool).shoulder) if is_vee(tool) else tool.cutting_length
    if deep > most + 1e-9:
        fix = Fix(
            "set operation", {"operation": operation, "sunk": most - FINE}, f"Cut the line {mm(most - FINE)} deep"
        )
        message = f"Tool {tool.number} engraves {mm(most)} deep at most; the line is to be {mm(deep)} deep."
        return [Finding("carve.line-short", Level.STOP, STAGE, message, setup, fixes=(fix,))]
    return []
