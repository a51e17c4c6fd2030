# SPDX-License-Identifier: GPL-3.0-or-later
"""Letters and drawings cut right through, with bridges that hold what lies inside them."""

from __future__ import annotations

import shapely

from gatepost.core.carve.areas import about
from gatepost.core.carve.bridges import Stencilled, stencilled
from gatepost.core.carve.kinds.sunk import BESIDE, CUT, ENTRY, LINES, PEAK, SLACK, START
from gatepost.core.carve.sink import FLAT, Sink, sink
from gatepost.core.carve.stencil_report import JudgedStencil, Through, sinking_of, stencil_told, unfit
from gatepost.core.carve.sunk_cuts import flat_cuts
from gatepost.core.carve.sunk_moves import Heights
from gatepost.core.cutting import Drawn, Engaged, Envelope, Site, SunkArea
from gatepost.core.geometry.art import Art
from gatepost.core.geometry.curves import polygon_contours
from gatepost.core.geometry.outline import Area
from gatepost.core.job.kinds import KindEntry
from gatepost.core.job.model import Job, Setup
from gatepost.core.job.operation import Operation
from gatepost.core.job.sunk import Stencil
from gatepost.core.operation_kind import JudgedBy, OperationKind, OperationTold, Tools
from gatepost.core.tolerances import THROUGH_EXTRA

WAYS = (
    ("upright through the letter", "upright"),
    ("across the letter", "across"),
    ("where they are shortest", "shortest"),
)
OFF = 0.02  # mm: less that stands on the spoilboard is not left


class StencilKind(OperationKind):
    """A stencil."""

    name, figures, one, title, many = "stencil", Stencil, "letters cut through", "Cut through", "letters cut through"
    arts = ("lettering", "drawing", "plate")
    on_words = "Cut through:"
    entries = (
        KindEntry("Cut by", "tools", "tools", (("flat", "flat"),)),
        KindEntry("Bridges, wide", "length", "bridge"), KindEntry("Bridges run", "choice", "way", WAYS),
        KindEntry("Step, × end mill", "number", "stepover"), KindEntry("Lines", "choice", "route", LINES), KindEntry("Starting", "choice", "start", START),
        KindEntry("Way round", "choice", "cut", CUT), KindEntry("Way down", "choice", "entry", ENTRY),
        KindEntry("Left for a clean last cut", "length", "allowance"),
    )  # fmt: skip

    def together(self, job: Job, setup: Setup, operation: Operation) -> Through:
        """What is cut through, in the order of the job, and what edge it stands in: of what is cut out in the same setup, else the board's."""
        assert isinstance(operation.figures, Stencil)
        art = tuple(a for a in job.artwork if a.id in operation.on and a.kind in self.arts)
        out = [job.cut_out(o) for o in setup.operations if o.kind == "cutout"]
        return Through(operation.figures, art, tuple(p for p in out if p is not None and p.out >= 0.0))

    def tools(self, figures: Through) -> tuple[int, ...]:
        """All of its list."""
        return figures.figures.tools

    def _laid(self, t: Through, site: Site) -> Stencilled:
        key = (t.figures.bridge, t.figures.way, t.art, site.times)
        return site.memory.get("stencil", key, lambda: stencilled(t.figures, t.art, FLAT * site.times))

    def _made(self, t: Through, tools: Tools, site: Site) -> tuple[Stencilled, Sink]:
        laid, sunk = self._laid(t, site), sinking_of(t.figures, site.face)
        key = (t.figures, t.art, tools, site.face, site.times)
        return laid, site.memory.get("stencil sunk", key, lambda: sink(laid.cut, sunk, tools, site.times))

    def cuts(self, figures: Through, tools: Tools, site: Site) -> tuple[Drawn, ...]:
        """End mills, the largest first; nothing where one can't do it."""
        laid, made = self._made(figures, tools, site)
        if laid.cut.is_empty or unfit(figures.figures, tools, site.face):
            return ()
        hop = laid.cut.convex_hull
        shapely.prepare(hop)
        at = Heights(site.face, site.highest, site.travel, site.home, hop)
        sunk = sinking_of(figures.figures, site.face)
        key = (figures, tools, site.face, site.highest, site.travel, tuple(site.home(t) for t in tools), site.times)
        found = site.memory.get("stencil moves", key, lambda: flat_cuts(made, sunk, at, site.times))
        area = SunkArea(Art(tuple(tuple(c) for c in polygon_contours(laid.cut)), False), None, -THROUGH_EXTRA)
        return tuple(
            Drawn(
                c.tool, c.moves, Engaged(c.across, min(c.tool.pass_depth, site.highest + THROUGH_EXTRA), PEAK),
                stage=f"T{c.tool.number}" if len(found) > 1 else "", area=area,
            )
            for c in found
        )  # fmt: skip

    def envelope(self, figures: Through, tools: Tools, site: Site) -> Envelope:
        """Inside its letters, less their bridges; nothing stands where the smallest end mill fits."""
        laid, made = self._made(figures, tools, site)
        last = made.mills[-1] if made.mills else None

        def cleared() -> Area:
            return shapely.Polygon() if last is None else last.taken.buffer(-SLACK * site.cell)

        return Envelope(
            lambda: laid.cut.buffer(SLACK * site.cell), -THROUGH_EXTRA, OFF if last is not None else None,
            (figures, tools, "stencil"), cleared,
        )  # fmt: skip

    def told(self, figures: Through, tools: Tools, at: JudgedBy) -> OperationTold:
        """Its islands and bridges, the wood between letters, its rim, and what no cutter reaches."""
        laid, made = self._made(figures, tools, at.site)
        return stencil_told(JudgedStencil(figures, tools, laid, made, at))

    def uses(self, figures: Through, tools: Tools) -> Area | None:
        """All about its artwork, and a little more."""
        return about(figures.art, BESIDE)
