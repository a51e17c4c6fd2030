# SPDX-License-Identifier: GPL-3.0-or-later
"""A relief carved from heights: layers by an end mill, then rows by balls."""

from __future__ import annotations

import math
from collections.abc import Hashable

import numpy as np
from shapely.geometry import MultiPolygon, Polygon

from gatepost.core.carve.relief_cuts import CELL, Relieved, Relieving, cell_of, in_order, relieved
from gatepost.core.carve.relief_report import JudgedRelief, relief_told, tool_findings
from gatepost.core.carve.sunk_moves import Heights
from gatepost.core.carve.target import corners
from gatepost.core.carve.two_reliefs import bridges_of
from gatepost.core.cutting import Drawn, Engaged, Envelope, HeightLimits, Site
from gatepost.core.geometry.grid import GridHeights
from gatepost.core.geometry.outline import Area
from gatepost.core.job.kinds import KindEntry
from gatepost.core.job.model import Job, Setup
from gatepost.core.job.operation import Operation
from gatepost.core.job.relief import HeightsFigures, Relief
from gatepost.core.operation_kind import JudgedBy, OperationKind, OperationTold, Tools
from gatepost.core.profile import BALLS, MILLS

PEAK = 1.3  # over the mean push, in a slot
SLACK = 1.5  # cells by which an edge may look wider than it is
ROUND_OFF = 0.02  # mm over the scallop that still counts as done
KEPT = 3  # reliefs that are remembered: each is large
BESIDE = 5.0  # mm about what is used

WAYS = (("along X", "x"), ("along Y", "y"))
AROUND = (("kept", "kept"), ("free to run out over", "free"))


