# SPDX-License-Identifier: GPL-3.0-or-later
"""Floors sunk flat: a ground round what stays, a recess."""

from __future__ import annotations

from collections.abc import Hashable

import shapely
from shapely.geometry import box

from gatepost.core.carve.sink import Sink, sink
from gatepost.core.carve.sunk_cuts import Sinking, SunkOutline, flat_cuts, laid_out, slope_by
from gatepost.core.carve.sunk_moves import Heights
from gatepost.core.carve.sunk_report import JudgedFloor, sunk_told
from gatepost.core.cutting import Drawn, Engaged, Envelope, Site, SunkArea
from gatepost.core.geometry.art import Art
from gatepost.core.geometry.curves import polygon_contours
from gatepost.core.geometry.outline import Area
from gatepost.core.job.kinds import KindEntry
from gatepost.core.job.model import Job, Setup
from gatepost.core.job.operation import Operation
from gatepost.core.job.sunk import Ground, Recess, Sunk
from gatepost.core.operation_kind import JudgedBy, OperationKind, OperationTold, Tools
from gatepost.core.profile import MILLS

PEAK = 1.3  # over the mean push, in a slot
SLACK = 1.5  # cells by which an edge may look wider than it is
BESIDE = 5.0  # mm about what is used
FLOOR = 0.02  # mm that a floor may stand over its depth

LINES = (("round and round", "rings"), ("back and forth", "rows"))
START = (("inside", "inside"), ("outside", "outside"))
CUT = (("climb", "climb"), ("conventional", "conventional"))
ENTRY = (("ramp along the line", "ramp"), ("helix", "helix"), ("plunge", "plunge"))


class SunkKind(OperationKind):
    """A floor sunk flat."""

    arts = ("lettering", "plate", "drawing")
    on_words = "Outline:"
    entries = (
        KindEntry("Cut by", "tools", "tools", tuple((k, k) for k in (*MILLS, "vee"))),
        KindEntry("Depth", "length", "depth"), KindEntry("Step, × end mill", "number", "stepover"),
        KindEntry("Lines", "choice", "route", LINES), KindEntry("Starting", "choice", "start", START), KindEntry("Way round", "choice", "cut", CUT),
        KindEntry("Way down", "choice", "entry", ENTRY), KindEntry("V's lines may leave", "length", "cusp"),
        KindEntry("Left for a clean last cut", "length", "allowance"),
    )  # fmt: skip

    def together(self, job: Job, setup: Setup, operation: Operation) -> Sinking:
        """What stays or outlines it, in the order of the job, and how it is cut."""
        art = tuple(a for a in job.artwork if a.id in operation.on and a.kind in self.arts)
        assert isinstance(operation.figures, Sunk)
        return Sinking(operation.figures, art)

    def tools(self, figures: Sinking) -> tuple[int, ...]:
        """All of its list."""
        return figures.figures.tools

    def _made(self, s: Sinking, tools: Tools, site: Site) -> tuple[SunkOutline, Sink, Hashable]:
        slope = slope_by(s.figures, tools)
        outlined = site.outline.wkb if isinstance(s.figures, Ground) else b""
        key = (s.art, outlined, slope, getattr(s.figures, "rim", None), site.times)
        laid = site.memory.get("sunk outline", key, lambda: laid_out(s, site.outline, slope, site.times))
        whole = (*key, s.figures.depth, tools)
        return laid, site.memory.get("sunk", whole, lambda: sink(laid.top, s.figures, tools, site.times)), whole

    def cuts(self, figures: Sinking, tools: Tools, site: Site) -> tuple[Drawn, ...]:
        """End mills, the largest first, then the V; nothing where a tool can't do it."""
        laid, made, key = self._made(figures, tools, site)
        if laid.top.is_empty or unfit(figures.figures, tools):
            return ()
        hop = laid.top.convex_hull
        shapely.prepare(hop)
        found = site.memory.get(
            "sunk moves", (key, figures.figures, site.face, site.highest, site.travel, tuple(site.home(t) for t in tools)),
            lambda: flat_cuts(made, figures.figures, Heights(site.face, site.highest, site.travel, site.home, hop), site.times),
        )  # fmt: skip
        sloped = made.vee is not None
        area = SunkArea(_art(made.floor), _art(made.top) if sloped else None, site.face - made.depth)
        return tuple(
            Drawn(
                c.tool, c.moves,
                Engaged(c.across, min(c.tool.pass_depth, site.highest - site.face + made.depth), PEAK),
                stage=f"T{c.tool.number}" if len(found) > 1 else "", area=area,
            )
            for c in found
        )  # fmt: skip

    def envelope(self, figures: Sinking, tools: Tools, site: Site) -> Envelope:
        """Inside its outline, down to the floor; clean where the smallest end mill fits."""
        laid, made, key = self._made(figures, tools, site)
        low = site.face - figures.figures.depth
        last = made.mills[-1] if made.mills else None

        def cleared() -> Area:
            return shapely.Polygon() if last is None else last.taken.buffer(-SLACK * site.cell)

        return Envelope(
            lambda: laid.top.buffer(SLACK * site.cell),
            low,
            low + FLOOR if last is not None else None,
            (key, "sunk"),
            cleared,
        )

    def told(self, figures: Sinking, tools: Tools, at: JudgedBy) -> OperationTold:
        """Its depth, what each tool takes and leaves, and what no tool reaches."""
        laid, made, _ = self._made(figures, tools, at.site)
        return sunk_told(JudgedFloor(figures, tools, laid, made, self.one, at))

    def uses(self, figures: Sinking, tools: Tools) -> Area | None:
        """All about its artwork, and a little more."""
        if not figures.art:
            return None
        laid = laid_out(Sinking(Recess(), figures.art), shapely.Polygon(), 0.0, 25.0)
        return None if laid.top.is_empty else box(*laid.top.bounds).buffer(BESIDE, join_style="mitre")


def unfit(figures: Sunk, tools: Tools) -> bool:
    """Whether some tool can't cut a floor, or not so deep."""
    from gatepost.core.carve.sunk_report import tool_findings

    return any(tool_findings(figures, tools, "", (), ""))


def _art(area: Area) -> Art:
    return Art(tuple(tuple(c) for c in polygon_contours(shapely.MultiPolygon(shapely.get_parts(area)))), False)


class GroundKind(SunkKind):
    """Sunk around what stays."""

    name, figures, one, title, many = "ground", Ground, "ground", "Ground", "grounds"
    on_words = "Stays, or frames it:"
    entries = (*SunkKind.entries[:2], KindEntry("Rim left standing", "length", "rim"), *SunkKind.entries[2:-1])


class RecessKind(SunkKind):
    """Sunk inside an outline."""

    name, figures, one, title, many = "recess", Recess, "recess", "Recess", "recesses"
