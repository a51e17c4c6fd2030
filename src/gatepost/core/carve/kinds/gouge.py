# SPDX-License-Identifier: GPL-3.0-or-later
"""A gouged ground: cleared by end mills, then scooped by a ball in short strokes."""

from __future__ import annotations

from collections.abc import Hashable

import shapely

from gatepost.core.carve.areas import about
from gatepost.core.carve.gouge_report import JudgedGouge, gouge_told, tool_findings
from gatepost.core.carve.gouging import Gouged, Gouging, gouge_moves, gouged, parts
from gatepost.core.carve.kinds.sunk import PEAK, SLACK
from gatepost.core.carve.sunk_cuts import flat_cuts
from gatepost.core.carve.sunk_moves import Heights
from gatepost.core.cutting import Drawn, Engaged, Envelope, Site
from gatepost.core.geometry.outline import Area
from gatepost.core.job.gouge import Gouge
from gatepost.core.job.kinds import KindEntry
from gatepost.core.job.model import Job, Setup
from gatepost.core.job.operation import Operation
from gatepost.core.operation_kind import JudgedBy, OperationKind, OperationTold, Tools
from gatepost.core.profile import BALLS

BESIDE = 5.0  # mm about what is used
FOLLOWS = (("rows in one direction", "rows"), ("round what stays", "round"))


class GougeKind(OperationKind):
    """A gouged ground."""

    name, figures, one, title, many = "gouge", Gouge, "gouged ground", "Gouged ground", "gouged grounds"
    arts = ("lettering", "plate", "drawing", "heights")
    on_words = "Stays, or frames it:"
    entries = (
        KindEntry("Cut by", "tools", "tools", tuple((k, k) for k in ("flat", *BALLS))),
        KindEntry("Cleared first, deep", "length", "cleared"), KindEntry("Strokes, deeper by", "length", "scoop"), KindEntry("Rim left standing", "length", "rim"),
        KindEntry("Stroke, long", "length", "stroke"), KindEntry("Rows apart", "length", "apart"), KindEntry("Lines", "choice", "follows", FOLLOWS),
        KindEntry("Rows' direction from X", "number", "heading", (), "°"), KindEntry("Varied, 0 to 1", "number", "varied"), KindEntry("Another throw", "number", "seed"),
        KindEntry("Clear of what stays by", "length", "clear_of"),
    )  # fmt: skip

    def together(self, job: Job, setup: Setup, operation: Operation) -> Gouging:
        """What stays, in the order of the job, and how it is gouged."""
        art = tuple(a for a in job.artwork if a.id in operation.on and a.kind in self.arts)
        assert isinstance(operation.figures, Gouge)
        return Gouging(operation.figures, art)

    def tools(self, figures: Gouging) -> tuple[int, ...]:
        """All of its list."""
        return figures.figures.tools

    def _made(self, g: Gouging, tools: Tools, site: Site) -> tuple[Gouged, Hashable]:
        key = (g, tools, site.outline.wkb, site.times)
        return site.memory.get("gouged", key, lambda: gouged(g, tools, site.outline, site.times)), key

    def cuts(self, figures: Gouging, tools: Tools, site: Site) -> tuple[Drawn, ...]:
        """End mills that clear it, then the ball; nothing where a tool can't do it."""
        made, key = self._made(figures, tools, site)
        _, ball, _ = parts(tools)
        if ball is None or tool_findings(figures, tools, "", (), ""):
            return ()
        hop = made.laid.top.convex_hull
        shapely.prepare(hop)
        at = Heights(site.face, site.highest, site.travel, site.home, hop)
        place = (key, site.face, site.highest, site.travel, tuple(site.home(t) for t in tools))
        out: list[Drawn] = []
        floor, wood = site.face, site.highest
        if made.sink is not None:
            clearing = made.sink
            cleared = site.memory.get(
                "gouge clearing", place, lambda: flat_cuts(clearing, figures.ground.figures, at, site.times)
            )
            deep = site.highest - site.face + clearing.depth
            out += [
                Drawn(c.tool, c.moves, Engaged(c.across, min(c.tool.pass_depth, deep), PEAK), stage=f"T{c.tool.number}")
                for c in cleared
            ]
            floor = wood = site.face - clearing.depth
        if made.strokes:
            moves = site.memory.get("gouge moves", place, lambda: gouge_moves(made, ball, floor, wood, at))
            deep = figures.figures.scoop + wood - floor
            out.append(Drawn(ball, moves, Engaged(2.0 * made.half, deep, PEAK), stage=f"T{ball.number}" if out else ""))
        return tuple(out)

    def envelope(self, figures: Gouging, tools: Tools, site: Site) -> Envelope:
        """Inside its outline, down to the deepest stroke."""
        made, key = self._made(figures, tools, site)
        f = figures.figures
        low = site.face - f.scoop - (f.cleared if made.sink is not None else 0.0)
        return Envelope(lambda: made.laid.top.buffer(SLACK * site.cell), low, key=(key, "gouge"))

    def told(self, figures: Gouging, tools: Tools, at: JudgedBy) -> OperationTold:
        """How deep, how many strokes, what they miss, and what other settings would take."""
        made, _ = self._made(figures, tools, at.site)
        return gouge_told(JudgedGouge(figures, tools, made, at))

    def uses(self, figures: Gouging, tools: Tools) -> Area | None:
        """All about its artwork, and a little more."""
        return about(figures.art, BESIDE)