class ReliefKind(OperationKind):
    """A relief."""

    name, figures, one, title, art = "relief", Relief, "relief", "Relief", "heights"
    entries = (
        KindEntry("Cut by", "tools", "tools", tuple((k, k) for k in (*MILLS, *BALLS))),
        KindEntry("Scallop, at most", "length", "scallop"), KindEntry("Rows", "choice", "way", WAYS), KindEntry("What is about it", "choice", "around", AROUND),
        KindEntry("Left by the end mill", "length", "left"), KindEntry("Its step, × diameter", "number", "layer_step"),
        KindEntry("Meets the relief behind it", "choice", "meets", (("yes", True), ("no", False))), KindEntry("Bridges, wide", "length", "bridge_wide"), KindEntry("Bridges, high", "length", "bridge_high"),
    )  # fmt: skip
    art_entries = (
        KindEntry("Width, proportions kept", "length", "width"), KindEntry("Height, proportions kept", "length", "height"),
        KindEntry("Black lies deep", "length", "black"), KindEntry("White lies deep", "length", "white"),
        KindEntry("Middle, from the left edge", "length", "x"), KindEntry("Middle, from the front edge", "length", "y"),
        KindEntry("Turned left by", "number", "turn", (), "°"), KindEntry("Mirrored", "choice", "mirror", (("yes", True), ("no", False))),
    )  # fmt: skip

    def together(self, job: Job, setup: Setup, operation: Operation) -> Relieving | None:
        """The heights, and how they are carved."""
        assert isinstance(operation.figures, Relief)
        art = next((a for a in job.artwork if a.id in operation.on and isinstance(a.figures, HeightsFigures)), None)
        return Relieving(operation.figures, art, bridges_of(job, setup, art)) if art is not None else None

    def tools(self, figures: Relieving) -> tuple[int, ...]:
        """All of its list."""
        return figures.figures.tools

    def _made(self, r: Relieving, tools: Tools, site: Site) -> tuple[Relieved, Hashable]:
        mills, balls = in_order(tools)
        order = (*mills, *balls)
        key = (
            r.art,
            r.figures,
            r.bridges,
            order,
            site.face,
            site.highest,
            site.travel,
            site.times,
            tuple(site.home(t) for t in order),
        )

        def each(name: str) -> None:
            site.memory.get(
                name, object(), lambda: None, 1
            )  # tells how far it is, and ends when nobody waits for it any longer

        at = Heights(site.face, site.highest, site.travel, site.home, MultiPolygon())
        cell, once = cell_of(r.art, balls, site.times), site.times > 1.0
        return site.memory.get("relief", key, lambda: relieved(r, order, at, cell, once, each), KEPT), key

    def cuts(self, figures: Relieving, tools: Tools, site: Site) -> tuple[Drawn, ...]:
        """End mills, the largest first, then balls; nothing where a tool can't do it."""
        if tool_findings(figures, tools, "", (), ""):
            return ()
        made, _ = self._made(figures, tools, site)
        done = [s for s in made.steps if not s.moves.rapid.all()]
        wanted = GridHeights(
            np.where(made.target.asked, made.target.z, np.float32(np.nan)),
            made.target.x0,
            made.target.y0,
            made.target.cell,
        )
        return tuple(
            Drawn(
                s.tool, s.moves, Engaged(s.tool.diameter, max(s.deepest, 0.01), PEAK),
                stage=f"T{s.tool.number}" if len(done) > 1 else "", target=wanted,
            )
            for s in done
        )  # fmt: skip

    def envelope(self, figures: Relieving, tools: Tools, site: Site) -> Envelope:
        """Its rectangle, and round it as far as cutters run out where they may; no lower than asked, no higher than its balls and the scallop
        leave it."""
        made, key = self._made(figures, tools, site)
        out = max(t.diameter for t in tools) / 2.0 if figures.figures.around == "free" else 0.0
        flat = Polygon(corners(figures.art, _heights(figures)))
        return Envelope(
            lambda: flat.buffer(out + SLACK * max(site.cell, CELL)),
            made.target.lowest,
            math.inf,
            (key, "relief"),
            limits=lambda: _limits(made, figures.figures.scallop, site.cell),
        )

    def told(self, figures: Relieving, tools: Tools, at: JudgedBy) -> OperationTold:
        """Its depth, what its scallops cost, and what no ball gets into."""
        wrong = tool_findings(figures, tools, at.setup, at.tools, at.operation)
        made = self._made(figures, tools, at.site)[0] if not wrong else None
        return relief_told(JudgedRelief(figures, tools, made, at), wrong)

    def uses(self, figures: Relieving, tools: Tools) -> Area:
        """Its rectangle, and as far round it as its cutters may run out."""
        out = max(t.diameter for t in tools) / 2.0 if tools and figures.figures.around == "free" else 0.0
        return Polygon(corners(figures.art, _heights(figures))).buffer(out + BESIDE, join_style="mitre")


def _heights(r: Relieving) -> HeightsFigures:
    assert isinstance(r.art.figures, HeightsFigures)
    return r.art.figures


def _limits(made: Relieved, scallop: float, cell: float) -> HeightLimits:
    """Of each place the lowest asked, and the highest that balls should leave, within a cell of the wood: walls stand between cells."""
    import cv2

    t = made.target
    n = math.ceil(SLACK * cell / t.cell)
    square = np.ones((2 * n + 1, 2 * n + 1), np.uint8)
    wood = cv2.erode(np.where(t.asked, t.z, np.float32(np.inf)), square)
    high = cv2.dilate(np.where(t.asked, made.reached, np.float32(-np.inf)), square) + np.float32(scallop + ROUND_OFF)
    inner = cv2.erode(t.asked.astype(np.uint8), square, borderValue=0).astype(bool)
    low = np.where(inner, wood, np.float32(np.nan)).astype(np.float32)
    return HeightLimits(
        GridHeights(low, t.x0, t.y0, t.cell),
        GridHeights(np.where(inner, high, np.float32(np.nan)).astype(np.float32), t.x0, t.y0, t.cell),
    )
